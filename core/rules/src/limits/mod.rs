//! What a part can bear in the test. One limit a file; the least of them is the part's.
//!
//! A limit is found as a bare figure first; its words and its derivation are made for the one that is asked about.

pub mod blind;
pub mod closed_seat;
pub mod ductile;
pub mod flange;
pub mod hoop;
pub mod joint;
pub mod longitudinal;
pub mod maker;
pub mod named;
pub mod proven;
pub mod thrust;

use crate::basis::{Figure, Ground};
use crate::derivation::Derivation;
use crate::library::TableError;
use crate::part::{Part, PartKind};
use crate::rule::Rule;
use crate::say::Say;
use quantity::{GaugePressure, Length, Temperature};
use std::borrow::Cow;

/// Rules of the limits.
pub const RULES: &[&Rule] = &[
    &KNOWN,
    &hoop::RULE,
    &longitudinal::RULE,
    &ductile::RULE,
    &joint::RULE,
    &flange::RULE,
    &flange::DESIGN,
    &closed_seat::RULE,
    &maker::RULE,
    &maker::GUEST,
    &named::RULE,
    &proven::RULE,
    &thrust::RULE,
    &blind::RULE,
];

/// Something must say what a part can bear.
pub const KNOWN: Rule = Rule {
    id: "LIMIT-KNOWN",
    sentence: "A part of which nothing says what it can bear stops the test: an empty cell never means allowed, and each kind of part says what it wants to know.",
    clause: "",
    edition: "",
    standing: crate::rule::Standing::CommonPractice,
    file: file!(),
    test: "limit_known_an_empty_cell_never_means_allowed",
};

/// What sets a limit.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LimitKind {
    /// hoop stress
    Hoop,
    /// longitudinal stress
    Longitudinal,
    /// class or wall of ductile-iron pipe
    Ductile,
    /// joint of ductile-iron pipe
    Joint,
    /// class of a flange or valve
    Flange,
    /// seat of a closed valve
    ClosedSeat,
    /// maker or plate
    Maker,
    /// inspector or designer, of what is not calculated
    Named,
    /// last proof of old plant
    Proven,
    /// restraint of an end
    Thrust,
    /// thickness of a blind
    Blind,
    /// the code's own
    Code,
}

impl LimitKind {
    /// How many there are: a part has each at most once.
    const COUNT: usize = Self::Code as usize + 1;
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
    #[error("{tag}: nothing says what this {kind} can bear. {}", crate::say::sentence(ask, false).trim_end_matches('.'))]
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
    #[error("{}", self.say(Say::default()))]
    WallTooThick {
        /// the part
        tag: String,
        /// wall, mm
        wall_mm: f64,
        /// diameter, mm
        diameter_mm: f64,
    },
    /// Nothing that this tool calculates: somebody must name its limit.
    #[error("{tag}: {what} is not calculated here: {ask}")]
    NotCalculated {
        /// the part
        tag: String,
        /// what
        what: &'static str,
        /// what to do
        ask: &'static str,
        /// the column to fill
        field: &'static str,
    },
    /// A closed valve that may be weaker than its class.
    #[error("{tag}: {what} seat is not known: {ask}")]
    Seat {
        /// the part
        tag: String,
        /// whose
        what: String,
        /// what to do
        ask: String,
    },
    /// Warmer than the plastic's table.
    #[error("{}", self.say(Say::default()))]
    Warm {
        /// the part
        tag: String,
        /// temperature
        at_c: f64,
        /// what the table says
        source: TableError,
    },
    /// A table lacks it.
    #[error("{}", self.say(Say::default()))]
    Table {
        /// the part
        tag: String,
        /// what the table says
        source: TableError,
    },
}

