//! SCHEDULE: the raise in steps, as a curve with times and the next step in words.

use quantity::{GaugePressure, PressureDifference};
use rules::gauge::Gauge;
use rules::rule::{Rule, Standing};
use serde::{Deserialize, Serialize};

/// Rules of the schedule.
pub const RULES: &[&Rule] = &[&STEPS, &READ];

/// Steps.
pub const STEPS: Rule = Rule {
    id: "SCHEDULE",
    sentence: "The pressure is raised in steps with a look at each, and the last step ends at the planned pressure.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "every_schedule_ends_at_the_planned_pressure",
};

/// A step that was really reached.
pub const READ: Rule = Rule {
    id: "STEP-READ",
    sentence: "A step, and the end of pumping, is booked only when the gauge reads it; a reading of the last half minute counts.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "a_step_is_booked_only_when_the_gauge_reads_it",
};

/// How old a reading may be to say that a step was not reached, s.
pub const READ_WITHIN_S: f64 = 30.0;
/// How far below its target a step counts as reached, share of the target.
const STEP_SHORT: f64 = 0.02;

/// How far below a step the gauge may read when the step is booked: 2 % of it, or the error of the gauge where that is more.
pub fn step_may_be_short(target: GaugePressure, gauge: &Gauge) -> PressureDifference {
    PressureDifference::from_pa((STEP_SHORT * target.pa()).max(gauge.error().pa()))
}

/// Why a step, or the end of pumping, cannot be booked; none when the gauge reads what is wanted, or no more than `short` less.
pub fn not_read(wanted: GaugePressure, read: GaugePressure, short: PressureDifference, gauge: &Gauge) -> Option<String> {
    if (wanted - read).pa() <= short.pa() {
        return None;
    }
    let shown = |p: GaugePressure| {
        quantity::format::gauge_pressure(p, gauge.unit, quantity::format::decimals_of(gauge.division_pa.pa() / gauge.unit.pa()))
    };
    Some(format!(
        "{} reads {}, and {} is to be reached: pump on, or stop and release the pressure. If the gauge is wrong, say so under what happened, and stop.",
        gauge.tag,
        shown(read),
        shown(wanted)
    ))
}

/// Schedules that ship.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ScheduleName {
    /// 25, 50, 75, 100 %; check at each
    #[default]
    Quarters,
    /// 40 (5 min), 70 (5 min), 100 %
    ThreeStage,
    /// half, working pressure, test
    SmallBoiler,
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

/// Default time of the whole raise at a steady rate, s.
pub(crate) const RAISE_S: f64 = 600.0;
/// Default settling before the hold's clock starts, s.
const SETTLE_S: f64 = 600.0;

/// Shares of the planned pressure with the least time at each, s.
fn shares(name: ScheduleName, working: GaugePressure, planned: GaugePressure) -> Vec<(f64, f64)> {
    match name {
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
pub fn steps(name: ScheduleName, planned: GaugePressure, working: GaugePressure, division: PressureDifference, hold_s: f64) -> Vec<Step> {
    let span = quantity::format::span;
    let (mut at, mut before) = (0.0, GaugePressure::from_pa(0.0));
    let plan = shares(name, working, planned);
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
            let words = format!(
                "stop the pump, stand clear and let it settle {}, valve off and disconnect; hold {} and look at every joint",
                span(rest),
                span(hold_s)
            );
            (rest + hold_s, words)
        } else {
            (rest, format!("stop the pump, hold {}, look", span(rest)))
        };
        let ends_s = reached_s + hold;
        steps.push(Step { number: steps.len() + 1, target_pa: target, hold_s: hold, raise_from_s: at, reached_s, ends_s, words });
        (at, before) = (ends_s, target);
    }
    steps
}

/// The step to do next, given how many were booked as reached.
pub fn next(steps: &[Step], reached: usize) -> Option<&Step> {
    steps.get(reached)
}
