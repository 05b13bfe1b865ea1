//! Sentences as a reader gets them: beliefs, differences, limits, and no address anywhere.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::disallowed_methods, missing_docs, reason = "tests")]

use building::entry::DewAboveAir;
use building::reading::WoodValue;
use hygrothermal::quantity::{MoistureContent, Temperature};
use hygrothermal::wood::species_by_id;
use judgment::limits::Limits;
use judgment::question::Doubt;
use notation::{Show, Units};
use wording::{argument, meter, question};

fn show(units: Units) -> Show {
    Show::new(units, "UTC")
}

#[test]
fn no_belief_is_certain_either_way() {
    let said = [0.0, 0.004, 0.5, 0.994, 0.996, 1.0].map(argument::percent);
    assert_eq!(said, ["under 1 %", "under 1 %", "50 %", "99 %", "over 99 %", "over 99 %"]);
}

#[test]
fn a_doubt_speaks_in_the_readers_units() {
    let doubt = Doubt::DewAboveAir(DewAboveAir { dew: 21.0, air: 20.0 });
    let (metric, us) = (question::ask(&show(Units::Metric), &doubt), question::ask(&show(Units::Us), &doubt));
    assert!(metric.contains("21.0 °C") && metric.contains("20.0 °C"), "{metric}");
    assert!(us.contains("69.8 °F") && us.contains("68.0 °F"), "{us}");
}

#[test]
fn wood_is_judged_by_the_limits_of_whoever_asks() {
    let species = species_by_id("spruce").unwrap();
    let shown = MoistureContent::new(11.5).unwrap();
    let wood = WoodValue::corrected(shown, species, Temperature::new(20.0).unwrap()).unwrap();
    let told = |limits: &Limits| {
        let (mark, head, text, _) = meter::wood(&show(Units::Metric), limits, &wood);
        (mark.word, head, text)
    };
    let (usual, careful) = (told(&Limits::default()), told(&Limits::of([("wood_goal", "13")])));
    assert_eq!(usual.1, careful.1, "the same reading");
    assert_eq!((usual.0, usual.2.as_str()), ("dry", "Under 15 %: it may be closed in."));
    assert_eq!((careful.0, careful.2.as_str()), ("damp", "13 to 19 %: do not close it in; find what feeds it."));
}

/// Nothing below the edge knows an address: no source of the crate writes one.
#[test]
fn no_sentence_holds_an_address() {
    let mut read = 0;
    let mut folders = vec![std::path::PathBuf::from(concat!(env!("CARGO_MANIFEST_DIR"), "/src"))];
    while let Some(folder) = folders.pop() {
        for entry in std::fs::read_dir(folder).unwrap() {
            let path = entry.unwrap().path();
            if path.is_dir() {
                folders.push(path);
                continue;
            }
            let text = std::fs::read_to_string(&path).unwrap();
            assert!(!text.contains("\"/jobs") && !text.contains("href"), "{}", path.display());
            read += 1;
        }
    }
    assert!(read > 10, "the sources were found");
}