impl LimitError {
    /// What is wrong and what to do, in a person's units.
    pub fn say(&self, say: Say) -> String {
        match self {
            Self::WallTooThick { tag, wall_mm, diameter_mm } => format!(
                "{tag}: a wall of {} does not fit an outside diameter of {}; check both",
                say.length(Length::from_mm(*wall_mm)),
                say.length(Length::from_mm(*diameter_mm))
            ),
            Self::Warm { tag, at_c, source } => {
                format!("{tag}: at {} {}: cool it, or take another pipe", say.temperature(Temperature::from_c(*at_c)), source.say(say))
            }
            Self::Table { tag, source } => format!("{tag}: {}", source.say(say)),
            Self::NothingKnown { .. } | Self::NotCalculated { .. } | Self::Seat { .. } => self.to_string(),
        }
    }

    /// The field to mend.
    pub fn field(&self) -> &'static str {
        match self {
            Self::NothingKnown { field, .. } | Self::NotCalculated { field, .. } => field,
            Self::WallTooThick { .. } => "wall",
            Self::Seat { .. } => "rating",
            Self::Table { source: TableError::UnknownFlange { .. }, .. } => "class",
            Self::Table { source: TableError::UnknownPipe { .. }, .. } => "wall",
            Self::Table { .. } | Self::Warm { .. } => "material",
        }
    }
    /// The part.
    pub fn tag(&self) -> &str {
        match self {
            Self::NothingKnown { tag, .. }
            | Self::NotCalculated { tag, .. }
            | Self::Seat { tag, .. }
            | Self::Warm { tag, .. }
            | Self::WallTooThick { tag, .. }
            | Self::Table { tag, .. } => tag,
        }
    }

    /// Id of the rule that refuses.
    pub const fn rule(&self) -> &'static str {
        match self {
            Self::NotCalculated { .. } => named::RULE.id,
            Self::Seat { .. } => closed_seat::RULE.id,
            Self::WallTooThick { .. } | Self::Warm { .. } => hoop::RULE.id,
            Self::Table { source: TableError::UnknownFlange { .. } | TableError::ClassAlone { .. }, .. } => flange::RULE.id,
            Self::NothingKnown { .. } | Self::Table { .. } => KNOWN.id,
        }
    }
}

/// Every limit that is known for a part: one place for each kind, so that none can be lost.
struct All([Option<GaugePressure>; LimitKind::COUNT]);

impl All {
    const fn set(&mut self, kind: LimitKind, pressure: Option<GaugePressure>) {
        self.0[kind as usize] = pressure;
    }
    fn iter(&self) -> impl Iterator<Item = Found> {
        const KINDS: [LimitKind; LimitKind::COUNT] = {
            use LimitKind as L;
            [
                L::Hoop,
                L::Longitudinal,
                L::Ductile,
                L::Joint,
                L::Flange,
                L::ClosedSeat,
                L::Maker,
                L::Named,
                L::Proven,
                L::Thrust,
                L::Blind,
                L::Code,
            ]
        };
        KINDS.into_iter().zip(self.0).filter_map(|(kind, pressure)| Some(Found { kind, pressure: pressure? }))
    }
}

fn all(part: &Part, ground: &Ground, code: Option<&Figure>) -> Result<All, LimitError> {
    if let Some(ask) = ground.entry.needs_wall.as_deref().filter(|_| part.kind.vessel() && wall_is_missing(part)) {
        return Err(LimitError::NothingKnown { tag: part.tag.clone(), kind: part.kind.word(), ask: ask.to_owned(), field: "wall" });
    }
    let mut found = All([None; LimitKind::COUNT]);
    let wall = hoop::wall_of(part, ground)?;
    if let Some(wall) = &wall {
        found.set(LimitKind::Hoop, hoop::value(wall, ground));
        found.set(LimitKind::Longitudinal, longitudinal::value(wall, ground));
    }
    found.set(LimitKind::Ductile, ductile::value(part, ground)?);
    found.set(LimitKind::Joint, joint::value(part, ground)?);
    found.set(LimitKind::Flange, flange::value(part, ground)?);
    found.set(LimitKind::ClosedSeat, closed_seat::value(part, ground)?);
    found.set(LimitKind::Maker, maker::value(part, ground));
    found.set(LimitKind::Named, named::value(part, ground)?);
    found.set(LimitKind::Proven, part.proven_pa);
    found.set(LimitKind::Thrust, thrust::value(part));
    found.set(LimitKind::Blind, blind::value(part, ground)?);
    if !found.iter().any(|f| says_enough(f.kind, part, ground)) {
        let (ask, field) = what_to_give(part, ground);
        return Err(LimitError::NothingKnown { tag: part.tag.clone(), kind: part.kind.word(), ask: ask.to_owned(), field });
    }
    found.set(LimitKind::Code, code.map(|m| m.pressure));
    Ok(found)
}

