//! LIMIT-FLANGE: system test limit of a flange or valve shell of a rated class.

use super::Limit;
use crate::derivation::{Amount, Derivation};
use crate::part::{Part, PartKind};
use crate::rule::{Rule, Standing};
use crate::tables::{self, TableError};
use quantity::GaugePressure;
use quantity::format::round_up;

/// Flange and valve shell.
pub const RULE: Rule = Rule {
    id: "LIMIT-FLANGE",
    sentence: "A flanged joint or an open valve's shell may be tested in the system at 1.5 times its rating at 38 °C, rounded up to the next bar.",
    clause: "B16.5 2.6; B16.34 for valves",
    edition: "ASME B16.5, recent editions",
    standing: Standing::NotChecked,
    file: file!(),
    test: "worked_flange_class_150",
};

/// p = 1.5 · rating at 38 °C, rounded up to 1 bar: the standard's own rounding comes before the instrument's.
pub(super) fn limit(part: &Part) -> Result<Option<Limit>, TableError> {
    let Some(class) = part.flange_class else { return Ok(None) };
    let Some(id) = part.material.as_deref() else {
        return if part.test_limit_pa.is_some() || part.rating_pa.is_some() {
            Ok(None)
        } else {
            Err(TableError::UnknownFlange { class, group: String::new() })
        };
    };
    let material = tables::material(id)?;
    let rating = match tables::flange_rating(&material.flange_group, class) {
        Ok(rating) => rating,
        Err(_) if part.test_limit_pa.is_some() => return Ok(None),
        Err(e) => return Err(e),
    };
    let before = rating.times(1.5);
    let pressure = GaugePressure::from_bar(round_up(before.bar(), 1.0));
    let what = if part.kind == PartKind::Valve { "valve shell" } else { "flange" };
    let why =
        Derivation::new("greatest system test pressure of the rated part", &RULE, Amount::gauge(pressure), "p = 1.5 · rating at 38 °C")
            .with(
                "rating",
                &format!("class {class}, material group {}", material.flange_group),
                Amount::gauge(rating),
                "flange ratings table, from memory",
            )
            .rounded(Amount::gauge(before), "up to the next bar, as the standard has it")
            .would_change("Another class or material group.");
    Ok(Some(Limit { pressure, rule: RULE.id.to_owned(), words: format!("{what} class {class}, 1.5 × rating"), why }))
}
