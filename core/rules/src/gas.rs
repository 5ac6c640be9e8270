//! What follows from a gas test: first stop, stored energy beside that of water, and how far to stand off.

use crate::basis::Demand;
use crate::plan::DayPressures;
use crate::rule::{Rule, Standing};
use crate::system::{Refusal, System};
use physics::energy;
use physics::gas::Gas;
use physics::system::ShutIn;
use quantity::{Energy, GaugePressure, Length, Mass, STANDARD_ATMOSPHERE};
use serde::{Deserialize, Serialize};

/// Rules of gas tests.
pub const RULES: &[&Rule] = &[&FIRST_STOP, &ENERGY, &DISTANCE];

/// First stop.
pub const FIRST_STOP: Rule = Rule {
    id: "GAS-FIRST-STOP",
    sentence: "A gas test stops first at the lesser of half the test pressure and 170 kPa (25 psi), and every joint is looked at there.",
    clause: "B31.3 345.5.5",
    edition: "ASME B31.3, editions from 2016",
    standing: Standing::NotChecked,
    file: file!(),
    test: "worked_gas_first_stop_relief_gas_of_b31_3",
};

/// Stored energy.
pub const ENERGY: Rule = Rule {
    id: "GAS-ENERGY",
    sentence: "The energy of a gas test is what the gas gives up in expanding to the atmosphere without heat; the ideal gas is the bound that is kept to.",
    clause: "501-II",
    edition: "ASME PCC-2, article 501",
    standing: Standing::NotChecked,
    file: file!(),
    test: "gas_energy_gas_distance_a_gas_test_says_its_energy_and_distance",
};

/// Standing off.
pub const DISTANCE: Rule = Rule {
    id: "GAS-DISTANCE",
    sentence: "Nobody is nearer than the greater of the fixed distance for the energy (30 m to 135.5 MJ, 60 m to 271 MJ) and the blast distance; above 271 MJ the system is divided.",
    clause: "501-III",
    edition: "ASME PCC-2, article 501",
    standing: Standing::NotChecked,
    file: file!(),
    test: "gas_energy_gas_distance_a_gas_test_says_its_energy_and_distance",
};

/// Greatest energy for the nearer fixed distance.
const NEARER: Energy = Energy::from_j(135.5e6);
/// Greatest energy of one gas test.
pub const MOST: Energy = Energy::from_j(271e6);
/// First stop at most.
const FIRST_STOP_MOST: GaugePressure = GaugePressure::from_kpa(170.0);
/// Scaled distance at which glass breaks and nobody is hurt, m/kg^⅓.
pub const SCALED_M: f64 = 20.0;

/// Figures of a gas test.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct GasFigures {
    /// First stop, Pa gauge.
    pub first_stop_pa: GaugePressure,
    /// Energy by the ideal gas, J; absent where no volume is known.
    #[schema(value_type = Option<f64>)]
    pub energy_ideal_j: Option<Energy>,
    /// Energy by the reference equation, J; absent where the gas would begin to condense, so that the ideal bound stands alone.
    #[schema(value_type = Option<f64>)]
    pub energy_real_j: Option<Energy>,
    /// Energy of the same test with water, J.
    #[schema(value_type = Option<f64>)]
    pub energy_water_j: Option<Energy>,
    /// The same energy as TNT, kg.
    #[schema(value_type = Option<f64>)]
    pub tnt_kg: Option<Mass>,
    /// Fixed distance, m.
    pub distance_fixed_m: Option<Length>,
    /// Distance by the blast, m.
    pub distance_blast_m: Option<Length>,
    /// Distance to keep, m.
    pub distance_m: Option<Length>,
    /// Why it must be divided, or what is missing, in a sentence.
    pub objection: Option<String>,
}

/// Figures of a gas test at its planned pressure.
pub(crate) fn gas_figures(
    system: &System,
    demand: &Demand,
    gas: Gas,
    day: &DayPressures,
    shut_in: Option<&ShutIn>,
) -> Result<GasFigures, Refusal> {
    let planned = day.planned_pa.absolute(STANDARD_ATMOSPHERE);
    let first_look = demand.entry.gas.as_ref().and_then(|g| g.first_look.as_ref()).map_or(FIRST_STOP_MOST, |c| c.pressure);
    let first_stop_pa = demand.least.pressure.times(0.5).min(FIRST_STOP_MOST).min(first_look);
    let Some(whole) = system.gas_volume().filter(|v| v.m3() > 0.0) else {
        return Ok(GasFigures {
            first_stop_pa,
            energy_ideal_j: None,
            energy_real_j: None,
            energy_water_j: None,
            tnt_kg: None,
            distance_fixed_m: None,
            distance_blast_m: None,
            distance_m: None,
            objection: Some(
                "Neither the stored energy nor the distance is known before every part that can hold gas has its volume.".to_owned(),
            ),
        });
    };
    // of a hydro-pneumatic test only the gas space counts
    let volume = whole * system.method.gas_share.unwrap_or(1.0).clamp(0.0, 1.0);
    let ideal = energy::stored_in_ideal_gas(volume, planned, energy::DIATOMIC);
    let real = energy::stored_in_gas(gas, volume, system.water_temperature_c, planned)?;
    let compliance = shut_in.and_then(|s| s.compliance_per_pa(system.water_temperature_c, planned).ok());
    let blast = energy::blast_distance(ideal, SCALED_M);
    let fixed = if ideal <= NEARER { Length::from_m(30.0) } else { Length::from_m(60.0) };
    let objection = (ideal > MOST).then(|| {
        format!(
            "The gas would store {:.0} MJ, and one gas test stores at most {:.0} MJ: divide the system into {:.0} or more, or test it with water.",
            ideal.j() / 1e6,
            MOST.j() / 1e6,
            (ideal / MOST).ceil()
        )
    });
    Ok(GasFigures {
        first_stop_pa,
        energy_ideal_j: Some(ideal),
        energy_real_j: real,
        energy_water_j: compliance.map(|c| energy::stored_in_liquid(volume, c, day.planned_pa)),
        tnt_kg: Some(energy::tnt(ideal)),
        distance_fixed_m: Some(fixed),
        distance_blast_m: Some(blast),
        distance_m: Some(fixed.max(blast)),
        objection,
    })
}
