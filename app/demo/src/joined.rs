//! Systems as they are joined: a brine line on which everything was forgotten, its twin on which nothing was, and a main with its ends. All of it is invented.

use crate::site::{Crew, boundary, make, piping};
use anyhow::Result;
use serde_json::json;

/// Two branches off a rack, as somebody typed it on a Friday: filled too high, one high point without a vent, a sump without a drain, the relief valve behind
/// a valve, and what should be out still in.
const FORGOTTEN: &str = "Fill hose | fill | 2.0 | | | | | | | | | from = skid
    Test pump | pump connection | | | | | | | | | | from = skid
    PG-101 | gauge connection | | | | | | | | | | from = skid
    V-71 | gate valve | 2.0 | DN25 | | | A106-B | 300 | | | | from = skid | to = relief stub
    PSV-9 | relief connection | | | | | | | | | | from = relief stub
    TB-70 | blind | | | | | | | | 60 | | from = skid
    Drop leg | pipe | | DN100 | sch 40 | 6 | A106-B | | | | | from = skid | to = sump | to height = 0.4
    Riser | pipe | | DN100 | sch 40 | 14 | A106-B | | | | | to = rack | to height = 7.2
    SH-1 | spring hanger | 7.2
    PS-12 | support | 7.2
    Rack run | pipe | | DN100 | sch 40 | 30 | A106-B | | | | | from = rack | to = hump | to height = 9.0
    Down leg | pipe | | DN100 | sch 40 | 12 | A106-B | | | | | to = valley | to height = 5.0
    BV-72 | ball valve | | DN100 | | | A106-B | 300
    CV-73 | control valve | 5.0 | DN100 | | | A106-B | 300
    FE-74 | orifice plate | 5.0 | | | | | | | 60
    EB-75 | bellows | 5.0 | | | | | | | 60 | | to = far
    Far run | pipe | | DN100 | sch 40 | 24 | A106-B | | | | | from = far | to = end | to height = 5.6
    V-76 | vent | | | | | | | | 60 | | from = end
    D-77 | drain | | | | | | | | 60 | | from = valley
    V-78 | closed gate valve | 5.6 | DN100 | | | A106-B | 300 | | | | from = end | to = outfall | seat = metal
    Sampling branch | pipe | 7.2 | DN80 | sch 40S | 12 | tp316l | | | | | from = rack | to = house | to height = 6.0
    J-79 | coupling | 6.0 | | | | | | | 60 | | from = house | to = sampler | position = covered
    E-7 | exchanger | 6.0 | | | | | | | | 40 L | from = sampler | test pressure = 45 bar
    Dosing leg | pipe | 9.0 | DN100 | sch 40 | 8 | A106-B | | | | | from = hump | to = dosing | to height = 6.5 | design pressure = 12 bar | design temperature = 38
    NRV-80 | check valve | 6.5 | DN100 | | | A106-B | 300 | | | | from = store | to = dosing
    Store leg | pipe | 7.5 | DN100 | sch 40 | 5 | A106-B | | | | | from = shelf | to = store | to height = 6.0
    Thin duct | pipe | 9.0 | 600 mm | 6 mm | 3 | A106-B | | | | | from = hump | to = duct end | to height = 8.8";

/// The same line for the next unit, gone through with the drawing in hand.
const CURED: &str = "Fill hose | fill | 0.4 | | | | | | | | | from = sump
    Test pump | pump connection | | | | | | | | | | from = sump
    PG-101 | gauge connection | | | | | | | | | | from = sump
    PSV-9 | relief connection | | | | | | | | | | from = sump
    D-81 | drain | | | | | | | | 60 | | from = sump
    TB-81 | blind | | | | | | | | 60 | | from = sump
    Riser | pipe | | DN100 | sch 40 | 14 | A106-B | | | | | to = rack | to height = 7.2
    SH-2 | spring hanger | 7.2 | | | | | | | | | position = pinned
    PS-21 | support | 7.2 | | | | | | | | | position = bears water
    Rack run | pipe | | DN100 | sch 40 | 30 | A106-B | | | | | from = rack | to = hump | to height = 9.0
    V-82 | vent | | | | | | | | 60 | | from = hump
    Down leg | pipe | | DN100 | sch 40 | 12 | A106-B | | | | | from = hump | to = valley | to height = 5.0
    D-83 | drain | | | | | | | | 60 | | from = valley
    BV-84 | ball valve | 5.0 | DN100 | | | A106-B | 300 | | | | from = valley | to = v1 | position = half open
    CV-85 | control valve | 5.0 | DN100 | | | A106-B | 300 | | | | from = v1 | to = v2 | position = out, back open
    FE-86 | orifice plate | 5.0 | | | | | | | 60 | | from = v2 | to = v3 | position = out
    EB-87 | bellows | 5.0 | | | | | | | 60 | | from = v3 | to = far | position = restrained
    Far run | pipe | | DN100 | sch 40 | 24 | A106-B | | | | | from = far | to = end | to height = 5.6
    V-88 | vent | | | | | | | | 60 | | from = end
    V-89 | closed gate valve | 5.6 | DN100 | | | A106-B | 300 | | | | from = end | to = outfall | seat = metal
    Sampling branch | pipe | 7.2 | DN80 | sch 40S | 12 | tp316l | | | | | from = rack | to = house | to height = 7.6
    V-90 | vent | | | | | | | | 60 | | from = house
    SP-91 | blind | 7.6 | | | | | | | 60 | | from = house | to = sampler
    E-8 | exchanger | 7.6 | | | | | | | 45 | 40 L | from = sampler | position = beyond the test
    Dosing leg | pipe | 9.0 | DN100 | sch 40 | 8 | A106-B | | | | | from = hump | to = dosing | to height = 9.2
    NRV-92 | check valve | 9.2 | DN100 | | | A106-B | 300 | | | | from = store | to = dosing | position = held open
    Store leg | pipe | 9.2 | DN100 | sch 40 | 5 | A106-B | | | | | from = store | to = shelf | to height = 9.4
    V-93 | vent | | | | | | | | 60 | | from = shelf";

