//! What surrounds a body, and how fast it follows.

use crate::heat;
use crate::system::Segment;
use quantity::Span;
use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

/// What surrounds a body.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum Exposure {
    /// bare, outdoors: daily swing, wind, sun and cloud
    #[strum(message = "bare, outdoors")]
    BareOutdoor,
    /// insulated
    #[strum(message = "insulated")]
    Insulated,
    /// indoors
    #[strum(message = "indoors")]
    Indoor,
    /// in the ground, which changes over days
    #[strum(message = "in the ground")]
    Buried,
}

/// Time constants of a body.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Lags {
    /// Of its skin after the surroundings.
    pub skin: Span,
    /// Of its fluid after the skin.
    pub fluid: Span,
}

impl Exposure {
    /// Time constants of a body. A factor of 2.5 either way (95 %).
    ///
    /// The skin of a bare pipe follows within minutes to half an hour (its metal's heat over the film outside; common practice:
    /// 10 min at DN100 in wind, three times that indoors), under insulation in hours, in the ground within half a day. Water follows the skin as
    /// [`heat::water_after_skin`] has it; gas within minutes.
    pub fn lags(self, segment: &Segment, gas: bool) -> Lags {
        let bore = segment.outside_diameter_m - segment.wall_m * 2.0;
        let size = (bore.m() / 0.1).powf(0.6);
        let skin = match self {
            Self::BareOutdoor => 600.0 * size,
            Self::Indoor => 1500.0 * size,
            Self::Insulated => 4000.0 * size,
            Self::Buried => 40_000.0,
        };
        let fluid = if gas { 600.0 * size } else { heat::water_after_skin(bore).s() };
        Lags { skin: Span::from_s(skin), fluid: Span::from_s(fluid) }
    }
}
