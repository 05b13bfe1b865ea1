//! What people type.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, missing_docs, reason = "tests")]

use building::entry::{
    Field, Humidity, Line, LineError, Reads, complete, name_on_line, parse_air, parse_line, parse_moisture,
    parse_scale, parse_surface,
};
use building::reading::WoodValue;
use building::{Building, Place, Structure, blueprint};
use hygrothermal::air::Over;
use hygrothermal::quantity::{MoistureContent, Temperature};
use hygrothermal::wood::{MeterReading, species_by_id};
use notation::Units;
use proptest::prelude::*;
use uuid::Uuid;

fn building(structure: Structure) -> Building {
    let mut n = 0;
    blueprint(structure).unwrap().build(|| {
        n += 1;
        Uuid::from_u128(n)
    })
}

fn names(b: &Building, text: &str) -> Vec<String> {
    parse_line(b, text)
        .into_iter()
        .map(|r| match r {
            Ok(Line { station_id, reads }) => {
                format!("{} {reads:?}", b.place_name(b.station(station_id).unwrap().place))
            }
            Err(LineError::Ambiguous(_, ids)) => format!("{} choices", ids.len()),
            Err(e) => format!("{e:?}"),
        })
        .collect()
}

#[test]
fn each_typed_word_is_another_word_of_the_name() {
    let attic = building(Structure::Attic);
    assert!(names(&attic, "sheathing S 4")[0].starts_with("Sheathing, south"), "{:?}", names(&attic, "sheathing S 4"));
    assert!(names(&attic, "sheathing n s 4")[0].starts_with("Sheathing, north"), "the last s marks a surface");
    assert!(names(&attic, "sh 4")[0].ends_with("choices"), "one word leaves both");
    // A name of many words alike, typed wrong, is answered at once.
    let mut odd = building(Structure::Attic);
    odd.surfaces[0].name = "a a a a a a a a a a a a a a a a a a a a".into();
    assert!(names(&odd, &format!("{} z 4", "a ".repeat(19)))[0].starts_with("NotFound"));
}

#[test]
fn every_station_of_every_structure_is_reached_by_its_own_name() {
    for structure in Structure::ALL {
        let mut b = building(*structure);
        // A consultant's own names: with figures, with words of the grammar, the same in two spaces.
        let odd = ["Wall 2", "Note board", "3 m beam", "Rel wall", "Corner", "Corner"];
        for (surface, name) in b.surfaces.iter_mut().zip(odd) {
            name.clone_into(&mut surface.name);
        }
        for station in &b.stations {
            let surface = matches!(station.place, Place::Surface(_));
            let name = name_on_line(&b, station.id);
            let line = format!("{name} {}", if surface { "12" } else { "12 60" });
            let found = match parse_line(&b, &line).remove(0) {
                // Two of one name in one space cannot be told apart by words: the choice is offered.
                Err(LineError::Ambiguous(_, ids)) if ids.contains(&station.id) => continue,
                found => found.unwrap(),
            };
            assert_eq!(found.station_id, station.id, "{structure:?}: {line}");
            assert!(complete(&b, &name).contains(&station.id), "{name} completes to itself");
            let markers = [" mc 14", " note wet edge"];
            for marker in markers.iter().filter(|_| surface) {
                assert!(parse_line(&b, &format!("{name}{marker}"))[0].is_ok(), "{name}{marker}");
            }
        }
    }
}

#[test]
fn the_shorthand_of_the_card_is_understood() {
    let b = building(Structure::CrawlVented);
    let air = |t: &str, m: &str, humidity| Reads::Air { temperature: t.into(), moisture: m.into(), humidity };
    assert_eq!(names(&b, "crawl 18.2 81"), [format!("Crawl space {:?}", air("18.2", "81", Humidity::Rh))]);
    assert_eq!(
        names(&b, "out 9 dew 4 ; rim joist N s 12.5"),
        [
            format!("Outdoor air {:?}", air("9", "4", Humidity::Dew)),
            format!("Rim joist, north {:?}", Reads::Surface("12.5".into())),
        ]
    );
    let wood = Reads::Wood { moisture: "17.5".into(), species: String::new(), at: None };
    assert_eq!(
        names(&b, "rim joist N mc 17.5 ; rim S REL 320"),
        [format!("Rim joist, north {wood:?}"), format!("Rim joist, south {:?}", Reads::Relative("320".into()))]
    );
    assert!(names(&b, "rim joist N mc 17.5 12")[0].starts_with("WrongCount"), "a meter shows one figure");
    assert_eq!(names(&b, "rim S 11"), [format!("Rim joist, south {:?}", Reads::Surface("11".into()))]);
    assert_eq!(names(&b, "attic 64F 78%"), [format!("Attic {:?}", air("64F", "78%", Humidity::Rh))]);
}

#[test]
fn ambiguity_is_answered_with_the_choices_and_never_guessed() {
    let b = building(Structure::CrawlVented);
    assert_eq!(names(&b, "rim 11"), ["2 choices"]);
    assert_eq!(names(&b, "wall s 11"), ["2 choices"], "s may begin south or mark a surface");
    assert!(matches!(parse_line(&b, "cellar 12 60").remove(0), Err(LineError::NotFound(_))));
    assert!(matches!(parse_line(&b, "crawl").remove(0), Err(LineError::NoFigure(_))));
    assert!(matches!(parse_line(&b, "12 60").remove(0), Err(LineError::NoStation(_))));
    assert!(matches!(
        parse_line(&b, "rim joist N zz 17.5").remove(0),
        Err(LineError::NoFigure(_) | LineError::NotFound(_))
    ));
    assert!(matches!(parse_line(&b, &"x".repeat(2_000_000)).remove(0), Err(LineError::TooLong(_))));
}

