//! The installation's clock. A training installation may let it run faster, or set it anew; then every screen and every record says so.

use moment::Instant;
use std::path::Path;
use time::OffsetDateTime;

/// Time between polls, s of the installation's clock.
const EVERY_S: f64 = 1.0;
/// Never faster than this, s of the real clock.
const LEAST_S: f64 = 0.05;

/// A clock.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Clock {
    origin: Instant,
    rate: f64,
    set_by: Option<&'static Path>,
}

impl Clock {
    /// The real clock.
    pub fn real() -> Self {
        Self { origin: Instant::from_us(0), rate: 1.0, set_by: None }
    }

    /// One that was right at `origin` and runs `rate` times as fast since. It depends on nothing else, so it is the same after a restart.
    pub fn training(origin: Instant, rate: f64) -> Self {
        Self { origin, rate, set_by: None }
    }

    /// The same, set forward by as many seconds, up to a year and more, as a file says at every moment: a drill in what happens when somebody sets a clock anew.
    pub fn set_by(self, file: &'static Path) -> Self {
        Self { set_by: Some(file), ..self }
    }

    /// How many times faster than the real one.
    pub fn rate(&self) -> f64 {
        self.rate
    }

    /// Time between two readings of the recorder, s of this clock.
    pub fn every_s(&self) -> f64 {
        EVERY_S.max(LEAST_S * self.rate)
    }

    /// When it was right.
    pub fn origin(&self) -> Instant {
        self.origin
    }

    /// True where a file sets it.
    pub fn by_hand(&self) -> bool {
        self.set_by.is_some()
    }

    /// True where it is not the real one.
    pub fn for_training(&self) -> bool {
        self.rate != 1.0 || self.by_hand()
    }

    /// Now, on this clock.
    pub fn now(&self) -> Instant {
        let real = instant(OffsetDateTime::now_utc());
        let here = if self.rate == 1.0 { real } else { self.origin.plus_s(real.since_s(self.origin) * self.rate) };
        let said = self.set_by.and_then(|file| std::fs::read_to_string(file).ok()).and_then(|text| text.trim().parse::<f64>().ok());
        here.plus_s(said.filter(|s| s.abs() < 4e7).unwrap_or(0.0))
    }

    /// A count in µs that rises as this clock does, and that nobody sets: from the start of this machine on.
    pub fn steady_us(&self) -> i64 {
        let since = rustix::time::clock_gettime(rustix::time::ClockId::Boottime);
        let us = since.tv_sec * 1_000_000 + since.tv_nsec / 1000;
        if self.rate == 1.0 { us } else { (us as f64 * self.rate) as i64 }
    }
}

/// An instant as the database gives it.
pub fn instant(at: OffsetDateTime) -> Instant {
    Instant::from_us(i64::try_from(at.unix_timestamp_nanos() / 1000).unwrap_or(i64::MAX))
}

/// An instant as the database takes it.
pub fn stored(at: Instant) -> OffsetDateTime {
    OffsetDateTime::from_unix_timestamp_nanos(i128::from(at.us()) * 1000).unwrap_or(OffsetDateTime::UNIX_EPOCH)
}

/// Which start of which machine it is, as the kernel names it; another name at each call where it names none.
pub fn boot() -> String {
    let named = std::fs::read_to_string("/proc/sys/kernel/random/boot_id").ok();
    named.map(|id| id.trim().to_owned()).filter(|id| id.len() == 36).unwrap_or_else(|| uuid::Uuid::now_v7().to_string())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_training_clock_runs_from_its_origin_and_is_the_same_for_two_who_ask() {
        let origin = Clock::real().now().plus_s(-180.0);
        let (one, two) = (Clock::training(origin, 20.0), Clock::training(origin, 20.0));
        let ran = one.now().since_s(origin);
        assert!((3600.0..3660.0).contains(&ran), "{ran}");
        assert!(two.now().since_s(one.now()).abs() < 20.0);
        let real = Clock::real();
        assert!(real.now().since_s(instant(OffsetDateTime::now_utc())).abs() < 1.0 && real.rate() == 1.0);
    }

    #[test]
    fn a_clock_that_is_set_leaps_and_its_steady_count_does_not() {
        let folder = std::env::temp_dir().join(format!("zero-leak-clock-{}", uuid::Uuid::now_v7()));
        std::fs::write(&folder, "0").unwrap();
        let clock = Clock::real().set_by(Box::leak(folder.clone().into_boxed_path()));
        let (now, steady) = (clock.now(), clock.steady_us());
        std::fs::write(&folder, "-600").unwrap();
        let (after, count) = (clock.now(), clock.steady_us());
        std::fs::remove_file(&folder).unwrap();
        assert!((now.since_s(after) - 600.0).abs() < 5.0);
        assert!((0..5_000_000).contains(&(count - steady)));
    }

    #[test]
    fn an_instant_is_written_as_it_was_before() {
        use time::format_description::well_known::Rfc3339;
        for us in [0, 1, 10, 120_000, 1_000_000, 1_796_000_000_123_456, 1_796_000_000_500_000, 1_796_000_000_000_000, -1] {
            let at = Instant::from_us(us);
            assert_eq!(at.to_string(), stored(at).format(&Rfc3339).unwrap());
            assert_eq!(instant(stored(at)), at);
        }
    }
}
