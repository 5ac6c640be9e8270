//! Each staged fault is found, and its cured twin is silent. The system is invented.

use quantity::{GaugePressure, Length, PressureDifference, PressureUnit, Temperature, Volume};
use rules::basis::Basis;
use rules::gauge::Gauge;
use rules::part::{Part, PartKind, Position, Positions, ValveType};
use rules::system::{System, derive};
use std::collections::HashSet;
use system::findings::{Finding, findings, rules};
use system::survey::{Facts, Signed, Survey};

fn bar(p: f64) -> GaugePressure {
    GaugePressure::from_bar(p)
}

fn part(tag: &str, kind: PartKind, from: &str, to: &str, z: f64, to_z: f64) -> Part {
    Part {
        from: Some(from.to_owned()),
        to: Some(to.to_owned()).filter(|t| !t.is_empty()),
        to_elevation_m: Some(Length::from_m(to_z)).filter(|_| !to.is_empty()),
        test_limit_pa: Some(bar(60.0)),
        ..Part::new(tag, kind, Length::from_m(z))
    }
}

fn pipe(tag: &str, from: &str, to: &str, z: f64, to_z: f64) -> Part {
    Part {
        outside_diameter_m: Some(Length::from_mm(168.3)),
        wall_m: Some(Length::from_mm(7.11)),
        length_m: Some(Length::from_m(20.0)),
        material: Some("a106_b".to_owned()),
        ..part(tag, PartKind::Pipe, from, to, z, to_z)
    }
}

fn at(tag: &str, kind: PartKind, point: &str, z: f64) -> Part {
    part(tag, kind, point, "", z, z)
}

fn stands(position: Position) -> Positions {
    Positions { fill: Some(position), test: Some(position), drain: Some(position), back: None }
}

fn valve(tag: &str, kind: PartKind, valve: ValveType, from: &str, to: &str, z: f64) -> Part {
    Part { valve: Some(valve), ..part(tag, kind, from, to, z, z) }
}

/// A line from a low end up to a high one, filled, read, relieved, vented and drained as it should be.
fn sound() -> Vec<Part> {
    vec![
        at("Fill", PartKind::Fill, "low", 0.0),
        at("Pump", PartKind::PumpPoint, "low", 0.0),
        at("Relief", PartKind::ReliefPoint, "low", 0.0),
        at("Gauge", PartKind::GaugePoint, "low", 0.0),
        at("Drain", PartKind::Drain, "low", 0.0),
        at("TB-1", PartKind::Blind, "low", 0.0),
        pipe("Riser", "low", "mid", 0.0, 6.0),
        pipe("Run", "mid", "high", 6.0, 8.0),
        at("Vent", PartKind::Vent, "high", 8.0),
        at("TB-2", PartKind::Blind, "high", 8.0),
    ]
}

struct Case {
    parts: Vec<Part>,
    basis: Basis,
    /// What was signed: "shut V-1", "exempt J-1".
    signed: Vec<&'static str>,
    change: fn(&mut System),
}

impl Case {
    fn of(parts: Vec<Part>) -> Self {
        let basis =
            Basis { design_pressure_pa: Some(bar(16.0)), design_temperature_c: Some(Temperature::from_c(38.0)), ..Basis::new("b31_3") };
        Self { parts, basis, signed: vec![], change: |_| {} }
    }
    fn main(parts: Vec<Part>) -> Self {
        let basis = Basis { working_pressure_pa: Some(bar(7.0)), working_high_pa: Some(bar(6.0)), ..Basis::new("awwa_di") };
        Self { basis, ..Self::of(parts) }
    }
    fn found(&self) -> Vec<Finding> {
        let gauge = Gauge {
            tag: "PG-1".into(),
            elevation_m: Length::from_m(0.0),
            full_scale_pa: Some(bar(60.0)),
            division_pa: PressureDifference::from_bar(0.5),
            error_of_scale: 0.005,
            unit: PressureUnit::Bar,
        };
        let mut system = System::new("T", self.basis.clone(), self.parts.clone(), gauge);
        (self.change)(&mut system);
        let derived = derive(&system).ok();
        let tags = |prefix: &str| self.signed.iter().filter_map(|s| s.strip_prefix(prefix)).map(str::to_owned).collect();
        let signed = Signed { shut: tags("shut "), exempt: tags("exempt ") };
        let facts = Facts { system: &system, derived: derived.as_ref(), signed: &signed, simple: false };
        findings(&Survey::of(facts).unwrap())
    }
    fn says(&self, rule: &str) -> Vec<String> {
        self.found().into_iter().filter(|f| f.rule == rule).map(|f| f.sentence.replace('\u{a0}', " ")).collect()
    }
}

