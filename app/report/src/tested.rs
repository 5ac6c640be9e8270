//! What was tested, at which pressure by its name, and how it was held.

use crate::words::{Scale, Times};
use judge::case::Reading;
use judge::segments::{RunStretch, StretchKind};
use quantity::format::{significant, span};
use quantity::{GaugePressure, PressureDifference, PressureUnit, RunTime};
use record::sealed::Parts;
use rules::part::Part;
use terms::Term;

fn fact(term: &str, text: String) -> [String; 2] {
    [term.to_owned(), text]
}

/// The object, and its pressures by their names.
pub(crate) fn tested(p: &Parts, scale: &Scale) -> Vec<[String; 2]> {
    let basis = &p.system.basis;
    let mut facts = vec![fact("Tested", objects(p, scale))];
    let named = [
        ("Working pressure", basis.working_pressure_pa),
        ("Working pressure, highest point", basis.working_high_pa),
        ("Design pressure", basis.design_pressure_pa),
        ("Maximum allowable pressure", basis.allowable_pressure_pa),
        ("Pressure on the plate", basis.plate_pressure_pa),
        ("Agreed pressure", basis.agreed_pressure_pa),
    ];
    facts.extend(named.iter().filter_map(|(name, of)| Some(fact(name, scale.say.p((*of)?)))));
    let base = [
        ("working pressure", basis.working_pressure_pa),
        ("design pressure", basis.design_pressure_pa),
        ("maximum allowable pressure", basis.allowable_pressure_pa),
        ("pressure on the plate", basis.plate_pressure_pa),
    ];
    let times = base.iter().find_map(|(name, of)| {
        let of = (*of)?.pa();
        (of > 0.0).then(|| format!(", {} × the {name}", significant(p.derived.required_pa.pa() / of, 3)))
    });
    facts.push(fact(
        "Test pressure",
        format!(
            "{} asked at {}{}; read as {} or more on {}",
            scale.say.up(p.derived.required_pa),
            p.derived.lower_part,
            times.unwrap_or_default(),
            scale.gauge.up(p.derived.lower_readable_pa),
            p.system.gauge.tag
        ),
    ));
    facts
}

/// Most parts that are named one by one.
const NAMED: usize = 3;

fn objects(p: &Parts, scale: &Scale) -> String {
    let parts = &p.system.parts;
    let library = p.system.library().ok();
    let material = |key: &str| library.as_ref().and_then(|l| Some(l.material(key).ok()?.name.clone())).unwrap_or_else(|| key.to_owned());
    let size = |part: &Part| {
        let mut words = part.tag.clone();
        if let Some(d) = part.outside_diameter_m {
            words += &format!(", {} outside", scale.say.length(d));
        }
        if let Some(w) = part.wall_m {
            words += &format!(", wall {}", scale.say.length(w));
        }
        if let Some(m) = &part.material {
            words += &format!(", {}", material(m));
        }
        words
    };
    let sized: Vec<&Part> = parts.iter().filter(|part| part.outside_diameter_m.is_some()).collect();
    if sized.len() <= NAMED && !sized.is_empty() {
        let more = parts.len() - sized.len();
        let rest = if more == 0 { String::new() } else { format!("; and {more} more in the table of parts") };
        return format!("{}{rest}", sized.iter().map(|part| size(part)).collect::<Vec<_>>().join("; "));
    }
    match parts.len() {
        1 => parts.first().map_or_else(String::new, size),
        n => format!("{n} parts, each in the table of parts"),
    }
}

/// From when to when it was held, and what the gauge read.
pub(crate) fn held(p: &Parts, scale: &Scale) -> Vec<[String; 2]> {
    let times = Times::of(p);
    let hold = p.readings.hold();
    if p.readings.stopped {
        let asked = span(p.readings.acceptance.hold_floor_s);
        return vec![fact("Held", format!("not held; let out at {}, {asked} asked", times.after(hold.end.s())))];
    }
    let read: Vec<(RunTime, GaugePressure)> = p.readings.pressures().filter(|r| hold.contains(r.t)).map(|r| (r.t, r.p)).collect();
    let mut facts = vec![fact(
        "Held",
        format!(
            "from {} to {}: {} of at least {}",
            times.after(hold.start.s()),
            times.after(hold.end.s()),
            span(hold.length()),
            span(p.readings.acceptance.hold_floor_s)
        ),
    )];
    let least = read.iter().min_by(|a, b| a.1.total_cmp(&b.1));
    let most = read.iter().max_by(|a, b| a.1.total_cmp(&b.1));
    if let (Some(least), Some(most)) = (least, most) {
        let at = |r: &(RunTime, GaugePressure)| format!("{} at {}", scale.gauge.p(r.1), times.after(r.0.s()));
        let many = if read.len() == 1 { "one reading".to_owned() } else { format!("{} readings", read.len()) };
        facts.push(fact("Read in the hold", format!("least {}, greatest {}; {many}", at(least), at(most))));
    }
    facts
}

/// Most readings that are listed one by one.
const LISTED: usize = 60;
/// The same on a certificate of one page.
const LISTED_ON_A_PAGE: usize = 24;

