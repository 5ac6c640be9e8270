//! From a plan to what the judge knows of its hold before any reading.

use judge::HoldCase;
use judge::case::{Acceptance, CAREFUL_VENTING, CaseBody, HeatBefore, HoldGauge, Lowered, Thermometer, VOLUME_UNC_95_REL, WallCreep};
use pack::instrument::{Instrument, InstrumentKind};
use pack::plan::Plan;
use quantity::{Length, RunTime, Span, TemperatureDifference};
use rules::part::PartKind;
use rules::system::{Derived, System};
use terms::ThermometerPlace;

/// How well the volume of a dome that stays full is known, share of it (95 %; common practice).
const TRAPPED_UNC: f64 = 0.3;
/// Soak that a plan counts on (common practice).
const USUAL_SOAK: Span = Span::from_s(3600.0);
/// The water's temperature at filling is known so well where nobody read it (95 %; common practice).
const UNREAD_FILL: TemperatureDifference = TemperatureDifference::from_k(3.0);

/// Relative uncertainty of the stretch of a wall of no known material (95 %; common practice).
const UNNAMED_WALL: f64 = 0.06;
/// The same of a wall whose thickness nobody gave: the stretch of a steel cylinder of a hundred walls across, a tenth of it to nearly twice (common practice).
const ASSUMED_WALL: f64 = 0.9;

/// Bodies of fluid; none where nothing is known of them, or they are filled with another liquid than water.
fn bodies(plan: &Plan, system: &System) -> Vec<CaseBody> {
    if system.liquid.is_some() {
        return Vec::new();
    }
    let exposure = plan.surrounded_by();
    let gas = plan.basis.medium.gas().is_some();
    let material = |tag: &str| system.parts.iter().find(|p| p.tag == tag).and_then(|p| p.material.clone()).unwrap_or_default();
    let assumed = system.assumed_walls();
    let library = system.library().ok();
    let wall = |material: &str| library.as_ref().and_then(|l| l.wall(&l.material(material).ok()?.family));
    let each = system.shut_in().map(|s| s.segments).unwrap_or_default().into_iter().map(|segment| {
        let lags = exposure.lags(&segment, gas);
        let wall = wall(&material(&segment.name));
        let known = wall.map_or(UNNAMED_WALL, |w| w.stretch_unc_95_rel);
        CaseBody {
            wall_unc_95_rel: if assumed.contains(segment.name.as_str()) { ASSUMED_WALL } else { known },
            exposure,
            skin_lag_s: lags.skin,
            fluid_lag_s: lags.fluid,
            lag_factor_95: 2.5,
            creep: wall.and_then(|w| w.creep).filter(|_| !gas).map(|c| WallCreep { coefficient: c.coefficient, sd: c.sd }),
            segment,
        }
    });
    gathered(each.collect())
}

/// Most bodies that the fit is given.
const MOST_BODIES: usize = 4;

/// Bodies of like diameter and material are one: the fit needs no more than a few.
fn gathered(all: Vec<CaseBody>) -> Vec<CaseBody> {
    let mut out: Vec<CaseBody> = Vec::new();
    let near = |a: &CaseBody, b: &CaseBody, factor: f64| {
        let ratio = a.segment.outside_diameter_m.m() / b.segment.outside_diameter_m.m();
        ratio < factor && ratio > 1.0 / factor && a.segment.elastic == b.segment.elastic && a.creep == b.creep
    };
    for factor in [1.02, 1.4, f64::INFINITY] {
        let from = if out.is_empty() { all.clone() } else { std::mem::take(&mut out) };
        for body in from {
            match out.iter_mut().find(|b| near(b, &body, factor)) {
                Some(b) => {
                    // the larger gives the wall
                    let volume = b.segment.volume_m3 + body.segment.volume_m3;
                    if body.segment.volume_m3 > b.segment.volume_m3 {
                        *b = body;
                    }
                    b.segment.volume_m3 = volume;
                }
                None => out.push(body),
            }
        }
        if out.len() <= MOST_BODIES {
            break;
        }
    }
    out
}

/// An instrument as a gauge of the hold; none where something of it is not known.
pub fn gauge(i: &Instrument, elevation: Length) -> Option<HoldGauge> {
    Some(HoldGauge {
        tag: i.tag.clone(),
        elevation_m: elevation,
        division_pa: i.division_pa?,
        full_scale_pa: i.full_scale_pa?,
        error_of_scale: i.error_of_scale?,
        noise_pa: None,
        temperature_pa_per_k: 0.0,
        unit: i.unit,
    })
}

