//! LIMIT-DUCTILE: what ductile-iron pipe bears.

use super::LimitError;
use crate::basis::Ground;
use crate::derivation::{Amount, Derivation, Dimension};
use crate::part::Part;
use crate::rule::{Rule, Standing};
use quantity::{GaugePressure, Length};
use std::borrow::Cow;

/// Ductile-iron pipe.
pub const RULE: Rule = Rule {
    id: "LIMIT-DUCTILE",
    sentence: "Ductile-iron pipe is tested at no more than its pressure class and the surge allowance of 100 psi; where no class is given, at what its wall less service allowance and casting tolerance bears at half its yield. Never at the yield of its wall.",
    clause: "C150 4",
    edition: "AWWA C150/C151, recent editions",
    standing: Standing::NotChecked,
    file: file!(),
    test: "limit_joint_limit_ductile_a_ductile_iron_main_stops_at_class_and_joint",
};

/// What a pressure class allows for surge on top of its working pressure.
const SURGE: GaugePressure = GaugePressure::from_psi(100.0);
/// Service allowance of C150.
const SERVICE: Length = Length::from_inch(0.08);
/// Casting tolerance of C150 by outside diameter, the last of its table for what is larger.
const CASTING: [(f64, f64); 5] = [(9.1, 0.05), (13.3, 0.06), (44.6, 0.07), (51.0, 0.08), (f64::INFINITY, 0.09)];
/// Minimum yield over what the standard designs by.
const SAFETY: f64 = 2.0;

/// True for pipe of ductile iron.
pub(super) fn is(part: &Part) -> bool {
    part.kind.piping() && part.material.as_deref() == Some("ductile_iron")
}

/// Wall that counts: stated less service allowance and casting tolerance.
fn net(part: &Part) -> Option<(Length, Length)> {
    let (d, t) = (part.outside_diameter_m?, part.wall_m?);
    let casting = CASTING.iter().find(|(most, _)| d.inch() <= *most).map_or(0.09, |(_, c)| *c);
    Some((d, t - SERVICE - Length::from_inch(casting)))
}

/// p = class + 100 psi, or S·t_net/D (half of 2·S·t/D).
pub(super) fn value(part: &Part, ground: &Ground) -> Result<Option<GaugePressure>, LimitError> {
    if !is(part) {
        return Ok(None);
    }
    if let Some(class) = part.flange_class {
        return Ok(Some(GaugePressure::from_psi(f64::from(class)) + (SURGE - GaugePressure::from_pa(0.0))));
    }
    let Some((d, t)) = net(part) else { return Ok(None) };
    if t.m() <= 0.0 {
        return Err(LimitError::WallTooThick {
            tag: part.tag.clone(),
            wall_mm: part.wall_m.map_or(f64::NAN, |w| w.mm()),
            diameter_mm: d.mm(),
        });
    }
    let material = ground.library.material("ductile_iron").map_err(|source| LimitError::Table { tag: part.tag.clone(), source })?;
    Ok(material.yield_pa.map(|y| GaugePressure::from_pa(2.0 * y.pa() * t.m() / d.m() / SAFETY)))
}

pub(super) fn why(part: &Part, pressure: GaugePressure) -> Derivation {
    let base = |formula| Derivation::new("greatest pressure of ductile-iron pipe", &RULE, Amount::gauge(pressure), formula);
    let why = match (part.flange_class, net(part)) {
        (Some(class), _) => base("p = class + surge")
            .with("class", "pressure class", Amount::gauge(GaugePressure::from_psi(f64::from(class))), "as entered")
            .with("surge", "surge allowance of the class", Amount::gauge(SURGE), "AWWA C150, from memory"),
        (None, Some((d, t))) => base("p = 2 · Sy · t_net / (SF · D_o)")
            .with("t_net", "wall less service allowance and casting tolerance", Amount::new(t.m(), Dimension::LengthM), "as entered, C150")
            .with("D_o", "outside diameter", Amount::new(d.m(), Dimension::LengthM), "as entered or from the pipe table")
            .with("SF", "safety on yield", Amount::number(SAFETY), "AWWA C150, from memory"),
        (None, None) => base("p = class + surge"),
    };
    why.would_change("Another class, or a thicker wall.")
}

pub(super) fn words(part: &Part) -> Cow<'static, str> {
    match part.flange_class {
        Some(class) => format!("pressure class {class} and surge").into(),
        None => "ductile-iron wall".into(),
    }
}
