//! A system as entered, and what keeps it from being derived.

use crate::basis::{Basis, BasisError, Demand, book};
use crate::fluid::{LiquidError, OtherLiquid};
use crate::gauge::Gauge;
use crate::library::{Library, TableError};
use crate::limits::{self, Limit, LimitError};
use crate::method::MethodAnswers;
use crate::part::{Part, PartKind};
use crate::parting::Joint;
use crate::plan::Settings;
use crate::site::{Site, SiteError};
use crate::specification::{Specification, SpecificationError};
use physics::elastic::Restraint;
use physics::system::{Segment, ShutIn};
use physics::water;
use quantity::{Density, GaugePressure, STANDARD_ATMOSPHERE, Temperature};
use serde::{Deserialize, Serialize};
use std::collections::HashSet;
use std::sync::Arc;

pub use crate::derived::{AIR_FRACTION_LIMIT, Derived, PartWindow, WindowConflict, derive, window_of};

/// A system under test, as entered: the content of a `SYSTEM.json`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct System {
    /// What people call it.
    pub title: String,
    /// Test basis and the pressure it multiplies.
    pub basis: Basis,
    /// Its parts.
    pub parts: Vec<Part>,
    /// How they are joined; where none is entered they are taken to follow each other as they are listed.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub joints: Vec<Joint>,
    /// The gauge that the test is read from.
    pub gauge: Gauge,
    /// Temperature of the water, °C.
    pub water_temperature_c: Temperature,
    /// How the pipe is held lengthwise.
    #[serde(default)]
    pub restraint: Restraint,
    /// Settings of the plan.
    #[serde(default)]
    pub settings: Settings,
    /// Further gauges.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub also_read: Vec<Gauge>,
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
    pub pretest_pa: Option<GaugePressure>,
    /// True for plant whose history nobody knows: wall and plate must be given.
    #[serde(default)]
    pub unknown_history: bool,
    /// What the project lays down.
    #[serde(default, skip_serializing_if = "Specification::is_default")]
    pub specification: Specification,
}

