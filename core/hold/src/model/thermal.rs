//! Heat: surroundings drive the skin, the skin drives the fluid; both first order, both exact for a drive that is linear between nodes.

use super::grid::Grid;
use nalgebra::DMatrix;

/// What is left of a difference after each step of the merged grid, for one lag.
#[derive(Debug, Clone)]
pub(crate) struct Lag {
    /// The lag, s.
    seconds: f64,
    /// e^(−h/τ); one where there is no step.
    kept: Vec<f64>,
}

impl Lag {
    /// Of so many seconds.
    pub(crate) fn new(grid: &Grid, seconds: f64) -> Self {
        Self { seconds, kept: grid.steps.iter().map(|h| (-h / seconds).exp()).collect() }
    }

    /// So many times as long.
    pub(crate) fn times(&self, grid: &Grid, factor: f64) -> Self {
        Self::new(grid, self.seconds * factor)
    }
}

/// Response over one step to skin, fluid and a linear drive.
struct StepResponse {
    /// Skin: of itself, of the drive at the start, of the drive at the end.
    skin: [f64; 3],
    /// Fluid: of the skin, of itself, of the drive at the start, of the drive at the end.
    fluid: [f64; 4],
}

/// Responses over each step of the merged grid; none where there is no step.
fn steps<'a>(grid: &'a Grid, skin: &'a Lag, fluid: &'a Lag) -> impl Iterator<Item = Option<StepResponse>> + 'a {
    let (skin_lag, mut fluid_lag) = (skin.seconds, fluid.seconds);
    // two equal lags are told apart by a millionth
    let alike = (fluid_lag / skin_lag - 1.0).abs() < 1e-6;
    if alike {
        fluid_lag *= 1.0 + 2e-6;
    }
    let c = skin_lag / (skin_lag - fluid_lag);
    grid.steps.iter().zip(&skin.kept).zip(&fluid.kept).map(move |((h, es), ew)| {
        if *h <= 0.0 {
            return None;
        }
        let ew = if alike { (-h / fluid_lag).exp() } else { *ew };
        // drive e0 + e1·t, e1 = (end − start)/h: skin = e0 − e1·τs + e1·t + (S0 − e0 + e1·τs)·es
        let skin_of_e0 = 1.0 - es;
        let skin_of_e1 = h - skin_lag * (1.0 - es);
        // fluid = e0 − e1·(τs + τw) + e1·t + A·c·(es − ew) + (W0 − e0 + e1·(τs + τw))·ew, A = S0 − e0 + e1·τs
        let spread = c * (es - ew);
        let fluid_of_e0 = 1.0 - spread - ew;
        let fluid_of_e1 = h - (skin_lag + fluid_lag) * (1.0 - ew) + skin_lag * spread;
        Some(StepResponse {
            skin: [*es, skin_of_e0 - skin_of_e1 / h, skin_of_e1 / h],
            fluid: [spread, ew, fluid_of_e0 - fluid_of_e1 / h, fluid_of_e1 / h],
        })
    })
}

/// Skin and fluid at the times of comparison.
#[derive(Debug, Clone)]
pub(crate) struct SkinFluid {
    /// Of the skin, °C.
    pub(crate) skin: Vec<f64>,
    /// Of the fluid, °C.
    pub(crate) fluid: Vec<f64>,
}

/// Path of skin and fluid under surroundings given at every point of the merged grid, from one temperature at the filling.
pub(crate) fn path(grid: &Grid, drive: &[f64], filled: f64, (skin, fluid): (&Lag, &Lag)) -> SkinFluid {
    let mut out = SkinFluid { skin: vec![0.0; grid.times.len()], fluid: vec![0.0; grid.times.len()] };
    let (mut s, mut w) = (filled, filled);
    for ((i, point), r) in grid.merged.iter().enumerate().zip(steps(grid, skin, fluid)) {
        if let Some(r) = r {
            let (before, here) = (drive[i - 1], drive[i]);
            w = r.fluid[0] * s + r.fluid[1] * w + r.fluid[2] * before + r.fluid[3] * here;
            s = r.skin[0] * s + r.skin[1] * before + r.skin[2] * here;
        }
        if let Some(k) = point.time {
            out.skin[k] = s;
            out.fluid[k] = w;
        }
    }
    out
}

/// How skin and fluid follow: a column for each shape that drives them and a last one for the temperature at the filling, a row for each time of
/// comparison.
#[derive(Debug, Clone)]
pub(crate) struct Responses {
    /// Of the skin.
    pub(crate) skin: DMatrix<f64>,
    /// Of the fluid.
    pub(crate) fluid: DMatrix<f64>,
}

/// The responses of a body to shapes (rows) given at every point of the merged grid.
pub(crate) fn responses(grid: &Grid, shapes: &DMatrix<f64>, (skin_lag, fluid_lag): (&Lag, &Lag)) -> Responses {
    let (n, m) = (shapes.nrows(), grid.times.len());
    let (mut skin, mut fluid) = (DMatrix::zeros(n + 1, m), DMatrix::zeros(n + 1, m));
    let (mut s, mut w) = (vec![0.0; n + 1], vec![0.0; n + 1]);
    s[n] = 1.0;
    w[n] = 1.0;
    let all = shapes.as_slice();
    for ((i, point), r) in grid.merged.iter().enumerate().zip(steps(grid, skin_lag, fluid_lag)) {
        if let Some(r) = r {
            w[n] = r.fluid[0] * s[n] + r.fluid[1] * w[n];
            s[n] *= r.skin[0];
            let (before, here) = (&all[(i - 1) * n..i * n], &all[i * n..(i + 1) * n]);
            for (((w, s), a), b) in w.iter_mut().zip(s.iter_mut()).zip(before).zip(here) {
                *w = r.fluid[0] * *s + r.fluid[1] * *w + r.fluid[2] * a + r.fluid[3] * b;
                *s = r.skin[0] * *s + r.skin[1] * a + r.skin[2] * b;
            }
        }
        if let Some(k) = point.time {
            skin.column_mut(k).copy_from_slice(&s);
            fluid.column_mut(k).copy_from_slice(&w);
        }
    }
    Responses { skin: skin.transpose(), fluid: fluid.transpose() }
}
