//! ACT: which act is refused in which state of a run, and at which recorded pressure.
//!
//! One pure function says it, all objections at once. Bad news (a leak, a note) is never refused; letting out is refused only where the gauge
//! says that it has not happened.

use crate::{by_hand, low_gas};
use quantity::{GaugePressure, PressureDifference};
use rules::rule::{Rule, Standing};
use rules::say::Say;
use terms::EventKind;
use terms::Term;

/// Rules of acts.
pub const RULES: &[&Rule] = &[&ORDER, &ZERO, &PRESSURE, &TIME, &BOUNDARY];

/// The order.
pub const ORDER: Rule = Rule {
    id: "ACT-ORDER",
    sentence: "An act is booked only in the state of the run that it belongs to: filled before raised, pump off before the hold ends, released before vented, vented before drained.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "act_order_every_act_in_every_state",
};

/// Zero.
pub const ZERO: Rule = Rule {
    id: "ACT-ZERO",
    sentence: "Zero is proved by every gauge: no more than the column above it and its own error, a live gauge for half a minute; without a live gauge by a reading typed within ten minutes, without any by a person's word, told as that.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "act_zero_zero_is_proved_by_every_gauge_or_by_word",
};

/// Acts against the pressure.
pub const PRESSURE: Rule = Rule {
    id: "ACT-PRESSURE",
    sentence: "An act that the recorded pressure contradicts is refused with the reading: filled and looked at under more than the column, a step far below or beyond it, pumping ended above the limit, a look or a bleed at zero.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "act_pressure_every_act_at_every_pressure",
};

/// Times.
pub const TIME: Rule = Rule {
    id: "ACT-TIME",
    sentence: "An act is never before what it presupposes.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "act_time_no_act_is_before_what_it_presupposes",
};

/// Blinds and removed items.
pub const BOUNDARY: Rule = Rule {
    id: "ACT-BOUNDARY",
    sentence: "While a system is filled or under pressure nothing at its boundary is changed; what was in during a run is only ever booked out.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "act_boundary_nothing_at_the_boundary_changes_under_pressure",
};

/// How old a reading may be to count for an act, s.
pub const READ_WITHIN_S: f64 = 30.0;
/// How long a live gauge shows zero before zero is proved, s (common practice: a section that fills again behind a valve shows within it).
pub const ZERO_FOR_S: f64 = 30.0;
/// How old a typed reading may be to prove zero, s.
pub const TYPED_WITHIN_S: f64 = 600.0;
/// How far beside its target a step counts as reached, share of the target.
const STEP_OFF: f64 = 0.02;
/// How far beyond its target a step may be overshot and still be that step, share of the target; never half-way to the next.
const STEP_OVERSHOT: f64 = 0.1;
/// Below this share of the lower bound it is no repump but a new raise.
const NEW_RAISE: f64 = 0.5;

/// How far a run has come.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Stage {
    /// no run is open
    Closed,
    /// released for test, nothing booked
    Dry,
    /// filled and vented
    Filled,
    /// at least one step was reached
    Raising,
    /// the pump is off
    Holding,
    /// the hold is ended
    Held,
    /// the pressure is let out
    LetOut,
    /// the high vent is open
    Vented,
    /// drained
    Drained,
}

impl Stage {
    /// All of them, in order.
    pub const ALL: [Self; 9] =
        [Self::Closed, Self::Dry, Self::Filled, Self::Raising, Self::Holding, Self::Held, Self::LetOut, Self::Vented, Self::Drained];

    /// Of a run that is open, from what was booked.
    pub fn of(booked: &[EventKind]) -> Self {
        use EventKind as K;
        let stages = [
            (K::Drained, Self::Drained),
            (K::AirProved, Self::Drained),
            (K::VentOpened, Self::Vented),
            (K::Released, Self::LetOut),
            (K::HoldEnded, Self::Held),
            (K::PumpOff, Self::Holding),
            (K::StepReached, Self::Raising),
            (K::Filled, Self::Filled),
        ];
        stages.into_iter().find(|(kind, _)| booked.contains(kind)).map_or(Self::Dry, |s| s.1)
    }

    /// True once the pressure of the run was let out.
    pub fn let_out(self) -> bool {
        matches!(self, Self::LetOut | Self::Vented | Self::Drained)
    }
}

