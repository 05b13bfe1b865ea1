//! How often the band of a drying forecast holds the day.
#![allow(clippy::unwrap_used, missing_docs, reason = "tests")]
mod dice;

use dice::Dice;
use hygrothermal::drying::drying_fit;
use hygrothermal::quantity::{Days, MoistureContent};

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
