//! Merrowick Works: an island plant with desalination, a small power-and-heat station, its pipelines, and a museum shed.

use crate::client::{Person, id};
use crate::holds::{MadeHold, rfc3339};
use crate::people::DemoPerson;
use crate::site::{Booked, Crew, boundary, make, piping, punch};
use anyhow::{Context, Result};
use serde_json::{Value, json};
use time::{Duration, OffsetDateTime};

/// What the practice rig brings to the site.
#[derive(Debug, Clone)]
pub struct RigSite {
    /// Port on which it answers.
    pub port: u16,
    /// What its instruments showed over a whole run of another scenario, as the rig prints it.
    pub finished: Vec<u8>,
}

/// Loads the whole site. With the practice rig, one test is under pressure on it when this is done, and one was finished on it.
///
/// # Errors
/// The server's own sentence where it refuses something.
pub async fn load(base: &str, people: &[DemoPerson], rig: Option<&RigSite>, say: &(dyn Fn(&str) + Sync)) -> Result<()> {
    let find = |name: &'static str| people.iter().find(|p| p.sign_in == name).with_context(|| format!("{name} is not among the people"));
    let sign_in = async |name| Person::sign_in(base, name, &find(name)?.password).await;
    let crew = Crew {
        engineer: sign_in("engineer").await?,
        supervisor: sign_in("supervisor").await?,
        reader: sign_in("reader").await?,
        inspector: sign_in("inspector").await?,
        witness: sign_in("witness").await?,
        owner: sign_in("owner").await?,
        boiler_owner: sign_in("boiler-owner").await?,
        passwords: people.to_vec(),
        now: OffsetDateTime::now_utc(),
    };
    say("instruments and the run on the rig");
    instruments(&crew).await?;
    let live = match rig {
        Some(rig) => Some(crate::pump_house::begin(&crew, rig.port).await?),
        None => None,
    };
    say("feed, cooling, condensate and product water");
    membrane_feed(&crew).await?;
    cooling_water(&crew).await?;
    condensate(&crew).await?;
    product_water(&crew).await?;
    say("chilled water, brine and utilities");
    chilled_water(&crew).await?;
    brine(&crew).await?;
    utility_water(&crew).await?;
    say("boilers");
    boiler_later(&crew).await?;
    boiler_first(&crew).await?;
    say("packs that stand in the lists");
    crate::rows::load(&crew).await?;
    crate::joined::load(&crew).await?;
    say("tests that are over");
    crate::judged::load(&crew).await?;
    if let Some(rig) = rig {
        crate::boiler_feed::finished(&crew, &rig.finished).await?;
    }
    match live {
        Some(attempt) => {
            say("the raise on the rig to its first stop");
            crate::pump_house::raise_to_half(&crew, &attempt).await
        }
        None => Ok(()),
    }
}

/// A day as the API takes it.
pub(crate) fn day(at: OffsetDateTime) -> String {
    format!("{:04}-{:02}-{:02}", at.year(), u8::from(at.month()), at.day())
}

