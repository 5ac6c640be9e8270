//! A pressure that a rule gives: the greatest or the least of terms, each a factor on a named pressure with a constant added.

use quantity::GaugePressure;
use serde::{Deserialize, Deserializer, Serialize};

/// A pressure that a rule multiplies.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Base {
    /// internal design pressure
    Design,
    /// working or operating pressure; at the lowest point of a main
    Working,
    /// working pressure at the highest point of a main
    WorkingHigh,
    /// maximum allowable (working) pressure
    Allowable,
    /// pressure on the plate
    Plate,
    /// external differential pressure
    External,
    /// figure that the owner, inspector or authority agrees to
    Agreed,
    /// the test pressure itself, as agreed where it is agreed
    Test,
    /// the test pressure that the code itself asks, whatever was agreed
    Code,
}

impl Base {
    /// All.
    pub const ALL: [Self; 9] = [
        Self::Design,
        Self::Working,
        Self::WorkingHigh,
        Self::Allowable,
        Self::Plate,
        Self::External,
        Self::Agreed,
        Self::Test,
        Self::Code,
    ];

    /// Symbol in a formula.
    pub const fn symbol(self) -> &'static str {
        match self {
            Self::Design => "P",
            Self::Working => "p_w",
            Self::WorkingHigh => "p_w,high",
            Self::Allowable => "MAWP",
            Self::Plate => "p_plate",
            Self::External => "Δp_ext",
            Self::Agreed => "p_agreed",
            Self::Test => "p_test",
            Self::Code => "p_code",
        }
    }

    /// In words.
    pub const fn words(self) -> &'static str {
        match self {
            Self::Design => "design pressure",
            Self::Working => "working pressure",
            Self::WorkingHigh => "working pressure at the highest point",
            Self::Allowable => "maximum allowable pressure",
            Self::Plate => "pressure on the plate",
            Self::External => "external pressure difference",
            Self::Agreed => "agreed pressure",
            Self::Test => "test pressure",
            Self::Code => "test pressure that the code asks",
        }
    }
}

/// A constant with the unit in which the rule has it.
#[derive(Debug, Clone, PartialEq)]
pub struct Constant {
    /// As written: "60 psi".
    pub words: String,
    /// Its value.
    pub pressure: GaugePressure,
}

impl<'de> Deserialize<'de> for Constant {
    fn deserialize<D: Deserializer<'de>>(d: D) -> Result<Self, D::Error> {
        let words = String::deserialize(d)?;
        let (figure, unit) = words.split_once(' ').unwrap_or((&words, ""));
        let figure: f64 = figure.parse().map_err(|_| serde::de::Error::custom(format!("\"{words}\" begins with no figure")))?;
        let unit: quantity::PressureUnit = quantity::PressureUnit::from_text(unit)
            .ok_or_else(|| serde::de::Error::custom(format!("\"{words}\" ends with no unit of pressure")))?;
        Ok(Self { pressure: GaugePressure::from_pa(figure * unit.pa()), words })
    }
}

/// One term: factor · of · ratio + plus, or of / over.
#[derive(Debug, Clone, PartialEq, Default, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Term {
    /// Multiplies `of`.
    pub factor: Option<f64>,
    /// Divides `of`.
    pub over: Option<f64>,
    /// What is multiplied.
    pub of: Option<Base>,
    /// True where the ratio of stresses multiplies too.
    #[serde(default)]
    pub ratio: bool,
    /// Added.
    pub plus: Option<Constant>,
}

/// Which of the terms counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Pick {
    /// the greatest
    #[default]
    Greatest,
    /// the least
    Least,
}

/// The greatest or the least of terms.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Bound {
    /// Which counts.
    #[serde(default)]
    pub pick: Pick,
    /// The terms.
    pub terms: Vec<Term>,
}

fn plain(figure: f64) -> String {
    figure.to_string()
}

impl Term {
    /// What it multiplies with, 1 where nothing is written.
    pub fn multiplier(&self) -> f64 {
        self.factor.unwrap_or(1.0) / self.over.unwrap_or(1.0)
    }

    fn value(&self, of: &dyn Fn(Base) -> Option<GaugePressure>, ratio: f64) -> Result<f64, Base> {
        let base = match self.of {
            Some(base) => of(base).ok_or(base)?.pa() * self.multiplier() * if self.ratio { ratio } else { 1.0 },
            None => 0.0,
        };
        Ok(base + self.plus.as_ref().map_or(0.0, |c| c.pressure.pa()))
    }

    fn formula(&self, symbol: &dyn Fn(Base) -> String) -> String {
        let mut parts = Vec::new();
        if let Some(base) = self.of {
            let mut product = Vec::new();
            if let Some(f) = self.factor.filter(|f| (f - 1.0).abs() > 1e-9) {
                product.push(plain(f));
            }
            product.push(symbol(base));
            if self.ratio {
                product.push("S_T/S".to_owned());
            }
            let over = self.over.map(|o| format!(" / {}", plain(o))).unwrap_or_default();
            parts.push(product.join(" · ") + &over);
        }
        parts.extend(self.plus.as_ref().map(|c| c.words.clone()));
        parts.join(" + ")
    }
}

impl Bound {
    /// The pressure.
    ///
    /// # Errors
    /// Names the pressure that is not known.
    pub fn value(&self, of: &dyn Fn(Base) -> Option<GaugePressure>, ratio: f64) -> Result<GaugePressure, Base> {
        let values = self.terms.iter().map(|t| t.value(of, ratio)).collect::<Result<Vec<f64>, Base>>()?;
        let picked = match self.pick {
            Pick::Greatest => values.into_iter().fold(f64::NEG_INFINITY, f64::max),
            Pick::Least => values.into_iter().fold(f64::INFINITY, f64::min),
        };
        Ok(GaugePressure::from_pa(picked))
    }

    /// The formula, without its left side: "1.5 · P · S_T/S", "max(60 psi, 1.5 · MAWP)".
    pub fn formula(&self, symbol: &dyn Fn(Base) -> String) -> String {
        let terms: Vec<String> = self.terms.iter().map(|t| t.formula(symbol)).collect();
        match (terms.as_slice(), self.pick) {
            ([one], _) => one.clone(),
            (many, Pick::Greatest) => format!("max({})", many.join(", ")),
            (many, Pick::Least) => format!("min({})", many.join(", ")),
        }
    }

    /// Pressures that it multiplies, each once.
    pub fn bases(&self) -> Vec<Base> {
        let mut all: Vec<Base> = self.terms.iter().filter_map(|t| t.of).collect();
        all.sort_unstable();
        all.dedup();
        all
    }

    /// True where a ratio of stresses multiplies.
    pub fn has_ratio(&self) -> bool {
        self.terms.iter().any(|t| t.ratio)
    }
}
