//! MANIFOLD-PROOF: the pressure at which pump, hoses and manifold are proved before they are coupled.

use super::line::Draft;
use super::lines::Facts;
use crate::derivation::{Amount, Derivation};
use crate::rule::{Rule, Standing};
use quantity::GaugePressure;

/// Manifold.
pub const PROOF: Rule = Rule {
    id: "MANIFOLD-PROOF",
    sentence: "Pump, hoses and manifold are proved at 1.25 times the system's test pressure before they are coupled; some take 1.2 to 1.4 times, or examine every joint instead.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "worked_manifold_proof_pump_overshoot",
};

/// Proof of the manifold at a factor on the planned pressure.
pub fn proof(planned: GaugePressure, factor: f64, source: &str) -> (GaugePressure, Derivation) {
    let pressure = planned.times(factor);
    let why = Derivation::new("proof of the manifold", &PROOF, Amount::gauge(pressure), "p = f · planned")
        .with("f", "factor", Amount::number(factor), source)
        .with("planned", "planned pressure", Amount::gauge(planned), "plan")
        .would_change("Another school of the project, or another planned pressure.");
    (pressure, why)
}

pub(super) fn line(f: &Facts) -> Option<Draft> {
    if f.demand.gas {
        return None;
    }
    const QUESTION: &str = "How is the manifold proved?";
    let school = f.system.specification.answer("manifold_proof");
    let Some(factor) = school.factor else {
        return Some(Draft::new("manifold", "ready", QUESTION, "Not by pressure: every joint is examined without destruction."));
    };
    let (pressure, why) = proof(f.day.planned_pa, factor, &f.system.specification.source("manifold_proof"));
    Some(Draft::new("manifold", "ready", QUESTION, "At {0}, with pump and hoses, before it is coupled.").up(pressure).why(why))
}
