//! The test that is under pressure now: cooling water supply of the pump house, on the practice rig.

use crate::client::id;
use crate::holds::rfc3339;
use crate::merrowick::day;
use crate::site::{Booked, Crew, boundary, make, piping};
use anyhow::{Context, Result};
use serde_json::{Value, json};
use time::{Duration, OffsetDateTime};

/// Instruments of the rig's scenario, as the store knows them.
fn instruments(crew: &Crew, port: u16) -> Vec<Value> {
    let base = |tag: &str, kind: &str, unit: u8, register: u16, form: &str, scale: f64| {
        json!({ "tag": tag, "kind": kind, "certificate": format!("RC-{}", &tag[3..]), "calibrated_on": day(crew.now - Duration::days(60)),
            "valid_until": day(crew.now + Duration::days(305)),
            "connection": { "address": "127.0.0.1", "port": port, "unit": unit, "register": register, "form": form, "scale": scale } })
    };
    let with = |mut body: Value, more: Value| {
        if let (Some(body), Value::Object(more)) = (body.as_object_mut(), more) {
            body.extend(more);
        }
        body
    };
    let gauge = json!({ "full_scale_pa": 40e5, "division_pa": 1e3, "error_of_scale": 0.0025, "unit": "bar" });
    vec![
        with(base("PT-71", "gauge", 10, 0, "f32", 1.0), gauge.clone()),
        with(base("PT-72", "gauge", 11, 4, "i16", 0.01), gauge),
        with(base("TT-71", "thermometer", 20, 0, "f32_low_first", 1.0), json!({ "division_k": 0.01, "error_k": 0.1 })),
        with(base("TA-71", "thermometer", 21, 0, "i16", 0.1), json!({ "division_k": 0.1, "error_k": 0.3 })),
        with(base("SC-71", "stroke_counter", 30, 0, "u32", 1.0), json!({ "stroke_m3": 25e-6, "stroke_unc_95_rel": 0.02 })),
    ]
}

/// The plan, with everything that the rig's instruments record.
fn plan() -> Value {
    let mut plan = piping(16.0, 38.0, "PT-71", 1.2);
    plan["thermometer_tag"] = json!("TT-71");
    plan["also"] = json!([{ "tag": "PT-72", "elevation_m": 14.0 }, { "tag": "TA-71", "place": "ambient" }, { "tag": "SC-71" }]);
    plan["permit_number"] = json!("PTW-1195");
    plan["hold_s"] = json!(1800.0);
    plan["required_sensitivity_m3_per_s"] = json!(0.2 / 3.6e6);
    plan
}

const PARTS: &str = "Supply header | pipe | 14.0 | DN200 | sch 40 | 45 | A106-B | | | |
                     Pump flange   | flange | 1.0 | | | | A106-B | 150 | | |
                     Hose to manifold | hose | 1.0 | | | | | | 60 | |";

/// Releases it, filled; the pump of the rig starts.
pub(crate) async fn begin(crew: &Crew, port: u16) -> Result<String> {
    for body in instruments(crew, port) {
        let tag = body["tag"].as_str().unwrap_or_default().to_owned();
        crew.engineer.put(&format!("/instruments/{tag}"), &body).await?;
    }
    let pack = make(&crew.engineer, "CW-007", "Cooling water supply, pump house", "pack", &plan(), PARTS).await?;
    boundary(crew, &pack, &[("TB-71", "blind", "pump discharge"), ("TB-72", "blind", "header end at grid 9")]).await?;
    let run = Booked::release(crew, &crew.supervisor, &pack, OffsetDateTime::now_utc() - Duration::minutes(8)).await?;
    run.event(6, "filled", None, "vents free of bubbles for 5 min").await?;
    // one reading of everything at rest before the first stroke
    pressure(crew, &run.attempt, 0.0).await?;
    pump(crew, &run.attempt, true).await?;
    Ok(run.attempt)
}

