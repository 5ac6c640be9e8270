//! Plain-text cases: a system as people write it, then the window or the refusal that is expected of it. Each file says at the head of a case how its
//! figures were worked out by hand; `checks/bases.py` works them out again and imports nothing of the product.

pub mod expected;
pub mod random;
pub mod read;

use rules::objection::Objection;
use rules::system::{Derived, System, derive, refusals};

/// What stands against a system: why it is refused, or what stops its release.
#[derive(Debug)]
pub struct Standing {
    /// What follows from it; none where it is refused.
    pub derived: Option<Derived>,
    /// Every reason, as rule, part and field.
    pub against: Vec<(String, Option<String>, String)>,
    /// The same in sentences.
    pub sentences: Vec<String>,
}

impl Standing {
    /// True where nothing stands against it and there is a pressure to pump to.
    pub fn releasable(&self) -> bool {
        self.against.is_empty() && self.derived.as_ref().is_some_and(|d| d.day.is_some())
    }
}

/// How a system stands.
pub fn standing(system: &System) -> Standing {
    match derive(system) {
        Ok(d) => {
            let of = |o: &Objection| (o.rule.clone(), o.part.clone(), o.field.clone());
            Standing {
                against: d.objections.iter().map(of).collect(),
                sentences: d.objections.iter().map(|o| o.sentence.clone()).collect(),
                derived: Some(d),
            }
        }
        Err(_) => {
            let all = refusals(system);
            Standing {
                derived: None,
                against: all.iter().map(|r| (r.rule().to_owned(), r.part().map(str::to_owned), r.field().to_owned())).collect(),
                sentences: all.iter().map(|r| r.say(system.say())).collect(),
            }
        }
    }
}
