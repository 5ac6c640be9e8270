//! Times at which the surroundings are described and those at which the model is compared with readings.

/// Nodes of the surroundings and the times of comparison, all in one rising grid.
#[derive(Debug, Clone)]
pub(crate) struct Grid {
    /// Times of the nodes, from the filling to the end of the hold, s.
    pub(crate) nodes: Vec<f64>,
    /// Times of comparison; the first is the start of the hold, s.
    pub(crate) times: Vec<f64>,
    /// The merged grid with, for each time, the node before it and the share of the next.
    pub(crate) merged: Vec<GridPoint>,
    /// Time from the point before to each of them, s; nil for the first.
    pub(crate) steps: Vec<f64>,
}

/// One time of the merged grid.
#[derive(Debug, Clone, Copy)]
pub(crate) struct GridPoint {
    /// Time, s.
    pub(crate) t: f64,
    /// Node at or before it.
    pub(crate) node: usize,
    /// Share of the next node.
    pub(crate) share: f64,
    /// Which time of comparison it is.
    pub(crate) time: Option<usize>,
}

/// Nodes in the hold: at least, at most, and how many in the quickest skin's lag.
const IN_HOLD: (usize, usize) = (12, 32);
const IN_LAG: f64 = 5.0;
/// Each node before the hold is this much farther from the next than that one was.
const GROWTH: f64 = 1.6;

impl Grid {
    /// For a soak before and a hold of `length` whose quickest skin has the lag `quickest`, compared at `times` (rising, after 0).
    pub(crate) fn new(soak: f64, length: f64, quickest: f64, times: &[f64]) -> Self {
        let in_hold = ((IN_LAG * length / quickest).ceil() as usize).clamp(IN_HOLD.0, IN_HOLD.1);
        let step = length / in_hold as f64;
        let mut before = Vec::new();
        let (mut t, mut h) = (0.0, step.min(soak.max(1.0) / 3.0));
        while t - h > -soak {
            t -= h;
            before.push(t);
            h *= GROWTH;
        }
        before.push(-soak.max(1.0));
        before.reverse();
        let mut nodes = before;
        nodes.extend((0..=in_hold).map(|i| i as f64 * step));
        let mut all = vec![0.0];
        all.extend(times.iter().copied().filter(|t| *t > 0.0));
        let (mut merged, mut k) = (Vec::with_capacity(nodes.len() + all.len()), 0);
        for (j, t) in nodes.iter().enumerate() {
            while k < all.len() && all[k] < *t {
                let share = (all[k] - nodes[j - 1]) / (t - nodes[j - 1]);
                merged.push(GridPoint { t: all[k], node: j - 1, share, time: Some(k) });
                k += 1;
            }
            let here = (k < all.len() && all[k] == *t).then_some(k);
            k += usize::from(here.is_some());
            merged.push(GridPoint { t: *t, node: j, share: 0.0, time: here });
        }
        let last = nodes.len() - 1;
        while k < all.len() {
            // a reading at or just past the end
            let share = (all[k] - nodes[last - 1]) / (nodes[last] - nodes[last - 1]);
            merged.push(GridPoint { t: all[k], node: last - 1, share, time: Some(k) });
            k += 1;
        }
        let steps = std::iter::once(0.0).chain(merged.windows(2).map(|p| p[1].t - p[0].t)).collect();
        Self { nodes, times: all, merged, steps }
    }

    /// Value at a grid point of a series given at the nodes.
    pub(crate) fn value(&self, at: &GridPoint, of: &[f64]) -> f64 {
        if at.share == 0.0 { of[at.node] } else { of[at.node] + at.share * (of[at.node + 1] - of[at.node]) }
    }
}
