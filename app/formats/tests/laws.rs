//! Laws of files: however a table is written, the same comes out; whatever bytes come in, a sentence or a table comes out.

use formats::delimited;
use formats::logger::{self, Mapping, TimeForm};
use formats::parts;
use proptest::prelude::*;
use quantity::{PressureUnit, TemperatureUnit};

#[derive(Debug, Clone, Copy)]
struct Writing {
    separator: char,
    comma: bool,
    latin_1: bool,
    crlf: bool,
    mark: bool,
}

fn writing() -> impl Strategy<Value = Writing> {
    (prop::sample::select(vec![';', '\t', ',']), any::<bool>(), any::<bool>(), any::<bool>(), any::<bool>()).prop_map(
        |(separator, comma, latin_1, crlf, mark)| Writing {
            separator,
            // a decimal comma needs another separator
            comma: comma && separator != ',',
            latin_1,
            crlf,
            mark: mark && !latin_1,
        },
    )
}

impl Writing {
    fn figure(self, value: f64, decimals: usize) -> String {
        let text = format!("{value:.decimals$}");
        if self.comma { text.replace('.', ",") } else { text }
    }
    fn bytes(self, lines: &[Vec<String>]) -> Vec<u8> {
        let end = if self.crlf { "\r\n" } else { "\n" };
        let text: String = lines.iter().map(|l| l.join(&self.separator.to_string()) + end).collect();
        if self.latin_1 {
            return text.chars().map(|c| u8::try_from(u32::from(c)).unwrap_or(b'?')).collect();
        }
        let mut out = if self.mark { b"\xef\xbb\xbf".to_vec() } else { Vec::new() };
        out.extend(text.bytes());
        out
    }
}

/// Seconds since 1970 as 2026-06-01 08:00:00, by the civil calendar (days from 1970-01-01, proleptic Gregorian).
fn stamp(seconds: i64) -> String {
    let days = seconds.div_euclid(86_400);
    let clock = seconds.rem_euclid(86_400);
    let (mut year, mut left) = (1970, days);
    let leap = |y: i64| y % 4 == 0 && (y % 100 != 0 || y % 400 == 0);
    while left >= if leap(year) { 366 } else { 365 } {
        left -= if leap(year) { 366 } else { 365 };
        year += 1;
    }
    let mut month = 0;
    let lengths = [31, if leap(year) { 29 } else { 28 }, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];
    while left >= lengths[month] {
        left -= lengths[month];
        month += 1;
    }
    format!("{year:04}-{:02}-{:02} {:02}:{:02}:{:02}", month + 1, left + 1, clock / 3600, clock / 60 % 60, clock % 60)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(120))]

    #[test]
    fn a_loggers_readings_come_back_however_they_are_written(
        w in writing(), unit in 0usize..5, start in 1_600_000_000i64..1_900_000_000, every in 1i64..600,
        readings in prop::collection::vec((0.0f64..400.0, 2.0f64..60.0), 2..40),
    ) {
        let unit = PressureUnit::ALL[unit];
        let mut lines = vec![vec!["Zeit".to_owned(), "Druck über Null".to_owned(), "Temp °C".to_owned()]];
        for (i, (bar, c)) in readings.iter().enumerate() {
            let at = start + every * i64::try_from(i).unwrap();
            lines.push(vec![stamp(at), w.figure(bar * 1e5 / unit.pa(), 6), w.figure(*c, 3)]);
        }
        let mapping = Mapping {
            time_column: "Zeit".into(), time_form: TimeForm::YearFirst, zone: "UTC".into(),
            pressure_column: "Druck über Null".into(), pressure_unit: unit,
            temperature_column: Some("Temp °C".into()), temperature_unit: TemperatureUnit::default(), decimal_comma: w.comma,
            doubled_hour: None,
        };
        let rows = logger::read(&w.bytes(&lines), &mapping, &mut |_, _, _| true).unwrap();
        prop_assert_eq!(rows.len(), readings.len());
        for (i, (row, (bar, c))) in rows.iter().zip(&readings).enumerate() {
            prop_assert_eq!(row.at_us, (start + every * i64::try_from(i).unwrap()) * 1_000_000);
            prop_assert!((row.pressure_pa.unwrap() - bar * 1e5).abs() <= 1e-6 * unit.pa());
            prop_assert!((row.temperature_c.unwrap() - c).abs() <= 1e-3);
        }
    }

    #[test]
    fn a_guess_finds_the_columns_whatever_their_order(order in Just(vec![0usize, 1, 2]).prop_shuffle(), w in writing()) {
        let names = ["timestamp", "pressure [psi]", "temperature"];
        let cells = ["2026-06-01 08:00:00".to_owned(), w.figure(377.5, 1), w.figure(15.25, 2)];
        let line = |of: &dyn Fn(usize) -> String| order.iter().map(|i| of(*i)).collect::<Vec<_>>();
        let bytes = w.bytes(&[line(&|i| names[i].to_owned()), line(&|i| cells[i].clone())]);
        let table = delimited::read(&bytes).unwrap();
        let guess = Mapping::guess(&table.header, &table.rows, "UTC");
        prop_assert_eq!(guess.time_column.as_str(), "timestamp");
        prop_assert_eq!(guess.pressure_column.as_str(), "pressure [psi]");
        prop_assert_eq!(guess.pressure_unit, PressureUnit::Psi);
        prop_assert_eq!(guess.temperature_column.as_deref(), Some("temperature"));
        prop_assert_eq!(guess.decimal_comma, w.comma);
    }

    #[test]
    fn parts_come_back_however_they_are_written(w in writing(), heights in prop::collection::vec(-20.0f64..150.0, 1..20), bar in 1.0f64..300.0) {
        let mut lines = vec![vec!["Teil".to_owned(), "kind".to_owned(), "Höhe".to_owned(), "limit [psi]".to_owned()]];
        for (i, z) in heights.iter().enumerate() {
            lines.push(vec![format!("Behälter {i}"), "vessel".to_owned(), w.figure(*z, 3), w.figure(bar * 14.503_773_773, 6)]);
        }
        let table = delimited::read(&w.bytes(&lines)).unwrap();
        let read = parts::read(rules::library::shipped(), &table.header, &table.rows, &table.lines).parts().unwrap();
        for (i, (part, z)) in read.iter().zip(&heights).enumerate() {
            prop_assert_eq!(&part.tag, &format!("Behälter {i}"));
            prop_assert!((part.elevation_m.m() - z).abs() <= 5e-4);
            prop_assert!((part.test_limit_pa.unwrap().bar() - bar).abs() <= 1e-5);
        }
    }

    #[test]
    fn no_bytes_make_a_reader_panic(bytes in prop::collection::vec(any::<u8>(), 0..400)) {
        if let Ok(table) = delimited::read(&bytes) {
            let _ = parts::read(rules::library::shipped(), &table.header, &table.rows, &table.lines);
            let mapping = Mapping::guess(&table.header, &table.rows, "UTC");
            let _ = logger::read(&bytes, &mapping, &mut |_, _, _| true);
        }
    }
}
