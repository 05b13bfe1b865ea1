//! The starter building of each structure kind, from `data/structures.toml`.

use crate::{
    Boundary, Building, Face, Level, Material, Place, Shell, Side, Space, SpaceKind, Station, Structure, Surface,
};
use language::known_of;
use serde::Deserialize;
use std::sync::LazyLock;
use uuid::Uuid;

/// A starter building: keys instead of identities.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Blueprint {
    /// Structure kind.
    pub id: Structure,
    /// Plain words.
    pub name: String,
    /// One line on what it is.
    pub note: String,
    /// Outline of the drawing.
    pub shell: Shell,
    /// Spaces in walking order.
    #[serde(rename = "space")]
    pub spaces: Vec<SpacePlan>,
    /// Boundaries with their surfaces.
    #[serde(rename = "boundary")]
    pub boundaries: Vec<BoundaryPlan>,
}

/// A space of a blueprint.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SpacePlan {
    /// Name within the blueprint.
    pub key: String,
    /// What it is called.
    pub name: String,
    /// What it is.
    pub kind: SpaceKind,
    /// Row of the cut.
    pub level: Level,
    /// Place in its row.
    #[serde(default)]
    pub column: i32,
    /// Floor area, m².
    pub area_m2: f64,
    /// Mean height, m.
    pub height_m: f64,
}

/// A boundary of a blueprint.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct BoundaryPlan {
    /// The space it belongs to and what lies beyond: a space's key, `outdoors` or `ground`.
    pub of: [String; 2],
    /// Face of the first space.
    pub face: Face,
    /// What it is called.
    pub name: String,
    /// Whether damp soil lies bare on it.
    #[serde(default)]
    pub bare_soil: bool,
    /// Id of its usual build-up.
    pub buildup: Option<String>,
    /// Surfaces read on it, from the first space's side.
    pub surfaces: Vec<SurfacePlan>,
}

/// A surface of a blueprint.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SurfacePlan {
    /// What it is called.
    pub name: String,
    /// A few letters for the drawing.
    pub short: String,
    /// What it is made of.
    pub material: Material,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    #[serde(rename = "structure")]
    structures: Vec<Blueprint>,
}

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static BLUEPRINTS: LazyLock<Vec<Blueprint>> = LazyLock::new(|| {
    let file: File = toml::from_str(include_str!("../data/structures.toml")).expect("structures.toml is well formed");
    file.structures
});

/// Every starter building, in the order offered.
#[must_use]
pub fn blueprints() -> &'static [Blueprint] {
    &BLUEPRINTS
}

/// The starter building of a structure kind.
#[must_use]
pub fn blueprint(structure: Structure) -> Option<&'static Blueprint> {
    BLUEPRINTS.iter().find(|b| b.id == structure)
}

impl Blueprint {
    /// Reads one blueprint in the form of an entry of `data/structures.toml`.
    ///
    /// # Errors
    /// What is wrong with the text, in words.
    pub fn from_toml(text: &str) -> Result<Self, String> {
        toml::from_str(text).map_err(|e| e.to_string())
    }

    /// Builds it, drawing every identity from `new_id` and naming things in the language spoken. Stations come outdoors first, then space by space: its air,
    /// then its surfaces.
    ///
    /// A boundary or surface that names a space not in the blueprint is left out; a test keeps the shipped table whole.
    pub fn build(&self, mut new_id: impl FnMut() -> Uuid) -> Building {
        let spaces: Vec<(&str, Space)> = self.spaces.iter().map(|s| (s.key.as_str(), s.build(new_id()))).collect();
        let id_of = |key: &str| spaces.iter().find(|(k, _)| *k == key).map(|(_, s)| s.id);
        let mut building = Building::default();
        for plan in &self.boundaries {
            let beyond = match plan.of[1].as_str() {
                "outdoors" => Some(Side::Outdoors),
                "ground" => Some(Side::Ground),
                key => id_of(key).map(Side::Space),
            };
            let (Some(space_id), Some(beyond)) = (id_of(&plan.of[0]), beyond) else { continue };
            let id = new_id();
            let BoundaryPlan { name, face, bare_soil, buildup, .. } = plan.clone();
            building.boundaries.push(Boundary {
                name: known_of(&name),
                id,
                space_id,
                beyond,
                face,
                bare_soil,
                buildup,
            });
            building.surfaces.extend(plan.surfaces.iter().map(|s| s.build(new_id(), id, space_id)));
        }
        building.spaces = spaces.into_iter().map(|(_, s)| s).collect();
        building.stations = walking_order(&building).into_iter().map(|place| Station { id: new_id(), place }).collect();
        building
    }
}

fn walking_order(building: &Building) -> Vec<Place> {
    let mut places = vec![Place::Outdoors];
    for space in &building.spaces {
        places.push(Place::Space(space.id));
        places.extend(building.surfaces_in(space.id).map(|s| Place::Surface(s.id)));
    }
    places
}

impl SpacePlan {
    fn build(&self, id: Uuid) -> Space {
        let Self { name, kind, level, column, area_m2, height_m, .. } = self.clone();
        Space { id, name: known_of(&name), kind, level, column, area_m2, height_m }
    }
}

impl SurfacePlan {
    fn build(&self, id: Uuid, boundary_id: Uuid, space_id: Uuid) -> Surface {
        let Self { name, short, material } = self.clone();
        Surface { id, boundary_id, space_id, name: known_of(&name), short: known_of(&short), material }
    }
}
