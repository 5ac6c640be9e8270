//! GAUGE-RANGE: which gauges suit the test.

use crate::accept::Shares;
use crate::rule::{Rule, Standing};
use crate::specification::SchoolOption;
use quantity::{GaugePressure, Length, PressureDifference, PressureUnit};
use serde::{Deserialize, Serialize};

/// Rules of the gauge.
pub const RULES: &[&Rule] = &[&RANGE, &RESOLUTION];

/// Division against what the hold permits.
pub const RESOLUTION: Rule = Rule {
    id: "GAUGE-RESOLUTION",
    sentence: "A gauge that cannot show the fall that the hold permits is refused.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "gauge_resolution_a_gauge_too_coarse_for_the_permitted_fall_is_refused",
};

/// Full scale against test pressure.
pub const RANGE: Rule = Rule {
    id: "GAUGE-RANGE",
    sentence: "The gauge's full scale lies within the range of multiples of the test pressure that the chosen school asks for.",
    clause: "VIII-1 UG-102 for dial gauges",
    edition: "BPVC VIII-1, recent editions",
    standing: Standing::NotChecked,
    file: file!(),
    test: "worked_gauge_range",
};

/// What a gauge must be able to do in a test.
#[derive(Debug, Clone, Copy)]
pub struct Asked<'a> {
    /// Pressure at which the hold starts, at this gauge.
    pub test: GaugePressure,
    /// Greatest pressure that it may see, at this gauge.
    pub most_read: GaugePressure,
    /// The school: multiples of the test pressure, in words.
    pub school: &'a SchoolOption,
    /// Fall that the basis permits in the hold; none where it permits none.
    pub permitted_fall: Option<PressureDifference>,
    /// How its figures are said.
    pub say: crate::say::Say,
}

impl Asked<'_> {
    /// Least and greatest full scale over test pressure.
    fn factors(&self) -> Shares {
        Shares { least: self.school.low.unwrap_or(1.5), most: self.school.high.unwrap_or(4.0) }
    }
}

/// Full scales of the usual bar series.
const SERIES_BAR: [f64; 18] =
    [1.0, 1.6, 2.5, 4.0, 6.0, 10.0, 16.0, 25.0, 40.0, 60.0, 100.0, 160.0, 250.0, 400.0, 600.0, 1000.0, 1600.0, 2500.0];

/// Full scales of the usual psi series.
const SERIES_PSI: [f64; 20] = [
    15.0, 30.0, 60.0, 100.0, 160.0, 200.0, 300.0, 400.0, 600.0, 800.0, 1000.0, 1500.0, 2000.0, 3000.0, 5000.0, 6000.0, 10000.0, 15000.0,
    20000.0, 30000.0,
];

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

/// Full scales for a test, and whether `chosen` is among them and fine enough. The reading must also stay on the scale up to what it may see.
pub fn offer(asked: &Asked, chosen: &Gauge) -> GaugeOffer {
    let times = asked.factors();
    let (least, most) = (asked.test.times(times.least), asked.test.times(times.most));
    let inside = |s: GaugePressure| s.pa() >= least.pa() * (1.0 - 1e-9) && s.pa() <= most.pa() * (1.0 + 1e-9);
    let unit = if chosen.unit == PressureUnit::Psi { PressureUnit::Psi } else { PressureUnit::Bar };
    let series: Vec<GaugePressure> = match unit {
        PressureUnit::Psi => SERIES_PSI.map(|p| GaugePressure::from_pa(p * unit.pa())).to_vec(),
        _ => SERIES_BAR.map(GaugePressure::from_bar).to_vec(),
    };
    let offered: Vec<_> = series.into_iter().filter(|s| inside(*s) && *s >= asked.most_read).collect();
    let say = asked.say;
    let shown = |p: GaugePressure| say.named(p);
    let list = offered.iter().map(|p| say.named(*p)).collect::<Vec<_>>().join(", ");
    let list = if list.is_empty() {
        "no standard full scale lies in that range: have one made, or take another school of ranges".to_owned()
    } else {
        format!("use one of {list}")
    };
    let range = chosen.full_scale_pa.and_then(|s| {
        if s < asked.most_read {
            Some(format!("{} ends at {}, below the {} that it must be able to show: {list}.", chosen.tag, shown(s), shown(asked.most_read)))
        } else if inside(s) {
            None
        } else {
            Some(format!(
                "{} has a full scale of {}; this test asks for {} to {} ({}): {list}.",
                chosen.tag,
                shown(s),
                shown(least),
                shown(most),
                asked.school.words
            ))
        }
    });
    let too_coarse = asked.permitted_fall.filter(|fall| chosen.full_scale_pa.is_some() && chosen.division_pa > *fall).map(|fall| {
        let at = crate::say::AtGauge::new(say, chosen.unit, Some(chosen.division_pa));
        let amount = |p| at.change(p);
        format!(
            "{} is read to {}, and the hold permits a fall of {} only: a gauge that cannot show the permitted fall proves nothing. Use one with a division of {} or finer.",
            chosen.tag,
            amount(chosen.division_pa),
            say.change(fall),
            say.down(GaugePressure::from_pa(fall.pa()))
        )
    });
    let sentences: Vec<String> = range.into_iter().chain(too_coarse).collect();
    let refused = (!sentences.is_empty()).then(|| sentences.join(" "));
    GaugeOffer { least_pa: least, most_pa: most, offered_pa: offered, school: asked.school.words.to_string(), refused }
}
