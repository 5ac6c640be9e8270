//! What to do when no pressure suits all parts: the split, and what taking out a governing part would give.

use crate::basis::Demand;
use crate::basis::entry::Applies;
use crate::limits;
use crate::say::Say;
use crate::split::{self, Bounds, Join, NoSplit};
use crate::system::{Derived, PartWindow, System};
use quantity::GaugePressure;
use serde::{Deserialize, Serialize};
use std::collections::HashMap;

/// Two parts that are joined.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Joint {
    /// Tag of one part.
    pub a: String,
    /// Tag of the other.
    pub b: String,
    /// True where a blind or spade can go between them.
    #[serde(default = "yes")]
    pub can_part: bool,
}

const fn yes() -> bool {
    true
}

/// One sub-system of a split.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct SubSystem {
    /// Tags of its parts.
    pub parts: Vec<String>,
    /// Lower bound at the gauge, Pa.
    pub lower_pa: GaugePressure,
    /// Part that asks the most.
    pub lower_part: String,
    /// Upper bound at the gauge, Pa.
    pub upper_pa: GaugePressure,
    /// Part that bears the least.
    pub upper_part: String,
}

/// A proposal for a system that no pressure suits.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Proposal {
    /// Sub-systems, each with a window; empty where no split helps.
    pub groups: Vec<SubSystem>,
    /// Where it is cut.
    pub cuts: Vec<Joint>,
    /// True where fewer sub-systems are proved to be impossible.
    pub fewest: bool,
    /// True where no joints are entered, so that the parts are taken to follow each other as they are listed.
    pub as_listed: bool,
    /// The proposal and its alternatives, each in a sentence.
    pub sentences: Vec<String>,
}

fn span(p: &PartWindow) -> Bounds {
    Bounds { low: p.gauge_lower_pa.pa(), high: p.gauge_upper_pa.pa() }
}

/// Window of some parts at the gauge; none for no parts.
fn window_of<'a>(parts: impl Iterator<Item = &'a PartWindow>) -> Option<SubSystem> {
    let mut found: Option<SubSystem> = None;
    for p in parts {
        let w = found.get_or_insert_with(|| SubSystem {
            parts: vec![],
            lower_pa: p.gauge_lower_pa,
            lower_part: p.tag.clone(),
            upper_pa: p.gauge_upper_pa,
            upper_part: p.tag.clone(),
        });
        if p.gauge_lower_pa > w.lower_pa {
            (w.lower_pa, w.lower_part) = (p.gauge_lower_pa, p.tag.clone());
        }
        if p.gauge_upper_pa < w.upper_pa {
            (w.upper_pa, w.upper_part) = (p.gauge_upper_pa, p.tag.clone());
        }
        w.parts.push(p.tag.clone());
    }
    found
}

/// Both bounds, the lower rounded up and the upper down.
fn between(w: &SubSystem, say: Say) -> String {
    format!("{} to {}", say.up(w.lower_pa), say.down(w.upper_pa))
}

fn joints(system: &System) -> Vec<Joint> {
    if !system.joints.is_empty() {
        return system.joints.clone();
    }
    system.parts.windows(2).map(|w| Joint { a: w[0].tag.clone(), b: w[1].tag.clone(), can_part: true }).collect()
}

/// What a rule of the basis would allow in place of a split.
fn by_rule(demand: &Demand, d: &Derived, say: Say) -> Vec<String> {
    let Some(bears) = d.parts.iter().find(|p| p.tag == d.upper_part) else { return vec![] };
    let bar = |p: GaugePressure| say.down(p);
    let walls = [limits::hoop::RULE.id, limits::longitudinal::RULE.id, limits::flange::RULE.id];
    let reduce =
        demand.entry.may_reduce.as_ref().filter(|_| !demand.entry.reduced && walls.contains(&bears.limit_rule.as_ref())).map(|r| {
            format!(
                "{} lets the test pressure be reduced to what {} bears, {} at the gauge: answer the question about it on Prove.",
                r.rule.id,
                bears.tag,
                bar(bears.gauge_upper_pa)
            )
        });
    let vessel = demand.entry.with_vessel.as_ref().filter(|_| !demand.entry.vessel_together && bears.kind == "vessel").map(|v| {
        let least = demand.least.pressure.times(v.least_share);
        if bears.limit_pa >= least {
            format!(
                "{} lets piping and {} be tested together at the vessel's test pressure where isolation is not practicable and the owner agrees: it bears {}, and {} is the least.",
                v.rule.id,
                bears.tag,
                bar(bears.limit_pa),
                bar(least)
            )
        } else {
            format!("{} does not help: {} bears {}, less than 77 % of the piping's test pressure ({}).", v.rule.id, bears.tag, bar(bears.limit_pa), bar(least))
        }
    });
    reduce.into_iter().chain(vessel).collect()
}

