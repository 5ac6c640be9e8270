//! The day by the clock: what follows what, and how long each takes.

use crate::schedule::{self, Step};
use quantity::Span;
use rules::rule::{Rule, Standing};
use rules::system::{Derived, System};
use serde::{Deserialize, Serialize};

/// Rules of the clock.
pub const RULES: &[&Rule] = &[&CLOCK];

/// The day.
pub const CLOCK: Rule = Rule {
    id: "DAY-CLOCK",
    sentence: "The day is what the source needs to fill, the vents to run clear, the water to soak, the pump to raise, the steps and the hold to last, the joints to be looked at and the line to drain, one after the other.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "day_clock_the_day_adds_up",
};

/// Time for which vents run free of bubbles (common practice).
const VENTING: Span = Span::from_s(300.0);
/// Time for which people stand clear at pressure before they look (common practice).
pub const STAND_CLEAR: Span = Span::from_s(600.0);
/// Time of a look at every joint for each part listed, and its least, where nothing better is known (common practice).
const LOOK_EACH: Span = Span::from_s(60.0);
const LOOK_LEAST: Span = Span::from_s(600.0);

/// One part of the day.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct DayPart {
    /// What is done.
    pub what: String,
    /// How long it takes, s; absent where something must be entered first.
    #[schema(value_type = Option<f64>)]
    pub lasts_s: Option<Span>,
    /// When it starts, s after the start of filling, as far as is known.
    #[schema(value_type = f64)]
    pub starts_s: Span,
    /// Where the length comes from, or what to enter.
    pub from: String,
}

/// The day of a test; empty while its window is.
pub fn day(system: &System, derived: &Derived, schedule: &[Step], hold: Span) -> Vec<DayPart> {
    let Some(day) = &derived.day else { return vec![] };
    let gas = system.basis.medium.gas().is_some();
    let mut all: Vec<DayPart> = Vec::new();
    let mut at = Span::from_s(0.0);
    let mut then = |what: String, lasts: Option<Span>, from: &str, enter: &str| {
        all.push(DayPart { what, lasts_s: lasts, starts_s: at, from: if lasts.is_some() { from } else { enter }.to_owned() });
        at = at + lasts.unwrap_or(Span::from_s(0.0));
    };
    let of = |key: &str, place: usize| {
        let line = derived.lines.iter().find(|l| l.key == key)?;
        line.figures.get(place).filter(|f| f.amount.dimension == rules::derivation::Dimension::TimeS).map(|f| Span::from_s(f.amount.value))
    };
    if !gas {
        then("Fill".to_owned(), of("fill", 1), "volume over the flow of the source", "enter the flow of the source");
        then("Let every vent run free of bubbles".to_owned(), Some(VENTING), "common practice", "");
        then(
            "Soak".to_owned(),
            // no time is the answer where both are as warm; no answer where nobody said how warm they are
            of("soak", 0).or_else(|| derived.time_constant_s.zip(system.site.surroundings_c).map(|_| Span::ZERO)),
            &format!("to within {} of the surroundings, in still air", system.say().warming(quantity::TemperatureDifference::from_k(1.0))),
            if derived.time_constant_s.is_none() {
                "enter diameter, wall and material of the pipes"
            } else {
                "enter how warm the surroundings are, or leave it overnight"
            },
        );
    }
    if let Some(last) = schedule.last() {
        // the schedule raises in its own time; a pump that needs longer makes the day longer
        let pumping = system.site.pump_flow_m3_per_s.zip(derived.pumped_with_air_m3).map_or(0.0, |(q, v)| v.m3() / q.m3_per_s());
        let lasts = Span::from_s(last.ends_s - hold.s() + (pumping - schedule::RAISE_S).max(0.0));
        let shown = system.at_gauge().up(day.planned_pa);
        then(format!("Raise to {shown} in {} steps and settle", schedule.len()), Some(lasts), "steps and rests of the schedule", "");
    }
    then("Stand clear".to_owned(), Some(STAND_CLEAR), "common practice", "");
    then("Hold".to_owned(), Some(hold), "basis, owner and project", "");
    let look = Span::from_s((LOOK_EACH.s() * system.parts.len() as f64).max(LOOK_LEAST.s()));
    let shown = system.at_gauge().up(day.look_pa);
    then(format!("Look at every joint at {shown}"), Some(look), "a minute a part listed, 10 minutes at least", "");
    if !gas {
        then("Vent and drain".to_owned(), of("drain", 0), "volume over what the drain passes", "enter its bore");
    }
    all
}
