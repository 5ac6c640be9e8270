//! Temperature of the metal, and chloride in the water of austenitic steel.

use super::line::Draft;
use super::lines::Facts;
use crate::basis::entry::Duty;
use crate::conditions;
use crate::derivation::{Amount, Derivation, Dimension};
use crate::rule::{Rule, Standing};
use quantity::Temperature;

/// Minimum temperature of the metal.
pub const METAL: Rule = Rule {
    id: "METAL-TEMPERATURE",
    sentence: "The metal is at least 17 °C (30 °F) above its minimum design metal temperature, which need not be taken above 48 °C, and no hotter than 48 °C (120 °F) during the look.",
    clause: "VIII-1 UG-99(h)",
    edition: "BPVC VIII-1, recent editions",
    standing: Standing::NotChecked,
    file: file!(),
    test: "metal_temperature_metal_stays_above_its_minimum",
};

/// Greatest chloride.
pub const CHLORIDE: Rule = Rule {
    id: "CHLORIDE",
    sentence: "The water of austenitic steel holds no more chloride than the project's school has it; it is drained and dried at once.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "chloride_chloride_is_asked_for_austenitic_steel_only",
};

pub(super) fn lines(f: &Facts) -> Vec<Draft> {
    brittle(f).into_iter().chain(chloride(f)).collect()
}

fn brittle(f: &Facts) -> Option<Draft> {
    let trouble = conditions::metal(f.system, f.demand);
    let range = conditions::metal_range(f.system, f.demand).filter(|(least, _)| least.is_finite());
    let Some((least, most)) = range else {
        // a vessel with anything asks for it
        if trouble.is_none() && f.demand.entry.duty != Duty::Vessel {
            return None;
        }
        let says = "At least {1} above its minimum design metal temperature, and at most {0} in the look.";
        let most = Temperature::from_c(conditions::HOTTEST_C);
        return Some(
            Draft::new("metal", "ready", "Is the metal warm enough?", says)
                .temperature(most)
                .other(17.0, Dimension::TemperatureDifferenceK)
                .stop(trouble.map(|o| o.sentence)),
        );
    };
    let expected = conditions::expected(f.system);
    let t = |t: Temperature| Amount::new(t.c(), Dimension::TemperatureC);
    let why = Derivation::new("least temperature of the metal", &METAL, t(least), "T = min(MDMT + 17 K, 48 °C), or what the basis asks");
    let why = match f.system.site.minimum_metal_c {
        Some(minimum) => why.with("MDMT", "minimum design metal temperature", t(minimum), "as entered, from the plate or the calculation"),
        None => why,
    };
    let why = why.would_change("A material with a lower minimum, or warm water.");
    let says = "At least {0} and at most {1}; {2} is expected.";
    Some(
        Draft::new("metal", "ready", "Is the metal warm enough?", says)
            .temperature(least)
            .temperature(most)
            .temperature(expected)
            .stop(trouble.map(|o| o.sentence))
            .why(why),
    )
}

fn chloride(f: &Facts) -> Option<Draft> {
    if f.demand.gas {
        return None;
    }
    let part = f.system.parts.iter().find(|p| {
        p.material.as_deref().and_then(|m| f.demand.library.material(m).ok()).is_some_and(crate::library::Material::austenitic)
    })?;
    let school = f.system.specification.answer("chloride");
    let ppm = school.ppm?;
    let why = Derivation::new("greatest chloride in the water, ppm", &CHLORIDE, Amount::number(ppm), "school of the project")
        .with("ppm", "chloride", Amount::number(ppm), f.system.specification.source("chloride"))
        .governed_by(&part.tag)
        .would_change("Another school of the project, or water of another source.");
    let says = format!("At most {} of chloride: {} is austenitic steel. Drain and dry at once after the test.", school.words, part.tag);
    Some(Draft::new("chloride", "ready", "Which water?", says).why(why))
}
