//! What ends, bends and supports take: thickness of blinds, thrust, blocks, weight of the water.

use super::line::Draft;
use super::lines::{Facts, blind_line};
use super::{thrust, weight};
use crate::derivation::{Amount, Derivation, Dimension};
use crate::part::{Part, PartKind};

/// Safety of a thrust block where none is given (common practice).
const BLOCK_SAFETY: f64 = 1.5;

pub(super) fn lines(f: &Facts) -> Vec<Draft> {
    let mut all = Vec::new();
    for part in &f.system.parts {
        if part.kind == PartKind::Blind {
            all.extend(blind_line(f, part));
        }
        if matches!(part.kind, PartKind::Blind | PartKind::ClosedValve | PartKind::Bend) {
            all.extend(thrust_line(f, part));
        }
    }
    all.extend(heaviest(f));
    all
}

fn thrust_line(f: &Facts, part: &Part) -> Option<Draft> {
    let d = part.sealing_diameter_m.or(part.outside_diameter_m)?;
    let p = f.at(f.day.planned_pa, part.elevation_m);
    let (force, why) = match (part.kind, part.bend_deg) {
        (PartKind::Bend, Some(angle)) => thrust::bend(p, d, angle),
        (PartKind::Bend, None) => return None,
        _ => thrust::end(p, d),
    };
    let question = format!("What holds {}?", part.tag);
    let line = |says: &str| Draft::new(&format!("thrust-{}", part.tag), "bound", &question, says).other(force.n(), Dimension::ForceN);
    let short = part.restraint_n.filter(|r| *r < force).map(|r| {
        format!(
            "The restraint of {} is designed for {} and must take {}: strengthen it, or blind off nearer.",
            part.tag,
            f.system.say().amount(r.n(), Dimension::ForceN),
            f.system.say().amount(force.n(), Dimension::ForceN)
        )
    });
    let Some(soil) = f.system.site.soil_bearing_pa else {
        let says = "{0} at the planned pressure; stand clear of its line.";
        return Some(line(says).stop(short).why(why.governed_by(&part.tag)));
    };
    let safety = f.system.site.thrust_safety.unwrap_or(BLOCK_SAFETY);
    let area = thrust::block_area_m2(force, safety, soil);
    let block = Derivation::new("area of the thrust block", &thrust::BLOCK, Amount::new(area, Dimension::AreaM2), "A = F · SF / σ")
        .with("F", "thrust at the planned pressure", Amount::new(force.n(), Dimension::ForceN), why.formula.clone())
        .with(
            "SF",
            "safety",
            Amount::number(safety),
            if f.system.site.thrust_safety.is_some() { "as entered" } else { "default, common practice" },
        )
        .with("σ", "what the soil bears", Amount::gauge(soil), "as entered, the engineer's figure")
        .would_change("A better soil, a lower pressure, or restrained joints in place of the block.")
        .governed_by(&part.tag);
    Some(
        line("{0} at the planned pressure; a block of {1} against this soil, cured.").other(area, Dimension::AreaM2).stop(short).why(block),
    )
}

fn heaviest(f: &Facts) -> Option<Draft> {
    if f.demand.gas {
        return None;
    }
    let pipes = f.system.parts.iter().filter(|p| matches!(p.kind, PartKind::Pipe | PartKind::Bend));
    let (part, bore) = pipes.filter_map(|p| Some((p, p.bore()?))).reduce(|a, b| if b.1 > a.1 { b } else { a })?;
    let (per_metre, why) = weight::per_metre(f.d.density_kg_m3, bore);
    let volume = f.d.volume_m3?;
    let says = format!("The water in {} weighs {{0}}, {{1}} in all; walk every support for real contact.", part.tag);
    let line = Draft::new("weight", "bound", "What do the supports carry?", says)
        .other(per_metre, Dimension::ForcePerLengthNPerM)
        .other(f.d.density_kg_m3.kg_m3() * volume.m3(), Dimension::MassKg);
    Some(line.why(why.governed_by(&part.tag)))
}
