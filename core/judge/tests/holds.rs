//! Holds made here, with a mass balance of their own (IAPWS-95 at each instant, no table), judged and compared with what was put in.

use judge::acceptance::Verdict;
use judge::case::*;
use judge::finding::Finding;
use judge::judgement::{Judgement, told, told_as_sealed};
use judge::planning::settles_at;
use judge::read::{Read, TimeRange};
use judge::segments::Clock;
use judge::{HoldCase, judge};
use physics::elastic::{Elastic, Restraint};
use physics::exposure::Exposure;
use physics::system::Segment;
use physics::water;
use quantity::*;
use rules::accept::{Criterion, Origin, PressureFall};
use terms::Claim;
use terms::EventKind;
use terms::LeakPlace;
use terms::ThermometerPlace;

struct Noise(u64);

impl Noise {
    fn uniform(&mut self) -> f64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 >> 11) as f64 / (1u64 << 53) as f64
    }
    fn normal(&mut self) -> f64 {
        (-2.0 * self.uniform().max(1e-300).ln()).sqrt() * (std::f64::consts::TAU * self.uniform()).cos()
    }
}

/// A DN150 sch 40 line of 120 m in carbon steel.
fn line() -> Segment {
    Segment {
        name: "run".into(),
        outside_diameter_m: Length::from_mm(168.3),
        wall_m: Length::from_mm(7.11),
        volume_m3: Volume::from_m3(2.24),
        elastic: Elastic { youngs_modulus_pa: Stress::from_pa(207e9), poisson_ratio: 0.3, linear_expansion_per_k: 11.7e-6 },
        restraint: Restraint::Free,
    }
}

struct Made {
    leak_l_per_h: f64,
    cooling_k: f64,
    hours: f64,
    every_s: f64,
    noise_bar: f64,
    seed: u64,
}

const QUIET: Made = Made { leak_l_per_h: 0.0, cooling_k: 0.3, hours: 2.0, every_s: 60.0, noise_bar: 0.003, seed: 1 };

/// Pressure that keeps V·ρ·(1 + c·Δp + α·ΔT) equal to the mass left, by bisection.
fn pressure_of(mass_left: f64, t: f64, p0: f64, t0: f64) -> f64 {
    let k: f64 = 168.3 / (168.3 - 2.0 * 7.11);
    let wall = (3.0 * 0.4 + 2.0 * 1.3 * k * k) / (207e9 * (k * k - 1.0));
    let mass = |p: f64| {
        let rho = water::state(Temperature::from_c(t), AbsolutePressure::from_pa(p)).unwrap().density.kg_m3();
        rho * (1.0 + wall * (p - p0) + 3.0 * 11.7e-6 * (t - t0))
    };
    let (mut lo, mut hi) = (1e5, 2.0 * p0);
    for _ in 0..60 {
        let mid = 0.5 * (lo + hi);
        if mass(mid) < mass_left { lo = mid } else { hi = mid }
    }
    0.5 * (lo + hi)
}