async fn instruments(crew: &Crew) -> Result<()> {
    let gauges: [(&str, f64, f64, f64, &str, i64); 12] = [
        ("PG-101", 40.0, 0.01, 0.0025, "bar", 240),
        ("PG-102", 100.0, 0.1, 0.005, "bar", 300),
        ("PG-103", 40.0, 0.5, 0.01, "bar", 120),
        ("PG-104", 60.0, 0.02, 0.0025, "bar", -12),
        ("PG-201", 25.0, 0.05, 0.005, "bar", 200),
        ("PG-301", 40.0, 0.02, 0.0025, "psi", 330),
        ("PG-401", 1.0, 0.002, 0.0025, "bar", 280),
        ("PG-402", 10.0, 0.02, 0.0025, "bar", 280),
        ("PG-403", 4.0, 0.005, 0.0025, "bar", 280),
        ("PG-406", 60.0, 0.1, 0.0025, "bar", 280),
        ("PG-407", 16.0, 0.002, 0.001, "bar", 280),
        ("PG-405", 160.0, 0.2, 0.0025, "bar", 280),
    ];
    for (tag, scale, division, error, unit, left) in gauges {
        let unit_pa = if unit == "psi" { 6_894.757_293_168 } else { 1e5 };
        let (scale_pa, division_pa) = if unit == "psi" { (600.0 * unit_pa, 0.5 * unit_pa) } else { (scale * unit_pa, division * unit_pa) };
        let body = json!({ "tag": tag, "kind": "gauge", "certificate": format!("MC-{}", &tag[3..]), "calibrated_on": day(crew.now - Duration::days(365 - left)), "valid_until": day(crew.now + Duration::days(left)),
            "full_scale_pa": scale_pa, "division_pa": division_pa, "error_of_scale": error, "unit": unit });
        crew.engineer.put(&format!("/instruments/{tag}"), &body).await?;
    }
    for (tag, division, error, left) in [("TT-11", 0.01, 0.1, 210), ("TT-12", 0.1, 0.3, 90)] {
        let body = json!({ "tag": tag, "kind": "thermometer", "certificate": format!("MT-{}", &tag[3..]), "calibrated_on": day(crew.now - Duration::days(365 - left)), "valid_until": day(crew.now + Duration::days(left)), "division_k": division, "error_k": error });
        crew.engineer.put(&format!("/instruments/{tag}"), &body).await?;
    }
    Ok(())
}

const ALL_FOUR: [(&str, &str); 4] =
    [("performed", "supervisor"), ("inspected", "inspector"), ("witnessed", "witness"), ("accepted", "owner")];

/// Blocked: an open A punch, no permit, and no relief setting that fits.
async fn membrane_feed(crew: &Crew) -> Result<()> {
    let mut plan = piping(42.0, 38.0, "PG-102", 1.2);
    plan["hold_s"] = json!(3600.0);
    plan["settings"] = json!({ "expected_cooling_k": 0.05 });
    let parts = "Vent VT-2     | vent   | 14.8 |       |         |    |        |     |    | 94 |
                 Rack run, 6 in | pipe  | 7.5  | DN150 | sch 40S | 48 | s31803 |     |    |    |
                 Vessel V-31   | vessel | 3.2  |       |         |    |        |     |    | 66 |
                 Hose to manifold | hose | 1.2 |       |         |    |        |     | 80 |    |
                 Drain valve DR-1 | valve | 0.4 |      |         |    |        |     |    | 77 |";
    let pack = make(&crew.engineer, "SW-014", "Membrane feed, train B", "pack", &plan, parts).await?;
    punch(crew, &pack, "07", "A", "weld 12 not examined", "inspector", false).await?;
    punch(crew, &pack, "08", "B", "pipe label missing at grid 4", "supervisor", false).await?;
    let set = json!({ "tag": "TB-21", "kind": "blind", "place": "pump discharge", "set_for_test": true, "put_back": false });
    crew.supervisor.keep(&pack, "boundary", &id(), &set).await?;
    let unset =
        json!({ "tag": "PSV-31", "kind": "removed_item", "place": "vessel V-31 top nozzle", "set_for_test": false, "put_back": false });
    crew.supervisor.keep(&pack, "boundary", &id(), &unset).await
}

const DN150: &str = "Top run      | pipe   | 18.5 | DN150 | sch 40 | 120 | A106-B |     | | |
                     Bottom flange | flange | 1.0  |       |        |     | A106-B | 150 | | |
                     Riser        | pipe   | 9.0  | DN150 | sch 40 | 18  | A106-B |     | | |";

/// Ready to release.
async fn cooling_water(crew: &Crew) -> Result<()> {
    let mut plan = piping(16.0, 38.0, "PG-101", 1.2);
    plan["permit_number"] = json!("PTW-1182");
    plan["required_sensitivity_m3_per_s"] = json!(0.05 / 3.6e6);
    let pack = make(&crew.engineer, "CW-003", "Cooling water header to the condensers", "pack", &plan, DN150).await?;
    punch(crew, &pack, "02", "A", "support PS-14 does not touch", "supervisor", true).await?;
    boundary(
        crew,
        &pack,
        &[
            ("TB-31", "blind", "north end flange"),
            ("TB-32", "blind", "branch to unit 2"),
            ("FE-301", "removed_item", "orifice plate, spool in its place"),
        ],
    )
    .await
    .map(|_| ())
}

