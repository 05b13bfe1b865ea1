//! What the hours say, on hours whose truth is known.
#![allow(clippy::unwrap_used, missing_docs, reason = "tests")]

use hygrothermal::air::{MoistAir, Over, saturation_pressure};
use hygrothermal::quantity::{Pressure, RelativeHumidity, Temperature};
use judgment::hours::{
    AIR, BothSides, DailyWave, Daytime, Exchanged, Fault, Heard, MoistureClass, RH, after_rain, air_changes, change,
    clock, daily_wave, daytime, exchanged, faults, moisture_class, response, two_weeks,
};
use std::f64::consts::TAU;

/// A seeded generator (SplitMix64), uniform in −1 to 1.
struct Noise(u64);

impl Noise {
    fn next(&mut self) -> f64 {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        z ^= z >> 31;
        (z >> 11) as f64 / (1_u64 << 52) as f64 - 1.0
    }

    /// About normal, of spread 1.
    fn normal(&mut self) -> f64 {
        (0..6).map(|_| self.next()).sum::<f64>() / 2.0_f64.sqrt()
    }
}

/// Vapor pressure outdoors over some hours, Pa: weather that changes over two days.
fn weather(noise: &mut Noise, hours: usize) -> Vec<f64> {
    let keeps = (-1.0_f64 / 40.0).exp();
    let mut x = 0.0;
    let next = (0..hours).map(|i| {
        x = keeps * x + (1.0 - keeps * keeps).sqrt() * noise.normal();
        1400.0 + 260.0 * x + 40.0 * (TAU * i as f64 / 24.0).sin()
    });
    next.collect()
}

/// The air of a space with so many air changes and a source that wanders by itself, Pa.
fn space(noise: &mut Noise, outdoors: &[f64], exchange: f64, source: f64, wander: f64) -> Vec<f64> {
    let mut p = outdoors[0] + source;
    let keeps = (-1.0_f64 / 60.0).exp();
    let mut own = 0.0;
    let step = outdoors.iter().map(|e| {
        own = keeps * own + (1.0 - keeps * keeps).sqrt() * noise.normal();
        // What air brings, and a store in the ground or the wood that holds it where it is.
        let hold = 0.5 - 0.5 * exchange.min(1.0);
        let target = (exchange * e + hold * (1400.0 + source + wander * own)) / (exchange + hold);
        p = target + (p - target) * (-(exchange + hold)).exp();
        p
    });
    step.collect()
}

fn known(row: &[f64]) -> Vec<Option<f64>> {
    row.iter().copied().map(Some).collect()
}

#[test]
fn what_follows_the_weather_is_told_from_what_has_its_own_source() {
    let mut noise = Noise(15);
    let (mut right, mut of) = (0, 0);
    for case in 0..100 {
        let outdoors = weather(&mut noise, 24 * 21);
        let follows = case % 2 == 0;
        let inside = if follows {
            space(&mut noise, &outdoors, 1.2, 60.0, 40.0)
        } else {
            space(&mut noise, &outdoors, 0.04, 500.0, 120.0)
        };
        let r = response(&known(&inside), &known(&outdoors)).unwrap();
        let outdoor_air = r.slope.value - r.slope.err > 0.6;
        let own_source = r.slope.value + r.slope.err < 0.4;
        of += 1;
        right += usize::from(if follows { outdoor_air && !own_source } else { own_source && !outdoor_air });
    }
    assert!(right >= 95, "{right} of {of}");
}

