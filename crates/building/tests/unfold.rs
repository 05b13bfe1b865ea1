//! A space laid flat: each face goes onto the sheet and back, faces meet where they do in the space, and places keep to their corner.
#![allow(clippy::unwrap_used, reason = "tests")]

use building::Structure;
use building::unfold::{Along, At, Facet, Fixture, FixtureKind, Layout, Roof, RouteKind, Shape};
use proptest::prelude::*;
use uuid::Uuid;

fn laid(shape: Shape) -> Layout {
    Layout { space_id: Uuid::nil(), shape, fixtures: Vec::new() }
}

fn any_shape() -> impl Strategy<Value = Shape> {
    let straight =
        (0.5..40.0_f64, 0.5..20.0_f64, 0.3..6.0_f64, 0.0..4.0_f64, 0..3).prop_map(|(l, w, h, rise, kind)| {
            let roof = match kind {
                0 => Roof::Flat,
                1 => Roof::Gable { ridge_m: h + rise },
                _ => Roof::Shed { ridge_m: h + rise },
            };
            Shape::Straight { length_m: l, width_m: w, height_m: h, roof }
        });
    let round = (2.0..12.0_f64, 0.8..3.0_f64, 0.1..3.0_f64).prop_map(|(d, wall, rise)| Shape::Round {
        diameter_m: d,
        wall_m: wall,
        crown_m: wall + rise,
    });
    prop_oneof![3 => straight, 1 => round]
}

fn apart(a: &[f64], b: &[f64]) -> f64 {
    a.iter().zip(b).map(|(x, y)| (x - y).powi(2)).sum::<f64>().sqrt()
}