fn make(m: &Made) -> HoldCase {
    let mut noise = Noise(m.seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1);
    let (t0, p0) = (15.0, 26.0e5 + 101_325.0);
    let start_mass = water::state(Temperature::from_c(t0), AbsolutePressure::from_pa(p0)).unwrap().density.kg_m3();
    let end = m.hours * 3600.0;
    let n = (end / m.every_s) as usize;
    let readings = (0..=n)
        .map(|i| {
            let t_s = i as f64 * m.every_s;
            let t = t0 - m.cooling_k * (1.0 - (-t_s / 5400.0).exp()) / (1.0 - (-end / 5400.0).exp());
            let lost_fraction = m.leak_l_per_h * 1e-3 * (t_s / 3600.0) / 2.24;
            let p = pressure_of(start_mass * (1.0 - lost_fraction), t, p0, t0) + m.noise_bar * 1e5 * noise.normal();
            let division = 0.01e5;
            Reading::new(
                RunTime::from_s(t_s),
                Some(GaugePressure::from_pa(((p - 101_325.0) / division).round() * division)),
                Some(Temperature::from_c(((t + 0.002 * noise.normal()) / 0.01).round() * 0.01)),
            )
        })
        .collect();
    HoldCase {
        format: 2,
        clock_set: vec![],
        told_in: None,
        title: "line".into(),
        gas: None,
        bodies: vec![CaseBody {
            segment: line(),
            wall_unc_95_rel: 0.06,
            exposure: Exposure::Indoor,
            skin_lag_s: Span::from_s(2000.0),
            // water and wall are as warm as each other here
            fluid_lag_s: Span::from_s(20.0),
            lag_factor_95: 2.5,
            creep: None,
        }],
        air_fraction: 0.0,
        air_fraction_unc_95: 0.0005,
        volume_unc_95_rel: 0.02,
        atmosphere_pa: STANDARD_ATMOSPHERE,
        expected_pa: GaugePressure::from_bar(26.0),
        heat: HeatBefore {
            fill_c: Temperature::from_c(15.0),
            fill_unc_95_k: TemperatureDifference::from_k(0.6),
            soak_s: Span::from_s(7200.0),
            surroundings_c: None,
            swing_k: None,
        },
        at_pressure_s: Span::from_s(600.0),
        gasketed_joints: 0,
        gauge: HoldGauge {
            tag: "PG-1".into(),
            elevation_m: Length::from_m(0.0),
            noise_pa: None,
            temperature_pa_per_k: 0.0,
            division_pa: PressureDifference::from_bar(0.01),
            full_scale_pa: GaugePressure::from_bar(40.0),
            error_of_scale: 0.0025,
            unit: PressureUnit::Bar,
        },
        thermometer: Some(Thermometer {
            tag: "TT-1".into(),
            location: ThermometerPlace::Water,
            division_k: TemperatureDifference::from_k(0.01),
            error_k: TemperatureDifference::from_k(0.1),
            body: None,
            noise_k: None,
        }),
        also_gauges: vec![],
        also_thermometers: vec![],
        overruled: vec![],
        lowered: None,
        let_out_before_s: None,
        moved: vec![],
        decided: None,
        stopped: false,
        readings,
        hold_start_s: RunTime::from_s(0.0),
        hold_end_s: RunTime::from_s(end),
        events: vec![event(0.0, EventKind::PumpOff), event(0.5 * end, EventKind::LookDone)],
        acceptance: Acceptance {
            claim: Claim::Both,
            lower_pa: GaugePressure::from_bar(20.0),
            upper_pa: GaugePressure::from_bar(29.98),
            look_pa: None,
            hold_floor_s: Span::from_s(600.0),
            required_sensitivity_m3_per_s: Some(VolumeFlow::from_l_per_h(0.5)),
            one_repump: false,
            pump_stays: false,
            loss_fails_strength: false,
            instrument_objections: vec![],
            criteria: vec![],
        },
    }
}

fn event(t_s: f64, kind: EventKind) -> Event {
    Event { t_s: RunTime::from_s(t_s), kind, place: None, volume_m3: None }
}

fn seen(place: LeakPlace) -> Event {
    Event { place: Some(place), ..event(600.0, EventKind::LeakSeen) }
}

fn reads(points: impl Iterator<Item = (f64, f64)>) -> Vec<Read> {
    points.map(|(t, pa)| Read { t: RunTime::from_s(t), p: GaugePressure::from_pa(pa) }).collect()
}

fn range(start: f64, end: f64) -> TimeRange {
    TimeRange { start: RunTime::from_s(start), end: RunTime::from_s(end) }
}

#[test]
fn finding_a_leak_put_in_is_found_within_its_interval() {
    let mut inside = 0;
    for seed in 1..=60 {
        let leak = 0.004 * f64::from(u32::try_from(seed % 6).unwrap());
        let j = judge(&make(&Made { leak_l_per_h: leak, seed, ..QUIET }));
        let l = j.found.leak.unwrap();
        inside += i32::from(l.lo_m3_per_s.l_per_h() <= leak && leak <= l.hi_m3_per_s.l_per_h());
        if leak >= 3.0 * l.detection_limit_m3_per_s.l_per_h() {
            assert_eq!((j.found.finding, j.verdict), (Finding::LeakShown, Verdict::Fail), "seed {seed}: {}", j.sentence);
        }
        if leak == 0.0 {
            assert_ne!(j.verdict, Verdict::Fail, "seed {seed}: {}", j.sentence);
        }
    }
    assert!(inside >= 56, "{inside} of 60 intervals hold the leak put in");
}

#[test]
fn cooling_is_not_a_leak_and_a_leak_behind_warming_is_one() {
    let cooled = judge(&make(&Made { cooling_k: 0.5, ..QUIET }));
    assert_eq!(cooled.found.finding, Finding::TightTo, "{}", cooled.sentence);
    let explained = cooled.found.explained_pa.unwrap();
    let fell = cooled.found.start_pa.unwrap() - cooled.found.end_pa.unwrap();
    assert!((explained.value - fell).abs().bar() < 0.05 && fell.bar() > 0.9, "{}", cooled.sentence);
    let warmed = judge(&make(&Made { cooling_k: -0.5, leak_l_per_h: 0.03, ..QUIET }));
    assert!(warmed.found.end_pa > warmed.found.start_pa, "the pressure rose");
    assert_eq!(warmed.verdict, Verdict::Fail, "{}", warmed.sentence);
    insta::assert_snapshot!(format!("{}\n{}", cooled.sentence, warmed.sentence));
}

