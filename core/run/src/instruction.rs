//! What to do next in a run.

use crate::now::{Now, Tell};
use crate::run::Run;
use rules::system::Derived;
use terms::EventKind as K;

impl Run {
    /// What to do next, in a sentence or two. Pressures in the units of who reads it, to the division of the gauge.
    pub fn instruction(&self, now: &Now, tell: &Tell) -> String {
        if self.over() {
            return self.after_release(self.window().is_some_and(|d| d.gas.is_some()));
        }
        if self.has(K::HoldEnded) {
            return self.after_the_hold(tell);
        }
        if self.has(K::PumpOff) {
            return self.in_the_hold(now, tell);
        }
        if !self.has(K::Filled) {
            if let Some(gas) = self.low_gas().and_then(|stage| stage.instruction(now.s, tell.say)) {
                return gas;
            }
            if self.window().is_some_and(|d| d.gas.is_some()) {
                return "Check every temporary joint by hand at zero pressure, and shut the vents. The supply stays shut until the raise begins.".to_owned();
            }
            return "Fill slowly from the bottom. Let every vent run free of bubbles and close them from the lowest up. Then look at every joint with \
                    only the water's weight on it."
                .to_owned();
        }
        if let Some(until) = self.rests_until().filter(|until| self.reached() == 0 && *until > now.at) {
            return format!(
                "No pressure before {}: the wall is still drawing back from the test before, and a test begun earlier does not count.",
                tell.time(until)
            );
        }
        self.while_raising(now, tell)
    }

    fn after_release(&self, gas: bool) -> String {
        if self.has(K::Drained) || self.has(K::AirProved) {
            "Put everything back, then sign.".to_owned()
        } else if gas && self.has(K::VentOpened) {
            "Blow it through with air. Prove that there is air to breathe before anybody goes in.".to_owned()
        } else if gas {
            "Leave the vent open to the outside, with the supply disconnected.".to_owned()
        } else if self.has(K::VentOpened) {
            "Drain it.".to_owned()
        } else {
            "Open the high vent, then drain.".to_owned()
        }
    }

    fn after_the_hold(&self, tell: &Tell) -> String {
        let look = self.window().and_then(Derived::looks_at_pa).filter(|_| !self.looked_since_pump_off());
        match look {
            Some(look) => format!(
                "Lower slowly to {}, with nobody in line. Then look at every joint, and book the look before you release the pressure.",
                self.at_gauge(tell.say).up(look)
            ),
            None if self.window().is_some_and(|d| d.gas.is_some()) => {
                "Let the gas out slowly through the vent to the outside, with nobody in line. Prove zero in every section.".to_owned()
            }
            None => "Release slowly by the bleed valve, with nobody in line. Prove zero in every section.".to_owned(),
        }
    }

    fn looked_since_pump_off(&self) -> bool {
        let since = self.pump_off_s();
        self.events().iter().any(|e| e.kind == K::LookDone && e.place.is_none() && self.event_s(e) >= since)
    }

    fn in_the_hold(&self, now: &Now, tell: &Tell) -> String {
        let clock = |t_s: f64| tell.time(self.shown(t_s));
        if let Some((quick, until)) = self.waits_until_s() {
            return format!(
                "Wait until {} with everything shut; it may fall by {:.0}\u{a0}%. Then lower it quickly by {:.0} to {:.0}\u{a0}%, measure the water you \
                 draw, and book the bleed: that starts the hold's clock.",
                clock(until),
                100.0 * quick.wait_fall_share,
                100.0 * quick.shares.least,
                100.0 * quick.shares.most
            );
        }
        let end_s = self.clock_from_s().map(|s| s + self.frozen().hold().s());
        if let Some(end_s) = end_s.filter(|end| now.s >= *end) {
            return self.when_its_time_is_over(end_s, &clock);
        }
        let until = end_s.map(clock).unwrap_or_default();
        let then = match self.window().and_then(Derived::looks_at_pa) {
            Some(look) => {
                format!(
                    "Stay clear. Then end the hold and lower to {}: that is where the joints are looked at.",
                    self.at_gauge(tell.say).up(look)
                )
            }
            None => "Look at every joint and book it.".to_owned(),
        };
        let read = match self.next_reading_s() {
            Some(due) if due <= now.s => format!("Read pressure and temperature now: that was due at {}.", clock(due)),
            Some(due) => format!("Read pressure and temperature again by {}.", clock(due)),
            None => "Read pressure and temperature.".to_owned(),
        };
        let watch = self.watcher().map_or_else(String::new, |(who, since)| format!(" {who} has the watch since {}.", clock(since)));
        format!("Hold until {until}. {read} {then}{watch}")
    }

