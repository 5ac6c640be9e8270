use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

/// What the crew can do or see in a run, from filling to draining; what is said beside it stands on the button that books it.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Serialize,
    Deserialize,
    VariantArray,
    EnumMessage,
    EnumProperty,
    EnumString,
    IntoStaticStr,
    utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum EventKind {
    /// filled, vents run free of bubbles and closed
    #[strum(message = "filled and vented", props(short = "filled"))]
    Filled,
    /// a step of the schedule was reached
    #[strum(message = "step reached", props(short = "step"))]
    StepReached,
    /// pump stopped, valved off and disconnected
    #[strum(message = "pump off and disconnected", props(short = "pump off"))]
    PumpOff,
    /// the valve on the pump's side was shut, and nothing passed it
    #[strum(message = "pump's valve proved tight", detailed_message = "Pump's valve proved tight", props(short = "valve tight"))]
    ValveProved,
    /// every joint was looked at
    #[strum(message = "look done", detailed_message = "Every joint looked at")]
    LookDone,
    /// a leak was seen
    #[strum(message = "leak seen")]
    LeakSeen,
    /// pumped up again
    #[strum(message = "repumped", detailed_message = "Repumped", props(short = "repump"))]
    Repump,
    /// some of what it is filled with was let out
    #[strum(message = "bled", detailed_message = "Bled", props(short = "bled"))]
    Bleed,
    /// the hold was ended
    #[strum(message = "hold ended", detailed_message = "End the hold")]
    HoldEnded,
    /// pressure released, zero proved in every section
    #[strum(message = "pressure released, zero proved", detailed_message = "Released, zero proved", props(short = "released"))]
    Released,
    /// high vent opened
    #[strum(message = "high vent opened", detailed_message = "High vent is open", props(short = "vent open"))]
    VentOpened,
    /// drained
    #[strum(message = "drained", detailed_message = "Drained")]
    Drained,
    /// after a gas test: blown through with air, and air to breathe proved
    #[strum(message = "air to breathe proved", detailed_message = "Air to breathe is proved", props(short = "air proved"))]
    AirProved,
    /// something was seen, done or heard; the note says what
    #[strum(message = "noted")]
    Noted,
    /// low gas test before wetting: gas is on at its pressure
    #[strum(
        message = "low gas test at its pressure",
        detailed_message = "Gas is on",
        props(short = "gas on", figure = "gauge_pressure_pa", asks = "Pressure")
    )]
    GasOn,
    /// every joint was soaped, or watched under water
    #[strum(
        message = "looked for bubbles at every joint",
        detailed_message = "Looked for bubbles",
        props(short = "soaped", of = "How: soap, or a tub of water")
    )]
    Soaped,
    /// the gas of the low test was let out
    #[strum(message = "gas of the low test let out", detailed_message = "Gas is let out", props(short = "gas off"))]
    GasOff,
    /// water goes in
    #[strum(
        message = "filling began",
        detailed_message = "Filling begins",
        props(short = "filling", of = "From where: from the bottom, or through the dome")
    )]
    FillBegun,
    /// a vent ran free of bubbles
    #[strum(
        message = "vent ran free of bubbles",
        detailed_message = "A vent ran clear",
        props(short = "vent ran", figure = "time_s", asks = "For how long", of = "Which vent")
    )]
    VentRan,
    /// temperature of the water
    #[strum(
        message = "temperature of the water",
        detailed_message = "Water's temperature",
        props(short = "water", figure = "temperature_c", asks = "Temperature")
    )]
    WaterWas,
    /// temperature of the metal
    #[strum(
        message = "temperature of the metal",
        detailed_message = "Metal's temperature",
        props(short = "metal", figure = "temperature_c", asks = "Temperature", of = "Where it was taken")
    )]
    MetalWas,
    /// temperature of the surroundings
    #[strum(
        message = "temperature of the surroundings",
        detailed_message = "Air's temperature",
        props(short = "air", figure = "temperature_c", asks = "Temperature")
    )]
    AirWas,
    /// the mains do the first part of the raise
    #[strum(
        message = "mains supply let in",
        detailed_message = "Mains supply is on",
        props(
            short = "mains on",
            figure = "gauge_pressure_pa",
            asks = "Pressure of the mains",
            caution = "Backflow protection stands between. Shut and disconnect the supply before anything is pumped."
        )
    )]
    MainsOn,
    /// the mains are shut and disconnected
    #[strum(message = "mains supply shut and disconnected", detailed_message = "Mains shut and disconnected", props(short = "mains off"))]
    MainsOff,
    /// strokes of a hand pump
    #[strum(
        message = "strokes pumped by hand",
        detailed_message = "Strokes of the pump",
        props(short = "strokes", figure = "count", asks = "Strokes since the last booking")
    )]
    Stroked,
    /// water pumped in, measured
    #[strum(
        message = "water pumped in, measured",
        detailed_message = "Water pumped in",
        props(short = "pumped", figure = "volume_m3", asks = "Volume since the last booking")
    )]
    Pumped,
    /// a gauge was driven past its scale
    #[strum(
        message = "gauge driven past its scale",
        detailed_message = "A gauge went past its scale",
        props(
            short = "past scale",
            of = "Which gauge",
            caution = "It goes into quarantine until it is checked and calibrated again: what it reads in this test counts for nothing."
        )
    )]
    BeyondScale,
    /// a fitting was tightened
    #[strum(
        message = "fitting tightened",
        detailed_message = "A fitting was tightened",
        props(
            short = "tightened",
            of = "Which fitting",
            caution = "Nothing is tightened under pressure. If it was, say so: the hold's clock starts again, and the record says why."
        )
    )]
    NippedUp,
    /// a drip was cured at zero
    #[strum(
        message = "drip cured at zero",
        detailed_message = "A drip was cured",
        props(short = "cured", of = "Where", caution = "At zero only. The raise begins again from the first step.")
    )]
    DripCured,
    /// stays were sounded with a hammer
    #[strum(
        message = "stays sounded with a hammer",
        detailed_message = "Stays sounded",
        props(short = "hammered", figure = "count", asks = "How many", of = "Which ones")
    )]
    Hammered,
    /// furnace and flue were looked into with a light
    #[strum(
        message = "looked inside with a lamp",
        detailed_message = "Looked inside with a lamp",
        props(short = "lamp", of = "Where: furnace, flue, firebox")
    )]
    LampLooked,
    /// a swelling was measured
    #[strum(
        message = "swelling measured",
        detailed_message = "Swelling measured",
        props(short = "swelling", figure = "length_m", asks = "How much", of = "Where")
    )]
    Swelled,
    /// how far a joint is out of line
    #[strum(
        message = "deflection of the joint measured",
        detailed_message = "Deflection of a joint",
        props(short = "deflection", figure = "length_m", asks = "How much", of = "Which joint, and over which length")
    )]
    Deflected,
    /// somebody else watches from now on
    #[strum(
        message = "watch handed over",
        detailed_message = "Hand over the watch",
        props(short = "handed over", of = "Who watches from now on")
    )]
    HandedOver,
}

