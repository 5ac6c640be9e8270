//! Water networks from INP files, the open text format in which they are exchanged: pipes, junctions with heights, valves, pumps, tanks, coordinates.
//!
//! Sections stand in any order, `;` begins a comment, lengths follow the unit of flow (OPTIONS, UNITS): feet and inches for CFS, GPM, MGD, IMGD and AFD,
//! metres and millimetres for LPS, LPM, MLD, CMH, CMD and CMS. A row that cannot be what it stands for is refused at its line; nothing is guessed.

use crate::delimited::{TableError, decode};
use quantity::Length;
use serde::Serialize;
use std::collections::HashMap;

/// Longest file, bytes. A network of a hundred thousand pipes has some ten.
pub const LONGEST: u64 = 32 << 20;

/// Most that is said about one file; what comes after is counted.
const MOST_FINDINGS: usize = 1000;

/// A network as a file has it.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Network {
    /// Unit of flow that the file names; empty where it names none and GPM is meant by the format.
    pub unit: String,
    /// Junctions, tanks and reservoirs.
    pub nodes: Vec<Node>,
    /// Pipes, valves and pumps.
    pub links: Vec<Link>,
    /// Rows of nodes and links that were read.
    pub rows_read: usize,
    /// Of them refused.
    pub rows_refused: usize,
    /// What stands against it, or has to be known about it.
    pub findings: Vec<Finding>,
    /// How many more findings there are than are listed.
    pub findings_left_out: usize,
}

/// Something about a place of a file.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Finding {
    /// Line, from 1; 0 for the file.
    pub line: usize,
    /// Column by its name; empty for the row.
    pub column: &'static str,
    /// What, why, and what to do.
    pub sentence: String,
}

/// What a node is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum NodeKind {
    /// Where pipes meet.
    Junction,
    /// A tank: not in the test.
    Tank,
    /// A reservoir or river: not in the test.
    Reservoir,
}

/// A point of a network.
#[derive(Debug, Clone, PartialEq)]
pub struct Node {
    /// Name.
    pub id: String,
    /// What it is.
    pub kind: NodeKind,
    /// Height; none where the file has none (an empty height is no zero), and of a reservoir, whose head is that of its water.
    pub height: Option<Length>,
    /// Where it lies, in the file's own coordinates.
    pub at: Option<(f64, f64)>,
    /// Marked as a hydrant.
    pub hydrant: bool,
}

/// What a link is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LinkKind {
    /// A pipe; its length and diameter are known.
    Pipe,
    /// A pipe with a check valve.
    CheckedPipe,
    /// A valve.
    Valve,
    /// A pump: not in the test.
    Pump,
}

/// What joins two nodes.
#[derive(Debug, Clone, PartialEq)]
pub struct Link {
    /// Name.
    pub id: String,
    /// What it is.
    pub kind: LinkKind,
    /// Node where it begins, by its place in `nodes`.
    pub from: usize,
    /// Node where it ends.
    pub to: usize,
    /// Length; nil of a valve or pump.
    pub length: Length,
    /// Diameter as the file has it, which is the bore as a rule; nil of a pump.
    pub diameter: Length,
    /// Shut, by the file.
    pub shut: bool,
}

/// Whether a file looks like a network: its first line that is no comment and not empty begins a section.
pub fn is_network(text: &str) -> bool {
    text.lines().map(str::trim).find(|l| !l.is_empty() && !l.starts_with(';')).is_some_and(|l| l.starts_with('['))
}

/// Sections that say something here; those of the format that say nothing about pipes at rest are passed over, any other is found.
const READ: [&str; 11] =
    ["JUNCTIONS", "RESERVOIRS", "TANKS", "PIPES", "PUMPS", "VALVES", "OPTIONS", "STATUS", "TAGS", "COORDINATES", "TITLE"];
const PASSED: [&str; 17] = [
    "DEMANDS",
    "EMITTERS",
    "CURVES",
    "PATTERNS",
    "ENERGY",
    "CONTROLS",
    "RULES",
    "QUALITY",
    "SOURCES",
    "REACTIONS",
    "MIXING",
    "TIMES",
    "REPORT",
    "VERTICES",
    "LABELS",
    "BACKDROP",
    "ROUGHNESS",
];

/// Reads a network.
///
/// # Errors
/// When it is no text, or has no section that names pipes or junctions.
pub fn read(bytes: &[u8]) -> Result<Network, TableError> {
    let (text, _) = decode(bytes)?;
    let mut reading = Reading { lines: sections(&text), network: Network::default(), ids: HashMap::new(), links: HashMap::new() };
    reading.unknown_sections();
    if !reading.lines.iter().any(|l| ["JUNCTIONS", "PIPES"].contains(&l.section)) {
        return Err(TableError::Broken {
            line: 1,
            what: "it has neither a section [JUNCTIONS] nor one [PIPES]: it is no water network".to_owned(),
        });
    }
    let metric = reading.options();
    reading.nodes(metric);
    reading.pipes(metric);
    reading.others(metric);
    reading.placed();
    reading.network.findings.sort_by_key(|f| f.line);
    Ok(reading.network)
}

