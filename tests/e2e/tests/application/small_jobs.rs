//! The small job stays small: what one person does from sign-in to the sealed page, counted. An action is one click, one key command or one field; a stop
//! with its reading is a reading.

use anyhow::{Context, Result, ensure};
use demo::client::Person;
use e2e::browser::Browser;
use e2e::fixtures::{self, ZONE};
use e2e::site::Site;
use serde_json::{Value, json};
use std::cell::{Cell, RefCell};
use std::path::PathBuf;

/// The server's clock, set forward as a test likes.
struct Ahead {
    file: PathBuf,
    by: Cell<f64>,
}

impl Ahead {
    fn pass(&self, seconds: f64) -> Result<()> {
        self.by.set(self.by.get() + seconds);
        // never half written: a server that found it empty would be back in its own time
        let next = self.file.with_extension("next");
        std::fs::write(&next, self.by.get().to_string())?;
        Ok(std::fs::rename(&next, &self.file)?)
    }
}

/// A browser whose clicks and fields are counted, step by step.
struct Counted<'a> {
    browser: &'a Browser,
    steps: RefCell<Vec<(String, u32, u32)>>,
}

impl Counted<'_> {
    fn step(&self, name: &str) {
        self.steps.borrow_mut().push((name.to_owned(), 0, 0));
    }
    fn act(&self) {
        if let Some(last) = self.steps.borrow_mut().last_mut() {
            last.1 += 1;
        }
    }
    async fn press(&self, words: &str) -> Result<()> {
        self.act();
        self.browser.press(words).await
    }
    async fn answer(&self, of: &Answer) -> Result<()> {
        self.act();
        match of {
            Answer::Type(label, text) => self.browser.fill(label, text).await,
            Answer::Choose(label, value) => self.browser.choose(label, value).await,
            Answer::Pick(value) => self.browser.pick(value).await,
        }
    }
    /// What the gauge shows, kept with what was done then: a reading.
    async fn read(&self, label: &str, shows: &str, button: &str) -> Result<()> {
        self.browser.fill(label, shows).await?;
        self.browser.press(button).await?;
        if let Some(last) = self.steps.borrow_mut().last_mut() {
            last.2 += 1;
        }
        Ok(())
    }
    /// Actions of all steps, without the readings; prints the table.
    fn table(&self, of: &str) -> u32 {
        let steps = self.steps.take();
        println!("\n{of:<34}actions  readings");
        for (name, actions, readings) in &steps {
            println!("  {name:<32}{actions:>7}{readings:>10}");
        }
        let (actions, readings) = steps.iter().fold((0, 0), |all, s| (all.0 + s.1, all.1 + s.2));
        println!("  {:<32}{actions:>7}{readings:>10}", "all");
        actions
    }
}

