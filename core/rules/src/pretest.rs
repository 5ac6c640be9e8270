//! GAS-PRETEST: a low gas test before the liquid goes in.

use crate::basis::Ground;
use crate::gas_gates;
use crate::rule::{Rule, Standing};
use crate::system::System;
use physics::energy;
use quantity::{Energy, GaugePressure, STANDARD_ATMOSPHERE};
use serde::{Deserialize, Serialize};

/// Rules of the low gas test.
pub const RULES: &[&Rule] = &[&PRETEST];

/// Low gas test.
pub const PRETEST: Rule = Rule {
    id: "GAS-PRETEST",
    sentence: "A low gas test may look for open plugs and pinholes before wetting, up to the lesser of the basis' own cap (B31.3: 170 kPa) and the project's school; it never proves strength, and never goes into what shatters unless its maker permits it, nor into what its basis forbids.",
    clause: "B31.3 345.2.1(c)",
    edition: "ASME B31.3, editions from 2016",
    standing: Standing::NotChecked,
    file: file!(),
    test: "gas_pretest_a_low_gas_test_has_a_cap_and_cautions",
};

/// A low gas test as it stands.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Pretest {
    /// Its pressure, Pa gauge.
    pub pressure_pa: GaugePressure,
    /// The cap, Pa gauge; absent where no gas is allowed at all.
    pub cap_pa: Option<GaugePressure>,
    /// Energy stored by the ideal gas, J; absent where no volume is known.
    #[schema(value_type = Option<f64>)]
    pub energy_j: Option<Energy>,
    /// Why it must not be made; absent where it may.
    pub refused: Option<String>,
    /// What to mind.
    pub cautions: Vec<String>,
}

/// The low gas test of a system; none where none is planned. The basis' own cap comes before any school.
pub(crate) fn pretest(system: &System, ground: &Ground, upper: GaugePressure) -> Option<Pretest> {
    let pressure = system.pretest_pa?;
    let say = system.say();
    let school = system.specification.answer("pretest").cap.as_ref().map(|c| c.pressure);
    let by_basis = ground.entry.pretest_cap.as_ref().map(|c| c.pressure);
    let cap = match (school, by_basis) {
        (Some(school), Some(basis)) => Some(school.min(basis)),
        (school, _) => school,
    };
    let mut reasons: Vec<String> = Vec::new();
    if system.pretest_permitted_by.trim().is_empty() {
        let brittle = system.parts.iter().filter_map(|p| Some((p, gas_gates::shatters(p, ground)?.1)));
        reasons.extend(brittle.map(|(p, word)| {
            format!("{} is {word}, which shatters: no gas goes in at any pressure, unless its maker permits a low one and somebody is named who says so. Look for open plugs with water.", p.tag)
        }));
    }
    if let Some(sentence) = ground.entry.no_gas().filter(|_| !ground.entry.low_gas) {
        reasons.push(format!("{sentence} That holds for a low gas test too."));
    }
    match cap {
        None => reasons.push("The project's specification allows no gas before the water: look for open plugs with water.".to_owned()),
        Some(cap) if pressure > cap => {
            let whose = if by_basis.is_some_and(|b| b <= cap) { ", by the basis itself" } else { "" };
            reasons.push(format!(
                "A low gas test stays at {} or less{whose}; {} is a gas test and needs all that one needs.",
                say.down(cap),
                say.p(pressure)
            ));
        }
        Some(_) => {}
    }
    if pressure > upper {
        reasons.push(format!("{} is above the upper bound of {}.", say.p(pressure), say.down(upper)));
    }
    let unknown: Vec<&str> = gas_gates::without_volume(system).map(|p| p.tag.as_str()).collect();
    if !unknown.is_empty() {
        reasons.push(format!("Nobody said how much gas {} holds: give the volume before any gas goes in.", unknown.join(", ")));
    }
    let refused = (!reasons.is_empty()).then(|| reasons.join(" "));
    let energy_j = system.gas_volume().map(|v| energy::stored_in_ideal_gas(v, pressure.absolute(STANDARD_ATMOSPHERE), energy::DIATOMIC));
    let cautions = vec![
        "It finds open plugs and pinholes; it proves no strength and is no test for acceptance.".to_owned(),
        "Regulated supply with a relief valve at the cap; nobody near while it rises; nothing tightened under pressure; soap every joint, then down to zero.".to_owned(),
    ];
    Some(Pretest { pressure_pa: pressure, cap_pa: cap, energy_j, refused, cautions })
}
