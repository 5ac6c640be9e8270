//! Energy of the test beside that of water, where people may stand, the first stop, and the air that people breathe.

use super::line::{Draft, Toward};
use super::lines::{Facts, energy};
use crate::derivation::{Amount, Derivation, Dimension};
use crate::gas;
use crate::rule::{Rule, Standing};
use quantity::{Length, STANDARD_ATMOSPHERE};

/// Oxygen in a closed room.
pub const OXYGEN: Rule = Rule {
    id: "GAS-OXYGEN",
    sentence: "Where all the nitrogen of a test could escape into a closed room, at least 19.5 % of oxygen must be left, or the room is ventilated and the air measured.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "gas_oxygen_nitrogen_in_a_closed_room",
};

/// Oxygen in air, and the least that people may breathe, as shares.
const OXYGEN_IN_AIR: f64 = 0.209;
const LEAST_OXYGEN: f64 = 0.195;

pub(super) fn pretest(f: &Facts) -> Option<Draft> {
    let p = f.d.pretest.as_ref()?;
    let says = if p.energy_j.is_some() {
        "At {0}, storing {1}; it finds open plugs and proves nothing."
    } else {
        "At {0}; it finds open plugs and proves nothing."
    };
    let line = Draft::new("pretest", "prove", "A low gas test first?", says).pressure(p.pressure_pa);
    let line = match p.energy_j {
        Some(j) => energy(line, j),
        None => line,
    };
    Some(line.stop(p.refused.clone()))
}

pub(super) fn lines(f: &Facts) -> Vec<Draft> {
    let Some(g) = &f.d.gas else {
        let liquid = f.d.stored_energy_j.map(|j| {
            energy(
                Draft::new(
                    "energy",
                    "ready",
                    "How much energy is stored?",
                    "{0} in the liquid and the walls; nobody in line with a blind, plug or hose end.",
                ),
                j,
            )
        });
        return liquid.into_iter().collect();
    };
    let mut all = vec![first_stop(f, g)];
    all.extend(stored(f, g));
    all.extend(stand(g));
    all.extend(oxygen(f));
    all
}

fn first_stop(f: &Facts, g: &gas::GasFigures) -> Draft {
    let why = Derivation::new("first stop", &gas::FIRST_STOP, Amount::gauge(g.first_stop_pa), "p = min(p_test / 2, 170 kPa)")
        .with("p_test", "test pressure", Amount::gauge(f.d.required_pa), "by the basis")
        .would_change("A basis whose edition names a lower first look.");
    Draft::new("first-stop", "raise", "Where to stop first?", "At {0}; every joint is soaped and looked at there, then on in small steps.")
        .down(g.first_stop_pa)
        .why(why)
}

fn stored(f: &Facts, g: &gas::GasFigures) -> Option<Draft> {
    let (ideal, tnt) = (g.energy_ideal_j?, g.tnt_kg?);
    let water = if g.energy_water_j.is_some() { "; water would store {2}" } else { "" };
    let real = match (g.energy_real_j, g.energy_water_j) {
        (Some(_), Some(_)) => "; by the real gas {3}",
        (Some(_), None) => "; by the real gas {2}",
        (None, _) => "; the real gas would begin to condense, so this bound stands alone",
    };
    let why = Derivation::new(
        "energy stored by the gas",
        &gas::ENERGY,
        Amount::new(ideal.j(), Dimension::EnergyJ),
        "E = p·V/(k−1) · [1 − (p_a/p)^((k−1)/k)]",
    )
    .with(
        "p",
        "planned pressure, absolute",
        Amount::new(f.day.planned_pa.absolute(STANDARD_ATMOSPHERE).pa(), Dimension::PressureDifferencePa),
        "plan and standard atmosphere",
    )
    .with(
        "V",
        "volume of the gas",
        Amount::new(f.d.gas_volume_m3.map_or(f64::NAN, |v| v.m3()) * f.system.method.gas_share.unwrap_or(1.0), Dimension::VolumeM3),
        "sum of the parts, valves and flanges with their bore over their face length",
    )
    .with("k", "ratio of heats", Amount::number(physics::energy::DIATOMIC), "diatomic gas")
    .would_change("A smaller volume under gas, or a lower pressure.");
    let line = energy(Draft::new("energy", "ready", "How much energy is stored?", format!("{{0}}, as {{1}} of TNT{water}{real}.")), ideal)
        .other(tnt.kg(), Dimension::MassKg);
    let line = [g.energy_water_j, g.energy_real_j].into_iter().flatten().fold(line, energy);
    Some(line.stop(g.objection.clone()).why(why))
}

fn stand(g: &gas::GasFigures) -> Option<Draft> {
    let (keep, fixed, blast) = (g.distance_m?, g.distance_fixed_m?, g.distance_blast_m?);
    let m = |l: Length| Amount::new(l.m(), Dimension::LengthM);
    let why = Derivation::new("distance to keep", &gas::DISTANCE, m(keep), "R = max(R_fixed, R_s · (2 · TNT)^⅓)")
        .with("R_fixed", "fixed distance for the energy", m(fixed), "30 m to 135.5 MJ, 60 m to 271 MJ")
        .with("R_s", "scaled distance, m/kg^⅓", Amount::number(gas::SCALED_M), "about 20: glass and no injury")
        .with("TNT", "the energy as TNT", Amount::new(g.tnt_kg.map_or(f64::NAN, |m| m.kg()), Dimension::MassKg), "4.27 MJ/kg")
        .would_change("Less energy: a smaller volume, a lower pressure, or water.");
    let says = "{0} away and farther: the greater of {1} fixed and {2} by blast. Fragments fly farther still.";
    let line = Draft::new("stand", "ready", "Where may people stand?", says)
        .length(keep, Toward::Up)
        .length(fixed, Toward::Up)
        .length(blast, Toward::Up);
    Some(line.why(why))
}

/// Oxygen that is left where all the gas escapes into a closed room and pushes air out: 20.9 % · exp(−V_gas/V_room).
fn oxygen(f: &Facts) -> Option<Draft> {
    let (room, volume) = (f.system.site.room_m3?, f.d.volume_m3?);
    if f.system.basis.medium != crate::basis::Medium::Nitrogen {
        return None;
    }
    let escaped = volume * (f.day.planned_pa.absolute(STANDARD_ATMOSPHERE).pa() / STANDARD_ATMOSPHERE.pa() - 1.0);
    let left = OXYGEN_IN_AIR * (-(escaped / room)).exp();
    let trouble = (left < LEAST_OXYGEN).then(|| {
        format!("If all the nitrogen escapes, {:.1} % of oxygen is left in the room, less than 19.5 %: ventilate it, measure the air, let nobody in alone, or test with water.", 100.0 * left)
    });
    let why = Derivation::new("oxygen left in the room", &OXYGEN, Amount::new(left, Dimension::Share), "x = 20.9 % · exp(−V_gas / V_room)")
        .with(
            "V_gas",
            "gas at the atmosphere that could escape",
            Amount::new(escaped.m3(), Dimension::VolumeM3),
            "volume times planned pressure over the atmosphere",
        )
        .with("V_room", "volume of the room", Amount::new(room.m3(), Dimension::VolumeM3), "as entered")
        .would_change("A larger room, ventilation, or less gas.");
    let says = "{0} of nitrogen could escape; {1} of oxygen would be left in the room.";
    Some(Draft::new("oxygen", "ready", "Can people breathe?", says).volume(escaped).other(left, Dimension::Share).stop(trouble).why(why))
}