/// True for a limit that by itself says what a part of its kind can bear; the others only narrow it. An old proof or a restraint says nothing of a
/// wall, the yield of a shell nothing of a vessel that is a guest in a test of piping.
fn says_enough(kind: LimitKind, part: &Part, ground: &Ground) -> bool {
    use LimitKind as L;
    match kind {
        L::Hoop => part.kind.piping() || (part.kind.vessel() && part.kind != PartKind::Machine && !ground.of_piping()),
        // the rating of a pipe may be that of its joints: its own test limit says what it bears
        L::Maker => !part.kind.piping() || part.test_limit_pa.is_some() || part.test_pressure_pa.is_some(),
        L::Ductile | L::Flange | L::ClosedSeat | L::Named | L::Blind => true,
        L::Proven => !part.kind.vessel() && !part.kind.piping(),
        L::Longitudinal | L::Joint | L::Thrust | L::Code => false,
    }
}

/// The least limit of a part, as a bare figure; `code` is the code's own, where it holds at this part.
///
/// # Errors
/// When nothing says what the part can bear: an empty cell never means "allowed".
pub fn least(part: &Part, ground: &Ground, code: Option<&Figure>) -> Result<Found, LimitError> {
    let found = all(part, ground, code)?;
    let least = found.iter().reduce(|a, b| if b.pressure < a.pressure { b } else { a });
    least.ok_or_else(|| {
        let (ask, field) = what_to_give(part, ground);
        LimitError::NothingKnown { tag: part.tag.clone(), kind: part.kind.word(), ask: ask.to_owned(), field }
    })
}

/// Every limit that is known for a part with its derivation, the least first.
///
/// # Errors
/// When nothing says what the part can bear.
pub fn of(part: &Part, ground: &Ground, code: Option<&Figure>) -> Result<Vec<Limit>, LimitError> {
    let mut found: Vec<Found> = all(part, ground, code)?.iter().collect();
    found.sort_by(|a, b| a.pressure.pa().total_cmp(&b.pressure.pa()));
    found.into_iter().map(|f| explained(f, part, ground, code)).collect()
}

fn explained(found: Found, part: &Part, ground: &Ground, code: Option<&Figure>) -> Result<Limit, LimitError> {
    let p = found.pressure;
    let why = match found.kind {
        LimitKind::Hoop | LimitKind::Longitudinal => match hoop::wall_of(part, ground)? {
            Some(wall) if found.kind == LimitKind::Hoop => hoop::why(&wall, ground, p),
            Some(wall) => longitudinal::why(&wall, ground, p),
            None => maker::why(part, p),
        },
        LimitKind::Ductile => ductile::why(part, p),
        LimitKind::Joint => joint::why(part, p),
        LimitKind::Flange => flange::why(part, ground, p),
        LimitKind::ClosedSeat => closed_seat::why(part, ground, p),
        LimitKind::Maker => maker::why(part, p),
        LimitKind::Named => named::why(part, p),
        LimitKind::Proven => proven::why(p),
        LimitKind::Thrust => thrust::why(part, p),
        LimitKind::Blind => blind::why(part, ground, p),
        LimitKind::Code => code.map_or_else(|| maker::why(part, p), |m| m.why.clone()),
    };
    Ok(Limit { pressure: p, rule: why.rule.clone(), words: words(found.kind, part, ground, code).into_owned(), why })
}