async fn pump(crew: &Crew, attempt: &str, on: bool) -> Result<()> {
    crew.supervisor
        .put(&format!("/attempts/{attempt}/rig"), &json!({ "pump": on, "strokes_per_min": 90.0, "bleed": 0.0 }))
        .await
        .map(|_| ())
}

async fn valve(crew: &Crew, attempt: &str, bleed: f64) -> Result<()> {
    crew.supervisor
        .put(&format!("/attempts/{attempt}/rig"), &json!({ "pump": false, "strokes_per_min": 90.0, "bleed": bleed }))
        .await
        .map(|_| ())
}

async fn event(crew: &Crew, attempt: &str, kind: &str) -> Result<()> {
    let body = json!({ "kind": kind, "at": rfc3339(OffsetDateTime::now_utc()), "note": "" });
    crew.supervisor.put(&format!("/attempts/{attempt}/events/{}", id()), &body).await.map(|_| ())
}

/// What the recorder read last.
async fn last(crew: &Crew, attempt: &str) -> Result<Option<f64>> {
    let hold = crew.supervisor.get(&format!("/attempts/{attempt}/hold")).await?;
    Ok(hold["pressure"].as_array().and_then(|p| p.last()).and_then(|p| p["value"].as_f64()))
}

/// Waits until the recorder has read at least this pressure.
async fn pressure(crew: &Crew, attempt: &str, least_pa: f64) -> Result<()> {
    for _ in 0..1200 {
        if last(crew, attempt).await?.is_some_and(|p| p >= least_pa) {
            return Ok(());
        }
        tokio::time::sleep(std::time::Duration::from_millis(200)).await;
    }
    anyhow::bail!("the rig did not reach {least_pa:.0} Pa within four minutes")
}

/// First and second step, each reached and booked; the third is left to whoever opens the demo.
pub(crate) async fn raise_to_half(crew: &Crew, attempt: &str) -> Result<()> {
    let packs = crew.supervisor.packs().await?;
    let id = packs.iter().find(|p| p["number"] == "CW-007").and_then(|p| p["id"].as_str());
    let view = crew.supervisor.get(&format!("/packs/{}", id.context("CW-007 is not under test")?)).await?;
    for step in view["schedule"].as_array().into_iter().flatten().take(2) {
        reach(crew, attempt, step["target_pa"].as_f64().unwrap_or(0.0)).await?;
        event(crew, attempt, "step_reached").await?;
    }
    Ok(())
}

/// Pumps to a step and bleeds what is too much, as a crew would; where that was too far it pumps once more.
async fn reach(crew: &Crew, attempt: &str, target_pa: f64) -> Result<()> {
    for _ in 0..10 {
        pump(crew, attempt, true).await?;
        pressure(crew, attempt, target_pa).await?;
        pump(crew, attempt, false).await?;
        bleed_down_to(crew, attempt, target_pa).await?;
        if last(crew, attempt).await?.is_some_and(|p| p >= target_pa) {
            return Ok(());
        }
    }
    anyhow::bail!("the rig was not brought to {target_pa:.0} Pa")
}

/// Where the pump ran on for longer than was meant, as on a machine with other work: bleeds it down to the step, a little at a time.
async fn bleed_down_to(crew: &Crew, attempt: &str, target_pa: f64) -> Result<()> {
    for n in 0..300 {
        let Some(p) = last(crew, attempt).await? else { break };
        if p <= 1.05 * target_pa {
            return Ok(());
        }
        // open for longer than a step of the rig, so that it is seen; wider while it is far above, or where a little did nothing
        let wide = if p > 1.5 * target_pa || n > 60 { 0.1 } else { 0.02 };
        valve(crew, attempt, wide).await?;
        tokio::time::sleep(std::time::Duration::from_millis(250)).await;
        valve(crew, attempt, 0.0).await?;
        // the recorder reads it anew
        tokio::time::sleep(std::time::Duration::from_millis(300)).await;
    }
    anyhow::bail!("the rig did not come down to {target_pa:.0} Pa within a few minutes")
}
