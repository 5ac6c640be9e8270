//! Spreadsheets as people keep them, and as nobody should send them.

use formats::parts::{PartsFate, read_text};
use quantity::PressureUnit;
use rules::library::shipped;
use rust_xlsxwriter::{Format, Formula, Workbook, Worksheet};
use std::io::Write;
use std::time::{Duration, Instant};

fn book(fill: impl FnOnce(&mut Worksheet)) -> Vec<u8> {
    let mut book = Workbook::new();
    fill(book.add_worksheet());
    book.save_to_buffer().unwrap()
}

const HEAD: [&str; 7] = ["Tag", "Type", "Elevation [ft]", "Size", "Schedule", "Length [m]", "Material"];

/// Heads beneath two titles, and so many pipes.
fn pipes(sheet: &mut Worksheet, count: u32) {
    sheet.write(0, 0, "Unit 3").unwrap();
    sheet.write(1, 0, "Line list, revision B").unwrap();
    for (c, name) in (0..).zip(HEAD) {
        sheet.write(3, c, name).unwrap();
    }
    for r in 0..count {
        let row = 4 + r;
        sheet.write(row, 0, format!("L-{r}")).unwrap();
        for (c, text) in [(1, "pipe"), (3, "DN150"), (4, "sch 40"), (6, "A106-B")] {
            sheet.write(row, c, text).unwrap();
        }
        sheet.write(row, 2, f64::from(r % 50) + 0.5).unwrap();
        sheet.write(row, 5, 12).unwrap();
    }
}

fn read(bytes: &[u8]) -> PartsFate {
    read_text(shipped(), bytes, None, PressureUnit::Bar).unwrap()
}

#[track_caller]
fn refused(bytes: &[u8], words: &str) {
    let said = read_text(shipped(), bytes, None, PressureUnit::Bar).unwrap_err().to_string();
    assert!(said.contains(words), "{said}");
}

fn problems(fate: &PartsFate) -> Vec<String> {
    fate.rows.iter().flat_map(|r| r.problems.iter().map(|p| format!("{}, {}: {}", r.line, p.column, p.sentence))).collect()
}

#[test]
fn a_list_beneath_its_titles_is_read_with_the_units_of_its_heads() {
    let fate = read(&book(|s| pipes(s, 3)));
    assert_eq!((fate.good, fate.rows.len(), fate.rows[0].line), (3, 3, 5));
    let part = fate.rows[1].part.as_ref().unwrap();
    assert!((part.elevation_m.m() - 1.5 * 0.3048).abs() < 1e-12);
    assert_eq!(part.length_m.unwrap().m(), 12.0);
}

#[test]
fn decimal_commas_and_html_are_text_like_any_other() {
    let fate = read(&book(|s| {
        pipes(s, 2);
        s.write(4, 5, "12,5").unwrap();
        s.write(5, 0, "<script>alert(1)</script>").unwrap();
    }));
    assert_eq!(fate.good, 2);
    assert_eq!(fate.rows[0].part.as_ref().unwrap().length_m.unwrap().m(), 12.5);
    assert_eq!(fate.rows[1].part.as_ref().unwrap().tag, "<script>alert(1)</script>");
}

#[test]
fn what_a_cell_shows_and_does_not_hold_is_refused_at_the_cell() {
    let fate = read(&book(|s| {
        pipes(s, 6);
        s.write(4, 5, Formula::new("=1/0").set_result("#DIV/0!")).unwrap();
        s.write_with_format(5, 2, rust_xlsxwriter::ExcelDateTime::from_ymd(2027, 3, 4).unwrap(), &Format::new().set_num_format("d.m.yyyy"))
            .unwrap();
        s.merge_range(6, 3, 6, 4, "DN150", &Format::new()).unwrap();
        s.write(7, 5, Formula::new("=SUM(A1:A2)").set_result("18")).unwrap();
        s.write(8, 0, "L-0").unwrap();
    }));
    let said = problems(&fate).join("\n");
    for words in [
        "5, length: Cell F5: it shows the error #DIV/0!",
        "6, height: Cell C6: it is a date",
        "7, size: Cell D7: D7 to E7 are merged across",
        "9, tag: \"L-0\" stands in an earlier row",
    ] {
        assert!(said.contains(words), "{words} is not in\n{said}");
    }
    // a formula with its value is that value
    assert_eq!(fate.rows[3].part.as_ref().unwrap().length_m.unwrap().m(), 18.0);
    assert_eq!(fate.good, 2);
}

