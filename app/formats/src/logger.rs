//! A logger's file: columns, units, decimal sign and zone are mapped by a person once, then remembered.

use crate::dates::{self, First};
use crate::delimited::{self, TableError};
use jiff::civil::DateTime;
use jiff::tz::{AmbiguousOffset, TimeZone};
use quantity::bounds::{READING_PRESSURE, READING_TEMPERATURE};
use quantity::{PressureUnit, TemperatureUnit, TimeUnit};
use run::rows::LoggerRow;
use serde::{Deserialize, Serialize};

/// How the time column is written.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum TimeForm {
    /// `2026-06-01 08:00:00`, with or without T and fractions; with an offset (`Z`, `+02:00`) that wins over the zone
    YearFirst,
    /// `01.06.2026 08:00:00` or with slashes, day first
    DayFirst,
    /// `06/01/2026 08:00:00`, month first
    MonthFirst,
    /// with slashes, and nobody has said which comes first: the days that occur tell it, or it is asked
    EitherFirst,
    /// a running clock from a start that the person gives
    Elapsed {
        /// unit of the clock
        unit: TimeUnit,
        /// RFC 3339 instant of its zero
        start: String,
    },
}

/// Which of the two hours that a clock shows when it is set back in autumn.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DoubledHour {
    /// the file's times in it begin in the first; a step backwards leads into the second
    First,
    /// all of them are in the second
    Second,
}

/// How a file is to be read.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Mapping {
    /// Name of the time column.
    pub time_column: String,
    /// How it is written.
    pub time_form: TimeForm,
    /// Zone of the logger's clock (IANA name, for instance `Europe/Berlin`).
    pub zone: String,
    /// Name of the pressure column.
    pub pressure_column: String,
    /// Unit of the pressure column (gauge).
    pub pressure_unit: PressureUnit,
    /// Name of the temperature column; absent when there is none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub temperature_column: Option<String>,
    /// Unit of the temperature column.
    #[serde(default)]
    pub temperature_unit: TemperatureUnit,
    /// True when figures use a comma as decimal sign.
    pub decimal_comma: bool,
    /// For a file with times that its clock showed twice: which they are. Absent: such a file is asked about.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub doubled_hour: Option<DoubledHour>,
}

/// Why a file is refused. Nothing of a refused file is stored.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum LoggerError {
    /// Not a table.
    #[error(transparent)]
    Table(#[from] TableError),
    /// A column that is not there.
    #[error("there is no column \"{name}\": the file has {known}")]
    NoColumn {
        /// asked for
        name: String,
        /// what there is
        known: String,
    },
    /// An unknown zone.
    #[error("\"{0}\" is not a time zone: use a name such as Europe/Berlin or UTC")]
    NoZone(String),
    /// A cell that cannot be read.
    #[error("line {line}, column \"{column}\": {what}")]
    Cell {
        /// line
        line: usize,
        /// column
        column: String,
        /// what is wrong and what would be accepted
        what: String,
    },
    /// A time that the clock showed twice.
    #[error(
        "line {line}: in {zone} the clock showed \"{cell}\" twice, for it was set back that night. Say whether the times in that hour begin in the \
         first or are all in the second of the two"
    )]
    Doubled {
        /// line
        line: usize,
        /// the cell
        cell: String,
        /// the zone
        zone: String,
    },
    /// Dates of which nothing tells whether day or month comes first.
    #[error(
        "line {line}: \"{cell}\" can be the {} or the {}, and no date of this file tells which. Say whether the day or the month comes first",
        .day_first, .month_first
    )]
    DateOrder {
        /// line
        line: usize,
        /// the cell
        cell: String,
        /// the date with the day first, in words
        day_first: String,
        /// the date with the month first, in words
        month_first: String,
    },
    /// Stopped by the person.
    #[error("the import was cancelled; nothing was stored")]
    Cancelled,
}

