//! Days between two dates, held against a calendar written out.

use pack::instrument::IsoDate;

fn day(text: &str) -> IsoDate {
    IsoDate::new(text).unwrap()
}

/// A month's length by the rhyme; a leap year every four years, not every hundred, but every four hundred.
fn length(year: u32, month: u32) -> u32 {
    match month {
        4 | 6 | 9 | 11 => 30,
        2 if year.is_multiple_of(4) && (!year.is_multiple_of(100) || year.is_multiple_of(400)) => 29,
        2 => 28,
        _ => 31,
    }
}

#[test]
fn days_are_counted_one_by_one() {
    let start = day("1999-12-31");
    let mut counted = 0;
    for year in 2000..2105 {
        for month in 1..=12 {
            for d in 1..=length(year, month) {
                counted += 1;
                assert_eq!(start.days_until(&day(&format!("{year:04}-{month:02}-{d:02}"))), Some(counted), "{year}-{month}-{d}");
            }
        }
    }
    assert_eq!(day("2026-02-07").days_until(&day("2026-01-10")), Some(-28));
}