#[test]
fn cells_merged_down_a_column_hold_the_same_in_every_row() {
    let fate = read(&book(|s| {
        pipes(s, 4);
        s.merge_range(4, 3, 7, 3, "DN100", &Format::new()).unwrap();
    }));
    assert_eq!(fate.good, 4);
    let first = fate.rows[0].part.as_ref().unwrap().outside_diameter_m;
    assert!(fate.rows.iter().all(|r| r.part.as_ref().unwrap().outside_diameter_m == first));
}

#[test]
fn a_sheet_without_heads_is_asked_about_and_read_under_the_names_that_are_given() {
    let bytes = book(|s| {
        for (c, cell) in (0..).zip(["L-1", "pipe", "3", "DN150", "sch 40", "12", "A106-B"]) {
            s.write(0, c, cell).unwrap();
        }
        s.write(1, 0, "L-2").unwrap();
    });
    let asked = read(&bytes);
    assert!(!asked.headed);
    assert_eq!(asked.first_line[0], "L-1");
    let names = ["tag", "kind", "height", "size", "wall", "length", "material"].map(str::to_owned);
    let fate = read_text(shipped(), &bytes, Some(&names), PressureUnit::Bar).unwrap();
    assert_eq!((fate.rows.len(), fate.good, fate.rows[0].line), (2, 1, 1));
}

#[test]
fn the_sheet_with_the_list_is_found_among_others() {
    let mut all = Workbook::new();
    all.add_worksheet().write(0, 0, "see the next sheet").unwrap();
    pipes(all.add_worksheet(), 2);
    assert_eq!(read(&all.save_to_buffer().unwrap()).good, 2);
}

#[test]
fn hostile_files_are_a_sentence_each_in_little_time() {
    let started = Instant::now();
    let zip = |name: &str, bytes: &mut dyn Iterator<Item = Vec<u8>>| {
        let mut out = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
        out.start_file(name, zip::write::SimpleFileOptions::default()).unwrap();
        bytes.for_each(|b| out.write_all(&b).unwrap());
        out.finish().unwrap().into_inner()
    };
    refused(&zip("xl/worksheets/sheet1.xml", &mut std::iter::repeat_n(vec![b' '; 1 << 20], 200)), "unpacks to more than 64 MB");
    refused(&zip("letter.txt", &mut std::iter::once(b"hello".to_vec())), "no spreadsheet");
    refused(b"PK\x03\x04 and nothing more", "no spreadsheet");
    refused(b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1old", "before 2007");
    refused(
        &book(|s| {
            pipes(s, 2);
            s.write(4, 16_000, "far out").unwrap();
        }),
        "columns to the right",
    );
    refused(
        &book(|s| {
            pipes(s, 2);
            s.write(1_000_000, 0, "far down").unwrap();
        }),
        "at most 50000 rows",
    );
    refused(&book(|_| {}), "the file is empty");
    assert!(started.elapsed() < Duration::from_secs(20), "{:?}", started.elapsed());
}

/// A line list of a whole unit is previewed while somebody waits; the figure itself is measured by the bench.
#[test]
fn five_thousand_lines_are_read_in_one_go() {
    let bytes = book(|s| pipes(s, 5_000));
    let fate = read(&bytes);
    assert_eq!((fate.good, fate.rows.len()), (5_000, 5_000));
}
