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
    let rows: Vec<formats::parts::GridRow> = f.rows.iter().map(|r| r.row.clone()).collect();
    assert_eq!(rows[0].cell("limit"), "1200 psi");
    assert_eq!(formats::parts::read_rows(rules::library::shipped(), &rows, &[], quantity::PressureUnit::Bar).parts(), f.parts());
    // 1200 psi by the exact definition of the unit
    let limit = f.parts().unwrap()[0].test_limit_pa.unwrap().pa();
    assert!((limit - 1200.0 * 6_894.757_293_168_361).abs() < 1e-3, "{limit}");
}

fn row(cells: &[(&str, &str)]) -> formats::parts::GridRow {
    let typed = cells.iter().map(|(c, t)| ((*c).to_owned(), (*t).to_owned())).collect();
    formats::parts::GridRow { typed, ..Default::default() }
}

fn fate_of(cells: &[(&str, &str)], unit: quantity::PressureUnit) -> formats::parts::RowFate {
    let base = [("tag", "P"), ("kind", "pipe"), ("height", "0")];
    let mut r = row(&base);
    r.typed.extend(row(cells).typed);
    formats::parts::read_rows(rules::library::shipped(), &[r], &[], unit).rows.remove(0)
}

/// A bare figure is in the unit that stands beside its column, and that unit is kept with it.
#[test]
fn a_bare_pressure_is_in_the_persons_unit() {
    use quantity::PressureUnit;
    let psi = |cells| fate_of(cells, PressureUnit::Psi).part.unwrap();
    assert!((psi(&[("limit", "435")]).test_limit_pa.unwrap().psi() - 435.0).abs() < 1e-9);
    assert!((psi(&[("limit", "30 bar")]).test_limit_pa.unwrap().bar() - 30.0).abs() < 1e-9);
    let mut kept = row(&[("limit", "435"), ("rating", "16 bar"), ("size", "168.3 mm")]);
    kept.with_unit(PressureUnit::Psi);
    assert_eq!((kept.cell("limit"), kept.cell("rating"), kept.cell("size")), ("435 psi", "16 bar", "168.3 mm"));
}

/// What is pasted from a spreadsheet is read as a file is; without a line of names nothing is guessed.
#[test]
fn a_paste_without_names_asks_for_them() {
    let read = |t: &str| formats::parts::read_text(rules::library::shipped(), t.as_bytes(), None, quantity::PressureUnit::Psi).unwrap();
    let named = read("tag\tkind\theight\tlimit [psi]\nRun\tfitting\t3\t435\n");
    assert!(named.headed && named.good == 1);
    assert_eq!(named.rows[0].row.cell("limit"), "435 psi");
    assert_eq!(read("tag\tkind\theight\tlimit\nRun\tfitting\t3\t435\n").rows[0].row.cell("limit"), "435 psi");
    let bare = read("Run\tfitting\t3\t435\nRiser\tpipe\t4\t\n");
    assert!(!bare.headed && bare.rows.is_empty(), "the header does not become a part, nor a part a header");
    assert_eq!((bare.first_line.join("|"), bare.separator.as_str()), ("Run|fitting|3|435".to_owned(), "\t"));
    let names = ["tag", "kind", "height", "limit [psi]"].map(str::to_owned);
    let asked = formats::parts::read_text(
        rules::library::shipped(),
        b"Run\tfitting\t3\t435\nRiser\tpipe\t4\t\n",
        Some(&names),
        quantity::PressureUnit::Bar,
    )
    .unwrap();
    assert_eq!((asked.rows.len(), asked.rows[0].line, asked.rows[0].row.cell("limit")), (2, 1, "435 psi"));
}

