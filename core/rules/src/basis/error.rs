//! Why a basis cannot be applied. Each names the field and what would be accepted; the renderer takes the unit of its pressures.

use crate::accept::OwnersFall;
use crate::library::TableError;
use crate::say::Say;
use quantity::{GaugePressure, Temperature};
use std::fmt;

/// Why a basis asks nothing that could be computed.
#[derive(Debug, Clone, PartialEq)]
pub enum BasisError {
    /// No such basis.
    Unknown {
        /// what was asked for
        asked: String,
        /// what there is
        known: String,
    },
    /// No such question.
    UnknownQuestion {
        /// the basis
        basis: String,
        /// what was answered
        asked: String,
        /// its questions
        known: String,
    },
    /// No such answer.
    UnknownAnswer {
        /// the question
        question: String,
        /// what was answered
        asked: String,
        /// the answers
        known: String,
    },
    /// An option that does not fit its entry.
    Broken {
        /// the basis
        basis: String,
        /// what is wrong
        source: Box<toml::de::Error>,
    },
    /// The medium is refused.
    Medium {
        /// the rule
        rule: String,
        /// why, and what to do
        sentence: String,
    },
    /// A figure is missing.
    Missing {
        /// the field
        field: &'static str,
        /// what it is
        what: String,
        /// the basis
        basis: String,
    },
    /// No vessel to be tested with.
    NoVessel {
        /// the rule
        rule: String,
    },
    /// The greatest test pressure of a vessel that is tested at its own test pressure.
    NoVesselLimit {
        /// the rule
        rule: String,
        /// the vessel
        vessel: String,
        /// its test pressure
        test: GaugePressure,
    },
    /// A vessel whose test pressure is too low for its piping.
    VesselTooLow {
        /// the vessel
        vessel: String,
        /// its test pressure
        vessel_pa: GaugePressure,
        /// the piping's
        piping: GaugePressure,
        /// least for both
        least: GaugePressure,
        /// the rule
        rule: String,
    },
    /// No design temperature.
    NoDesignTemperature,
    /// A part of which no stress is known at its design temperature.
    NoStress {
        /// the part
        tag: String,
        /// why
        why: TableError,
    },
    /// A part whose material must be known for the ratio of stresses.
    NoMaterial {
        /// the part
        tag: String,
        /// its kind
        kind: &'static str,
        /// design temperature
        at: Temperature,
    },
    /// A line above the system's design pressure.
    LineAbove {
        /// the part
        tag: String,
        /// its own
        own: GaugePressure,
        /// the system's
        system: GaugePressure,
    },
    /// A line hotter than the system.
    LineHotter {
        /// the part
        tag: String,
        /// its own
        own: Temperature,
        /// the system's
        system: Temperature,
    },
    /// A line of which nobody gave the conditions.
    LineMissing {
        /// the part
        tag: String,
        /// the column
        column: &'static str,
    },
    /// A design pressure for a part under a basis that multiplies another.
    NotDesign {
        /// the part
        tag: String,
        /// the basis
        basis: String,
        /// what it multiplies
        multiplies: String,
    },
    /// A pressure that cannot be.
    NotPositive {
        /// the field
        field: &'static str,
        /// what it is
        what: String,
        /// value
        value: GaugePressure,
    },
    /// A hold that cannot be.
    NotPositiveHold {
        /// minutes
        minutes: f64,
    },
    /// A fall that cannot be.
    OwnersFall {
        /// per cent of the pressure at the start
        percent: f64,
        /// minutes
        minutes: f64,
    },
    /// The entry does not hold for so high a pressure.
    TooHigh {
        /// the field
        field: &'static str,
        /// the rule
        rule: String,
        /// the basis
        basis: String,
        /// greatest
        most: GaugePressure,
        /// given
        given: GaugePressure,
    },
    /// The entry does not hold at this temperature.
    TemperatureOutside {
        /// the rule
        rule: String,
        /// the basis
        basis: String,
        /// least, °C
        least_c: f64,
        /// greatest, °C
        most_c: f64,
        /// given
        given: Temperature,
    },
    /// The working pressure is above the plate's.
    AbovePlate {
        /// asked for
        working: GaugePressure,
        /// the plate
        plate: GaugePressure,
    },
    /// The agreed figure is too low.
    BelowFloor {
        /// agreed
        agreed: GaugePressure,
        /// floor
        floor: GaugePressure,
        /// rule
        rule: String,
        /// formula of the floor
        formula: String,
    },
    /// The figure is above what the code itself allows.
    AboveMost {
        /// asked
        asked: GaugePressure,
        /// greatest
        most: GaugePressure,
        /// rule
        rule: String,
    },
    /// More than 5 % above the floor without a reason.
    OverTest {
        /// agreed
        agreed: GaugePressure,
        /// by the basis
        asked: GaugePressure,
    },
    /// An owner's standard on top of itself.
    OnTopOfItself,
    /// A table lacks a value.
    Table(TableError),
}

