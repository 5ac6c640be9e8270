//! GAS-PRETEST: a low gas test before the liquid goes in.

use crate::basis::Demand;
use crate::rule::{Rule, Standing};
use crate::system::System;
use physics::energy;
use physics::system::ShutIn;
use quantity::{GaugePressure, PressureUnit, STANDARD_ATMOSPHERE};
use serde::{Deserialize, Serialize};

/// Rules of the low gas test.
pub const RULES: &[&Rule] = &[&PRETEST];

/// Low gas test.
pub const PRETEST: Rule = Rule {
    id: "GAS-PRETEST",
    sentence: "A low gas test may look for open plugs and pinholes before wetting, up to the cap of the project's school (170 kPa by default); it never proves strength, and never goes into PVC or what its basis forbids.",
    clause: "B31.3 345.2.1(c)",
    edition: "ASME B31.3, editions from 2016",
    standing: Standing::NotChecked,
    file: file!(),
    test: "a_low_gas_test_has_a_cap_and_cautions",
};

/// A low gas test as it stands.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Pretest {
    /// Its pressure, Pa gauge.
    pub pressure_pa: GaugePressure,
    /// The cap, Pa gauge; absent where no gas is allowed at all.
    pub cap_pa: Option<GaugePressure>,
    /// Energy stored by the ideal gas, J; absent where no volume is known.
    pub energy_j: Option<f64>,
    /// Why it must not be made; absent where it may.
    pub refused: Option<String>,
    /// What to mind.
    pub cautions: Vec<String>,
}

/// The low gas test of a system; none where none is planned.
pub(crate) fn pretest(system: &System, demand: &Demand, shut_in: Option<&ShutIn>, upper: GaugePressure) -> Option<Pretest> {
    let pressure = system.pretest_pa?;
    let cap = system.specification.answer("pretest").cap.as_ref().map(|c| c.pressure);
    let bar = |p: GaugePressure| quantity::format::gauge_pressure(p, PressureUnit::Bar, 2);
    let shatters =
        system.parts.iter().find(|p| p.material.as_deref().is_some_and(|m| demand.library.material(m).is_ok_and(|m| m.family == "pvc")));
    let forbidden = demand.entry.forbids_gas.as_ref().filter(|_| !demand.entry.low_gas);
    let refused = match (shatters, forbidden, cap) {
        (Some(p), ..) => Some(format!("{} is PVC, which shatters: no gas goes in at any pressure. Look for open plugs with water.", p.tag)),
        (None, Some(sentence), _) => Some(format!("{sentence} That holds for a low gas test too.")),
        (None, None, None) => {
            Some("The project's specification allows no gas before the water: look for open plugs with water.".to_owned())
        }
        (None, None, Some(cap)) if pressure > cap => {
            Some(format!("A low gas test stays at {} or less; {} is a gas test and needs all that one needs.", bar(cap), bar(pressure)))
        }
        (None, None, Some(_)) if pressure > upper => Some(format!("{} is above the upper bound of {}.", bar(pressure), bar(upper))),
        _ => None,
    };
    let energy_j = shut_in.map(|s| energy::stored_in_ideal_gas_j(s.volume(), pressure.absolute(STANDARD_ATMOSPHERE), energy::DIATOMIC));
    let cautions = vec![
        "It finds open plugs and pinholes; it proves no strength and is no test for acceptance.".to_owned(),
        "Regulated supply with a relief valve at the cap; nobody near while it rises; nothing tightened under pressure; soap every joint, then down to zero.".to_owned(),
    ];
    Some(Pretest { pressure_pa: pressure, cap_pa: cap, energy_j, refused, cautions })
}
