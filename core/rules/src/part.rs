//! One part of the system under test.

use quantity::{Force, GaugePressure, Length, Temperature, Volume};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

/// What a part is; decides which limits are asked for, whether it can hold gas, and what an empty cell of it means.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum PartKind {
    /// pipe: outside diameter, wall, material, length
    Pipe,
    /// bend: as a pipe, with the angle that its thrust block takes
    Bend,
    /// reducer: as a pipe of its larger end
    Reducer,
    /// tee or branch: as a pipe of its run
    Tee,
    /// flange of a rated class
    Flange,
    /// open valve: its shell sees the pressure
    Valve,
    /// closed valve at the end of the test: its seat sees the pressure
    ClosedValve,
    /// strainer
    Strainer,
    /// instrument
    Instrument,
    /// expansion bellows
    Bellows,
    /// hose
    Hose,
    /// coupling or mechanical joint
    Coupling,
    /// joint sealed by a gasket: push-on pipe, box section
    GasketedJoint,
    /// hydrant
    Hydrant,
    /// vessel with its own test pressure
    Vessel,
    /// side of a heat exchanger
    Exchanger,
    /// machine: pump, turbine, compressor
    Machine,
    /// boiler shell or drum
    Boiler,
    /// furnace, flue or jacketed inner part: the pressure is outside it
    Furnace,
    /// flat plate held by stays
    StayedPlate,
    /// rated fitting
    Fitting,
    /// blind, spade, cap or plug at an end
    Blind,
    /// vent point
    Vent,
    /// drain point
    Drain,
    /// support: bears weight, sees no pressure
    Support,
    /// spring hanger: pinned while the line is full of water
    SpringHanger,
    /// orifice plate
    OrificePlate,
    /// where water or gas is let in
    Fill,
    /// where a gauge is connected
    GaugePoint,
    /// where the relief valve of the test is connected
    ReliefPoint,
    /// where the pump is connected
    PumpPoint,
}