/// An instrument as a thermometer of the hold.
pub fn thermometer(i: &Instrument, place: ThermometerPlace) -> Option<Thermometer> {
    let kelvin = TemperatureDifference::from_k;
    Some(Thermometer {
        tag: i.tag.clone(),
        location: place,
        body: None,
        division_k: kelvin(i.division_k?),
        error_k: kelvin(i.error_k?),
        noise_k: None,
    })
}

/// Further gauges and thermometers, as planned and known.
pub fn further(plan: &Plan, store: &[Instrument]) -> (Vec<HoldGauge>, Vec<Thermometer>) {
    let of = |tag: &str, kind| store.iter().find(|i| i.tag == tag && i.kind == kind);
    let gauges = plan.also.iter().filter_map(|a| gauge(of(&a.tag, InstrumentKind::Gauge)?, a.elevation_m));
    let thermometers = plan.also.iter().filter_map(|a| thermometer(of(&a.tag, InstrumentKind::Thermometer)?, a.place));
    (gauges.collect(), thermometers.collect())
}

/// The case of a plan, without readings; none while no gauge is chosen.
pub fn planned(title: &str, plan: &Plan, system: &System, store: &[Instrument], derived: &Derived, hold: Span) -> Option<HoldCase> {
    let of = |tag: &str, kind| store.iter().find(|i| i.tag == tag && i.kind == kind);
    let main = gauge(of(&plan.gauge_tag, InstrumentKind::Gauge)?, plan.gauge_elevation_m)?;
    let (also_gauges, also_thermometers) = further(plan, store);
    let gas = plan.basis.medium.gas();
    // air that somebody said stays in, as a share of the whole
    let whole = derived.volume_m3.map_or(0.0, quantity::Volume::m3);
    let trapped = plan.site.trapped_air_m3.filter(|_| gas.is_none() && whole > 0.0).map_or(0.0, |v| v.m3() / whole);
    Some(HoldCase {
        clock_set: Vec::new(),
        told_in: None,
        format: judge::case::FORMAT,
        title: title.to_owned(),
        gas,
        bodies: bodies(plan, system),
        air_fraction: trapped,
        air_fraction_unc_95: CAREFUL_VENTING.max(TRAPPED_UNC * trapped),
        volume_unc_95_rel: VOLUME_UNC_95_REL,
        atmosphere_pa: quantity::STANDARD_ATMOSPHERE,
        expected_pa: derived.hold_begins_pa(),
        heat: HeatBefore {
            fill_c: plan.site.source_c.filter(|_| gas.is_none()).unwrap_or(plan.water_temperature_c),
            fill_unc_95_k: UNREAD_FILL,
            soak_s: USUAL_SOAK,
            surroundings_c: plan.site.surroundings_c,
            swing_k: plan.site.swing_k,
        },
        at_pressure_s: Span::ZERO,
        lowered: derived.lowering().map(|l| Lowered { by_pa: l.usual_pa, before_s: Span::ZERO }),
        let_out_before_s: None,
        gasketed_joints: u32::try_from(system.parts.iter().filter(|p| p.kind == PartKind::Flange).count()).unwrap_or(u32::MAX),
        gauge: main,
        also_gauges,
        thermometer: of(&plan.thermometer_tag, InstrumentKind::Thermometer).and_then(|i| thermometer(i, plan.thermometer_place)),
        also_thermometers,
        readings: Vec::new(),
        hold_start_s: RunTime::from_s(0.0),
        hold_end_s: RunTime::from_s(hold.s()),
        events: Vec::new(),
        overruled: Vec::new(),
        moved: Vec::new(),
        decided: None,
        stopped: false,
        acceptance: Acceptance {
            claim: plan.claim,
            lower_pa: derived.lower_pa,
            upper_pa: derived.upper_pa,
            look_pa: derived.looks_at_pa(),
            hold_floor_s: hold,
            required_sensitivity_m3_per_s: plan.required_sensitivity_m3_per_s,
            one_repump: system.specification.answer("repump").key == "once",
            pump_stays: system.specification.answer("pump_in_hold").key == "isolated",
            loss_fails_strength: system.specification.answer("tightness_in_strength").key == "fails",
            instrument_objections: Vec::new(),
            criteria: derived.criteria.clone(),
        },
    })
}
