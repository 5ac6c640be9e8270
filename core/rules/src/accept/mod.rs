//! What a basis asks of a hold besides its pressure and its time: bands, falls, allowances, phases. Here they are asked, with the figures of the
//! system; the judge holds the readings against them.

mod asked;
mod figures;
mod lowering;
pub mod readings;

pub use asked::{AirCheckAsked, ContractionAsked, ExpansionAsked, FallAsked, MakeupAsked, WaterLossAsked, WholeTestAsked};
pub use figures::criteria;
pub use lowering::{LOWERED_WITHIN, Lowering, QuickFall, Shares, lowering};

use quantity::{GaugePressure, Length, PressureDifference, Span, Stress, Volume};
use serde::{Deserialize, Serialize};

/// Where a criterion is from.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Origin {
    /// Rule of the basis that asks it.
    pub rule: String,
    /// Clause and standing, as printed beside the result.
    pub source: String,
}

/// The pressure may move by so much from where the hold began.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PressureBand {
    /// Where it is from.
    pub origin: Origin,
    /// Greatest fall, Pa; absent where none is set.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub fall_pa: Option<PressureDifference>,
    /// Greatest rise, Pa; absent where none is set.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub rise_pa: Option<PressureDifference>,
    /// Both as a share of the pressure at the start.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub share: Option<f64>,
}

/// The pressure may fall by so much within a time.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PressureFall {
    /// Where it is from.
    pub origin: Origin,
    /// Greatest fall, Pa.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub most_pa: Option<PressureDifference>,
    /// Greatest fall as a share of the pressure at the start.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub most_share: Option<f64>,
    /// Within this time, s.
    pub within_s: Span,
}

/// A fall that the owner allows besides what the basis asks: x % in y hours. It can only ask for more.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OwnersFall {
    /// Greatest fall as a share of the pressure at the start, above nil and at most a half.
    pub share: f64,
    /// Within this time, s; the hold is at least as long.
    pub within_s: Span,
}

impl OwnersFall {
    /// Greatest share: what falls by more was not held.
    pub const MOST: f64 = 0.5;

    /// True for a fall that can be.
    pub fn can_be(&self) -> bool {
        self.share > 0.0 && self.share <= Self::MOST && self.within_s.s() > 0.0 && self.within_s.is_finite()
    }
}

/// Form of a make-up allowance.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum MakeupForm {
    /// S·D·√P/148 000 gal/h (ft, in, psi)
    PerLength,
    /// S·D·√P/133 200, older editions
    PerLengthOld,
    /// N·D·√P/7400 over N joints, older PVC editions
    PerJoint,
}

/// A length of main of one size.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MainLength {
    /// Nominal diameter, m.
    pub diameter_m: Length,
    /// Length, m.
    pub length_m: Length,
    /// Joints in it.
    pub joints: f64,
}

/// Water that may be made up over the hold.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MakeupAllowance {
    /// Where it is from.
    pub origin: Origin,
    /// Form of the allowance.
    pub form: MakeupForm,
    /// Lengths by size.
    pub lengths: Vec<MainLength>,
    /// Nominal sizes of the closed metal-seated valves that bound the section, m.
    #[serde(default)]
    pub valves_m: Vec<Length>,
    /// Hydrants whose valve is open to the section.
    #[serde(default)]
    pub hydrants: u32,
}

/// Water that may be lost for a fall of pressure (EN 805), or drawn for it in the air check.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WaterLoss {
    /// Where it is from.
    pub origin: Origin,
    /// Allowance factor: 1.2 for the main test, 1.5 for the air check.
    pub factor: f64,
    /// Pieces of main, each with its own stretch.
    pub pieces: Vec<MainStretch>,
}

/// Volume and stretch of a piece of main.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MainStretch {
    /// Volume, m³.
    pub volume_m3: Volume,
    /// Inside diameter, m.
    pub diameter_m: Length,
    /// Wall, m.
    pub wall_m: Length,
    /// Modulus of the wall across the pipe, Pa.
    pub modulus_pa: Stress,
}

fn nothing() -> Span {
    Span::from_s(0.0)
}

