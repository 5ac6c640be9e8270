//! Water networks: the two that ship with the package wntr (files and licence in `networks/`), counted as that package counts them
//! (`checks/networks.py`), and files that are wrong line by line.

use formats::network::{LinkKind, NodeKind, Told, read};
use proptest::prelude::*;

const NET1: &[u8] = include_bytes!("networks/Net1.inp");
const NET3: &[u8] = include_bytes!("networks/Net3.inp");
/// What wntr says of them.
const BY_WNTR: &str = include_str!("../../../checks/networks.snapshot.txt");

fn told(bytes: &[u8]) -> Told {
    read(bytes).unwrap().told()
}

#[test]
fn networks_are_counted_as_wntr_counts_them() {
    for (name, bytes) in [("Net1.inp", NET1), ("Net3.inp", NET3)] {
        let t = told(bytes);
        let (lo, hi) = t.heights_m.unwrap();
        let said = format!(
            "{name}: {} pipes, {} junctions, {} valves, {:.3} m, {:.3} m3, {lo:.3} to {hi:.3} m",
            t.pipes, t.junctions, t.valves, t.length_m, t.volume_m3
        );
        assert!(BY_WNTR.lines().any(|l| l == said), "{said}\n{BY_WNTR}");
        assert_eq!((t.rows_refused, t.findings.len()), (0, 0), "{:?}", t.findings);
    }
}

#[test]
fn a_pipe_has_its_ends_its_length_and_its_bore() {
    let n = read(NET3).unwrap();
    let pipe = n.links.iter().find(|l| l.id == "101").unwrap();
    // 14,200 ft of 18 in from node 10 to node 101
    assert_eq!((n.nodes[pipe.from].id.as_str(), n.nodes[pipe.to].id.as_str()), ("10", "101"));
    assert!((pipe.length.m() - 4328.16).abs() < 1e-9 && (pipe.diameter.m() - 0.4572).abs() < 1e-12);
    let node = &n.nodes[pipe.to];
    assert!((node.height.unwrap().m() - 42.0 * 0.3048).abs() < 1e-12 && node.at.is_some());
    assert!(n.nodes.iter().filter(|n| n.kind == NodeKind::Reservoir).all(|n| n.height.is_none()), "a river's head is no height of a pipe");
    // shut by [STATUS]
    assert!(n.links.iter().any(|l| l.shut || l.kind == LinkKind::Pump));
}

#[test]
fn what_cannot_be_is_refused_at_its_line_and_the_rest_is_read() {
    let file = "[OPTIONS]\nUNITS LPS\n[JUNCTIONS]\nA 1.5\nB\nA 2\nC 1,5\nD 99999\nE nan\nF 3 ; hydrant 7\n[PIPES]\nP1 A B 100 200\nP2 A Z 100 200\nP3 A B -5 200\n\
                P4 A B 10 0\nP1 B F 10 100\nP5 A A 10 100\nP6 A B 10 100 130 0 Ajar\nP7 A\n[NOTHING]\nx y\n[STATUS]\nP9 Closed\nP1 Closed\n[COORDINATES]\nA 1 x\nQ 1 2\n";
    let t = told(file.as_bytes());
    let at: Vec<(usize, &str)> = t.findings.iter().map(|f| (f.line, f.column)).collect();
    let expected = [
        (5, "elevation"),
        (6, "id"),
        (7, "elevation"),
        (8, "elevation"),
        (9, "elevation"),
        (13, "node2"),
        (14, "length"),
        (15, "diameter"),
        (16, "id"),
        (17, "node2"),
        (18, "status"),
        (19, "node2"),
        (20, ""),
        (23, "link"),
        (26, "y"),
        (27, "node"),
    ];
    assert_eq!(at, expected, "{:#?}", t.findings);
    assert_eq!((t.rows_read, t.rows_refused, t.pipes, t.junctions, t.hydrants), (15, 11, 1, 3, 1));
    assert!(read(file.as_bytes()).unwrap().links[0].shut);
    // each a whole sentence, which says what is wrong
    assert!(t.findings.iter().all(|f| f.sentence.ends_with('.') && f.sentence.len() > 20), "{:#?}", t.findings);
    // an empty height is no zero
    assert_eq!(read(file.as_bytes()).unwrap().nodes[1].height, None);
}

#[test]
fn a_file_without_a_unit_says_so_and_one_that_is_none_is_refused() {
    let t = told(b"[JUNCTIONS]\nA 100\nB 0\n[PIPES]\nP A B 1000 12\n");
    assert!((t.length_m - 304.8).abs() < 1e-9 && t.findings[0].sentence.contains("names no unit"), "{:?}", t.findings);
    let t = told(b"[JUNCTIONS]\nA 100\nB 0\n[PIPES]\nP A B 1000 12\n[OPTIONS]\nunits furlongs\n");
    assert!(t.findings[0].line == 7 && t.findings[0].sentence.contains("FURLONGS"), "{:?}", t.findings);
    for none in [&b""[..], b"[TITLE]\nnothing\n", b"tag,elevation\nA,1\n", b"PK\x03\x04\x00\x00"] {
        assert!(read(none).is_err(), "{none:?}");
    }
    // Latin-1
    let t = read(b"[JUNCTIONS]\nM\xfchle 1\nB 2\n[PIPES]\nP M\xfchle B 10 100\n").unwrap();
    assert_eq!((t.nodes[0].id.as_str(), t.links.len()), ("M\u{fc}hle", 1));
}

#[test]
fn what_is_said_about_a_file_that_is_wrong_everywhere_is_bounded() {
    let mut file = "[JUNCTIONS]\n".to_owned();
    for i in 0..5000 {
        file.push_str(&format!("J{i} high\n"));
    }
    let t = told(file.as_bytes());
    assert_eq!((t.rows_refused, t.findings.len(), t.findings_left_out), (5000, 1000, 4001));
}

/// A file by its sections, each with its lines.
fn by_section(text: &str) -> Vec<String> {
    let mut all: Vec<String> = Vec::new();
    for line in text.lines().filter(|l| !l.trim_start().starts_with("[END]")) {
        if line.starts_with('[') || all.is_empty() {
            all.push(String::new());
        }
        let last = all.last_mut().unwrap();
        last.push_str(line);
        last.push('\n');
    }
    all
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]
    #[test]
    fn sections_may_stand_in_any_order(order in Just(by_section(std::str::from_utf8(NET3).unwrap())).prop_shuffle()) {
        let t = told(order.concat().as_bytes());
        let as_it_is = told(NET3);
        prop_assert_eq!((t.pipes, t.junctions, t.rows_refused, t.findings.len()), (as_it_is.pipes, as_it_is.junctions, 0, 0));
        prop_assert!((t.length_m - as_it_is.length_m).abs() < 1e-6);
    }

    #[test]
    fn whatever_stands_in_a_file_is_read_or_refused(lines in prop::collection::vec("(\\[[A-Z]{0,9}\\]?|[ -~]{0,40}|[A-C] [A-C] [A-C] [0-9.,-]{1,5} [0-9]{1,3})", 0..60)) {
        let text = format!("[JUNCTIONS]\nA 1\nB 2\nC 3\n[PIPES]\n{}", lines.join("\n"));
        let n = read(text.as_bytes()).unwrap();
        prop_assert!(n.rows_refused <= n.rows_read);
        prop_assert_eq!(n.nodes.len() + n.links.len() + n.rows_refused, n.rows_read);
        prop_assert!(n.links.iter().all(|l| l.from < n.nodes.len() && l.to < n.nodes.len() && l.length.m().is_finite()));
    }
}
