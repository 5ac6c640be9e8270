//! Conditions of a basis that data decide: temperatures of water and metal, chloride, freezing, worn walls, parts that must be listed.

use crate::basis::Demand;
use crate::basis::bound::Base;
use crate::basis::field_of;
use crate::consequences::metal::{CHLORIDE, METAL};
use crate::objection::Objection;
use crate::part::PartKind;
use crate::rule::{Rule, Standing};
use crate::system::System;
use crate::used::{self, worn};
use quantity::Temperature;

/// Rules of the conditions.
pub const RULES: &[&Rule] = &[&WATER, &FREEZING, &INNER, &PLASTIC];

/// Water.
pub const WATER: Rule = Rule {
    id: "WATER-TEMPERATURE",
    sentence: "The water is as warm as the basis asks, and of a boiler no colder than what surrounds it; a stated estimate satisfies it.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "water_temperature_water_is_as_warm_as_the_basis_asks",
};

/// Freezing of another liquid.
pub const FREEZING: Rule = Rule {
    id: "LIQUID-FREEZING",
    sentence: "A test liquid other than water stays at least 3 K above where it freezes; one whose freezing point is not given is not used below 5 °C.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "liquid_freezing_a_liquid_that_freezes_is_refused",
};

/// Inner part of a jacket.
pub const INNER: Rule = Rule {
    id: "JACKET-INNER",
    sentence: "While a jacket is pressed, what stands inside it bears the pressure from outside: it is listed with the figure of its designer.",
    clause: "UG-99(e)",
    edition: "ASME BPVC VIII-1, recent editions",
    standing: Standing::NotChecked,
    file: file!(),
    test: "jacket_inner_a_jacket_names_its_inner_part",
};

/// Warm plastic.
pub const PLASTIC: Rule = Rule {
    id: "PLASTIC-TEMPERATURE",
    sentence: "Plastic pipe bears less when it is warm: how warm its wall will be is told, an honest estimate being enough, and it is taken at the warmest of wall, water and surroundings.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "plastic_temperature_plastic_says_how_warm_it_is",
};

/// How far above freezing a liquid stays, K, and what one of unknown freezing point is not used below, °C.
const ABOVE_FREEZING: f64 = 3.0;
const UNKNOWN_FREEZING: f64 = 5.0;

/// Everything of these that stands against the test.
pub(crate) fn objections(system: &System, demand: &Demand) -> Vec<Objection> {
    let mut all = Vec::new();
    all.extend(water(system, demand));
    all.extend(metal(system, demand));
    all.extend(plastic(system, demand));
    all.extend(chloride(system, demand));
    all.extend(freezing(system, demand));
    all.extend(inner(system, demand));
    all.extend(walls(system, demand));
    all
}

fn water(system: &System, demand: &Demand) -> Option<Objection> {
    let range = demand.entry.water.filter(|_| !demand.gas)?;
    let t = system.water_temperature_c.c();
    let at = |c: f64| system.say().temperature(Temperature::from_c(c));
    let object = |sentence| Some(Objection::new(WATER.id, "prove", "water_temperature_c", sentence));
    if t < range.least_c || (t > range.most_c && !range.warn_above) {
        return object(format!(
            "The water is planned at {}; this basis asks for {} to {}: {}.",
            at(t),
            at(range.least_c),
            at(range.most_c),
            if t < range.least_c { "warm it" } else { "let it cool" }
        ));
    }
    let around = system.site.surroundings_c.filter(|a| range.not_below_surroundings && t < a.c() - 0.5)?;
    object(format!(
        "The water is planned at {} and the surroundings are at {}: cold water sweats and hides leaks. Warm it to the surroundings.",
        at(t),
        at(around.c())
    ))
}

/// What is expected of the metal: as entered, else as the water.
pub(crate) fn expected(system: &System) -> Temperature {
    system.site.metal_c.unwrap_or(system.water_temperature_c)
}

/// The least and the greatest temperature of the metal, where anything asks for one.
pub(crate) fn metal_range(system: &System, demand: &Demand) -> Option<(Temperature, Temperature)> {
    let range = demand.entry.metal;
    let above = |m: Temperature| (m + used_margin()).c().min(HOTTEST_C);
    let by_minimum = system.site.minimum_metal_c.map(above);
    let least = [by_minimum, range.and_then(|r| r.least_c)].into_iter().flatten().fold(f64::NEG_INFINITY, f64::max);
    let known = least.is_finite() || range.is_some();
    known.then(|| (Temperature::from_c(least), Temperature::from_c(range.map_or(HOTTEST_C, |r| r.most_c))))
}

/// Above the minimum design metal temperature, K.
const fn used_margin() -> quantity::TemperatureDifference {
    quantity::TemperatureDifference::from_k(17.0)
}
/// What the minimum need not be taken above, and metal must not pass in the look, °C.
pub(crate) const HOTTEST_C: f64 = 48.0;

