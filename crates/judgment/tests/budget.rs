//! Budgets of small spaces: what goes in is what comes out, and what keeps a pane dry.
#![allow(clippy::unwrap_used, missing_docs, reason = "tests")]

use building::timetable::{Block, OutdoorsBy, TimeTable};
use hygrothermal::air::{MoistAir, Over};
use hygrothermal::quantity::{Pressure, RelativeHumidity, Temperature};
use judgment::budget::{Given, Keep, Kind, Run, alone, items, ready, remedy, run};
use proptest::prelude::*;
use uuid::Uuid;

fn air(t: f64, rh: f64) -> MoistAir {
    let (t, rh) = (Temperature::new(t).unwrap(), RelativeHumidity::new(rh).unwrap());
    MoistAir::from_rh(t, rh, Over::Ice, Pressure::STANDARD).unwrap()
}

fn table(hours: u16, blocks: Vec<Block>) -> TimeTable {
    TimeTable {
        id: Uuid::nil(),
        space_id: Uuid::nil(),
        name: String::new(),
        begins: 18,
        hours,
        celsius: 18.0,
        start_rh: 50.0,
        volume_m3: 20.0,
        leak: 0.3,
        wind: 1.0,
        outdoors: OutdoorsBy::Visit,
        blocks,
    }
}

fn block(what: &str, amount: f64, from: f64, until: f64) -> Block {
    Block { what: what.into(), amount, from, until }
}

/// By a factor of single glass (about 0.4) and of an insulated wall.
const SURFACES: [f64; 2] = [0.4, 0.9];

fn with(t: &TimeTable, outdoor: MoistAir, keep: Keep) -> Run {
    let outdoors = vec![outdoor; usize::from(t.hours)];
    run(t, &Given { items: items(), outdoors: &outdoors, surfaces: &SURFACES }, keep, 1).unwrap()
}

#[test]
fn two_adults_put_six_liters_into_a_weekend_before_cooking() {
    // Common practice: about 6 L for two adults from Friday evening to Sunday.
    let weekend = ready().iter().find(|r| r.id == "weekend").unwrap();
    let t = TimeTable { blocks: weekend.blocks.clone(), ..table(weekend.hours, Vec::new()) };
    let r = with(&t, air(6.0, 85.0), Keep::All);
    let people = r.liters["adult_awake"] + r.liters["adult_asleep"];
    assert!((5.0..7.0).contains(&people), "{people}");
    // Half a kilogram of salt in tubs takes next to nothing of it.
    assert!((0.2..0.5).contains(&-r.liters["salt"]), "{:?}", r.liters);
    // 1.6 L in eight hours of four people's sleep: 4 × 8 × 0.05.
    let night = table(8, vec![block("adult_asleep", 4.0, 0.0, 8.0)]);
    assert!((with(&night, air(6.0, 85.0), Keep::All).liters["adult_asleep"] - 1.6).abs() < 1e-9);
}

#[test]
fn the_tables_are_whole() {
    for r in ready() {
        for b in &r.blocks {
            assert!(items().iter().any(|i| i.id == b.what), "{} {}", r.id, b.what);
            assert!(b.from < b.until && b.until <= f64::from(r.hours) && b.amount > 0.0, "{} {b:?}", r.id);
        }
    }
    for i in items() {
        let counted = matches!(i.kind, Kind::Rate | Kind::Event);
        assert_eq!(counted, i.liters.iter().all(|l| *l > 0.0), "{}", i.id);
        assert!(i.liters[0] <= i.liters[1] && i.liters[1] <= i.liters[2] && i.usual > 0.0, "{}", i.id);
        assert_eq!(i.kind == Kind::Window, i.opening[0] > 0.0);
        assert_eq!(i.kind == Kind::Cooling, i.coil[0] > 0.0);
    }
}

#[test]
fn a_shut_cabin_wets_its_glass_at_night_and_a_crack_of_the_hatch_keeps_it_dry() {
    let t = table(14, vec![block("adult_awake", 2.0, 0.0, 4.0), block("adult_asleep", 2.0, 4.0, 13.0)]);
    let outdoors = vec![air(5.0, 80.0); 14];
    let given = Given { items: items(), outdoors: &outdoors, surfaces: &SURFACES };
    let shut = run(&t, &given, Keep::All, 1).unwrap();
    assert!(shut.surfaces[0].first.is_some() && shut.surfaces[0].wet > 3, "{:?}", shut.surfaces);
    let found = remedy(&t, &given, &shut, None).unwrap();
    assert!(found.dry && found.block.what == "roof_hatch", "{found:?}");
    let mut changed = t.clone();
    changed.blocks.push(found.block.clone());
    assert_eq!(run(&changed, &given, Keep::All, 1).unwrap().wet(), 0);
    // Half as wide is not enough.
    changed.blocks.last_mut().unwrap().amount = found.block.amount * 0.4;
    assert!(run(&changed, &given, Keep::All, 1).unwrap().wet() > 0);
    assert_eq!(
        remedy(&changed, &given, &run(&changed, &given, Keep::All, 1).unwrap(), None).map(|r| r.dry),
        Some(true)
    );
    // Each sink by itself: a tub leaves it wet.
    let mut salted = t.clone();
    salted.blocks.push(block("salt", 1.0, 0.0, 14.0));
    let each = alone(&salted, &given);
    assert!(each[0].0 == "salt" && each[0].1 > 0.1 && each[0].1 < 1.0 && each[0].2 > 0, "{each:?}");
}