impl Mapping {
    /// A first guess from the names of the columns and the first rows; a person confirms it.
    pub fn guess(header: &[String], rows: &[Vec<String>], zone: &str) -> Self {
        let find = |words: &[&str]| header.iter().position(|h| words.iter().any(|w| h.to_lowercase().contains(w)));
        let time = find(&["time", "zeit", "date", "datum", "stamp"]).unwrap_or(0);
        let pressure = find(&["press", "druck", "psi", "bar", "kpa"]).unwrap_or(1.min(header.len().saturating_sub(1)));
        let temperature = find(&["temp", "°c", "°f"]);
        let cell = |column: usize| rows.first().and_then(|r| r.get(column)).map_or("", String::as_str);
        let first_time = cell(time).trim();
        let dotted = first_time.split([' ', 'T']).next().is_some_and(|d| d.split('.').count() == 3);
        let slashed = first_time.split([' ', 'T']).next().is_some_and(|d| d.find(['/', '-']).is_some_and(|at| at <= 2));
        let by_days = || match dates::order(rows.iter().filter_map(|r| r.get(time)).map(String::as_str)) {
            Some(First::Day) => TimeForm::DayFirst,
            Some(First::Month) => TimeForm::MonthFirst,
            None => TimeForm::EitherFirst,
        };
        let running = first_time.replace(',', ".").parse::<f64>().is_ok();
        let elapsed_unit = if header[time].to_lowercase().contains("min") { TimeUnit::Minute } else { TimeUnit::Second };
        let unit_in = |name: &str| {
            name.to_lowercase().split(|c: char| !(c.is_alphanumeric() || c == '/' || c == '²')).find_map(PressureUnit::from_text)
        };
        Self {
            time_column: header[time].clone(),
            time_form: if running {
                TimeForm::Elapsed { unit: elapsed_unit, start: String::new() }
            } else if dotted {
                TimeForm::DayFirst
            } else if slashed {
                by_days()
            } else {
                TimeForm::YearFirst
            },
            zone: zone.to_owned(),
            pressure_unit: unit_in(&header[pressure]).unwrap_or_default(),
            pressure_column: header[pressure].clone(),
            temperature_unit: temperature
                .filter(|t| header[*t].to_lowercase().contains("°f") || header[*t].ends_with("[F]"))
                .map_or(TemperatureUnit::Celsius, |_| TemperatureUnit::Fahrenheit),
            temperature_column: temperature.map(|t| header[t].clone()),
            doubled_hour: None,
            decimal_comma: rows.iter().take(20).any(|r| r.get(pressure).is_some_and(|c| c.contains(',') && !c.contains('.'))),
        }
    }
}

/// What a reading pass reports: rows done, bytes done, bytes in all. Returning false cancels.
pub type Progress<'a> = &'a mut dyn FnMut(usize, usize, usize) -> bool;

/// Columns found in the header.
struct Places {
    time: usize,
    pressure: usize,
    temperature: Option<usize>,
}

fn places(header: &csv::StringRecord, mapping: &Mapping) -> Result<Places, LoggerError> {
    let find = |name: &str| {
        header.iter().position(|h| h == name.trim()).ok_or_else(|| LoggerError::NoColumn {
            name: name.to_owned(),
            known: header.iter().map(|h| format!("\"{h}\"")).collect::<Vec<_>>().join(", "),
        })
    };
    Ok(Places {
        time: find(&mapping.time_column)?,
        pressure: find(&mapping.pressure_column)?,
        temperature: mapping.temperature_column.as_deref().map(find).transpose()?,
    })
}

