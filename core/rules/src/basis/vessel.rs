//! Piping and a vessel tested together.

use super::entry::Entry;
use super::{BasisError, Figure};
use crate::derivation::{Amount, Derivation};
use crate::part::{Part, PartKind};
use quantity::GaugePressure;

/// What is asked when piping and vessel are tested together.
pub(super) struct Together {
    /// The vessel's test pressure, at the vessels.
    pub least: Figure,
    /// Least at every other part.
    pub elsewhere: GaugePressure,
}

/// The vessel's test pressure in place of the piping's, where the entry has a rule for it, somebody chose it and it is the lower.
///
/// # Errors
/// When no vessel says its test pressure, or it is lower than the rule allows.
pub(super) fn together(entry: &Entry, parts: &[Part], piping: &Figure) -> Result<Option<Together>, BasisError> {
    let (Some(rule), true) = (&entry.with_vessel, entry.vessel_together) else { return Ok(None) };
    let vessels = parts.iter().filter(|p| p.kind == PartKind::Vessel);
    let known = vessels.filter_map(|p| Some((p, p.test_pressure_pa.or(p.test_limit_pa)?)));
    let Some((vessel, pressure)) = known.reduce(|a, b| if b.1 < a.1 { b } else { a }) else {
        return Err(BasisError::NoVessel { rule: rule.rule.id.clone() });
    };
    if piping.pressure <= pressure {
        return Ok(None);
    }
    let elsewhere = piping.pressure.times(rule.least_share);
    if super::above(elsewhere, pressure) {
        return Err(BasisError::VesselTooLow {
            vessel: vessel.tag.clone(),
            vessel_pa: pressure,
            piping: piping.pressure,
            least: elsewhere,
            rule: rule.rule.id.clone(),
        });
    }
    // a vessel that bears no more than its own test pressure leaves a window of one point
    if vessel.test_limit_pa.is_none() {
        return Err(BasisError::NoVesselLimit { rule: rule.rule.id.clone(), vessel: vessel.tag.clone(), test: pressure });
    }
    let why =
        Derivation::new("least pressure, piping and vessel together", &rule.rule, Amount::gauge(pressure), "p = p_vessel ≥ f · p_piping")
            .with("p_vessel", "test pressure of the vessel", Amount::gauge(pressure), format!("{}, as entered", vessel.tag))
            .with("p_piping", "test pressure of the piping by its own rule", Amount::gauge(piping.pressure), piping.why.formula.clone())
            .with("f", "least share of the piping's", Amount::number(rule.least_share), "the same rule")
            .governed_by(&vessel.tag)
            .would_change("A vessel with a higher test pressure, or isolation between vessel and piping.");
    Ok(Some(Together { least: Figure { pressure, why }, elsewhere }))
}
