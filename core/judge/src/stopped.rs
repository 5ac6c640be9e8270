//! A run that was let out before a hold began: nothing was held, and what was seen counts all the same.

use crate::acceptance::{ClaimVerdict, Verdict, verdicts_of_stopped};
use crate::case::HoldCase;
use crate::finding::Found;
use crate::judgement::{Judgement, RULES_VERSION};
use crate::lines::{lines, seen_at};

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
    out.extend(seen_at(case.events.iter()));
    out
}
