//! The pumping curve: how much air is in, and is the system as large and as stiff as it was entered.

use physics::system::ShutIn;
use quantity::{AbsolutePressure, GaugePressure, PressureDifference, Temperature, Volume};
use serde::{Deserialize, Serialize};
use stats::least_squares::{Fit, FitError, Prior, Row, fit, fit_non_negative};
use stats::quantile::normal;

/// A point of the curve, taken when the stroke counter had just moved on.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PumpingPoint {
    /// Volume counted since the start, m³.
    pub volume_m3: Volume,
    /// Gauge reading, Pa.
    pub pressure_pa: GaugePressure,
}

/// What the curve is held against.
#[derive(Debug, Clone, PartialEq)]
pub struct Pumped {
    /// The system without air.
    pub system: ShutIn,
    /// Temperature of the water.
    pub temperature: Temperature,
    /// Pressure at the high point, where the air sits, over the pressure at the gauge; negative when it is above.
    pub head_to_air: PressureDifference,
    /// Volume of one stroke, or the least volume that the counter tells.
    pub stroke: Volume,
    /// Uncertainty of the stroke's volume (95 %), relative.
    pub stroke_unc_95_rel: f64,
    /// Uncertainty of the system's volume (95 %), relative.
    pub volume_unc_95_rel: f64,
    /// Readable division of the gauge.
    pub division: PressureDifference,
    /// Repeatability of the gauge, one standard deviation.
    pub repeatability: PressureDifference,
    /// Zero error of the gauge (95 %).
    pub zero_error_95: PressureDifference,
    /// Limit of the air fraction.
    pub limit: f64,
}

/// What the curve says of the air.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct AirFound {
    /// Air at filling over the volume of the system, best estimate, never below zero.
    pub fraction: f64,
    /// Lower end of its 95 % interval; may be below zero.
    pub lo_95: f64,
    /// Upper end.
    pub hi_95: f64,
    /// False when the interval is wider than the limit: the readings start too late or are too few.
    pub determinable: bool,
    /// Measured over computed volume per pressure of water and walls.
    pub stiffness_ratio: f64,
    /// Lower end of its 95 % interval.
    pub stiffness_lo_95: f64,
    /// Upper end.
    pub stiffness_hi_95: f64,
    /// Points used.
    pub points: usize,
}

/// Computed stretch of water and walls from atmospheric pressure, as a table over pressure.
struct Elastic {
    step_pa: f64,
    volume: Vec<f64>,
    slope: Vec<f64>,
}

impl Elastic {
    fn new(p: &Pumped, up_to: GaugePressure) -> Option<Self> {
        const NODES: usize = 64;
        let step_pa = (up_to.pa() / NODES as f64).max(1e3);
        let (mut volume, mut slope) = (vec![], vec![]);
        for i in 0..=NODES {
            let at = GaugePressure::from_pa(step_pa * i as f64).absolute(p.system.atmosphere);
            let c = p.system.volume().m3() * p.system.compliance_per_pa(p.temperature, at).ok()?;
            volume.push(if i == 0 { 0.0 } else { volume[i - 1] + 0.5 * (slope[i - 1] + c) * step_pa });
            slope.push(c);
        }
        Some(Self { step_pa, volume, slope })
    }
    fn at(&self, of: &[f64], p: GaugePressure) -> f64 {
        let place = (p.pa() / self.step_pa).max(0.0);
        let i = (place as usize).min(of.len() - 2);
        of[i] + (place - i as f64) * (of[i + 1] - of[i])
    }
}

impl Pumped {
    fn at_air(&self, p: GaugePressure) -> AbsolutePressure {
        (p + self.head_to_air).absolute(self.system.atmosphere)
    }
    fn noise_of_gauge(&self) -> f64 {
        (self.division.pa().powi(2) / 12.0 + self.repeatability.pa().powi(2)).sqrt()
    }
}

/// Most passes of the fit; each renews the weights from the last estimate.
const PASSES: usize = 6;