/// Signed by all four; readings from a logger's file.
async fn condensate(crew: &Crew) -> Result<()> {
    let mut plan = piping(10.0, 180.0, "PG-101", 0.5);
    plan["permit_number"] = json!("PTW-1140");
    let parts = "Condensate main | pipe | 6.2 | DN100 | sch 40 | 85 | A106-B | | | |
                 Trap station flange | flange | 0.4 | | | | A106-B | 150 | | |";
    let pack = make(&crew.engineer, "SC-021", "Condensate return, boiler house", "pack", &plan, parts).await?;
    let items = boundary(crew, &pack, &[("TB-11", "blind", "boiler house wall"), ("ST-4", "removed_item", "steam trap 4")]).await?;
    let run = Booked::release(crew, &crew.supervisor, &pack, crew.now - Duration::days(3)).await?;
    run.raise(4, 60, 60).await?;
    let hold = MadeHold {
        start_bar: run.planned_bar().await?,
        bar_per_k: run.per_kelvin().await?,
        start_c: 15.2,
        cooling_k: 0.08,
        leak_bar: 0.0,
        creeps: (0.0, 1),
        minutes: 75,
        every: 1,
        decimals: 2,
        noise_bar: 0.004,
        with_temperature: true,
        careless: false,
        seed: 21,
    };
    let file = hold.logger_file(run.start + Duration::minutes(60));
    let mapping = json!({ "time_column": "Zeit", "time_form": { "kind": "day_first" }, "zone": "UTC", "pressure_column": "Druck [psi]", "pressure_unit": "psi", "temperature_column": "Temperatur °C", "temperature_unit": "celsius", "decimal_comma": true });
    let path = format!("/attempts/{}/recordings/{}", run.attempt, id());
    let answer = crew
        .reader
        .request(reqwest::Method::PUT, &path)
        .query(&[("file_name", "SC-021.csv"), ("mapping", &mapping.to_string())])
        .body(file)
        .send()
        .await?
        .text()
        .await?;
    anyhow::ensure!(answer.contains("\"stored\""), "the logger file was refused: {answer}");
    run.event(100, "look_done", None, "14 welds, 6 flanges, all dry").await?;
    run.event(136, "hold_ended", None, "").await?;
    run.restore(140, &items).await?;
    run.sign(&ALL_FOUR).await
}

/// Not shown: nobody read a temperature.
async fn product_water(crew: &Crew) -> Result<()> {
    let mut plan = piping(8.0, 60.0, "PG-201", 1.0);
    plan["permit_number"] = json!("PTW-1151");
    plan["site"] = json!({ "chloride_ppm": 18.0 });
    plan["hold_s"] = json!(1800.0);
    let parts = "Product header | pipe | 5.0 | DN80 | sch 10S | 60 | tp316l | | | |
                 Filter flange | flange | 0.8 | | | | tp316l | 150 | | |";
    let pack = make(&crew.engineer, "PW-008", "Product water to storage", "pack", &plan, parts).await?;
    let items = boundary(crew, &pack, &[("TB-41", "blind", "storage tank inlet")]).await?;
    let run = Booked::release(crew, &crew.supervisor, &pack, crew.now - Duration::days(1)).await?;
    run.raise(4, 50, 50).await?;
    let hold = MadeHold {
        start_bar: run.planned_bar().await?,
        bar_per_k: run.per_kelvin().await?,
        start_c: 16.0,
        cooling_k: 0.06,
        leak_bar: 0.0,
        creeps: (0.0, 1),
        minutes: 40,
        every: 2,
        decimals: 2,
        noise_bar: 0.01,
        with_temperature: false,
        careless: false,
        seed: 8,
    };
    run.typed(50, &hold).await?;
    run.event(70, "look_done", None, "every joint dry").await?;
    run.event(91, "hold_ended", None, "").await?;
    run.restore(95, &items).await
}