enum Answer {
    Type(&'static str, &'static str),
    Choose(&'static str, &'static str),
    Pick(&'static str),
}
use Answer::{Choose, Pick, Type};

/// A person's object, what they answer, their gauge, and how many actions it may take.
struct Small {
    object: &'static str,
    answers: &'static [Answer],
    gauge: &'static str,
    most: u32,
}

const MINIATURE: Small = Small {
    object: "miniature_boiler",
    answers: &[
        Type("What people call it", "Boiler No. 9"),
        Type("Working pressure, bar", "5"),
        Type("Barrel, outside diameter", "152 mm"),
        Type("Water it holds", "2.4 L"),
        Type("Barrel, thinnest wall", "3 mm"),
        Choose("Barrel of", "c12200_annealed"),
    ],
    gauge: "PG-2",
    // and one for "all dry, except"
    most: 26,
};
const LOCOMOTIVE: Small = Small {
    object: "traction_boiler",
    answers: &[
        Pick("traction_boiler"),
        Type("What people call it", "Road engine"),
        Type("Working pressure, bar", "8"),
        Type("How long it is held, min", "30"),
        Type("Barrel, outside diameter", "1.1 m"),
        Type("Water it holds, full", "1.4 m³"),
        Type("Barrel, thinnest wall", "11 mm"),
        Choose("Barrel of", "steel_unknown"),
        Type("Firebox and stays, highest pressure allowed, bar", "16"),
        Type("Who gave that figure", "drawing 4711"),
    ],
    gauge: "PG-1",
    most: 35,
};
const RECEIVER: Small = Small {
    object: "air_receiver",
    answers: &[
        Pick("air_receiver"),
        Pick("unknown"),
        Type("Working pressure, bar", "8"),
        Type("Pressure on its plate, bar", "8"),
        Type("Looked inside: who, and what was found", "the fitter, light rust, no pits"),
        Type("Outside diameter", "400 mm"),
        Type("Volume", "150 L"),
        Type("Thinnest wall, measured", "4 mm"),
        Choose("Of which steel", "steel_unknown"),
    ],
    gauge: "PG-1",
    most: 25,
};
const JOINT: Small = Small {
    object: "joint",
    answers: &[
        Pick("joint"),
        Type("Which one", "joint 12"),
        Type("Room between the gaskets", "40 L"),
        Type("Most that gaskets and joint may see, bar", "1"),
    ],
    gauge: "PG-9",
    most: 15,
};
const FIRE_MAIN: Small = Small {
    object: "fire_main",
    answers: &[
        Pick("fire_main"),
        Type("What people call it", "Ring, north side"),
        Type("Working pressure, bar", "10"),
        Type("Size", "DN200"),
        Type("Length", "180 m"),
        Type("Wall or class", "class 52"),
        Type("Most that thrust blocks and restraints bear, bar", "24"),
    ],
    gauge: "PG-1",
    most: 40,
};

#[tokio::test]
async fn the_small_job_stays_small() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let ahead = Ahead { file: folder.path().join("ahead"), by: Cell::new(0.0) };
    ahead.pass(0.0)?;
    let site = Site::in_zone(ZONE, &ahead.file).await?;
    let engineer = site.person("engineer").await?;
    fixtures::instruments(&engineer).await?;
    let mut low = fixtures::gauge("PG-9", &fixtures::day(300));
    (low["full_scale_pa"], low["division_pa"]) = (json!(1e5), json!(500.0));
    engineer.put("/instruments/PG-9", &low).await?;
    Browser::with(&site.installation.base(), async |browser| {
        let mut over = Vec::new();
        for small in [&MINIATURE, &LOCOMOTIVE, &RECEIVER, &JOINT, &FIRE_MAIN] {
            let counted = Counted { browser, steps: RefCell::new(Vec::new()) };
            let pack = job(&counted, &site, &ahead, small).await.with_context(|| small.object.to_owned())?;
            over.extend(more_than(counted.table(small.object), small.most, small.object));
            if small.object == "joint" {
                next_joint(&counted, &site, &ahead, &pack).await.context("the next joint")?;
                over.extend(more_than(counted.table("joint, the next one"), 8, "the next joint"));
            }
            browser.sign_out().await?;
        }
        ensure!(over.is_empty(), "{over:?}");
        Ok(())
    })
    .await?;
    site.stop().await
}

fn more_than(actions: u32, most: u32, of: &str) -> Option<String> {
    (actions > most).then(|| format!("{of}: {actions} actions, {most} at most"))
}

/// From sign-in to the sealed page.
async fn job(c: &Counted<'_>, site: &Site, ahead: &Ahead, small: &Small) -> Result<String> {
    c.step("sign in");
    c.browser.sign_in("boiler-owner", site.password("boiler-owner")).await?;
    // name, password, button
    (0..3).for_each(|_| c.act());
    c.step("the five answers");
    c.press("quick test").await?;
    for answer in small.answers {
        c.answer(answer).await?;
    }
    // those that suit stand there once the answers are read
    c.browser.see("a dial that ends between").await?;
    c.answer(&Choose("Gauge", small.gauge)).await?;
    c.press("Derive the test").await?;
    c.browser.see("Before it begins").await?;
    let pack = c.browser.path().await?.split('/').nth(2).context("no test in the address")?.to_owned();
    run(c, site, ahead, &pack, small.gauge).await?;
    Ok(pack)
}

