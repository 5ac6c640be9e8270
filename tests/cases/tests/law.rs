//! The law of the empty cell: whoever empties a field that is required or has a default gets no wider window, or none at all. And two more: an agreed
//! figure lifts no cap of a code, and a part more lowers neither energy nor distance.

use cases::random::{Dice, system};
use cases::standing;
use quantity::{GaugePressure, Length, Volume};
use rules::basis::book::shipped;
use rules::fields::{Empty, FIELDS};
use rules::part::{Part, PartKind};
use rules::system::{System, derive};
use serde_json::Value;
use std::collections::BTreeMap;

/// How many releasable systems each basis and medium gives.
const OF_EACH: usize = 240;

/// Every basis with every medium that it has a rule for.
fn kinds() -> Vec<(String, bool)> {
    let mut all = Vec::new();
    for (entry, _) in shipped().all() {
        if entry.gas_only.is_none() {
            all.push((entry.id.clone(), false));
        }
        let gas = entry.gas.is_some() && (entry.no_gas().is_none() || entry.id == "fire_above_wet");
        if gas {
            all.push((entry.id.clone(), true));
        }
    }
    all
}

/// Places of the fields of a system that may be emptied: required, or with a default.
fn fields(system: &Value) -> Vec<Vec<String>> {
    let may =
        |of: &str, name: &str| FIELDS.iter().any(|f| f.of == of && f.name == name && matches!(f.empty, Empty::Required | Empty::Default));
    let mut all: Vec<Vec<String>> = Vec::new();
    let path = |parts: &[&str]| parts.iter().map(|p| (*p).to_owned()).collect::<Vec<_>>();
    // what holds fields of its own is emptied field by field
    let single = |v: &Value| !v.is_object() && !v.is_array();
    let objects = [
        ("system", vec![]),
        ("basis", vec!["basis"]),
        ("site", vec!["site"]),
        ("gauge", vec!["gauge"]),
        ("method", vec!["method"]),
        ("settings", vec!["settings"]),
    ];
    for (of, at) in objects {
        let Some(Value::Object(fields)) = at.iter().try_fold(system, |v, k| v.get(k)) else { continue };
        let eligible = fields.iter().filter(|(k, v)| may(of, k) && single(v));
        all.extend(eligible.map(|(k, _)| path(&[at.clone(), vec![k.as_str()]].concat())));
    }
    for (i, part) in system["parts"].as_array().into_iter().flatten().enumerate() {
        let Value::Object(fields) = part else { continue };
        all.extend(fields.keys().filter(|k| may("part", k)).map(|k| path(&["parts", &i.to_string(), k])));
    }
    all
}

/// The system without a field; none where it cannot even be written so.
fn without(system: &Value, path: &[String]) -> Option<System> {
    let mut emptied = system.clone();
    let (last, way) = path.split_last()?;
    let holder = way.iter().try_fold(&mut emptied, |v, k| match k.parse::<usize>() {
        Ok(i) => v.get_mut(i),
        Err(_) => v.get_mut(k),
    })?;
    holder.as_object_mut()?.remove(last)?;
    serde_json::from_value(emptied).ok()
}

fn window(s: &System) -> Option<(GaugePressure, GaugePressure)> {
    let s = standing(s);
    let d = s.derived.as_ref().filter(|_| s.releasable())?;
    Some((d.lower_pa, d.upper_pa))
}

