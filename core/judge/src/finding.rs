//! The finding: statistics only.

use crate::balance::Balance;
use crate::case::{HoldCase, Location, Thermometer};
use quantity::{AbsolutePressure, GaugePressure, Temperature};
use rules::rule::{Rule, Standing};
use serde::{Deserialize, Serialize};
use stats::line::with_correlated_noise;
use stats::quantile::{normal, student};

/// Rules of the finding.
pub const RULES: &[&Rule] = &[&FINDING, &ENOUGH_READINGS, &TEMPERATURE_NEEDED, &NEGATIVE_LEAK];

/// How a finding is reached.
pub const FINDING: Rule = Rule {
    id: "FINDING",
    sentence: "A leak is shown when its 95 % interval excludes zero; otherwise the hold is tight to the one-sided 99.9 % upper limit of the leak.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "a_leak_put_in_is_found_within_its_interval",
};

/// Enough readings.
pub const ENOUGH_READINGS: Rule = Rule {
    id: "HOLD-READINGS",
    sentence: "A hold needs at least 10 pressure readings; with fewer nothing is shown.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "too_few_readings_show_nothing",
};

/// Temperature.
pub const TEMPERATURE_NEEDED: Rule = Rule {
    id: "HOLD-TEMPERATURE",
    sentence: "Without a temperature of its own over the hold, a fall cannot be told from cooling and nothing is shown.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "without_temperature_nothing_is_shown",
};

/// Negative leak.
pub const NEGATIVE_LEAK: Rule = Rule {
    id: "NEGATIVE-LEAK",
    sentence: "A clearly negative leak means that the model is wrong (heat, a stuck gauge, an unbooked pump): not shown, never pass.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "a_negative_leak_is_never_a_pass",
};

/// Least number of pressure readings.
pub const LEAST_READINGS: usize = 10;

/// What was found.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Finding {
    /// the 95 % interval of the leak excludes zero
    LeakShown,
    /// tight to the upper limit
    TightTo,
    /// the record supports neither
    NotShown,
}

/// A figure with its half-width at 95 %.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Band {
    /// The figure.
    pub value: f64,
    /// Half-width at 95 %.
    pub half_width_95: f64,
}

/// Estimate of the leak; signed, never clipped.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Leak {
    /// Mean loss over the hold, m³/s at line conditions.
    pub mean_m3_per_s: f64,
    /// Lower end of the 95 % interval, m³/s.
    pub lo_m3_per_s: f64,
    /// Upper end of the 95 % interval, m³/s.
    pub hi_m3_per_s: f64,
    /// One-sided 99.9 % upper limit, m³/s.
    pub upper_999_m3_per_s: f64,
    /// Least leak that this record could have shown, m³/s: 3.29 standard deviations with no leak.
    pub detection_limit_m3_per_s: f64,
    /// Diameter of the sharp-edged hole that would lose the mean, m; nil for a negative mean.
    pub equivalent_hole_m: f64,
}

/// One point of the chart.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ChartPoint {
    /// Time, s.
    pub t_s: f64,
    /// What temperature alone would do, Pa gauge.
    pub without_loss_pa: f64,
    /// Half-width of that at 95 %, Pa.
    pub half_width_95_pa: f64,
}

/// Everything that statistics say about a hold.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Found {
    /// The finding.
    pub finding: Finding,
    /// Why it is not shown, in sentences; empty otherwise.
    pub reasons: Vec<String>,
    /// First pressure of the hold, Pa gauge.
    pub start_pa: Option<f64>,
    /// Last pressure of the hold, Pa gauge.
    pub end_pa: Option<f64>,
    /// Change of the water's temperature over the hold, K.
    pub temperature_change_k: Option<f64>,
    /// Fall that temperature explains, Pa.
    pub explained_pa: Option<Band>,
    /// Fall that is left, Pa.
    pub left_pa: Option<Band>,
    /// The leak.
    pub leak: Option<Leak>,
    /// Standard deviation of the noise about the fit, as pressure, Pa.
    pub noise_pa: Option<f64>,
    /// Correlation of the noise between neighbouring readings.
    pub noise_correlation: Option<f64>,
    /// What temperature alone would do, over the hold (at most 400 points).
    pub chart: Vec<ChartPoint>,
}