/// What is done to an item at the boundary.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum BoundaryAct {
    /// a new item, or one that is set for the test
    Set,
    /// an item that was not in during any run is renamed, moved, or booked as not set
    Change,
    /// the same of one with which a run was released, and that is not back
    ChangeOwed,
    /// the blind is out, the item is back
    PutBack,
}

impl BoundaryAct {
    /// All of them.
    pub const ALL: [Self; 4] = [Self::Set, Self::Change, Self::ChangeOwed, Self::PutBack];
}

/// What is known of a gauge at the time of an act.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Known {
    /// recorded by itself; `zero_for_s` is for how long it has read zero
    Live {
        /// reading
        pressure: GaugePressure,
        /// s
        zero_for_s: f64,
    },
    /// typed by a person
    Typed {
        /// reading
        pressure: GaugePressure,
        /// how long before the act, s
        ago_s: f64,
    },
    /// nothing
    Nothing,
}

/// A gauge of the run.
#[derive(Debug, Clone, PartialEq)]
pub struct GaugeRead {
    /// Tag.
    pub tag: String,
    /// What it reads with the high vent open: the column above it.
    pub column: PressureDifference,
    /// Its error (95 %), or its division where that is more.
    pub error: PressureDifference,
    /// At the time of the act.
    pub known: Known,
    /// The greatest that was read after that time, where an act is booked afterwards.
    pub after: Option<GaugePressure>,
}

impl GaugeRead {
    /// The most that it may read at zero.
    pub fn zero(&self) -> GaugePressure {
        GaugePressure::from_pa(self.column.pa().max(0.0) + self.error.pa())
    }

    /// What it reads, where that is recent enough to speak against an act.
    fn reading(&self) -> Option<GaugePressure> {
        match self.known {
            Known::Live { pressure, .. } => Some(pressure),
            Known::Typed { pressure, ago_s } if ago_s <= READ_WITHIN_S => Some(pressure),
            _ => None,
        }
    }

    /// True when it says that there is pressure.
    pub fn under_pressure(&self) -> bool {
        self.reading().is_some_and(|p| p > self.zero())
    }
}

/// A pressure to be reached.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Target {
    /// Reading.
    pub pressure: GaugePressure,
    /// How far below it still counts.
    pub short: PressureDifference,
    /// How far above it still counts.
    pub beyond: PressureDifference,
}

impl Target {
    /// A step of the raise: 2 % short of it, and beyond it by a tenth but less than half-way to the next; the error of the gauge in any case.
    pub fn step(pressure: GaugePressure, next: Option<GaugePressure>, error: PressureDifference) -> Self {
        let half_way = next.map_or(f64::INFINITY, |n| 0.5 * (n - pressure).pa());
        let at_least = |pa: f64| PressureDifference::from_pa(pa.max(error.pa()));
        Self { pressure, short: at_least(STEP_OFF * pressure.pa()), beyond: at_least((STEP_OVERSHOT * pressure.pa()).min(half_way)) }
    }

    /// Where pumping may end: not below it, save by so much.
    pub const fn least(pressure: GaugePressure, short: PressureDifference) -> Self {
        Self { pressure, short, beyond: PressureDifference::from_pa(f64::INFINITY) }
    }
}

/// Everything that an act is held against.
pub struct Situation<'a> {
    /// How far the run has come.
    pub stage: Stage,
    /// Gauges, the one that the test is read from first.
    pub gauges: Vec<GaugeRead>,
    /// The step to reach next; none once all are.
    pub step: Option<Target>,
    /// Where pumping may end.
    pub pump_off: Option<Target>,
    /// Upper bound at the first gauge.
    pub upper: Option<GaugePressure>,
    /// What was booked, with its time, s from the release.
    pub booked: Vec<(EventKind, f64)>,
    /// Time of the act, s from the release.
    pub at_s: f64,
    /// What the person wrote.
    pub word: &'a str,
    /// The figure that the act is booked with, SI.
    pub figure: Option<f64>,
    /// The low gas test that is planned and may be made.
    pub low_gas: Option<low_gas::Planned>,
    /// How pressures are said.
    pub say: Say,
    /// How times are said.
    pub clock: &'a dyn Fn(f64) -> String,
}

/// What a note begins with where zero was proved by nothing but a person's word.
pub const BY_WORD: &str = "By word, no gauge was read: ";

