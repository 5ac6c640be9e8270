//! A thousand simulated pumping curves: does the interval of the air fraction cover, is a part that gives way announced.

mod pumped;

use physics::elastic::{Elastic, Restraint};
use physics::system::{Segment, ShutIn};
use pumped::{Noise, Raise};
use quantity::{GaugePressure, Length, PressureDifference, Stress, Temperature, Volume};
use watch::giving_way::{PointNoise, giving_way};
use watch::pumping::{CurveSays, Pumped, PumpingPoint, air, says, theory};
use watch::rejoined::{Rejoined, rejoined};

const STEEL: Elastic = Elastic { youngs_modulus_pa: Stress::from_mpa(200_000.0), poisson_ratio: 0.3, linear_expansion_per_k: 1.17e-5 };

fn system(volume: f64) -> ShutIn {
    ShutIn::without_air(vec![Segment {
        name: "line".to_owned(),
        outside_diameter_m: Length::from_mm(219.1),
        wall_m: Length::from_mm(8.18),
        volume_m3: Volume::from_m3(volume),
        elastic: STEEL,
        restraint: Restraint::Free,
    }])
}

/// A raise drawn at random with what the crew believes of it.
fn draw(noise: &mut Noise, air_to: f64) -> (Raise, Pumped) {
    let believed = noise.between(0.2, 8.0);
    let top = noise.between(15.0, 90.0) * 1e5;
    let full_scale = top * noise.between(1.5, 2.0);
    let division = full_scale / if noise.uniform() < 0.5 { 1000.0 } else { 4000.0 };
    let zero_95 = 0.0025 * full_scale;
    let true_volume = believed * (1.0 + 0.05 / 1.96 * noise.normal());
    let wall = system(1.0).wall_compliance_per_pa() * (1.0 + 0.05 * noise.normal());
    let share = noise.between(0.0, air_to);
    // a pump that brings the system up in 60 to 200 strokes
    let total = true_volume * (top * (4.67e-10 + wall) + share);
    let stroke = total / noise.between(60.0, 200.0);
    let repeatability = 0.5 * division;
    let raise = Raise {
        volume: true_volume,
        air: share,
        wall,
        stroke,
        rate: noise.between(0.15, 0.5),
        top,
        division,
        noise: repeatability,
        zero: zero_95 / 1.96 * noise.normal(),
        yields_at: None,
    };
    let pumped = Pumped {
        system: system(believed),
        temperature: Temperature::from_c(15.0),
        head_to_air: PressureDifference::from_pa(0.0),
        stroke: Volume::from_m3(stroke * (1.0 + 0.01 / 1.96 * noise.normal())),
        stroke_unc_95_rel: 0.01,
        volume_unc_95_rel: 0.05,
        division: PressureDifference::from_pa(division),
        repeatability: PressureDifference::from_pa(repeatability),
        zero_error_95: PressureDifference::from_pa(zero_95),
        limit: 0.002,
    };
    (raise, pumped)
}

/// Points as the crew counts them: strokes times the stroke that they believe.
fn counted(raise: &Raise, pumped: &Pumped, noise: &mut Noise) -> Vec<PumpingPoint> {
    raise
        .points(noise)
        .iter()
        .map(|(v, p, _)| PumpingPoint { volume_m3: pumped.stroke * (v / raise.stroke), pressure_pa: GaugePressure::from_pa(*p) })
        .collect()
}

#[test]
fn the_generators_water_is_that_of_the_published_rows() {
    for (p, rho, _) in pumped::WATER.iter().filter(|r| r.0 <= 210e5) {
        assert!((pumped::density(*p) / rho - 1.0).abs() < 2e-6, "{p} Pa: {} against {rho}", pumped::density(*p));
    }
    // and theory draws the same curve where nothing is uncertain
    let raise = Raise {
        volume: 2.0,
        air: 0.004,
        wall: system(2.0).wall_compliance_per_pa(),
        stroke: 1e-4,
        rate: 1.0,
        top: 60e5,
        division: 1.0,
        noise: 0.0,
        zero: 0.0,
        yields_at: None,
    };
    let p = Pumped { limit: 0.002, ..draw(&mut Noise(7), 0.0).1 };
    let p = Pumped { system: system(2.0), ..p };
    let at: Vec<GaugePressure> = [2.0, 10.0, 30.0, 60.0].map(GaugePressure::from_bar).to_vec();
    for q in theory(&p, 0.004, GaugePressure::from_pa(0.0), &at) {
        let own = raise.volume_in(q.pressure_pa.pa());
        assert!((q.volume_m3.m3() / own - 1.0).abs() < 0.006, "{:?}: {} against {own}", q.pressure_pa, q.volume_m3.m3());
    }
}

