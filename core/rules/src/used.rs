//! Plant that was in service: what its measured wall bears by calculation, what it needs, and how long it lasts.

use crate::basis::Ground;
use crate::basis::bound::Base;
use crate::derivation::{Amount, Derivation, Dimension};
use crate::part::{Form, Part, PartKind};
use crate::rule::{Rule, Standing};
use crate::say::Say;
use crate::system::System;
use quantity::format::round_down;
use quantity::{GaugePressure, Length, PressureUnit, Stress, Temperature};

/// Rules of used plant.
pub const RULES: &[&Rule] = &[&MAWP, &PLATE, &LIFE];

/// Allowable pressure at the measured wall.
pub const MAWP: Rule = Rule {
    id: "USED-MAWP",
    sentence: "Used plant works at no more than its measured wall, less corrosion to the next test, bears by calculation with the allowable stress at its temperature and the efficiency of its seam; a test that stays within yield is no proof of fitness.",
    clause: "UG-27, UG-32, UG-34",
    edition: "ASME BPVC VIII-1, recent editions",
    standing: Standing::NotChecked,
    file: file!(),
    test: "used_mawp_a_worn_receiver_is_derated",
};

/// The plate.
pub const PLATE: Rule = Rule {
    id: "USED-PLATE",
    sentence: "Used plant works at no more than the pressure on its plate.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "used_plate_nobody_works_above_the_plate",
};

/// Remaining life.
pub const LIFE: Rule = Rule {
    id: "USED-LIFE",
    sentence: "The next inspection is due after half the life that the measured loss of wall leaves, at most ten years; without two dated walls, or the nominal wall and the year, no life is printed and the inspector names the date.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "used_life_life_needs_two_walls",
};

/// Longest time to the next inspection, years.
const MOST_YEARS: f64 = 10.0;
/// Factor of a flat head whose edge nobody knows (UG-34, from memory).
const FLAT: f64 = 0.33;

/// p that a wall bears at a stress (seam included), by its form. D is outside; R, L and d inside.
///
/// Cylinder p = S·E·t/(R + 0.6t); elliptical 2:1 p = 2·S·E·t/(D + 0.2t); torispherical p = S·E·t/(0.885·L + 0.1t), L the outside diameter;
/// hemispherical p = 2·S·E·t/(R + 0.2t); flat p = S·E·(t/d)²/0.33. Range: thin walls, t < R/2. Source: VIII-1 UG-27, UG-32, UG-34, from memory.
/// Example: 400 mm outside, 1.5 mm, 138 MPa, E 1: 1.038 MPa.
pub fn bears(form: Form, outside: Length, wall: Length, stress: Stress) -> GaugePressure {
    let (d, t, s) = (outside.m(), wall.m(), stress.pa());
    let inside = d - 2.0 * t;
    GaugePressure::from_pa(match form {
        Form::Cylinder => s * t / (0.5 * inside + 0.6 * t),
        Form::Elliptical => 2.0 * s * t / (inside + 0.2 * t),
        Form::Torispherical => s * t / (0.885 * d + 0.1 * t),
        Form::Hemispherical => 2.0 * s * t / (0.5 * inside + 0.2 * t),
        Form::Flat => s * (t / inside).powi(2) / FLAT,
    })
}

/// The formula of a form, in symbols.
pub const fn formula(form: Form) -> &'static str {
    match form {
        Form::Cylinder => "p = S · E · t / (R + 0.6 · t)",
        Form::Elliptical => "p = 2 · S · E · t / (D + 0.2 · t)",
        Form::Torispherical => "p = S · E · t / (0.885 · L + 0.1 · t)",
        Form::Hemispherical => "p = 2 · S · E · t / (R + 0.2 · t)",
        Form::Flat => "p = S · E · (t / d)² / 0.33",
    }
}

/// Least wall for a pressure: found by halving, since each form's pressure rises with its wall.
pub fn needs(form: Form, outside: Length, pressure: GaugePressure, stress: Stress) -> Option<Length> {
    let (mut thin, mut thick) = (0.0, 0.25 * outside.m());
    if bears(form, outside, Length::from_m(thick), stress) < pressure {
        return None;
    }
    for _ in 0..60 {
        let middle = 0.5 * (thin + thick);
        if bears(form, outside, Length::from_m(middle), stress) < pressure { thin = middle } else { thick = middle }
    }
    Some(Length::from_m(thick))
}

/// What the wall of one used part comes to.
#[derive(Debug, Clone, PartialEq)]
pub struct Worn {
    /// Tag of the part.
    pub tag: String,
    /// Allowable pressure at the wall that is left at the next test.
    pub bears: GaugePressure,
    /// Least wall for the working pressure.
    pub needs: Option<Length>,
    /// The pressure that is asked of it.
    pub asked: GaugePressure,
    /// Why it bears that.
    pub why: Derivation,
    /// Years until the wall that is needed is reached; none where nothing says how fast it wears.
    pub life_years: Option<f64>,
    /// Why it wants derating; none where it does not.
    pub life_why: Option<Derivation>,
}

impl Worn {
    /// True where more is asked than it bears.
    pub fn derates(&self) -> bool {
        crate::basis::above(self.asked, self.bears)
    }

