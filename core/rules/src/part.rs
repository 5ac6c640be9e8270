//! One part of the system under test.

use quantity::{GaugePressure, Length, Volume};
use serde::{Deserialize, Serialize};

/// What a part is; decides which limits are asked for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum PartKind {
    /// pipe: outside diameter, wall, material, length
    Pipe,
    /// bend of a main: as a pipe, with the angle that its thrust block takes
    Bend,
    /// flange of a rated class
    Flange,
    /// open valve: its shell sees the pressure
    Valve,
    /// closed valve at the end of the test: its seat sees the pressure
    ClosedValve,
    /// vessel with its own test pressure
    Vessel,
    /// boiler shell
    Boiler,
    /// expansion bellows
    Bellows,
    /// hose
    Hose,
    /// rated fitting
    Fitting,
    /// blind or spade at an end
    Blind,
    /// vent or drain point
    Vent,
}

impl PartKind {
    /// All, with the words that files and people use.
    pub const ALL: [(Self, &'static str); 12] = [
        (Self::Pipe, "pipe"),
        (Self::Bend, "bend"),
        (Self::Flange, "flange"),
        (Self::Valve, "valve"),
        (Self::ClosedValve, "closed valve"),
        (Self::Vessel, "vessel"),
        (Self::Boiler, "boiler"),
        (Self::Bellows, "bellows"),
        (Self::Hose, "hose"),
        (Self::Fitting, "fitting"),
        (Self::Blind, "blind"),
        (Self::Vent, "vent"),
    ];

    /// The word for it.
    pub fn word(self) -> &'static str {
        Self::ALL.iter().find(|(k, _)| *k == self).map_or("part", |(_, w)| w)
    }

    /// From the word for it.
    pub fn from_word(word: &str) -> Option<Self> {
        let wanted = word.trim().to_lowercase().replace(['_', '-'], " ");
        Self::ALL.iter().find(|(_, w)| *w == wanted).map(|(k, _)| *k)
    }
}

/// How a closed valve seals.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Seat {
    /// metal on metal: gates, hydrants
    MetalSeated,
    /// rubber
    Resilient,
}

/// A part at its height. What is not known is absent; what is needed and absent is asked for.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Part {
    /// Tag that people call it by; unique in the system.
    pub tag: String,
    /// What it is.
    pub kind: PartKind,
    /// Height above the site's datum, m.
    pub elevation_m: Length,
    /// Outside diameter, m.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub outside_diameter_m: Option<Length>,
    /// Wall thickness, m: nominal for piping, measured for a boiler.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub wall_m: Option<Length>,
    /// Corrosion since new, m; taken off the nominal wall where the basis takes the minimum wall.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub corrosion_m: Option<Length>,
    /// Length, m.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub length_m: Option<Length>,
    /// Volume of water, m³, where it does not follow from bore and length.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub volume_m3: Option<Volume>,
    /// Material, by its id in the library.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub material: Option<String>,
    /// Flange or valve class of B16.5 / B16.34.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub flange_class: Option<u16>,
    /// Maker's rating at test temperature, Pa: a seat is held to 1.1 times it, a hose or fitting to the rating itself.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rating_pa: Option<GaugePressure>,
    /// How a closed valve seals; only some bases tell seats apart.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub seat: Option<Seat>,
    /// Pressure at which old plant was last proved, Pa.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub proven_pa: Option<GaugePressure>,
    /// Thrust that the restraint of this end is designed for, N.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub restraint_n: Option<f64>,
    /// Diameter of the seal that the thrust acts within, m; the outside diameter where it is absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sealing_diameter_m: Option<Length>,
    /// Angle of a bend, degrees.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub bend_deg: Option<f64>,
    /// Test pressure of a vessel by its own code, Pa; what piping tested with it is compared with.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub test_pressure_pa: Option<GaugePressure>,
    /// The part's own greatest test pressure, Pa, from its maker or its plate.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub test_limit_pa: Option<GaugePressure>,
}

impl Part {
    /// A part of which only tag, kind and height are known.
    pub fn new(tag: &str, kind: PartKind, elevation: Length) -> Self {
        Self {
            tag: tag.to_owned(),
            kind,
            elevation_m: elevation,
            outside_diameter_m: None,
            wall_m: None,
            corrosion_m: None,
            length_m: None,
            volume_m3: None,
            material: None,
            flange_class: None,
            rating_pa: None,
            seat: None,
            proven_pa: None,
            restraint_n: None,
            sealing_diameter_m: None,
            bend_deg: None,
            test_pressure_pa: None,
            test_limit_pa: None,
        }
    }

    /// Thrust over that on a dead end: 2·sin(θ/2) for a bend, else 1.
    pub fn thrust_share(&self) -> f64 {
        match (self.kind, self.bend_deg) {
            (PartKind::Bend, Some(angle)) => 2.0 * (angle.to_radians() / 2.0).sin(),
            _ => 1.0,
        }
    }

    /// Bore, where diameter and wall are known; a blind has none.
    pub fn bore(&self) -> Option<Length> {
        match (self.kind, self.outside_diameter_m, self.wall_m) {
            (PartKind::Blind, ..) => None,
            (_, Some(d), Some(t)) => Some(d - t * 2.0),
            _ => None,
        }
    }

    /// Volume of water in it: as given, or π/4·D_i²·L; nil where neither is known.
    pub fn volume(&self) -> Volume {
        if let Some(v) = self.volume_m3 {
            return v;
        }
        match (self.outside_diameter_m, self.wall_m, self.length_m) {
            (Some(d), Some(t), Some(l)) => {
                let bore = (d - t * 2.0).m();
                Volume::from_m3(std::f64::consts::FRAC_PI_4 * bore * bore * l.m())
            }
            _ => Volume::from_m3(0.0),
        }
    }
}
