//! HOLD-SOUND: a record that nobody may lean on is not complete, whatever its band says.

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use crate::defect::{DefectKind, FoundDefect};
use crate::finding::Found;
use quantity::VolumeFlow;
use rules::rule::{Rule, Standing};

/// A record to lean on.
pub const RULE: Rule = Rule {
    id: "HOLD-SOUND",
    sentence: "A gauge that stuck or stood at its full scale, one that stood still while the temperature moved, or a hold that seems to gain leaves the test not complete until it is explained.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "hold_sound_a_steady_gauge_over_a_changing_day_is_a_question",
};

pub(super) fn check(case: &HoldCase, found: &Found) -> Option<RuleResult> {
    let inside = |d: &&FoundDefect| d.end_s >= case.hold_start_s && d.start_s <= case.hold_end_s;
    let of_gauge = |d: &&FoundDefect| d.channel.as_deref() == Some(case.gauge.tag.as_str()) && d.overruled.is_none();
    let mut against: Vec<String> = Vec::new();
    for d in found.defects.iter().filter(inside).filter(of_gauge) {
        match d.kind {
            DefectKind::Stuck => against.push(format!("{} stood still longer than its noise can explain.", case.gauge.tag)),
            DefectKind::Saturated => against.push(format!("{} stood at its full scale.", case.gauge.tag)),
            DefectKind::Flat => against.extend(crate::flat::question(case)),
            _ => {}
        }
    }
    against.dedup();
    let gains = found.leak.is_some_and(|l| l.hi_m3_per_s < VolumeFlow::from_m3_per_s(0.0));
    if gains {
        against.extend(found.reasons.iter().cloned());
    }
    (!against.is_empty()).then(|| RuleResult::new(&RULE, Verdict::NotShown, String::new(), against.join(" ")))
}
