//! Every object of the quick test, from its owner's answers to a window.

use formats::parts::{GridRow, read_rows};
use pack::plan::Plan;
use pack::quick::{AskIs, QuickObject, answered, objects};
use quantity::PressureUnit;
use rules::basis::book;
use rules::library::shipped;
use rules::specification::Specification;
use rules::system::{Derived, derive};
use serde_json::json;
use std::collections::BTreeMap;

/// What its owner might answer: the examples that stand beside the questions, 5 bar, and what bears three times as much.
fn answers(object: &QuickObject, us: bool) -> BTreeMap<String, String> {
    let one = |a: &pack::quick::Ask| match a.is {
        AskIs::Choice | AskIs::Seam => String::new(),
        AskIs::Pressure if object.key == "joint" => "1 bar".to_owned(),
        // its window is six per cent wide: a gauge read to a tenth of a bar needs a pressure that is not small
        AskIs::Pressure if object.key == "hired_boiler" => "16 bar".to_owned(),
        AskIs::Pressure if a.key == "test" => "12 bar".to_owned(),
        AskIs::Temperature if a.key == "cold" => "-20 °C".to_owned(),
        AskIs::Time => a.like.clone(),
        AskIs::Pressure if a.into.iter().all(|i| i.starts_with("part:")) => "24 bar".to_owned(),
        AskIs::Pressure if a.key == "plate" => "11 bar".to_owned(),
        AskIs::Pressure => "5 bar".to_owned(),
        AskIs::Temperature => "60 °C".to_owned(),
        AskIs::Material => a.materials[0].clone(),
        AskIs::Text => {
            if us {
                a.like_us.clone()
            } else {
                a.like.clone()
            }
        }
    };
    object.ask.iter().map(|a| (a.key.clone(), one(a))).collect()
}

