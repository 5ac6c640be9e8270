//! Test bases: what the adopted rule asks for. The book of bases stands in `data/bases`, one file a code family; here it is applied.

pub mod book;
pub mod bound;
pub mod entry;
mod error;
pub mod info;
pub mod page;
mod ratio;
mod vessel;

use crate::accept::OwnersFall;
use crate::derivation::{Amount, Derivation};
use crate::library::{Library, TableError};
use crate::part::Part;
use bound::{Base, Bound};
use entry::{Asked, BasisRule, Entry, Pressures};
use quantity::{GaugePressure, Span, Temperature};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::sync::Arc;

pub use error::BasisError;

/// What the system is filled with for the test.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Medium {
    /// water or another liquid
    #[default]
    Liquid,
    /// nitrogen
    Nitrogen,
    /// dry air
    Air,
}

impl Medium {
    /// The gas, where it is one.
    pub const fn gas(self) -> Option<physics::gas::Gas> {
        match self {
            Self::Liquid => None,
            Self::Nitrogen => Some(physics::gas::Gas::Nitrogen),
            Self::Air => Some(physics::gas::Gas::Air),
        }
    }
}

/// The basis of a test with what it multiplies. What is not asked by the basis may be absent.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Basis {
    /// Id in the book of bases.
    pub id: String,
    /// What the system is filled with.
    #[serde(default)]
    pub medium: Medium,
    /// Internal design pressure, Pa gauge.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub design_pressure_pa: Option<GaugePressure>,
    /// Design temperature, °C.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub design_temperature_c: Option<Temperature>,
    /// Working or operating pressure, Pa gauge; of a main at its lowest point.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub working_pressure_pa: Option<GaugePressure>,
    /// Working pressure of a main at its highest point, Pa gauge.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub working_high_pa: Option<GaugePressure>,
    /// Maximum allowable (working) pressure, Pa gauge.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub allowable_pressure_pa: Option<GaugePressure>,
    /// Pressure on the plate, Pa gauge.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub plate_pressure_pa: Option<GaugePressure>,
    /// External differential pressure, Pa.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub external_difference_pa: Option<GaugePressure>,
    /// Figure that the owner, the inspector or the authority agrees to, Pa gauge.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub agreed_pressure_pa: Option<GaugePressure>,
    /// Least hold that the owner asks where the basis names none, s.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub agreed_hold_s: Option<Span>,
    /// Fall that the owner allows besides what the basis asks; the hold is at least as long.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub owners_fall: Option<OwnersFall>,
    /// Material of the bolting, where a ratio of stresses is taken over a vessel with bolted joints.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub bolting: Option<String>,
    /// Why the test is more than 5 % above what the basis asks.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub over_test_reason: Option<String>,
    /// The code on top of which an owner's standard stands.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub on_top_of: Option<String>,
    /// Answers to the questions of the basis, by key.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub choices: BTreeMap<String, String>,
}

/// A pressure with its derivation.
#[derive(Debug, Clone, PartialEq)]
pub struct Figure {
    /// The pressure.
    pub pressure: GaugePressure,
    /// Why.
    pub why: Derivation,
}

/// What a basis asks of a system.
#[derive(Debug, Clone, PartialEq)]
pub struct Demand {
    /// The entry with its choices made.
    pub entry: Entry,
    /// Each answer in words.
    pub answers: Vec<book::Answer>,
    /// Least pressure where the basis applies it.
    pub least: Figure,
    /// Least pressure at the highest point, where the basis has one.
    pub highest: Option<Figure>,
    /// Greatest pressure at every part by the code itself, where it has one.
    pub most: Option<Figure>,
    /// Pressure of the look.
    pub look: Figure,
    /// The least hold.
    pub hold_floor: Span,
    /// True for a gas test.
    pub gas: bool,
    /// Least pressure at parts other than the vessels, where piping and vessel are tested together at the vessel's test pressure.
    pub elsewhere: Option<GaugePressure>,
    /// The library that its values come from.
    pub library: Arc<Library>,
}

impl Demand {
    /// Share of yield that a wall may reach with the medium of this test.
    pub const fn yield_share(&self) -> f64 {
        if self.gas { self.entry.walls.gas_share } else { self.entry.walls.share }
    }
}

