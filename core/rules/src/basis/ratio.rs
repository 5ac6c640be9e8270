//! Ratio of allowable stress at test to that at design temperature.

use super::entry::{Duty, Entry, RatioOf};
use super::{Basis, BasisError};
use crate::derivation::{Amount, Derivation, Dimension};
use crate::library::{Library, TableError};
use crate::part::{Part, PartKind};
use crate::rule::{Rule, Standing};
use quantity::Temperature;

/// A stress ratio and the material it comes from.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Ratio {
    /// As used: never below 1, nor above the cap of an edition.
    pub used: f64,
    /// Of the table.
    value: f64,
    tag: String,
    at_test: f64,
    at_design: f64,
    cap: Option<f64>,
    bolting_counts: bool,
    /// Class of a rated component whose ratio of ratings this is.
    rated: Option<u16>,
    sources: (String, String),
}

/// The ratio of stresses.
pub const RULE: Rule = Rule {
    id: "STRESS-RATIO",
    sentence: "The ratio of allowable stresses is taken from the table of the basis' own code; a material without a stress at its design temperature is refused, never taken as 1; below −29 °C the ratio is 1 and toughness is another question.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "stress_ratio_a_material_without_a_stress_is_refused",
};

/// The coldest that a table holds from, °C; below it the ratio is 1.
const COLDEST_C: f64 = -29.0;
/// Up to here the first column holds, and every ratio is 1 (100 °F).
const FIRST_COLUMN_F: f64 = 100.5;

/// True where every ratio is 1 whatever the material.
fn is_cold(basis: &Basis) -> bool {
    basis.design_temperature_c.is_some_and(|t| t.f() <= FIRST_COLUMN_F)
}

/// The temperature that a table is asked at: 38 °C is the 100 °F of its first column.
fn asked(t: Temperature) -> Temperature {
    let within = if t.f() <= FIRST_COLUMN_F { t.min(Temperature::from_f(100.0)) } else { t };
    within.max(Temperature::from_c(COLDEST_C))
}

fn of_material(id: &str, tag: &str, basis: &Basis, entry: &Entry, library: &Library) -> Result<Ratio, BasisError> {
    let design = asked(basis.design_temperature_c.ok_or(BasisError::NoDesignTemperature)?);
    let m = library.material(id)?;
    let stress = |t| library.allowable(&entry.stress, m, t).map(|s| s.pa());
    let refused = |e: TableError| BasisError::NoStress { tag: tag.to_owned(), why: e };
    let at_test = stress(Temperature::from_c(20.0)).map_err(refused)?;
    let at_design = stress(design).map_err(refused)?;
    let value = at_test / at_design;
    let own = library.source(&entry.stress, &m.id, "");
    let sources = (format!("{}, {own}", m.name), format!("{}, {own}, interpolated", m.name));
    let plain =
        Ratio { used: value, value, tag: tag.to_owned(), at_test, at_design, cap: None, bolting_counts: false, rated: None, sources };
    Ok(plain)
}

/// Ratio of the ratings of a rated component; none where the part has no class.
fn of_ratings(part: &Part, basis: &Basis, library: &Library) -> Result<Option<Ratio>, BasisError> {
    let (Some(class), Some(id)) = (part.flange_class, part.material.as_deref()) else { return Ok(None) };
    let design = asked(basis.design_temperature_c.ok_or(BasisError::NoDesignTemperature)?);
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
        at_test: ratings.cold().pa(),
        at_design: hot.pa(),
        cap: None,
        bolting_counts: false,
        rated: Some(class),
        sources: (format!("{what}, flange ratings table"), format!("{what}, flange ratings table, interpolated")),
    }))
}

/// True for a part whose strength the ratio is about. A vessel that is a guest in a test of piping has a code of its own.
fn counts(part: &Part, entry: &Entry) -> bool {
    let guest = part.kind.vessel() && !matches!(entry.duty, Duty::Vessel | Duty::Boiler);
    let own = part.kind.piping() || part.kind.vessel();
    !guest && part.kind != PartKind::Support && (part.material.is_some() || own)
}