/// Reads a whole file. All or nothing: the first cell that cannot be read refuses the file with its line and column.
///
/// # Errors
/// See [`LoggerError`].
pub fn read(bytes: &[u8], mapping: &Mapping, progress: Progress) -> Result<Vec<LoggerRow>, LoggerError> {
    let (text, _) = delimited::decode(bytes)?;
    let separator = delimited::separator_of(&text);
    let mut reader = delimited::reader(&text, separator);
    let header = reader.headers().map_err(|e| delimited::broken(&e))?.clone();
    let at = places(&header, mapping)?;
    let mut clock = Clock::new(mapping)?;
    if mapping.time_form == TimeForm::EitherFirst {
        clock.form = by_days(&text, separator, at.time)?;
    }
    let mut rows: Vec<LoggerRow> = Vec::new();
    let mut record = csv::StringRecord::new();
    while reader.read_record(&mut record).map_err(|e| delimited::broken(&e))? {
        let line = record.position().map_or(0, |p| usize::try_from(p.line()).unwrap_or(0));
        if record.iter().all(str::is_empty) {
            continue;
        }
        let wrong = |column: usize, what: String| LoggerError::Cell { line, column: header.get(column).unwrap_or("").to_owned(), what };
        let cell = |column: usize| record.get(column).unwrap_or("");
        let at_us = clock.read(cell(at.time)).map_err(|e| match e {
            NoTime::Told(what) => wrong(at.time, what),
            NoTime::Doubled => LoggerError::Doubled { line, cell: cell(at.time).to_owned(), zone: mapping.zone.clone() },
        })?;
        if rows.last().is_some_and(|last| at_us < last.at_us) {
            return Err(wrong(
                at.time,
                format!("\"{}\" is before the row above: times must not run backwards; check the clock or sort the file", cell(at.time)),
            ));
        }
        let figure = |column: usize| figure(cell(column), mapping.decimal_comma).map_err(|e| wrong(column, e));
        let pressure_pa = figure(at.pressure)?
            .map(|v| {
                READING_PRESSURE
                    .check(v * mapping.pressure_unit.pa() / 1e5)
                    .map(|bar| bar * 1e5)
                    .map_err(|e| wrong(at.pressure, e.to_string()))
            })
            .transpose()?;
        let temperature_c = match at.temperature {
            Some(t) => figure(t)?
                .map(|v| READING_TEMPERATURE.check(mapping.temperature_unit.to_c(v)).map_err(|e| wrong(t, e.to_string())))
                .transpose()?,
            None => None,
        };
        rows.push(LoggerRow { at_us, pressure_pa, temperature_c });
        if rows.len().is_multiple_of(20_000) {
            let done = record.position().map_or(0, |p| usize::try_from(p.byte()).unwrap_or(0));
            if !progress(rows.len(), done, text.len()) {
                return Err(LoggerError::Cancelled);
            }
        }
    }
    if rows.is_empty() {
        return Err(TableError::Empty.into());
    }
    progress(rows.len(), text.len(), text.len());
    Ok(rows)
}

/// How the dates of a file are written, from the days that occur in it.
fn by_days(text: &str, separator: u8, column: usize) -> Result<TimeForm, LoggerError> {
    let mut reader = delimited::reader(text, separator);
    let mut record = csv::StringRecord::new();
    let mut open: Option<(usize, String)> = None;
    while reader.read_record(&mut record).map_err(|e| delimited::broken(&e))? {
        let cell = record.get(column).unwrap_or("");
        match dates::order(std::iter::once(cell)) {
            Some(First::Day) => return Ok(TimeForm::DayFirst),
            Some(First::Month) => return Ok(TimeForm::MonthFirst),
            None => {
                let line = record.position().map_or(0, |p| usize::try_from(p.line()).unwrap_or(0));
                let same = dates::read(cell, First::Day) == dates::read(cell, First::Month);
                if open.is_none() && !same {
                    open = Some((line, cell.to_owned()));
                }
            }
        }
    }
    // the first of January is that whichever comes first
    let Some((line, cell)) = open else { return Ok(TimeForm::DayFirst) };
    let in_words = |first| dates::read(&cell, first).map_or_else(|| cell.clone(), |d| d.strftime("%-d %B %Y").to_string());
    Err(LoggerError::DateOrder { line, day_first: in_words(First::Day), month_first: in_words(First::Month), cell })
}

fn figure(cell: &str, decimal_comma: bool) -> Result<Option<f64>, String> {
    if cell.is_empty() {
        return Ok(None);
    }
    let parsed = if decimal_comma { cell.replace('.', "x").replace(',', ".").parse::<f64>() } else { cell.parse::<f64>() };
    match parsed {
        Ok(v) if v.is_finite() => Ok(Some(v)),
        _ => Err(format!(
            "\"{cell}\" is not a number with a decimal {}; leave the cell empty where there is no reading",
            if decimal_comma { "comma" } else { "point" }
        )),
    }
}

