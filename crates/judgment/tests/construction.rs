//! What a construction does over the year, and what would change it.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, missing_docs, reason = "tests")]

use building::construction::{Construction, Course, Stock, Substance, Variant};
use building::{Boundary, Building, Climate, Face, Level, Side, Space, SpaceKind};
use hygrothermal::buildup::{BuildUp, Layer};
use hygrothermal::quantity::{DiffusionThickness, ThermalResistance};
use judgment::climate;
use judgment::construction::{Answer, Around, MOST_HELD, Outdoors, Said, Water, answer, around, quick};
use judgment::hours::MoistureClass;
use proptest::prelude::*;
use uuid::Uuid;

fn course(id: &str, mm: f64) -> Course {
    Course { of: Substance::from_id(id).unwrap(), thickness_m: mm / 1000.0, framed: false }
}

fn built(courses: &[(&str, f64)], face: Face) -> Construction {
    let courses = courses.iter().map(|(id, mm)| course(id, *mm)).collect();
    let variant = Variant { id: Uuid::nil(), boundary_id: Uuid::nil(), name: "wall".into(), courses, framing_pct: 0.0 };
    Stock::default().construct(&variant, face).unwrap()
}

/// A room with a wall toward the outdoors.
fn room(kind: SpaceKind, class: MoistureClass) -> Around {
    let id = Uuid::from_u128(1);
    let space = Space { id, name: "Room".into(), kind, level: Level::Living, column: 0, area_m2: 20.0, height_m: 2.4 };
    let wall = Boundary {
        id: Uuid::from_u128(2),
        name: "Wall".into(),
        space_id: id,
        beyond: Side::Outdoors,
        face: Face::North,
        bare_soil: false,
        buildup: None,
    };
    let building = Building { spaces: vec![space], boundaries: vec![wall.clone()], ..Building::default() };
    around(&building, &wall, class)
}

fn said(courses: &[(&str, f64)], climate: Climate, class: MoistureClass) -> Said {
    answer(&built(courses, Face::North), &room(SpaceKind::Room, class), &Outdoors::of(climate::year(climate))).unwrap()
}

/// A roof-like wall: a paper inside, a rubber sheet outside.
const TIGHT_OUTSIDE: [(&str, f64); 5] = [
    ("gypsum_board", 12.5),
    ("kraft_paper", 0.3),
    ("stone_wool", 140.0),
    ("wood_fiber_board_dense", 20.0),
    ("epdm", 1.5),
];

/// Common practice in cold climates: tight inside and open outside is safe, tight outside and open inside gathers water.
#[test]
fn tight_inside_is_safe_in_the_cold_and_tight_outside_is_not() {
    let good =
        [("gypsum_board", 12.5), ("polyethylene_015", 0.15), ("stone_wool", 140.0), ("wood_fiber_board_dense", 20.0)];
    let open = said(&good, Climate::Cold, MoistureClass::Ordinary);
    assert_eq!((open.answer, open.water), (Answer::Safe, Water::None), "{open:?}");
    assert!(open.sure.same == open.sure.tried && open.sure.turns.is_none(), "{:?}", open.sure);
    let tight = said(&TIGHT_OUTSIDE, Climate::Cold, MoistureClass::Ordinary);
    assert_eq!(tight.answer, Answer::Accumulates);
    assert_eq!(tight.levers.plane, 3, "where the wool ends");
    assert!(tight.left > 0.0 && tight.year.peak >= tight.left);
    // Air carries far more than diffusion (common practice), on the same scale.
    assert!(tight.levers.leak.air > tight.levers.leak.diffusion && tight.levers.leak.diffusion > 0.0);
}

/// Whoever does what is said to change it finds it changed.
#[test]
fn what_is_said_to_change_it_changes_it() {
    let cold = Outdoors::of(climate::year(Climate::Cold));
    let house = room(SpaceKind::Room, MoistureClass::Ordinary);
    let wall = built(&TIGHT_OUTSIDE, Face::North);
    let levers = answer(&wall, &house, &cold).unwrap().levers;
    let months = house.months(&cold).unwrap();
    let layers: Vec<Layer> = wall.plies.iter().map(|p| p.layer).collect();
    let dries = |layers: &[Layer]| {
        let year = BuildUp::new(layers, wall.films[0], wall.films[1]).unwrap().year(&months, None);
        let left = year.months[(year.start + 11) % 12].held;
        left < 1.0 && year.peak <= MOST_HELD
    };
    assert!(!dries(&layers));
    let with_retarder = |sd: f64| {
        let own =
            Layer { resistance: ThermalResistance::new(0.0).unwrap(), diffusion: DiffusionThickness::new(sd).unwrap() };
        dries(&[vec![own], layers.clone()].concat())
    };
    let sd = levers.retarder.unwrap();
    assert!(sd > 0.0 && with_retarder(sd) && !with_retarder(sd * 0.9), "{sd}");
    let (at, sd) = levers.open.unwrap();
    let opened = |sd: f64| {
        let mut all = layers.clone();
        all[at].diffusion = DiffusionThickness::new(sd).unwrap();
        dries(&all)
    };
    assert!(at >= levers.plane && opened(sd) && !opened(sd * 1.1), "{sd}");
    // Insulation outside of the plane, as much as said, keeps it dry in the month it was said for.
    let r = levers.outside_r.unwrap();
    let insulated = |r: f64| {
        let own =
            Layer { resistance: ThermalResistance::new(r).unwrap(), diffusion: DiffusionThickness::new(0.05).unwrap() };
        let mut all = layers.clone();
        all.insert(levers.plane, own);
        let profile = BuildUp::new(&all, wall.films[0], wall.films[1]).unwrap().profile(&months[levers.month].sides);
        let dew = months[levers.month].sides.inside.dew_point().unwrap().get();
        profile.interfaces[levers.plane].temperature.get() - dew
    };
    assert!(insulated(r).abs() < 1e-6 && insulated(r * 0.9) < 0.0, "{}", insulated(r));
}

