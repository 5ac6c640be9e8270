//! What is planned for a test: everything that people edit together before the release.

use crate::instrument::Instrument;
use crate::own_gauge::{OWN_GAUGE, OwnGauge};
use crate::people::People;
use crate::schedule::ScheduleName;
use crate::signing::Signers;
use physics::elastic::Restraint;
use physics::exposure::Exposure;
use quantity::{Length, Span, Temperature, VolumeFlow};
use rules::basis::Basis;
use rules::basis::entry::Duty;
use rules::fluid::OtherLiquid;
use rules::gauge::Gauge;
use rules::method::MethodAnswers;
use rules::part::Part;
use rules::plan::Settings;
use rules::site::Site;
use rules::specification::Specification;
use rules::system::System;
use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};
use terms::Claim;
use terms::ThermometerPlace;

/// What is tested.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ObjectKind {
    /// process piping
    ProcessPiping,
    /// power piping, steam and condensate
    PowerPiping,
    /// chilled and heating water
    BuildingServices,
    /// water main
    WaterMain,
    /// fire main or fire piping
    FireMain,
    /// boiler
    Boiler,
    /// miniature boiler
    MiniatureBoiler,
    /// pressure vessel
    Vessel,
    /// air receiver
    AirReceiver,
    /// gasketed joint of pipe or box sections
    Joint,
}

impl ObjectKind {
    /// What is tested by a basis, where nobody says otherwise.
    pub fn of_basis(id: &str, duty: Duty) -> Self {
        match (id, duty) {
            ("boiler_model", _) => Self::MiniatureBoiler,
            ("air_receiver", _) => Self::AirReceiver,
            ("b31_1", _) => Self::PowerPiping,
            (_, Duty::Piping) => Self::ProcessPiping,
            (_, Duty::Building) => Self::BuildingServices,
            (_, Duty::Vessel) => Self::Vessel,
            (_, Duty::Boiler) => Self::Boiler,
            (_, Duty::Main) => Self::WaterMain,
            (_, Duty::Fire) => Self::FireMain,
            (_, Duty::Joint) => Self::Joint,
        }
    }

    /// What usually surrounds it (common practice).
    pub const fn usual_exposure(self) -> Exposure {
        match self {
            Self::ProcessPiping | Self::PowerPiping => Exposure::BareOutdoor,
            Self::WaterMain | Self::FireMain => Exposure::Buried,
            Self::BuildingServices | Self::Boiler | Self::MiniatureBoiler | Self::Vessel | Self::AirReceiver | Self::Joint => {
                Exposure::Indoor
            }
        }
    }
}

/// Why the test is made now.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum WhyNow {
    /// new
    #[strum(message = "new")]
    New,
    /// altered
    #[strum(message = "altered")]
    Altered,
    /// repaired
    #[strum(message = "repaired")]
    Repaired,
    /// due by date
    #[strum(message = "due by date")]
    Due,
    /// history not known
    #[strum(message = "history not known")]
    UnknownHistory,
    /// restart after standing
    #[strum(message = "restart after standing")]
    Restart,
}

/// Rehearsal or record.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum RunKind {
    /// judged for sign-off
    #[default]
    #[strum(message = "record, judged for sign-off", props(short = "record"))]
    Record,
    /// obeys the same limits, is not signed
    #[strum(message = "rehearsal")]
    Rehearsal,
    /// on a simulated system, is not signed
    #[strum(message = "practice")]
    Practice,
}

/// Where the gas of a gas test comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum GasSupply {
    /// cylinders through a regulator with a relief valve of its own
    #[strum(message = "cylinders, regulator with its own relief valve")]
    Regulated,
    /// a compressor set to the test pressure, through a regulator
    #[strum(message = "compressor through a regulator")]
    RegulatedCompressor,
    /// an open workshop line
    #[strum(message = "open workshop line")]
    OpenLine,
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

/// A working pressure that is taken down; it closes only when valve, switch and tag carry it.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Derating {
    /// Relief valve set at or below the reduced pressure, with its certificate.
    pub valve: String,
    /// Pressure switch set at or below it.
    pub switch: String,
    /// Tag or plate that carries it.
    pub tag: String,
}

impl Derating {
    /// What still lacks the reduced pressure.
    pub fn open(&self) -> Vec<&'static str> {
        [("relief valve", &self.valve), ("pressure switch", &self.switch), ("tag", &self.tag)]
            .into_iter()
            .filter(|(_, by)| by.trim().is_empty())
            .map(|(what, _)| what)
            .collect()
    }
}

