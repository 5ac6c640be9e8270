//! The library: its tables against their own rules, and a project's values in place of shipped ones.

mod common;

use common::{b31_3, near, pipe, system};
use quantity::Length;
use rules::library::{Library, Nominal, Override, TableError, shipped};
use rules::specification::{Chosen, Specification, schools};
use rules::system::derive;
use rules::why::{Figure, why};
use std::collections::BTreeMap;

fn own(table: &str, row: &str, column: &str, value: &str) -> Override {
    let text = |s: &str| s.to_owned();
    Override {
        table: text(table),
        row: text(row),
        column: text(column),
        value: text(value),
        reason: text("mill certificate"),
        source: text("MC-118"),
    }
}

fn figure(cell: &str) -> f64 {
    cell.parse().unwrap()
}

/// ISO 2531 (from memory): e = K · (0.5 + 0.001 DN), K 9, at least 6 mm.
#[test]
fn ductile_iron_k9_follows_its_formula() {
    let table = shipped().table("ductile-iron-pipe").unwrap();
    let k9: Vec<_> = table.rows.iter().filter(|r| r[3] == "K9").collect();
    assert!(k9.len() >= 15);
    for r in k9 {
        near(figure(&r[5]), (9.0 * (0.5 + 0.001 * figure(&r[1]))).max(6.0), 0.051);
    }
    // up to 12 in each thickness class is 0.03 in above the one below it
    for r in table.rows.iter().filter(|r| r[3] == "52" && (6.0..=12.0).contains(&figure(&r[2]))) {
        let below = table.rows.iter().find(|b| b[2] == r[2] && b[3] == "51").unwrap();
        near(figure(&r[5]) - figure(&below[5]), 0.03 * 25.4, 0.011);
    }
}

/// ASTM B88 (from memory): the outside diameter is the nominal size and an eighth of an inch, whatever the type; K is thicker than L, L than M.
#[test]
fn copper_tube_follows_the_rule_of_its_diameter() {
    let table = shipped().table("copper-tube").unwrap();
    for r in &table.rows {
        near(figure(&r[2]), (figure(&r[0]) + 0.125) * 25.4, 0.011);
    }
    for size in [0.5, 2.0, 4.0] {
        let wall = |t: &str| table.rows.iter().find(|r| figure(&r[0]) == size && r[1] == t).map(|r| figure(&r[3])).unwrap();
        assert!(wall("K") > wall("L") && wall("L") > wall("M"), "{size}");
    }
}

/// Every steel and PVC pipe's bore is its diameter less two walls, as the source tabulates it; PE walls are the ratio rounded up to 0.1 mm.
#[test]
fn pipe_tables_are_consistent() {
    for (name, d, t, bore) in [("pipe-sizes", 2, 3, 4), ("pvc-pipe", 3, 4, 5)] {
        let table = shipped().table(name).unwrap();
        assert!(table.rows.len() > 10, "{name}");
        for r in &table.rows {
            near(figure(&r[d]) - 2.0 * figure(&r[t]), figure(&r[bore]), 0.0251);
        }
    }
    for r in &shipped().table("pe-pipe").unwrap().rows {
        near(rules::library::pipe::wall_by_ratio(Length::from_mm(figure(&r[0])), figure(&r[1])).mm(), figure(&r[2]), 1e-6);
    }
}

#[test]
fn each_family_reads_the_words_for_its_walls() {
    let of = |n, wall: &str, family: &str| shipped().pipe(n, wall, family).map(|p| (p.outside_diameter.mm(), p.wall.mm()));
    assert_eq!(of(Nominal::Nps(8.0), "DR14", "pvc").unwrap(), (229.90, 16.41));
    assert_eq!(of(Nominal::Dn(200), "K9", "ductile_iron").unwrap(), (222.0, 6.3));
    assert_eq!(of(Nominal::Nps(2.0), "type L", "copper").unwrap(), (53.97, 1.78));
    assert_eq!(of(Nominal::Dn(150), "sch 40", "carbon_steel").unwrap(), (168.3, 7.11));
    let said = of(Nominal::Dn(150), "K9", "carbon_steel").unwrap_err().to_string();
    assert!(said.contains("pipe sizes table") && said.contains("schedule"), "{said}");
}

