//! What the template prints, every figure already in words.

use crate::chart::{Chart, Round, Window, chart, round, window};
use crate::sections::{could_not, facts, looks, marks, sources};
use crate::tested::{ReadingTable, held, reading_table, tested};
use crate::words::{Scale, Times};
use crate::{after, before};
use judge::read::TimeRange;
use pack::instrument::{Instrument, InstrumentKind};
use pack::plan::RunKind;
use pack::signing::{Form as Size, Signers};
use paper::{Document, Form, Paper, REPORT_TITLE};
use quantity::Span;
use record::sealed::{Parts, RecordedReading, SignedStatement};
use rules::derivation::Derivation;
use rules::say::{AtGauge, Say};
use serde::Serialize;
use terms::{EventKind, LeakPlace, Outcome, Term};

/// Everything of one document.
#[derive(Debug, Serialize)]
pub struct Content {
    paper: &'static str,
    text_pt: f64,
    certificate: bool,
    /// Let out before it was held: there is no chart of a hold.
    stopped: bool,
    title: String,
    site: String,
    number: String,
    subject: String,
    attempt: String,
    zone: String,
    draft: bool,
    signed_ever: bool,
    marks: Vec<String>,
    /// key of the outcome
    outcome: &'static str,
    outcome_words: &'static str,
    because: Vec<String>,
    decided: Vec<String>,
    leak: String,
    would_settle: Vec<String>,
    claims: Vec<String>,
    sentence: String,
    facts: Vec<[String; 2]>,
    readings: ReadingTable,
    derivations: Vec<Why>,
    parts: Vec<[String; 6]>,
    window: Window,
    instruments: Vec<[String; 5]>,
    whole: Chart,
    hold: Chart,
    round: Round,
    events: Vec<[String; 5]>,
    leaks: Vec<[String; 3]>,
    gates: Vec<[String; 2]>,
    earlier: Vec<[String; 3]>,
    looks: Vec<[String; 2]>,
    places: Vec<[String; 3]>,
    ways: Vec<[String; 2]>,
    owed: Vec<[String; 2]>,
    punch: Vec<[String; 2]>,
    could_not: Vec<String>,
    rules: Vec<[String; 5]>,
    sources: Vec<String>,
    restore: Vec<[String; 2]>,
    cautions: Vec<String>,
    signatures: Vec<Signed>,
    seal: String,
    content_sha256: String,
    key: String,
    software: String,
    attached: bool,
    date: Date,
}

/// The day and time of the last signature, or of the release while nobody has signed.
#[derive(Debug, Serialize)]
struct Date {
    year: i64,
    month: i64,
    day: i64,
    hour: i64,
    minute: i64,
    second: i64,
}

fn date(rfc3339: &str) -> Date {
    let part = |from: usize, to: usize| rfc3339.get(from..to).and_then(|t| t.parse::<i64>().ok()).unwrap_or(1);
    Date { year: part(0, 4), month: part(5, 7), day: part(8, 10), hour: part(11, 13), minute: part(14, 16), second: part(17, 19) }
}

/// A derivation in words.
#[derive(Debug, Serialize)]
struct Why {
    figure: String,
    result: String,
    sentence: String,
    formula: String,
    inputs: Vec<[String; 4]>,
    source: String,
    rounding: String,
    governed: String,
    change: String,
}

#[derive(Debug, Serialize)]
struct Signed {
    act: String,
    statement: String,
    person: String,
    /// What somebody without an account drew, as an SVG; empty for everybody else.
    drawing: String,
    at: String,
    proof: String,
}

/// Who signed: an account and its role, or a name, for whom, and a number.
fn who(s: &SignedStatement) -> String {
    match &s.by_hand {
        Some(h) if h.number.is_empty() => format!("{}, {}", h.name, h.body),
        Some(h) => format!("{}, {}, no. {}", h.name, h.body, h.number),
        None if s.person == s.role.words() => s.person.clone(),
        None => format!("{}, {}", s.person, s.role.words()),
    }
}

/// The strokes of a drawing, which are `M`, `L` and figures and nothing else, as a picture.
fn drawn(path: &str) -> String {
    let clean: String = path.chars().filter(|c| c.is_ascii_digit() || matches!(c, 'M' | 'L' | ' ' | '.')).collect();
    format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 600 200\"><path d=\"{clean}\" fill=\"none\" stroke=\"#1d2a33\" stroke-width=\"5\" stroke-linecap=\"round\" stroke-linejoin=\"round\"/></svg>"
    )
}

