//! An instant.

use serde::{Deserialize, Deserializer, Serialize, Serializer};

/// A moment in time, to a microsecond. Written as RFC 3339 in UTC.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Default)]
pub struct Instant(i64);

impl Instant {
    /// From µs since 1970-01-01T00:00:00Z.
    pub const fn from_us(us: i64) -> Self {
        Self(us)
    }

    /// µs since 1970-01-01T00:00:00Z.
    pub const fn us(self) -> i64 {
        self.0
    }

    /// Seconds from another instant to this one.
    pub fn since_s(self, earlier: Self) -> f64 {
        (self.0 as i128 - earlier.0 as i128) as f64 * 1e-6
    }

    /// So many seconds later; never beyond what can be counted.
    #[must_use]
    pub fn plus_s(self, seconds: f64) -> Self {
        self.plus_us((seconds * 1e6) as i64)
    }

    /// So many µs later; never beyond what can be counted.
    #[must_use]
    pub const fn plus_us(self, us: i64) -> Self {
        Self(self.0.saturating_add(us))
    }

    pub(crate) fn timestamp(self) -> jiff::Timestamp {
        jiff::Timestamp::from_microsecond(self.0).unwrap_or_default()
    }

    /// From RFC 3339 with its zone; none where it is not.
    pub fn parse(text: &str) -> Option<Self> {
        text.parse::<jiff::Timestamp>().ok().map(|t| Self(t.as_microsecond()))
    }
}

impl std::fmt::Display for Instant {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}", self.timestamp())
    }
}

impl Serialize for Instant {
    fn serialize<S: Serializer>(&self, s: S) -> Result<S::Ok, S::Error> {
        s.collect_str(self)
    }
}

impl<'de> Deserialize<'de> for Instant {
    fn deserialize<D: Deserializer<'de>>(d: D) -> Result<Self, D::Error> {
        let text = std::borrow::Cow::<'de, str>::deserialize(d)?;
        Self::parse(&text).ok_or_else(|| serde::de::Error::custom("a time is written as 2026-03-01T14:05:00Z, with its zone"))
    }
}

impl utoipa::PartialSchema for Instant {
    fn schema() -> utoipa::openapi::RefOr<utoipa::openapi::schema::Schema> {
        use utoipa::openapi::schema::{KnownFormat, ObjectBuilder, SchemaFormat, Type};
        ObjectBuilder::new().schema_type(Type::String).format(Some(SchemaFormat::KnownFormat(KnownFormat::DateTime))).into()
    }
}

impl utoipa::ToSchema for Instant {}
