//! How long draining takes, stretch by stretch, what stays, and what the vacuum would do while no vent is open.

use crate::draining::Stays;
use crate::survey::Survey;
use quantity::{Length, STANDARD_ATMOSPHERE, STANDARD_GRAVITY, Span};
use rules::consequences::drain;
use serde::Serialize;

/// Discharge of an outlet and the time of a column follow [`rules::consequences::drain::time`]: t = V/(h·C_d·a)·√(2h/g), for a stretch the difference of two such.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
#[schema(as = DrainStretch)]
pub struct Stretch {
    /// Level from which it falls, m.
    pub from_m: f64,
    /// Level to which it falls, m.
    pub to_m: f64,
    /// What runs off in it, m³.
    pub volume_m3: f64,
    /// How long that takes, s; absent where the bore of the drain is not given.
    pub time_s: Option<f64>,
}

/// Water that stays after draining.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct WaterLeft {
    /// Its lowest point, where a drain lets it off; of what a vacuum holds up its highest.
    pub point: usize,
    /// Where that is.
    pub place: String,
    /// How much, m³.
    pub volume_m3: f64,
    /// True where no air comes to it.
    pub held_by_vacuum: bool,
    /// What to do.
    pub cure: String,
    /// Tags of the parts that it is in.
    pub parts: Vec<String>,
}

/// A part that would collapse while the column pulls and no vent is open.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Collapse {
    /// Its tag.
    pub part: String,
    /// What it bears if perfectly round and long, Pa.
    pub bears_pa: f64,
    /// What the column pulls at its height, Pa.
    pub pulled_pa: f64,
}

/// Most stretches that are told apart.
const MOST: usize = 60;

/// Stretches of the falling level, from the top.
pub fn stretches(s: &Survey) -> Vec<Stretch> {
    let all = s.draining.heights();
    let few = all.len().div_ceil(MOST).max(1);
    let mut heights: Vec<Length> = all.iter().copied().step_by(few).collect();
    heights.extend(all.last().filter(|l| heights.last() != Some(*l)).copied());
    let network = &s.drain.network;
    let outlet = s.drains.iter().map(|p| network.points[*p]).min_by(|a, b| a.m().total_cmp(&b.m()));
    let bore = s.facts.system.site.drain_bore_m;
    let off = |z: Length| s.draining.at(network, z).volume.m3();
    heights
        .windows(2)
        .map(|w| {
            let volume = off(w[1]) - off(w[0]);
            let time = outlet.zip(bore).map(|(z, bore)| {
                let height = (w[0] - w[1]).m();
                let section = volume / height;
                let head = |level: Length| Length::from_m((level - z).m().max(0.0));
                (drain::time(section, bore, head(w[0])).s() - drain::time(section, bore, head(w[1])).s()).max(0.0)
            });
            Stretch { from_m: w[0].m(), to_m: w[1].m(), volume_m3: volume, time_s: time.filter(|t| t.is_finite()) }
        })
        .filter(|x| x.volume_m3 > 0.0)
        .collect()
}

/// Time of all stretches; none where one of them has none.
pub fn time(stretches: &[Stretch]) -> Option<Span> {
    let all: Option<f64> = stretches.iter().map(|x| x.time_s).sum();
    all.filter(|_| !stretches.is_empty()).map(Span::from_s)
}

/// What stays, the largest first; nothing is told of what lies at a riser that nobody measured.
pub fn left(s: &Survey) -> Vec<WaterLeft> {
    let network = &s.drain.network;
    let step = |r: usize| s.unmeasured[network.runs[r].from] || s.unmeasured[network.runs[r].to];
    let known = s.draining.left.iter().filter(|l| !l.runs.iter().any(|(r, _)| step(*r)));
    known
        .map(|l| {
            let vacuum = l.why == Stays::Vacuum;
            WaterLeft {
                point: l.at,
                place: s.place_at(l.at),
                volume_m3: l.volume.m3(),
                held_by_vacuum: vacuum,
                cure: format!("Put a {} at {}.", if vacuum { "vent" } else { "drain" }, s.place(l.at)),
                parts: l.runs.iter().filter_map(|(r, _)| s.part_of_run(*r)).map(|i| s.parts[i].tag.clone()).collect(),
            }
        })
        .collect()
}

/// Parts that would collapse if a drain were opened while no vent is: elastic collapse of a long round tube, 2E/(1−ν²)·(t/D)³, against the column from the part down to the
/// lowest drain, at most the atmosphere. Half of what it bears is counted, for it is never quite round (common practice).
pub fn collapses(s: &Survey) -> Vec<Collapse> {
    let network = &s.drain.network;
    let Some(outlet) = s.drains.iter().map(|p| network.points[*p].m()).min_by(f64::total_cmp) else { return vec![] };
    let density = s.facts.derived.map_or(1000.0, |d| d.density_kg_m3.kg_m3());
    let Ok(library) = s.facts.system.library() else { return vec![] };
    let one = |(i, part): (usize, &rules::part::Part)| {
        part.bore()?;
        let (d, t) = (part.outside_diameter_m?, part.wall_m?);
        let elastic = library.material(part.material.as_deref()?).ok()?.elastic;
        let bears = drain::collapse(elastic.youngs_modulus_pa, elastic.poisson_ratio, t, d).pa();
        let place = s.drain.places[i]?;
        let high = network.points[place.from].m().max(network.points[place.to].m());
        let pulled = (density * STANDARD_GRAVITY * (high - outlet)).min(STANDARD_ATMOSPHERE.pa());
        (bears < 2.0 * pulled).then(|| Collapse { part: part.tag.clone(), bears_pa: bears, pulled_pa: pulled })
    };
    s.pressed_parts().filter_map(one).collect()
}
