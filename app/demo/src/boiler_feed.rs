//! A test that was finished on the rig: a flange weeps, the hold shows it, the run is signed as it is.

use crate::client::id;
use crate::merrowick::day;
use crate::site::{Booked, Crew, boundary, make, piping};
use anyhow::{Context, Result};
use serde_json::json;
use time::Duration;

const PARTS: &str = "Feed line   | pipe   | 8.0 | DN100 | sch 40 | 70 | A106-B | | | |
                     Pump flange | flange | 0.6 | | | | A106-B | 150 | | |";

/// Seconds at which the rig's pressure first reaches each of these, bar, and the last second of its trace.
fn reached(trace: &str, bars: &[f64]) -> Result<Vec<i64>> {
    let rows: Vec<(f64, f64)> = trace
        .lines()
        .skip(1)
        .filter_map(|l| {
            let mut cells = l.split(',');
            Some((cells.next()?.parse().ok()?, cells.next()?.parse().ok()?))
        })
        .collect();
    bars.iter()
        .map(|b| rows.iter().find(|r| r.1 >= *b).map(|r| r.0 as i64).with_context(|| format!("the rig's trace never reaches {b} bar")))
        .collect()
}

pub(crate) async fn finished(crew: &Crew, trace: &[u8]) -> Result<()> {
    let dates = |tag: &str, kind: &str| json!({ "tag": tag, "kind": kind, "certificate": format!("RC-{}", &tag[3..]), "calibrated_on": day(crew.now - Duration::days(90)), "valid_until": day(crew.now + Duration::days(275)) });
    let mut gauge = dates("PT-81", "gauge");
    for (key, value) in
        [("full_scale_pa", json!(40e5)), ("division_pa", json!(1e3)), ("error_of_scale", json!(0.0025)), ("unit", json!("bar"))]
    {
        gauge[key] = value;
    }
    let mut thermometer = dates("TT-81", "thermometer");
    (thermometer["division_k"], thermometer["error_k"]) = (json!(0.01), json!(0.1));
    crew.engineer.put("/instruments/PT-81", &gauge).await?;
    crew.engineer.put("/instruments/TT-81", &thermometer).await?;
    let mut plan = piping(15.6, 38.0, "PT-81", 1.0);
    plan["thermometer_tag"] = json!("TT-81");
    plan["permit_number"] = json!("PTW-1161");
    plan["hold_s"] = json!(3600.0);
    plan["required_sensitivity_m3_per_s"] = json!(0.05 / 3.6e6);
    let pack = make(&crew.engineer, "BF-004", "Boiler feed line, pump to deaerator", "pack", &plan, PARTS).await?;
    let items = boundary(crew, &pack, &[("TB-81", "blind", "deaerator nozzle"), ("TB-82", "blind", "pump discharge")]).await?;
    let run = Booked::release(crew, &crew.supervisor, &pack, crew.now - Duration::days(5)).await?;
    let text = std::str::from_utf8(trace)?;
    let top = reached(text, &[5.9, 11.9, 17.9, 24.5])?;
    run.event(5, "filled", None, "vents free of bubbles for 5 min").await?;
    for s in &top {
        run.event(s / 60 + 1, "step_reached", None, "").await?;
    }
    let off = top[3] / 60 + 6;
    run.event(off, "pump_off", None, "").await?;
    let start = crate::holds::rfc3339(run.start);
    let mapping = json!({ "time_column": "seconds", "time_form": { "kind": "elapsed", "unit": "second", "start": start }, "zone": "UTC", "pressure_column": "PT-81 [bar]", "pressure_unit": "bar",
        "temperature_column": "TT-81 [°C]", "temperature_unit": "celsius", "decimal_comma": false });
    let answer = crew
        .reader
        .request(reqwest::Method::PUT, &format!("/attempts/{}/recordings/{}", run.attempt, id()))
        .query(&[("file_name", "BF-004-rig.csv"), ("mapping", &mapping.to_string())])
        .body(trace.to_vec())
        .send()
        .await?
        .text()
        .await?;
    anyhow::ensure!(answer.contains("\"stored\""), "the rig's trace was refused: {answer}");
    run.event(off + 25, "leak_seen", Some("mechanical_joint"), "flange at the feed pump weeps at the bottom").await?;
    run.look(off + 35, "weld", 11).await?;
    run.look(off + 36, "mechanical_joint", 6).await?;
    run.event(off + 40, "look_done", None, "all others dry").await?;
    run.event(off + 61, "hold_ended", None, "").await?;
    // the trace goes on until minute 110
    run.restore((off + 65).max(112), &items).await?;
    run.sign(&[("performed", "supervisor"), ("inspected", "inspector"), ("witnessed", "witness")]).await
}
