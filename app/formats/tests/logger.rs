//! Logger files as they come.

use formats::delimited;
use formats::logger::{LoggerError, Mapping, TimeForm, read};
use quantity::{PressureUnit, TemperatureUnit, TimeUnit};
use run::rows::LoggerRow;

fn go(bytes: &[u8], mapping: &Mapping) -> Result<Vec<LoggerRow>, LoggerError> {
    read(bytes, mapping, &mut |_, _, _| true)
}

fn guessed(bytes: &[u8], zone: &str) -> Mapping {
    let t = delimited::read(bytes).unwrap();
    Mapping::guess(&t.header, &t.rows, zone)
}

#[test]
fn latin_1_semicolons_commas_psi_and_a_zone() {
    let bytes = b"Zeit;Druck [psi];Temperatur \xb0C\n01.07.2026 08:00:00;377,1;15,2\n01.07.2026 08:00:30;377,0;\n";
    let mapping = guessed(bytes, "Europe/Berlin");
    assert_eq!((mapping.pressure_unit, mapping.decimal_comma, &mapping.time_form), (PressureUnit::Psi, true, &TimeForm::DayFirst));
    let rows = go(bytes, &mapping).unwrap();
    assert_eq!(rows.len(), 2);
    // 08:00 in Berlin in summer is 06:00 UTC
    assert_eq!(rows[0].at_us, "2026-07-01T06:00:00Z".parse::<jiff::Timestamp>().unwrap().as_microsecond());
    assert!((rows[0].pressure_pa.unwrap() / 1e5 - 26.0).abs() < 0.001);
    assert_eq!((rows[0].temperature_c, rows[1].temperature_c), (Some(15.2), None));
}

#[test]
fn a_running_clock_and_an_offset() {
    let mapping = Mapping {
        time_column: "t".into(),
        time_form: TimeForm::Elapsed { unit: TimeUnit::Minute, start: "2026-06-01T08:00:00Z".into() },
        zone: "UTC".into(),
        pressure_column: "p".into(),
        pressure_unit: PressureUnit::Kpa,
        temperature_column: Some("T".into()),
        temperature_unit: TemperatureUnit::Fahrenheit,
        decimal_comma: false,
        doubled_hour: None,
    };
    let rows = go(b"t,p,T\n0,2600,59\n0.5,2599,59\n", &mapping).unwrap();
    assert_eq!(rows[1].at_us - rows[0].at_us, 30_000_000);
    assert!((rows[0].temperature_c.unwrap() - 15.0).abs() < 1e-9);
    let offset = b"time,p\n2026-06-01T10:00:00+02:00,26\n";
    assert_eq!(go(offset, &guessed(offset, "Asia/Tokyo")).unwrap()[0].at_us, rows[0].at_us);
}

/// In Berlin the clock went from 03:00 back to 02:00 at 01:00 UTC on 25 October 2026 (EU directive 2000/84/EC: the last Sunday of October).
#[test]
fn an_hour_that_came_twice_is_asked_about_and_one_that_never_was_is_refused() {
    let bytes = b"time,p bar\n2026-10-25 01:50:00,26\n2026-10-25 02:10:00,26\n2026-10-25 02:50:00,26\n2026-10-25 02:10:00,26\n2026-10-25 03:00:00,26\n";
    let asked = guessed(bytes, "Europe/Berlin");
    let refused = go(bytes, &asked).unwrap_err();
    assert!(matches!(&refused, LoggerError::Doubled { line: 3, .. }), "{refused}");
    assert!(refused.to_string().contains("Europe/Berlin the clock showed \"2026-10-25 02:10:00\" twice"), "{refused}");
    let utc = |doubled_hour, bytes: &[u8]| -> Vec<String> {
        let rows = go(bytes, &Mapping { doubled_hour, ..guessed(bytes, "Europe/Berlin") }).unwrap();
        rows.iter().map(|r| jiff::Timestamp::from_microsecond(r.at_us).unwrap().to_string()[11..16].to_owned()).collect()
    };
    use formats::logger::DoubledHour::{First, Second};
    assert_eq!(utc(Some(First), bytes), ["23:50", "00:10", "00:50", "01:10", "02:00"]);
    let late = b"time,p bar\n2026-10-25 02:10:00,26\n2026-10-25 02:50:00,26\n";
    assert_eq!(
        (utc(Some(First), late), utc(Some(Second), late)),
        (vec!["00:10".into(), "00:50".into()], vec!["01:10".into(), "01:50".into()])
    );
    // a zone without summer time, and a file with an offset, are not asked
    assert!(
        go(bytes, &guessed(bytes, "UTC")).is_err_and(|e| !matches!(e, LoggerError::Doubled { .. })),
        "the third row is before the second"
    );
    assert_eq!(go(late, &guessed(late, "UTC")).unwrap().len(), 2);
    let spring = b"time,p bar\n2026-03-29 02:30:00,26\n";
    let never = go(spring, &guessed(spring, "Europe/Berlin")).unwrap_err().to_string();
    assert!(never.contains("was never on that clock"), "{never}");
}

