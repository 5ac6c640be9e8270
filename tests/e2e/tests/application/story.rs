//! One real test from the question to the sealed record, in the real interface, each part by the role whose part it is.

use anyhow::{Context, Result};
use e2e::browser::Browser;
use e2e::fixtures::{self, ZONE};
use e2e::site::{self, Site};
use std::fmt::Write as _;
use std::path::Path;
use std::process::Command;
use time::{Duration, OffsetDateTime};

/// A time as a person types it.
fn typed(at: OffsetDateTime) -> String {
    let at = fixtures::local(at);
    format!("{:04}-{:02}-{:02} {:02}:{:02}:{:02}", at.year(), u8::from(at.month()), at.day(), at.hour(), at.minute(), at.second())
}

/// A logger's file of a tight hold: semicolons, decimal commas, psi; it cools by 0.06 K and the pressure follows.
fn logger_file(start: OffsetDateTime, minutes: i64, bar_per_k: f64) -> String {
    let mut file = String::from("Datum;Druck [psi];Temperatur\n");
    for i in 0..=minutes * 2 {
        let share = i as f64 / (minutes * 2) as f64;
        let cooled = 0.06 * share;
        let flicker = [0.0, 0.006, -0.004, 0.002, -0.006, 0.004][usize::try_from(i % 6).unwrap_or(0)];
        let psi = (26.0 - bar_per_k * cooled + flicker) * 14.503_773_773;
        // by the clock of the site
        let at = fixtures::local(start + Duration::seconds(30 * i));
        let row = format!(
            "{:02}.{:02}.{:04} {:02}:{:02}:{:02};{};{}",
            at.day(),
            u8::from(at.month()),
            at.year(),
            at.hour(),
            at.minute(),
            at.second(),
            format!("{psi:.2}").replace('.', ","),
            format!("{:.3}", 15.0 - cooled).replace('.', ",")
        );
        let _ = writeln!(file, "{row}");
    }
    file
}

async fn as_role(browser: &Browser, site: &Site, name: &str, path: &str) -> Result<()> {
    browser.sign_out().await?;
    browser.sign_in(name, site.password(name)).await?;
    browser.open(path).await
}

fn verify(file: &Path, key: &str) -> Result<(i32, String)> {
    let out = Command::new(site::binary()?).arg("verify").arg(file).args(["--key", key]).output()?;
    Ok((out.status.code().unwrap_or(-1), String::from_utf8(out.stdout)?))
}

#[tokio::test]
async fn from_the_question_to_the_sealed_record() -> Result<()> {
    let site = Site::start().await?;
    fixtures::instruments(&site.person("engineer").await?).await?;
    // a gauge whose certificate has run out, read to 0.1 bar
    let mut worn = fixtures::gauge("PG-9", &fixtures::day(-2));
    worn["division_pa"] = serde_json::json!(1e4);
    site.person("engineer").await?.put("/instruments/PG-9", &worn).await?;
    Browser::with(&site.installation.base(), async |browser| header_line(browser, &site).await).await?;
    site.stop().await
}

