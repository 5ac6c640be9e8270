//! Dates with the day or the month first: told apart by the days that occur, asked about where these do not tell.

use jiff::civil::{Date, DateTime, Time};

/// Which figure of a date comes first.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum First {
    /// the day
    Day,
    /// the month
    Month,
}

/// The figures of a date in their order, and its time of day.
fn parts(cell: &str) -> Option<([i16; 3], &str)> {
    let (date, time) = cell.trim().split_once([' ', 'T'])?;
    let mut d = date.split(['.', '/', '-']).map(str::parse::<i16>);
    let all = [d.next()?.ok()?, d.next()?.ok()?, d.next()?.ok()?];
    d.next().is_none().then_some((all, time))
}

/// Which comes first in dates of a column, from the figures above twelve; none where none is.
pub(crate) fn order<'a>(cells: impl Iterator<Item = &'a str>) -> Option<First> {
    cells.filter_map(parts).find_map(|([first, second, _], _)| match (first > 12, second > 12) {
        (true, false) => Some(First::Day),
        (false, true) => Some(First::Month),
        _ => None,
    })
}

/// A time of day, with or without seconds, by 24 hours or by twice twelve.
fn time_of_day(text: &str) -> Option<Time> {
    let text = text.trim().replace(',', ".");
    let lower = text.to_ascii_lowercase();
    let (clock, noon) = match (lower.strip_suffix("am"), lower.strip_suffix("pm")) {
        (Some(clock), _) => (clock, Some(0)),
        (_, Some(clock)) => (clock, Some(12)),
        _ => (lower.as_str(), None),
    };
    let (hour, rest) = clock.trim().split_once(':')?;
    let hour: i8 = hour.parse().ok()?;
    let hour = match noon {
        None => hour,
        Some(noon) if (1..=12).contains(&hour) => hour % 12 + noon,
        Some(_) => return None,
    };
    format!("{hour:02}:{rest}").parse().ok()
}

/// A date and time of which one figure comes first.
pub(crate) fn read(cell: &str, first: First) -> Option<DateTime> {
    let ([a, b, year], time) = parts(cell)?;
    let (day, month) = match first {
        First::Day => (a, b),
        First::Month => (b, a),
    };
    let date = Date::new(year, i8::try_from(month).ok()?, i8::try_from(day).ok()?).ok()?;
    Some(DateTime::from_parts(date, time_of_day(time)?))
}