#[test]
fn an_event_that_changed_nothing_is_seldom_said_to_have() {
    let mut noise = Noise(4);
    let (mut false_alarms, mut found) = (0, 0);
    for _ in 0..200 {
        let outdoors = weather(&mut noise, 24 * 28);
        let inside = space(&mut noise, &outdoors, 0.6, 200.0, 80.0);
        let at = 24 * 14;
        let fixed: Vec<f64> = inside.iter().enumerate().map(|(i, p)| if i < at { *p } else { p - 300.0 }).collect();
        false_alarms += usize::from(!change(&known(&inside), &known(&outdoors), at).unwrap().excess_pa.spans_zero());
        let said = change(&known(&fixed), &known(&outdoors), at).unwrap().excess_pa;
        found += usize::from(said.value + said.err < 0.0);
    }
    assert!(false_alarms <= 14, "{false_alarms} of 200 false");
    assert!(found >= 150, "{found} of 200 found");
}

#[test]
fn the_time_of_day_of_wet_hours_is_said_in_words() {
    let all: Vec<u32> = (0..240).map(|i| i % 24).collect();
    let at = |of: fn(u32) -> bool| daytime(&all.iter().copied().filter(|h| of(*h)).collect::<Vec<_>>(), &all);
    assert_eq!(at(|h| !(6..20).contains(&h)), Some(Daytime::Night));
    assert_eq!(at(|h| (6..=9).contains(&h)), Some(Daytime::Morning));
    assert_eq!(at(|h| (11..=17).contains(&h)), Some(Daytime::Day));
    assert_eq!(at(|_| true), Some(Daytime::Always));
    assert_eq!(daytime(&[3, 4], &all), None, "two hours are no pattern");
}

#[test]
fn a_moisture_excess_has_the_class_of_its_use() {
    // ISO 13788:2012, annex A, from memory: at 0 °C the limits are 270, 540, 810 and 1080 Pa, at 10 °C half of that.
    assert_eq!(moisture_class(269.0, -5.0), Some(MoistureClass::VeryDry));
    assert_eq!(moisture_class(541.0, 0.0), Some(MoistureClass::Ordinary));
    assert_eq!(moisture_class(406.0, 10.0), Some(MoistureClass::Humid));
    assert_eq!(moisture_class(1100.0, 0.0), Some(MoistureClass::VeryHumid));
    assert_eq!(moisture_class(100.0, 21.0), None);
}

fn heard(row: impl Iterator<Item = f64>) -> Vec<Option<Heard>> {
    row.map(|x| Some(Heard { mean: x, low: x - 0.1, high: x + 0.1 })).collect()
}

#[test]
fn what_is_wrong_with_a_logger_is_found_and_counted_exactly() {
    let wave = |i: usize| 18.0 + 2.0 * (TAU * i as f64 / 24.0).sin();
    let good = heard((0..240).map(wave));
    assert!(faults(&good, &[], AIR).is_empty());
    let mut bad = good.clone();
    bad[30..41].fill(None);
    bad[60..70].fill(Some(Heard { mean: 19.0, low: 19.0, high: 19.0 }));
    bad[100] = Some(Heard { mean: 21.0, low: 17.0, high: 39.0 });
    bad[150] = Some(Heard { mean: 30.0, low: 17.0, high: 120.0 });
    let found = faults(&bad, &[&good], AIR);
    assert!(found.contains(&Fault::Silent { from: 30, hours: 11 }), "{found:?}");
    assert!(found.contains(&Fault::Stuck { from: 61, hours: 9, at: 19.0 }), "{found:?}");
    assert!(found.contains(&Fault::Spike { from: 100, at: 39.0 }), "{found:?}");
    assert!(found.contains(&Fault::Impossible { from: 150, at: 120.0 }), "{found:?}");
    let still = heard((0..240).map(|_| 19.0));
    assert!(
        !faults(&bad, &[&still], AIR).iter().any(|f| matches!(f, Fault::Stuck { .. })),
        "nothing else moved either"
    );
    let mut soaked: Vec<Option<Heard>> = (0..240).map(|_| Some(Heard { mean: 80.0, low: 79.0, high: 81.0 })).collect();
    soaked[50..90].fill(Some(Heard { mean: 100.0, low: 100.0, high: 100.0 }));
    let found = faults(&soaked, &[], RH);
    assert!(found.contains(&Fault::Saturated { from: 50, hours: 40 }), "{found:?}");
}

