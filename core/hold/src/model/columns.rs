//! The linear model about one path: the Jacobian of what every reading should show.

use super::blocks::Block;
use super::content::Content;
use super::grid::Grid;
use super::path::{self, Path, Values, Weighed};
use super::prior::{Surroundings, Unknown};
use super::shapes;
use super::thermal::{self, Responses};
use crate::input::{Hold, Place};
use nalgebra::{DMatrix, DVector};

const G: f64 = 9.806_65;

/// One instrument's readings as the fit sees them.
#[derive(Debug, Clone)]
pub(crate) struct ChannelRows {
    /// Index of the record's channel.
    pub(crate) channel: usize,
    /// Blocks that it read in.
    pub(crate) blocks: Vec<usize>,
    /// Times of comparison that it read at (index into the grid's times).
    pub(crate) at: Vec<usize>,
    /// What the model expects, Pa or °C.
    pub(crate) expected: DVector<f64>,
    /// Answer to each unknown.
    pub(crate) jacobian: DMatrix<f64>,
    /// Answer to each candidate.
    pub(crate) candidates: DMatrix<f64>,
}

/// Everything that does not change between linearisations.
pub(crate) struct Frame<'a> {
    /// The hold.
    pub(crate) hold: &'a Hold,
    /// Blocks of readings.
    pub(crate) blocks: &'a [Block],
    /// Grid of times.
    pub(crate) grid: &'a Grid,
    /// Surroundings.
    pub(crate) surroundings: &'a Surroundings,
    /// Mass balance.
    pub(crate) content: &'a Content,
    /// Pressure at the start as centre, Pa absolute.
    pub(crate) start_pa: f64,
    /// About where a leak starts, s.
    pub(crate) leak_from: f64,
    /// Air about the gauges less 20 °C at each time of comparison, when somebody read it.
    pub(crate) gauge_air: Option<&'a [f64]>,
}

/// A leak that starts within the hold, beyond the unknowns: its mean and the shift of its start.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) enum Candidate {
    /// mean loss of a leak that starts at this time, m³/s
    LeakFrom(f64),
    /// the same leak for each second that it starts later, per m³/s of its mean
    StartShift(f64),
}

