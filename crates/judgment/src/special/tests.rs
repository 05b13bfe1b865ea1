#![allow(clippy::unwrap_used, reason = "tests")]

use super::*;
use crate::climate::year;
use building::construction::{Course, Substance};
use building::{Building, Climate, Face, Level, Side, Space, SpaceKind};
use uuid::Uuid;

/// What the table takes until somebody types, with some of it typed over.
fn given(id: &str, more: &[(&str, f64)]) -> Given {
    let asked = special(id).unwrap();
    let mut figures: BTreeMap<String, f64> = asked.field.iter().map(|f| (f.id.clone(), f.usual)).collect();
    figures.extend(more.iter().map(|(k, v)| ((*k).to_owned(), *v)));
    Given { figures, words: asked.choice.iter().map(|c| (c.id.clone(), c.usual.clone())).collect() }
}

fn house() -> (Building, Boundary) {
    let space = Space {
        id: Uuid::from_u128(1),
        name: "Room".into(),
        kind: SpaceKind::Room,
        level: Level::Living,
        column: 0,
        area_m2: 20.0,
        height_m: 2.4,
    };
    let wall = Boundary {
        id: Uuid::from_u128(2),
        name: "Wall".into(),
        space_id: space.id,
        beyond: Side::Outdoors,
        face: Face::North,
        bare_soil: false,
        buildup: None,
    };
    (Building { spaces: vec![space], boundaries: vec![wall.clone()], ..Building::default() }, wall)
}

fn built(layers: &[(&str, f64)]) -> Variant {
    let course = |(of, mm): &(&str, f64)| Course {
        of: Substance::from_id(of).unwrap(),
        thickness_m: mm / 1000.0,
        framed: false,
    };
    let (id, name) = (Uuid::nil(), String::new());
    Variant {
        id,
        boundary_id: Uuid::from_u128(2),
        name,
        courses: layers.iter().map(course).collect(),
        framing_pct: 0.0,
    }
}

fn asked(id: &str, more: &[(&str, f64)], layers: &[(&str, f64)]) -> Reply {
    let (building, wall) = house();
    let outdoors = Outdoors::of(year(Climate::Cold));
    let variant = built(layers);
    let of = (!layers.is_empty()).then_some((&wall, &variant));
    reply(id, &given(id, more), Where { building: &building, outdoors: &outdoors, class: MoistureClass::Ordinary, of })
        .unwrap()
}

const OLD_WALL: [(&str, f64); 4] =
    [("gypsum_board", 12.5), ("air_gap", 90.0), ("building_paper", 0.7), ("softwood", 20.0)];

/// Each question answers with what the table takes, by an outcome of its table whose figures it gives, one line for each way.
#[test]
fn every_question_ends_in_an_answer_of_its_table() {
    assert_eq!(specials().len(), 8);
    for s in specials() {
        let r = asked(&s.id, &[], &OLD_WALL);
        assert!(s.outcome.iter().any(|o| o.id == r.outcome), "{}: {}", s.id, r.outcome);
        let ways: Vec<&str> = r.options.iter().map(|o| o.id).collect();
        assert_eq!(ways, s.option.iter().map(|o| o.id.as_str()).collect::<Vec<_>>(), "{}", s.id);
        assert!(r.options.iter().all(|o| o.figures.len() == s.column.len()), "{}", s.id);
        for o in &s.outcome {
            for name in o.text.split('{').skip(1).filter_map(|t| t.split('}').next()) {
                assert!(r.figures.contains_key(name), "{}: {} says {name}", s.id, o.id);
            }
        }
        for f in &s.field {
            assert!((f.range[0]..=f.range[1]).contains(&f.usual), "{}: {}", s.id, f.id);
        }
    }
}

/// By hand: 17 °C and 60 % (dew point 9.2 °C) against −10 °C. Bare, 38 mm of softwood: 17 − 27 · 0.13/0.4623 = 9.41 °C; a batt of
/// 90 mm moves the rim to 17 − 27 · 2.38/2.7123 = −6.69 °C, and the same air reaches it.
#[test]
fn a_break_without_a_seal_leaks_and_a_sealed_board_does_not() {
    let r = asked("rim_joist", &[], &[]);
    let face = |i: usize| r.options[i].figures[0].unwrap();
    assert!((face(0) - 9.407).abs() < 0.01 && (face(1) + 6.692).abs() < 0.01, "{} {}", face(0), face(1));
    let marks: Vec<Mark> = r.options.iter().map(|o| o.mark).collect();
    assert_eq!(marks[..3], [Mark::Mold, Mark::Wet, Mark::Wet]);
    assert_eq!((r.outcome, marks[3]), ("sealed", Mark::Dry));
    // Ducts that warm the space add no water: its dew point stays, the bare rim is drier.
    let warmed = asked("rim_joist", &[("duct", 6.0)], &[]);
    assert!((warmed.figures["dew"].1 - r.figures["dew"].1).abs() < 0.1);
    assert!(warmed.options[0].figures[1] < r.options[0].figures[1]);
    assert_eq!(asked("rim_joist", &[("inside_rh", 78.0)], &[]).outcome, "thicker");
}

