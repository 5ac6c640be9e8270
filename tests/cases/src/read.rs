//! From the text of a case to a system.

use crate::expected::Expected;
use formats::parts;
use quantity::parse;
use quantity::{GaugePressure, Length, PressureDifference, PressureUnit, Span, Temperature, Volume, VolumeFlow};
use rules::basis::{Basis, Medium};
use rules::fluid::OtherLiquid;
use rules::gauge::Gauge;
use rules::part::Part;
use rules::system::System;

/// One case.
#[derive(Debug)]
pub struct Case {
    /// What it shows.
    pub title: String,
    /// File and line.
    pub place: String,
    /// How its figures were worked out.
    pub hand: String,
    /// The system.
    pub system: System,
    /// What is expected.
    pub expected: Vec<Expected>,
}

/// Every case of a text.
///
/// # Errors
/// Names file, line and what cannot be read.
pub fn cases(file: &str, text: &str) -> Result<Vec<Case>, String> {
    let mut all = Vec::new();
    let mut block: Vec<(usize, &str)> = Vec::new();
    for (i, line) in text.lines().enumerate() {
        if line.starts_with("== ") && !block.is_empty() {
            all.push(case(file, &block)?);
            block.clear();
        }
        if line.starts_with("== ") || !block.is_empty() {
            block.push((i + 1, line));
        }
    }
    if !block.is_empty() {
        all.push(case(file, &block)?);
    }
    Ok(all)
}

fn case(file: &str, block: &[(usize, &str)]) -> Result<Case, String> {
    let (line, title) = block[0];
    let place = format!("{file}:{line}");
    let mut hand = Vec::new();
    let mut system = System::new(
        title.trim_start_matches("== "),
        Basis::default(),
        vec![],
        Gauge {
            tag: "G".into(),
            elevation_m: Length::from_m(0.0),
            full_scale_pa: None,
            division_pa: PressureDifference::from_bar(0.01),
            error_of_scale: 0.0025,
            unit: PressureUnit::Bar,
        },
    );
    let (mut header, mut rows, mut lines): (Vec<String>, Vec<Vec<String>>, Vec<usize>) = (vec![], vec![], vec![]);
    let mut expected = Vec::new();
    for (n, line) in &block[1..] {
        let bad = |what: String| format!("{file}:{n}: {what}");
        let text = line.trim();
        if let Some(note) = text.strip_prefix('#') {
            hand.push(note.trim().to_owned());
        } else if let Some(e) = text.strip_prefix("expect ") {
            expected.push(Expected::read(e).map_err(bad)?);
        } else if text.contains('|') {
            let cells = text.split('|').map(|c| c.trim().to_owned()).collect();
            if header.is_empty() {
                header = cells;
            } else {
                rows.push(cells);
                lines.push(*n);
            }
        } else if let Some((key, value)) = text.split_once(':') {
            set(&mut system, key.trim(), value.trim()).map_err(bad)?;
        } else if !text.is_empty() {
            return Err(bad(format!("\"{text}\" cannot be read")));
        }
    }
    let fate = parts::read(rules::library::shipped(), &header, &rows, &lines);
    for row in &fate.rows {
        if let Some(p) = row.problems.first() {
            return Err(format!("{file}:{}: {}: {}", row.line, p.column, p.sentence));
        }
    }
    if !fate.ignored_columns.is_empty() {
        return Err(format!("{place}: columns {} mean nothing", fate.ignored_columns.join(", ")));
    }
    system.parts = fate.parts().unwrap_or_default();
    Ok(Case { title: system.title.clone(), place, hand: hand.join(" "), system, expected })
}

fn pressure(text: &str) -> Result<GaugePressure, String> {
    parse::gauge_pressure(&quantity::bounds::READING_PRESSURE, text, PressureUnit::Bar).map(|p| p.0).map_err(|e| e.to_string())
}

fn celsius(text: &str) -> Result<Temperature, String> {
    parse::temperature(&quantity::bounds::DESIGN_TEMPERATURE, text).map_err(|e| e.to_string())
}

fn number(text: &str) -> Result<f64, String> {
    let plain = text.split_whitespace().next().unwrap_or("").replace('−', "-");
    plain.parse().map_err(|_| format!("\"{text}\" begins with no figure"))
}

/// "22 bar at 38 °C": a pressure, and a temperature where one follows.
fn conditions(text: &str) -> Result<(Option<GaugePressure>, Option<Temperature>), String> {
    match text.split_once(" at ") {
        Some((p, t)) => Ok((Some(pressure(p)?), Some(celsius(t)?))),
        None => Ok((Some(pressure(text)?), None)),
    }
}

