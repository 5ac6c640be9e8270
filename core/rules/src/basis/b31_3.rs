//! B31.3-345.4.2: process piping, liquid test.

use super::Required;
use crate::derivation::{Amount, Derivation, Dimension};
use crate::part::{Part, PartKind};
use crate::rule::{Rule, Standing};
use crate::tables::{self, TableError};
use quantity::{GaugePressure, Span, Temperature};
use serde::{Deserialize, Serialize};

/// The liquid test pressure.
pub const LIQUID: Rule = Rule {
    id: "B31.3-345.4.2",
    sentence: "Every point of the piping sees at least 1.5 times the design pressure, times the ratio of allowable stress at test to that at design temperature.",
    clause: "345.4.2",
    edition: "ASME B31.3, editions from 2016",
    standing: Standing::NotChecked,
    file: file!(),
    test: "worked_b31_3_hot_stainless",
};

/// The least hold.
pub const HOLD: Rule = Rule {
    id: "B31.3-345.2.2",
    sentence: "The test pressure is held for at least 10 minutes, and until every joint has been looked at.",
    clause: "345.2.2(a)",
    edition: "ASME B31.3, editions from 2016",
    standing: Standing::NotChecked,
    file: file!(),
    test: "each_basis_has_its_floor",
};

/// Floor of the hold.
pub const HOLD_FLOOR: Span = Span::from_minutes(10.0);

/// Greatest stress ratio of the older editions.
const OLD_GREATEST_RATIO: f64 = 6.5;

/// Which ratio of stresses is taken.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum RatioSchool {
    /// every material; the largest resulting pressure governs
    #[default]
    Largest,
    /// the material of which there is most pipe
    PrevalentPipe,
    /// as the largest, but no more than 6.5 (older editions)
    LargestUpTo65,
}

/// Process piping to be tested with liquid.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Liquid {
    /// Internal design pressure P, Pa gauge.
    pub design_pressure_pa: GaugePressure,
    /// Design temperature, °C.
    pub design_temperature_c: Temperature,
    /// Which ratio of stresses is taken.
    #[serde(default)]
    pub ratio: RatioSchool,
}

/// A stress ratio and the material it comes from.
struct Ratio {
    value: f64,
    tag: String,
    material: String,
    at_test: f64,
    at_design: f64,
}

impl Liquid {
    /// p = 1.5·P·S_T/S, the ratio never below 1.
    pub(super) fn required(&self, parts: &[Part]) -> Result<Required, TableError> {
        let ratios = self.ratios(parts)?;
        let governing = match self.ratio {
            RatioSchool::PrevalentPipe => prevalent(parts).and_then(|tag| ratios.into_iter().find(|r| r.tag == tag)),
            RatioSchool::Largest | RatioSchool::LargestUpTo65 => ratios.into_iter().reduce(|a, b| if b.value > a.value { b } else { a }),
        };
        let cap = if self.ratio == RatioSchool::LargestUpTo65 { OLD_GREATEST_RATIO } else { f64::INFINITY };
        let ratio = governing.as_ref().map_or(1.0, |r| r.value.clamp(1.0, cap));
        let pressure = self.design_pressure_pa.times(1.5 * ratio);
        let mut why = Derivation::new("least pressure at every part", &LIQUID, Amount::gauge(pressure), "p = 1.5 · P · S_T / S").with(
            "P",
            "internal design pressure",
            Amount::gauge(self.design_pressure_pa),
            "as entered for the system",
        );
        why = match governing {
            Some(r) => why
                .with(
                    "S_T",
                    "allowable stress at test temperature",
                    Amount::new(r.at_test, Dimension::StressPa),
                    format!("{}, materials table", r.material),
                )
                .with(
                    "S",
                    "allowable stress at design temperature",
                    Amount::new(r.at_design, Dimension::StressPa),
                    format!("{}, materials table, interpolated", r.material),
                )
                .with(
                    "T",
                    "design temperature",
                    Amount::new(self.design_temperature_c.c(), Dimension::TemperatureC),
                    "as entered for the system",
                )
                .with("S_T/S", "stress ratio used", Amount::number(ratio), "never below 1")
                .governed_by(&r.tag),
            None => why.with("S_T/S", "stress ratio", Amount::number(1.0), "no part with a material is given, so the ratio is 1"),
        };
        Ok(Required { pressure, why: why.would_change("Another design pressure, design temperature or material.") })
    }

    /// Stress ratios of every part with a material; bolting is not among the parts.
    fn ratios(&self, parts: &[Part]) -> Result<Vec<Ratio>, TableError> {
        let mut found: Vec<Ratio> = Vec::new();
        let mut seen: Vec<&str> = Vec::new();
        for part in parts {
            let Some(id) = part.material.as_deref() else { continue };
            if seen.contains(&id) && self.ratio != RatioSchool::PrevalentPipe {
                continue;
            }
            seen.push(id);
            let m = tables::material(id)?;
            let at_test = m.allowable_at_test()?.pa();
            let at_design = m.allowable(self.design_temperature_c)?.pa();
            found.push(Ratio { value: at_test / at_design, tag: part.tag.clone(), material: m.name.clone(), at_test, at_design });
        }
        Ok(found)
    }
}

/// Tag of a pipe of the material with the greatest total length.
fn prevalent(parts: &[Part]) -> Option<String> {
    let mut totals: Vec<(&str, f64, &str)> = Vec::new();
    for p in parts.iter().filter(|p| p.kind == PartKind::Pipe) {
        if let (Some(m), Some(l)) = (p.material.as_deref(), p.length_m) {
            match totals.iter_mut().find(|t| t.0 == m) {
                Some(t) => t.1 += l.m(),
                None => totals.push((m, l.m(), &p.tag)),
            }
        }
    }
    totals.into_iter().reduce(|a, b| if b.1 > a.1 { b } else { a }).map(|t| t.2.to_owned())
}
