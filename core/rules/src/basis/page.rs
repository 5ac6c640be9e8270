//! The book of bases as a page to read: made from the data, so that a value changed there changes here.

use super::book::Bases;
use super::bound::Bound;
use super::entry::{Applies, Asked, Entry, MostAt, Pressures, RatioOf, WallOf};
use crate::limits;
use crate::rule::Cited;
use std::fmt::Write;
use terms::Term;

fn formula(e: &Entry, bound: &Bound) -> String {
    bound.formula(&|b| e.symbol(b))
}

fn pressures(e: &Entry, p: Option<&Pressures>, refused: Option<&String>) -> String {
    let Some(p) = p.filter(|_| refused.is_none()) else {
        return refused.cloned().unwrap_or_else(|| "no rule known: refused".to_owned());
    };
    let mut words = match &p.least {
        Some(least) => format!("`{}`", formula(e, least)),
        None => "the owner's figure".to_owned(),
    };
    for (what, bound) in [("at the highest point", &p.least_highest), ("agreed at least", &p.floor), ("at most", &p.most)] {
        if let Some(bound) = bound {
            let _ = write!(words, "; {what} `{}`", formula(e, bound));
        }
    }
    if let Some(look) = &p.first_look {
        let _ = write!(words, "; first look at {} at most", look.words);
    }
    words
}

fn upper(e: &Entry) -> String {
    let wall = match e.walls.wall {
        WallOf::Minimum => "minimum wall (nominal less 12.5 % and corrosion)".to_owned(),
        w => format!("{} wall", w.word()),
    };
    let mut words = format!("stress {:.0} % of yield, {wall}", 100.0 * e.walls.share);
    if (e.walls.gas_share - e.walls.share).abs() > 1e-9 {
        let _ = write!(words, "; with gas {:.0} %", 100.0 * e.walls.gas_share);
    }
    if let Some(seats) = e.seats {
        let _ = write!(words, "; closed seats {} · rating (metal), {} · rating (resilient)", seats.metal_seated, seats.resilient);
    }
    words
}

/// Least figure that may be agreed with a medium.
fn floor(e: &Entry, p: Option<&Pressures>) -> Option<String> {
    let p = p?;
    p.floor.as_ref().or(p.least.as_ref()).map(|b| format!("`{}`", formula(e, b)))
}

fn floors(e: &Entry) -> String {
    let of = |what: &str, p: Option<&Pressures>| floor(e, p).map(|f| format!("{what} {f}"));
    let all: Vec<String> = [of("liquid", e.liquid.as_ref()), of("gas", e.gas.as_ref())].into_iter().flatten().collect();
    if all.is_empty() { "that of the code beneath".to_owned() } else { all.join("; ") }
}

/// What refuses a test or stops its release, beside what every basis shares.
fn refused_when(e: &Entry) -> String {
    let mut all: Vec<String> = Vec::new();
    if e.no_gas().is_some() || (e.gas.is_none() && !e.on_top) {
        all.push("filled with gas".to_owned());
    }
    if e.gas_only.is_some() {
        all.push("filled with liquid".to_owned());
    }
    for (what, p) in [("", e.liquid.as_ref()), ("with gas ", e.gas.as_ref())] {
        let Some(p) = p else { continue };
        if let Some(most) = &p.most {
            let at = if p.most_at == MostAt::Highest { " at the highest point" } else { "" };
            all.push(format!("{what}above `{}`{at}", formula(e, most)));
        }
        if let Some(most) = &p.required_most {
            all.push(format!("{what}more is asked than `{}`", formula(e, most)));
        }
    }
    if let Some(s) = &e.service {
        all.push(format!(
            "the design pressure is above {}, or the design temperature outside {:.0} to {:.0} °C",
            s.most.words, s.least_c, s.most_c
        ));
    }
    if let Some(w) = e.water {
        let above = if w.warn_above { format!("(warned above {:.0} °C)", w.most_c) } else { format!("or above {:.0} °C", w.most_c) };
        let cold = if w.not_below_surroundings { ", or colder than its surroundings" } else { "" };
        all.push(format!("the water is below {:.0} °C {above}{cold}", w.least_c));
    }
    if let Some(m) = e.metal {
        let least = m.least_c.map(|l| format!("below {l:.0} °C or ")).unwrap_or_default();
        let minimum = if m.minimum { ", or not 17 K above its minimum" } else { "" };
        all.push(format!("the metal is {least}above {:.0} °C at the look{minimum}, or its temperature is not told", m.most_c));
    }
    if e.ratio != RatioOf::None {
        all.push(format!("a material has no stress at its design temperature in the table `{}`", e.stress));
    }
    if let Some(base) = e.used {
        all.push(format!("the measured wall bears less than the {} by calculation", base.words()));
    }
    if e.asks.contains(&Asked::PlatePressure) {
        all.push("the working pressure is above the plate".to_owned());
    }
    if e.needs_wall.is_some() {
        all.push("a wall is not measured".to_owned());
    }
    if let Some(c) = &e.pretest_cap {
        all.push(format!("a low gas test before it is above {}", c.words));
    }
    if e.needs_inner.is_some() {
        all.push("the part inside the jacket is not listed".to_owned());
    }
    if all.is_empty() { "as every basis".to_owned() } else { all.join("; ") }
}

