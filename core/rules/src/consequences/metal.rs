//! Temperature of the metal, and chloride in the water of austenitic steel.

use super::line::Draft;
use super::lines::Facts;
use crate::basis::entry::Duty;
use crate::derivation::{Amount, Derivation, Dimension};
use crate::rule::{Rule, Standing};
use quantity::{Temperature, TemperatureDifference};

/// Minimum temperature of the metal.
pub const METAL: Rule = Rule {
    id: "METAL-TEMPERATURE",
    sentence: "The metal is at least 17 °C (30 °F) above its minimum design metal temperature, which need not be taken above 48 °C, and no hotter than 48 °C (120 °F) during the look.",
    clause: "VIII-1 UG-99(h)",
    edition: "BPVC VIII-1, recent editions",
    standing: Standing::NotChecked,
    file: file!(),
    test: "metal_stays_above_its_minimum",
};

/// Above the minimum design metal temperature, K.
const ABOVE: TemperatureDifference = TemperatureDifference::from_k(17.0);
/// What it need not be taken above, and must not pass in the look.
const HOTTEST: Temperature = Temperature::from_c(48.0);

/// Greatest chloride.
pub const CHLORIDE: Rule = Rule {
    id: "CHLORIDE",
    sentence: "The water of austenitic steel holds no more chloride than the project's school has it; it is drained and dried at once.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "chloride_is_asked_for_austenitic_steel_only",
};

pub(super) fn lines(f: &Facts) -> Vec<Draft> {
    brittle(f).into_iter().chain(chloride(f)).collect()
}

fn brittle(f: &Facts) -> Option<Draft> {
    let gas = f.demand.gas;
    let Some(minimum) = f.system.site.minimum_metal_c else {
        // a gas test of anything, and a vessel with anything, asks for it
        if !gas && f.demand.entry.duty != Duty::Vessel {
            return None;
        }
        let says = "At least 17 K above its minimum design metal temperature, and at most {0} in the look.";
        let trouble = gas.then(|| {
            "The minimum design metal temperature is not given: a gas test of cold metal can end in a brittle fracture. Give it, and the temperature that is expected.".to_owned()
        });
        return Some(Draft::new("metal", "ready", "Is the metal warm enough?", says).temperature(HOTTEST).stop(trouble));
    };
    let least = Temperature::from_c((minimum + ABOVE).c().min(HOTTEST.c()));
    let expected = f.system.site.metal_c.unwrap_or(f.system.water_temperature_c);
    let trouble = if expected < least {
        Some(format!("{:.0} °C is expected and {:.0} °C is the least: warm water and metal, or wait.", expected.c(), least.c()))
    } else {
        (expected > HOTTEST)
            .then(|| format!("{:.0} °C is expected, and nobody looks closely at metal hotter than 48 °C: let it cool.", expected.c()))
    };
    let t = |t: Temperature| Amount::new(t.c(), Dimension::TemperatureC);
    let why = Derivation::new("least temperature of the metal", &METAL, t(least), "T = min(MDMT + 17 K, 48 °C)")
        .with("MDMT", "minimum design metal temperature", t(minimum), "as entered, from the plate or the calculation")
        .would_change("A material with a lower minimum, or warm water.");
    let says = "At least {0} and at most {1}; {2} is expected.";
    Some(
        Draft::new("metal", "ready", "Is the metal warm enough?", says)
            .temperature(least)
            .temperature(HOTTEST)
            .temperature(expected)
            .stop(trouble)
            .why(why),
    )
}

fn chloride(f: &Facts) -> Option<Draft> {
    if f.demand.gas || f.system.liquid.is_some() {
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
