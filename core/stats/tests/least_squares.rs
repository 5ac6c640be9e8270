//! Least squares against closed forms and a worked example.

use proptest::prelude::*;
use stats::least_squares::{FitError, Prior, Row, fit, fit_non_negative};

fn rows(points: &[(f64, f64)]) -> Vec<Row> {
    points.iter().map(|(x, y)| Row { x: vec![1.0, *x], y: *y, sd: 1.0 }).collect()
}

#[test]
fn published_norris_line() {
    // NIST StRD, linear regression, data set Norris: certified B0 = -0.262323073774029, B1 = 1.00211681802045, sd(B1) = 0.429796848199937E-03,
    // residual sd 0.884796396144373. The 36 pairs as printed there (y, x), from memory of the file; the certified values confirm them.
    let data = [
        (0.1, 0.2),
        (338.8, 337.4),
        (118.1, 118.2),
        (888.0, 884.6),
        (9.2, 10.1),
        (228.1, 226.5),
        (668.5, 666.3),
        (998.5, 996.3),
        (449.1, 448.6),
        (778.9, 777.0),
        (559.2, 558.2),
        (0.3, 0.4),
        (0.1, 0.6),
        (778.1, 775.5),
        (668.8, 666.9),
        (339.3, 338.0),
        (448.9, 447.5),
        (10.8, 11.6),
        (557.7, 556.0),
        (228.3, 228.1),
        (998.0, 995.8),
        (888.8, 887.6),
        (119.6, 120.2),
        (0.3, 0.3),
        (0.6, 0.3),
        (557.6, 556.8),
        (339.3, 339.1),
        (888.0, 887.2),
        (998.5, 999.0),
        (778.9, 779.0),
        (10.2, 11.1),
        (117.6, 118.3),
        (228.9, 229.2),
        (668.4, 669.1),
        (449.2, 448.9),
        (0.2, 0.5),
    ];
    let rows: Vec<Row> = data.iter().map(|(y, x)| Row { x: vec![1.0, *x], y: *y, sd: 1.0 }).collect();
    let f = fit(&rows, &[Prior::Free, Prior::Free]).unwrap();
    assert!((f.theta[0] + 0.262_323_073_774_029).abs() < 1e-9, "{}", f.theta[0]);
    assert!((f.theta[1] - 1.002_116_818_020_45).abs() < 1e-12, "{}", f.theta[1]);
    let variance = f.chi_squared / f.degrees;
    assert!((variance.sqrt() - 0.884_796_396_144_373).abs() < 1e-9);
    assert!(((f.covariance[1][1] * variance).sqrt() - 0.429_796_848_199_937e-3).abs() < 1e-12);
}

#[test]
fn what_cannot_be_told_apart_is_refused_in_words() {
    let same = vec![Row { x: vec![1.0, 2.0], y: 1.0, sd: 1.0 }; 5];
    assert_eq!(fit(&same, &[Prior::Free, Prior::Free]), Err(FitError::Singular));
    let e = fit(&rows(&[(0.0, 1.0)]), &[Prior::Free, Prior::Free]).unwrap_err();
    assert_eq!(e.to_string(), "1 observations do not settle 2 parameters: take more readings");
}

#[test]
fn a_prior_settles_what_the_data_leave_open() {
    let same = vec![Row { x: vec![1.0, 1.0], y: 3.0, sd: 1.0 }; 4];
    let f = fit(&same, &[Prior::Free, Prior::AboutZero(0.5)]).unwrap();
    assert!((f.theta[0] - 3.0).abs() < 1e-9 && f.theta[1].abs() < 1e-9);
    assert!((f.covariance[1][1].sqrt() - 0.5).abs() < 1e-9, "the data add nothing to the prior");
}

proptest! {
    #[test]
    fn bounded_parameters_stay_at_or_above_zero_and_no_worse_than_zero(slope in -3.0..3.0f64, bend in -3.0..3.0f64, seed in 1u32..1000) {
        let rows: Vec<Row> = (0..12).map(|i| {
            let x = f64::from(i) / 4.0;
            let wobble = (f64::from(seed) * (x + 1.0)).sin();
            Row { x: vec![1.0, x, x * x], y: 1.0 + slope * x + bend * x * x + 0.1 * wobble, sd: 1.0 }
        }).collect();
        let priors = [Prior::Free; 3];
        let bounded = fit_non_negative(&rows, &priors, &[1, 2]).unwrap();
        let free = fit(&rows, &priors).unwrap();
        prop_assert!(bounded.theta[1] >= 0.0 && bounded.theta[2] >= 0.0);
        prop_assert!(bounded.chi_squared >= free.chi_squared - 1e-9);
        // the conditions of a constrained minimum: no descent into the allowed side
        for j in [1, 2] {
            let gradient: f64 = rows.iter().map(|r| {
                let e = r.y - r.x.iter().zip(&bounded.theta).map(|(x, t)| x * t).sum::<f64>();
                -2.0 * e * r.x[j]
            }).sum();
            prop_assert!(gradient >= -1e-6, "gradient {gradient} at {:?}", bounded.theta);
        }
    }
}
