//! What nobody entered: each stops in words at its place, beside a neighbour that stays allowed. Figures with their hand calculation stand in the
//! plain-text cases.

mod common;

use common::{b31_3, bar, flange, gauge_at, near, pipe, system};
use quantity::{GaugePressure, Length, PressureUnit, Temperature, Volume};
use rules::basis::{Basis, Medium};
use rules::fluid::OtherLiquid;
use rules::part::{Form, Part, PartKind, Seam};
use rules::system::{Refusal, System, derive, refusals};

fn part(tag: &str, kind: PartKind) -> Part {
    Part::new(tag, kind, Length::from_m(0.0))
}

fn shell(tag: &str, kind: PartKind, diameter_mm: f64, wall_mm: f64, material: &str) -> Part {
    Part {
        outside_diameter_m: Some(Length::from_mm(diameter_mm)),
        wall_m: Some(Length::from_mm(wall_mm)),
        material: Some(material.into()),
        volume_m3: Some(Volume::from_l(150.0)),
        ..part(tag, kind)
    }
}

fn run() -> Part {
    pipe("run", 0.0, 6.0, "40", 10.0)
}

/// Sentence of the objection of a rule; the test fails where there is none.
#[track_caller]
fn stopped(s: &System, rule: &str) -> String {
    let d = derive(s).unwrap();
    let found = d.objections.iter().find(|o| o.rule == rule);
    found.unwrap_or_else(|| panic!("{rule} does not stop it: {:?}", d.objections)).sentence.clone()
}

#[track_caller]
fn free_of(s: &System, rule: &str) {
    let d = derive(s).unwrap();
    assert!(d.objections.iter().all(|o| o.rule != rule), "{:?}", d.objections);
}

fn gas_of(parts: Vec<Part>) -> System {
    let mut s = system(Basis { medium: Medium::Air, ..b31_3(10.0, 38.0) }, parts, 0.0);
    s.site.minimum_metal_c = Some(Temperature::from_c(-29.0));
    s
}

#[test]
fn limit_known_an_empty_cell_never_means_allowed() {
    let kinds = [PartKind::Bellows, PartKind::Hose, PartKind::Coupling, PartKind::Instrument, PartKind::Machine, PartKind::Vent];
    let parts: Vec<Part> = kinds.iter().map(|k| part(k.word(), *k)).collect();
    let all = refusals(&system(b31_3(10.0, 38.0), parts, 0.0));
    assert_eq!(all.len(), kinds.len(), "every part says so, not the first alone: {all:?}");
    for (refusal, kind) in all.iter().zip(kinds) {
        assert_eq!((refusal.rule(), refusal.part()), ("LIMIT-KNOWN", Some(kind.word())));
        let says = refusal.to_string();
        assert!(says.contains("can bear. ") && (says.contains(" give ") || says.contains(". Give ")), "{says}");
    }
}

#[test]
fn limit_guest_vessel_a_vessel_within_piping_is_held_to_its_own_figure() {
    let vessel = shell("V-1", PartKind::Vessel, 1000.0, 10.0, "sa516_70");
    let of = |v: Part| derive(&system(b31_3(5.0, 38.0), vec![run(), v], 0.0));
    let e = of(vessel.clone()).unwrap_err();
    assert!(e.field() == "test pressure" && e.to_string().contains("never the yield of its shell"), "{e}");
    near(of(Part { rating_pa: Some(bar(10.0)), ..vessel.clone() }).unwrap().upper_pa.bar(), 10.0, 1e-9);
    near(of(Part { test_pressure_pa: Some(bar(13.0)), ..vessel }).unwrap().upper_pa.bar(), 13.0, 1e-9);
}

