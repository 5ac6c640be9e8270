//! What a hold case must have to be judged at all: a file may say anything.

use crate::case::HoldCase;
use quantity::RunTime;
use std::cmp::Ordering;
use thiserror::Error;

/// Longest time in a case, s: three years. What is longer is not in seconds.
const LONGEST_S: f64 = 1e8;

/// What makes a judgement of a case meaningless, by the field.
#[derive(Debug, Clone, PartialEq, Error)]
pub enum Unusable {
    /// It ends before it starts.
    #[error("the hold must end after it starts: hold_start_s is {}, hold_end_s is {}", start.s(), end.s())]
    EndsFirst {
        /// start
        start: RunTime,
        /// end
        end: RunTime,
    },
    /// A time that is none.
    #[error("{field} is {t_s}: times are in seconds, and no more than {LONGEST_S:.0} of them")]
    Time {
        /// the field
        field: &'static str,
        /// the time, s
        t_s: f64,
    },
    /// A figure that must be above zero.
    #[error("{field} must be above zero, not {value}")]
    NotPositive {
        /// the field
        field: &'static str,
        /// the figure
        value: f64,
    },
    /// A wall that leaves no bore.
    #[error("{name}: a wall of {wall_m} m does not fit an outside diameter of {outside_m} m")]
    Wall {
        /// the segment
        name: String,
        /// its wall, m
        wall_m: f64,
        /// its outside diameter, m
        outside_m: f64,
    },
}

impl HoldCase {
    /// Nothing in it makes a judgement meaningless.
    ///
    /// # Errors
    /// Names the field and the figure.
    pub fn usable(&self) -> Result<(), Unusable> {
        let none_held = self.stopped && self.hold_end_s == self.hold_start_s;
        if !none_held && self.hold_end_s.partial_cmp(&self.hold_start_s) != Some(Ordering::Greater) {
            return Err(Unusable::EndsFirst { start: self.hold_start_s, end: self.hold_end_s });
        }
        let named = [
            ("hold_start_s", self.hold_start_s.s()),
            ("hold_end_s", self.hold_end_s.s()),
            ("heat.soak_s", self.heat.soak_s.s()),
            ("at_pressure_s", self.at_pressure_s.s()),
            ("let_out_before_s", self.let_out_before_s.map_or(0.0, |t| t.s())),
        ];
        let of_rows =
            self.readings.iter().map(|r| ("readings.t_s", r.t_s.s())).chain(self.events.iter().map(|e| ("events.t_s", e.t_s.s())));
        if let Some((field, t_s)) = named.into_iter().chain(of_rows).find(|(_, t)| !(-LONGEST_S..=LONGEST_S).contains(t)) {
            return Err(Unusable::Time { field, t_s });
        }
        let positive =
            |field, value: f64| if value > 0.0 && value.is_finite() { Ok(()) } else { Err(Unusable::NotPositive { field, value }) };
        for b in &self.bodies {
            positive("bodies.skin_lag_s", b.skin_lag_s.s())?;
            positive("bodies.fluid_lag_s", b.fluid_lag_s.s())?;
            positive("bodies.lag_factor_95", b.lag_factor_95)?;
        }
        positive("expected_pa", self.expected_pa.pa())?;
        positive("gauge.division_pa", self.gauge.division_pa.pa())?;
        positive("gauge.full_scale_pa", self.gauge.full_scale_pa.pa())?;
        positive("atmosphere_pa", self.atmosphere_pa.pa())?;
        for s in self.bodies.iter().map(|b| &b.segment) {
            positive("bodies.segment.volume_m3", s.volume_m3.m3())?;
            positive("bodies.segment.wall_m", s.wall_m.m())?;
            positive("bodies.segment.elastic.youngs_modulus_pa", s.elastic.youngs_modulus_pa.pa())?;
            if s.outside_diameter_m.m() <= 2.0 * s.wall_m.m() {
                return Err(Unusable::Wall { name: s.name.clone(), wall_m: s.wall_m.m(), outside_m: s.outside_diameter_m.m() });
            }
        }
        Ok(())
    }
}
