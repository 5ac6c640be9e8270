//! BOUND-NOT-PRESSED: nothing that is to be tested lies behind something shut.

use super::{Found, listed};
use crate::network::Way;
use crate::pressure::one_with;
use crate::survey::Survey;
use rules::part::PartKind;
use rules::rule::{Rule, Standing};

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-NOT-PRESSED",
    sentence: "What is to be tested sees the pressure: a leg behind a shut valve, a blind or the wrong side of a check valve is not tested, whatever the record says.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "bound_not_pressed",
};

pub(super) fn check(s: &Survey, found: &mut Found) {
    let missed: Vec<usize> = (0..s.parts.len())
        .filter(|i| s.test.places[*i].is_some_and(|p| p.run.is_some()) && !s.sees(*i) && !s.parts[*i].beyond())
        .filter(|i| !s.parts[*i].kind.valve() && s.parts[*i].kind != PartKind::Blind)
        .collect();
    let mut done = vec![false; s.test.network.points.len()];
    for i in &missed {
        let Some(place) = s.test.places[*i] else { continue };
        if done[place.from] || done[place.to] {
            continue;
        }
        // all that hangs together behind the same thing is one finding
        let piece = one_with(&s.test.network, &[place.from]);
        piece.iter().enumerate().filter(|(_, p)| **p).for_each(|(p, _)| done[p] = true);
        let with: Vec<&str> =
            missed.iter().filter(|j| s.test.places[**j].is_some_and(|p| piece[p.from])).map(|j| s.parts[*j].tag.as_str()).collect();
        let behind = |v: &usize| {
            s.test.places[*v]
                .is_some_and(|p| p.run.is_some_and(|r| s.test.network.runs[r].way != Way::Open) && (piece[p.from] != piece[p.to]))
        };
        let shut: Vec<&str> = (0..s.parts.len()).filter(behind).map(|v| s.parts[v].tag.as_str()).collect();
        let why = if shut.is_empty() {
            "it is joined to nothing that is pressed".to_owned()
        } else {
            format!("it lies behind {}", listed(&shut))
        };
        found.of_part(
            s,
            *i,
            format!("{} would not be tested: {why}.", listed(&with)),
            "Open the way to it in the position of that valve, put in a jumper, or say that it stands beyond the test.".to_owned(),
        );
    }
}
