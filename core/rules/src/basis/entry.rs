//! One basis as its data file has it.

use super::bound::{Base, Bound, Constant};
use crate::accept::{AirCheckAsked, ContractionAsked, ExpansionAsked, FallAsked, MakeupAsked, WaterLossAsked, WholeTestAsked};
use crate::rule::{Cited, Standing};
use crate::say::Published;
use quantity::Span;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

/// A rule of a basis: what it says and how far it may be trusted.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct BasisRule {
    /// Its id, the same string everywhere.
    pub id: String,
    /// What it says, in one sentence.
    pub sentence: Published,
    /// Clause; empty where none is known.
    #[serde(default)]
    pub clause: String,
    /// Edition that it was remembered from; empty where none is known.
    #[serde(default)]
    pub edition: String,
    /// How far to trust it.
    pub standing: Standing,
    /// Name of a test that would fail without it.
    pub test: String,
}

impl Cited for BasisRule {
    fn id(&self) -> &str {
        &self.id
    }
    fn sentence(&self) -> &str {
        &self.sentence
    }
    fn clause(&self) -> &str {
        &self.clause
    }
    fn edition(&self) -> &str {
        &self.edition
    }
    fn standing(&self) -> Standing {
        self.standing
    }
}

/// What kind of thing is tested.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum Duty {
    /// process and power piping
    #[strum(message = "Process and power piping")]
    Piping,
    /// building services
    #[strum(message = "Building services")]
    Building,
    /// vessels and receivers
    #[strum(message = "Vessels and receivers")]
    Vessel,
    /// boilers
    #[strum(message = "Boilers")]
    Boiler,
    /// water mains
    #[strum(message = "Water mains")]
    Main,
    /// fire mains and fire piping
    #[strum(message = "Fire mains and piping")]
    Fire,
    /// gasketed joints
    #[strum(message = "Joints")]
    Joint,
}

/// What a basis asks to be given.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum Asked {
    /// internal design pressure
    #[strum(message = "Design pressure")]
    DesignPressure,
    /// design temperature
    #[strum(message = "Design temperature")]
    DesignTemperature,
    /// working pressure
    #[strum(message = "Working pressure")]
    WorkingPressure,
    /// working pressure at the highest point
    #[strum(message = "Working pressure at the highest point")]
    WorkingPressureHigh,
    /// maximum allowable pressure
    #[strum(message = "Maximum allowable pressure")]
    AllowablePressure,
    /// pressure on the plate
    #[strum(message = "Pressure on the plate")]
    PlatePressure,
    /// external difference
    #[strum(message = "External pressure difference")]
    ExternalDifference,
    /// figure of the owner, inspector or authority
    #[strum(message = "Agreed test pressure")]
    AgreedPressure,
    /// least hold that the owner asks
    #[strum(message = "Agreed hold")]
    AgreedHold,
}

/// Where the required pressure applies. The upper limit applies at every part always.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Applies {
    /// at every part, so the head only adds at lower points
    EveryPart,
    /// at the lowest point of what is under test, wherever the gauge hangs
    Lowest,
}

/// Where the code's own upper limit holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum MostAt {
    /// at every part
    #[default]
    EveryPart,
    /// at the highest point alone, where a maximum allowable pressure is defined: below it the head of the column comes on top
    Highest,
}

/// Which ratio of allowable stresses multiplies.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum RatioOf {
    /// none
    #[default]
    None,
    /// of every material, the largest
    Largest,
    /// of every material of the pressure boundary, the lowest
    Lowest,
    /// of the material of which there is most pipe
    PrevalentPipe,
    /// of every material, but of a rated component the ratio of its ratings; the largest
    LargestWithRatings,
}

/// Which wall a stress is held against.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum WallOf {
    /// nominal
    #[default]
    Nominal,
    /// nominal less mill tolerance and corrosion
    Minimum,
    /// as stated for the vessel or boiler
    Stated,
    /// as measured at the thinnest place
    Measured,
}

impl WallOf {
    /// In a word.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Nominal => "nominal",
            Self::Minimum => "minimum",
            Self::Stated => "stated",
            Self::Measured => "measured",
        }
    }

    /// Where it comes from.
    pub const fn source(self) -> &'static str {
        match self {
            Self::Nominal => "nominal, as entered or from the pipe table",
            Self::Minimum => "nominal less 12.5 % mill tolerance and corrosion for steel and copper pipe, as entered for the rest",
            Self::Stated => "as stated for the vessel or boiler",
            Self::Measured => "as measured at the thinnest place",
        }
    }
}

/// Shares of yield that walls may reach.
#[derive(Debug, Clone, Copy, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Walls {
    /// With liquid.
    pub share: f64,
    /// With gas.
    pub gas_share: f64,
    /// Which wall.
    pub wall: WallOf,
}