/// True where nobody but its owner can rely on what it says.
fn owners_alone(d: &Document) -> bool {
    let p = d.parts;
    // records of before could be signed by one person only
    p.subject.form == Size::Quick
        && (p.subject.signers.unwrap_or_default() == Signers::One
            || p.instruments.iter().any(Instrument::uncalibrated)
            || d.signatures.iter().any(|s| s.by_hand.as_ref().is_some_and(|h| !h.authenticated)))
}

/// A document's content.
pub fn content(d: &Document, paper: Paper, form: Form, text_pt: f64, attached: bool) -> Content {
    let p = d.parts;
    let times = Times::of(p);
    let scale = Scale::new(p.readings.gauge.unit, p.readings.gauge.division_pa);
    let case = &p.readings;
    let last = case.readings.last().map_or(case.hold_end_s, |r| r.t_s).max(case.hold_end_s);
    let first = case.readings.first().map_or(case.hold_start_s, |r| r.t_s).min(case.hold_start_s);
    let minute = Span::from_s(60.0);
    let span = case.hold().length().max(minute);
    let lines = p.judgement.lines.as_ref();
    Content {
        paper: match paper {
            Paper::A4 => "a4",
            Paper::Letter => "us-letter",
        },
        text_pt,
        certificate: form == Form::Certificate,
        stopped: case.stopped,
        title: match (form, p.subject.form) {
            (_, _) if p.plan.run == RunKind::Practice => "Practice report: no test was made".to_owned(),
            (_, _) if p.plan.run == RunKind::Rehearsal => "Rehearsal report".to_owned(),
            (Form::Certificate, _) if owners_alone(d) => "Pressure test: owner's information".to_owned(),
            (Form::Certificate, _) => "Pressure test certificate".to_owned(),
            (Form::Report, _) => REPORT_TITLE.to_owned(),
        },
        site: d.site.to_owned(),
        number: p.subject.pack_number.clone(),
        subject: p.subject.title.clone(),
        attempt: attempt(p),
        zone: times.zone().to_owned(),
        // what is never signed is no draft of anything
        draft: d.signatures.is_empty() && p.plan.run == RunKind::Record,
        signed_ever: p.plan.run == RunKind::Record,
        marks: marks(p, owners_alone(d)),
        outcome: p.judgement.outcome().key(),
        outcome_words: p.judgement.outcome().words(),
        because: lines
            .map_or_else(Vec::new, |l| if l.by_basis.outcome == Outcome::Meets { Vec::new() } else { l.by_basis.because.clone() }),
        decided: lines.map_or_else(Vec::new, |l| l.by_basis.to_decide.iter().chain(&l.by_basis.decided).cloned().collect()),
        leak: lines.map_or_else(|| format!("{}.", p.judgement.found.finding.words()), |l| l.leak.sentence.clone()),
        would_settle: lines.map_or_else(Vec::new, |l| l.would_settle.iter().filter(|s| !l.by_basis.because.contains(s)).cloned().collect()),
        claims: p
            .judgement
            .verdicts
            .iter()
            .map(|v| if v.claimed { v.sentence.clone() } else { format!("{} (observed, not claimed)", v.sentence) })
            .collect(),
        sentence: said_once(&p.judgement.sentence, lines.map_or("", |l| l.leak.sentence.as_str())),
        facts: [
            tested(p, &scale),
            held(p, &scale),
            before::of_joint(p),
            after::looked(p),
            before::before_this(p).filter(|_| form == Form::Certificate).into_iter().collect(),
            after::ways(p).filter(|_| form == Form::Certificate).into_iter().collect(),
            after::in_and_out(p),
            before::derated(p).into_iter().collect(),
            after::still_owed(p).into_iter().collect(),
            vec![before::next_test(p)],
            before::before_the_raise(p, &scale),
            facts(p, &scale),
        ]
        .concat(),
        gates: before::gates(p),
        earlier: before::earlier(p),
        readings: reading_table(p, &scale, form == Form::Certificate),
        derivations: p.derivations.iter().chain(&p.judgement.derivations).map(|w| why(w, &scale)).collect(),
        parts: p
            .derived
            .parts
            .iter()
            .map(|w| {
                [
                    w.tag.clone(),
                    w.kind.to_string(),
                    scale.say.height(w.elevation_m),
                    scale.say.up(w.required_pa),
                    scale.say.down(w.limit_pa),
                    w.limit_words.to_string(),
                ]
            })
            .collect(),
        window: window(p),
        instruments: p.instruments.iter().map(|i| instrument(i, was_read(p, i), in_date(p, i), &scale)).collect(),
        whole: chart(p, TimeRange { start: first, end: last.max(first + minute) }, false),
        hold: chart(p, TimeRange { start: case.hold_start_s - span * 0.06, end: case.hold_end_s + span * 0.04 }, true),
        round: round(p),
        events: (1..)
            .zip(&p.events)
            .map(|(n, e)| [n.to_string(), times.clock(&e.at), event_words(e, &scale), e.note.clone(), e.by.clone()])
            .collect(),
        leaks: p
            .events
            .iter()
            .filter(|e| e.kind == EventKind::LeakSeen)
            .map(|e| [times.clock(&e.at), e.place.map_or("", LeakPlace::words).to_owned(), e.note.clone()])
            .collect(),
        looks: looks(p),
        places: after::places(p),
        owed: after::owed(p),
        ways: after::decided(p),
        punch: after::punch(p),
        could_not: could_not(p),
        rules: p
            .judgement
            .verdicts
            .iter()
            .flat_map(|v| {
                v.rules.iter().map(|r| [r.rule.clone(), result_words(r).to_owned(), r.sentence.clone(), r.margin.clone(), r.source.clone()])
            })
            .fold(Vec::new(), |mut all, r| {
                if !all.contains(&r) {
                    all.push(r);
                }
                all
            }),
        sources: sources(p),
        restore: p
            .restore
            .iter()
            .filter(|l| l.promise.is_none())
            .map(|l| [if l.done { "done" } else { "open" }.to_owned(), l.sentence.clone()])
            .collect(),
        cautions: p.cautions.clone(),
        signatures: d
            .signatures
            .iter()
            .map(|s| Signed {
                act: s.act.key().to_owned(),
                statement: s.statement.clone(),
                person: who(s),
                drawing: s.by_hand.as_ref().filter(|h| !h.drawing.is_empty()).map(|h| drawn(&h.drawing)).unwrap_or_default(),
                at: times.instant(&s.signed_at),
                proof: s.ed25519.chars().take(16).collect(),
            })
            .collect(),
        seal: d
            .seal
            .map_or_else(|| "draft, not sealed".to_owned(), |s| format!("seal {}", s.content_sha256.chars().take(16).collect::<String>())),
        content_sha256: d.seal.map(|s| s.content_sha256.clone()).unwrap_or_default(),
        key: d.seal.map(|s| s.fingerprint.clone()).unwrap_or_default(),
        software: format!("Zero Leak {}, rules {}", p.subject.software, p.judgement.rules_version),
        attached,
        date: date(d.signatures.last().map_or(&p.subject.released_at, |s| &s.signed_at)),
    }
}

