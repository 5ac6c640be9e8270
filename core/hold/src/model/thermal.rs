//! Heat: surroundings drive the skin, the skin drives the fluid; both first order, both exact for a drive that is linear between nodes.

use super::grid::Grid;
use nalgebra::DMatrix;

/// Response over one step to skin, fluid and a linear drive.
struct StepResponse {
    /// Skin: of itself, of the drive at the start, of the drive at the end.
    skin: [f64; 3],
    /// Fluid: of the skin, of itself, of the drive at the start, of the drive at the end.
    fluid: [f64; 4],
}

fn step(h: f64, skin_lag: f64, fluid_lag: f64) -> StepResponse {
    // two equal lags are told apart by a millionth
    let fluid_lag = if (fluid_lag / skin_lag - 1.0).abs() < 1e-6 { fluid_lag * (1.0 + 2e-6) } else { fluid_lag };
    let (es, ew) = ((-h / skin_lag).exp(), (-h / fluid_lag).exp());
    let c = skin_lag / (skin_lag - fluid_lag);
    // drive e0 + e1·t, e1 = (end − start)/h: skin = e0 − e1·τs + e1·t + (S0 − e0 + e1·τs)·es
    let skin_of_e0 = 1.0 - es;
    let skin_of_e1 = h - skin_lag * (1.0 - es);
    // fluid = e0 − e1·(τs + τw) + e1·t + A·c·(es − ew) + (W0 − e0 + e1·(τs + τw))·ew, A = S0 − e0 + e1·τs
    let spread = c * (es - ew);
    let fluid_of_e0 = 1.0 - spread - ew;
    let fluid_of_e1 = h - (skin_lag + fluid_lag) * (1.0 - ew) + skin_lag * spread;
    StepResponse {
        skin: [es, skin_of_e0 - skin_of_e1 / h, skin_of_e1 / h],
        fluid: [spread, ew, fluid_of_e0 - fluid_of_e1 / h, fluid_of_e1 / h],
    }
}

/// Skin and fluid at the times of comparison.
#[derive(Debug, Clone)]
pub(crate) struct SkinFluid {
    /// Of the skin, °C.
    pub(crate) skin: Vec<f64>,
    /// Of the fluid, °C.
    pub(crate) fluid: Vec<f64>,
}

/// Path of skin and fluid under surroundings given at the nodes, from one temperature at the filling.
pub(crate) fn path(grid: &Grid, drive: &[f64], filled: f64, skin_lag: f64, fluid_lag: f64) -> SkinFluid {
    let mut out = SkinFluid { skin: vec![0.0; grid.times.len()], fluid: vec![0.0; grid.times.len()] };
    let (mut s, mut w, mut before) = (filled, filled, (grid.merged[0].t, drive[0]));
    for point in &grid.merged {
        let e = grid.value(point, drive);
        if point.t > before.0 {
            let r = step(point.t - before.0, skin_lag, fluid_lag);
            let next = r.skin[0] * s + r.skin[1] * before.1 + r.skin[2] * e;
            w = r.fluid[0] * s + r.fluid[1] * w + r.fluid[2] * before.1 + r.fluid[3] * e;
            s = next;
        }
        before = (point.t, e);
        if let Some(k) = point.time {
            out.skin[k] = s;
            out.fluid[k] = w;
        }
    }
    out
}

/// How skin and fluid at the times of comparison follow the surroundings at each node (columns).
#[derive(Debug, Clone)]
pub(crate) struct Responses {
    /// Of the skin.
    pub(crate) skin: DMatrix<f64>,
    /// Of the fluid.
    pub(crate) fluid: DMatrix<f64>,
    /// Of the skin to the temperature at the filling.
    pub(crate) skin_of_filling: Vec<f64>,
    /// Of the fluid to the temperature at the filling.
    pub(crate) fluid_of_filling: Vec<f64>,
}

/// The responses of a body.
pub(crate) fn responses(grid: &Grid, skin_lag: f64, fluid_lag: f64) -> Responses {
    let (n, m) = (grid.nodes.len(), grid.times.len());
    // one row per time, transposed at the end: rows are contiguous while they are carried along
    let (mut skin, mut fluid) = (DMatrix::zeros(n + 1, m), DMatrix::zeros(n + 1, m));
    let (mut s, mut w) = (vec![0.0; n + 1], vec![0.0; n + 1]);
    s[n] = 1.0;
    w[n] = 1.0;
    let mut before = grid.merged[0];
    for point in &grid.merged {
        if point.t > before.t {
            let r = step(point.t - before.t, skin_lag, fluid_lag);
            for (w, s) in w.iter_mut().zip(s.iter_mut()) {
                *w = r.fluid[0] * *s + r.fluid[1] * *w;
                *s *= r.skin[0];
            }
            for (at, skin, fluid) in [(&before, r.skin[1], r.fluid[2]), (point, r.skin[2], r.fluid[3])] {
                s[at.node] += (1.0 - at.share) * skin;
                w[at.node] += (1.0 - at.share) * fluid;
                if at.share > 0.0 {
                    s[at.node + 1] += at.share * skin;
                    w[at.node + 1] += at.share * fluid;
                }
            }
        }
        before = *point;
        if let Some(k) = point.time {
            skin.column_mut(k).copy_from_slice(&s);
            fluid.column_mut(k).copy_from_slice(&w);
        }
    }
    let of_filling = |m: &DMatrix<f64>| m.row(n).iter().copied().collect();
    Responses {
        skin_of_filling: of_filling(&skin),
        fluid_of_filling: of_filling(&fluid),
        skin: skin.rows(0, n).transpose(),
        fluid: fluid.rows(0, n).transpose(),
    }
}