#[test]
fn limit_named_what_is_not_calculated_needs_a_named_figure() {
    let basis = Basis { working_pressure_pa: Some(bar(8.0)), ..Basis::new("boiler_heritage") };
    let basis = Basis { agreed_hold_s: Some(quantity::Span::from_minutes(30.0)), ..basis };
    let barrel = shell("barrel", PartKind::Boiler, 900.0, 12.0, "sa283_c");
    let of = |more: Part| derive(&system(basis.clone(), vec![barrel.clone(), more], 0.0));
    let plate = part("firebox", PartKind::StayedPlate);
    let by = |who: &str| Part { test_limit_pa: Some(bar(14.0)), limit_by: Some(who.into()), ..plate.clone() };
    assert_eq!(of(plate.clone()).unwrap_err().rule(), "LIMIT-NAMED");
    assert_eq!(of(by("owner")).unwrap_err().field(), "limit by");
    near(of(by("drawing 12")).unwrap().upper_pa.bar(), 14.0, 1e-9);
    let riveted = Part { seam: Some(Seam::Riveted), tag: "dome".into(), ..barrel.clone() };
    assert_eq!(of(riveted.clone()).unwrap_err().rule(), "LIMIT-NAMED");
    assert!(of(Part { seam_efficiency: Some(0.75), ..riveted }).is_ok());
}

/// AWWA C150: class 150 and 100 psi of surge are 250 psi; push-on joints 350 psi.
#[test]
fn limit_joint_limit_ductile_a_ductile_iron_main_stops_at_class_and_joint() {
    let main = Part {
        outside_diameter_m: Some(Length::from_mm(250.0)),
        length_m: Some(Length::from_m(100.0)),
        material: Some("ductile_iron".into()),
        ..part("main", PartKind::Pipe)
    };
    let basis = Basis { working_pressure_pa: Some(bar(8.0)), working_high_pa: Some(bar(8.0)), ..Basis::new("awwa_di") };
    let upper = |p: Part| derive(&system(basis.clone(), vec![p], 0.0)).map(|d| (d.upper_pa.psi(), d.parts[0].limit_rule.to_string()));
    let (psi, rule) = upper(Part { flange_class: Some(150), ..main.clone() }).unwrap();
    near(psi, 250.0, 1e-6);
    assert_eq!(rule, "LIMIT-DUCTILE");
    let (psi, rule) = upper(Part { flange_class: Some(350), ..main.clone() }).unwrap();
    near(psi, 350.0, 1e-6);
    assert_eq!(rule, "LIMIT-JOINT");
    assert!(upper(Part { wall_m: Some(Length::from_mm(9.4)), ..main.clone() }).unwrap().0 < 350.1, "never the yield of its wall");
    // a rating may be that of the joints: of a pipe it says nothing
    assert_eq!(upper(Part { rating_pa: Some(bar(40.0)), material: None, ..main }).unwrap_err().rule(), "LIMIT-KNOWN");
}

#[test]
fn flange_design_a_flange_beyond_its_table_is_refused() {
    let at = |t: f64| derive(&system(b31_3(5.0, t), vec![run(), flange("F-1", 0.0, 150)], 0.0));
    assert!(at(400.0).is_ok());
    let e = at(401.0).unwrap_err();
    assert_eq!((e.rule(), e.part()), ("FLANGE-DESIGN", Some("F-1")));
    assert!(e.to_string().contains("never extrapolated"), "{e}");
}