#[test]
fn names_as_people_write_them() {
    use rules::part::{Form, PartKind, Seam, ValveType};
    let part = |cells: &[(&str, &str)]| {
        let f = fate_of(cells, quantity::PressureUnit::Bar);
        f.part.unwrap_or_else(|| panic!("{:?}", f.problems))
    };
    let main = part(&[("size", "12 in"), ("wall", "CL 52"), ("material", "ductile iron")]);
    assert_eq!(part(&[("size", "12 in"), ("wall", "class 52"), ("material", "ductile iron 60-42-10")]).wall_m, main.wall_m);
    assert_eq!(part(&[("material", "PVC-U, AWWA C900")]).material.as_deref(), Some("pvc"));
    assert!(
        (part(&[("size", "84 in"), ("wall", "12 mm"), ("material", "A106-B")]).outside_diameter_m.unwrap().m() - 84.0 * 0.0254).abs()
            < 1e-12
    );
    let valve = part(&[("kind", "closed gate valve"), ("rating", "10"), ("seat", "soft")]);
    assert_eq!((valve.kind, valve.valve), (PartKind::ClosedValve, Some(ValveType::Gate)));
    assert_eq!(part(&[("kind", "Ball valve (closed)")]).valve, Some(ValveType::Ball));
    assert_eq!(part(&[("kind", "spade"), ("limit", "10")]).kind, PartKind::Blind);
    assert_eq!(part(&[("class", "PN 16")]).pn, Some(16));
    assert_eq!(part(&[("class", "class 300")]).flange_class, Some(300));
    let shell = part(&[
        ("kind", "drum"),
        ("seam", "riveted 0.72"),
        ("form", "torispherical"),
        ("design pressure", "10"),
        ("design temperature", "180"),
    ]);
    assert_eq!(
        (shell.kind, shell.seam, shell.seam_efficiency, shell.form),
        (PartKind::Boiler, Some(Seam::Riveted), Some(0.72), Some(Form::Torispherical))
    );
    assert!(shell.design_pressure_pa.is_some() && shell.design_temperature_c.is_some());
    for (column, text) in [
        ("kind", "closed magic valve"),
        ("seam", "glued"),
        ("form", "round"),
        ("class", "PNX"),
        ("years between", "-3"),
        ("material", "cheese"),
    ] {
        let f = fate_of(&[(column, text)], quantity::PressureUnit::Bar);
        assert!(f.part.is_none() && f.problems.iter().any(|p| p.column == column), "{column} {text}: {:?}", f.problems);
    }
}

/// Only what ever narrows may be declared none, and who says so goes with it.
#[test]
fn none_is_declared_where_it_may_be() {
    let mut r = row(&[("tag", "End"), ("kind", "fitting"), ("height", "0"), ("limit", "10 bar"), ("restraint", "none")]);
    r.declared_by("supervisor");
    let part =
        formats::parts::read_rows(rules::library::shipped(), &[r.clone()], &[], quantity::PressureUnit::Bar).parts().unwrap().remove(0);
    assert_eq!(part.none.get("restraint_n").map(String::as_str), Some("supervisor"));
    r.declared_by("engineer");
    assert_eq!(r.none_by.get("restraint").map(String::as_str), Some("supervisor"), "who said it first is kept");
    r.typed.insert("restraint".into(), "40".into());
    r.declared_by("engineer");
    assert!(r.none_by.is_empty());
    let f = fate_of(&[("limit", "none")], quantity::PressureUnit::Bar);
    assert!(f.problems.iter().any(|p| p.column == "limit"), "a limit is never none");
}

/// Rows of the first format stood by their place; they mean the same now.
#[test]
fn rows_of_the_first_format_are_read() {
    let rows: Vec<formats::parts::GridRow> =
        serde_json::from_str(r#"[["Run","pipe","3","DN150","sch 40","12","A106-B","","","60","","","","","","50","",""]]"#).unwrap();
    assert_eq!((rows[0].cell("limit"), rows[0].cell("proven"), rows[0].cell("class")), ("60", "50", ""));
    let again: Vec<formats::parts::GridRow> = serde_json::from_value(serde_json::to_value(&rows).unwrap()).unwrap();
    assert_eq!(again, rows);
}
