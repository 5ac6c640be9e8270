//! The finding: statistics only.

use crate::case::HoldCase;
use crate::estimate::{Series, estimate};
use crate::temperature::of_water;
use quantity::GaugePressure;
use rules::rule::{Rule, Standing};
use serde::{Deserialize, Serialize};

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
    let Some(water) = of_water(case, thermometer, thermometer.water_lag_s, &series.t) else {
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

pub(crate) fn classify(leak: &Leak, case: &HoldCase) -> (Finding, Vec<String>) {
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
