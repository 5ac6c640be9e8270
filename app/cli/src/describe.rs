//! What is made from the code: description of the API, schemas of the formats, the list of rules.

use anyhow::{Result, anyhow};
use rules::rule::Rule;
use serde_json::{Value, json};
use terms::Term;
use utoipa::{PartialSchema, ToSchema};

/// Prints one description.
pub fn describe(what: &str) -> Result<()> {
    let text = match what {
        "openapi" => server::openapi().to_pretty_json()?,
        "rules" => rules_page(),
        "test-bases" => rules::basis::page::page(rules::basis::book::shipped()),
        "fields" => rules::fields::page(),
        "system" => schema::<rules::system::System>(
            "A system under test, as `zero-leak derive` reads it. Pressures in Pa gauge, lengths in m, temperatures in °C.",
        )?,
        "hold-case" => schema::<judge::HoldCase>(
            "A hold with its readings, as `zero-leak judge` reads it. Pressures in Pa gauge, times in s from any origin, temperatures in °C.",
        )?,
        "run" => schema::<run::file::RunFile>(
            "A run with its release and its rows, as `zero-leak run` reads it. Pressures in Pa gauge, temperatures in °C, times RFC 3339 or µs since 1970.",
        )?,
        "sealed-record" => schema::<record::sealed::SealedRecord>(
            "A sealed record, as `zero-leak verify` reads it: RFC 8785 form, SHA-256 of each part, Ed25519 signatures.",
        )?,
        "shown" => crate::shown::table()?,
        "shown-cases" => crate::shown::cases()?,
        "rig-scenario" => schema::<rig::scenario::Scenario>(
            "A scenario of the rig, as `zero-leak rig` reads it. Pressures in Pa gauge, lengths in m, temperatures in °C, times in s.",
        )?,
        other => {
            return Err(anyhow!(
                "\"{other}\" is not described: use openapi, rules, test-bases, fields, system, hold-case, run, sealed-record or rig-scenario"
            ));
        }
    };
    crate::say::say(text.trim_end());
    Ok(())
}

/// JSON Schema (2020-12) of a type, from the same derivation as the API's.
fn schema<T: ToSchema + PartialSchema>(description: &str) -> Result<String> {
    let mut others = Vec::new();
    T::schemas(&mut others);
    let mut defs = serde_json::Map::new();
    for (name, s) in others {
        defs.insert(name, serde_json::to_value(s)?);
    }
    let mut root = serde_json::to_value(T::schema())?;
    if let Some(object) = root.as_object_mut() {
        object.insert("$schema".into(), json!("https://json-schema.org/draft/2020-12/schema"));
        object.insert("title".into(), json!(T::name()));
        object.insert("description".into(), json!(description));
        object.insert("$defs".into(), Value::Object(defs));
    }
    let text = serde_json::to_string_pretty(&root)?;
    Ok(text.replace("#/components/schemas/", "#/$defs/"))
}

fn rules_page() -> String {
    let all: Vec<&Rule> = [rules::catalogue(), system::catalogue(), pack::catalogue(), judge::catalogue()].concat();
    let mut page = String::from(
        "# Rules\n\nMade from the code by `cargo xtask generate`; `cargo xtask check` fails when it is stale. The id of a rule is one string in file, code, interface and record.\n\
         Clauses are written from memory of the published codes; none was checked against the published edition.\n\n\
         | rule | sentence | clause and edition | standing | file | test |\n|---|---|---|---|---|---|\n",
    );
    for r in all {
        let clause = [r.clause, r.edition].iter().filter(|s| !s.is_empty()).copied().collect::<Vec<_>>().join("; ");
        page += &format!("| `{}` | {} | {} | {} | `{}` | `{}` |\n", r.id, r.sentence, clause, r.standing.words(), r.file, r.test);
    }
    for (e, file) in rules::basis::book::shipped().all() {
        for r in e.rules() {
            let clause = [r.clause.as_str(), &r.edition].iter().filter(|s| !s.is_empty()).copied().collect::<Vec<_>>().join("; ");
            page += &format!(
                "| `{}` | {} | {} | {} | `core/rules/data/bases/{file}` | `{}` |\n",
                r.id,
                r.sentence,
                clause,
                r.standing.words(),
                r.test
            );
        }
    }
    page
}