async fn header_line(browser: &Browser, site: &Site) -> Result<()> {
    browser.sign_in("engineer", site.password("engineer")).await?;

    // Prove
    browser.press("Packs").await?;
    browser.press("Add a pack").await?;
    browser.press("Add the pack").await?;
    browser.see("The design pressure is missing.").await?;
    browser.fill("Number", "CW-100").await?;
    browser.fill("Title", "Cooling water header").await?;
    browser.fill("Design pressure, bar", "16").await?;
    browser.fill("Design temperature, °C", "38").await?;
    browser.press("Add the pack").await?;
    browser.see("This test must show that the parts hold, and let nothing out.").await?;
    browser.fill("Who relies on the result", "the owner's integrity authority").await?;
    browser.fill("Hold, minutes", "5").await?;
    browser.press("Save").await?;
    browser.see("at least 10 minutes").await?;
    browser.fill("Hold, minutes", "20").await?;
    browser.press("Save").await?;
    browser.see("saved").await?;
    let base = browser.path().await?.trim_end_matches("/prove").to_owned();

    // Derive: typed by hand, the first try with a wall that cannot be
    browser.open(&format!("{base}/derive")).await?;
    browser.choose("Gauge", "PG-9").await?;
    browser.fill("Read at height, m", "1,2").await?;
    browser.press("Save").await?;
    browser.gone("not saved yet").await?;
    for (r, row) in fixtures::DN150.iter().enumerate() {
        for (column, cell) in ["tag", "kind", "height", "size", "wall", "length", "material", "class"].iter().zip(row) {
            if !cell.is_empty() {
                browser.fill(&format!("{column}, row {}", r + 1), cell).await?;
            }
        }
    }
    browser.fill("wall, row 1", "-7.11 mm").await?;
    browser.see("Row 1, wall:").await?;
    browser.fill("wall, row 1", "sch 40").await?;
    browser.see("2 of 2 rows good").await?;
    browser.press("Save the parts").await?;
    // the worked figures of this line: 25.7 bar rounded up to what the gauge can show, 29.98 bar
    browser.see("The gauge must read between 25.7 and 29.98 bar.").await?;
    browser.see("Top run at 18.5 m asks the most; Bottom flange at 1 m bears the least.").await?;
    browser.fill("PG-9 reads", "31").await?;
    browser.see("the column misses Bottom flange (too much)").await?;
    browser.press("back to planned").await?;
    browser.press("why?").await?;
    browser.see("345.4").await?;
    browser.escape().await?;

    // Ready: what is missing has a name, and who clears it
    as_role(browser, site, "inspector", &format!("{base}/ready")).await?;
    browser.fill("Number", "07").await?;
    browser.fill("What is wrong", "weld 12 not examined").await?;
    browser.fill("Who clears it", "inspector").await?;
    browser.press("Add").await?;
    browser.see("A-07").await?;
    as_role(browser, site, "supervisor", &format!("{base}/ready")).await?;
    for words in ["weld 12", "PG-9", "permit", "inspector clears it", "engineer clears it"] {
        browser.see(words).await?;
    }
    assert!(browser.is_disabled("Release for test").await?, "a shut gate stops the release");
    browser.choose("Gauge", "PG-1").await?;
    browser.choose("Thermometer", "TT-1").await?;
    browser.choose("It sits", "water").await?;
    browser.fill("Permit number", "PTW-1182").await?;
    for (field, person) in [("Performs", "supervisor"), ("Inspects", "inspector"), ("Witnesses", "witness"), ("Accepts", "owner")] {
        browser.choose(field, person).await?;
    }
    browser.press("Save").await?;
    browser.see("One thing stops this test.").await?;
    browser.open(&format!("{base}/bound")).await?;
    browser.fill("Tag", "TB-31").await?;
    browser.fill("Where", "north end flange").await?;
    browser.press("Add").await?;
    browser.see("TB-31").await?;
    browser.press("Blind is in").await?;
    browser.see("in, supervisor").await?;
    as_role(browser, site, "inspector", &format!("{base}/ready")).await?;
    browser.press("Clear").await?;
    browser.see("cleared, inspector").await?;
    as_role(browser, site, "supervisor", &format!("{base}/ready")).await?;
    browser.see("Nothing stops this test.").await?;
    let released = OffsetDateTime::now_utc() - Duration::minutes(90);
    let after = |minutes: i64| released + Duration::minutes(minutes);
    browser.fill(&format!("Released at ({ZONE})"), &typed(released)).await?;
    browser.press("Release for test").await?;
    browser.see("Attempt 1 is released.").await?;

    // Raise
    browser.open(&format!("{base}/raise")).await?;
    let book = async |minute: i64, button: &str| -> Result<()> {
        browser.fill(&format!("At ({ZONE})"), &typed(after(minute))).await?;
        browser.press(button).await
    };
    book(5, "Filled, vents closed, looked").await?;
    for step in 1..=4 {
        browser.see(&format!("step {step} of 4")).await?;
        book(5 + step * 7, "Pump stopped at").await?;
    }
    browser.see("Pump off, valved off, disconnected").await?;
    book(36, "Pump off, valved off, disconnected").await?;
    browser.press("Go to the hold").await?;

    // Hold: a reading by hand in another unit, then the logger's file
    as_role(browser, site, "reader", &format!("{base}/hold")).await?;
    browser.fill("PG-1 shows, bar", "twenty-six").await?;
    browser.press("Store (r)").await?;
    browser.see("twenty-six").await?;
    browser.fill("PG-1 shows, bar", "377.1 psi").await?;
    browser.fill(&format!("Time ({ZONE})"), &typed(after(36))).await?;
    browser.press("Store (r)").await?;
    browser.see("saved ").await?;
    let folder = tempfile::tempdir()?;
    let logger = folder.path().join("logger.csv");
    std::fs::write(&logger, logger_file(after(37), 24, 2.0))?;
    browser.upload("Read a logger's file", &logger).await?;
    browser.see("Druck [psi]").await?;
    browser.choose("Temperature column", "Temperatur").await?;
    browser.press("Read the file").await?;
    // first how it is understood, then stored
    browser.find("//*[@data-understood='49']").await?;
    browser.press("Store it").await?;
    browser.see("49 rows of logger.csv stored.").await?;
    as_role(browser, site, "supervisor", &format!("{base}/hold")).await?;
    browser.press("Note a leak (l)").await?;
    browser.fill("What was seen", "hose coupling drips").await?;
    browser.press("Book it").await?;
    browser.see("Say where it leaks").await?;
    browser.choose("Where", "test_fitting").await?;
    browser.fill(&format!("Seen at ({ZONE})"), &typed(after(45))).await?;
    browser.press("Book it").await?;
    browser.see("test fitting").await?;
    book(50, "Every joint looked at").await?;
    browser.see("look done").await?;
    browser.fill(&format!("At ({ZONE})"), &typed(after(61))).await?;
    browser.press("End the hold").await?;
    browser.press_in_dialog("End the hold").await?;
    browser.see("hold ended").await?;

    // Judge: finding and verdict apart
    browser.open(&format!("{base}/judge")).await?;
    browser.see("Everything that is asked is in the record, and was held.").await?;
    browser.see("least it could show").await?;
    browser.see("heat explains a fall of").await?;

    // Restore, in order; before that nobody can sign
    browser.open(&format!("{base}/sign")).await?;
    browser.see("Restore is not closed").await?;
    browser.open(&format!("{base}/restore")).await?;
    browser.press("Released, zero proved").await?;
    browser.press_in_dialog("Released, zero proved").await?;
    // without a live gauge it takes a reading, or a word that the record tells as one
    browser.see("Nobody has read PG-1 in the last ten minutes").await?;
    browser.fill("PG-1 shows now, bar", "0").await?;
    browser.press_in_dialog("Released, zero proved").await?;
    for button in ["High vent is open", "Drained", "It is out"] {
        browser.press(button).await?;
    }
    browser.see("Everything is put back.").await?;

    // Sign: in order, the password again each time
    for (act, name) in [("performed", "supervisor"), ("inspected", "inspector"), ("witnessed", "witness"), ("accepted", "owner")] {
        as_role(browser, site, name, &format!("{base}/sign")).await?;
        if act == "performed" {
            browser.fill("Your password, again", "not it").await?;
            browser.press(&format!("Sign as {act}")).await?;
            browser.see("do not go together").await?;
        }
        browser.fill("Your password, again", site.password(name)).await?;
        browser.press(&format!("Sign as {act}")).await?;
        browser.find(&format!("//li[@data-act='{act}' and @data-signed='true']")).await?;
    }
    browser.see("Signed and sealed.").await?;

    // The sealed file, and what happens to an altered one
    let sealed = browser.download("Download the sealed file", folder.path()).await?;
    let key = site.installation.key_line.rsplit_once("public key ").map(|k| k.1.trim_end_matches(')')).context("no key")?.to_owned();
    let (code, said) = verify(&sealed, &key)?;
    assert_eq!(code, 0, "{said}");
    let text = std::fs::read_to_string(&sealed)?;
    let altered = folder.path().join("altered.json");
    std::fs::write(&altered, text.replacen("weld 12 not examined", "weld 12 examined fully", 1))?;
    let (code, said) = verify(&altered, &key)?;
    assert_eq!(code, 1);
    assert!(said.contains("Altered: punch"), "{said}");

    // The same on the page that is open to anyone
    browser.sign_out().await?;
    browser.open("/verify").await?;
    browser.upload("Sealed file", &sealed).await?;
    browser.see("Sealed by this installation's key.").await?;
    browser.upload("Sealed file", &altered).await?;
    browser.find("//*[@data-result='altered']//li[.='punch']").await?;
    browser.upload("Sealed file", &site::root().join("docs/formats/sealed-record.example.json")).await?;
    browser.see("Whole, but not sealed here").await?;
    browser.upload("Sealed file", &logger).await?;
    browser.see("Not a sealed record").await?;

    // Nothing signed is edited, only superseded with a reason
    as_role(browser, site, "supervisor", &format!("{base}/bound")).await?;
    browser.press("Blind is in again").await?;
    browser.see("in, supervisor").await?;
    browser.open(&format!("{base}/ready")).await?;
    browser.press("Release attempt 2").await?;
    browser.see("needs a reason").await?;
    browser.fill("Why the signed record is superseded", "gauge found 1 % low at its next calibration").await?;
    browser.press("Release attempt 2").await?;
    browser.see("Attempt 2 is released.").await
}

