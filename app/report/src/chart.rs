//! Charts as figures between 0 and 1, ready to be drawn to any size.

use crate::words::Times;
use judge::read::TimeRange;
use quantity::RunTime;
use record::sealed::Parts;
use rules::say::Say;
use rules::system::PartWindow;
use serde::Serialize;
use terms::Term;

/// Columns that a printed line can show: 160 mm at 2.5 a millimetre, about the width of the line itself.
const COLUMNS: usize = 400;

/// A tick of an axis.
#[derive(Debug, Serialize)]
pub struct Tick {
    /// Place, 0 to 1.
    pub at: f64,
    /// Label.
    pub label: String,
}

/// A level line.
#[derive(Debug, Serialize)]
pub struct Level {
    /// Place, 0 to 1.
    pub at: f64,
    /// Label.
    pub label: String,
    /// `lower`, `upper` or `planned`.
    pub kind: &'static str,
}

/// An event.
#[derive(Debug, Serialize)]
pub struct Flag {
    /// Place, 0 to 1.
    pub at: f64,
    /// Words.
    pub label: String,
    /// Its number in the table of events.
    pub number: usize,
    /// True for a leak.
    pub leak: bool,
    /// Row of its label; none where there is no room for it.
    pub row: Option<usize>,
    /// True where the label stands left of its line.
    pub left: bool,
}

/// Pressure against time, temperatures beneath.
#[derive(Debug, Serialize)]
pub struct Chart {
    /// Unit of the pressures.
    pub unit: &'static str,
    /// Pressure, points of 0 to 1.
    pub pressure: Vec<[f64; 2]>,
    /// Temperature, points of 0 to 1.
    pub temperature: Vec<[f64; 2]>,
    /// Upper edge of what temperature alone would do, then its lower edge backwards.
    pub band: Vec<[f64; 2]>,
    /// Ticks of time.
    pub times: Vec<Tick>,
    /// Ticks of pressure.
    pub pressures: Vec<Tick>,
    /// Ticks of temperature.
    pub temperatures: Vec<Tick>,
    /// Level lines.
    pub levels: Vec<Level>,
    /// Events.
    pub flags: Vec<Flag>,
    /// Start and end of the hold, 0 to 1.
    pub hold: [f64; 2],
}

/// Whole steps that about so many ticks take between two values, and the values.
pub fn ticks(low: f64, high: f64, count: f64) -> (f64, Vec<f64>) {
    let raw = ((high - low) / count).max(1e-12);
    let power = 10f64.powf(raw.log10().floor());
    let step = [1.0, 2.0, 5.0, 10.0].map(|f| f * power).into_iter().find(|s| *s >= raw).unwrap_or(10.0 * power);
    let first = (low / step).ceil() as i64;
    let last = (high / step).floor() as i64;
    (step, (first..=last).map(|i| i as f64 * step).collect())
}

fn labelled(low: f64, high: f64, count: f64) -> Vec<Tick> {
    let (step, values) = ticks(low, high, count);
    let decimals = (-step.log10()).ceil().max(0.0) as usize;
    values.into_iter().map(|v| Tick { at: (v - low) / (high - low), label: format!("{v:.decimals$}") }).collect()
}

/// Ticks at whole minutes or hours of the record's clock, each with what that clock shows then: where it is put forward or back, so are they.
fn clock_ticks(from_s: f64, to_s: f64, times: &Times) -> Vec<Tick> {
    const STEPS: [f64; 13] = [1.0, 5.0, 15.0, 60.0, 120.0, 300.0, 600.0, 900.0, 1800.0, 3600.0, 7200.0, 14_400.0, 21_600.0];
    let step = STEPS.into_iter().find(|s| (to_s - from_s) / s <= 9.0).unwrap_or(86_400.0);
    let zero = times.day_zero();
    let first = ((from_s + zero) / step).ceil() as i64;
    let last = ((to_s + zero) / step).floor() as i64;
    (first..=last)
        .map(|i| {
            let t_s = i as f64 * step - zero;
            let clock = times.clock_at(t_s);
            let label = if step < 60.0 { clock } else { clock.get(..5).unwrap_or_default().to_owned() };
            Tick { at: (t_s - from_s) / (to_s - from_s), label }
        })
        .collect()
}