/// A table of readings: each of them where they were written down by hand and are few, else the least and greatest of each stretch.
#[derive(Debug, serde::Serialize)]
pub(crate) struct ReadingTable {
    each: bool,
    /// Heads of the columns.
    head: Vec<String>,
    rows: Vec<Vec<String>>,
}

/// What was read at the same moment, as one reading.
fn together(readings: &[Reading]) -> Vec<Reading> {
    let mut all: Vec<Reading> = Vec::with_capacity(readings.len());
    for r in readings {
        let other_half = |l: &Reading| {
            l.t_s.s().total_cmp(&r.t_s.s()).is_eq()
                && (l.pressure_pa.is_none() || r.pressure_pa.is_none())
                && (l.temperature_c.is_none() || r.temperature_c.is_none())
                && !(0..l.also.len().min(r.also.len())).any(|i| l.also[i].is_some() && r.also[i].is_some())
        };
        match all.last_mut().filter(|l| other_half(l)) {
            Some(last) => {
                last.pressure_pa = last.pressure_pa.or(r.pressure_pa);
                last.temperature_c = last.temperature_c.or(r.temperature_c);
                last.also.resize(last.also.len().max(r.also.len()), None);
                last.also.iter_mut().zip(&r.also).for_each(|(l, r)| *l = l.or(*r));
            }
            None => all.push(r.clone()),
        }
    }
    all
}

/// A further instrument that was read.
struct Further {
    place: usize,
    tag: String,
    /// Unit and division of a gauge's dial; a thermometer has none.
    dial: Option<(PressureUnit, PressureDifference)>,
}

/// Further instruments of which there is a reading.
fn further(p: &Parts, readings: &[Reading]) -> Vec<Further> {
    let unit = |tag: &str| p.instruments.iter().find(|i| i.tag == tag).map_or_else(PressureUnit::default, |i| i.unit);
    let gauges = p.readings.also_gauges.iter().map(|g| (g.tag.clone(), Some((unit(&g.tag), g.division_pa))));
    let thermometers = p.readings.also_thermometers.iter().map(|t| (t.tag.clone(), None));
    let all = gauges.chain(thermometers).enumerate().map(|(place, (tag, dial))| Further { place, tag, dial });
    all.filter(|f| readings.iter().any(|r| r.also.get(f.place).copied().flatten().is_some())).collect()
}

/// The table of a record.
pub(crate) fn reading_table(p: &Parts, scale: &Scale, one_page: bool) -> ReadingTable {
    let times = Times::of(p);
    let case = &p.readings;
    let by_hand = p.sources.recorded.is_empty() && p.sources.files.is_empty();
    let temperature = |t: Option<quantity::Temperature>| t.map_or_else(String::new, |t| scale.say.temperature(t));
    let readings = together(&case.readings);
    if by_hand && readings.len() <= if one_page { LISTED_ON_A_PAGE } else { LISTED } {
        let further = further(p, &readings);
        let row = |r: &Reading| {
            let hold = if !case.stopped && case.hold().contains(r.t_s) { "hold" } else { "" };
            let first =
                [times.after(r.t_s.s()), r.pressure_pa.map_or_else(String::new, |p| scale.gauge.p(p)), temperature(r.temperature_c)];
            let of = |f: &Further| {
                r.also.get(f.place).copied().flatten().map_or_else(String::new, |v| match f.dial {
                    Some((unit, division)) => scale.other(unit, division).p(GaugePressure::from_pa(v)),
                    None => temperature(Some(quantity::Temperature::from_c(v))),
                })
            };
            first.into_iter().chain(further.iter().map(of)).chain([hold.to_owned()]).collect()
        };
        let pressure = if further.is_empty() { "pressure".to_owned() } else { case.gauge.tag.clone() };
        let named = further.iter().map(|f| f.tag.clone());
        let head = ["time".to_owned(), pressure, "temperature".to_owned()].into_iter().chain(named).chain([String::new()]).collect();
        return ReadingTable { each: true, head, rows: readings.iter().map(row).collect() };
    }
    let stretches: Vec<RunStretch> = match p.run() {
        Ok(Some(run)) => run.stretches(),
        _ => Vec::new(),
    };
    // on one page only where the pressure stood
    let moves = |s: &&RunStretch| matches!(s.kind, StretchKind::Fill | StretchKind::Ramp | StretchKind::Release);
    let row = |s: &RunStretch| {
        let read: Vec<GaugePressure> = case.pressures().filter(|r| r.t >= s.start_s && r.t <= s.end_s).map(|r| r.p).collect();
        let least = read.iter().copied().reduce(GaugePressure::min)?;
        let most = read.iter().copied().reduce(GaugePressure::max)?;
        Some(vec![
            format!("{}, from {} to {}", s.kind.words(), times.after(s.start_s.s()), times.after(s.end_s.s())),
            scale.gauge.p(least),
            scale.gauge.p(most),
            read.len().to_string(),
        ])
    };
    let head = ["stretch", "least", "greatest", "readings"].map(str::to_owned).to_vec();
    ReadingTable { each: false, head, rows: stretches.iter().filter(|s| !(one_page && moves(s))).filter_map(row).collect() }
}