proptest! {
    /// Every place of every face, laid on the sheet and looked up there, is itself.
    #[test]
    fn each_face_goes_onto_the_sheet_and_back(shape in any_shape(), share in (0.01..0.99_f64, 0.01..0.99_f64)) {
        let sheet = laid(shape).sheet();
        for panel in &sheet.panels {
            let point = [share.0 * panel.size[0], share.1 * panel.size[1]];
            if !panel.holds(point) {
                continue;
            }
            let at = panel.at(point);
            let on = sheet.place(&at).unwrap();
            prop_assert!((0..2).all(|i| (-1e-9..=sheet.size[i] + 1e-9).contains(&on[i])), "{on:?} of {:?}", sheet.size);
            let back = sheet.locate(on).unwrap();
            prop_assert_eq!(back.facet, at.facet);
            prop_assert!(apart(&sheet.place(&back).unwrap(), &on) < 1e-9);
        }
    }

    /// Faces are neither stretched nor mirrored: between places of a straight face it is as far on the sheet as in the space.
    #[test]
    fn a_hand_on_the_sheet_is_a_hand_in_the_space(shape in any_shape(), a in (0.02..0.98_f64, 0.02..0.98_f64), b in (0.02..0.98_f64, 0.02..0.98_f64)) {
        let sheet = laid(shape).sheet();
        for panel in &sheet.panels {
            // Across a ridge and around a bend the way over the surface is longer than the straight one.
            let bent = matches!(panel.facet, Facet::Around)
                || panel.facet == Facet::Ceiling
                    && !matches!(shape, Shape::Straight { roof: Roof::Flat | Roof::Shed { .. }, .. });
            if bent {
                continue;
            }
            let [p, q] = [a, b].map(|s| [s.0 * panel.size[0], s.1 * panel.size[1]]);
            let [sp, sq] = [p, q].map(|x| sheet.in_space(&panel.at(x)).unwrap());
            prop_assert!((apart(&panel.on_sheet(p), &panel.on_sheet(q)) - apart(&sp, &sq)).abs() < 1e-9, "{:?}", panel.facet);
        }
    }

    /// The foot of each wall is the edge of the floor, and adjoining walls share their corner.
    #[test]
    fn faces_meet_where_they_do_in_the_space(l in 1.0..20.0_f64, w in 1.0..10.0_f64, h in 0.5..4.0_f64, t in 0.0..1.0_f64) {
        let layout = laid(Shape::Straight { length_m: l, width_m: w, height_m: h, roof: Roof::Gable { ridge_m: h + 1.0 } });
        let sheet = layout.sheet();
        let at = |facet: Facet, x: f64, y: f64| {
            sheet.in_space(&At { facet, x: Along { m: x, far: false }, y: Along { m: y, far: false } }).unwrap()
        };
        let floor = |x: f64, y: f64| at(Facet::Floor, x, y);
        prop_assert!(apart(&at(Facet::East, t * l, 0.0), &floor(t * l, 0.0)) < 1e-9);
        prop_assert!(apart(&at(Facet::South, t * w, 0.0), &floor(l, t * w)) < 1e-9);
        prop_assert!(apart(&at(Facet::West, t * l, 0.0), &floor(l - t * l, w)) < 1e-9);
        prop_assert!(apart(&at(Facet::North, t * w, 0.0), &floor(0.0, w - t * w)) < 1e-9);
        // Clockwise from above each wall's right end is the next one's left.
        prop_assert!(apart(&at(Facet::North, w, t * h), &at(Facet::East, 0.0, t * h)) < 1e-9);
        prop_assert!(apart(&at(Facet::East, l, t * h), &at(Facet::South, 0.0, t * h)) < 1e-9);
        // Under the ridge the gable end meets both slopes.
        let ridge = sheet.panel(Facet::Ceiling).unwrap().size[1] / 2.0;
        prop_assert!(apart(&at(Facet::Ceiling, 0.0, ridge), &at(Facet::North, w / 2.0, h + 1.0)) < 1e-9);
        // Folded flat the same edge is the same line of the sheet.
        let drawn = |facet: Facet, x: f64, y: f64| sheet.panel(facet).unwrap().on_sheet([x, y]);
        prop_assert!(apart(&drawn(Facet::South, t * w, 0.0), &drawn(Facet::Floor, l, t * w)) < 1e-9);
    }

    /// What sits by a corner stays by it when the space turns out longer or shorter.
    #[test]
    fn a_place_keeps_its_distance_from_the_nearer_corner(l in 3.0..20.0_f64, more in -1.0..3.0_f64, from in 0.0..0.9_f64) {
        let layout = |length_m| laid(Shape::Straight { length_m, width_m: 3.0, height_m: 2.0, roof: Roof::Flat });
        let (before, after) = (layout(l).sheet(), layout(l + more).sheet());
        let near = before.panel(Facet::Floor).unwrap().at([from, 1.0]);
        let far = before.panel(Facet::Floor).unwrap().at([l - from, 1.0]);
        prop_assert!((after.in_space(&near).unwrap()[0] - from).abs() < 1e-9);
        prop_assert!((l + more - after.in_space(&far).unwrap()[0] - from).abs() < 1e-9);
    }

    /// No way has more places than its length allows, and every place of it lies on its face.
    #[test]
    fn ways_stay_on_their_faces(shape in any_shape(), every in 0.1..1.0_f64) {
        let mut layout = laid(shape);
        let sheet = layout.sheet();
        let facet = if sheet.panel(Facet::Around).is_some() { Facet::Around } else { Facet::East };
        let panel = sheet.panel(facet).unwrap();
        let at = panel.at([panel.size[0] / 2.0, panel.size[1] / 2.0]);
        let (width_m, height_m) = (panel.size[0].min(1.0), panel.size[1].min(0.6));
        layout.fixtures.push(Fixture { id: Uuid::nil(), kind: FixtureKind::Window, name: "window".into(), at, width_m, height_m });
        prop_assert_eq!(layout.check(), Ok(()));
        for route in layout.routes(Structure::HouseWall) {
            let Ok(stops) = route.stops(&layout, every) else { continue };
            prop_assert!(!stops.is_empty(), "{}", route.name);
            if route.kind == RouteKind::Edge {
                let longest = (route.length_m() / every).ceil() as usize + 4;
                prop_assert!(stops.len() <= longest, "{}: {} over {}", route.name, stops.len(), route.length_m());
            }
            for s in &stops {
                let size = sheet.panel(s.facet).unwrap().size;
                prop_assert!((0..2).all(|i| (-1e-6..=size[i] + 1e-3).contains(&s.point[i])), "{}: {s:?} of {size:?}", route.name);
            }
        }
    }
}

