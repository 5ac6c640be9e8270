//! Elastic stretch of pipe and vessel under pressure and heat.

use quantity::{Length, Stress};
use serde::{Deserialize, Serialize};

/// How a pipe is held lengthwise.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Restraint {
    /// closed ends, free to lengthen
    #[default]
    Free,
    /// held lengthwise: buried with friction, or anchored
    Held,
}

/// Elastic data of a wall.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Elastic {
    /// Young's modulus E, Pa.
    pub youngs_modulus_pa: Stress,
    /// Poisson's ratio ν.
    pub poisson_ratio: f64,
    /// Linear expansion α, 1/K.
    pub linear_expansion_per_k: f64,
}

impl Elastic {
    /// Growth of the bore's volume per pressure, (1/V)·dV/dp, 1/Pa.
    ///
    /// Thick wall (Lamé), k = D_o/D_i. Free: [3(1−2ν) + 2(1+ν)k²]/(E(k²−1)). Held: 2(1+ν)[(1−2ν)+k²]/(E(k²−1)).
    /// Range: k > 1, isotropic wall below yield. Error: that of E and of the wall, typically 5–12 %.
    /// Source: Lamé's solution for a thick cylinder; tends to D/(tE)·(5/4−ν) and D/(tE)·(1−ν²) for thin walls.
    pub fn bore_compliance_per_pa(&self, outside_diameter: Length, wall: Length, restraint: Restraint) -> f64 {
        let k = outside_diameter.m() / (outside_diameter.m() - 2.0 * wall.m());
        let (k2, nu) = (k * k, self.poisson_ratio);
        let numerator = match restraint {
            Restraint::Free => 3.0 * (1.0 - 2.0 * nu) + 2.0 * (1.0 + nu) * k2,
            Restraint::Held => 2.0 * (1.0 + nu) * ((1.0 - 2.0 * nu) + k2),
        };
        numerator / (self.youngs_modulus_pa.pa() * (k2 - 1.0))
    }

    /// Growth of the bore's volume per kelvin at constant pressure, 1/K: 3α free, 2α(1+ν) held lengthwise.
    pub fn bore_expansion_per_k(&self, restraint: Restraint) -> f64 {
        match restraint {
            Restraint::Free => 3.0 * self.linear_expansion_per_k,
            Restraint::Held => 2.0 * self.linear_expansion_per_k * (1.0 + self.poisson_ratio),
        }
    }
}