impl Found {
    fn not_shown(start: Option<f64>, end: Option<f64>, reason: String) -> Self {
        Self {
            finding: Finding::NotShown,
            reasons: vec![reason],
            start_pa: start,
            end_pa: end,
            temperature_change_k: None,
            explained_pa: None,
            left_pa: None,
            leak: None,
            noise_pa: None,
            noise_correlation: None,
            chart: Vec::new(),
        }
    }
}

/// Series of the hold, ready for the balance.
struct Series {
    t: Vec<f64>,
    p: Vec<AbsolutePressure>,
}

/// The finding for a case.
pub fn find(case: &HoldCase) -> Found {
    let inside = |t: f64| t >= case.hold_start_s && t <= case.hold_end_s;
    let pressures: Vec<(f64, GaugePressure)> =
        case.readings.iter().filter(|r| inside(r.t_s)).filter_map(|r| Some((r.t_s, r.pressure_pa?))).collect();
    let pressures = one_per_instant(pressures);
    let ends = (pressures.first().map(|p| p.1.pa()), pressures.last().map(|p| p.1.pa()));
    if pressures.len() < LEAST_READINGS {
        let reason = format!(
            "The hold has {} pressure readings, the judgement needs {LEAST_READINGS}: lengthen the hold or read more often.",
            pressures.len()
        );
        return Found::not_shown(ends.0, ends.1, reason);
    }
    let series =
        Series { t: pressures.iter().map(|p| p.0).collect(), p: pressures.iter().map(|p| p.1.absolute(case.atmosphere_pa)).collect() };
    if case.segments.is_empty() {
        return Found::not_shown(
            ends.0,
            ends.1,
            "No volume, wall and material are given, so a fall cannot be turned into a leak: give them for at least one part.".to_owned(),
        );
    }
    let read = case.readings.iter().any(|r| inside(r.t_s) && r.temperature_c.is_some());
    let Some(thermometer) = case.thermometer.as_ref().filter(|_| read) else {
        return Found::not_shown(
            ends.0,
            ends.1,
            "No temperature was recorded, so the fall cannot be told from cooling: read water or metal temperature over the hold."
                .to_owned(),
        );
    };
    let Some(water) = water_temperatures(case, thermometer, thermometer.water_lag_s, &series.t) else {
        return Found::not_shown(ends.0, ends.1, "Temperature was read over less than four fifths of the hold, so the fall cannot be told from cooling: read it from start to end.".to_owned());
    };
    match estimate(case, thermometer, &series, &water) {
        Ok(found) => found,
        Err(reason) => Found::not_shown(ends.0, ends.1, reason),
    }
}

/// Two pressure readings at one instant are averaged, so that time rises.
fn one_per_instant(readings: Vec<(f64, GaugePressure)>) -> Vec<(f64, GaugePressure)> {
    let mut out: Vec<(f64, f64, f64)> = Vec::with_capacity(readings.len());
    for (t, p) in readings {
        match out.last_mut() {
            Some(last) if last.0 == t => {
                last.1 += p.pa();
                last.2 += 1.0;
            }
            _ => out.push((t, p.pa(), 1.0)),
        }
    }
    out.into_iter().map(|(t, sum, n)| (t, GaugePressure::from_pa(sum / n))).collect()
}