#[test]
fn a_clock_set_wrong_is_told_from_a_thick_wall() {
    let outdoors: Vec<Option<f64>> = (0..240).map(|i| Some(10.0 + 6.0 * (TAU * f64::from(i) / 24.0).cos())).collect();
    let lagging = |hours: f64, share: f64| -> Vec<Option<f64>> {
        (0..240).map(|i| Some(15.0 + 6.0 * share * (TAU * (f64::from(i) - hours) / 24.0).cos())).collect()
    };
    let said = |hours, share| {
        let wave = daily_wave(&lagging(hours, share), &outdoors).unwrap();
        assert!((wave.late_h - hours).abs() < 0.05 && (wave.share - share).abs() < 0.01, "{wave:?}");
        clock(wave)
    };
    assert_eq!(said(1.5, 0.95), None, "an attic");
    assert_eq!(said(7.0, 0.1), None, "a thick wall");
    assert!(said(8.0, 0.95).is_some(), "an attic whose clock is seven hours off");
    assert!(said(-5.0, 0.5).is_some(), "a day ahead of the day");
    assert_eq!(daily_wave(&lagging(3.0, 0.01), &outdoors), None, "no wave, no lag");
    assert_eq!(clock(DailyWave { late_h: 6.5, share: 0.2 }), None);
}

#[test]
fn two_loggers_that_changed_places_are_found_at_the_hour_they_did() {
    let mut noise = Noise(4);
    let (mut found, mut false_alarms) = (0, 0);
    for case in 0..100_usize {
        // A crawl space and the room above, both under the same weather; now and then a door stands open or a front comes through.
        let (apart, swing) = (2.0 + 0.1 * case as f64, 0.3 + 0.02 * case as f64);
        let front = |i: usize| if i >= 130 { 4.0 } else { 0.0 };
        let mut row = |level: f64, late: f64| -> Vec<Option<f64>> {
            let mut at =
                |i: usize| level + swing * (TAU * (i as f64 - late) / 24.0).sin() + front(i) + 0.1 * noise.normal();
            (0..240).map(|i| (i % 53 != 0).then(|| at(i))).collect()
        };
        let (a, b) = (row(20.0, 0.0), row(20.0 - apart, 3.0));
        false_alarms += exchanged(&[a.clone(), b.clone()]).len();
        let at = 40 + case;
        let swapped = |own: &[Option<f64>], other: &[Option<f64>]| [&own[..at], &other[at..]].concat();
        let still = vec![Some(12.0); 240];
        let said = exchanged(&[swapped(&a, &b), still, swapped(&b, &a)]);
        found += usize::from(said == [Exchanged { one: 0, other: 2, from: at }]);
    }
    assert_eq!(false_alarms, 0);
    assert!(found >= 80, "{found} of 100");
}

/// A moisture excess that falls each night after an evening's cooking, g/m³: means of steps of a quarter of an hour, as logged to
/// 0.05 g/m³.
fn evenings(noise: &mut Noise, changes: f64, days: usize) -> Vec<Option<f64>> {
    let (step, mut v) = (0.25, 0.0);
    let hour = |i: usize| i as f64 * step % 24.0;
    let value = (0..days * 96).map(|i| {
        // So many g/m³ an hour while it boils.
        let source = if (18.0..20.0).contains(&hour(i)) { 4.0 } else { 0.0 };
        let level = source / changes;
        let next = level + (v - level) * (-changes * step).exp();
        let mean = level + (v - level) * (1.0 - (-changes * step).exp()) / (changes * step);
        v = next;
        Some(((mean + 0.02 * noise.normal()) / 0.05).round() * 0.05)
    });
    value.collect()
}