impl PartKind {
    /// All, with the words that files and people use.
    pub const ALL: [(Self, &'static str); 31] = [
        (Self::Pipe, "pipe"),
        (Self::Bend, "bend"),
        (Self::Reducer, "reducer"),
        (Self::Tee, "tee"),
        (Self::Flange, "flange"),
        (Self::Valve, "valve"),
        (Self::ClosedValve, "closed valve"),
        (Self::Strainer, "strainer"),
        (Self::Instrument, "instrument"),
        (Self::Bellows, "bellows"),
        (Self::Hose, "hose"),
        (Self::Coupling, "coupling"),
        (Self::GasketedJoint, "gasketed joint"),
        (Self::Hydrant, "hydrant"),
        (Self::Vessel, "vessel"),
        (Self::Exchanger, "exchanger"),
        (Self::Machine, "machine"),
        (Self::Boiler, "boiler"),
        (Self::Furnace, "furnace"),
        (Self::StayedPlate, "stayed plate"),
        (Self::Fitting, "fitting"),
        (Self::Blind, "blind"),
        (Self::Vent, "vent"),
        (Self::Drain, "drain"),
        (Self::Support, "support"),
        (Self::SpringHanger, "spring hanger"),
        (Self::OrificePlate, "orifice plate"),
        (Self::Fill, "fill"),
        (Self::GaugePoint, "gauge connection"),
        (Self::ReliefPoint, "relief connection"),
        (Self::PumpPoint, "pump connection"),
    ];

    /// What people also write.
    const ALSO: [(&'static str, Self); 29] = [
        ("elbow", Self::Bend),
        ("branch", Self::Tee),
        ("open valve", Self::Valve),
        ("blank", Self::Blind),
        ("blind flange", Self::Blind),
        ("spade", Self::Blind),
        ("cap", Self::Blind),
        ("plug", Self::Blind),
        ("joint", Self::Coupling),
        ("push-on joint", Self::GasketedJoint),
        ("filter", Self::Strainer),
        ("heat exchanger", Self::Exchanger),
        ("pump", Self::Machine),
        ("turbine", Self::Machine),
        ("compressor", Self::Machine),
        ("shell", Self::Boiler),
        ("drum", Self::Boiler),
        ("boiler shell", Self::Boiler),
        ("flue", Self::Furnace),
        ("receiver", Self::Vessel),
        ("tank", Self::Vessel),
        ("hanger", Self::SpringHanger),
        ("orifice", Self::OrificePlate),
        ("fill point", Self::Fill),
        ("fill connection", Self::Fill),
        ("gauge", Self::GaugePoint),
        ("gauge point", Self::GaugePoint),
        ("relief point", Self::ReliefPoint),
        ("pump point", Self::PumpPoint),
    ];

    /// The word for it.
    pub fn word(self) -> &'static str {
        Self::ALL.iter().find(|(k, _)| *k == self).map_or("part", |(_, w)| w)
    }

    /// From the word for it.
    pub fn from_word(word: &str) -> Option<Self> {
        let wanted = plain(word);
        let also = || Self::ALSO.iter().find(|(w, _)| plain(w) == wanted).map(|(_, k)| *k);
        Self::ALL.iter().find(|(_, w)| *w == wanted).map(|(k, _)| *k).or_else(also)
    }

    /// True for a cylinder whose own wall bears the pressure.
    pub const fn walled(self) -> bool {
        self.piping() || matches!(self, Self::Vessel | Self::Exchanger | Self::Boiler | Self::Fitting)
    }

    /// True for what is judged as pipe.
    pub const fn piping(self) -> bool {
        matches!(self, Self::Pipe | Self::Bend | Self::Reducer | Self::Tee)
    }

    /// True for a vessel, or what counts as one.
    pub const fn vessel(self) -> bool {
        matches!(self, Self::Vessel | Self::Exchanger | Self::Machine | Self::Boiler)
    }

    /// True for what this tool cannot calculate: the inspector's or the designer's figure counts.
    pub const fn not_calculated(self) -> bool {
        matches!(self, Self::Furnace | Self::StayedPlate)
    }

    /// True for what can hold so much gas that its volume must be known.
    pub const fn can_hold_gas(self) -> bool {
        self.piping() || self.vessel() || matches!(self, Self::Hose | Self::Bellows)
    }

    /// True for what has no room inside: a plate, or what sees no pressure.
    pub const fn no_room(self) -> bool {
        matches!(self, Self::Blind | Self::Furnace | Self::StayedPlate) || self.unpressed()
    }

    /// True for what has no limit of its own in the test: what only bears weight, and where the manifold is connected, which is proved by itself.
    pub const fn unpressed(self) -> bool {
        matches!(self, Self::Support | Self::SpringHanger) || self.connection()
    }

    /// True for a place where something of the test is connected.
    pub const fn connection(self) -> bool {
        matches!(self, Self::Fill | Self::GaugePoint | Self::ReliefPoint | Self::PumpPoint)
    }

    /// True for a valve, open or closed.
    pub const fn valve(self) -> bool {
        matches!(self, Self::Valve | Self::ClosedValve)
    }
}

fn plain(word: &str) -> String {
    word.trim().to_lowercase().replace(['_', '-'], " ").split_whitespace().collect::<Vec<_>>().join(" ")
}

/// Type of a valve.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ValveType {
    /// gate
    Gate,
    /// globe
    Globe,
    /// ball
    Ball,
    /// plug
    Plug,
    /// butterfly, wafer
    Butterfly,
    /// check
    Check,
    /// control
    Control,
    /// relief
    Relief,
}

impl ValveType {
    /// All, with their words.
    pub const ALL: [(Self, &'static str); 8] = [
        (Self::Gate, "gate"),
        (Self::Globe, "globe"),
        (Self::Ball, "ball"),
        (Self::Plug, "plug"),
        (Self::Butterfly, "butterfly"),
        (Self::Check, "check"),
        (Self::Control, "control"),
        (Self::Relief, "relief"),
    ];

    /// The word for it.
    pub fn word(self) -> &'static str {
        Self::ALL.iter().find(|(k, _)| *k == self).map_or("", |(_, w)| w)
    }
}