/// In other units a judgement says the same, sentence by sentence; made by other rules, what these said stays word for word.
#[test]
fn a_judgement_is_told_in_other_units_and_the_words_of_other_rules_stay() {
    let case = make(&Made { cooling_k: 0.5, ..QUIET });
    let made = judge(&case);
    let units = Units { pressure: PressureUnit::Psi, temperature: TemperatureUnit::Fahrenheit, ..Units::default() };
    let told_in_psi = HoldCase { told_in: Some(units), ..case.clone() };
    let same = told(&case, &made);
    assert_eq!((same.says.join(" "), &same.verdicts), (made.sentence.clone(), &made.verdicts));
    let told_now = told(&told_in_psi, &made);
    let sealed = Judgement { rules_version: "0.0.1+1".to_owned(), ..made.clone() };
    let old = told_as_sealed(&told_in_psi, &sealed);
    assert_eq!(old.says, told_now.says);
    assert!(old.says.len() > 1 && old.says[0].contains("psi") && old.says[0].contains("°F"), "{:?}", old.says);
    assert!(!old.sentence.contains("bar") && !old.sentence.contains(" K "), "{}", old.sentence);
    assert_eq!((&old.verdicts, old.verdict, old.rules_version), (&made.verdicts, made.verdict, sealed.rules_version));
    assert_ne!(told_now.verdicts, made.verdicts, "by these rules their figures are told in psi too");
}

#[test]
fn hold_leak_tight_only_to_what_was_asked() {
    let mut case = make(&QUIET);
    assert_eq!(judge(&case).verdict, Verdict::Pass, "{}", judge(&case).sentence);
    case.acceptance.required_sensitivity_m3_per_s = Some(VolumeFlow::from_l_per_h(0.001));
    let strict = judge(&case);
    assert_eq!((strict.found.finding, strict.verdict), (Finding::TightTo, Verdict::NotShown));
    case.acceptance.required_sensitivity_m3_per_s = None;
    assert!(judge(&case).verdicts[1].rules.iter().any(|r| r.sentence.contains("no tightness is claimed")));
}

/// 0.3 K of cooling take some 0.57 bar, 2.2 % of 26 bar: an owner who allows 2 % fails what the basis passes; one who allows 10 % does not make a
/// leak allowed.
#[test]
fn hold_owners_fall_the_owners_fall_asks_for_more_and_allows_no_leak() {
    let fall = |share: f64| {
        Criterion::OwnersFall(PressureFall {
            origin: Origin { rule: "the owner".into(), source: "as entered".into() },
            most_pa: None,
            most_share: Some(share),
            within_s: Span::from_minutes(120.0),
        })
    };
    let of = |made: &Made, share: f64| {
        let mut case = make(made);
        case.acceptance.criteria = vec![fall(share)];
        let judged = judge(&case);
        let said = |rule: &str| judged.verdicts[1].rules.iter().find(|r| r.rule == rule).unwrap().result;
        (said("HOLD-OWNERS-FALL"), said("HOLD-LEAK"), judged.verdict)
    };
    assert_eq!(of(&QUIET, 0.02), (Verdict::Fail, Verdict::Pass, Verdict::Fail));
    assert_eq!(of(&QUIET, 0.10), (Verdict::Pass, Verdict::Pass, Verdict::Pass));
    assert_eq!(of(&Made { leak_l_per_h: 0.03, ..QUIET }, 0.10), (Verdict::Pass, Verdict::Fail, Verdict::Fail));
}

#[test]
fn a_record_that_looks_far_surer_than_its_instruments_is_not_trusted_to_rule_a_leak_out() {
    let mut case = make(&QUIET);
    let asked = VolumeFlow::from_l_per_h(1.0);
    case.acceptance.required_sensitivity_m3_per_s = Some(asked);
    let mut found = judge(&case).found;
    let mut sentence = |upper: f64, limit: f64| {
        let leak = found.leak.as_mut().unwrap();
        (leak.upper_999_m3_per_s, leak.detection_limit_m3_per_s) = (asked * upper, asked * limit);
        let rules = judge::acceptance::verdicts(&case, &found).remove(1).rules;
        let of_leak = rules.into_iter().find(|r| r.rule == "HOLD-LEAK").unwrap();
        (of_leak.result, of_leak.sentence)
    };
    assert_eq!(sentence(0.5, 2.4).0, Verdict::Pass);
    let (result, said) = sentence(0.5, 2.6);
    assert_eq!(result, Verdict::NotShown);
    assert!(said.contains("not trusted to rule out"), "{said}");
}

#[test]
fn hold_readings_too_few_readings_show_nothing() {
    let j = judge(&make(&Made { every_s: 1800.0, ..QUIET }));
    assert_eq!((j.found.finding, j.verdict), (Finding::NotShown, Verdict::NotShown));
    assert!(j.sentence.contains("has 5 pressure readings; a leak rate needs 10"), "{}", j.sentence);
}