impl BasisError {
    /// Name of the field to mend.
    pub const fn field(&self) -> &'static str {
        match self {
            Self::Unknown { .. } | Self::Broken { .. } => "basis",
            Self::UnknownQuestion { .. } | Self::UnknownAnswer { .. } => "choices",
            Self::Medium { .. } => "medium",
            Self::Missing { field, .. } | Self::NotPositive { field, .. } | Self::TooHigh { field, .. } => field,
            Self::NoDesignTemperature | Self::TemperatureOutside { .. } => "design_temperature_c",
            Self::NotPositiveHold { .. } => "agreed_hold_s",
            Self::OwnersFall { .. } => "owners_fall",
            Self::AbovePlate { .. } => "working_pressure_pa",
            Self::BelowFloor { .. } | Self::AboveMost { .. } => "agreed_pressure_pa",
            Self::OverTest { .. } => "over_test_reason",
            Self::NoVessel { .. } | Self::VesselTooLow { .. } => "test pressure",
            Self::NoVesselLimit { .. } => "limit",
            Self::OnTopOfItself => "on_top_of",
            Self::NoMaterial { .. } | Self::NoStress { .. } | Self::Table(_) => "material",
            Self::NotDesign { .. } | Self::LineAbove { .. } => "design pressure",
            Self::LineHotter { .. } => "design temperature",
            Self::LineMissing { column, .. } => column,
        }
    }

    /// Tag of the part to mend, where it is one.
    pub fn part(&self) -> Option<&str> {
        match self {
            Self::NoMaterial { tag, .. }
            | Self::NoStress { tag, .. }
            | Self::NotDesign { tag, .. }
            | Self::LineAbove { tag, .. }
            | Self::LineHotter { tag, .. }
            | Self::LineMissing { tag, .. } => Some(tag),
            Self::NoVesselLimit { vessel, .. } | Self::VesselTooLow { vessel, .. } => Some(vessel),
            _ => None,
        }
    }

    /// Id of the rule that refuses.
    pub fn rule(&self) -> &str {
        match self {
            Self::Medium { rule, .. }
            | Self::NoVessel { rule }
            | Self::NoVesselLimit { rule, .. }
            | Self::VesselTooLow { rule, .. }
            | Self::TooHigh { rule, .. }
            | Self::TemperatureOutside { rule, .. }
            | Self::BelowFloor { rule, .. }
            | Self::AboveMost { rule, .. } => rule,
            Self::Missing { .. } | Self::NoDesignTemperature => super::MISSING.id,
            Self::NoStress { .. } | Self::NoMaterial { .. } | Self::Table(_) => super::ratio::RULE.id,
            Self::NotDesign { .. } | Self::LineAbove { .. } | Self::LineHotter { .. } | Self::LineMissing { .. } => super::line::RULE.id,
            Self::AbovePlate { .. } => crate::used::PLATE.id,
            Self::OverTest { .. } => super::OVER_TEST.id,
            _ => super::SENSE.id,
        }
    }

    /// What is wrong and what to do, its pressures said in a unit.
    pub fn say(&self, say: Say) -> String {
        match self {
            Self::Unknown { asked, known } => format!("no test basis is called \"{asked}\": use one of {known}"),
            Self::UnknownQuestion { basis, asked, known } => {
                format!("{basis} asks no question \"{asked}\": it asks {}", if known.is_empty() { "none" } else { known })
            }
            Self::UnknownAnswer { question, asked, known } => format!("\"{asked}\" is no answer to \"{question}\": use one of {known}"),
            Self::Broken { basis, source } => format!("the book of bases is broken at {basis}: {source}. Restore its data file"),
            Self::Medium { sentence, .. } => sentence.clone(),
            Self::Missing { what, basis, .. } => format!("missing: {what}, a figure above zero ({basis})"),
            Self::NoVessel { rule } => format!(
                "{rule} needs the test pressure of the vessel that is tested with the piping: give it in the column \"test pressure\" of a part of kind vessel"
            ),
            Self::NoVesselLimit { rule, vessel, test } => format!(
                "{rule}: {vessel} is tested at its own {}, and how much more it bears is not known: ask its maker or its code for its greatest test pressure and give it in the column \"limit\", or no gauge reading fits",
                say.p(*test)
            ),
            Self::VesselTooLow { vessel, vessel_pa, piping, least, rule } => format!(
                "{rule}: the vessel {vessel} is tested at {}, the piping at {}; together they need {} or more at the vessel: isolate the vessel and test the two apart",
                say.p(*vessel_pa),
                say.p(*piping),
                say.up(*least)
            ),
            Self::NoDesignTemperature => "the stress ratio needs the design temperature: give it".to_owned(),
            Self::NoStress { tag, why } => format!("{tag}: {}", why.say(say)),
            Self::NoMaterial { tag, kind, at } => format!(
                "{tag}: the stress ratio at {} needs the material of this {kind}: without it the test could be too low. Give the material",
                say.temperature(*at)
            ),
            Self::NotDesign { tag, basis, multiplies } => format!(
                "{tag} has a design pressure of its own, but {basis} multiplies the {multiplies}: leave the cell empty and give that figure on Prove"
            ),
            Self::LineAbove { tag, own, system } => format!(
                "{tag} has a design pressure of {}, above the {} of the system: the system's figure is the highest of its lines. Raise it on Prove, or leave it empty there and give every part its own",
                say.p(*own),
                say.p(*system)
            ),
            Self::LineHotter { tag, own, system } => format!(
                "{tag} has a design temperature of {}, above the {} of the system: the system's figure is the highest of its lines. Raise it on Prove, or leave it empty there and give every part its own",
                say.temperature(*own),
                say.temperature(*system)
            ),
            Self::LineMissing { tag, column } => {
                format!(
                    "{tag}: nobody gave its {column}, and the system has none for all: give its own, or the highest of the system on Prove"
                )
            }
            Self::NotPositive { what, value, .. } => {
                format!("the {what} must be above zero and finite, not {}: check the figure and its unit", say.p(*value))
            }
            Self::NotPositiveHold { minutes } => format!("the hold must be above zero, not {minutes} minutes: give the owner's figure"),
            Self::OwnersFall { percent, minutes } => format!(
                "the owner allows a fall above 0 and up to {} % within a time above zero, not {percent} % in {minutes} minutes: give both, or leave both empty",
                100.0 * OwnersFall::MOST
            ),
            Self::TooHigh { basis, most, given, .. } => {
                format!("{basis} holds up to {}, not for {}: take another basis", say.down(*most), say.p(*given))
            }
            Self::TemperatureOutside { basis, least_c, most_c, given, .. } => {
                let at = |c: f64| say.temperature(Temperature::from_c(c));
                format!("{basis} holds from {} to {}, not at {}: take another basis", at(*least_c), at(*most_c), say.temperature(*given))
            }
            Self::AbovePlate { working, plate } => format!(
                "a working pressure of {} is above the {} on the plate: work at no more than the plate says",
                say.p(*working),
                say.p(*plate)
            ),
            Self::BelowFloor { agreed, floor, rule, formula } => format!(
                "the agreed {} is below the least that {rule} asks, {} ({formula}): agree to that or more",
                say.p(*agreed),
                say.up(*floor)
            ),
            Self::AboveMost { asked, most, rule } => {
                format!("{} is asked, but {rule} allows at most {}: lower the agreed figure, or derate", say.p(*asked), say.down(*most))
            }
            Self::OverTest { agreed, asked } => format!(
                "the agreed {} is more than 5 % above the {} that the basis asks: give the reason (furnaces and flues see it as external pressure), or agree to less",
                say.p(*agreed),
                say.p(*asked)
            ),
            Self::OnTopOfItself => "an owner's standard stands on top of a code, not of another owner's standard: name the code".to_owned(),
            Self::Table(e) => e.say(say),
        }
    }
}

impl fmt::Display for BasisError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.say(Say::default()))
    }
}

impl std::error::Error for BasisError {}

impl From<TableError> for BasisError {
    fn from(e: TableError) -> Self {
        Self::Table(e)
    }
}
