//! FILL and FLUSH: how long filling takes from the source that is really there, and how fast a flush must run.

use crate::derivation::{Amount, Derivation, Dimension};
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
    test: "worked_weight_and_filling",
};

/// Flushing.
pub const FLUSH: Rule = Rule {
    id: "FLUSH",
    sentence: "A flush runs at 3 m/s or more in the largest bore; above 150 mm it is jetted instead, or taken at 10 ft/s for fire mains.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "published_fire_main_flush",
};

/// Least speed of a flush, m/s: common practice, and 10 ft/s for fire mains (NFPA 24, from memory).
pub const FLUSH_M_PER_S: f64 = 3.0;
/// 10 ft/s, m/s.
pub const FIRE_FLUSH_M_PER_S: f64 = 3.048;

/// Time to fill: V / flow. Exact. Example: 2.24 m³ at 1.5 m³/h → 1.49 h.
pub fn time(volume: Volume, flow: VolumeFlow) -> (Span, Derivation) {
    let time = Span::from_s(volume.m3() / flow.m3_per_s());
    let why = Derivation::new("time to fill", &FILL, Amount::new(time.s(), Dimension::TimeS), "t = V / Q")
        .with("V", "volume of the system", Amount::new(volume.m3(), Dimension::VolumeM3), "sum of the parts")
        .with("Q", "flow of the source, m³/s", Amount::number(flow.m3_per_s()), "as entered for the source on site")
        .would_change("Another source, or water from another pack.");
    (time, why)
}

/// Flow of a flush in a bore: v·π/4·D². Exact. Example: 10 ft/s in 6 in → 880 US gpm.
pub fn flush(bore: Length, speed_m_per_s: f64) -> (VolumeFlow, Derivation) {
    let flow = VolumeFlow::from_m3_per_s(speed_m_per_s * std::f64::consts::FRAC_PI_4 * bore.m().powi(2));
    let why = Derivation::new("flow of the flush", &FLUSH, Amount::number(flow.m3_per_s()), "Q = v · π/4 · D²")
        .with("v", "speed, m/s", Amount::number(speed_m_per_s), "common practice")
        .with("D", "largest bore", Amount::new(bore.m(), Dimension::LengthM), "outside diameter less two walls")
        .would_change("Another bore; above 150 mm jet it.");
    (flow, why)
}
