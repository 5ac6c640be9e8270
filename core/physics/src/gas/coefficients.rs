//! Coefficients of the reference equations, as in CoolProp 8.0.0 (MIT): nitrogen by Span, Lemmon, Jacobsen, Wagner and Yokozeki,
//! J. Phys. Chem. Ref. Data 29 (2000) 1361; dry air as one substance by Lemmon, Jacobsen, Penoncello and Friend, ibid. 331.

use crate::helmholtz::{Gaussian, Power};

#[rustfmt::skip]
pub(super) const NITROGEN_POWER: [Power; 32] = [
    Power { n: 0.924803575275, d: 1, t: 0.25, c: 0 },
    Power { n: -0.492448489428, d: 1, t: 0.875, c: 0 },
    Power { n: 0.661883336938, d: 2, t: 0.5, c: 0 },
    Power { n: -1.92902649201, d: 2, t: 0.875, c: 0 },
    Power { n: -0.0622469309629, d: 3, t: 0.375, c: 0 },
    Power { n: 0.349943957581, d: 3, t: 0.75, c: 0 },
    Power { n: 0.564857472498, d: 1, t: 0.5, c: 1 },
    Power { n: -1.61720005987, d: 1, t: 0.75, c: 1 },
    Power { n: -0.481395031883, d: 1, t: 2.0, c: 1 },
    Power { n: 0.421150636384, d: 3, t: 1.25, c: 1 },
    Power { n: -0.0161962230825, d: 3, t: 3.5, c: 1 },
    Power { n: 0.172100994165, d: 4, t: 1.0, c: 1 },
    Power { n: 0.00735448924933, d: 6, t: 0.5, c: 1 },
    Power { n: 0.0168077305479, d: 6, t: 3.0, c: 1 },
    Power { n: -0.00107626664179, d: 7, t: 0.0, c: 1 },
    Power { n: -0.0137318088513, d: 7, t: 2.75, c: 1 },
    Power { n: 0.000635466899859, d: 8, t: 0.75, c: 1 },
    Power { n: 0.00304432279419, d: 8, t: 2.5, c: 1 },
    Power { n: -0.0435762336045, d: 1, t: 4.0, c: 2 },
    Power { n: -0.0723174889316, d: 2, t: 6.0, c: 2 },
    Power { n: 0.0389644315272, d: 3, t: 6.0, c: 2 },
    Power { n: -0.021220136391, d: 4, t: 3.0, c: 2 },
    Power { n: 0.00408822981509, d: 5, t: 3.0, c: 2 },
    Power { n: -5.51990017984e-05, d: 8, t: 6.0, c: 2 },
    Power { n: -0.0462016716479, d: 4, t: 16.0, c: 3 },
    Power { n: -0.00300311716011, d: 5, t: 11.0, c: 3 },
    Power { n: 0.0368825891208, d: 5, t: 15.0, c: 3 },
    Power { n: -0.0025585684622, d: 8, t: 12.0, c: 3 },
    Power { n: 0.00896915264558, d: 3, t: 12.0, c: 4 },
    Power { n: -0.0044151337035, d: 5, t: 7.0, c: 4 },
    Power { n: 0.00133722924858, d: 6, t: 4.0, c: 4 },
    Power { n: 0.000264832491957, d: 9, t: 16.0, c: 4 },
];

#[rustfmt::skip]
pub(super) const NITROGEN_GAUSSIAN: [Gaussian; 4] = [
    Gaussian { n: 19.6688194015, d: 1, t: 0, alpha: 20.0, beta: 325.0, gamma: 1.16, epsilon: 1.0 },
    Gaussian { n: -20.911560073, d: 1, t: 1, alpha: 20.0, beta: 325.0, gamma: 1.16, epsilon: 1.0 },
    Gaussian { n: 0.0167788306989, d: 3, t: 2, alpha: 15.0, beta: 300.0, gamma: 1.13, epsilon: 1.0 },
    Gaussian { n: 2627.67566274, d: 2, t: 3, alpha: 25.0, beta: 275.0, gamma: 1.25, epsilon: 1.0 },
];

#[rustfmt::skip]
pub(super) const AIR_POWER: [Power; 19] = [
    Power { n: 0.118160747229, d: 1, t: 0.0, c: 0 },
    Power { n: 0.713116392079, d: 1, t: 0.33, c: 0 },
    Power { n: -1.61824192067, d: 1, t: 1.01, c: 0 },
    Power { n: 0.0714140178971, d: 2, t: 0.0, c: 0 },
    Power { n: -0.0865421396646, d: 3, t: 0.0, c: 0 },
    Power { n: 0.134211176704, d: 3, t: 0.15, c: 0 },
    Power { n: 0.0112626704218, d: 4, t: 0.0, c: 0 },
    Power { n: -0.0420533228842, d: 4, t: 0.2, c: 0 },
    Power { n: 0.0349008431982, d: 4, t: 0.35, c: 0 },
    Power { n: 0.000164957183186, d: 6, t: 1.35, c: 0 },
    Power { n: -0.101365037912, d: 1, t: 1.6, c: 1 },
    Power { n: -0.17381369097, d: 3, t: 0.8, c: 1 },
    Power { n: -0.0472103183731, d: 5, t: 0.95, c: 1 },
    Power { n: -0.0122523554253, d: 6, t: 1.25, c: 1 },
    Power { n: -0.146629609713, d: 1, t: 3.6, c: 2 },
    Power { n: -0.0316055879821, d: 3, t: 6.0, c: 2 },
    Power { n: 0.000233594806142, d: 11, t: 3.25, c: 2 },
    Power { n: 0.0148287891978, d: 1, t: 3.5, c: 3 },
    Power { n: -0.00938782884667, d: 3, t: 15.0, c: 3 },
];