fn liquid(text: &str) -> Result<OtherLiquid, String> {
    let mut fields = text.split(',').map(str::trim);
    let name = fields.next().unwrap_or("").to_owned();
    let density = quantity::Density::from_kg_m3(number(fields.next().unwrap_or(""))?);
    let mut liquid = OtherLiquid {
        name,
        density_kg_m3: density,
        compressibility_per_pa: None,
        expansion_per_k: None,
        flammable: false,
        flash_point_c: None,
        freezes_c: None,
        chloride_ppm: None,
    };
    for field in fields {
        match field.split_once(' ') {
            Some(("freezes", t)) => liquid.freezes_c = Some(Temperature::from_c(number(t)?)),
            Some(("chloride", p)) => liquid.chloride_ppm = Some(number(p)?),
            Some(("flashes", t)) => (liquid.flammable, liquid.flash_point_c) = (true, Some(Temperature::from_c(number(t)?))),
            _ if field == "burns" => liquid.flammable = true,
            _ => return Err(format!("\"{field}\" of the liquid cannot be read")),
        }
    }
    Ok(liquid)
}

fn gauge(g: &mut Gauge, text: &str) -> Result<(), String> {
    for field in text.split(',').map(str::trim) {
        match field.split_once(' ') {
            Some(("division", p)) => g.division_pa = PressureDifference::from_pa(pressure(p)?.pa()),
            Some(("scale", p)) => g.full_scale_pa = Some(pressure(p)?),
            Some((z, "m")) => g.elevation_m = Length::from_m(number(z)?),
            _ => return Err(format!("\"{field}\" of the gauge cannot be read")),
        }
    }
    Ok(())
}

/// One line of a case: a field of the system by the name that people give it.
fn set(system: &mut System, key: &str, value: &str) -> Result<(), String> {
    let b = &mut system.basis;
    match key {
        "basis" => value.clone_into(&mut b.id),
        "on top of" => b.on_top_of = Some(value.to_owned()),
        "medium" => {
            b.medium = match value {
                "air" => Medium::Air,
                "nitrogen" => Medium::Nitrogen,
                "water" => Medium::Liquid,
                other => return Err(format!("\"{other}\" is no medium")),
            }
        }
        "design" => (b.design_pressure_pa, b.design_temperature_c) = conditions(value)?,
        "design temperature" => b.design_temperature_c = Some(celsius(value)?),
        "mawp" => {
            let (p, t) = conditions(value)?;
            (b.allowable_pressure_pa, b.design_temperature_c) = (p, t.or(b.design_temperature_c));
        }
        "working" => b.working_pressure_pa = Some(pressure(value)?),
        "working high" => b.working_high_pa = Some(pressure(value)?),
        "plate" => b.plate_pressure_pa = Some(pressure(value)?),
        "external" => b.external_difference_pa = Some(pressure(value)?),
        "agreed" => b.agreed_pressure_pa = Some(pressure(value)?),
        "reason" => b.over_test_reason = Some(value.to_owned()),
        "hold" => b.agreed_hold_s = Some(Span::from_minutes(number(value)?)),
        "answer" => {
            let (k, v) = value.split_once('=').ok_or("an answer is written \"key = answer\"")?;
            b.choices.insert(k.trim().to_owned(), v.trim().to_owned());
        }
        "worked in" => system.worked_in = PressureUnit::from_text(value).ok_or("no unit of pressure")?,
        "water" => system.water_temperature_c = celsius(value)?,
        "metal" => system.site.metal_c = Some(celsius(value)?),
        "mdmt" => system.site.minimum_metal_c = Some(celsius(value)?),
        "surroundings" => system.site.surroundings_c = Some(celsius(value)?),
        "chloride" => system.site.chloride_ppm = Some(number(value)?),
        "stroke" => system.site.stroke_m3 = Some(Volume::from_ml(number(value)?)),
        "pump" => system.site.pump_flow_m3_per_s = Some(VolumeFlow::from_m3_per_s(number(value)? / 6e4)),
        "liquid" => system.liquid = Some(liquid(value)?),
        "gas share" => system.method.gas_share = Some(number(value)?),
        "water line" => system.method.water_line_m = Some(Length::from_m(number(value)?)),
        "pretest" => system.pretest_pa = Some(pressure(value)?),
        "pretest permitted by" => value.clone_into(&mut system.pretest_permitted_by),
        "history" => system.unknown_history = value == "unknown",
        "cooling" => system.settings.expected_cooling_k = quantity::TemperatureDifference::from_k(number(value)?),
        "gauge" => gauge(&mut system.gauge, value)?,
        other => return Err(format!("\"{other}\" is no field of a case")),
    }
    Ok(())
}

/// The parts of a system by tag.
pub fn part<'a>(system: &'a System, tag: &str) -> Option<&'a Part> {
    system.parts.iter().find(|p| p.tag == tag)
}
