//! The run's own time: it goes on as time does, whatever becomes of the installation's clock.

/// What was last stored of it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Kept {
    /// Which start of which machine counted it; empty before the first.
    pub boot: String,
    /// The machine's steady count then, µs.
    pub steady_us: i64,
    /// The run's own time then, µs.
    pub run_us: i64,
    /// How far the installation's clock stood ahead of it, µs.
    pub lead_us: i64,
}

/// The clock was set anew when it and the steady count part by more than this, µs: less is how long it takes to read both.
const SET_US: i64 = 1_000_000;

/// Tells the run's own time.
#[derive(Debug, Clone)]
pub struct OwnTime {
    boot: String,
    base_run_us: i64,
    base_steady_us: i64,
    lead_us: i64,
    least_us: i64,
}

/// One moment.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Moment {
    /// What the installation's clock showed, µs since 1970.
    pub at_us: i64,
    /// The run's own time, µs: what the clock would have shown had nobody set it since the run began.
    pub run_us: i64,
    /// The machine's steady count, µs.
    pub steady_us: i64,
    /// How far the clock has stood ahead since it was set anew just now; none where it was not.
    pub set_lead_us: Option<i64>,
}

impl OwnTime {
    /// Goes on from what was kept. On the same start of the same machine its count goes on; else the clock has to be believed, but never
    /// backwards. `every_us` is the time between readings; `rate` how fast the clock runs.
    pub fn resume(kept: Option<Kept>, boot: &str, at_us: i64, steady_us: i64, every_us: i64, rate: f64) -> Self {
        let least_us = (SET_US as f64 * rate) as i64;
        let (base_run_us, base_steady_us, lead_us) = match kept {
            None => (at_us, steady_us, 0),
            Some(k) if k.boot == boot && steady_us >= k.steady_us => (k.run_us, k.steady_us, k.lead_us),
            Some(k) => ((at_us - k.lead_us).max(k.run_us + every_us), steady_us, k.lead_us),
        };
        Self { boot: boot.to_owned(), base_run_us, base_steady_us, lead_us, least_us }
    }

    /// Which start of which machine counts.
    pub fn boot(&self) -> &str {
        &self.boot
    }

    /// A moment, from what clock and count showed.
    pub fn moment(&mut self, at_us: i64, steady_us: i64) -> Moment {
        let run_us = self.base_run_us + (steady_us - self.base_steady_us);
        let lead = at_us - run_us;
        let set = (lead - self.lead_us).abs() > self.least_us;
        if set {
            self.lead_us = lead;
        }
        Moment { at_us, run_us, steady_us, set_lead_us: set.then_some(lead) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const S: i64 = 1_000_000;

    fn kept(boot: &str, steady: i64, run: i64, lead: i64) -> Option<Kept> {
        Some(Kept { boot: boot.to_owned(), steady_us: steady * S, run_us: run * S, lead_us: lead * S })
    }

    #[test]
    fn the_first_reading_believes_the_clock() {
        let mut own = OwnTime::resume(None, "a", 5000 * S, 70 * S, S, 1.0);
        assert_eq!(own.moment(5001 * S, 71 * S), Moment { at_us: 5001 * S, run_us: 5001 * S, steady_us: 71 * S, set_lead_us: None });
    }

    #[test]
    fn a_clock_that_is_set_back_or_forward_does_not_move_the_runs_time() {
        let mut own = OwnTime::resume(None, "a", 5000 * S, 70 * S, S, 1.0);
        let back = own.moment(4402 * S, 72 * S);
        assert_eq!((back.run_us, back.set_lead_us), (5002 * S, Some(-600 * S)));
        // it is said once
        let after = own.moment(4403 * S, 73 * S);
        assert_eq!((after.run_us, after.set_lead_us), (5003 * S, None));
        let forward = own.moment(5604 * S, 74 * S);
        assert_eq!((forward.run_us, forward.set_lead_us), (5004 * S, Some(600 * S)));
    }

    #[test]
    fn another_process_on_the_same_machine_goes_on_by_its_count() {
        let mut own = OwnTime::resume(kept("a", 100, 6000, 0), "a", 5410 * S, 110 * S, S, 1.0);
        let m = own.moment(5410 * S, 110 * S);
        assert_eq!((m.run_us, m.set_lead_us), (6010 * S, Some(-600 * S)));
    }

    #[test]
    fn another_machine_is_believed_but_never_backwards() {
        let mut later = OwnTime::resume(kept("a", 100, 6000, 0), "b", 6030 * S, 7 * S, S, 1.0);
        assert_eq!(later.moment(6030 * S, 7 * S).run_us, 6030 * S);
        let mut earlier = OwnTime::resume(kept("a", 100, 6000, 0), "b", 5400 * S, 7 * S, S, 1.0);
        let m = earlier.moment(5400 * S, 7 * S);
        assert_eq!((m.run_us, m.set_lead_us), (6001 * S, Some(-601 * S)));
    }
}