/// Id of the rule that sets a limit.
pub fn rule_of(kind: LimitKind, code: Option<&Figure>) -> Cow<'static, str> {
    Cow::Borrowed(match kind {
        LimitKind::Hoop => hoop::RULE.id,
        LimitKind::Longitudinal => longitudinal::RULE.id,
        LimitKind::Ductile => ductile::RULE.id,
        LimitKind::Joint => joint::RULE.id,
        LimitKind::Flange => flange::RULE.id,
        LimitKind::ClosedSeat => closed_seat::RULE.id,
        LimitKind::Maker => maker::RULE.id,
        LimitKind::Named => named::RULE.id,
        LimitKind::Proven => proven::RULE.id,
        LimitKind::Thrust => thrust::RULE.id,
        LimitKind::Blind => blind::RULE.id,
        LimitKind::Code => return code.map_or(Cow::Borrowed(""), |m| Cow::Owned(m.why.rule.clone())),
    })
}

/// A limit in a few words, for a table.
pub fn words(kind: LimitKind, part: &Part, ground: &Ground, code: Option<&Figure>) -> Cow<'static, str> {
    match kind {
        LimitKind::Hoop => hoop::words(part, ground),
        LimitKind::Longitudinal => "end thrust in the wall".into(),
        LimitKind::Ductile => ductile::words(part),
        LimitKind::Joint => joint::words(part).into(),
        LimitKind::Flange => flange::words(part),
        LimitKind::ClosedSeat => closed_seat::words(part, ground).into(),
        LimitKind::Maker => maker::words(part).into(),
        LimitKind::Named => named::words(part).into(),
        LimitKind::Proven => "last proven pressure".into(),
        LimitKind::Thrust => "thrust restraint".into(),
        LimitKind::Blind => "thickness of the blind".into(),
        LimitKind::Code => code.map_or(Cow::Borrowed(""), |m| format!("by the code, {}", m.why.formula).into()),
    }
}

/// True for a vessel or boiler of which the wall is not known.
const fn wall_is_missing(part: &Part) -> bool {
    part.wall_m.is_none() || part.outside_diameter_m.is_none() || part.material.is_none()
}

fn what_to_give(part: &Part, ground: &Ground) -> (&'static str, &'static str) {
    use PartKind as K;
    match part.kind {
        K::Pipe | K::Bend | K::Reducer | K::Tee if part.material.as_deref() == Some("ductile_iron") => {
            ("give its class, or its size and wall, or its own test limit", "class")
        }
        K::Pipe | K::Bend | K::Reducer | K::Tee => ("give its size, wall and material, or its own test limit", "wall"),
        K::Vessel | K::Exchanger | K::Machine | K::Boiler if ground.of_piping() => (
            "in a test of piping its own test pressure, or the maximum allowable pressure of its plate, is its limit, never the yield of its shell: read the plate and give one of them",
            "test pressure",
        ),
        K::Machine => ("give its own test pressure or test limit, from its maker", "test pressure"),
        K::Boiler => (
            "measure the wall at its thinnest place and give diameter, wall and material: without a wall there is no test pressure",
            "wall",
        ),
        K::Vessel | K::Exchanger => (
            "measure the wall at its thinnest place and give diameter, wall and material, or the designer's limit: the code gives none",
            "wall",
        ),
        K::Flange => ("give its class and material, its PN, or its own test limit", "class"),
        K::Valve | K::Strainer => ("give its class and material, its PN, or the maker's test limit of its shell", "class"),
        K::ClosedValve => ("give the rating of its seat", "rating"),
        K::Hydrant => ("give its rating", "rating"),
        K::Hose | K::Fitting | K::Bellows | K::Coupling | K::GasketedJoint | K::Instrument | K::OrificePlate => {
            ("give the maker's rating, or the class of the joint", "rating")
        }
        K::Blind => ("give its thickness, the gasket's diameter and the material, or its own test limit", "limit"),
        K::Vent | K::Drain | K::Furnace | K::StayedPlate => ("give its own test limit", "limit"),
        K::Support | K::SpringHanger | K::Fill | K::GaugePoint | K::ReliefPoint | K::PumpPoint => ("give its own test limit", "limit"),
    }
}