/// Of each column its least and its greatest point, in their order, and both ends: no peak is lost, no point made up.
pub fn thinned(points: &[(f64, f64)], columns: usize) -> Vec<(f64, f64)> {
    if points.len() <= 2 * columns {
        return points.to_vec();
    }
    let mut out: Vec<(f64, f64)> = Vec::with_capacity(2 * columns + 2);
    out.extend(points.first());
    for c in points.chunks(points.len().div_ceil(columns)) {
        let by = |a: usize, b: usize| c[a].1.total_cmp(&c[b].1);
        let low = (0..c.len()).min_by(|a, b| by(*a, *b)).unwrap_or(0);
        let high = (0..c.len()).max_by(|a, b| by(*a, *b)).unwrap_or(0);
        for i in [low.min(high), low.max(high)] {
            if out.last() != Some(&c[i]) {
                out.push(c[i]);
            }
        }
    }
    if out.last() != points.last() {
        out.extend(points.last());
    }
    out
}

/// Width of a label, share of a chart's: a letter at 7.5 pt is about 1.3 mm of 148.
const LETTER: f64 = 1.3 / 148.0;
/// Labels that stand one under the other.
const ROWS: usize = 7;

/// Row of each label, none on another's; none where no row is free.
fn rows(labels: &[(f64, usize)]) -> Vec<Option<usize>> {
    let mut taken: Vec<Vec<(f64, f64)>> = vec![Vec::new(); ROWS];
    let mut place = |&(at, letters): &(f64, usize)| {
        let width = letters as f64 * LETTER;
        let (from, to) = if at > RIGHT { (at - width, at) } else { (at, at + width) };
        let row = taken.iter().position(|row| row.iter().all(|(a, b)| to <= *a || from >= *b))?;
        taken[row].push((from, to));
        Some(row)
    };
    labels.iter().map(&mut place).collect()
}

/// Right of this a label stands to the left of its line.
const RIGHT: f64 = 0.7;

/// Events from one time to another, on an axis that ends at `end`.
fn flags(parts: &Parts, from: f64, to: f64, end: f64) -> Vec<Flag> {
    let times = Times::of(parts);
    let at = |t: f64| (t - from) / (end - from);
    let told: Vec<(usize, &record::sealed::RecordedEvent, f64)> = parts
        .events
        .iter()
        .zip(1..)
        .filter_map(|(e, number)| Some((number, e, times.since_release(&e.at)?)))
        .filter(|(_, e, t)| (from..=to).contains(t) && e.kind != terms::EventKind::Noted)
        .collect();
    let rows = rows(&told.iter().map(|(_, e, t)| (at(*t), e.kind.words().chars().count())).collect::<Vec<_>>());
    let flag = |((number, e, t), row): (&(usize, &record::sealed::RecordedEvent, f64), Option<usize>)| Flag {
        at: at(*t),
        label: e.kind.words().to_owned(),
        number: *number,
        leak: e.kind == terms::EventKind::LeakSeen,
        row,
        left: at(*t) > RIGHT,
    };
    told.iter().zip(rows).map(flag).collect()
}

