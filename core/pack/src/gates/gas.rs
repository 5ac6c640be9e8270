//! GATE-GAS: who supplies the gas of a gas test, and who stays with it.

use super::{Facts, GateResult};
use crate::plan::GasSupply;
use rules::rule::{Rule, Standing};

/// Gas.
pub const RULE: Rule = Rule {
    id: "GATE-GAS",
    sentence: "A gas test is released with a regulated supply and an experienced person named who stays with it; an open workshop compressor line is refused, also under water.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "gate_gas_a_gas_test_is_released_with_regulated_supply_and_somebody_in_charge",
};

/// Absent for a test with liquid.
pub(super) fn check(facts: &Facts) -> Option<GateResult> {
    facts.plan.basis.medium.gas()?;
    let open = match facts.plan.gas_supply {
        None => Some("Nobody said where the gas comes from: give a regulated supply with a relief valve of its own.".to_owned()),
        Some(GasSupply::OpenLine) => Some(
            "An open workshop line fills faster than anybody can shut it: use a regulated supply with a relief valve of its own."
                .to_owned(),
        ),
        Some(_) if facts.plan.gas_in_charge.trim().is_empty() => {
            Some("Name an experienced person who stays with the gas test: nobody is named yet.".to_owned())
        }
        Some(_) => None,
    };
    Some(GateResult::new(&RULE, open, "Regulated supply, and somebody in charge of the gas.", "engineer", "prove"))
}