#[test]
fn hold_temperature_without_temperature_nothing_is_shown() {
    let mut case = make(&QUIET);
    case.thermometer = None;
    let j = judge(&case);
    assert_eq!((j.found.finding, j.verdict), (Finding::NotShown, Verdict::NotShown));
    let mut unread = make(&QUIET);
    unread.readings.iter_mut().for_each(|r| r.temperature_c = None);
    assert_eq!(judge(&unread).found.finding, Finding::NotShown);
    let mut half = make(&QUIET);
    half.readings.iter_mut().filter(|r| r.t_s.s() > 3000.0).for_each(|r| r.temperature_c = None);
    assert_eq!(judge(&half).found.finding, Finding::NotShown);
    let mut no_volume = make(&QUIET);
    no_volume.bodies.clear();
    assert_eq!(judge(&no_volume).found.finding, Finding::NotShown);
}

#[test]
fn negative_leak_a_negative_leak_is_never_a_pass() {
    let j = judge(&make(&Made { leak_l_per_h: -0.05, ..QUIET }));
    assert!(j.found.leak.unwrap().hi_m3_per_s < VolumeFlow::ZERO);
    assert_eq!((j.found.finding, j.verdict), (Finding::NotShown, Verdict::NotShown), "{}", j.sentence);
}

#[test]
fn hold_time_a_repump_restarts_the_clock() {
    let mut case = make(&QUIET);
    case.acceptance.hold_floor_s = Span::from_s(5400.0);
    assert_eq!(judge(&case).verdict, Verdict::Pass);
    case.events.push(event(3600.0, EventKind::Repump));
    let j = judge(&case);
    assert!(
        j.verdicts[0].rules.iter().any(|r| r.rule == "HOLD-TIME" && r.result == Verdict::NotShown && r.sentence.contains("go on for 30")),
        "{:?}",
        j.verdicts[0]
    );
}

/// What is too much for a part is so on the way up too.
#[test]
fn pressure_above_its_bound_on_the_way_up_fails_strength() {
    let mut case = make(&QUIET);
    let over = case.acceptance.upper_pa + PressureDifference::from_bar(0.1);
    case.readings.insert(0, Reading::new(RunTime::from_s(-600.0), Some(over), None));
    let judged = judge(&case);
    let greatest = judged.verdicts[0].rules.iter().find(|r| r.rule == "HOLD-GREATEST").unwrap();
    assert_eq!((greatest.result, judged.verdicts[0].verdict), (Verdict::Fail, Verdict::Fail), "{}", greatest.sentence);
}

#[test]
fn hold_least_hold_greatest_pressure_outside_its_bounds_fails_strength() {
    for change in
        [|a: &mut Acceptance| a.lower_pa = GaugePressure::from_bar(25.9), |a: &mut Acceptance| a.upper_pa = GaugePressure::from_bar(25.9)]
    {
        let mut case = make(&QUIET);
        change(&mut case.acceptance);
        assert_eq!(judge(&case).verdicts[0].verdict, Verdict::Fail);
    }
}

#[test]
fn look_done_without_the_look_nothing_is_shown() {
    let mut case = make(&QUIET);
    case.events.retain(|e| e.kind != EventKind::LookDone);
    assert_eq!(judge(&case).verdict, Verdict::NotShown);
}

/// Where the basis has the look at a lower pressure after the hold (gas, vessels), it counts there, not below, and not once the pressure is out.
#[test]
fn a_look_at_the_pressure_of_the_look_counts_after_the_hold() {
    let looked = |bar: f64, look_pa: Option<f64>, released: bool| {
        let mut case = make(&QUIET);
        case.acceptance.look_pa = look_pa.map(GaugePressure::from_bar);
        case.events.retain(|e| e.kind != EventKind::LookDone);
        let end = case.hold_end_s.s();
        case.readings.push(Reading::new(RunTime::from_s(end + 300.0), Some(GaugePressure::from_bar(bar)), None));
        if released {
            case.events.push(event(end + 400.0, EventKind::Released));
        }
        case.events.push(event(end + 600.0, EventKind::LookDone));
        let judged = judge(&case);
        let rule = judged.verdicts[0].rules.iter().find(|r| r.rule == "LOOK-DONE").unwrap().clone();
        (rule.result, rule.sentence)
    };
    let all = [(20.0, Some(20.0), false), (19.0, Some(20.0), false), (20.0, Some(20.0), true), (20.0, None, false)]
        .map(|(p, l, r)| looked(p, l, r));
    assert_eq!(all.each_ref().map(|a| a.0), [Verdict::Pass, Verdict::NotShown, Verdict::NotShown, Verdict::NotShown]);
    insta::assert_snapshot!(all.map(|a| a.1).join("\n"));
    // and a bleed from which on the pressure stays below its bound ends the hold
    let readings = reads((0..100).map(|i| f64::from(i) * 60.0).map(|t| (t, if t < 3600.0 { 26.0e5 } else { 20.0e5 })));
    let events = [event(60.0, EventKind::PumpOff), event(1800.0, EventKind::Bleed), event(3590.0, EventKind::Bleed)];
    let kinds: Vec<_> = judge::segments::stretches(&events, &readings, GaugePressure::from_bar(25.8), Some(range(60.0, 3540.0)), &[])
        .iter()
        .map(|s| s.kind)
        .collect();
    assert_eq!(kinds.last(), Some(&judge::segments::StretchKind::Reduction), "lowered, not let out");
    assert!(!kinds.contains(&judge::segments::StretchKind::Release));
    let hold = |reduced: bool| {
        judge::segments::hold_of(
            &events,
            &readings,
            GaugePressure::from_bar(25.8),
            judge::segments::Brought::Not,
            reduced,
            Clock::default(),
        )
        .unwrap()
    };
    // the one in the hold starts it anew
    assert_eq!((hold(true), hold(false)), (range(1800.0, 3540.0), range(3590.0, 5940.0)));
}