/// What was read, without what the line about a leak says already.
fn said_once(sentence: &str, leak: &str) -> String {
    let mut rest = sentence;
    // the first sentence of that line is its answer, what follows is why
    if let Some((_, why)) = leak.split_once(". ").filter(|(_, why)| !why.is_empty()) {
        rest = rest.strip_suffix(why).unwrap_or(rest);
    }
    rest.trim().to_owned()
}

fn attempt(p: &Parts) -> String {
    let s = &p.subject;
    let times = Times::of(p);
    let mut words = format!("Attempt {}, released {}, times in {}", s.attempt, times.instant(&s.released_at), times.zone());
    let last = p.readings.readings.last().map_or(0.0, |r| r.t_s.s());
    for (_, sentence) in times.changes(0.0, last) {
        words += &format!("; {}", sentence.trim_end_matches('.').to_lowercase());
    }
    if let Some(before) = s.follows_attempt {
        words += &format!("; follows attempt {before}");
    }
    if let Some(reason) = &s.supersedes_reason {
        words += &format!("; supersedes a signed record: {reason}");
    }
    words
}

fn why(w: &Derivation, scale: &Scale) -> Why {
    let clause = [w.clause.as_str(), w.edition.as_str(), w.standing.words()]
        .iter()
        .filter(|s| !s.is_empty())
        .copied()
        .collect::<Vec<_>>()
        .join("; ");
    Why {
        figure: w.figure.clone(),
        result: scale.amount(w.result),
        sentence: w.sentence.clone(),
        formula: w.formula.clone(),
        inputs: w.inputs.iter().map(|i| [i.symbol.clone(), scale.amount(i.amount), i.meaning.clone(), i.source.clone()]).collect(),
        source: format!("{} ({})", w.rule, clause),
        rounding: w.rounding.as_ref().map(|r| format!("{} before; rounded {}", scale.amount(r.before), r.words)).unwrap_or_default(),
        governed: w.governed_by.clone().unwrap_or_default(),
        change: w.would_change.clone(),
    }
}