#[test]
fn the_interval_of_the_air_holds_the_truth_in_95_of_100() {
    let mut noise = Noise(0x5eed_0a1f_0000_0001);
    let (mut inside, mut all, mut determinable, mut wide) = (0, 0, 0, 0.0);
    for _ in 0..1000 {
        let (raise, pumped) = draw(&mut noise, 0.02);
        let found = air(&pumped, &counted(&raise, &pumped, &mut noise), &[]).unwrap();
        all += 1;
        inside += usize::from((found.lo_95..=found.hi_95).contains(&raise.air));
        determinable += usize::from(found.determinable);
        wide += (found.hi_95 - found.lo_95) / 2.0;
    }
    let share = f64::from(u32::try_from(inside).unwrap()) / f64::from(all);
    println!("inside {share:.3}, determinable {determinable} of {all}, mean half-width {:.5}", wide / f64::from(all));
    assert!((0.93..=0.97).contains(&share), "the truth lies in the interval in {share:.3}");
    assert!(determinable > all as usize / 2, "only {determinable} of {all} are determinable");
}

/// A crew that overshoots, lets water out and pumps up again, once or twice: as counted the curve would tell of a system that is far too soft.
#[test]
fn what_was_let_out_is_not_counted_and_the_interval_still_holds_the_truth() {
    let mut noise = Noise(0x0f10_0d1e_0000_0009);
    let (mut inside, mut soft, mut soft_as_counted, runs) = (0, 0, 0, 500);
    for _ in 0..runs {
        let (raise, pumped) = draw(&mut noise, 0.004);
        let once = counted(&raise, &pumped, &mut noise);
        // back to between a quarter and nine tenths of the way, and up again from there
        let mut all = once.clone();
        for _ in 0..=usize::from(noise.uniform() < 0.5) {
            let back = (once.len() as f64 * noise.between(0.25, 0.9)) as usize;
            let ahead = all.last().unwrap().volume_m3 + pumped.stroke - once[back].volume_m3;
            all.extend(counted(&raise, &pumped, &mut noise)[back..].iter().map(|q| PumpingPoint { volume_m3: q.volume_m3 + ahead, ..*q }));
        }
        let Rejoined { points, branches, let_down } = rejoined(&all, pumped.division);
        assert_eq!((points.len(), let_down), (all.len(), branches.len()));
        let found = air(&pumped, &points, &branches).unwrap();
        inside += usize::from((found.lo_95..=found.hi_95).contains(&raise.air));
        soft += usize::from(says(&pumped, &found).0 == CurveSays::Softer);
        soft_as_counted += usize::from(air(&pumped, &all, &[]).is_ok_and(|f| f.stiffness_ratio > 1.15));
    }
    println!("inside {inside}, softer {soft}, softer as counted {soft_as_counted} of {runs}");
    assert!(inside >= runs * 93 / 100, "the truth lies in the interval in {inside} of {runs}");
    assert!(soft <= runs / 50 && soft_as_counted > runs / 4, "softer: {soft}; as counted: {soft_as_counted}");
}

#[test]
fn one_low_reading_is_no_bleed_and_a_raise_from_nothing_begins_anew() {
    let point =
        |strokes: f64, bar: f64| PumpingPoint { volume_m3: Volume::from_m3(1e-4 * strokes), pressure_pa: GaugePressure::from_bar(bar) };
    let division = PressureDifference::from_pa(5e3);
    let raise: Vec<_> = (0..20).map(|i| point(f64::from(i), 1.0 + f64::from(i))).collect();
    assert_eq!(rejoined(&raise, division), Rejoined { points: raise.clone(), ..Rejoined::default() });
    let mut glitch = raise.clone();
    glitch[10].pressure_pa = GaugePressure::from_bar(0.0);
    assert_eq!(rejoined(&glitch, division).points, glitch);
    // let out to nothing, vented, and filled again
    let again: Vec<_> = (0..20).map(|i| point(30.0 + f64::from(i), 0.6 + f64::from(i))).collect();
    let found = rejoined(&[raise, again.clone()].concat(), division);
    assert_eq!((found.points.len(), found.let_down), (20, 1));
    assert!(found.points.iter().zip(&again).all(|(a, b)| a.pressure_pa == b.pressure_pa));
    assert!((found.points[19].volume_m3.m3() - 19e-4).abs() < 1e-12);
}

