//! PUMP-OVERSHOOT: whether a pump is too large for the volume.

use super::line::Draft;
use super::lines::{Facts, filled};
use crate::derivation::{Amount, Derivation, Dimension};
use crate::filled::Filled;
use crate::rule::{Rule, Standing};
use crate::say::Say;
use crate::system::AIR_FRACTION_LIMIT;
use quantity::{GaugePressure, PressureDifference, STANDARD_ATMOSPHERE, Span, Volume, VolumeFlow};

/// Overshoot.
pub const OVERSHOOT: Rule = Rule {
    id: "PUMP-OVERSHOOT",
    sentence: "A driven pump that moves the pressure by more than 2 % of the target in a second is warned of, one that crosses the margin to the stop line within the operator's reaction time is refused; a hand pump, which can stop within a stroke, is judged by a tenth of one.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "worked_manifold_proof_pump_overshoot",
};

/// Volume to pump.
pub const TO_PUMP: Rule = Rule {
    id: "PUMP-VOLUME",
    sentence: "The pump brings what squeezes the liquid, stretches the walls and squeezes the air.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "worked_planned_look_stop_line_relief_liquid_alarm_pump_volume_of_the_dn150_line",
};

/// Share of the target that one stroke or one second may move.
const WARN_SHARE: f64 = 0.02;
/// Strokes or seconds of room below which it is warned of.
const WARN_ROOM: f64 = 3.0;
/// A millilitre.
const MILLILITRE_M3: f64 = 1e-6;
/// Share of the planned pressure above which a millilitre is felt.
const FELT_SHARE: f64 = 0.01;
/// Share of a stroke within which a hand pump can be stopped.
const PART_STROKE: f64 = 0.1;

/// A pump on offer.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Pump {
    /// By hand: one stroke.
    Hand {
        /// Volume of a stroke.
        stroke: Volume,
    },
    /// Driven: a steady flow.
    Driven {
        /// Its flow.
        flow: VolumeFlow,
    },
}

/// What a pump does to a system.
#[derive(Debug, Clone, PartialEq)]
pub struct Suits {
    /// Rise of pressure by one stroke, or in one second.
    pub step: PressureDifference,
    /// Why it is refused; none where it is not.
    pub refused: Option<String>,
    /// What to mind; none where nothing is.
    pub warning: Option<String>,
}

/// Holds a pump against a system near its target: `stiffness` is the pressure gained for a volume pumped there, Pa/m³.
///
/// Formula: Δp = stroke · dp/dV, or flow · 1 s · dp/dV. Range: liquid-full, elastic. Example: 9 L/min into a solid 150 L receiver of 400 mm × 3 mm
/// is about 9 bar every second.
pub fn suits(pump: Pump, stiffness_pa_per_m3: f64, target: GaugePressure, stop_line: GaugePressure, reaction: Span, say: Say) -> Suits {
    let (volume, unit, counted) = match pump {
        Pump::Hand { stroke } => (stroke.m3(), "stroke", "strokes"),
        Pump::Driven { flow } => (flow.m3_per_s(), "second", "seconds"),
    };
    let step = PressureDifference::from_pa(volume * stiffness_pa_per_m3);
    let room = (stop_line - target).pa() / step.pa();
    let (crossed, least) = match pump {
        Pump::Driven { .. } => (room < reaction.s(), step),
        Pump::Hand { .. } => (room < PART_STROKE, step * PART_STROKE),
    };
    let refused = crossed.then(|| match pump {
        Pump::Driven { .. } if room < 0.0 => {
            "The planned pressure is not below the stop line: no pump can be stopped in time. Make room first: a finer gauge, or a stronger part.".to_owned()
        }
        Pump::Driven { .. } => format!(
            "This pump moves the pressure by {} a second: from the planned pressure to the stop line it needs {room:.1} seconds, less than anybody can react in. Take a smaller pump, throttle it, or pump by hand.",
            say.change(step)
        ),
        Pump::Hand { .. } => format!(
            "A tenth of a stroke moves the pressure by {}, more than the {} that are left to the stop line: take a pump with a smaller stroke.",
            say.change(least),
            say.change(stop_line - target)
        ),
    });
    let per_ml = say.change(PressureDifference::from_pa(1e-6 * stiffness_pa_per_m3));
    let warned = least.pa() > WARN_SHARE * target.pa() || room < WARN_ROOM;
    let warning = (refused.is_none() && warned).then(|| match pump {
        Pump::Hand { .. } => format!("{per_ml} a millilitre, and {room:.1} strokes are left to the stop line: part strokes, eyes on the gauge."),
        Pump::Driven { .. } => {
            format!("One {unit} moves the pressure by {}, and only {room:.1} {counted} are left to the stop line: go slowly, one hand on the bleed.", say.change(step))
        }
    });
    Suits { step, refused, warning }
}

