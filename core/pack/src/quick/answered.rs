//! What the answers to an object's questions make of a plan and its parts.

use super::{Ask, AskIs, QuickObject};
use quantity::bounds::{DESIGN_PRESSURE, DESIGN_TEMPERATURE, HOLD};
use quantity::parse;
use quantity::{Dimension, PressureUnit};
use serde_json::Value;
use std::collections::BTreeMap;

/// A plan, as far as the answers make it, and the cells of its parts.
#[derive(Debug, Clone, PartialEq)]
pub struct Answered {
    /// The plan.
    pub plan: Value,
    /// Cells of each part, by the name of their column.
    pub parts: Vec<BTreeMap<String, String>>,
}

/// What is missing in an answer, or wrong with it.
#[derive(Debug, Clone, PartialEq, Eq, serde::Serialize, utoipa::ToSchema)]
pub struct Missing {
    /// Key of the question.
    pub key: String,
    /// What to do.
    pub sentence: String,
}

/// Plan and parts of an object from its answers; a bare pressure is in `unit`. All that is missing at once.
///
/// # Errors
/// Says of each question what its answer lacks.
pub fn answered(object: &QuickObject, answers: &BTreeMap<String, String>, unit: PressureUnit) -> Result<Answered, Vec<Missing>> {
    let mut made = Answered { plan: object.plan.clone(), parts: object.part.clone() };
    for part in &mut made.parts {
        part.entry("height".to_owned()).or_insert_with(|| "0".to_owned());
    }
    let mut missing = Vec::new();
    for ask in &object.ask {
        let answer = answers.get(&ask.key).map_or("", |a| a.trim());
        let goes = if ask.is == AskIs::Material { object.materials(ask, answers) } else { Vec::new() };
        let unfit = ask.is == AskIs::Material && ask.materials.iter().any(|m| m == answer) && !goes.iter().any(|m| m == answer);
        if unfit {
            let sentence = "This material is none of those of the code on the plate: choose one that goes with it.".to_owned();
            missing.push(Missing { key: ask.key.clone(), sentence });
        } else if let Err(sentence) = put(&mut made, ask, answer, unit) {
            missing.push(Missing { key: ask.key.clone(), sentence });
        }
    }
    if missing.is_empty() { Ok(made) } else { Err(missing) }
}

fn put(made: &mut Answered, ask: &Ask, answer: &str, unit: PressureUnit) -> Result<(), String> {
    if ask.is == AskIs::Choice {
        return choose(made, ask, answer);
    }
    if answer.is_empty() {
        return if ask.needed.is_empty() { Ok(()) } else { Err(ask.needed.clone()) };
    }
    if ask.not.iter().any(|n| n.eq_ignore_ascii_case(answer)) {
        return Err(ask.not_says.clone());
    }
    if ask.is == AskIs::Material && !ask.materials.iter().any(|m| m == answer) {
        return Err(ask.needed.clone());
    }
    if ask.is == AskIs::Text && ask.into.iter().any(|i| MEASURED.iter().any(|c| i.ends_with(c))) && is_bare(answer) {
        return Err(format!("Write the unit after {answer}, for example {} or {}.", ask.like, ask.like_us));
    }
    let figure = match ask.is {
        AskIs::Pressure => Some(parse::gauge_pressure(&DESIGN_PRESSURE, answer, unit).map_err(|e| e.to_string())?.0.pa()),
        AskIs::Time => {
            let s = parse::amount("the time", answer, Dimension::TimeS, Some("min")).map_err(|e| e.to_string())?;
            HOLD.check(s / 60.0).map_err(|e| e.to_string())?;
            Some(s)
        }
        AskIs::Temperature => Some(parse::temperature(&DESIGN_TEMPERATURE, answer).map_err(|e| e.to_string())?.c()),
        _ => None,
    };
    for into in &ask.into {
        match into.split_once(':') {
            Some(("plan", pointer)) => set(&mut made.plan, pointer, figure.map_or_else(|| Value::from(answer), Value::from)),
            Some(("part", cell)) => {
                if let Some((part, column)) = cell.split_once(':')
                    && let Some(part) = part.parse::<usize>().ok().and_then(|i| made.parts.get_mut(i))
                {
                    part.insert(column.to_owned(), answer.to_owned());
                }
            }
            _ => {}
        }
    }
    Ok(())
}

/// Columns in which a figure without a unit could be read in several ways.
const MEASURED: [&str; 4] = [":size", ":wall", ":volume", ":length"];

/// True for a figure without a unit.
fn is_bare(text: &str) -> bool {
    text.replace(',', ".").parse::<f64>().is_ok()
}

/// Takes one of a few answers, or the one with which it begins.
fn choose(made: &mut Answered, ask: &Ask, answer: &str) -> Result<(), String> {
    let Some(option) = ask.chosen(answer) else { return Err(format!("{} Choose one of those that are offered.", ask.words)) };
    if !option.stops.is_empty() {
        return Err(option.stops.clone());
    }
    for into in &ask.into {
        if let Some(question) = into.strip_prefix("choice:") {
            set(&mut made.plan, &format!("/basis/choices/{question}"), Value::from(option.key.as_str()));
        }
    }
    for (pointer, value) in &option.sets {
        set(&mut made.plan, pointer, Value::from(value.as_str()));
    }
    Ok(())
}

/// Writes a value where a pointer says, with the tables on its way.
fn set(plan: &mut Value, pointer: &str, value: Value) {
    let mut at = plan;
    for step in pointer.split('/').filter(|s| !s.is_empty()) {
        if !at.is_object() {
            *at = Value::Object(serde_json::Map::new());
        }
        at = &mut at[step];
    }
    *at = value;
}
