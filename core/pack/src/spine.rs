//! The spine: ten steps in the order of the work, each with its state in words.

use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

/// The ten steps.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum StepName {
    /// what the test must show
    #[strum(message = "Prove")]
    Prove,
    /// the window
    #[strum(message = "Derive")]
    Derive,
    /// ends, blinds, removed items
    #[strum(message = "Bound")]
    Bound,
    /// gates
    #[strum(message = "Ready")]
    Ready,
    /// filling and venting
    #[strum(message = "Fill")]
    Fill,
    /// steps of pressure
    #[strum(message = "Raise")]
    Raise,
    /// the hold
    #[strum(message = "Hold")]
    Hold,
    /// finding and verdict
    #[strum(message = "Judge")]
    Judge,
    /// release, drain, put back
    #[strum(message = "Restore")]
    Restore,
    /// signatures and seal
    #[strum(message = "Sign")]
    Sign,
}

/// State of a step.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum StepState {
    /// done
    Done,
    /// something stands against it here
    Owes,
    /// what comes next now
    Now,
    /// not yet begun
    Waiting,
    /// nothing to do for this job
    Collapsed,
}

/// One step as shown.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct SpineStep {
    /// Which.
    pub step: StepName,
    /// State.
    pub state: StepState,
    /// A few words under the name.
    pub words: String,
}

/// How Derive stands.
#[derive(Debug, Clone, PartialEq)]
pub enum DeriveStands {
    /// a pressure is planned
    Planned {
        /// "25.7 bar"
        pressure: String,
        /// tag of the gauge
        gauge: String,
    },
    /// it is derived, and things stand against it
    Stopped {
        /// how many
        things: usize,
    },
    /// no gauge reading suits every part
    Conflict,
    /// there is nothing to derive it for
    NoParts,
    /// something is missing
    Missing {
        /// how many things
        things: usize,
    },
}

impl DeriveStands {
    fn words(&self) -> String {
        match self {
            Self::Planned { pressure, gauge } => format!("{pressure} at {gauge}"),
            Self::Stopped { things } => stop_it(*things),
            Self::Conflict => "no pressure suits every part".to_owned(),
            Self::NoParts => "no parts yet".to_owned(),
            Self::Missing { things: 0 | 1 } => "nothing can be derived: 1 thing is missing".to_owned(),
            Self::Missing { things } => format!("nothing can be derived: {things} things are missing"),
        }
    }
}

fn stop_it(things: usize) -> String {
    if things == 1 { "1 thing stops it".to_owned() } else { format!("{things} things stop it") }
}

/// What the spine is made from.
#[derive(Debug, Clone, PartialEq)]
pub struct SpineFacts {
    /// Who relies on the result is named.
    pub proven_to: bool,
    /// Few words on the claim.
    pub claim_words: String,
    /// How many things stand against what Prove says.
    pub against_prove: usize,
    /// How Derive stands.
    pub derive: DeriveStands,
    /// Boundary items: set, all.
    pub boundary: (usize, usize),
    /// Gates: ready, all, and the first that is not.
    pub gates: (usize, usize, String),
    /// Time of release, in words; empty before.
    pub released_for_test: String,
    /// Filled.
    pub filled: bool,
    /// Steps reached, all.
    pub raise: (usize, usize),
    /// The hold: started, in words; ended.
    pub hold_since: String,
    /// Hold ended.
    pub hold_ended: bool,
    /// Let out before it was held: nobody fills, raises or holds any more.
    pub stopped: bool,
    /// Verdict in words; empty before the hold.
    pub verdict: String,
    /// Restore lines: done, all.
    pub restore: (usize, usize),
    /// Signatures: done, all.
    pub signed: (usize, usize),
}

/// The ten steps with their states.
pub fn spine(f: &SpineFacts) -> Vec<SpineStep> {
    use StepState::{Collapsed, Done, Now, Owes, Waiting};
    let running = !f.released_for_test.is_empty();
    // once it is held nobody fills or raises any more, whatever was booked of it
    let held = !f.hold_since.is_empty() || f.hold_ended;
    let over = f.hold_ended || f.stopped;
    let wait_or = |begun: bool, state: StepState| if begun { state } else { Waiting };
    let of = |done: usize, all: usize| format!("{done} of {all}");
    let line = |step, state, words: String| SpineStep { step, state, words };
    vec![
        line(
            StepName::Prove,
            if f.proven_to && f.against_prove == 0 { Done } else { Owes },
            match f.against_prove {
                _ if !f.proven_to => "who relies on it?".to_owned(),
                0 => f.claim_words.clone(),
                n => stop_it(n),
            },
        ),
        line(StepName::Derive, if matches!(f.derive, DeriveStands::Planned { .. }) { Done } else { Owes }, f.derive.words()),
        line(
            StepName::Bound,
            if f.boundary.1 == 0 {
                Collapsed
            } else if f.boundary.0 == f.boundary.1 {
                Done
            } else {
                Owes
            },
            if f.boundary.1 == 0 { "nothing put in or taken out".to_owned() } else { format!("{} set", of(f.boundary.0, f.boundary.1)) },
        ),
        line(
            StepName::Ready,
            if running {
                Done
            } else if f.gates.0 == f.gates.1 {
                Now
            } else {
                Owes
            },
            if running {
                format!("released {}", f.released_for_test)
            } else if f.gates.0 == f.gates.1 {
                "ready to release".to_owned()
            } else {
                f.gates.2.clone()
            },
        ),
        line(
            StepName::Fill,
            match () {
                () if f.filled || held => Done,
                () if f.stopped => Collapsed,
                () => wait_or(running, Now),
            },
            match () {
                () if f.filled => "vented".to_owned(),
                () if held => "not booked".to_owned(),
                () if f.stopped => "stopped before".to_owned(),
                () => String::new(),
            },
        ),
        line(
            StepName::Raise,
            match () {
                () if held || f.raise.1 > 0 && f.raise.0 >= f.raise.1 => Done,
                () if f.stopped => Collapsed,
                () => wait_or(running && f.filled, Now),
            },
            match () {
                () if f.stopped => format!("stopped at {} steps", of(f.raise.0, f.raise.1)),
                () if running => format!("{} steps", of(f.raise.0, f.raise.1)),
                () => String::new(),
            },
        ),
        line(
            StepName::Hold,
            match () {
                () if f.hold_ended => Done,
                () if f.stopped => Collapsed,
                () => wait_or(!f.hold_since.is_empty(), Now),
            },
            match () {
                () if !f.hold_since.is_empty() => format!("since {}", f.hold_since),
                () if f.stopped => "not held".to_owned(),
                () => String::new(),
            },
        ),
        line(StepName::Judge, if over { Done } else { Waiting }, f.verdict.clone()),
        line(
            StepName::Restore,
            if over && f.restore.0 == f.restore.1 { Done } else { wait_or(over, Now) },
            if running { of(f.restore.0, f.restore.1) } else { String::new() },
        ),
        line(
            StepName::Sign,
            if f.signed.0 == f.signed.1 { Done } else { wait_or(f.signed.0 > 0 || (over && f.restore.0 == f.restore.1), Now) },
            of(f.signed.0, f.signed.1),
        ),
    ]
}
