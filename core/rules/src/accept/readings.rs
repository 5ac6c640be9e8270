//! How many readings a hold needs, and how often that is: said when it is planned, counted down while it is held, asked when it is judged.

use super::Criterion;
use quantity::Span;

/// Readings that a hold needs whose acceptance is the look and the kept pressure: at its start and at its end (common practice).
pub const FOR_KEPT: usize = 2;
/// Readings that a band, a fall or a loss of water needs (common practice: an hour read every quarter of it).
pub const FOR_BAND: usize = 5;
/// Readings that a leak rate needs.
pub const FOR_LEAK: usize = 10;

/// Readings that what is asked needs.
pub fn needed(criteria: &[Criterion]) -> usize {
    let follows = |c: &Criterion| {
        matches!(
            c,
            Criterion::PressureBand(_)
                | Criterion::PressureFall(_)
                | Criterion::OwnersFall(_)
                | Criterion::WaterLoss(_)
                | Criterion::Contraction(_)
        )
    };
    if criteria.iter().any(|c| matches!(c, Criterion::NoLoss(_))) {
        FOR_LEAK
    } else if criteria.iter().any(follows) {
        FOR_BAND
    } else {
        FOR_KEPT
    }
}

/// How often a hold of this length has to be read for so many readings, with one at each end; whole minutes, no more than a quarter of an hour, of a hold
/// that goes on over a night no more than an hour.
pub fn every(hold: Span, readings: usize) -> Span {
    let exact = hold.s() / (readings.max(2) - 1) as f64;
    let most = if hold.s() >= OVER_NIGHT_S { MOST_APART_AT_NIGHT_S } else { MOST_APART_S };
    Span::from_s(if exact >= 60.0 { (exact / 60.0).floor() * 60.0 } else { exact }.min(most))
}

/// Longest between two readings of a hold that is read by hand, s: the trade's habit.
const MOST_APART_S: f64 = 900.0;
/// A hold of this length goes on over a night, s (common practice).
const OVER_NIGHT_S: f64 = 8.0 * 3600.0;
/// Longest between two readings of such a hold, s (common practice: the watch walks round every hour).
const MOST_APART_AT_NIGHT_S: f64 = 3600.0;

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_hold_is_read_at_both_ends_and_every_quarter_of_an_hour() {
        let every_min = |minutes: f64, n| every(Span::from_minutes(minutes), n).s() / 60.0;
        assert_eq!(
            [every_min(60.0, 5), every_min(60.0, 10), every_min(10.0, 2), every_min(10.0, 10), every_min(1440.0, 10)],
            [15.0, 6.0, 10.0, 1.0, 60.0]
        );
        assert_eq!(needed(&[]), FOR_KEPT);
    }
}