impl EventKind {
    /// True for what changes how a hold is judged.
    pub const fn is_judged(self) -> bool {
        match self {
            Self::Filled | Self::VentOpened | Self::Drained | Self::AirProved | Self::Noted => false,
            kind => !kind.by_hand() || matches!(kind, Self::NippedUp),
        }
    }

    /// True for what is booked by hand beside the run's own course: what was measured, done or handed over.
    pub const fn by_hand(self) -> bool {
        matches!(
            self,
            Self::GasOn
                | Self::Soaped
                | Self::GasOff
                | Self::FillBegun
                | Self::VentRan
                | Self::WaterWas
                | Self::MetalWas
                | Self::AirWas
                | Self::MainsOn
                | Self::MainsOff
                | Self::Stroked
                | Self::Pumped
                | Self::BeyondScale
                | Self::NippedUp
                | Self::DripCured
                | Self::Hammered
                | Self::LampLooked
                | Self::Swelled
                | Self::Deflected
                | Self::HandedOver
        )
    }

    /// Dimension of the figure that it is booked with, as amounts are named; none where it has none.
    pub fn figure(self) -> Option<&'static str> {
        self.get_str("figure")
    }

    /// What its figure is called in a form.
    pub fn asks(self) -> Option<&'static str> {
        self.get_str("asks")
    }

    /// What whoever books it must mind; none where there is nothing to mind.
    pub fn caution(self) -> Option<&'static str> {
        self.get_str("caution")
    }

    /// What is asked of the thing, place or person that it is about; none where it is about the whole.
    pub fn of(self) -> Option<&'static str> {
        self.get_str("of")
    }
}