/// One value of the project moves the limit, its *why?* names the certificate, and nothing else moves.
#[test]
fn a_project_value_moves_the_figure_and_its_why() {
    let mut s = system(b31_3(16.0, 38.0), vec![pipe("line", 0.0, 6.0, "40", 20.0)], 0.0);
    let before = derive(&s).unwrap();
    s.specification.library = vec![own("materials", "a106_b", "yield_ksi", "42")];
    let after = derive(&s).unwrap();
    near(after.upper_pa.bar() / before.upper_pa.bar(), 42.0 / 35.0, 1e-9);
    assert_eq!(after.lower_pa, before.lower_pa);
    let said = why(&s, &after, &Figure::PartLimit("line".into())).unwrap().unwrap();
    assert!(said.inputs.iter().any(|i| i.source.contains("MC-118") && i.source.contains("mill certificate")), "{said:?}");
    assert!(after.touched[0].sentence.contains("yield_ksi of a106_b") && after.touched[0].figures.contains(&"upper".to_owned()));
}

#[test]
fn a_project_value_needs_a_place_a_figure_and_a_reason() {
    let refused = |o: Override| shipped().with(&[o]).unwrap_err();
    assert!(matches!(refused(own("metals", "a106_b", "yield_ksi", "42")), TableError::NoSuchPlace { .. }));
    assert!(matches!(refused(own("materials", "a106_c", "yield_ksi", "42")), TableError::NoSuchPlace { .. }));
    assert!(refused(own("materials", "a106_b", "name", "42")).to_string().contains("yield_ksi, s100"));
    assert!(matches!(refused(own("materials", "a106_b", "yield_ksi", "-1")), TableError::NoFigure { .. }));
    assert!(matches!(
        refused(Override { reason: " ".into(), ..own("materials", "a106_b", "yield_ksi", "42") }),
        TableError::NoReason { .. }
    ));
    // empty puts back "not known", and then the limit is asked for
    let unknown = shipped().with(&[own("materials", "a106_b", "yield_ksi", "")]).unwrap();
    assert_eq!(unknown.material("a106_b").unwrap().yield_pa, None);
}

/// Every table and every school is whole: each answer can be chosen, and each row has its own name.
#[test]
fn the_specification_is_whole() {
    assert!(schools().len() >= 12);
    for s in schools() {
        assert!(s.options.len() >= 2 && s.question.ends_with('?'), "{}", s.key);
        for o in &s.options {
            let mut project = Specification::default();
            project.schools.insert(s.key.clone(), Chosen { answer: o.key.clone(), reason: "so agreed".into() });
            project.check(rules::basis::book::shipped()).unwrap();
            assert_eq!(project.answer(&s.key).key, o.key);
        }
    }
    for t in shipped().tables() {
        let mut keys: Vec<String> = t.rows.iter().map(|r| t.key(r)).collect();
        keys.sort();
        assert!(keys.windows(2).all(|w| w[0] != w[1]), "{}: {:?}", t.name, keys.windows(2).find(|w| w[0] == w[1]));
        assert!(t.note.contains("memory") || t.note.contains("fluids"), "{} says where it comes from", t.name);
    }
}

/// A value changed in a copy of a table's file is what the copy says.
#[test]
fn a_changed_file_is_read() {
    let files: Vec<(&str, String)> = rules::library::FILES.iter().map(|(n, t)| (*n, t.replace("1.1,150,19.6,", "1.1,150,18.0,"))).collect();
    let changed = Library::read(&files.iter().map(|(n, t)| (*n, t.as_str())).collect::<Vec<_>>());
    near(changed.ratings("1.1", 150).unwrap().cold().bar(), 18.0, 1e-9);
    near(shipped().ratings("1.1", 150).unwrap().cold().bar(), 19.6, 1e-9);
}

#[test]
fn every_figure_that_an_answer_touches_has_its_words() {
    let known: BTreeMap<&str, &str> = rules::why::TOUCHED.into_iter().collect();
    let mut touched = 0;
    for school in rules::specification::schools() {
        for figure in &school.touches {
            assert!(known.contains_key(figure.as_str()), "{}: {figure}", school.key);
            assert!(rules::why::Figure::from_name(figure).is_some(), "{figure}");
            touched += 1;
        }
    }
    assert!(touched >= 6, "{touched}");
}
