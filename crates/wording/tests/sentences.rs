//! Sentences as a reader gets them: beliefs, differences, limits, and no address anywhere.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::disallowed_methods, missing_docs, reason = "tests")]

use building::entry::DewAboveAir;
use building::reading::WoodValue;
use hygrothermal::air::{MoistAir, Over};
use hygrothermal::quantity::{
    HumidityAccuracy, MoistureContent, Pressure, RelativeHumidity, Temperature, TemperatureAccuracy,
};
use hygrothermal::surface::{Accuracy, judge};
use hygrothermal::wood::species_by_id;
use judgment::limits::Limits;
use judgment::picture::SurfaceRead;
use judgment::question::Doubt;
use notation::{Show, Units};
use wording::{argument, meter, question, verdict};

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

/// Rooms' air at 20 °C and 60 %, whose dew point is 12.0 °C (psychrometric tables, from memory), against surfaces around it.
#[test]
fn a_verdict_says_what_it_is_by_how_much_and_what_would_settle_it() {
    let accuracy = |air: f64, rh: f64, surface: f64| Accuracy {
        air: TemperatureAccuracy::new(air).unwrap(),
        rh: HumidityAccuracy::new(rh).unwrap(),
        surface: TemperatureAccuracy::new(surface).unwrap(),
    };
    let air = MoistAir::from_rh(
        Temperature::new(20.0).unwrap(),
        RelativeHumidity::new(60.0).unwrap(),
        Over::Water,
        Pressure::STANDARD,
    )
    .unwrap();
    let [space_id, boundary_id, reading_id] = [1, 2, 3].map(uuid::Uuid::from_u128);
    let surface = building::Surface {
        id: uuid::Uuid::from_u128(4),
        boundary_id,
        space_id,
        name: "Rim joist, north".into(),
        short: "rim".into(),
        material: building::Material::Wood,
    };
    let told = |t: f64, accuracy: Accuracy, units| {
        let t = Temperature::new(t).unwrap();
        let judged = judge(&air, t, Over::Water, &accuracy);
        let read =
            SurfaceRead { reading_id, taken_ms: 0, t, accuracy, beside: None, judged: Some(judged), factor: None };
        let told = verdict::tell(&show(units), &surface, &read, &judged);
        (told.head, told.text, verdict::figures(&show(units), &read, &judged))
    };
    let usual = accuracy(0.3, 2.0, 0.5);
    let heads = [8.0, 12.2, 14.0, 19.0].map(|t| told(t, usual, Units::Metric).0);
    assert_eq!(heads, ["Water is forming here.", "Can’t tell.", "No water yet, but damp enough for growth.", "Dry."]);
    let (_, text, figures) = told(8.0, usual, Units::Us);
    assert!(text.contains("The wood, at 46.4 °F, is colder than the dew point"), "{text}");
    assert!(figures.iter().any(|(name, value)| *name == "Dew point of the air" && value.starts_with("53.6 ± ")));
    // The instrument that leaves most of the doubt is the one named.
    for (accuracy, says) in [
        (accuracy(0.3, 5.0, 0.5), "salt-check it"),
        (accuracy(0.3, 1.0, 3.0), "(± 3.0 K) comes from the surface thermometer"),
        (accuracy(3.0, 0.5, 0.3), "comes from the air thermometer"),
    ] {
        let (head, text, _) = told(12.1, accuracy, Units::Metric);
        assert!(head == "Can’t tell." && text.contains(says), "{head} {text}");
    }
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
