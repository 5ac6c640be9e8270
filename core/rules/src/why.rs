//! Answers to *why?*, made when asked for.

use crate::consequences::lines;
use crate::derivation::{Amount, Derivation, Dimension};
use crate::derive::demand_of;
use crate::plan;
use crate::rule::{Rule, Standing};
use crate::system::{Derived, Refusal, System};
use crate::{gauge, window};
use serde::{Deserialize, Serialize};

/// Rules that stand where a basis names none.
pub const RULES: &[&Rule] = &[&OWNERS_HOLD];

/// The owner's hold.
pub const OWNERS_HOLD: Rule = Rule {
    id: "HOLD-OWNER",
    sentence: "Where no rule for the length of the hold is known, the owner's figure counts.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "hold_owner_basis_missing_an_empty_cell_asks_for_the_owners_figure",
};

/// A figure that can be asked *why?*.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub enum Figure {
    /// least pressure at every part
    Required,
    /// least pressure at the highest point of a main
    RequiredHighest,
    /// lower bound at the gauge
    Lower,
    /// upper bound at the gauge
    Upper,
    /// planned pressure
    Planned,
    /// look pressure
    Look,
    /// stop line
    StopLine,
    /// relief set pressure
    Relief,
    /// alarm
    Alarm,
    /// range of the gauge
    GaugeRange,
    /// floor of the hold
    Hold,
    /// limit of one part
    PartLimit(String),
    /// one line of what follows
    Line(String),
}

/// Figures that the project's answers touch, by the name in an address, with their words.
pub const TOUCHED: [(&str, &str); 10] = [
    ("required", "required pressure"),
    ("lower", "lower bound"),
    ("upper", "upper bound"),
    ("hold", "least hold"),
    ("gauge-range", "gauge range"),
    ("relief", "relief setting"),
    ("alarm", "alarm"),
    ("line:manifold", "manifold proof pressure"),
    ("line:chloride", "chloride limit"),
    ("line:pretest", "low gas test"),
];

