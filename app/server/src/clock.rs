//! The installation's clock. A training installation may let it run faster, or set it anew; then every screen and every record says so.

use std::path::Path;
use time::{Duration, OffsetDateTime};

/// A clock.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Clock {
    origin: OffsetDateTime,
    rate: f64,
    set_by: Option<&'static Path>,
}

impl Clock {
    /// The real clock.
    pub fn real() -> Self {
        Self { origin: OffsetDateTime::UNIX_EPOCH, rate: 1.0, set_by: None }
    }

    /// One that was right at `origin` and runs `rate` times as fast since. It depends on nothing else, so it is the same after a restart.
    pub fn training(origin: OffsetDateTime, rate: f64) -> Self {
        Self { origin, rate, set_by: None }
    }

    /// The same, set forward by as many seconds as a file says at every moment: a drill in what happens when somebody sets a clock anew.
    pub fn set_by(self, file: &'static Path) -> Self {
        Self { set_by: Some(file), ..self }
    }

    /// How many times faster than the real one.
    pub fn rate(&self) -> f64 {
        self.rate
    }

    /// When it was right.
    pub fn origin(&self) -> OffsetDateTime {
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
    pub fn now(&self) -> OffsetDateTime {
        let real = OffsetDateTime::now_utc();
        let here = if self.rate == 1.0 { real } else { self.origin + (real - self.origin) * self.rate };
        let said = self.set_by.and_then(|file| std::fs::read_to_string(file).ok()).and_then(|text| text.trim().parse::<f64>().ok());
        here + Duration::seconds_f64(said.filter(|s| s.abs() < 1e7).unwrap_or(0.0))
    }

    /// A count in µs that rises as this clock does, and that nobody sets: from the start of this machine on.
    pub fn steady_us(&self) -> i64 {
        let since = rustix::time::clock_gettime(rustix::time::ClockId::Boottime);
        let us = since.tv_sec * 1_000_000 + since.tv_nsec / 1000;
        if self.rate == 1.0 { us } else { (us as f64 * self.rate) as i64 }
    }
}

/// An instant in µs since 1970.
pub fn us(at: OffsetDateTime) -> i64 {
    i64::try_from(at.unix_timestamp_nanos() / 1000).unwrap_or(i64::MAX)
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
        let origin = OffsetDateTime::now_utc() - Duration::minutes(3);
        let (one, two) = (Clock::training(origin, 20.0), Clock::training(origin, 20.0));
        let ran = one.now() - origin;
        assert!((Duration::minutes(60)..Duration::minutes(61)).contains(&ran), "{ran}");
        assert!((two.now() - one.now()).abs() < Duration::seconds(20));
        let real = Clock::real();
        assert!((real.now() - OffsetDateTime::now_utc()).abs() < Duration::seconds(1) && real.rate() == 1.0);
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
        assert!((now - after - Duration::minutes(10)).abs() < Duration::seconds(5));
        assert!((0..5_000_000).contains(&(count - steady)));
    }
}
