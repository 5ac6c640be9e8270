//! HAND: what is booked by hand beside the run's own course, and in which state of the run.

use crate::acts::{Situation, Stage};
use crate::low_gas;
use rules::rule::{Rule, Standing};
use terms::{EventKind, Term};

/// Rules of what is booked by hand.
pub const RULES: &[&Rule] = &[&PLACE, &MAINS, &FIGURE];

/// Where it belongs.
pub const PLACE: Rule = Rule {
    id: "HAND-PLACE",
    sentence: "What is booked by hand is booked in the state of the run that it belongs to: the low gas test before water, vents while it fills, strokes and mains while it is raised, a cure at zero, the lamp afterwards.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "hand_place_what_is_booked_by_hand_has_its_place",
};

/// Mains.
pub const MAINS: Rule = Rule {
    id: "HAND-MAINS",
    sentence: "Mains water may do the first part of the raise; it is shut and disconnected before anything is pumped.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "hand_mains_nothing_is_pumped_while_the_mains_are_on",
};

/// Figures.
pub const FIGURE: Rule = Rule {
    id: "HAND-FIGURE",
    sentence: "A booking with a figure is refused without it, outside what such a figure can be, and without the thing, place or person that it is about.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "hand_figure_every_booking_has_its_figure_and_what_it_is_about",
};

/// Most characters of what a booking is about.
const LONGEST: usize = 60;

/// What is missing or wrong in a booking: the field, and what to do.
pub fn incomplete(kind: EventKind, figure: Option<f64>, of: Option<&str>) -> Vec<(&'static str, String)> {
    let mut out = Vec::new();
    let named = of.unwrap_or_default().trim();
    match (kind.figure(), figure) {
        (None, Some(_)) => out.push(("figure", format!("\"{}\" is booked without a figure.", kind.words()))),
        (Some(_), None) => out.push(("figure", format!("{}: give it.", kind.asks().unwrap_or("A figure is missing")))),
        (Some(dimension), Some(value)) => out.extend(out_of_bounds(dimension, value).map(|why| ("figure", why))),
        (None, None) => {}
    }
    match kind.of() {
        None if of.is_some() => out.push(("of", format!("\"{}\" is about the whole: it names nothing.", kind.words()))),
        Some(asks) if named.is_empty() => out.push(("of", format!("{asks}? Write it down."))),
        Some(_) if named.chars().count() > LONGEST => out.push(("of", format!("Say it in {LONGEST} characters."))),
        _ => {}
    }
    out
}

/// Why a figure cannot be.
fn out_of_bounds(dimension: &str, value: f64) -> Option<String> {
    let (least, most, said) = match dimension {
        "gauge_pressure_pa" => (0.0, 1e8, "That is no pressure of a test: check figure and unit."),
        "temperature_c" => (-60.0, 300.0, "That is no temperature of water, metal or air here: check figure and unit."),
        "time_s" => (0.0, 172_800.0, "A time is above zero, and no more than two days: check figure and unit."),
        "volume_m3" => (0.0, 1e4, "That is no volume that was pumped: check figure and unit."),
        "length_m" => (0.0, 1.0, "That is no swelling and no deflection that can stand: check figure and unit."),
        _ => (0.0, 1e5, "A count is above zero, and no more than 100 000."),
    };
    let inside = if dimension == "temperature_c" { value >= least } else { value > least };
    (!(inside && value <= most)).then(|| said.to_owned())
}

const UNDER_WATER: &str = "Water is in it: the low gas test comes before it.";
const NOT_RAISED: &str = "Filling is not booked: it is filled and looked at before anything is pumped.";
const PUMPED: &str = "The pump is booked as off: what goes in from now on is a repump.";
const NOT_ZERO: &str =
    "It stands under pressure: nothing is touched. Release it and prove zero first, cure it, and begin again from the first step.";