/// True where the record has readings of an instrument: what was planned and never read is not printed as if it had been.
fn was_read(p: &Parts, i: &Instrument) -> bool {
    let of = |t: &RecordedReading| t.struck.is_none() && t.of.as_deref() == Some(i.tag.as_str());
    let typed = p.sources.typed.iter().any(of)
        || (i.tag == p.system.gauge.tag && p.readings.pressures().next().is_some())
        || (i.tag == p.plan.thermometer_tag && p.readings.readings.iter().any(|r| r.temperature_c.is_some()));
    typed || p.sources.recorded.iter().any(|c| c.tag == i.tag && c.readings > 0)
}

/// True where nothing speaks against an instrument on the day of the hold.
fn in_date(p: &Parts, i: &Instrument) -> bool {
    // PG-1 is not PG-10: what follows the tag ends it
    let about = |o: &String| o.strip_prefix(i.tag.as_str()).is_some_and(|rest| rest.starts_with([':', ' ']));
    !p.readings.acceptance.instrument_objections.iter().any(about)
}

fn instrument(i: &Instrument, read: bool, in_date: bool, scale: &Scale) -> [String; 5] {
    let dial = Say::from(i.unit);
    let kelvin = |k: Option<f64>| k.map_or_else(String::new, |k| scale.say.warming(quantity::TemperatureDifference::from_k(k)));
    let (what, range) = match i.kind {
        InstrumentKind::Gauge => (
            "gauge",
            format!(
                "to {}, reads to {}, error {} % of scale",
                i.full_scale_pa.map(|p| dial.named(p)).unwrap_or_default(),
                i.division_pa.map(|p| AtGauge::new(dial, i.unit, Some(p)).change(p)).unwrap_or_default(),
                quantity::format::significant(100.0 * i.error_of_scale.unwrap_or(0.0), 2)
            ),
        ),
        InstrumentKind::Thermometer => ("thermometer", format!("reads to {}, error {}", kelvin(i.division_k), kelvin(i.error_k))),
        InstrumentKind::StrokeCounter => {
            ("stroke counter", format!("{} a stroke", i.stroke_m3.map_or_else(String::new, |v| scale.say.volume(v))))
        }
    };
    let what = if read { what.to_owned() } else { format!("{what}, never read") };
    let on_the_day = if in_date { "calibrated" } else { "not within it" };
    if i.owner_s {
        let said = if i.uncalibrated() {
            "not calibrated".to_owned()
        } else {
            format!("until {}; {on_the_day}, as its owner says", i.valid_until.0)
        };
        return [i.tag.clone(), what, range, "none shown".to_owned(), said];
    }
    [i.tag.clone(), what, range, i.certificate.clone(), format!("{} to {}; {on_the_day}", i.calibrated_on.0, i.valid_until.0)]
}

/// What a rule comes to; of one that is only said, that.
fn result_words(r: &judge::acceptance::RuleResult) -> &'static str {
    if r.counts == judge::acceptance::Counts::Said { r.counts.words() } else { r.result.words() }
}

fn event_words(e: &record::sealed::RecordedEvent, scale: &Scale) -> String {
    let mut words = e.kind.words().to_owned();
    if let Some(place) = e.place {
        words += &format!(", {}", place.words());
    }
    if let Some(n) = e.looked {
        words += &format!(", {n} looked at");
    }
    let figure = scale.figure(e);
    for more in [figure.as_str(), e.of.as_deref().unwrap_or_default()].into_iter().filter(|w| !w.is_empty()) {
        words += &format!(", {more}");
    }
    words
}
