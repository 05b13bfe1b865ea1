//! Hours of a small space against a step-by-step solution, and windows for coating against looking at every hour.
#![allow(clippy::unwrap_used, missing_docs, reason = "tests")]

use hygrothermal::air::{MoistAir, Over};
use hygrothermal::quantity::{AirFlow, Pressure, RelativeHumidity, Temperature, Volume, WaterFlow};
use hygrothermal::space::{Budget, BudgetHour, RoomAir};
use hygrothermal::takeoff::{CoatingHour, CoatingLimits, coating_window};
use proptest::prelude::*;

fn air(t: f64, rh: f64) -> MoistAir {
    let (t, rh) = (Temperature::new(t).unwrap(), RelativeHumidity::new(rh).unwrap());
    MoistAir::from_rh(t, rh, Over::Ice, Pressure::STANDARD).unwrap()
}

fn hour(outdoor: MoistAir, [flow, source, removal]: [f64; 3]) -> BudgetHour {
    BudgetHour {
        outdoor,
        flow: AirFlow::new(flow).unwrap(),
        source: WaterFlow::new(source).unwrap(),
        removal: WaterFlow::new(removal).unwrap(),
    }
}

/// The same in seconds by hand (explicit midpoint), water taken out only as far as there is any.
fn by_small_steps(mass: f64, mut w: f64, h: &BudgetHour) -> f64 {
    let exchanged = h.flow.get() / h.outdoor.specific_volume();
    let rate = |w: f64| (exchanged * (h.outdoor.humidity_ratio() - w) + h.source.get() - h.removal.get()) / mass;
    for _ in 0..36_000 {
        let half = w + 0.05 * rate(w);
        w = (w + 0.1 * rate(half)).max(0.0);
    }
    w
}

fn some_hour() -> impl Strategy<Value = BudgetHour> {
    let flow = prop_oneof![Just(0.0), 1e-9..1e-3_f64, 1e-3..0.2];
    (-15.0..35.0, 5.0..98.0, flow, 0.0..2e-4, prop_oneof![Just(0.0), 0.0..6e-4])
        .prop_map(|(t, rh, flow, source, removal)| hour(air(t, rh), [flow, source, removal]))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    #[test]
    fn an_hour_is_what_small_steps_make_of_it_and_nothing_is_lost(hours in prop::collection::vec(some_hour(), 1..4)) {
        let start = air(18.0, 55.0);
        let volume = Volume::new(22.0).unwrap();
        let mass = volume.get() / start.specific_volume();
        let mut room = RoomAir::new(volume, &start);
        let mut by_hand = start.humidity_ratio();
        for h in &hours {
            let before = by_hand;
            by_hand = by_small_steps(mass, by_hand, h);
            let end = room.step(h);
            prop_assert!((end.ratio - by_hand).abs() < 1e-6 + 1e-4 * by_hand, "{} {by_hand}", end.ratio);
            prop_assert!(end.ratio >= 0.0 && end.removed <= h.removal.get() * 3600.0 * (1.0 + 1e-9));
            // Water in is water out and water held.
            let left = h.source.get() * 3600.0 - end.removed - end.air_out - end.stored;
            prop_assert!(left.abs() < 1e-9);
            // What air carried, by its own sum: between the driest and the dampest it may have been.
            let exchanged = 3600.0 * h.flow.get() / h.outdoor.specific_volume();
            let (low, high) = (before.min(end.ratio), before.max(end.ratio));
            let carried = |w: f64| exchanged * (w - h.outdoor.humidity_ratio());
            prop_assert!(end.air_out >= carried(low) - 1e-6 && end.air_out <= carried(high) + 1e-6);
        }
    }

    #[test]
    fn windows_are_those_that_stand_hour_by_hour(
        raw in prop::collection::vec((0.0..40.0_f64, 20.0..100.0_f64, prop::bool::weighted(0.06), -3.0..3.0_f64), 1..90),
        spans in (0..12_usize, 1..6_usize, 0..12_usize),
    ) {
        let make = |&(t, rh, rains, off): &(f64, f64, bool, f64)| CoatingHour {
            rh, dew: air(t, rh).dew_point(), rain: f64::from(u8::from(rains)), surface: t + off,
        };
        let hours: Vec<CoatingHour> = raw.iter().map(make).collect();
        let limits = CoatingLimits { hours: [spans.0, spans.1, spans.2], ..CoatingLimits::default() };
        let said = coating_window(&hours, &limits);
        let mut starts = Vec::new();
        let mut candidates = 0;
        let mut not = [0; 6];
        for s in 0..hours.len() {
            if s < spans.0 || s + spans.1 + spans.2 > hours.len() { continue; }
            candidates += 1;
            let work = &hours[s..s + spans.1];
            let why = [
                hours[s - spans.0..s + spans.1 + spans.2].iter().any(|h| h.rain > 0.0),
                work.iter().any(|h| h.surface < 10.0),
                work.iter().any(|h| h.surface > 35.0),
                work.iter().any(|h| h.rh > 85.0),
                work.iter().any(|h| h.surface < h.dew.unwrap().get() + 3.0),
                hours[s + spans.1..s + spans.1 + spans.2].iter().any(|h| h.surface < 10.0),
            ];
            for (n, w) in not.iter_mut().zip(why) { *n += usize::from(w); }
            if !why.contains(&true) { starts.push(s); }
        }
        prop_assert_eq!(&said.starts, &starts);
        prop_assert_eq!((said.why_not, said.each.len()), (not, candidates));
        let mut longest: Option<[usize; 2]> = None;
        for &s in &starts {
            let run = (s..hours.len()).take_while(|i| starts.contains(i)).count();
            if longest.is_none_or(|[_, n]| run > n) { longest = Some([s, run]); }
        }
        prop_assert_eq!(said.longest, longest);
    }
}

#[test]
fn even_hours_are_the_plain_budget() {
    let (start, outdoor) = (air(20.0, 50.0), air(5.0, 80.0));
    let h = hour(outdoor, [0.01, 1e-4, 0.0]);
    let mut room = RoomAir::new(Volume::new(30.0).unwrap(), &start);
    for _ in 0..48 {
        room.step(&h);
    }
    let end = room.step(&h).rh;
    let budget = Budget { volume: Volume::new(30.0).unwrap(), start, outdoor, flow: h.flow, source: h.source };
    assert!((end - budget.rh_after(hygrothermal::quantity::Hours::new(49.0).unwrap())).abs() < 1e-9);
}

#[test]
fn a_dehumidifier_in_a_tight_box_takes_what_there_is_and_no_more() {
    // 1 kg of dry air with 7.26 g of water, nothing coming in, 10 g/h taken out: dry after 43.6 minutes.
    let start = air(20.0, 50.0);
    let mut room = RoomAir::new(Volume::new(start.specific_volume()).unwrap(), &start);
    let end = room.step(&hour(start, [0.0, 0.0, 0.010 / 3600.0]));
    assert_eq!((end.ratio, end.dew_point()), (0.0, None));
    assert!((end.removed - start.humidity_ratio()).abs() < 1e-12 && end.air_out.abs() < 1e-12);
}