/// By hand: a wall 5 m long and 2.5 m high every 0.5 m is 10 by 5 places, there and back; a floor of 4 by 3 m every 0.1 m has 140 along
/// its edge; a tent 5 m across has a wall 15.7 m round.
#[test]
fn ways_worked_by_hand() {
    let room = laid(Shape::Straight { length_m: 4.0, width_m: 3.0, height_m: 2.5, roof: Roof::Flat });
    let routes = room.routes(Structure::Slab);
    assert_eq!(routes[0].name, "Floor edge, all round");
    let edge = routes[0].stops(&room, 0.1).unwrap();
    assert_eq!(edge.len(), 140);
    assert_eq!((edge[0].point, edge[39].point), ([0.05, 0.05], [3.95, 0.05]));
    let wall = laid(Shape::Straight { length_m: 5.0, width_m: 3.0, height_m: 2.5, roof: Roof::Flat });
    let grid =
        wall.routes(Structure::Slab).into_iter().find(|r| r.id == "grid east").unwrap().stops(&wall, 0.5).unwrap();
    assert_eq!(grid.len(), 50);
    let row = |n: usize| [grid[n].point[0], grid[n].point[1]];
    assert_eq!([row(0), row(9), row(10)], [[0.25, 0.25], [4.75, 0.25], [4.75, 0.75]]);
    // The same floor at a finger's width has more than can be walked: it says how many.
    let floor = wall.routes(Structure::Slab).into_iter().find(|r| r.id == "grid floor").unwrap();
    assert!(floor.stops(&wall, 0.05).is_err_and(|n| n > 600));
    let tent = laid(Shape::Round { diameter_m: 5.0, wall_m: 1.6, crown_m: 2.4 });
    let foot = &tent.routes(Structure::RoundTent)[0];
    assert_eq!(foot.name, "Foot of the wall, all round");
    assert!((foot.length_m() - 15.708).abs() < 1e-3);
    // Half way round is the south, at smaller x nothing but north.
    let sheet = tent.sheet();
    let around = sheet.panel(Facet::Around).unwrap();
    let south = sheet.in_space(&around.at([around.size[0] / 2.0, 0.0])).unwrap();
    let east = sheet.in_space(&around.at([around.size[0] / 4.0, 0.0])).unwrap();
    assert!(apart(&south, &[5.0, 2.5, 0.0]) < 1e-9 && apart(&east, &[2.5, 0.0, 0.0]) < 1e-9, "{south:?} {east:?}");
    // Areas and volumes: a gable of 2.5 to 4.5 m holds what its mean height does; a cone a third of its cylinder.
    let gable =
        laid(Shape::Straight { length_m: 4.0, width_m: 3.0, height_m: 2.5, roof: Roof::Gable { ridge_m: 4.5 } });
    assert!((gable.mean_height_m() - 3.5).abs() < 1e-12);
    let ends = gable.sheet().panel(Facet::North).unwrap().area_m2();
    assert!((ends - (3.0 * 2.5 + 3.0 * 2.0 / 2.0)).abs() < 1e-9);
    assert!((tent.mean_height_m() - (1.6 + 0.8 / 3.0)).abs() < 1e-12);
    let cone = tent.sheet().panel(Facet::Ceiling).unwrap().area_m2();
    assert!((cone - std::f64::consts::PI * 2.5 * 2.5_f64.hypot(0.8)).abs() < 1e-9);
}

#[test]
fn dimensions_and_fixtures_out_of_reason_are_named() {
    let straight = |l, h, roof| Shape::Straight { length_m: l, width_m: 3.0, height_m: h, roof };
    let fields = |shape| -> Vec<&str> { laid(shape).check().unwrap_err().iter().map(|w| w.0).collect() };
    assert_eq!(fields(straight(-1.0, 2.0, Roof::Flat)), ["length"]);
    assert_eq!(fields(straight(f64::NAN, f64::INFINITY, Roof::Flat)), ["length", "height"]);
    assert_eq!(fields(straight(4.0, 2.0, Roof::Gable { ridge_m: 1.0 })), ["ridge"]);
    assert_eq!(fields(Shape::Round { diameter_m: 5.0, wall_m: 2.0, crown_m: 1.0 }), ["crown"]);
    let mut room = laid(straight(4.0, 2.0, Roof::Flat));
    let at = room.sheet().panel(Facet::East).unwrap().at([1.0, 1.0]);
    let window = |width_m, facet| Fixture {
        id: Uuid::nil(),
        kind: FixtureKind::Window,
        name: "window".into(),
        at: At { facet, ..at },
        width_m,
        height_m: 1.0,
    };
    room.fixtures = vec![window(9.0, Facet::East), window(1.0, Facet::Around)];
    let wrong: Vec<&str> = room.check().unwrap_err().iter().map(|w| w.0).collect();
    assert_eq!(wrong, ["fixture_width", "fixture"]);
}
