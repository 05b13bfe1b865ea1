//! Follow-ups and prices: when something comes back, and what a plan costs.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, missing_docs, reason = "tests")]

use building::{Climate, Structure};
use judgment::cause::Case;
use judgment::plan::{
    Choices, Cost, FollowUp, Material, Prices, Sizing, Worker, fix, follow_up, follow_ups, item, plan,
};
use proptest::prelude::*;
use std::collections::BTreeMap;

/// A calendar of years of 365 days, day 0 being 1 January.
fn year_day(day: i64) -> i64 {
    day.rem_euclid(365)
}

fn next(f: &FollowUp, begun: i64, after: i64, climate: Climate) -> Option<i64> {
    f.next(begun, after, climate, year_day)
}

/// Every day on which something is due, if it is done on the day each time.
fn dates(id: &str, begun: i64, climate: Climate) -> Vec<i64> {
    let f = follow_up(id).unwrap();
    let mut out = Vec::new();
    let mut at = begun;
    while let Some(due) = next(f, begun, at, climate).filter(|_| out.len() < 40) {
        out.push(due);
        at = due;
    }
    out
}

#[test]
fn what_is_looked_at_again_comes_back_as_the_trade_says() {
    // Handbook of the trade (common practice): monthly the first quarter, then seasonal; wood for a year; salt yearly.
    assert_eq!(dates("sealed_crawl", 100, Climate::Mixed), [130, 160, 190]);
    assert_eq!(dates("dehumidifier_week", 100, Climate::Mixed), [107]);
    let wood = dates("wood_and_rh", 100, Climate::Mixed);
    assert_eq!(
        wood.iter().map(|d| year_day(*d)).collect::<Vec<_>>(),
        [151, 243, 334, 59],
        "each change of season, for a year"
    );
    assert_eq!(dates("salt_check", 0, Climate::Mixed)[..3], [365, 730, 1095], "it never ends");
    // A thermal survey waits for the cold, in a hot country for the heat.
    assert_eq!(year_day(dates("thermal_survey", 200, Climate::Cold)[0]), 14);
    assert_eq!(year_day(dates("thermal_survey", 200, Climate::HotHumid)[0]), 195);
    assert_eq!(follow_up("grading").unwrap().rhythm(), "every 5 years");
    assert_eq!(follow_up("dehumidifier_week").unwrap().rhythm(), "once, after a week");
}

#[test]
fn a_plan_asks_for_what_its_steps_and_its_building_need() {
    let mut case = Case::new(Structure::CrawlSealed);
    case.finding("film_loose", true).unwrap();
    let of = |case: &Case, causes: &[&str]| {
        let choices = Choices::of(case, &BTreeMap::new());
        let made = plan(case, causes, &choices, &[]);
        let s =
            judgment::plan::Situation { plan: made.ids(), ..judgment::plan::Situation::new(case, causes, &choices) };
        follow_ups().iter().filter(|f| f.belongs(&s)).map(|f| f.id.as_str()).collect::<Vec<_>>()
    };
    let crawl = of(&case, &["ground_vapor"]);
    assert!(
        ["sealed_crawl", "sealed_crawl_seasonal", "dehumidifier", "wood_and_rh", "salt_check"]
            .iter()
            .all(|f| crawl.contains(f)),
        "{crawl:?}"
    );
    assert!(!crawl.contains(&"vehicle") && !crawl.contains(&"gutters"));
    assert!(of(&Case::new(Structure::Vehicle), &["indoor_generation"]).contains(&"vehicle"));
    case.finding("reroofed_recently", true).unwrap();
    assert!(of(&case, &[]).contains(&"exhaust_flap"), "joints are knocked loose in re-roofing");
}

proptest! {
    #[test]
    fn it_is_always_due_later_and_within_what_it_says(begun in 0..20_000_i64, late in 0..200_i64) {
        for f in follow_ups() {
            for &climate in Climate::ALL {
                let after = begun + late;
                if let Some(due) = next(f, begun, after, climate) {
                    prop_assert!(due > after && due - after <= 1830, "{}: {due} after {after}", f.id);
                }
            }
        }
    }
}

#[test]
fn a_step_costs_its_work_and_its_material_to_the_cent() {
    let sizing = Sizing {
        needs: vec![
            Material { item: "ground_film_m2", quantity: 40.12 },
            Material { item: "kwh_year", quantity: 110.4 },
        ],
        hours: 7.5,
        ..Sizing::default()
    };
    let prices = Prices::from([("ground_film_m2".into(), 185), ("kwh_year".into(), 31), ("hour_trade".into(), 5800)]);
    let by = |id: &str| Cost::of(fix(id).unwrap().who, &sizing, &prices);
    // 40.12 × 1.85 = 74.222; 110.4 × 0.31 = 34.224 each year; a handy person's hour has no price here.
    let own = by("ground_film").total();
    assert_eq!((own.cents, own.yearly_cents, own.unpriced), (7422, 3422, 1));
    // 7.5 h of a trade at 58.
    let trade = by("regrade").total();
    assert_eq!((trade.cents, trade.unpriced), (7422 + 43_500, 0));
    let licensed = Cost::of(Worker::Licensed, &sizing, &prices);
    assert_eq!((licensed.total().unpriced, licensed.lines[0].item), (1, item("hour_licensed").unwrap()));
    assert_eq!(by("regrade").lines[0].item, item("hour_trade").unwrap(), "work stands first");
}
