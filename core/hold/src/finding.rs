//! Reading, fit and finding of a hold in one.

use crate::input::{Hold, Record};
use crate::model::{Fitted, Problem, fit};
use crate::reading::{Defect, ReadRecord, read_but};

/// What the finding comes to, held against the leak that the test must be able to rule out.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Verdict {
    /// a leak of that size is ruled out
    Pass,
    /// a leak is shown
    Fail,
    /// the record supports neither
    NotShown,
}

impl Verdict {
    /// As it is written in files.
    pub fn word(self) -> &'static str {
        match self {
            Self::Pass => "pass",
            Self::Fail => "fail",
            Self::NotShown => "not_shown",
        }
    }
}

/// A judged hold.
#[derive(Debug, Clone)]
pub struct Judged {
    /// The record as it was read.
    pub read: ReadRecord,
    /// What the fit says, or why there is none.
    pub fitted: Result<Fitted, String>,
    /// The verdict.
    pub verdict: Verdict,
}

/// Judges a hold. `required` is the leak that must be ruled out, m³/s; without one nothing passes by figures.
pub fn judge(hold: &Hold, raw: &Record, required: Option<f64>) -> Judged {
    judge_but(hold, raw, required, &[])
}

/// Judges a hold with some defects overruled.
pub fn judge_but(hold: &Hold, raw: &Record, required: Option<f64>, overruled: &[Defect]) -> Judged {
    let read = read_but(hold, raw, overruled);
    let with_steps = Hold { steps: read.steps.clone(), ..hold.clone() };
    let fitted = fit(&Problem { hold: &with_steps, record: &read.record });
    let verdict = match &fitted {
        Err(_) => Verdict::NotShown,
        Ok(f) => verdict(f, required, hold),
    };
    Judged { read, fitted, verdict }
}

fn verdict(fitted: &Fitted, required: Option<f64>, hold: &Hold) -> Verdict {
    if hold.thermometers.is_empty() || !fitted.lo.is_finite() || !fitted.hi.is_finite() {
        // a fall cannot be told from cooling
        return Verdict::NotShown;
    }
    by_limits(fitted.lo, fitted.upper_999, required)
}

/// By the lower end of the interval and the one-sided upper limit.
fn by_limits(lo: f64, upper_999: f64, required: Option<f64>) -> Verdict {
    if lo > 0.0 {
        return Verdict::Fail;
    }
    match required {
        // a gain of fluid beyond all chance is a model that is wrong
        Some(required) if (0.0..=required).contains(&upper_999) => Verdict::Pass,
        _ => Verdict::NotShown,
    }
}

#[cfg(test)]
mod tests {
    use super::{Verdict, by_limits};

    #[test]
    fn a_leak_passes_only_below_its_upper_limit_and_a_gain_beyond_chance_never() {
        assert_eq!(by_limits(-3.0, 0.5, Some(1.0)), Verdict::Pass);
        assert_eq!(by_limits(-3.0, 1.1, Some(1.0)), Verdict::NotShown);
        assert_eq!(by_limits(-3.0, -0.1, Some(1.0)), Verdict::NotShown);
        assert_eq!(by_limits(-3.0, 0.5, None), Verdict::NotShown);
        assert_eq!(by_limits(0.1, 0.5, Some(1.0)), Verdict::Fail);
    }
}
