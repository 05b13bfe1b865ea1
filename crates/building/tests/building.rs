//! Editing a building: whatever is done, in any order, a whole building remains.
#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs, reason = "tests")]

use building::{
    Boundary, Building, Edit, Face, Level, MOST_PER_FACE, Material, Side, Space, SpaceKind, Station, Structure,
    Surface, blueprint,
};
use proptest::prelude::*;
use uuid::Uuid;

fn starter(structure: Structure) -> Building {
    let mut n = 0;
    blueprint(structure).unwrap().build(|| {
        n += 1;
        Uuid::from_u128(n)
    })
}

/// What every screen, verdict and export relies on.
fn whole(b: &Building) -> Result<(), TestCaseError> {
    for level in Level::ALL {
        let mut columns: Vec<i32> = b.spaces.iter().filter(|s| s.level == *level).map(|s| s.column).collect();
        columns.sort_unstable();
        prop_assert!(columns.iter().copied().eq(0..columns.len() as i32), "columns {columns:?}");
    }
    for x in &b.boundaries {
        let own = b.space(x.space_id).expect("its space is there");
        if let Side::Space(id) = x.beyond {
            let other = b.space(id).expect("the space beyond is there");
            prop_assert_eq!(x.face, own.face_towards(other));
            prop_assert_eq!(x.face.opposite(), other.face_towards(own));
        }
        prop_assert!(b.boundaries.iter().filter(|y| x.along(y)).count() <= MOST_PER_FACE);
    }
    prop_assert!(b.is_whole(), "{b:#?}");
    Ok(())
}

/// An edit picked by a few numbers; ids come from `n`.
fn edit(b: &Building, (what, i, j, k): (u8, usize, usize, usize), n: u128) -> Edit {
    let id = |m: u128| Uuid::from_u128(10_000 + 10 * n + m);
    let space = |i: usize| b.spaces[i % b.spaces.len()].clone();
    let level = Level::ALL[k % Level::ALL.len()];
    let side = match k % 4 {
        0 => Side::Outdoors,
        1 => Side::Ground,
        _ => Side::Space(space(j).id),
    };
    let (face, kind) = (Face::ALL[j % Face::ALL.len()], SpaceKind::ALL[j % SpaceKind::ALL.len()]);
    let boundary = b.boundaries.get(i % b.boundaries.len().max(1)).cloned();
    let surface = b.surfaces.get(i % b.surfaces.len().max(1)).cloned();
    let name = format!("Part {n}");
    match (what, boundary, surface) {
        (0 | 1, ..) => {
            Edit::AddSpace(Space { id: id(0), name, kind, level, column: 0, area_m2: 5.0, height_m: 2.0 }, id(1))
        }
        (2, ..) => Edit::ChangeSpace(Space { level, kind, ..space(i) }),
        (3, ..) => Edit::ShiftSpace(space(i).id, if j.is_multiple_of(2) { 1 } else { -1 }),
        (4, ..) => Edit::RemoveSpace(space(i).id),
        (5, Some(x), _) => Edit::ChangeBoundary(Boundary { space_id: space(k).id, beyond: side, face, ..x }),
        (6, Some(x), _) => Edit::RemoveBoundary(x.id),
        (7, Some(x), _) => {
            let surface = Surface {
                id: id(3),
                boundary_id: x.id,
                space_id: x.space_id,
                name,
                short: "part".into(),
                material: Material::Wood,
            };
            Edit::AddSurface(surface, id(4))
        }
        (8, Some(x), Some(s)) => Edit::ChangeSurface(Surface { boundary_id: x.id, space_id: space(j).id, ..s }),
        (9, _, Some(s)) => Edit::RemoveSurface(s.id),
        (10, ..) => Edit::Order(b.stations.iter().skip(i % b.stations.len()).map(|s| s.id).rev().collect()),
        _ => Edit::AddBoundary(Boundary {
            id: id(2),
            name,
            space_id: space(i).id,
            beyond: side,
            face,
            bare_soil: true,
            buildup: None,
        }),
    }
}

proptest! {
    #[test]
    fn any_edits_in_any_order_leave_a_whole_building(
        first in 0..Structure::ALL.len(),
        steps in prop::collection::vec((0..12_u8, 0..40_usize, 0..40_usize, 0..40_usize), 0..60),
    ) {
        let mut b = starter(Structure::ALL[first]);
        whole(&b)?;
        for (n, step) in steps.into_iter().enumerate() {
            // A refused edit says why and changes nothing.
            match b.edited(&edit(&b, step, n as u128)) {
                Ok(next) => { whole(&next)?; b = next; }
                Err(e) => prop_assert!(!e.message.is_empty()),
            }
        }
    }
}

#[test]
fn what_a_removed_space_bordered_stays_with_its_neighbors() {
    let b = starter(Structure::CrawlVented);
    let named = |b: &Building, name: &str| b.spaces.iter().find(|s| s.name == name).map(|s| s.id).unwrap();
    let floor_of = |b: &Building| {
        b.boundaries.iter().find(|x| x.name == "Floor over the crawl space").map(|x| (x.space_id, x.beyond, x.face))
    };
    let rooms = named(&b, "Living rooms");
    let without = b.edited(&Edit::RemoveSpace(named(&b, "Crawl space"))).unwrap();
    assert_eq!(floor_of(&without), Some((rooms, Side::Ground, Face::Floor)), "the floor stays, now over the ground");
    assert!(!without.surfaces.iter().any(|s| s.name == "Joist underside"), "its underside was the crawl space’s");
    assert!(!without.boundaries.iter().any(|x| x.name == "Crawl ground"));
    let without = b.edited(&Edit::RemoveSpace(named(&b, "Attic"))).unwrap();
    let ceiling = without.boundaries.iter().find(|x| x.name == "Ceiling under the attic").unwrap();
    assert_eq!((ceiling.space_id, ceiling.beyond), (rooms, Side::Outdoors));
    assert!(without.surfaces.iter().any(|s| s.name == "Ceiling"), "it is still read from the room");
}

#[test]
fn the_walk_follows_the_order_given_and_new_surfaces_join_their_space() {
    let b = starter(Structure::Vehicle);
    let last = b.stations.last().unwrap().id;
    let turned = b.edited(&Edit::Order(vec![last])).unwrap();
    let rest: Vec<Station> = b.stations.iter().filter(|s| s.id != last).cloned().collect();
    assert_eq!(turned.stations[0].id, last);
    assert_eq!(turned.stations[1..], rest, "the others keep their order");
    let screen = b.boundaries.iter().find(|x| x.name == "Front and windshield").unwrap();
    let mirror = Surface {
        id: Uuid::from_u128(900),
        boundary_id: screen.id,
        space_id: screen.space_id,
        name: "Side window".into(),
        short: "side".into(),
        material: Material::Glass,
    };
    let more = b.edited(&Edit::AddSurface(mirror, Uuid::from_u128(901))).unwrap();
    let at = more.stations.iter().position(|s| s.id == Uuid::from_u128(901)).unwrap();
    assert_eq!(more.space_of(more.stations[at - 1].place).unwrap().id, screen.space_id);
}
