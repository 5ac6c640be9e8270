//! The rule book: from a code's words to a window at the gauge, each figure with its derivation.
//!
//! A rule is a constant of type [`rule::Rule`] in the file that applies it; [`catalogue`] lists them all, and the
//! page `RULES.md` is made from that list.

pub mod accept;
pub mod basis;
mod cautions;
mod conditions;
pub mod consequences;
pub mod derivation;
pub mod derive;
pub mod derived;
pub mod fields;
mod filled;
pub mod fluid;
pub mod gas;
mod gas_gates;
pub mod gauge;
pub mod library;
pub mod limits;
pub mod method;
pub mod objection;
pub mod part;
pub mod parting;
pub mod plan;
pub mod pretest;
mod refusal;
pub mod rule;
pub mod say;
pub mod site;
pub mod specification;
pub mod split;
pub mod system;
pub mod used;
pub mod why;
pub mod window;

use rule::Rule;

/// Every rule of this crate, in the order in which a derivation uses them.
pub fn catalogue() -> Vec<&'static Rule> {
    [
        basis::RULES,
        system::RULES,
        limits::RULES,
        used::RULES,
        window::RULES,
        plan::RULES,
        gauge::RULES,
        gas::RULES,
        gas_gates::RULES,
        conditions::RULES,
        pretest::RULES,
        fluid::RULES,
        method::RULES,
        why::RULES,
        split::RULES,
        consequences::RULES,
    ]
    .concat()
}
