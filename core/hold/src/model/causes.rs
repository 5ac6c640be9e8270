//! Which causes may be at work, and in which order they are fitted.

use super::average::{Component, evidence};
use super::class::{Class, LATE};
use super::fit::{Fitter, Memory};
use super::prior::{Causes, Unknown};
use crate::input::Fluid;
use nalgebra::DVector;

/// Share of holds in which trapped air goes into solution, and in which gaskets set, where there are any.
pub(crate) const AIR_PRIOR: f64 = 0.25;
pub(crate) const GASKET_PRIOR: f64 = 0.12;
/// Two relaxations at once that are expected to weigh less beside the heaviest are not tried.
const UNLIKELY: f64 = 3e-4;
/// A search whose evidence is so much better than another's needs no comparison with a third.
const BETTER: f64 = 5.0;
/// Share of a class's weight that late starts have where the start becomes an unknown of its own.
const LATE_MATTERS: f64 = 0.15;
/// The same in a running hold that had none before: what hovers about the other share is not sought from nothing at every look.
const LATE_EMERGES: f64 = 0.3;
/// A class whose evidence is so far behind all is not looked at again.
const NOTHING: f64 = 40.0;

impl Fitter<'_> {
    /// Every set of causes that may be at work, fitted.
    pub(super) fn classes(&self) -> Vec<Class> {
        let hold = self.hold;
        let water = hold.fluid == Fluid::Water;
        let (air, gaskets) = (water && hold.air_fraction > 0.0, water && hold.gasketed_joints > 0);
        let (p_air, p_gaskets) = (if air { AIR_PRIOR } else { 0.0 }, if gaskets { GASKET_PRIOR } else { 0.0 });
        let (mut classes, mut late): (Vec<Class>, Vec<Class>) = (Vec::new(), Vec::new());
        for (with_air, with_gaskets) in [(false, false), (true, false), (false, true), (true, true)] {
            if (with_air && !air) || (with_gaskets && !gaskets) {
                continue;
            }
            let weigh = if late.is_empty() { &classes } else { &late };
            if let (true, true, [neither, with_one, with_other]) = (with_air, with_gaskets, weigh.as_slice()) {
                // both at once weigh about as much as one weighs for the other
                let [neither, one, other] = [neither, with_one, with_other].map(|c| evidence(&c.components));
                if one + other - neither < one.max(other).max(neither) + UNLIKELY.ln() {
                    continue;
                }
            }
            let prior = (if with_air { p_air } else { 1.0 - p_air }) * (if with_gaskets { p_gaskets } else { 1.0 - p_gaskets });
            let causes = Causes { air: with_air, gaskets: with_gaskets, leak_from: None };
            let fit_from =
                |leak_from: Option<f64>, from: Option<&Class>| self.class(Causes { leak_from, ..causes }, prior.ln(), from, None, false);
            let mut class = fit_from(None, late.first().or(classes.first()));
            if let Some(first) = late.first() {
                late.push(fit_from(first.causes.leak_from, Some(first)));
            } else if classes.is_empty() && class.poor {
                // a leak that starts within the hold, and from there once more none that does
                late.extend(self.late_of(&class).map(|(causes, leak)| self.class(causes, class.log_prior, None, Some(leak), false)));
                late.retain(|l| !l.poor);
                let again = late.first().map(|l| fit_from(None, Some(l)));
                class = again.filter(|a| evidence(&a.components) > evidence(&class.components)).unwrap_or(class);
            }
            classes.push(class);
        }
        if late.is_empty() {
            self.add_late(&mut classes);
        } else {
            classes.iter_mut().for_each(|c| c.components.retain(|c| c.start == 0));
            classes.extend(late);
        }
        self.be_patient(&mut classes);
        classes
    }

    /// The causes that had weight before, each fitted from where it was; none when they are not of this hold.
    pub(super) fn remembered(&self, memory: &Memory) -> Option<Vec<Class>> {
        let mut again: Vec<Class> = Vec::new();
        let were_poor = memory.classes().iter().all(|c| c.poor);
        for was in memory.classes() {
            let was = self.carried_over(was, &memory.levels)?;
            let (causes, log_prior) = (was.causes, was.log_prior);
            let from = match again.first() {
                None => Class { remembered: true, ..was },
                // readings as they stand for the first cause stand so for the others
                Some(first) => Class { observed: first.observed.clone(), ..was },
            };
            again.push(self.class(causes, log_prior, Some(&from), None, false));
        }
        // a late start that is a cause of its own is not counted once more
        let own: Vec<Causes> = again.iter().map(|c| c.causes).filter(|c| c.leak_from.is_some()).collect();
        let has_own = |c: Causes| own.iter().any(|o| (o.air, o.gaskets) == (c.air, c.gaskets));
        again.iter_mut().filter(|c| c.causes.leak_from.is_none() && has_own(c.causes)).for_each(|c| c.components.retain(|c| c.start == 0));
        // what nothing explained before is explained no better by now
        let new = |c: &[Class]| self.has_more_to_say(c) || (!were_poor && c.iter().all(|c| c.poor));
        Some(again).filter(|c| !c.is_empty() && !new(c))
    }

    /// A cause as it was remembered, with the unknowns that it has by now: a longer hold may have more nodes, and then the shapes of the surroundings
    /// begin with none of themselves but for the levels of temperature. None when it is not of this hold.
    fn carried_over(&self, was: Class, levels: &[usize]) -> Option<Class> {
        let unknowns = self.setup.unknowns(self.hold, was.causes);
        if !was.likely.iter().all(|s| self.states.has(s)) {
            return None;
        }
        if was.unknowns == unknowns {
            return Some(was);
        }
        let is_shape = |u: &Unknown| matches!(u, Unknown::Surroundings(_));
        let now = self.setup.surroundings.levels();
        let others = |all: &[Unknown]| all.iter().filter(|u| !is_shape(u)).copied().collect::<Vec<_>>();
        if others(&was.unknowns) != others(&unknowns) || now.len() != levels.len() {
            return None;
        }
        let before = |u: Unknown| match u {
            Unknown::Surroundings(s) => now.iter().position(|l| *l == s).map(|k| Unknown::Surroundings(levels[k])),
            other => Some(other),
        };
        let value = |u: &Unknown| before(*u).and_then(|b| was.unknowns.iter().position(|v| *v == b)).map_or(0.0, |i| was.x[i]);
        let x = DVector::from_iterator(unknowns.len(), unknowns.iter().map(value));
        Some(Class { unknowns, x, ..was })
    }

    /// True when the readings say more by now than the causes that were remembered: a leak within the hold emerges.
    fn has_more_to_say(&self, classes: &[Class]) -> bool {
        let all: Vec<Component> = classes.iter().flat_map(|c| c.components.iter().copied()).collect();
        let late: Vec<Component> =
            classes.iter().filter(|c| c.causes.leak_from.is_none()).flat_map(|c| &c.components).filter(|c| c.start > 0).copied().collect();
        !late.is_empty() && evidence(&late) - evidence(&all) > LATE_EMERGES.ln()
    }

    /// The most likely start of a leak within the hold, as the class has it, with its mean loss.
    fn late_of(&self, class: &Class) -> Option<(Causes, f64)> {
        let late = class.components.iter().filter(|c| c.start > 0);
        let top = late.max_by(|a, b| a.log_weight.total_cmp(&b.log_weight))?;
        Some((Causes { leak_from: Some(LATE[top.start - 1] * self.hold.length_s), ..class.causes }, top.mean))
    }

    /// Where a late start carries weight, the leak's start becomes an unknown of its own.
    fn add_late(&self, classes: &mut Vec<Class>) {
        let all: Vec<Component> = classes.iter().flat_map(|c| c.components.iter().copied()).collect();
        let whole = evidence(&all);
        let mut order: Vec<usize> = (0..classes.len()).collect();
        order.sort_by(|a, b| evidence(&classes[*b].components).total_cmp(&evidence(&classes[*a].components)));
        let mut added: Vec<Class> = Vec::new();
        for i in order {
            let class = &classes[i];
            let late: Vec<Component> = class.components.iter().filter(|c| c.start > 0).copied().collect();
            let own = evidence(&class.components);
            if late.is_empty() || evidence(&late) - own < LATE_MATTERS.ln() || own - whole < -NOTHING {
                continue;
            }
            let Some((causes, leak)) = self.late_of(class) else { continue };
            let fitted = match added.first() {
                // near where the heaviest was found
                Some(first) => {
                    self.class(Causes { leak_from: first.causes.leak_from, ..class.causes }, class.log_prior, Some(first), None, false)
                }
                None => {
                    let fit_from = |from| self.class(causes, class.log_prior, from, Some(leak), false);
                    // where a leak from the start had to be made up for, what it left is no place to begin
                    let anew = self.is_strained(class).then(|| fit_from(None)).filter(|a| !a.poor);
                    match anew {
                        Some(anew) if evidence(&anew.components) > evidence(&class.components) + BETTER => anew,
                        anew => {
                            let near = fit_from(Some(class));
                            anew.filter(|a| evidence(&a.components) > evidence(&near.components)).unwrap_or(near)
                        }
                    }
                }
            };
            classes[i].components.retain(|c| c.start == 0);
            added.push(fitted);
        }
        classes.extend(added);
    }

    /// Where nothing explains the readings, the heaviest is fitted again with patience.
    fn be_patient(&self, classes: &mut [Class]) {
        let Some(top) = classes.iter_mut().max_by(|a, b| evidence(&a.components).total_cmp(&evidence(&b.components))) else { return };
        if top.poor {
            let again = self.class(top.causes, top.log_prior, top.causes.leak_from.and(Some(&*top)), None, true);
            if evidence(&again.components) > evidence(&top.components) {
                *top = again;
            }
        }
    }
}