/// The rule speaks of the faulty system, naming what it should, and not of its twin.
#[track_caller]
fn both_ways(rule: &str, faulty: &Case, names: &str, cured: &Case) {
    let said = faulty.says(rule);
    assert!(said.iter().any(|s| s.contains(names)), "{rule} does not name {names}: {said:?}; all: {:?}", faulty.found());
    assert_eq!(cured.says(rule), Vec::<String>::new(), "{rule} speaks of the cured twin");
}

fn with(more: Vec<Part>) -> Case {
    Case::of([sound(), more].concat())
}

fn without(tag: &str) -> Case {
    Case::of(sound().into_iter().filter(|p| p.tag != tag).collect())
}

fn changed(mut parts: Vec<Part>, tag: &str, change: impl Fn(&mut Part)) -> Vec<Part> {
    change(parts.iter_mut().find(|p| p.tag == tag).unwrap());
    parts
}

#[test]
fn a_sound_line_is_silent() {
    assert_eq!(Case::of(sound()).found(), vec![]);
}

#[test]
fn every_rule_has_a_place_in_the_list_and_an_id_of_its_own() {
    let ids: HashSet<&str> = rules().iter().map(|r| r.id).collect();
    assert_eq!(ids.len(), rules().len());
    assert!(ids.iter().all(|id| id.starts_with("BOUND-")));
}

#[test]
fn bound_end_an_end_that_nothing_closes_is_found() {
    let branch = pipe("Branch", "mid", "stub", 6.0, 5.0);
    both_ways("BOUND-END", &with(vec![branch.clone()]), "stub", &with(vec![branch, at("TB-3", PartKind::Blind, "stub", 5.0)]));
}

#[test]
fn bound_closure_a_blind_of_which_nothing_is_known_or_that_is_too_weak_is_found() {
    let bare = changed(sound(), "TB-2", |p| p.test_limit_pa = None);
    both_ways("BOUND-CLOSURE", &Case::of(bare), "TB-2", &Case::of(sound()));
    let weak = changed(sound(), "TB-2", |p| p.test_limit_pa = Some(bar(10.0)));
    both_ways("BOUND-CLOSURE", &Case::of(weak), "10", &Case::of(sound()));
}

#[test]
fn bound_shut_a_shut_valve_as_the_boundary_wants_its_seat_and_a_signature() {
    let gate = valve("V-1", PartKind::ClosedValve, ValveType::Gate, "high", "beyond", 8.0);
    let unknown = Part { test_limit_pa: None, ..gate.clone() };
    let closed = |gate: &Part| Case::of([without("TB-2").parts, vec![gate.clone()]].concat());
    let cured = Case { signed: vec!["shut V-1"], ..closed(&gate) };
    both_ways("BOUND-SHUT", &closed(&gate), "V-1", &cured);
    both_ways("BOUND-SHUT", &Case { signed: vec!["exempt V-1"], ..closed(&gate) }, "V-1", &cured);
    both_ways("BOUND-SHUT", &Case { signed: vec!["shut V-1"], ..closed(&unknown) }, "seat", &cured);
}

