//! After a practice run: what the simulated system hid, what of it was found and when, what was skipped, what would have hurt somebody.

use crate::curve::air_found;
use crate::now::Tell;
use crate::run::Run;
use pack::clock::STAND_CLEAR;
use quantity::format::capital;
use quantity::{Span, TemperatureDifference};
use serde::{Deserialize, Serialize};
use terms::{EventKind, LeakPlace, Term};

/// What a simulated system hides from those who test it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Hidden {
    /// Trapped air, share of the volume.
    pub air_fraction: f64,
    /// Leaks, each by its place.
    pub leaks: Vec<String>,
    /// By how much the surroundings are warmer than the water was at the start; nil where they agree.
    pub warming: TemperatureDifference,
    /// Instruments that do not tell the truth, each with what it does.
    pub faults: Vec<(String, String)>,
}

/// One thing that was hidden.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Told {
    /// What it was.
    pub was: String,
    /// True where it was found.
    pub found: bool,
    /// By what and when; or what would have shown it.
    pub how: String,
}

/// What a practice run teaches.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Debrief {
    /// What was hidden.
    pub hidden: Vec<Told>,
    /// What was skipped.
    pub skipped: Vec<String>,
    /// What would have been dangerous.
    pub dangerous: Vec<String>,
}

/// Less air than this hides nothing, share of the volume.
const NO_AIR: f64 = 5e-4;
/// Less warming than this hides nothing.
const NO_WARMING: TemperatureDifference = TemperatureDifference::from_k(0.5);
/// A rest may be short by so much, s.
const SHORT_S: f64 = 15.0;

impl Run {
    /// What a practice run teaches, of what its system hid.
    pub fn debrief(&self, hidden: &Hidden, tell: &Tell) -> Debrief {
        Debrief { hidden: self.was_hidden(hidden, tell), skipped: self.skipped(tell), dangerous: self.dangerous(tell) }
    }

    fn when(&self, t_s: f64, tell: &Tell) -> String {
        tell.time(self.shown(t_s))
    }

    /// What somebody wrote that names a thing, with its time.
    fn written(&self, word: &str, tell: &Tell) -> Option<String> {
        let names = |e: &&crate::rows::EventRow| {
            let text = format!("{} {}", e.note, e.of.as_deref().unwrap_or_default()).to_lowercase();
            text.contains(&word.to_lowercase())
        };
        let said = self.events().iter().filter(|e| matches!(e.kind, EventKind::Noted | EventKind::BeyondScale)).find(names)?;
        Some(format!("you booked it at {}", self.when(self.event_s(said), tell)))
    }

    fn was_hidden(&self, hidden: &Hidden, tell: &Tell) -> Vec<Told> {
        let percent = |f: f64| format!("{}\u{a0}%", quantity::format::significant(100.0 * f, 2));
        let mut all = Vec::new();
        if hidden.air_fraction > NO_AIR {
            let was = format!("Air: {} of the volume was trapped at the high point.", percent(hidden.air_fraction));
            let by_curve = air_found(self).filter(|a| a.determinable && a.lo_95 > 0.0);
            let how = match &by_curve {
                Some(a) => format!("The pumping curve told it: {} to {}.", percent(a.lo_95.max(0.0)), percent(a.hi_95)),
                None => "Nothing told it: count the strokes from the first on, and look at the curve before you raise.".to_owned(),
            };
            all.push(Told { was, found: by_curve.is_some(), how });
        }
        let leaks: Vec<String> = self
            .events()
            .iter()
            .filter(|e| e.kind == EventKind::LeakSeen)
            .map(|e| format!("{} at {}", e.place.map_or("leak", LeakPlace::words), self.when(self.event_s(e), tell)))
            .collect();
        all.extend(hidden.leaks.iter().map(|place| Told {
            was: format!("A leak at {place}."),
            found: !leaks.is_empty(),
            how: if leaks.is_empty() {
                "Nobody booked a leak: look at every joint under pressure, and read often enough for a leak rate.".to_owned()
            } else {
                format!("You booked: {}.", leaks.join("; "))
            },
        }));
        if hidden.warming.abs() > NO_WARMING {
            let way = if hidden.warming.k() > 0.0 { "warmer" } else { "colder" };
            let read = self.readings().iter().any(|r| r.temperature_c.is_some());
            all.push(Told {
                was: format!("The surroundings were {} {way} than the water at the start.", tell.say.warming(hidden.warming.abs())),
                found: read,
                how: if read {
                    "A thermometer was read, so that the judgement could take it off.".to_owned()
                } else {
                    "No temperature was read: a fall by cooling looks like a leak, and warming hides one.".to_owned()
                },
            });
        }
        all.extend(hidden.faults.iter().map(|(tag, what)| {
            let said = self.written(tag, tell);
            Told {
                was: format!("{tag} {what}."),
                found: said.is_some(),
                how: said.map_or_else(|| format!("Nobody booked it: compare {tag} with a second gauge."), |s| format!("{}.", capital(&s))),
            }
        }));
        all
    }

