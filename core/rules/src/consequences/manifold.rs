//! MANIFOLD-PROOF: the pressure at which pump, hoses and manifold are proved before they are coupled.

use crate::derivation::{Amount, Derivation};
use crate::rule::{Rule, Standing};
use quantity::GaugePressure;
use serde::{Deserialize, Serialize};

/// Manifold.
pub const PROOF: Rule = Rule {
    id: "MANIFOLD-PROOF",
    sentence: "Pump, hoses and manifold are proved at 1.25 times the system's test pressure before they are coupled; some take 1.2 to 1.4 times, or examine every joint instead.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "worked_manifold_and_pump",
};

/// Schools of the proof.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ProofSchool {
    /// 1.25 times the test pressure
    #[default]
    OneAndAQuarter,
    /// 1.2 times
    OnePointTwo,
    /// 1.4 times
    OnePointFour,
    /// every joint examined without destruction, no proof
    Examined,
}

impl ProofSchool {
    /// Factor; none where joints are examined instead.
    pub const fn factor(self) -> Option<f64> {
        match self {
            Self::OneAndAQuarter => Some(1.25),
            Self::OnePointTwo => Some(1.2),
            Self::OnePointFour => Some(1.4),
            Self::Examined => None,
        }
    }
}

/// Proof of the manifold; none where its joints are examined instead.
pub fn proof(planned: GaugePressure, school: ProofSchool) -> Option<(GaugePressure, Derivation)> {
    let factor = school.factor()?;
    let pressure = planned.times(factor);
    let why = Derivation::new("proof of the manifold", &PROOF, Amount::gauge(pressure), "p = f · planned")
        .with("f", "factor", Amount::number(factor), "school of this project")
        .with("planned", "planned pressure", Amount::gauge(planned), "plan")
        .would_change("Another school, or another planned pressure.");
    Some((pressure, why))
}