#[test]
fn basis_line_each_line_has_its_own_requirement() {
    let line = |tag: &str, p: Option<f64>| Part { design_pressure_pa: p.map(GaugePressure::from_bar), tag: tag.into(), ..run() };
    let of = |system_bar: Option<f64>, lines: Vec<Part>| {
        let basis = Basis { design_pressure_pa: system_bar.map(GaugePressure::from_bar), ..b31_3(1.0, 38.0) };
        system(basis, lines, 0.0)
    };
    let d = derive(&of(None, vec![line("feed", Some(20.0)), line("return", Some(10.0))])).unwrap();
    near(d.parts[0].required_pa.bar(), 30.0, 1e-9);
    near(d.parts[1].required_pa.bar(), 15.0, 1e-9);
    assert_eq!((d.lower_part.as_str(), d.parts[1].design_pa), ("feed", Some(bar(10.0))));
    // an emptied cell asks, or has the highest; it never lowers
    let asked = refusals(&of(None, vec![line("feed", Some(20.0)), line("return", None)]));
    assert_eq!((asked[0].part(), asked[0].field()), (Some("return"), "design pressure"));
    let highest = derive(&of(Some(20.0), vec![line("feed", Some(20.0)), line("return", None)])).unwrap();
    near(highest.parts[1].required_pa.bar(), 30.0, 1e-9);
    let above = refusals(&of(Some(16.0), vec![line("feed", Some(20.0)), line("return", None)]));
    assert!(above[0].to_string().contains("the system's figure is the highest of its lines"), "{}", above[0]);
    // and a basis that multiplies something else says so
    let mut vessel = of(None, vec![line("feed", Some(20.0))]);
    vessel.basis = Basis { working_pressure_pa: Some(bar(6.0)), ..Basis::new("building_services") };
    assert_eq!(refusals(&vessel)[0].rule(), "BASIS-LINE");
}

#[test]
fn stress_ratio_a_material_without_a_stress_is_refused() {
    let of = |material: Option<&str>, t: f64| {
        let p = Part { material: material.map(str::to_owned), test_limit_pa: Some(bar(90.0)), ..run() };
        derive(&system(b31_3(10.0, t), vec![p], 0.0))
    };
    assert_eq!(of(Some("s31803"), 500.0).unwrap_err().rule(), "STRESS-RATIO");
    assert_eq!(of(None, 200.0).unwrap_err().field(), "material");
    near(of(Some("s31803"), -46.0).unwrap().lower_pa.bar(), 15.0, 1e-9);
    near(of(None, 38.0).unwrap().lower_pa.bar(), 15.0, 1e-9);
    assert!(of(Some("a106_b"), -46.0).unwrap().cautions.iter().any(|c| c.contains("toughness is another question")));
}

#[test]
fn gas_volume_gas_wants_every_volume() {
    let vessel = Part { test_pressure_pa: Some(bar(14.0)), ..part("V-1", PartKind::Vessel) };
    let open = gas_of(vec![run(), vessel.clone(), Part { outside_diameter_m: None, ..flange("F-1", 0.0, 150) }]);
    let d = derive(&open).unwrap();
    let about: Vec<_> = d.objections.iter().filter(|o| o.rule == "GAS-VOLUME").map(|o| o.part.clone().unwrap()).collect();
    assert_eq!(about, ["V-1", "F-1"]);
    assert!(d.gas.unwrap().energy_ideal_j.is_none(), "an energy that leaves out a part is worse than none");
    let closed = gas_of(vec![run(), Part { volume_m3: Some(Volume::from_m3(50.0)), ..vessel }]);
    free_of(&closed, "GAS-VOLUME");
    let gas = derive(&closed).unwrap().gas.unwrap();
    near(gas.energy_ideal_j.unwrap().j() / 1e6, 76.4, 0.8);
    near(gas.distance_m.unwrap().m(), 66.0, 0.5);
}

#[test]
fn gas_brittle_gas_never_goes_into_what_shatters() {
    for material in ["pvc", "cpvc", "pe100", "grp", "gray_iron", "concrete", "glass"] {
        let p = Part {
            material: Some(material.into()),
            volume_m3: Some(Volume::from_l(5.0)),
            test_limit_pa: Some(bar(90.0)),
            ..part("P", PartKind::Fitting)
        };
        assert!(stopped(&gas_of(vec![run(), p]), "GAS-BRITTLE").contains("shatters"), "{material}");
    }
    free_of(&gas_of(vec![run()]), "GAS-BRITTLE");
}

