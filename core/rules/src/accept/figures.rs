//! What a basis asks, with the figures of the system.

use super::*;
use crate::basis::Demand;
use crate::basis::bound::{Base, Constant};
use crate::basis::entry::{Band, BasisRule, Duty, MostAt};
use crate::part::{Part, PartKind, Seat};
use crate::system::System;
use physics::head::Column;
use terms::Term;

/// Gauge pressure of a constant as a difference.
fn difference(c: &Constant) -> PressureDifference {
    c.pressure - GaugePressure::from_pa(0.0)
}

fn origin(rule: &BasisRule) -> Origin {
    let words = rule.standing.words();
    Origin {
        rule: rule.id.clone(),
        source: if rule.clause.is_empty() { words.to_owned() } else { format!("{} {}, {words}", rule.edition, rule.clause) },
    }
}

/// Pipe of a main as its allowance counts it.
#[derive(Debug, Clone, Copy, PartialEq)]
struct MainPiece {
    /// Nominal diameter, m.
    diameter: Length,
    /// Length, m.
    length: Length,
}

/// Length over diameter of what counts as main: pipes and bends.
fn piece(part: &Part) -> Option<MainPiece> {
    if !part.kind.piping() {
        return None;
    }
    Some(MainPiece { diameter: nominal(part.bore()?), length: part.length_m? })
}

/// Nominal size of a bore: the nearest whole inch above 2 in, or half inch below it.
fn nominal(bore: Length) -> Length {
    const INCH: f64 = 0.0254;
    let inches = bore.m() / INCH;
    let step = if inches < 2.0 { 0.5 } else { 1.0 };
    Length::from_m((inches / step).round().max(1.0) * step * INCH)
}

/// Everything that the basis asks of this system's hold.
pub fn criteria(system: &System, demand: &Demand, column: Column) -> Vec<Criterion> {
    let entry = &demand.entry;
    let medium = if demand.gas { entry.gas.as_ref() } else { entry.liquid.as_ref() };
    let Some(medium) = medium else { return Vec::new() };
    let from = origin(&medium.rule);
    let mut all = Vec::new();
    if let Some(band) = medium.band.as_ref().or(entry.band.as_ref()) {
        all.push(Criterion::PressureBand(band_of(band, &from)));
    }
    if !demand.gas {
        liquid(system, demand, &from, &mut all);
    }
    if let Some(most) = &medium.most
        && let Some(figure) = &demand.most
    {
        // where it holds: at the highest point, or at the lowest part, which sees the most
        let at_gauge = |z| column.gained(z, system.gauge.elevation_m);
        let head = match medium.most_at {
            MostAt::Highest => Some(at_gauge(system.highest())),
            MostAt::EveryPart => system.parts.iter().map(|p| at_gauge(p.ends().0)).min_by(|a, b| a.pa().total_cmp(&b.pa())),
        };
        let of_test = most.terms.iter().any(|t| matches!(t.of, Some(Base::Test | Base::Code)));
        if let (true, Some(head)) = (of_test, head) {
            all.push(Criterion::Overshoot(Overshoot { origin: from.clone(), most_pa: figure.pressure + head }));
        }
    }
    if let Some(owners) = system.basis.owners_fall {
        all.push(Criterion::OwnersFall(PressureFall {
            origin: Origin { rule: "the owner".to_owned(), source: "as entered with the basis".to_owned() },
            most_pa: None,
            most_share: Some(owners.share),
            within_s: owners.within_s,
        }));
    }
    all.extend(no_loss(system, demand, &from));
    if entry.duty == Duty::Joint {
        all.push(Criterion::JointDry(JointDry { origin: from.clone() }));
    }
    if demand.gas {
        all.push(Criterion::SoapFilm(SoapFilm { origin: from }));
    }
    all
}

/// Who allows no loss beyond temperature: the basis, or else the project, by its specification or because the record is the only witness.
fn no_loss(system: &System, demand: &Demand, from: &Origin) -> Option<Criterion> {
    let specification = &system.specification;
    let by = |key: &str, because: &str| NoLoss {
        origin: Origin { rule: "the project".to_owned(), source: specification.source(key) },
        whose: Whose::Project,
        because: because.to_owned(),
    };
    if demand.entry.no_loss {
        let origin = demand.entry.hold.as_ref().map_or_else(|| from.clone(), |h| origin(&h.rule));
        return Some(Criterion::NoLoss(NoLoss { origin, whose: Whose::Basis, because: "this basis allows none".to_owned() }));
    }
    if specification.answer("loss").key == "none" {
        return Some(Criterion::NoLoss(by("loss", "the project allows none")));
    }
    let guarded = specification.answer("attended").key == "guarded";
    guarded.then(|| Criterion::NoLoss(by("attended", "nobody watches the hold, so its record is the only witness")))
}

