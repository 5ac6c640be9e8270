//! A line of twenty-five parts with two branches, from its list to its line-up: the pocket at its second high point is there, and goes when a vent is added.

use anyhow::{Context, Result, ensure};
use demo::client::{Person, id};
use e2e::browser::Browser;
use e2e::fixtures;
use e2e::site::Site;
use reqwest::Method;
use serde_json::{Value, json};
use std::cell::Cell;

/// As it is walked: each height once, a branch in a row of its own.
const LINE: &str = "tag;kind;from;to;height;to height;size;wall;length;material;class;rating;seat;position
Fill hose;fill;low;;0.4;;;;;;;;;
Test pump;pump connection;low;;;;;;;;;;;
PG-1 tap;gauge connection;low;;;;;;;;;;;
Relief;relief connection;low;;;;;;;;;;;
D-1;drain;low;;;;;;;;;60;;
TB-1;blind;low;;;;;;;;;60;;
Riser;pipe;low;rack;;7.2;DN100;sch 40;14;A106-B;;;;
Rack run;pipe;rack;first;;9;DN100;sch 40;30;A106-B;;;;
V-1;vent;first;;;;;;;;;60;;
Down leg;pipe;first;valley;;5;DN100;sch 40;12;A106-B;;;;
D-2;drain;valley;;;;;;;;;60;;
BV-1;ball valve;valley;v1;5;;DN100;;;A106-B;300;;;half open
CV-1;control valve;v1;v2;5;;DN100;;;A106-B;300;;;out, back open
Up leg;pipe;v2;second;;8.6;DN100;sch 40;10;A106-B;;;;
Last run;pipe;second;end;;6;DN100;sch 40;20;A106-B;;;;
V-3;vent;end;;;;;;;;;60;;
D-3;drain;end;;;;;;;;;60;;
GV-1;closed gate valve;end;outfall;6;;DN100;;;A106-B;300;;metal;
Branch A;pipe;rack;house;7.2;7.6;DN80;sch 40;8;A106-B;;;;
V-4;vent;house;;;;;;;;;60;;
TB-2;blind;house;;;;;;;;;60;;
Branch B;pipe;valley;pit;5;3.2;DN80;sch 40;6;A106-B;;;;
D-4;drain;pit;;;;;;;;;60;;
TB-3;blind;pit;;;;;;;;;60;;
PS-1;support;;;7.2;;;;;;;;;bears water
";

/// The same list as rows; the branch to the house is designed for less, and what closes it bears less.
fn weak_rows() -> Vec<Value> {
    let mut lines = LINE.lines().map(|l| l.split(';'));
    let names: Vec<&str> = lines.next().into_iter().flatten().collect();
    lines
        .map(|cells| {
            let mut typed: serde_json::Map<String, Value> =
                names.iter().zip(cells).filter(|(_, c)| !c.is_empty()).map(|(n, c)| ((*n).to_owned(), json!(c))).collect();
            let tag = typed["tag"].as_str().unwrap_or_default().to_owned();
            if ["Branch A", "V-4", "TB-2"].contains(&tag.as_str()) {
                typed.insert("design pressure".to_owned(), json!("8 bar"));
                typed.insert("design temperature".to_owned(), json!("38"));
            }
            if ["V-4", "TB-2"].contains(&tag.as_str()) {
                typed.insert("rating".to_owned(), json!("20 bar"));
            }
            json!({ "typed": typed })
        })
        .collect()
}

async fn look(person: &Person, pack: &str) -> Result<Value> {
    Ok(person.request(Method::GET, &format!("/packs/{pack}/joined")).send().await?.error_for_status()?.json().await?)
}

fn sentences(look: &Value) -> Vec<&str> {
    look["findings"].as_array().into_iter().flatten().filter_map(|f| f["sentence"].as_str()).collect()
}

