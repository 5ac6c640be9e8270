//! From a basis and its entry in the book to what is asked of a line.

use super::bound::{Base, Bound};
use super::entry::{BasisRule, Entry, Pressures};
use super::{Basis, BasisError, Figure, LineDemand, above, line, ratio};
use crate::derivation::{Amount, Derivation};
use crate::library::Library;
use crate::part::Part;
use quantity::GaugePressure;

/// How far above its floor a test may be taken without a reason.
const WITHOUT_REASON: f64 = 1.05;

/// A basis on its way to figures, for one line.
pub(super) struct Apply<'a> {
    pub(super) basis: &'a Basis,
    pub(super) entry: &'a Entry,
    pub(super) parts: Vec<&'a Part>,
    pub(super) library: &'a Library,
}

impl Apply<'_> {
    /// Everything that is asked of the line.
    pub(super) fn line(&self, p: &Pressures, gas: bool) -> Result<LineDemand, BasisError> {
        let by_rule = p.least.as_ref().map(|b| self.figure("least pressure by the basis", &p.rule, b, None)).transpose()?;
        let least = self.least(p, by_rule.clone())?;
        let figures = Tested { test: least.pressure, code: by_rule.as_ref().map_or(least.pressure, |f| f.pressure) };
        let most = p.most.as_ref().map(|b| self.figure("greatest pressure by the code", &p.rule, b, Some(figures))).transpose()?;
        let refused = |most: &Figure| BasisError::AboveMost { asked: least.pressure, most: most.pressure, rule: p.rule.id.clone() };
        if let Some(most) = most.as_ref().filter(|m| above(least.pressure, m.pressure)) {
            return Err(refused(most));
        }
        let asked_most = p.required_most.as_ref().map(|b| self.figure("greatest pressure that may be asked", &p.rule, b, Some(figures)));
        if let Some(most) = asked_most.transpose()?.as_ref().filter(|m| above(least.pressure, m.pressure)) {
            return Err(refused(most));
        }
        let look = self.look(p, least.pressure, gas)?;
        let design = if line::multiplies_design(self.entry) { self.basis.design_pressure_pa } else { None };
        Ok(LineDemand { design, least, most, look })
    }

    /// The least pressure: by the rule, or by agreement, never below the floor.
    fn least(&self, p: &Pressures, by_rule: Option<Figure>) -> Result<Figure, BasisError> {
        let Some(agreed) = self.basis.agreed_pressure_pa else {
            return by_rule.ok_or_else(|| self.basis.missing_of(self.entry, Base::Agreed));
        };
        let floor = p.floor.as_ref().map(|f| self.figure("least figure that may be agreed", &p.rule, f, None)).transpose()?;
        let floor = floor.or_else(|| by_rule.clone());
        if let Some(floor) = floor.as_ref().filter(|f| above(f.pressure, agreed)) {
            // an owner's standard adds to a code: where the code asks more, the code's figure counts
            return match by_rule {
                Some(figure) if self.basis.on_top_of.is_some() => Ok(figure),
                _ => Err(BasisError::BelowFloor {
                    agreed,
                    floor: floor.pressure,
                    rule: p.rule.id.clone(),
                    formula: floor.why.formula.clone(),
                }),
            };
        }
        let reasoned = self.basis.over_test_reason.as_deref().is_some_and(|r| !r.trim().is_empty());
        match by_rule {
            Some(figure) if above(agreed, figure.pressure.times(WITHOUT_REASON)) && !reasoned => {
                Err(BasisError::OverTest { agreed, asked: figure.pressure })
            }
            _ => Ok(self.agreed(p, agreed, floor.as_ref())),
        }
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
    pub(super) fn figure(&self, name: &str, rule: &BasisRule, bound: &Bound, tested: Option<Tested>) -> Result<Figure, BasisError> {
        let ratio = if bound.has_ratio() { ratio::ratio(self.basis, self.entry, &self.parts, self.library)? } else { None };
        let factor = ratio.as_ref().map_or(1.0, |r| r.used);
        let of = |base: Base| match base {
            Base::Test => tested.map(|t| t.test),
            Base::Code => tested.map(|t| t.code),
            _ => self.basis.given(base),
        };
        let pressure = bound.value(&of, factor).map_err(|base| self.basis.missing_of(self.entry, base))?;
        let formula = format!("p = {}", bound.formula(&|b| self.entry.symbol(b)));
        let mut why = Derivation::new(name, rule, Amount::gauge(pressure), &formula);
        for base in bound.bases() {
            let value = of(base).unwrap_or(pressure);
            let source = if matches!(base, Base::Test | Base::Code) { "by this basis" } else { "as entered" };
            why = why.with(&self.entry.symbol(base), base.words(), Amount::gauge(value), source);
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
    pub(super) fn look(&self, p: &Pressures, test: GaugePressure, gas: bool) -> Result<Figure, BasisError> {
        let bound = self.entry.look.as_ref().and_then(|l| if gas { l.gas.as_ref() } else { l.liquid.as_ref() }.map(|b| (&l.rule, b)));
        match bound {
            Some((rule, bound)) => self.figure("pressure of the look", rule, bound, Some(Tested { test, code: test })),
            None => {
                let why = Derivation::new("pressure of the look", &p.rule, Amount::gauge(test), "p = p_test")
                    .with("p_test", "test pressure", Amount::gauge(test), "by this basis")
                    .would_change("A rule of the owner's: none is known to this tool, so the look is at test pressure.");
                Ok(Figure { pressure: test, why })
            }
        }
    }
}

/// The test pressure as it will be, and as the code itself asks it.
#[derive(Debug, Clone, Copy)]
pub(super) struct Tested {
    test: GaugePressure,
    code: GaugePressure,
}