/// Every part that keeps the ratio from being known.
pub(super) fn missing(basis: &Basis, entry: &Entry, parts: &[&Part], library: &Library) -> Vec<BasisError> {
    let Some(at) = basis.design_temperature_c else { return vec![BasisError::NoDesignTemperature] };
    if is_cold(basis) {
        return vec![];
    }
    let each = parts.iter().filter(|p| counts(p, entry)).filter_map(|p| match p.material.as_deref() {
        None => Some(BasisError::NoMaterial { tag: p.tag.clone(), kind: p.kind.word(), at }),
        Some(_) if entry.ratio == RatioOf::LargestWithRatings && p.flange_class.is_some() => of_ratings(p, basis, library).err(),
        Some(id) => of_material(id, &p.tag, basis, entry, library).err(),
    });
    each.collect()
}

/// The ratio that the entry asks for; none where it is 1 whatever the material.
pub(super) fn ratio(basis: &Basis, entry: &Entry, parts: &[&Part], library: &Library) -> Result<Option<Ratio>, BasisError> {
    if entry.ratio == RatioOf::None {
        return Ok(None);
    }
    let cold = is_cold(basis);
    if let Some(first) = missing(basis, entry, parts, library).into_iter().next() {
        return Err(first);
    }
    let mut seen: Vec<&str> = Vec::new();
    let mut all: Vec<Ratio> = Vec::new();
    let by_ratings = entry.ratio == RatioOf::LargestWithRatings;
    for part in parts.iter().filter(|p| counts(p, entry)) {
        let found = if by_ratings && part.flange_class.is_some() {
            of_ratings(part, basis, library)
        } else {
            match part.material.as_deref().filter(|id| !seen.contains(id)) {
                Some(id) => {
                    seen.push(id);
                    of_material(id, &part.tag, basis, entry, library).map(Some)
                }
                None => Ok(None),
            }
        };
        match found {
            Ok(ratio) => all.extend(ratio),
            // where every ratio is 1 a material without a stress changes nothing
            Err(_) if cold => {}
            Err(e) => return Err(e),
        }
    }
    let governing = match entry.ratio {
        RatioOf::None => None,
        RatioOf::Largest | RatioOf::LargestWithRatings => all.into_iter().reduce(|a, b| if b.value > a.value { b } else { a }),
        RatioOf::Lowest => with_bolting(all.into_iter().reduce(|a, b| if b.value < a.value { b } else { a }), basis, entry, library)?,
        RatioOf::PrevalentPipe => match prevalent(parts) {
            Some((id, tag)) => of_material(id, tag, basis, entry, library).map(Some).or_else(|e| if cold { Ok(None) } else { Err(e) })?,
            None if cold => None,
            // nobody says of which pipe there is most
            None => all.into_iter().reduce(|a, b| if b.value > a.value { b } else { a }),
        },
    };
    Ok(governing.map(|r| Ratio { used: r.value.clamp(1.0, entry.ratio_cap.unwrap_or(f64::INFINITY)), cap: entry.ratio_cap, ..r }))
}

/// Bolting is left out of the ratio, except where 1.3 · LSR · its allowable stress would pass 90 % of its yield: then it counts too.
fn with_bolting(lowest: Option<Ratio>, basis: &Basis, entry: &Entry, library: &Library) -> Result<Option<Ratio>, BasisError> {
    let (Some(lowest), Some(id)) = (lowest.clone(), basis.bolting.as_deref()) else { return Ok(lowest) };
    let bolts = of_material(id, "bolting", basis, entry, library)?;
    let strained = 1.3 * lowest.value * bolts.at_design > 0.9 * library.material(id)?.yield_pa.map_or(f64::INFINITY, |y| y.pa());
    Ok(Some(if strained && bolts.value < lowest.value { Ratio { bolting_counts: true, ..bolts } } else { lowest }))
}

/// Material and tag of the pipe of which there is most.
fn prevalent<'a>(parts: &[&'a Part]) -> Option<(&'a str, &'a str)> {
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
        return why.with(
            "S_T/S",
            "stress ratio",
            Amount::number(1.0),
            "no part has a material, and at this design temperature every ratio is 1",
        );
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
