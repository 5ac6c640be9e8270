//! Parts from tables as people have them.

use formats::delimited;
use formats::parts::{PartsFate, read};

fn fate(bytes: &[u8]) -> PartsFate {
    let t = delimited::read(bytes).unwrap();
    read(rules::library::shipped(), &t.header, &t.rows, &t.lines)
}

fn said(f: &PartsFate) -> String {
    f.rows
        .iter()
        .map(|r| match &r.part {
            Some(p) => format!(
                "{}: {} {} z={:.3} d={:?} t={:?} L={:?} {:?} {:?} rating={:?} limit={:?}",
                r.line,
                p.tag,
                p.kind.word(),
                p.elevation_m.m(),
                p.outside_diameter_m.map(|d| (d.mm() * 100.).round() / 100.),
                p.wall_m.map(|d| (d.mm() * 100.).round() / 100.),
                p.length_m.map(|l| l.m()),
                p.material,
                p.flange_class,
                p.rating_pa.map(|p| (p.bar() * 1e3).round() / 1e3),
                p.test_limit_pa.map(|p| p.bar())
            ),
            None => format!(
                "{}: refused: {}",
                r.line,
                r.problems.iter().map(|p| format!("[{}] {}", p.column, p.sentence)).collect::<Vec<_>>().join(" ")
            ),
        })
        .collect::<Vec<_>>()
        .join("\n")
}

#[test]
fn a_plain_table() {
    insta::assert_snapshot!(said(&fate(
        b"tag,kind,height,size,wall,length,material,class,rating,limit\n\
          top run,pipe,18.5,DN150,sch 40,120,A106-B,,,\n\
          bottom flange,flange,1.0,,,,a106_b,150,,\n\
          hose,hose,1.2,,,,,,80,\n\
          V-31,vessel,3.2,,,,,,,66\n"
    )));
}

/// Latin-1, semicolons, decimal commas, a psi column, German names.
#[test]
fn a_table_from_elsewhere() {
    let mut bytes = b"Teil;Art;H\xf6he;Nennweite;Wandst\xe4rke;L\xe4nge;Werkstoff;rating [psi];Bemerkung\n".to_vec();
    bytes.extend_from_slice(b"Steigleitung S\xfcd;pipe;18,5;168,3 mm;7,11;120,5;A106-B;;neu\nSchlauch;hose;1,2;;;;;1160;\n");
    let t = delimited::read(&bytes).unwrap();
    assert_eq!((t.encoding.as_str(), t.separator.as_str()), ("Latin-1", "semicolon"));
    let f = fate(&bytes);
    assert_eq!(f.ignored_columns, ["Bemerkung"]);
    insta::assert_snapshot!(said(&f));
}

#[test]
fn what_is_refused_says_row_and_column() {
    insta::assert_snapshot!(said(&fate(
        b"tag\tkind\theight\tsize\twall\tlength\tmaterial\tclass\trating\tlimit\n\
          no height\tpipe\t\tDN150\tsch 40\t1\ta106_b\t\t\t\n\
          text\tpipe\thigh\tDN150\tsch 40\t1\ta106_b\t\t\t\n\
          thin\tpipe\t1\tDN150\t-7.11 mm\t1\ta106_b\t\t\t\n\
          which\tpipe\t1\tDN150\t40\t1\ta106_b\t\t\t\n\
          odd\tpipe\t1\tDN155\tsch 40\t1\ta106_b\t\t\t\n\
          bare\tpipe\t1\t168\tsch 40\t1\ta106_b\t\t\t\n\
          alloy\tpipe\t1\tDN150\tsch 41\t1\tmithril\t\t\t\n\
          \tgizmo\t1\t\t\t\t\tx\tzero\t0\n\
          far\tflange\t99999\t\t\t\ta106_b\t150\t\t\n\
          twice\tflange\t1\t\t\t\ta106_b\t150\t\t\n\
          twice\tflange\t1\t\t\t\ta106_b\t150\t\t\n"
    )));
}

#[test]
fn all_or_nothing() {
    let f = fate(b"tag,kind,height,limit\na,vessel,1,10\nb,vessel,,10\n");
    assert_eq!((f.good, f.parts()), (1, None));
    let f = fate(b"tag,kind,height,limit\na,vessel,1,10\nb,vessel,2 ft,150 psi\n");
    assert_eq!(f.parts().map(|p| p.len()), Some(2));
}

#[test]
fn what_is_not_a_table() {
    for bytes in [&b""[..], b"\n\n", b"tag,kind\n", b"tag,kind\n\n ,\n", b"PK\x03\x04\x00\x00"] {
        let e = delimited::read(bytes).unwrap_err().to_string();
        assert!(e.contains("empty") || e.contains("not text"), "{e}");
    }
}

/// What is taken to the grid must mean there what it meant in the file, whose column named its unit.
#[test]
fn cells_taken_to_the_grid_mean_the_same_as_in_the_file() {
    let f = fate(b"Teil;Art;H\xf6he [ft];Size;Wall;Limit [psi]\r\nBeh\xe4lter;vessel;3,2;;;1200\r\nBeh\xe4lter 2;vessel;1 m;;;80 bar\r\n");
    assert_eq!(f.rows.iter().map(|r| r.line).collect::<Vec<_>>(), [2, 3]);
    let header: Vec<String> = formats::parts::COLUMNS.iter().map(|c| c.0.to_owned()).collect();
    let cells: Vec<Vec<String>> = f.rows.iter().map(|r| r.cells.clone()).collect();
    assert_eq!(cells[0][9], "1200 psi");
    assert_eq!(formats::parts::read(rules::library::shipped(), &header, &cells, &[]).parts(), f.parts());
    // 1200 psi by the exact definition of the unit
    let limit = f.parts().unwrap()[0].test_limit_pa.unwrap().pa();
    assert!((limit - 1200.0 * 6_894.757_293_168_361).abs() < 1e-3, "{limit}");
}
