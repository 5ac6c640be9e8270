//! A gauge that stands still while the temperature moves is a question before it is a proof.

use crate::case::HoldCase;
use crate::words::Shown;
use physics::system::{Segment, ShutIn};
use quantity::dimension::Dimension;
use quantity::show::{self, Figures, Toward};
use quantity::{GaugePressure, PressureDifference, Temperature, TemperatureDifference};

/// Fewest readings that stand still.
const LEAST: usize = 4;
/// The pressure must have had to move by so many divisions of the gauge (common practice).
const DIVISIONS: f64 = 5.0;

/// How far the temperature moved while the gauge stood still, and by how much the pressure had to move for it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Flat {
    /// Where the gauge stood.
    pub stood: GaugePressure,
    /// By how much the temperature moved.
    pub moved: TemperatureDifference,
    /// By how much the pressure had to move at least.
    pub due: PressureDifference,
}

/// A hold over which the gauge stood still although the temperature moved by more than it could miss; none otherwise.
///
/// The fluid follows its skin with its time constant, and this by a factor that is not known: what is due is a share of what the whole change of
/// temperature would do in a system without air, V fixed: (dp/dT)·ΔT·(1 − exp(−t/(f·τ))), f the factor to 95 %.
pub fn flat(case: &HoldCase) -> Option<Flat> {
    let inside = || case.readings.iter().filter(|r| case.hold().contains(r.t_s));
    let pressures: Vec<GaugePressure> = inside().filter_map(|r| r.pressure_pa).collect();
    let temperatures: Vec<Temperature> = inside().filter_map(|r| r.temperature_c).collect();
    let (least, most) = (crate::read::least(pressures.iter().copied())?, crate::read::most(pressures.iter().copied())?);
    if pressures.len() < LEAST || most - least > case.gauge.division_pa * 0.5 {
        return None;
    }
    let (coldest, warmest) = temperatures.iter().fold((f64::INFINITY, f64::NEG_INFINITY), |(a, b), t| (a.min(t.c()), b.max(t.c())));
    let moved = warmest - coldest;
    let division = case.thermometer.as_ref()?.division_k.k();
    if moved <= 2.0 * division || !moved.is_finite() {
        return None;
    }
    let largest = case.bodies.iter().max_by(|a, b| a.segment.volume_m3.m3().total_cmp(&b.segment.volume_m3.m3()))?;
    let follows = 1.0 - (-case.hold().length().s() / (largest.lag_factor_95 * largest.fluid_lag_s.s())).exp();
    let segments: Vec<Segment> = case.bodies.iter().map(|b| b.segment.clone()).collect();
    let system = ShutIn { segments, air_fraction: case.air_fraction + case.air_fraction_unc_95, atmosphere: case.atmosphere_pa };
    let at = case.expected_pa.absolute(case.atmosphere_pa);
    let per_kelvin = match case.gas {
        Some(_) => at.pa() / case.heat.fill_c.kelvin(),
        None => system.pressure_per_kelvin(case.heat.fill_c, at).ok()?,
    };
    let due = PressureDifference::from_pa((per_kelvin * moved * follows).abs());
    (due > case.gauge.division_pa * DIVISIONS).then(|| Flat { stood: most, moved: TemperatureDifference::from_k(moved), due })
}

/// The question, where there is one.
pub fn question(case: &HoldCase) -> Option<String> {
    let f = flat(case)?;
    let shown = Shown::of(case);
    let kelvin = show::amount(f.moved.k(), Dimension::TemperatureDifferenceK, &case.units(), Figures::Said, Toward::Nearest);
    Some(format!(
        "{} stood at {} throughout while the temperature moved by {kelvin}, which should have moved the pressure by {} or more. Was air left in, does the gauge stick, or is its valve shut? Find out, and say what it was.",
        case.gauge.tag,
        shown.pressure(f.stood),
        shown.change(f.due),
    ))
}
