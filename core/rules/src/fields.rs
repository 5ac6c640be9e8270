//! What an empty field means. A field has three states: a value, *none* (declared, with who says so), and empty; empty never means allowed.

use serde::Serialize;

/// What an empty field means.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub enum Empty {
    /// refused where a rule needs it
    Required,
    /// a value is taken that is never wider than any that could be given
    Default,
    /// the field only ever narrows: it becomes *none* by declaration alone, which is printed
    Restriction,
    /// a person's choice, its default the stricter; or a word or number that no rule reads
    Decision,
}

impl Empty {
    /// In a word.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Required => "required",
            Self::Default => "conservative default",
            Self::Restriction => "restriction",
            Self::Decision => "decision",
        }
    }
}

/// One field.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Field {
    /// What it is a field of: `system`, `part`, `basis`, `site`, `gauge`, `liquid`, `method`, `settings`.
    pub of: &'static str,
    /// Its name in the formats.
    pub name: &'static str,
    /// What empty means.
    pub empty: Empty,
    /// The same in words.
    pub means: &'static str,
}

const fn f(of: &'static str, name: &'static str, empty: Empty, means: &'static str) -> Field {
    Field { of, name, empty, means }
}

use Empty::{Decision as D, Default as C, Required as R, Restriction as N};