/// Hot humid climates turn it round (common practice): what is tight inside takes water from outdoors when rooms are cooled. Rooms
/// here are not cooled under the outdoor air, so a vinyl paper inside must at least do no harm, and bare walls stay dry.
#[test]
fn mild_and_hot_climates_keep_open_walls_dry() {
    let open = [("gypsum_board", 12.5), ("stone_wool", 90.0), ("osb", 12.0), ("housewrap", 0.3)];
    for climate in [Climate::HotDry, Climate::HotHumid] {
        assert_ne!(said(&open, climate, MoistureClass::Dry).answer, Answer::Accumulates, "{climate:?}");
    }
}

#[test]
fn a_bare_wall_fails_at_its_corners_and_says_so() {
    let bare = said(&[("concrete", 200.0)], Climate::Cold, MoistureClass::Ordinary);
    let (has, needs) = bare.factor;
    assert!(bare.answer == Answer::Doubtful && has < needs.unwrap(), "{bare:?}");
    // By hand: R_si 0.25, 200 mm at 2.0 (or what the library has), R_se 0.04: 1 − 0.25/(0.25 + R + 0.04).
    let r = built(&[("concrete", 200.0)], Face::North).between.resistance() - 0.13 - 0.04;
    assert!((has - (1.0 - 0.25 / (0.25 + r + 0.04))).abs() < 1e-9);
}

#[test]
fn layers_beyond_a_vented_cavity_do_not_count() {
    let inner = [("gypsum_board", 12.5), ("stone_wool", 140.0), ("wood_fiber_board_dense", 20.0)];
    let clad = [&inner[..], &[("vented_cavity", 25.0), ("steel", 1.0)]].concat();
    let (bare, clad) = (built(&inner, Face::North), built(&clad, Face::North));
    assert_eq!((clad.plies.len(), clad.beyond.len()), (3, 2));
    // The film of the cavity is that of a room (ISO 6946): 0.13 in place of 0.04.
    assert!((clad.between.resistance() - bare.between.resistance() - 0.09).abs() < 1e-9);
    assert!((clad.between.diffusion_thickness() - bare.between.diffusion_thickness()).abs() < 1e-12);
}

#[test]
fn names_are_found_by_their_words_or_asked_about() {
    let stock = Stock::default();
    assert_eq!(stock.named("  GLASS  wool ").map(|o| o.of.id()), Ok("glass_wool".into()));
    assert!(stock.named("wool").unwrap_err().len() > 2);
    assert_eq!(stock.named("unobtainium"), Err(Vec::new()));
    assert_eq!(stock.named(" "), Err(Vec::new()));
}

proptest! {
    /// More moisture never helps, and insulating a wall does not make its answer depend on the order in which it is asked.
    #[test]
    fn wetter_rooms_never_answer_better(wool in 20.0..250.0_f64, sd in prop::sample::select(vec!["latex_paint", "kraft_paper", "vinyl_wallpaper", "polyethylene_015"]), climate in prop::sample::select(Climate::ALL)) {
        let wall = built(&[(sd, 0.3), ("gypsum_board", 12.5), ("stone_wool", wool), ("osb", 12.0)], Face::North);
        let outdoors = Outdoors::of(climate::year(climate));
        let all = MoistureClass::ALL.map(|class| quick(&wall, &room(SpaceKind::Room, class), &outdoors).unwrap());
        prop_assert!(all.is_sorted(), "{all:?}");
        let whole = answer(&wall, &room(SpaceKind::Room, MoistureClass::Humid), &outdoors).unwrap();
        prop_assert_eq!(whole.answer, all[3]);
        prop_assert!(whole.sure.same >= 1 && whole.sure.same <= whole.sure.tried);
        prop_assert!((0.0..=6.0).contains(&whole.moldiest.unwrap().peak()));
    }
}
