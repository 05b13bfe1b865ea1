//! Buildings as spaces that exchange air, boundaries between them, surfaces on those, and stations to read at.

use crate::buildups::buildup;
use crate::construction::{Construction, OwnMaterial, Stock, Variant};
use crate::edit::MOST_SPACES;
use crate::kinds::{Face, Level, Material, SpaceKind};
use crate::unfold::Layout;
use language::known;
use uuid::Uuid;

/// A body of air: a room, an attic, a crawl space, a cabin.
#[derive(Debug, Clone, PartialEq)]
pub struct Space {
    /// Identity.
    pub id: Uuid,
    /// What it is called.
    pub name: String,
    /// What it is.
    pub kind: SpaceKind,
    /// Where it stands in the cut.
    pub level: Level,
    /// Place in its level, left to right.
    pub column: i32,
    /// Floor area, m².
    pub area_m2: f64,
    /// Mean height, m.
    pub height_m: f64,
}

impl Space {
    /// Volume of air, m³.
    #[must_use]
    pub fn volume_m3(&self) -> f64 {
        self.area_m2 * self.height_m
    }
}

/// What lies on the far side of a boundary.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Side {
    /// Another space.
    Space(Uuid),
    /// The weather.
    Outdoors,
    /// Soil.
    Ground,
}

/// What separates a space from its neighbor.
#[derive(Debug, Clone, PartialEq)]
pub struct Boundary {
    /// Identity.
    pub id: Uuid,
    /// What it is called.
    pub name: String,
    /// The space whose face it is.
    pub space_id: Uuid,
    /// What lies beyond.
    pub beyond: Side,
    /// Which face of the space.
    pub face: Face,
    /// Whether damp soil lies bare on it.
    pub bare_soil: bool,
    /// Id of its build-up in the library; `None` while nobody has said how it is built.
    pub buildup: Option<String>,
}

impl Boundary {
    /// Whether both lie along the same face toward the same side, from whichever space they are seen.
    #[must_use]
    pub fn along(&self, other: &Self) -> bool {
        let flipped = other.beyond == Side::Space(self.space_id) && self.beyond == Side::Space(other.space_id);
        flipped || (self.space_id, self.beyond, self.face) == (other.space_id, other.beyond, other.face)
    }

    /// Whether the air of a space touches it.
    #[must_use]
    pub fn touches(&self, space: Uuid) -> bool {
        self.space_id == space || self.beyond == Side::Space(space)
    }
}

/// A place on a boundary whose temperature is read.
#[derive(Debug, Clone, PartialEq)]
pub struct Surface {
    /// Identity.
    pub id: Uuid,
    /// The boundary it belongs to.
    pub boundary_id: Uuid,
    /// The space whose air touches it.
    pub space_id: Uuid,
    /// What it is called.
    pub name: String,
    /// A few letters for the drawing.
    pub short: String,
    /// What it is made of.
    pub material: Material,
}

/// Where a station stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Place {
    /// Outdoor air.
    Outdoors,
    /// The air of a space.
    Space(Uuid),
    /// A surface.
    Surface(Uuid),
}

impl Place {
    /// Its space and its surface; neither for outdoors.
    #[must_use]
    pub const fn columns(self) -> (Option<Uuid>, Option<Uuid>) {
        match self {
            Self::Outdoors => (None, None),
            Self::Space(id) => (Some(id), None),
            Self::Surface(id) => (None, Some(id)),
        }
    }
}

/// A point in the walking order at which something is read.
#[derive(Debug, Clone, PartialEq)]
pub struct Station {
    /// Identity.
    pub id: Uuid,
    /// Where it is.
    pub place: Place,
}

/// A whole building; stations stand in walking order.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Building {
    /// Spaces in walking order.
    pub spaces: Vec<Space>,
    /// Boundaries.
    pub boundaries: Vec<Boundary>,
    /// Surfaces.
    pub surfaces: Vec<Surface>,
    /// Stations in walking order.
    pub stations: Vec<Station>,
    /// How boundaries are built where somebody said more than the library's usual one, in their order: the first of a boundary
    /// stands.
    pub variants: Vec<Variant>,
    /// Materials of the practice's own that they may be built of, by name.
    pub own: Vec<OwnMaterial>,
    /// Spaces somebody measured, laid flat.
    pub layouts: Vec<Layout>,
}

impl Building {
    /// The space with this id.
    #[must_use]
    pub fn space(&self, id: Uuid) -> Option<&Space> {
        self.spaces.iter().find(|s| s.id == id)
    }