#[test]
fn gas_water_line_water_below_the_line_weighs_as_water() {
    let mut s = gas_of(vec![
        Part { elevation_m: Length::from_m(40.0), ..run() },
        Part { rating_pa: Some(bar(40.0)), volume_m3: Some(Volume::from_l(5.0)), ..part("hose", PartKind::Hose) },
    ]);
    s.gauge = gauge_at(40.0);
    s.method.gas_share = Some(0.1);
    assert!(stopped(&s, "GAS-WATER-LINE").contains("height"), "its height is asked for");
    s.method.water_line_m = Some(Length::from_m(40.0));
    free_of(&s, "GAS-WATER-LINE");
    // 40 m of water at 998.2 kg/m³
    let hose = derive(&s).unwrap().parts[1].clone();
    near((hose.limit_pa - hose.gauge_upper_pa).bar(), 40.0 * 998.2 * 9.80665e-5, 1e-3);
}

#[test]
fn water_temperature_water_is_as_warm_as_the_basis_asks() {
    let mut s = system(
        Basis { allowable_pressure_pa: Some(bar(10.0)), ..Basis::new("boiler_power") },
        vec![Part { seam: Some(Seam::Full), ..shell("drum", PartKind::Boiler, 1200.0, 22.0, "sa516_70") }],
        0.0,
    );
    assert!(stopped(&s, "METAL-TEMPERATURE").contains("an honest estimate is enough"));
    s.site.metal_c = Some(Temperature::from_c(22.0));
    free_of(&s, "WATER-TEMPERATURE");
    free_of(&s, "METAL-TEMPERATURE");
    s.site.surroundings_c = Some(Temperature::from_c(28.0));
    assert!(stopped(&s, "WATER-TEMPERATURE").contains("sweats"));
    s.water_temperature_c = Temperature::from_c(15.0);
    assert!(stopped(&s, "WATER-TEMPERATURE").contains("warm it"));
}

fn other(name: &str, freezes: Option<f64>, chloride: Option<f64>) -> OtherLiquid {
    OtherLiquid {
        name: name.into(),
        density_kg_m3: quantity::Density::from_kg_m3(1040.0),
        compressibility_per_pa: None,
        expansion_per_k: None,
        flammable: false,
        flash_point_c: None,
        freezes_c: freezes.map(Temperature::from_c),
        chloride_ppm: chloride,
    }
}

#[test]
fn liquid_freezing_a_liquid_that_freezes_is_refused() {
    let mut s = system(b31_3(5.0, 38.0), vec![run()], 0.0);
    s.site.surroundings_c = Some(Temperature::from_c(-20.0));
    s.liquid = Some(other("glycol", Some(-8.0), None));
    assert!(stopped(&s, "LIQUID-FREEZING").contains("freezes at −8"));
    s.liquid = Some(other("glycol", None, None));
    assert!(stopped(&s, "LIQUID-FREEZING").contains("nobody said where glycol freezes"));
    s.liquid = Some(other("glycol", Some(-35.0), None));
    free_of(&s, "LIQUID-FREEZING");
    // another liquid is no way around the chloride
    s.parts[0].material = Some("tp304".into());
    assert!(stopped(&s, "CHLORIDE").contains("nobody said how much chloride is in glycol"));
    s.liquid = Some(other("sea water", Some(-35.0), Some(19_000.0)));
    assert!(stopped(&s, "CHLORIDE").contains("19000 ppm"));
    s.liquid = Some(other("glycol", Some(-35.0), Some(10.0)));
    free_of(&s, "CHLORIDE");
}

#[test]
fn jacket_inner_a_jacket_names_its_inner_part() {
    let basis = Basis {
        external_difference_pa: Some(bar(4.0)),
        agreed_hold_s: Some(quantity::Span::from_minutes(30.0)),
        ..Basis::new("viii_1_jacket")
    };
    let jacket = shell("jacket", PartKind::Vessel, 1200.0, 8.0, "sa516_70");
    assert!(stopped(&system(basis.clone(), vec![jacket.clone()], 0.0), "JACKET-INNER").contains("kind furnace"));
    let inner = Part { test_limit_pa: Some(bar(6.0)), limit_by: Some("designer".into()), ..part("inner", PartKind::Furnace) };
    free_of(&system(basis, vec![jacket, inner], 0.0), "JACKET-INNER");
}

