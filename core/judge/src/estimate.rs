//! The leak with everything that makes it uncertain.

use crate::balance::Balance;
use crate::case::{HoldCase, Location, Thermometer};
use crate::finding::{Band, ChartPoint, Found, Leak, classify};
use crate::temperature::of_water;
use quantity::{AbsolutePressure, Temperature};
use stats::line::with_correlated_noise;
use stats::quantile::{normal, student};

/// Series of the hold, ready for the balance.
pub(crate) struct Series {
    /// Times, s.
    pub(crate) t: Vec<f64>,
    /// Pressures.
    pub(crate) p: Vec<AbsolutePressure>,
}

/// Fits the line of lost volume and gathers every uncertainty.
pub(crate) fn estimate(case: &HoldCase, thermometer: &Thermometer, series: &Series, water: &[f64]) -> Result<Found, String> {
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
        let water = of_water(case, thermometer, lag, &series.t).ok_or("Temperature does not cover the hold.")?;
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
