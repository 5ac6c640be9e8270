//! How much one account and one address may ask for: a burst, then so many a second. Nobody who works by hand comes near it.

use crate::problem::Problem;
use governor::clock::{Clock, DefaultClock};
use governor::{DefaultKeyedRateLimiter, Quota, RateLimiter};
use std::hash::Hash;
use std::net::IpAddr;
use std::num::NonZeroU32;
use std::sync::atomic::{AtomicU32, Ordering};

/// A burst, and how many a second after it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Rate {
    /// At once.
    pub burst: u32,
    /// Milliseconds for one more.
    pub every_ms: u32,
}

/// Of one account: a screen asks for a few things a second.
pub const ACCOUNT: Rate = Rate { burst: 600, every_ms: 16 };
/// Of one address, behind which a whole site may stand.
pub const ADDRESS: Rate = Rate { burst: 3000, every_ms: 4 };
/// Of one address that has files checked.
pub const CHECKS: Rate = Rate { burst: 60, every_ms: 1000 };
/// Refusals of one address that are noted in the security log: the first tell what is tried, and nobody fills the log with more.
pub const NOTED: Rate = Rate { burst: 60, every_ms: 1000 };
/// Of one address that signs in or tries to; the burst is the installation's choice.
pub const SIGN_INS_EVERY_MS: u32 = 3000;
/// Keys that are no longer near their limit are forgotten after so many requests.
const TIDY_EVERY: u32 = 4096;

/// A limit for each key.
#[derive(Debug)]
struct Each<K: Hash + Eq + Clone>(DefaultKeyedRateLimiter<K>, AtomicU32);

impl<K: Hash + Eq + Clone> Each<K> {
    fn new(rate: Rate) -> Self {
        let burst = NonZeroU32::new(rate.burst).unwrap_or(NonZeroU32::MIN);
        let every = std::time::Duration::from_millis(u64::from(rate.every_ms.max(1)));
        let quota = Quota::with_period(every).unwrap_or_else(|| Quota::per_second(NonZeroU32::MIN)).allow_burst(burst);
        Self(RateLimiter::keyed(quota), AtomicU32::new(0))
    }

    /// Whole seconds to wait.
    fn take(&self, key: &K) -> Result<(), u32> {
        if self.1.fetch_add(1, Ordering::Relaxed).is_multiple_of(TIDY_EVERY) {
            self.0.retain_recent();
        }
        self.0.check_key(key).map_err(|wait| {
            let s = wait.wait_time_from(DefaultClock::default().now()).as_secs_f64().ceil();
            (s as u32).max(1)
        })
    }
}

/// All limits of this server.
#[derive(Debug)]
pub struct Limits {
    accounts: Each<String>,
    addresses: Each<IpAddr>,
    checks: Each<IpAddr>,
    sign_ins: Each<IpAddr>,
    noted: Each<IpAddr>,
}

impl Limits {
    /// With a burst of sign-ins for each address.
    pub fn new(sign_in_burst: u32) -> Self {
        Self {
            accounts: Each::new(ACCOUNT),
            addresses: Each::new(ADDRESS),
            checks: Each::new(CHECKS),
            noted: Each::new(NOTED),
            sign_ins: Each::new(Rate { burst: sign_in_burst.max(1), every_ms: SIGN_INS_EVERY_MS }),
        }
    }

    /// Counts a request of an account.
    ///
    /// # Errors
    /// When it asks for too much.
    pub fn account(&self, sign_in: &str) -> Result<(), Problem> {
        self.accounts.take(&sign_in.to_owned()).map_err(|seconds| Problem::TooMuch { of: "account", seconds })
    }

    /// Counts a request of an address.
    ///
    /// # Errors
    /// When it asks for too much.
    pub fn address(&self, from: IpAddr) -> Result<(), Problem> {
        self.addresses.take(&from).map_err(|seconds| Problem::TooMuch { of: "address", seconds })
    }

    /// Counts a file that an address has checked.
    ///
    /// # Errors
    /// When it has too many checked.
    pub fn check(&self, from: IpAddr) -> Result<(), Problem> {
        self.checks.take(&from).map_err(|seconds| Problem::TooMuch { of: "address", seconds })
    }

    /// True while a refusal of an address is still worth a line of the log.
    pub fn is_noted(&self, from: IpAddr) -> bool {
        self.noted.take(&from).is_ok()
    }

    /// Counts a try to sign in from an address.
    ///
    /// # Errors
    /// When it tries too often.
    pub fn sign_in(&self, from: IpAddr) -> Result<(), Problem> {
        self.sign_ins.take(&from).map_err(Problem::TooManySignIns)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn one_asks_for_too_much_and_no_other_waits_for_it() {
        let limits = Limits::new(5);
        let (one, other) = (IpAddr::from([10, 0, 0, 1]), IpAddr::from([10, 0, 0, 2]));
        for _ in 0..5 {
            assert!(limits.sign_in(one).is_ok());
        }
        assert!(matches!(limits.sign_in(one), Err(Problem::TooManySignIns(1..=3))));
        assert!(limits.sign_in(other).is_ok());
        let refused = (0..2 * ACCOUNT.burst).filter(|_| limits.account("reader").is_err()).count();
        assert!(refused > ACCOUNT.burst as usize / 2, "{refused}");
        assert!(limits.account("supervisor").is_ok());
        // a flood of refusals fills no log, and hides nobody else's
        let noted = (0..10 * NOTED.burst).filter(|_| limits.is_noted(one)).count();
        assert!((NOTED.burst as usize..2 * NOTED.burst as usize).contains(&noted), "{noted}");
        assert!(limits.is_noted(other));
        assert!(limits.check(one).is_ok() && limits.address(one).is_ok());
    }
}