/// Failed at a flange, repaired, tested again and signed.
async fn chilled_water(crew: &Crew) -> Result<()> {
    let mut plan = piping(12.0, 38.0, "PG-101", 2.0);
    plan["permit_number"] = json!("PTW-1133");
    let parts = "Riser east | pipe | 16.0 | DN100 | sch 40 | 70 | A106-B | | | |
                 Plant room flange | flange | 2.2 | | | | A106-B | 150 | | |";
    let pack = make(&crew.engineer, "CH-011", "Chilled water riser, control building", "pack", &plan, parts).await?;
    let mut items = boundary(crew, &pack, &[("TB-51", "blind", "roof end")]).await?;
    let first = Booked::release(crew, &crew.supervisor, &pack, crew.now - Duration::days(6)).await?;
    first.raise(4, 55, 55).await?;
    let (planned, per_k) = (first.planned_bar().await?, first.per_kelvin().await?);
    let leaking = MadeHold {
        start_bar: planned + 0.3,
        bar_per_k: per_k,
        start_c: 15.0,
        cooling_k: 0.05,
        leak_bar: 0.55,
        creeps: (0.0, 1),
        minutes: 65,
        every: 2,
        decimals: 2,
        noise_bar: 0.004,
        with_temperature: true,
        careless: false,
        seed: 11,
    };
    first.typed(55, &leaking).await?;
    first.event(80, "leak_seen", Some("mechanical_joint"), "plant room flange weeps at the bottom").await?;
    first.event(85, "look_done", None, "all others dry").await?;
    first.event(121, "hold_ended", None, "").await?;
    first.restore(125, &items).await?;
    for (item, body) in &mut items {
        body["put_back"] = json!(false);
        crew.supervisor.keep(&pack, "boundary", item, body).await?;
    }
    let repaired = json!({ "what": "plant room flange weeps at the bottom", "attempt": 1, "way": "repair", "how": "new gasket, bolts tightened crosswise at zero",
        "person": "fitter", "due": day(crew.now - Duration::days(4)), "done": true });
    crew.engineer.keep(&pack, "decision", &id(), &repaired).await?;
    let second = Booked::release(crew, &crew.supervisor, &pack, crew.now - Duration::days(4)).await?;
    second.raise(4, 55, 55).await?;
    second.typed(55, &MadeHold { leak_bar: 0.0, start_bar: planned, seed: 12, ..leaking }).await?;
    second.event(85, "look_done", None, "all dry, new gasket at the plant room flange").await?;
    second.event(121, "hold_ended", None, "").await?;
    second.restore(125, &items).await?;
    second.sign(&ALL_FOUR).await
}

/// No pressure suits: the vessel at the bottom is weaker than the top needs.
async fn brine(crew: &Crew) -> Result<()> {
    let mut plan = piping(16.0, 38.0, "PG-103", 1.0);
    plan["permit_number"] = json!("PTW-1190");
    let parts = "Brine rack | pipe | 18.5 | DN100 | sch 40 | 90 | A106-B | | | |
                 Brine vessel V-7 | vessel | 0.5 | | | | | | | 25 |
                 Pump flange | flange | 0.9 | | | | A106-B | 300 | | |";
    make(&crew.engineer, "BR-002", "Brine line with its vessel", "pack", &plan, parts).await.map(|_| ())
}