#[test]
fn plastic_temperature_plastic_says_how_warm_it_is() {
    let main = Part {
        outside_diameter_m: Some(Length::from_mm(110.0)),
        wall_m: Some(Length::from_mm(10.0)),
        length_m: Some(Length::from_m(50.0)),
        material: Some("pe100".into()),
        ..part("main", PartKind::Pipe)
    };
    let mut s = system(Basis { design_pressure_pa: Some(bar(8.0)), ..Basis::new("pe") }, vec![main], 0.0);
    stopped(&s, "PLASTIC-TEMPERATURE");
    s.site.metal_c = Some(Temperature::from_c(20.0));
    free_of(&s, "PLASTIC-TEMPERATURE");
    let cool = derive(&s).unwrap().upper_pa;
    s.site.metal_c = Some(Temperature::from_c(40.0));
    near(derive(&s).unwrap().upper_pa.pa() / cool.pa(), 0.74, 1e-9);
    s.site.metal_c = Some(Temperature::from_c(41.0));
    assert!(matches!(derive(&s), Err(Refusal::Limit(_))), "warmer than the table");
    // EN 805 of a plastic that creeps is judged by its creep unless somebody chose otherwise
    s.site.metal_c = Some(Temperature::from_c(20.0));
    s.basis = Basis { design_pressure_pa: Some(bar(8.0)), ..Basis::new("en805") };
    assert!(derive(&s).unwrap().lowering().is_some());
}

fn receiver(wall_mm: f64, seam: Option<Seam>) -> System {
    let basis = Basis { working_pressure_pa: Some(bar(11.0)), plate_pressure_pa: Some(bar(11.0)), ..Basis::new("air_receiver") };
    system(basis, vec![Part { seam, ..shell("R-1", PartKind::Vessel, 400.0, wall_mm, "sa516_70") }], 0.0)
}

/// VIII-1 UG-27: 11 bar on 400 mm needs 1.59 mm at E = 1 and 2.27 mm at 0.7 with 138 MPa.
#[test]
fn used_mawp_a_worn_receiver_is_derated() {
    use quantity::Stress;
    use rules::used::needs;
    let mm = |e: f64| needs(Form::Cylinder, Length::from_mm(400.0), bar(11.0), Stress::from_ksi(20.0 * e)).unwrap().mm();
    near(mm(1.0), 1.59, 5e-3);
    near(mm(0.7), 2.27, 6e-3);
    let d = derive(&receiver(1.5, None)).unwrap();
    let o = d.objections.iter().find(|o| o.rule == "USED-MAWP").unwrap();
    assert_eq!((o.part.as_deref(), o.field.as_str()), (Some("R-1"), "working_pressure_pa"));
    assert!(o.sentence.contains("2.27\u{a0}mm") && o.sentence.contains("Derate it to 7.20\u{a0}bar"), "{}", o.sentence);
    let to = d.derate_to_pa.unwrap();
    near(to.bar(), 7.2, 1e-9);
    let mut derated = receiver(1.5, None);
    derated.basis.working_pressure_pa = Some(to);
    free_of(&derated, "USED-MAWP");
    free_of(&receiver(1.6, Some(Seam::Full)), "USED-MAWP");
    // said in the person's unit
    let mut psi = receiver(1.5, None);
    psi.said_in = Some(PressureUnit::Psi.into());
    assert!(stopped(&psi, "USED-MAWP").contains("psi"));
}

#[test]
fn used_plate_nobody_works_above_the_plate() {
    let mut s = receiver(6.0, Some(Seam::Full));
    assert!(derive(&s).is_ok());
    s.basis.working_pressure_pa = Some(bar(12.0));
    let e = derive(&s).unwrap_err();
    assert_eq!((e.rule(), e.field()), ("USED-PLATE", "working_pressure_pa"));
}