/// It would have found most of what was allowed because nobody entered it.
#[test]
fn the_law_of_the_empty_cell() {
    let mut counted: BTreeMap<(String, bool), usize> = BTreeMap::new();
    let (mut systems, mut emptied, mut refused) = (0, 0, 0);
    let mut broken: Vec<String> = Vec::new();
    for (k, (id, gas)) in kinds().into_iter().enumerate() {
        let mut dice = Dice::new(1000 + k as u64);
        let (mut found, mut tried) = (0, 0);
        while found < OF_EACH && tried < 20 * OF_EACH {
            tried += 1;
            let s = system(&mut dice, &id, gas);
            let Some((lower, upper)) = window(&s) else { continue };
            found += 1;
            systems += 1;
            let value = serde_json::to_value(&s).unwrap();
            let all = fields(&value);
            for _ in 0..2 {
                let path = dice.of(&all).clone();
                let Some(changed) = without(&value, &path) else {
                    refused += 1;
                    continue;
                };
                emptied += 1;
                let Some((l, u)) = window(&changed) else {
                    refused += 1;
                    continue;
                };
                // the cap of a code on gas is a multiple of the line's own design pressure: emptied, nobody knows it any more, and the system's counts;
                // what is asked never falls
                let cap_unknown = gas && path.last().is_some_and(|f| f == "design_pressure_pa");
                let u = if cap_unknown { upper } else { u };
                // a millionth for the arithmetic
                if l.pa() < lower.pa() * (1.0 - 1e-9) - 0.01 || u.pa() > upper.pa() * (1.0 + 1e-9) + 0.01 {
                    broken.push(format!(
                        "{id} {}: without {} the window {lower:?} to {upper:?} becomes {l:?} to {u:?} in {value}",
                        if gas { "with gas" } else { "with liquid" },
                        path.join(".")
                    ));
                }
            }
        }
        counted.insert((id, gas), found);
    }
    assert!(broken.is_empty(), "{} of {emptied} break the law, the first:\n{}", broken.len(), broken[..broken.len().min(6)].join("\n"));
    let few: Vec<_> = counted.iter().filter(|(_, n)| **n < 200).collect();
    assert!(few.is_empty(), "too few releasable systems: {few:?}");
    assert!(
        counted.len() >= 40 && systems >= 10_000 && refused > 1_000,
        "{} kinds, {systems} systems, {refused} of {emptied} refused",
        counted.len()
    );
}

/// Whatever is agreed, the cap of a code stays where its own figure puts it.
#[test]
fn an_agreed_figure_lifts_no_cap() {
    let mut compared = 0;
    for id in ["boiler_power", "boiler_heating", "boiler_external"] {
        let mut dice = Dice::new(7);
        for _ in 0..200 {
            let mut s = system(&mut dice, id, false);
            if id == "boiler_external" {
                s.parts.truncate(1);
            }
            let Ok(plain) = derive(&s) else { continue };
            for factor in [1.01, 1.03, 1.05, 1.5, 3.0] {
                let mut higher = s.clone();
                higher.basis.agreed_pressure_pa = Some(plain.required_pa.times(factor));
                higher.basis.over_test_reason = Some("somebody likes round figures".into());
                // beyond the cap it is refused
                let Ok(d) = derive(&higher) else { continue };
                assert!(d.upper_pa.pa() <= plain.upper_pa.pa() * (1.0 + 1e-9), "{id}: {:?} above {:?}", d.upper_pa, plain.upper_pa);
                compared += 1;
            }
        }
    }
    assert!(compared > 500, "{compared}");
}

/// At the same test pressure a part more lowers neither the energy of the gas nor the distance to keep.
#[test]
fn a_part_more_lowers_no_energy() {
    let mut compared = 0;
    let mut dice = Dice::new(11);
    for _ in 0..1_000 {
        let s = system(&mut dice, "b31_3", true);
        let Ok(before) = derive(&s) else { continue };
        let mut more = s.clone();
        more.parts.push(Part {
            volume_m3: dice.chance(80).then(|| Volume::from_m3(0.5)),
            outside_diameter_m: Some(Length::from_m(0.5)),
            test_limit_pa: Some(GaugePressure::from_bar(500.0)),
            ..Part::new("one more", *dice.of(&[PartKind::Vessel, PartKind::Flange, PartKind::Hose, PartKind::Blind]), s.gauge.elevation_m)
        });
        let Ok(after) = derive(&more) else { continue };
        let (Some(a), Some(b), true) = (before.gas, after.gas, before.day.map(|d| d.planned_pa) == after.day.map(|d| d.planned_pa)) else {
            continue;
        };
        let Some(energy) = a.energy_ideal_j else { continue };
        match b.energy_ideal_j {
            Some(more) => assert!(more >= energy * (1.0 - 1e-12) && b.distance_m >= a.distance_m),
            // not known is said, and stops the release
            None => assert!(!after.objections.is_empty()),
        }
        compared += 1;
    }
    assert!(compared > 300, "{compared}");
}
