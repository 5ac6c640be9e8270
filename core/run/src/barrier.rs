//! Who may be inside the barrier.

use crate::now::{Now, Tell};
use crate::run::Run;
use pack::clock::STAND_CLEAR;
use terms::EventKind;

impl Run {
    /// Who may be inside the barrier, in a sentence.
    pub fn barrier(&self, now: &Now, tell: &Tell, rising: bool) -> String {
        if self.over() {
            return "The pressure is booked as released. Open nothing before the high vent is open.".to_owned();
        }
        if rising {
            return "Nobody inside the barrier while it rises.".to_owned();
        }
        if let Some(off) = self.last_s(EventKind::PumpOff) {
            let clear = off + STAND_CLEAR.s();
            if now.s < clear {
                return format!(
                    "Stand clear until {}: nobody inside the barrier for the first {} at pressure.",
                    tell.time(self.shown(clear)),
                    quantity::format::span(STAND_CLEAR)
                );
            }
            return "Only those who look at the joints, on the supervisor's word. Nobody in line with a blind, a plug or a hose end."
                .to_owned();
        }
        if self.has(EventKind::StepReached) {
            return "Pump stopped. Only those who look at the joints, and nobody in line with a blind, a plug or a hose end.".to_owned();
        }
        if self.has(EventKind::Filled) {
            return "Before the pump starts: everybody out, count them, close the barrier.".to_owned();
        }
        "Only the water's weight on it: check every temporary joint by hand now, at zero.".to_owned()
    }
}
