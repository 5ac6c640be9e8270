//! What the registers of a pack say of a run: where it was looked, what is still to be put back or done, and who booked it.

use crate::problem::Problem;
use crate::store::pack::PackRow;
use crate::store::register::{Kept, Mark, Registers};
use moment::Instant;
use pack::registers::{BoundaryItem, Decision, LookAt, Punch, StillOwed};
use pack::restore::{RestoreLine, list};
use record::sealed::{Booked, BookedAct};
use run::Run;

/// The registers of a pack, each by its type.
#[derive(Debug, Clone)]
pub struct Afterwards {
    /// Punch list.
    pub punch: Vec<Kept<Punch>>,
    /// Blinds and removed items.
    pub boundary: Vec<Kept<BoundaryItem>>,
    /// Places to look at.
    pub looks: Vec<Kept<LookAt>>,
    /// What is owed.
    pub promises: Vec<Kept<StillOwed>>,
    /// What was decided.
    pub decisions: Vec<Kept<Decision>>,
}

/// Items without who and when.
pub fn items<T: Clone>(kept: &[Kept<T>]) -> Vec<T> {
    kept.iter().map(|k| k.item.clone()).collect()
}

impl Afterwards {
    /// Of a pack.
    ///
    /// # Errors
    /// When an item is stored that its register does not know.
    pub fn of(registers: &Registers) -> Result<Self, Problem> {
        Ok(Self {
            punch: registers.kept()?,
            boundary: registers.kept()?,
            looks: registers.kept()?,
            promises: registers.kept()?,
            decisions: registers.kept()?,
        })
    }

    /// What must be put back or done after a run.
    pub fn restore(&self, pack: &PackRow, run: &Run) -> Vec<RestoreLine> {
        let gas = pack.plan.basis.medium.gas().is_some();
        list(gas, &run.booked(), &items(&self.boundary), &items(&self.promises), pack.plan.derating.as_ref())
    }

    /// Places to look at as they were found in one attempt: what was found in another is open in it.
    pub fn looks_in(&self, attempt: u32) -> Vec<LookAt> {
        let of = |l: &LookAt| if l.closed_in(attempt) { l.clone() } else { LookAt::open(l.what.clone(), l.kind) };
        self.looks.iter().map(|k| of(&k.item)).collect()
    }

    /// How much is promised and not done yet.
    pub fn owed(&self) -> usize {
        self.promises.iter().filter(|p| !p.item.done).count()
    }

    /// Who booked what of a run.
    pub fn booked(&self, attempt: u32) -> Vec<Booked> {
        let one = |item: &str, act: BookedAct, mark: Option<&Mark>| {
            mark.map(|m| Booked { item: item.to_owned(), act, by: m.by.clone(), stored_at: Instant::from_us(m.at_us).to_string() })
        };
        let of_boundary = self.boundary.iter().flat_map(|b| {
            [("set_for_test", BookedAct::Set), ("put_back", BookedAct::PutBack)]
                .map(|(field, act)| one(&b.item.tag, act, b.marks.get(field)))
        });
        let of_punch = self.punch.iter().map(|p| one(&p.item.number, BookedAct::Cleared, p.marks.get("cleared")));
        let looked = self.looks.iter().filter(|l| l.item.closed_in(attempt));
        let of_looks = looked.map(|l| one(&l.item.what, BookedAct::Looked, l.marks.get("looked")));
        let of_promises = self.promises.iter().flat_map(|p| {
            [("carried", BookedAct::CarriedOver), ("done", BookedAct::Done)].map(|(field, act)| one(&p.item.what, act, p.marks.get(field)))
        });
        let of_decisions = self.decisions.iter().map(|d| one(&d.item.what, BookedAct::Done, d.marks.get("done")));
        of_boundary.chain(of_punch).chain(of_looks).chain(of_promises).chain(of_decisions).flatten().collect()
    }
}
