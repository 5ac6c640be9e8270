//! LIMIT-HOOP: hoop stress against yield.

use super::{Limit, LimitError};
use crate::basis::Demand;
use crate::basis::entry::WallOf;
use crate::derivation::{Amount, Derivation, Dimension};
use crate::part::{Part, PartKind};
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

/// What a mill may leave out of a pipe's nominal wall, share of it (ASME B36.10M and its material standards, from memory).
const MILL_TOLERANCE: f64 = 0.125;

/// Diameter, wall and material of a part that has all three; the wall as the basis takes it.
pub(super) fn wall_of(part: &Part, wall: WallOf) -> Result<Option<(Length, Length, &'static Material)>, LimitError> {
    let (Some(d), Some(stated), Some(id)) = (part.outside_diameter_m, part.wall_m, part.material.as_deref()) else {
        return Ok(None);
    };
    let t = if wall == WallOf::Minimum && part.kind == PartKind::Pipe {
        stated * (1.0 - MILL_TOLERANCE) - part.corrosion_m.unwrap_or(Length::from_m(0.0))
    } else {
        stated
    };
    if !(t.m() > 0.0 && t.m() * 2.0 < d.m()) {
        return Err(LimitError::WallTooThick { tag: part.tag.clone(), wall_mm: t.mm(), diameter_mm: d.mm() });
    }
    let material = tables::material(id).map_err(|source| LimitError::Table { tag: part.tag.clone(), source })?;
    Ok(Some((d, t, material)))
}

/// Thin (D_o/t ≥ 20): p = 2·t·σ/D_o (Barlow on the outside diameter). Thick: p = σ·(k²−1)/(k²+1), k = D_o/D_i (Lamé at the bore).
pub(super) fn limit(part: &Part, demand: &Demand) -> Result<Option<Limit>, LimitError> {
    let share = demand.yield_share();
    let wall = demand.entry.walls.wall;
    let Some((d, t, material)) = wall_of(part, wall)? else { return Ok(None) };
    let allowed = material.yield_pa * share;
    let (pressure, formula) = if d / t >= 20.0 {
        (allowed.pa() * 2.0 * t.m() / d.m(), "p = 2 · t · f · Sy / D_o")
    } else {
        let k2 = (d / (d - t * 2.0)).powi(2);
        (allowed.pa() * (k2 - 1.0) / (k2 + 1.0), "p = f · Sy · (k² − 1) / (k² + 1), k = D_o / (D_o − 2t)")
    };
    let pressure = GaugePressure::from_pa(pressure);
    let why = Derivation::new("greatest pressure by hoop stress", &RULE, Amount::gauge(pressure), formula)
        .with("t", "wall thickness", Amount::new(t.m(), Dimension::LengthM), wall.source())
        .with("D_o", "outside diameter", Amount::new(d.m(), Dimension::LengthM), "as entered or from the pipe table")
        .with(
            "Sy",
            "specified minimum yield",
            Amount::new(material.yield_pa.pa(), Dimension::StressPa),
            format!("{}, materials table", material.name),
        )
        .with("f", "share of yield allowed", Amount::number(share), "basis of this test")
        .would_change("A thicker wall, a smaller diameter or a stronger material.");
    let yielding = if (share - 1.0).abs() < 1e-9 { "yield".to_owned() } else { format!("{:.0} % of yield", 100.0 * share) };
    Ok(Some(Limit { pressure, rule: RULE.id.to_owned(), words: format!("{yielding}, {} wall", wall.word()), why }))
}
