//! FILL and FLUSH: how long filling takes from the source that is really there, and how fast a flush must run.

use super::line::Draft;
use super::lines::Facts;
use crate::basis::entry::Duty;
use crate::derivation::{Amount, Derivation, Dimension};
use crate::part::PartKind;
use crate::rule::{Rule, Standing};
use quantity::{Length, Span, Volume, VolumeFlow};

/// Filling.
pub const FILL: Rule = Rule {
    id: "FILL-TIME",
    sentence: "The line fills in its volume over the flow that the source really gives.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "worked_weight_water_fill_time",
};

/// Flushing.
pub const FLUSH: Rule = Rule {
    id: "FLUSH",
    sentence: "A flush runs at 3 m/s or more in the largest bore; above 150 mm it is jetted instead, or taken at 10 ft/s for fire mains.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "published_flush_of_a_fire_main",
};

/// Least speed of a flush, m/s: common practice, and 10 ft/s for fire mains (NFPA 24, from memory).
pub const FLUSH_M_PER_S: f64 = 3.0;
/// Least speed of air that blows a large line clean, m/s: common practice.
const BLOWN_M_PER_S: f64 = 10.0;
/// 10 ft/s, m/s.
pub const FIRE_FLUSH_M_PER_S: f64 = 3.048;

/// Time to fill: V / flow. Exact. Example: 2.24 m³ at 1.5 m³/h → 1.49 h.
pub fn time(volume: Volume, flow: VolumeFlow) -> (Span, Derivation) {
    let time = Span::from_s(volume.m3() / flow.m3_per_s());
    let why = Derivation::new("time to fill", &FILL, Amount::new(time.s(), Dimension::TimeS), "t = V / Q")
        .with("V", "volume of the system", Amount::new(volume.m3(), Dimension::VolumeM3), "sum of the parts")
        .with("Q", "flow of the source", Amount::new(flow.m3_per_s(), Dimension::VolumeFlowM3PerS), "as entered for the source on site")
        .would_change("Another source, or water from another pack.");
    (time, why)
}

/// Flow of a flush in a bore: v·π/4·D². Exact. Example: 10 ft/s in 6 in → 880 US gpm.
pub fn flush(bore: Length, speed_m_per_s: f64) -> (VolumeFlow, Derivation) {
    let flow = VolumeFlow::from_m3_per_s(speed_m_per_s * std::f64::consts::FRAC_PI_4 * bore.m().powi(2));
    let why = Derivation::new("flow of the flush", &FLUSH, Amount::new(flow.m3_per_s(), Dimension::VolumeFlowM3PerS), "Q = v · π/4 · D²")
        .with("v", "speed", Amount::new(speed_m_per_s, Dimension::SpeedMPerS), "common practice")
        .with("D", "largest bore", Amount::new(bore.m(), Dimension::LengthM), "outside diameter less two walls")
        .would_change("Another bore; a line of more than DN150 is jetted.");
    (flow, why)
}

/// Largest bore that is flushed rather than jetted, m.
const LARGEST_FLUSHED: Length = Length::from_m(0.160);

pub(super) fn lines(f: &Facts) -> Vec<Draft> {
    let mut all = Vec::new();
    let Some(volume) = f.d.volume_m3 else { return all };
    if f.demand.gas {
        all.push(
            Draft::new("fill", "fill", "How much gas?", "{0} at every pressure; from a regulated supply with a relief valve.")
                .volume(volume),
        );
        return all;
    }
    const QUESTION: &str = "How much water, how long to fill?";
    let hand = f.system.site.water_at_hand_m3;
    let needed = Volume::from_m3((volume.m3() - hand.map_or(0.0, |v| v.m3())).max(0.0));
    let reuse = if hand.is_some() { ", of which {2} is to be brought and the rest is at hand" } else { "" };
    all.push(match f.system.site.source_flow_m3_per_s {
        Some(flow) => {
            let (t, why) = time(volume, flow);
            let line = Draft::new(
                "fill",
                "fill",
                QUESTION,
                format!("{{0}}{reuse}; {{1}} from the source on site, every vent run free of bubbles."),
            )
            .volume(volume)
            .time(t);
            (if hand.is_some() { line.volume(needed) } else { line }).why(why)
        }
        None => Draft::new("fill", "fill", QUESTION, "{0}; enter the flow of the source that is really there, and the hours follow.")
            .volume(volume),
    });
    let bores = f.system.parts.iter().filter(|p| matches!(p.kind, PartKind::Pipe | PartKind::Bend)).filter_map(|p| Some((p, p.bore()?)));
    if let Some((part, bore)) = bores.reduce(|a, b| if b.1 > a.1 { b } else { a }) {
        let fire = f.demand.entry.duty == Duty::Fire;
        let speed = if fire { FIRE_FLUSH_M_PER_S } else { FLUSH_M_PER_S };
        let (flow, why) = flush(bore, speed);
        let flushed = fire || bore <= LARGEST_FLUSHED;
        let says = if flushed {
            format!("{{0}} at least, which is {{1}} in {}; a catcher proves it clean.", part.tag)
        } else {
            format!(
                "{} is too large to flush at {{1}} ({{0}}): jet it, or blow it with air at {{2}} or more; a catcher proves it clean.",
                part.tag
            )
        };
        let line = Draft::new("flush", "fill", "How fast to flush?", says).flow(flow).other(speed, Dimension::SpeedMPerS);
        let line = if flushed { line } else { line.other(BLOWN_M_PER_S, Dimension::SpeedMPerS) };
        all.push(line.why(why.governed_by(&part.tag)));
    }
    all
}
