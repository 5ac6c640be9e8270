//! Temperature at which water boils.

use quantity::{AbsolutePressure, Temperature};

/// Coefficients of the saturation line (IAPWS R7-97, region 4, from memory; the release's own check values are in the test).
const N: [f64; 10] = [
    0.116_705_214_527_67e4,
    -0.724_213_167_032_06e6,
    -0.170_738_469_400_92e2,
    0.120_208_247_024_70e5,
    -0.323_255_503_223_33e7,
    0.149_151_086_135_30e2,
    -0.482_326_573_615_91e4,
    0.405_113_405_420_57e6,
    -0.238_555_575_678_49,
    0.650_175_348_447_98e3,
];

/// Boiling temperature at a pressure.
///
/// Formula: β = (p/1 MPa)^¼; E = β² + n₃β + n₆, F = n₁β² + n₄β + n₇, G = n₂β² + n₅β + n₈, D = 2G/(−F − √(F² − 4EG));
/// T = (n₁₀ + D − √((n₁₀ + D)² − 4(n₉ + n₁₀D)))/2. Range: 0.611 kPa to 22.064 MPa; beyond it the nearer end. Source: IAPWS R7-97.
pub fn saturation(pressure: AbsolutePressure) -> Temperature {
    let beta = pressure.mpa().clamp(611.213e-6, 22.064).powf(0.25);
    let b2 = beta * beta;
    let e = b2 + N[2] * beta + N[5];
    let f = N[0] * b2 + N[3] * beta + N[6];
    let g = N[1] * b2 + N[4] * beta + N[7];
    let d = 2.0 * g / (-f - (f * f - 4.0 * e * g).sqrt());
    let sum = N[9] + d;
    Temperature::from_kelvin(0.5 * (sum - (sum * sum - 4.0 * (N[8] + N[9] * d)).sqrt()))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// IAPWS R7-97, table 36: 0.1, 1 and 10 MPa.
    #[test]
    fn published_saturation_temperatures() {
        for (mpa, kelvin) in [(0.1, 372.755_919), (1.0, 453.035_632), (10.0, 584.149_488)] {
            let t = saturation(AbsolutePressure::from_mpa(mpa)).kelvin();
            assert!((t - kelvin).abs() < 1e-5, "{mpa} MPa: {t}");
        }
    }
}
