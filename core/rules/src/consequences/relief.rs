//! Where the relief valve goes, and what it must pass.

use super::line::Draft;
use super::lines::Facts;
use crate::plan::{relief_by_rule, relief_school};

pub(super) fn line(f: &Facts) -> Draft {
    const QUESTION: &str = "Where does the relief valve go?";
    let a = f.system.settings.relief_accumulation;
    let percent = (100.0 * a * 10.0).round() / 10.0;
    let usual = relief_by_rule(f.day.planned_pa, f.demand.gas, relief_school(f.system, f.demand));
    let capacity = f.system.site.pump_flow_m3_per_s.and_then(|pump| match f.system.site.relief_capacity_m3_per_s {
        Some(valve) if valve < pump => Some(format!(
            "The valve passes {} and the pump brings {}: take a larger valve, or a smaller pump.",
            f.system.say().flow(valve),
            f.system.say().flow(pump)
        )),
        _ => None,
    });
    let Some(set) = f.day.relief_set_pa else {
        let says = format!(
            "Nowhere: with {percent} % accumulation no setting above the planned pressure stays below {{0}}. What keeps the pressure down instead is said on Ready."
        );
        return Draft::new("relief", "derive", QUESTION, says).down(f.d.upper_shown_pa);
    };
    let lowered = usual.times(1.0 + a) > f.d.upper_pa;
    let passes = if f.system.site.pump_flow_m3_per_s.is_some() { "; it must pass all that the pump brings" } else { "" };
    let line = if lowered {
        let says = format!(
            "At {{0}}, not {{1}}: with {percent} % accumulation {{1}} would peak at {{2}}, above what {} bears{passes}.",
            f.d.upper_part
        );
        Draft::new("relief", "derive", QUESTION, says).down(set).pressure(usual).pressure(usual.times(1.0 + a))
    } else {
        let says = format!("At {{0}}; with {percent} % accumulation it peaks at {{1}}, below the upper bound{passes}.");
        Draft::new("relief", "derive", QUESTION, says).down(set).pressure(set.times(1.0 + a))
    };
    line.stop(capacity).why_of("relief")
}