    fn skipped(&self, tell: &Tell) -> Vec<String> {
        let mut all = Vec::new();
        let of = |kind| self.events().iter().filter(move |e| e.kind == kind);
        let mut reached = of(EventKind::StepReached).map(|e| self.event_s(e));
        let off = self.pump_off_s();
        let steps: Vec<f64> = reached.by_ref().collect();
        for (n, (step, at)) in self.facts().schedule.iter().zip(&steps).enumerate() {
            let next = steps.get(n + 1).copied().unwrap_or(off);
            let last = n + 1 == self.facts().schedule.len();
            let rest = if last { step.hold_s - self.frozen().hold().s() } else { step.hold_s };
            if next.is_finite() && next - at < rest - SHORT_S {
                all.push(format!(
                    "The stop at step {} was to last {}; you went on after {}.",
                    n + 1,
                    quantity::format::span(Span::from_s(rest)),
                    quantity::format::span(Span::from_s((next - at).max(0.0)))
                ));
            }
        }
        let missing = self.facts().schedule.len().saturating_sub(steps.len());
        if off.is_finite() && missing > 0 {
            all.push(format!("{missing} of {} steps were not booked as reached.", self.facts().schedule.len()));
        }
        if off.is_finite() && !of(EventKind::LookDone).any(|e| e.place.is_none()) {
            all.push("Nobody looked at every joint under pressure: a steady gauge never replaces the look.".to_owned());
        }
        let held = self.hold().map_or(0.0, |h| h.length().s());
        if off.is_finite() && held < self.frozen().hold().s() - SHORT_S {
            all.push(format!(
                "The hold was to last {}; it lasted {}.",
                quantity::format::span(self.frozen().hold()),
                quantity::format::span(Span::from_s(held))
            ));
        }
        if self.over() && !self.has(EventKind::VentOpened) {
            all.push(format!(
                "The high vent is not booked as open after the release at {}.",
                self.when(self.last_s(EventKind::Released).unwrap_or(0.0), tell)
            ));
        }
        all
    }

    fn dangerous(&self, tell: &Tell) -> Vec<String> {
        let Some(derived) = self.window() else { return Vec::new() };
        let show = self.at_gauge(tell.say);
        let mut all = Vec::new();
        if let Some(most) = self.pressures().iter().max_by(|a, b| a.p.total_cmp(&b.p)) {
            let stop = derived.day.as_ref().map(|d| d.stop_line_pa);
            if most.p > derived.upper_pa {
                all.push(format!(
                    "It went to {} at {}: {} is the most that its weakest part ({}) bears. Something can give way there with people near.",
                    show.p(most.p),
                    self.when(most.t.s(), tell),
                    show.down(derived.upper_pa),
                    derived.upper_part
                ));
            } else if let Some(stop) = stop.filter(|s| most.p > *s) {
                all.push(format!(
                    "It went to {} at {}, past the stop line of {}.",
                    show.p(most.p),
                    self.when(most.t.s(), tell),
                    show.down(stop)
                ));
            }
        }
        let off = self.pump_off_s();
        let early = self
            .events()
            .iter()
            .find(|e| e.kind == EventKind::LookDone && self.event_s(e) >= off && self.event_s(e) < off + STAND_CLEAR.s());
        if let Some(e) = early {
            all.push(format!(
                "Somebody looked at joints at {}, before the first {} at pressure were over.",
                self.when(self.event_s(e), tell),
                quantity::format::span(STAND_CLEAR)
            ));
        }
        let under = |at_s: f64| {
            let before = self.pressures().iter().rfind(|r| r.t.s() <= at_s);
            before.filter(|r| r.p > derived.lower_pa.times(0.02)).map(|r| r.p)
        };
        all.extend(self.events().iter().filter(|e| e.kind == EventKind::NippedUp).filter_map(|e| {
            let p = under(self.event_s(e))?;
            Some(format!(
                "{} was tightened at {} with {} on it: that is how people are hurt. Release it and prove zero first.",
                capital(e.of.as_deref().unwrap_or("a fitting")),
                self.when(self.event_s(e), tell),
                show.p(p)
            ))
        }));
        all
    }
}