/// "closed gate valve", "ball valve (closed)", "pipe": kind, and type of a valve where one is named.
pub fn kind_from_words(text: &str) -> Option<(PartKind, Option<ValveType>)> {
    if let Some(kind) = PartKind::from_word(text) {
        return Some((kind, None));
    }
    let words = plain(&text.replace(['(', ')', ','], " "));
    let words: Vec<&str> = words.split(' ').collect();
    if !words.contains(&"valve") {
        return None;
    }
    let closed = words.contains(&"closed") || words.contains(&"shut");
    let of = |w: &&str| ValveType::ALL.iter().find(|(_, name)| name == w || (*w == "wafer" && *name == "butterfly")).map(|(t, _)| *t);
    let valve = words.iter().find_map(of);
    let known = |w: &&str| matches!(*w, "valve" | "closed" | "shut" | "open") || of(w).is_some();
    words.iter().all(known).then_some((if closed { PartKind::ClosedValve } else { PartKind::Valve }, valve))
}

/// How something stands in a phase of the test.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Position {
    /// valve open
    Open,
    /// ball or plug valve half open, so that its body sees the pressure
    HalfOpen,
    /// valve shut
    Shut,
    /// valve open and locked so
    LockedOpen,
    /// check valve held open, or its flapper out
    HeldOpen,
    /// body drained behind a shut ball or plug valve
    Drained,
    /// taken out, a spool or a plug in its place
    Out,
    /// expansion joint restrained
    Restrained,
    /// spring hanger pinned
    Pinned,
    /// support that bears the line full of water
    BearsWater,
    /// equipment that is tested with the line
    InTest,
    /// beyond the boundary: must see no pressure
    Beyond,
    /// joint that stays covered or painted
    Covered,
}

impl Position {
    /// All, with their words.
    pub const ALL: [(Self, &'static str); 13] = [
        (Self::Open, "open"),
        (Self::HalfOpen, "half open"),
        (Self::Shut, "shut"),
        (Self::LockedOpen, "locked open"),
        (Self::HeldOpen, "held open"),
        (Self::Drained, "drained"),
        (Self::Out, "out"),
        (Self::Restrained, "restrained"),
        (Self::Pinned, "pinned"),
        (Self::BearsWater, "bears water"),
        (Self::InTest, "in the test"),
        (Self::Beyond, "beyond the test"),
        (Self::Covered, "covered"),
    ];

    /// The word for it.
    pub fn word(self) -> &'static str {
        Self::ALL.iter().find(|(k, _)| *k == self).map_or("", |(_, w)| w)
    }

    /// From the word for it, or what people also say.
    pub fn from_word(text: &str) -> Option<Self> {
        let wanted = plain(text);
        let also = match wanted.as_str() {
            "closed" => Some(Self::Shut),
            "removed" | "taken out" => Some(Self::Out),
            "flapper out" => Some(Self::HeldOpen),
            "in" | "in test" => Some(Self::InTest),
            "beyond" | "not in the test" => Some(Self::Beyond),
            "painted" => Some(Self::Covered),
            "for water" => Some(Self::BearsWater),
            _ => None,
        };
        also.or_else(|| Self::ALL.iter().find(|(_, w)| *w == wanted).map(|(p, _)| *p))
    }

    /// Whether a part of a kind can stand so.
    pub const fn fits(self, kind: PartKind) -> bool {
        match self {
            Self::Open | Self::Shut => kind.valve() || matches!(kind, PartKind::Vent | PartKind::Drain | PartKind::Hydrant),
            Self::HalfOpen | Self::LockedOpen | Self::Drained | Self::HeldOpen => kind.valve(),
            Self::Out => !kind.piping() && !kind.unpressed(),
            Self::Restrained => matches!(kind, PartKind::Bellows),
            Self::Pinned => matches!(kind, PartKind::SpringHanger),
            Self::BearsWater => matches!(kind, PartKind::Support | PartKind::SpringHanger),
            Self::InTest => kind.vessel(),
            Self::Beyond => !kind.unpressed(),
            Self::Covered => matches!(kind, PartKind::Flange | PartKind::Coupling | PartKind::GasketedJoint | PartKind::Fitting),
        }
    }
}

/// Parts of the day in which a line-up stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Phase {
    /// while it is filled and vented
    Fill,
    /// while it is under test pressure
    Test,
    /// while it is drained
    Drain,
    /// when it is handed back
    Back,
}