#[test]
fn bound_check_a_check_valve_against_the_filling_is_found() {
    let check = |from, to| valve("NRV", PartKind::Valve, ValveType::Check, from, to, 8.0);
    let line = |v: Part| {
        let more = vec![v, pipe("Far", "a", "b", 8.0, 9.0), at("TB-3", PartKind::Blind, "b", 9.0), at("V-2", PartKind::Vent, "b", 9.0)];
        Case::of([without("TB-2").parts, more].concat())
    };
    let held = Part { positions: stands(Position::HeldOpen), ..check("a", "high") };
    both_ways("BOUND-CHECK", &line(check("a", "high")), "against its flow", &line(held.clone()));
    both_ways("BOUND-CHECK", &line(check("high", "a")), "drain on both sides", &line(held));
    let drained = Case::of([line(check("high", "a")).parts, vec![at("D-2", PartKind::Drain, "a", 8.0)]].concat());
    assert_eq!(drained.says("BOUND-CHECK"), Vec::<String>::new());
}

#[test]
fn bound_cavity_a_ball_valve_that_is_not_half_open_is_found() {
    let ball = valve("BV", PartKind::Valve, ValveType::Ball, "mid", "leg", 6.0);
    let leg = |v: Part| {
        with(vec![v, pipe("Leg", "leg", "end", 6.0, 7.0), at("TB-3", PartKind::Blind, "end", 7.0), at("V-2", PartKind::Vent, "end", 7.0)])
    };
    both_ways("BOUND-CAVITY", &leg(ball.clone()), "BV", &leg(Part { positions: stands(Position::HalfOpen), ..ball.clone() }));
    assert_eq!(leg(Part { valve: Some(ValveType::Gate), ..ball }).says("BOUND-CAVITY"), Vec::<String>::new());
}

#[test]
fn bound_still_in_what_must_come_out_is_found_until_it_is_out() {
    let items = [
        valve("CV", PartKind::Valve, ValveType::Control, "mid", "x", 6.0),
        valve("PSV", PartKind::Valve, ValveType::Relief, "mid", "x", 6.0),
        part("FO", PartKind::OrificePlate, "mid", "x", 6.0, 6.0),
        at("PT", PartKind::Instrument, "mid", 6.0),
        part("ST", PartKind::Strainer, "mid", "x", 6.0, 6.0),
    ];
    for item in items {
        let out = Part { positions: stands(Position::Out), ..item.clone() };
        both_ways("BOUND-STILL-IN", &with(vec![item.clone()]), &item.tag, &with(vec![out]));
    }
}

#[test]
fn bound_equipment_that_sees_the_pressure_is_found() {
    let pump = Part { length_m: None, ..part("P-1", PartKind::Machine, "stub", "", 5.0, 5.0) };
    let spade = |shut: bool| {
        let mut all = vec![pipe("Branch", "mid", "flange", 6.0, 5.0), Part { positions: stands(Position::Beyond), ..pump.clone() }];
        let between = if shut { PartKind::Blind } else { PartKind::Flange };
        all.push(part("SP", between, "flange", "stub", 5.0, 5.0));
        with(all)
    };
    both_ways("BOUND-EQUIPMENT", &spade(false), "P-1", &spade(true));
    let undecided = with(vec![pipe("Branch", "mid", "stub", 6.0, 5.0), pump.clone()]);
    let decided = with(vec![pipe("Branch", "mid", "stub", 6.0, 5.0), Part { positions: stands(Position::InTest), ..pump }]);
    both_ways("BOUND-EQUIPMENT", &undecided, "nobody has decided", &decided);
}

#[test]
fn bound_bellows_bound_hanger_bound_support_bound_covered_want_a_word() {
    for (rule, kind, cure) in [
        ("BOUND-BELLOWS", PartKind::Bellows, Position::Restrained),
        ("BOUND-HANGER", PartKind::SpringHanger, Position::Pinned),
        ("BOUND-SUPPORT", PartKind::Support, Position::BearsWater),
    ] {
        let item = part("X-1", kind, "mid", "y", 6.0, 6.0);
        let said = Part { positions: stands(cure), ..item.clone() };
        both_ways(rule, &with(vec![item]), "X-1", &with(vec![said]));
    }
    let joint = Part { positions: stands(Position::Covered), ..part("J-1", PartKind::Coupling, "mid", "y", 6.0, 6.0) };
    both_ways("BOUND-COVERED", &with(vec![joint.clone()]), "J-1", &Case { signed: vec!["exempt J-1"], ..with(vec![joint]) });
}

