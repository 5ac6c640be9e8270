//! What is planned for a test: everything that people edit together before the release.

use crate::people::People;
use crate::schedule::ScheduleName;
use physics::elastic::Restraint;
use quantity::{Length, Span, Temperature, VolumeFlow};
use rules::basis::Basis;
use rules::gauge::{Gauge, RangeSchool};
use rules::part::Part;
use rules::plan::Settings;
use rules::system::System;
use serde::{Deserialize, Serialize};

/// What is tested.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ObjectKind {
    /// process piping
    ProcessPiping,
    /// miniature boiler
    MiniatureBoiler,
}

/// What a test claims; the same words as the judge's.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Claim {
    /// the parts hold
    Strength,
    /// nothing gets out
    Tightness,
    /// both
    Both,
}

/// Why the test is made now.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum WhyNow {
    /// new
    New,
    /// altered
    Altered,
    /// repaired
    Repaired,
    /// due by date
    Due,
    /// history not known
    UnknownHistory,
    /// restart after standing
    Restart,
}

/// Rehearsal or record.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum RunKind {
    /// judged for sign-off
    #[default]
    Record,
    /// obeys the same limits, is not signed
    Rehearsal,
    /// on a simulated system, is not signed
    Practice,
}

/// Where the thermometer sits; the same words as the judge's.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ThermometerPlace {
    /// in the water
    Water,
    /// on the skin
    #[default]
    Skin,
    /// in the air
    Ambient,
}

/// Another instrument that is recorded beside gauge and thermometer.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AlsoRecorded {
    /// Tag of a gauge, a thermometer or a stroke counter of the store.
    pub tag: String,
    /// Height of a gauge, m.
    #[serde(default = "at_datum")]
    pub elevation_m: Length,
    /// Where a thermometer sits.
    #[serde(default)]
    pub place: ThermometerPlace,
}

fn at_datum() -> Length {
    Length::from_m(0.0)
}

/// The plan of a test.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Plan {
    /// What is tested.
    pub object: ObjectKind,
    /// What it must prove.
    pub claim: Claim,
    /// Why now.
    pub why_now: WhyNow,
    /// Who relies on the result.
    #[serde(default)]
    pub relied_on_by: String,
    /// Rehearsal or record.
    #[serde(default)]
    pub run: RunKind,
    /// Basis and the pressure it multiplies.
    pub basis: Basis,
    /// How the parts are joined; where none is entered they are taken to follow each other as they are listed.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub joints: Vec<rules::parting::Joint>,
    /// Temperature of the water at the test, °C.
    pub water_temperature_c: Temperature,
    /// How the pipe is held lengthwise.
    #[serde(default)]
    pub restraint: Restraint,
    /// Tag of the gauge that the test is read from; empty while none is chosen.
    #[serde(default)]
    pub gauge_tag: String,
    /// Height at which it is read, m.
    pub gauge_elevation_m: Length,
    /// Tag of the thermometer; empty while none is chosen.
    #[serde(default)]
    pub thermometer_tag: String,
    /// Where the thermometer sits.
    #[serde(default)]
    pub thermometer_place: ThermometerPlace,
    /// Further instruments: a second gauge, air temperature, the pump's strokes.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub also: Vec<AlsoRecorded>,
    /// School of the gauge's range.
    #[serde(default)]
    pub gauge_school: RangeSchool,
    /// Settings of the day's pressures.
    #[serde(default)]
    pub settings: Settings,
    /// Hold asked by the owner, s; never below the basis' floor.
    #[serde(default)]
    #[schema(value_type = Option<f64>)]
    pub hold_s: Option<Span>,
    /// Leak that the test must be able to rule out, m³/s.
    #[serde(default)]
    #[schema(value_type = Option<f64>)]
    pub required_sensitivity_m3_per_s: Option<VolumeFlow>,
    /// Schedule of the raise.
    #[serde(default)]
    pub schedule: ScheduleName,
    /// Number of the permit to work; empty while none is given.
    #[serde(default)]
    pub permit_number: String,
    /// Who approved the alternative where no relief setting fits, and what it is; empty where none is needed.
    #[serde(default)]
    pub relief_alternative: String,
    /// Who does what.
    #[serde(default)]
    pub people: People,
}

impl Plan {
    /// The system that the rules derive from, with the gauge as the instrument store knows it (or one not yet chosen,
    /// read to 0.1 bar).
    pub fn system(&self, title: &str, parts: Vec<Part>, gauge: Option<&crate::instrument::Instrument>) -> System {
        let known = gauge.and_then(|g| Some((g.full_scale_pa?, g.division_pa?, g.error_of_scale?, g.unit)));
        let gauge = match known {
            Some((full_scale, division, error, unit)) => Gauge {
                tag: self.gauge_tag.clone(),
                elevation_m: self.gauge_elevation_m,
                full_scale_pa: Some(full_scale),
                division_pa: division,
                error_of_scale: error,
                unit,
            },
            None => Gauge {
                tag: if self.gauge_tag.is_empty() { "the gauge".to_owned() } else { self.gauge_tag.clone() },
                elevation_m: self.gauge_elevation_m,
                full_scale_pa: None,
                division_pa: quantity::PressureDifference::from_bar(0.1),
                error_of_scale: 0.005,
                unit: quantity::PressureUnit::Bar,
            },
        };
        System {
            title: title.to_owned(),
            basis: self.basis.clone(),
            parts,
            joints: self.joints.clone(),
            gauge,
            water_temperature_c: self.water_temperature_c,
            restraint: self.restraint,
            gauge_school: self.gauge_school,
            settings: self.settings,
        }
    }

    /// Tags of everything that is recorded: the gauge, the thermometer, then the others, each once. This is the order of the channels.
    pub fn recorded(&self) -> Vec<&str> {
        let mut tags: Vec<&str> = Vec::new();
        for tag in [self.gauge_tag.as_str(), self.thermometer_tag.as_str()].into_iter().chain(self.also.iter().map(|a| a.tag.as_str())) {
            if !tag.is_empty() && !tags.contains(&tag) {
                tags.push(tag);
            }
        }
        tags
    }

    /// Hold that the test must last: the owner's, never below the basis' floor.
    pub fn hold(&self) -> Span {
        self.hold_s.unwrap_or(self.basis.hold_floor()).max(self.basis.hold_floor())
    }
}