impl Default for Walls {
    fn default() -> Self {
        Self { share: 0.9, gas_share: 0.9, wall: WallOf::Stated }
    }
}

/// What a closed seat may see, as a multiple of its rating.
#[derive(Debug, Clone, Copy, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Seats {
    /// Metal-seated gates and hydrants.
    pub metal_seated: f64,
    /// Resilient-seated valves.
    pub resilient: f64,
}

/// How piping is tested together with a vessel.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct WithVessel {
    /// The rule.
    pub rule: BasisRule,
    /// Least test pressure of the vessel, share of the piping's.
    pub least_share: f64,
}

/// The rule by which a test pressure may be reduced to what the walls bear.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct MayReduce {
    /// The rule.
    pub rule: BasisRule,
}

/// Pressures of a test with one medium.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Pressures {
    /// The rule.
    pub rule: BasisRule,
    /// Least pressure; absent where no rule is known, so that the owner's figure is asked for.
    pub least: Option<Bound>,
    /// Least pressure at the highest point of a main.
    pub least_highest: Option<Bound>,
    /// Least figure that may be agreed.
    pub floor: Option<Bound>,
    /// Greatest pressure by the code.
    pub most: Option<Bound>,
    /// Where that holds.
    #[serde(default)]
    pub most_at: MostAt,
    /// Greatest pressure that may be asked, where it is no limit of the parts: the plate of a receiver and the factor of its year.
    pub required_most: Option<Bound>,
    /// First look, where an edition names one.
    pub first_look: Option<Constant>,
    /// Hold of its own, minutes.
    pub hold_min: Option<f64>,
    /// Band of its own.
    pub band: Option<Band>,
}

/// The least hold.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Hold {
    /// The rule.
    pub rule: BasisRule,
    /// Minutes.
    pub floor_min: f64,
    /// Minutes of settling or expansion before it.
    #[serde(default)]
    pub settle_min: f64,
    /// `once_after_settling` where one repump after settling does not restart the clock.
    pub repump: Option<String>,
}

/// Where the look is taken.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Look {
    /// The rule.
    pub rule: BasisRule,
    /// With liquid.
    pub liquid: Option<Bound>,
    /// With gas.
    pub gas: Option<Bound>,
}

/// How far the pressure may move in the hold.
#[derive(Debug, Clone, PartialEq, Default, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Band {
    /// Upwards.
    pub plus: Option<Constant>,
    /// Downwards.
    pub minus: Option<Constant>,
    /// Share of the pressure, both ways.
    pub share: Option<f64>,
}

/// Temperatures of the water.
#[derive(Debug, Clone, Copy, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct WaterRange {
    /// Least, °C.
    pub least_c: f64,
    /// Greatest, °C.
    pub most_c: f64,
    /// True where warmer water is warned of, not refused.
    #[serde(default)]
    pub warn_above: bool,
    /// True where it is no colder than its surroundings either.
    #[serde(default)]
    pub not_below_surroundings: bool,
}

/// Temperatures of the metal.
#[derive(Debug, Clone, Copy, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct MetalRange {
    /// Least, °C.
    pub least_c: Option<f64>,
    /// Greatest at the look, °C.
    pub most_c: f64,
    /// True where it is held against the minimum design metal temperature.
    #[serde(default)]
    pub minimum: bool,
}

/// The service that an entry holds for.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Service {
    /// The rule.
    pub rule: BasisRule,
    /// Greatest design pressure.
    pub most: Constant,
    /// Least design temperature, °C.
    pub least_c: f64,
    /// Greatest design temperature, °C.
    pub most_c: f64,
}

/// One answer to a question of a basis.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ChoiceOption {
    /// Its key.
    pub key: String,
    /// In words.
    pub words: Published,
    /// What it changes in the entry.
    #[serde(default)]
    pub set: toml::Table,
}

/// A question on which practitioners or editions differ; the first option is the default.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Choice {
    /// Its key.
    pub key: String,
    /// The question.
    pub question: String,
    /// Asked only where another choice has this answer.
    #[serde(default)]
    pub only: BTreeMap<String, String>,
    /// The options.
    #[serde(rename = "option")]
    pub options: Vec<ChoiceOption>,
}

