//! A system as entered, and what keeps it from being derived.

use crate::basis::{Basis, BasisError, Demand, Ground, Under, book};
use crate::fluid::OtherLiquid;
use crate::gauge::Gauge;
use crate::library::{Library, TableError};
use crate::limits::{self, Limit, LimitError};
use crate::method::MethodAnswers;
use crate::part::{Part, PartKind};
use crate::parting::Joint;
use crate::plan::Settings;
use crate::rule::{Rule, Standing};
use crate::say::{AtGauge, Say};
use crate::site::Site;
use crate::specification::Specification;
use physics::elastic::Restraint;
use physics::head::Column;
use physics::system::{Segment, ShutIn};
use physics::water;
use quantity::{GaugePressure, Length, PressureUnit, STANDARD_ATMOSPHERE, Span, Temperature, Volume};
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, HashSet};
use std::sync::Arc;

pub use crate::derive::{AIR_FRACTION_LIMIT, derive, refusals, window_of};
pub use crate::derived::{Derived, PartWindow, WindowConflict};
pub use crate::refusal::Refusal;

/// Rules of what a system must say.
pub const RULES: &[&Rule] = &[&ENTERED, &HISTORY];

/// What cannot be worked with.
pub const ENTERED: Rule = Rule {
    id: "SYSTEM-ENTERED",
    sentence: "A system has parts with tags of their own, and figures that can be: what cannot be is refused at its field.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "liquid_flash_point_system_entered_basis_sense_each_refusal_names_part_field_and_what_would_do",
};

/// History that nobody knows.
pub const HISTORY: Rule = Rule {
    id: "SYSTEM-HISTORY",
    sentence: "Plant whose history nobody knows has no target pressure without its measured wall and its plate.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "system_history_unknown_history_needs_wall_and_plate",
};

/// Number of the format of a system as this version writes it; 1 where a file says none.
pub const FORMAT: u32 = 2;

const fn first_format() -> u32 {
    1
}

/// A system under test, as entered: the content of a `SYSTEM.json`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct System {
    /// Number of the format that it was written in; 1 where it is absent.
    #[serde(default = "first_format")]
    pub format: u32,
    /// What people call it.
    pub title: String,
    /// Unit that the test is worked in; a standard's own rounding follows it. Frozen at the release.
    #[serde(default)]
    pub worked_in: PressureUnit,
    /// Unit in which sentences are said to the person who asks; that which it is worked in where it is absent. Never stored.
    #[serde(skip)]
    pub said_in: Option<quantity::Units>,
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
    /// Hold that the owner asks for, s; never below the floor of the basis and the project, which is meant where it is absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hold_s: Option<Span>,
    /// True for plant whose history nobody knows: wall and plate must be given.
    #[serde(default)]
    pub unknown_history: bool,
    /// What the project lays down.
    #[serde(default, skip_serializing_if = "Specification::is_default")]
    pub specification: Specification,
    /// Who says that the maker of a brittle material permits the low gas test before the liquid, and up to what.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub pretest_permitted_by: String,
    /// What was declared not to be there: field, and who says so.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub none: BTreeMap<String, String>,
}

impl Settings {
    /// Checks what no plan can work with.
    ///
    /// # Errors
    /// Names the setting and its range.
    pub fn check(&self) -> Result<(), Refusal> {
        for (field, value, lo, hi) in [
            ("expected_cooling_k", self.expected_cooling_k.k(), 0.0, 20.0),
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
            format: FORMAT,
            title: title.to_owned(),
            worked_in: PressureUnit::default(),
            said_in: None,
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
            hold_s: None,
            pretest_pa: None,
            unknown_history: false,
            specification: Specification::default(),
            pretest_permitted_by: String::new(),
            none: BTreeMap::new(),
        }
    }

    /// How its figures are said.
    pub fn say(&self) -> Say {
        Say(self.said_in.unwrap_or(self.worked_in.into()))
    }

    /// How figures that are read at its gauge are said to the person who asks.
    pub fn at_gauge(&self) -> AtGauge {
        AtGauge::new(self.say(), self.gauge.unit, Some(self.gauge.division_pa))
    }