/// A calm clear night cools a roof below the air, cloud and wind bring it back; bare metal gives off little.
#[test]
fn a_clear_sky_cools_the_sheathing_below_the_air() {
    let under = |more: &[(&str, f64)], i: usize| asked("night_sky", more, &[]).options[i].figures[1].unwrap();
    let (clear, half, cloudy) = (under(&[], 0), under(&[], 1), under(&[], 2));
    assert!(clear < half && half < cloudy && clear < 0.0, "{clear} {half} {cloudy}");
    assert!(under(&[("wind", 8.0)], 0) > clear && under(&[("emissivity", 0.25)], 0) > clear);
    // Overcast the sky is as warm as the air, and the roof between air and attic: by hand h = 8 + 4.6 radiative at 0 °C.
    assert!(cloudy > 0.0 && cloudy < 2.0);
    let frosty = [("outdoor_t", -6.0), ("attic_t", -2.0), ("attic_rh", 92.0)];
    let r = asked("night_sky", &frosty, &[]);
    assert_eq!(r.outcome, "frost");
    // The insulation named keeps the underside at the attic's dew point.
    let needed = r.figures["needed"].1;
    let covered = [frosty.as_slice(), &[("above", needed)]].concat();
    assert!((under(&covered, 3) - r.figures["dew"].1).abs() < 0.01);
}

/// Worked with the radial formula by hand: 22 mm pipe at 8 °C in 20 °C, 13 mm at 0.036: ln(24/11)/0.036 = 21.67, 0.125/0.024 = 5.208,
/// skin 20 − 12 · 5.208/26.88 = 17.67 °C.
#[test]
fn a_cover_is_as_thick_as_the_worst_dew_point_asks() {
    let r = asked("cold_cover", &[], &[]);
    assert!((r.options[3].figures[0].unwrap() - 17.67).abs() < 0.01);
    assert_eq!(r.outcome, "cover");
    let (needed, sold) = (r.figures["needed"].1, r.figures["sold"].1);
    assert!(needed <= sold && r.options.iter().any(|o| o.mark == Mark::Dry));
    assert_eq!(asked("cold_cover", &[("dew", 5.0)], &[]).outcome, "bare");
    assert_eq!(asked("cold_cover", &[("dew", 19.5)], &[]).outcome, "none");
}

/// A tight finish on a slab without a film stays wet from below, whatever the room's air; foam and film above do not.
#[test]
fn a_slab_decides_what_may_lie_on_it() {
    let r = asked("damp_slab", &[], &[]);
    let mark = |id: &str| r.options.iter().find(|o| o.id == id).unwrap().mark;
    assert!(matches!(mark("vinyl"), Mark::Wet | Mark::Mold));
    assert_eq!(mark("above"), Mark::Dry);
    // By hand: 11 + 9 · 0.0625/0.2325 = 13.42 °C; 1286 Pa of 1538 there are 84 %.
    let (surface, rh) = (r.figures["surface"].1, r.figures["rh"].1);
    assert!((surface - 13.42).abs() < 0.01 && (rh - 83.6).abs() < 0.3, "{surface} {rh}");
    assert_eq!(r.outcome, "insulate");
    assert_eq!(asked("damp_slab", &[("inside_rh", 45.0)], &[]).outcome, "open");
    assert_eq!(asked("damp_slab", &[("inside_t", 24.0), ("inside_rh", 75.0)], &[]).outcome, "dry_air");
}

#[test]
fn a_lining_with_air_behind_it_hides_the_wet() {
    let r = asked("vehicle_panel", &[("inside_rh", 45.0)], &[]);
    let rh = |i: usize| r.options[i].figures[2].unwrap();
    assert!(rh(1) > rh(0).min(99.9) || rh(1) >= 100.0, "felt makes the skin behind it colder");
    assert_eq!((r.outcome, r.options[3].mark), ("all", Mark::Dry));
    let damp = asked("vehicle_panel", &[("inside_rh", 70.0)], &[]);
    assert_eq!(damp.outcome, "air");
    assert_eq!(asked("vehicle_panel", &[("inside_rh", 90.0)], &[]).outcome, "damp");
    // With the foam it names the frames stand at 80 %.
    let enough = asked("vehicle_panel", &[("inside_rh", 70.0), ("foam", damp.figures["needed"].1)], &[]);
    assert!((enough.options[3].figures[2].unwrap() - 80.0).abs() < 0.1);
}

