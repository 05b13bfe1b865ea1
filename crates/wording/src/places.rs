//! Places to choose from.

use building::Building;
use language::say;

/// Places to choose from: a space with its boundaries and surfaces under its name.
pub fn choices(building: &Building) -> Vec<(String, Vec<(String, String)>)> {
    let of = |space: &building::Space| {
        let mut list = vec![(space.id.to_string(), say!("{space}, all of it", space = space.name))];
        let own = building.boundaries.iter().filter(|b| b.space_id == space.id);
        list.extend(own.map(|b| (b.id.to_string(), b.name.clone())));
        list.extend(
            building.surfaces_in(space.id).map(|s| (s.id.to_string(), say!("{name} (surface)", name = s.name))),
        );
        (space.name.clone(), list)
    };
    building.spaces.iter().map(of).collect()
}
