//! Reading, fit and finding of a hold in one.

use crate::input::{Hold, Record};
use crate::model::{FitError, Fitted, Memory, Problem, fit, fit_again};
use crate::reading::{Defect, ReadRecord, read_but};

/// What the finding comes to, held against the leak that the test must be able to rule out.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Outcome {
    /// a leak of that size is ruled out
    Pass,
    /// a leak is shown
    Fail,
    /// the record supports neither
    NotShown,
}

impl Outcome {
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
    pub fitted: Result<Fitted, FitError>,
    /// The outcome.
    pub outcome: Outcome,
}

/// Judges a hold. `required` is the leak that must be ruled out, m³/s; without one nothing passes by figures.
pub fn judge(hold: &Hold, raw: &Record, required: Option<f64>) -> Judged {
    judge_but(hold, raw, required, &[])
}

/// Judges a hold with some defects overruled.
pub fn judge_but(hold: &Hold, raw: &Record, required: Option<f64>, overruled: &[Defect]) -> Judged {
    judge_from(hold, raw, required, overruled, None)
}

/// Judges a hold, from where the answer was found for the same hold with fewer readings.
pub fn judge_from(hold: &Hold, raw: &Record, required: Option<f64>, overruled: &[Defect], memory: Option<&Memory>) -> Judged {
    let read = read_but(hold, raw, overruled);
    let with_steps = Hold { steps: read.steps.clone(), ..hold.clone() };
    let problem = Problem { hold: &with_steps, record: &read.record };
    let fitted = memory.map_or_else(|| fit(&problem), |m| fit_again(&problem, m));
    let outcome = match &fitted {
        Err(_) => Outcome::NotShown,
        Ok(f) => outcome(f, required, hold),
    };
    Judged { read, fitted, outcome }
}

fn outcome(fitted: &Fitted, required: Option<f64>, hold: &Hold) -> Outcome {
    if hold.thermometers.is_empty() || !fitted.lo.is_finite() || !fitted.hi.is_finite() {
        // a fall cannot be told from cooling
        return Outcome::NotShown;
    }
    by_limits(fitted.lo, (fitted.upper_999, fitted.detection_limit), required)
}

/// By the lower end of the interval, and by the one-sided upper limit with the detection limit.
fn by_limits(lo: f64, (upper_999, detection_limit): (f64, f64), required: Option<f64>) -> Outcome {
    if lo > 0.0 {
        return Outcome::Fail;
    }
    match required {
        Some(required) if rules_out(upper_999, detection_limit, required) => Outcome::Pass,
        _ => Outcome::NotShown,
    }
}

/// A record that happens to look so much better than its instruments usually do is not trusted to rule a leak out.
const LUCKY: f64 = 2.5;

/// True when a loss is ruled out: by the one-sided 99.9 % upper limit, which must not lie below nil (a gain of fluid beyond all chance is a model
/// that is wrong), of a record whose detection limit is not far above that loss.
pub fn rules_out(upper_999: f64, detection_limit: f64, loss: f64) -> bool {
    (0.0..=loss).contains(&upper_999) && detection_limit <= LUCKY * loss
}

#[cfg(test)]
mod tests {
    use super::{Outcome, by_limits, rules_out};

    #[test]
    fn a_leak_passes_only_below_its_upper_limit_and_a_gain_beyond_chance_never() {
        assert_eq!(by_limits(-3.0, (0.5, 0.9), Some(1.0)), Outcome::Pass);
        assert_eq!(by_limits(-3.0, (1.1, 0.9), Some(1.0)), Outcome::NotShown);
        assert_eq!(by_limits(-3.0, (-0.1, 0.9), Some(1.0)), Outcome::NotShown);
        assert_eq!(by_limits(-3.0, (0.5, 0.9), None), Outcome::NotShown);
        assert_eq!(by_limits(0.1, (0.5, 0.9), Some(1.0)), Outcome::Fail);
    }

    #[test]
    fn a_leak_is_ruled_out_only_below_its_upper_limit_and_a_gain_beyond_chance_or_a_lucky_record_rules_out_none() {
        assert!(rules_out(0.5, 0.9, 1.0));
        assert!(!rules_out(1.1, 0.9, 1.0));
        assert!(!rules_out(-0.1, 0.9, 1.0));
        assert!(rules_out(0.5, 2.4, 1.0));
        assert!(!rules_out(0.5, 2.6, 1.0));
    }
}
