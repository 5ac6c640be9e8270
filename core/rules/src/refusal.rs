//! Why nothing can be derived of a system.

use crate::basis::BasisError;
use crate::fluid::LiquidError;
use crate::library::TableError;
use crate::limits::{self, LimitError};
use crate::objection::Objection;
use crate::say::Say;
use crate::site::SiteError;
use crate::specification::SpecificationError;
use crate::system::{ENTERED, FORMAT, HISTORY};
use physics::{gas, water};
use quantity::{AbsolutePressure, GaugePressure, Temperature};
use std::fmt;

/// Why nothing can be derived. Each names the part or field and what would be accepted; the renderer takes the unit.
#[derive(Debug, Clone, PartialEq)]
pub enum Refusal {
    /// No parts.
    NoParts,
    /// Two parts with one tag.
    TagTwice(String),
    /// A joint with a part that is not there.
    JointOfNobody(String),
    /// A format that this program does not know.
    Format(u32),
    /// A part without a limit.
    Limit(LimitError),
    /// The basis cannot be applied.
    Basis(BasisError),
    /// Gas out of range.
    Gas(physics::gas::OutsideGas),
    /// Water out of range.
    Water(water::OutsideLiquidWater),
    /// The liquid cannot be tested with.
    Liquid(LiquidError),
    /// The project's specification cannot stand.
    Specification(SpecificationError),
    /// A value of the library.
    Library(TableError),
    /// Nobody knows the history of a part, and its wall or plate is not given.
    UnknownHistory {
        /// the part
        tag: String,
        /// what is missing
        missing: &'static str,
        /// what to do
        ask: &'static str,
        /// the field
        field: &'static str,
    },
    /// A figure of the site that cannot be.
    Site(SiteError),
    /// A pressure that cannot be.
    NotPositive {
        /// which
        field: &'static str,
        /// value
        value: GaugePressure,
    },
    /// A figure of a part that cannot be.
    PartFigure {
        /// the part
        tag: String,
        /// the column
        field: &'static str,
    },
    /// A setting that makes no sense.
    Setting {
        /// which
        field: &'static str,
        /// value
        value: f64,
        /// least
        lo: f64,
        /// greatest
        hi: f64,
    },
}

impl From<LimitError> for Refusal {
    fn from(e: LimitError) -> Self {
        Self::Limit(e)
    }
}
impl From<BasisError> for Refusal {
    fn from(e: BasisError) -> Self {
        Self::Basis(e)
    }
}
impl From<physics::gas::OutsideGas> for Refusal {
    fn from(e: physics::gas::OutsideGas) -> Self {
        Self::Gas(e)
    }
}
impl From<water::OutsideLiquidWater> for Refusal {
    fn from(e: water::OutsideLiquidWater) -> Self {
        Self::Water(e)
    }
}
impl From<LiquidError> for Refusal {
    fn from(e: LiquidError) -> Self {
        Self::Liquid(e)
    }
}
impl From<SpecificationError> for Refusal {
    fn from(e: SpecificationError) -> Self {
        Self::Specification(e)
    }
}
impl From<TableError> for Refusal {
    fn from(e: TableError) -> Self {
        Self::Library(e)
    }
}
impl From<SiteError> for Refusal {
    fn from(e: SiteError) -> Self {
        Self::Site(e)
    }
}

impl std::error::Error for Refusal {}

impl fmt::Display for Refusal {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.say(Say::default()))
    }
}

