//! Who watches a hold, and that somebody does.

use crate::now::{Now, Tell};
use crate::run::Run;
use quantity::Span;
use terms::EventKind;

/// A hold of this length goes on when those who began it are at home.
const LONG: Span = Span::from_s(8.0 * 3600.0);

impl Run {
    /// Who has the watch, and since when, s from the release; none before somebody booked it.
    pub fn watcher(&self) -> Option<(&str, f64)> {
        let last = self.events().iter().rfind(|e| e.kind == EventKind::HandedOver)?;
        Some((last.of.as_deref()?, self.event_s(last)))
    }

    /// What everybody has to know about the watch: that nobody has it in a long hold, or that nobody reads.
    pub(crate) fn unwatched(&self, now: &Now, tell: &Tell) -> Vec<String> {
        if !self.has(EventKind::PumpOff) || self.has(EventKind::HoldEnded) || self.over() {
            return Vec::new();
        }
        let hold = self.frozen().hold();
        let watcher = self.watcher();
        let nobody = watcher.is_none() && hold >= LONG;
        let first = nobody.then(|| {
            format!(
                "This hold lasts {}: book who watches it, and say in the note by which alarm they are called and who keeps others away.",
                quantity::format::span(hold)
            )
        });
        // a reading that is overdue by as long again
        let last = self.pressures().last().map(|r| r.t.s());
        let late = self.next_reading_s().zip(last).filter(|(due, last)| now.s > due + (due - last)).map(|(_, last)| last);
        let second = late.map(|last| {
            let whose = watcher.map_or_else(|| "Nobody has booked who watches".to_owned(), |(who, _)| format!("{who} has the watch"));
            let since = tell.time(self.shown(last));
            if self.clock_from_s().is_some_and(|from| last >= from + hold.s()) {
                return format!("Nobody has read the gauge since {since}, and it stands under pressure. {whose}: end the hold, or read on.");
            }
            format!("Nobody has read the gauge since {since}. {whose}: read it now. A hold that nobody watches, and no recorder, does not count.")
        });
        first.into_iter().chain(second).collect()
    }
}
