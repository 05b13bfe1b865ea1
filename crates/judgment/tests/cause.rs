//! Causes: worked cases as an experienced consultant would judge them, and what must hold of any case.
#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::disallowed_macros,
    missing_docs,
    reason = "tests"
)]

mod worked;

use building::Structure;
use judgment::cause::{Case, Conclusion, Diagnosis, ONE_MORE, Outcome, When, causes, diagnose, evidences, red_flags};
use judgment::finding::{finding, tests};
use proptest::prelude::*;

fn told(d: &Diagnosis) -> String {
    let top: Vec<String> =
        d.causes.iter().take(5).map(|r| format!("{} {:.2}/{:.2}", r.cause.id, r.share, r.acts)).collect();
    format!(
        "{:?}; {}; next {:?}",
        d.conclusion,
        top.join(", "),
        d.next_tests.iter().take(4).map(|t| &t.test.id).collect::<Vec<_>>()
    )
}

#[test]
fn worked_cases_end_as_a_consultant_would_end_them() {
    let cases = worked::cases();
    let mut wrong = Vec::new();
    for worked in &cases {
        let d = diagnose(&worked.case());
        let mut fail = |what: &str| wrong.push(format!("{}: {what}\n    {}", worked.name, told(&d)));
        match &d.conclusion {
            Conclusion::Acting(ids) => {
                let mut ids: Vec<&str> = ids.clone();
                let mut want: Vec<&str> = worked.acts.iter().map(String::as_str).collect();
                ids.sort_unstable();
                want.sort_unstable();
                if ids != want {
                    fail(&format!("wanted {want:?}, close {:?}", worked.close));
                }
            }
            Conclusion::Close(a, b) if worked.close.len() == 2 => {
                if ![a, b].iter().all(|id| worked.close.iter().any(|c| c == *id)) {
                    fail("another pair is close");
                }
            }
            Conclusion::CantTell if worked.acts.is_empty() && worked.close.is_empty() => {
                let first: Vec<&str> = d.next_tests.iter().take(3).map(|t| t.test.id.as_str()).collect();
                if !worked.unsure.iter().any(|u| first.contains(&u.as_str())) {
                    fail("another test comes first");
                }
            }
            _ => fail("another kind of ending"),
        }
        for id in &worked.never {
            if d.cause(id).is_some_and(|r| r.acts >= 0.25) {
                fail(&format!("{id} must stay unlikely"));
            }
        }
        let asked: Vec<&String> = d.red_flags.iter().flat_map(|f| &f.fixes).collect();
        for flag in &worked.flags {
            if !asked.contains(&flag) {
                fail(&format!("red flag {flag}"));
            }
        }
        if worked.flags.is_empty() && !asked.is_empty() {
            fail("a red flag nobody raised");
        }
        for id in &worked.left {
            if !d.unexplained.iter().any(|(e, _)| e.id == *id) {
                fail(&format!("{id} is left unexplained"));
            }
        }
        for id in &worked.explained {
            if d.unexplained.iter().any(|(e, _)| e.id == *id) {
                fail(&format!("{id} needs no other cause"));
            }
        }
    }
    assert!(cases.len() >= 100);
    assert!(wrong.is_empty(), "{} of {} cases\n{}", wrong.len(), cases.len(), wrong.join("\n"));
}

/// What the page’s working says is all there is: from each cause’s two logarithms alone, by every one, two and three of
/// them together, the same shares come out.
#[test]
fn shares_can_be_added_up_from_the_working() {
    for w in worked::cases() {
        let d = diagnose(&w.case());
        let log: Vec<f64> = d.causes.iter().map(|r| r.log_odds[0] + r.log_odds[1]).collect();
        let n = log.len();
        let (mut shares, mut acts, mut sum) = (vec![0.0; n], vec![0.0; n], 0.0);
        for mask in 1_u32..1 << n {
            let members: Vec<usize> = (0..n).filter(|i| mask & 1 << i != 0).collect();
            if members.len() > 3 {
                continue;
            }
            let odds = (members.iter().map(|i| log[*i]).sum::<f64>()).exp() * 0.25_f64.powi(members.len() as i32 - 1);
            sum += odds;
            for i in &members {
                shares[*i] += odds / members.len() as f64;
                acts[*i] += odds;
            }
        }
        for (i, r) in d.causes.iter().enumerate() {
            assert!((shares[i] / sum - r.share).abs() < 1e-9 && (acts[i] / sum - r.acts).abs() < 1e-9, "{}", w.name);
        }
    }
}

