//! LIMIT-BLIND: what a blind of a known thickness bears.

use super::LimitError;
use crate::basis::Ground;
use crate::consequences::blind::test_share;
use crate::derivation::{Amount, Derivation, Dimension};
use crate::part::{Part, PartKind};
use crate::rule::{Rule, Standing};
use quantity::{GaugePressure, Length, Stress};

/// Blind.
pub const RULE: Rule = Rule {
    id: "LIMIT-BLIND",
    sentence: "A blank for the test alone bears what brings it to 95 % of yield with liquid, 90 % with gas, by the formula of its thickness.",
    clause: "B31.1 104.5.3, B31.3 304.5.3",
    edition: "ASME B31.1 and B31.3, recent editions",
    standing: Standing::NotChecked,
    file: file!(),
    test: "limit_blind_a_thin_blind_limits_the_test",
};

/// Diameter within the gasket, thickness and yield of a blind of which all three are known.
fn plate(part: &Part, ground: &Ground) -> Result<Option<(Length, Length, Stress)>, LimitError> {
    if part.kind != PartKind::Blind {
        return Ok(None);
    }
    let (Some(d), Some(t), Some(id)) = (part.sealing_diameter_m, part.wall_m, part.material.as_deref()) else { return Ok(None) };
    let material = ground.library.material(id).map_err(|source| LimitError::Table { tag: part.tag.clone(), source })?;
    Ok(material.yield_pa.map(|y| (d, t - part.corrosion_m.unwrap_or(Length::from_m(0.0)), y)))
}

/// p = 16·S·E/3·((t − c)/d_g)².
pub(super) fn value(part: &Part, ground: &Ground) -> Result<Option<GaugePressure>, LimitError> {
    let share = test_share(ground.gas);
    Ok(plate(part, ground)?.map(|(d, t, y)| GaugePressure::from_pa(16.0 * share * y.pa() / 3.0 * (t / d).powi(2))))
}

pub(super) fn why(part: &Part, ground: &Ground, pressure: GaugePressure) -> Derivation {
    let share = test_share(ground.gas);
    let base = Derivation::new("greatest pressure on the blind", &RULE, Amount::gauge(pressure), "p = 16/3 · f · Sy · (t / d_g)²")
        .would_change("A thicker blind, or a stronger plate.");
    let Ok(Some((d, t, y))) = plate(part, ground) else { return base };
    base.with("t", "thickness less corrosion", Amount::new(t.m(), Dimension::LengthM), "as entered")
        .with("d_g", "inside diameter of the gasket", Amount::new(d.m(), Dimension::LengthM), "as entered")
        .with("Sy", "specified minimum yield", Amount::new(y.pa(), Dimension::StressPa), "materials table")
        .with("f", "share of yield, for the test alone", Amount::number(share), "B31.1 104.5.3, from memory")
}
