//! PUMP-OVERSHOOT: whether a pump is too large for the volume.

use crate::rule::{Rule, Standing};
use quantity::{GaugePressure, PressureDifference, PressureUnit, Span, Volume, VolumeFlow};

/// Overshoot.
pub const OVERSHOOT: Rule = Rule {
    id: "PUMP-OVERSHOOT",
    sentence: "A pump that moves the pressure by more than 2 % of the target in a stroke or a second is warned of; one that crosses the margin to the stop line within the operator's reaction time is refused.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "worked_manifold_and_pump",
};

/// Share of the target that one stroke or one second may move.
const WARN_SHARE: f64 = 0.02;
/// Strokes or seconds of room below which it is warned of.
const WARN_ROOM: f64 = 3.0;
/// Default time in which an operator stops a pump.
pub const REACTION: Span = Span::from_s(3.0);

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
pub fn suits(pump: Pump, stiffness_pa_per_m3: f64, target: GaugePressure, stop_line: GaugePressure, reaction: Span) -> Suits {
    let (volume, unit, counted) = match pump {
        Pump::Hand { stroke } => (stroke.m3(), "stroke", "strokes"),
        Pump::Driven { flow } => (flow.m3_per_s(), "second", "seconds"),
    };
    let step = PressureDifference::from_pa(volume * stiffness_pa_per_m3);
    let room = (stop_line - target).pa() / step.pa();
    let bar = |p: PressureDifference| quantity::format::pressure_difference(p, PressureUnit::Bar, 2);
    let crossed = match pump {
        Pump::Driven { .. } => room < reaction.s(),
        Pump::Hand { .. } => room < 1.0,
    };
    let refused = crossed.then(|| {
        format!(
            "This pump moves the pressure by {} a {unit}: from the planned pressure to the stop line it needs {room:.1} {counted}, less than anybody can react in. Take a smaller pump, throttle it, or pump by hand.",
            bar(step)
        )
    });
    let warning = (refused.is_none() && (step.pa() > WARN_SHARE * target.pa() || room < WARN_ROOM)).then(|| {
        format!("One {unit} moves the pressure by {}, and only {room:.1} {counted} are left to the stop line: go slowly, one hand on the bleed.", bar(step))
    });
    Suits { step, refused, warning }
}
