//! The pack: what is planned, what stops it, its schedule, what must be put back, and who signs.

pub mod acts;
pub mod by_hand;
pub mod clock;
pub mod gates;
pub mod instrument;
pub mod looks;
pub mod low_gas;
pub mod own_gauge;
pub mod people;
pub mod plan;
pub mod quick;
pub mod registers;
pub mod restore;
pub mod schedule;
pub mod signing;
pub mod spine;

use rules::rule::Rule;

/// Every rule of this crate.
pub fn catalogue() -> Vec<&'static Rule> {
    [
        acts::RULES,
        by_hand::RULES,
        low_gas::RULES,
        gates::RULES,
        schedule::RULES,
        clock::RULES,
        looks::RULES,
        own_gauge::RULES,
        restore::RULES,
        signing::RULES,
    ]
    .concat()
}
