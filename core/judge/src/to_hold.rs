//! From the case to what the fit reads.

use crate::case::{HoldCase, HoldGauge, Reading, Thermometer};
use crate::written;
use hold::{Body, Creep, Fluid, Gauge, Hold, Place, Record, Step};
use quantity::show::{AtGauge, Toward};
use quantity::{GaugePressure, PressureDifference, PressureUnit, Span};
use terms::{EventKind, ThermometerPlace};

/// A repump or bleed is booked when it is done, or while it goes on: readings from this long before the booking … (common practice) …
const STEP_BEFORE: Span = Span::from_s(120.0);
/// … to this long after it are no part of the hold.
const STEP_AFTER: Span = Span::from_s(60.0);
/// Correlated noise and rounding aside, a reading wanders by at least this share of the division.
const LEAST_NOISE: f64 = 0.1;

/// A case as the fit reads it.
#[derive(Debug, Clone)]
pub(crate) struct Fittable {
    /// What is known.
    pub(crate) hold: Hold,
    /// The readings of the hold, time from its start.
    pub(crate) record: Record,
    /// Tag of each channel.
    pub(crate) tags: Vec<String>,
    /// Which instruments were written down to fewer digits than they read, in sentences.
    pub(crate) written: Vec<String>,
    /// Defects that a person lets stand.
    pub(crate) overruled: Vec<hold::reading::Defect>,
}

/// A series of one channel over the hold.
fn channel(rows: &[&Reading], of: impl Fn(&Reading) -> Option<f64>) -> Vec<f64> {
    rows.iter().map(|r| of(r).unwrap_or(f64::NAN)).collect()
}

/// Standard deviation of one reading's noise: from the differences of neighbouring readings, the largest tenth left out.
fn noise(series: &[f64], division: f64) -> f64 {
    let read: Vec<f64> = series.iter().copied().filter(|v| !v.is_nan()).collect();
    let mut squares: Vec<f64> = read.windows(2).map(|w| (w[1] - w[0]).powi(2)).collect();
    let floor = LEAST_NOISE * division;
    if squares.len() < 20 {
        return division.max(floor) / 3.0;
    }
    squares.sort_by(f64::total_cmp);
    squares.truncate(squares.len() * 9 / 10);
    // the mean of the lower nine tenths of squares is 0.62 of all
    let variance = squares.iter().sum::<f64>() / squares.len() as f64 / 0.62 / 2.0 - division * division / 12.0;
    variance.max(floor * floor).sqrt()
}

/// A gauge with the division that its readings were written down to, and that in a sentence where it is coarser than its own.
fn as_written(g: &HoldGauge, series: &[f64], told: PressureUnit) -> (HoldGauge, Option<String>) {
    let unit = g.unit;
    let in_unit = series.iter().map(|p| p / unit.pa());
    let Some(step) = written::step(in_unit, g.division_pa.pa() / unit.pa()) else { return (g.clone(), None) };
    let division_pa = PressureDifference::from_pa(step * unit.pa());
    let said =
        |d: PressureDifference| AtGauge { dial: unit, division: d, unit: told }.text(GaugePressure::from_pa(d.pa()), Toward::Nearest);
    let sentence =
        format!("{} was written down to {}, though it reads to {}: it counts as read so.", g.tag, said(division_pa), said(g.division_pa));
    (HoldGauge { division_pa, ..g.clone() }, Some(sentence))
}

/// Which instruments were written down to fewer digits than they read, in sentences.
pub(crate) fn written_down(case: &HoldCase) -> Vec<String> {
    fittable(case).written
}

fn gauge(g: &HoldGauge, main: &HoldGauge, series: &[f64]) -> Gauge {
    Gauge {
        tag: g.tag.clone(),
        elevation_m: (g.elevation_m - main.elevation_m).m(),
        range_pa: g.full_scale_pa.pa(),
        resolution_pa: g.division_pa.pa(),
        offset_95_pa: g.error_of_scale * g.full_scale_pa.pa(),
        span_95: g.error_of_scale,
        white_sd_pa: g.noise_pa.map_or_else(|| noise(series, g.division_pa.pa()), |n| n.pa()),
        temperature_95_pa_per_k: g.temperature_pa_per_k,
    }
}

fn thermometer(t: &Thermometer, case: &HoldCase, series: &[f64]) -> hold::Thermometer {
    let volume = |i: usize| case.bodies[i].segment.volume_m3.m3();
    let largest = (0..case.bodies.len()).max_by(|a, b| volume(*a).total_cmp(&volume(*b))).unwrap_or(0);
    let body = t.body.as_ref().and_then(|name| case.bodies.iter().position(|b| b.segment.name == *name)).unwrap_or(largest);
    hold::Thermometer {
        tag: t.tag.clone(),
        place: match t.location {
            ThermometerPlace::Water => Place::Fluid(body),
            ThermometerPlace::Skin => Place::Skin(body),
            ThermometerPlace::Ambient => Place::Ambient,
        },
        resolution_k: t.division_k.k(),
        offset_95_k: t.error_k.k(),
        noise_sd_k: t.noise_k.map_or_else(|| noise(series, t.division_k.k()), |n| n.k()),
    }
}

/// The middle time between pressure readings, s.
fn interval(times: &[f64], pressures: &[f64], length: f64) -> f64 {
    let read: Vec<f64> = times.iter().zip(pressures).filter(|(_, p)| !p.is_nan()).map(|(t, _)| *t).collect();
    let mut steps: Vec<f64> = read.windows(2).map(|w| w[1] - w[0]).filter(|s| *s > 0.0).collect();
    if steps.is_empty() {
        return (length / 60.0).max(1.0);
    }
    let middle = steps.len() / 2;
    *steps.select_nth_unstable_by(middle, f64::total_cmp).1
}