/// A chart of the readings between two times; `zoomed` shows the last per cent, otherwise the scale starts at zero.
pub fn chart(parts: &Parts, range: TimeRange, zoomed: bool) -> Chart {
    let case = &parts.readings;
    let unit = case.gauge.unit;
    let (from, to) = (range.start.s(), range.end.s());
    let inside = || case.readings.iter().filter(|r| range.contains(r.t_s));
    // the chart of a hold ends with it: between its last reading and the next one, hours later at zero, nobody knows the way
    let told = |t: RunTime| !zoomed || t <= case.hold_end_s;
    let pressure: Vec<(f64, f64)> = inside().filter(|r| told(r.t_s)).filter_map(|r| Some((r.t_s.s(), r.pressure_pa?.pa()))).collect();
    let temperature: Vec<(f64, f64)> = inside().filter_map(|r| Some((r.t_s.s(), r.temperature_c?.c()))).collect();
    let found = &parts.judgement.found.chart;
    let in_hold = |t: f64| !zoomed || case.hold().contains(RunTime::from_s(t));
    let mut values: Vec<f64> = pressure.iter().filter(|p| in_hold(p.0)).map(|p| p.1).collect();
    if zoomed {
        values.extend(
            found.iter().flat_map(|c| [c.without_loss_pa + c.half_width_95_pa, c.without_loss_pa - c.half_width_95_pa].map(|p| p.pa())),
        );
    }
    let span = |v: &[f64]| (v.iter().copied().fold(f64::INFINITY, f64::min), v.iter().copied().fold(f64::NEG_INFINITY, f64::max));
    let (mut low, mut high) = span(&values);
    if !low.is_finite() {
        (low, high) = (0.0, 1e5);
    }
    let pad = (0.15 * (high - low)).max(4.0 * case.gauge.division_pa.pa());
    (low, high) = if zoomed { (low - pad, high + pad) } else { (low.min(0.0), parts.derived.upper_pa.pa().max(high) * 1.04) };
    let (t_low, t_high) = span(&temperature.iter().map(|p| p.1).collect::<Vec<_>>());
    let (t_low, t_high) = if t_low.is_finite() { (t_low - 0.05, t_high + 0.05) } else { (0.0, 1.0) };
    let x = |t: f64| (t - from) / (to - from);
    let y = |p: f64| (p - low) / (high - low);
    let drawn = |points: &[(f64, f64)], scale: &dyn Fn(f64) -> f64| {
        thinned(points, COLUMNS).iter().map(|p| [x(p.0), scale(p.1)]).collect::<Vec<_>>()
    };
    let level = |pa: f64, kind: &'static str| (pa > low && pa < high).then(|| Level { at: y(pa), label: kind.to_owned(), kind });
    let edge =
        |sign: f64| found.iter().filter(|_| zoomed).map(move |c| [x(c.t_s.s()), y((c.without_loss_pa + c.half_width_95_pa * sign).pa())]);
    Chart {
        unit: unit.symbol(),
        pressure: drawn(&pressure, &y),
        temperature: drawn(&temperature, &|t| (t - t_low) / (t_high - t_low)),
        band: edge(1.0).chain(edge(-1.0).collect::<Vec<_>>().into_iter().rev()).collect(),
        times: clock_ticks(from, to, &Times::of(parts)),
        pressures: labelled(low / unit.pa(), high / unit.pa(), 7.0),
        temperatures: if temperature.is_empty() { vec![] } else { labelled(t_low, t_high, 3.0) },
        levels: [
            level(parts.derived.hold_least_pa().pa(), "lower"),
            level(parts.derived.upper_pa.pa(), "upper"),
            parts.derived.day.as_ref().and_then(|d| level(d.planned_pa.pa(), "planned")),
        ]
        .into_iter()
        .flatten()
        .collect(),
        flags: flags(parts, from, if zoomed { case.hold_end_s.s() } else { to }, to),
        hold: [x(case.hold_start_s.s().max(from)), x(case.hold_end_s.s().min(to))],
    }
}

/// The round chart of the hold: an angle is a time, a radius a pressure.
#[derive(Debug, Serialize)]
pub struct Round {
    /// Pressure, points of −1 to 1, from the top, clockwise.
    pub pressure: Vec<[f64; 2]>,
    /// Circles with their label, radius 0 to 1.
    pub circles: Vec<Tick>,
    /// Spokes with their time, share of a turn.
    pub spokes: Vec<Tick>,
    /// The bounds of the hold, radius 0 to 1.
    pub levels: Vec<Level>,
    /// Unit.
    pub unit: &'static str,
    /// Time of one turn, in words.
    pub turn: String,
}

/// Turns of a round chart, s, for holds of up to so long; a longer one is drawn day upon day.
const TURNS: [f64; 8] = [900.0, 1800.0, 3600.0, 7200.0, 14_400.0, 21_600.0, 43_200.0, 86_400.0];
/// Spokes of a turn.
const SPOKES: u32 = 12;
/// A bound within so many times the span of the readings is drawn.
const NEAR_BOUND: f64 = 6.0;
/// Radius of what is drawn innermost.
const INNER: f64 = 0.2;