#[test]
fn machines_work_by_the_air_they_stand_in() {
    let tight = |blocks| TimeTable { leak: 0.0, celsius: 26.7, start_rh: 60.0, ..table(1, blocks) };
    // At its rating a unit takes what its label says, 24 L a day, 1 L an hour; a source holds the air there.
    let held = tight(vec![block("dehumidifier", 24.0, 0.0, 1.0), block("leak", 24.0, 0.0, 1.0)]);
    let r = with(&held, air(5.0, 80.0), Keep::All);
    assert!((-r.liters["dehumidifier"] - 1.0).abs() < 0.02, "{:?}", r.liters);
    // In the cool air of a hall far less, by the curve of chapter 2; and at 50 % it stands.
    let cool = TimeTable { celsius: 10.0, volume_m3: 9000.0, ..tight(vec![block("dehumidifier", 24.0, 0.0, 1.0)]) };
    let took = -with(&cool, air(5.0, 80.0), Keep::All).liters["dehumidifier"];
    assert!((0.25..0.35).contains(&took), "{took}");
    let dry = TimeTable { start_rh: 45.0, ..tight(vec![block("dehumidifier", 24.0, 0.0, 1.0)]) };
    assert_eq!(with(&dry, air(5.0, 80.0), Keep::All).liters["dehumidifier"].abs(), 0.0);
    // A coil of 9 °C brings the air to its own dew point and no lower.
    let cooled = TimeTable { hours: 48, ..tight(vec![block("cooling_low", 1.0, 0.0, 48.0)]) };
    let end = with(&cooled, air(30.0, 70.0), Keep::All).hours[47].dew.unwrap();
    assert!((8.9..9.2).contains(&end), "{end}");
}

fn some_block(hours: u16) -> impl Strategy<Value = Block> {
    let ids: Vec<String> = items().iter().map(|i| i.id.clone()).collect();
    (prop::sample::select(ids), 0.1..3.0_f64, 0..u32::from(hours) * 4, 1..60_u32).prop_map(
        move |(what, times, at, long)| {
            let usual = items().iter().find(|i| i.id == what).unwrap().usual;
            let from = f64::from(at) / 4.0;
            Block {
                what,
                amount: usual * times,
                from,
                until: (from + f64::from(long) / 4.0).min(f64::from(hours)).max(from + 0.25),
            }
        },
    )
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    #[test]
    fn water_in_is_water_out_and_water_held(
        blocks in prop::collection::vec(some_block(30), 0..12),
        leak in prop_oneof![Just(0.0), 0.0..3.0_f64],
        (t, rh) in (-15.0..32.0_f64, 20.0..98.0_f64),
    ) {
        let table = TimeTable { leak, ..table(30, blocks) };
        let r = with(&table, air(t, rh), Keep::All);
        let [put_in, taken, air_out, held, condensed] = r.sums;
        prop_assert!((put_in - taken - air_out - held - condensed).abs() < 1e-9, "{:?}", r.sums);
        let is_air = |id: &str| items().iter().any(|i| i.id == *id && i.kind.is_air());
        let (by_air, rest): (Vec<_>, Vec<_>) = r.liters.iter().partition(|(id, _)| is_air(id));
        let sum = |of: &[(&String, &f64)]| of.iter().map(|(_, l)| **l).sum::<f64>();
        // Soil can both give and take within a run, so its sum is the balance of both.
        prop_assert!((sum(&rest) - (put_in - taken)).abs() < 1e-9, "{:?} {:?}", r.liters, r.sums);
        // Without leaks all that air carries goes through what is open.
        prop_assert!(leak > 0.0 || (sum(&by_air) + air_out).abs() < 1e-9, "{:?} {:?}", r.liters, r.sums);
        prop_assert!(r.hours.iter().all(|h| (0.0..=100.0 + 1e-9).contains(&h.rh)));
    }
}