impl Phase {
    /// All, with their words.
    pub const ALL: [(Self, &'static str); 4] = [(Self::Fill, "fill"), (Self::Test, "test"), (Self::Drain, "drain"), (Self::Back, "back")];
}

/// How something stands in each phase; absent where nobody said it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Positions {
    /// while it is filled
    #[serde(skip_serializing_if = "Option::is_none")]
    pub fill: Option<Position>,
    /// under test pressure
    #[serde(skip_serializing_if = "Option::is_none")]
    pub test: Option<Position>,
    /// while it is drained
    #[serde(skip_serializing_if = "Option::is_none")]
    pub drain: Option<Position>,
    /// when it is handed back
    #[serde(skip_serializing_if = "Option::is_none")]
    pub back: Option<Position>,
}

impl Positions {
    /// The position in a phase.
    pub const fn at(&self, phase: Phase) -> Option<Position> {
        match phase {
            Phase::Fill => self.fill,
            Phase::Test => self.test,
            Phase::Drain => self.drain,
            Phase::Back => self.back,
        }
    }

    /// Says a position for a phase.
    pub const fn set(&mut self, phase: Phase, position: Position) {
        let place = match phase {
            Phase::Fill => &mut self.fill,
            Phase::Test => &mut self.test,
            Phase::Drain => &mut self.drain,
            Phase::Back => &mut self.back,
        };
        *place = Some(position);
    }

    /// Nothing said.
    pub fn is_empty(&self) -> bool {
        *self == Self::default()
    }

    /// "half open", "fill open, test shut", "out, back open": a bare word holds while it is filled, tested and drained.
    ///
    /// # Errors
    /// The piece that means nothing.
    pub fn from_words(text: &str) -> Result<Self, String> {
        let mut all = Self::default();
        for piece in text.split([',', ';']).map(plain).filter(|p| !p.is_empty()) {
            if let Some(position) = Position::from_word(&piece) {
                for phase in [Phase::Fill, Phase::Test, Phase::Drain] {
                    all.set(phase, position);
                }
                continue;
            }
            let (first, rest) = piece.split_once(' ').ok_or_else(|| piece.clone())?;
            let phase = Phase::ALL.iter().find(|(_, w)| *w == first).map(|(p, _)| *p).ok_or_else(|| piece.clone())?;
            all.set(phase, Position::from_word(rest).ok_or_else(|| piece.clone())?);
        }
        Ok(all)
    }
}

/// How a closed valve seals.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Seat {
    /// metal on metal: gates, hydrants
    MetalSeated,
    /// rubber, or another soft seat
    Resilient,
}

/// The seam of a shell; its efficiency is what a calculation takes of the wall.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum Seam {
    /// none, or brazed tube without one
    #[strum(message = "none: seamless, or a tube")]
    Seamless,
    /// welded, fully examined
    #[strum(message = "welded, fully examined")]
    Full,
    /// welded, spot examined
    #[strum(message = "welded, spot examined")]
    Spot,
    /// welded, nobody knows how it was examined
    #[strum(message = "welded, examination not known")]
    NotKnown,
    /// riveted: only its pitch calculation says what it bears
    #[strum(message = "riveted")]
    Riveted,
}

impl Seam {
    /// All, with their words.
    pub const ALL: [(Self, &'static str); 5] = [
        (Self::Seamless, "seamless"),
        (Self::Full, "full"),
        (Self::Spot, "spot"),
        (Self::NotKnown, "not known"),
        (Self::Riveted, "riveted"),
    ];
}

/// Efficiency of a seam that nobody knows, or that the cell does not say (VIII-1 UW-12, from memory).
pub const SEAM_NOT_KNOWN: f64 = 0.7;

/// Form of a part of a vessel.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = PartForm)]
pub enum Form {
    /// cylinder
    #[default]
    Cylinder,
    /// 2:1 elliptical head
    Elliptical,
    /// torispherical head, crown radius the diameter, knuckle 6 % of it
    Torispherical,
    /// hemispherical head
    Hemispherical,
    /// flat head
    Flat,
}

impl Form {
    /// All, with their words.
    pub const ALL: [(Self, &'static str); 5] = [
        (Self::Cylinder, "cylinder"),
        (Self::Elliptical, "elliptical head"),
        (Self::Torispherical, "torispherical head"),
        (Self::Hemispherical, "hemispherical head"),
        (Self::Flat, "flat head"),
    ];

    /// The word for it.
    pub fn word(self) -> &'static str {
        Self::ALL.iter().find(|(k, _)| *k == self).map_or("", |(_, w)| w)
    }

