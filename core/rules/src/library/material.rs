//! Materials: yield, allowable stress by temperature, elastic data, ratings of flanges.

use super::error::TableError;
use physics::elastic::Elastic;
use quantity::{GaugePressure, Stress, Temperature};

/// One material of the table.
#[derive(Debug, Clone, PartialEq)]
pub struct Material {
    /// Short id, as in files.
    pub id: String,
    /// Name as in the code.
    pub name: String,
    /// Elastic family.
    pub family: String,
    /// Material group of B16.5; empty where unknown.
    pub flange_group: String,
    /// Specified minimum yield at test temperature; of plastics the short-term hoop stress that a test may bring. Absent where none is known.
    pub yield_pa: Option<Stress>,
    /// Allowable stress by temperature, rising; empty where none is known.
    pub allowable: Vec<(Temperature, Stress)>,
    /// Elastic data of its family.
    pub elastic: Elastic,
}

/// What the stretch of a wall grows by per e-fold of time, as a share of itself.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Creep {
    /// Expected.
    pub coefficient: f64,
    /// Its standard uncertainty.
    pub sd: f64,
}

/// How a wall behaves under pressure.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Wall {
    /// None where it does not creep.
    pub creep: Option<Creep>,
    /// Uncertainty of its stretch (95 %), as a share of itself.
    pub stretch_unc_95_rel: f64,
}

/// A value by temperature, interpolated linearly; the first column holds from −29 °C (−20 °F) up. None outside the table.
pub(super) fn interpolated(rows: &[(Temperature, f64)], t: Temperature) -> Option<f64> {
    let (first, last) = (rows.first()?, rows.last()?);
    if !(t.f() >= -20.5 && t.c() <= last.0.c() + 1e-9) {
        return None;
    }
    if t <= first.0 {
        return Some(first.1);
    }
    let pair = rows.windows(2).find(|w| t <= w[1].0).map_or((last, last), |w| (&w[0], &w[1]));
    let span = (pair.1.0 - pair.0.0).k();
    let share = if span > 0.0 { ((t - pair.0.0).k() / span).min(1.0) } else { 1.0 };
    Some(pair.0.1 + (pair.1.1 - pair.0.1) * share)
}

impl Material {
    /// Allowable stress at `t`, interpolated linearly; the first column holds from −29 °C (−20 °F) up.
    ///
    /// # Errors
    /// Outside the table, or where none is known.
    pub fn allowable(&self, t: Temperature) -> Result<Stress, TableError> {
        let rows: Vec<(Temperature, f64)> = self.allowable.iter().map(|(t, s)| (*t, s.pa())).collect();
        let Some(last) = rows.last() else { return Err(TableError::NoAllowableStress { material: self.name.clone() }) };
        interpolated(&rows, t).map(Stress::from_pa).ok_or_else(|| TableError::OutsideTable {
            what: self.name.clone(),
            asked_c: t.c(),
            most_c: last.0.c(),
        })
    }

    /// Allowable stress at test temperature: the first column.
    ///
    /// # Errors
    /// Where none is known.
    pub fn allowable_at_test(&self) -> Result<Stress, TableError> {
        self.allowable(Temperature::from_c(20.0))
    }

    /// True for stainless steels that chloride cracks.
    pub fn austenitic(&self) -> bool {
        self.family == "austenitic"
    }
}

/// Rating of a class by temperature.
#[derive(Debug, Clone, PartialEq)]
pub struct Ratings {
    pub(super) by_temperature: Vec<(Temperature, f64)>,
}

impl Ratings {
    /// At 38 °C.
    pub fn cold(&self) -> GaugePressure {
        GaugePressure::from_pa(self.by_temperature.first().map_or(f64::NAN, |r| r.1))
    }

    /// At a temperature; none outside the table.
    pub fn at(&self, t: Temperature) -> Option<GaugePressure> {
        interpolated(&self.by_temperature, t).map(GaugePressure::from_pa)
    }

    /// The hottest column, °C.
    pub fn most_c(&self) -> f64 {
        self.by_temperature.last().map_or(f64::NAN, |r| r.0.c())
    }
}
