//! A zone, and how its clock is read.

use crate::Instant;
use jiff::tz::TimeZone;

/// A zone of the time zone database.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Zone {
    name: std::sync::Arc<str>,
    tz: TimeZone,
}

/// A moment at which a zone's clock is put forward or back, summer time for the most part.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Change {
    /// When.
    pub at: Instant,
    /// How far the clock is put forward, s; back where it is below nil.
    pub by_s: i32,
}

impl Zone {
    /// By its name, "Europe/Lisbon"; none where there is no such zone.
    pub fn named(name: &str) -> Option<Self> {
        Some(Self { name: name.into(), tz: TimeZone::get(name).ok()? })
    }

    /// Universal time.
    pub fn utc() -> Self {
        Self { name: "UTC".into(), tz: TimeZone::UTC }
    }

    /// Its name.
    pub fn name(&self) -> &str {
        &self.name
    }

    fn at(&self, at: Instant) -> jiff::ZonedDateTime {
        at.timestamp().to_zoned_datetime(self.tz.clone())
    }

    /// The day there, `2026-03-01`.
    pub fn day(&self, at: Instant) -> String {
        self.at(at).date().to_string()
    }

    /// What a clock shows there, `14:05`.
    pub fn clock(&self, at: Instant) -> String {
        self.at(at).strftime("%H:%M").to_string()
    }

    /// The same to the second.
    pub fn clock_to_second(&self, at: Instant) -> String {
        self.at(at).strftime("%H:%M:%S").to_string()
    }

    /// As people say it who stand at `now`: the clock on the same day, with the day before it on another.
    pub fn said(&self, at: Instant, now: Instant) -> String {
        let (day, today) = (self.day(at), self.day(now));
        if day == today { self.clock(at) } else { format!("{} on {day}", self.clock(at)) }
    }

    /// Day, clock and distance from universal time: `2026-03-01 14:05:09 +05:45`.
    pub fn full(&self, at: Instant) -> String {
        self.at(at).strftime("%Y-%m-%d %H:%M:%S %:z").to_string()
    }

    /// How far the clock there is ahead of universal time, s.
    pub fn ahead_s(&self, at: Instant) -> i32 {
        self.tz.to_offset(at.timestamp()).seconds()
    }

    /// When its clock is put forward or back within a stretch of time, its first instant excluded.
    pub fn changes(&self, from: Instant, to: Instant) -> Vec<Change> {
        let following = self.tz.following(from.timestamp());
        let mut before = self.ahead_s(from);
        following
            .map(|t| (Instant::from_us(t.timestamp().as_microsecond()), t.offset().seconds()))
            .take_while(|(at, _)| *at <= to)
            .filter_map(|(at, ahead)| {
                let by_s = ahead - std::mem::replace(&mut before, ahead);
                (by_s != 0).then_some(Change { at, by_s })
            })
            .collect()
    }
}

impl Change {
    /// In a sentence, by the clock of the zone.
    pub fn sentence(&self, zone: &Zone) -> String {
        let (shown, after) = (zone.clock_without(self), zone.clock(self.at));
        let which = if self.by_s > 0 { "forward" } else { "back" };
        format!("The clocks are put {which} here, from {shown} to {after}.")
    }
}

impl Zone {
    /// What its clock would have shown at a change, had nobody put it.
    fn clock_without(&self, change: &Change) -> String {
        let offset = jiff::tz::Offset::from_seconds(self.ahead_s(change.at) - change.by_s).unwrap_or(jiff::tz::Offset::UTC);
        change.at.timestamp().to_zoned_datetime(offset.to_time_zone()).strftime("%H:%M").to_string()
    }
}

/// True for a day that the calendar has, written `2026-03-01`.
pub fn is_day(text: &str) -> bool {
    text.len() == 10 && text.parse::<jiff::civil::Date>().is_ok_and(|d| d.to_string() == text)
}
