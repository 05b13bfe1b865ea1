//! A place on the section as an address names it: `at=outdoors`, or the id of a space, boundary or surface.

use building::{Place, Spot};
use drawing::section::Chosen;
use serde::{Deserialize, Deserializer};
use std::fmt;
use uuid::Uuid;

/// A place on the section.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct At(pub Chosen);

impl At {
    /// The outdoor air.
    pub const OUTDOORS: Self = Self(Chosen::Outdoors);

    /// A space, boundary or surface; none for the outdoor air.
    pub const fn part(self) -> Option<Uuid> {
        match self.0 {
            Chosen::Outdoors => None,
            Chosen::Part(id) => Some(id),
        }
    }
}

impl From<Place> for At {
    fn from(place: Place) -> Self {
        Spot::from(place).id().map_or(Self::OUTDOORS, |id| Self(Chosen::Part(id)))
    }
}

impl fmt::Display for At {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.0 {
            Chosen::Outdoors => f.write_str("outdoors"),
            Chosen::Part(id) => id.fmt(f),
        }
    }
}

impl<'de> Deserialize<'de> for At {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let text = String::deserialize(deserializer)?;
        match text.parse::<Uuid>() {
            // As addresses named the outdoor air before.
            Ok(id) if id.is_nil() => Ok(Self::OUTDOORS),
            Ok(id) => Ok(Self(Chosen::Part(id))),
            Err(_) if text == "outdoors" => Ok(Self::OUTDOORS),
            Err(e) => Err(serde::de::Error::custom(e)),
        }
    }
}
