//! What to mind about a system, beside what its figures say.

use crate::basis::Demand;
use crate::limits;
use crate::part::Part;
use crate::system::System;
use quantity::PressureUnit;
use quantity::format::gauge_pressure;

/// Most parts that are named one by one.
const MOST: usize = 5;

/// What to mind, beside what the figures say.
pub(crate) fn cautions(system: &System, demand: &Demand) -> Vec<String> {
    let mut all = demand.entry.conditions.clone();
    if let Some(range) = demand.entry.water.filter(|_| !demand.gas) {
        let t = system.water_temperature_c.c();
        if t < range.least_c || t > range.most_c {
            all.push(format!(
                "The water is planned at {t:.0} °C; this basis asks for {:.0} to {:.0} °C: warm it, or wait.",
                range.least_c, range.most_c
            ));
        }
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
    let (design, t) = (system.basis.design_pressure_pa?, system.basis.design_temperature_c?);
    let (_, ratings) = limits::flange::rated(part, demand).ok()??;
    let rating = ratings.at(t)?;
    let bar = |p| gauge_pressure(p, PressureUnit::Bar, 1);
    (rating < design).then(|| {
        format!(
            "{}: class {} is rated for {} at {:.0} °C, below the design pressure of {}: ask the designer before any test.",
            part.tag,
            part.flange_class.unwrap_or_default(),
            bar(rating),
            t.c(),
            bar(design)
        )
    })
}
