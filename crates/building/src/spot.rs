//! A place something was found, tested or photographed at: the whole building, or one space, boundary or surface of it.

use crate::{Building, Place};
use language::known;
use uuid::Uuid;

/// What a place names.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub enum Spot {
    /// All of the building.
    #[default]
    Whole,
    /// A space.
    Space(Uuid),
    /// A boundary.
    Boundary(Uuid),
    /// A surface.
    Surface(Uuid),
}

impl Spot {
    /// The place with this id in a building; `None` when there is no such place.
    #[must_use]
    pub fn find(building: &Building, id: Uuid) -> Option<Self> {
        if building.space(id).is_some() {
            Some(Self::Space(id))
        } else if building.boundary(id).is_some() {
            Some(Self::Boundary(id))
        } else {
            building.surface(id).map(|_| Self::Surface(id))
        }
    }

    /// The place a form names; the whole building for no text. `None` when there is no such place.
    #[must_use]
    pub fn parse(building: &Building, text: &str) -> Option<Self> {
        match text.trim() {
            "" => Some(Self::Whole),
            text => Self::find(building, text.parse().ok()?),
        }
    }

    /// From the three columns of a row, at most one of which is filled.
    #[must_use]
    pub fn of_columns(space: Option<Uuid>, boundary: Option<Uuid>, surface: Option<Uuid>) -> Self {
        let place = space.map(Self::Space).or(boundary.map(Self::Boundary));
        place.or(surface.map(Self::Surface)).unwrap_or_default()
    }

    /// The columns of a row: space, boundary, surface.
    #[must_use]
    pub const fn columns(self) -> (Option<Uuid>, Option<Uuid>, Option<Uuid>) {
        match self {
            Self::Whole => (None, None, None),
            Self::Space(id) => (Some(id), None, None),
            Self::Boundary(id) => (None, Some(id), None),
            Self::Surface(id) => (None, None, Some(id)),
        }
    }

    /// Its id; none for the whole building.
    #[must_use]
    pub const fn id(self) -> Option<Uuid> {
        match self {
            Self::Whole => None,
            Self::Space(id) | Self::Boundary(id) | Self::Surface(id) => Some(id),
        }
    }

    /// The space it is drawn in; none for the whole building, and for a place that is no longer there.
    #[must_use]
    pub fn space_in(self, building: &Building) -> Option<Uuid> {
        match self {
            Self::Whole => None,
            Self::Space(id) => building.space(id).map(|s| s.id),
            Self::Boundary(id) => building.boundary(id).map(|b| b.space_id),
            Self::Surface(id) => building.surface(id).map(|s| s.space_id),
        }
    }

    /// Whether it concerns a space: it lies in it, or is the whole building.
    #[must_use]
    pub fn concerns(self, building: &Building, space: Option<Uuid>) -> bool {
        space.is_none() || self == Self::Whole || self.space_in(building) == space
    }

    /// What it is called.
    #[must_use]
    pub fn name(self, building: &Building) -> &str {
        let name = match self {
            Self::Whole => Some(known("the whole building")),
            Self::Space(id) => building.space(id).map(|s| s.name.as_str()),
            Self::Boundary(id) => building.boundary(id).map(|b| b.name.as_str()),
            Self::Surface(id) => building.surface(id).map(|s| s.name.as_str()),
        };
        name.unwrap_or_else(|| known("a place since removed"))
    }
}

impl From<Place> for Spot {
    fn from(place: Place) -> Self {
        match place {
            Place::Outdoors => Self::Whole,
            Place::Space(id) => Self::Space(id),
            Place::Surface(id) => Self::Surface(id),
        }
    }
}
