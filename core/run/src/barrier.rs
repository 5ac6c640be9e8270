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
        if self.frozen().plan.hand_pump {
            return self.at_the_pump(now, tell, rising);
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
            return "Only those who look at the joints, when whoever runs the test says so. Nobody in line with a blind, a plug or a hose end."
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

    /// The same for one person with a hand pump, who has to stand beside what is tested.
    fn at_the_pump(&self, now: &Now, tell: &Tell, rising: bool) -> String {
        let clear = self.last_s(EventKind::PumpOff).map(|off| off + STAND_CLEAR.s());
        match clear {
            _ if rising => "Stay at the pump, out of line with every plug and hose end; nobody else near it while it rises.".to_owned(),
            Some(clear) if now.s < clear => format!(
                "Stand back until {}: nobody near it for the first {} at pressure.",
                tell.time(self.shown(clear)),
                quantity::format::span(STAND_CLEAR)
            ),
            Some(_) => "Look at every joint now, and keep out of line with plugs and hose ends.".to_owned(),
            None if self.has(EventKind::StepReached) => {
                "Pump stopped. Look at every joint, and keep out of line with plugs and hose ends.".to_owned()
            }
            None if self.has(EventKind::Filled) => "Before the first stroke: nobody else near it.".to_owned(),
            None => "Only the water's weight on it: check every plug and joint by hand now, at zero.".to_owned(),
        }
    }
}