#[tokio::test]
async fn a_line_with_two_branches_is_brought_looked_at_and_lined_up() -> Result<()> {
    let site = Site::start().await?;
    let engineer = site.person("engineer").await?;
    fixtures::instruments(&engineer).await?;
    let mut plan = fixtures::piping();
    plan["gauge_elevation_m"] = json!(0.4);
    let pack = id();
    engineer
        .put(&format!("/packs/{pack}"), &json!({ "number": "BR-1", "title": "Brine line", "form": "pack", "plan": plan, "rows": [] }))
        .await?;
    let weak = id();
    engineer
        .put(
            &format!("/packs/{weak}"),
            &json!({ "number": "BR-2", "title": "Brine line", "form": "pack", "plan": plan, "rows": weak_rows() }),
        )
        .await?;
    let folder = tempfile::tempdir()?;
    let list = folder.path().join("brine.csv");
    std::fs::write(&list, LINE)?;
    Browser::with(&site.installation.base(), async |browser| {
        browser.sign_in("engineer", site.password("engineer")).await?;
        let actions = Cell::new(0);
        let count = || actions.set(actions.get() + 1);
        browser.open(&format!("/tests/{pack}/derive")).await?;
        browser.upload("Read a file (CSV, XLSX, INP)", &list).await?;
        count();
        browser.see("25 of 25 rows good").await?;
        browser.press("Take these rows").await?;
        count();
        browser.press("Save the parts").await?;
        count();
        browser.see("The gauge must read between").await?;

        // the second high point keeps its air, and the sketch says where and how much
        browser.open(&format!("/tests/{pack}/bound")).await?;
        count();
        browser.see("Air stays at second").await?;
        browser.press("Filling").await?;
        count();
        browser.see("Air stays in one place.").await?;
        browser.see("Put a vent at second").await?;
        let before = look(&engineer, &pack).await?;
        let pocket = &before["pockets"][0];
        ensure!(pocket["place"] == "second (height 8.6\u{a0}m)", "{pocket}");
        // what the pocket holds is what lies above the lower of its two ways out, in both legs: the end vent at 6 m lets the leg towards it fill only from there
        ensure!(pocket["volume_m3"].as_f64().context("no volume")? > 0.01, "{pocket}");

        // a vent there, and it goes
        browser.open(&format!("/tests/{pack}/derive")).await?;
        browser.press("Change the parts").await?;
        browser.press("Add a row").await?;
        for (column, text) in [("tag", "V-2"), ("kind", "vent"), ("from", "second"), ("rating", "60")] {
            browser.fill(&format!("{column}, row 26"), text).await?;
            count();
        }
        browser.see("26 of 26 rows good").await?;
        browser.press("Save the parts").await?;
        browser.see("The gauge must read between").await?;
        browser.open(&format!("/tests/{pack}/bound")).await?;
        browser.press("Filling").await?;
        browser.see("Every pocket vents: no air stays.").await?;
        (0..6).for_each(|_| count());

        // what is left is signed on the line-up, and the register has it
        browser.see("GV-1 is the boundary: nobody has signed").await?;
        browser.press("Put these 5 on the register").await?;
        count();
        browser.see("not shut and tagged yet").await?;
        browser.gone("on the register").await?;
        for words in ["Shut, tagged, watched", "Item is out"] {
            browser.press(words).await?;
            count();
        }
        browser.gone("Item is out").await?;
        ensure!(actions.get() <= 180, "{} actions", actions.get());
        println!("a line of 25 parts with two branches: {} actions", actions.get());

        let after = look(&engineer, &pack).await?;
        ensure!(sentences(&after).is_empty(), "still open: {:?}", sentences(&after));
        ensure!(after["left"].as_array().is_some_and(Vec::is_empty), "{}", after["left"]);

        // the same list with a weak part in it asks for two fillings, and makes them
        browser.open(&format!("/tests/{weak}/bound")).await?;
        browser.press("Suggest packs").await?;
        browser.see("2 fillings. Fewer are not possible.").await?;
        browser.press("Make these 2 packs").await?;
        browser.see("BR-2-2").await?;
        browser.see("Made:").await?;
        browser.sign_out().await
    })
    .await?;
    let packs = engineer.packs().await?;
    let mut tags = Vec::new();
    for number in ["BR-2-1", "BR-2-2"] {
        let made = packs.iter().find(|p| p["number"] == number).with_context(|| format!("{number} was not made"))?;
        let view = engineer.get(&format!("/packs/{}", made["id"].as_str().unwrap_or_default())).await?;
        ensure!(view["derived"]["conflict"].is_null(), "{number}: {}", view["derived"]["conflict"]);
        tags.extend(view["rows"].as_array().into_iter().flatten().filter_map(|r| r["typed"]["tag"].as_str().map(str::to_owned)));
    }
    ensure!(tags.len() == 20 && tags.iter().any(|t| t == "Branch A"), "{tags:?}");
    // whoever may not plan puts nothing on the register
    let inspector = site.person("inspector").await?;
    let refused = inspector.request(Method::PUT, &format!("/packs/{pack}/line-up")).send().await?;
    ensure!(refused.status() == 403 || refused.status() == 404, "{}", refused.status());
    site.stop().await
}