#[test]
fn instruments_an_instrument_out_of_date_or_scale_shows_nothing() {
    let mut case = make(&QUIET);
    case.acceptance.instrument_objections = vec!["PG-1 was out of date on the day.".into()];
    assert_eq!(judge(&case).verdict, Verdict::NotShown);
    let mut case = make(&QUIET);
    case.gauge.full_scale_pa = GaugePressure::from_bar(25.0);
    assert_eq!(judge(&case).verdict, Verdict::NotShown);
}

/// Common practice: which place fails which claim.
#[test]
fn leak_class_each_place_class_fails_its_claims() {
    for (place, strength, tightness) in [
        (LeakPlace::TestFitting, false, false),
        (LeakPlace::MechanicalJoint, false, true),
        (LeakPlace::Weld, true, true),
        (LeakPlace::TubeEnd, true, true),
        (LeakPlace::RivetStayBolt, true, true),
        (LeakPlace::ParentMetal, true, true),
        (LeakPlace::GasketPrimary, false, true),
        (LeakPlace::GasketSecondary, false, false),
    ] {
        let mut case = make(&QUIET);
        case.events.push(seen(place));
        let v = judge(&case).verdicts;
        assert_eq!((v[0].verdict == Verdict::Fail, v[1].verdict == Verdict::Fail), (strength, tightness), "{place:?}");
    }
}

#[test]
fn a_claim_that_is_not_made_is_an_observation() {
    let mut case = make(&QUIET);
    case.acceptance.claim = Claim::Strength;
    case.events.push(seen(LeakPlace::MechanicalJoint));
    let j = judge(&case);
    assert_eq!(j.verdict, Verdict::Pass);
    assert!(
        !j.verdicts[1].claimed && j.verdicts[1].sentence.contains("not claimed; observed: Leak seen at: mechanical joint"),
        "{}",
        j.verdicts[1].sentence
    );
}

/// A thermometer on the skin tells less of the water than one in it.
#[test]
fn a_thermometer_on_the_skin_makes_a_wider_interval() {
    let width = |location| {
        let mut case = make(&Made { cooling_k: 0.5, ..QUIET });
        case.bodies[0].fluid_lag_s = Span::from_s(2300.0);
        case.thermometer.as_mut().unwrap().location = location;
        let l = judge(&case).found.leak.unwrap();
        l.hi_m3_per_s - l.lo_m3_per_s
    };
    assert!(width(ThermometerPlace::Skin) > width(ThermometerPlace::Water) * 1.5);
}

/// A gauge that reads to 0.01 bar, written down to a tenth: the sheet's rounding is not taken for the gauge's, and the sentence says so.
#[test]
fn readings_that_were_written_down_too_coarsely_count_as_read_so() {
    for seed in 1..6 {
        let fine = make(&Made { seed, ..QUIET });
        let mut coarse = fine.clone();
        for p in coarse.readings.iter_mut().filter_map(|r| r.pressure_pa.as_mut()) {
            *p = GaugePressure::from_bar((p.bar() * 10.0).round() / 10.0);
        }
        let (fine, coarse) = (judge(&fine), judge(&coarse));
        assert!(fine.found.written.is_empty(), "{:?}", fine.found.written);
        assert!(
            coarse.sentence.ends_with("PG-1 was written down to 0.1\u{a0}bar, though it reads to 0.01\u{a0}bar: it counts as read so."),
            "{}",
            coarse.sentence
        );
        let limit = |j: &judge::judgement::Judgement| j.found.leak.unwrap().detection_limit_m3_per_s;
        assert!(coarse.found.finding != Finding::LeakShown && limit(&coarse) > limit(&fine), "{seed}: {}", coarse.sentence);
    }
}