fn look(e: &Entry) -> String {
    let Some(look) = &e.look else { return "no rule known: at test pressure".to_owned() };
    let of = |b: &Option<Bound>| b.as_ref().map_or("at test pressure".to_owned(), |b| format!("`{}`", formula(e, b)));
    format!("liquid {}; gas {}", of(&look.liquid), of(&look.gas))
}

fn line(out: &mut String, what: &str, words: &str) {
    let _ = writeln!(out, "| {what} | {words} |");
}

fn entry(out: &mut String, e: &Entry, file: &str) {
    let _ = writeln!(out, "\n## {}: {}\n\n| | |\n|---|---|", e.id, e.name);
    let hold = |gas: bool| e.hold_floor(gas).map_or("no rule known: the owner's figure".to_owned(), quantity::format::span);
    let applies = match e.applies {
        Applies::EveryPart => "at every part",
        Applies::Lowest => "at the lowest point",
    };
    let ratio = match e.ratio {
        RatioOf::None => "none",
        RatioOf::LargestWithRatings => "of every material the largest, of a rated component that of its ratings",
        RatioOf::Largest => "of every material, the largest resulting pressure governs",
        RatioOf::Lowest => "the lowest of the pressure boundary; bolting only where it would pass 90 % of its yield",
        RatioOf::PrevalentPipe => "of the prevalent pipe",
    };
    if e.on_top {
        line(out, "test pressure", "the greater of the owner's figure and what the code beneath it asks");
    } else {
        line(out, "with liquid", &pressures(e, e.liquid.as_ref(), e.gas_only.as_ref()));
        line(out, "with gas", &pressures(e, e.gas.as_ref(), e.no_gas().map(str::to_owned).as_ref()));
        line(out, "applies", applies);
        line(out, "ratio of stresses", ratio);
        line(out, "floor of an agreed figure", &floors(e));
        line(out, "upper limit", &upper(e));
        line(out, "refused when", &refused_when(e));
        let (liquid, gas) = (hold(false), hold(true));
        line(out, "hold at least", &if liquid == gas || e.gas.is_none() { liquid } else { format!("{liquid}; with gas {gas}") });
        line(out, "look", &look(e));
    }
    for c in &e.conditions {
        line(out, "mind", c);
    }
    for c in &e.choices {
        let answers: Vec<String> = c.options.iter().map(|o| format!("`{}`: {}", o.key, o.words)).collect();
        line(out, &format!("`{}`: {}", c.key, c.question), &answers.join("; "));
    }
    let _ = writeln!(out, "\nFrom `core/rules/data/bases/{file}`. Rules:\n");
    for r in e.rules() {
        let clause: Vec<&str> = [r.clause(), r.edition(), r.standing().words()].into_iter().filter(|s| !s.is_empty()).collect();
        let _ = writeln!(out, "- `{}`: {} ({})", r.id, r.sentence, clause.join("; "));
    }
}

/// The whole page, in Markdown.
pub fn page(bases: &Bases) -> String {
    let mut out = String::from(
        "# Test bases\n\nMade from `core/rules/data/bases` by `cargo xtask generate`; `cargo xtask check` fails when it is stale. Clauses and factors are written from memory of the published codes or are common practice of the trade, as each rule says; none was checked against a published edition. The adopted code, the local law and a licensed or appointed person decide.\n\nWhere no rule is known the owner's figure is asked for; an empty place never means allowed. Of the answers to a question the first is the default.\n",
    );
    for (e, file) in bases.all() {
        entry(&mut out, e, file);
    }
    out += "\n## Limits of every part\n\nThe least of all that are known counts.\n\n";
    for r in limits::RULES {
        let clause: Vec<&str> = [r.clause, r.edition, r.standing.words()].into_iter().filter(|s| !s.is_empty()).collect();
        let _ = writeln!(out, "- `{}`: {} ({})", r.id, r.sentence, clause.join("; "));
    }
    out += "\n## What a project may lay down\n\nFrom `core/rules/data/schools.toml`; common practice, without a published source. Of the answers the first is the default; another needs a reason.\n\n";
    for s in crate::specification::schools() {
        let answers: Vec<&str> = s.options.iter().map(|o| &*o.words).collect();
        let _ = writeln!(out, "- `{}`, {}: {}", s.key, s.question, answers.join("; "));
    }
    out += "\n## Ways to test\n\nFrom `core/rules/data/methods.toml`, in the order of their rank; each but the first needs a reason.\n\n";
    for m in &crate::method::methods().methods {
        let said: Vec<String> = m
            .conditions
            .iter()
            .map(|c| c.words.clone())
            .chain(m.approvals.iter().map(|a| format!("Approved by the {}.", a.words)))
            .collect();
        let _ = writeln!(out, "{}. {}{}", m.rank, m.name, if said.is_empty() { String::new() } else { format!(": {}", said.join(" ")) });
    }
    out += "\n## Tables\n";
    for (name, text) in crate::library::FILES {
        let head: Vec<&str> = text.lines().take_while(|l| l.starts_with('#')).map(|l| l.trim_start_matches(['#', ' '])).collect();
        let rows = text.lines().filter(|l| !l.starts_with('#') && !l.trim().is_empty()).count().saturating_sub(1);
        let _ = writeln!(out, "\n- `core/rules/data/{name}`, {rows} rows: {}", head.join(" "));
    }
    out
}
