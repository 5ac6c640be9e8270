//! LIMIT-NAMED: what is not calculated here bears what its designer or inspector names.

use super::LimitError;
use crate::basis::Ground;
use crate::derivation::{Amount, Derivation};
use crate::part::{Part, PartKind, Seam};
use crate::rule::{Rule, Standing};
use quantity::GaugePressure;

/// Not calculated.
pub const RULE: Rule = Rule {
    id: "LIMIT-NAMED",
    sentence: "A furnace, a stayed plate and a riveted seam without its pitch calculation have no limit of their own here: the greatest pressure and who gave it (drawing, designer, inspector) must be named, never the shell's taken in their place.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "limit_named_what_is_not_calculated_needs_a_named_figure",
};

/// People who own a thing do not name what it bears.
const NOBODY: [&str; 4] = ["owner", "the owner", "me", "myself"];

/// What is not calculated of a part, in words; none where everything is.
fn what(part: &Part, ground: &Ground) -> Option<&'static str> {
    match part.kind {
        PartKind::Furnace => Some("a part with the pressure outside it"),
        PartKind::StayedPlate => Some("a plate held by stays"),
        k if k.vessel() && !ground.of_piping() && part.seam == Some(Seam::Riveted) && part.efficiency().is_none() => {
            Some("a riveted seam without the efficiency of its pitch")
        }
        _ => None,
    }
}

/// True for somebody who may name it.
fn named(part: &Part) -> bool {
    part.limit_by.as_deref().map(|by| by.trim().to_lowercase()).is_some_and(|by| !by.is_empty() && !NOBODY.contains(&by.as_str()))
}

/// p = the figure that was named.
pub(super) fn value(part: &Part, ground: &Ground) -> Result<Option<GaugePressure>, LimitError> {
    let Some(what) = what(part, ground) else { return Ok(None) };
    let refuse = |ask, field| Err(LimitError::NotCalculated { tag: part.tag.clone(), what, ask, field });
    match part.test_limit_pa {
        None => refuse(
            "take the greatest pressure from its drawing, or from its designer or the inspector, and give it in the column \"limit\" with who gave it",
            "limit",
        ),
        Some(_) if !named(part) => {
            refuse("say in the column \"limit by\" who named its limit: drawing, designer or inspector; its owner cannot", "limit by")
        }
        limit => Ok(limit),
    }
}

pub(super) fn why(part: &Part, pressure: GaugePressure) -> Derivation {
    Derivation::new("greatest pressure of what is not calculated", &RULE, Amount::gauge(pressure), "p = figure named")
        .with("p", "figure named", Amount::gauge(pressure), format!("named by: {}", part.limit_by.as_deref().unwrap_or("nobody")))
        .would_change("Another figure from its designer or the inspector, in writing.")
}

pub(super) fn words(part: &Part) -> String {
    format!("named by {}", part.limit_by.as_deref().unwrap_or("nobody"))
}