    /// Its time is over: what is still to be had before it is ended.
    fn when_its_time_is_over(&self, end_s: f64, clock: &dyn Fn(f64) -> String) -> String {
        let over = format!("The hold's time was over at {}.", clock(end_s));
        let read = self.pressures().last().is_some_and(|r| r.t.s() >= end_s);
        let lowered = self.window().and_then(Derived::looks_at_pa).is_some();
        let looked = lowered || self.looked_since_pump_off();
        let first = match (read, looked) {
            (true, true) => return format!("{over} End the hold."),
            (true, false) => "Look at every joint and book it",
            (false, true) => "Read pressure and temperature once more",
            (false, false) => "Read pressure and temperature once more, look at every joint and book it",
        };
        format!("{over} {first}; then end the hold.")
    }

    /// When the gauge is to be read next by hand, s from the release; none where a recorder reads it, or before its first reading in the hold.
    pub fn next_reading_s(&self) -> Option<f64> {
        if !self.ticks().is_empty() {
            return None;
        }
        let start = self.clock_from_s()?;
        let last = self.pressures().last().map(|r| r.t.s()).filter(|t| *t >= start)?;
        let needed = rules::accept::readings::needed(&self.window()?.criteria);
        Some(last + rules::accept::readings::every(self.frozen().hold(), needed).s())
    }

    fn while_raising(&self, now: &Now, tell: &Tell) -> String {
        let show = self.at_gauge(tell.say);
        let derived = self.window();
        let (schedule, reached) = (self.schedule(tell.say), self.reached());
        let lowering = derived.and_then(Derived::lowering);
        let resting = self.rest_until_s().filter(|until| *until > now.s).map(|t_s| tell.time(self.shown(t_s)));
        match (schedule.get(reached), resting) {
            (Some(_), Some(until)) if derived.is_some_and(|d| d.gas.is_some()) => {
                let stopped = reached.checked_sub(1).and_then(|i| schedule.get(i)).map_or("", |s| s.words.as_str());
                format!("Hold this step until {until}: {stopped}.")
            }
            (Some(_), Some(until)) => format!("Hold this step until {until}, and look at every joint."),
            (Some(step), None) if derived.is_some_and(|d| d.gas.is_some()) => {
                format!("Let in gas up to {}, then shut the supply.", show.up(step.target_pa))
            }
            (Some(step), None) => format!("Raise to {}, then stop the pump.", show.up(step.target_pa)),
            (None, Some(until)) if lowering.is_some() => {
                format!("At test pressure until {until}: keep pumping up what the wall takes as it stretches.")
            }
            (None, Some(until)) => format!("At test pressure. Stand clear and let it settle until {until}."),
            (None, None) => match (lowering, derived) {
                (Some(l), Some(d)) if l.quick.is_none() => format!(
                    "Lower it to {} by the bleed. Then valve off and disconnect the pump, and book that: it starts the hold's clock.",
                    show.p(d.hold_begins_pa())
                ),
                (Some(l), _) if let Some(quick) = l.quick => {
                    let wait = quantity::format::span(quick.wait_s);
                    format!("Valve off and disconnect the pump, and book that: it starts the wait of {wait}.")
                }
                (None, Some(d)) if d.gas.is_some() => {
                    "Shut the supply and disconnect it, and book that: it starts the hold's clock.".to_owned()
                }
                _ => "Valve off and disconnect the pump, and book that: it starts the hold's clock.".to_owned(),
            },
        }
    }
}
