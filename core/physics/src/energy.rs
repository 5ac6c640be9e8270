//! Energy stored in a liquid test.

use quantity::{GaugePressure, Volume};

/// Energy stored by a liquid and its wall, J: E = ½·V·c·p², with c the compliance without air, 1/Pa.
///
/// Range: elastic system, liquid-full. Trapped air is counted separately, never both. Error: that of c.
pub fn stored_in_liquid_j(volume: Volume, compliance_per_pa: f64, pressure: GaugePressure) -> f64 {
    0.5 * volume.m3() * compliance_per_pa * pressure.pa() * pressure.pa()
}
