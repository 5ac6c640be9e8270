//! A run told in sentences, for whoever has its file and no screen.

use crate::now::{Now, Tell};
use crate::run::Run;
use pack::schedule::Raise;
use quantity::PressureUnit;
use rules::say::AtGauge;
use terms::Term;

impl Run {
    /// Says pressures to the division of the gauge that the test is read from.
    pub fn at_gauge(&self, say: rules::say::Say) -> AtGauge {
        let gauge = self.facts().gauge.as_ref();
        AtGauge::new(say, gauge.map_or(say.unit(), |g| g.unit), gauge.and_then(|g| g.division_pa))
    }

    /// Unit of the gauge that the test is read from.
    pub fn dial(&self) -> PressureUnit {
        self.facts().gauge.as_ref().map_or_else(PressureUnit::default, |g| g.unit)
    }

    /// Steps of the raise, said in a person's units.
    pub fn schedule(&self, say: rules::say::Say) -> Vec<pack::schedule::Step> {
        let facts = self.facts();
        let raise = facts
            .window()
            .filter(|d| d.day.is_some())
            .map(|d| Raise::of(&self.frozen().plan, d, facts.system.gauge.division_pa, self.at_gauge(say), self.frozen().hold()));
        raise.map_or_else(Vec::new, |r| pack::schedule::steps(&r))
    }

    /// What was released, what happened, where it stands and what is owed, a line each.
    pub fn story(&self, now: &Now, tell: &Tell) -> Vec<String> {
        let show = self.at_gauge(tell.say);
        let f = self.frozen();
        let mut out = vec![format!("{}: released for test at {}.", f.title, tell.time(self.released_at()))];
        match &self.facts().derived {
            Ok(d) => out.push(format!(
                "Window at {}: {} to {}{}.",
                f.plan.gauge_tag,
                show.up(d.lower_pa),
                show.down(d.upper_pa),
                d.day.as_ref().map_or_else(String::new, |day| format!(", planned {}", show.up(day.planned_pa)))
            )),
            Err(e) => out.push(format!("Nothing can be derived: {}.", e.say(tell.say))),
        }
        out.extend(self.events().iter().map(|e| {
            let note = if e.note.is_empty() { String::new() } else { format!(" ({})", e.note) };
            format!("{}: {}, booked by {}{note}.", tell.time(self.shown(self.event_s(e))), e.kind.words(), e.person)
        }));
        out.extend(self.stretches().iter().map(|s| {
            let (from, to) = (tell.time(self.shown(s.start_s.s())), tell.time(self.shown(s.end_s.s())));
            format!("{from} to {to}: {}.", s.kind.words())
        }));
        match self.last_read(now.s) {
            Some(last) => {
                let age = quantity::format::span(quantity::Span::from_s((now.s - last.t.s()).max(0.0)));
                let read = show.p(last.p);
                out.push(format!("{} read {read} {age} ago.", f.plan.gauge_tag));
            }
            None => out.push(format!("Nothing was read at {} yet.", f.plan.gauge_tag)),
        }
        out.push(format!("Now: {}", self.instruction(now, tell)));
        out.push(format!("Barrier: {}", self.barrier(now, tell, false)));
        if let Some(c) = self.countdown(now, tell).filter(|c| c.left_s > 0.0) {
            out.push(format!("Counting down: {}, until {}.", c.words, c.until_words));
        }
        out
    }
}
