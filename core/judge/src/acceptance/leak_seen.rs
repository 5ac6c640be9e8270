//! LEAK-CLASS: which leak fails which claim.

use super::{ClaimLine, RuleResult, Verdict};
use crate::case::HoldCase;
use rules::rule::{Rule, Standing};
use terms::Term;
use terms::{EventKind, LeakPlace};

/// Leaks by place.
pub const RULE: Rule = Rule {
    id: "LEAK-CLASS",
    sentence: "A leak at a temporary test fitting or secondary gasket fails no claim while pressure holds; at a mechanical joint or primary gasket it fails tightness; at a weld, tube end, rivet, stay, bolt or parent metal it fails both.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "leak_class_each_place_class_fails_its_claims",
};

/// True when a leak at `place` fails the claim.
pub(super) fn fails(place: LeakPlace, line: ClaimLine) -> bool {
    match place {
        LeakPlace::TestFitting | LeakPlace::GasketSecondary => false,
        LeakPlace::MechanicalJoint | LeakPlace::GasketPrimary => line == ClaimLine::Tightness,
        LeakPlace::Weld | LeakPlace::TubeEnd | LeakPlace::RivetStayBolt | LeakPlace::ParentMetal => true,
    }
}

pub(super) fn check(case: &HoldCase, line: ClaimLine) -> RuleResult {
    let seen: Vec<LeakPlace> = case.events.iter().filter(|e| e.kind == EventKind::LeakSeen).filter_map(|e| e.place).collect();
    let list = |places: &[LeakPlace]| places.iter().map(|p| p.words()).collect::<Vec<_>>().join(", ");
    let failing: Vec<LeakPlace> = seen.iter().copied().filter(|p| fails(*p, line)).collect();
    if !failing.is_empty() {
        RuleResult::new(&RULE, Verdict::Fail, String::new(), format!("Leak seen at: {}.", list(&failing)))
    } else if seen.is_empty() {
        RuleResult::new(&RULE, Verdict::Pass, String::new(), "No leak seen.".to_owned())
    } else {
        RuleResult::new(&RULE, Verdict::Pass, String::new(), format!("Leak seen and tolerated for this claim at: {}.", list(&seen)))
    }
}
