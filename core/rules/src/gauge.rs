//! GAUGE-RANGE: which gauges suit the test.

use crate::rule::{Rule, Standing};
use quantity::{GaugePressure, Length, PressureDifference, PressureUnit};
use serde::{Deserialize, Serialize};

/// Rules of the gauge.
pub const RULES: &[&Rule] = &[&RANGE];

/// Full scale against test pressure.
pub const RANGE: Rule = Rule {
    id: "GAUGE-RANGE",
    sentence: "The gauge's full scale lies within the range of multiples of the test pressure that the chosen school asks for.",
    clause: "VIII-1 UG-102 for dial gauges",
    edition: "BPVC VIII-1, recent editions",
    standing: Standing::NotChecked,
    file: file!(),
    test: "worked_gauge_ranges",
};

/// Schools of the gauge's range; they are not equivalent.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum RangeSchool {
    /// full scale 1.5 to 4 times the test pressure
    #[default]
    OneAndAHalfToFour,
    /// test pressure at 30 to 80 % of scale
    ThirtyToEighty,
    /// test pressure at 35 to 75 % of scale
    ThirtyFiveToSeventyFive,
}

impl RangeSchool {
    /// Least and greatest full scale over test pressure.
    pub const fn factors(self) -> (f64, f64) {
        match self {
            Self::OneAndAHalfToFour => (1.5, 4.0),
            Self::ThirtyToEighty => (1.0 / 0.8, 1.0 / 0.3),
            Self::ThirtyFiveToSeventyFive => (1.0 / 0.75, 1.0 / 0.35),
        }
    }
    /// In words.
    pub const fn words(self) -> &'static str {
        match self {
            Self::OneAndAHalfToFour => "1.5 to 4 times the test pressure",
            Self::ThirtyToEighty => "such that the test pressure stands at 30 to 80 % of scale",
            Self::ThirtyFiveToSeventyFive => "such that the test pressure stands at 35 to 75 % of scale",
        }
    }
}

/// Full scales of the usual bar series.
const SERIES_BAR: [f64; 18] =
    [1.0, 1.6, 2.5, 4.0, 6.0, 10.0, 16.0, 25.0, 40.0, 60.0, 100.0, 160.0, 250.0, 400.0, 600.0, 1000.0, 1600.0, 2500.0];

/// The gauge that the test is read from.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Gauge {
    /// Tag of the gauge.
    pub tag: String,
    /// Height at which it is read, m.
    pub elevation_m: Length,
    /// Full scale, Pa; absent while none is chosen.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub full_scale_pa: Option<GaugePressure>,
    /// Readable division, Pa.
    pub division_pa: PressureDifference,
    /// Error, share of full scale (95 %).
    pub error_of_scale: f64,
    /// Unit that the gauge shows.
    #[serde(default)]
    pub unit: PressureUnit,
}

impl Gauge {
    /// Error of the gauge, Pa; one division where the scale is not known.
    pub fn error(&self) -> PressureDifference {
        self.full_scale_pa.map_or(self.division_pa, |s| PressureDifference::from_pa(s.pa() * self.error_of_scale))
    }
}

/// Which full scales suit a test pressure.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct GaugeOffer {
    /// Least full scale, Pa.
    pub least_pa: GaugePressure,
    /// Greatest full scale, Pa.
    pub most_pa: GaugePressure,
    /// Standard full scales in between, Pa.
    pub offered_pa: Vec<GaugePressure>,
    /// The school, in words.
    pub school: String,
    /// Why the gauge chosen does not suit; absent when it does or none is chosen.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub refused: Option<String>,
}

/// Full scales for `test`, and whether `chosen` is among them. The reading must also stay on the scale up to `most_read`.
pub fn offer(test: GaugePressure, most_read: GaugePressure, school: RangeSchool, chosen: &Gauge) -> GaugeOffer {
    let (low, high) = school.factors();
    let (least, most) = (test.times(low), test.times(high));
    let inside = |s: GaugePressure| s.pa() >= least.pa() * (1.0 - 1e-9) && s.pa() <= most.pa() * (1.0 + 1e-9);
    let offered: Vec<_> = SERIES_BAR.map(GaugePressure::from_bar).into_iter().filter(|s| inside(*s)).collect();
    let bar = |p: GaugePressure| quantity::format::gauge_pressure(p, PressureUnit::Bar, 1);
    let list = offered.iter().map(|p| quantity::format::gauge_pressure(*p, PressureUnit::Bar, 0)).collect::<Vec<_>>().join(", ");
    let refused = chosen.full_scale_pa.and_then(|s| {
        if s < most_read {
            Some(format!(
                "{} ends at {}, below the {} that it must be able to show: use one of {list}.",
                chosen.tag,
                bar(s),
                bar(most_read)
            ))
        } else if inside(s) {
            None
        } else {
            Some(format!(
                "{} has a full scale of {}; this test asks for {} to {} ({}): use one of {list}.",
                chosen.tag,
                bar(s),
                bar(least),
                bar(most),
                school.words()
            ))
        }
    });
    GaugeOffer { least_pa: least, most_pa: most, offered_pa: offered, school: school.words().to_owned(), refused }
}