    /// Everything that no rule can work with.
    pub(crate) fn check(&self) -> Vec<Refusal> {
        let mut all: Vec<Refusal> = Vec::new();
        if self.format > FORMAT {
            all.push(Refusal::Format(self.format));
        }
        if self.parts.is_empty() {
            all.push(Refusal::NoParts);
        }
        for gauge in std::iter::once(&self.gauge).chain(&self.also_read) {
            if !(gauge.division_pa.pa() > 0.0 && gauge.division_pa.is_finite()) {
                all.push(Refusal::NotPositive { field: "division_pa", value: GaugePressure::from_pa(gauge.division_pa.pa()) });
            }
        }
        all.extend(self.settings.check().err());
        all.extend(self.liquid.as_ref().and_then(|l| l.check().err()).map(Refusal::from));
        all.extend(self.site.check().err().map(Refusal::from));
        if let Some(p) = self.pretest_pa.filter(|p| !(p.pa() > 0.0 && p.is_finite())) {
            all.push(Refusal::NotPositive { field: "pretest_pa", value: p });
        }
        if self.unknown_history {
            all.extend(self.check_history());
        }
        let mut tags: HashSet<&str> = HashSet::with_capacity(self.parts.len());
        all.extend(self.parts.iter().filter(|p| !tags.insert(&p.tag)).map(|p| Refusal::TagTwice(p.tag.clone())));
        let strays = self.joints.iter().flat_map(|j| [&j.a, &j.b]).filter(|t| !tags.contains(t.as_str()));
        all.extend(strays.map(|t| Refusal::JointOfNobody(t.clone())));
        all.extend(self.parts.iter().filter_map(|p| Some(Refusal::PartFigure { tag: p.tag.clone(), field: bad_figure(p)? })));
        all
    }

    /// Wall and plate of plant whose history nobody knows.
    fn check_history(&self) -> Vec<Refusal> {
        let missing = |tag: &str, missing, ask, field| Refusal::UnknownHistory { tag: tag.to_owned(), missing, ask, field };
        let judged = |p: &&Part| p.kind.piping() || matches!(p.kind, PartKind::Vessel | PartKind::Boiler | PartKind::Exchanger);
        let unknown = |p: &&Part| p.wall_m.is_none() || p.outside_diameter_m.is_none() || p.material.is_none();
        let ask = "look inside, measure the wall at the thinnest places, and give diameter, wall and material";
        let mut all: Vec<Refusal> =
            self.parts.iter().filter(judged).filter(unknown).map(|p| missing(&p.tag, "a measured wall", ask, "wall")).collect();
        let plated = self.parts.iter().find(|p| matches!(p.kind, PartKind::Vessel | PartKind::Boiler));
        if let Some(p) = plated.filter(|_| self.basis.plate_pressure_pa.is_none() && self.basis.allowable_pressure_pa.is_none()) {
            let ask = "read the nameplate, or have a competent person assign a pressure";
            all.push(missing(&p.tag, "the pressure on its plate", ask, "plate_pressure_pa"));
        }
        all
    }

    /// The system without what sees no pressure.
    pub(crate) fn pressed(&self) -> Option<Self> {
        let support = |p: &Part| p.kind.unpressed() || p.beyond();
        if !self.parts.iter().any(support) {
            return None;
        }
        let gone: HashSet<&str> = self.parts.iter().filter(|p| support(p)).map(|p| p.tag.as_str()).collect();
        let joints = self.joints.iter().filter(|j| !gone.contains(j.a.as_str()) && !gone.contains(j.b.as_str())).cloned().collect();
        let parts = self.parts.iter().filter(|p| !support(p)).cloned().collect();
        Some(Self { parts, joints, ..self.clone() })
    }

    /// The basis with the project's answers, and with what the parts themselves decide: a main of a plastic that creeps is judged by its creep.
    pub fn applied_basis(&self) -> Basis {
        let mut basis = self.specification.applied(&self.basis);
        if basis.id == "en805" && self.parts.iter().any(|p| p.kind.piping() && p.material.as_deref().is_some_and(|m| m.starts_with("pe"))) {
            basis.choices.entry("main_test".to_owned()).or_insert_with(|| "contraction".to_owned());
        }
        basis
    }

