//! What to mind about a system, beside what its figures say.

use crate::basis::Demand;
use crate::basis::entry::RatioOf;
use crate::basis::line::{highest_pressure, highest_temperature};
use crate::limits;
use crate::part::{Part, PartKind};
use crate::system::System;
use quantity::Temperature;

/// Most parts that are named one by one.
const MOST: usize = 5;

/// What to mind, beside what the figures say.
pub(crate) fn cautions(system: &System, demand: &Demand) -> Vec<String> {
    let say = system.say();
    let at = |c: f64| say.temperature(Temperature::from_c(c));
    let mut all: Vec<String> = demand.entry.conditions.iter().map(|c| c.said(say)).collect();
    if let Some(range) = demand.entry.water.filter(|r| r.warn_above && !demand.gas) {
        let t = system.water_temperature_c.c();
        if t > range.most_c {
            all.push(format!(
                "The water is planned at {}: above {} nobody looks closely without a scald. Let it cool.",
                at(t),
                at(range.most_c)
            ));
        }
    }
    let coldest = system
        .parts
        .iter()
        .filter_map(|p| p.design_temperature_c)
        .chain(system.basis.design_temperature_c)
        .fold(f64::INFINITY, |a, t| a.min(t.c()));
    if demand.entry.ratio != RatioOf::None && coldest < -29.0 {
        all.push(format!(
            "The design temperature of {} is below {}: the ratio of stresses is 1 there, and toughness is another question. Ask the designer for the least \
             temperature of the metal.",
            at(coldest),
            at(-29.0)
        ));
    }
    for part in
        system.parts.iter().filter(|p| p.kind.vessel() && p.volume_m3.is_none() && p.kind != PartKind::Boiler && p.volume().m3() <= 0.0)
    {
        all.push(format!("{}: its volume is not given, so it is missing in what is filled and pumped.", part.tag));
    }
    let assumed = system.assumed_walls();
    if !assumed.is_empty() {
        let mut named: Vec<&str> = assumed.into_iter().collect();
        named.sort_unstable();
        all.push(format!(
            "The wall of {} is not given: its stretch is estimated, and a leak rate is known less well for it.",
            named.join(", ")
        ));
    }
    if demand.entry.used.is_some() {
        all.push(
            "Heads, furnace and plates are judged only where they are listed: list each with its form and its measured wall.".to_owned(),
        );
    }
    for (field, who) in system.none.iter().chain(system.parts.iter().flat_map(|p| &p.none)) {
        all.push(format!("Declared not to be there: {field}, by {who}."));
    }
    if let Some(sensitivity) = &demand.entry.sensitivity {
        all.push(format!("The test must be able to show a leak of {sensitivity}."));
    }
    if demand.entry.reduced && demand.least.why.rule == demand.entry.may_reduce.as_ref().map_or("", |r| r.rule.id.as_str()) {
        all.push("The test pressure is reduced to what keeps every wall within yield: say so in the record, with the approval of the owner's engineer.".to_owned());
    }
    let mut weak: Vec<String> = system.parts.iter().filter_map(|p| below_design(p, system, demand)).collect();
    if weak.len() > MOST {
        let more = weak.len() - MOST;
        weak.truncate(MOST);
        weak.push(format!("{more} more parts are rated below the design pressure at the design temperature."));
    }
    all.extend(weak);
    all
}

/// A rated part whose rating at design temperature is below the design pressure: a matter of the design, seen here.
fn below_design(part: &Part, system: &System, demand: &Demand) -> Option<String> {
    let design = part.design_pressure_pa.or_else(|| highest_pressure(&system.basis, &system.parts))?;
    let t = part.design_temperature_c.or_else(|| highest_temperature(&system.basis, &system.parts))?;
    let (_, ratings) = limits::flange::rated(part, demand).ok()??;
    let rating = ratings.at(t)?;
    let say = system.say();
    (rating < design).then(|| {
        format!(
            "{}: class {} is rated for {} at {}, below the design pressure of {}: ask the designer before any test.",
            part.tag,
            part.flange_class.unwrap_or_default(),
            say.down(rating),
            say.temperature(t),
            say.p(design)
        )
    })
}