impl Frame<'_> {
    /// Index among the times of comparison of each block (the first time is the start of the hold).
    fn time_of(&self, block: usize) -> usize {
        // blocks at or before nil share the first time
        let t = self.blocks[block].t;
        if t <= 0.0 { 0 } else { self.grid.times.partition_point(|g| *g < t).min(self.grid.times.len() - 1) }
    }

    /// The linear model of every channel about `values`.
    pub(crate) fn linear(&self, values: &Values<'_>, candidates: &[Candidate]) -> (Path, Vec<ChannelRows>) {
        let path =
            path::solve(self.hold, self.grid, self.surroundings, self.content, values, (self.start_pa, self.leak_from), Weighed::Yes);
        let (jacobian, shared) = self.shared_jacobian(&path, values);
        let of_candidates = self.candidate_answers(&path, candidates);
        let mut rows = Vec::new();
        let gauges = self.hold.gauges.len();
        for channel in 0..gauges + self.hold.thermometers.len() {
            // air over ground that nothing here feels says nothing
            let idle =
                channel >= gauges && self.hold.thermometers[channel - gauges].place == Place::Ambient && !self.surroundings.has_air();
            let read: Vec<usize> = (0..self.blocks.len()).filter(|b| !idle && self.blocks[*b].cells[channel].count > 0.0).collect();
            let at: Vec<usize> = read.iter().map(|b| self.time_of(*b)).collect();
            rows.push(if channel < gauges {
                self.gauge_rows(channel, (read, at), &path, values, &jacobian, &of_candidates)
            } else {
                self.thermometer_rows(channel - gauges, (read, at), &path, values, &shared, candidates.len())
            });
        }
        (path, rows)
    }

    /// Answer of a gauge to what is its own.
    fn gauge_column(&self, g: usize, unknown: Unknown, at: &[usize], path: &Path) -> Option<Vec<f64>> {
        let drift = |k: usize, kind| {
            let u = self.grid.times[k] / self.hold.length_s;
            if kind == 0 { u } else { 2.0 * u * (1.0 - u) }
        };
        match unknown {
            Unknown::GaugeOffset(i) if i == g => Some(vec![1.0; at.len()]),
            Unknown::GaugeSpan(i) if i == g => Some(at.iter().map(|k| path.p[*k] - path.p[0]).collect()),
            Unknown::GaugeTemperature(i) if i == g => self.gauge_air.map(|air| at.iter().map(|k| air[*k]).collect()),
            Unknown::GaugeDrift(i, kind) if i == g => Some(at.iter().map(|k| drift(*k, kind)).collect()),
            _ => None,
        }
    }

    /// What a gauge shows on a path, Pa.
    fn gauge_expected(&self, g: usize, at: &[usize], path: &Path, values: &Values<'_>) -> DVector<f64> {
        let head = if super::path_is_water(self.hold) { 998.0 * G * self.hold.gauges[g].elevation_m } else { 0.0 };
        let mut expected = DVector::from_iterator(at.len(), at.iter().map(|k| path.p[*k] - self.hold.atmosphere_pa - head));
        for (j, unknown) in values.unknowns.iter().enumerate() {
            if let Some(column) = self.gauge_column(g, *unknown, at, path) {
                expected.iter_mut().zip(column).for_each(|(e, v)| *e += v * values.x[j]);
            }
        }
        expected
    }

    /// What a thermometer shows on a path, °C.
    fn thermometer_expected(&self, t: usize, at: &[usize], path: &Path, values: &Values<'_>) -> DVector<f64> {
        let offset = values.of(Unknown::ThermometerOffset(t));
        let series: Vec<f64> = match self.hold.thermometers[t].place {
            Place::Skin(i) => at.iter().map(|k| path.heat[i].skin[*k]).collect(),
            Place::Fluid(i) => at.iter().map(|k| path.heat[i].fluid[*k]).collect(),
            Place::Ambient => {
                let amounts = values.unknowns.iter().position(|u| matches!(u, Unknown::Surroundings(_)));
                let amounts = amounts.map(|first| values.x.rows(first, self.surroundings.count()));
                let moved = amounts.map(|x| &self.surroundings.ambient * x);
                at.iter().map(|k| self.surroundings.ambient_centre + moved.as_ref().map_or(0.0, |m| m[*k])).collect()
            }
        };
        DVector::from_iterator(at.len(), series.into_iter().map(|v| v + offset))
    }

    /// The same rows at other values: what is expected is solved anew, the Jacobian stays.
    pub(crate) fn expect(&self, values: &Values<'_>, rows: &mut [ChannelRows]) {
        let path = path::solve(self.hold, self.grid, self.surroundings, self.content, values, (self.start_pa, self.leak_from), Weighed::No);
        let gauges = self.hold.gauges.len();
        for r in rows {
            r.expected = match r.channel.checked_sub(gauges) {
                None => self.gauge_expected(r.channel, &r.at, &path, values),
                Some(t) => self.thermometer_expected(t, &r.at, &path, values),
            };
        }
    }

    fn gauge_rows(
        &self,
        g: usize,
        (blocks, at): (Vec<usize>, Vec<usize>),
        path: &Path,
        values: &Values<'_>,
        jacobian: &DMatrix<f64>,
        candidates: &DMatrix<f64>,
    ) -> ChannelRows {
        let mut own = jacobian.select_rows(at.iter());
        for (j, unknown) in values.unknowns.iter().enumerate() {
            if let Some(column) = self.gauge_column(g, *unknown, &at, path) {
                own.column_mut(j).copy_from_slice(&column);
            }
        }
        let expected = self.gauge_expected(g, &at, path, values);
        ChannelRows { channel: g, blocks, candidates: candidates.select_rows(at.iter()), at, expected, jacobian: own }
    }

    fn thermometer_rows(
        &self,
        t: usize,
        (blocks, at): (Vec<usize>, Vec<usize>),
        path: &Path,
        values: &Values<'_>,
        shared: &[HeatAnswers],
        candidates: usize,
    ) -> ChannelRows {
        let thermometer = &self.hold.thermometers[t];
        let n = values.unknowns.len();
        let mut jacobian = DMatrix::zeros(at.len(), n);
        let expected = self.thermometer_expected(t, &at, path, values);
        match thermometer.place {
            Place::Skin(i) | Place::Fluid(i) => {
                let skin = matches!(thermometer.place, Place::Skin(_));
                for (columns, response) in &shared[i].parts {
                    let m = if skin { &response.skin } else { &response.fluid };
                    for (c, j) in columns.iter().enumerate() {
                        let of_shape = m.column(c);
                        jacobian.column_mut(*j).iter_mut().zip(&at).for_each(|(a, k)| *a = of_shape[*k]);
                    }
                }
            }
            Place::Ambient => {
                if let Some(first) = values.unknowns.iter().position(|u| matches!(u, Unknown::Surroundings(_))) {
                    let of_shapes = self.surroundings.ambient.select_rows(at.iter());
                    jacobian.columns_mut(first, of_shapes.ncols()).copy_from(&of_shapes);
                }
            }
        }
        for (j, unknown) in values.unknowns.iter().enumerate() {
            if *unknown == Unknown::ThermometerOffset(t) {
                jacobian.column_mut(j).fill(1.0);
            }
        }
        ChannelRows {
            channel: self.hold.gauges.len() + t,
            blocks,
            candidates: DMatrix::zeros(at.len(), candidates),
            at,
            expected,
            jacobian,
        }
    }

    /// The Jacobian of the pressure for what all gauges share, and the heat of it for the thermometers.
    fn shared_jacobian(&self, path: &Path, values: &Values<'_>) -> (DMatrix<f64>, Vec<HeatAnswers>) {
        let m = self.grid.times.len();
        let mut jacobian = DMatrix::zeros(m, values.unknowns.len());
        let volume = self.hold.volume_m3() * values.of(Unknown::Volume).exp();
        for (j, unknown) in values.unknowns.iter().enumerate() {
            let column: Option<Vec<f64>> = match *unknown {
                Unknown::StartPressure => Some(path.of_start()),
                // the same loss from a larger volume lowers the pressure less
                Unknown::Volume => Some((0..m).map(|k| path.lost_density * path.lost[k] / (volume * path.mass[k].per_pa)).collect()),
                Unknown::Stretch(i) => Some((0..m).map(|k| -path.mass[k].per_stretch[i] / path.mass[k].per_pa).collect()),
                Unknown::Air => Some((0..m).map(|k| (path.start.per_air - path.mass[k].per_air) / path.mass[k].per_pa).collect()),
                Unknown::Creep => Some(path.of_growth(&path.creep.per_sd)),
                Unknown::DrawnBack => Some(path.of_growth(&path.creep.drawn_back_per_sd)),
                Unknown::Step(s) => {
                    let step = &self.hold.steps[s];
                    Some(path.of_loss(self.hold, &shapes::ramp(&self.grid.times, step.start_s, step.end_s)))
                }
                Unknown::AirShare | Unknown::AirTime => {
                    path.relaxed.slopes.iter().find(|s| s.0 == *unknown).map(|s| path.of_dissolved(&s.1))
                }
                Unknown::GasketShare | Unknown::GasketTime => {
                    path.relaxed.slopes.iter().find(|s| s.0 == *unknown).map(|s| path.of_growth(&s.1))
                }
                Unknown::LeakStart => {
                    let start = self.leak_from + values.of(Unknown::LeakStart);
                    let h = 0.01 * self.hold.length_s;
                    let lost = |start: f64| shapes::loss(self.hold, &self.grid.times, &path.p, start.clamp(0.0, 0.97 * self.hold.length_s));
                    let rate = values.of(Unknown::Leak);
                    let shape: Vec<f64> =
                        lost(start + h).iter().zip(lost(start - h)).map(|(a, b)| rate * self.hold.length_s * (a - b) / (2.0 * h)).collect();
                    Some(path.of_loss(self.hold, &shape))
                }
                Unknown::Leak => {
                    let shape: Vec<f64> = path.leak.iter().map(|l| l * self.hold.length_s).collect();
                    Some(path.of_loss(self.hold, &shape))
                }
                _ => None,
            };
            if let Some(column) = column {
                jacobian.column_mut(j).copy_from_slice(&column);
            }
        }
        let heat = self.heat_answers(path, values);
        for (i, body) in heat.iter().enumerate() {
            let of_heat = path.of_heat(i);
            for (columns, r) in &body.parts {
                for (c, j) in columns.iter().enumerate() {
                    of_heat.add_to(jacobian.column_mut(*j).as_mut_slice(), r.skin.column(c).as_slice(), r.fluid.column(c).as_slice());
                }
            }
        }
        (jacobian, heat)
    }

    fn heat_answers(&self, path: &Path, values: &Values<'_>) -> Vec<HeatAnswers> {
        let position = |u: Unknown| values.unknowns.iter().position(|v| *v == u);
        let first_shape = values.unknowns.iter().position(|u| matches!(u, Unknown::Surroundings(_)));
        let filled = self.hold.fill_temperature_c + values.of(Unknown::Filling);
        (0..self.hold.bodies.len())
            .map(|i| {
                let (skin, fluid) = &path.lags[i];
                let felt = &self.surroundings.bodies[i];
                // the last column of the responses is that to the filling
                let mut columns: Vec<usize> = felt.shapes.iter().map(|s| first_shape.unwrap_or(0) + s).collect();
                columns.extend(position(Unknown::Filling));
                let mut parts = vec![(columns, thermal::responses(self.grid, &felt.at_points, (skin, fluid)))];
                let drive = &path.drives[i];
                const H: f64 = 0.05;
                for (unknown, of_skin) in [(Unknown::SkinLag(i), true), (Unknown::FluidLag(i), false)] {
                    if let Some(j) = position(unknown) {
                        let at = |sign: f64| {
                            let factor = (sign * H).exp();
                            let other = if of_skin { skin } else { fluid }.times(self.grid, factor);
                            thermal::path(self.grid, drive, filled, if of_skin { (&other, fluid) } else { (skin, &other) })
                        };
                        let (up, down) = (at(1.0), at(-1.0));
                        let slope =
                            |a: &[f64], b: &[f64]| DMatrix::from_iterator(a.len(), 1, a.iter().zip(b).map(|(a, b)| (a - b) / (2.0 * H)));
                        parts.push((vec![j], Responses { skin: slope(&up.skin, &down.skin), fluid: slope(&up.fluid, &down.fluid) }));
                    }
                }
                HeatAnswers { parts }
            })
            .collect()
    }

    fn candidate_answers(&self, path: &Path, candidates: &[Candidate]) -> DMatrix<f64> {
        let times = &self.grid.times;
        let mut out = DMatrix::zeros(times.len(), candidates.len());
        for (j, candidate) in candidates.iter().enumerate() {
            let lost = |start: f64| shapes::loss(self.hold, times, &path.p, start.max(0.0));
            let shape: Vec<f64> = match *candidate {
                Candidate::LeakFrom(start) => lost(start).iter().map(|l| l * self.hold.length_s).collect(),
                Candidate::StartShift(start) => {
                    let h = 0.01 * self.hold.length_s;
                    lost(start + h).iter().zip(lost(start - h)).map(|(a, b)| (a - b) / (2.0 * h) * self.hold.length_s).collect()
                }
            };
            let column = path.of_loss(self.hold, &shape);
            out.column_mut(j).copy_from_slice(&column);
        }
        out
    }
}

/// Answers of one body's skin and fluid: for each set of unknowns, a column of the responses for each of them.
struct HeatAnswers {
    parts: Vec<(Vec<usize>, Responses)>,
}
