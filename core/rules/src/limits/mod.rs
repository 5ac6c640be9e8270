//! What a part can bear in the test. One limit a file; the least of them is the part's.
//!
//! A limit is found as a bare figure first; its words and its derivation are made for the one that is asked about.

pub mod blind;
pub mod closed_seat;
pub mod flange;
pub mod hoop;
pub mod longitudinal;
pub mod maker;
pub mod over_test;
pub mod proven;
pub mod thrust;

use crate::basis::Demand;
use crate::derivation::Derivation;
use crate::library::TableError;
use crate::part::{Part, PartKind};
use crate::rule::Rule;
use quantity::GaugePressure;
use std::borrow::Cow;

/// Rules of the limits.
pub const RULES: &[&Rule] = &[
    &hoop::RULE,
    &longitudinal::RULE,
    &flange::RULE,
    &closed_seat::RULE,
    &maker::RULE,
    &proven::RULE,
    &thrust::RULE,
    &blind::RULE,
    &over_test::RULE,
];

/// What sets a limit.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LimitKind {
    /// hoop stress
    Hoop,
    /// longitudinal stress
    Longitudinal,
    /// class of a flange or valve
    Flange,
    /// seat of a closed valve
    ClosedSeat,
    /// maker or plate
    Maker,
    /// last proof of old plant
    Proven,
    /// restraint of an end
    Thrust,
    /// thickness of a blind
    Blind,
    /// the code's own
    Code,
    /// the code is silent
    OverTest,
}

/// A limit as a bare figure.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Found {
    /// What sets it.
    pub kind: LimitKind,
    /// Greatest pressure at the part.
    pub pressure: GaugePressure,
}

/// A limit with its words and its derivation.
#[derive(Debug, Clone, PartialEq)]
pub struct Limit {
    /// Greatest pressure at the part.
    pub pressure: GaugePressure,
    /// Id of the rule that set it.
    pub rule: String,
    /// In a few words, for a table: "yield, nominal wall".
    pub words: String,
    /// Why.
    pub why: Derivation,
}

/// Why no limit can be given for a part.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum LimitError {
    /// Nothing to go by.
    #[error("{tag}: nothing says what this {kind} can bear; {ask}")]
    NothingKnown {
        /// the part
        tag: String,
        /// its kind
        kind: &'static str,
        /// what to give
        ask: String,
        /// the column to fill
        field: &'static str,
    },
    /// A wall that does not fit its diameter.
    #[error("{tag}: a wall of {wall_mm:.2} mm does not fit an outside diameter of {diameter_mm:.1} mm; check both")]
    WallTooThick {
        /// the part
        tag: String,
        /// wall, mm
        wall_mm: f64,
        /// diameter, mm
        diameter_mm: f64,
    },
    /// A table lacks it.
    #[error("{tag}: {source}")]
    Table {
        /// the part
        tag: String,
        /// what the table says
        source: TableError,
    },
}

impl LimitError {
    /// The field to mend.
    pub fn field(&self) -> &'static str {
        match self {
            Self::NothingKnown { field, .. } => field,
            Self::WallTooThick { .. } => "wall",
            Self::Table { source: TableError::UnknownFlange { .. }, .. } => "class",
            Self::Table { source: TableError::UnknownPipe { .. }, .. } => "wall",
            Self::Table { .. } => "material",
        }
    }
    /// The part.
    pub fn tag(&self) -> &str {
        match self {
            Self::NothingKnown { tag, .. } | Self::WallTooThick { tag, .. } | Self::Table { tag, .. } => tag,
        }
    }
}

/// Room for every limit that a part can have.
const MOST: usize = 10;

/// Every limit that is known for a part, in no order.
struct All {
    found: [Option<Found>; MOST],
    count: usize,
}

impl All {
    fn push(&mut self, kind: LimitKind, pressure: Option<GaugePressure>) {
        if let (Some(pressure), Some(place)) = (pressure, self.found.get_mut(self.count)) {
            *place = Some(Found { kind, pressure });
            self.count += 1;
        }
    }
    fn iter(&self) -> impl Iterator<Item = Found> {
        self.found.iter().flatten().copied()
    }
}

fn all(part: &Part, demand: &Demand) -> Result<All, LimitError> {
    if let Some(ask) = demand.entry.needs_wall.as_deref().filter(|_| wall_is_missing(part)) {
        return Err(LimitError::NothingKnown { tag: part.tag.clone(), kind: part.kind.word(), ask: ask.to_owned(), field: "wall" });
    }
    let mut found = All { found: [None; MOST], count: 0 };
    if let Some(wall) = hoop::wall_of(part, demand)? {
        found.push(LimitKind::Hoop, hoop::value(&wall, demand));
        found.push(LimitKind::Longitudinal, longitudinal::value(&wall, demand));
    }
    found.push(LimitKind::Flange, flange::value(part, demand)?);
    found.push(LimitKind::ClosedSeat, closed_seat::value(part, demand));
    found.push(LimitKind::Maker, maker::value(part));
    found.push(LimitKind::Proven, part.proven_pa);
    found.push(LimitKind::Thrust, thrust::value(part));
    found.push(LimitKind::Blind, blind::value(part, demand)?);
    if found.count == 0 {
        let (ask, field) = what_to_give(part);
        return Err(LimitError::NothingKnown { tag: part.tag.clone(), kind: part.kind.word(), ask: ask.to_owned(), field });
    }
    found.push(LimitKind::Code, demand.most.as_ref().map(|m| m.pressure));
    found.push(LimitKind::OverTest, demand.entry.silent.map(|factor| over_test::value(demand.least.pressure, factor)));
    Ok(found)
}

