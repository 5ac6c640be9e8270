//! LIMIT-FLANGE: system test limit of a flange or valve shell of a rated class.

use super::LimitError;
use crate::basis::Demand;
use crate::derivation::{Amount, Derivation};
use crate::library::{Material, Ratings, TableError};
use crate::part::{Part, PartKind};
use crate::rule::{Rule, Standing};
use quantity::GaugePressure;
use quantity::format::round_up;
use std::borrow::Cow;

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

/// Material and ratings of a part of a class; none where the part has no class, or stands by its maker's figure instead.
pub(crate) fn rated<'a>(part: &Part, demand: &'a Demand) -> Result<Option<(&'a Material, &'a Ratings)>, TableError> {
    let Some(class) = part.flange_class else { return Ok(None) };
    let Some(id) = part.material.as_deref() else {
        return if part.test_limit_pa.is_some() || part.rating_pa.is_some() {
            Ok(None)
        } else {
            Err(TableError::UnknownFlange { class, group: String::new() })
        };
    };
    let material = demand.library.material(id)?;
    match demand.library.ratings(&material.flange_group, class) {
        Ok(ratings) => Ok(Some((material, ratings))),
        Err(_) if part.test_limit_pa.is_some() => Ok(None),
        Err(e) => Err(e),
    }
}

/// p = 1.5 · rating at 38 °C, rounded up to 1 bar: the standard's own rounding comes before the instrument's.
pub(super) fn value(part: &Part, demand: &Demand) -> Result<Option<GaugePressure>, LimitError> {
    let found = rated(part, demand).map_err(|source| LimitError::Table { tag: part.tag.clone(), source })?;
    Ok(found.map(|(_, ratings)| GaugePressure::from_bar(round_up(ratings.cold().times(1.5).bar(), 1.0))))
}

pub(super) fn why(part: &Part, demand: &Demand, pressure: GaugePressure) -> Derivation {
    let base =
        Derivation::new("greatest system test pressure of the rated part", &RULE, Amount::gauge(pressure), "p = 1.5 · rating at 38 °C")
            .would_change("Another class or material group.");
    let (Ok(Some((material, ratings))), Some(class)) = (rated(part, demand), part.flange_class) else { return base };
    base.with(
        "rating",
        &format!("class {class}, material group {}", material.flange_group),
        Amount::gauge(ratings.cold()),
        demand.library.source("flange-ratings", &format!("{} {class}", material.flange_group), "c38"),
    )
    .rounded(Amount::gauge(ratings.cold().times(1.5)), "up to the next bar, as the standard has it")
}

pub(super) fn words(part: &Part) -> Cow<'static, str> {
    match (part.kind == PartKind::Valve, part.flange_class) {
        (false, Some(150)) => "flange class 150, 1.5 × rating".into(),
        (false, Some(300)) => "flange class 300, 1.5 × rating".into(),
        (valve, class) => {
            format!("{} class {}, 1.5 × rating", if valve { "valve shell" } else { "flange" }, class.unwrap_or_default()).into()
        }
    }
}
