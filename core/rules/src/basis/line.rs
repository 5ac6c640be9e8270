//! BASIS-LINE: lines of several design conditions in one system.

use super::bound::Base;
use super::entry::Entry;
use super::{Basis, BasisError};
use crate::part::Part;
use crate::rule::{Rule, Standing};
use quantity::{GaugePressure, Temperature};
use std::collections::HashMap;

/// Lines of several conditions.
pub const RULE: Rule = Rule {
    id: "BASIS-LINE",
    sentence: "Each part is tested for the design pressure and temperature of its own line; the system's figure is the highest of its lines, and a part that says none has that; where the system says none every part is asked. So an empty cell never lowers anything.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "basis_line_each_line_has_its_own_requirement",
};

/// The lines of a system: the basis as it stands for each, and which part belongs to which.
pub(super) struct Lines {
    /// Basis of each line.
    pub bases: Vec<Basis>,
    /// Place of each part's line.
    pub of: Vec<usize>,
}

fn greater<T: PartialOrd>(a: T, b: T) -> T {
    if b > a { b } else { a }
}

/// The highest design pressure of a system: the system's own, or a line's.
pub fn highest_pressure(basis: &Basis, parts: &[Part]) -> Option<GaugePressure> {
    parts.iter().filter_map(|p| p.design_pressure_pa).chain(basis.design_pressure_pa).reduce(greater)
}

/// The highest design temperature of a system.
pub fn highest_temperature(basis: &Basis, parts: &[Part]) -> Option<Temperature> {
    parts.iter().filter_map(|p| p.design_temperature_c).chain(basis.design_temperature_c).reduce(greater)
}

/// Parts by their conditions; the first line is that of parts that say none.
pub(super) fn lines(basis: &Basis, parts: &[Part]) -> Lines {
    let system = Basis {
        design_pressure_pa: highest_pressure(basis, parts),
        design_temperature_c: highest_temperature(basis, parts),
        ..basis.clone()
    };
    let mut bases = vec![];
    let mut place: HashMap<(u64, u64), usize> = HashMap::new();
    let bits = |p: Option<GaugePressure>, t: Option<Temperature>| {
        (p.map_or(u64::MAX, |p| p.pa().to_bits()), t.map_or(u64::MAX, |t| t.c().to_bits()))
    };
    let of = parts
        .iter()
        .map(|part| {
            let (p, t) = (part.design_pressure_pa.or(system.design_pressure_pa), part.design_temperature_c.or(system.design_temperature_c));
            *place.entry(bits(p, t)).or_insert_with(|| {
                bases.push(Basis { design_pressure_pa: p, design_temperature_c: t, ..basis.clone() });
                bases.len() - 1
            })
        })
        .collect();
    if bases.is_empty() {
        bases.push(system);
    }
    Lines { bases, of }
}

/// What keeps the lines of a system from being known: one above the system's figure, or one that nobody gave.
pub(super) fn objections(basis: &Basis, parts: &[Part]) -> Vec<BasisError> {
    let mut all = Vec::new();
    let pressures = parts.iter().any(|p| p.design_pressure_pa.is_some());
    let temperatures = parts.iter().any(|p| p.design_temperature_c.is_some());
    for p in parts {
        match (p.design_pressure_pa, basis.design_pressure_pa) {
            (Some(own), Some(system)) if super::above(own, system) => all.push(BasisError::LineAbove { tag: p.tag.clone(), own, system }),
            (None, None) if pressures => all.push(BasisError::LineMissing { tag: p.tag.clone(), column: "design pressure" }),
            _ => {}
        }
        match (p.design_temperature_c, basis.design_temperature_c) {
            (Some(own), Some(system)) if own.c() > system.c() + 1e-9 => {
                all.push(BasisError::LineHotter { tag: p.tag.clone(), own, system });
            }
            (None, None) if temperatures => all.push(BasisError::LineMissing { tag: p.tag.clone(), column: "design temperature" }),
            _ => {}
        }
    }
    all
}

/// True where a basis multiplies the design pressure.
pub(super) fn multiplies_design(entry: &Entry) -> bool {
    let media = [&entry.liquid, &entry.gas].into_iter().flatten();
    let bounds = media.flat_map(|m| [&m.least, &m.floor, &m.most]).flatten();
    bounds.flat_map(super::bound::Bound::bases).any(|b| b == Base::Design) || entry.service.is_some()
}