pub(super) fn lines(f: &Facts) -> Vec<Draft> {
    let mut all = Vec::new();
    let (Some(dry), Some(air)) = (f.d.pumped_without_air_m3, f.d.pumped_with_air_m3) else { return all };
    // a wall that is not known may be stiff: the pump is judged by the stiffest
    let stiffest = f.system.stiffest();
    let stiffness = filled(f).zip(stiffest.as_ref()).and_then(|(s, stiffest)| {
        let s = Filled { shut_in: stiffest, ..s };
        s.compliance_per_pa(f.day.planned_pa.absolute(STANDARD_ATMOSPHERE)).ok().flatten().map(|c| 1.0 / (c * stiffest.volume().m3()))
    });
    let reaction = f.system.site.reaction();
    let hand = f.system.site.stroke_m3.map(|stroke| (Pump::Hand { stroke }, stroke.m3(), "stroke"));
    let driven = f.system.site.pump_flow_m3_per_s.map(|flow| (Pump::Driven { flow }, flow.m3_per_s(), "second"));
    let pump = driven.or(hand);
    let suits = pump
        .zip(stiffness)
        .map(|((pump, volume, unit), k)| (suits(pump, k, f.day.planned_pa, f.day.stop_line_pa, reaction, f.system.say()), volume, unit));
    match &suits {
        Some((s, volume, unit)) => {
            let why = Derivation::new(
                &format!("rise in one {unit} of the pump"),
                &OVERSHOOT,
                Amount::new(s.step.pa(), Dimension::PressureDifferencePa),
                "Δp = ΔV / (V · c)",
            )
            .with("ΔV", &format!("volume in one {unit}"), Amount::new(*volume, Dimension::VolumeM3), "as entered for the pump")
            .with(
                "V",
                "volume of the system",
                Amount::new(f.d.volume_m3.map_or(f64::NAN, |v| v.m3()), Dimension::VolumeM3),
                "sum of the parts",
            )
            .with(
                "V·c",
                "volume for one Pa at the planned pressure, without air",
                Amount::new(stiffness.map_or(f64::NAN, |k| 1.0 / k), Dimension::VolumeM3),
                "IAPWS-95 and Lamé",
            )
            .with("t", "time in which the operator stops it", Amount::new(reaction.s(), Dimension::TimeS), "as entered, or 3 s by default")
            .would_change("A smaller pump, a throttle, or more room to the stop line.");
            let says = format!("One {unit} moves the pressure by {{0}} near {{1}}.");
            let line = Draft::new("pump", "ready", "Which pump?", says).change(s.step).pressure(f.day.planned_pa);
            all.push(line.trouble(s.warning.clone()).stop(s.refused.clone()).why(why));
        }
        None => {
            // a small, stiff object: a millilitre is felt, whatever the pump
            let felt = stiffness
                .map(|k| PressureDifference::from_pa(MILLILITRE_M3 * k))
                .filter(|rise| rise.pa() > FELT_SHARE * f.day.planned_pa.pa());
            let draft = |says: &str| Draft::new("pump", "ready", "Which pump?", says);
            all.push(match felt {
                Some(rise) => draft(
                    "A millilitre moves the pressure by {0} near {1}: part strokes, eyes on the gauge. Enter the stroke of the pump, and the rise in it is told.",
                )
                .change(rise)
                .pressure(f.day.planned_pa),
                None => draft("Enter its stroke or its flow: then the rise in a stroke or a second is held against the room to the stop line."),
            });
        }
    }
    let volume_why = |v: Volume| {
        Derivation::new(
            "volume to pump, without air",
            &TO_PUMP,
            Amount::new(v.m3(), Dimension::VolumeM3),
            "ΔV = V · ∫ c dp + V_air · (1 − p_0/p)",
        )
        .with("V", "volume of the system", Amount::new(f.d.volume_m3.map_or(f64::NAN, |v| v.m3()), Dimension::VolumeM3), "sum of the parts")
        .with("p", "planned pressure", Amount::gauge(f.day.planned_pa), "plan")
        .with(
            "air",
            "air at filling that the second figure takes",
            Amount::new(AIR_FRACTION_LIMIT, Dimension::Share),
            "limit of common practice",
        )
        .would_change("More air, another wall, or another pressure.")
    };
    let line = match (f.system.site.stroke_m3, f.system.site.pump_flow_m3_per_s) {
        (_, Some(flow)) => {
            let time = |v: Volume| Span::from_s(v.m3() / flow.m3_per_s());
            Draft::new(
                "to-pump",
                "raise",
                "How much to pump?",
                "{0} without air, {1} with 0.2 %: {2} to {3} of this pump, holds not counted.",
            )
            .volume(dry)
            .volume(air)
            .time(time(dry))
            .time(time(air))
        }
        (Some(stroke), None) => {
            let strokes = |v: Volume| (v.m3() / stroke.m3()).ceil();
            Draft::new(
                "to-pump",
                "raise",
                "How much to pump?",
                format!("{{0}} without air, {{1}} with 0.2 %: {} to {} strokes.", strokes(dry), strokes(air)),
            )
            .volume(dry)
            .volume(air)
        }
        (None, None) => Draft::new("to-pump", "raise", "How much to pump?", "{0} without air, {1} with 0.2 %.").volume(dry).volume(air),
    };
    all.push(line.why(volume_why(dry)));
    all.push(
        Draft::new(
            "air",
            "raise",
            "Is the air out?",
            "If {0} bring it up, no air is left; {1} is the limit of 0.2 %, and more means air, or something not filled.",
        )
        .volume(dry)
        .volume(air)
        .why(volume_why(dry)),
    );
    all
}
