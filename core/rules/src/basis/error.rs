//! Why a basis cannot be applied. Each names the field and what would be accepted.

use crate::accept::OwnersFall;
use crate::library::TableError;

/// Why a basis asks nothing that could be computed.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum BasisError {
    /// No such basis.
    #[error("no test basis is called \"{asked}\": use one of {known}")]
    Unknown {
        /// what was asked for
        asked: String,
        /// what there is
        known: String,
    },
    /// No such question.
    #[error("{basis} asks no question \"{asked}\": it asks {}", if known.is_empty() { "none" } else { known })]
    UnknownQuestion {
        /// the basis
        basis: String,
        /// what was answered
        asked: String,
        /// its questions
        known: String,
    },
    /// No such answer.
    #[error("\"{asked}\" is no answer to \"{question}\": use one of {known}")]
    UnknownAnswer {
        /// the question
        question: String,
        /// what was answered
        asked: String,
        /// the answers
        known: String,
    },
    /// An option that does not fit its entry.
    #[error("the book of bases is broken at {basis}: {what}. Restore its data file")]
    Broken {
        /// the basis
        basis: String,
        /// what is wrong
        what: String,
    },
    /// The medium is refused.
    #[error("{0}")]
    Medium(String),
    /// A figure is missing.
    #[error("{basis} needs {what}: give it as a figure above zero")]
    Missing {
        /// the field
        field: &'static str,
        /// what it is
        what: String,
        /// the basis
        basis: String,
    },
    /// No vessel to be tested with.
    #[error(
        "{rule} needs the test pressure of the vessel that is tested with the piping: give it in the column \"test pressure\" of a part of kind vessel"
    )]
    NoVessel {
        /// the rule
        rule: String,
    },
    /// A vessel whose test pressure is too low for its piping.
    #[error(
        "{rule}: the vessel {vessel} is tested at {vessel_bar:.2} bar, the piping at {piping_bar:.2} bar; together they need {least_bar:.2} bar or more at the vessel: isolate the vessel and test the two apart"
    )]
    VesselTooLow {
        /// the vessel
        vessel: String,
        /// its test pressure
        vessel_bar: f64,
        /// the piping's
        piping_bar: f64,
        /// least for both
        least_bar: f64,
        /// the rule
        rule: String,
    },
    /// No design temperature.
    #[error("the stress ratio needs the design temperature: give it in °C, −29 or more")]
    NoDesignTemperature,
    /// A pressure that cannot be.
    #[error("the {what} must be above zero and finite, not {value_bar} bar: check the figure and its unit")]
    NotPositive {
        /// the field
        field: &'static str,
        /// what it is
        what: &'static str,
        /// value
        value_bar: f64,
    },
    /// A hold that cannot be.
    #[error("the hold must be above zero, not {minutes} minutes: give the owner's figure")]
    NotPositiveHold {
        /// minutes
        minutes: f64,
    },
    /// A fall that cannot be.
    #[error("the owner allows a fall above 0 and up to {} % within a time above zero, not {percent} % in {minutes} minutes: give both, or leave both empty", 100.0 * OwnersFall::MOST)]
    OwnersFall {
        /// per cent of the pressure at the start
        percent: f64,
        /// minutes
        minutes: f64,
    },
    /// The entry does not hold for so high a pressure.
    #[error("{basis} holds up to {most}, not for {given_bar:.2} bar: take the entry for hot water, or another basis")]
    AllowableTooHigh {
        /// the basis
        basis: String,
        /// greatest
        most: String,
        /// given
        given_bar: f64,
    },
    /// The agreed figure is too low.
    #[error("the agreed {agreed_bar:.2} bar are below the {floor_bar:.2} bar that {rule} asks at least: agree to no less")]
    BelowFloor {
        /// agreed
        agreed_bar: f64,
        /// floor
        floor_bar: f64,
        /// rule
        rule: String,
    },
    /// The figure is above what the code itself allows.
    #[error("{asked_bar:.2} bar are asked, but {rule} allows at most {most_bar:.2} bar: lower the agreed figure, or derate")]
    AboveMost {
        /// asked
        asked_bar: f64,
        /// greatest
        most_bar: f64,
        /// rule
        rule: String,
    },
    /// More than 5 % above the floor without a reason.
    #[error(
        "the agreed {agreed_bar:.2} bar are more than 5 % above the {asked_bar:.2} bar that the basis asks: give the reason (furnaces and flues see it as external pressure), or agree to less"
    )]
    OverTest {
        /// agreed
        agreed_bar: f64,
        /// by the basis
        asked_bar: f64,
    },
    /// An owner's standard on top of itself.
    #[error("an owner's standard stands on top of a code, not of another owner's standard: name the code")]
    OnTopOfItself,
    /// A table lacks a value.
    #[error(transparent)]
    Table(TableError),
}

impl BasisError {
    /// Name of the field to mend.
    pub const fn field(&self) -> &'static str {
        match self {
            Self::Unknown { .. } | Self::Broken { .. } => "basis",
            Self::UnknownQuestion { .. } | Self::UnknownAnswer { .. } => "choices",
            Self::Medium(_) => "medium",
            Self::Missing { field, .. } | Self::NotPositive { field, .. } => field,
            Self::NoDesignTemperature => "design_temperature_c",
            Self::NotPositiveHold { .. } => "agreed_hold_s",
            Self::OwnersFall { .. } => "owners_fall",
            Self::AllowableTooHigh { .. } => "allowable_pressure_pa",
            Self::BelowFloor { .. } | Self::AboveMost { .. } => "agreed_pressure_pa",
            Self::OverTest { .. } => "over_test_reason",
            Self::NoVessel { .. } | Self::VesselTooLow { .. } => "test pressure",
            Self::OnTopOfItself => "on_top_of",
            Self::Table(_) => "material",
        }
    }
}