impl Figure {
    /// The figures of a whole system, without those of single parts.
    pub const WHOLE: [(Self, &'static str); 11] = [
        (Self::Required, "required"),
        (Self::RequiredHighest, "required-highest"),
        (Self::Lower, "lower"),
        (Self::Upper, "upper"),
        (Self::Planned, "planned"),
        (Self::Look, "look"),
        (Self::StopLine, "stop-line"),
        (Self::Relief, "relief"),
        (Self::Alarm, "alarm"),
        (Self::GaugeRange, "gauge-range"),
        (Self::Hold, "hold"),
    ];

    /// From its name in an address: one of [`Self::WHOLE`], or `part:TAG`.
    pub fn from_name(name: &str) -> Option<Self> {
        match name.strip_prefix("part:") {
            Some(tag) => Some(Self::PartLimit(tag.to_owned())),
            None if name.starts_with("line:") => Some(Self::Line(name["line:".len()..].to_owned())),
            None => Self::WHOLE.into_iter().find(|(_, n)| *n == name).map(|(f, _)| f),
        }
    }
}

/// The derivation of one figure; none when the system has no such figure (a window that is empty has no relief).
///
/// # Errors
/// When the system cannot be derived at all.
pub fn why(system: &System, derived: &Derived, figure: &Figure) -> Result<Option<Derivation>, Refusal> {
    Ok(match figure {
        Figure::Required => Some(demand_of(system)?.least.why),
        Figure::RequiredHighest => system.demand()?.highest.map(|h| h.why),
        Figure::Lower => Some(bound(system, derived, true)),
        Figure::Upper => Some(bound(system, derived, false)),
        Figure::Hold => {
            let result = Amount::new(derived.hold_floor_s.s(), Dimension::TimeS);
            let demand = system.demand()?;
            let of_basis = demand.entry.hold_floor(demand.gas);
            let why = match &demand.entry.hold {
                Some(hold) if of_basis == Some(derived.hold_floor_s) => {
                    Derivation::new("least hold", &hold.rule, result, "floor of the basis")
                }
                Some(hold) => Derivation::new("least hold", &hold.rule, result, "the longest that basis, project and owner ask"),
                None => Derivation::new("least hold", &OWNERS_HOLD, result, "the owner's figure"),
            };
            let why = match of_basis {
                Some(floor) => why.with("t_floor", "floor of the basis", Amount::new(floor.s(), Dimension::TimeS), "basis of this test"),
                None => why,
            };
            let project = system.specification.answer("hold").minutes;
            let why = match (project, system.basis.agreed_hold_s) {
                (Some(minutes), _) => why.with(
                    "t_project",
                    "hold of the project",
                    Amount::new(minutes * 60.0, Dimension::TimeS),
                    system.specification.source("hold"),
                ),
                (None, Some(agreed)) => why.with("t_owner", "the owner's hold", Amount::new(agreed.s(), Dimension::TimeS), "as entered"),
                (None, None) => why,
            };
            let why = match system.basis.owners_fall {
                Some(fall) => {
                    why.with("t_fall", "time of the owner's fall", Amount::new(fall.within_s.s(), Dimension::TimeS), "as entered")
                }
                None => why,
            };
            Some(why.would_change("The owner may ask for more, never for less."))
        }
        Figure::PartLimit(tag) => {
            let Some(part) = system.parts.iter().find(|p| p.tag == *tag) else { return Ok(None) };
            system.limits_of(part, &system.demand()?)?.into_iter().next().map(|l| l.why.governed_by(tag))
        }
        Figure::Line(key) => {
            let demand = demand_of(system)?;
            lines::lines(system, &demand, derived).into_iter().find(|(l, _)| l.key == *key).and_then(|(_, why)| why)
        }
        Figure::Look => match &derived.day {
            Some(day) => Some(look(system, derived, day)?),
            None => None,
        },
        _ => derived.day.as_ref().and_then(|day| of_the_day(system, derived, day, figure)),
    })
}

fn simple(figure: &str, rule: &Rule, result: Amount, formula: &str) -> Derivation {
    Derivation::new(figure, rule, result, formula)
}

fn division_words(system: &System, direction: &str) -> String {
    format!("{direction} to the gauge's readable division of {}", system.at_gauge().change(system.gauge.division_pa))
}

fn bound(system: &System, d: &Derived, lower: bool) -> Derivation {
    let tag = if lower { &d.lower_part } else { &d.upper_part };
    let part = d.parts.iter().find(|p| p.tag == *tag);
    let (at_part, elevation) =
        part.map_or((d.required_pa, quantity::Length::ZERO), |p| (if lower { p.required_pa } else { p.limit_pa }, p.elevation_m));
    let m = |z: quantity::Length| Amount::new(z.m(), Dimension::LengthM);
    let base = if lower {
        simple("lower bound at the gauge", &window::LOWER, Amount::gauge(d.lower_readable_pa), "p_gauge = p_req − ρ · g · (z_gauge − z)")
            .with("p_req", "least pressure at the governing part", Amount::gauge(at_part), "basis of this test")
            .rounded(Amount::gauge(d.lower_pa), division_words(system, "up"))
            .would_change(format!("A lower place for {tag}, a higher gauge, or another requirement."))
    } else {
        simple("upper bound at the gauge", &window::UPPER, Amount::gauge(d.upper_shown_pa), "p_gauge = p_max − ρ · g · (z_gauge − z)")
            .with(
                "p_max",
                "greatest pressure at the governing part",
                Amount::gauge(at_part),
                part.map_or(String::new(), |p| format!("{} ({})", p.limit_words, p.limit_rule)),
            )
            .rounded(
                Amount::gauge(d.upper_pa),
                "down to a tenth of the gauge's readable division, or to the least step that is shown; the stop line is rounded to the division itself",
            )
            .would_change(format!("A stronger part in place of {tag}, or {tag} out of the test."))
    };
    base.with("z", &format!("height of {tag}"), m(elevation), "as entered")
        .with("z_gauge", &format!("height of {}", system.gauge.tag), m(system.gauge.elevation_m), "as entered")
        .with("ρ", "density of the column", Amount::new(d.density_kg_m3.kg_m3(), Dimension::DensityKgM3), system.density_source())
        .with("g", "gravity, m/s²", Amount::number(quantity::STANDARD_GRAVITY), "standard gravity")
        .governed_by(tag)
}

/// The pressure of the look: by the basis at the part, brought to the gauge.
fn look(system: &System, d: &Derived, day: &plan::DayPressures) -> Result<Derivation, Refusal> {
    let demand = demand_of(system)?;
    let p = Amount::gauge;
    Ok(simple("pressure of the look", &plan::LOOK, p(day.look_pa), "look = lower − (p_req − p_look), at most planned")
        .with(
            "p_look",
            "look by the basis, where it applies",
            p(demand.look.pressure),
            format!("{}: {}", demand.look.why.rule, demand.look.why.formula),
        )
        .with("p_req", "least pressure by the basis, where it applies", p(d.required_pa), "basis of this test")
        .with("lower", "lower bound at the gauge", p(d.lower_pa), "window")
        .with("planned", "planned pressure", p(day.planned_pa), "plan")
        .would_change("A basis that lowers the pressure before the look."))
}

fn of_the_day(system: &System, d: &Derived, day: &plan::DayPressures, figure: &Figure) -> Option<Derivation> {
    let p = Amount::gauge;
    let s = &system.settings;
    let fall = Amount::new(d.predicted_fall_pa.pa(), Dimension::PressureDifferencePa);
    Some(match figure {
        Figure::Planned => {
            let mut why = simple("planned pressure", &plan::PLANNED, p(day.planned_pa), "planned = lower + settling + cooling · dp/dT")
                .with("lower", "lower bound at the gauge", p(d.lower_pa), "window")
                .with("fall", "settling and cooling predicted", fall, "settings of this test");
            if let Some(per_k) = d.pressure_per_kelvin {
                why = why
                    .with(
                        "dp/dT",
                        "change of pressure per kelvin",
                        Amount::new(per_k, Dimension::PressurePerKelvinPaPerK),
                        if system.basis.medium.gas().is_some() {
                            "reference equation of the gas, closed system"
                        } else {
                            "IAPWS-95 and Lamé, closed system"
                        },
                    )
                    .with(
                        "ΔT",
                        "cooling expected over the hold",
                        Amount::new(s.expected_cooling_k.k(), Dimension::TemperatureDifferenceK),
                        "settings of this test",
                    );
            }
            why.rounded(p(d.lower_pa + d.predicted_fall_pa), division_words(system, "up"))
                .would_change("Less cooling expected, a finer gauge, or another lower bound.")
        }
        Figure::StopLine => simple("stop line", &plan::STOP_LINE, p(day.stop_line_pa), "stop = upper − gauge error")
            .with("upper", "upper bound at the gauge", p(d.upper_pa), "window")
            .with(
                "error",
                "error of the gauge",
                Amount::new(system.gauge.error().pa(), Dimension::PressureDifferencePa),
                format!("{} certificate: {:.2} % of full scale", system.gauge.tag, 100.0 * system.gauge.error_of_scale),
            )
            .rounded(p(d.upper_pa - system.gauge.error()), division_words(system, "down"))
            .would_change("A more accurate gauge, or another upper bound."),
        Figure::Relief => {
            let set = day.relief_set_pa?;
            let gas = system.basis.medium.gas().is_some();
            let school = plan::relief_school(system, &system.demand().ok()?);
            let why = if gas {
                simple(
                    "relief set pressure",
                    &plan::RELIEF_GAS,
                    p(set),
                    "set = min(planned + min(345 kPa, 0.1 · planned), upper / (1 + a))",
                )
            } else {
                simple("relief set pressure", &plan::RELIEF, p(set), "set = min(f · planned + Δ, upper / (1 + a))")
                    .with(
                        "f",
                        "relief set over test pressure",
                        Amount::number(school.factor.unwrap_or(1.0)),
                        system.specification.source("relief_liquid"),
                    )
                    .with(
                        "Δ",
                        "added to it",
                        Amount::new(school.plus.as_ref().map_or(0.0, |c| c.pressure.pa()), Dimension::PressureDifferencePa),
                        system.specification.source("relief_liquid"),
                    )
            };
            why.with("planned", "planned pressure", p(day.planned_pa), "plan")
                .with("upper", "upper bound at the gauge", p(d.upper_pa), "window")
                .with("a", "accumulation", Amount::number(s.relief_accumulation), "relief valve's certificate, or 10 % by default")
                .rounded(
                    p(plan::relief_by_rule(day.planned_pa, gas, school).min(d.upper_pa.times(1.0 / (1.0 + s.relief_accumulation)))),
                    division_words(system, "down"),
                )
                .would_change("A valve with less accumulation, or another upper bound.")
        }
        Figure::Alarm => simple("alarm", &plan::ALARM, p(day.alarm_pa), "alarm = (planned + min(stop line, relief set)) / 2")
            .with("planned", "planned pressure", p(day.planned_pa), "plan")
            .with("stop", "stop line", p(day.stop_line_pa), "plan")
            .with(
                "set",
                "relief set pressure",
                p(day.relief_set_pa.unwrap_or(day.stop_line_pa)),
                if day.relief_set_pa.is_some() { "plan" } else { "none fits, so the stop line" },
            )
            .rounded(
                p(quantity::GaugePressure::from_pa(
                    0.5 * (day.planned_pa.pa() + day.stop_line_pa.min(day.relief_set_pa.unwrap_or(day.stop_line_pa)).pa()),
                )),
                division_words(system, "down"),
            )
            .would_change("Another planned pressure, stop line or relief setting."),
        Figure::GaugeRange => {
            let offer = d.gauge_offer.as_ref()?;
            let school = system.specification.answer("gauge_range");
            let (low, high) = (school.low.unwrap_or(f64::NAN), school.high.unwrap_or(f64::NAN));
            simple("least full scale of the gauge", &gauge::RANGE, p(offer.least_pa), "full scale = f · planned")
                .with(
                    "f",
                    "least multiple",
                    Amount::number(low),
                    format!("{}; {}", school.words, system.specification.source("gauge_range")),
                )
                .with(
                    "f_max",
                    "greatest multiple",
                    Amount::number(high),
                    format!("greatest full scale {}", system.say().down(offer.most_pa)),
                )
                .with("planned", "planned pressure", p(day.planned_pa), "plan")
                .would_change("Another school of ranges.")
        }
        _ => return None,
    })
}
