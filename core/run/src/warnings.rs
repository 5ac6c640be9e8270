//! What everybody on site has to know at once, in sentences.

use crate::channels::ChannelView;
use crate::curve::PumpingView;
use crate::now::{Now, Tell};
use crate::run::Run;
use quantity::Span;
use watch::agreement::Agreement;
use watch::falling::Falling;

/// For how long it is said that a clock was set anew, s.
const CLOCK_SET_S: f64 = 1800.0;

/// What warnings are made from.
pub(crate) struct Seen<'a> {
    pub channels: &'a [ChannelView],
    pub agreements: &'a [Agreement],
    pub curve: Option<&'a PumpingView>,
    pub falling: Option<&'a Falling>,
}

impl Run {
    /// That the clock was set anew, for as long as somebody may still wonder at its times.
    fn clock_was_set(&self, now: &Now, tell: &Tell) -> Option<String> {
        let set = self.clock_set().into_iter().rfind(|c| now.s - c.t_s.s() <= CLOCK_SET_S)?;
        let which = if set.by_s < Span::ZERO { "back" } else { "forward" };
        Some(format!(
            "The server's clock was set {which} by {}; it showed {} then. Readings, ages and countdowns go on by a count that nobody sets. Check the \
             times that you type.",
            quantity::format::span(set.by_s.abs()),
            tell.time(self.shown(set.t_s.s()))
        ))
    }

    /// That the zone's clock is put forward or back while it is under way, from an hour before to an hour after.
    fn clocks_change(&self, now: &Now, tell: &Tell) -> Option<String> {
        let (from, to) = (now.at.plus_s(-3600.0), now.at.plus_s(3600.0));
        let change = tell.zone.changes(from, to).into_iter().next()?;
        Some(format!("{} What is recorded goes on without a gap; check the times that you type.", change.sentence(&tell.zone)))
    }

    pub(crate) fn warnings(&self, now: &Now, tell: &Tell, seen: &Seen<'_>) -> Vec<String> {
        let mut out: Vec<String> = seen.curve.and_then(|c| c.giving_way).map(|g| g.sentence().to_owned()).into_iter().collect();
        out.extend(seen.falling.map(|f| f.sentence.clone()).filter(|s| !s.is_empty()));
        out.extend(self.unwatched(now, tell));
        out.extend(self.clock_was_set(now, tell));
        if !self.over() {
            out.extend(self.clocks_change(now, tell));
        }
        out.extend(seen.channels.iter().map(|c| c.says.sentence.clone()).filter(|s| !s.is_empty()));
        let show = self.at_gauge(tell.say);
        out.extend(seen.agreements.iter().filter(|a| !a.agrees).map(|a| {
            format!(
                "{} reads {} {} than the first gauge once the column is taken off; their errors allow {}. One of them is wrong, shut off or not vented.",
                a.tag,
                show.change(a.difference_pa.abs()),
                if a.difference_pa.pa() > 0.0 { "more" } else { "less" },
                show.change(a.allowed_pa)
            )
        }));
        out
    }
}
