//! LIMIT-LONGITUDINAL: longitudinal stress from end thrust against yield.

use super::hoop::wall_of;
use super::{Limit, LimitError};
use crate::basis::Demand;
use crate::derivation::{Amount, Derivation, Dimension};
use crate::part::Part;
use crate::rule::{Rule, Standing};
use quantity::GaugePressure;

/// Longitudinal stress.
pub const RULE: Rule = Rule {
    id: "LIMIT-LONGITUDINAL",
    sentence: "The longitudinal stress from pressure on the ends stays within the share of yield that the basis allows.",
    clause: "B31.3 345.4.2(c)",
    edition: "ASME B31.3, editions from 2016",
    standing: Standing::NotChecked,
    file: file!(),
    test: "longitudinal_never_governs_a_plain_pipe",
};

/// σ = p·D_i²/(D_o² − D_i²).
pub(super) fn limit(part: &Part, demand: &Demand) -> Result<Option<Limit>, LimitError> {
    let Some((d, t, material)) = wall_of(part, demand.entry.walls.wall)? else { return Ok(None) };
    let bore = d - t * 2.0;
    let allowed = material.yield_pa * demand.yield_share();
    let pressure = GaugePressure::from_pa(allowed.pa() * (d.m().powi(2) - bore.m().powi(2)) / bore.m().powi(2));
    let why =
        Derivation::new("greatest pressure by longitudinal stress", &RULE, Amount::gauge(pressure), "p = f · Sy · (D_o² − D_i²) / D_i²")
            .with("D_o", "outside diameter", Amount::new(d.m(), Dimension::LengthM), "as entered or from the pipe table")
            .with("D_i", "inside diameter", Amount::new(bore.m(), Dimension::LengthM), "D_o − 2t")
            .with(
                "Sy",
                "specified minimum yield",
                Amount::new(material.yield_pa.pa(), Dimension::StressPa),
                format!("{}, materials table", material.name),
            )
            .with("f", "share of yield allowed", Amount::number(demand.yield_share()), "basis of this test")
            .would_change("A thicker wall or a stronger material.");
    Ok(Some(Limit { pressure, rule: RULE.id.to_owned(), words: "end thrust".to_owned(), why }))
}