/// Fits the air at filling and the stiffness to a pumping curve.
///
/// Formula: V = a + b·G(p) + V_a0·(1 − p₀/p), p absolute where the air sits, G the computed volume of water and walls
/// (IAPWS-95, Lamé), b and V_a0 not negative for the estimate. The interval is that of the unbounded fit and carries: the counter (a
/// stroke, spread evenly), the gauge's division and repeatability, its zero (as a parameter of its own, since it shifts every reading
/// alike), the stroke's volume, the system's volume, and the place at which a branch was rejoined (a stroke spread evenly at either end, alike
/// for all its points). Where the noise is larger than stated, the interval grows with it.
/// Range: points in the order in which they came, pressures above the static head, at least 6; `branches` are the indices of the points at
/// which a branch begins that was rejoined to the curve after water was let out.
///
/// # Errors
/// Too few points, or points that do not tell air from stretch.
pub fn air(p: &Pumped, points: &[PumpingPoint], branches: &[usize]) -> Result<AirFound, FitError> {
    const LEAST: usize = 6;
    if points.len() < LEAST {
        return Err(FitError::TooFew { rows: points.len(), parameters: LEAST });
    }
    let top = points.iter().map(|q| q.pressure_pa).fold(GaugePressure::from_pa(0.0), GaugePressure::max);
    let elastic = Elastic::new(p, top).ok_or(FitError::Singular)?;
    let p0 = p.system.atmosphere.pa();
    let mut priors = vec![Prior::Free, Prior::Free, Prior::Free, Prior::AboutZero(p.zero_error_95.pa().max(1.0) / normal(0.975))];
    priors.extend(branches.iter().map(|_| Prior::AboutZero(p.stroke.m3() * (2.0f64 / 12.0).sqrt())));
    let (mut stiffness, mut air, mut zero) = (1.0f64, 0.0f64, 0.0f64);
    let mut last: Option<(Fit, Vec<Row>)> = None;
    for _ in 0..PASSES {
        let rows: Vec<Row> = points
            .iter()
            .enumerate()
            .map(|(i, q)| {
                let true_p = GaugePressure::from_pa(q.pressure_pa.pa() - zero);
                let absolute = p.at_air(true_p).pa().max(0.2 * p0);
                let volume_per_pa = stiffness.max(0.0) * elastic.at(&elastic.slope, true_p) + air.max(0.0) * p0 / (absolute * absolute);
                let sd = ((p.stroke.m3().powi(2)) / 12.0 + (volume_per_pa * p.noise_of_gauge()).powi(2)).sqrt();
                // linear in the zero about its last value
                let y = q.volume_m3.m3() - volume_per_pa * zero;
                let mut x = vec![1.0, elastic.at(&elastic.volume, true_p), 1.0 - p0 / absolute, -volume_per_pa];
                let branch = branches.partition_point(|b| *b <= i);
                x.extend((1..=branches.len()).map(|b| f64::from(u8::from(b == branch))));
                Row { x, y, sd }
            })
            .collect();
        let f = fit(&rows, &priors)?;
        let before = (stiffness, air, zero);
        (stiffness, air) = (f.theta[1], f.theta[2]);
        zero = f.theta[3].clamp(-2.0 * p.zero_error_95.pa(), 2.0 * p.zero_error_95.pa());
        last = Some((f, rows));
        let settled = (air - before.1).abs() <= 1e-6 * p.system.volume().m3() && (zero - before.2).abs() <= 1e-3 * p.division.pa().max(1.0);
        if settled {
            break;
        }
    }
    let (f, rows) = last.ok_or(FitError::Singular)?;
    let bounded = fit_non_negative(&rows, &priors, &[1, 2])?;
    Ok(found(p, &f, &bounded, points.len()))
}

