//! LIMIT-HOOP: hoop stress against yield.

use super::LimitError;
use crate::basis::Demand;
use crate::basis::entry::WallOf;
use crate::derivation::{Amount, Derivation, Dimension};
use crate::library::Material;
use crate::part::{Part, PartKind};
use crate::rule::{Rule, Standing};
use quantity::{GaugePressure, Length, Stress};
use std::borrow::Cow;

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
pub(super) struct Wall<'a> {
    pub outside: Length,
    pub thickness: Length,
    pub material: &'a Material,
    /// Yield, or of plastics the short-term hoop stress.
    pub yield_pa: Stress,
}

/// The wall of a part; none where one of diameter, wall, material and yield is not known.
pub(super) fn wall_of<'a>(part: &Part, demand: &'a Demand) -> Result<Option<Wall<'a>>, LimitError> {
    let (Some(outside), Some(stated), Some(id)) = (part.outside_diameter_m, part.wall_m, part.material.as_deref()) else {
        return Ok(None);
    };
    // the thickness of a blind is no wall of a cylinder
    if part.kind == PartKind::Blind {
        return Ok(None);
    }
    let thickness = if demand.entry.walls.wall == WallOf::Minimum && matches!(part.kind, PartKind::Pipe | PartKind::Bend) {
        stated * (1.0 - MILL_TOLERANCE) - part.corrosion_m.unwrap_or(Length::from_m(0.0))
    } else {
        stated
    };
    if !(thickness.m() > 0.0 && thickness.m() * 2.0 < outside.m()) {
        return Err(LimitError::WallTooThick { tag: part.tag.clone(), wall_mm: thickness.mm(), diameter_mm: outside.mm() });
    }
    let material = demand.library.material(id).map_err(|source| LimitError::Table { tag: part.tag.clone(), source })?;
    Ok(material.yield_pa.map(|yield_pa| Wall { outside, thickness, material, yield_pa }))
}

const THIN: f64 = 20.0;

/// Thin (D_o/t ≥ 20): p = 2·t·σ/D_o (Barlow on the outside diameter). Thick: p = σ·(k²−1)/(k²+1), k = D_o/D_i (Lamé at the bore).
pub(super) fn value(wall: &Wall, demand: &Demand) -> Option<GaugePressure> {
    let (d, t, allowed) = (wall.outside, wall.thickness, wall.yield_pa * demand.yield_share());
    let pressure = if d / t >= THIN {
        allowed.pa() * 2.0 * t.m() / d.m()
    } else {
        let k2 = (d / (d - t * 2.0)).powi(2);
        allowed.pa() * (k2 - 1.0) / (k2 + 1.0)
    };
    Some(GaugePressure::from_pa(pressure))
}

pub(super) fn why(wall: &Wall, demand: &Demand, pressure: GaugePressure) -> Derivation {
    let share = demand.yield_share();
    let formula = if wall.outside / wall.thickness >= THIN {
        "p = 2 · t · f · Sy / D_o"
    } else {
        "p = f · Sy · (k² − 1) / (k² + 1), k = D_o / (D_o − 2t)"
    };
    let base = Derivation::new("greatest pressure by hoop stress", &RULE, Amount::gauge(pressure), formula)
        .with("t", "wall thickness", Amount::new(wall.thickness.m(), Dimension::LengthM), demand.entry.walls.wall.source())
        .with("D_o", "outside diameter", Amount::new(wall.outside.m(), Dimension::LengthM), "as entered or from the pipe table");
    with_yield(base, wall, demand)
        .with("f", "share of yield allowed", Amount::number(share), "basis of this test")
        .would_change("A thicker wall, a smaller diameter or a stronger material.")
}

/// Puts the yield of a wall into a derivation.
pub(super) fn with_yield(why: Derivation, wall: &Wall, demand: &Demand) -> Derivation {
    let m = wall.material;
    let meaning = if matches!(m.family.as_str(), "pvc" | "pe") { "short-term hoop stress" } else { "specified minimum yield" };
    why.with(
        "Sy",
        meaning,
        Amount::new(wall.yield_pa.pa(), Dimension::StressPa),
        format!("{}, {}", m.name, demand.library.source("materials", &m.id, "yield_ksi")),
    )
}

pub(super) fn words(part: &Part, demand: &Demand) -> Cow<'static, str> {
    let share = demand.yield_share();
    let plastic = part.material.as_deref().is_some_and(|m| matches!(m, "pvc" | "pe100"));
    let wall = demand.entry.walls.wall;
    if (share - 1.0).abs() < 1e-9 && !plastic && wall == WallOf::Nominal {
        return "yield, nominal wall".into();
    }
    let of = if plastic { "short-term stress" } else { "yield" };
    if (share - 1.0).abs() < 1e-9 {
        format!("{of}, {} wall", wall.word()).into()
    } else {
        format!("{:.0} % of {of}, {} wall", 100.0 * share, wall.word()).into()
    }
}
