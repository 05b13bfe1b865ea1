//! A drying job: what is said of a point by its curve, which way takes out more, what a machine should do, and when to close in.
#![allow(clippy::unwrap_used, clippy::panic, missing_docs, reason = "tests")]

use building::drying::{DryPoint, DryScale, Machine, MachineKind, Run};
use hygrothermal::air::{MoistAir, Over};
use hygrothermal::quantity::{AirFlow, Measured, Pressure, RelativeHumidity, Temperature};
use judgment::drying::Reason::{AirStill, Covered, GoalTooLow, MeterFooled, PoorAir, StillFed};
use judgment::drying::{
    Better, Holds, Lack, MachineCase, NoAiring, PointCase, PointClose, PointRead, PointSaid, Reason, State, Surround,
    Turn, lacks, machine, material, materials, point, so_far, tent, to_go, units, ways,
};
use judgment::map::Showed;
use judgment::plan::Prices;
use uuid::Uuid;

const DAY: i64 = 86_400_000;

fn air(t: f64, rh: f64) -> MoistAir {
    let (t, rh) = (Temperature::new(t).unwrap(), RelativeHumidity::new(rh).unwrap());
    MoistAir::from_rh(t, rh, Over::Water, Pressure::STANDARD).unwrap()
}

fn wet(of: &str, cover: &str) -> DryPoint {
    let of = material(of).unwrap();
    DryPoint {
        id: Uuid::from_u128(1),
        space_id: Uuid::nil(),
        cavity: "Wall".into(),
        name: "Stud".into(),
        material: of.id.clone(),
        scale: of.scale,
        species: of.species.clone(),
        standard: None,
        goal: None,
        cover: cover.into(),
        tent: None,
        layer: 0,
        since: None,
        order: 1,
    }
}

fn said(p: &DryPoint, shows: &[f64], goal: f64, equilibrium: f64) -> PointSaid {
    let reads: Vec<PointRead> = (0..)
        .zip(shows)
        .map(|(d, x)| PointRead { at: d * DAY, showed: Showed::Figure(*x), meter: None, by: Uuid::nil() })
        .collect();
    let around = Surround { stopped: true, air: Some((21.0, 45.0)), air_moves: false };
    let of = material(&p.material).unwrap();
    point(&PointCase {
        point: p,
        material: of,
        reads: &reads,
        goal: Some(goal),
        equilibrium: Some((equilibrium, 0.5)),
        around,
    })
}

#[test]
fn the_table_is_whole() {
    for m in materials() {
        assert_eq!(m.wood, m.scale == DryScale::Percent, "{}", m.id);
        assert_eq!(m.wood, hygrothermal::wood::species_by_id(&m.species).is_some(), "{}", m.id);
    }
}

/// The day is the exponential's own: t = ln((MC₀ − MC_e)/(goal − MC_e))/k, by hand for k = 0.15 from 25 toward 10 to 15: 7.32 days.
#[test]
fn a_point_that_dries_names_its_day_and_one_that_stopped_says_why() {
    let dries: Vec<f64> = (0..6).map(|d| 10.0 + 15.0 * (-0.15 * f64::from(d)).exp()).collect();
    let State::Drying(Some([day, low, high])) = said(&wet("softwood", ""), &dries, 15.0, 10.0).state else {
        panic!("it dries");
    };
    assert!((day as f64 / DAY as f64 - 3.0_f64.ln() / 0.15).abs() < 0.01 && low <= day && day <= high, "{day}");
    assert_eq!(said(&wet("softwood", ""), &dries[..2], 15.0, 10.0).state, State::Few);
    // At the goal once, then a day later.
    let done = [25.0, 19.0, 14.0];
    assert!(matches!(said(&wet("softwood", ""), &done, 15.0, 10.0).state, State::AtGoal { confirmed: false, .. }));
    let twice = [25.0, 19.0, 14.0, 13.0];
    assert!(matches!(said(&wet("softwood", ""), &twice, 15.0, 10.0).state, State::AtGoal { confirmed: true, .. }));
    // It fell by a tenth a day and then no more: a meter's scatter of 1 % does not hide that.
    let stops = [620.0, 470.0, 390.0, 352.0, 340.0, 338.0, 341.0, 337.0, 339.0, 340.0, 338.0];
    let stopped = said(&wet("drywall", "vinyl"), &stops, 154.0, 140.0);
    let State::Stalled(reasons) = &stopped.state else { panic!("{:?}", stopped.state) };
    let order: Vec<Reason> = reasons.iter().map(|r| r.0).collect();
    assert_eq!(order, [StillFed, Covered, AirStill, PoorAir, GoalTooLow, MeterFooled]);
    let likely: Vec<Reason> = reasons.iter().filter(|r| r.1 == Holds::Likely).map(|r| r.0).collect();
    assert_eq!(likely, [Covered, AirStill]);
    // A goal under what the air allows is named at once, whatever the curve.
    let State::Stalled(low) = said(&wet("softwood", ""), &dries[..2], 9.0, 10.0).state else { panic!("unreachable") };
    assert!(low.contains(&(GoalTooLow, Holds::Likely)));
    assert!(said(&wet("softwood", ""), &[14.0, 19.0], 15.0, 10.0).rose);
}