#[test]
fn a_decay_recovers_the_air_changes_within_its_band() {
    let mut noise = Noise(741);
    let (mut within, mut of) = (0, 0);
    for case in 0..100 {
        let truth = 0.2 + 0.012 * f64::from(case);
        let said = air_changes(&evenings(&mut noise, truth, 6), &[Some(0.0); 6 * 96], 0.25).unwrap().per_h;
        of += 1;
        within += usize::from((said.value - truth).abs() <= said.err);
        assert!(said.err < 0.25 * truth, "a band of {} about {truth} says nothing", said.err);
    }
    assert!(within >= 90, "{within} of {of}");
    let cooking = evenings(&mut noise, 0.5, 6);
    let outdoors = |swing: f64| -> Vec<Option<f64>> {
        (0..cooking.len()).map(|i| Some(8.0 + swing * (TAU * i as f64 / 96.0).sin())).collect()
    };
    let still: Vec<Option<f64>> = vec![Some(9.0); cooking.len()];
    assert_eq!(air_changes(&still, &outdoors(2.0), 0.25), None, "what only outdoors makes of it is no decay");
}

fn air(t_c: f64, p: f64) -> MoistAir {
    let t = Temperature::new(t_c).unwrap();
    let rh = (100.0 * p / saturation_pressure(t)).min(100.0);
    MoistAir::from_rh(t, RelativeHumidity::new(rh).unwrap(), Over::Water, Pressure::STANDARD).unwrap()
}

#[test]
fn two_weeks_tell_which_way_moisture_goes() {
    let mut noise = Noise(2);
    let mut right = 0;
    for case in 0..100 {
        let wet_outdoors = case % 2 == 0;
        let outdoors = weather(&mut noise, 24 * 14);
        // A cool crawl space that outdoor air flows through, or one that is closed over bare soil.
        let (inside, surface) = if wet_outdoors {
            (space(&mut noise, &outdoors, 1.2, 30.0, 30.0), 13.0)
        } else {
            (space(&mut noise, &outdoors, 0.04, 500.0, 120.0), 18.0)
        };
        let hours: Vec<BothSides> = inside
            .iter()
            .zip(&outdoors)
            .map(|(i, e)| BothSides {
                inside: Some(air(18.0, *i)),
                outside: Some(air(22.0, *e)),
                surface: Temperature::new(surface).ok(),
            })
            .collect();
        right += usize::from(two_weeks(&hours).is_some_and(|w| w.outdoor_wetter == wet_outdoors));
        assert_eq!(two_weeks(&hours[..160]), None, "not even a week");
    }
    assert!(right >= 95, "{right} of 100");
}

#[test]
fn wetness_that_follows_rain_is_told_with_its_lag() {
    let mut noise = Noise(34);
    let rain: Vec<f64> = (0..24 * 40).map(|i| if i % 131 < 5 && noise.next() > -0.5 { 3.0 } else { 0.0 }).collect();
    let mut shown = 0.0;
    let follows: Vec<Option<f64>> = (0..rain.len())
        .map(|i| {
            // Rain of half a day before seeps through and dries over a day.
            shown = shown * (-1.0_f64 / 24.0).exp() + if i >= 12 { rain[i - 12] } else { 0.0 };
            Some(14.0 + shown / 4.0 + 0.1 * noise.normal())
        })
        .collect();
    let said = after_rain(&known(&rain), &follows).unwrap();
    assert!(said.correlation > 0.5, "{said:?}");
    assert!(said.lag_h.is_some_and(|lag| (6..=24).contains(&lag)), "{said:?}");
    let own: Vec<Option<f64>> = (0..rain.len()).map(|i| Some(14.0 + (TAU * i as f64 / 24.0).sin())).collect();
    assert!(after_rain(&known(&rain), &own).is_none_or(|r| r.correlation < 0.5 && r.lag_h.is_none()));
    assert_eq!(after_rain(&vec![Some(0.0); 960], &follows), None, "no rain, nothing to follow");
}