impl Basis {
    /// A basis of which only the id is known.
    pub fn new(id: &str) -> Self {
        Self { id: id.to_owned(), ..Self::default() }
    }

    /// The pressure that goes by a name, as entered.
    pub const fn given(&self, base: Base) -> Option<GaugePressure> {
        match base {
            Base::Design => self.design_pressure_pa,
            Base::Working => self.working_pressure_pa,
            Base::WorkingHigh => self.working_high_pa,
            Base::Allowable => self.allowable_pressure_pa,
            Base::Plate => self.plate_pressure_pa,
            Base::External => self.external_difference_pa,
            Base::Agreed => self.agreed_pressure_pa,
            Base::Test => None,
        }
    }

    /// Its entry in the book with the choices made; of an owner's standard, that of the code beneath it.
    ///
    /// # Errors
    /// When the basis, a question or an answer is not known.
    pub fn entry(&self, bases: &book::Bases) -> Result<(Entry, Vec<book::Answer>), BasisError> {
        let on_top = bases.plain(&self.id)?.on_top;
        if !on_top {
            return bases.resolved(&self.id, &self.choices);
        }
        let own = bases.plain(&self.id)?;
        let beneath = self.on_top_of.as_deref().ok_or_else(|| BasisError::Missing {
            field: "on_top_of",
            what: "the code whose floor holds".to_owned(),
            basis: own.name.clone(),
        })?;
        if bases.plain(beneath)?.on_top {
            return Err(BasisError::OnTopOfItself);
        }
        let (mut entry, answers) = bases.resolved(beneath, &self.choices)?;
        entry.name = format!("{}: {}", own.name, entry.name);
        if !entry.asks.contains(&Asked::AgreedPressure) {
            entry.asks.push(Asked::AgreedPressure);
        }
        if let (Some(liquid), Some(mine)) = (&mut entry.liquid, &own.liquid) {
            liquid.rule = mine.rule.clone();
        }
        Ok((entry, answers))
    }

    /// Name of the basis, as a heading and a report print it.
    pub fn name(&self) -> String {
        self.entry(book::shipped()).map_or_else(|_| self.id.clone(), |(e, _)| e.name)
    }

    /// The least hold that the basis and the owner allow; nil where neither names one.
    pub fn hold_floor(&self) -> Span {
        self.entry(book::shipped()).map_or(Span::from_s(0.0), |(e, _)| self.hold_of(&e).unwrap_or(Span::from_s(0.0)))
    }

    fn hold_of(&self, entry: &Entry) -> Option<Span> {
        [entry.hold_floor(self.medium.gas().is_some()), self.agreed_hold_s, self.owners_fall.map(|f| f.within_s)]
            .into_iter()
            .flatten()
            .reduce(Span::max)
    }

    /// Pressure that a schedule of the raise refers to: what the basis multiplies.
    pub fn base_pressure(&self) -> GaugePressure {
        [Base::Design, Base::Allowable, Base::Working, Base::Agreed, Base::External]
            .into_iter()
            .find_map(|b| self.given(b))
            .unwrap_or(GaugePressure::from_pa(0.0))
    }

    /// Checks the fall that the owner allows, where one is given.
    ///
    /// # Errors
    /// When it cannot be.
    pub fn check_owners_fall(&self) -> Result<(), BasisError> {
        match self.owners_fall.filter(|f| !f.can_be()) {
            Some(fall) => Err(BasisError::OwnersFall { percent: 100.0 * fall.share, minutes: fall.within_s.minutes() }),
            None => Ok(()),
        }
    }

    /// Checks every pressure that is given.
    fn check(&self, entry: &Entry) -> Result<(), BasisError> {
        for base in Base::ALL {
            if let Some(p) = self.given(base).filter(|p| !(p.pa() > 0.0 && p.is_finite())) {
                return Err(BasisError::NotPositive { field: field_of(base), what: base.words(), value_bar: p.bar() });
            }
        }
        if let Some(hold) = self.agreed_hold_s.filter(|h| !(h.s() > 0.0 && h.is_finite())) {
            return Err(BasisError::NotPositiveHold { minutes: hold.minutes() });
        }
        self.check_owners_fall()?;
        if let (Some(most), Some(given)) = (&entry.allowable_most, self.allowable_pressure_pa)
            && above(given, most.pressure)
        {
            return Err(BasisError::AllowableTooHigh { basis: entry.name.clone(), most: most.words.clone(), given_bar: given.bar() });
        }
        Ok(())
    }

