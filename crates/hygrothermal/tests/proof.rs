//! What the comparison of two spans claims, against days made with a known change.
#![allow(clippy::unwrap_used, missing_docs, reason = "tests")]

mod dice;

use dice::Dice;
use hygrothermal::proof::{ProofDay, Reason, Verdict, paired, proof};

/// So many days from `from` on: outdoors with weather that lasts, an excess that falls with warmth, and noise that follows itself.
fn days(dice: &mut Dice, from: i64, n: i64, rho: f64, change: f64) -> Vec<ProofDay> {
    let step = |dice: &mut Dice, x: f64, rho: f64| rho * x + (1.0 - rho * rho).sqrt() * dice.normal();
    let (mut weather, mut wet, mut noise) = (dice.normal(), dice.normal(), dice.normal());
    (from..from + n)
        .map(|at| {
            weather = step(dice, weather, 0.7);
            wet = step(dice, wet, 0.6);
            noise = step(dice, noise, rho);
            let outdoor_t = 10.0 + 4.0 * weather;
            let outdoor_p = 900.0 + 150.0 * weather + 80.0 * wet;
            let excess = 300.0 - 12.0 * (outdoor_t - 10.0) + 40.0 * noise + change;
            ProofDay { at, excess, outdoor_t, outdoor_p }
        })
        .collect()
}

/// Of so many pairs of spans: share called changed, share whose band holds the truth, share that could not be told.
fn rates(n: i64, rho: f64, change: f64, cases: u64) -> [f64; 3] {
    let mut counts = [0.0; 3];
    for seed in 0..cases {
        let mut dice = Dice(seed * 1_000_003 + n as u64 * 7919 + (rho * 1e4) as u64);
        let before = days(&mut dice, 0, n, rho, 0.0);
        let after = days(&mut dice, n + 20, n, rho, change);
        let p = proof(&before, &after, 50.0);
        let c = p.change.unwrap();
        counts[0] += f64::from(u8::from(matches!(p.verdict, Verdict::Improved | Verdict::Worse)));
        counts[1] += f64::from(u8::from((c.low..=c.high).contains(&change)));
        counts[2] += f64::from(u8::from(p.verdict == Verdict::CantTell));
    }
    counts.map(|c| c / cases as f64)
}

/// Memories from none to long.
const MEMORIES: [f64; 5] = [0.0, 0.2, 0.4, 0.6, 0.8];

#[test]
fn nothing_that_happened_is_seldom_called_a_change_and_the_band_holds_as_often_as_it_says() {
    const CASES: u64 = 400;
    for n in [7, 14, 30] {
        let each = MEMORIES.map(|rho| (rho, rates(n, rho, 0.0, CASES)));
        let pooled = |of: usize| each.iter().map(|(_, r)| r[of]).sum::<f64>() / MEMORIES.len() as f64;
        assert!(pooled(0) <= 0.05 && (0.92..=0.985).contains(&pooled(1)), "{n}: {each:?}");
        // Of one memory, within what so many cases may show by chance.
        let chance = 2.0 * (0.05_f64 * 0.95 / CASES as f64).sqrt();
        assert!(each.iter().all(|(_, r)| r[0] <= 0.05 + chance && r[1] >= 0.9), "{n}: {each:?}");
    }
}

#[test]
fn a_true_change_is_found_once_the_days_could_show_it() {
    let mut found = 0;
    for seed in 0..200 {
        let mut dice = Dice(seed);
        let before = days(&mut dice, 0, 30, 0.5, 0.0);
        let probe = proof(&before, &days(&mut dice, 50, 30, 0.5, 0.0), 50.0).change.unwrap().detectable;
        let after = days(&mut dice, 50, 30, 0.5, -probe);
        let p = proof(&before, &after, 50.0);
        found += usize::from(p.change.unwrap().high < 0.0);
    }
    // Four of five cases, as it says of itself.
    assert!((130..=190).contains(&found), "{found} of 200");
}

#[test]
fn a_dry_spell_is_no_improvement() {
    let mut called = 0;
    for seed in 0..300 {
        let mut dice = Dice(seed + 77);
        let before = days(&mut dice, 0, 14, 0.6, 0.0);
        // Cold and dry afterwards, and nothing done: the excess follows the weather alone.
        let after: Vec<ProofDay> = days(&mut dice, 30, 14, 0.6, 0.0)
            .into_iter()
            .map(|d| ProofDay {
                outdoor_t: d.outdoor_t - 8.0,
                outdoor_p: d.outdoor_p - 300.0,
                excess: d.excess + 96.0,
                ..d
            })
            .collect();
        let p = proof(&before, &after, 50.0);
        called += usize::from(p.verdict == Verdict::Improved);
        // Where the weather was never the same, nothing is said, and why is.
        let frost: Vec<ProofDay> = after.iter().map(|d| ProofDay { outdoor_t: d.outdoor_t - 30.0, ..*d }).collect();
        let p = proof(&before, &frost, 50.0);
        assert_eq!((p.verdict, p.reasons.as_slice()), (Verdict::CantTell, [Reason::SeasonsDoNotOverlap].as_slice()));
    }
    assert!(called <= 15, "{called} of 300");
    let mut dice = Dice(1);
    let (few, many) = (days(&mut dice, 0, 4, 0.0, 0.0), days(&mut dice, 9, 9, 0.0, 0.0));
    assert_eq!(proof(&few, &many, 50.0).reasons, [Reason::TooFewDays]);
    assert_eq!(proof(&[], &many, 50.0).overlap, 0.0);
}

#[test]
fn without_memory_and_weather_it_is_the_difference_of_two_means() {
    // Nothing but scatter about two levels, the outdoor state held: Student's two samples give the same middle.
    let mut dice = Dice(5);
    let side = |dice: &mut Dice, from: i64, level: f64| -> Vec<ProofDay> {
        let one = |i| ProofDay { at: from + i, excess: level + dice.normal(), outdoor_t: 5.0, outdoor_p: 700.0 };
        (0..200).map(one).collect()
    };
    let (before, after) = (side(&mut dice, 0, 200.0), side(&mut dice, 500, 150.0));
    let c = proof(&before, &after, 5.0).change.unwrap();
    let mean = |d: &[ProofDay]| d.iter().map(|d| d.excess).sum::<f64>() / d.len() as f64;
    assert!((c.value - (mean(&after) - mean(&before))).abs() < 0.05, "{c:?}");
    // t of 398 degrees: 1.966; standard error sqrt(2/200), wider by the little memory 200 days leave open.
    let half = 0.5 * (c.high - c.low);
    assert!((0.18..0.25).contains(&half), "{half}");
    assert!(c.slopes.iter().all(|s| *s == 0.0));
}

/// By hand: differences −10, −12, −8, −10 have mean −10, s = 1.633, and t₀.₉₇₅,₃ = 3.182 (Student's table): ± 2.598.
#[test]
fn the_same_points_before_and_after_are_paired() {
    let told = paired(&[(50.0, 40.0), (62.0, 50.0), (38.0, 30.0), (50.0, 40.0)]).unwrap();
    assert_eq!((told.count, told.fell, told.before), (4, 4, 50.0));
    assert!((told.change + 10.0).abs() < 1e-12 && (told.high + 10.0 - 2.598).abs() < 2e-3, "{told:?}");
    assert_eq!(told.fell_beyond_doubt(), Some(true));
    assert_eq!(paired(&[(5.0, 4.0), (5.0, 6.5), (5.0, 4.8)]).unwrap().fell_beyond_doubt(), None);
    assert_eq!(paired(&[(5.0, 4.0), (5.0, 4.1)]), None);
}