#[test]
fn what_gives_way_is_announced_within_three_strokes_and_nothing_else() {
    let mut noise = Noise(0x0bad_cafe_0000_0003);
    let (mut announced, mut collapsed, mut false_alarms) = (0, 0, 0);
    let runs = 1000;
    for i in 0..runs {
        let (mut raise, pumped) = draw(&mut noise, 0.002);
        let known = PointNoise {
            pressure: PressureDifference::from_pa((raise.division.powi(2) / 12.0 + raise.noise.powi(2)).sqrt()),
            volume: Volume::from_m3(raise.stroke * raise.rate.min(1.0) / 12f64.sqrt()),
        };
        let sound = counted(&raise, &pumped, &mut noise);
        false_alarms += usize::from((1..=sound.len()).any(|n| giving_way(&sound[..n], known).is_some()));
        // twice the elastic volume, or no rise at all, from a place in the upper half
        let collapse = i % 2 == 0;
        raise.yields_at = Some((raise.top * noise.between(0.5, 0.8), if collapse { 400.0 } else { 2.0 }));
        let onset = raise.volume_in(raise.yields_at.unwrap().0);
        raise.top *= 2.0;
        let trace: Vec<_> = raise.points(&mut noise).into_iter().take(500).collect();
        let points: Vec<PumpingPoint> = trace
            .iter()
            .map(|(v, p, _)| PumpingPoint { volume_m3: Volume::from_m3(*v), pressure_pa: GaugePressure::from_pa(*p) })
            .collect();
        // the point at which three whole strokes have gone in since
        let due = trace.iter().position(|(_, _, v)| *v >= onset + 3.0 * raise.stroke).unwrap();
        let before = trace.iter().position(|(_, _, v)| *v >= onset).unwrap();
        let heard = (before..=due + 1).filter_map(|n| giving_way(&points[..=n.min(points.len() - 1)], known)).next();
        *if collapse { &mut collapsed } else { &mut announced } += usize::from(heard.is_some());
    }
    println!("yielding {announced} and collapse {collapsed} of {} each, false alarms {false_alarms} of {runs}", runs / 2);
    assert!(announced * 100 >= runs / 2 * 99, "yielding announced in {announced} of {}", runs / 2);
    assert!(collapsed * 100 >= runs / 2 * 99, "collapse announced in {collapsed} of {}", runs / 2);
    assert!(false_alarms * 100 < runs, "{false_alarms} false alarms in {runs}");
}

#[test]
fn late_readings_do_not_tell_the_air() {
    let mut noise = Noise(11);
    let (raise, pumped) = draw(&mut noise, 0.002);
    let late: Vec<PumpingPoint> = counted(&raise, &pumped, &mut noise).into_iter().filter(|q| q.pressure_pa.bar() > 14.0).collect();
    let found = air(&pumped, &late, &[]).unwrap();
    assert!(!found.determinable, "{found:?}");
    assert_eq!(says(&pumped, &found).0, CurveSays::NotDeterminable);
}

#[test]
fn ignoring_the_head_overstates_the_air_as_the_trade_knows() {
    // 17 m of head ignored: 0.2 % looks like about 0.66 % (from memory of the trade); the sign and the size of the mistake are what is tested
    let raise = Raise {
        volume: 2.0,
        air: 0.002,
        wall: system(2.0).wall_compliance_per_pa(),
        stroke: 2e-5,
        rate: 0.3,
        top: 26e5,
        division: 100.0,
        noise: 100.0,
        zero: 0.0,
        yields_at: None,
    };
    let mut noise = Noise(5);
    let (_, base) = draw(&mut noise, 0.0);
    let base = Pumped {
        system: system(2.0),
        stroke: Volume::from_m3(2e-5),
        division: PressureDifference::from_pa(100.0),
        repeatability: PressureDifference::from_pa(100.0),
        zero_error_95: PressureDifference::from_pa(500.0),
        ..base
    };
    let column = 1.67e5;
    // the gauge stands 17 m below the air: it reads the pressure at the air and the column
    let at_gauge: Vec<PumpingPoint> = raise
        .points(&mut noise)
        .iter()
        .map(|(v, p, _)| PumpingPoint { volume_m3: Volume::from_m3(*v), pressure_pa: GaugePressure::from_pa(p + column) })
        .collect();
    let with = air(&Pumped { head_to_air: PressureDifference::from_pa(-column), ..base.clone() }, &at_gauge, &[]).unwrap();
    let without = air(&base, &at_gauge, &[]).unwrap();
    assert!((with.fraction - 0.002).abs() < 2e-4, "{with:?}");
    assert!(without.fraction > 2.5 * with.fraction, "{without:?}");
}

#[test]
fn half_a_line_shut_off_is_said() {
    let mut noise = Noise(23);
    let (raise, mut pumped) = draw(&mut noise, 0.001);
    pumped.system = system(raise.volume * 2.0);
    let found = air(&pumped, &counted(&raise, &pumped, &mut noise), &[]).unwrap();
    let (word, sentence) = says(&pumped, &found);
    assert_eq!(word, CurveSays::NotAllFilled, "{sentence}");
    assert!(sentence.contains("shut off"));
}