    /// From its word, with or without "head".
    pub fn from_word(text: &str) -> Option<Self> {
        let wanted = plain(text);
        Self::ALL.iter().find(|(_, w)| *w == wanted || w.strip_suffix(" head") == Some(&wanted)).map(|(f, _)| *f)
    }
}

/// A part at its height. What is not known is absent; what is needed and absent is asked for; what was said not to be there stands in `none`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Part {
    /// Stable id, made once and kept when the tag changes; absent in files that were written by hand.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub id: Option<String>,
    /// Tag that people call it by; unique in the system.
    pub tag: String,
    /// What it is.
    pub kind: PartKind,
    /// Height above the site's datum, m; of one end where the other has its own.
    pub elevation_m: Length,
    /// Height of the other end, m; where it is absent both ends are at one height.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub to_elevation_m: Option<Length>,
    /// Point where it begins.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub from: Option<String>,
    /// Point where it ends.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub to: Option<String>,
    /// Type of a valve.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub valve: Option<ValveType>,
    /// How it stands in each phase of the test.
    #[serde(default, skip_serializing_if = "Positions::is_empty")]
    pub positions: Positions,
    /// Internal design pressure of its line, Pa gauge; the system's where it is absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub design_pressure_pa: Option<GaugePressure>,
    /// Design temperature of its line, °C; the system's where it is absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub design_temperature_c: Option<Temperature>,
    /// Outside diameter, m.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub outside_diameter_m: Option<Length>,
    /// Wall thickness, m: nominal for piping, measured for a boiler.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub wall_m: Option<Length>,
    /// Corrosion, m: since new where the basis takes the minimum wall; to the next test where it takes the measured wall.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub corrosion_m: Option<Length>,
    /// Wall at an earlier date, or the nominal wall when it was new, m.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub earlier_wall_m: Option<Length>,
    /// Years between that and the wall that counts.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub years_between: Option<f64>,
    /// Form of a part of a vessel; a cylinder where it is absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub form: Option<Form>,
    /// Its seam; not known where it is absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub seam: Option<Seam>,
    /// Efficiency of its seam by calculation, 0 to 1; needed of a riveted seam.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub seam_efficiency: Option<f64>,
    /// Length, m; face to face of a valve or flange.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub length_m: Option<Length>,
    /// Volume of water, m³, where it does not follow from bore and length.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub volume_m3: Option<Volume>,
    /// Material, by its id in the library.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub material: Option<String>,
    /// Class: of a flange or valve of B16.5, B16.34, B16.1 or B16.24; of ductile-iron pipe its pressure class, psi.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub flange_class: Option<u16>,
    /// PN of a flange or valve of EN 1092-1.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pn: Option<u16>,
    /// Maker's rating at test temperature, Pa: of a closed valve that of its seat; of a vessel its maximum allowable pressure.
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
    #[schema(value_type = Option<f64>)]
    pub restraint_n: Option<Force>,
    /// Diameter of the seal that the thrust acts within, m; the outside diameter where it is absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sealing_diameter_m: Option<Length>,
    /// Angle of a bend, degrees.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub bend_deg: Option<f64>,
    /// Test pressure of a vessel by its own code, Pa; what piping tested with it is compared with.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub test_pressure_pa: Option<GaugePressure>,
    /// The part's own greatest test pressure, Pa, from its maker, its plate or its designer.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub test_limit_pa: Option<GaugePressure>,
    /// Who named that figure: drawing, designer, inspector; needed of what this tool does not calculate.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub limit_by: Option<String>,
    /// What was declared not to be there: field, and who says so.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub none: BTreeMap<String, String>,
}