const FILLED_ALREADY: &str = "It is booked as filled already.";
const NOT_OVER: &str = "The pressure is not booked as released: look inside when it is out.";
const NO_PRESSURE_YET: &str = "No step is booked: this is done under pressure.";

/// Why what is booked by hand has no place in a state; none where it has.
pub fn out_of_order(kind: EventKind, stage: Stage) -> Option<&'static str> {
    use EventKind as K;
    use Stage as S;
    let open = [S::Dry, S::Filled, S::Raising, S::Holding, S::Held].contains(&stage);
    let refused = |places: &[S], why: &'static str| (!places.contains(&stage)).then_some(why);
    match kind {
        _ if stage == S::Closed => Some("No test is open: release it for test first."),
        K::DripCured => refused(&[S::Dry, S::Filled, S::LetOut, S::Vented, S::Drained], NOT_ZERO),
        K::LampLooked => refused(&[S::LetOut, S::Vented, S::Drained], NOT_OVER),
        K::Swelled if !open => None,
        K::NippedUp | K::BeyondScale => None,
        _ if !open => Some("The pressure of this run was released: a new raise is a new attempt."),
        K::GasOn | K::Soaped | K::GasOff => refused(&[S::Dry], UNDER_WATER),
        K::FillBegun => refused(&[S::Dry], FILLED_ALREADY),
        K::VentRan => refused(&[S::Dry, S::Filled], "The raise has begun: the vents were shut before it."),
        K::MainsOn | K::MainsOff | K::Stroked | K::Pumped if stage == S::Dry => Some(NOT_RAISED),
        K::MainsOn | K::MainsOff | K::Stroked | K::Pumped => refused(&[S::Filled, S::Raising], PUMPED),
        K::Hammered | K::Swelled => refused(&[S::Raising, S::Holding, S::Held], NO_PRESSURE_YET),
        _ => None,
    }
}

/// True while the mains are on, from what was booked.
fn mains_on(booked: &[(EventKind, f64)]) -> bool {
    let last = |kind| booked.iter().filter(|b| b.0 == kind).map(|b| b.1).reduce(f64::max);
    last(EventKind::MainsOn).is_some_and(|on| last(EventKind::MainsOff).is_none_or(|off| off < on))
}

/// What else speaks against an act: the mains, and the low gas test.
pub fn against(kind: EventKind, now: &Situation<'_>) -> Vec<String> {
    use EventKind as K;
    let on = mains_on(&now.booked);
    let gas = low_gas::Stage::of(now.low_gas, &now.booked);
    match kind {
        K::Stroked | K::Pumped | K::PumpOff if on => {
            vec!["The mains supply is booked as on: shut and disconnect it, and book that, before the pump.".to_owned()]
        }
        K::MainsOn if on => vec!["The mains supply is booked as on already.".to_owned()],
        K::MainsOff if !on => vec!["The mains supply is not booked as on.".to_owned()],
        K::GasOn => gas_on(gas, now),
        K::Soaped | K::GasOff if !matches!(gas, low_gas::Stage::On { .. }) => {
            vec!["No gas is booked as in it: book its pressure first.".to_owned()]
        }
        K::FillBegun | K::VentRan | K::Filled if now.stage == Stage::Dry => gas.before_water().into_iter().collect(),
        _ => Vec::new(),
    }
}

fn gas_on(gas: low_gas::Stage, now: &Situation<'_>) -> Vec<String> {
    match (gas, now.low_gas) {
        (low_gas::Stage::On { .. }, _) => vec!["Gas is booked as in it already: let it out before it begins again.".to_owned()],
        (low_gas::Stage::Passed, _) => vec!["The low gas test has passed: fill it.".to_owned()],
        (_, None) => vec!["No low gas test is planned, or none is allowed here: no gas goes in.".to_owned()],
        (_, Some(planned)) => {
            let reached = now.figure.map(quantity::GaugePressure::from_pa);
            reached.and_then(|p| planned.against(p, now.say)).into_iter().collect()
        }
    }
}
