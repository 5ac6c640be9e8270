//! A water network as rows of the grid: pipes between their junctions, each end at its height; what the network knows of no wall and no class is asked for in the grid.
//!
//! The diameter of such a file is the bore as a rule, never the outside: it gives the room of a pipe, not its wall. Tanks, reservoirs and pumps are listed and stand beyond the
//! test; a valve of the network is one that controls. Nothing of its demands, curves and patterns is taken.

use crate::network::{Link, LinkKind, Network, NodeKind};
use crate::parts::GridRow;
use quantity::Length;

fn row(cells: &[(&str, String)]) -> GridRow {
    let typed = cells.iter().filter(|(_, c)| !c.is_empty()).map(|(n, c)| ((*n).to_owned(), c.clone()));
    GridRow { typed: typed.collect(), ..GridRow::default() }
}

/// Rows of a network, in the order of the file: what joins, then what stands at its nodes.
pub fn rows(network: &Network) -> Vec<GridRow> {
    let name = |n: usize| network.nodes.get(n).map_or_else(String::new, |n| n.id.clone());
    let height = |n: usize| network.nodes.get(n).and_then(|n| n.height).map_or_else(String::new, metres);
    let mut all = Vec::new();
    for link in &network.links {
        let ends = |tag: String, kind: &str, from: String, z: String, to: String, to_z: String| {
            vec![("tag", tag), ("kind", kind.to_owned()), ("from", from), ("height", z), ("to", to), ("to height", to_z)]
        };
        let (from, to) = (name(link.from), name(link.to));
        let whole = |kind: &str| ends(link.id.clone(), kind, from.clone(), height(link.from), to.clone(), height(link.to));
        match link.kind {
            LinkKind::Pump => all.push(row(&[whole("machine"), vec![("position", "beyond the test".to_owned())]].concat())),
            LinkKind::Valve => all.push(row(&whole("control valve"))),
            LinkKind::Pipe | LinkKind::CheckedPipe => {
                let valve = match (link.kind, link.shut) {
                    (_, true) => Some("closed valve"),
                    (LinkKind::CheckedPipe, _) => Some("check valve"),
                    _ => None,
                };
                let begins = valve.map_or_else(|| from.clone(), |_| format!("{} in the pipe", link.id));
                if let Some(kind) = valve {
                    let cells = ends(format!("{} valve", link.id), kind, from.clone(), height(link.from), begins.clone(), String::new());
                    all.push(row(&cells));
                }
                let mut cells = ends(link.id.clone(), "pipe", begins, height(link.from), to.clone(), height(link.to));
                cells.push(("length", metres(link.length)));
                cells.push(("volume", format!("{} m³", room(link))));
                all.push(row(&cells));
            }
        }
    }
    for (n, node) in network.nodes.iter().enumerate() {
        let at = [("tag", node.id.clone()), ("from", node.id.clone()), ("height", height(n))];
        let kind = |kind: &str, position: &str| [at.to_vec(), vec![("kind", kind.to_owned()), ("position", position.to_owned())]].concat();
        match node.kind {
            NodeKind::Tank | NodeKind::Reservoir => all.push(row(&kind("vessel", "beyond the test"))),
            NodeKind::Junction if node.hydrant => all.push(row(&kind("hydrant", ""))),
            NodeKind::Junction => {}
        }
    }
    unlike_tags(&mut all);
    all
}

/// A length as it is typed, to the micrometre: a foot is no round number of metres.
fn metres(l: Length) -> String {
    format!("{} m", (l.m() * 1e6).round() / 1e6)
}

/// Room of a pipe, m³: π/4·D²·L.
fn room(link: &Link) -> f64 {
    std::f64::consts::FRAC_PI_4 * link.diameter.m() * link.diameter.m() * link.length.m()
}

/// A node and a link of one name are told apart.
fn unlike_tags(rows: &mut [GridRow]) {
    let mut seen = std::collections::HashSet::new();
    for row in rows {
        let (tag, kind) = (row.cell("tag").to_owned(), row.cell("kind").to_owned());
        if !seen.insert(tag.clone()) {
            let other = format!("{kind} {tag}");
            seen.insert(other.clone());
            row.typed.insert("tag".to_owned(), other);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::network::read;

    const FILE: &str = "[JUNCTIONS]\nJ1 10\nJ2 20\n[RESERVOIRS]\nR 30\n[PIPES]\n1 R J1 100 200 100\n2 J1 J2 50 200 100 0 CV\n3 J2 J1 70 100 100 0 Closed\n[PUMPS]\n9 R J2 POWER 1\n[VALVES]\n1v J1 J2 200 PRV 5\n[OPTIONS]\nUnits LPS\n";

    #[test]
    fn pipes_are_joined_at_their_heights_and_hold_their_room() {
        let network = read(FILE.as_bytes()).unwrap();
        let rows = rows(&network);
        let of = |tag: &str| rows.iter().find(|r| r.cell("tag") == tag).unwrap_or_else(|| panic!("{tag}: {rows:?}"));
        assert_eq!((of("2").cell("from"), of("2").cell("to"), of("2").cell("to height")), ("2 in the pipe", "J2", "20 m"));
        assert_eq!((of("2 valve").cell("kind"), of("3 valve").cell("kind")), ("check valve", "closed valve"));
        assert_eq!((of("9").cell("kind"), of("9").cell("position")), ("machine", "beyond the test"));
        assert_eq!(of("1v").cell("kind"), "control valve");
        assert_eq!(of("R").cell("position"), "beyond the test");
        let volume: f64 = of("2").cell("volume").trim_end_matches(" m³").parse().unwrap();
        assert!((volume - std::f64::consts::PI * 0.01 * 50.0).abs() < 1e-12);
    }
}