/// What taking out, or blinding off, one part would give; none where it does not help.
fn without(parts: &[PartWindow], tag: &str, say: Say) -> Option<String> {
    let rest = window_of(parts.iter().filter(|p| p.tag != tag))?;
    (rest.lower_pa <= rest.upper_pa)
        .then(|| format!("With {tag} blinded off or taken out, the rest can be tested at {}.", between(&rest, say)))
}

/// A proposal for parts that no pressure suits. Only for a basis that asks the same at every part: where the lowest point counts, parting the
/// system changes which point that is.
pub(crate) fn proposal(system: &System, demand: &Demand, d: &Derived) -> Option<Proposal> {
    let (parts, asks, bears) = (d.parts.as_slice(), d.lower_part.as_str(), d.upper_part.as_str());
    if demand.entry.applies != Applies::EveryPart {
        return None;
    }
    let joints = joints(system);
    let place: HashMap<&str, usize> = parts.iter().enumerate().map(|(i, p)| (p.tag.as_str(), i)).collect();
    let at = |tag: &String| place.get(tag.as_str()).copied();
    let joins: Vec<Join> = joints.iter().filter_map(|j| Some(Join { a: at(&j.a)?, b: at(&j.b)?, can_part: j.can_part })).collect();
    let spans: Vec<Bounds> = parts.iter().map(span).collect();
    let mut sentences: Vec<String> = Vec::new();
    let (groups, cuts, fewest) = match split::split(&spans, &joins) {
        Ok(s) => {
            let groups: Vec<SubSystem> = (0..s.groups)
                .filter_map(|g| window_of(parts.iter().zip(&s.group_of).filter(|(_, of)| **of == g).map(|(p, _)| p)))
                .collect();
            let cuts: Vec<Joint> = s.cuts.iter().map(|k| joints[*k].clone()).collect();
            sentences.push(split_words(&groups, &cuts, system.joints.is_empty(), system.say()));
            (groups, cuts, s.fewest)
        }
        Err(NoSplit::Fused(fused)) => {
            let tags: Vec<&str> = fused.iter().map(|i| parts[*i].tag.as_str()).collect();
            sentences.push(if let [alone] = tags.as_slice() {
                format!("No split helps: {alone} by itself is asked more than it bears.")
            } else {
                format!(
                "No split helps: {} cannot be parted from each other and have no pressure in common. Make a place for a blind between them, or take one out.",
                tags.join(", ")
                )
            });
            (vec![], vec![], true)
        }
    };
    sentences.extend(by_rule(demand, d, system.say()));
    sentences.extend([bears, asks].into_iter().filter_map(|tag| without(parts, tag, system.say())));
    Some(Proposal { groups, cuts, fewest, as_listed: system.joints.is_empty(), sentences })
}

fn split_words(groups: &[SubSystem], cuts: &[Joint], as_listed: bool, say: Say) -> String {
    let windows: Vec<String> = groups
        .iter()
        .map(|g| {
            let named = if g.parts.len() <= 3 {
                g.parts.join(", ")
            } else {
                format!("{} to {}, {} parts", g.parts[0], g.parts[g.parts.len() - 1], g.parts.len())
            };
            format!("{named} at {}", between(g, say))
        })
        .collect();
    let at: Vec<String> = cuts.iter().map(|c| format!("{} and {}", c.a, c.b)).collect();
    let listed = if as_listed { " No joints are entered, so the parts are taken to follow each other as they are listed." } else { "" };
    format!("Test it in {}: {}; part it between {}.{listed}", groups.len(), windows.join("; "), at.join(", between "))
}
