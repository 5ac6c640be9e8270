//! WINDOW-LOWER and WINDOW-UPPER: from what each part needs and bears to what the gauge may read.

use crate::rule::{Rule, Standing};
use physics::head::Column;
use quantity::{GaugePressure, Length, STANDARD_GRAVITY};

/// Rules of the window.
pub const RULES: &[&Rule] = &[&LOWER, &UPPER];

/// The lower bound.
pub const LOWER: Rule = Rule {
    id: "WINDOW-LOWER",
    sentence: "The gauge must read at least so much that every part, at its own height, sees what the basis asks for.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "window_lower_window_upper_no_pressure_inside_violates_a_part_and_none_outside_is_free",
};

/// The upper bound.
pub const UPPER: Rule = Rule {
    id: "WINDOW-UPPER",
    sentence: "The gauge may read no more than leaves every part, at its own height, within what it can bear.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "window_lower_window_upper_no_pressure_inside_violates_a_part_and_none_outside_is_free",
};

/// What one part needs and bears, at its height.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PartBounds {
    /// Height of the part.
    pub elevation: Length,
    /// Least pressure at the part.
    pub required: GaugePressure,
    /// Greatest pressure at the part.
    pub limit: GaugePressure,
}

/// The window at the gauge with the parts that govern it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Window {
    /// Least gauge reading.
    pub lower: GaugePressure,
    /// Index of the part that asks the most.
    pub lower_part: usize,
    /// Greatest gauge reading.
    pub upper: GaugePressure,
    /// Index of the part that bears the least.
    pub upper_part: usize,
}

impl Window {
    /// True when some reading suits every part.
    pub fn feasible(&self) -> bool {
        self.lower <= self.upper
    }
}

/// The window for a column of liquid.
///
/// Formula: lower = max_i [p_req,i − ρg(z_g − z_i)], upper = min_i [p_max,i − ρg(z_g − z_i)], of two fluids each over its own part of the height.
/// None for no parts.
pub fn window(parts: &[PartBounds], column: impl Into<Column>, gauge: Length) -> Option<Window> {
    let column: Column = column.into();
    let per_metre = column.density.kg_m3() * STANDARD_GRAVITY;
    let datum = per_metre * gauge.m();
    let mut lower = (f64::NEG_INFINITY, 0);
    let mut upper = (f64::INFINITY, 0);
    for (i, part) in parts.iter().enumerate() {
        let head = match column.below {
            None => per_metre * part.elevation.m() - datum,
            Some(_) => column.gained(part.elevation, gauge).pa(),
        };
        let need = part.required.pa() + head;
        let bear = part.limit.pa() + head;
        if need > lower.0 {
            lower = (need, i);
        }
        if bear < upper.0 {
            upper = (bear, i);
        }
    }
    (!parts.is_empty()).then(|| Window {
        lower: GaugePressure::from_pa(lower.0),
        lower_part: lower.1,
        upper: GaugePressure::from_pa(upper.0),
        upper_part: upper.1,
    })
}