    /// The warmest that a wall is taken to be: of water, metal and surroundings as planned.
    fn warmest(&self) -> Temperature {
        [self.site.metal_c, self.site.surroundings_c].into_iter().flatten().fold(self.water_temperature_c, Temperature::max)
    }

    fn under(&self) -> Under {
        Under { worked_in: self.worked_in, warmest: Some(self.warmest()) }
    }

    /// What limits of parts are held against.
    ///
    /// # Errors
    /// When the basis, a question or an answer is not known, or a value of the project cannot be used.
    pub fn ground(&self) -> Result<Ground, BasisError> {
        let library = self.library().map_err(BasisError::Table)?;
        self.applied_basis().ground(book::shipped(), &library, self.under())
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
        self.applied_basis().demand_under(book::shipped(), &self.parts, &library, self.under())
    }

    /// The column: of the liquid as filled, at its temperature and the atmosphere; of gas at the test pressure, over water below its line.
    pub(crate) fn column(&self, test: GaugePressure) -> Result<Column, Refusal> {
        let water = || water::state(self.water_temperature_c, STANDARD_ATMOSPHERE).map(|w| w.density);
        Ok(match (self.basis.medium.gas(), &self.liquid) {
            (Some(gas), liquid) => {
                let density = gas.state(self.water_temperature_c, test.absolute(STANDARD_ATMOSPHERE))?.density;
                let below = match (self.method.water_line_m, liquid) {
                    (Some(line), Some(liquid)) => Some((line, liquid.density_kg_m3)),
                    (Some(line), None) => Some((line, water()?)),
                    (None, _) => None,
                };
                Column { density, below }
            }
            (None, Some(liquid)) => liquid.density_kg_m3.into(),
            (None, None) => water()?.into(),
        })
    }

    /// Where the density of the column comes from.
    pub(crate) fn density_source(&self) -> String {
        let at = self.say().temperature(self.water_temperature_c);
        match (self.basis.medium.gas(), &self.liquid) {
            (Some(gas), _) => format!("{}, reference equation, at {at} and test pressure", gas.word()),
            (None, Some(liquid)) => format!("{}, as entered", liquid.name),
            (None, None) => format!("IAPWS-95 at {at}"),
        }
    }

    /// Place and height of the highest part.
    pub(crate) fn highest(&self) -> Length {
        self.parts.iter().map(|p| p.ends().1).fold(Length::from_m(f64::NEG_INFINITY), Length::max)
    }

    /// The limits of one part, the least first.
    ///
    /// # Errors
    /// When nothing says what the part can bear.
    pub fn limits_of(&self, part: &Part, demand: &Demand) -> Result<Vec<Limit>, LimitError> {
        let Some(at) = self.parts.iter().position(|p| p.tag == part.tag) else { return limits::of(part, demand, None) };
        limits::of(part, demand, crate::derive::code_limit(self, demand, at, self.highest()))
    }

    /// Tags of the parts whose volume counts although their wall is not known; see [`Self::shut_in`].
    pub fn assumed_walls(&self) -> HashSet<&str> {
        self.parts.iter().filter(|p| p.volume_m3.is_some() && wall_unknown(p) && !p.kind.no_room()).map(|p| p.tag.as_str()).collect()
    }

    /// The bodies of water that the physics works with; none where no part has a volume. A volume that is given counts without a wall: its stretch
    /// is then that of a steel cylinder of a hundred walls across, and may be a tenth or nearly twice of that.
    pub fn shut_in(&self) -> Option<ShutIn> {
        self.bodies(USUAL_WALLS)
    }

    /// The same with the stiffest walls that those which are not known may have.
    pub fn stiffest(&self) -> Option<ShutIn> {
        self.bodies(STIFF_WALLS)
    }