#[test]
fn what_is_refused_says_line_and_column() {
    let say = |body: &str| {
        let bytes = format!("time,pressure bar,temp\n2026-06-01 08:00:00,26,15\n{body}\n");
        go(bytes.as_bytes(), &guessed(bytes.as_bytes(), "UTC")).unwrap_err().to_string()
    };
    let mut said: Vec<String> = [
        "2026-06-01 07:59:59,26,15",
        "2026-06-01 08:00:01,hello,15",
        "2026-06-01 08:00:01,26,900",
        "yesterday,26,15",
        "2026-06-01 08:00:01,9e9,15",
        ",26,15",
    ]
    .map(say)
    .to_vec();
    let bytes = b"time,p\n2026-06-01 08:00:00,26\n";
    let mut wrong = guessed(bytes, "UTC");
    wrong.pressure_column = "q".into();
    said.push(go(bytes, &wrong).unwrap_err().to_string());
    said.push(go(bytes, &Mapping { zone: "Mars/Olympus".into(), ..guessed(bytes, "UTC") }).unwrap_err().to_string());
    insta::assert_snapshot!(said.join("\n"));
}

#[test]
fn a_million_rows_with_progress_and_cancel() {
    let mut text = String::from("t,p\n");
    for i in 0..1_000_000 {
        text += &format!("{i},26.{:02}\n", i % 100);
    }
    let mut mapping = guessed(text.as_bytes(), "UTC");
    mapping.time_form = TimeForm::Elapsed { unit: TimeUnit::Second, start: "2026-06-01T08:00:00Z".into() };
    let mut told = Vec::new();
    let rows = read(text.as_bytes(), &mapping, &mut |rows, done, all| {
        told.push((rows, done as f64 / all as f64));
        true
    })
    .unwrap();
    assert_eq!(rows.len(), 1_000_000);
    assert!(told.len() > 40 && told.windows(2).all(|w| w[0].1 <= w[1].1) && told.last().unwrap().1 == 1.0);
    assert_eq!(read(text.as_bytes(), &mapping, &mut |rows, _, _| rows < 100_000), Err(LoggerError::Cancelled));
}

#[test]
fn a_line_with_more_cells_than_any_table_is_refused_at_its_line() {
    let wide = |cells: usize| format!("time;p bar\n2026-06-01 08:00:00;26{}\n", ";".repeat(cells));
    assert_eq!(delimited::read(wide(900).as_bytes()).unwrap().rows.len(), 1);
    let refused = delimited::read(wide(delimited::MOST_CELLS).as_bytes()).unwrap_err().to_string();
    assert!(refused.starts_with("line 2: it has more than 1000 cells"), "{refused}");
}

#[test]
fn day_and_month_are_told_apart_by_the_days_that_occur_and_asked_about_where_they_do_not() {
    let file = |dates: &[&str]| {
        let rows: Vec<String> = dates.iter().map(|d| format!("{d},26")).collect();
        format!("time,p bar\n{}\n", rows.join("\n")).into_bytes()
    };
    let first = |bytes: &[u8]| {
        let rows = go(bytes, &guessed(bytes, "UTC")).unwrap();
        jiff::Timestamp::from_microsecond(rows[0].at_us).unwrap().to_string()
    };
    // the month first, as the 13th to the 31st tell; by 24 hours and by twice twelve
    let american = file(&["6/12/2026 11:59:00 PM", "6/13/2026 12:00:00 AM"]);
    assert_eq!(guessed(&american, "UTC").time_form, TimeForm::MonthFirst);
    assert_eq!(first(&american), "2026-06-12T23:59:00Z");
    let day = file(&["12/06/2026 23:59:00", "13/06/2026 00:00:00"]);
    assert_eq!((guessed(&day, "UTC").time_form, first(&day)), (TimeForm::DayFirst, "2026-06-12T23:59:00Z".to_owned()));
    // told by a row far below the first
    let mut far: Vec<String> = (0..50).map(|m| format!("06/12/2026 10:{m:02}:00")).collect();
    far.push("06/13/2026 00:00:00".to_owned());
    let far = file(&far.iter().map(String::as_str).collect::<Vec<_>>());
    assert_eq!(first(&far), "2026-06-12T10:00:00Z");
    // nothing tells: it is asked, in words
    let open = file(&["06/12/2026 08:00:00", "06/12/2026 08:01:00"]);
    let asked = guessed(&open, "UTC");
    assert_eq!(asked.time_form, TimeForm::EitherFirst);
    let refused = go(&open, &asked).unwrap_err();
    assert!(matches!(refused, LoggerError::DateOrder { line: 2, .. }), "{refused}");
    assert!(refused.to_string().contains("the 6 December 2026 or the 12 June 2026"), "{refused}");
    for (form, day) in [(TimeForm::DayFirst, "2026-12-06"), (TimeForm::MonthFirst, "2026-06-12")] {
        let rows = go(&open, &Mapping { time_form: form, ..asked.clone() }).unwrap();
        assert!(jiff::Timestamp::from_microsecond(rows[0].at_us).unwrap().to_string().starts_with(day));
    }
    // what a person chose and a day contradicts is refused where it stands
    let wrong = go(&american, &Mapping { time_form: TimeForm::DayFirst, ..guessed(&american, "UTC") }).unwrap_err();
    assert!(wrong.to_string().contains("line 3"), "{wrong}");
    // the same day whichever comes first asks nothing
    assert_eq!(first(&file(&["05/05/2026 08:00:00"])), "2026-05-05T08:00:00Z");
}
