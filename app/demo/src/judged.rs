//! Finished holds that show what a judgement can say: too short, too coarse a gauge, a main by its allowance, a gas.

use crate::holds::MadeHold;
use crate::site::{Booked, Crew, boundary, make, piping};
use anyhow::Result;
use serde_json::{Value, json};
use time::Duration;

/// One finished test.
struct Finished<'a> {
    number: &'a str,
    title: &'a str,
    plan: Value,
    parts: &'a str,
    blind: &'a str,
    days_ago: i64,
    steps: i64,
    /// Minutes at test pressure before it is lowered, and by how many bar.
    stretches: Option<(i64, f64)>,
    /// Pressure of the look, where it is taken after the hold, bar.
    look_bar: Option<f64>,
    hold: MadeHold,
}

const QUIET: MadeHold = MadeHold {
    start_bar: 0.0,
    bar_per_k: 0.0,
    start_c: 15.0,
    cooling_k: 0.02,
    leak_bar: 0.0,
    creeps: (0.0, 1),
    minutes: 60,
    every: 1,
    decimals: 2,
    noise_bar: 0.004,
    with_temperature: true,
    careless: false,
    seed: 1,
};

pub(crate) async fn load(crew: &Crew) -> Result<()> {
    for test in [too_short(), too_coarse(), by_allowance(), polyethylene(), gas()] {
        finished(crew, test).await?;
    }
    Ok(())
}

async fn finished(crew: &Crew, test: Finished<'_>) -> Result<()> {
    let pack = make(&crew.engineer, test.number, test.title, "pack", &test.plan, test.parts).await?;
    let items = boundary(crew, &pack, &[(test.blind, "blind", "end of the section")]).await?;
    let run = Booked::release(crew, &crew.supervisor, &pack, crew.now - Duration::days(test.days_ago)).await?;
    let (stretched, lowered) = test.stretches.unwrap_or_default();
    let planned = run.planned_bar().await?;
    let start_bar = planned - lowered;
    let bar_per_k = if test.hold.bar_per_k > 0.0 { test.hold.bar_per_k } else { run.per_kelvin().await? };
    let hold = MadeHold { start_bar, bar_per_k, ..test.hold };
    let off = 120 + stretched;
    run.raise(test.steps, 120, off).await?;
    if stretched > 0 {
        let before = MadeHold { start_bar: planned, cooling_k: 0.0, creeps: (0.0, 1), minutes: 8, every: 2, ..hold };
        run.typed(off - 10, &before).await?;
    }
    run.typed(off, &hold).await?;
    let end = off + i64::from(hold.minutes);
    let Some(look_bar) = test.look_bar else {
        run.event(end - 5, "look_done", None, "every joint dry").await?;
        run.event(end + 1, "hold_ended", None, "").await?;
        return run.restore(end + 5, &items).await;
    };
    // nobody goes near before it is lowered
    run.event(end + 1, "hold_ended", None, "").await?;
    run.event(end + 3, "bleed", None, "slowly, to the pressure of the look").await?;
    run.typed(end + 12, &MadeHold { start_bar: look_bar, minutes: 10, every: 5, cooling_k: 0.0, ..hold }).await?;
    run.event(end + 20, "look_done", None, "every joint wetted, no bubble grows").await?;
    run.restore(end + 26, &items).await
}

fn asked(mut plan: Value, permit: &str, litres_per_hour: Option<f64>) -> Value {
    plan["permit_number"] = json!(permit);
    plan["required_sensitivity_m3_per_s"] = json!(litres_per_hour.map(|l| l / 3.6e6));
    plan
}

/// The code's ten minutes are too short for what the owner asks: a thermometer on the skin, outdoors.
fn too_short() -> Finished<'static> {
    let mut plan = asked(piping(10.0, 38.0, "PG-101", 1.0), "PTW-1165", Some(0.05));
    plan["hold_s"] = json!(600.0);
    plan["thermometer_tag"] = json!("TT-12");
    plan["thermometer_place"] = json!("skin");
    Finished {
        number: "CW-014",
        title: "Cooling water, crossover on the pipe rack",
        plan,
        parts: "Crossover | pipe | 7.0 | DN200 | sch 40 | 90 | A106-B | | | |
                Rack flange | flange | 1.2 | | | | A106-B | 150 | | |",
        blind: "TB-71",
        days_ago: 2,
        steps: 4,
        stretches: None,
        look_bar: None,
        hold: MadeHold { minutes: 12, cooling_k: 0.01, seed: 14, ..QUIET },
    }
}

