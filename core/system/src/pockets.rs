//! Air that stays: how much of it at filling and at the test pressure, what share of the system, and what would let it out.

use crate::filling::filling;
use crate::survey::Survey;
use quantity::{Length, STANDARD_ATMOSPHERE, Volume};
use rules::part::PartKind;
use rules::system::AIR_FRACTION_LIMIT;
use serde::Serialize;

/// A pocket of air.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct AirPocket {
    /// Its highest point: where a vent lets it out.
    pub point: usize,
    /// Where that is, as a person would say it.
    pub place: String,
    /// At the pressure at which it is filled, m³.
    pub volume_m3: f64,
    /// At the planned test pressure, m³; absent where none follows yet.
    pub at_test_m3: Option<f64>,
    /// Share of the system's volume.
    pub share: f64,
    /// True where it alone passes the usual limit.
    pub over_limit: bool,
    /// The cheapest cure, in a sentence.
    pub cure: String,
    /// Tags of the parts that it is in.
    pub parts: Vec<String>,
}

/// Most pockets whose other cures are looked for; each costs a filling.
const MOST_CURES: usize = 12;

/// The pockets that are left, the largest first; those at a riser that nobody measured are left out: nothing can be said there.
pub(crate) fn pockets(s: &Survey) -> Vec<AirPocket> {
    let all = s.fill.network.volume().m3();
    let known = |p: &&crate::filling::Pocket| !p.runs.iter().any(|(r, _)| at_step(s, *r));
    s.filling
        .pockets
        .iter()
        .filter(known)
        .enumerate()
        .map(|(n, p)| {
            let share = p.volume.m3() / all;
            // isothermal: what is pressed together keeps p·V
            let at_test =
                s.pressure_at(s.height(p.at)).map(|t| p.volume.m3() * STANDARD_ATMOSPHERE.pa() / t.absolute(STANDARD_ATMOSPHERE).pa());
            AirPocket {
                point: p.at,
                place: s.place_at(p.at),
                volume_m3: p.volume.m3(),
                at_test_m3: at_test,
                share,
                over_limit: share > AIR_FRACTION_LIMIT,
                cure: cure(s, p, n < MOST_CURES),
                parts: p.runs.iter().filter_map(|(r, _)| s.part_of_run(*r)).map(|i| s.parts[i].tag.clone()).collect(),
            }
        })
        .collect()
}

/// True for a run with an end at a riser that nobody measured.
fn at_step(s: &Survey, run: usize) -> bool {
    let r = s.fill.network.runs[run];
    s.unmeasured[r.from] || s.unmeasured[r.to]
}

/// "Put a vent here", and what would do as well: a tilt of a vessel, another place to fill from.
fn cure(s: &Survey, pocket: &crate::filling::Pocket, look_further: bool) -> String {
    let mut all = vec![format!("Put a vent at {}", s.place(pocket.at))];
    if let Some(tilt) = tilt(s, pocket) {
        all.push(tilt);
    }
    if look_further && let Some(from) = fill_from(s, pocket) {
        all.push(format!("fill it from {} as well", s.place(from)));
    }
    format!("{}.", all.join(", or "))
}

/// A level vessel whose vent sits lower than its top is tilted until its vent is the highest point.
fn tilt(s: &Survey, pocket: &crate::filling::Pocket) -> Option<String> {
    let [(run, _)] = pocket.runs[..] else { return None };
    let vessel = &s.parts[s.part_of_run(run)?];
    let long = vessel.length_m.filter(|l| l.m() > 0.0 && vessel.kind.vessel() && vessel.kind != PartKind::Machine)?;
    let r = s.fill.network.runs[run];
    let (low, high) = (s.height(r.from).m().min(s.height(r.to).m()), s.height(r.from).m().max(s.height(r.to).m()));
    let vent = if s.height(r.from).m() <= s.height(r.to).m() { r.from } else { r.to };
    let sine = (high - low) / long.m();
    (s.vents.contains(&vent) && sine < 0.5).then(|| {
        format!(
            "tilt {} by {:.0}° until the vent is its highest point (that end {} up)",
            vessel.tag,
            sine.asin().to_degrees().ceil(),
            s.say().size_up(Length::from_m(high - low))
        )
    })
}

/// A place from which water would drive this air out by the vents that are there: the lowest point of what the pocket is in.
fn fill_from(s: &Survey, pocket: &crate::filling::Pocket) -> Option<usize> {
    let ends = pocket.runs.iter().flat_map(|(r, _)| [s.fill.network.runs[*r].from, s.fill.network.runs[*r].to]);
    let from = ends.min_by(|a, b| s.height(*a).m().total_cmp(&s.height(*b).m()))?;
    let fills: Vec<usize> = s.fills.iter().copied().chain([from]).collect();
    let again = filling(&s.fill.network, &fills, &s.vents).ok()?;
    let left: Volume = again.pockets.iter().filter(|p| p.at == pocket.at).fold(Volume::from_m3(0.0), |a, p| a + p.volume);
    (left.m3() < 0.01 * pocket.volume.m3()).then_some(from)
}