impl Situation<'_> {
    /// True when the gauge that the test is read from was not read lately, so that zero there rests on a person's word, whatever others read.
    pub fn by_word(&self) -> bool {
        !self.gauges.first().is_some_and(|g| match g.known {
            Known::Live { .. } => true,
            Known::Typed { ago_s, .. } => ago_s <= TYPED_WITHIN_S,
            Known::Nothing => false,
        })
    }
}

const OPENED: &str = "The pressure of this run was released: a new raise is a new attempt.";

/// Why an act is out of order in a state; none where it has its place.
pub fn out_of_order(kind: EventKind, stage: Stage) -> Option<&'static str> {
    use EventKind as K;
    use Stage as S;
    match (kind, stage) {
        (K::LeakSeen | K::Noted, _) => None,
        (kind, stage) if kind.by_hand() => by_hand::out_of_order(kind, stage),
        (_, S::Closed) => Some("No test is open: release it for test first."),
        (K::Released, s) if s.let_out() => Some("The pressure is booked as released already."),
        (K::Released, _) => None,
        (K::VentOpened, s) if !s.let_out() => {
            Some("The pressure is not booked as released: release it, prove zero in every section, and book that first.")
        }
        (K::VentOpened, S::LetOut) => None,
        (K::VentOpened, _) => Some("The high vent is booked as open already."),
        (K::Drained | K::AirProved, S::Vented) => None,
        (K::AirProved, S::Drained) => Some("Air to breathe is booked as proved already."),
        (K::AirProved, S::LetOut) => Some("The vent is not booked as open: open it to the outside first."),
        (K::AirProved, _) => {
            Some("The pressure is not booked as released: let the gas out, prove zero in every section, and book that first.")
        }
        (K::Drained, S::Drained) => Some("It is booked as drained already."),
        (K::Drained, S::LetOut) => {
            Some("The high vent is not booked as open: open it before draining, or the falling column pulls a vacuum.")
        }
        (K::Drained, _) => Some("The pressure is not booked as released: release it, prove zero in every section, and book that first."),
        (_, s) if s.let_out() => Some(OPENED),
        (K::Filled, S::Dry | S::Filled) => None,
        (K::Filled, _) => Some("The raise has begun, so it was filled before."),
        (K::StepReached | K::PumpOff | K::LookDone | K::ValveProved, S::Dry) => {
            Some("Filling is not booked: fill and vent it, look at every joint with only the column on it, and book that first.")
        }
        (K::Repump | K::Bleed, S::Dry) => Some("It is not booked as filled: there is nothing to pump up or to bleed."),
        (K::StepReached, S::Filled | S::Raising) => None,
        (K::StepReached, _) => Some("The pump is booked as off: what is pumped from now on is a repump."),
        (K::PumpOff, S::Filled | S::Raising) => None,
        (K::PumpOff, _) => Some("The pump is booked as off already."),
        (K::LookDone | K::Bleed, _) => None,
        (K::ValveProved, S::Filled | S::Raising) => None,
        (K::ValveProved, _) => Some("The hold has begun: the valve on the pump's side is proved before it. Note what you found instead."),
        (K::Repump, S::Filled | S::Raising) => Some("The pump is not booked as off, so this is the raise and no repump: book the step."),
        (K::Repump, S::Held) => Some("The hold is ended: what is pumped up now is a new attempt. Release the pressure first."),
        (K::Repump, _) => None,
        (K::HoldEnded, S::Holding) => None,
        (K::HoldEnded, S::Held) => Some("The hold is booked as ended already."),
        (K::HoldEnded, _) => {
            Some("No hold has begun: the pump is not booked as off. Book that first, or release the pressure to end the run.")
        }
        // by hand: said above
        _ => None,
    }
}

/// Events that an act comes after, whenever it is booked.
const fn presupposes(kind: EventKind) -> &'static [EventKind] {
    use EventKind as K;
    match kind {
        K::Filled => &[K::FillBegun, K::GasOff],
        K::FillBegun => &[K::GasOff],
        K::Soaped | K::GasOff => &[K::GasOn],
        K::MainsOff => &[K::MainsOn],
        K::Stroked | K::Pumped | K::MainsOn => &[K::Filled],
        K::StepReached => &[K::Filled, K::StepReached],
        K::PumpOff | K::LookDone | K::Bleed | K::ValveProved => &[K::Filled, K::StepReached],
        K::Repump => &[K::PumpOff],
        K::HoldEnded => &[K::PumpOff, K::Repump],
        K::Released => &[K::Filled, K::StepReached, K::PumpOff, K::Repump, K::HoldEnded],
        K::VentOpened => &[K::Released],
        K::Drained | K::AirProved => &[K::Released, K::VentOpened],
        K::LampLooked => &[K::Released],
        // bad news, and what says nothing of the order
        _ => &[],
    }
}