#[test]
fn record_read_a_frozen_gauge_is_named_and_a_person_can_let_it_stand() {
    let mut case = make(&Made { leak_l_per_h: 0.05, noise_bar: 0.008, every_s: 20.0, ..QUIET });
    let frozen = case.readings[120].pressure_pa;
    case.readings[120..240].iter_mut().for_each(|r| r.pressure_pa = frozen);
    let found = judge(&case).found;
    let stuck = found.defects.iter().find(|d| d.kind == judge::defect::DefectKind::Stuck).expect("stuck is found");
    assert_eq!(stuck.channel.as_deref(), Some("PG-1"));
    assert!((stuck.start_s.s() - 2400.0).abs() < 60.0 && (stuck.end_s.s() - 4780.0).abs() < 60.0, "{stuck:?}");
    case.overruled.push(Overruled {
        kind: stuck.kind,
        channel: stuck.channel.clone(),
        start_s: stuck.start_s,
        reason: "the second gauge read the same".into(),
        by: "test engineer".into(),
    });
    let stands = judge(&case).found;
    let noted = stands.defects.iter().find(|d| d.kind == judge::defect::DefectKind::Stuck).unwrap();
    assert_eq!(noted.overruled.as_deref(), Some("the second gauge read the same (test engineer)"));
    assert_ne!(stands.leak.unwrap().mean_m3_per_s, found.leak.unwrap().mean_m3_per_s, "the readings count again");
}

#[test]
fn the_origin_of_time_does_not_matter() {
    let case = make(&Made { leak_l_per_h: 0.03, ..QUIET });
    let mut later = case.clone();
    let shift = Span::from_s(1.0e6);
    later.readings.iter_mut().for_each(|r| r.t_s = r.t_s + shift);
    later.events.iter_mut().for_each(|e| e.t_s = e.t_s + shift);
    later.hold_start_s = later.hold_start_s + shift;
    later.hold_end_s = later.hold_end_s + shift;
    let (a, b) = (judge(&case), judge(&later));
    let rel = (a.found.leak.unwrap().mean_m3_per_s - b.found.leak.unwrap().mean_m3_per_s).abs() / a.found.leak.unwrap().mean_m3_per_s;
    assert!(rel < 1e-6 && a.sentence == b.sentence);
}

/// Pump off at 100 s while the gauge still settles to the band; the end is called, or the pressure is let out, or the readings end.
#[test]
fn the_hold_is_found_from_events_and_readings_together() {
    use judge::segments::{Brought, StretchKind, hold_of, moved, stretches};
    let level = |t: f64| match t {
        t if t < 100.0 => 26.0e5 * t / 100.0,
        t if t < 160.0 => 25.6e5,
        t if t < 3000.0 => 26.0e5,
        t => (26.0e5 - 1e5 * (t - 3000.0) / 10.0).max(0.0),
    };
    let readings = reads((0..360).map(|i| f64::from(i) * 10.0).map(|t| (t, level(t))));
    let e = [event(100.0, EventKind::PumpOff), event(400.0, EventKind::Repump), event(900.0, EventKind::HoldEnded)];
    let found = |e: &[Event]| hold_of(e, &readings, GaugePressure::from_bar(25.8), Brought::Not, false, Clock::default());
    // one start for every rule: a repump begins it anew, unless the project allows one
    assert_eq!(found(&e), Some(range(400.0, 900.0)));
    let once = Clock { one_repump: true, ..Clock::default() };
    let allowed = |e: &[Event]| hold_of(e, &readings, GaugePressure::from_bar(25.8), Brought::Not, false, once);
    assert_eq!(allowed(&e), Some(range(160.0, 900.0)));
    assert_eq!(allowed(&[e[0].clone(), e[1].clone(), event(600.0, EventKind::Repump), e[2].clone()]), Some(range(600.0, 900.0)));
    let measured = Event { volume_m3: Some(Volume::from_l(1.0)), ..e[1].clone() };
    let counted = Clock { counts_water: true, ..Clock::default() };
    assert_eq!(
        hold_of(&[e[0].clone(), measured], &readings, GaugePressure::from_bar(25.8), Brought::Not, false, counted),
        Some(range(160.0, 3590.0))
    );
    assert_eq!(found(&[e[0].clone(), event(3100.0, EventKind::Released)]), Some(range(160.0, 2980.0)));
    assert_eq!(found(&e[..1]), Some(range(160.0, 3590.0)));
    // where the basis lets it settle and be brought back once, the hold begins there
    assert_eq!(
        hold_of(&e, &readings, GaugePressure::from_bar(25.8), Brought::Back(Span::from_s(600.0)), false, Clock::default()),
        Some(range(400.0, 900.0))
    );
    assert_eq!(
        hold_of(
            &[e[0].clone(), event(2500.0, EventKind::Repump)],
            &readings,
            GaugePressure::from_bar(25.8),
            Brought::Back(Span::from_s(600.0)),
            false,
            Clock::default()
        ),
        Some(range(2500.0, 3590.0))
    );
    // and where it has it lowered, at the last bleed, whatever was pumped in before
    let lowered = |bleed: f64| {
        let e = [e[0].clone(), event(300.0, EventKind::Repump), event(bleed, EventKind::Bleed)];
        hold_of(&e, &readings, GaugePressure::from_bar(25.8), Brought::Lowered, false, Clock::default())
    };
    assert_eq!(lowered(500.0), Some(range(500.0, 3590.0)));
    assert_eq!(lowered(2500.0), Some(range(2500.0, 3590.0)));
    // or where the pump was taken off, where it was lowered before that
    assert_eq!(lowered(90.0), Some(range(100.0, 3590.0)));
    // while it waits for a quick fall nothing is held; once it is over, what there was
    let waits = |e: &[Event]| hold_of(e, &readings, GaugePressure::from_bar(25.8), Brought::LoweredAfterWait, false, Clock::default());
    assert_eq!(waits(&e[..1]), None);
    assert_eq!(waits(&[e[0].clone(), event(700.0, EventKind::Bleed)]), Some(range(700.0, 3590.0)));
    assert_eq!(waits(&[e[0].clone(), e[2].clone()]), Some(range(100.0, 900.0)));
    assert_eq!(found(&[]), None);
    assert_eq!(hold_of(&e, &[], GaugePressure::from_bar(25.8), Brought::Not, false, Clock::default()), None);
    let kinds: Vec<StretchKind> =
        stretches(&e[..1], &readings, GaugePressure::from_bar(25.8), Some(range(160.0, 3000.0)), &[]).iter().map(|s| s.kind).collect();
    assert_eq!(kinds, [StretchKind::Ramp, StretchKind::Stabilise, StretchKind::Hold, StretchKind::Release]);
    let by = MovedBoundary {
        boundary: Boundary::End,
        found_s: RunTime::from_s(900.0),
        moved_s: RunTime::from_s(800.0),
        reason: "the look began".into(),
        by: "inspector".into(),
    };
    assert_eq!(moved(range(160.0, 900.0), std::slice::from_ref(&by)), range(160.0, 800.0));
    assert_eq!(
        moved(range(160.0, 900.0), &[MovedBoundary { moved_s: RunTime::from_s(10.0), ..by }]),
        range(160.0, 900.0),
        "an end before the start is none"
    );
}

