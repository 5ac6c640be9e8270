//! What the loading of a site is made of: its people, packs, registers and runs that are booked afterwards.

use crate::client::{Person, id};
use crate::holds::{MadeHold, rfc3339};
use crate::people::DemoPerson;
use anyhow::{Context, Result};
use serde_json::{Value, json};
use time::{Duration, OffsetDateTime};

/// The people who load the site.
pub(crate) struct Crew {
    pub(crate) engineer: Person,
    pub(crate) supervisor: Person,
    pub(crate) reader: Person,
    pub(crate) inspector: Person,
    pub(crate) witness: Person,
    pub(crate) owner: Person,
    pub(crate) boiler_owner: Person,
    pub(crate) passwords: Vec<DemoPerson>,
    pub(crate) now: OffsetDateTime,
}

impl Crew {
    pub(crate) fn password(&self, name: &str) -> &str {
        self.passwords.iter().find(|p| p.sign_in == name).map_or("", |p| &p.password)
    }
    pub(crate) fn by_name(&self, name: &str) -> &Person {
        match name {
            "engineer" => &self.engineer,
            "supervisor" => &self.supervisor,
            "inspector" => &self.inspector,
            "witness" => &self.witness,
            "owner" => &self.owner,
            _ => &self.boiler_owner,
        }
    }
}

/// A plan for process piping, everyone named.
pub(crate) fn piping(design_bar: f64, design_c: f64, gauge: &str, gauge_m: f64) -> Value {
    json!({
        "object": "process_piping", "claim": "both", "why_now": "new", "relied_on_by": "the owner's integrity authority", "run": "record",
        "basis": { "id": "b31_3", "design_pressure_pa": design_bar * 1e5, "design_temperature_c": design_c },
        "water_temperature_c": 15.0, "restraint": "free", "gauge_tag": gauge, "gauge_elevation_m": gauge_m,
        "thermometer_tag": "TT-11", "thermometer_place": "water", "hold_s": 3600.0, "schedule": "quarters", "permit_number": "",
        "people": { "performs": "supervisor", "inspects": "inspector", "witnesses": "witness", "accepts": "owner" },
    })
}

/// Columns of a row in the order in which it is written here; others by name, as "seam = full".
const COLUMNS: [&str; 18] = [
    "tag",
    "kind",
    "height",
    "size",
    "wall",
    "length",
    "material",
    "class",
    "rating",
    "limit",
    "volume",
    "seal",
    "restraint",
    "bend",
    "test pressure",
    "proven",
    "seat",
    "corrosion",
];

/// Rows of the grid, a line each, its cells between bars.
pub(crate) fn rows(text: &str) -> Vec<Value> {
    let row = |line: &str| {
        let mut typed = serde_json::Map::new();
        for (place, cell) in line.split('|').map(str::trim).enumerate().filter(|(_, c)| !c.is_empty()) {
            let (column, text) = cell.split_once(" = ").map_or((COLUMNS.get(place).copied().unwrap_or_default(), cell), |(c, t)| (c, t));
            typed.insert(column.to_owned(), json!(text));
        }
        json!({ "typed": typed })
    };
    text.lines().map(str::trim).filter(|l| !l.is_empty()).map(row).collect()
}

pub(crate) async fn make(person: &Person, number: &str, title: &str, form: &str, plan: &Value, parts: &str) -> Result<String> {
    let pack = id();
    person
        .put(&format!("/packs/{pack}"), &json!({ "number": number, "title": title, "form": form, "plan": plan, "rows": rows(parts) }))
        .await
        .with_context(|| title.to_owned())?;
    Ok(pack)
}

pub(crate) async fn punch(crew: &Crew, pack: &str, number: &str, category: &str, text: &str, owner: &str, cleared: bool) -> Result<()> {
    let body = json!({ "number": number, "category": category, "text": text, "owner": owner, "cleared": cleared });
    crew.inspector.keep(pack, "punch", &id(), &body).await
}

/// Adds boundary items that are set; returns their ids with their bodies.
pub(crate) async fn boundary(crew: &Crew, pack: &str, items: &[(&str, &str, &str)]) -> Result<Vec<(String, Value)>> {
    let mut out = Vec::new();
    for (tag, kind, place) in items {
        let body = json!({ "tag": tag, "kind": kind, "place": place, "set_for_test": true, "put_back": false });
        let item = id();
        crew.supervisor.keep(pack, "boundary", &item, &body).await?;
        out.push((item, body));
    }
    Ok(out)
}

/// A run that is booked afterwards.
pub(crate) struct Booked<'a> {
    pub(crate) crew: &'a Crew,
    pub(crate) person: &'a Person,
    pub(crate) pack: String,
    pub(crate) attempt: String,
    pub(crate) start: OffsetDateTime,
}

