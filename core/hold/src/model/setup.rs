//! Everything that stays the same while a hold is fitted.

use super::blocks::Block;
use super::columns::Frame;
use super::content::Content;
use super::density::{self, DensityBox};
use super::error::FitError;
use super::grid::Grid;
use super::prior::{self, Causes, Surroundings, Unknown, Weather};
use crate::input::{Hold, Place};
use nalgebra::DVector;

/// Grid, surroundings, mass balance and blocks of one hold.
pub(crate) struct Setup {
    pub(crate) blocks: Vec<Block>,
    pub(crate) grid: Grid,
    pub(crate) surroundings: Surroundings,
    pub(crate) content: Content,
    pub(crate) start_pa: f64,
    pub(crate) gauge_air: Option<Vec<f64>>,
    /// A volume far beyond what the hold could lose, m³.
    pub(crate) free: f64,
}

impl Setup {
    pub(crate) fn new(hold: &Hold, blocks: Vec<Block>) -> Result<Self, FitError> {
        let times: Vec<f64> = blocks.iter().map(|b| b.t).collect();
        let quickest = hold.bodies.iter().map(|b| b.skin_lag_s).fold(f64::INFINITY, f64::min);
        let grid = Grid::new(hold.soak_s, hold.length_s, quickest, &times);
        let surroundings = Surroundings::new(hold, &grid);
        let mut start = hold.pressure_pa + hold.atmosphere_pa;
        let (mut p_range, mut t_range) = ((start, start), (hold.fill_temperature_c, hold.fill_temperature_c));
        if let Some(first) = blocks.first().filter(|b| b.cells[0].count > 0.0) {
            start = first.cells[0].mean + hold.atmosphere_pa;
        }
        let gauges = hold.gauges.len();
        for b in &blocks {
            for (c, cell) in b.cells.iter().enumerate().filter(|(_, c)| c.count > 0.0) {
                if c == 0 {
                    p_range = (p_range.0.min(cell.range.0 + hold.atmosphere_pa), p_range.1.max(cell.range.1 + hold.atmosphere_pa));
                } else if c >= gauges && hold.thermometers[c - gauges].place != Place::Ambient {
                    t_range = (t_range.0.min(cell.range.0), t_range.1.max(cell.range.1));
                }
            }
        }
        let t_range = (t_range.0 - 6.0, t_range.1 + 6.0);
        let swing = 0.15 * (p_range.1 - hold.atmosphere_pa).max(1e5);
        let table = DensityBox::new(hold.fluid, t_range, (p_range.0 - swing, p_range.1 + swing))?;
        let content = Content::new(hold, table);
        let gauge_air = gauge_air(hold, &blocks, &grid);
        let slope = {
            let fluid = vec![hold.fill_temperature_c; hold.bodies.len()];
            let at = super::content::Instant { p: start, fluid: &fluid, skin: &fluid, grown: 0.0, dissolved: 0.0 };
            content.mass(at, at)
        };
        // enough to lower the pressure by half
        let per_volume = density::normal_density(hold.fluid).unwrap_or(slope.per_growth);
        let free = 0.5 * hold.volume_m3() * slope.per_pa * hold.pressure_pa / per_volume;
        Ok(Self { blocks, grid, surroundings, content, start_pa: start, gauge_air, free })
    }

    /// The linear model's frame for a leak that starts about here.
    pub(crate) fn frame<'a>(&'a self, hold: &'a Hold, leak_from: f64) -> Frame<'a> {
        Frame {
            hold,
            blocks: &self.blocks,
            grid: &self.grid,
            surroundings: &self.surroundings,
            content: &self.content,
            start_pa: self.start_pa,
            leak_from,
            gauge_air: self.gauge_air.as_deref(),
        }
    }

    /// Variance of the air about the straight pieces between nodes, K²: that of a bridge of its fluctuation, in the mean.
    pub(crate) fn between_nodes(&self, hold: &Hold) -> f64 {
        let step = self.grid.nodes.windows(2).last().map_or(0.0, |n| n[1] - n[0]);
        prior::usual_fluctuation(hold).powi(2) * step / (3.0 * prior::AIR_TAU)
    }

    /// What is unknown for these causes.
    pub(crate) fn unknowns(&self, hold: &Hold, causes: Causes) -> Vec<Unknown> {
        prior::unknowns(hold, &self.surroundings, self.gauge_air.is_some(), causes)
    }

    /// Standard deviations of the unknowns before the readings.
    pub(crate) fn sds(&self, hold: &Hold, unknowns: &[Unknown], weather: Weather) -> DVector<f64> {
        let sd = unknowns.iter().map(|u| prior::sd(hold, &self.surroundings, weather, self.free, *u));
        DVector::from_iterator(unknowns.len(), sd)
    }
}

/// Air at the gauges less 20 °C at each time of comparison, where a thermometer in the air read it.
fn gauge_air(hold: &Hold, blocks: &[Block], grid: &Grid) -> Option<Vec<f64>> {
    let channel = hold.gauges.len() + hold.thermometers.iter().position(|t| t.place == Place::Ambient)?;
    let read: Vec<(f64, f64)> = blocks.iter().filter(|b| b.cells[channel].count > 0.0).map(|b| (b.t, b.cells[channel].mean)).collect();
    let first = read.first()?;
    Some(
        grid.times
            .iter()
            .map(|t| {
                let i = read.partition_point(|r| r.0 <= *t);
                let value = match (i.checked_sub(1).map(|j| read[j]), read.get(i)) {
                    (Some(a), Some(b)) => a.1 + (b.1 - a.1) * (t - a.0) / (b.0 - a.0),
                    (Some(a), None) => a.1,
                    _ => first.1,
                };
                value - 20.0
            })
            .collect(),
    )
}