/// Why nothing can be derived. Each names the part or field and what would be accepted.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum Refusal {
    /// No parts.
    #[error("the system has no parts: give at least one with its height and what it can bear")]
    NoParts,
    /// Two parts with one tag.
    #[error("two parts carry the tag \"{0}\": give each its own")]
    TagTwice(String),
    /// A joint with a part that is not there.
    #[error("a joint names the part \"{0}\", which is not in the list: enter the part, or mend the joint")]
    JointOfNobody(String),
    /// A part without a limit.
    #[error(transparent)]
    Limit(#[from] LimitError),
    /// The basis cannot be applied.
    #[error(transparent)]
    Basis(#[from] BasisError),
    /// Gas out of range.
    #[error(transparent)]
    Gas(#[from] physics::gas::OutsideGas),
    /// Water out of range.
    #[error(transparent)]
    Water(#[from] water::OutsideLiquidWater),
    /// The liquid cannot be tested with.
    #[error(transparent)]
    Liquid(#[from] LiquidError),
    /// The project's specification cannot stand.
    #[error(transparent)]
    Specification(#[from] SpecificationError),
    /// A value of the library.
    #[error(transparent)]
    Library(#[from] TableError),
    /// Nobody knows the history of a part, and its wall or plate is not given.
    #[error("{tag}: its history is not known, and without {missing} there is no target pressure: {ask}")]
    UnknownHistory {
        /// the part
        tag: String,
        /// what is missing
        missing: &'static str,
        /// what to do
        ask: &'static str,
        /// the field
        field: &'static str,
    },
    /// A figure of the site that cannot be.
    #[error(transparent)]
    Site(#[from] SiteError),
    /// A pressure that cannot be.
    #[error("{field} must be above zero and finite, not {value_bar} bar: check the figure and its unit")]
    NotPositive {
        /// which
        field: &'static str,
        /// value
        value_bar: f64,
    },
    /// A setting that makes no sense.
    #[error("{field} must lie between {lo} and {hi}, not {value}: check the figure")]
    Setting {
        /// which
        field: &'static str,
        /// value
        value: f64,
        /// least
        lo: f64,
        /// greatest
        hi: f64,
    },
}

impl Refusal {
    /// Name of the field to mend.
    pub fn field(&self) -> &'static str {
        match self {
            Self::NoParts => "parts",
            Self::TagTwice(_) => "tag",
            Self::JointOfNobody(_) => "joints",
            Self::Limit(e) => e.field(),
            Self::Basis(e) => e.field(),
            Self::Water(_) | Self::Gas(_) => "water_temperature_c",
            Self::Liquid(e) => e.field(),
            Self::Specification(_) | Self::Library(_) => "specification",
            Self::Site(e) => e.field(),
            Self::UnknownHistory { field, .. } => field,
            Self::NotPositive { field, .. } | Self::Setting { field, .. } => field,
        }
    }
}

impl Settings {
    /// Checks what no plan can work with.
    ///
    /// # Errors
    /// Names the setting and its range.
    pub fn check(&self) -> Result<(), Refusal> {
        for (field, value, lo, hi) in [
            ("expected_cooling_k", self.expected_cooling_k, 0.0, 20.0),
            ("expected_settling_pa", self.expected_settling_pa.pa(), 0.0, 1e7),
            ("relief_accumulation", self.relief_accumulation, 0.0, 0.5),
        ] {
            if !(lo..=hi).contains(&value) {
                return Err(Refusal::Setting { field, value, lo, hi });
            }
        }
        Ok(())
    }
}

impl System {
    /// A system of which only basis, parts and gauge are known: water at 20 °C, everything else as its default has it.
    pub fn new(title: &str, basis: Basis, parts: Vec<Part>, gauge: Gauge) -> Self {
        Self {
            title: title.to_owned(),
            basis,
            parts,
            joints: vec![],
            gauge,
            water_temperature_c: Temperature::from_c(20.0),
            restraint: Restraint::default(),
            settings: Settings::default(),
            also_read: vec![],
            liquid: None,
            site: Site::default(),
            method: MethodAnswers::default(),
            pretest_pa: None,
            unknown_history: false,
            specification: Specification::default(),
        }
    }

    /// Checks what no rule can work with.
    pub(crate) fn check(&self) -> Result<(), Refusal> {
        if self.parts.is_empty() {
            return Err(Refusal::NoParts);
        }
        for gauge in std::iter::once(&self.gauge).chain(&self.also_read) {
            if !(gauge.division_pa.pa() > 0.0 && gauge.division_pa.is_finite()) {
                return Err(Refusal::NotPositive { field: "division_pa", value_bar: gauge.division_pa.bar() });
            }
        }
        self.settings.check()?;
        if let Some(liquid) = &self.liquid {
            liquid.check()?;
        }
        self.site.check()?;
        if let Some(p) = self.pretest_pa.filter(|p| !(p.pa() > 0.0 && p.is_finite())) {
            return Err(Refusal::NotPositive { field: "pretest_pa", value_bar: p.bar() });
        }
        if self.unknown_history {
            self.check_history()?;
        }
        let mut tags: HashSet<&str> = HashSet::with_capacity(self.parts.len());
        if let Some(twice) = self.parts.iter().find(|p| !tags.insert(&p.tag)) {
            return Err(Refusal::TagTwice(twice.tag.clone()));
        }
        let strays = self.joints.iter().flat_map(|j| [&j.a, &j.b]).find(|t| !tags.contains(t.as_str()));
        match strays {
            Some(tag) => Err(Refusal::JointOfNobody(tag.clone())),
            None => Ok(()),
        }
    }

    /// Wall and plate of plant whose history nobody knows.
    fn check_history(&self) -> Result<(), Refusal> {
        let missing = |tag: &str, missing, ask, field| Err(Refusal::UnknownHistory { tag: tag.to_owned(), missing, ask, field });
        for p in self.parts.iter().filter(|p| matches!(p.kind, PartKind::Vessel | PartKind::Boiler | PartKind::Pipe)) {
            if p.wall_m.is_none() || p.outside_diameter_m.is_none() || p.material.is_none() {
                let ask = "look inside, measure the wall at the thinnest places, and give diameter, wall and material";
                return missing(&p.tag, "a measured wall", ask, "wall");
            }
        }
        let plated = self.parts.iter().any(|p| matches!(p.kind, PartKind::Vessel | PartKind::Boiler));
        if plated && self.basis.plate_pressure_pa.is_none() && self.basis.allowable_pressure_pa.is_none() {
            let tag = self.parts.iter().find(|p| matches!(p.kind, PartKind::Vessel | PartKind::Boiler)).map_or("", |p| p.tag.as_str());
            return missing(
                tag,
                "the pressure on its plate",
                "read the nameplate, or have a competent person assign a pressure",
                "plate_pressure_pa",
            );
        }
        Ok(())
    }

    /// The basis with the project's answers.
    pub fn applied_basis(&self) -> Basis {
        self.specification.applied(&self.basis)
    }

    /// The library as the project has it.
    ///
    /// # Errors
    /// When a value of the project has no place or no reason.
    pub fn library(&self) -> Result<Arc<Library>, TableError> {
        self.specification.library()
    }

    /// What the basis asks of this system.
    ///
    /// # Errors
    /// Names what is missing, wrong or refused, and what would be accepted.
    pub fn demand(&self) -> Result<Demand, BasisError> {
        let library = self.library().map_err(BasisError::Table)?;
        self.applied_basis().demand(book::shipped(), &self.parts, &library)
    }

    /// Density of the column: of the liquid as filled, at its temperature and the atmosphere; of gas at the test pressure.
    pub(crate) fn density(&self, test: GaugePressure) -> Result<Density, Refusal> {
        Ok(match (self.basis.medium.gas(), &self.liquid) {
            (Some(gas), _) => gas.state(self.water_temperature_c, test.absolute(STANDARD_ATMOSPHERE))?.density,
            (None, Some(liquid)) => liquid.density_kg_m3,
            (None, None) => water::state(self.water_temperature_c, STANDARD_ATMOSPHERE)?.density,
        })
    }

    /// Where the density of the column comes from.
    pub(crate) fn density_source(&self) -> String {
        let at = self.water_temperature_c.c();
        match (self.basis.medium.gas(), &self.liquid) {
            (Some(gas), _) => format!("{}, reference equation, at {at:.1} °C and test pressure", gas.word()),
            (None, Some(liquid)) => format!("{}, as entered", liquid.name),
            (None, None) => format!("IAPWS-95 at {at:.1} °C"),
        }
    }

    /// The limits of one part, the least first.
    ///
    /// # Errors
    /// When nothing says what the part can bear.
    pub fn limits_of(&self, part: &Part, demand: &Demand) -> Result<Vec<Limit>, LimitError> {
        limits::of(part, demand)
    }

    /// The bodies of water that the physics works with; none where no part has volume, diameter, wall and material.
    pub fn shut_in(&self) -> Option<ShutIn> {
        let library = self.library().ok()?;
        let segments: Vec<Segment> = self
            .parts
            .iter()
            .filter_map(|p| {
                let elastic = library.material(p.material.as_deref()?).ok()?.elastic;
                if p.kind == PartKind::Blind {
                    return None;
                }
                let volume = p.volume();
                (volume.m3() > 0.0).then_some(Segment {
                    name: p.tag.clone(),
                    outside_diameter_m: p.outside_diameter_m?,
                    wall_m: p.wall_m?,
                    volume_m3: volume,
                    elastic,
                    restraint: self.restraint,
                })
            })
            .collect();
        (!segments.is_empty()).then(|| ShutIn::without_air(segments))
    }
}