/// Temperature of the water at each time: the readings, interpolated, through a first-order lag. None when they cover
/// less than four fifths of the hold.
fn water_temperatures(case: &HoldCase, thermometer: &Thermometer, lag_s: f64, at: &[f64]) -> Option<Vec<f64>> {
    let read: Vec<(f64, f64)> = case.readings.iter().filter_map(|r| Some((r.t_s, r.temperature_c?.c()))).collect();
    let within: Vec<f64> = read.iter().map(|r| r.0).filter(|t| *t >= case.hold_start_s && *t <= case.hold_end_s).collect();
    let covered = within.last()? - within.first()?;
    if within.len() < 2 || covered < 0.8 * (case.hold_end_s - case.hold_start_s) {
        return None;
    }
    let lagged: Vec<(f64, f64)> = if thermometer.location == Location::Water || lag_s <= 0.0 {
        read
    } else {
        let mut out = Vec::with_capacity(read.len());
        let mut now = read[0].1;
        for (i, r) in read.iter().enumerate() {
            if i > 0 {
                let (dt, drive) = ((r.0 - read[i - 1].0).max(1e-9), read[i - 1].1);
                let rate = (r.1 - drive) / dt;
                // exact response to a drive that changes linearly over the step
                let e = (-dt / lag_s).exp();
                now = r.1 - rate * lag_s + (now - drive + rate * lag_s) * e;
            }
            out.push((r.0, now));
        }
        out
    };
    Some(at.iter().map(|t| interpolate(&lagged, *t)).collect())
}

fn interpolate(points: &[(f64, f64)], t: f64) -> f64 {
    let i = points.partition_point(|p| p.0 <= t);
    match (i.checked_sub(1).map(|j| points[j]), points.get(i)) {
        (None, Some(next)) => next.1,
        (Some(before), None) => before.1,
        (Some(a), Some(b)) => a.1 + (b.1 - a.1) * (t - a.0) / (b.0 - a.0),
        (None, None) => f64::NAN,
    }
}

/// Fits the line of lost volume and gathers every uncertainty.
fn estimate(case: &HoldCase, thermometer: &Thermometer, series: &Series, water: &[f64]) -> Result<Found, String> {
    let balance = balance_for(case, series, water)?;
    let fit = fit(&balance, series, water)?;
    let span = series.t[series.t.len() - 1] - series.t[0];
    let stiffness = balance.stiffness_m3_per_pa();
    // how much a kelvin of error over the hold would pass for lost volume
    let per_kelvin = {
        let (t0, p0) = (Temperature::from_c(water[0]), series.p[0]);
        let dt = quantity::TemperatureDifference::from_k(0.05);
        (balance.lost_m3(t0 + dt, p0) - balance.lost_m3(t0 - dt, p0)) / 0.1
    };
    let gauge = &case.gauge;
    let drop = series.p[0].pa() - series.p[series.p.len() - 1].pa();
    // Rounding is not white noise: each end may be off by half a division, the difference by division/√6, less as more values are seen.
    let rounding = |division: f64, distinct: usize| division / 6f64.sqrt() / (distinct.max(1) as f64).sqrt();
    let pressure_rounding = rounding(gauge.division_pa.pa(), distinct(series.p.iter().map(|p| p.pa())));
    let temperature_rounding =
        rounding(thermometer.division_k, distinct(case.readings.iter().filter_map(|r| r.temperature_c.map(|t| t.c()))));
    let span_error = 0.5 * gauge.error_of_scale * drop.abs();
    // Of a thermometer's error the offset cancels between two readings; a tenth is taken to drift over a hold (common practice).
    let thermometer_drift = 0.1 * 0.5 * thermometer.error_k;
    let lag = lag_spread(case, thermometer, series)?;
    let always = sum_of_squares(&[
        fit.slope_sd,
        stiffness * pressure_rounding / span,
        per_kelvin * temperature_rounding / span,
        per_kelvin * thermometer_drift / span,
        lag,
    ]);
    let with_leak = sum_of_squares(&[always, stiffness * span_error / span, 0.5 * proportional_95(case, series, water, &fit)?]);
    let t975 = student(0.975, fit.degrees.max(4.0));
    let (mean, half) = (fit.slope, t975 * with_leak);
    let last = water.len() - 1;
    // shares come from the fit over all readings: two single readings carry their noise
    let left = fit.slope * span / stiffness;
    let explained = drop - left;
    let noise_half = 2.0 * fit.noise_sd / stiffness;
    let temperature_sd = sum_of_squares(&[temperature_rounding, thermometer_drift, lag * span / per_kelvin.abs().max(1e-12)]);
    let explained_half = 2.0 * (per_kelvin / stiffness).abs() * temperature_sd;
    let density = physics::water::state(Temperature::from_c(water[0]), series.p[0]).map_err(|e| e.to_string())?.density;
    let gauge_start = series.p[0].gauge(case.atmosphere_pa);
    let leak = Leak {
        mean_m3_per_s: mean,
        lo_m3_per_s: mean - half,
        hi_m3_per_s: mean + half,
        upper_999_m3_per_s: mean + normal(0.999) * t975 / normal(0.975) * with_leak,
        detection_limit_m3_per_s: 3.29 * t975 / normal(0.975) * always,
        equivalent_hole_m: physics::orifice::equivalent_diameter(quantity::VolumeFlow::from_m3_per_s(mean), gauge_start, density).m(),
    };
    let (finding, reasons) = classify(&leak, case);
    let start_offset = (fit.intercept + fit.slope * series.t[0]) / stiffness;
    Ok(Found {
        finding,
        reasons,
        start_pa: Some(gauge_start.pa()),
        end_pa: Some(series.p[last].gauge(case.atmosphere_pa).pa()),
        temperature_change_k: Some(water[last] - water[0]),
        explained_pa: Some(Band { value: explained, half_width_95: explained_half }),
        left_pa: Some(Band { value: left, half_width_95: half * span / stiffness }),
        leak: Some(leak),
        noise_pa: Some(fit.noise_sd / stiffness),
        noise_correlation: Some(fit.correlation),
        chart: chart(case, &balance, series, water, &ChartBand { start_offset, noise_half, growth_half: explained_half }),
    })
}