/// Interval and estimate as fractions.
fn found(p: &Pumped, f: &Fit, bounded: &Fit, points: usize) -> AirFound {
    let z = normal(0.975);
    let volume = p.system.volume().m3();
    let noisier = (f.chi_squared / f.degrees.max(1.0)).max(1.0);
    let relative = |of: f64, variance: f64, also: f64| {
        let scale = of * of * (p.stroke_unc_95_rel.powi(2) + also.powi(2)) / (z * z);
        z * (variance * noisier + scale).sqrt()
    };
    let air = f.theta[2] / volume;
    let half = relative(air, f.covariance[2][2] / (volume * volume), p.volume_unc_95_rel);
    let stiffness = f.theta[1];
    let stiffness_half = relative(stiffness, f.covariance[1][1], 0.0);
    AirFound {
        fraction: bounded.theta[2] / volume,
        lo_95: air - half,
        hi_95: air + half,
        // what is a hundred times the limit is told, however coarsely
        determinable: half <= 0.5 * p.limit || air - half > p.limit,
        stiffness_ratio: bounded.theta[1],
        stiffness_lo_95: stiffness - stiffness_half,
        stiffness_hi_95: stiffness + stiffness_half,
        points,
    }
}

/// Volume that theory asks for from `from` to each of `pressures`, with a fraction of air at filling: an edge of the picture's band.
pub fn theory(p: &Pumped, air_fraction: f64, from: GaugePressure, pressures: &[GaugePressure]) -> Vec<PumpingPoint> {
    let top = pressures.iter().copied().fold(from, GaugePressure::max);
    let Some(elastic) = Elastic::new(p, top) else { return Vec::new() };
    let p0 = p.system.atmosphere.pa();
    let air = air_fraction * p.system.volume().m3();
    let total = |at: GaugePressure| elastic.at(&elastic.volume, at) - air * p0 / p.at_air(at).pa().max(0.2 * p0);
    pressures.iter().map(|q| PumpingPoint { volume_m3: Volume::from_m3(total(*q) - total(from)), pressure_pa: *q }).collect()
}

/// What the curve says, in one word and one sentence.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CurveSays {
    /// no air beyond the limit, stiffness as computed
    AsComputed,
    /// more air than the limit
    Air,
    /// less volume per pressure than computed
    NotAllFilled,
    /// more volume per pressure than computed
    Softer,
    /// the interval is too wide
    NotDeterminable,
}

/// Stiffness may differ from theory by this before it is said: wall, modulus and volume are not known better (common practice).
pub const STIFFNESS_TOLERANCE: f64 = 0.15;

/// What the curve says.
pub fn says(p: &Pumped, found: &AirFound) -> (CurveSays, String) {
    let percent = |f: f64| {
        let v = 100.0 * f.max(0.0);
        if v < 0.995 { format!("{v:.2}") } else { format!("{v:.1}") }
    };
    let interval = format!("{}\u{a0}% ({} to {}, 95\u{a0}%)", percent(found.fraction), percent(found.lo_95), percent(found.hi_95));
    if found.lo_95 > p.limit {
        return (
            CurveSays::Air,
            format!("Air {interval}: more than the {}\u{a0}% allowed. Release, vent the high points, and start again.", percent(p.limit)),
        );
    }
    if found.stiffness_hi_95 < 1.0 - STIFFNESS_TOLERANCE {
        let share = 100.0 * found.stiffness_ratio;
        return (
            CurveSays::NotAllFilled,
            format!(
                "It takes {share:.0}\u{a0}% of the computed volume for the same rise: not all is filled, or a part is shut off. Check the valve line-up."
            ),
        );
    }
    if found.stiffness_lo_95 > 1.0 + STIFFNESS_TOLERANCE {
        let share = 100.0 * found.stiffness_ratio;
        return (
            CurveSays::Softer,
            format!(
                "It takes {share:.0}\u{a0}% of the computed volume for the same rise: more is filled than was entered, a wall is thinner, or it leaks. Find out before going on."
            ),
        );
    }
    if !found.determinable {
        return (
            CurveSays::NotDeterminable,
            format!("Air not determinable yet: {interval}. Readings from lower pressures tell it, or a finer gauge."),
        );
    }
    (CurveSays::AsComputed, format!("Air {interval}; and the volume goes in as computed."))
}
