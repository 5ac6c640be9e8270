//! A liquid other than water.

use crate::rule::{Rule, Standing};
use crate::say::Say;
use quantity::{Density, Temperature};
use serde::{Deserialize, Serialize};

/// Rules of the liquid.
pub const RULES: &[&Rule] = &[&FLAMMABLE];

/// Flammable liquids.
pub const FLAMMABLE: Rule = Rule {
    id: "LIQUID-FLASH-POINT",
    sentence: "A flammable test liquid has a flash point of at least 49 °C (120 °F).",
    clause: "B31.3 345.4.1",
    edition: "ASME B31.3, editions from 2016",
    standing: Standing::NotChecked,
    file: file!(),
    test: "liquid_flash_point_system_entered_basis_sense_each_refusal_names_part_field_and_what_would_do",
};

/// Least flash point, °C.
pub const LEAST_FLASH_C: f64 = 49.0;

/// A test liquid other than water.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OtherLiquid {
    /// What it is.
    pub name: String,
    /// Its density at the test, kg/m³.
    pub density_kg_m3: Density,
    /// Its compressibility, 1/Pa; without it no volume to pump can be told.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub compressibility_per_pa: Option<f64>,
    /// Its thermal expansion, 1/K; without it no change of pressure with temperature can be told.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub expansion_per_k: Option<f64>,
    /// True for a liquid that burns.
    #[serde(default)]
    pub flammable: bool,
    /// Its flash point, °C; needed where it burns.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub flash_point_c: Option<Temperature>,
    /// Temperature at which it freezes, °C.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub freezes_c: Option<Temperature>,
    /// Chloride in it, ppm; needed where a part is austenitic steel.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub chloride_ppm: Option<f64>,
}

/// Why a liquid cannot be used.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum LiquidError {
    /// Not a density of a liquid.
    #[error("{}", self.say(Say::default()))]
    Density {
        /// the liquid
        name: String,
        /// density
        kg_m3: f64,
    },
    /// Flash point missing or too low.
    #[error("{}", self.say(Say::default()))]
    Flash {
        /// the liquid
        name: String,
        /// flash point, °C
        flash_c: Option<f64>,
    },
    /// A figure that cannot be.
    #[error("{name}: {field} must be above zero and small, not {value}: give it in {unit}")]
    Figure {
        /// the liquid
        name: String,
        /// which
        field: &'static str,
        /// value
        value: f64,
        /// its unit
        unit: &'static str,
    },
}

impl LiquidError {
    /// What is wrong and what to do, in a person's units.
    pub fn say(&self, say: Say) -> String {
        let density = |kg_m3: f64| say.amount(kg_m3, quantity::Dimension::DensityKgM3);
        let at = |c: f64| say.temperature(Temperature::from_c(c));
        match self {
            Self::Density { name, kg_m3 } => format!(
                "{name}: no liquid of {} is tested with; give its density, {} to {}",
                density(*kg_m3),
                density(500.0),
                density(2500.0)
            ),
            Self::Flash { name, flash_c } => format!(
                "{name} burns and {}; a flammable test liquid needs a flash point of {} or more (B31.3 345.4.1): take water, or another liquid",
                flash_c.map_or_else(|| "its flash point is not given".to_owned(), |f| format!("flashes at {}", at(f))),
                at(LEAST_FLASH_C)
            ),
            Self::Figure { .. } => self.to_string(),
        }
    }

    /// Name of the field to mend.
    pub const fn field(&self) -> &'static str {
        match self {
            Self::Density { .. } => "liquid.density_kg_m3",
            Self::Flash { .. } => "liquid.flash_point_c",
            Self::Figure { field, .. } => field,
        }
    }
}

impl OtherLiquid {
    /// Checks that it can be tested with.
    ///
    /// # Errors
    /// Names the figure and what would be accepted.
    pub fn check(&self) -> Result<(), LiquidError> {
        let name = || self.name.clone();
        if !(500.0..=2500.0).contains(&self.density_kg_m3.kg_m3()) {
            return Err(LiquidError::Density { name: name(), kg_m3: self.density_kg_m3.kg_m3() });
        }
        if self.flammable && self.flash_point_c.is_none_or(|f| f.c() < LEAST_FLASH_C) {
            return Err(LiquidError::Flash { name: name(), flash_c: self.flash_point_c.map(|f| f.c()) });
        }
        if self.chloride_ppm.is_some_and(|p| !(p >= 0.0 && p.is_finite())) {
            let value = self.chloride_ppm.unwrap_or(f64::NAN);
            return Err(LiquidError::Figure { name: name(), field: "liquid.chloride_ppm", value, unit: "ppm" });
        }
        for (field, value, most, unit) in [
            ("liquid.compressibility_per_pa", self.compressibility_per_pa, 1e-8, "1/Pa"),
            ("liquid.expansion_per_k", self.expansion_per_k, 1e-2, "1/K"),
        ] {
            if let Some(value) = value.filter(|v| !(*v > 0.0 && *v < most)) {
                return Err(LiquidError::Figure { name: name(), field, value, unit });
            }
        }
        Ok(())
    }
}