/// A line of a section, without its comment.
struct Line<'a> {
    section: &'static str,
    number: usize,
    cells: Vec<&'a str>,
    comment: &'a str,
}

/// Lines that say something, each with the section it stands in; a section that is not known has the lines of its head alone.
fn sections(text: &str) -> Vec<Line<'_>> {
    let mut section = "";
    let mut all = Vec::new();
    for (i, raw) in text.lines().enumerate() {
        let (said, comment) = raw.split_once(';').unwrap_or((raw, ""));
        let said = said.trim();
        if said.is_empty() {
            continue;
        }
        if let Some(head) = said.strip_prefix('[') {
            let name = head.split(']').next().unwrap_or_default().trim().to_uppercase();
            if name.starts_with("END") {
                break;
            }
            section = known(&name);
            if section.is_empty() {
                all.push(Line { section: "", number: i + 1, cells: vec![head.split(']').next().unwrap_or_default()], comment });
            }
            continue;
        }
        if READ.contains(&section) && section != "TITLE" {
            all.push(Line { section, number: i + 1, cells: said.split_whitespace().collect(), comment });
        }
    }
    all
}

/// A section by its name, or by the four letters or more with which it begins.
fn known(name: &str) -> &'static str {
    READ.iter().chain(&PASSED).find(|s| **s == name || (name.len() >= 4 && s.starts_with(name))).copied().unwrap_or_default()
}

struct Reading<'a> {
    lines: Vec<Line<'a>>,
    network: Network,
    ids: HashMap<&'a str, usize>,
    links: HashMap<&'a str, usize>,
}