    /// What the basis asks of these parts.
    ///
    /// # Errors
    /// Names what is missing, wrong or refused, and what would be accepted.
    pub fn demand(&self, bases: &book::Bases, parts: &[Part], library: &Arc<Library>) -> Result<Demand, BasisError> {
        let (entry, answers) = self.entry(bases)?;
        self.check(&entry)?;
        let gas = self.medium.gas().is_some();
        let pressures = self.pressures(&entry, gas)?;
        let apply = Apply { basis: self, entry: &entry, parts, library };
        let by_rule = apply.least(pressures)?;
        let together = if gas { None } else { vessel::together(&entry, parts, &by_rule)? };
        let (least, elsewhere) = together.map_or((by_rule, None), |t| (t.least, Some(t.elsewhere)));
        let highest = pressures
            .least_highest
            .as_ref()
            .map(|b| apply.figure("least pressure at the highest point", &pressures.rule, b, None))
            .transpose()?;
        let most = pressures
            .most
            .as_ref()
            .map(|b| apply.figure("greatest pressure by the code", &pressures.rule, b, Some(least.pressure)))
            .transpose()?;
        if let Some(most) = most.as_ref().filter(|m| above(least.pressure, m.pressure)) {
            return Err(BasisError::AboveMost {
                asked_bar: least.pressure.bar(),
                most_bar: most.pressure.bar(),
                rule: pressures.rule.id.clone(),
            });
        }
        let look = apply.look(pressures, least.pressure, gas)?;
        let hold_floor = self.hold_of(&entry).ok_or_else(|| BasisError::Missing {
            field: "agreed_hold_s",
            what: "the hold: no rule for its length is known to this tool, so the owner's figure counts".to_owned(),
            basis: entry.name.clone(),
        })?;
        Ok(Demand { least, highest, most, look, hold_floor, gas, answers, entry, elsewhere, library: Arc::clone(library) })
    }

    fn pressures<'a>(&self, entry: &'a Entry, gas: bool) -> Result<&'a Pressures, BasisError> {
        if gas {
            if let Some(sentence) = &entry.forbids_gas {
                return Err(BasisError::Medium(sentence.clone()));
            }
            return entry.gas.as_ref().ok_or_else(|| {
                BasisError::Medium(format!(
                    "No rule for a gas test by {} is known to this tool: fill it with liquid, or take another basis.",
                    entry.name
                ))
            });
        }
        if let Some(sentence) = &entry.gas_only {
            return Err(BasisError::Medium(sentence.clone()));
        }
        entry
            .liquid
            .as_ref()
            .ok_or_else(|| BasisError::Medium(format!("No rule for a liquid test by {} is known to this tool.", entry.name)))
    }
}

/// Name of the field of a pressure.
pub const fn field_of(base: Base) -> &'static str {
    match base {
        Base::Design => "design_pressure_pa",
        Base::Working => "working_pressure_pa",
        Base::WorkingHigh => "working_high_pa",
        Base::Allowable => "allowable_pressure_pa",
        Base::Plate => "plate_pressure_pa",
        Base::External => "external_difference_pa",
        Base::Agreed | Base::Test => "agreed_pressure_pa",
    }
}

/// How far above its floor a test may be taken without a reason.
const WITHOUT_REASON: f64 = 1.05;

/// True for a pressure that is above another by more than the arithmetic rounds.
fn above(p: GaugePressure, other: GaugePressure) -> bool {
    p.pa() > other.pa() * (1.0 + 1e-9)
}

/// A basis on its way to figures.
struct Apply<'a> {
    basis: &'a Basis,
    entry: &'a Entry,
    parts: &'a [Part],
    library: &'a Library,
}