/// Two hours on a gauge with divisions of half a bar.
fn too_coarse() -> Finished<'static> {
    let mut plan = asked(piping(14.0, 38.0, "PG-103", 1.0), "PTW-1166", Some(0.005));
    plan["hold_s"] = json!(7200.0);
    Finished {
        number: "UW-009",
        title: "Utility water, branch to the workshop",
        plan,
        parts: "Branch | pipe | 3.5 | DN150 | sch 40 | 80 | A106-B | | | |
                Workshop flange | flange | 1.0 | | | | A106-B | 300 | | |",
        blind: "TB-72",
        days_ago: 3,
        steps: 4,
        stretches: None,
        look_bar: None,
        hold: MadeHold { minutes: 120, every: 5, decimals: 1, noise_bar: 0.0, seed: 9, ..QUIET },
    }
}

/// Loses a little, and less than it may; one reading is typed wrong and a quarter of an hour is missing.
fn by_allowance() -> Finished<'static> {
    let mut plan = asked(piping(7.0, 38.0, "PG-101", 2.0), "PTW-1167", None);
    plan["object"] = json!("water_main");
    plan["basis"] = json!({ "id": "awwa_di", "working_pressure_pa": 7.0e5, "working_high_pa": 6.5e5 });
    plan["restraint"] = json!("held");
    plan["hold_s"] = json!(7200.0);
    plan["site"] = json!({ "soil_bearing_pa": 100e3 });
    Finished {
        number: "IN-003",
        title: "Seawater intake main, second string",
        plan,
        parts: "Main, chamber 2 to works | pipe | 2.0 | DN200 | K9 | 310 | ductile_iron | | | |
                End plug | blind | 3.0 | | | | | | | 25 | | 222 mm | 140",
        blind: "TB-73",
        days_ago: 7,
        steps: 4,
        stretches: None,
        look_bar: None,
        hold: MadeHold { minutes: 130, every: 2, cooling_k: 0.02, leak_bar: 0.18, careless: true, seed: 33, ..QUIET },
    }
}

/// A polyethylene main: three hours at test pressure, lowered by 10 psi, held for one; the owner asks for a fall besides.
fn polyethylene() -> Finished<'static> {
    let mut plan = asked(piping(6.0, 38.0, "PG-201", 1.0), "PTW-1169", None);
    plan["object"] = json!("water_main");
    plan["basis"] = json!({
        "id": "pe", "design_pressure_pa": 6.0e5, "agreed_pressure_pa": 8.0e5, "owners_fall": { "share": 0.03, "within_s": 3600.0 },
    });
    plan["restraint"] = json!("held");
    plan["exposure"] = json!("buried");
    plan["site"] = json!({ "soil_bearing_pa": 100e3, "metal_c": 15.0 });
    Finished {
        number: "IN-004",
        title: "Raw water main to the filters, polyethylene",
        plan,
        parts: "Main | pipe | 1.0 | 315 mm | SDR 11 | 260 | pe100
                Flange adaptor | fitting | 1.4 | | | | | | 16",
        blind: "TB-75",
        days_ago: 9,
        steps: 4,
        stretches: Some((180, 0.69)),
        look_bar: None,
        hold: MadeHold { minutes: 62, every: 2, cooling_k: 0.03, creeps: (-0.03, 1), noise_bar: 0.003, seed: 41, ..QUIET },
    }
}

/// Nitrogen, raised in small steps, held while pressure over temperature stays what it was.
fn gas() -> Finished<'static> {
    let mut plan = asked(piping(8.0, 38.0, "PG-407", 1.5), "PTW-1168", Some(20.0));
    plan["basis"] = json!({ "id": "b31_3", "design_pressure_pa": 8.0e5, "design_temperature_c": 38.0, "medium": "nitrogen" });
    plan["exposure"] = json!("indoor");
    plan["settings"] = json!({ "expected_cooling_k": 0.3, "expected_settling_pa": 3000.0 });
    plan["schedule"] = json!("pneumatic_fine");
    plan["gas_supply"] = json!("regulated");
    plan["gas_in_charge"] = json!("senior test engineer");
    plan["method"] = json!({ "reasons": ["moisture"], "conditions": ["no_brittle", "regulated", "area", "welds"], "approvals": { "owner": "owner's engineer", "safety": "safety officer" } });
    plan["site"] = json!({ "minimum_metal_c": -29.0, "metal_c": 15.0 });
    Finished {
        number: "IA-015",
        title: "Instrument air, branch to the control building",
        plan,
        parts: "Branch | pipe | 4.0 | DN50 | sch 40 | 60 | A106-B | | | |
                Panel flange | flange | 1.5 | DN50 | | | A106-B | 150 | | |",
        blind: "TB-74",
        days_ago: 8,
        steps: 9,
        stretches: None,
        look_bar: Some(8.1),
        // 9.9 bar absolute over 288 K
        hold: MadeHold { minutes: 70, bar_per_k: 0.034, cooling_k: 0.15, decimals: 3, noise_bar: 0.001, seed: 15, ..QUIET },
    }
}