fn band_of(band: &Band, from: &Origin) -> PressureBand {
    PressureBand {
        origin: from.clone(),
        fall_pa: band.minus.as_ref().map(difference),
        rise_pa: band.plus.as_ref().map(difference),
        share: band.share,
    }
}

fn liquid(system: &System, demand: &Demand, from: &Origin, all: &mut Vec<Criterion>) {
    let entry = &demand.entry;
    if let Some(fall) = &entry.fall {
        all.push(Criterion::PressureFall(PressureFall {
            origin: from.clone(),
            most_pa: fall.most.as_ref().map(difference),
            most_share: fall.share,
            within_s: Span::from_minutes(fall.within_min),
        }));
    }
    if let Some(asked) = &entry.makeup {
        all.push(Criterion::MakeupAllowance(makeup(system, asked, from)));
    }
    if let Some(asked) = &entry.air_check {
        all.push(Criterion::AirCheck(water_loss(system, demand, asked.factor, from)));
    }
    if let Some(asked) = &entry.water_loss {
        all.push(Criterion::WaterLoss(water_loss(system, demand, asked.factor, from)));
    }
    if let (Some(asked), Some(hold)) = (&entry.expansion, &entry.hold) {
        all.push(Criterion::Expansion(Expansion {
            origin: origin(&hold.rule),
            least_s: Span::from_minutes(hold.settle_min),
            lowered_pa: difference(&asked.lowered),
        }));
    }
    if let (Some(asked), Some(hold)) = (&entry.whole, &entry.hold) {
        all.push(Criterion::WholeTest(WholeTest {
            origin: origin(&hold.rule),
            most_s: Span::from_minutes(asked.most_min),
            rest_s: Span::from_minutes(asked.rest_min),
        }));
    }
    if let Some(asked) = &entry.contraction {
        all.push(Criterion::Contraction(Contraction {
            origin: from.clone(),
            stretch_s: Span::from_minutes(asked.stretch_min),
            wait_s: Span::from_minutes(asked.wait_min),
            wait_fall_share: asked.wait_fall_share,
            least_drop_share: asked.drop_share.0,
            most_drop_share: asked.drop_share.1,
            stand_s: Span::from_minutes(asked.stand_min),
            doubt_s: Span::from_minutes(asked.doubt_min),
            doubt_fall_pa: difference(&asked.doubt_fall),
        }));
    }
}

fn makeup(system: &System, asked: &MakeupAsked, from: &Origin) -> MakeupAllowance {
    let mut lengths: Vec<MainLength> = Vec::new();
    for p in system.parts.iter().filter_map(piece) {
        let joints = asked.pipe_m.map_or(0.0, |one| (p.length.m() / one).ceil());
        match lengths.iter_mut().find(|l| l.diameter_m == p.diameter) {
            Some(l) => {
                l.length_m = l.length_m + p.length;
                l.joints += joints;
            }
            None => lengths.push(MainLength { diameter_m: p.diameter, length_m: p.length, joints }),
        }
    }
    let metal = |p: &&Part| p.kind == PartKind::ClosedValve && p.seat == Some(Seat::MetalSeated);
    let valves_m = if asked.valves {
        system.parts.iter().filter(metal).filter_map(|p| p.bore().or(p.outside_diameter_m)).map(nominal).collect()
    } else {
        Vec::new()
    };
    MakeupAllowance { origin: from.clone(), form: asked.form, lengths, valves_m, hydrants: system.site.hydrants.unwrap_or(0) }
}

fn water_loss(system: &System, demand: &Demand, factor: f64, from: &Origin) -> WaterLoss {
    let pieces = system
        .parts
        .iter()
        .filter_map(|p| {
            let elastic = demand.library.material(p.material.as_deref()?).ok()?.elastic;
            let volume = p.volume();
            (volume.m3() > 0.0).then_some(MainStretch {
                volume_m3: volume,
                diameter_m: p.bore()?,
                wall_m: p.wall_m?,
                modulus_pa: elastic.youngs_modulus_pa,
            })
        })
        .collect();
    WaterLoss { origin: from.clone(), factor, pieces }
}