/// Pressure over the hold, on a scale on which its bounds can be told apart. A turn is the least of a few that the hold fits in; of a day, midnight is on top.
pub fn round(parts: &Parts) -> Round {
    let case = &parts.readings;
    let unit = case.gauge.unit;
    let hold = case.hold();
    let times = Times::of(parts);
    let turn = TURNS.into_iter().find(|t| *t >= hold.length().s()).unwrap_or(86_400.0);
    let day = turn >= 86_400.0;
    // what is on top: midnight, or the start of the hold
    let top_s = if day { -times.day_zero() } else { hold.start.s() };
    let points: Vec<(f64, f64)> = case.pressures().filter(|r| hold.contains(r.t)).map(|r| (r.t.s(), r.p.pa())).collect();
    let (lower, upper) = (parts.derived.hold_least_pa().pa(), parts.derived.upper_pa.pa());
    let least = points.iter().map(|p| p.1).fold(lower, f64::min);
    let most = points.iter().map(|p| p.1).fold(lower, f64::max);
    // the upper bound belongs to the picture where it is near enough to leave room for the rest
    let most = if upper - least <= NEAR_BOUND * (most - least).max(4.0 * case.gauge.division_pa.pa()) { most.max(upper) } else { most };
    let pad = (0.25 * (most - least)).max(4.0 * case.gauge.division_pa.pa());
    let (low, high) = (least - pad, most + pad);
    let radius = |pa: f64| INNER + (1.0 - INNER) * ((pa - low) / (high - low)).clamp(0.0, 1.0);
    let label = |at: f64| {
        let t_s = top_s + at * turn;
        if day { format!("{:.0}", at * 24.0) } else { times.clock_at(t_s).get(..5).unwrap_or_default().to_owned() }
    };
    let level = |pa: f64, kind: &'static str| (pa > low && pa < high).then(|| Level { at: radius(pa), label: kind.to_owned(), kind });
    Round {
        pressure: thinned(&points, COLUMNS)
            .into_iter()
            .map(|(t, p)| {
                let angle = std::f64::consts::TAU * (t - top_s) / turn;
                [radius(p) * angle.sin(), -radius(p) * angle.cos()]
            })
            .collect(),
        circles: labelled(low / unit.pa(), high / unit.pa(), 5.0)
            .into_iter()
            .map(|t| Tick { at: INNER + (1.0 - INNER) * t.at, label: t.label })
            .collect(),
        spokes: (0..SPOKES).map(|n| f64::from(n) / f64::from(SPOKES)).map(|at| Tick { at, label: label(at) }).collect(),
        levels: [level(lower, "lower"), level(upper, "upper")].into_iter().flatten().collect(),
        unit: unit.symbol(),
        turn: quantity::format::span(quantity::Span::from_s(turn)),
    }
}

/// A part in the elevation–pressure picture.
#[derive(Debug, Serialize)]
pub struct Bar {
    /// Tag.
    pub tag: String,
    /// Place in the picture, 0 to 1: its height, or as near to it as its neighbours leave room for its line.
    pub at: f64,
    /// Pressure of the water column at its height, 0 to 1.
    pub column: f64,
    /// From what it needs to what it bears, 0 to 1.
    pub from: f64,
    /// End of the bar.
    pub to: f64,
    /// Height in words.
    pub height: String,
}

/// The elevation–pressure picture.
#[derive(Debug, Serialize)]
pub struct Window {
    /// Parts, the lowest first.
    pub bars: Vec<Bar>,
    /// Height of the picture, mm.
    pub height_mm: f64,
    /// Parts that are not drawn, for want of room; the table lists all.
    pub left_out: usize,
    /// The water column at the planned pressure: bottom and top, pressure and place from 0 to 1.
    pub column: [[f64; 2]; 2],
    /// Ticks of pressure.
    pub pressures: Vec<Tick>,
    /// Unit.
    pub unit: &'static str,
}

/// Most parts that are drawn.
const MOST_BARS: usize = 44;
/// Height of a part's line, mm.
const ROW_MM: f64 = 3.6;
/// Share of the picture's height in which parts stand.
const HEIGHT_USED: f64 = 0.84;

/// Places in rising order, none nearer to the next than `least`, all from 0 to 1 where they fit.
fn apart(heights: &[f64], least: f64) -> Vec<f64> {
    let mut places = heights.to_vec();
    for i in 1..places.len() {
        places[i] = places[i].max(places[i - 1] + least);
    }
    let mut top = 1.0;
    for place in places.iter_mut().rev() {
        *place = place.min(top);
        top = *place - least;
    }
    places
}

