//! Test bases: what the adopted rule asks for. One file per family.

pub mod b31_3;
pub mod boiler_model;

use crate::derivation::Derivation;
use crate::part::Part;
use crate::rule::Rule;
use crate::tables::TableError;
use quantity::{GaugePressure, Span};
use serde::{Deserialize, Serialize};

/// Rules of the bases.
pub const RULES: &[&Rule] = &[&b31_3::LIQUID, &b31_3::HOLD, &boiler_model::FIRST, &boiler_model::LATER, &boiler_model::HOLD];

/// The basis of a test with what it multiplies.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "id", rename_all = "snake_case")]
pub enum Basis {
    /// Process piping, liquid (ASME B31.3, 345.4)
    #[serde(rename = "b31_3")]
    B313(b31_3::Liquid),
    /// Miniature boiler, first or later test (common practice, club rules)
    BoilerModel(boiler_model::MiniatureBoiler),
}

/// What a basis asks of every part.
#[derive(Debug, Clone, PartialEq)]
pub struct Required {
    /// Least pressure at every part.
    pub pressure: GaugePressure,
    /// Why.
    pub why: Derivation,
}

impl Basis {
    /// Least pressure that every part must see, with its derivation.
    ///
    /// # Errors
    /// When a table lacks what the rule needs.
    pub fn required(&self, parts: &[Part]) -> Result<Required, TableError> {
        match self {
            Self::B313(b) => b.required(parts),
            Self::BoilerModel(b) => Ok(b.required()),
        }
    }

    /// Name of the basis, as a report prints it.
    pub const fn words(&self) -> &'static str {
        match self {
            Self::B313(_) => "process piping, liquid (ASME B31.3, 345.4; not checked against the published edition)",
            Self::BoilerModel(_) => "miniature boiler (common practice, club rules)",
        }
    }

    /// The least hold that the basis allows.
    pub fn hold_floor(&self) -> Span {
        match self {
            Self::B313(_) => b31_3::HOLD_FLOOR,
            Self::BoilerModel(_) => boiler_model::HOLD_FLOOR,
        }
    }

    /// Rule of the hold's floor.
    pub fn hold_rule(&self) -> &'static Rule {
        match self {
            Self::B313(_) => &b31_3::HOLD,
            Self::BoilerModel(_) => &boiler_model::HOLD,
        }
    }

    /// Share of yield that a wall may reach in the test, and whether the nominal wall may be used for it.
    pub fn yield_share(&self) -> f64 {
        match self {
            Self::B313(_) => 1.0,
            Self::BoilerModel(_) => 0.9,
        }
    }

    /// Where the code gives no upper limit, the greatest multiple of the test pressure.
    pub fn over_test_factor(&self) -> Option<f64> {
        match self {
            Self::B313(_) => None,
            Self::BoilerModel(_) => Some(1.1),
        }
    }

    /// Name for a heading.
    pub fn name(&self) -> &'static str {
        match self {
            Self::B313(_) => "ASME B31.3, liquid (345.4)",
            Self::BoilerModel(_) => "miniature boiler, club practice",
        }
    }

    /// Pressure that the basis multiplies.
    pub fn base_pressure(&self) -> GaugePressure {
        match self {
            Self::B313(b) => b.design_pressure_pa,
            Self::BoilerModel(b) => b.working_pressure_pa,
        }
    }
}