/// The least limit of a part, as a bare figure.
///
/// # Errors
/// When nothing says what the part can bear: an empty cell never means "allowed".
pub fn least(part: &Part, demand: &Demand) -> Result<Found, LimitError> {
    let found = all(part, demand)?;
    let least = found.iter().reduce(|a, b| if b.pressure < a.pressure { b } else { a });
    least.ok_or_else(|| {
        let (ask, field) = what_to_give(part);
        LimitError::NothingKnown { tag: part.tag.clone(), kind: part.kind.word(), ask: ask.to_owned(), field }
    })
}

/// Every limit that is known for a part with its derivation, the least first.
///
/// # Errors
/// When nothing says what the part can bear.
pub fn of(part: &Part, demand: &Demand) -> Result<Vec<Limit>, LimitError> {
    let mut found: Vec<Found> = all(part, demand)?.iter().collect();
    found.sort_by(|a, b| a.pressure.pa().total_cmp(&b.pressure.pa()));
    found.into_iter().map(|f| explained(f, part, demand)).collect()
}

fn explained(found: Found, part: &Part, demand: &Demand) -> Result<Limit, LimitError> {
    let p = found.pressure;
    let why = match found.kind {
        LimitKind::Hoop | LimitKind::Longitudinal => match hoop::wall_of(part, demand)? {
            Some(wall) if found.kind == LimitKind::Hoop => hoop::why(&wall, demand, p),
            Some(wall) => longitudinal::why(&wall, demand, p),
            None => maker::why(part, p),
        },
        LimitKind::Flange => flange::why(part, demand, p),
        LimitKind::ClosedSeat => closed_seat::why(part, demand, p),
        LimitKind::Maker => maker::why(part, p),
        LimitKind::Proven => proven::why(p),
        LimitKind::Thrust => thrust::why(part, p),
        LimitKind::Blind => blind::why(part, demand, p),
        LimitKind::Code => demand.most.as_ref().map_or_else(|| maker::why(part, p), |m| m.why.clone()),
        LimitKind::OverTest => over_test::why(demand.least.pressure, demand.entry.silent.unwrap_or(1.0), p),
    };
    Ok(Limit { pressure: p, rule: why.rule.clone(), words: words(found.kind, part, demand).into_owned(), why })
}

/// Id of the rule that sets a limit.
pub fn rule_of(kind: LimitKind, demand: &Demand) -> Cow<'static, str> {
    Cow::Borrowed(match kind {
        LimitKind::Hoop => hoop::RULE.id,
        LimitKind::Longitudinal => longitudinal::RULE.id,
        LimitKind::Flange => flange::RULE.id,
        LimitKind::ClosedSeat => closed_seat::RULE.id,
        LimitKind::Maker => maker::RULE.id,
        LimitKind::Proven => proven::RULE.id,
        LimitKind::Thrust => thrust::RULE.id,
        LimitKind::Blind => blind::RULE.id,
        LimitKind::OverTest => over_test::RULE.id,
        LimitKind::Code => return demand.most.as_ref().map_or(Cow::Borrowed(""), |m| Cow::Owned(m.why.rule.clone())),
    })
}

/// A limit in a few words, for a table.
pub fn words(kind: LimitKind, part: &Part, demand: &Demand) -> Cow<'static, str> {
    match kind {
        LimitKind::Hoop => hoop::words(part, demand),
        LimitKind::Longitudinal => "end thrust in the wall".into(),
        LimitKind::Flange => flange::words(part),
        LimitKind::ClosedSeat => format!("closed seat, {} × rating", closed_seat::factor(part, demand).0).into(),
        LimitKind::Maker => maker::words(part).into(),
        LimitKind::Proven => "last proven pressure".into(),
        LimitKind::Thrust => "thrust restraint".into(),
        LimitKind::Blind => "thickness of the blind".into(),
        LimitKind::Code => demand.most.as_ref().map_or(Cow::Borrowed(""), |m| format!("by the code, {}", m.why.formula).into()),
        LimitKind::OverTest => format!("{} × test pressure", demand.entry.silent.unwrap_or(1.0)).into(),
    }
}

/// True for a vessel or boiler of which the wall is not known.
fn wall_is_missing(part: &Part) -> bool {
    use PartKind as K;
    matches!(part.kind, K::Vessel | K::Boiler) && (part.wall_m.is_none() || part.outside_diameter_m.is_none() || part.material.is_none())
}

fn what_to_give(part: &Part) -> (&'static str, &'static str) {
    use PartKind as K;
    match part.kind {
        K::Pipe | K::Bend => ("give its size, wall and material, or its own test limit", "wall"),
        K::Boiler => (
            "measure the wall at its thinnest place and give diameter, wall and material: without a wall there is no test pressure",
            "wall",
        ),
        K::Flange => ("give its class and material, or its own test limit", "class"),
        K::Valve => ("give its class and material, or the maker's test limit of its shell", "class"),
        K::ClosedValve => ("give the rating of its seat", "rating"),
        K::Hose | K::Fitting | K::Bellows => ("give the maker's rating", "rating"),
        K::Blind => ("give its thickness, the gasket's diameter and the material, or its own test limit", "limit"),
        K::Vessel | K::Vent => ("give its own test limit", "limit"),
    }
}