/// A main of ductile iron, its bend held, its dead end not yet.
const MAIN: &str = "Fill at the hydrant | fill | 2.0 | | | | | | | | | from = shore
    Pump trailer | pump connection | | | | | | | | | | from = shore
    PG-101 | gauge connection | | | | | | | | | | from = shore
    PSV-4 | relief connection | | | | | | | | | | from = shore
    Washout | drain | | | | | | | | 25 | | from = shore
    Shore end | blind | 2.0 | | | | | | | 25 | | from = shore | seal = 222 mm | restraint = 120
    First stretch | pipe | 2.0 | DN200 | K9 | 410 | ductile_iron | | | | | from = shore | to = crossing | to height = 9.0
    Air valve AV-2 | vent | | | | | | | | 25 | | from = crossing
    Bend at the road | bend | 9.0 | DN200 | K9 | 1 | ductile_iron | | | | | from = crossing | to = road | bend = 45 | seal = 222 mm | restraint = 95
    Second stretch | pipe | 9.0 | DN200 | K9 | 360 | ductile_iron | | | | | from = road | to = tank | to height = 14.0
    Air valve AV-3 | vent | | | | | | | | 25 | | from = tank
    Tank end | blind | 14.0 | | | | | | | 25 | | from = tank | seal = 222 mm";

/// Loads them.
pub(crate) async fn load(crew: &Crew) -> Result<()> {
    let mut forgotten = piping(16.0, 38.0, "PG-101", 1.0);
    forgotten["site"] = json!({ "source_flow_m3_per_s": 3.0 / 3600.0, "drain_bore_m": 0.025 });
    make(&crew.engineer, "BD-010", "Brine discharge, unit 2, boundary not yet walked", "pack", &forgotten, FORGOTTEN).await?;
    let mut cured = piping(16.0, 38.0, "PG-101", 0.4);
    cured["site"] = json!({ "source_flow_m3_per_s": 3.0 / 3600.0, "drain_bore_m": 0.025, "chloride_ppm": 18.0 });
    let pack = make(&crew.engineer, "BD-011", "Brine discharge, unit 3, boundary walked", "pack", &cured, CURED).await?;
    let set = [
        ("TB-81", "blind", "sump"),
        ("CV-85", "removed_item", "valley, spool in its place"),
        ("FE-86", "removed_item", "valley, spool in its place"),
        ("EB-87", "restraint", "valley, tie rods"),
        ("V-89", "shut_valve", "outfall, box open, watched by the reader"),
        ("SP-91", "blind", "sampling house, before E-8"),
        ("SH-2", "restraint", "rack, pinned"),
        ("NRV-92", "restraint", "dosing, flapper held open"),
    ];
    boundary(crew, &pack, &set).await?;
    let plan = json!({
        "object": "water_main", "why_now": "new", "claim": "both", "relied_on_by": "the works' water manager",
        "basis": { "id": "awwa_di", "working_pressure_pa": 8.0e5, "working_high_pa": 7.0e5 },
        "gauge_tag": "PG-101", "gauge_elevation_m": 2.0, "thermometer_tag": "TT-11", "hold_s": 7200.0, "water_temperature_c": 12.0,
        "site": { "soil_bearing_pa": 100e3, "source_flow_m3_per_s": 20.0 / 3600.0, "drain_bore_m": 0.08, "chloride_ppm": 30.0 },
    });
    make(&crew.engineer, "WM-011", "Transfer main, shore to the high tank", "pack", &plan, MAIN).await?;
    Ok(())
}
