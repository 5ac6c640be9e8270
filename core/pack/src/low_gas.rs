//! LOW-GAS: the low gas test before the liquid goes in, as it was made.

use quantity::{GaugePressure, Span};
use rules::rule::{Rule, Standing};
use rules::say::Say;
use terms::EventKind;

/// Rules of how it is made.
pub const RULES: &[&Rule] = &[&RULE];

/// Made and passed before filling.
pub const RULE: Rule = Rule {
    id: "LOW-GAS",
    sentence: "A low gas test that is planned is made before filling: at its pressure and never above its cap, for ten minutes, every joint looked at for bubbles, no leak left, and the gas let out; what leaks is repaired dry at zero, and the test begins again.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "low_gas_a_planned_low_gas_test_is_passed_before_filling",
};

/// For how long it is held and looked at (common practice).
pub const HELD: Span = Span::from_s(600.0);
/// So far below its pressure it counts as reached.
const SHORT: f64 = 0.05;

/// A low gas test that is planned, and may be made.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Planned {
    /// Its pressure.
    pub pressure: GaugePressure,
    /// What it never exceeds.
    pub cap: GaugePressure,
}

impl Planned {
    /// Why a pressure is not that of the test.
    pub fn against(&self, reached: GaugePressure, say: Say) -> Option<String> {
        if reached > self.cap {
            return Some(format!(
                "{} is above the cap of {}: let it down to {} or less, and book what it stands at then. Note that it was overshot.",
                say.p(reached),
                say.down(self.cap),
                say.down(self.cap)
            ));
        }
        (reached < self.pressure.times(1.0 - SHORT))
            .then(|| format!("{} is planned, and {} is less: raise it to that, or change the plan.", say.p(self.pressure), say.p(reached)))
    }
}

/// How far it has come.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Stage {
    /// none is planned
    NotPlanned,
    /// no gas is in
    ToDo {
        /// the pressure to raise it to
        pressure: GaugePressure,
        /// what the one that was made lacks
        lacks: Option<Lack>,
    },
    /// gas is in
    On {
        /// since when, s from the release
        since_s: f64,
        /// every joint was looked at
        looked: bool,
        /// a leak was seen
        leaks: bool,
    },
    /// it passed, and the gas is out
    Passed,
}

/// What a low gas test lacked that was let out.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Lack {
    /// it leaked
    Leaked,
    /// nobody looked for bubbles
    Look,
    /// it was let out before its time
    Time,
}

impl Lack {
    const fn words(self) -> &'static str {
        match self {
            Self::Leaked => "the one that was made leaked: repair it dry, at zero, and begin it again",
            Self::Look => "the one that was made was let out before every joint was looked at for bubbles: begin it again",
            Self::Time => "the one that was made was let out before its ten minutes were over: begin it again",
        }
    }
}

impl Stage {
    /// From the plan, and what was booked with its times, s from the release.
    pub fn of(planned: Option<Planned>, booked: &[(EventKind, f64)]) -> Self {
        use EventKind as K;
        let Some(planned) = planned else { return Self::NotPlanned };
        let last = |kind| booked.iter().filter(|b| b.0 == kind).map(|b| b.1).reduce(f64::max);
        let to_do = |lacks| Self::ToDo { pressure: planned.pressure, lacks };
        let Some(on) = last(K::GasOn) else { return to_do(None) };
        let off = last(K::GasOff).filter(|off| *off >= on);
        let upto = off.unwrap_or(f64::INFINITY);
        let within = |kind| booked.iter().any(|b| b.0 == kind && b.1 >= on && b.1 <= upto);
        let (looked, leaks) = (within(K::Soaped), within(K::LeakSeen));
        match off {
            None => Self::On { since_s: on, looked, leaks },
            Some(_) if leaks => to_do(Some(Lack::Leaked)),
            Some(_) if !looked => to_do(Some(Lack::Look)),
            Some(off) if off - on < HELD.s() => to_do(Some(Lack::Time)),
            Some(_) => Self::Passed,
        }
    }

    /// Why water does not go in yet; none where it may.
    pub fn before_water(&self) -> Option<String> {
        match self {
            Self::NotPlanned | Self::Passed => None,
            Self::On { .. } => Some("Gas is in it: let it out, prove zero, and book that before any water.".to_owned()),
            Self::ToDo { lacks: None, .. } => Some(
                "A low gas test is planned before wetting, and none is booked: make it, or take it off the plan and release anew."
                    .to_owned(),
            ),
            Self::ToDo { lacks: Some(lack), .. } => Some(format!("The low gas test has not passed: {}.", lack.words())),
        }
    }

    /// What to do next in it; none where there is nothing to do.
    pub fn instruction(&self, now_s: f64, say: Say) -> Option<String> {
        match *self {
            Self::NotPlanned | Self::Passed => None,
            Self::ToDo { pressure, lacks } => {
                let again = lacks.map_or_else(String::new, |l| format!(" {}.", quantity::format::capital(l.words())));
                Some(format!(
                    "Low gas test first: check every joint by hand, raise it slowly to {} with nobody near, shut the supply, and book it.{again}",
                    say.p(pressure)
                ))
            }
            Self::On { leaks: true, .. } => Some(
                "It leaks: look for all the others while it stands, then let the gas out. Repair it dry, at zero, and begin the low gas test again."
                    .to_owned(),
            ),
            Self::On { looked: false, .. } => Some("Soap every joint, or watch it under water, and book that you looked.".to_owned()),
            Self::On { since_s, .. } if now_s < since_s + HELD.s() => Some("No bubbles so far: watch until its ten minutes are over.".to_owned()),
            Self::On { .. } => Some("It held: let the gas out, prove zero, and book that. Then fill.".to_owned()),
        }
    }
}
