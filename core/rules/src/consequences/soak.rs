//! How long water and metal take to follow their surroundings.

use super::line::Draft;
use super::lines::Facts;
use crate::derivation::{Amount, Derivation, Dimension};
use crate::rule::{Rule, Standing};
use quantity::{Span, TemperatureDifference};

/// Soak.
pub const SOAK: Rule = Rule {
    id: "SOAK",
    sentence: "Water and metal soak until they are within 1 K of the surroundings; together they follow them as a first-order system. No hours are said of temperatures that nobody gave.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "worked_soak",
};

/// What may be left.
const REST: TemperatureDifference = TemperatureDifference::from_k(1.0);
/// Longer than this, warming the water is quicker.
const LONG: Span = Span::from_s(24.0 * 3600.0);

/// Time until the water is within 1 K of its surroundings; none where nobody said how warm these are, or where no pipe is known.
pub(crate) fn time(system: &crate::system::System, time_constant: Option<Span>) -> Option<(Span, TemperatureDifference)> {
    let tau = time_constant?;
    let source = system.site.source_c.unwrap_or(system.water_temperature_c);
    let apart = (system.site.surroundings_c? - source).abs();
    if apart <= REST {
        return Some((Span::from_s(0.0), apart));
    }
    Some((physics::heat::soak_time(tau, apart, REST), apart))
}

pub(super) fn lines(f: &Facts) -> Option<Draft> {
    if f.demand.gas {
        return None;
    }
    let tau = f.d.time_constant_s?;
    let Some((time, apart)) = time(f.system, f.d.time_constant_s) else {
        return Some(Draft::new(
            "soak",
            "fill",
            "Is it warm enough?",
            "Nobody said how warm source and surroundings are. Fill in time, overnight where the water comes cold; or read both when it is full, and the wait is said then.",
        ));
    };
    let why = Derivation::new("time to soak", &SOAK, Amount::new(time.s(), Dimension::TimeS), "t = τ · ln(ΔT / δ)")
        .with(
            "τ",
            "time constant of the slowest bare pipe",
            Amount::new(tau.s(), Dimension::TimeS),
            "water and wall over a film of still air, 10 W/m²K",
        )
        .with("ΔT", "water and surroundings apart", Amount::new(apart.k(), Dimension::TemperatureDifferenceK), "as entered")
        .with("δ", "what may be left", Amount::new(REST.k(), Dimension::TemperatureDifferenceK), "default, common practice")
        .would_change("Warmer water, wind, or a smaller bore.");
    let freezing = f.system.site.surroundings_c.filter(|s| f.system.liquid.is_none() && s.c() < 2.0).map(|s| {
        format!("The surroundings are at {}: water freezes in small bores and drains. Add no antifreeze that the basis does not know; wait, warm, or test with something else.", f.system.say().temperature(s))
    });
    if time.s() <= 0.0 {
        let line = Draft::new("soak", "fill", "Is it warm enough?", "Yes: water and surroundings are {0} apart.")
            .other(apart.k(), Dimension::TemperatureDifferenceK);
        return Some(line.trouble(freezing).why(why));
    }
    let long = (time > LONG).then(|| "That is more than a day: warm the water to the surroundings instead.".to_owned());
    let line = Draft::new("soak", "fill", "Is it warm enough?", "Wait: {0} for {1} to {2}, in still air.")
        .time(time)
        .other(apart.k(), Dimension::TemperatureDifferenceK)
        .other(REST.k(), Dimension::TemperatureDifferenceK);
    Some(line.trouble(freezing.or(long)).why(why))
}
