//! OWN-GAUGE: the gauge of whoever tests alone, in three figures: how far it reads, its smallest mark, and until when it is calibrated.

use crate::instrument::{Instrument, IsoDate};
use quantity::{GaugePressure, PressureDifference, PressureUnit};
use rules::rule::{Rule, Standing};
use serde::{Deserialize, Serialize};

/// Rules of the own gauge.
pub const RULES: &[&Rule] = &[&ERROR];

/// What its error is taken to be.
pub const ERROR: Rule = Rule {
    id: "OWN-GAUGE-ERROR",
    sentence: "Of a gauge whose certificate nobody shows, the error is taken as 1.6 % of its full scale while it is calibrated, 4 % while it is not, and one mark where that is more.",
    clause: "EN 837-1, accuracy classes 1.6 and 4",
    edition: "EN 837-1, from memory",
    standing: Standing::NotChecked,
    file: file!(),
    test: "own_gauge_error_is_that_of_its_class_or_a_mark",
};

/// Tag of such a gauge in plan, readings and record.
pub const OWN_GAUGE: &str = "own gauge";

/// Class of a plain gauge that is calibrated, share of full scale.
const CALIBRATED: f64 = 0.016;
/// The coarsest class; nobody knows better of one that is not calibrated.
const NOT_CALIBRATED: f64 = 0.04;

/// Coarser than this no dial is made, share of full scale.
const MOST_MARK: f64 = 0.2;

/// A gauge that is in no store.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OwnGauge {
    /// Full scale, Pa.
    #[schema(value_type = f64)]
    pub full_scale_pa: GaugePressure,
    /// Smallest mark, Pa.
    #[schema(value_type = f64)]
    pub division_pa: PressureDifference,
    /// Unit that it shows.
    pub unit: PressureUnit,
    /// Last day of its calibration; absent where it is not calibrated.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub calibrated_until: Option<IsoDate>,
}

impl OwnGauge {
    /// Checks its three figures.
    ///
    /// # Errors
    /// Names the field, and what to do.
    pub fn check(&self) -> Result<(), (&'static str, String)> {
        let (scale, mark) = (self.full_scale_pa.pa(), self.division_pa.pa());
        if !(scale > 0.0 && scale.is_finite()) {
            return Err(("full_scale_pa", "Write how far the gauge reads: the last figure on its dial.".to_owned()));
        }
        if !(mark > 0.0 && mark.is_finite()) {
            return Err(("division_pa", "Write how much lies between two marks next to each other.".to_owned()));
        }
        if mark > MOST_MARK * scale {
            return Err((
                "division_pa",
                "Between two marks there lies a fifth of the whole dial or more: check both figures. If they are right, this gauge is too coarse for any test.".to_owned(),
            ));
        }
        match &self.calibrated_until {
            Some(day) if IsoDate::new(&day.0).is_none() => {
                Err(("calibrated_until", "Write the day as 2027-06-01, or say that it is not calibrated.".to_owned()))
            }
            _ => Ok(()),
        }
    }

    /// The instrument that it is, without a certificate.
    pub fn instrument(&self) -> Instrument {
        let class = if self.calibrated_until.is_some() { CALIBRATED } else { NOT_CALIBRATED };
        Instrument {
            valid_until: self.calibrated_until.clone().unwrap_or_else(|| IsoDate(String::new())),
            full_scale_pa: Some(self.full_scale_pa),
            division_pa: Some(self.division_pa),
            error_of_scale: Some(class.max(self.division_pa.pa() / self.full_scale_pa.pa())),
            unit: self.unit,
            owner_s: true,
            ..Instrument::unknown(OWN_GAUGE.to_owned())
        }
    }
}
