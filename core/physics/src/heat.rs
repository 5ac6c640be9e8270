//! How fast a filled pipe follows its surroundings.

use quantity::{Length, Span, TemperatureDifference};

/// Heat transfer in still air, W/(m²·K); common practice, wind raises it.
pub const STILL_AIR_W_PER_M2K: f64 = 10.0;

/// Heat stored per volume of water, J/(m³·K) (about 998 · 4184).
const WATER_HEAT: f64 = 4.177e6;
/// Heat stored per volume of steel, J/(m³·K) (about 7850 · 480).
const STEEL_HEAT: f64 = 3.77e6;

/// Time constant with which water and metal together follow the surroundings.
///
/// Formula: τ = (ρ·c_p·V)_(water+metal)/(h·A), per metre of pipe, A the outside surface. Range: bare pipe, thin against its
/// length. Error: a factor of about 2.5 (wind, sun, insulation). Common practice. Example: DN150 sch 40, h = 10 → 4.8 h.
pub fn time_constant(outside_diameter: Length, wall: Length, film_w_per_m2k: f64) -> Span {
    let bore = outside_diameter - wall * 2.0;
    let quarter_pi = std::f64::consts::FRAC_PI_4;
    let water = WATER_HEAT * quarter_pi * bore.m() * bore.m();
    let metal = STEEL_HEAT * quarter_pi * (outside_diameter.m().powi(2) - bore.m().powi(2));
    Span::from_s((water + metal) / (film_w_per_m2k * std::f64::consts::PI * outside_diameter.m()))
}

/// Time until a difference has shrunk to `rest`: τ·ln(ΔT/δ); nil when it already has.
pub fn soak_time(time_constant: Span, difference: TemperatureDifference, rest: TemperatureDifference) -> Span {
    let ratio = difference.k().abs() / rest.k();
    if ratio > 1.0 { time_constant * ratio.ln() } else { Span::from_s(0.0) }
}

/// Time constant with which the water follows the metal's skin: τ = 1800 s · (D/0.1 m)^0.6, natural convection inside.
///
/// Range: bores from 15 mm to 1.5 m. Error: a factor of about 2.5 (95 %). Common practice; minutes for small bores, an hour and
/// more for large ones.
pub fn water_after_skin(bore: Length) -> Span {
    Span::from_s(1800.0 * (bore.m() / 0.1).powf(0.6))
}