/// Noisy curves that really dry are seldom said to stand still, and such that stopped mostly are.
#[test]
fn scatter_alone_is_not_standing_still() {
    let mut seed = 7_u64;
    let mut noise = move || {
        // Sum of four evens: near enough to a bell, standard deviation 1.
        let mut even = || {
            seed = seed.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
            (seed >> 33) as f64 / (1_u64 << 31) as f64 - 0.5
        };
        (even() + even() + even() + even()) * 3.0_f64.sqrt()
    };
    let (mut false_alarms, mut found) = (0, 0);
    for case in 0..400 {
        let k = 0.05 + 0.15 * f64::from(case % 10) / 10.0;
        let (start, eq) = (26.0, 10.0);
        let on: Vec<f64> = (0..9).map(|d| eq + (start - eq) * (-k * f64::from(d)).exp() + 0.4 * noise()).collect();
        false_alarms += i32::from(matches!(said(&wet("softwood", ""), &on, 12.0, eq).state, State::Stalled(_)));
        let at = eq + (start - eq) * (-k * 4.0).exp();
        let stops: Vec<f64> = (0..14)
            .map(|d| if d < 5 { eq + (start - eq) * (-k * f64::from(d)).exp() } else { at } + 0.4 * noise())
            .collect();
        found += i32::from(matches!(said(&wet("softwood", ""), &stops, 12.0, eq).state, State::Stalled(_)));
    }
    assert!(false_alarms <= 12 && found >= 320, "{false_alarms} false, {found} found");
}

/// 54 m² by 2.5 m opened for 2 changes an hour: 270 m³/h at 1.23 kg/m³ and 2.3 g/kg is some 18 L a day, by hand.
#[test]
fn whichever_way_takes_out_more_is_chosen_and_outdoor_air_that_would_wet_is_not_let_in() {
    let flow = |n: f64| AirFlow::from_air_changes(n, 135.0).unwrap();
    let flows = [flow(2.0), flow(0.2)];
    let (inside, dry) = (air(21.0, 55.0), air(10.0, 83.0));
    let w = ways(&inside, &dry, None, flows, 8.0);
    let by_hand = 270.0 * 1.23 * 24.0 * (inside.humidity_ratio() - dry.humidity_ratio());
    assert!((w.open.unwrap() / by_hand - 1.0).abs() < 0.03, "{w:?} {by_hand}");
    assert_eq!(w.better, Better::OpenUp);
    assert_eq!(ways(&inside, &dry, None, flows, 40.0).better, Better::Close);
    assert_eq!(ways(&inside, &air(19.0, 60.0), None, flows, 8.0).open, Err(NoAiring::NotDrier));
    let cold = Some(Temperature::new(5.0).unwrap());
    let wets = ways(&inside, &dry, cold, flows, 0.0);
    assert_eq!((wets.open, wets.better), (Err(NoAiring::Wets), Better::Neither));
}

fn dehumidifier(runs: Vec<Run>) -> Machine {
    Machine {
        id: Uuid::from_u128(9),
        kind: MachineKind::Compressor,
        name: "One".into(),
        space_id: Uuid::nil(),
        rated: Some(10.0),
        rated_warm: false,
        watts: Some(500.0),
        setting: String::new(),
        runs,
    }
}