impl Apply<'_> {
    /// The least pressure: by the rule, by agreement, or the greater of both.
    fn least(&self, p: &Pressures) -> Result<Figure, BasisError> {
        let by_rule = p.least.as_ref().map(|b| self.figure("least pressure by the basis", &p.rule, b, None)).transpose()?;
        let agreed = self.basis.agreed_pressure_pa;
        if let Some(floor) = &p.floor {
            let floor = self.figure("least figure that may be agreed", &p.rule, floor, None)?;
            return match (agreed, by_rule) {
                (Some(a), _) if above(floor.pressure, a) => {
                    Err(BasisError::BelowFloor { agreed_bar: a.bar(), floor_bar: floor.pressure.bar(), rule: p.rule.id.clone() })
                }
                (Some(a), _) => Ok(self.agreed(p, a, Some(&floor))),
                (None, Some(figure)) => Ok(figure),
                (None, None) => Err(self.missing(Base::Agreed)),
            };
        }
        match (by_rule, agreed) {
            (None, None) => Err(self.missing(Base::Agreed)),
            (None, Some(a)) => Ok(self.agreed(p, a, None)),
            (Some(figure), Some(a)) if a > figure.pressure => {
                if above(a, figure.pressure.times(WITHOUT_REASON))
                    && self.basis.over_test_reason.as_deref().is_none_or(|r| r.trim().is_empty())
                {
                    return Err(BasisError::OverTest { agreed_bar: a.bar(), asked_bar: figure.pressure.bar() });
                }
                Ok(self.agreed(p, a, Some(&figure)))
            }
            (Some(figure), _) => Ok(figure),
        }
    }

    fn missing(&self, base: Base) -> BasisError {
        let what = if base == Base::Agreed {
            "the agreed test pressure: no rule for it is known to this tool, so the owner's figure counts".to_owned()
        } else {
            base.words().to_owned()
        };
        BasisError::Missing { field: field_of(base), what, basis: self.entry.name.clone() }
    }

    /// An agreed figure as the least pressure.
    fn agreed(&self, p: &Pressures, agreed: GaugePressure, floor: Option<&Figure>) -> Figure {
        let mut why = Derivation::new("least pressure by the basis", &p.rule, Amount::gauge(agreed), "p = p_agreed").with(
            "p_agreed",
            "figure of the owner, the inspector or the authority",
            Amount::gauge(agreed),
            self.basis.over_test_reason.clone().unwrap_or_else(|| "as entered".to_owned()),
        );
        if let Some(floor) = floor {
            why = why.with("p_floor", "what the rule itself asks at least", Amount::gauge(floor.pressure), floor.why.formula.clone());
        }
        Figure { pressure: agreed, why: why.would_change("Another agreed figure.") }
    }

    /// A bound as a figure with its derivation.
    fn figure(&self, name: &str, rule: &BasisRule, bound: &Bound, test: Option<GaugePressure>) -> Result<Figure, BasisError> {
        let ratio = if bound.has_ratio() { ratio::ratio(self.basis, self.entry, self.parts, self.library)? } else { None };
        let factor = ratio.as_ref().map_or(1.0, |r| r.used);
        let of = |base: Base| if base == Base::Test { test } else { self.basis.given(base) };
        let pressure = bound.value(&of, factor).map_err(|base| self.missing(base))?;
        let formula = format!("p = {}", bound.formula(&|b| self.entry.symbol(b)));
        let mut why = Derivation::new(name, rule, Amount::gauge(pressure), &formula);
        for base in bound.bases() {
            let value = of(base).unwrap_or(pressure);
            why = why.with(
                &self.entry.symbol(base),
                base.words(),
                Amount::gauge(value),
                if base == Base::Test { "by this basis" } else { "as entered" },
            );
        }
        if bound.has_ratio() {
            why = ratio::explained(why, self.basis, ratio.as_ref());
        }
        Ok(Figure {
            pressure,
            why: why.would_change("Another pressure put in, another choice among editions and schools, or another basis."),
        })
    }

    /// The look: by the rule, or at test pressure where none is known.
    fn look(&self, p: &Pressures, test: GaugePressure, gas: bool) -> Result<Figure, BasisError> {
        let bound = self.entry.look.as_ref().and_then(|l| if gas { l.gas.as_ref() } else { l.liquid.as_ref() }.map(|b| (&l.rule, b)));
        match bound {
            Some((rule, bound)) => self.figure("pressure of the look", rule, bound, Some(test)),
            None => {
                let why = Derivation::new("pressure of the look", &p.rule, Amount::gauge(test), "p = p_test")
                    .with("p_test", "test pressure", Amount::gauge(test), "by this basis")
                    .would_change("A rule of the owner's: none is known to this tool, so the look is at test pressure.");
                Ok(Figure { pressure: test, why })
            }
        }
    }
}

impl From<TableError> for BasisError {
    fn from(e: TableError) -> Self {
        Self::Table(e)
    }
}
