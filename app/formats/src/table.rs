//! Tables of comma-separated values (RFC 4180) with one row of heads, in UTF-8.

/// A table as text.
///
/// # Errors
/// When a row has more or fewer cells than there are heads.
pub fn csv(heads: Vec<String>, rows: impl Iterator<Item = Vec<String>>) -> Result<String, csv::Error> {
    let mut table = csv::WriterBuilder::new().terminator(csv::Terminator::CRLF).from_writer(Vec::new());
    table.write_record(&heads)?;
    for row in rows {
        table.write_record(&row)?;
    }
    let bytes = table.into_inner().map_err(|e| csv::Error::from(e.into_error()))?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

#[cfg(test)]
mod tests {
    #[test]
    fn cells_with_commas_quotes_and_lines_come_back_as_they_were() {
        let row = vec!["a,b".to_owned(), "say \"no\"".to_owned(), "two\nlines".to_owned()];
        let text = super::csv(vec!["x".into(), "y".into(), "z".into()], std::iter::once(row.clone())).unwrap();
        let mut back = csv::Reader::from_reader(text.as_bytes());
        assert_eq!(back.records().next().unwrap().unwrap().iter().collect::<Vec<_>>(), row);
        assert!(super::csv(vec!["x".into()], std::iter::once(row)).is_err());
    }
}
