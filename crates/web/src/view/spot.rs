//! A place something was found, tested or photographed at: the whole building, or one space, boundary or surface of it.

use building::Building;
use store::FindingRow;
use uuid::Uuid;

/// A place as rows hold it: at most one of the three.
#[derive(Clone, Copy, Default, PartialEq, Eq)]
pub struct Spot {
    pub space: Option<Uuid>,
    pub boundary: Option<Uuid>,
    pub surface: Option<Uuid>,
}

impl From<&FindingRow> for Spot {
    fn from(row: &FindingRow) -> Self {
        Self { space: row.space_id, boundary: row.boundary_id, surface: row.surface_id }
    }
}

impl Spot {
    /// The place with this id in a building; the whole of it for no id. `None` when there is no such place.
    pub fn parse(building: &Building, text: &str) -> Option<Self> {
        if text.trim().is_empty() {
            return Some(Self::default());
        }
        let id: Uuid = text.trim().parse().ok()?;
        let some = |there: bool| there.then_some(id);
        let spot = Self {
            space: some(building.space(id).is_some()),
            boundary: some(building.boundary(id).is_some()),
            surface: some(building.surface(id).is_some()),
        };
        (spot != Self::default()).then_some(spot)
    }

    pub fn id(self) -> Option<Uuid> {
        self.space.or(self.boundary).or(self.surface)
    }

    /// What it is called.
    pub fn name(self, building: &Building) -> String {
        let named = |name: Option<&str>| name.unwrap_or("a place since removed").to_owned();
        match (self.space, self.boundary, self.surface) {
            (Some(id), ..) => named(building.space(id).map(|s| s.name.as_str())),
            (_, Some(id), _) => named(building.boundary(id).map(|b| b.name.as_str())),
            (_, _, Some(id)) => named(building.surface(id).map(|s| s.name.as_str())),
            _ => "the whole building".into(),
        }
    }

    /// The space it is drawn in.
    pub fn space_in(self, building: &Building) -> Option<Uuid> {
        let of_boundary = || self.boundary.and_then(|id| building.boundary(id)).map(|b| b.space_id);
        let of_surface = || self.surface.and_then(|id| building.surface(id)).map(|s| s.space_id);
        self.space.or_else(of_boundary).or_else(of_surface)
    }
}

/// Places to choose from: a space with its boundaries and surfaces under its name.
pub fn choices(building: &Building) -> Vec<(String, Vec<(String, String)>)> {
    let of = |space: &building::Space| {
        let mut list = vec![(space.id.to_string(), format!("{}, all of it", space.name))];
        let own = building.boundaries.iter().filter(|b| b.space_id == space.id);
        list.extend(own.map(|b| (b.id.to_string(), b.name.clone())));
        list.extend(building.surfaces_in(space.id).map(|s| (s.id.to_string(), format!("{} (surface)", s.name))));
        (space.name.clone(), list)
    };
    building.spaces.iter().map(of).collect()
}
