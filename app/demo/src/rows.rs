//! One system for every test basis, so that each can be opened and looked at. All of it is invented.

use crate::site::{Crew, make};
use anyhow::Result;
use serde_json::{Value, json};

/// One system: number, title, what is tested, its basis, gauge and its height, what else the plan holds, and the parts.
struct Row {
    number: &'static str,
    title: &'static str,
    object: &'static str,
    basis: Value,
    gauge: (&'static str, f64),
    more: Value,
    parts: &'static str,
}

const fn bar(p: f64) -> f64 {
    p * 1e5
}

/// Columns: tag, kind, height, size, wall, length, material, class, rating, limit, volume, seal, restraint, bend, test pressure, proven, seat.
fn piping() -> Vec<Row> {
    vec![
        Row {
            number: "SC-031",
            title: "Condenser shell line, works under vacuum",
            object: "process_piping",
            basis: json!({ "id": "b31_3_external", "external_difference_pa": bar(1.0) }),
            gauge: ("PG-403", 1.0),
            more: json!({ "site": { "chloride_ppm": 12.0 } }),
            parts: "Vacuum line | pipe | 6.0 | DN300 | sch 10 | 22 | tp304l
                    Condenser flange | flange | 1.0 | | | | tp304l | 150",
        },
        Row {
            number: "IA-012",
            title: "Instrument air header, dry and oil-free",
            object: "process_piping",
            basis: json!({ "id": "b31_3", "design_pressure_pa": bar(9.0), "design_temperature_c": 38.0, "medium": "air" }),
            gauge: ("PG-201", 1.5),
            more: json!({
                "method": { "reasons": ["moisture"], "conditions": ["no_brittle", "regulated", "area", "welds"], "approvals": { "owner": "owner's engineer", "safety": "safety officer" } },
                "site": { "minimum_metal_c": -29.0, "metal_c": 12.0 },
            }),
            parts: "Header | pipe | 8.0 | DN80 | sch 40 | 140 | A106-B
                    Dryer flange | flange | 1.5 | DN80 | | | A106-B | 150",
        },
        Row {
            number: "N2-004",
            title: "Nitrogen line to the membrane store, sensitive leak test",
            object: "process_piping",
            basis: json!({ "id": "b31_3_sensitive", "design_pressure_pa": bar(10.0), "medium": "nitrogen", "agreed_hold_s": 600.0 }),
            gauge: ("PG-403", 1.2),
            more: json!({
                "method": { "reasons": ["moisture"], "conditions": ["sensitivity"], "approvals": { "owner": "owner's engineer" } },
                "site": { "minimum_metal_c": -29.0, "metal_c": 14.0, "room_m3": 900.0 },
            }),
            parts: "Line | pipe | 3.0 | DN25 | sch 40S | 60 | tp304
                    Store panel | fitting | 1.2 | DN25 | | | | | 16",
        },
        Row {
            number: "DW-009",
            title: "Drain water to the sump, tested in its own service",
            object: "process_piping",
            basis: json!({ "id": "b31_3_initial_service", "working_pressure_pa": bar(3.0), "design_pressure_pa": bar(6.0), "design_temperature_c": 60.0 }),
            gauge: ("PG-402", 0.8),
            more: json!({ "method": { "reasons": ["disposal"], "conditions": ["category_d", "joints_visible"], "approvals": { "owner": "owner's engineer" } },
                          "site": { "chloride_ppm": 30.0 } }),
            parts: "Drain line | pipe | 2.5 | DN100 | sch 10S | 35 | tp304
                    Sump flange | flange | 0.4 | | | | tp304 | 150 | | 29",
        },
        Row {
            number: "RL-002",
            title: "Lined reactor outlet, examined by waiver",
            object: "process_piping",
            basis: json!({ "id": "b31_3_alternative", "design_pressure_pa": bar(8.0), "medium": "nitrogen", "agreed_hold_s": 600.0 }),
            gauge: ("PG-403", 2.0),
            more: json!({
                "method": { "reasons": ["lining"], "conditions": ["welds_examined", "flexibility", "sensitive"], "approvals": {},
                            "why_not": { "hydrostatic": "water stays behind the lining", "hydro_pneumatic": "the same", "pneumatic": "no area can be cleared beside the control room" } },
                "site": { "minimum_metal_c": -29.0, "metal_c": 18.0 },
            }),
            parts: "Outlet | pipe | 4.0 | DN80 | sch 40 | 9 | A106-B
                    Reactor nozzle | flange | 2.0 | DN80 | | | A106-B | 150",
        },
        Row {
            number: "SC-040",
            title: "Condensate pumps: discharge and return, two conditions",
            object: "process_piping",
            basis: json!({ "id": "b31_3", "design_pressure_pa": bar(18.0), "design_temperature_c": 120.0 }),
            gauge: ("PG-101", 1.0),
            more: json!({}),
            parts: "Discharge | pipe | 1.5 | DN80 | sch 40 | 40 | A106-B | | | | | design pressure = 18 bar
                    Return | pipe | 7.0 | DN80 | sch 40 | 55 | A106-B | | | | | design pressure = 9 bar | design temperature = 90
                    Return flange | flange | 7.0 | DN80 | | | A106-B | 150 | | | | design pressure = 9 bar | design temperature = 90",
        },
        Row {
            number: "N2-009",
            title: "Nitrogen to the buffer vessel, the vessel's volume not yet read",
            object: "process_piping",
            basis: json!({ "id": "b31_3", "design_pressure_pa": bar(10.0), "design_temperature_c": 38.0, "medium": "nitrogen" }),
            gauge: ("PG-201", 1.0),
            more: json!({
                "method": { "reasons": ["moisture"], "conditions": ["no_brittle", "regulated", "area", "welds"], "approvals": { "owner": "owner's engineer", "safety": "safety officer" } },
                "site": { "minimum_metal_c": -29.0, "metal_c": 14.0 },
            }),
            parts: "Line | pipe | 2.0 | DN150 | sch 40 | 10 | A106-B
                    Buffer V-61 | vessel | 1.0 | | | | | | | | | | | | 14.5
                    Inlet flange | flange | 1.0 | | | | A106-B | 150",
        },
        Row {
            number: "ST-007",
            title: "Steam main, boiler house to evaporators",
            object: "power_piping",
            basis: json!({ "id": "b31_1", "design_pressure_pa": bar(14.0) }),
            gauge: ("PG-101", 1.0),
            more: json!({ "site": { "source_flow_m3_per_s": 4.0 / 3600.0, "source_c": 9.0, "surroundings_c": 16.0, "stroke_m3": 8e-6, "drain_bore_m": 0.025, "start": "06:30" } }),
            parts: "Steam main | pipe | 7.5 | DN150 | sch 40 | 95 | A106-B
                    Isolating valve | valve | 6.8 | | | | A106-B | 300
                    Drip leg flange | flange | 1.0 | | | | A106-B | 300",
        },
        Row {
            number: "HW-003",
            title: "Hot water, workshop heating",
            object: "building_services",
            basis: json!({ "id": "b31_9", "design_pressure_pa": bar(6.0) }),
            gauge: ("PG-201", 1.0),
            more: json!({}),
            parts: "Flow and return | pipe | 4.0 | 2 in | type L | 60 | c12200_annealed
                    Header flange | flange | 1.0 | | | | A106-B | 150",
        },
        Row {
            number: "CH-014",
            title: "Chilled water, control building, ground floor",
            object: "building_services",
            basis: json!({ "id": "building_services", "working_pressure_pa": bar(6.0) }),
            gauge: ("PG-201", 0.8),
            more: json!({ "hold_s": 86_400.0, "pretest_pa": bar(1.5) }),
            parts: "Floor loop | pipe | 3.2 | DN65 | sch 40 | 85 | A106-B
                    Coil | fitting | 2.4 | | | | | | 16
                    Pump flange | flange | 0.8 | | | | A106-B | 150",
        },
        Row {
            number: "SW-022",
            title: "Seawater lift, to the owner's own standard",
            object: "process_piping",
            basis: json!({ "id": "owner_standard", "on_top_of": "b31_3", "design_pressure_pa": bar(10.0), "design_temperature_c": 38.0, "agreed_pressure_pa": bar(16.0),
                           "over_test_reason": "surge at pump trip, owner's standard of the intake" }),
            gauge: ("PG-101", 2.0),
            more: json!({}),
            parts: "Lift line | pipe | 9.0 | DN150 | sch 40S | 40 | s31803
                    Pump discharge | fitting | 2.0 | | | | | | 40",
        },
    ]
}

fn vessels() -> Vec<Row> {
    vec![
        Row {
            number: "V-110",
            title: "Brine vessel V-10, new",
            object: "vessel",
            basis: json!({ "id": "viii_1", "allowable_pressure_pa": bar(18.0), "design_temperature_c": 315.555_555_555_555_6 }),
            gauge: ("PG-406", 1.0),
            more: json!({ "site": { "minimum_metal_c": -10.0, "metal_c": 15.0 } }),
            parts: "Shell V-10 | vessel | 1.0 | 1200 mm | 18 mm | | sa516_70 | | | | 3.1 m3",
        },
        Row {
            number: "V-104",
            title: "Flash vessel V-4, built in 1986",
            object: "vessel",
            basis: json!({ "id": "viii_1_old", "allowable_pressure_pa": bar(8.0), "design_temperature_c": 150.0 }),
            gauge: ("PG-101", 1.0),
            more: json!({ "why_now": "due", "site": { "minimum_metal_c": -5.0, "metal_c": 15.0 } }),
            parts: "Shell V-4 | vessel | 1.0 | 900 mm | 10 mm | | sa516_70 | | | | 1.4 m3",
        },
        Row {
            number: "V-121",
            title: "Energy recovery vessel, designed by analysis",
            object: "vessel",
            basis: json!({ "id": "viii_2", "allowable_pressure_pa": bar(60.0), "design_temperature_c": 38.0, "agreed_hold_s": 1800.0 }),
            gauge: ("PG-405", 1.0),
            more: json!({ "site": { "minimum_metal_c": -20.0, "metal_c": 15.0 } }),
            parts: "Shell V-21 | vessel | 1.0 | 420 mm | 20 mm | | s31803 | | | | 0.6 m3",
        },
        Row {
            number: "V-107",
            title: "Condensate vessel V-17, in service, wall measured",
            object: "vessel",
            basis: json!({ "id": "vessel_in_service", "allowable_pressure_pa": bar(10.0), "design_temperature_c": 180.0, "agreed_hold_s": 1800.0 }),
            gauge: ("PG-101", 1.0),
            more: json!({ "why_now": "due", "site": { "minimum_metal_c": -5.0, "metal_c": 15.0 } }),
            parts: "Shell V-17 | vessel | 1.0 | 800 mm | 9.2 mm | | sa516_70 | | | | 1.1 m3",
        },
        Row {
            number: "AR-001",
            title: "Air receiver of the yard compressor",
            object: "air_receiver",
            basis: json!({ "id": "air_receiver", "working_pressure_pa": bar(8.0), "plate_pressure_pa": bar(11.0) }),
            gauge: ("PG-201", 0.5),
            more: json!({ "why_now": "due", "derating": { "valve": "", "switch": "", "tag": "" } }),
            parts: "Receiver | vessel | 0.5 | 400 mm | 3 mm | | sa516_70 | | | | 150 L",
        },
        Row {
            number: "AR-003",
            title: "Air receiver of the paint shop, worn thin",
            object: "air_receiver",
            basis: json!({ "id": "air_receiver", "working_pressure_pa": bar(11.0), "plate_pressure_pa": bar(11.0) }),
            gauge: ("PG-201", 0.5),
            more: json!({ "why_now": "due" }),
            parts: "Receiver | vessel | 0.5 | 400 mm | 1.5 mm | | sa516_70 | | | | 150 L | seam = not known | wall before = 3 mm | years between = 24",
        },
        Row {
            number: "V-132",
            title: "Jacket of the mixing vessel",
            object: "vessel",
            basis: json!({ "id": "viii_1_jacket", "external_difference_pa": bar(4.0), "agreed_hold_s": 1800.0 }),
            gauge: ("PG-402", 1.0),
            more: json!({ "site": { "minimum_metal_c": -10.0, "metal_c": 15.0 } }),
            parts: "Jacket | vessel | 1.0 | 800 mm | 6 mm | | sa516_70 | | | | 90 L | seam = spot
                    Inner shell | furnace | 1.0 | | | | | | | 6.5 | | limit by = designer, calculation C-131",
        },
        Row {
            number: "AR-002",
            title: "Air receiver with an unknown past",
            object: "air_receiver",
            basis: json!({ "id": "air_receiver", "working_pressure_pa": bar(8.0) }),
            gauge: ("PG-201", 0.5),
            more: json!({ "why_now": "unknown_history" }),
            parts: "Receiver | vessel | 0.5 | 400 mm | | | | | | | 150 L",
        },
        Row {
            number: "V-131",
            title: "Mixing vessel, works under vacuum",
            object: "vessel",
            basis: json!({ "id": "viii_1_vacuum", "external_difference_pa": bar(3.0), "agreed_pressure_pa": bar(4.0), "agreed_hold_s": 1800.0 }),
            gauge: ("PG-402", 1.0),
            more: json!({ "site": { "minimum_metal_c": -10.0, "metal_c": 15.0, "chloride_ppm": 12.0 } }),
            parts: "Inner shell | vessel | 1.0 | 700 mm | 8 mm | | tp316l | | | 9 | 0.5 m3",
        },
        Row {
            number: "V-140",
            title: "Sample cooler to the European directive",
            object: "vessel",
            basis: json!({ "id": "ped", "allowable_pressure_pa": bar(16.0), "design_temperature_c": 120.0 }),
            gauge: ("PG-406", 1.0),
            more: json!({ "site": { "minimum_metal_c": 0.0, "metal_c": 20.0 } }),
            parts: "Cooler shell | vessel | 1.0 | 219.1 mm | 6.3 mm | | P265GH | | | | 60 L",
        },
    ]
}

fn boilers() -> Vec<Row> {
    let boiler = |number, title, basis: Value, gauge, parts| Row {
        number,
        title,
        object: "boiler",
        basis,
        gauge,
        more: json!({ "water_temperature_c": 25.0, "schedule": "small_boiler", "site": { "metal_c": 24.0 } }),
        parts,
    };
    vec![
        Row {
            more: json!({ "why_now": "repaired", "water_temperature_c": 25.0, "site": { "metal_c": 24.0 }, "relief_alternative": "pump limited by its bypass, hand bleed attended, stop line kept; approved by the appointed inspector" }),
            ..boiler(
                "BO-001",
                "Package boiler, steam drum and tubes",
                json!({ "id": "boiler_power", "allowable_pressure_pa": bar(16.0) }),
                ("PG-101", 3.0),
                "Steam drum | boiler | 3.0 | 1000 mm | 20 mm | | sa516_70 | | | | 2.6 m3",
            )
        },
        Row {
            more: json!({ "why_now": "repaired", "water_temperature_c": 25.0, "site": { "metal_c": 24.0 } }),
            ..boiler(
                "BO-002",
                "Hire boiler after tube repair",
                json!({ "id": "boiler_repair", "allowable_pressure_pa": bar(10.0), "agreed_pressure_pa": bar(12.5) }),
                ("PG-101", 2.0),
                "Shell | boiler | 2.0 | 1400 mm | 14 mm | | sa516_70 | | | | 4.2 m3",
            )
        },
        boiler(
            "BO-003",
            "Heating boiler of the office",
            json!({ "id": "boiler_heating", "allowable_pressure_pa": bar(2.5), "agreed_hold_s": 1800.0 }),
            ("PG-402", 1.0),
            "Boiler body | boiler | 1.0 | 600 mm | 6 mm | | sa516_70 | | | | 180 L",
        ),
        boiler(
            "BO-004",
            "External piping of the package boiler",
            json!({ "id": "boiler_external", "allowable_pressure_pa": bar(16.0), "agreed_hold_s": 1800.0 }),
            ("PG-101", 3.0),
            "Main steam stub | pipe | 3.5 | DN100 | sch 40 | 6 | A106-B
             Stop valve | valve | 3.0 | | | | A106-B | 300",
        ),
        boiler(
            "HE-001",
            "Pumping-engine boiler in the museum shed, ten-yearly",
            json!({ "id": "boiler_heritage", "working_pressure_pa": bar(5.5), "agreed_hold_s": 1800.0 }),
            ("PG-201", 2.0),
            "Lancashire shell | boiler | 2.0 | 2130 mm | 12 mm | | sa516_70 | | | | 19 m3 | | | | | 9.5",
        ),
        boiler(
            "HE-002",
            "Saddle tank locomotive boiler",
            json!({ "id": "rail_heritage", "allowable_pressure_pa": bar(11.0), "agreed_hold_s": 1800.0 }),
            ("PG-201", 1.8),
            "Barrel and firebox | boiler | 1.8 | 1100 mm | 12.7 mm | | sa516_70 | | | | 2.4 m3",
        ),
    ]
}

fn mains() -> Vec<Row> {
    let main = |number, title, object, basis: Value, gauge, more: Value, parts| Row { number, title, object, basis, gauge, more, parts };
    vec![
        main(
            "IN-001",
            "Seawater intake main, ductile iron",
            "water_main",
            json!({ "id": "awwa_di", "working_pressure_pa": bar(7.0), "working_high_pa": bar(6.0) }),
            ("PG-101", 2.0),
            json!({ "hold_s": 7200.0, "site": { "soil_bearing_pa": 100e3, "source_flow_m3_per_s": 60.0 / 3600.0, "drain_bore_m": 0.08 } }),
            "Main, shore to works | pipe | 2.0 | DN300 | K9 | 640 | ductile_iron
             High point | pipe | 11.0 | DN300 | K9 | 120 | ductile_iron
             Bend at the road | bend | 3.0 | DN300 | K9 | 1 | ductile_iron | | | | | 326 mm | | 45
             End plug | blind | 11.0 | | | | | | | 25 | | 326 mm | 140
             Gate valve, closed | closed gate valve | 2.0 | | | | | | 16 | | | 326 mm | | | | | metal",
        ),
        main(
            "WM-004",
            "Potable main, PVC",
            "water_main",
            json!({ "id": "awwa_pvc", "working_pressure_pa": bar(6.5), "working_high_pa": bar(6.0), "agreed_pressure_pa": bar(10.0) }),
            ("PG-201", 1.0),
            json!({ "hold_s": 7200.0, "site": { "soil_bearing_pa": 80e3, "metal_c": 15.0 } }),
            "Main | pipe | 1.0 | 8 in | DR14 | 410 | pvc
             Tee end | blind | 1.5 | | | | | | | 20 | | 229.9 mm",
        ),
        main(
            "IN-002",
            "Seawater intake main, polyethylene",
            "water_main",
            json!({ "id": "pe", "design_pressure_pa": bar(6.0), "agreed_pressure_pa": bar(8.0) }),
            ("PG-201", 1.0),
            json!({ "hold_s": 3600.0, "site": { "metal_c": 16.0 } }),
            "Main | pipe | 1.0 | 315 mm | SDR 11 | 520 | pe100
             Flange adaptor | fitting | 1.4 | | | | | | 16",
        ),
        main(
            "WM-006",
            "Transfer main to the high tank",
            "water_main",
            json!({ "id": "en805", "design_pressure_pa": bar(8.0) }),
            ("PG-201", 1.0),
            json!({ "hold_s": 3600.0 }),
            "Main | pipe | 1.0 | DN200 | K9 | 730 | ductile_iron
             Tank end | blind | 14.0 | | | | | | | 16 | | 222 mm",
        ),
        main(
            "FW-001",
            "Fire main ring, underground",
            "fire_main",
            json!({ "id": "fire_underground", "working_pressure_pa": bar(8.3) }),
            ("PG-301", 1.0),
            json!({ "hold_s": 7200.0 }),
            "Ring | pipe | 1.0 | 8 in | class 52 | 380 | ductile_iron
             Hydrant H-4, closed | hydrant | 1.2 | | | | | | 13.8 | | | | | | | | metal",
        ),
        main(
            "FW-002",
            "Sprinklers of the workshop, wet",
            "fire_main",
            json!({ "id": "fire_above_wet", "working_pressure_pa": bar(11.4) }),
            ("PG-301", 1.0),
            json!({ "hold_s": 7200.0 }),
            "Riser and mains | pipe | 6.0 | DN80 | sch 40 | 210 | A53-B
             Alarm valve | fitting | 1.0 | | | | | | 25",
        ),
        main(
            "FW-003",
            "Sprinklers of the cold store, dry: the air test",
            "fire_main",
            json!({ "id": "fire_dry", "working_pressure_pa": bar(8.0), "medium": "air" }),
            ("PG-402", 1.0),
            json!({
                "hold_s": 86_400.0,
                "method": { "reasons": ["freezing"], "conditions": ["no_brittle", "regulated", "area", "welds"], "approvals": { "owner": "owner's engineer", "safety": "safety officer" } },
                "site": { "minimum_metal_c": -29.0, "metal_c": 10.0 },
            }),
            "Dry riser and mains | pipe | 6.0 | DN80 | sch 40 | 120 | A53-B
             Dry valve | fitting | 1.0 | DN80 | | | | | 12",
        ),
        main(
            "FW-004",
            "Sprinklers of the water tower, top zone read at the street",
            "fire_main",
            json!({ "id": "fire_above_wet", "working_pressure_pa": bar(8.0) }),
            ("PG-301", 0.0),
            json!({ "hold_s": 7200.0, "worked_in": "psi" }),
            "Zone 12 | pipe | 60.0 | DN80 | sch 40 | 80 | A53-B
             Zone valve | valve | 60.0 | | | | A106-B | 300",
        ),
        main(
            "OF-001",
            "Outfall, box sections: each joint by itself",
            "joint",
            json!({ "id": "joint_box" }),
            ("PG-401", 0.0),
            json!({}),
            "Joint 12 | fitting | 0.0 | | | | | | | 1.0 | 40 L",
        ),
    ]
}

/// Loads them all.
pub(crate) async fn load(crew: &Crew) -> Result<()> {
    for row in piping().into_iter().chain(vessels()).chain(boilers()).chain(mains()) {
        let mut plan = json!({
            "object": row.object, "claim": "both", "why_now": "new", "relied_on_by": "the owner's integrity authority", "run": "record",
            "basis": row.basis, "water_temperature_c": 15.0, "restraint": "free", "gauge_tag": row.gauge.0, "gauge_elevation_m": row.gauge.1,
            "thermometer_tag": "TT-11", "thermometer_place": "water", "schedule": "quarters", "permit_number": "",
            "people": { "performs": "supervisor", "inspects": "inspector", "witnesses": "witness", "accepts": "owner" },
        });
        if let (Some(plan), Value::Object(more)) = (plan.as_object_mut(), row.more) {
            plan.extend(more);
        }
        make(&crew.engineer, row.number, row.title, "pack", &plan, row.parts).await?;
    }
    Ok(())
}
