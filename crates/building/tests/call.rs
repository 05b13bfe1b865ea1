//! What a call suggests, as an experienced consultant would.
#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs, reason = "tests")]

use building::call::{About, Call, constructions, points};

fn call(said: &[&str]) -> Call {
    Call { said: said.iter().map(|s| (*s).to_owned()).collect(), ..Call::default() }
}

#[test]
fn a_ceiling_stain_sends_one_to_the_exhaust_duct_before_the_roof() {
    let suggested = call(&["in_cold", "ceiling_stain"]).suggests();
    assert!(
        suggested.look.iter().any(|s| s.text.contains("exhaust duct") && s.because == ["Stain or drip on a ceiling"])
    );
    assert!(suggested.bring.iter().any(|s| s.text.contains("Ladder")));
    assert_eq!(call(&["ceiling_stain", "in_cold"]).suggests(), suggested, "the order of the call never matters");
}

#[test]
fn what_two_things_point_to_comes_with_both_reasons_and_once() {
    let suggested = call(&["glass_wet", "mornings", "windows"]).suggests();
    let logger = suggested.bring.iter().find(|s| s.text.contains("Logger")).unwrap();
    assert_eq!(logger.because.len(), 3);
    assert_eq!(suggested.bring.iter().filter(|s| s.text == logger.text).count(), 1);
}

#[test]
fn construction_says_what_not_to_pierce_and_age_what_not_to_cut() {
    let bus = Call { built: vec!["bonded_foam".into()], year: Some(2009), ..Call::default() }.suggests();
    assert!(bus.test[0].leave.contains("no pin") && !bus.old_fabric);
    assert!(Call { year: Some(1962), ..Call::default() }.suggests().old_fabric);
    assert!(Call::default().is_empty() && call(&["nothing known"]).suggests().look.is_empty());
}

#[test]
fn the_table_is_whole() {
    let mut ids: Vec<&str> =
        points().iter().map(|p| p.id.as_str()).chain(constructions().iter().map(|c| c.id.as_str())).collect();
    ids.sort_unstable();
    let count = ids.len();
    ids.dedup();
    assert_eq!(ids.len(), count, "an id stands for one thing");
    // The vocabulary's ids for when the trouble shows.
    for id in ["after_rain", "in_cold", "in_humid_season", "always", "mornings", "after_event"] {
        assert!(points().iter().any(|p| p.about == About::When && p.id == id), "{id}");
    }
    assert!(points().iter().all(|p| !call(&[&p.id]).suggests().look.is_empty()), "everything said leads somewhere");
}