/// Why the metal is not warm, or not cool, enough.
pub(crate) fn metal(system: &System, demand: &Demand) -> Option<Objection> {
    let say = system.say();
    let object = |field, sentence: String| Some(Objection::new(METAL.id, "derive", field, sentence));
    let by_basis = demand.entry.metal;
    if system.site.minimum_metal_c.is_none() {
        if demand.gas {
            return object(
                "site.minimum_metal_c",
                "The minimum design metal temperature is not given: a gas test of cold metal can end in a brittle fracture. Give it, and the temperature that is expected.".to_owned(),
            );
        }
        if by_basis.is_some_and(|r| r.minimum) {
            return object(
                "site.minimum_metal_c",
                format!(
                    "The minimum design metal temperature is not given, and this basis asks for metal at least {} above it: read the plate or the \
                     calculation, and give it.",
                    say.warming(used_margin())
                ),
            );
        }
    }
    if by_basis.is_some() && system.site.metal_c.is_none() {
        return object(
            "site.metal_c",
            "Nobody said how warm the metal will be, and this basis asks for it: give what is expected; an honest estimate is enough."
                .to_owned(),
        );
    }
    let (least, most) = metal_range(system, demand)?;
    let t = expected(system);
    if t < least {
        return object(
            "site.metal_c",
            format!("{} is expected and {} is the least: warm water and metal, or wait.", say.temperature(t), say.temperature(least)),
        );
    }
    (t > most).then(|| {
        let sentence = format!(
            "{} is expected, and nobody looks closely at metal hotter than {}: let it cool.",
            say.temperature(t),
            say.temperature(most)
        );
        Objection::new(METAL.id, "derive", "site.metal_c", sentence)
    })
}

/// Why a plastic wall cannot be judged.
fn plastic(system: &System, demand: &Demand) -> Option<Objection> {
    if system.site.metal_c.is_some() {
        return None;
    }
    let soft = |m: &str| demand.library.material(m).is_ok_and(|m| matches!(m.family.as_str(), "pvc" | "cpvc" | "pe"));
    let part = system.parts.iter().find(|p| p.kind.walled() && p.material.as_deref().is_some_and(soft))?;
    let sentence = format!(
        "{} is plastic and bears less when it is warm, and nobody said how warm the pipe will be: give it with the temperatures of the site; an honest estimate is enough.",
        part.tag
    );
    Some(Objection::new(PLASTIC.id, "derive", "site.metal_c", sentence))
}

/// Why the liquid is not for austenitic steel, or is not known to be.
fn chloride(system: &System, demand: &Demand) -> Option<Objection> {
    if demand.gas {
        return None;
    }
    let austenitic = |m: &str| demand.library.material(m).is_ok_and(crate::library::Material::austenitic);
    let part = system.parts.iter().find(|p| p.material.as_deref().is_some_and(austenitic))?;
    let most = system.specification.answer("chloride").ppm?;
    let (field, step, given, name) = match &system.liquid {
        Some(l) => ("liquid.chloride_ppm", "prove", l.chloride_ppm, l.name.as_str()),
        None => ("site.chloride_ppm", "derive", system.site.chloride_ppm, "the water"),
    };
    let sentence = match given {
        None => format!(
            "{} is austenitic steel, and nobody said how much chloride is in {name}: give it from its certificate or a test strip; at most {most:.0} ppm may be in it.",
            part.tag
        ),
        Some(ppm) if ppm > most => format!(
            "{} is austenitic steel, and {name} holds {ppm:.0} ppm of chloride; at most {most:.0} ppm are allowed, or the steel may crack: take other water.",
            part.tag
        ),
        Some(_) => return None,
    };
    Some(Objection::new(CHLORIDE.id, step, field, sentence))
}

/// Why a liquid other than water might freeze.
fn freezing(system: &System, demand: &Demand) -> Option<Objection> {
    let liquid = system.liquid.as_ref().filter(|_| !demand.gas)?;
    let site = &system.site;
    let planned = [site.surroundings_c, site.source_c, site.metal_c].into_iter().flatten();
    let coldest = planned.fold(system.water_temperature_c, Temperature::min).c();
    let at = |c: f64| system.say().temperature(Temperature::from_c(c));
    let object = |sentence| Some(Objection::new(FREEZING.id, "prove", "liquid.freezes_c", sentence));
    match liquid.freezes_c.map(|t| t.c()) {
        Some(f) if coldest < f + ABOVE_FREEZING => object(format!(
            "{} freezes at {}, and {} is expected: take a liquid that stays at least {} above it, warm it, or wait.",
            liquid.name,
            at(f),
            at(coldest),
            system.say().warming(quantity::TemperatureDifference::from_k(ABOVE_FREEZING))
        )),
        None if coldest < UNKNOWN_FREEZING => object(format!(
            "{} is expected, and nobody said where {} freezes: give its freezing point, warm it, or wait.",
            at(coldest),
            liquid.name
        )),
        _ => None,
    }
}

/// Why the inner part of a jacket is missing.
fn inner(system: &System, demand: &Demand) -> Option<Objection> {
    let sentence = demand.entry.needs_inner.as_deref()?;
    let listed = system.parts.iter().any(|p| p.kind == PartKind::Furnace);
    (!listed).then(|| Objection::new(INNER.id, "derive", "parts", sentence))
}

/// Why a worn wall does not bear what is asked of it.
fn walls(system: &System, demand: &Demand) -> Vec<Objection> {
    let say = system.say();
    let field = demand.entry.used.map_or("working_pressure_pa", |b: Base| field_of(b));
    let each = worn(system, demand).into_iter().filter_map(|w| match w {
        Err((tag, sentence)) => Some(Objection::of_part(used::MAWP.id, &tag, "material", format!("{tag}: {sentence}."))),
        Ok(w) if w.derates() => {
            let needs = w.needs.map_or_else(|| "more wall than it can have".to_owned(), |t| say.size_up(t));
            let sentence = format!(
                "{} bears {} by its measured wall, not {}: that would need {needs}. Derate it to {}, or have it repaired.",
                w.tag,
                say.down(w.bears),
                say.p(w.asked),
                say.derated(w.bears)
            );
            Some(Objection { part: Some(w.tag.clone()), ..Objection::new(used::MAWP.id, "derive", field, sentence) })
        }
        Ok(_) => None,
    });
    each.collect()
}