fn classify(leak: &Leak, case: &HoldCase) -> (Finding, Vec<String>) {
    if leak.lo_m3_per_s > 0.0 {
        return (Finding::LeakShown, Vec::new());
    }
    if leak.hi_m3_per_s < 0.0 {
        let reason = format!(
            "The hold seems to gain {} of water, which it cannot: a warmer pipe than {} shows, a stuck gauge, or an unbooked pump. Find which before anything is judged.",
            crate::words::flow(-leak.mean_m3_per_s),
            case.thermometer.as_ref().map_or("the thermometer", |t| &t.tag)
        );
        return (Finding::NotShown, vec![reason]);
    }
    (Finding::TightTo, Vec::new())
}

fn sum_of_squares(terms: &[f64]) -> f64 {
    terms.iter().map(|v| v * v).sum::<f64>().sqrt()
}

fn distinct(values: impl Iterator<Item = f64>) -> usize {
    let mut all: Vec<f64> = values.collect();
    all.sort_by(f64::total_cmp);
    all.dedup();
    all.len()
}

fn balance_for(case: &HoldCase, series: &Series, water: &[f64]) -> Result<Balance, String> {
    let range = |values: &mut dyn Iterator<Item = f64>, margin: f64| {
        let (lo, hi) = values.fold((f64::INFINITY, f64::NEG_INFINITY), |(lo, hi), v| (lo.min(v), hi.max(v)));
        (lo - margin, hi + margin)
    };
    let t = range(&mut water.iter().copied(), 1.0);
    // enough room below for what temperature alone could do
    let p = range(&mut series.p.iter().map(|p| p.pa()), 1e5 + 5e5 * (t.1 - t.0));
    let at = |p: f64| AbsolutePressure::from_pa(p.max(0.6e5));
    Balance::new(
        case,
        (Temperature::from_c(water[0]), series.p[0]),
        (Temperature::from_c(t.0), Temperature::from_c(t.1)),
        (at(p.0), at(p.1)),
    )
    .map_err(|e| format!("The readings cannot be judged: {e}."))
}