#[test]
fn every_object_comes_from_its_owners_answers_to_a_window() {
    assert_eq!(objects().len(), 15, "the file is read whole");
    let mut wrong = Vec::new();
    for (object, us) in objects().iter().flat_map(|o| [(o, false), (o, true)]) {
        if let Err(why) = window(object, us) {
            wrong.push(format!("{}{}: {why}", object.key, if us { ", in feet" } else { "" }));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

/// Why there is no window of an object whose owner answers as the examples do.
fn window(object: &QuickObject, us: bool) -> Result<(), String> {
    let d = derived(object, &answers(object, us))?;
    if d.lower_pa > d.upper_pa || d.day.is_none() {
        return Err(format!("{} to {} bar, by {}", d.lower_pa.bar(), d.upper_pa.bar(), d.upper_part));
    }
    match d.objections.first() {
        Some(o) => Err(format!("{o:?}")),
        None => Ok(()),
    }
}

/// What follows from an owner's answers.
fn derived(object: &QuickObject, answers: &BTreeMap<String, String>) -> Result<Derived, String> {
    let made = answered(object, answers, PressureUnit::Bar).map_err(|e| format!("{e:?}"))?;
    let rows: Vec<GridRow> = made.parts.into_iter().map(|typed| GridRow { typed, ..GridRow::default() }).collect();
    let fate = read_rows(shipped(), &rows, &(1..=rows.len()).collect::<Vec<_>>(), PressureUnit::Bar);
    if let Some(p) = fate.rows.iter().flat_map(|r| &r.problems).next() {
        return Err(format!("{}: {}", p.column, p.sentence));
    }
    let parts: Vec<_> = fate.rows.into_iter().filter_map(|r| r.part).collect();
    let mut plan = made.plan;
    // as warm as is usual for such an object
    let warm = quantity::parse::temperature(&quantity::bounds::WATER_TEMPERATURE, &object.at_test).map_err(|e| e.to_string())?.c();
    let more = json!({ "claim": "both", "water_temperature_c": warm, "gauge_tag": "", "gauge_elevation_m": 0.0 });
    for (key, value) in more.as_object().into_iter().flatten() {
        plan[key] = value.clone();
    }
    plan["site"]["metal_c"] = json!(warm);
    let plan: Plan = serde_json::from_value(plan).map_err(|e| e.to_string())?;
    derive(&plan.system(&object.words, parts, &[], &Specification::default())).map_err(|e| e.to_string())
}

/// What is said beside an answer is what the basis makes of it: 5 bar become so many times 5 bar.
#[test]
fn what_an_answer_is_said_to_mean_is_what_follows_from_it() {
    let mut told = 0;
    for object in objects() {
        for (ask, option) in object.ask.iter().flat_map(|a| a.options.iter().map(move |o| (a, o))) {
            let times = match option.means.split_whitespace().next() {
                Some("twice") => 2.0,
                Some("the") if option.means.starts_with("the pressure") => 1.0,
                Some(figure) => match figure.parse::<f64>() {
                    // of a vessel the ratio of stresses comes to it: at 60 °C and at the test these steels have the same
                    Ok(times) => times,
                    Err(_) => continue,
                },
                None => continue,
            };
            let mut all = answers(object, false);
            all.insert(ask.key.clone(), option.key.clone());
            if option.key == "ped" {
                // a European plate goes with a European steel: the stresses of its code are those of its own table
                all.insert("material".to_owned(), "p265gh".to_owned());
            }
            let asked: f64 = all["pressure"].trim_end_matches(" bar").parse().unwrap();
            let d = derived(object, &all).unwrap_or_else(|e| panic!("{} {}: {e}", object.key, option.key));
            let made = d.required_pa.bar() / asked;
            assert!((made - times).abs() < 0.005, "{} {}: said {times}, is {made}", object.key, option.key);
            told += 1;
        }
    }
    assert!(told >= 12, "{told}");
}

/// Every material that is offered, with the plate that it is offered for, comes to a pressure: nobody chooses what is refused afterwards.
#[test]
fn every_material_that_is_offered_has_its_stresses() {
    let mut wrong = Vec::new();
    let mut tried = 0;
    for object in objects() {
        // each answer by itself beside the usual ones: a plate, an occasion, a past that nobody knows
        let usual = (String::new(), String::new());
        let each =
            object.ask.iter().flat_map(|a| a.options.iter().filter(|o| o.stops.is_empty()).map(move |o| (a.key.clone(), o.key.clone())));
        for (ask, option) in std::iter::once(usual).chain(each) {
            let mut all = answers(object, false);
            all.insert(ask, option.clone());
            for question in object.ask.iter().filter(|a| a.is == AskIs::Material) {
                let offered = object.materials(question, &all);
                assert!(!offered.is_empty(), "{} {option}", object.key);
                for material in offered {
                    all.insert(question.key.clone(), material.clone());
                    tried += 1;
                    let said = match derived(object, &all) {
                        Ok(d) => d.objections.iter().map(|o| o.sentence.clone()).collect(),
                        Err(e) => vec![e],
                    };
                    let none = said.into_iter().find(|e| e.contains("no allowable stress"));
                    wrong.extend(none.map(|e| format!("{} {option} {material}: {e}", object.key)));
                }
            }
        }
    }
    assert!(tried > 60 && wrong.is_empty(), "{tried}\n{}", wrong.join("\n"));
}

/// Nothing is asked that its basis does not know, and everything is asked that it needs.
#[test]
fn every_object_answers_what_its_basis_asks() {
    for object in objects() {
        let ids: Vec<String> = object
            .ask
            .iter()
            .flat_map(|a| &a.options)
            .filter_map(|o| o.sets.get("/basis/id").cloned())
            .chain(object.plan["basis"]["id"].as_str().map(str::to_owned))
            .collect();
        for id in ids {
            let (entry, _) = book::shipped().all().find(|(e, _)| e.id == id).unwrap_or_else(|| panic!("{}: no basis {id}", object.key));
            for ask in &object.ask {
                let Some(question) = ask.into.iter().find_map(|i| i.strip_prefix("choice:")) else { continue };
                let choice = entry.choices.iter().find(|c| c.key == question).unwrap_or_else(|| panic!("{id} asks no {question}"));
                assert!(ask.options.iter().all(|o| choice.options.iter().any(|c| c.key == o.key)), "{}: {question}", object.key);
            }
        }
        assert!(object.ask.iter().all(|a| a.is != AskIs::Material || a.materials.iter().all(|m| shipped().material(m).is_ok())));
        // what may be left empty says what that means
        assert!(object.ask.iter().all(|a| a.is == AskIs::Choice || !a.needed.is_empty() || !a.hint.is_empty()), "{}", object.key);
    }
}

/// All that is missing is said at once, each at its question; an owner's own word is no maker's figure; soft solder ends it.
#[test]
fn what_is_missing_is_said_at_once_and_some_answers_are_none() {
    let of = |key: &str| pack::quick::object(key).unwrap();
    let none = answered(of("exchanger_side"), &BTreeMap::new(), PressureUnit::Bar).unwrap_err();
    assert!(none.len() >= 7 && none.iter().any(|m| m.key == "differential" && m.sentence.starts_with("Ask the maker")), "{none:?}");
    let said = |key: &str, question: &str, answer: &str| {
        let mut all = answers(of(key), false);
        all.insert(question.into(), answer.into());
        answered(of(key), &all, PressureUnit::Bar).map_err(|m| m.into_iter().map(|m| (m.key, m.sentence)).collect::<Vec<_>>())
    };
    for (key, question, answer, words) in [
        ("traction_boiler", "stayed_by", "The Owner", "does not make a firebox stronger"),
        ("hose", "test_by", "me", "does not make a hose stronger"),
        ("miniature_boiler", "joined", "soft", "Soft solder lets go"),
        ("air_receiver", "plate", "", "no pressure that anybody answers for"),
        ("air_receiver", "pressure", "eight", ""),
        ("spool", "material", "pvc", "Choose the material"),
        ("miniature_boiler", "volume", "2,4", "Write the unit after 2,4, for example 2.4 L"),
    ] {
        let against = said(key, question, answer).unwrap_err();
        assert!(against.len() == 1 && against[0].0 == question && against[0].1.contains(words), "{key}: {against:?}");
    }
    let unknown = said("air_receiver", "history", "unknown").unwrap();
    assert_eq!(
        (unknown.plan["why_now"].as_str(), unknown.plan["basis"]["choices"]["code_year"].as_str()),
        (Some("unknown_history"), Some("before_mid_1999"))
    );
}
