//! What gas never goes into, whatever the basis: parts whose volume nobody counted, and material that shatters.

use crate::basis::Ground;
use crate::objection::Objection;
use crate::part::Part;
use crate::rule::{Rule, Standing};
use crate::system::System;

/// Rules of every gas test.
pub const RULES: &[&Rule] = &[&VOLUME, &BRITTLE, &WATER_LINE];

/// Volumes.
pub const VOLUME: Rule = Rule {
    id: "GAS-VOLUME",
    sentence: "No gas goes into a system of which a part that can hold gas has no counted volume: an energy that leaves out a part is worse than none. A given volume counts without a wall; a valve, flange or the like counts with its bore over its face length, three bores where that is not given.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "gas_volume_gas_wants_every_volume",
};

/// Brittle material.
pub const BRITTLE: Rule = Rule {
    id: "GAS-BRITTLE",
    sentence: "No gas test with PVC, CPVC, polyethylene, glass-reinforced plastic, cast iron, concrete or glass within the boundary, but for a basis with a rule of its own for that material, and for a low gas test before the liquid that the material's maker permits.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "gas_brittle_gas_never_goes_into_what_shatters",
};

/// Water line of a hydro-pneumatic test.
pub const WATER_LINE: Rule = Rule {
    id: "GAS-WATER-LINE",
    sentence: "A hydro-pneumatic test says at which height its water stands: below the line the column is water, and its head counts.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "gas_water_line_water_below_the_line_weighs_as_water",
};

/// Families that shatter, or that gas is never put into, with their words.
const SHATTERS: [(&str, &str); 7] = [
    ("pvc", "PVC"),
    ("cpvc", "CPVC"),
    ("pe", "polyethylene"),
    ("grp", "glass-reinforced plastic"),
    ("cast_iron", "cast iron"),
    ("concrete", "concrete"),
    ("glass", "glass"),
];

/// What a part is made of, where that shatters.
pub(crate) fn shatters<'a>(part: &Part, ground: &Ground) -> Option<(&'a str, &'a str)> {
    let family = &ground.library.material(part.material.as_deref()?).ok()?.family;
    SHATTERS.iter().find(|(f, _)| f == family).copied()
}

/// Parts of which nothing says how much gas they hold.
pub(crate) fn without_volume(system: &System) -> impl Iterator<Item = &Part> {
    system.parts.iter().filter(|p| p.gas_volume().is_none())
}

/// Everything that stands against gas.
pub(crate) fn objections(system: &System, ground: &Ground) -> Vec<Objection> {
    if !ground.gas {
        return vec![];
    }
    let mut all: Vec<Objection> = without_volume(system).map(no_volume).collect();
    for p in &system.parts {
        let Some((family, word)) = shatters(p, ground) else { continue };
        if ground.entry.brittle_with_gas.iter().any(|f| f == family) {
            continue;
        }
        let sentence = format!("{} is {word}, which shatters under gas: test it with water, or take it out of the boundary.", p.tag);
        all.push(Objection::of_part(BRITTLE.id, &p.tag, "material", sentence));
    }
    if system.method.gas_share.is_some_and(|s| s < 1.0) && system.method.water_line_m.is_none() {
        all.push(Objection::new(
            WATER_LINE.id,
            "prove",
            "method.water_line_m",
            "A part of the volume is under water, and the height of the water line is not given: what lies below it sees the water's head too. Give the height.",
        ));
    }
    all
}

fn no_volume(p: &Part) -> Objection {
    let (column, ask) = if p.kind.piping() {
        ("length", "give its size, wall and length, or its volume")
    } else if p.kind.can_hold_gas() {
        ("volume", "give its volume from the plate, the drawing or a calculation")
    } else {
        ("size", "give its size: it then counts with its bore over its face length")
    };
    Objection::of_part(
        VOLUME.id,
        &p.tag,
        column,
        format!(
            "{}: nobody said how much gas this {} holds, so neither the energy nor the distance can be told: {ask}.",
            p.tag,
            p.kind.word()
        ),
    )
}