/// Why an event of a run is refused; empty when it may be booked.
pub fn objections(kind: EventKind, now: &Situation<'_>) -> Vec<String> {
    if let Some(order) = out_of_order(kind, now.stage) {
        return vec![order.to_owned()];
    }
    too_early(kind, now).into_iter().chain(against_the_gauge(kind, now)).chain(by_hand::against(kind, now)).collect()
}

/// Why the time of an act cannot be.
fn too_early(kind: EventKind, now: &Situation<'_>) -> Option<String> {
    let after = now.booked.iter().filter(|b| presupposes(kind).contains(&b.0)).max_by(|a, b| a.1.total_cmp(&b.1))?;
    (now.at_s < after.1 - 0.5)
        .then(|| format!("\"{}\" is booked at {}: this cannot have been before it. Check the time.", after.0.words(), (now.clock)(after.1)))
}

fn against_the_gauge(kind: EventKind, now: &Situation<'_>) -> Vec<String> {
    use EventKind as K;
    let Some(first) = now.gauges.first() else { return vec![] };
    let say = now.say;
    let Some(read) = first.reading() else {
        // another gauge may still say that there is pressure
        return if matches!(kind, K::Released | K::VentOpened | K::Drained | K::AirProved | K::GasOff) { not_zero(now) } else { vec![] };
    };
    let reads = format!("{} reads {}", first.tag, say.p(read));
    let empty = || format!("{reads}, which is no pressure");
    let one = |sentence: String| vec![sentence];
    match kind {
        K::Filled if read > first.zero() => one(format!(
            "{reads}. With the vents just closed and only the water's weight on it, it reads no more than {}: let it down before you book the look, or \
             give the time at which it stood so.",
            say.down(first.zero())
        )),
        K::StepReached => match now.step {
            None => one("Every step is booked: valve off, disconnect the pump, and book that.".to_owned()),
            Some(step) => off_target(step, read, first, now),
        },
        K::PumpOff => now.pump_off.map(|t| off_target(t, read, first, now)).unwrap_or_default(),
        K::LookDone if read <= first.zero() => {
            one(format!("{}: a look shows something only under pressure. If it was before, give its time.", empty()))
        }
        K::Bleed if read <= first.zero() => one(format!("{}: if all was let out, book it as released.", empty())),
        K::Repump if now.pump_off.is_some_and(|t| read < t.pressure.times(NEW_RAISE)) => one(format!(
            "{reads}: from there it is a new raise and no repump. Release what is left, and begin a new attempt from the first step."
        )),
        K::Released | K::VentOpened | K::Drained | K::AirProved | K::GasOff => not_zero(now),
        K::Hammered if read <= first.zero() => {
            one(format!("{}: a stay tells something only under pressure. If it was before, give its time.", empty()))
        }
        K::DripCured if read > first.zero() => one(format!(
            "{reads}, and zero is no more than {} there: nothing is touched under pressure. Release it and prove zero, cure it, and begin again from the \
             first step.",
            say.down(first.zero())
        )),
        // the rest is said of any pressure
        _ => vec![],
    }
}

/// Why a pressure to be reached is not what the gauge reads.
fn off_target(target: Target, read: GaugePressure, gauge: &GaugeRead, now: &Situation<'_>) -> Vec<String> {
    let say = now.say;
    let reads = format!("{} reads {}", gauge.tag, say.p(read));
    let wanted = target.pressure;
    if (wanted - read).pa() > target.short.pa() {
        vec![format!(
            "{reads}, and {} is to be reached: pump on, or stop and release the pressure. If the gauge is wrong, say so under what happened, and stop.",
            say.up(wanted)
        )]
    } else if let Some(upper) = now.upper.filter(|u| read > *u) {
        vec![format!("{reads}, above the limit of {}: bleed it down first, and book the bleed.", say.down(upper))]
    } else if (read - wanted).pa() > target.beyond.pa() {
        vec![format!(
            "{reads}, well beyond the step at {}: bleed it down to the step, or give the time at which the pump stood there. Write under what \
             happened that it was overshot.",
            say.up(wanted)
        )]
    } else {
        vec![]
    }
}

