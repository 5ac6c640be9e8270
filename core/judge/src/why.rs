//! Answers to *why?* for the figures of a finding.

use crate::case::HoldCase;
use crate::finding::{FINDING, RECORD_READ, TEMPERATURE_NEEDED};
use crate::found::{Band, Found, Leak};
use quantity::{PressureDifference, VolumeFlow};
use rules::derivation::{Amount, Derivation, Dimension};

fn leak(case: &HoldCase, flow: VolumeFlow) -> Amount {
    Amount::new(flow.m3_per_s(), if case.gas.is_some() { Dimension::NormalLeakM3PerS } else { Dimension::LeakM3PerS })
}
fn fall(of: PressureDifference) -> Amount {
    Amount::new(of.pa(), Dimension::PressureDifferencePa)
}

const FIT: &str = "the fit of the whole model to the readings, averaged over explanations";

/// Derivations of every figure of a finding, each under the name by which a screen asks for it.
pub fn why(case: &HoldCase, found: &Found) -> Vec<Derivation> {
    let mut all = Vec::new();
    if let Some(b) = found.explained_pa {
        all.push(
            share(
                "fall that heat explains",
                &b,
                "Δp_heat = p_0 − p(T(t), no leak, nothing relaxing), from V·ρ(p, T) held constant in a wall that stretches and warms",
                case,
            )
            .with(
                "ΔT",
                "change of the fluid's temperature, volume-weighted",
                Amount::new(found.temperature_change_k.map_or(0.0, |t| t.k()), Dimension::TemperatureDifferenceK),
                "the fit, from the filling on, both lags as uncertain as they are",
            ),
        );
    }
    if let Some(b) = found.relaxed_pa {
        let formula = "creep V·c·p·k·ln((t + t_1)/t_1), less V·c·Δ·k·ln((t + t_2)/t_2) where it was lowered by Δ before; air share·(1 − e^(−t/t_r)); gaskets the same";
        all.push(share("fall that relaxation explains", &b, formula, case));
    }
    if let Some(b) = found.left_pa {
        let mut d = share("fall that is left for a leak", &b, "Δp_left = Δp − Δp_heat − Δp_relaxation", case);
        if let (Some(start), Some(end)) = (found.start_pa, found.end_pa) {
            d = d.with("Δp", "fall as read", fall(start - end), "first and last reading of the hold");
        }
        all.push(d);
    }
    if let Some(l) = &found.leak {
        all.extend(of_leak(case, found, l));
    }
    if let Some(limit) = found.planned_limit_m3_per_s {
        let formula = "3.29 · s(leak; nothing read yet, no leak)";
        all.push(
            Derivation::new("least leak that the plan promised", &FINDING, leak(case, limit), formula)
                .with("t", "hold", Amount::new(case.hold().length().s(), Dimension::TimeS), "as held")
                .would_change("a longer hold, a finer gauge, a thermometer in the fluid, less air"),
        );
    }
    if let Some(noise) = found.noise_pa {
        all.push(
            Derivation::new(
                "scatter of the readings about the fit",
                &RECORD_READ,
                fall(noise),
                "√(mean of (read − fitted)²), block by block",
            )
            .with("q", "mean square over what the instruments explain", Amount::number(found.misfit.unwrap_or(1.0)), FIT),
        );
    }
    all
}

fn share(figure: &str, b: &Band, formula: &str, case: &HoldCase) -> Derivation {
    let thermometer = case.thermometer.as_ref().map_or("no thermometer", |t| t.tag.as_str());
    Derivation::new(figure, &TEMPERATURE_NEEDED, fall(b.value), formula)
        .with("u", "half-width of its 95 % interval", fall(b.half_width_95), FIT)
        .would_change(format!("what {thermometer} reads, the lags, the volume's compliance"))
}

fn of_leak(case: &HoldCase, found: &Found, l: &Leak) -> Vec<Derivation> {
    let hold = Amount::new(case.hold().length().s(), Dimension::TimeS);
    let unit = case.units().pressure;
    let stiff = case.volume_per_pa().map(|v| v * unit.pa()).unwrap_or_default();
    let law = if case.gas.is_some() { "Q = k·p (gas, normal volume)" } else { "Q = k·√p (orifice)" };
    let mean = Derivation::new("mean leak over the hold", &FINDING, leak(case, l.mean_m3_per_s), &format!("Q = Δp_left · V·c / t, {law}"))
        .with("lo", "lower end of the 95 % interval", leak(case, l.lo_m3_per_s), FIT)
        .with("hi", "upper end of the 95 % interval", leak(case, l.hi_m3_per_s), FIT)
        .with(
            "V·c",
            &format!("volume lost for each {} of fall", unit.symbol()),
            Amount::new(stiff, Dimension::VolumeM3),
            "volumes, walls, fluid and air of the case",
        )
        .with("t", "hold", hold, "as held")
        .would_change("more readings, a longer hold, a better known volume");
    let end = Derivation::new(
        "leak at the end of the hold",
        &FINDING,
        leak(case, l.end_m3_per_s),
        "rate at t of a leak that may begin within the hold",
    )
    .with("lo", "lower end of the 95 % interval", leak(case, l.end_lo_m3_per_s), FIT)
    .with("hi", "upper end of the 95 % interval", leak(case, l.end_hi_m3_per_s), FIT);
    let tight = Derivation::new("leak that is ruled out", &FINDING, leak(case, l.upper_999_m3_per_s), "one-sided 99.9 % upper limit of Q")
        .with("Q", "mean leak", leak(case, l.mean_m3_per_s), FIT);
    let limit =
        Derivation::new("least leak it could have shown", &FINDING, leak(case, l.detection_limit_m3_per_s), "3.29 · s(Q with no leak)")
            .with("t", "hold", hold, "as held")
            .with("s", "scatter about the fit", fall(found.noise_pa.unwrap_or(PressureDifference::from_pa(0.0))), "readings")
            .would_change("a longer hold, a finer gauge, a thermometer in the fluid, less air");
    let hole = Derivation::new(
        "hole that would lose as much",
        &FINDING,
        Amount::new(l.equivalent_hole_m.m(), Dimension::LengthM),
        if case.gas.is_some() { "d = √(4·m/(π·C_d·p·f)), choked" } else { "d = √(4·Q/(π·C_d·√(2p/ρ)))" },
    )
    .with("C_d", "sharp-edged hole", Amount::number(physics::orifice::SHARP_EDGE), "common practice");
    let mut all = vec![mean, end, tight, limit];
    // no hole loses nothing
    if l.equivalent_hole_m.m() > 0.0 {
        all.push(hole);
    }
    all
}