#[test]
fn either_unit_system_gives_the_same_air() {
    let parse = |t: &str, m: &str, units| parse_air(t, m, Humidity::Rh, units, Over::Water, |x| x).unwrap().value;
    for (t, m, units) in [
        ("64.4", "78 %", Units::Us),
        ("64.4F", "78", Units::Metric),
        ("18 °C", "78", Units::Us),
        ("18,0", "78,0", Units::Metric),
    ] {
        let air = parse(t, m, units);
        assert!((air.t.get() - 18.0).abs() < 1e-9 && (air.rh.get() - 78.0).abs() < 1e-9, "{t} {m}: {air:?}");
    }
    let negative = parse("−5", "78", Units::Metric);
    assert_eq!(negative.t.get(), -5.0);
}

#[test]
fn the_impossible_is_refused_at_its_field_and_the_odd_is_asked_about() {
    let refused = |t: &str, m: &str, kind| {
        let errors = parse_air(t, m, kind, Units::Metric, Over::Water, |x| x).unwrap_err();
        errors.into_iter().map(|e| (e.field, e.message)).collect::<Vec<_>>()
    };
    assert_eq!(refused("20", "112", Humidity::Rh)[0].1, "Relative humidity must be 0 to 100 %, got 112.");
    assert!(refused("-300", "50", Humidity::Rh)[0].1.contains("must be -70 to 110 °C, got -300"));
    let both = refused("abc", "", Humidity::Rh);
    assert_eq!((both[0].0, both[1].0), (Field::Temperature, Field::Humidity));
    assert!(refused("<script>", "50", Humidity::Rh)[0].1.contains("is not a number"));
    assert!(refused(&"9".repeat(2_000_000), "50", Humidity::Rh)[0].1.len() < 200, "a paste is not echoed whole");
    assert_eq!(refused("20", "NaN", Humidity::Rh)[0].0, Field::Humidity);
    assert!(refused("10", "18", Humidity::Dew)[0].1.contains("swapped"));
    assert!(refused("10", "11", Humidity::Wet)[0].1.contains("swapped"));
    let odd = parse_air("10", "10.5", Humidity::Dew, Units::Metric, Over::Water, |x| x).unwrap();
    assert!(odd.dew_above_air.is_some());
    assert!((odd.value.rh.get() - 100.0).abs() < 1e-9, "kept, it counts as saturated");
    assert_eq!(odd.raw_humidity, 10.5, "the raw value stays as read");
    assert!(parse_surface("50 %", Units::Metric).is_err());
}

#[test]
fn an_offset_corrects_the_reading_and_keeps_the_raw_one() {
    let entry = parse_air("21.5", "89", Humidity::Rh, Units::Metric, Over::Water, |x| x + 2.0).unwrap();
    assert_eq!((entry.raw_humidity, entry.value.rh.get()), (89.0, 91.0));
}

proptest! {
    #[test]
    fn nothing_typed_panics(text in ".{0,60}", more in ".{0,60}") {
        let b = building(Structure::Vehicle);
        let _ = parse_line(&b, &text);
        for kind in Humidity::ALL {
            let _ = parse_air(&text, &more, kind, Units::Us, Over::Water, |x| x);
        }
    }
}

#[test]
fn meters_are_taken_in_their_own_figures_only() {
    assert_eq!(parse_moisture("17,5 %").unwrap().get(), 17.5);
    assert!(parse_moisture("64F").unwrap_err().message.contains("no temperature"));
    assert!(parse_moisture("140").unwrap_err().message.contains("0 to 100"));
    assert_eq!(parse_scale("320").unwrap().get(), 320.0);
    assert!(parse_scale("32 %").unwrap_err().message.contains("least of all percent"));
}

#[test]
fn wood_is_corrected_for_its_temperature() {
    let species = species_by_id("douglas_fir").unwrap();
    let percent = |shown: f64, celsius: f64| {
        let at = Temperature::new(celsius).unwrap();
        let shown = MoistureContent::new(shown).unwrap();
        match WoodValue::corrected(shown, species, at).unwrap().value {
            MeterReading::Percent(m) => Some(m.value),
            MeterReading::Wet => None,
        }
    };
    assert!(percent(14.0, 2.0) > Some(15.0) && percent(14.0, 22.0) < Some(15.0), "cold wood reads too dry");
    assert_eq!(percent(60.0, 22.0), None, "over fiber saturation");
    // A meter's own doubt adds to the correction's as independent errors do.
    let shown = MoistureContent::new(16.0).unwrap();
    let read = WoodValue::corrected(shown, species, Temperature::new(22.0).unwrap()).unwrap();
    let err = |w: WoodValue| match w.value {
        MeterReading::Percent(m) => m.err,
        MeterReading::Wet => panic!("16 % is not wet"),
    };
    assert!((err(read.by_meter(2.0)) - (species.doubt.powi(2) + 4.0).sqrt()).abs() < 1e-12);
    assert_eq!(err(read.by_meter(0.0)), species.doubt);
}
