//! One answer in one line, with its figures apart so that a screen shows them in the reader's unit.

use crate::derivation::{Amount, Derivation, Dimension};
pub use quantity::show::Toward;
use quantity::{GaugePressure, Length, PressureDifference, Span, Temperature, Volume, VolumeFlow};
use serde::{Deserialize, Serialize};

/// A figure of a line.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Said {
    /// The amount.
    pub amount: Amount,
    /// Which way it is rounded.
    pub toward: Toward,
}

/// A question that comes up, answered in one line.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Line {
    /// Its key; `line:KEY` is the name of its figure.
    pub key: String,
    /// Step of the spine that needs it.
    pub step: String,
    /// The question.
    pub question: String,
    /// The answer; `{0}` stands for the first figure.
    pub says: String,
    /// The figures.
    pub figures: Vec<Said>,
    /// What is wrong, and what to do; absent where nothing is.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub trouble: Option<String>,
    /// True where that stops the release.
    #[serde(default)]
    pub stops: bool,
    /// Name of the figure that answers *why?*; absent where there is none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub why: Option<String>,
}

/// A line being made, with its derivation.
pub(super) struct Draft {
    line: Line,
    why: Option<Derivation>,
}

impl Draft {
    pub fn new(key: &str, step: &str, question: &str, says: impl Into<String>) -> Self {
        let line = Line {
            key: key.to_owned(),
            step: step.to_owned(),
            question: question.to_owned(),
            says: says.into(),
            figures: vec![],
            trouble: None,
            stops: false,
            why: None,
        };
        Self { line, why: None }
    }
    fn figure(mut self, amount: Amount, toward: Toward) -> Self {
        self.line.figures.push(Said { amount, toward });
        self
    }
    pub fn up(self, p: GaugePressure) -> Self {
        self.figure(Amount::gauge(p), Toward::Up)
    }
    pub fn down(self, p: GaugePressure) -> Self {
        self.figure(Amount::gauge(p), Toward::Down)
    }
    pub fn pressure(self, p: GaugePressure) -> Self {
        self.figure(Amount::gauge(p), Toward::Nearest)
    }
    pub fn named(self, p: GaugePressure) -> Self {
        self.figure(Amount::gauge(p), Toward::AsNamed)
    }
    pub fn change(self, p: PressureDifference) -> Self {
        self.figure(Amount::new(p.pa(), Dimension::PressureDifferencePa), Toward::Nearest)
    }
    pub fn volume(self, v: Volume) -> Self {
        self.figure(Amount::new(v.m3(), Dimension::VolumeM3), Toward::Nearest)
    }
    pub fn flow(self, q: VolumeFlow) -> Self {
        self.figure(Amount::new(q.m3_per_s(), Dimension::VolumeFlowM3PerS), Toward::Nearest)
    }
    pub fn time(self, t: Span) -> Self {
        self.figure(Amount::new(t.s(), Dimension::TimeS), Toward::Nearest)
    }
    pub fn length(self, l: Length, toward: Toward) -> Self {
        self.figure(Amount::new(l.m(), Dimension::LengthM), toward)
    }
    pub fn temperature(self, t: Temperature) -> Self {
        self.figure(Amount::new(t.c(), Dimension::TemperatureC), Toward::Nearest)
    }
    pub fn other(self, value: f64, dimension: Dimension) -> Self {
        self.figure(Amount::new(value, dimension), Toward::Nearest)
    }
    pub fn trouble(mut self, trouble: Option<String>) -> Self {
        self.line.trouble = trouble;
        self
    }
    /// Trouble that stops the release.
    pub fn stop(mut self, trouble: Option<String>) -> Self {
        if trouble.is_some() {
            self.line.trouble = trouble;
            self.line.stops = true;
        }
        self
    }
    /// The answer to *why?* is that of another figure.
    pub fn why_of(mut self, figure: &str) -> Self {
        self.line.why = Some(figure.to_owned());
        self
    }
    /// The answer to *why?* is its own.
    pub fn why(mut self, why: Derivation) -> Self {
        self.line.why = Some(format!("line:{}", self.line.key));
        self.why = Some(why);
        self
    }
    pub fn done(self) -> (Line, Option<Derivation>) {
        (self.line, self.why)
    }
}
