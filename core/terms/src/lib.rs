//! What people call things: each term of the trade has its key, as it is stored and sent, and its words, as a person reads them, in one place.
//!
//! A term is an enum that derives [`VariantArray`], [`EnumMessage`], [`EnumProperty`], [`IntoStaticStr`](strum::IntoStaticStr) and
//! [`EnumString`](strum::EnumString). Its `message` is its words, its `detailed_message` says more, its property `short` fits a flag.
//! Terms that several crates share live here; a term of one crate lives there.

mod claim;
mod event;
mod leak_place;
mod outcome;
mod thermometer_place;

pub use claim::Claim;
pub use event::EventKind;
pub use leak_place::LeakPlace;
pub use outcome::Outcome;
pub use thermometer_place::ThermometerPlace;

use serde::{Deserialize, Serialize};
use std::str::FromStr;
pub use strum::VariantArray;
use strum::{EnumMessage, EnumProperty};

/// A term of the trade.
pub trait Term: Copy + VariantArray + EnumMessage + EnumProperty + Into<&'static str> + FromStr {
    /// As it is stored and sent.
    fn key(self) -> &'static str {
        self.into()
    }

    /// From what is stored; none where no term has this key.
    fn from_key(key: &str) -> Option<Self> {
        key.parse().ok()
    }

    /// In words.
    fn words(self) -> &'static str {
        self.get_message().unwrap_or_else(|| self.into())
    }

    /// In a word or two, for a flag in a chart.
    fn short(self) -> &'static str {
        self.get_str("short").unwrap_or_else(|| self.words())
    }

    /// What is said beside it; empty where nothing is.
    fn more(self) -> &'static str {
        self.get_detailed_message().unwrap_or_default()
    }

    /// As a form or a table gets it.
    fn said(self) -> Worded {
        Worded { key: self.key().to_owned(), words: self.words().to_owned(), short: self.short().to_owned(), more: self.more().to_owned() }
    }

    /// Every one, in the order in which they are offered.
    fn all_said() -> Vec<Worded> {
        Self::VARIANTS.iter().map(|t| t.said()).collect()
    }
}

impl<T: Copy + VariantArray + EnumMessage + EnumProperty + Into<&'static str> + FromStr> Term for T {}

/// A term as a form offers it and a table shows it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Worded {
    /// As it is stored and sent.
    pub key: String,
    /// In words.
    pub words: String,
    /// In a word or two, for a flag in a chart.
    pub short: String,
    /// What is said beside it; empty where nothing is.
    pub more: String,
}

#[cfg(test)]
mod tests {
    use super::{Claim, EventKind, LeakPlace, Term, ThermometerPlace, Worded};
    use serde::Serialize;
    use std::collections::BTreeSet;

    /// A key is what serde writes, and is read back; no two terms of a kind share a key or words; words are not the key.
    fn is_sound<T: Term + Serialize + PartialEq + std::fmt::Debug>() {
        for term in T::VARIANTS {
            assert_eq!(serde_json::to_value(term).ok(), Some(term.key().into()), "{term:?}");
            assert_eq!(T::from_key(term.key()), Some(*term));
            assert!(!term.words().contains('_') && term.short().len() <= term.words().len(), "{term:?}");
        }
        let all: Vec<Worded> = T::all_said();
        for of in [|w: &Worded| w.key.clone(), |w: &Worded| w.words.clone(), |w: &Worded| w.short.clone()] {
            assert_eq!(all.iter().map(of).collect::<BTreeSet<_>>().len(), all.len(), "{all:?}");
        }
        assert_eq!(T::from_key("none of them"), None);
    }

    #[test]
    fn every_term_is_stored_by_the_key_that_serde_writes_and_has_words_of_its_own() {
        is_sound::<Claim>();
        is_sound::<EventKind>();
        is_sound::<LeakPlace>();
        is_sound::<ThermometerPlace>();
    }
}