#[test]
fn bound_high_a_second_high_point_without_a_vent_is_found_with_its_litres() {
    let hump = vec![pipe("Up", "mid", "hump", 6.0, 7.5), at("TB-3", PartKind::Blind, "hump", 7.5)];
    let vented = [hump.clone(), vec![at("V-2", PartKind::Vent, "hump", 7.5)]].concat();
    both_ways("BOUND-HIGH", &with(hump), "hump", &with(vented));
    both_ways("BOUND-HIGH", &without("Vent"), "No vent is listed", &Case::of(sound()));
}

#[test]
fn bound_low_a_low_place_without_a_drain_is_found() {
    let leg = vec![pipe("Leg", "mid", "sump", 6.0, 1.0), at("TB-3", PartKind::Blind, "sump", 1.0)];
    let drained = [leg.clone(), vec![at("D-2", PartKind::Drain, "sump", 1.0)]].concat();
    both_ways("BOUND-LOW", &with(leg), "sump", &with(drained));
}

#[test]
fn bound_fill_water_that_falls_on_its_way_in_is_found() {
    let high = changed(sound(), "Fill", |p| {
        p.from = Some("high".to_owned());
        p.elevation_m = Length::from_m(8.0);
    });
    both_ways("BOUND-FILL", &Case::of(high), "low lies", &Case::of(sound()));
    both_ways("BOUND-FILL", &without("Fill"), "Nobody has said", &Case::of(sound()));
}

#[test]
fn bound_gauge_a_gauge_that_is_not_where_its_window_is_derived_is_found() {
    let high = changed(sound(), "Gauge", |p| {
        p.from = Some("high".to_owned());
        p.elevation_m = Length::from_m(8.0);
    });
    both_ways("BOUND-GAUGE", &Case::of(high.clone()), "derived for", &Case::of(sound()));
    let read_up = |system: &mut System| system.gauge.elevation_m = Length::from_m(8.0);
    both_ways("BOUND-GAUGE", &Case { change: read_up, ..Case::main(high) }, "lowest point of the main", &Case::main(sound()));
}

#[test]
fn bound_relief_a_valve_that_can_shut_it_off_is_found() {
    let moved = |position: Option<Position>| {
        let parts = changed(sound(), "Relief", |p| p.from = Some("skid".to_owned()));
        let gate = valve("V-9", PartKind::Valve, ValveType::Gate, "low", "skid", 0.0);
        Case::of([parts, vec![Part { positions: position.map(stands).unwrap_or_default(), ..gate }]].concat())
    };
    both_ways("BOUND-RELIEF", &moved(None), "V-9", &moved(Some(Position::LockedOpen)));
    both_ways("BOUND-RELIEF", &without("Relief"), "Nobody has said", &Case::of(sound()));
}

#[test]
fn bound_bleed_what_the_gauge_does_not_read_is_found() {
    let far = |position: Option<Position>| {
        let check = Part {
            positions: position.map(stands).unwrap_or_default(),
            ..valve("NRV", PartKind::Valve, ValveType::Check, "high", "a", 8.0)
        };
        let more = vec![check, pipe("Far", "a", "b", 8.0, 9.0), at("TB-3", PartKind::Blind, "b", 9.0)];
        Case::of([without("TB-2").parts, more].concat())
    };
    both_ways("BOUND-BLEED", &far(None), "The gauge does not read Far", &far(Some(Position::HeldOpen)));
    assert!(far(None).says("BOUND-BLEED").iter().any(|s| s.contains("Nothing lets the pressure of")));
    both_ways("BOUND-BLEED", &without("Gauge"), "Nobody has said where the gauge", &Case::of(sound()));
}

#[test]
fn bound_other_line_another_design_pressure_is_found() {
    let other = changed(sound(), "Run", |p| {
        p.design_pressure_pa = Some(bar(10.0));
        p.design_temperature_c = Some(Temperature::from_c(38.0));
    });
    both_ways("BOUND-OTHER-LINE", &Case::of(other), "Run is designed for 10.00 bar", &Case::of(sound()));
}

