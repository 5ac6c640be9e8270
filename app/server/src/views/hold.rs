//! What the hold chart is drawn from.

use crate::problem::Problem;
use judge::case::{MovedBoundary, Reading};
use judge::segments::RunStretch;
use moment::Instant;
use run::Run;
use run::rows::{CorrectionRow, EventRow};
use serde::Serialize;
use terms::Term;
use terms::VariantArray;
use terms::{EventKind, LeakPlace};

/// Most points that are sent; more are thinned so that every peak stays.
const MOST_POINTS: usize = 4000;

/// A point of one channel.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Point {
    /// Seconds from the release.
    pub t_s: f64,
    /// Pa gauge, or °C.
    pub value: f64,
}

/// Chart of a run.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct HoldView {
    /// Zero of the times.
    pub released_at: Instant,
    /// Gauge readings, Pa.
    pub pressure: Vec<Point>,
    /// Temperatures, °C.
    pub temperature: Vec<Point>,
    /// Further gauges and thermometers.
    pub also: Vec<AlsoRead>,
    /// How many readings there are in all.
    pub readings: usize,
    /// Lower bound at the gauge, Pa.
    pub lower_pa: f64,
    /// Upper bound at the gauge, Pa.
    pub upper_pa: f64,
    /// Planned pressure, Pa.
    pub planned_pa: Option<f64>,
    /// The hold; absent before it began.
    pub hold: Option<HoldSpan>,
    /// Events with their time.
    pub events: Vec<TimedEvent>,
    /// Where it was looked at, class by class.
    pub coverage: Vec<Coverage>,
    /// When the finding will be settled if all goes on as it does, s from the release; absent when it is, or cannot be told.
    pub settles_s: Option<f64>,
    /// Stretches of the run.
    pub stretches: Vec<RunStretch>,
    /// Boundaries of the hold that a person moved.
    pub moved: Vec<MovedBoundary>,
    /// Last instant of the recorder.
    pub last_seq: u64,
}

/// What a further instrument read.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct AlsoRead {
    /// Tag of the instrument.
    pub tag: String,
    /// True for a gauge, false for a thermometer.
    pub gauge: bool,
    /// For a gauge, what it reads in the middle over the first gauge, Pa: it hangs higher or lower, and errs on its own.
    pub above_first: f64,
    /// Its readings, Pa gauge or °C.
    pub points: Vec<Point>,
}

/// Readings of every further instrument.
fn also(run: &Run) -> Vec<AlsoRead> {
    let readings = run.readings();
    let (gauges, thermometers) = (&run.facts().also_gauges, &run.facts().also_thermometers);
    let tags = gauges.iter().map(|g| (&g.tag, true)).chain(thermometers.iter().map(|t| (&t.tag, false)));
    tags.enumerate()
        .map(|(i, (tag, gauge))| {
            let read = |r: &Reading| r.also.get(i).copied().flatten();
            let mut above: Vec<f64> =
                judge::side_by_side(readings.iter(), i).into_iter().map(|(other, first)| (other - first).pa()).collect();
            above.sort_by(f64::total_cmp);
            AlsoRead {
                tag: tag.clone(),
                gauge,
                above_first: above.get(above.len() / 2).copied().filter(|_| gauge).unwrap_or(0.0),
                points: thin(readings.iter().filter_map(|r| Some(Point { t_s: r.t_s.s(), value: read(r)? })).collect()),
            }
        })
        .filter(|a| !a.points.is_empty())
        .collect()
}

/// One class of places.
#[derive(Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Coverage {
    /// The class.
    pub place: LeakPlace,
    /// In words.
    pub words: String,
    /// How many were looked at; nil when only a leak is booked.
    pub looked: u32,
    /// How many of them leak.
    pub leaks: u32,
}

/// Looks and leaks by class; the last look at a class counts.
fn coverage(events: &[EventRow]) -> Vec<Coverage> {
    LeakPlace::VARIANTS
        .iter()
        .copied()
        .filter_map(|place| {
            let of = |kind| events.iter().filter(move |e| e.kind == kind && e.place == Some(place));
            let looked = of(EventKind::LookDone).filter_map(|e| e.looked).next_back();
            let leaks = u32::try_from(of(EventKind::LeakSeen).count()).unwrap_or(u32::MAX);
            (looked.is_some() || leaks > 0).then(|| Coverage { place, words: place.words().to_owned(), looked: looked.unwrap_or(0), leaks })
        })
        .collect()
}

