//! Why a value cannot be taken from the library.

/// Why a value cannot be taken from a table.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum TableError {
    /// No such material.
    #[error("material \"{asked}\" is not in the library: use one of {known}")]
    UnknownMaterial {
        /// what was asked for
        asked: String,
        /// what there is
        known: String,
    },
    /// No allowable stress.
    #[error("no allowable stress is known for {material}: give the owner's figure in the project's library, or another material")]
    NoAllowableStress {
        /// the material
        material: String,
    },
    /// No stress by the code of the basis.
    #[error(
        "no allowable stress of {material} is known in the table {table}: give the owner's figure in the project's library, or another material"
    )]
    NoStressByCode {
        /// the material
        material: String,
        /// the table of the code
        table: String,
    },
    /// Temperature outside the table.
    #[error("{}", self.say(crate::say::Say::default()))]
    OutsideTable {
        /// the material or flange
        what: String,
        /// temperature asked for
        asked_c: f64,
        /// end of the table
        most_c: f64,
    },
    /// No such pipe.
    #[error("no pipe of {pipe} is in the {table} table: {help}")]
    UnknownPipe {
        /// size and wall
        pipe: String,
        /// the table
        table: &'static str,
        /// what would be accepted
        help: &'static str,
    },
    /// A class without a material.
    #[error(
        "class {class} alone does not say what it bears, for its rating follows from the material: give the material too, or its own test limit"
    )]
    ClassAlone {
        /// the class
        class: u16,
    },
    /// No such flange.
    #[error("no rating is known for class {class} in material group {group}: give the flange's own test limit")]
    UnknownFlange {
        /// the class
        class: u16,
        /// the group
        group: String,
    },
    /// An override of something that is not there.
    #[error("the project's figure for {place} has no place in the library: {help}")]
    NoSuchPlace {
        /// table, row and column
        place: String,
        /// what would be accepted
        help: String,
    },
    /// An override without a reason or a source.
    #[error("the project's figure for {place} needs a reason and a source: say why it differs and where it comes from")]
    NoReason {
        /// table, row and column
        place: String,
    },
    /// An override that is no figure.
    #[error("\"{value}\" for {place} is not a figure above zero: give it in the unit of its column, with a point")]
    NoFigure {
        /// table, row and column
        place: String,
        /// the value
        value: String,
    },
}

impl TableError {
    /// What is wrong and what to do, in a person's units.
    pub fn say(&self, say: crate::say::Say) -> String {
        let at = |c: f64| say.temperature(quantity::Temperature::from_c(c));
        match self {
            Self::OutsideTable { what, asked_c, most_c } => {
                format!(
                    "{what} has values from {} to {} only, not at {}: the table is never extrapolated",
                    at(-29.0),
                    at(*most_c),
                    at(*asked_c)
                )
            }
            other => other.to_string(),
        }
    }
}