fn body(b: &crate::case::CaseBody) -> Body {
    let s = &b.segment;
    Body {
        name: s.name.clone(),
        volume_m3: s.volume_m3.m3(),
        wall_compliance_per_pa: s.elastic.bore_compliance_per_pa(s.outside_diameter_m, s.wall_m, s.restraint),
        wall_compliance_unc_95: b.wall_unc_95_rel,
        wall_expansion_per_k: s.elastic.bore_expansion_per_k(s.restraint),
        exposure: b.exposure,
        skin_lag_s: b.skin_lag_s.s(),
        fluid_lag_s: b.fluid_lag_s.s(),
        lag_factor_95: b.lag_factor_95,
        creep: b.creep.map(|c| Creep { coefficient: c.coefficient, sd: c.sd }),
    }
}

/// Repumps and bleeds that were booked, on the hold's clock.
fn steps(case: &HoldCase) -> Vec<Step> {
    case.events
        .iter()
        .filter(|e| matches!(e.kind, EventKind::Repump | EventKind::Bleed) && e.t_s > case.hold_start_s && e.t_s <= case.hold_end_s)
        .map(|e| {
            let sign = if e.kind == EventKind::Repump { -1.0 } else { 1.0 };
            let at = e.t_s - case.hold_start_s;
            let volume = e.volume_m3.map(|v| (sign * v.m3(), 0.05 * v.m3()));
            Step { start_s: (at - STEP_BEFORE).s().max(0.0), end_s: (at + STEP_AFTER).s(), volume }
        })
        .collect()
}

/// The case for the fit.
pub(crate) fn fittable(case: &HoldCase) -> Fittable {
    let rows: Vec<&Reading> = case.readings.iter().filter(|r| case.hold().contains(r.t_s)).collect();
    let gauges: Vec<&HoldGauge> = std::iter::once(&case.gauge).chain(&case.also_gauges).collect();
    let thermometers: Vec<&Thermometer> = case.thermometer.iter().chain(&case.also_thermometers).collect();
    let also = |i: usize| move |r: &Reading| r.also.get(i).copied().flatten();
    let mut channels = vec![channel(&rows, |r| r.pressure_pa.map(|p| p.pa()))];
    channels.extend((0..case.also_gauges.len()).map(|i| channel(&rows, also(i))));
    let mut kept = Vec::new();
    for (i, t) in thermometers.iter().enumerate() {
        let main = usize::from(case.thermometer.is_some());
        let series = match i.checked_sub(main) {
            None => channel(&rows, |r| r.temperature_c.map(|t| t.c())),
            Some(j) => channel(&rows, also(case.also_gauges.len() + j)),
        };
        // one that read nothing is none, but before the test it is one
        if rows.is_empty() || series.iter().any(|v| !v.is_nan()) {
            kept.push(thermometer(t, case, &series));
            channels.push(series);
        }
    }
    let time_s: Vec<f64> = rows.iter().map(|r| (r.t_s - case.hold_start_s).s()).collect();
    let length = case.hold().length().s().max(1.0);
    let tags: Vec<String> = gauges.iter().map(|g| g.tag.clone()).chain(kept.iter().map(|t| t.tag.clone())).collect();
    let overruled = case
        .overruled
        .iter()
        .map(|o| hold::reading::Defect {
            kind: o.kind,
            channel: o.channel.as_ref().and_then(|c| tags.iter().position(|t| t == c)),
            start_s: (o.start_s - case.hold_start_s).s(),
            end_s: f64::NAN,
            jump_s: None,
            rows: Vec::new(),
        })
        .collect();
    let read: Vec<(HoldGauge, Option<String>)> =
        gauges.iter().zip(&channels).map(|(g, series)| as_written(g, series, case.units().pressure)).collect();
    let hold = Hold {
        fluid: case.gas.map_or(Fluid::Water, Fluid::Gas),
        bodies: case.bodies.iter().map(body).collect(),
        volume_unc_95: case.volume_unc_95_rel,
        atmosphere_pa: case.atmosphere_pa.pa(),
        pressure_pa: case.expected_pa.pa(),
        air_fraction: if case.gas.is_some() { 0.0 } else { case.air_fraction },
        air_fraction_unc_95: case.air_fraction_unc_95,
        fill_temperature_c: case.heat.fill_c.c(),
        fill_temperature_sd_k: 0.5 * case.heat.fill_unc_95_k.k(),
        soak_s: case.heat.soak_s.s().max(0.0),
        at_pressure_s: case.at_pressure_s.s().max(60.0),
        lowered: case.lowered.map(|l| hold::input::Lowered { by_pa: l.by_pa.pa(), before_s: l.before_s.s() }),
        gasketed_joints: case.gasketed_joints,
        gauges: read.iter().zip(&channels).map(|((g, _), series)| gauge(g, &case.gauge, series)).collect(),
        thermometers: kept,
        length_s: length,
        interval_s: interval(&time_s, &channels[0], length),
        surroundings_c: case.heat.surroundings_c.map(|t| t.c()),
        swing_k: case.heat.swing_k.map(|s| s.k()),
        steps: steps(case),
    };
    let counted = rows.iter().map(|r| r.sample_no.map(|n| n as f64)).collect::<Option<Vec<f64>>>().filter(|s| !s.is_empty());
    let written = read.into_iter().filter_map(|r| r.1).collect();
    Fittable { record: Record { sample_no: counted, time_s, channels }, hold, tags, written, overruled }
}
