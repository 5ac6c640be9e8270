//! Sections that can be isolated: what stays under pressure behind a valve that is shut after the test, unless its own pressure is let off and shown to be gone.

use crate::pressure::pieces;
use crate::survey::Survey;
use rules::part::Part;
use serde::Serialize;

/// A section that valves can cut off.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
#[schema(as = IsolatedSection)]
pub struct Section {
    /// Tags of its parts that have room.
    pub parts: Vec<String>,
    /// Tags of the valves that cut it off.
    pub between: Vec<String>,
    /// Room, m³.
    pub volume_m3: f64,
    /// Tags of the vents, drains and gauges that show or let off its pressure.
    pub shows_zero: Vec<String>,
    /// What is asked before anybody opens it.
    pub asks: String,
}

/// True for what somebody can shut.
fn can_shut(part: &Part) -> bool {
    part.kind.valve()
}

/// The sections, the largest first. What never sees the pressure is none.
pub fn sections(s: &Survey) -> Vec<Section> {
    let joined = &s.test;
    let mut cut = vec![false; joined.network.runs.len()];
    for (part, place) in s.parts.iter().zip(&joined.places) {
        if let Some(run) = place.and_then(|p| p.run).filter(|_| can_shut(part)) {
            cut[run] = true;
        }
    }
    let pieces = pieces(&joined.network, &cut);
    let mut piece_of = vec![0; joined.network.points.len()];
    for (n, points) in pieces.iter().enumerate() {
        points.iter().for_each(|p| piece_of[*p] = n);
    }
    let (mut inside, mut between) = (vec![Vec::new(); pieces.len()], vec![Vec::new(); pieces.len()]);
    for (i, place) in joined.places.iter().enumerate() {
        let Some(place) = place else { continue };
        let (a, b) = (piece_of[place.from], piece_of[place.to]);
        if can_shut(&s.parts[i]) {
            between[a].push(i);
            if b != a {
                between[b].push(i);
            }
        } else {
            inside[a].push(i);
        }
    }
    let tags = |of: &[usize], that: &dyn Fn(&Part) -> bool| -> Vec<String> {
        of.iter().map(|i| &s.parts[*i]).filter(|p| that(p)).map(|p| p.tag.clone()).collect()
    };
    let room = |p: &Part| p.volume().m3() > 0.0;
    let mut all: Vec<Section> = (0..pieces.len())
        .filter(|n| pieces[*n].iter().any(|p| s.pressed[*p]))
        .filter_map(|n| {
            let volume: f64 = inside[n].iter().map(|i| s.parts[*i].volume().m3()).sum();
            let (parts, between, shows) = (tags(&inside[n], &room), tags(&between[n], &|_| true), tags(&inside[n], &shows));
            (volume > 0.0).then(|| Section { asks: asks(&parts, &between, &shows), parts, between, volume_m3: volume, shows_zero: shows })
        })
        .collect();
    all.sort_by(|a, b| b.volume_m3.total_cmp(&a.volume_m3));
    all
}

fn shows(part: &Part) -> bool {
    use rules::part::PartKind as K;
    matches!(part.kind, K::Vent | K::Drain | K::GaugePoint)
}

fn asks(parts: &[String], between: &[String], shows: &[String]) -> String {
    let name = parts.first().map_or("this section", String::as_str);
    let more = if parts.len() > 1 { format!(" and {} more", parts.len() - 1) } else { String::new() };
    match (between, shows) {
        ([], _) => format!("{name}{more}: show that its pressure is gone before anything is opened."),
        (_, []) => format!(
            "{name}{more}: nothing shows its pressure once {} is shut. Keep that open until everything is at zero.",
            between.join(" or ")
        ),
        (_, shows) => format!("{name}{more}, behind {}: open {} and see it at zero.", between.join(" and "), shows.join(" or ")),
    }
}
