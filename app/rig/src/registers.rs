//! Values in Modbus registers.

use crate::scenario::Encoding;

impl Encoding {
    /// Registers that a value takes.
    pub const fn words(self) -> u16 {
        match self {
            Self::I16 | Self::U16 => 1,
            Self::F32 | Self::F32Swapped | Self::U32 => 2,
        }
    }

    /// A count as registers. What does not fit stands at the end of the range, as a real instrument's does.
    pub fn encode(self, count: f64) -> Vec<u16> {
        let two = |bits: u32| vec![(bits >> 16) as u16, (bits & 0xffff) as u16];
        match self {
            Self::F32 => two((count as f32).to_bits()),
            Self::F32Swapped => {
                let mut words = two((count as f32).to_bits());
                words.reverse();
                words
            }
            Self::I16 => vec![(count.round().clamp(f64::from(i16::MIN), f64::from(i16::MAX)) as i16).cast_unsigned()],
            Self::U16 => vec![count.round().clamp(0.0, f64::from(u16::MAX)) as u16],
            Self::U32 => two(count.round().clamp(0.0, f64::from(u32::MAX)) as u32),
        }
    }
}

/// Unit of the rig itself.
pub const RIG_UNIT: u8 = 1;

/// Holding registers of the rig itself.
pub mod hand {
    /// 1 runs the pump, 0 stops it.
    pub const PUMP: u16 = 0;
    /// Tenths of a stroke a minute.
    pub const RATE: u16 = 1;
    /// Bleed valve, thousandths of fully open.
    pub const BLEED: u16 = 2;
    /// How many there are.
    pub const COUNT: u16 = 3;
}

/// Input registers of the rig itself: what is true, for training and tests; each two words, IEEE 754 single, high word first.
pub mod truth {
    /// Time of the run, s.
    pub const TIME: u16 = 0;
    /// Pressure at the high point, Pa gauge.
    pub const PRESSURE: u16 = 2;
    /// Temperature of the water, °C.
    pub const WATER: u16 = 4;
    /// Leak, L/h.
    pub const LEAK: u16 = 6;
    /// How many registers there are.
    pub const COUNT: u16 = 8;
}
