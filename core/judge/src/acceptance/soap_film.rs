//! SOAP-FILM: no growing bubble at any joint of a gas test.

use super::look::look;
use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use rules::accept::SoapFilm;
use rules::rule::{Rule, Standing};
use terms::EventKind;

/// Soap film.
pub const RULE: Rule = Rule {
    id: "SOAP-FILM",
    sentence: "In a gas test every joint is wetted with a bubble solution, where the basis says so at a lower pressure after the hold, and none shows a growing bubble.",
    clause: "345.5.5",
    edition: "ASME B31.3, recent editions",
    standing: Standing::NotChecked,
    file: file!(),
    test: "soap_film_a_growing_bubble_fails",
};

pub(super) fn check(case: &HoldCase, asked: &SoapFilm) -> RuleResult {
    let new = |result, sentence: &str| RuleResult::of_basis(&RULE, &asked.origin, result, String::new(), sentence.to_owned());
    let seen = case.events.iter().any(|e| e.kind == EventKind::LeakSeen);
    let looked = look(case).is_done();
    if seen {
        new(Verdict::Fail, "A growing bubble was seen: release the gas before anything is tightened.")
    } else if looked {
        new(Verdict::Pass, "Every joint was wetted; no growing bubble.")
    } else {
        new(Verdict::NotShown, "No look with the bubble solution is booked: wet every joint, and book it.")
    }
}