/// 5 mm ten years after 6 mm, 2.27 mm needed: 0.1 mm a year, 27 years left, looked at within ten.
#[test]
fn used_life_life_needs_two_walls() {
    let mut s = receiver(5.0, None);
    let says = |s: &System, key: &str| derive(s).unwrap().lines.into_iter().find(|l| l.key == key).unwrap().says;
    assert!(says(&s, "life-R-1").contains("The inspector names the date"));
    s.parts[0].earlier_wall_m = Some(Length::from_mm(6.0));
    s.parts[0].years_between = Some(10.0);
    assert!(says(&s, "life-R-1").contains("Within 10.0 years"), "{}", says(&s, "life-R-1"));
    s.parts[0].wall_m = Some(Length::from_mm(3.0));
    // 0.3 mm a year, 0.73 mm left: 2.4 years, half of it 1.2
    assert!(says(&s, "life-R-1").contains("Within 1.2 years"), "{}", says(&s, "life-R-1"));
}

#[test]
fn a_volume_counts_without_a_wall() {
    let vessel = Part { test_pressure_pa: Some(bar(20.0)), volume_m3: Some(Volume::from_m3(2.0)), ..part("V-1", PartKind::Vessel) };
    let s = system(b31_3(10.0, 38.0), vec![run(), vessel], 0.0);
    let d = derive(&s).unwrap();
    near(d.volume_m3.unwrap().m3(), 2.0 + run().volume().m3(), 1e-9);
    assert!(d.cautions.iter().any(|c| c.contains("The wall of V-1 is not given")));
    assert!(s.assumed_walls().contains("V-1"));
    let stretch = |s: &physics::system::ShutIn| s.wall_compliance_per_pa();
    assert!(stretch(&s.stiffest().unwrap()) < stretch(&s.shut_in().unwrap()), "the pump is judged by the stiffest that it may be");
}

/// The table of what empty means has every field of the formats, and none twice.
#[test]
fn every_field_says_what_empty_means() {
    use rules::fields::FIELDS;
    let full = {
        let mut s = receiver(5.0, None);
        s.liquid = Some(other("glycol", Some(-20.0), Some(5.0)));
        s.method.gas_share = Some(0.5);
        s.method.water_line_m = Some(Length::from_m(1.0));
        s.pretest_pa = Some(bar(0.3));
        serde_json::to_value(&s).unwrap()
    };
    let mut seen = 0;
    for (of, at) in [
        ("system", "/"),
        ("part", "/parts/0"),
        ("basis", "/basis"),
        ("site", "/site"),
        ("gauge", "/gauge"),
        ("liquid", "/liquid"),
        ("method", "/method"),
        ("settings", "/settings"),
    ] {
        let object = if at == "/" { Some(&full) } else { full.pointer(at) };
        for name in object.unwrap().as_object().unwrap().keys() {
            assert_eq!(FIELDS.iter().filter(|f| f.of == of && f.name == name).count(), 1, "{of}.{name}");
            seen += 1;
        }
    }
    assert!(seen > 40, "{seen}");
}

#[test]
fn system_history_unknown_history_needs_wall_and_plate() {
    let of = |wall: f64, plate: Option<f64>| {
        let basis = Basis { working_pressure_pa: Some(bar(8.0)), plate_pressure_pa: plate.map(bar), ..Basis::new("air_receiver") };
        let receiver = Part { test_limit_pa: Some(bar(30.0)), ..shell("R-1", PartKind::Vessel, 400.0, 4.0, "sa516_70") };
        let receiver = if wall > 0.0 { receiver } else { Part { wall_m: None, ..receiver } };
        let mut s = system(basis, vec![receiver], 0.0);
        s.unknown_history = true;
        s
    };
    for (s, field) in [(of(0.0, Some(10.0)), "wall"), (of(4.0, None), "plate_pressure_pa")] {
        let all = refusals(&s);
        assert!(all.iter().any(|r| r.rule() == "SYSTEM-HISTORY" && r.field() == field), "{field}: {all:?}");
    }
    assert!(derive(&of(4.0, Some(10.0))).is_ok(), "{:?}", refusals(&of(4.0, Some(10.0))));
}