#[test]
fn bound_main_restraint_a_bend_of_a_main_that_nothing_holds_is_found() {
    let held = |p: &mut Part| p.restraint_n = Some(quantity::Force::from_kn(200.0));
    let ends = changed(changed(sound(), "TB-1", held), "TB-2", held);
    let bend = part("B-1", PartKind::Bend, "mid", "y", 6.0, 6.0);
    let bent = |p: Part| Case::main([ends.clone(), vec![p, at("TB-3", PartKind::Vent, "y", 6.0)]].concat());
    let blocked = Part { restraint_n: Some(quantity::Force::from_kn(120.0)), ..bend.clone() };
    let declared = Part { none: [("restraint_n".to_owned(), "engineer".to_owned())].into(), ..bend.clone() };
    both_ways("BOUND-MAIN-RESTRAINT", &bent(bend), "B-1", &bent(blocked));
    assert_eq!(bent(declared).says("BOUND-MAIN-RESTRAINT"), Vec::<String>::new());
}

#[test]
fn bound_main_stretch_a_long_stretch_between_valves_is_found() {
    let long = |m: f64| Case::main(changed(sound(), "Run", |p| p.length_m = Some(Length::from_m(m))));
    both_ways("BOUND-MAIN-STRETCH", &long(640.0), "660 m", &long(300.0));
}

#[test]
fn bound_heights_a_step_that_nobody_measured_is_found_and_no_pocket_is_told_there() {
    let step = changed(sound(), "Run", |p| p.elevation_m = Length::from_m(7.0));
    both_ways("BOUND-HEIGHTS", &Case::of(step.clone()), "Riser and Run", &Case::of(sound()));
    let silent = Case::of(changed(step, "Vent", |p| {
        p.from = Some("mid".to_owned());
        p.elevation_m = Length::from_m(6.0);
    }));
    assert_eq!(silent.says("BOUND-HIGH"), Vec::<String>::new(), "air at a step is not told");
}

#[test]
fn bound_not_pressed_a_leg_behind_a_shut_valve_is_found() {
    let gate = |kind| valve("V-5", kind, ValveType::Gate, "mid", "leg", 6.0);
    let leg = |v: Part| {
        with(vec![v, pipe("Leg", "leg", "end", 6.0, 7.0), at("TB-3", PartKind::Blind, "end", 7.0), at("V-2", PartKind::Vent, "end", 7.0)])
    };
    both_ways(
        "BOUND-NOT-PRESSED",
        &leg(gate(PartKind::ClosedValve)),
        "Leg would not be tested: it lies behind V-5",
        &leg(gate(PartKind::Valve)),
    );
}

#[test]
fn bound_vacuum_a_thin_duct_that_drains_without_a_vent_is_found() {
    let thin = |p: &mut Part| {
        p.outside_diameter_m = Some(Length::from_mm(600.0));
        p.wall_m = Some(Length::from_mm(3.0));
    };
    let shut =
        changed(changed(sound(), "Run", thin), "Vent", |p| p.positions = Positions { drain: Some(Position::Shut), ..Positions::default() });
    both_ways("BOUND-VACUUM", &Case::of(shut), "Run could collapse", &Case::of(changed(sound(), "Run", thin)));
}

#[test]
fn bound_water_chloride_that_nobody_measured_is_found_at_austenitic_steel() {
    let steel = changed(sound(), "Run", |p| p.material = Some("tp304l".to_owned()));
    let measured = Case { change: |s| s.site.chloride_ppm = Some(12.0), ..Case::of(steel.clone()) };
    both_ways("BOUND-WATER", &Case::of(steel), "Run is of austenitic steel", &measured);
}

#[test]
fn the_pocket_is_told_in_litres_before_and_under_pressure() {
    let hump = vec![
        Part { volume_m3: Some(Volume::from_l(26.0)), ..pipe("Up", "mid", "hump", 6.0, 7.5) },
        at("TB-3", PartKind::Blind, "hump", 7.5),
    ];
    let case = with(hump);
    let said = case.says("BOUND-HIGH");
    // 26 L of air at 1.013 bar; 24 bar at the top part, so about 25 bar absolute there: about 1 L is left
    assert!(said[0].contains("26 L (1.02 L at test pressure), 3.37 % of the system"), "{said:?}");
}
