//! Laws of the description of the API: whoever writes a client from it must not be surprised.

use serde_json::Value;
use std::collections::BTreeSet;

fn description() -> Value {
    serde_json::to_value(server::openapi()).expect("a description")
}

/// Method, path and operation of every route.
fn operations(d: &Value) -> Vec<(String, String, Value)> {
    let paths = d["paths"].as_object().expect("paths");
    paths
        .iter()
        .flat_map(|(path, item)| item.as_object().into_iter().flatten().map(move |(m, o)| (m.to_uppercase(), path.clone(), o.clone())))
        .collect()
}

#[test]
fn every_operation_has_a_sentence_an_id_of_its_own_and_a_problem() {
    let d = description();
    let all = operations(&d);
    assert!(all.len() >= 25, "{}", all.len());
    let mut ids = BTreeSet::new();
    for (method, path, o) in &all {
        let said = o["summary"].as_str().or(o["description"].as_str()).unwrap_or_default();
        assert!(said.len() > 8, "{method} {path} says nothing of itself");
        assert!(ids.insert(o["operationId"].as_str().unwrap_or_default().to_owned()), "{method} {path} shares its id");
        let responses = o["responses"].as_object().expect("responses");
        assert!(responses.keys().any(|s| s.starts_with('2')), "{method} {path}");
        for (status, response) in responses.iter() {
            assert!(response["description"].as_str().is_some_and(|d| d.len() > 5), "{method} {path} does not say what {status} means");
        }
        for (status, response) in responses.iter().filter(|(s, _)| s.starts_with('4') || s.starts_with('5')) {
            let reference = response["content"]["application/problem+json"]["schema"]["$ref"].as_str().unwrap_or_default();
            assert!(reference.ends_with("/ProblemBody"), "{method} {path} answers {status} with {reference}");
        }
        assert!(responses.keys().any(|s| s.starts_with('4')), "{method} {path} never fails");
    }
}

#[test]
fn every_parameter_of_a_path_is_described() {
    let d = description();
    for (method, path, o) in operations(&d) {
        let named: BTreeSet<&str> = path.split('{').skip(1).filter_map(|p| p.split('}').next()).collect();
        let described: BTreeSet<&str> =
            o["parameters"].as_array().into_iter().flatten().filter(|p| p["in"] == "path").filter_map(|p| p["name"].as_str()).collect();
        assert_eq!(named, described, "{method} {path}");
    }
}

#[test]
fn what_several_people_edit_asks_for_the_version() {
    let d = description();
    let versioned: Vec<String> = operations(&d)
        .into_iter()
        .filter(|(_, _, o)| o["parameters"].as_array().into_iter().flatten().any(|p| p["name"] == "if-match"))
        .map(|(_, path, _)| path)
        .collect();
    for path in ["/api/v1/packs/{id}/plan", "/api/v1/packs/{id}/parts"] {
        assert!(versioned.iter().any(|p| p == path), "{path}");
    }
}

/// Every reference of a value.
fn references(value: &Value, into: &mut BTreeSet<String>) {
    match value {
        Value::Object(map) => {
            if let Some(Value::String(reference)) = map.get("$ref") {
                into.insert(reference.clone());
            }
            map.values().for_each(|v| references(v, into));
        }
        Value::Array(all) => all.iter().for_each(|v| references(v, into)),
        _ => {}
    }
}

#[test]
fn every_schema_that_is_named_is_there_and_says_what_it_is() {
    let d = description();
    let mut named = BTreeSet::new();
    references(&d, &mut named);
    let schemas = d["components"]["schemas"].as_object().expect("schemas");
    for reference in &named {
        let name = reference.trim_start_matches("#/components/schemas/");
        assert!(schemas.contains_key(name), "{reference} leads nowhere");
    }
    for (name, schema) in schemas {
        let described = schema["description"].is_string() || schema["oneOf"].is_array() || schema["type"] != "object";
        assert!(described, "{name} has no description");
    }
}

/// Two types of one name would be merged into one without a word.
#[test]
fn requests_and_records_do_not_share_a_name_for_a_reading() {
    let d = description();
    let schemas = &d["components"]["schemas"];
    assert!(schemas["TypedReading"]["properties"]["unit"].is_object(), "what is sent carries its unit");
    assert!(schemas["RecordedReading"]["properties"]["as_typed"].is_object(), "what is recorded carries what was typed");
}
