//! LIMIT-FLANGE: system test limit of a flange or valve shell of a rated class.

use super::LimitError;
use crate::basis::Ground;
use crate::derivation::{Amount, Derivation};
use crate::library::{Material, Ratings, TableError};
use crate::part::{Part, PartKind};
use crate::rule::{Rule, Standing};
use quantity::format::round_up;
use quantity::{GaugePressure, PressureUnit, Temperature};
use std::borrow::Cow;

/// Flange and valve shell.
pub const RULE: Rule = Rule {
    id: "LIMIT-FLANGE",
    sentence: "A flanged joint or a valve's shell may be tested in the system at 1.5 times its rating at 38 °C, rounded up to the next bar, or to the next 25 psi where the system is worked in psi; one of EN 1092-1 at 1.5 times its PN.",
    clause: "B16.5 2.6; B16.34 for valves; EN 1092-1",
    edition: "ASME B16.5, recent editions",
    standing: Standing::NotChecked,
    file: file!(),
    test: "worked_limit_flange_of_class_150",
};

/// A rated part at a design temperature that its table does not reach.
pub const DESIGN: Rule = Rule {
    id: "FLANGE-DESIGN",
    sentence: "A rated part whose design temperature lies beyond the table of its material group is refused there, as one that is rated below its design pressure is warned of.",
    clause: "B16.5",
    edition: "ASME B16.5, recent editions",
    standing: Standing::NotChecked,
    file: file!(),
    test: "flange_design_a_flange_beyond_its_table_is_refused",
};

/// Why the design temperature of a rated part cannot be judged; none where it can, or its own figures stand in place of the class.
pub(crate) fn beyond(part: &Part, ground: &Ground, design: Temperature) -> Option<LimitError> {
    if part.test_limit_pa.is_some() || part.kind == PartKind::Pipe {
        return None;
    }
    let (material, ratings) = rated(part, ground).ok()??;
    let hottest = ratings.most_c();
    (design.c() > hottest + 1e-9).then(|| LimitError::Table {
        tag: part.tag.clone(),
        source: TableError::OutsideTable {
            what: format!("class {}, material group {}", part.flange_class.unwrap_or_default(), material.flange_group),
            asked_c: design.c(),
            most_c: hottest,
        },
    })
}

/// Material and ratings of a part of a class; none where the part has no class, or stands by its maker's figure instead.
pub(crate) fn rated<'a>(part: &Part, ground: &'a Ground) -> Result<Option<(&'a Material, &'a Ratings)>, TableError> {
    let Some(class) = part.flange_class.filter(|_| !super::ductile::is(part)) else { return Ok(None) };
    let Some(id) = part.material.as_deref() else {
        return if part.test_limit_pa.is_some() || part.rating_pa.is_some() { Ok(None) } else { Err(TableError::ClassAlone { class }) };
    };
    let material = ground.library.material(id)?;
    match ground.library.ratings(&material.flange_group, class) {
        Ok(ratings) => Ok(Some((material, ratings))),
        Err(_) if part.test_limit_pa.is_some() => Ok(None),
        Err(e) => Err(e),
    }
}

/// Rating at 38 °C of a part of a class or PN; none where it has neither.
pub(super) fn cold(part: &Part, ground: &Ground) -> Result<Option<GaugePressure>, LimitError> {
    if let Some(pn) = part.pn {
        return Ok(Some(GaugePressure::from_bar(f64::from(pn))));
    }
    let found = rated(part, ground).map_err(|source| LimitError::Table { tag: part.tag.clone(), source })?;
    Ok(found.map(|(_, ratings)| ratings.cold()))
}

/// What a system test limit is rounded up to: 1 bar, or 25 psi where the system is worked in psi.
fn step(ground: &Ground) -> GaugePressure {
    if ground.worked_in == PressureUnit::Psi { GaugePressure::from_psi(25.0) } else { GaugePressure::from_bar(1.0) }
}

/// p = 1.5 · rating at 38 °C, rounded up to 1 bar or 25 psi, or 1.5 · PN: the standard's own rounding comes before the instrument's.
pub(super) fn value(part: &Part, ground: &Ground) -> Result<Option<GaugePressure>, LimitError> {
    let Some(cold) = cold(part, ground)? else { return Ok(None) };
    let plain = cold.times(1.5);
    Ok(Some(if part.pn.is_some() { plain } else { GaugePressure::from_pa(round_up(plain.pa(), step(ground).pa())) }))
}

pub(super) fn why(part: &Part, ground: &Ground, pressure: GaugePressure) -> Derivation {
    let base =
        Derivation::new("greatest system test pressure of the rated part", &RULE, Amount::gauge(pressure), "p = 1.5 · rating at 38 °C")
            .would_change("Another class or material group.");
    if let Some(pn) = part.pn {
        return base.with("rating", &format!("PN {pn}"), Amount::gauge(GaugePressure::from_bar(f64::from(pn))), "EN 1092-1, from memory");
    }
    let (Ok(Some((material, ratings))), Some(class)) = (rated(part, ground), part.flange_class) else { return base };
    base.with(
        "rating",
        &format!("class {class}, material group {}", material.flange_group),
        Amount::gauge(ratings.cold()),
        ground.library.source("flange-ratings", &format!("{} {class}", material.flange_group), "c38"),
    )
    .rounded(Amount::gauge(ratings.cold().times(1.5)), "up to the next bar, or to the next 25 psi where the system is worked in psi")
}

pub(super) fn words(part: &Part) -> Cow<'static, str> {
    let valve = part.kind.valve();
    let what = if valve { "valve shell" } else { "flange" };
    match (valve, part.flange_class, part.pn) {
        (_, _, Some(pn)) => format!("{what} PN {pn}, 1.5 ×").into(),
        (false, Some(150), _) => "flange class 150, 1.5 × rating".into(),
        (false, Some(300), _) => "flange class 300, 1.5 × rating".into(),
        (_, class, _) => format!("{what} class {}, 1.5 × rating", class.unwrap_or_default()).into(),
    }
}
