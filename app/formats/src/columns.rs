//! Columns of the grid of parts: what each is called, what a bare cell in it means, and which are seldom filled.

use quantity::dimension::Dimension;
use serde::Serialize;

/// A column of the grid.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, utoipa::ToSchema)]
pub struct GridColumn {
    /// Its name.
    pub name: &'static str,
    /// What people also call it, in small letters.
    #[serde(skip)]
    pub also: &'static [&'static str],
    /// Unit in which a cell without one is read; empty where there is none, and for a pressure, which is read in the unit that the request names.
    pub unit: &'static str,
    /// What it measures, where a person may read it in a unit of their own.
    pub dimension: Option<Dimension>,
    /// True for what is read in the smaller unit of that dimension: mm or inches.
    pub small: bool,
    /// True where most systems leave it empty.
    pub seldom: bool,
    /// An example; empty where none is shown.
    pub example: &'static str,
}

impl GridColumn {
    const fn new(name: &'static str, also: &'static [&'static str]) -> Self {
        Self { name, also, unit: "", dimension: None, small: false, seldom: false, example: "" }
    }
    const fn of(self, dimension: Dimension, unit: &'static str) -> Self {
        Self { dimension: Some(dimension), unit, ..self }
    }
    const fn small(self) -> Self {
        Self { small: true, ..self }
    }
    const fn in_unit(self, unit: &'static str) -> Self {
        Self { unit, ..self }
    }
    const fn seldom(self) -> Self {
        Self { seldom: true, ..self }
    }
    const fn like(self, example: &'static str) -> Self {
        Self { example, ..self }
    }
    /// True for a pressure: the unit that stands beside the column is kept with a bare cell.
    pub fn is_pressure(&self) -> bool {
        self.dimension == Some(Dimension::GaugePressurePa)
    }
    /// True where the name of the column may carry a unit.
    pub fn is_measured(&self) -> bool {
        self.dimension.is_some() || !self.unit.is_empty() || self.name == "size"
    }
}

/// Every column, in order.
pub const COLUMNS: [GridColumn; 29] = [
    GridColumn::new("tag", &["part", "name", "item", "teil"]).like("Top run"),
    GridColumn::new("kind", &["type", "art"]).like("pipe"),
    GridColumn::new("height", &["elevation", "level", "z", "höhe", "hoehe"]).of(Dimension::LengthM, "m").like("18.5"),
    GridColumn::new("size", &["dn", "nps", "diameter", "nennweite"]).like("DN150"),
    GridColumn::new("wall", &["schedule", "sch", "thickness", "wand", "wandstärke"]).in_unit("mm").like("sch 40"),
    GridColumn::new("length", &["länge", "laenge", "face length"]).of(Dimension::LengthM, "m").like("120"),
    GridColumn::new("material", &["werkstoff"]).like("A106-B"),
    GridColumn::new("class", &["rating class", "flange class", "pn", "klasse"]).like("150"),
    GridColumn::new("rating", &["maker's rating", "nenndruck"]).of(Dimension::GaugePressurePa, "").like("80"),
    GridColumn::new("limit", &["test limit", "max test pressure", "prüfgrenze"]).of(Dimension::GaugePressurePa, "").like("66"),
    GridColumn::new("volume", &["content", "volumen", "inhalt"]).of(Dimension::VolumeM3, "m³").like("2.4 L"),
    GridColumn::new("design pressure", &["design", "auslegungsdruck"]).of(Dimension::GaugePressurePa, "").seldom(),
    GridColumn::new("design temperature", &["auslegungstemperatur"]).of(Dimension::TemperatureC, "°C").seldom(),
    GridColumn::new("seal", &["sealing diameter", "gasket", "gasket diameter", "dichtung"]).of(Dimension::LengthM, "mm").small().seldom(),
    GridColumn::new("restraint", &["thrust restraint", "anchor", "abstützung"]).in_unit("kN").seldom(),
    GridColumn::new("bend", &["angle", "winkel"]).in_unit("°").seldom(),
    GridColumn::new("test pressure", &["vessel test pressure", "prüfdruck"]).of(Dimension::GaugePressurePa, "").seldom(),
    GridColumn::new("proven", &["last proof", "proof"]).of(Dimension::GaugePressurePa, "").seldom(),
    GridColumn::new("seat", &["sitz"]).seldom(),
    GridColumn::new("corrosion", &["corrosion allowance", "korrosion"]).of(Dimension::LengthM, "mm").small().seldom(),
    GridColumn::new("limit by", &["named by"]).seldom(),
    GridColumn::new("form", &["head", "head form"]).seldom(),
    GridColumn::new("seam", &["joint efficiency", "weld"]).seldom(),
    GridColumn::new("wall before", &["earlier wall", "nominal wall"]).of(Dimension::LengthM, "mm").small().seldom(),
    GridColumn::new("years between", &["years"]).in_unit("years").seldom(),
    GridColumn::new("to height", &["height 2", "to elevation"]).of(Dimension::LengthM, "m").seldom(),
    GridColumn::new("from", &["from point"]).seldom(),
    GridColumn::new("to", &["to point"]).seldom(),
    GridColumn::new("position", &["line-up", "lineup", "stands", "valve position", "stellung"]).seldom(),
];

/// Columns of the first format, in which rows were stored by place.
pub(crate) const FIRST: [&str; 18] = [
    "tag",
    "kind",
    "height",
    "size",
    "wall",
    "length",
    "material",
    "class",
    "rating",
    "limit",
    "volume",
    "seal",
    "restraint",
    "bend",
    "test pressure",
    "proven",
    "seat",
    "corrosion",
];