#[tokio::test]
async fn an_owner_derives_a_quick_test_from_five_answers() -> Result<()> {
    let site = Site::start().await?;
    fixtures::instruments(&site.person("engineer").await?).await?;
    Browser::with(&site.installation.base(), async |browser| five_answers(browser, &site).await).await?;
    site.stop().await
}

async fn five_answers(browser: &Browser, site: &Site) -> Result<()> {
    browser.sign_in("boiler-owner", site.password("boiler-owner")).await?;
    browser.open("/quick").await?;
    // nothing is answered: all of it is said at once, each at its question
    browser.press("Derive the test").await?;
    for wanted in [
        "Measure the wall at its thinnest place",
        "The working pressure is missing.",
        "Choose the gauge that you will read, or describe your own.",
    ] {
        browser.see(wanted).await?;
    }
    browser.fill("What people call it", "Miniature boiler No. 9").await?;
    browser.fill("Working pressure, bar", "5").await?;
    // the figure stays the same pressure when the unit changes, and back
    browser.choose("Unit of pressure", "psi").await?;
    assert_eq!(browser.value("Working pressure, psi").await?, "72.51887");
    browser.choose("Unit of pressure", "bar").await?;
    browser.fill("Barrel, outside diameter", "152 mm").await?;
    browser.fill("Water it holds", "2.4").await?;
    browser.fill("Barrel, thinnest wall", "3 mm").await?;
    browser.choose("Barrel of", "c12200_annealed").await?;
    browser.choose("Gauge", "PG-2").await?;
    browser.press("Derive the test").await?;
    browser.see("Write the unit after 2.4, for example 2.4 L").await?;
    browser.fill("Water it holds", "2.4 L").await?;
    browser.press("Derive the test").await?;
    browser.see("Ready to begin.").await?;
    // back in the browser must not make a second test
    let base = browser.path().await?.trim_end_matches("/page").to_owned();
    browser.open(&format!("{base}/derive")).await?;
    // a first test of a boiler that works at 5 bar is made at twice that
    browser.see("asked by the basis").await?;
    browser.see("10.00 bar").await?;
    browser.open("/packs").await?;
    browser.see("QT-001").await?;
    assert!(!browser.text().await?.contains("QT-002"));
    Ok(())
}
