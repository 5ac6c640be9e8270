//! Ratio of allowable stress at test to that at design temperature.

use super::entry::{Entry, RatioOf};
use super::{Basis, BasisError};
use crate::derivation::{Amount, Derivation, Dimension};
use crate::library::{Library, TableError};
use crate::part::{Part, PartKind};

/// A stress ratio and the material it comes from.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Ratio {
    /// As used: never below 1, nor above the cap of an edition.
    pub used: f64,
    /// Of the table.
    value: f64,
    tag: String,
    material: String,
    at_test: f64,
    at_design: f64,
    cap: Option<f64>,
    bolting_counts: bool,
    /// Class of a rated component whose ratio of ratings this is.
    rated: Option<u16>,
    sources: (String, String),
}

fn of_material(id: &str, tag: &str, basis: &Basis, library: &Library) -> Result<Ratio, BasisError> {
    let design = basis.design_temperature_c.ok_or(BasisError::NoDesignTemperature)?;
    let m = library.material(id)?;
    let at_test = m.allowable_at_test()?.pa();
    let at_design = m.allowable(design)?.pa();
    let value = at_test / at_design;
    let own = library.source("materials", &m.id, "");
    let sources = (format!("{}, {own}", m.name), format!("{}, {own}, interpolated", m.name));
    let plain = Ratio {
        used: value,
        value,
        tag: tag.to_owned(),
        material: m.name.clone(),
        at_test,
        at_design,
        cap: None,
        bolting_counts: false,
        rated: None,
        sources,
    };
    Ok(plain)
}

/// Ratio of the ratings of a rated component; none where the part has no class.
fn of_ratings(part: &Part, basis: &Basis, library: &Library) -> Result<Option<Ratio>, BasisError> {
    let (Some(class), Some(id)) = (part.flange_class, part.material.as_deref()) else { return Ok(None) };
    let design = basis.design_temperature_c.ok_or(BasisError::NoDesignTemperature)?;
    let m = library.material(id)?;
    let ratings = library.ratings(&m.flange_group, class)?;
    let what = format!("class {class}, group {}", m.flange_group);
    let hot =
        ratings.at(design).ok_or_else(|| TableError::OutsideTable { what: what.clone(), asked_c: design.c(), most_c: ratings.most_c() })?;
    let value = ratings.cold().pa() / hot.pa();
    Ok(Some(Ratio {
        used: value,
        value,
        tag: part.tag.clone(),
        material: what.clone(),
        at_test: ratings.cold().pa(),
        at_design: hot.pa(),
        cap: None,
        bolting_counts: false,
        rated: Some(class),
        sources: (format!("{what}, flange ratings table"), format!("{what}, flange ratings table, interpolated")),
    }))
}

/// The ratio that the entry asks for; none where no part with a material is given.
pub(super) fn ratio(basis: &Basis, entry: &Entry, parts: &[Part], library: &Library) -> Result<Option<Ratio>, BasisError> {
    let mut seen: Vec<&str> = Vec::new();
    let mut all: Vec<Ratio> = Vec::new();
    let by_ratings = entry.ratio == RatioOf::LargestWithRatings;
    for part in parts {
        if by_ratings && part.flange_class.is_some() {
            all.extend(of_ratings(part, basis, library)?);
            continue;
        }
        let Some(id) = part.material.as_deref() else { continue };
        if !seen.contains(&id) {
            seen.push(id);
            all.push(of_material(id, &part.tag, basis, library)?);
        }
    }
    let governing = match entry.ratio {
        RatioOf::None => None,
        RatioOf::Largest | RatioOf::LargestWithRatings => all.into_iter().reduce(|a, b| if b.value > a.value { b } else { a }),
        RatioOf::Lowest => with_bolting(all.into_iter().reduce(|a, b| if b.value < a.value { b } else { a }), basis, library)?,
        RatioOf::PrevalentPipe => match prevalent(parts) {
            Some((id, tag)) => Some(of_material(id, tag, basis, library)?),
            None => None,
        },
    };
    Ok(governing.map(|r| Ratio { used: r.value.clamp(1.0, entry.ratio_cap.unwrap_or(f64::INFINITY)), cap: entry.ratio_cap, ..r }))
}

/// Bolting is left out of the ratio, except where 1.3 · LSR · its allowable stress would pass 90 % of its yield: then it counts too.
fn with_bolting(lowest: Option<Ratio>, basis: &Basis, library: &Library) -> Result<Option<Ratio>, BasisError> {
    let (Some(lowest), Some(id)) = (lowest.clone(), basis.bolting.as_deref()) else { return Ok(lowest) };
    let bolts = of_material(id, "bolting", basis, library)?;
    let strained = 1.3 * lowest.value * bolts.at_design > 0.9 * library.material(id)?.yield_pa.map_or(f64::INFINITY, |y| y.pa());
    Ok(Some(if strained && bolts.value < lowest.value { Ratio { bolting_counts: true, ..bolts } } else { lowest }))
}

/// Material and tag of the pipe of which there is most.
fn prevalent(parts: &[Part]) -> Option<(&str, &str)> {
    let mut totals: Vec<(&str, f64, &str)> = Vec::new();
    for p in parts.iter().filter(|p| p.kind == PartKind::Pipe) {
        if let (Some(m), Some(l)) = (p.material.as_deref(), p.length_m) {
            match totals.iter_mut().find(|t| t.0 == m) {
                Some(t) => t.1 += l.m(),
                None => totals.push((m, l.m(), &p.tag)),
            }
        }
    }
    totals.into_iter().reduce(|a, b| if b.1 > a.1 { b } else { a }).map(|t| (t.0, t.2))
}

/// Puts the ratio into a derivation.
pub(super) fn explained(why: Derivation, basis: &Basis, ratio: Option<&Ratio>) -> Derivation {
    let Some(r) = ratio else {
        return why.with("S_T/S", "stress ratio", Amount::number(1.0), "no part with a material is given, so the ratio is 1");
    };
    let stress = |v| Amount::new(v, Dimension::StressPa);
    let used = match (r.cap.filter(|c| r.value > *c), r.bolting_counts) {
        (Some(_), _) => "capped by the edition chosen",
        (None, true) => "bolting counts: 1.3 · LSR · its allowable stress would pass 90 % of its yield",
        (None, false) => "never below 1",
    };
    let what = if r.rated.is_some() { "rating" } else { "allowable stress" };
    why.with("S_T", &format!("{what} at test temperature"), stress(r.at_test), r.sources.0.clone())
        .with("S", &format!("{what} at design temperature"), stress(r.at_design), r.sources.1.clone())
        .with(
            "T",
            "design temperature",
            Amount::new(basis.design_temperature_c.map_or(f64::NAN, |t| t.c()), Dimension::TemperatureC),
            "as entered for the system",
        )
        .with("S_T/S", "stress ratio used", Amount::number(r.used), used)
        .governed_by(&r.tag)
}