impl Refusal {
    /// Name of the field to mend.
    pub fn field(&self) -> &'static str {
        match self {
            Self::NoParts => "parts",
            Self::TagTwice(_) => "tag",
            Self::JointOfNobody(_) => "joints",
            Self::Format(_) => "format",
            Self::Limit(e) => e.field(),
            Self::Basis(e) => e.field(),
            Self::Water(_) | Self::Gas(_) => "water_temperature_c",
            Self::Liquid(e) => e.field(),
            Self::Specification(_) | Self::Library(_) => "specification",
            Self::Site(e) => e.field(),
            Self::UnknownHistory { field, .. } => field,
            Self::NotPositive { field, .. } | Self::Setting { field, .. } | Self::PartFigure { field, .. } => field,
        }
    }

    /// Key of the step where it is mended.
    pub fn step(&self) -> &'static str {
        match self {
            Self::Basis(e) if e.part().is_none() => "prove",
            Self::Water(_) | Self::Gas(_) | Self::Liquid(_) => "prove",
            _ => "derive",
        }
    }

    /// As something that stands against the test, in a person's units.
    pub fn objection(&self, say: Say) -> Objection {
        Objection {
            part: self.part().map(str::to_owned),
            ..Objection::new(self.rule(), self.step(), self.field(), crate::say::sentence(&self.say(say), self.part().is_some()))
        }
    }

    /// Tag of the part to mend, where it is one.
    pub fn part(&self) -> Option<&str> {
        match self {
            Self::TagTwice(tag) | Self::UnknownHistory { tag, .. } | Self::PartFigure { tag, .. } => Some(tag),
            Self::Limit(e) => Some(e.tag()),
            Self::Basis(e) => e.part(),
            _ => None,
        }
    }

    /// Id of the rule that refuses.
    pub fn rule(&self) -> &str {
        match self {
            Self::Limit(e) => match e {
                LimitError::Table { source: TableError::OutsideTable { .. }, .. } => limits::flange::DESIGN.id,
                _ => e.rule(),
            },
            Self::Basis(e) => e.rule(),
            Self::UnknownHistory { .. } => HISTORY.id,
            Self::Liquid(LiquidError::Flash { .. }) => crate::fluid::FLAMMABLE.id,
            _ => ENTERED.id,
        }
    }

    /// What is wrong and what to do, its pressures said in a unit.
    pub fn say(&self, say: Say) -> String {
        match self {
            Self::NoParts => "the system has no parts: give at least one with its height and what it can bear".to_owned(),
            Self::TagTwice(tag) => format!("two parts carry the tag \"{tag}\": give each its own"),
            Self::JointOfNobody(tag) => {
                format!("a joint names the part \"{tag}\", which is not in the list: enter the part, or mend the joint")
            }
            Self::Format(n) => format!("the system is written in format {n}, and this program reads up to {FORMAT}: use a newer one"),
            Self::Limit(e) => e.say(say),
            Self::Basis(e) => e.say(say),
            Self::Gas(e) => outside(e.gas, (e.temperature, e.pressure), (gas::TEMPERATURES, gas::PRESSURES), say),
            Self::Water(e) => outside("water", (e.temperature, e.pressure), (water::TEMPERATURES, water::PRESSURES), say),
            Self::Liquid(e) => e.say(say),
            Self::Specification(e) => e.to_string(),
            Self::Library(e) => e.say(say),
            Self::UnknownHistory { tag, missing, ask, .. } => {
                format!("{tag}: its history is not known, and without {missing} there is no target pressure: {ask}")
            }
            Self::Site(e) => e.to_string(),
            Self::NotPositive { field, value } => {
                format!("{field} must be above zero and finite, not {}: check the figure and its unit", say.p(*value))
            }
            Self::PartFigure { tag, field } => {
                format!("{tag}: the figure in the column \"{field}\" must be above zero: mend it, or leave the cell empty")
            }
            Self::Setting { field, value, lo, hi } => format!("{field} must lie between {lo} and {hi}, not {value}: check the figure"),
        }
    }
}

/// A state outside the range of an equation.
fn outside(
    what: &str,
    (temperature, pressure): (Temperature, AbsolutePressure),
    ([coldest, warmest], [least, most]): ([Temperature; 2], [AbsolutePressure; 2]),
    say: Say,
) -> String {
    let absolute = |p: AbsolutePressure| say.named(GaugePressure::from_pa(p.pa()));
    format!(
        "{what} at {} and {} absolute is outside what this tool can compute: {} to {}, {} to {} absolute. Check temperature and pressure",
        say.temperature(temperature),
        absolute(pressure),
        say.temperature(coldest),
        say.temperature(warmest),
        absolute(least),
        absolute(most)
    )
}