/// Turns the text of the time column into microseconds.
struct Clock {
    form: TimeForm,
    zone: TimeZone,
    start_us: i64,
    decimal_comma: bool,
    doubled_hour: Option<DoubledHour>,
    last_us: i64,
}

/// Why a cell gives no time.
enum NoTime {
    Told(String),
    Doubled,
}

impl From<String> for NoTime {
    fn from(what: String) -> Self {
        Self::Told(what)
    }
}

impl Clock {
    fn new(mapping: &Mapping) -> Result<Self, LoggerError> {
        let zone = TimeZone::get(&mapping.zone).map_err(|_| LoggerError::NoZone(mapping.zone.clone()))?;
        let start_us = match &mapping.time_form {
            TimeForm::Elapsed { start, .. } => start
                .parse::<jiff::Timestamp>()
                .map_err(|_| LoggerError::Cell {
                    line: 0,
                    column: mapping.time_column.clone(),
                    what: format!(
                        "the file has a running clock, and \"{start}\" is not the time at which it started: give it as 2026-06-01T08:00:00Z"
                    ),
                })?
                .as_microsecond(),
            _ => 0,
        };
        Ok(Self {
            form: mapping.time_form.clone(),
            zone,
            start_us,
            decimal_comma: mapping.decimal_comma,
            doubled_hour: mapping.doubled_hour,
            last_us: i64::MIN,
        })
    }

    fn read(&mut self, cell: &str) -> Result<i64, NoTime> {
        let at = self.instant(cell)?;
        self.last_us = at;
        Ok(at)
    }

    /// An instant of the logger's own clock.
    fn local(&self, civil: DateTime, cell: &str) -> Result<i64, NoTime> {
        let told = |e: jiff::Error| NoTime::Told(format!("\"{cell}\": {e}"));
        let at = self.zone.to_ambiguous_timestamp(civil);
        match at.offset() {
            AmbiguousOffset::Unambiguous { .. } => Ok(at.compatible().map_err(told)?.as_microsecond()),
            AmbiguousOffset::Gap { .. } => Err(NoTime::Told(format!(
                "\"{cell}\" was never on that clock, because it was put forward that night: check the zone, or whether the logger keeps winter time all year"
            ))),
            AmbiguousOffset::Fold { .. } => {
                let second = at.later().map_err(told)?.as_microsecond();
                let first = at.earlier().map_err(told)?.as_microsecond();
                match self.doubled_hour {
                    None => Err(NoTime::Doubled),
                    Some(DoubledHour::First) if first >= self.last_us => Ok(first),
                    Some(_) => Ok(second),
                }
            }
        }
    }

    fn instant(&self, cell: &str) -> Result<i64, NoTime> {
        /// A hundred years, s.
        const LONGEST_S: f64 = 3.2e9;
        match &self.form {
            TimeForm::Elapsed { unit, .. } => {
                let seconds = figure(cell, self.decimal_comma)?.ok_or_else(|| "the time is missing".to_owned())? * unit.seconds();
                if !(-LONGEST_S..=LONGEST_S).contains(&seconds) {
                    return Err(format!("\"{cell}\" is no time on a running clock: it is more than a hundred years").into());
                }
                Ok(self.start_us + (seconds * 1e6).round() as i64)
            }
            TimeForm::YearFirst => {
                if let Ok(instant) = cell.parse::<jiff::Timestamp>() {
                    return Ok(instant.as_microsecond());
                }
                let civil = cell.parse::<DateTime>().map_err(|_| format!("\"{cell}\" is not a time: expected 2026-06-01 08:00:00"))?;
                self.local(civil, cell)
            }
            TimeForm::DayFirst | TimeForm::EitherFirst => {
                let civil = dates::read(cell, First::Day)
                    .ok_or_else(|| format!("\"{cell}\" is not a time: expected 01.06.2026 08:00:00, the day first"))?;
                self.local(civil, cell)
            }
            TimeForm::MonthFirst => {
                let civil = dates::read(cell, First::Month)
                    .ok_or_else(|| format!("\"{cell}\" is not a time: expected 06/01/2026 08:00:00, the month first"))?;
                self.local(civil, cell)
            }
        }
    }
}