/// The next one like it, from the sealed page of the one before.
async fn next_joint(c: &Counted<'_>, site: &Site, ahead: &Ahead, before: &str) -> Result<()> {
    c.step("the next one like this");
    c.press("The next one like this").await?;
    c.browser.see("joint 13").await?;
    let pack = c.browser.path().await?.split('/').nth(2).context("no test in the address")?.to_owned();
    ensure!(pack != before, "it is a test of its own");
    run(c, site, ahead, &pack, JOINT.gauge).await?;
    let view = owner(site).await?.get(&format!("/packs/{pack}")).await?;
    ensure!(view["rows"][0]["typed"]["tag"] == "joint 13", "{}", view["rows"]);
    Ok(())
}

async fn owner(site: &Site) -> Result<Person> {
    site.person("boiler-owner").await
}

/// On the one page: begin, fill, raise, hold and look, let out, sign.
async fn run(c: &Counted<'_>, site: &Site, ahead: &Ahead, pack: &str, gauge: &str) -> Result<()> {
    let view = owner(site).await?.get(&format!("/packs/{pack}")).await?;
    let shut: Vec<&Value> = view["gates"].as_array().into_iter().flatten().filter(|g| g["ready"] == false).map(|g| &g["rule"]).collect();
    // what keeps the pressure down is said in the tap that begins it, and of the next one like it is said already
    ensure!(shut.iter().all(|rule| *rule == "GATE-RELIEF"), "{shut:?}");
    let targets: Vec<f64> =
        view["schedule"].as_array().into_iter().flatten().filter_map(|s| s["target_pa"].as_f64()).map(|pa| pa / 1e5).collect();
    let shows = format!("{gauge} shows, bar");
    c.step("begin, fill");
    // a main is pumped by a motor, behind a valve
    let motor = view["plan"]["object"] == "fire_main";
    let begin = match shut.is_empty() {
        true => "Begin the test now",
        false if motor => "Begin: a relief valve set at",
        false => "Begin: I pump by hand",
    };
    c.press(begin).await?;
    c.press("It is full, vents shut, nothing drips").await?;
    c.step("raise");
    for (i, target) in targets.iter().enumerate() {
        let last = i + 1 == targets.len();
        c.read(&shows, &format!("{target:.3}"), if last { "pump stopped and shut off" } else { "Pump stopped at" }).await?;
        ahead.pass(120.0)?;
    }
    c.browser.see("Hold and look").await?;
    c.step("hold and look");
    c.press(" dry: book it").await?;
    c.browser.see("Looked at").await?;
    let hold = view["hold_s"].as_f64().unwrap_or_default() + view["derived"]["settle_s"].as_f64().unwrap_or_default();
    let top = targets.last().copied().unwrap_or_default();
    for part in 1..=READINGS {
        ahead.pass(hold / f64::from(READINGS))?;
        // until the page has heard of it
        let left = hold * f64::from(READINGS - part) / f64::from(READINGS);
        c.browser.find(&format!("//*[@data-left <= {}]", left.ceil())).await?;
        if part == READINGS {
            c.browser.see("Its time is over").await?;
        }
        // the last one ends it
        c.read(&shows, &format!("{top:.3}"), "Keep this reading").await?;
        if part == READINGS {
            c.browser.see("At zero, vent open, drained").await?;
        } else {
            // with the one at which the pump was shut off
            c.browser.find(&format!("//*[@data-read={}]", part + 1)).await?;
        }
    }
    c.step("let out");
    c.read(&shows, "0", "At zero, vent open, drained").await?;
    c.browser.see("Your password, again").await?;
    c.step("sign");
    c.answer(&Type("Your password, again", "")).await?;
    c.browser.fill("Your password, again", site.password("boiler-owner")).await?;
    c.press("Sign as performed").await?;
    c.browser.see("Signed and sealed").await?;
    let view = owner(site).await?.get(&format!("/packs/{pack}")).await?;
    ensure!(view["state"] == "signed: meets", "{}: {}", view["state"], view["attempts"][0]["judgement"]["lines"]["by_basis"]);
    ensure!(view["plan"]["hand_pump"] != motor && view["plan"]["relief_fitted_pa"].is_number() == motor, "{}", view["plan"]);
    let attempt = view["attempts"][0]["id"].as_str().unwrap_or_default();
    let pages = owner(site).await?.get(&format!("/attempts/{attempt}/report/pages?form=certificate")).await?;
    ensure!(pages.as_array().map(Vec::len) == Some(1), "its page is one page");
    Ok(())
}

/// Readings of the hold.
const READINGS: u32 = 4;
