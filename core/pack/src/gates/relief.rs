//! GATE-RELIEF: a relief setting fits, or an alternative is approved by name.

use super::{Facts, GateResult};
use crate::signing::Form;
use rules::basis::Medium;
use rules::rule::{Rule, Standing};

/// Relief.
pub const RULE: Rule = Rule {
    id: "GATE-RELIEF",
    sentence: "Where no relief setting fits under the upper bound, the test is released only with the alternative named and approved; on a quick test with liquid whoever makes it says that the valve is fitted, or that they pump by hand: there the word is enough.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "gate_relief_relief_that_fits_nowhere_needs_a_name",
};

/// Two settings are the same to this, Pa.
const SAME_PA: f64 = 1.0;

/// What nobody has said of a quick test.
const UNSAID: &str = "Nobody has said what keeps the pressure from running past: that you pump by hand, in part strokes near the end, eyes on the gauge, one hand at the bleed; or that a relief valve set as derived is fitted and in date.";

/// Absent while the window is empty: there is no pressure to relieve.
pub(super) fn check(facts: &Facts) -> Option<GateResult> {
    let day = facts.derived.as_ref().ok()?.day.as_ref()?;
    let conflict = day.conflicts.iter().find(|c| c.about == "relief");
    let approved = facts.plan.relief_alternative.trim();
    let by_hand = facts.form == Form::Quick && facts.plan.basis.medium == Medium::Liquid;
    Some(match conflict {
        Some(_) if by_hand && facts.plan.hand_pump => GateResult::new(
            &RULE,
            None,
            "No relief valve can be set: whoever works the hand pump stops it, eyes on the gauge.",
            "engineer",
            "derive",
        ),
        Some(c) if by_hand => GateResult::new(
            &RULE,
            Some(format!(
                "{} With a hand pump this is enough: say that you stay at the pump, in part strokes, eyes on the gauge, one hand at the bleed.",
                c.sentence
            )),
            "",
            "engineer",
            "ready",
        ),
        None if by_hand && facts.plan.hand_pump => {
            GateResult::new(&RULE, None, "Pumped by hand: whoever works the pump stops it, eyes on the gauge.", "engineer", "derive")
        }
        None if by_hand && let Some(fitted) = facts.plan.relief_fitted_pa => {
            let moved = day.relief_set_pa.filter(|set| (*set - fitted).pa().abs() > SAME_PA).map(|set| {
                let (was, is) = (facts.say.down(fitted), facts.say.down(set));
                format!("The relief valve was said to be set at {was}; what follows now is {is}. Set it to that, and say so.")
            });
            let fits = format!("A relief valve that is set at {} is fitted.", facts.say.down(fitted));
            GateResult::new(&RULE, moved, &fits, "engineer", "ready")
        }
        None if by_hand && !approved.is_empty() => {
            GateResult::new(&RULE, None, &format!("In place of a relief valve: {approved}."), "engineer", "derive")
        }
        // a setting that fits is no valve
        None if by_hand => GateResult::new(&RULE, Some(UNSAID.to_owned()), "", "engineer", "ready"),
        None => GateResult::new(&RULE, None, "A relief setting fits.", "engineer", "derive"),
        Some(_) if !approved.is_empty() => {
            GateResult::new(&RULE, None, &format!("No relief setting fits; approved instead: {approved}."), "engineer", "derive")
        }
        Some(c) => GateResult::new(&RULE, Some(format!("{} Have that alternative approved by name.", c.sentence)), "", "engineer", "ready"),
    })
}
