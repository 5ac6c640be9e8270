//! What a hold will be able to show: before it, while it runs, and what would settle it.

use crate::case::HoldCase;
use crate::found::{Finding, Found};
use crate::to_hold::fittable;
use hold::Hold;
use quantity::dimension::Dimension;
use quantity::show::{self, Figures, Toward};
use quantity::{RunTime, Span, VolumeFlow};
use serde::{Deserialize, Serialize};

/// Longest hold that is looked at, s.
const LONGEST: f64 = 72.0 * 3600.0;
/// A finer gauge reads so much finer.
const FINER: f64 = 5.0;
/// A finer thermometer, in the fluid: division and error, K.
const FINE_THERMOMETER: (f64, f64) = (0.01, 0.1);

/// One way to show a leak.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Way {
    /// With which instruments, in words.
    pub with: String,
    /// Hold that shows it, s; absent where no hold of three days does.
    #[schema(value_type = Option<f64>)]
    pub hold_s: Option<Span>,
}

/// What a planned hold promises.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Promise {
    /// Hold that is planned, s.
    #[schema(value_type = f64)]
    pub hold_s: Span,
    /// Least loss that it will be able to show, m³/s (normal m³ of gas).
    #[schema(value_type = f64)]
    pub limit_m3_per_s: VolumeFlow,
    /// Leak that must be ruled out, m³/s; absent where none was asked.
    #[schema(value_type = Option<f64>)]
    pub asked_m3_per_s: Option<VolumeFlow>,
    /// Hold and instrument that would show it; empty where none was asked.
    pub ways: Vec<Way>,
    /// In a sentence.
    pub sentence: String,
}

/// Least loss that the hold as planned can show; none where the fluid's range is left.
pub fn limit(case: &HoldCase) -> Option<VolumeFlow> {
    limit_of(&planned(case))
}

fn limit_of(hold: &Hold) -> Option<VolumeFlow> {
    hold::model::planned_detection_limit(hold).ok().filter(|l| l.is_finite() && *l > 0.0).map(VolumeFlow::from_m3_per_s)
}

/// The plan behind a case: nothing that was pumped or let out within the hold is known before it.
fn planned(case: &HoldCase) -> Hold {
    Hold { steps: Vec::new(), ..fittable(case).hold }
}

/// Shortest hold whose limit is at most `wanted`; `scale` is the limit of the record over that of the plan.
fn shortest(hold: &Hold, wanted: VolumeFlow, scale: f64) -> Option<Span> {
    let shows = |length: f64| {
        let swing_k = hold.swing_k.map(|s| s * (length / hold.length_s).clamp(1.0, 6.0));
        limit_of(&Hold { length_s: length, swing_k, ..hold.clone() }).is_some_and(|l| l * scale <= wanted)
    };
    let (mut short, mut long) = (hold.interval_s * 4.0, (hold.interval_s * 8.0).max(600.0));
    while !shows(long) {
        short = long;
        long *= 2.0;
        if long > LONGEST {
            return None;
        }
    }
    for _ in 0..6 {
        let middle = 0.5 * (short + long);
        if shows(middle) { long = middle } else { short = middle }
    }
    Some(Span::from_s((long / 60.0).ceil() * 60.0))
}

/// The plan with a gauge that reads finer.
fn with_finer_gauge(hold: &Hold) -> Hold {
    let mut finer = hold.clone();
    for g in &mut finer.gauges {
        g.resolution_pa /= FINER;
        g.white_sd_pa /= FINER;
        g.temperature_95_pa_per_k /= FINER;
    }
    finer
}

/// The plan with a fine thermometer in the fluid of the largest body.
fn with_fine_thermometer(hold: &Hold) -> Hold {
    let mut finer = hold.clone();
    let largest = (0..hold.bodies.len()).max_by(|a, b| hold.bodies[*a].volume_m3.total_cmp(&hold.bodies[*b].volume_m3)).unwrap_or(0);
    finer.thermometers.push(hold::Thermometer {
        tag: String::new(),
        place: hold::Place::Fluid(largest),
        resolution_k: FINE_THERMOMETER.0,
        offset_95_k: FINE_THERMOMETER.1,
        noise_sd_k: 0.3 * FINE_THERMOMETER.0,
    });
    finer
}

