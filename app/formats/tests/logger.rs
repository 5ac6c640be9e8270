//! Logger files as they come.

use formats::delimited;
use formats::logger::{LoggerError, LoggerRow, Mapping, TimeForm, read};
use quantity::{PressureUnit, TemperatureUnit, TimeUnit};

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
    };
    let rows = go(b"t,p,T\n0,2600,59\n0.5,2599,59\n", &mapping).unwrap();
    assert_eq!(rows[1].at_us - rows[0].at_us, 30_000_000);
    assert!((rows[0].temperature_c.unwrap() - 15.0).abs() < 1e-9);
    let offset = b"time,p\n2026-06-01T10:00:00+02:00,26\n";
    assert_eq!(go(offset, &guessed(offset, "Asia/Tokyo")).unwrap()[0].at_us, rows[0].at_us);
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