/// After a quick fall a viscoelastic main must rise or stand.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Contraction {
    /// Where it is from.
    pub origin: Origin,
    /// At test pressure, pumped up as the wall stretches, for so long before the pump is taken off, s.
    #[serde(default = "nothing")]
    pub stretch_s: Span,
    /// From there to the quick fall, s, …
    #[serde(default = "nothing")]
    pub wait_s: Span,
    /// … in which it falls by no more than this share.
    #[serde(default)]
    pub wait_fall_share: f64,
    /// Least quick fall, share of the pressure before it.
    pub least_drop_share: f64,
    /// Greatest quick fall, share of the pressure before it.
    pub most_drop_share: f64,
    /// How long it must rise or stand, s.
    pub stand_s: Span,
    /// In doubt it goes on for so long, s, …
    pub doubt_s: Span,
    /// … and falls by no more than this from its greatest, Pa.
    #[schema(value_type = f64)]
    pub doubt_fall_pa: PressureDifference,
}

/// A wall that creeps is kept at test pressure while it stretches, then the pressure is lowered, and only then the hold counts.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Expansion {
    /// Where it is from.
    pub origin: Origin,
    /// At test pressure for at least, s.
    pub least_s: Span,
    /// Lowered by, Pa.
    #[schema(value_type = f64)]
    pub lowered_pa: PressureDifference,
}

/// A wall that stretches for as long as it is under pressure is so for no longer than this.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WholeTest {
    /// Where it is from.
    pub origin: Origin,
    /// From the first raise until the pressure is let out, at most, s.
    pub most_s: Span,
    /// Time without pressure before another test, s.
    pub rest_s: Span,
}

/// A limit that the code names for the greatest pressure of a test.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Overshoot {
    /// Where it is from.
    pub origin: Origin,
    /// Greatest pressure at the gauge, Pa.
    pub most_pa: GaugePressure,
}

/// A joint whose primary gasket must be dry while the pressure holds.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct JointDry {
    /// Where it is from.
    pub origin: Origin,
}

/// Who asks something of a hold.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Whose {
    /// the basis, or what every test is held to
    Basis,
    /// the project or the owner, besides the basis
    Project,
}

/// No loss is allowed beyond what temperature explains.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NoLoss {
    /// Where it is from.
    pub origin: Origin,
    /// Who asks it.
    pub whose: Whose,
    /// Why, in words that end a sentence: "this basis allows none".
    pub because: String,
}

/// Joints of a gas test are wetted with a solution that shows a bubble.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SoapFilm {
    /// Where it is from.
    pub origin: Origin,
}

/// One thing that a basis asks of a hold.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Criterion {
    /// a band about the start
    PressureBand(PressureBand),
    /// a fall within a time
    PressureFall(PressureFall),
    /// a fall within a time by the owner, besides what the basis asks: a loss that the basis does not allow stays one
    OwnersFall(PressureFall),
    /// make-up water
    MakeupAllowance(MakeupAllowance),
    /// water lost for the fall
    WaterLoss(WaterLoss),
    /// water drawn in the air check
    AirCheck(WaterLoss),
    /// contraction of a viscoelastic main
    Contraction(Contraction),
    /// expansion at test pressure, and lowered from it
    Expansion(Expansion),
    /// length of the whole test
    WholeTest(WholeTest),
    /// greatest pressure by the code
    Overshoot(Overshoot),
    /// primary gasket dry
    JointDry(JointDry),
    /// soap film
    SoapFilm(SoapFilm),
    /// no loss beyond temperature
    NoLoss(NoLoss),
}

impl Criterion {
    /// Who asks it.
    pub const fn whose(&self) -> Whose {
        match self {
            Self::OwnersFall(_) => Whose::Project,
            Self::NoLoss(n) => n.whose,
            _ => Whose::Basis,
        }
    }
}

/// Fall that a basis allows from the pressure at which the hold begins; nil where it allows none.
pub fn allowed_fall(criteria: &[Criterion], from: GaugePressure) -> PressureDifference {
    let share = |s: f64| PressureDifference::from_pa(s * from.pa());
    let of = |c: &Criterion| match c {
        Criterion::PressureBand(b) => b.fall_pa.or(b.share.map(share)),
        Criterion::PressureFall(f) => f.most_pa.or(f.most_share.map(share)),
        _ => None,
    };
    let most = |a: PressureDifference, b: PressureDifference| if b.pa() > a.pa() { b } else { a };
    criteria.iter().filter_map(of).fold(PressureDifference::from_pa(0.0), most)
}

/// True where the water that keeps or brings back the pressure is measured and allowed for: pumped in so, it does not end the hold.
pub fn counts_water(criteria: &[Criterion]) -> bool {
    criteria.iter().any(|c| matches!(c, Criterion::MakeupAllowance(_) | Criterion::WaterLoss(_)))
}
