//! `readings.csv`: one row an instant, bar and °C.

use crate::case::Case;
use crate::error::ContentError;
use hold::Record;

/// Reads the rows into channels in SI: gauges in Pa, thermometers in °C; an empty cell is NaN.
///
/// # Errors
/// With row and column.
pub fn read_readings(case: &Case, bytes: &[u8]) -> Result<Record, ContentError> {
    let mut reader = csv::ReaderBuilder::new().trim(csv::Trim::None).from_reader(bytes);
    let head = reader.headers()?.clone();
    let position = |name: &str| head.iter().position(|h| h.trim() == name);
    let time = position("time_s").ok_or(ContentError::NoTime)?;
    let sample = position("sample_no");
    let columns: Vec<(usize, f64)> = case
        .columns()
        .enumerate()
        .map(|(i, name)| {
            let at = position(name).ok_or_else(|| ContentError::NoColumn { column: name.to_owned() })?;
            Ok((at, if i < case.gauges.len() { 1e5 } else { 1.0 }))
        })
        .collect::<Result<_, ContentError>>()?;
    let mut record = Record { sample_no: sample.map(|_| Vec::new()), time_s: Vec::new(), channels: vec![Vec::new(); columns.len()] };
    let mut row = csv::ByteRecord::new();
    let mut line = 1;
    while reader.read_byte_record(&mut row)? {
        line += 1;
        let cell = |at: usize, needed: bool| -> Result<f64, ContentError> {
            let bytes = row.get(at).unwrap_or_default();
            if bytes.is_empty() && !needed {
                return Ok(f64::NAN);
            }
            let text = std::str::from_utf8(bytes).unwrap_or("?").trim();
            text.parse().map_err(|_| ContentError::NotANumber { row: line, column: head[at].to_owned(), text: text.to_owned() })
        };
        record.time_s.push(cell(time, true)?);
        if let (Some(at), Some(numbers)) = (sample, record.sample_no.as_mut()) {
            numbers.push(cell(at, true)?);
        }
        for (channel, (at, factor)) in record.channels.iter_mut().zip(&columns) {
            channel.push(cell(*at, false)? * factor);
        }
    }
    Ok(record)
}