/// What is given off is what passes, is held and leaves with air, to a milliliter; and by hand: with nothing held, one membrane and no
/// air, δ₀ Δp A/s_d.
#[test]
fn the_water_of_a_felt_dwelling_is_all_accounted_for() {
    for more in
        [vec![], vec![("a", 5.0)], vec![("outdoor_t", -30.0)], vec![("water", 40.0)], vec![("air_changes", 0.0)]]
    {
        let r = asked("two_membranes", &more, &[]);
        let water = more.iter().find(|m| m.0 == "water").map_or(6.0, |m| m.1);
        for o in &r.options {
            let f: Vec<f64> = o.figures.iter().map(|x| x.unwrap()).collect();
            assert!((f[0] / 14.0 + f[1] + f[2] - water).abs() < 1e-3, "{more:?} {}: {f:?}", o.id);
            assert!((f[4] + f[5] - 10.0).abs() < 1e-3, "the trial's ten liters: {f:?}");
        }
    }
    // Inside of the felt a tight membrane keeps the water out of it, and more of it in the room.
    let mut inside = given("two_membranes", &[]);
    inside.words.insert("lies".into(), "inside".into());
    let laid = membranes::answer(&inside).unwrap();
    let of = |i: usize, n: usize| laid.options[i].figures[n].unwrap();
    assert!(of(1, 0) < 0.1 * of(0, 0) && of(1, 3) > of(0, 3), "{:?}", laid.options);
    assert_eq!(laid.outcome, "tight_all");
    // Frost is held at −12 °C; in a mild night none is.
    let cold = asked("two_membranes", &[], &[]);
    assert!(cold.options.iter().any(|o| o.mark == Mark::Wet));
    assert_eq!(
        asked("two_membranes", &[("outdoor_t", 16.0), ("outdoor_rh", 50.0), ("air_changes", 2.0), ("water", 2.0)], &[])
            .outcome,
        "none"
    );
    let mild = [("outdoor_t", 16.0), ("air_changes", 0.0), ("a", 0.1), ("b", 0.1), ("water", 0.5)];
    let r = asked("two_membranes", &mild, &[]);
    let vapor = r.options[0].figures[3].unwrap() / 100.0 * sat(18.0);
    let r2 = 2.5_f64;
    let area = std::f64::consts::PI * (5.0 * 1.6 + r2 * r2.hypot(1.0));
    let by_hand = 2e-10 * (vapor - 0.85 * sat(16.0)) / (0.008 + 0.03 + 0.1 + 0.1) * area * 86_400.0;
    assert!((r.options[0].figures[1].unwrap() - by_hand).abs() < 0.01, "{by_hand}");
}

/// The old wall is left empty; without rain to speak of, or clad anew behind a drained cavity, it may be filled.
#[test]
fn an_old_wall_is_filled_only_where_it_can_dry() {
    let r = asked("fill_wall", &[], &OLD_WALL);
    assert_eq!(r.outcome, "leave_empty");
    assert!(r.options[1].figures[0] < r.options[0].figures[0], "full it dries less");
    assert!(r.options[1].figures[2] < r.options[0].figures[2], "and loses less heat");
    assert_eq!(asked("fill_wall", &[("rain", 5.0), ("leak", 0.0)], &OLD_WALL).outcome, "fill");
    let clad = [
        ("gypsum_board", 12.5),
        ("smart_membrane", 0.3),
        ("cellulose_dense", 90.0),
        ("wood_fiber_soft", 40.0),
        ("vented_cavity", 25.0),
        ("softwood", 20.0),
    ];
    assert_eq!(asked("fill_wall", &[("leak", 0.0)], &clad).outcome, "fill_gate");
    assert_eq!(asked("fill_wall", &[], &[("concrete", 200.0)]).outcome, "no_cavity");
    // One per cent of 150 L/m² is 1500 g/m², by hand.
    let comes = asked("fill_wall", &[("leak", 0.0)], &OLD_WALL).figures["comes_in"].1;
    assert!((comes - 1500.0).abs() < 1e-9);
}

#[test]
fn what_is_caught_between_two_tight_layers_is_said() {
    let tight = [("polyethylene_025", 0.25), ("softwood", 20.0), ("glass_wool", 90.0), ("aluminum_foil", 0.1)];
    let r = asked("two_tight", &[], &tight);
    assert_eq!(r.outcome, "caught");
    let dries = |i: usize| r.options[i].figures[0].unwrap();
    assert!(dries(1) > dries(0) && dries(3) >= dries(1).max(dries(2)) - 1e-9);
    assert_eq!(
        asked("two_tight", &[], &[("softwood", 20.0), ("glass_wool", 90.0), ("gypsum_board", 9.0)]).outcome,
        "free"
    );
    assert_eq!(asked("two_tight", &[], &[("softwood", 20.0)]).outcome, "unknown");
}