/// Holds and instruments that show a leak of `wanted`.
pub fn ways(case: &HoldCase, wanted: VolumeFlow) -> Vec<Way> {
    let hold = planned(case);
    let fine = show::amount(FINE_THERMOMETER.0, Dimension::TemperatureDifferenceK, &case.units(), Figures::Said, Toward::Nearest);
    let with = |with: &str, hold: &Hold| Way { with: with.to_owned(), hold_s: shortest(hold, wanted, 1.0) };
    vec![
        with("the instruments planned", &hold),
        with("a gauge that reads five times finer", &with_finer_gauge(&hold)),
        with(&format!("a thermometer to {fine} in the fluid besides"), &with_fine_thermometer(&hold)),
        with("both", &with_fine_thermometer(&with_finer_gauge(&hold))),
    ]
}

/// What a hold as planned promises; none where nothing can be said.
pub fn promise(case: &HoldCase) -> Option<Promise> {
    let limit_m3_per_s = limit(case)?;
    let asked = case.acceptance.required_sensitivity_m3_per_s;
    let ways = asked.map(|a| ways(case, a)).unwrap_or_default();
    let hold_s = case.hold().length();
    let show = |v: VolumeFlow| crate::words::flow(v, case);
    let head = format!("A hold of {} will be able to show a leak of {}.", quantity::format::span(hold_s), show(limit_m3_per_s));
    let sentence = match asked {
        None => format!("{head} No figure was asked for, so none will be claimed."),
        Some(a) if limit_m3_per_s <= a => format!("{head} {} must be ruled out: this hold is enough for that.", show(a)),
        Some(a) => {
            let way = ways.iter().find(|w| w.hold_s.is_some());
            let what = match way {
                Some(w) => format!("hold {} with {}", quantity::format::span(w.hold_s.unwrap_or(Span::ZERO)), w.with),
                None => {
                    "not even three days with a finer gauge and thermometer would do it: test a smaller section, or measure the make-up water"
                        .to_owned()
                }
            };
            format!("{head} {} must be ruled out; this hold is too short or its instruments too coarse: {what}.", show(a))
        }
    };
    Some(Promise { hold_s, limit_m3_per_s, asked_m3_per_s: asked, ways, sentence })
}

/// Time at which a hold that goes on as it does will have settled the question; none when it is settled, or when
/// time alone does not settle it.
pub fn settles_at(case: &HoldCase, found: &Found) -> Option<RunTime> {
    let leak = found.leak.filter(|_| found.finding == Finding::TightTo)?;
    let asked = case.acceptance.required_sensitivity_m3_per_s?;
    if leak.upper_999_m3_per_s <= asked {
        return None;
    }
    let hold = planned(case);
    let scale = leak.detection_limit_m3_per_s / limit_of(&hold)?;
    // tight to the figure asked when a limit of it is reached and the estimate stands by nil
    let at = shortest(&hold, asked, scale.clamp(0.3, 10.0))?;
    (at.s() > hold.length_s).then_some(case.hold_start_s + at)
}

/// What would settle a hold that shows nothing, in a sentence: with the instruments at hand, and with better ones; none where nothing was asked.
pub fn would_settle(case: &HoldCase) -> Option<String> {
    let asked = case.acceptance.required_sensitivity_m3_per_s?;
    let ways = ways(case, asked);
    let shown = |w: &Way| w.hold_s.map(|s| format!("a hold of {} with {}", quantity::format::span(s), w.with));
    let first = ways.first().and_then(shown);
    let quickest = ways.iter().min_by(|a, b| length(a).total_cmp(&length(b)));
    let better = quickest.filter(|w| ways.first().is_none_or(|f| length(w) < length(f) * 0.7)).and_then(shown);
    let said: Vec<String> = first.into_iter().chain(better).collect();
    let all = said.join(", or ");
    let mut letters = all.chars();
    letters.next().map(|c| format!("{}{} would settle it.", c.to_uppercase(), letters.as_str()))
}

/// Hold of a way; endless where none shows it.
fn length(way: &Way) -> Span {
    way.hold_s.unwrap_or(Span::from_s(f64::INFINITY))
}