/// Bars of all parts and the column that must pass through them.
pub fn window(parts: &Parts) -> Window {
    let d = &parts.derived;
    let unit = parts.readings.gauge.unit;
    let heights: Vec<f64> = d.parts.iter().map(|p| p.elevation_m.m()).chain([parts.system.gauge.elevation_m.m()]).collect();
    let (low, high) = heights.iter().fold((f64::INFINITY, f64::NEG_INFINITY), |s, h| (s.0.min(*h), s.1.max(*h)));
    let z = |h: f64| if high > low { (h - low) / (high - low) } else { 0.5 };
    let planned = d.day.as_ref().map_or(d.lower_pa, |day| day.planned_pa).pa();
    let at = |h: f64| planned + d.column_pa_per_m * (parts.system.gauge.elevation_m.m() - h);
    let least = d.parts.iter().map(|p| p.required_pa.pa()).fold(at(high), f64::min);
    let most = d.parts.iter().map(|p| p.limit_pa.pa()).filter(|p| *p < 3.0 * planned).fold(at(low), f64::max);
    let pad = 0.08 * (most - least).max(1e5);
    let (from, to) = (least - pad, most + pad);
    let x = |p: f64| ((p - from) / (to - from)).clamp(0.0, 1.0);
    // those that come closest to the column are drawn
    let margin = |p: &PartWindow| (p.limit_pa.pa() - at(p.elevation_m.m())).min(at(p.elevation_m.m()) - p.required_pa.pa());
    let mut drawn: Vec<&PartWindow> = d.parts.iter().collect();
    drawn.sort_by(|a, b| margin(a).total_cmp(&margin(b)));
    drawn.truncate(MOST_BARS);
    drawn.sort_by(|a, b| a.elevation_m.total_cmp(&b.elevation_m));
    let height_mm = (30.0 + 6.0 * drawn.len() as f64).min(110.0).max(drawn.len() as f64 * ROW_MM / HEIGHT_USED + 1.0);
    let places = apart(&drawn.iter().map(|p| z(p.elevation_m.m())).collect::<Vec<_>>(), ROW_MM / (HEIGHT_USED * height_mm));
    Window {
        height_mm,
        left_out: d.parts.len() - drawn.len(),
        bars: drawn
            .iter()
            .zip(places)
            .map(|(p, place)| Bar {
                tag: p.tag.clone(),
                at: place,
                column: x(at(p.elevation_m.m())),
                from: x(p.required_pa.pa()),
                to: x(p.limit_pa.pa()),
                height: Say::from(unit).height(p.elevation_m),
            })
            .collect(),
        column: [[x(at(low)), z(low)], [x(at(high)), z(high)]],
        pressures: labelled(from / unit.pa(), to / unit.pa(), 6.0),
        unit: unit.symbol(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn thinning_keeps_every_peak_and_makes_nothing_up() {
        let mut points: Vec<(f64, f64)> = (0..86_400).map(|i| (f64::from(i), 26e5 - f64::from(i))).collect();
        points[55_555].1 = 30e5;
        points[55_556].1 = 20e5;
        let thin = thinned(&points, COLUMNS);
        assert!(thin.len() <= 2 * COLUMNS + 2 && thin.len() > COLUMNS);
        assert_eq!((thin.first(), thin.last()), (points.first(), points.last()));
        assert!(thin.contains(&(55_555.0, 30e5)) && thin.contains(&(55_556.0, 20e5)));
        assert!(thin.iter().all(|p| points[p.0 as usize] == *p) && thin.windows(2).all(|w| w[0].0 < w[1].0));
    }

    #[test]
    fn parts_at_one_height_are_drawn_apart_in_their_order() {
        let places = apart(&[0.0, 0.0, 0.0, 0.5, 1.0, 1.0], 0.1);
        assert!(places.windows(2).all(|w| w[1] - w[0] >= 0.1 - 1e-12), "{places:?}");
        assert!(places.iter().all(|p| (0.0..=1.0).contains(p)), "{places:?}");
        assert_eq!(places[3], 0.5, "what has room stays where it is");
        let many = apart(&[0.5; MOST_BARS], 1.0 / MOST_BARS as f64);
        assert!(many.iter().all(|p| (-1e-9..=1.0).contains(p)), "{many:?}");
    }

    #[test]
    fn no_label_stands_on_another() {
        // five at one moment near the end, then one far from them
        assert_eq!(rows(&[(0.95, 12), (0.95, 30), (0.96, 7), (0.1, 23)]), [Some(0), Some(1), Some(2), Some(0)]);
        assert_eq!(rows(&[(0.5, 9); ROWS + 1]).last(), Some(&None), "what has no room is not written over something else");
    }

    #[test]
    fn ticks_stand_at_whole_steps() {
        assert_eq!(ticks(0.0, 30.0, 7.0), (5.0, vec![0.0, 5.0, 10.0, 15.0, 20.0, 25.0, 30.0]));
        let hours: Vec<String> =
            clock_ticks(0.0, 8.0 * 3600.0, &Times::at("UTC", "2026-06-01T09:15:00Z")).into_iter().map(|t| t.label).collect();
        assert_eq!(hours, ["10:00", "11:00", "12:00", "13:00", "14:00", "15:00", "16:00", "17:00"]);
        assert_eq!(clock_ticks(0.0, 20.0, &Times::at("UTC", "2026-06-01T23:59:55Z"))[1].label, "00:00:00");
        // over the change of a clock that is three quarters of an hour off: from 02:45 on it shows an hour more
        let over: Vec<String> =
            clock_ticks(0.0, 4.0 * 3600.0, &Times::at("Pacific/Chatham", "2026-09-26T12:45:00Z")).into_iter().map(|t| t.label).collect();
        assert!(
            over.contains(&"02:30".to_owned()) && over.contains(&"04:00".to_owned()) && !over.contains(&"03:00".to_owned()),
            "{over:?}"
        );
    }
}