fn fit(balance: &Balance, series: &Series, water: &[f64]) -> Result<stats::line::LineFit, String> {
    let lost: Vec<f64> = series.p.iter().zip(water).map(|(p, t)| balance.lost_m3(Temperature::from_c(*t), *p)).collect();
    with_correlated_noise(&series.t, &lost).map_err(|e| format!("The readings cannot be fitted: {e}."))
}

/// Standard deviation of the leak from the unknown lag: half of the spread between the ends of its factor, over two.
fn lag_spread(case: &HoldCase, thermometer: &Thermometer, series: &Series) -> Result<f64, String> {
    if thermometer.location == Location::Water || thermometer.water_lag_s <= 0.0 {
        return Ok(0.0);
    }
    let slope_at = |lag: f64| -> Result<f64, String> {
        let water = water_temperatures(case, thermometer, lag, &series.t).ok_or("Temperature does not cover the hold.")?;
        Ok(fit(&balance_for(case, series, &water)?, series, &water)?.slope)
    };
    let (fast, slow) =
        (slope_at(thermometer.water_lag_s / thermometer.lag_factor_95)?, slope_at(thermometer.water_lag_s * thermometer.lag_factor_95)?);
    Ok(0.25 * (slow - fast).abs())
}

/// What volume, stretch, air and the thermometer's offset make uncertain, at 95 %: each changed by its 95 % figure, in squares.
fn proportional_95(case: &HoldCase, series: &Series, water: &[f64], fitted: &stats::line::LineFit) -> Result<f64, String> {
    let with = |change: &dyn Fn(&mut HoldCase), offset: f64| -> Result<f64, String> {
        let mut other = case.clone_without_readings();
        change(&mut other);
        let shifted: Vec<f64> = water.iter().map(|t| t + offset).collect();
        Ok(fit(&balance_for(&other, series, &shifted)?, series, &shifted)?.slope - fitted.slope)
    };
    let stiffer = with(
        &|c| {
            c.segments
                .iter_mut()
                .for_each(|s| s.elastic.youngs_modulus_pa = s.elastic.youngs_modulus_pa * (1.0 / (1.0 + c.wall_unc_95_rel)))
        },
        0.0,
    )?;
    let airier = with(&|c| c.air_fraction += c.air_fraction_unc_95, 0.0)?;
    let warmer = with(&|_| (), case.thermometer.as_ref().map_or(0.0, |t| t.error_k))?;
    Ok(sum_of_squares(&[fitted.slope * case.volume_unc_95_rel, stiffer, airier, warmer]))
}

impl HoldCase {
    /// The case without its readings, for what-if.
    fn clone_without_readings(&self) -> Self {
        Self {
            title: String::new(),
            segments: self.segments.clone(),
            readings: Vec::new(),
            events: Vec::new(),
            gauge: self.gauge.clone(),
            thermometer: self.thermometer.clone(),
            acceptance: self.acceptance.clone(),
            ..*self
        }
    }
}

/// How the band about the chart's line is made, Pa.
struct ChartBand {
    /// What the fit says was lost before the first reading: its noise.
    start_offset: f64,
    /// Noise of the readings about the fit (95 %).
    noise_half: f64,
    /// What lags and thermometer add by the end (95 %).
    growth_half: f64,
}

fn chart(case: &HoldCase, balance: &Balance, series: &Series, water: &[f64], band: &ChartBand) -> Vec<ChartPoint> {
    let step = series.t.len().div_ceil(400);
    let (first, span) = (series.t[0], (series.t[series.t.len() - 1] - series.t[0]).max(1e-9));
    let last = series.t.len() - 1;
    (0..=last)
        .filter(|i| i % step == 0 || *i == last)
        .map(|i| ChartPoint {
            t_s: series.t[i],
            without_loss_pa: balance.pressure_without_loss(Temperature::from_c(water[i])).gauge(case.atmosphere_pa).pa()
                - band.start_offset,
            half_width_95_pa: sum_of_squares(&[band.noise_half, band.growth_half * (series.t[i] - first) / span]),
        })
        .collect()
}