/// Under pressure now.
async fn utility_water(crew: &Crew) -> Result<()> {
    let mut plan = piping(14.0, 38.0, "PG-101", 1.0);
    plan["permit_number"] = json!("PTW-1188");
    plan["hold_s"] = json!(7200.0);
    plan["required_sensitivity_m3_per_s"] = json!(0.1 / 3.6e6);
    let parts = "Yard loop | pipe | 4.5 | DN150 | sch 40 | 160 | A106-B | | | |
                 Hydrant flange | flange | 0.3 | | | | A106-B | 150 | | |
                 Hose to manifold | hose | 1.0 | | | | | | 60 | |";
    let pack = make(&crew.engineer, "UW-005", "Utility water, yard loop", "pack", &plan, parts).await?;
    boundary(crew, &pack, &[("TB-61", "blind", "loop end west"), ("TB-62", "blind", "branch to the shed")]).await?;
    let run = Booked::release(crew, &crew.supervisor, &pack, crew.now - Duration::minutes(112)).await?;
    run.raise(4, 60, 60).await?;
    let hold = MadeHold {
        start_bar: run.planned_bar().await?,
        bar_per_k: run.per_kelvin().await?,
        start_c: 15.4,
        cooling_k: 0.06,
        leak_bar: 0.0,
        creeps: (0.0, 1),
        minutes: 50,
        every: 1,
        decimals: 2,
        noise_bar: 0.003,
        with_temperature: true,
        careless: false,
        seed: 5,
    };
    run.typed(60, &hold).await?;
    // somebody has begun to walk along it
    crew.supervisor.put(&format!("/packs/{pack}/looks"), &json!({})).await?;
    let view = crew.supervisor.get(&format!("/packs/{pack}")).await?;
    let places = view["looks"].as_array().into_iter().flatten();
    let seen: Vec<&Value> = places.filter(|l| l["kind"] == "temporary").map(|l| &l["id"]).collect();
    let at = rfc3339(crew.now - Duration::minutes(6));
    crew.supervisor
        .put(&format!("/attempts/{}/looks/{}", run.attempt, crate::client::id()), &json!({ "at": at, "only": seen }))
        .await
        .map(|_| ())
}

fn boiler(working_bar: f64, occasion: &str) -> Value {
    json!({
        "object": "miniature_boiler", "claim": "both", "why_now": if occasion == "first" { "new" } else { "due" }, "relied_on_by": "the visitor railway's boiler register", "run": "record",
        "basis": { "id": "boiler_model", "working_pressure_pa": working_bar * 1e5, "choices": { "occasion": occasion } },
        "water_temperature_c": 16.0, "gauge_tag": "PG-201", "gauge_elevation_m": 0.3, "thermometer_tag": "TT-11", "thermometer_place": "water",
        "hold_s": 1800.0, "schedule": "small_boiler", "relief_alternative": "hand pump with attended bleed, stop line kept; agreed with the club's boiler inspector",
        "people": { "performs": "boiler-owner" },
    })
}

const SHELL: &str = "Boiler shell | boiler | 0.3 | 152 mm | 3 mm | | c12200_annealed | | | | 2.4 L";

/// A later test, done and signed by the one who did it.
async fn boiler_later(crew: &Crew) -> Result<()> {
    let pack = make(&crew.boiler_owner, "", "Miniature boiler No. 3, yearly test", "quick", &boiler(5.0, "later"), SHELL).await?;
    let run = Booked::release(crew, &crew.boiler_owner, &pack, crew.now - Duration::days(2)).await?;
    run.raise(2, 30, 30).await?;
    let hold = MadeHold {
        start_bar: run.planned_bar().await?,
        bar_per_k: run.per_kelvin().await?,
        start_c: 16.1,
        cooling_k: 0.01,
        leak_bar: 0.0,
        creeps: (0.0, 1),
        minutes: 32,
        every: 1,
        decimals: 2,
        noise_bar: 0.006,
        with_temperature: true,
        careless: false,
        seed: 3,
    };
    run.typed(30, &hold).await?;
    run.event(45, "look_done", None, "stays, tubes and bushes dry").await?;
    run.event(63, "hold_ended", None, "").await?;
    run.restore(66, &[]).await?;
    run.sign(&[("performed", "boiler-owner")]).await
}

/// A first test, ready.
async fn boiler_first(crew: &Crew) -> Result<()> {
    make(&crew.boiler_owner, "", "Miniature boiler No. 7, first test", "quick", &boiler(6.0, "first"), SHELL).await.map(|_| ())
}