/// Why a row is refused.
type Refused = (&'static str, String);

/// A figure of a row; `least` is refused too where `open`.
fn figure(cells: &[&str], at: usize, column: &'static str, what: &str) -> Result<f64, Refused> {
    let text = cells.get(at).ok_or_else(|| (column, format!("{what} is missing.")))?;
    match text.parse::<f64>() {
        Ok(v) if v.is_finite() => Ok(v),
        _ if text.contains(',') => {
            Err((column, format!("\u{201c}{text}\u{201d} is no figure of this format: {what} is written with a point.")))
        }
        _ => Err((column, format!("\u{201c}{text}\u{201d} is no figure: {what} is one."))),
    }
}

/// A figure above nil.
fn above_nil(cells: &[&str], at: usize, column: &'static str, what: &str) -> Result<f64, Refused> {
    let v = figure(cells, at, column, what)?;
    if v > 0.0 { Ok(v) } else { Err((column, format!("{what} is {v}: it has to be more than nil."))) }
}

/// Heights on earth, m.
const HEIGHTS: std::ops::RangeInclusive<f64> = -1000.0..=9000.0;

impl<'a> Reading<'a> {
    fn say(&mut self, line: usize, column: &'static str, sentence: String) {
        if self.network.findings.len() < MOST_FINDINGS {
            self.network.findings.push(Finding { line, column, sentence });
        } else {
            self.network.findings_left_out += 1;
        }
    }

    fn refuse(&mut self, line: usize, (column, why): Refused) {
        self.network.rows_refused += 1;
        self.say(line, column, why);
    }

    fn unknown_sections(&mut self) {
        let heads: Vec<(usize, &str)> = self.lines.iter().filter(|l| l.section.is_empty()).map(|l| (l.number, l.cells[0])).collect();
        for (line, name) in heads {
            self.say(line, "", format!("[{name}] is no section of this format: it is passed over."));
        }
    }

    /// Whether lengths are metric.
    fn options(&mut self) -> bool {
        let said: Option<(usize, String)> = self
            .lines
            .iter()
            .rfind(|l| l.section == "OPTIONS" && l.cells[0].eq_ignore_ascii_case("UNITS"))
            .map(|l| (l.number, l.cells.get(1).copied().unwrap_or_default().to_uppercase()));
        match said {
            Some((_, unit)) if ["LPS", "LPM", "MLD", "CMH", "CMD", "CMS", "SI"].contains(&unit.as_str()) => {
                self.network.unit = unit;
                true
            }
            Some((_, unit)) if ["CFS", "GPM", "MGD", "IMGD", "AFD"].contains(&unit.as_str()) => {
                self.network.unit = unit;
                false
            }
            Some((line, unit)) => {
                self.say(line, "units", format!("\u{201c}{unit}\u{201d} is no unit of this format: feet and inches are taken, as where none is named. Check the lengths."));
                false
            }
            None => {
                self.say(
                    0,
                    "units",
                    "The file names no unit: feet and inches are taken, as its format has it. Check the lengths.".to_owned(),
                );
                false
            }
        }
    }

    /// Takes the lines of a section, so that they can be read while findings are made.
    fn take(&mut self, section: &str) -> Vec<(usize, Vec<&'a str>, &'a str)> {
        self.lines.iter_mut().filter(|l| l.section == section).map(|l| (l.number, std::mem::take(&mut l.cells), l.comment)).collect()
    }

    fn nodes(&mut self, metric: bool) {
        for (section, kind) in [("JUNCTIONS", NodeKind::Junction), ("RESERVOIRS", NodeKind::Reservoir), ("TANKS", NodeKind::Tank)] {
            for (line, cells, comment) in self.take(section) {
                self.network.rows_read += 1;
                let id = cells[0];
                if self.ids.contains_key(id) {
                    self.refuse(line, ("id", format!("{id} is there already: each node has a name of its own.")));
                    continue;
                }
                let height = match cells.get(1) {
                    // its head is that of its water
                    _ if kind == NodeKind::Reservoir => None,
                    None => {
                        self.say(line, "elevation", format!("{id} has no height: without it nothing is said about pockets, drains and pressures there. Measure it, or take it from the drawing."));
                        None
                    }
                    Some(_) => match figure(&cells, 1, "elevation", "a height").map(|v| if metric { v } else { v * FOOT }) {
                        Ok(m) if HEIGHTS.contains(&m) => Some(Length::from_m(m)),
                        Ok(m) => {
                            self.refuse(
                                line,
                                ("elevation", format!("{id} would lie {m:.0}\u{a0}m high: no place does. Check the figure and its unit.")),
                            );
                            continue;
                        }
                        Err(why) => {
                            self.refuse(line, why);
                            continue;
                        }
                    },
                };
                self.ids.insert(id, self.network.nodes.len());
                let hydrant = comment.to_lowercase().contains("hydrant");
                self.network.nodes.push(Node { id: id.to_owned(), kind, height, at: None, hydrant });
            }
        }
    }

    /// Both ends of a link.
    fn ends(&self, cells: &[&str]) -> Result<(usize, usize), Refused> {
        let end = |at: usize, column: &'static str| {
            let name = cells.get(at).ok_or_else(|| (column, "The node at this end is missing.".to_owned()))?;
            self.ids
                .get(name)
                .copied()
                .ok_or_else(|| (column, format!("{name} is no node of this file, or was refused: put it under [JUNCTIONS].")))
        };
        let (from, to) = (end(1, "node1")?, end(2, "node2")?);
        if from == to { Err(("node2", format!("It begins and ends at {}: it joins nothing.", cells[1]))) } else { Ok((from, to)) }
    }

    fn link(&mut self, line: usize, cells: &[&'a str], read: impl FnOnce(&Self) -> Result<Link, Refused>) {
        self.network.rows_read += 1;
        let id = cells[0];
        if self.links.contains_key(id) {
            return self.refuse(line, ("id", format!("{id} is there already: each link has a name of its own.")));
        }
        match read(self) {
            Ok(link) => {
                self.links.insert(id, self.network.links.len());
                self.network.links.push(link);
            }
            Err(why) => self.refuse(line, why),
        }
    }

    fn pipes(&mut self, metric: bool) {
        let (long, across) = if metric { (1.0, 1e-3) } else { (FOOT, INCH) };
        for (line, cells, _) in self.take("PIPES") {
            self.link(line, &cells, |me| {
                let (from, to) = me.ends(&cells)?;
                let length = above_nil(&cells, 3, "length", "the length")?;
                let diameter = above_nil(&cells, 4, "diameter", "the diameter")?;
                let (kind, shut) = match cells.get(7).copied().unwrap_or("OPEN").to_uppercase().as_str() {
                    "OPEN" => (LinkKind::Pipe, false),
                    "CLOSED" => (LinkKind::Pipe, true),
                    "CV" => (LinkKind::CheckedPipe, false),
                    other => return Err(("status", format!("\u{201c}{other}\u{201d} is no state of a pipe: Open, Closed or CV."))),
                };
                Ok(Link {
                    id: cells[0].to_owned(),
                    kind,
                    from,
                    to,
                    length: Length::from_m(length * long),
                    diameter: Length::from_m(diameter * across),
                    shut,
                })
            });
        }
    }

    fn others(&mut self, metric: bool) {
        let across = if metric { 1e-3 } else { INCH };
        for (section, kind) in [("VALVES", LinkKind::Valve), ("PUMPS", LinkKind::Pump)] {
            for (line, cells, _) in self.take(section) {
                self.link(line, &cells, |me| {
                    let (from, to) = me.ends(&cells)?;
                    let diameter = if kind == LinkKind::Valve { above_nil(&cells, 3, "diameter", "the diameter")? } else { 0.0 };
                    let (length, diameter) = (Length::from_m(0.0), Length::from_m(diameter * across));
                    Ok(Link { id: cells[0].to_owned(), kind, from, to, length, diameter, shut: false })
                });
            }
        }
        for (line, cells, _) in self.take("STATUS") {
            match (self.links.get(cells[0]).copied(), cells.get(1).map(|s| s.to_uppercase())) {
                (None, _) => self.say(line, "link", format!("{} is no link of this file, or was refused.", cells[0])),
                (Some(link), Some(state)) if state == "CLOSED" || state == "OPEN" => self.network.links[link].shut = state == "CLOSED",
                // the speed of a pump, the setting of a valve
                (Some(_), _) => {}
            }
        }
    }

    /// Coordinates and marks of nodes.
    fn placed(&mut self) {
        for (line, cells, _) in self.take("COORDINATES") {
            let Some(node) = self.ids.get(cells[0]).copied() else {
                self.say(line, "node", format!("{} is no node of this file, or was refused.", cells[0]));
                continue;
            };
            match (figure(&cells, 1, "x", "a coordinate"), figure(&cells, 2, "y", "a coordinate")) {
                (Ok(x), Ok(y)) => self.network.nodes[node].at = Some((x, y)),
                (Err((column, why)), _) | (_, Err((column, why))) => self.say(line, column, why),
            }
        }
        for (_, cells, _) in self.take("TAGS") {
            let marked =
                cells.len() > 2 && cells[0].eq_ignore_ascii_case("NODE") && cells[2..].iter().any(|t| t.to_lowercase().contains("hydrant"));
            if let Some(node) = self.ids.get(cells.get(1).copied().unwrap_or_default()).filter(|_| marked) {
                self.network.nodes[*node].hydrant = true;
            }
        }
    }
}

/// The international foot and inch, m.
const FOOT: f64 = 0.3048;
const INCH: f64 = 0.0254;

/// What a network comes to.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Told {
    /// Rows of nodes and links that were read.
    pub rows_read: usize,
    /// Of them refused.
    pub rows_refused: usize,
    /// Pipes.
    pub pipes: usize,
    /// Junctions.
    pub junctions: usize,
    /// Of them marked as hydrants.
    pub hydrants: usize,
    /// Tanks and reservoirs, which are not in a test.
    pub tanks_and_reservoirs: usize,
    /// Valves.
    pub valves: usize,
    /// Pumps, which are not in a test.
    pub pumps: usize,
    /// Length of all pipes, m.
    pub length_m: f64,
    /// Room inside the pipes, m³: Σ π/4 · D² · L, tanks not counted.
    pub volume_m3: f64,
    /// Lowest and highest junction, m; none where no junction has a height.
    pub heights_m: Option<(f64, f64)>,
    /// Findings.
    pub findings: Vec<Finding>,
    /// How many more there are.
    pub findings_left_out: usize,
}

