//! The pressures of the day: planned, look, stop line, relief and alarm.

use crate::basis::Demand;
use crate::basis::entry::Duty;
use crate::rule::{Rule, Standing};
use crate::say::AtGauge;
use crate::specification::{SchoolOption, Specification};
use crate::system::System;
use quantity::format::{round_down, round_up};
use quantity::{GaugePressure, PressureDifference, TemperatureDifference};
use serde::{Deserialize, Serialize};

/// Rules of the plan.
pub const RULES: &[&Rule] = &[&PLANNED, &LOOK, &STOP_LINE, &RELIEF, &RELIEF_GAS, &ALARM];

/// Planned pressure.
pub const PLANNED: Rule = Rule {
    id: "PLANNED",
    sentence: "The hold starts above the lower bound by the settling and cooling that are predicted, rounded up to the gauge's readable division.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "worked_planned_look_stop_line_relief_liquid_alarm_pump_volume_of_the_dn150_line",
};

/// Look pressure.
pub const LOOK: Rule = Rule {
    id: "LOOK",
    sentence: "The look at every joint is made at what the basis names, at the governing part; never above the planned pressure.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "worked_planned_look_stop_line_relief_liquid_alarm_pump_volume_of_the_dn150_line",
};

/// Stop line.
pub const STOP_LINE: Rule = Rule {
    id: "STOP-LINE",
    sentence: "The gauge's own error below the upper bound the pump is stopped whatever happens.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "worked_planned_look_stop_line_relief_liquid_alarm_pump_volume_of_the_dn150_line",
};

/// Relief valve set pressure.
pub const RELIEF: Rule = Rule {
    id: "RELIEF-LIQUID",
    sentence: "The relief valve is set at 1.1 times the test pressure or as the project's specification has it, or lower where its accumulation would pass the upper bound.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "worked_planned_look_stop_line_relief_liquid_alarm_pump_volume_of_the_dn150_line",
};

/// Relief valve set pressure of a gas test.
pub const RELIEF_GAS: Rule = Rule {
    id: "RELIEF-GAS",
    sentence: "The relief valve of a gas test is set at the test pressure plus the lesser of 345 kPa (50 psi) and 10 % of it, or lower where its accumulation would pass the upper bound.",
    clause: "B31.3 345.5.2",
    edition: "ASME B31.3, editions from 2016",
    standing: Standing::NotChecked,
    file: file!(),
    test: "worked_gas_first_stop_relief_gas_of_b31_3",
};

/// What a relief valve of a gas test may be set above the test pressure at most.
pub const RELIEF_GAS_MOST: PressureDifference = PressureDifference::from_kpa(345.0);
/// The same, share of the test pressure.
pub const RELIEF_GAS_SHARE: f64 = 0.1;

/// Alarm.
pub const ALARM: Rule = Rule {
    id: "ALARM",
    sentence: "The alarm sounds midway between the planned pressure and the lesser of stop line and relief set pressure.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "worked_planned_look_stop_line_relief_liquid_alarm_pump_volume_of_the_dn150_line",
};

/// Settings that a specification may change.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Settings {
    /// Cooling of the water that is expected over the hold, K.
    #[schema(value_type = f64)]
    pub expected_cooling_k: TemperatureDifference,
    /// Fall by settling that is expected, Pa.
    pub expected_settling_pa: PressureDifference,
    /// Accumulation of the relief valve over its set pressure, from its certificate.
    pub relief_accumulation: f64,
}

impl Default for Settings {
    fn default() -> Self {
        Self {
            expected_cooling_k: TemperatureDifference::from_k(0.1),
            expected_settling_pa: PressureDifference::from_pa(0.0),
            relief_accumulation: 0.1,
        }
    }
}

/// The pressures of the day.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct DayPressures {
    /// Pressure at which the hold starts, Pa gauge.
    pub planned_pa: GaugePressure,
    /// Pressure at which joints are looked at, Pa gauge.
    pub look_pa: GaugePressure,
    /// Reading at which the pump is stopped whatever happens, Pa gauge.
    pub stop_line_pa: GaugePressure,
    /// Relief set pressure, Pa gauge; none where no setting fits.
    pub relief_set_pa: Option<GaugePressure>,
    /// Alarm, Pa gauge.
    pub alarm_pa: GaugePressure,
    /// What does not fit, in sentences; each stops the release until it is answered.
    pub conflicts: Vec<Conflict>,
}

