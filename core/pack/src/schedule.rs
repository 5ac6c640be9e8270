//! SCHEDULE: the raise in steps, as a curve with times and the next step in words.

use crate::plan::Plan;
use quantity::{GaugePressure, PressureDifference, Span};
use rules::accept::Lowering;
use rules::rule::{Rule, Standing};
use rules::say::AtGauge;
use rules::system::Derived;
use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

/// Rules of the schedule.
pub const RULES: &[&Rule] = &[&STEPS];

/// Steps.
pub const STEPS: Rule = Rule {
    id: "SCHEDULE",
    sentence: "The pressure is raised in steps with a look at each, and the last step ends at the planned pressure.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "schedule_every_schedule_ends_at_the_planned_pressure",
};

/// Schedules that ship.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum ScheduleName {
    /// 25, 50, 75, 100 %; check at each
    #[default]
    #[strum(message = "quarters: 25, 50, 75, 100 %")]
    Quarters,
    /// 40 (5 min), 70 (5 min), 100 %
    #[strum(message = "three stages: 40, 70, 100 %")]
    ThreeStage,
    /// half, working pressure, test
    #[strum(message = "small boiler: half, working pressure, test")]
    SmallBoiler,
    /// one step for a gasketed joint
    #[strum(message = "joint: one step")]
    Joint,
    /// gas: first stop, 25, 35, 50, then 10 % each
    #[strum(message = "fine: first stop, 25, 35, 50, then 10 % each")]
    PneumaticFine,
    /// gas, vessel code: first stop, 50, then 10 % each
    #[strum(message = "vessel code: first stop, 50, then 10 % each")]
    PneumaticVessel,
}

impl ScheduleName {
    /// True for a raise with gas.
    pub const fn of_gas(self) -> bool {
        matches!(self, Self::PneumaticFine | Self::PneumaticVessel)
    }

    /// The schedule that is followed: gas is raised by a schedule for gas, whatever was chosen, and liquid by one for liquid.
    pub const fn followed(self, gas: bool) -> Self {
        match (gas, self.of_gas()) {
            (true, false) => Self::PneumaticFine,
            (false, true) => Self::Quarters,
            _ => self,
        }
    }
}

/// What a raise is made of.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Raise {
    /// Schedule that was chosen.
    pub name: ScheduleName,
    /// Pressure that it ends at.
    pub planned: GaugePressure,
    /// Working or design pressure.
    pub working: GaugePressure,
    /// Division of the gauge.
    pub division: PressureDifference,
    /// How its pressures are said.
    pub show: AtGauge,
    /// Hold at the end, s.
    pub hold_s: f64,
    /// First stop of a raise with gas; absent for liquid.
    pub first_stop: Option<GaugePressure>,
    /// Pressure of the look, where it is lower than the test; absent where it is taken at test pressure.
    pub look: Option<GaugePressure>,
    /// How a wall that creeps is brought from there to its hold; absent where it is held as it was raised.
    pub lowering: Option<Lowering>,
}

/// One step.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Step {
    /// 1 for the first.
    pub number: usize,
    /// Gauge reading at which the pump is stopped, Pa.
    pub target_pa: GaugePressure,
    /// Least time at this step, s; the hold itself at the last.
    pub hold_s: f64,
    /// When raising to it starts, s from the start of the raise.
    pub raise_from_s: f64,
    /// When it should be reached, s.
    pub reached_s: f64,
    /// When it ends, s.
    pub ends_s: f64,
    /// What to do there.
    pub words: String,
}

impl Raise {
    /// The raise of a plan.
    pub fn of(plan: &Plan, derived: &Derived, division: PressureDifference, show: AtGauge, hold: Span) -> Self {
        let planned = derived.day.as_ref().map_or(derived.lower_readable_pa, |d| d.planned_pa);
        Self {
            name: plan.schedule,
            planned,
            working: plan.basis.base_pressure(),
            division,
            show,
            hold_s: hold.s(),
            first_stop: derived.gas.as_ref().map(|g| g.first_stop_pa),
            look: derived.day.as_ref().map(|d| d.look_pa).filter(|l| *l < planned),
            lowering: derived.lowering(),
        }
    }
}

/// Default time of the whole raise at a steady rate, s.
pub(crate) const RAISE_S: f64 = 600.0;
/// Default settling before the hold's clock starts, s.
const SETTLE_S: f64 = 600.0;

/// Time at the first stop of a raise with gas, s: every joint is looked at (common practice).
const FIRST_STOP_S: f64 = 600.0;