impl<'a> Booked<'a> {
    pub(crate) async fn release(crew: &'a Crew, person: &'a Person, pack: &str, start: OffsetDateTime) -> Result<Self> {
        let attempt = id();
        person.put(&format!("/packs/{pack}/attempts/{attempt}"), &json!({ "released_at": rfc3339(start) })).await?;
        Ok(Self { crew, person, pack: pack.to_owned(), attempt, start })
    }

    pub(crate) async fn event(&self, minute: i64, kind: &str, place: Option<&str>, note: &str) -> Result<()> {
        let body = json!({ "kind": kind, "at": rfc3339(self.start + Duration::minutes(minute)), "place": place, "note": note });
        self.person.put(&format!("/attempts/{}/events/{}", self.attempt, id()), &body).await.map(|_| ())
    }

    /// A look at one class of places.
    pub(crate) async fn look(&self, minute: i64, place: &str, looked: u32) -> Result<()> {
        let body = json!({ "kind": "look_done", "at": rfc3339(self.start + Duration::minutes(minute)), "place": place, "looked": looked, "note": "" });
        self.person.put(&format!("/attempts/{}/events/{}", self.attempt, id()), &body).await.map(|_| ())
    }

    /// Filled, every step reached by `minute`, pump off at `off`.
    pub(crate) async fn raise(&self, steps: i64, minute: i64, off: i64) -> Result<()> {
        self.event(5, "filled", None, "vents free of bubbles for 5 min").await?;
        for i in 1..=steps {
            self.event(5 + i * (minute - 10) / steps, "step_reached", None, "").await?;
        }
        self.event(off, "pump_off", None, "").await
    }

    pub(crate) async fn typed(&self, minute: i64, hold: &MadeHold) -> Result<()> {
        let readings = hold.typed(self.start + Duration::minutes(minute));
        self.person.put(&format!("/attempts/{}/readings", self.attempt), &json!({ "readings": readings })).await.map(|_| ())
    }

    pub(crate) async fn per_kelvin(&self) -> Result<f64> {
        let view = self.crew.engineer.get(&format!("/packs/{}", self.pack)).await?;
        Ok(view["derived"]["pressure_per_kelvin"].as_f64().unwrap_or(2e5) / 1e5)
    }

    pub(crate) async fn planned_bar(&self) -> Result<f64> {
        let view = self.crew.engineer.get(&format!("/packs/{}", self.pack)).await?;
        view["derived"]["day"]["planned_pa"].as_f64().map(|p| p / 1e5).context("no planned pressure")
    }

    pub(crate) async fn restore(&self, minute: i64, items: &[(String, Value)]) -> Result<()> {
        let zero = json!({ "id": id(), "at": rfc3339(self.start + Duration::minutes(minute)), "channel": "pressure", "text": "0 bar" });
        self.person.put(&format!("/attempts/{}/readings", self.attempt), &json!({ "readings": [zero] })).await?;
        let view = self.crew.engineer.get(&format!("/packs/{}", self.pack)).await?;
        let liquid = view["derived"]["medium"] == "liquid";
        for (i, kind) in ["released", "vent_opened", if liquid { "drained" } else { "air_proved" }].into_iter().enumerate() {
            self.event(minute + 10 * i64::try_from(i).unwrap_or(0), kind, None, "").await?;
        }
        for (item, body) in items {
            let mut back = body.clone();
            back["put_back"] = json!(true);
            self.crew.supervisor.keep(&self.pack, "boundary", item, &back).await?;
        }
        Ok(())
    }

    pub(crate) async fn sign(&self, acts: &[(&str, &str)]) -> Result<()> {
        for (act, name) in acts {
            let body = json!({ "act": act, "password": self.crew.password(name) });
            let signed = self.crew.by_name(name).put(&format!("/attempts/{}/signatures/{}", self.attempt, id()), &body).await;
            if let Err(e) = signed {
                let judged = self.judgement().await?;
                return Err(e.context(format!("{}: {judged}", self.pack)));
            }
        }
        Ok(())
    }

    /// What the judge says of the run, in one line.
    async fn judgement(&self) -> Result<String> {
        let view = self.crew.engineer.get(&format!("/packs/{}", self.pack)).await?;
        let attempts = view["attempts"].as_array().cloned().unwrap_or_default();
        let judged = attempts.last().map(|a| a["judgement"].clone()).unwrap_or_default();
        let claims: Vec<&str> = judged["verdicts"].as_array().into_iter().flatten().filter_map(|v| v["sentence"].as_str()).collect();
        Ok(format!(
            "{} {} {}",
            view["number"].as_str().unwrap_or_default(),
            judged["sentence"].as_str().unwrap_or_default(),
            claims.join(" ")
        ))
    }
}
