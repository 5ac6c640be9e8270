//! MODEL-BOILER-FIRST and MODEL-BOILER-LATER: miniature boilers by club practice.

use super::Required;
use crate::derivation::{Amount, Derivation};
use crate::rule::{Rule, Standing};
use quantity::{GaugePressure, Span};
use serde::{Deserialize, Serialize};

/// First test of a new or altered boiler.
pub const FIRST: Rule = Rule {
    id: "MODEL-BOILER-FIRST",
    sentence: "The first test of a miniature boiler is at twice its working pressure; some clubs take 1.5 times, an older code rule three times the maximum allowable pressure.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "miniature_boiler_schools",
};

/// Later tests.
pub const LATER: Rule = Rule {
    id: "MODEL-BOILER-LATER",
    sentence: "A later test of a miniature boiler is at 1.5 times its working pressure.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "miniature_boiler_schools",
};

/// The least hold.
pub const HOLD: Rule = Rule {
    id: "MODEL-BOILER-HOLD",
    sentence: "A miniature boiler is held at test pressure for at least 15 minutes.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "each_basis_has_its_floor",
};

/// Floor of the hold.
pub const HOLD_FLOOR: Span = Span::from_minutes(15.0);

/// First or later test.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Occasion {
    /// first test, or after work on pressure parts
    First,
    /// periodic test of a boiler proved before
    Later,
}

/// What a first test is taken to be.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum FirstTestSchool {
    /// twice the working pressure
    #[default]
    Twice,
    /// one and a half times
    OneAndAHalf,
    /// three times (an older code rule, from memory)
    ThreeTimes,
}

/// A miniature boiler.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MiniatureBoiler {
    /// Working pressure, Pa gauge.
    pub working_pressure_pa: GaugePressure,
    /// First or later test.
    pub occasion: Occasion,
    /// What a first test is taken to be.
    #[serde(default)]
    pub first_test: FirstTestSchool,
}

impl MiniatureBoiler {
    fn factor(&self) -> (f64, &'static Rule) {
        match (self.occasion, self.first_test) {
            (Occasion::Later, _) => (1.5, &LATER),
            (Occasion::First, FirstTestSchool::Twice) => (2.0, &FIRST),
            (Occasion::First, FirstTestSchool::OneAndAHalf) => (1.5, &FIRST),
            (Occasion::First, FirstTestSchool::ThreeTimes) => (3.0, &FIRST),
        }
    }

    pub(super) fn required(&self) -> Required {
        let (factor, rule) = self.factor();
        let pressure = self.working_pressure_pa.times(factor);
        let why = Derivation::new("least pressure at every part", rule, Amount::gauge(pressure), "p = f · working pressure")
            .with("f", "factor for this occasion", Amount::number(factor), "school chosen for this test")
            .with("p_w", "working pressure", Amount::gauge(self.working_pressure_pa), "as entered")
            .would_change("Another working pressure, or a first test where this is a later one.");
        Required { pressure, why }
    }
}