/// When the next test is due, and by which rule.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct NextTest {
    /// The day; empty where nobody named one.
    pub on: String,
    /// The rule, or whoever set it.
    pub by: String,
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
    /// When the next test is due; absent while nobody named a day.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub next_test: Option<NextTest>,
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
    /// What surrounds it; what is usual for the object where it is absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub exposure: Option<Exposure>,
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
    /// The liquid, where it is not water.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub liquid: Option<OtherLiquid>,
    /// What is on site.
    #[serde(default)]
    pub site: Site,
    /// Answers about the method.
    #[serde(default)]
    pub method: MethodAnswers,
    /// Low gas test before the liquid, Pa gauge; absent where none is made.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pretest_pa: Option<quantity::GaugePressure>,
    /// Who says that the maker of a brittle material permits it, and up to what; empty while nobody does.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub pretest_permitted_by: String,
    /// Unit that the test is worked in; a standard's own rounding follows it.
    #[serde(default)]
    pub worked_in: quantity::PressureUnit,
    /// Who looked inside plant whose history nobody knows, and what was found; empty while nobody did.
    #[serde(default)]
    pub inside_look: String,
    /// Derating that this test is the proof of; absent where there is none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub derating: Option<Derating>,
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
    /// Where the gas comes from; absent while nobody said, and for liquid.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gas_supply: Option<GasSupply>,
    /// Experienced person who stays with a gas test; empty while nobody is named.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub gas_in_charge: String,
    /// Number of the permit to work; empty while none is given.
    #[serde(default)]
    pub permit_number: String,
    /// Who approved the alternative where no relief setting fits, and what it is; empty where none is needed.
    #[serde(default)]
    pub relief_alternative: String,
    /// Gauge of whoever tests alone, where none of the store is read; absent where one is.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub own_gauge: Option<OwnGauge>,
    /// Whoever pumps does it by hand, stays at the pump, in part strokes near the end, eyes on the gauge, one hand at the bleed; false while nobody said so.
    #[serde(default, skip_serializing_if = "is_false")]
    pub hand_pump: bool,
    /// Set pressure of the relief valve that is fitted and in date, by the word of whoever makes the quick test, Pa; absent while nobody said so. The word is
    /// about this figure: where another follows later, it is asked anew.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub relief_fitted_pa: Option<quantity::GaugePressure>,
    /// Who signs a quick test.
    #[serde(default, skip_serializing_if = "Signers::usual")]
    pub signers: Signers,
    /// Who does what.
    #[serde(default)]
    pub people: People,
}

#[allow(clippy::trivially_copy_pass_by_ref, reason = "what serde asks for")]
const fn is_false(b: &bool) -> bool {
    !*b
}

impl Plan {
    /// The system that the rules derive from, with its gauges as the instrument store knows them (or one not yet chosen, read to 0.1 bar), under a
    /// project's specification.
    pub fn system(&self, title: &str, parts: Vec<Part>, store: &[Instrument], specification: &Specification) -> System {
        let store = self.instruments(store);
        let known = |tag: &str, elevation| store.iter().find(|i| i.tag == tag).and_then(|i| gauge_of(i, elevation));
        let gauge = known(&self.gauge_tag, self.gauge_elevation_m).unwrap_or_else(|| Gauge {
            tag: if self.gauge_tag.is_empty() { "the gauge".to_owned() } else { self.gauge_tag.clone() },
            elevation_m: self.gauge_elevation_m,
            full_scale_pa: None,
            division_pa: quantity::PressureDifference::from_bar(0.1),
            error_of_scale: 0.005,
            unit: quantity::PressureUnit::Bar,
        });
        let also_read = self.also.iter().filter_map(|a| known(&a.tag, a.elevation_m)).collect();
        System {
            worked_in: self.worked_in,
            joints: self.joints.clone(),
            water_temperature_c: self.water_temperature_c,
            restraint: self.restraint,
            settings: self.settings,
            also_read,
            liquid: self.liquid.clone(),
            site: self.site.clone(),
            method: self.method.clone(),
            hold_s: self.hold_s,
            pretest_pa: self.pretest_pa,
            pretest_permitted_by: self.pretest_permitted_by.clone(),
            unknown_history: self.why_now == WhyNow::UnknownHistory,
            specification: specification.clone(),
            ..System::new(title, self.basis.clone(), parts, gauge)
        }
    }

    /// Instruments of the store, with the own gauge of this plan beside them.
    pub fn instruments(&self, store: &[Instrument]) -> Vec<Instrument> {
        let own = self.own_gauge.as_ref().filter(|_| self.gauge_tag == OWN_GAUGE);
        store.iter().filter(|i| own.is_none() || i.tag != OWN_GAUGE).cloned().chain(own.map(OwnGauge::instrument)).collect()
    }

    /// What surrounds what is tested.
    pub fn surrounded_by(&self) -> Exposure {
        self.exposure.unwrap_or_else(|| self.object.usual_exposure())
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

    /// Hold that the test must last: the owner's, never below the floor of the basis and the project.
    pub fn hold(&self, specification: &Specification) -> Span {
        let floor = specification.applied(&self.basis).hold_floor();
        self.hold_s.map_or(floor, |own| own.max(floor))
    }
}

/// A gauge of the store at a height; none for another instrument, or one of which something is not known.
fn gauge_of(i: &Instrument, elevation: Length) -> Option<Gauge> {
    Some(Gauge {
        tag: i.tag.clone(),
        elevation_m: elevation,
        full_scale_pa: Some(i.full_scale_pa?),
        division_pa: i.division_pa?,
        error_of_scale: i.error_of_scale?,
        unit: i.unit,
    })
}