#[test]
fn the_table_speaks_of_the_vocabulary_only() {
    let named = |id: &str| finding(id).is_some() || tests().iter().any(|t| t.id == id);
    let measured = [
        "worst_margin_c",
        "hours_below_dew",
        "outdoor_dew_c",
        "surface_rh_pct",
        "air_rh_pct",
        "wood_mc_pct",
        "rain_correlation",
        "masonry_rel",
        "dehumidifier_l_day",
        "dehumidifier_share",
        "trouble_when",
        "season",
        "climate",
        "build_up",
        "fill_wall",
        "thermal_patch",
    ];
    for e in evidences() {
        assert!(named(&e.id) || measured.contains(&e.id.as_str()), "{}", e.id);
        for o in &e.outcomes {
            if let When::Is(word) = &o.when {
                let test = tests().iter().find(|t| t.id == e.id);
                assert!(test.is_none_or(|t| t.result(word).is_some()), "{} {word}", e.id);
            }
        }
        let moves = e.outcomes.iter().flat_map(|o| &o.weights);
        assert!(moves.clone().any(|w| *w != 0.0) && moves.clone().all(|w| w.abs() <= 3.5), "{}", e.id);
    }
    for t in tests() {
        let e = evidences().iter().find(|e| e.id == t.id).unwrap_or_else(|| panic!("{} moves nothing", t.id));
        assert_eq!(e.outcomes.len(), t.results.len(), "{}", t.id);
    }
    assert_eq!(causes().len(), 16);
    assert!(red_flags().iter().all(|f| finding(&f.finding).is_some()));
    for f in judgment::finding::findings().iter().filter(|f| f.red) {
        assert!(red_flags().iter().any(|r| r.finding == f.id), "{} is red and asks for nothing", f.id);
    }
}

/// Everything a case can be told, as an index into this list.
fn sayings() -> Vec<(String, When)> {
    evidences().iter().flat_map(|e| e.outcomes.iter().map(|o| (e.id.clone(), o.when.clone()))).collect()
}

fn say(case: &mut Case, (id, when): &(String, When)) {
    match when {
        When::There => case.finding(id, true),
        When::NotThere => case.finding(id, false),
        When::Is(word) => case.word(id, word),
        When::Under(limit) => case.figure(id, worked::typical(id, *limit)),
    }
    .unwrap();
}

fn structure() -> impl Strategy<Value = Structure> {
    prop::sample::select(Structure::ALL.to_vec())
}

/// Some outcomes, at most one of each piece of evidence.
fn some_case() -> impl Strategy<Value = (Structure, Vec<(String, When)>)> {
    (structure(), prop::collection::vec(any::<prop::sample::Index>(), 0..14)).prop_map(|(s, picks)| {
        let all = sayings();
        let mut out: Vec<(String, When)> = Vec::new();
        for pick in picks {
            let one = &all[pick.index(all.len())];
            if !out.iter().any(|(id, _)| *id == one.0) {
                out.push(one.clone());
            }
        }
        (s, out)
    })
}