/// Every field, in the order of the formats.
pub const FIELDS: &[Field] = &[
    f("system", "format", C, "format 1, the first"),
    f("system", "title", D, "no rule reads it"),
    f("system", "worked_in", D, "bar; a standard's own rounding follows it"),
    f("system", "basis", R, "refused"),
    f("system", "parts", R, "refused"),
    f("system", "joints", C, "the parts follow each other as they are listed; no window follows from it"),
    f("system", "gauge", R, "refused"),
    f("system", "also_read", D, "no further gauge"),
    f("system", "water_temperature_c", R, "refused"),
    f("system", "restraint", C, "free to lengthen"),
    f("system", "settings", C, "each setting at its default"),
    f("system", "liquid", D, "water"),
    f("system", "site", C, "each figure of the site empty"),
    f("system", "method", C, "each answer open: an alternative is not released"),
    f("system", "hold_s", C, "the floor of the basis and the project"),
    f("system", "pretest_pa", D, "no low gas test"),
    f("system", "pretest_permitted_by", C, "no maker permits gas in what shatters"),
    f("system", "unknown_history", D, "asked on Prove; true asks for wall and plate"),
    f("system", "specification", D, "the defaults"),
    f("system", "none", D, "nothing declared"),
    f("part", "id", D, "no rule reads it"),
    f("part", "tag", R, "refused"),
    f("part", "kind", R, "refused"),
    f("part", "elevation_m", R, "refused"),
    f("part", "to_elevation_m", D, "declared level: both ends at the one height"),
    f("part", "from", D, "follows the part above"),
    f("part", "to", D, "is followed by the part below"),
    f("part", "valve", C, "no type: the seat of a closed valve is asked for"),
    f(
        "part",
        "positions",
        C,
        "a closed valve shut, any other valve open, a check valve one way, nothing taken out, restrained, pinned or declared; what that leaves open is found at the boundary",
    ),
    f(
        "part",
        "design_pressure_pa",
        C,
        "the system's; refused where it has none and another part has its own; with gas the code's cap is then the system's too",
    ),
    f("part", "design_temperature_c", C, "the system's; refused where it has none and another part has its own"),
    f("part", "outside_diameter_m", R, "no wall is judged; a gas test of a valve or flange is stopped"),
    f("part", "wall_m", R, "no wall is judged: another limit must say what the part bears"),
    f("part", "corrosion_m", N, "nil; gives a thinner wall where it is given"),
    f("part", "earlier_wall_m", D, "no remaining life is printed"),
    f("part", "years_between", D, "no remaining life is printed"),
    f("part", "form", D, "a cylinder; heads are judged where they are listed"),
    f("part", "seam", C, "not known: efficiency 0.7"),
    f("part", "seam_efficiency", C, "by the kind of seam; a riveted seam is not calculated"),
    f("part", "length_m", R, "no volume: a gas test is stopped; of a valve or flange three bores"),
    f("part", "volume_m3", R, "from bore and length; a vessel without one stops a gas test"),
    f("part", "material", R, "no wall or class is judged; refused where a ratio of stresses needs it"),
    f("part", "flange_class", R, "another limit must say what the part bears"),
    f("part", "pn", R, "another limit must say what the part bears"),
    f("part", "rating_pa", R, "another limit must say what the part bears; of a push-on joint 350 psi"),
    f("part", "seat", C, "its rating alone; by class alone it is asked for"),
    f("part", "proven_pa", N, "no old proof narrows it"),
    f("part", "restraint_n", N, "no restraint narrows it"),
    f("part", "sealing_diameter_m", C, "the outside diameter; the thickness of a blind is then not judged, and its limit is asked for"),
    f("part", "bend_deg", C, "the most thrust that any bend could have"),
    f("part", "test_pressure_pa", R, "of a vessel within piping its plate or limit is asked for"),
    f("part", "test_limit_pa", R, "another limit must say what the part bears"),
    f("part", "limit_by", R, "what is not calculated is refused"),
    f("part", "none", D, "nothing declared"),
    f("basis", "id", R, "refused"),
    f("basis", "medium", D, "liquid"),
    f("basis", "design_pressure_pa", R, "every part is asked for its own, or refused"),
    f("basis", "design_temperature_c", R, "every part is asked for its own, or refused where a ratio needs it"),
    f("basis", "working_pressure_pa", R, "refused where the basis multiplies it"),
    f("basis", "working_high_pa", R, "refused where the basis multiplies it"),
    f("basis", "allowable_pressure_pa", R, "refused where the basis multiplies it"),
    f("basis", "plate_pressure_pa", R, "refused where the basis needs it"),
    f("basis", "external_difference_pa", R, "refused where the basis multiplies it"),
    f("basis", "agreed_pressure_pa", D, "the figure of the code; refused where there is none"),
    f("basis", "agreed_hold_s", D, "the floor of the basis; refused where there is none"),
    f("basis", "owners_fall", D, "none besides the basis"),
    f("basis", "bolting", D, "left out of the ratio"),
    f("basis", "over_test_reason", R, "refused more than 5 % above the code's figure"),
    f("basis", "on_top_of", R, "refused for an owner's standard"),
    f("basis", "choices", D, "the first answer of each question, the stricter"),
    f("site", "source_flow_m3_per_s", D, "no time to fill is told"),
    f("site", "water_at_hand_m3", D, "none at hand"),
    f("site", "source_c", D, "as the water is planned"),
    f("site", "surroundings_c", N, "not known: what follows from them says so"),
    f("site", "metal_c", R, "stops the release where the basis has a range for it, and with plastic pipe; else as the water"),
    f("site", "minimum_metal_c", R, "stops a gas test, and a vessel whose basis asks for it"),
    f("site", "chloride_ppm", R, "stops the release with austenitic steel"),
    f("site", "stroke_m3", D, "no rise in a stroke is told"),
    f("site", "pump_flow_m3_per_s", D, "no rise in a second is told"),
    f("site", "relief_capacity_m3_per_s", N, "not held against the pump"),
    f("site", "reaction_s", C, "3 s"),
    f("site", "drain_bore_m", D, "no time to drain is told"),
    f("site", "soil_bearing_pa", D, "no thrust block is told"),
    f("site", "thrust_safety", C, "1.5"),
    f("site", "hydrants", C, "none: the allowance is the least"),
    f("site", "swing_k", D, "what is usual for the surroundings"),
    f("site", "room_m3", N, "not held against the air that people breathe"),
    f("site", "trapped_air_m3", C, "as much as a careful venting leaves in doubt"),
    f("site", "start", D, "no clock is told"),
    f("gauge", "tag", R, "refused"),
    f("gauge", "elevation_m", R, "refused"),
    f("gauge", "full_scale_pa", C, "its error is a division; the release asks for an instrument of the store"),
    f("gauge", "division_pa", R, "refused"),
    f("gauge", "error_of_scale", R, "refused"),
    f("gauge", "unit", D, "bar"),
    f("liquid", "name", R, "refused"),
    f("liquid", "density_kg_m3", R, "refused"),
    f("liquid", "compressibility_per_pa", D, "no volume to pump is told"),
    f("liquid", "expansion_per_k", D, "no change with temperature is told"),
    f("liquid", "flammable", D, "asked with the liquid"),
    f("liquid", "flash_point_c", R, "refused where it burns"),
    f("liquid", "freezes_c", R, "stops the release below 5 °C"),
    f("liquid", "chloride_ppm", R, "stops the release with austenitic steel"),
    f("method", "reasons", R, "stops an alternative"),
    f("method", "conditions", R, "stops an alternative"),
    f("method", "approvals", R, "stops an alternative"),
    f("method", "why_not", R, "stops a waiver"),
    f("method", "gas_share", C, "all of it holds gas"),
    f("method", "water_line_m", R, "stops a hydro-pneumatic test"),
    f("settings", "expected_cooling_k", C, "0.1 K"),
    f("settings", "expected_settling_pa", C, "none"),
    f("settings", "relief_accumulation", C, "10 %"),
];

/// The table as a page.
pub fn page() -> String {
    let mut out = String::from(
        "# What an empty field means\n\nMade from the code by `cargo xtask generate`; do not edit.\n\nA field has three states: a value, *none* (declared, with who says so, and printed), and empty. Empty never means allowed: it is *required* \
         (refused, or stops the release), has a *conservative default* (never wider than any value would give), is a *restriction* (it only ever narrows), \
         or a *decision* (a person's choice, its default the stricter).\n\n| of | field | empty is | that is |\n|---|---|---|---|\n",
    );
    for field in FIELDS {
        out.push_str(&format!("| {} | `{}` | {} | {} |\n", field.of, field.name, field.empty.word(), field.means));
    }
    out
}
