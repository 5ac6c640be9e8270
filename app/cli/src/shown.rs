//! The table by which figures are shown, for the screens, and cases by which both are held to it.

use anyhow::Result;
use quantity::dimension::{By, TABLE};
use quantity::show::{AtGauge, Figures, Toward, amount, free_decimals};
use quantity::words::WORDS;
use quantity::{Dimension, GaugePressure, LengthUnit, PressureDifference, PressureUnit, TemperatureUnit, Units, VolumeUnit};
use serde_json::{Value, json};

const TOWARD: [Toward; 3] = [Toward::Nearest, Toward::Up, Toward::Down];

/// Every unit, and every word for one.
pub fn table() -> Result<String> {
    let pressures: serde_json::Map<String, Value> = PressureUnit::ALL
        .into_iter()
        .map(|u| Ok((key(&u)?, json!({ "pa": u.pa(), "symbol": u.symbol(), "decimals": free_decimals(u) }))))
        .collect::<Result<_>>()?;
    let scales: Vec<Value> = TABLE
        .iter()
        .map(|(dimension, by, scales)| {
            let ends: Vec<Value> = scales
                .iter()
                .map(|s| {
                    let below = if s.below.is_finite() { json!(s.below) } else { Value::Null };
                    json!({ "below": below, "factor": s.factor, "offset": s.offset, "symbol": s.symbol, "said": s.said, "exact": s.exact })
                })
                .collect();
            let (axis, unit) = match by {
                By::All => (Value::Null, Value::Null),
                By::Temperature(t) => (json!("temperature"), json!(t)),
                By::Length(l) => (json!("length"), json!(l)),
                By::Volume(v) => (json!("volume"), json!(v)),
            };
            json!({ "dimension": dimension, "by": axis, "unit": unit, "scales": ends })
        })
        .collect();
    Ok(serde_json::to_string_pretty(&json!({ "pressures": pressures, "scales": scales, "words": WORDS }))?)
}

fn key(unit: &impl serde::Serialize) -> Result<String> {
    Ok(serde_json::to_value(unit)?.as_str().unwrap_or_default().to_owned())
}

/// Figures over all dimensions, sets of units, divisions and ways of rounding, as they are shown.
pub fn cases() -> Result<String> {
    let mut at_gauge = Vec::new();
    for dial in PressureUnit::ALL {
        for division in [0.01, 0.02, 0.05, 0.1, 0.2, 0.25, 0.5, 1.0, 2.0, 5.0, 10.0] {
            for unit in PressureUnit::ALL {
                for (figure, toward) in [25.75, 29.976, 0.0, -0.4, 137.5, 0.125].into_iter().zip(TOWARD.into_iter().cycle()) {
                    let show = AtGauge { dial, division: PressureDifference::from_pa(division * dial.pa()), unit };
                    let pa = figure * dial.pa();
                    at_gauge.push(json!([dial, show.division.pa(), unit, pa, toward, show.figure(GaugePressure::from_pa(pa), toward)]));
                }
            }
        }
    }
    let sets = [
        Units::default(),
        Units {
            pressure: PressureUnit::Psi,
            temperature: TemperatureUnit::Fahrenheit,
            length: LengthUnit::Foot,
            volume: VolumeUnit::UsGallon,
            ..Units::default()
        },
        Units { pressure: PressureUnit::Kpa, volume: VolumeUnit::ImperialGallon, ..Units::default() },
        PressureUnit::Mpa.into(),
        PressureUnit::KgCm2.into(),
    ];
    let dimensions: Vec<Dimension> = TABLE.iter().map(|r| r.0).chain([Dimension::StressPa, Dimension::PressurePerKelvinPaPerK]).collect();
    let mut amounts = Vec::new();
    for units in sets {
        for dimension in &dimensions {
            for (value, toward) in [0.0, 1e-9, 3.4e-7, 2.5e-5, 0.00711, 0.4999, 0.5, 1.0, 18.5, 89.96, 271.0, 5400.0, 1.355e8, -12.34]
                .into_iter()
                .zip(TOWARD.into_iter().cycle())
            {
                for figures in [Figures::Said, Figures::Exact] {
                    let exact = figures == Figures::Exact;
                    amounts.push(json!([units, dimension, value, exact, toward, amount(value, *dimension, &units, figures, toward)]));
                }
            }
        }
    }
    Ok(serde_json::to_string(&json!({ "at_gauge": at_gauge, "amounts": amounts }))?)
}
