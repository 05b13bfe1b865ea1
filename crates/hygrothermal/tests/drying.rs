//! How often the band of a drying forecast holds the day.
#![allow(clippy::unwrap_used, missing_docs, reason = "tests")]
mod dice;

use dice::Dice;
use hygrothermal::drying::{LITTLE, between_depths, caught, drying_fit, passes_under};
use hygrothermal::quantity::{Days, MoistureContent, RelativeHumidity, Temperature};

#[test]
fn the_band_of_the_day_holds_the_true_day_as_often_as_it_says() {
    let mut pooled = [0, 0];
    for n in 4..=12 {
        for noise in [0.2, 0.5, 1.0] {
            let (mut held, mut cases) = (0, 0);
            for seed in 0..150 {
                let mut dice = Dice(seed * 7919 + n * 101 + (noise * 10.0) as u64);
                let (start, k, eq) = (22.0 + 10.0 * dice.uniform(), 0.05 + 0.2 * dice.uniform(), 11.0);
                let goal = 15.0;
                let days: Vec<f64> = (0..n).map(|d| d as f64).collect();
                let read: Vec<(Days, MoistureContent)> = days
                    .iter()
                    .map(|d| {
                        let mc = eq + (start - eq) * (-k * d).exp() + noise * dice.normal();
                        (Days::new(*d).unwrap(), MoistureContent::new(mc.max(0.0)).unwrap())
                    })
                    .collect();
                let truth = ((start - eq) / (goal - eq)).ln() / k;
                let Ok(fit) = drying_fit(&read, MoistureContent::new(eq).unwrap()) else { continue };
                let Some(f) = fit.passes(MoistureContent::new(goal).unwrap()) else { continue };
                cases += 1;
                held += i32::from((f.low..=f.high).contains(&truth));
            }
            // Of one kind of curve within what so many cases may show by chance.
            assert!(f64::from(held) / f64::from(cases) > 0.82, "{n} points, noise {noise}: {held} of {cases}");
            pooled[0] += held;
            pooled[1] += cases;
        }
    }
    let share = f64::from(pooled[0]) / f64::from(pooled[1]);
    assert!(pooled[1] > 3000 && (share - 0.9).abs() < 0.04, "{share} of {}", pooled[1]);
}

/// Dome and depths by hand, and the limit the flooring trade goes by: 3 lb in 1000 ft² a day (common practice) are 3·453.6/92.9 g/m².
#[test]
fn water_through_a_slab_is_what_was_caught_and_what_two_depths_drive() {
    assert!((LITTLE - 3.0 * 453.592 / 92.903).abs() < 0.05);
    assert!((caught(20.0, 48.0, 0.36).unwrap() - 20.0 / 0.36 / 2.0).abs() < 1e-9);
    assert_eq!((caught(20.0, 0.0, 0.36), caught(20.0, 48.0, 0.0)), (None, None));
    let at = |t: f64, rh: f64, d: f64| (Temperature::new(t).unwrap(), RelativeHumidity::new(rh).unwrap(), d);
    // p_sat(20 °C) = 2339 Pa (ASHRAE Fundamentals 2021, table 3): 20 % of it over 4 cm of concrete.
    let by_hand = 2e-10 / 80.0 * 0.2 * 2339.0 / 0.04 * 86_400.0 * 1000.0;
    let flux = between_depths(at(20.0, 75.0, 0.02), at(20.0, 95.0, 0.06)).unwrap();
    assert!((flux / by_hand - 1.0).abs() < 0.002, "{flux} {by_hand}");
    assert!(between_depths(at(20.0, 95.0, 0.02), at(20.0, 75.0, 0.06)).unwrap() < 0.0);
    assert_eq!(between_depths(at(20.0, 75.0, 0.06), at(20.0, 95.0, 0.06)), None);
}

/// Made with a known decay and the season's swing, the month comes back; the season alone is no drying.
#[test]
fn a_slab_passes_its_limit_when_decay_and_season_together_do() {
    let season = |day: f64| 1.0 + 0.3 * (std::f64::consts::TAU * (8.0 + day / 30.44 - 2.0) / 12.0).cos();
    let rate = |day: f64| 60.0 * (-0.01 * day).exp() * season(day);
    let measured: Vec<(f64, f64)> = [0.0, 14.0, 30.0, 45.0].map(|d| (d, rate(d))).to_vec();
    let told = passes_under(&measured, LITTLE, (8.0, 2)).unwrap().unwrap();
    let truth = (0..2000).map(f64::from).find(|d| rate(*d) <= LITTLE).unwrap();
    assert!((told.day - truth).abs() <= 1.0, "{} {truth}", told.day);
    let steady: Vec<(f64, f64)> = [0.0, 14.0, 30.0, 45.0].map(|d| (d, 60.0 * season(d))).to_vec();
    assert_eq!(passes_under(&steady, LITTLE, (8.0, 2)).unwrap(), None);
    assert!(passes_under(&measured[..2], LITTLE, (8.0, 2)).is_err());
}
