//! Do gauges at different heights agree, once the column between them is taken off.

use physics::head;
use quantity::{Density, GaugePressure, Length, PressureDifference};
use serde::{Deserialize, Serialize};

/// A gauge with its reading.
#[derive(Debug, Clone, PartialEq)]
pub struct GaugeReading {
    /// Tag.
    pub tag: String,
    /// Height above the site's datum.
    pub elevation: Length,
    /// Reading.
    pub pressure: GaugePressure,
    /// Error (95 %) of the instrument.
    pub error_95: PressureDifference,
    /// Readable division.
    pub division: PressureDifference,
}

/// How one gauge stands against the one that the test is read from.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Agreement {
    /// Tag of the other gauge.
    pub tag: String,
    /// Its reading brought to the height of the first, Pa.
    pub at_first_pa: GaugePressure,
    /// How much more it reads, Pa.
    pub difference_pa: PressureDifference,
    /// What their errors allow together, Pa.
    pub allowed_pa: PressureDifference,
    /// True when the difference is inside that.
    pub agrees: bool,
}

/// Compares gauges with the first by p(z₁) = p₂ + ρ·g·(z₂ − z₁).
///
/// Allowed is √(e₁² + e₂²) of their 95 % errors and half of each division. Range: gauges of one filled, still system; while water flows
/// fast the pressures differ by friction too.
pub fn compare(first: &GaugeReading, others: &[GaugeReading], density: Density) -> Vec<Agreement> {
    others
        .iter()
        .map(|o| {
            let at_first = head::pressure_at(o.pressure, density, o.elevation, first.elevation);
            let difference = at_first - first.pressure;
            let allowed = PressureDifference::from_pa(
                (first.error_95.pa().powi(2) + o.error_95.pa().powi(2)).sqrt() + 0.5 * (first.division.pa() + o.division.pa()),
            );
            Agreement {
                tag: o.tag.clone(),
                at_first_pa: at_first,
                difference_pa: difference,
                allowed_pa: allowed,
                agrees: difference.pa().abs() <= allowed.pa(),
            }
        })
        .collect()
}