/// Water stands at 0.4 bar, is raised to half, stops, is raised to 24 bar, settles before the pump is off, is held, stays on for the look, is let out.
#[test]
fn a_run_in_steps_is_told_stretch_by_stretch() {
    use judge::case::{Boundary, MovedBoundary};
    use judge::segments::{StretchKind as S, raised_at, room_of, stretches};
    let corners = [
        (0.0, 0.4),
        (600.0, 0.4),
        (900.0, 12.0),
        (1500.0, 12.0),
        (1800.0, 24.0),
        (5400.0, 23.9),
        (6000.0, 23.9),
        (6300.0, 0.0),
        (6600.0, 0.0),
    ];
    let level = |t: f64| {
        let i = corners.iter().position(|c| c.0 > t).unwrap_or(corners.len() - 1);
        let ((a, p), (b, q)) = (corners[i - 1], corners[i]);
        1e5 * (p + (q - p) * (t - a) / (b - a))
    };
    let readings = reads((0..660).map(|i| f64::from(i) * 10.0).map(|t| (t, level(t))));
    let hold = Some(range(2100.0, 5400.0));
    let told = stretches(&[event(2100.0, EventKind::PumpOff)], &readings, GaugePressure::from_bar(23.5), hold, &[]);
    let kinds: Vec<S> = told.iter().map(|s| s.kind).collect();
    assert_eq!(kinds, [S::Fill, S::Ramp, S::IntermediateHold, S::Ramp, S::Stabilise, S::Hold, S::Reduction, S::Release]);
    // before it is raised on, half the pressure is a stop on the way, not the test pressure
    let so_far = stretches(&[], &readings[..140], GaugePressure::from_bar(23.5), None, &[]);
    assert_eq!(so_far.iter().map(|s| s.kind).collect::<Vec<S>>(), [S::Fill, S::Ramp, S::IntermediateHold]);
    // each begins where the one before ends, and within a piece of where it truly does
    assert!(told.windows(2).all(|w| w[0].end_s == w[1].start_s), "{told:?}");
    for (stretch, begins) in told.iter().zip([0.0, 600.0, 900.0, 1500.0, 1800.0, 2100.0, 5400.0, 6000.0]) {
        assert!((stretch.start_s.s() - begins).abs() <= 60.0, "{stretch:?} begins at {begins}");
    }
    // a person moves the end of the second raise: both neighbours go with it, what was found is kept
    let later = Span::from_s(40.0);
    let moved_to = |found_s: RunTime, moved_s: RunTime| {
        let by = MovedBoundary { boundary: Boundary::Between, found_s, moved_s, reason: "by the pump's log".into(), by: "engineer".into() };
        stretches(&[event(2100.0, EventKind::PumpOff)], &readings, GaugePressure::from_bar(23.5), hold, &[by])
    };
    let reached = told[4].start_s;
    let moved = moved_to(reached, reached + later);
    assert_eq!((moved[3].end_s, moved[4].start_s, moved[4].found_start_s), (reached + later, reached + later, Some(reached)));
    assert_eq!(raised_at(&moved, RunTime::from_s(2100.0)), Some(reached + later));
    assert_eq!(raised_at(&told, RunTime::from_s(2100.0)), None);
    assert_eq!(room_of(&told, hold, reached), Some(TimeRange { start: told[3].start_s, end: told[4].end_s }));
    // not past its neighbours, not the hold's ends, which are moved as such, and not where nothing begins
    assert_eq!(moved_to(reached, told[4].end_s + Span::from_s(1.0)), told);
    assert_eq!(room_of(&told, hold, told[5].start_s), None);
    assert_eq!(room_of(&told, hold, told[6].start_s), None);
    assert_eq!(room_of(&told, hold, reached + Span::from_s(17.0)), None);
}