/// One basis, its choices made.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Entry {
    /// Its id.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// What kind of thing is tested.
    pub duty: Duty,
    /// What must be given.
    pub asks: Vec<Asked>,
    /// Where the required pressure applies.
    pub applies: Applies,
    /// Which ratio of stresses multiplies.
    #[serde(default)]
    pub ratio: RatioOf,
    /// Greatest ratio, where an edition caps it.
    pub ratio_cap: Option<f64>,
    /// Shares of yield.
    #[serde(default)]
    pub walls: Walls,
    /// Table of the library whose allowable stresses the ratio is taken from.
    #[serde(default)]
    pub stress: String,
    /// Closed seats.
    pub seats: Option<Seats>,
    /// Why a wall must be given for vessels and boilers.
    pub needs_wall: Option<String>,
    /// Greatest allowable pressure for which the entry holds.
    pub allowable_most: Option<Constant>,
    /// Temperatures of the water.
    pub water: Option<WaterRange>,
    /// Temperatures of the metal.
    pub metal: Option<MetalRange>,
    /// The service that it holds for.
    pub service: Option<Service>,
    /// Of plant that was in service: the pressure that its measured wall must bear by calculation.
    pub used: Option<Base>,
    /// Greatest low gas test before the liquid, where the basis has one of its own.
    pub pretest_cap: Option<Constant>,
    /// Families of brittle material that gas may go into by the entry's own rule.
    #[serde(default)]
    pub brittle_with_gas: Vec<String>,
    /// Why a part with the pressure outside it must be listed.
    pub needs_inner: Option<String>,
    /// Symbols other than the usual.
    #[serde(default)]
    pub symbols: BTreeMap<Base, String>,
    /// Sensitivity asked of a leak test.
    pub sensitivity: Option<String>,
    /// Conditions, in sentences.
    #[serde(default)]
    pub conditions: Vec<Published>,
    /// With liquid.
    pub liquid: Option<Pressures>,
    /// With gas.
    pub gas: Option<Pressures>,
    /// Why gas is refused.
    pub forbids_gas: Option<Published>,
    /// True where a low gas test may come before the liquid although gas is refused for the test itself.
    #[serde(default)]
    pub low_gas: bool,
    /// Why liquid is refused.
    pub gas_only: Option<String>,
    /// True where the basis itself allows no loss beyond what temperature explains; where it does not, its acceptance is the look and the kept
    /// pressure, or a band, a fall or an allowance of its own.
    #[serde(default)]
    pub no_loss: bool,
    /// Band of the hold.
    pub band: Option<Band>,
    /// Greatest fall within a time.
    pub fall: Option<FallAsked>,
    /// Make-up allowance of a main.
    pub makeup: Option<MakeupAsked>,
    /// Air check before the main test.
    pub air_check: Option<AirCheckAsked>,
    /// Water lost for the fall.
    pub water_loss: Option<WaterLossAsked>,
    /// Contraction of a viscoelastic main.
    pub contraction: Option<ContractionAsked>,
    /// Expansion before the hold.
    pub expansion: Option<ExpansionAsked>,
    /// Length of the whole test.
    pub whole: Option<WholeTestAsked>,
    /// Hold; absent where no rule is known.
    pub hold: Option<Hold>,
    /// Look; absent where no rule is known.
    pub look: Option<Look>,
    /// How piping is tested together with a vessel; absent where no rule is known.
    pub with_vessel: Option<WithVessel>,
    /// True where it is.
    #[serde(default)]
    pub vessel_together: bool,
    /// The rule by which the pressure may be reduced to yield; absent where none is known.
    pub may_reduce: Option<MayReduce>,
    /// True where it is reduced.
    #[serde(default)]
    pub reduced: bool,
    /// True for a rule that stands on top of a code's.
    #[serde(default)]
    pub on_top: bool,
    /// Questions.
    #[serde(default, rename = "choice")]
    pub choices: Vec<Choice>,
}

impl Entry {
    /// Symbol of a pressure in this basis.
    pub fn symbol(&self, base: Base) -> String {
        self.symbols.get(&base).cloned().unwrap_or_else(|| base.symbol().to_owned())
    }

    /// Why gas is refused; none where it is not.
    pub fn no_gas(&self) -> Option<&str> {
        self.forbids_gas.as_deref().filter(|s| !s.is_empty())
    }

    /// Floor of the hold with a medium.
    pub fn hold_floor(&self, gas: bool) -> Option<Span> {
        let own = if gas { self.gas.as_ref().and_then(|g| g.hold_min) } else { None };
        own.or_else(|| self.hold.as_ref().map(|h| h.floor_min)).map(Span::from_minutes)
    }

    /// Every rule of the entry.
    pub fn rules(&self) -> Vec<&BasisRule> {
        let media = [&self.liquid, &self.gas].into_iter().flatten().map(|m| &m.rule);
        let more =
            [self.with_vessel.as_ref().map(|v| &v.rule), self.may_reduce.as_ref().map(|r| &r.rule), self.service.as_ref().map(|s| &s.rule)]
                .into_iter()
                .flatten();
        media.chain(more).chain(self.hold.as_ref().map(|h| &h.rule)).chain(self.look.as_ref().map(|l| &l.rule)).collect()
    }
}