    /// The surface with this id.
    #[must_use]
    pub fn surface(&self, id: Uuid) -> Option<&Surface> {
        self.surfaces.iter().find(|s| s.id == id)
    }

    /// The boundary with this id.
    #[must_use]
    pub fn boundary(&self, id: Uuid) -> Option<&Boundary> {
        self.boundaries.iter().find(|b| b.id == id)
    }

    /// The station with this id.
    #[must_use]
    pub fn station(&self, id: Uuid) -> Option<&Station> {
        self.stations.iter().find(|s| s.id == id)
    }

    /// The station at a place.
    #[must_use]
    pub fn station_at(&self, place: Place) -> Option<&Station> {
        self.stations.iter().find(|s| s.place == place)
    }

    /// The kinds of its spaces.
    #[must_use]
    pub fn kinds(&self) -> Vec<SpaceKind> {
        self.spaces.iter().map(|s| s.kind).collect()
    }

    /// The space whose air a place belongs to; `None` outdoors.
    #[must_use]
    pub fn space_of(&self, place: Place) -> Option<&Space> {
        match place {
            Place::Outdoors => None,
            Place::Space(id) => self.space(id),
            Place::Surface(id) => self.surface(id).and_then(|s| self.space(s.space_id)),
        }
    }

    /// What a place is called.
    #[must_use]
    pub fn place_name(&self, place: Place) -> &str {
        match place {
            Place::Outdoors => known("Outdoor air"),
            Place::Space(id) => self.space(id).map_or("", |s| &s.name),
            Place::Surface(id) => self.surface(id).map_or("", |s| &s.name),
        }
    }

    /// Surfaces whose air is that of a space, in walking order.
    pub fn surfaces_in(&self, space_id: Uuid) -> impl Iterator<Item = &Surface> {
        self.surfaces.iter().filter(move |s| s.space_id == space_id)
    }

    /// Boundaries of a space, on either side.
    pub fn boundaries_of(&self, space_id: Uuid) -> impl Iterator<Item = &Boundary> {
        self.boundaries.iter().filter(move |b| b.touches(space_id))
    }

    /// A space laid flat, and whether somebody measured it: else it is assumed from its area.
    #[must_use]
    pub fn layout(&self, space: &Space) -> (Layout, bool) {
        let measured = self.layouts.iter().find(|l| l.space_id == space.id);
        measured.map_or_else(|| (Layout::assumed(space), false), |l| (l.clone(), true))
    }

    /// Ways a boundary is, or could be, built: what somebody said, else the library's usual one; none where nobody said.
    #[must_use]
    pub fn variants_of(&self, boundary: &Boundary) -> Vec<Variant> {
        let said: Vec<Variant> = self.variants.iter().filter(|v| v.boundary_id == boundary.id).cloned().collect();
        if said.is_empty() {
            let usual = boundary.buildup.as_deref().and_then(buildup);
            return usual.map(|b| b.variant(boundary.id)).into_iter().collect();
        }
        said
    }

    /// How a boundary stands, ready to be computed; `None` where nobody said, or what was said is no construction.
    #[must_use]
    pub fn construction(&self, boundary: &Boundary) -> Option<Construction> {
        self.stock().construct(self.variants_of(boundary).first()?, boundary.face).ok()
    }

    /// What can be built with.
    #[must_use]
    pub fn stock(&self) -> Stock<'_> {
        Stock { own: &self.own }
    }

    /// Whether everything hangs together: at least one space, boundaries of spaces that are there, surfaces on
    /// boundaries of their space, and one station for each of them.
    #[must_use]
    pub fn is_whole(&self) -> bool {
        let space = |id| self.space(id).is_some();
        let station = |place| self.stations.iter().filter(|s| s.place == place).count() == 1;
        (1..=MOST_SPACES).contains(&self.spaces.len())
            && self.stations.len() == 1 + self.spaces.len() + self.surfaces.len()
            && station(Place::Outdoors)
            && self.spaces.iter().all(|s| station(Place::Space(s.id)))
            && self.surfaces.iter().all(|s| station(Place::Surface(s.id)))
            && self.boundaries.iter().all(|b| match b.beyond {
                Side::Space(other) => space(b.space_id) && space(other),
                Side::Outdoors | Side::Ground => space(b.space_id),
            })
            && self.surfaces.iter().all(|s| self.boundary(s.boundary_id).is_some_and(|b| b.touches(s.space_id)))
    }
}