#[test]
fn what_is_said_to_settle_by_a_time_has_settled_by_then() {
    let mut said = 0;
    for seed in 1..=12 {
        let asked = VolumeFlow::from_l_per_h(0.02);
        let whole = |hours: f64| {
            let mut case = make(&Made { hours, every_s: 30.0, seed, ..QUIET });
            case.acceptance.required_sensitivity_m3_per_s = Some(asked);
            case
        };
        let early = whole(0.25);
        let Some(by) = settles_at(&early, &judge(&early).found) else { continue };
        said += 1;
        assert!(by > early.hold_end_s);
        let by = by.s();
        let then = judge(&whole(by / 3600.0)).found.leak.unwrap();
        // an upper estimate: the noise of another hour may still be a little larger than that of the first quarter
        assert!(
            then.detection_limit_m3_per_s <= asked * 1.3,
            "seed {seed}: by {by:.0} s it can show {}",
            then.detection_limit_m3_per_s.l_per_h()
        );
        let later = whole(1.6 * by / 3600.0);
        assert_eq!(settles_at(&later, &judge(&later).found), None, "seed {seed}: settled, and still said to settle");
    }
    assert!(said >= 8, "only {said} of 12 early holds were told when they settle");
}

#[test]
fn where_nothing_was_asked_or_a_leak_is_shown_nothing_is_left_to_settle() {
    let mut open = make(&Made { hours: 0.25, ..QUIET });
    open.acceptance.required_sensitivity_m3_per_s = None;
    assert_eq!(settles_at(&open, &judge(&open).found), None);
    let leaking = make(&Made { leak_l_per_h: 0.5, hours: 0.5, ..QUIET });
    assert_eq!(judge(&leaking).found.finding, Finding::LeakShown);
    assert_eq!(settles_at(&leaking, &judge(&leaking).found), None);
}

/// Two mistyped readings far apart: what is between them still counts against the least pressure.
#[test]
fn what_lies_between_two_spikes_is_not_left_out() {
    let mut case = make(&QUIET);
    case.acceptance.lower_pa = GaugePressure::from_bar(25.2);
    let by = |case: &mut HoldCase, i: usize, bar: f64| {
        case.readings[i].pressure_pa = case.readings[i].pressure_pa.map(|p| p + PressureDifference::from_bar(bar))
    };
    by(&mut case, 10, 1.0);
    by(&mut case, 110, 1.0);
    assert_eq!(judge(&case).verdicts[0].verdict, Verdict::Pass);
    (55..=65).for_each(|i| by(&mut case, i, -1.0));
    let j = judge(&case);
    assert!(j.found.defects.iter().any(|d| d.kind == judge::defect::DefectKind::Spike), "{:?}", j.found.defects);
    assert!(j.verdicts[0].rules.iter().any(|r| r.rule == "HOLD-LEAST" && r.result == Verdict::Fail), "{}", j.verdicts[0].sentence);
}

/// A gauge that is read on while the pressure is let out does not shorten a hold that was ended before; a hold that was ended too late is.
#[test]
fn what_falls_after_the_end_that_was_called_is_no_part_of_the_hold() {
    use judge::segments::{Brought, hold_of};
    let e = [event(0.0, EventKind::PumpOff), event(900.0, EventKind::HoldEnded), event(1000.0, EventKind::Released)];
    let falls_from = |t: f64| reads((0..1000).map(f64::from).map(|s| (s, if s < t { 26e5 } else { (26e5 - 4e4 * (s - t)).max(0.0) })));
    let end = |t: f64| hold_of(&e, &falls_from(t), GaugePressure::from_bar(25.0), Brought::Not, false, Clock::default()).map(|h| h.end.s());
    assert_eq!(end(903.0), Some(900.0));
    assert!(end(800.0).is_some_and(|e| e <= 840.0), "{:?}", end(800.0));
}
