//! LIMIT-HOOP: hoop stress against yield.

use super::LimitError;
use crate::basis::Ground;
use crate::basis::entry::WallOf;
use crate::derivation::{Amount, Derivation, Dimension};
use crate::library::Material;
use crate::part::{Form, Part};
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
    test: "limit_hoop_hoop_limit_thin_and_thick",
};

/// What a mill may leave out of a pipe's nominal wall, share of it (ASME B36.10M and its material standards, from memory).
const MILL_TOLERANCE: f64 = 0.125;

/// Families of which the wall of pipe is nominal; plastics by ratio and ductile iron by class have least walls.
const NOMINAL: [&str; 4] = ["carbon_steel", "austenitic", "duplex", "copper"];

/// Diameter, wall and material of a part that has all three; the wall as the basis takes it.
pub(crate) struct Wall<'a> {
    pub outside: Length,
    pub thickness: Length,
    pub material: &'a Material,
    /// Yield, or of plastics the short-term hoop stress; less what warmth takes of a plastic.
    pub yield_pa: Stress,
    /// Efficiency of the seam of a vessel; 1 for pipe.
    pub efficiency: f64,
    pub form: Form,
}

/// The wall of a part; none where one of diameter, wall, material and yield is not known, and of what is not judged by its wall.
pub(super) fn wall_of<'a>(part: &Part, ground: &'a Ground) -> Result<Option<Wall<'a>>, LimitError> {
    let (Some(outside), Some(stated), Some(id)) = (part.outside_diameter_m, part.wall_m, part.material.as_deref()) else {
        return Ok(None);
    };
    if !part.kind.walled() || super::ductile::is(part) {
        return Ok(None);
    }
    let table = |source| LimitError::Table { tag: part.tag.clone(), source };
    let material = ground.library.material(id).map_err(table)?;
    let nominal = part.kind.piping() && NOMINAL.contains(&material.family.as_str());
    let corrosion = part.corrosion_m.unwrap_or(Length::from_m(0.0));
    let thickness = match ground.entry.walls.wall {
        WallOf::Minimum if nominal => stated * (1.0 - MILL_TOLERANCE) - corrosion,
        WallOf::Minimum if part.kind.piping() => stated - corrosion,
        _ => stated,
    };
    if !(thickness.m() > 0.0 && thickness.m() * 2.0 < outside.m()) {
        return Err(LimitError::WallTooThick { tag: part.tag.clone(), wall_mm: thickness.mm(), diameter_mm: outside.mm() });
    }
    let at = ground.warmest;
    let warm = ground.library.plastic_share(&material.family, at);
    let warm = warm.map_err(|source| LimitError::Warm { tag: part.tag.clone(), at_c: at.c(), source })?;
    let vessel = part.kind.vessel() && !ground.of_piping();
    let Some(efficiency) = (if vessel { part.efficiency() } else { Some(1.0) }) else { return Ok(None) };
    let form = if vessel { part.form.unwrap_or_default() } else { Form::Cylinder };
    Ok(material.yield_pa.map(|y| Wall { outside, thickness, material, yield_pa: y * warm, efficiency, form }))
}

const THIN: f64 = 20.0;

/// Thin (D_o/t ≥ 20): p = 2·t·σ·E/D_o (Barlow on the outside diameter). Thick: p = σ·E·(k²−1)/(k²+1), k = D_o/D_i (Lamé at the bore). A head by
/// the formula of its form.
pub(super) fn value(wall: &Wall, ground: &Ground) -> Option<GaugePressure> {
    let (d, t, allowed) = (wall.outside, wall.thickness, wall.yield_pa * (ground.yield_share() * wall.efficiency));
    if wall.form != Form::Cylinder {
        return Some(crate::used::bears(wall.form, d, t, allowed));
    }
    let pressure = if d / t >= THIN {
        allowed.pa() * 2.0 * t.m() / d.m()
    } else {
        let k2 = (d / (d - t * 2.0)).powi(2);
        allowed.pa() * (k2 - 1.0) / (k2 + 1.0)
    };
    Some(GaugePressure::from_pa(pressure))
}

pub(super) fn why(wall: &Wall, ground: &Ground, pressure: GaugePressure) -> Derivation {
    let share = ground.yield_share();
    let formula = match wall.form {
        Form::Cylinder if wall.outside / wall.thickness >= THIN => "p = 2 · t · f · Sy · E / D_o",
        Form::Cylinder => "p = f · Sy · E · (k² − 1) / (k² + 1), k = D_o / (D_o − 2t)",
        form => crate::used::formula(form),
    };
    let base = Derivation::new("greatest pressure by hoop stress", &RULE, Amount::gauge(pressure), formula)
        .with("t", "wall thickness", Amount::new(wall.thickness.m(), Dimension::LengthM), ground.entry.walls.wall.source())
        .with("D_o", "outside diameter", Amount::new(wall.outside.m(), Dimension::LengthM), "as entered or from the pipe table");
    with_yield(base, wall, ground)
        .with("f", "share of yield allowed", Amount::number(share), "basis of this test")
        .with("E", "efficiency of the seam", Amount::number(wall.efficiency), "as entered; 0.7 where nobody knows it, 1 for pipe")
        .would_change("A thicker wall, a smaller diameter or a stronger material.")
}

/// Puts the yield of a wall into a derivation.
pub(super) fn with_yield(why: Derivation, wall: &Wall, ground: &Ground) -> Derivation {
    let m = wall.material;
    let plastic = matches!(m.family.as_str(), "pvc" | "cpvc" | "pe");
    let meaning = if plastic { "short-term hoop stress, at the warmest that the wall is taken to be" } else { "specified minimum yield" };
    why.with(
        "Sy",
        meaning,
        Amount::new(wall.yield_pa.pa(), Dimension::StressPa),
        format!("{}, {}", m.name, ground.library.source("materials", &m.id, "yield_ksi")),
    )
}

pub(super) fn words(part: &Part, ground: &Ground) -> Cow<'static, str> {
    let share = ground.yield_share();
    let plastic = part.material.as_deref().is_some_and(|m| matches!(m, "pvc" | "cpvc" | "pe100"));
    let wall = ground.entry.walls.wall;
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