    /// Years to the next inspection: half the life, at most ten.
    pub fn next_years(&self) -> Option<f64> {
        self.life_years.map(|l| (0.5 * l).clamp(0.0, MOST_YEARS))
    }
}

/// What a pressure that is borne is derated to: down to a tenth of the unit that people work in, to a whole psi or 10 kPa.
pub fn derate_to(bears: GaugePressure, say: Say) -> GaugePressure {
    let share = match say.unit() {
        PressureUnit::Psi => 1.0,
        PressureUnit::Kpa => 10.0,
        PressureUnit::Mpa => 0.01,
        PressureUnit::Bar | PressureUnit::KgCm2 => 0.1,
    };
    GaugePressure::from_pa(round_down(bears.pa(), say.unit().pa() * share))
}

/// The temperature that the wall is calculated at: design, that of steam at the pressure asked for a boiler, else the first column.
fn at(system: &System, part: &Part, asked: GaugePressure) -> Temperature {
    let design = part.design_temperature_c.or(system.basis.design_temperature_c);
    design
        .unwrap_or_else(|| {
            if part.kind == PartKind::Boiler {
                physics::water::saturation(asked.absolute(quantity::STANDARD_ATMOSPHERE))
            } else {
                Temperature::from_c(38.0)
            }
        })
        .max(Temperature::from_c(-29.0))
}

/// The pressure that is asked of used plant; none where the entry is not about used plant, or it is not given.
pub fn asked_of(system: &System, ground: &Ground) -> Option<GaugePressure> {
    let base: Base = ground.entry.used?;
    system.basis.given(base)
}

/// Each used part whose wall is calculated, or why its stress is not known.
pub fn worn(system: &System, ground: &Ground) -> Vec<Result<Worn, (String, String)>> {
    let Some(asked) = asked_of(system, ground) else { return vec![] };
    system.parts.iter().filter(|p| p.kind.vessel()).filter_map(|p| one(system, ground, p, asked)).collect()
}

fn one(system: &System, ground: &Ground, part: &Part, asked: GaugePressure) -> Option<Result<Worn, (String, String)>> {
    let (outside, measured, id) = (part.outside_diameter_m?, part.wall_m?, part.material.as_deref()?);
    let efficiency = part.efficiency()?;
    let refused = |e: crate::library::TableError| Some(Err((part.tag.clone(), e.say(system.say()))));
    let material = match ground.library.material(id) {
        Ok(m) => m,
        Err(e) => return refused(e),
    };
    let at = at(system, part, asked);
    let stress = match ground.library.allowable(&ground.entry.stress, material, at) {
        Ok(s) => s,
        Err(e) => return refused(e),
    };
    let form = part.form.unwrap_or_default();
    let left = measured - part.corrosion_m.unwrap_or(Length::from_m(0.0));
    let allowed = stress * efficiency;
    let bears = if left.m() > 0.0 { bears(form, outside, left, allowed) } else { GaugePressure::from_pa(0.0) };
    let needs = needs(form, outside, asked, allowed);
    let m = |l: Length| Amount::new(l.m(), Dimension::LengthM);
    let why = Derivation::new("allowable pressure at the measured wall", &MAWP, Amount::gauge(bears), formula(form))
        .with("t", "measured wall less corrosion to the next test", m(left), "as measured")
        .with("D", "outside diameter", m(outside), "as entered")
        .with(
            "S",
            &format!("allowable stress at {}", system.say().temperature(at)),
            Amount::new(stress.pa(), Dimension::StressPa),
            format!("{}, {}", material.name, ground.library.source(&ground.entry.stress, &material.id, "")),
        )
        .with("E", "efficiency of the seam", Amount::number(efficiency), "as entered; 0.7 where nobody knows it")
        .governed_by(&part.tag)
        .would_change(
            "A thicker place found by measuring again, an examined seam, a certificate of the steel, or a lower working pressure.",
        );
    let (life_years, life_why) = life(part, measured, needs).map_or((None, None), |(y, w)| (Some(y), Some(w)));
    Some(Ok(Worn { tag: part.tag.clone(), bears, needs, asked, why, life_years, life_why }))
}

/// Years until the wall that is needed is reached.
fn life(part: &Part, measured: Length, needs: Option<Length>) -> Option<(f64, Derivation)> {
    let (earlier, years, needs) = (part.earlier_wall_m?, part.years_between?, needs?);
    let lost = (earlier - measured) / Length::from_mm(1.0);
    if years <= 0.0 {
        return None;
    }
    // a wall that lost nothing lasts at least as long as the longest time between inspections allows
    let rate = lost.max(0.0) / years;
    let left = ((measured - needs).mm()).max(0.0);
    let life = if rate > 0.0 { left / rate } else { 2.0 * MOST_YEARS };
    let m = |l: Length| Amount::new(l.m(), Dimension::LengthM);
    let why = Derivation::new("remaining life, years", &LIFE, Amount::number(life), "life = (t − t_req) · years / (t_earlier − t)")
        .with("t", "measured wall", m(measured), "as measured")
        .with("t_req", "least wall for the pressure asked", m(needs), "by the formula of its form")
        .with("t_earlier", "earlier or nominal wall", m(earlier), "as entered")
        .with("years", "between the two", Amount::number(years), "as entered")
        .governed_by(&part.tag)
        .would_change("A later measurement.");
    Some((life, why))
}