/// Something in the plan that does not fit.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Conflict {
    /// `relief` or `gauge`.
    pub about: String,
    /// What, why, and what to do.
    pub sentence: String,
}

/// What the plan starts from.
#[derive(Debug, Clone, Copy)]
pub struct PlanInput {
    /// How sentences say pressures.
    pub say: AtGauge,
    /// Lower bound at the gauge.
    pub lower: GaugePressure,
    /// Upper bound at the gauge.
    pub upper: GaugePressure,
    /// Readable division of the gauge.
    pub division: PressureDifference,
    /// Error of the gauge.
    pub gauge_error: PressureDifference,
    /// Predicted settling and cooling.
    pub predicted_fall: PressureDifference,
    /// Pressure of the look at the gauge, before rounding.
    pub look: GaugePressure,
    /// True for a gas test.
    pub gas: bool,
    /// School of the relief valve of a liquid test.
    pub relief: &'static SchoolOption,
    /// Settings.
    pub settings: Settings,
}

/// Relief setting before the upper bound is looked at.
pub fn relief_by_rule(planned: GaugePressure, gas: bool, school: &SchoolOption) -> GaugePressure {
    if gas {
        planned + PressureDifference::from_pa((RELIEF_GAS_SHARE * planned.pa()).min(RELIEF_GAS_MOST.pa()))
    } else {
        planned.times(school.factor.unwrap_or(1.0)) + PressureDifference::from_pa(school.plus.as_ref().map_or(0.0, |c| c.pressure.pa()))
    }
}

fn up(p: GaugePressure, division: PressureDifference) -> GaugePressure {
    GaugePressure::from_pa(round_up(p.pa(), division.pa()))
}

fn down(p: GaugePressure, division: PressureDifference) -> GaugePressure {
    GaugePressure::from_pa(round_down(p.pa(), division.pa()))
}

/// The school of the relief valve that counts: one that is an offer for vessels does not count for anything else.
pub fn relief_school(system: &System, demand: &Demand) -> &'static SchoolOption {
    let chosen = system.specification.answer("relief_liquid");
    let vessel = demand.entry.duty == Duty::Vessel;
    if chosen.vessels_only && !vessel { Specification::default().answer("relief_liquid") } else { chosen }
}

/// The pressures of the day for a feasible window.
pub fn day_pressures(input: &PlanInput) -> DayPressures {
    let d = input.division;
    let s = &input.settings;
    let planned = up(input.lower + input.predicted_fall, d);
    let stop = down(input.upper - input.gauge_error, d);
    let by_factor = relief_by_rule(planned, input.gas, input.relief);
    let by_bound = input.upper.times(1.0 / (1.0 + s.relief_accumulation));
    let relief = down(by_factor.min(by_bound), d);
    let relief = (relief > planned).then_some(relief);
    let alarm = down(GaugePressure::from_pa(0.5 * (planned.pa() + relief.unwrap_or(stop).min(stop).pa())), d);
    let say = input.say;
    let mut conflicts = Vec::new();
    if planned >= stop {
        conflicts.push(Conflict {
            about: "gauge".to_owned(),
            sentence: format!(
                "The planned pressure of {} is not below the stop line of {}: the window is narrower than this gauge can hold. Use a gauge with a finer division or a smaller error, or expect less cooling.",
                say.up(planned), say.down(stop)
            ),
        });
    }
    if relief.is_none() {
        conflicts.push(Conflict {
            about: "relief".to_owned(),
            sentence: format!(
                "No relief setting fits: to stay below {} with {:.0} % accumulation it would have to open at {}, which is not above the planned {}. Limit the pump by its own bypass, attend the hand bleed, and keep to the stop line.",
                say.down(input.upper), 100.0 * s.relief_accumulation, say.down(by_bound), say.up(planned)
            ),
        });
    }
    DayPressures {
        planned_pa: planned,
        look_pa: up(input.look, d).min(planned),
        stop_line_pa: stop,
        relief_set_pa: relief,
        alarm_pa: alarm,
        conflicts,
    }
}
