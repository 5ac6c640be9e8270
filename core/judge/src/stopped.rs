//! A run that was let out before a hold began: nothing was held, and what was seen counts all the same.

use crate::acceptance::{ClaimVerdict, Verdict, verdicts_of_stopped};
use crate::case::HoldCase;
use crate::finding::Found;
use crate::judgement::{Judgement, RULES_VERSION};
use crate::lines::lines;
use terms::{EventKind, Term};

/// The judgement of a run that was stopped.
pub(crate) fn stopped(case: &HoldCase) -> Judgement {
    let found = Found::of_stopped();
    let verdicts: Vec<ClaimVerdict> = verdicts_of_stopped(case);
    let says = sentences(case);
    Judgement {
        sentence: says.join(" "),
        says,
        lines: Some(lines(case, &found, &verdicts)),
        verdict: Verdict::all(verdicts.iter().filter(|v| v.claimed).map(|v| v.verdict)),
        derivations: Vec::new(),
        found,
        verdicts,
        rules_version: RULES_VERSION.to_owned(),
    }
}

fn sentences(case: &HoldCase) -> Vec<String> {
    let mut out = vec!["The pressure was let out before a hold began.".to_owned()];
    let most = crate::read::most(case.pressures().map(|r| r.p)).filter(|p| p.pa() > 0.0);
    if let Some(most) = most {
        out.push(format!("The greatest pressure read was {}.", crate::words::Shown::of(case).pressure(most)));
    }
    let mut places: Vec<&str> =
        case.events.iter().filter(|e| e.kind == EventKind::LeakSeen).filter_map(|e| e.place).map(Term::words).collect();
    let many = places.len();
    places.dedup();
    if !places.is_empty() {
        out.push(format!("{} seen at: {}.", if many == 1 { "A leak was" } else { "Leaks were" }, places.join(", ")));
    }
    out
}