/// Start and end of a hold, s from the release.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct HoldSpan {
    /// Start.
    pub start_s: f64,
    /// End.
    pub end_s: f64,
}

/// An event with its time.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct TimedEvent {
    /// Seconds from the release.
    pub t_s: f64,
    /// The event.
    pub event: EventRow,
}

/// Readings, limits and events of a run; `settles_s` is looked for elsewhere, for that takes its time.
///
/// # Errors
/// When nothing can be derived of what was frozen.
pub fn hold_view(run: &Run, settles_s: Option<f64>) -> Result<HoldView, Problem> {
    let derived = run.facts().derived.as_ref().map_err(|e| Problem::invalid(e.field(), e))?;
    let readings = run.readings();
    let hold = run.hold();
    let series = |value: fn(&Reading) -> Option<f64>| {
        thin(readings.iter().filter_map(|r| Some(Point { t_s: r.t_s.s(), value: value(r)? })).collect())
    };
    Ok(HoldView {
        released_at: run.released_at(),
        pressure: series(|r| r.pressure_pa.map(quantity::GaugePressure::pa)),
        temperature: series(|r| r.temperature_c.map(quantity::Temperature::c)),
        also: also(run),
        readings: readings.len(),
        lower_pa: if hold.is_some() { derived.hold_least_pa() } else { derived.lower_pa }.pa(),
        upper_pa: derived.upper_pa.pa(),
        planned_pa: derived.day.as_ref().map(|d| d.planned_pa.pa()),
        hold: hold.map(|h| HoldSpan { start_s: h.start.s(), end_s: h.end.s() }),
        coverage: coverage(run.events()),
        settles_s,
        stretches: run.stretches(),
        moved: if hold.is_some() { run.corrections().iter().filter_map(CorrectionRow::moved).collect() } else { Vec::new() },
        last_seq: run.last_seq(),
        events: run.events().iter().map(|e| TimedEvent { t_s: run.event_s(e), event: e.clone() }).collect(),
    })
}

/// Every reading, for a chart that pans through all of them: two series one after the other, pressure then temperature, each a count
/// (32 bit) and as many pairs of time (s from the release) and value (Pa gauge, °C), 64 bit floats, all little-endian.
pub fn series(run: &Run) -> Vec<u8> {
    let readings = run.readings();
    let mut out = Vec::with_capacity(readings.len() * 32 + 8);
    let mut put = |points: Vec<(f64, f64)>| {
        out.extend_from_slice(&u32::try_from(points.len()).unwrap_or(u32::MAX).to_le_bytes());
        for (t, v) in points {
            out.extend_from_slice(&t.to_le_bytes());
            out.extend_from_slice(&v.to_le_bytes());
        }
    };
    put(run.pressures().iter().map(|r| (r.t.s(), r.p.pa())).collect());
    put(readings.iter().filter_map(|r| Some((r.t_s.s(), r.temperature_c?.c()))).collect());
    out
}

/// Thins a series to about `MOST_POINTS`: of each bucket its least and its greatest stay, so that no peak is lost.
fn thin(points: Vec<Point>) -> Vec<Point> {
    if points.len() <= MOST_POINTS {
        return points;
    }
    let bucket = points.len().div_ceil(MOST_POINTS / 2);
    points
        .chunks(bucket)
        .flat_map(|c| {
            let low = c.iter().copied().reduce(|a, b| if b.value < a.value { b } else { a });
            let high = c.iter().copied().reduce(|a, b| if b.value > a.value { b } else { a });
            let mut pair: Vec<Point> = low.into_iter().chain(high).collect();
            pair.sort_by(|a, b| a.t_s.total_cmp(&b.t_s));
            pair.dedup();
            pair
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn thinning_keeps_every_peak() {
        let mut points: Vec<Point> = (0..200_000).map(|i| Point { t_s: f64::from(i), value: 26.0 }).collect();
        points[77_777].value = 30.0;
        points[123_456].value = 20.0;
        let thinned = thin(points);
        assert!(thinned.len() <= MOST_POINTS);
        assert!(thinned.iter().any(|p| p.value == 30.0) && thinned.iter().any(|p| p.value == 20.0));
        assert!(thinned.windows(2).all(|w| w[0].t_s <= w[1].t_s));
    }
}