fn of(structure: Structure, said: &[(String, When)]) -> Diagnosis {
    let mut case = Case::new(structure);
    said.iter().for_each(|s| say(&mut case, s));
    diagnose(&case)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(500))]

    #[test]
    fn the_order_of_entry_never_matters_and_shares_are_shares((s, said) in some_case(), seed in any::<u64>()) {
        let d = of(s, &said);
        let mut other = said.clone();
        other.sort_by_key(|(id, _)| id.bytes().fold(seed, |h, b| h.rotate_left(7) ^ u64::from(b)));
        other.extend(said.first().cloned());
        let e = of(s, &other);
        prop_assert!(d.causes.iter().zip(&e.causes).all(|(a, b)| a.cause.id == b.cause.id && a.share == b.share));
        let sum: f64 = d.causes.iter().map(|r| r.share).sum();
        prop_assert!((sum - 1.0).abs() < 1e-9);
        prop_assert!(d.causes.windows(2).all(|w| w[0].share >= w[1].share));
        prop_assert!(d.causes.iter().all(|r| r.acts >= r.share - 1e-12 && r.acts <= 1.0 + 1e-12));
        prop_assert!(d.next_tests.iter().all(|t| (0.0..=1.0).contains(&t.change)));
    }

    /// Evidence for a cause never lowers it against one it says nothing of.
    #[test]
    fn evidence_for_a_cause_never_lowers_its_rank((s, said) in some_case(), pick in any::<prop::sample::Index>()) {
        let all = sayings();
        let more = all[pick.index(all.len())].clone();
        prop_assume!(!said.iter().any(|(id, _)| *id == more.0));
        // What changes how other evidence is read, by rule: an event quiets the season, dry air excuses a machine, salts a meter.
        let quiets = ["flood_event", "pipe_burst_event", "trouble_when", "air_rh_pct", "efflorescence"];
        prop_assume!(!quiets.contains(&more.0.as_str()));
        let outcome = evidences().iter().find(|e| e.id == more.0).unwrap().outcomes.iter().find(|o| o.when == more.1).unwrap();
        let before = of(s, &said);
        let after = of(s, &[said, vec![more.clone()]].concat());
        let weight = |id: &str| outcome.weights[causes().iter().position(|c| c.id == id).unwrap()];
        let spoken_for: Vec<&str> = causes().iter().map(|c| c.id.as_str()).filter(|id| weight(id) > 0.1).collect();
        for a in before.causes.iter().filter(|r| spoken_for.contains(&r.cause.id.as_str())) {
            for b in before.causes.iter().filter(|r| weight(&r.cause.id) == 0.0) {
                if a.share >= b.share {
                    let now = |id: &str| after.cause(id).unwrap().share;
                    prop_assert!(now(&a.cause.id) >= now(&b.cause.id) - 1e-12, "{more:?}: {} fell behind {}", a.cause.id, b.cause.id);
                }
            }
        }
    }
}

/// A small seeded generator (SplitMix64), uniform in 0 to 1.
struct Dice(u64);

impl Dice {
    fn roll(&mut self) -> f64 {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        ((z ^ (z >> 31)) >> 11) as f64 / (1_u64 << 53) as f64
    }

    /// An index, each as likely as its weight.
    fn pick(&mut self, weights: &[f64]) -> usize {
        let mut left = self.roll() * weights.iter().sum::<f64>();
        weights
            .iter()
            .position(|w| {
                left -= w;
                left < 0.0
            })
            .unwrap_or(weights.len() - 1)
    }
}

/// Which causes act on an invented building, by the table's own odds.
fn acting(dice: &mut Dice, structure: Structure) -> Vec<usize> {
    let odds: Vec<f64> = causes().iter().map(|c| c.odds(structure)).collect();
    let mut sets: Vec<(Vec<usize>, f64)> = Vec::new();
    for a in 0..odds.len() {
        sets.push((vec![a], odds[a]));
        for b in a + 1..odds.len() {
            sets.push((vec![a, b], odds[a] * odds[b] * ONE_MORE));
            for c in b + 1..odds.len() {
                sets.push((vec![a, b, c], odds[a] * odds[b] * odds[c] * ONE_MORE * ONE_MORE));
            }
        }
    }
    let chances: Vec<f64> = sets.iter().map(|s| s.1).collect();
    sets.swap_remove(dice.pick(&chances)).0
}

