//! The quantity types: one `f64` in SI inside, the unit in every constructor and accessor.
// Longer than most files because one macro call per quantity stands side by side here on purpose.

use serde::{Deserialize, Serialize};
use std::ops::{Add, Div, Mul, Neg, Sub};

macro_rules! quantity {
    ($(#[$doc:meta])* $name:ident { $($unit:ident / $from:ident = $factor:expr),+ $(,)? }) => {
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, PartialOrd, Serialize, Deserialize, utoipa::ToSchema)]
        #[serde(transparent)]
        #[schema(value_type = f64)]
        pub struct $name(f64);
        impl $name {
            $(
                #[doc = concat!("From `", stringify!($unit), "`.")]
                pub const fn $from(value: f64) -> Self { Self(value * $factor) }
                #[doc = concat!("In `", stringify!($unit), "`.")]
                pub const fn $unit(self) -> f64 { self.0 / $factor }
            )+
            /// True for a number that is neither infinite nor NaN.
            pub const fn is_finite(self) -> bool { self.0.is_finite() }
            /// The greater of two.
            pub const fn max(self, other: Self) -> Self { Self(self.0.max(other.0)) }
            /// The lesser of two.
            pub const fn min(self, other: Self) -> Self { Self(self.0.min(other.0)) }
            /// In order, a NaN last.
            pub fn total_cmp(&self, other: &Self) -> std::cmp::Ordering { self.0.total_cmp(&other.0) }
        }
    };
}

/// Quantities that may be added to their own kind and scaled.
macro_rules! linear {
    ($($name:ident),+) => {$(
        impl $name {
            /// None of it.
            pub const ZERO: Self = Self(0.0);
            /// Its amount, whichever way.
            #[must_use]
            pub const fn abs(self) -> Self { Self(self.0.abs()) }
        }
        impl Add for $name { type Output = Self; fn add(self, o: Self) -> Self { Self(self.0 + o.0) } }
        impl Sub for $name { type Output = Self; fn sub(self, o: Self) -> Self { Self(self.0 - o.0) } }
        impl Neg for $name { type Output = Self; fn neg(self) -> Self { Self(-self.0) } }
        impl Mul<f64> for $name { type Output = Self; fn mul(self, k: f64) -> Self { Self(self.0 * k) } }
        impl Div<f64> for $name { type Output = Self; fn div(self, k: f64) -> Self { Self(self.0 / k) } }
        impl Div for $name { type Output = f64; fn div(self, o: Self) -> f64 { self.0 / o.0 } }
    )+};
}

/// A point on a scale: differences are of another type.
macro_rules! point {
    ($point:ident - $difference:ident) => {
        impl Add<$difference> for $point {
            type Output = Self;
            fn add(self, d: $difference) -> Self {
                Self(self.0 + d.0)
            }
        }
        impl Sub<$difference> for $point {
            type Output = Self;
            fn sub(self, d: $difference) -> Self {
                Self(self.0 - d.0)
            }
        }
        impl Sub for $point {
            type Output = $difference;
            fn sub(self, o: Self) -> $difference {
                $difference(self.0 - o.0)
            }
        }
    };
}

quantity!(/// Pressure above the surrounding atmosphere, Pa.
    GaugePressure { pa / from_pa = 1.0, kpa / from_kpa = 1e3, bar / from_bar = 1e5, mpa / from_mpa = 1e6, psi / from_psi = unit_factor::PSI });
quantity!(/// Pressure above vacuum, Pa.
    AbsolutePressure { pa / from_pa = 1.0, bar / from_bar = 1e5, mpa / from_mpa = 1e6 });
quantity!(/// Difference of two pressures, Pa; may be negative.
    PressureDifference { pa / from_pa = 1.0, kpa / from_kpa = 1e3, bar / from_bar = 1e5, psi / from_psi = unit_factor::PSI });
quantity!(/// Mechanical stress or modulus, Pa.
    Stress { pa / from_pa = 1.0, mpa / from_mpa = 1e6, ksi / from_ksi = 1e3 * unit_factor::PSI });
quantity!(/// Length or height above the site's datum, m.
    Length { m / from_m = 1.0, mm / from_mm = 1e-3, inch / from_inch = 0.0254 });
quantity!(/// Volume, m³.
    Volume { m3 / from_m3 = 1.0, l / from_l = 1e-3, ml / from_ml = 1e-6 });
quantity!(/// Volume per time, m³/s.
    VolumeFlow { m3_per_s / from_m3_per_s = 1.0, l_per_h / from_l_per_h = 1e-3 / 3600.0 });
quantity!(/// Celsius temperature, °C.
    Temperature { c / from_c = 1.0 });
quantity!(/// Difference of two temperatures, K.
    TemperatureDifference { k / from_k = 1.0 });
quantity!(/// Density, kg/m³.
    Density { kg_m3 / from_kg_m3 = 1.0 });
quantity!(/// Length of time, s.
    Span { s / from_s = 1.0, minutes / from_minutes = 60.0, h / from_h = 3600.0 });

quantity!(/// A time on a run's own clock, s from its origin.
    RunTime { s / from_s = 1.0 });
quantity!(/// Energy, J.
    Energy { j / from_j = 1.0, kj / from_kj = 1e3 });
quantity!(/// Force, N.
    Force { n / from_n = 1.0, kn / from_kn = 1e3 });
quantity!(/// Mass, kg.
    Mass { kg / from_kg = 1.0 });

linear!(PressureDifference, Stress, Length, Volume, VolumeFlow, TemperatureDifference, Span, Energy, Force, Mass);
point!(GaugePressure - PressureDifference);
point!(AbsolutePressure - PressureDifference);
point!(Temperature - TemperatureDifference);
point!(RunTime - Span);

impl Volume {
    /// At what flow it comes or goes in a time.
    pub fn over(self, time: Span) -> VolumeFlow {
        VolumeFlow(self.0 / time.0)
    }
}

impl GaugePressure {
    /// Above vacuum, where the atmosphere stands at `atmosphere`.
    pub fn absolute(self, atmosphere: AbsolutePressure) -> AbsolutePressure {
        AbsolutePressure(self.0 + atmosphere.0)
    }
    /// Multiplied by a code's factor. A gauge pressure is a difference from the atmosphere, so this is meaningful.
    pub fn times(self, factor: f64) -> Self {
        Self(self.0 * factor)
    }
}

impl AbsolutePressure {
    /// Above the surrounding atmosphere.
    pub fn gauge(self, atmosphere: AbsolutePressure) -> GaugePressure {
        GaugePressure(self.0 - atmosphere.0)
    }
}

impl Temperature {
    /// Thermodynamic temperature, K.
    pub const fn kelvin(self) -> f64 {
        self.0 + 273.15
    }
    /// From thermodynamic temperature, K.
    pub const fn from_kelvin(k: f64) -> Self {
        Self(k - 273.15)
    }
    /// In degrees Fahrenheit.
    pub const fn f(self) -> f64 {
        self.0 * 1.8 + 32.0
    }
    /// From degrees Fahrenheit.
    pub const fn from_f(f: f64) -> Self {
        Self((f - 32.0) / 1.8)
    }
}

/// Conversion factors that are exact by definition.
pub mod unit_factor {
    /// Pascal per pound-force per square inch: 0.453 592 37 kg · 9.806 65 m/s² / (0.0254 m)².
    pub const PSI: f64 = 0.453_592_37 * 9.806_65 / (0.0254 * 0.0254);
    /// Pascal per kilogram-force per square centimetre.
    pub const KG_CM2: f64 = 98_066.5;
}
