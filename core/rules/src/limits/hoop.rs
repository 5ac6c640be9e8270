//! LIMIT-HOOP: hoop stress against yield.

use super::{Limit, LimitError};
use crate::basis::Basis;
use crate::derivation::{Amount, Derivation, Dimension};
use crate::part::Part;
use crate::rule::{Rule, Standing};
use crate::tables::{self, Material};
use quantity::{GaugePressure, Length};

/// Hoop stress.
pub const RULE: Rule = Rule {
    id: "LIMIT-HOOP",
    sentence: "The hoop stress in the wall stays within the share of the specified minimum yield that the basis allows; thick walls by Lamé at the bore.",
    clause: "B31.3 345.4.2(c); Barlow; Lamé",
    edition: "ASME B31.3, editions from 2016",
    standing: Standing::NotChecked,
    file: file!(),
    test: "hoop_limit_thin_and_thick",
};

/// Diameter, wall and material of a part that has all three.
pub(super) fn wall_of(part: &Part) -> Result<Option<(Length, Length, &'static Material)>, LimitError> {
    let (Some(d), Some(t), Some(id)) = (part.outside_diameter_m, part.wall_m, part.material.as_deref()) else {
        return Ok(None);
    };
    if !(t.m() > 0.0 && t.m() * 2.0 < d.m()) {
        return Err(LimitError::WallTooThick { tag: part.tag.clone(), wall_mm: t.mm(), diameter_mm: d.mm() });
    }
    let material = tables::material(id).map_err(|source| LimitError::Table { tag: part.tag.clone(), source })?;
    Ok(Some((d, t, material)))
}

/// Thin (D_o/t ≥ 20): p = 2·t·σ/D_o (Barlow on the outside diameter). Thick: p = σ·(k²−1)/(k²+1), k = D_o/D_i (Lamé at the bore).
pub(super) fn limit(part: &Part, basis: &Basis) -> Result<Option<Limit>, LimitError> {
    let Some((d, t, material)) = wall_of(part)? else { return Ok(None) };
    let allowed = material.yield_pa * basis.yield_share();
    let (pressure, formula) = if d / t >= 20.0 {
        (allowed.pa() * 2.0 * t.m() / d.m(), "p = 2 · t · f · Sy / D_o")
    } else {
        let k2 = (d / (d - t * 2.0)).powi(2);
        (allowed.pa() * (k2 - 1.0) / (k2 + 1.0), "p = f · Sy · (k² − 1) / (k² + 1), k = D_o / (D_o − 2t)")
    };
    let pressure = GaugePressure::from_pa(pressure);
    let share = basis.yield_share();
    let why = Derivation::new("greatest pressure by hoop stress", &RULE, Amount::gauge(pressure), formula)
        .with("t", "wall thickness", Amount::new(t.m(), Dimension::LengthM), "as entered; nominal for piping, measured for a boiler")
        .with("D_o", "outside diameter", Amount::new(d.m(), Dimension::LengthM), "as entered or from the pipe table")
        .with(
            "Sy",
            "specified minimum yield",
            Amount::new(material.yield_pa.pa(), Dimension::StressPa),
            format!("{}, materials table", material.name),
        )
        .with("f", "share of yield allowed", Amount::number(share), "basis of this test")
        .would_change("A thicker wall, a smaller diameter or a stronger material.");
    let words = if (share - 1.0).abs() < 1e-9 { "yield, nominal wall" } else { "90 % of yield, stated wall" };
    Ok(Some(Limit { pressure, rule: &RULE, words: words.to_owned(), why }))
}
