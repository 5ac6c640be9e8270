//! The size and the wall of a pipe as people write them.

use crate::parts::Row;
use quantity::Length;
use quantity::bounds::{DIAMETER, WALL};
use quantity::parse::{self, ParseQuantityError};
use rules::library::{Library, Nominal, pipe};

/// "DN150", "6 in", "NPS 6": a pipe of the table of its material; "168.3 mm": an outside diameter.
enum Size {
    Nominal(Nominal, Length),
    Diameter(Length),
}

/// Why a size is none.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
enum SizeError {
    /// no size of the table of its material
    #[error("\"{text}\" is not {system} of the table: {HOW}")]
    NotInTable {
        /// what was written
        text: String,
        /// "a DN"
        system: &'static str,
    },
    /// neither a name nor a length with its unit
    #[error("\"{text}\" does not say what it is: {HOW}")]
    Unclear {
        /// what was written
        text: String,
    },
    /// no outside diameter
    #[error(transparent)]
    Diameter(#[from] ParseQuantityError),
}

/// How a size is written.
const HOW: &str = "write DN150, 6 in, NPS 6 or an outside diameter such as 168.3 mm";

fn size(library: &Library, family: &str, text: &str) -> Result<Size, SizeError> {
    let plain = text.trim().to_uppercase().replace(',', ".");
    let not_in_table = |system| SizeError::NotInTable { text: text.to_owned(), system };
    if let Some(dn) = plain.strip_prefix("DN") {
        let found = dn.trim().parse().ok().map(Nominal::Dn).and_then(|n| Some(Size::Nominal(n, library.outside_diameter(n, family)?)));
        return found.ok_or_else(|| not_in_table("a DN"));
    }
    let inches = plain.strip_prefix("NPS").or_else(|| plain.strip_suffix("IN")).or_else(|| plain.strip_suffix('"'));
    if let Some(nps) = inches {
        let found = nps.trim().parse().ok().map(Nominal::Nps).and_then(|n| Some(Size::Nominal(n, library.outside_diameter(n, family)?)));
        // from 14 in up the outside diameter of steel is the size itself, also beyond the table
        let large = || {
            let inches = nps.trim().parse::<f64>().ok().filter(|n| *n >= 14.0)?;
            (!matches!(family, "pvc" | "cpvc" | "pe" | "ductile_iron")).then(|| Size::Diameter(Length::from_inch(inches)))
        };
        return found.or_else(large).ok_or_else(|| not_in_table("an NPS"));
    }
    if !plain.ends_with("MM") && !plain.ends_with('M') {
        return Err(SizeError::Unclear { text: text.to_owned() });
    }
    Ok(Size::Diameter(parse::length(&DIAMETER, text, "mm")?))
}

/// "sch 40", "STD", "10S", "DR18", "class 52", "K9", "type L": of the table of the material; "SDR 11": a ratio; "7.11 mm" or "7.11": a thickness. A
/// bare whole number could be several of these and is asked about.
pub(crate) fn size_and_wall(row: &mut Row, material: Option<&str>) -> (Option<Length>, Option<Length>) {
    let (size_text, wall_text) = (row.text("size").to_owned(), row.text("wall").to_owned());
    if size_text.trim().is_empty() {
        if !wall_text.trim().is_empty() {
            row.problem("size", "a wall is given without a size: write DN150, 6 in or an outside diameter in mm".to_owned());
        }
        return (None, None);
    }
    let library = row.library;
    let family = material.and_then(|m| library.material(m).ok()).map_or("", |m| m.family.as_str());
    let size = match size(library, family, &size_text) {
        Ok(s) => s,
        Err(e) => {
            row.problem("size", e.to_string());
            return (None, None);
        }
    };
    let (Size::Nominal(_, diameter) | Size::Diameter(diameter)) = size;
    let plain = wall_text.trim().to_uppercase();
    if plain.is_empty() {
        return (Some(diameter), None);
    }
    // "CL 52" and "cl.52" are what people write for a class
    let plain = match plain.strip_prefix("CL").map(|c| c.trim_start_matches(['.', ' '])) {
        Some(class) if class.parse::<u32>().is_ok() => format!("CLASS {class}"),
        _ => plain,
    };
    let ratio = plain.strip_prefix("SDR").or_else(|| plain.strip_prefix("DR")).and_then(|r| r.trim().parse::<f64>().ok());
    let tabled = matches!((family, &size), ("pvc", Size::Nominal(..)));
    if let Some(ratio) = ratio.filter(|_| !tabled) {
        if !(4.0..=60.0).contains(&ratio) {
            row.problem("wall", format!("\"{plain}\" is not a dimension ratio: write SDR 11, 4 to 60"));
            return (Some(diameter), None);
        }
        return (Some(diameter), Some(pipe::wall_by_ratio(diameter, ratio)));
    }
    let named = plain.strip_prefix("SCH").map(|s| s.trim_start_matches(['.', ' ']).to_owned());
    let letters =
        plain.contains(|c: char| c.is_ascii_alphabetic()) && !plain.ends_with("MM") && !plain.ends_with("IN") && !plain.ends_with('M');
    let schedule = named.or_else(|| letters.then(|| plain.clone()));
    let wall = match (schedule, size) {
        (Some(schedule), Size::Nominal(nominal, _)) => library.pipe(nominal, &schedule, family).map(|p| p.wall).map_err(|e| e.to_string()),
        (Some(_), Size::Diameter(_)) => Err("a schedule needs a DN or NPS; for a plain diameter give the wall in mm".to_owned()),
        (None, Size::Nominal(..)) if plain.parse::<u32>().is_ok() => {
            Err(format!("\"{plain}\" may be a schedule or millimetres: write \"sch {plain}\" or \"{plain} mm\""))
        }
        (None, _) => parse::length(&WALL, &wall_text, "mm").map_err(|e| e.to_string()),
    };
    match wall {
        Ok(w) => (Some(diameter), Some(w)),
        Err(e) => {
            row.problem("wall", e);
            (Some(diameter), None)
        }
    }
}