#[test]
fn a_machine_is_judged_by_what_it_takes_from_its_air() {
    let m = dehumidifier(vec![Run { from: 0, until: None }]);
    let case = |inlet, outlet, liters, all_dry| {
        machine(&MachineCase {
            machine: &m,
            running: true,
            inlet: Some(inlet),
            outlet,
            liters,
            all_dry,
            stalled: false,
        })
    };
    let (damp, out) = (air(21.0, 60.0), air(26.0, 32.0));
    let works = case(damp, Some(out), Some(9.0), false);
    let taken = 1000.0 * (damp.humidity_ratio() - out.humidity_ratio());
    assert!(works.turn == Turn::Keep && (works.depression.unwrap() - taken).abs() < 1e-9 && taken > 1.4);
    assert_eq!(case(damp, Some(air(23.0, 51.0)), None, false).turn, Turn::Service);
    assert_eq!(case(air(15.0, 60.0), Some(air(17.0, 51.0)), None, false).turn, Turn::Frosts);
    assert_eq!(case(air(21.0, 35.0), Some(air(26.0, 24.0)), None, false).turn, Turn::OffDryAir);
    assert_eq!(case(damp, Some(out), Some(9.0), true).turn, Turn::OffAllDry);
    assert_eq!(case(damp, None, None, false).turn, Turn::Read);
    // At their end in damp air there are too few; idle in dry air too many.
    let two = |liters: f64| units(&air(21.0, 62.0), &[(&m, liters), (&m, liters)]);
    assert!(two(9.9).unwrap().want > 2);
    assert_eq!(two(3.0).map(|u| (u.have, u.want)), Some((2, 1)));
    assert_eq!(two(6.0), None);
}

#[test]
fn a_tent_is_done_when_supply_and_exit_agreed_for_a_day() {
    let gap = |d: f64, value: f64| ((d * DAY as f64) as i64, Measured { value, err: 0.4 });
    let said = tent(&[gap(0.0, 2.1), gap(1.0, 0.9)]).unwrap();
    assert!(said.agrees_since.is_none() && !said.done);
    assert!(!tent(&[gap(0.0, 2.1), gap(1.0, 0.3)]).unwrap().done);
    assert!(tent(&[gap(0.0, 2.1), gap(1.0, 0.3), gap(2.0, -0.1)]).unwrap().done);
    assert!(!tent(&[gap(0.0, 0.3), gap(1.0, 1.1), gap(1.2, 0.2)]).unwrap().done);
}

/// By hand: 2.5 days at 500 W are 30 kWh and three days of rent; two days to go are 24 kWh and two days.
#[test]
fn cost_so_far_and_to_go_is_rent_by_started_days_and_power_by_watts_or_meter() {
    let prices: Prices = [("machine_day".to_owned(), 1900), ("kwh_year".to_owned(), 30)].into();
    let m = dehumidifier(vec![Run { from: 0, until: None }]);
    let now = DAY * 5 / 2;
    let spent = so_far(&[(&m, None)], now, &prices);
    assert_eq!((spent.machine_days, spent.kwh, spent.total()), (3.0, 30.0, Some(3 * 1900 + 900)));
    assert_eq!(so_far(&[(&m, Some(10.0))], now, &prices).kwh, 10.0);
    let ahead = to_go(&[&m], [now, now + 2 * DAY], &prices);
    assert_eq!(ahead.total(), Some(2 * 1900 + 24 * 30));
    let stopped = dehumidifier(vec![Run { from: 0, until: Some(DAY) }]);
    assert_eq!(to_go(&[&stopped], [now, now + 2 * DAY], &prices).total(), Some(0));
    assert_eq!(so_far(&[(&m, None)], now, &Prices::new()).total(), None, "without a price nothing is made up");
}

#[test]
fn a_cavity_is_closed_in_only_with_every_point_checked_twice_and_the_source_stopped() {
    let (id, meter) = (Uuid::from_u128(4), Uuid::from_u128(5));
    let dry = said(&wet("softwood", ""), &[25.0, 14.0, 13.0], 15.0, 10.0);
    let once = said(&wet("softwood", ""), &[25.0, 14.0], 15.0, 10.0);
    let close = |said, unchecked| [PointClose { id, said, unchecked }];
    assert_eq!(lacks(&close(&dry, vec![]), true, None), []);
    assert_eq!(
        lacks(&close(&once, vec![meter]), false, Some(false)),
        [Lack::Once(id), Lack::Meter(meter), Lack::Source, Lack::Sheet]
    );
}