    fn bodies(&self, walls_across: f64) -> Option<ShutIn> {
        let library = self.library().ok()?;
        let steel = library.elastic("carbon_steel")?;
        let segments: Vec<Segment> = self
            .parts
            .iter()
            .filter(|p| !p.kind.no_room())
            .filter_map(|p| {
                let volume = p.volume();
                if volume.m3() <= 0.0 {
                    return None;
                }
                let elastic = p.material.as_deref().and_then(|m| library.material(m).ok()).map(|m| m.elastic);
                let restraint = if p.kind.vessel() { Restraint::Free } else { self.restraint };
                if wall_unknown(p) {
                    p.volume_m3?;
                    let outside = p.outside_diameter_m.unwrap_or_else(|| across(volume));
                    return Some(Segment {
                        name: p.tag.clone(),
                        outside_diameter_m: outside,
                        wall_m: outside / walls_across,
                        volume_m3: volume,
                        elastic: elastic.unwrap_or(steel),
                        restraint,
                    });
                }
                Some(Segment {
                    name: p.tag.clone(),
                    outside_diameter_m: p.outside_diameter_m?,
                    wall_m: p.wall_m?,
                    volume_m3: volume,
                    elastic: elastic?,
                    restraint: self.restraint,
                })
            })
            .collect();
        (!segments.is_empty()).then(|| ShutIn::without_air(segments))
    }

    /// Volume of the gas of a gas test; none while a part that can hold gas has none.
    pub fn gas_volume(&self) -> Option<Volume> {
        let mut sum = Volume::from_m3(0.0);
        for p in &self.parts {
            sum = sum + p.gas_volume()?;
        }
        Some(sum)
    }
}

/// Outside diameter over wall that a wall which is not known is taken to have, and the least that it may have.
const USUAL_WALLS: f64 = 100.0;
const STIFF_WALLS: f64 = 10.0;
/// Length over diameter of a vessel of which only the volume is known.
const SLENDER: f64 = 3.0;

fn wall_unknown(p: &Part) -> bool {
    p.outside_diameter_m.is_none() || p.wall_m.is_none() || p.material.is_none()
}

/// Diameter of a cylinder of a volume, three times as long as wide.
fn across(volume: Volume) -> Length {
    Length::from_m((volume.m3() / (std::f64::consts::FRAC_PI_4 * SLENDER)).cbrt())
}

/// A figure of a part that cannot be: its column.
fn bad_figure(p: &Part) -> Option<&'static str> {
    let positive = [
        ("size", p.outside_diameter_m.map(|v| v.m())),
        ("wall", p.wall_m.map(|v| v.m())),
        ("length", p.length_m.map(|v| v.m())),
        ("volume", p.volume_m3.map(|v| v.m3())),
        ("rating", p.rating_pa.map(|v| v.pa())),
        ("limit", p.test_limit_pa.map(|v| v.pa())),
        ("test pressure", p.test_pressure_pa.map(|v| v.pa())),
        ("proven", p.proven_pa.map(|v| v.pa())),
        ("restraint", p.restraint_n.map(|f| f.n())),
        ("seal", p.sealing_diameter_m.map(|v| v.m())),
        ("bend", p.bend_deg),
        ("design pressure", p.design_pressure_pa.map(|v| v.pa())),
        ("seam", p.seam_efficiency),
        ("wall before", p.earlier_wall_m.map(|v| v.m())),
        ("years between", p.years_between),
        ("class", p.flange_class.map(f64::from)),
        ("class", p.pn.map(f64::from)),
    ];
    let bad = |v: Option<f64>| v.is_some_and(|v| !(v > 0.0 && v.is_finite()));
    let wrong = positive.into_iter().find(|(_, v)| bad(*v)).map(|(column, _)| column);
    let seam = p.seam_efficiency.filter(|e| *e > 1.0).map(|_| "seam");
    let corrosion = p.corrosion_m.filter(|c| !(c.m() >= 0.0 && c.is_finite())).map(|_| "corrosion");
    let height = (!p.elevation_m.is_finite() || p.to_elevation_m.is_some_and(|z| !z.is_finite())).then_some("height");
    wrong.or(seam).or(corrosion).or(height)
}