/// Shares of the planned pressure with the least time at each, s.
fn shares(raise: &Raise) -> Vec<(f64, f64)> {
    let (working, planned) = (raise.working, raise.planned);
    let first = raise.first_stop.map(|p| (p.pa() / planned.pa(), FIRST_STOP_S));
    let tens = [(0.6, 300.0), (0.7, 300.0), (0.8, 300.0), (0.9, 300.0), (1.0, SETTLE_S)];
    let with_gas = |before: &[(f64, f64)]| {
        let mut all: Vec<(f64, f64)> = first.into_iter().collect();
        // what lies below the first stop is passed by it
        all.extend(before.iter().chain(&tens).filter(|s| first.is_none_or(|f| s.0 > f.0 + 1e-9)));
        all
    };
    match raise.name.followed(raise.first_stop.is_some()) {
        ScheduleName::PneumaticFine => with_gas(&[(0.25, 600.0), (0.35, 180.0), (0.5, 600.0)]),
        ScheduleName::PneumaticVessel => with_gas(&[(0.5, 300.0)]),
        ScheduleName::Joint => vec![(1.0, 60.0)],
        ScheduleName::Quarters => vec![(0.25, 300.0), (0.50, 300.0), (0.75, 300.0), (1.0, SETTLE_S)],
        ScheduleName::ThreeStage => vec![(0.40, 300.0), (0.70, 300.0), (1.0, SETTLE_S)],
        ScheduleName::SmallBoiler => {
            let at_working = (working.pa() / planned.pa()).clamp(0.0, 1.0);
            let mut steps = vec![(0.5, 300.0)];
            if at_working > 0.5 + 1e-9 && at_working < 1.0 {
                steps.push((at_working, 300.0));
            }
            steps.push((1.0, SETTLE_S));
            steps
        }
    }
}

/// The steps of a raise to `planned` and the hold after it. Targets are rounded down to the gauge's division, the last
/// is the planned pressure itself; a step that the gauge cannot tell from its neighbour is left out.
pub fn steps(raise: &Raise) -> Vec<Step> {
    let Raise { planned, division, hold_s, .. } = *raise;
    let gas = raise.first_stop.is_some();
    let span = |s: f64| quantity::format::span(Span::from_s(s));
    let (mut at, mut before) = (0.0, GaugePressure::from_pa(0.0));
    let mut plan = shares(raise);
    if let (Some(end), Some(lowering)) = (plan.last_mut(), raise.lowering) {
        end.1 = lowering.stretch_s.s();
    }
    let last = plan.len() - 1;
    let mut steps: Vec<Step> = Vec::with_capacity(plan.len());
    for (i, (share, rest)) in plan.into_iter().enumerate() {
        let rounded = GaugePressure::from_pa(quantity::format::round_down(planned.times(share).pa(), division.pa()));
        let target = if i == last { planned } else { rounded };
        if i != last && !(target > before && target < planned) {
            continue;
        }
        let reached_s = at + RAISE_S * (target - before).pa() / planned.pa();
        let (hold, words) = if i == last {
            (rest + hold_s, last_words(raise, rest))
        } else if gas && i == 0 {
            (rest, format!("shut the supply, hold {}, look at every joint with the bubble solution", span(rest)))
        } else if gas {
            (rest, format!("shut the supply, hold {} from a safe distance", span(rest)))
        } else {
            (rest, format!("stop the pump, hold {}, look", span(rest)))
        };
        let ends_s = reached_s + hold;
        steps.push(Step { number: steps.len() + 1, target_pa: target, hold_s: hold, raise_from_s: at, reached_s, ends_s, words });
        (at, before) = (ends_s, target);
    }
    steps
}

/// What to do at the last step.
fn last_words(raise: &Raise, rest: f64) -> String {
    let span = |s: f64| quantity::format::span(Span::from_s(s));
    let (rest, hold) = (span(rest), span(raise.hold_s));
    if let Some(lowering) = raise.lowering {
        let then = match lowering.quick {
            Some(quick) => format!(
                "valve off, disconnect and wait {}; then lower it quickly by {:.0} to {:.0} %, measure the water drawn, and watch it for {hold}",
                span(quick.wait_s.s()),
                100.0 * quick.shares.least,
                100.0 * quick.shares.most
            ),
            None => {
                let to = raise.show.p(raise.planned - lowering.usual_pa);
                format!("then lower it to {to}, valve off and disconnect; hold {hold} and look at every joint")
            }
        };
        return format!("keep it there for {rest}, pumped up as the wall stretches; {then}");
    }
    let lowered = raise.look.filter(|l| *l < raise.planned).map(|l| format!("lower to {} and ", raise.show.up(l)));
    match (raise.first_stop.is_some(), lowered) {
        (true, lowered) => format!(
            "shut the supply, stand off and let it settle {rest}; hold {hold} from a safe distance, then {}wet every joint and look for a growing bubble",
            lowered.unwrap_or_default()
        ),
        (false, _) => {
            format!("stop the pump, stand clear and let it settle {rest}, valve off and disconnect; hold {hold} and look at every joint")
        }
    }
}

/// The step to do next, given how many were booked as reached.
pub fn next(steps: &[Step], reached: usize) -> Option<&Step> {
    steps.get(reached)
}