/// Characters of what somebody writes about how zero was proved, at least.
const LEAST_WORD: usize = 5;

/// Why zero is not proved.
fn not_zero(now: &Situation<'_>) -> Vec<String> {
    let say = now.say;
    let each = |g: &GaugeRead| {
        let most = || {
            let by = if g.column.pa() > g.error.pa() { "the water above it and its own error" } else { "its own error" };
            format!("zero is no more than {} there ({by})", say.down(g.zero()))
        };
        let now_under = matches!(g.known, Known::Live { pressure, .. } if pressure > g.zero());
        let later = g
            .after
            .filter(|p| !now_under && *p > g.zero())
            .map(|p| format!("{} read {} after that time; {}. Give the time at which zero was proved for good.", g.tag, say.p(p), most()));
        let then = match g.known {
            Known::Live { pressure, .. } if pressure > g.zero() => Some(format!(
                "{} reads {}; {}. Let it out by the bleed valve through the vent pipe, nobody in line.",
                g.tag,
                say.p(pressure),
                most()
            )),
            Known::Live { zero_for_s, .. } if zero_for_s < ZERO_FOR_S => Some(format!(
                "{} has read zero for {:.0}\u{a0}s only: watch it for {:.0}\u{a0}s with the bleed open, so that a section that fills again shows.",
                g.tag,
                zero_for_s.max(0.0),
                ZERO_FOR_S
            )),
            Known::Typed { pressure, ago_s } if ago_s <= TYPED_WITHIN_S && pressure > g.zero() => {
                Some(format!("{} was last read at {}; {}. Read it again, and type in what it shows.", g.tag, say.p(pressure), most()))
            }
            _ => None,
        };
        later.into_iter().chain(then).collect::<Vec<_>>()
    };
    let unsaid = !now.stage.let_out() && now.word.trim().chars().count() < LEAST_WORD;
    // a further gauge that was read under pressure, and since then by nobody, is a section of which nothing is known
    let not_read_since = |g: &GaugeRead| match g.known {
        Known::Typed { pressure, ago_s } if unsaid && ago_s > TYPED_WITHIN_S && pressure > g.zero() => Some(format!(
            "{} was last read at {}, and not since: read it again and type in what it shows, or write how zero was proved in its section.",
            g.tag,
            say.p(pressure)
        )),
        _ => None,
    };
    let mut out: Vec<String> = now.gauges.iter().flat_map(each).chain(now.gauges.iter().skip(1).filter_map(not_read_since)).collect();
    if unsaid && now.by_word() {
        let tag = now.gauges.first().map_or("the gauge", |g| g.tag.as_str());
        out.push(format!(
            "Nobody has read {tag} in the last ten minutes: read it and type in what it shows. Where it cannot be read, write how zero was proved: by \
             which vent or gauge, and by whom."
        ));
    }
    out
}

/// Why an act at the boundary is refused; empty when it may be booked. `tag` is the item's.
pub fn boundary_objections(act: BoundaryAct, tag: &str, now: &Situation<'_>) -> Vec<String> {
    let under = now.gauges.iter().find(|g| g.under_pressure());
    let open = !matches!(now.stage, Stage::Closed | Stage::Dry) && !now.stage.let_out();
    let reading = under.and_then(|g| Some(format!("{} reads {}", g.tag, now.say.p(g.reading()?))));
    if let Some(reads) = reading.filter(|_| now.stage != Stage::Closed) {
        return vec![format!("{tag} stays as it is, for {reads}: nothing at the boundary is touched or booked otherwise under pressure.")];
    }
    if open {
        return vec![format!(
            "{tag} stays as it is: the system is filled, and the pressure is not booked as released. Release it, and prove zero in every section first."
        )];
    }
    match (act, now.stage) {
        (BoundaryAct::PutBack, Stage::Dry) => {
            vec![format!("{tag} stays where it is: the system is released for test. Book the pressure as released to end the run.")]
        }
        (BoundaryAct::ChangeOwed, Stage::Dry) => vec![format!(
            "{tag} stays as it is: the system is released for test with it in. Book the pressure as released to end the run, book it out on Restore, then \
             change it and release the test anew."
        )],
        (BoundaryAct::ChangeOwed, _) => vec![format!(
            "{tag} was in during a test and is not booked out: it is neither renamed nor booked as not set, for Restore still owes it. Book it out on \
             Restore, then change it."
        )],
        _ => vec![],
    }
}
