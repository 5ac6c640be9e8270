//! BOUND-NOT-PRESSED: nothing that is to be tested lies behind something shut.

use super::{Found, listed};
use crate::network::Way;
use crate::pressure::pieces;
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
    test: "bound_not_pressed_a_leg_behind_a_shut_valve_is_found",
};

pub(super) fn check(s: &Survey, found: &mut Found) {
    let missed = |i: usize| {
        let in_line = s.test.places[i].is_some_and(|p| p.run.is_some());
        in_line && !s.sees(i) && !s.parts[i].beyond() && !s.parts[i].kind.valve() && s.parts[i].kind != PartKind::Blind
    };
    // all that hangs together behind the same thing is one finding
    let network = &s.test.network;
    let shut: Vec<bool> = network.runs.iter().map(|r| r.way != Way::Open).collect();
    let mut piece_of = vec![0; network.points.len()];
    let pieces = pieces(network, &shut);
    for (n, points) in pieces.iter().enumerate() {
        points.iter().for_each(|p| piece_of[*p] = n);
    }
    let (mut within, mut behind) = (vec![Vec::new(); pieces.len()], vec![Vec::new(); pieces.len()]);
    for (i, place) in s.test.places.iter().enumerate() {
        let Some(place) = place else { continue };
        if missed(i) {
            within[piece_of[place.from]].push(i);
        } else if piece_of[place.from] != piece_of[place.to] {
            behind[piece_of[place.from]].push(i);
            behind[piece_of[place.to]].push(i);
        }
    }
    for (missed, shut) in within.iter().zip(&behind) {
        let Some(first) = missed.first() else { continue };
        let tags = |of: &[usize]| listed(&of.iter().map(|i| s.parts[*i].tag.as_str()).collect::<Vec<_>>());
        let why =
            if shut.is_empty() { "it is joined to nothing that is pressed".to_owned() } else { format!("it lies behind {}", tags(shut)) };
        found.of_part(
            s,
            *first,
            format!("{} would not be tested: {why}.", tags(missed)),
            "Open the way to it in the position of that valve, put in a jumper, or say that it stands beyond the test.".to_owned(),
        );
    }
}
