//! The installation's clock. A training installation may let it run faster; then every screen and every record says so.

use time::OffsetDateTime;

/// A clock.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Clock {
    origin: OffsetDateTime,
    rate: f64,
}

impl Clock {
    /// The real clock.
    pub fn real() -> Self {
        Self { origin: OffsetDateTime::UNIX_EPOCH, rate: 1.0 }
    }

    /// One that was right at `origin` and runs `rate` times as fast since. It depends on nothing else, so it is the same after a restart.
    pub fn training(origin: OffsetDateTime, rate: f64) -> Self {
        Self { origin, rate }
    }

    /// How many times faster than the real one.
    pub fn rate(&self) -> f64 {
        self.rate
    }

    /// When it was right.
    pub fn origin(&self) -> OffsetDateTime {
        self.origin
    }

    /// Now, on this clock.
    pub fn now(&self) -> OffsetDateTime {
        let real = OffsetDateTime::now_utc();
        if self.rate == 1.0 { real } else { self.origin + (real - self.origin) * self.rate }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use time::Duration;

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
}
