//! Instants against what the time zone database publishes, and laws of reading them.

use moment::{Change, Instant, Zone, is_day};
use proptest::prelude::*;

fn at(text: &str) -> Instant {
    Instant::parse(text).unwrap()
}

/// Rule NZ of the time zone database for the Chatham Islands: 2:45 standard time on the last Sunday of September, 12:45 or 13:45 ahead.
#[test]
fn published_changes_of_a_zone_of_quarter_hours() {
    let zone = Zone::named("Pacific/Chatham").unwrap();
    let change = at("2026-09-26T14:00:00Z");
    assert_eq!(zone.changes(at("2026-09-26T00:00:00Z"), at("2026-09-27T00:00:00Z")), [Change { at: change, by_s: 3600 }]);
    assert_eq!((zone.ahead_s(change.plus_s(-1.0)), zone.ahead_s(change)), (12 * 3600 + 45 * 60, 13 * 3600 + 45 * 60));
    assert_eq!(zone.clock(change.plus_s(-60.0)), "02:44");
    assert_eq!(zone.clock(change), "03:45");
    let sentence = zone.changes(at("2026-09-26T00:00:00Z"), at("2026-09-27T00:00:00Z"))[0].sentence(&zone);
    assert_eq!(sentence, "The clocks are put forward here, from 02:45 to 03:45.");
    let back = zone.changes(at("2026-04-04T00:00:00Z"), at("2026-04-05T00:00:00Z"));
    assert_eq!(back[0].sentence(&zone), "The clocks are put back here, from 03:45 to 02:45.");
}

#[test]
fn a_time_of_another_day_is_said_with_its_day() {
    let zone = Zone::named("Asia/Kathmandu").unwrap();
    let now = at("2026-03-01T18:00:00Z");
    assert_eq!(zone.said(now, now), "23:45");
    assert_eq!(zone.said(now.plus_s(1800.0), now), "00:15 on 2026-03-02");
    assert_eq!(zone.day(now), "2026-03-01");
    assert_eq!(zone.full(now), "2026-03-01 23:45:00 +05:45");
    assert!(Zone::named("Mars/Olympus").is_none());
}

#[test]
fn only_days_of_the_calendar_are_days() {
    for day in ["2026-02-28", "2028-02-29", "2000-02-29", "2026-12-31"] {
        assert!(is_day(day), "{day}");
    }
    for no in ["2026-02-31", "2026-02-29", "1900-02-29", "2026-13-01", "2026-04-31", "2026-2-3", "26-02-03", "", "2026-02-03T00:00"] {
        assert!(!is_day(no), "{no}");
    }
}

#[test]
fn what_is_no_instant_is_refused_in_words() {
    for no in ["\"2026-02-31T00:00:00Z\"", "\"2026-02-01T00:00:00\"", "\"yesterday\"", "3"] {
        assert!(serde_json::from_str::<Instant>(no).is_err(), "{no}");
    }
}

proptest! {
    #[test]
    fn what_is_written_is_read_again(us in -62_000_000_000_000_000i64..250_000_000_000_000_000) {
        let instant = Instant::from_us(us);
        let text = serde_json::to_string(&instant).unwrap();
        prop_assert_eq!(serde_json::from_str::<Instant>(&text).unwrap(), instant);
        prop_assert!((instant.plus_s(12.5).since_s(instant) - 12.5).abs() < 1e-9);
    }
}
