//! What a case expects, and how it is held against what came out.

use crate::Standing;
use quantity::{GaugePressure, PressureUnit, parse};

/// One expectation.
#[derive(Debug, Clone, PartialEq)]
pub enum Expected {
    /// A bound at the gauge, within half of its last digit, and the part that sets it.
    Bound {
        /// True for the lower.
        lower: bool,
        /// The figure.
        pressure: GaugePressure,
        /// Half of its last digit, Pa.
        within_pa: f64,
        /// The part.
        by: Option<String>,
    },
    /// Nothing stands against it.
    Released,
    /// No gauge reading suits every part.
    Empty,
    /// It is refused, or its release is stopped, by a rule, at a part.
    Against {
        /// True where nothing is derived at all.
        refused: bool,
        /// The rule.
        rule: String,
        /// The part.
        part: Option<String>,
    },
    /// Used plant is to be derated to this.
    Derate(GaugePressure),
    /// Energy of the gas, MJ.
    EnergyMj(f64),
    /// Distance to keep, m.
    DistanceM(f64),
    /// First stop of a gas test.
    FirstStop(GaugePressure),
    /// Some sentence that stands against it says this.
    Says(String),
}

fn pressure(text: &str) -> Result<GaugePressure, String> {
    parse::gauge_pressure(&quantity::bounds::READING_PRESSURE, text, PressureUnit::Bar).map(|p| p.0).map_err(|e| e.to_string())
}

/// Half of the last digit of a figure with its unit, Pa.
fn half_digit(text: &str) -> f64 {
    let (figure, unit) = text.trim().split_once(' ').unwrap_or((text, "bar"));
    let decimals = figure.split_once('.').map_or(0, |(_, d)| d.len());
    let unit = PressureUnit::from_text(unit).map_or(1e5, PressureUnit::pa);
    0.5 * 10f64.powi(-i32::try_from(decimals).unwrap_or(0)) * unit
}

impl Expected {
    /// From its line, without "expect".
    ///
    /// # Errors
    /// Says what cannot be read.
    pub fn read(text: &str) -> Result<Self, String> {
        let (what, rest) = text.trim().split_once(' ').unwrap_or((text.trim(), ""));
        let figure = || rest.split_whitespace().next().and_then(|v| v.parse::<f64>().ok()).ok_or(format!("\"{rest}\" is no figure"));
        Ok(match what {
            "lower" | "upper" => {
                let (figure, by) = rest.split_once(" by ").map_or((rest, None), |(f, by)| (f, Some(by.trim().to_owned())));
                Self::Bound { lower: what == "lower", pressure: pressure(figure)?, within_pa: half_digit(figure), by }
            }
            "released" => Self::Released,
            "empty" => Self::Empty,
            "refused" | "stopped" => {
                let (rule, part) = rest.split_once(" at ").map_or((rest, None), |(r, p)| (r, Some(p.trim().to_owned())));
                Self::Against { refused: what == "refused", rule: rule.trim().to_owned(), part }
            }
            "derate" => Self::Derate(pressure(rest)?),
            "energy" => Self::EnergyMj(figure()?),
            "distance" => Self::DistanceM(figure()?),
            "first-stop" => Self::FirstStop(pressure(rest)?),
            "says" => Self::Says(rest.to_owned()),
            other => return Err(format!("nobody can expect \"{other}\"")),
        })
    }

    /// Why it does not hold; none where it does.
    pub fn missed(&self, s: &Standing) -> Option<String> {
        let nothing = || Some(format!("nothing is derived: {}", s.sentences.join(" ")));
        let near = |what: &str, got: f64, want: f64, within: f64| {
            ((got - want).abs() > within).then(|| format!("{what} is {got}, not {want} ± {within}"))
        };
        match self {
            Self::Released => (!s.releasable()).then(|| format!("stopped by {:?}: {}", s.against, s.sentences.join(" "))),
            Self::Empty => match &s.derived {
                None => nothing(),
                Some(d) => d.conflict.is_none().then(|| "some pressure suits every part".to_owned()),
            },
            Self::Against { refused, rule, part } => {
                let there = s.against.iter().any(|(r, p, _)| r == rule && (part.is_none() || p == part));
                let kind = *refused == s.derived.is_none();
                (!there || !kind).then(|| {
                    format!(
                        "{:?} stand against it ({}): {}",
                        s.against,
                        if kind { "as such" } else { "in another way" },
                        s.sentences.join(" ")
                    )
                })
            }
            Self::Says(words) => {
                (!s.sentences.iter().any(|t| t.replace('\u{a0}', " ").contains(words.as_str()))).then(|| s.sentences.join(" "))
            }
            Self::Bound { lower, pressure, within_pa, by } => {
                let Some(d) = &s.derived else { return nothing() };
                let (got, part) = if *lower { (d.lower_pa, &d.lower_part) } else { (d.upper_pa, &d.upper_part) };
                let what = if *lower { "lower bound, Pa," } else { "upper bound, Pa," };
                near(what, got.pa(), pressure.pa(), within_pa * 1.05)
                    .or_else(|| by.as_ref().filter(|by| *by != part).map(|by| format!("{what} is set by {part}, not by {by}")))
            }
            Self::Derate(p) => {
                let Some(d) = &s.derived else { return nothing() };
                d.derate_to_pa
                    .map_or_else(|| Some("nothing is to be derated".to_owned()), |got| near("derated to, Pa,", got.pa(), p.pa(), 1.0))
            }
            Self::EnergyMj(mj) => {
                let Some(g) = s.derived.as_ref().and_then(|d| d.gas.as_ref()) else { return nothing() };
                let got = g.energy_ideal_j.map_or(f64::NAN, |e| e.j() / 1e6);
                if (got - mj).abs() <= 0.01 * mj { None } else { Some(format!("{got} MJ, not {mj}")) }
            }
            Self::DistanceM(m) => {
                let Some(g) = s.derived.as_ref().and_then(|d| d.gas.as_ref()) else { return nothing() };
                let got = g.distance_m.map_or(f64::NAN, |d| d.m());
                if (got - m).abs() <= 0.5 { None } else { Some(format!("{got} m, not {m}")) }
            }
            Self::FirstStop(p) => {
                let Some(g) = s.derived.as_ref().and_then(|d| d.gas.as_ref()) else { return nothing() };
                near("first stop, Pa,", g.first_stop_pa.pa(), p.pa(), 100.0)
            }
        }
    }
}
