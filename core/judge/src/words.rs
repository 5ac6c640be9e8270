//! Figures as people read them.

use quantity::PressureUnit;
use quantity::format::significant;

/// Unit of a leak rate: litres or millilitres per hour, of gas at 0 °C and 101 325 Pa.
const fn unit(litres: bool, of_gas: bool) -> &'static str {
    match (litres, of_gas) {
        (true, false) => "L/h",
        (false, false) => "mL/h",
        (true, true) => "normal\u{a0}L/h",
        (false, true) => "normal\u{a0}mL/h",
    }
}

/// A leak rate: L/h from a tenth of a litre up, mL/h below.
pub fn flow(m3_per_s: f64, of_gas: bool) -> String {
    let l_per_h = m3_per_s * 3.6e6;
    let litres = l_per_h.abs() >= 0.1;
    let figure = if litres { l_per_h } else { l_per_h * 1e3 };
    format!("{}\u{a0}{}", significant(figure, 2), unit(litres, of_gas)).replace('-', "−")
}

/// Two leak rates in one unit: "0.30 to 0.90 L/h".
pub fn flow_range(lo: f64, hi: f64, of_gas: bool) -> String {
    let litres = hi.abs() * 3.6e6 >= 0.1;
    let factor = if litres { 3.6e6 } else { 3.6e9 };
    format!("{} to {}\u{a0}{}", significant(lo * factor, 2), significant(hi * factor, 2), unit(litres, of_gas)).replace('-', "−")
}

/// A pressure difference, with decimals that show `resolution`.
pub fn pressure(pa: f64, resolution_pa: f64, unit: PressureUnit) -> String {
    let decimals = decimals(resolution_pa, unit);
    let value = pa / unit.pa();
    let value = if value.abs() < 0.5 * 10f64.powi(-(decimals as i32)) { 0.0 } else { value };
    format!("{value:.decimals$}").replace('-', "−")
}

/// Decimals that show a hundredth of a bar or finer, as the resolution asks.
fn decimals(resolution_pa: f64, unit: PressureUnit) -> usize {
    let in_unit = resolution_pa / unit.pa();
    (-(in_unit.log10().floor()) as i32).clamp(0, 4) as usize
}