impl Part {
    /// A part of which only tag, kind and height are known.
    pub fn new(tag: &str, kind: PartKind, elevation: Length) -> Self {
        Self {
            id: None,
            tag: tag.to_owned(),
            kind,
            elevation_m: elevation,
            to_elevation_m: None,
            from: None,
            to: None,
            valve: None,
            positions: Positions::default(),
            design_pressure_pa: None,
            design_temperature_c: None,
            outside_diameter_m: None,
            wall_m: None,
            corrosion_m: None,
            earlier_wall_m: None,
            years_between: None,
            form: None,
            seam: None,
            seam_efficiency: None,
            length_m: None,
            volume_m3: None,
            material: None,
            flange_class: None,
            pn: None,
            rating_pa: None,
            seat: None,
            proven_pa: None,
            restraint_n: None,
            sealing_diameter_m: None,
            bend_deg: None,
            test_pressure_pa: None,
            test_limit_pa: None,
            limit_by: None,
            none: BTreeMap::new(),
        }
    }

    /// True for what is not tested: it stands beyond the boundary.
    pub fn beyond(&self) -> bool {
        self.positions.test == Some(Position::Beyond)
    }

    /// Heights of its lower and its higher end, m.
    pub fn ends(&self) -> (Length, Length) {
        let other = self.to_elevation_m.unwrap_or(self.elevation_m);
        if other < self.elevation_m { (other, self.elevation_m) } else { (self.elevation_m, other) }
    }

    /// Thrust over that on a dead end: 2·sin(θ/2) for a bend, 2 for one with a restraint and no angle, else 1.
    pub fn thrust_share(&self) -> f64 {
        match (self.kind, self.bend_deg) {
            (PartKind::Bend, Some(angle)) => 2.0 * (angle.to_radians() / 2.0).sin(),
            // of a bend whose angle nobody gave, the most that any could have
            (PartKind::Bend, None) if self.restraint_n.is_some() => 2.0,
            _ => 1.0,
        }
    }

    /// Efficiency of its seam: by calculation, or what is usual for what is known of it; none for a riveted seam without its calculation.
    pub fn efficiency(&self) -> Option<f64> {
        self.seam_efficiency.or(match self.seam {
            Some(Seam::Seamless | Seam::Full) => Some(1.0),
            Some(Seam::Spot) => Some(0.85),
            Some(Seam::NotKnown) | None => Some(SEAM_NOT_KNOWN),
            Some(Seam::Riveted) => None,
        })
    }

    /// Bore, where diameter and wall are known; what is a plate has none.
    pub fn bore(&self) -> Option<Length> {
        match (self.kind, self.outside_diameter_m, self.wall_m) {
            (k, ..) if k.no_room() => None,
            (_, Some(d), Some(t)) => Some(d - t * 2.0),
            _ => None,
        }
    }

    /// Volume of water in it: as given, or π/4·D_i²·L; nil where neither is known.
    pub fn volume(&self) -> Volume {
        if let Some(v) = self.volume_m3 {
            return v;
        }
        match (self.bore(), self.length_m) {
            (Some(bore), Some(l)) => cylinder(bore, l),
            _ => Volume::from_m3(0.0),
        }
    }

    /// Volume of gas in it: as the water's; of a valve, flange or the like its bore over its face length, three bores where that is not given, the
    /// outside diameter where no wall is; none where nothing says it.
    pub fn gas_volume(&self) -> Option<Volume> {
        let known = self.volume();
        if known.m3() > 0.0 {
            return Some(known);
        }
        if self.kind.no_room() {
            return Some(Volume::from_m3(0.0));
        }
        if self.kind.can_hold_gas() {
            return None;
        }
        let small = matches!(self.kind, PartKind::Vent | PartKind::Drain | PartKind::Instrument).then_some(SMALL_BORE);
        let bore = self.bore().or(self.outside_diameter_m).or(small)?;
        Some(cylinder(bore, self.length_m.unwrap_or(bore * FACES)))
    }
}

/// Bore of a vent, drain or instrument that says none: not smaller than they usually are.
const SMALL_BORE: Length = Length::from_mm(50.0);
/// Face length of a fitting over its bore, where none is given.
const FACES: f64 = 3.0;

fn cylinder(bore: Length, length: Length) -> Volume {
    Volume::from_m3(std::f64::consts::FRAC_PI_4 * bore.m() * bore.m() * length.m())
}