/// Shares mean what they say: over buildings drawn from the table's own model, with every twentieth observation wrong, a
/// cause given a share of some size has that share on average. `--nocapture` prints the figures.
#[test]
fn stated_shares_are_right_as_often_as_they_say() {
    let mut dice = Dice(20_261_123);
    let mut bins = [(0_u32, 0.0, 0.0); 10];
    let (mut named, mut sure, mut right, mut careless) = (0_u32, 0.0, 0_u32, (0_u32, 0_u32));
    for _ in 0..4000 {
        let structure = Structure::ALL[dice.pick(&vec![1.0; Structure::ALL.len()])];
        let members = acting(&mut dice, structure);
        let mut case = Case::new(structure);
        let looks = 0.05 + 0.25 * dice.roll();
        let mut poor = Case::new(structure);
        for e in evidences() {
            // What says the same is drawn once: the model draws each by itself, and the weights count them as one.
            let said = |id: &str| case.knows(id) || poor.knows(id);
            let again = e.group.is_some() && evidences().iter().any(|o| o.group == e.group && said(&o.id));
            if dice.roll() > looks || again {
                continue;
            }
            let chance = |o: &Outcome| o.rate() * members.iter().map(|m| o.weights[*m]).sum::<f64>().exp();
            let mut chances: Vec<f64> = e.outcomes.iter().map(chance).collect();
            if dice.roll() < 0.05 {
                chances.fill(1.0);
            }
            let seen = (e.id.clone(), e.outcomes[dice.pick(&chances)].when.clone());
            say(&mut case, &seen);
            // The same looked at by somebody who misses a twentieth and takes another twentieth for what it is not.
            match dice.roll() {
                missed if missed < 0.05 => {}
                taken if taken < 0.1 => {
                    let other = dice.pick(&vec![1.0; e.outcomes.len()]);
                    say(&mut poor, &(e.id.clone(), e.outcomes[other].when.clone()));
                }
                _ => say(&mut poor, &seen),
            }
        }
        let sure_of_one = diagnose(&poor).causes.into_iter().next().filter(|r| r.share > 0.6);
        if let Some(r) = sure_of_one {
            let at = causes().iter().position(|c| c.id == r.cause.id).unwrap();
            (careless.0, careless.1) = (careless.0 + 1, careless.1 + u32::from(!members.contains(&at)));
        }
        let d = diagnose(&case);
        for r in &d.causes {
            let at = causes().iter().position(|c| c.id == r.cause.id).unwrap();
            let truth = if members.contains(&at) { 1.0 / members.len() as f64 } else { 0.0 };
            let bin = &mut bins[((r.share * 10.0) as usize).min(9)];
            *bin = (bin.0 + 1, bin.1 + r.share, bin.2 + truth);
        }
        if let Conclusion::Acting(ids) = &d.conclusion {
            named += 1;
            sure += d.cause(ids[0]).unwrap().acts;
            let lead = causes().iter().position(|c| c.id == ids[0]).unwrap();
            right += u32::from(members.contains(&lead));
        }
    }
    for (n, stated, observed) in bins {
        let (stated, observed) = (stated / f64::from(n), observed / f64::from(n));
        println!("{n:6} stated {stated:.3} observed {observed:.3}");
        // Two standard errors of the count beside what the noise may shift.
        let error = 0.05 + 2.0 * (stated * (1.0 - stated) / f64::from(n)).sqrt();
        assert!((stated - observed).abs() < error, "stated {stated:.3}, observed {observed:.3} of {n}");
    }
    let (sure, right) = (sure / f64::from(named), f64::from(right) / f64::from(named));
    println!("{named} of 4000 named a cause, stated to act with {sure:.3}; it did in {right:.3}");
    assert!(named > 300 && (sure - right).abs() < 0.06);
    let wrong = f64::from(careless.1) / f64::from(careless.0);
    println!("a tenth missing or false: {} shares over 0.6, wrong in {wrong:.3}", careless.0);
    assert!(careless.0 > 300 && wrong < 0.35);
}