impl Network {
    /// What it comes to.
    pub fn told(self) -> Told {
        let links = |of: &[LinkKind]| self.links.iter().filter(|l| of.contains(&l.kind)).count();
        let pipes = [LinkKind::Pipe, LinkKind::CheckedPipe];
        let of = || self.links.iter().filter(|l| pipes.contains(&l.kind));
        let heights = self.nodes.iter().filter(|n| n.kind == NodeKind::Junction).filter_map(|n| Some(n.height?.m()));
        Told {
            rows_read: self.rows_read,
            rows_refused: self.rows_refused,
            pipes: links(&pipes),
            junctions: self.nodes.iter().filter(|n| n.kind == NodeKind::Junction).count(),
            hydrants: self.nodes.iter().filter(|n| n.hydrant).count(),
            tanks_and_reservoirs: self.nodes.iter().filter(|n| n.kind != NodeKind::Junction).count(),
            valves: links(&[LinkKind::Valve]),
            pumps: links(&[LinkKind::Pump]),
            length_m: of().map(|l| l.length.m()).sum(),
            volume_m3: of().map(|l| std::f64::consts::FRAC_PI_4 * l.diameter.m().powi(2) * l.length.m()).sum(),
            heights_m: heights.fold(None, |all: Option<(f64, f64)>, z| Some(all.map_or((z, z), |(lo, hi)| (lo.min(z), hi.max(z))))),
            findings: self.findings,
            findings_left_out: self.findings_left_out,
        }
    }
}
