//! The demo agrees with itself, and each job shows its true cause.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, missing_docs, reason = "tests")]

use building::reading::{AirValue, Observed, Reading};
use hygrothermal::air::Over;
use hygrothermal::quantity::{HumidityAccuracy, RelativeHumidity, Temperature, TemperatureAccuracy};
use hygrothermal::surface::{Accuracy, Verdict};
use judgment::advice::{AirAdvice, AirCall, advise};
use judgment::picture::{Picture, picture};
use judgment::question::questions;
use stand_ins::{DemoJob, DemoReading, collected, scenario};
use uuid::Uuid;

fn jobs() -> Vec<DemoJob> {
    let mut n = 0;
    scenario(7480, || {
        n += 1;
        Uuid::from_u128(n)
    })
    .unwrap()
}

fn observed(r: &DemoReading) -> Observed {
    let t = Temperature::new(r.t).unwrap();
    match r.rh {
        None => Observed::Surface(t),
        Some(rh) => Observed::Air(AirValue { t, rh: RelativeHumidity::new(rh).unwrap(), over: Over::Water }),
    }
}

/// As accurate as the demo's hand hygrometer.
fn hand_instrument() -> Accuracy {
    Accuracy {
        air: TemperatureAccuracy::new(0.3).unwrap(),
        rh: HumidityAccuracy::new(2.0).unwrap(),
        surface: TemperatureAccuracy::new(0.5).unwrap(),
    }
}

fn pictures(job: &DemoJob) -> Vec<Picture> {
    job.visits
        .iter()
        .map(|v| {
            let readings: Vec<Reading> = (0..)
                .zip(&v.readings)
                .map(|(i, r)| Reading {
                    instrument_id: Uuid::nil(),
                    id: Uuid::from_u128(i),
                    station_id: job.building.station_at(r.place).unwrap().id,
                    taken_ms: i as i64,
                    observed: observed(r),
                    accuracy: hand_instrument(),
                })
                .collect();
            picture(&job.building, &readings)
        })
        .collect()
}

fn verdict(job: &DemoJob, p: &Picture, name: &str) -> Verdict {
    let id = job.building.surfaces.iter().find(|s| s.name == name).unwrap().id;
    p.surface(id).unwrap().read.as_ref().unwrap().judged.unwrap().verdict
}

fn call(job: &DemoJob, p: &Picture, space: &str) -> AirCall {
    let space = job.building.spaces.iter().find(|s| s.name == space).unwrap();
    match advise(&job.building, p, space, None).air {
        AirAdvice::Compared(c) => c.call,
        AirAdvice::NotRead { .. } => panic!("{} is not read", space.name),
    }
}

#[test]
fn every_job_shows_what_is_wrong_with_it() {
    let jobs = jobs();
    let find = |name: &str| jobs.iter().find(|j| j.name.starts_with(name)).unwrap();
    // Humid outdoor air coming into the cottage's crawl space: dry in June, wet by mid-July, and worse with vents open.
    let cottage = find("Mill");
    let seen = pictures(cottage);
    assert_ne!(verdict(cottage, &seen[0], "Rim joist, north"), Verdict::Condensing);
    assert_eq!(verdict(cottage, &seen[2], "Rim joist, north"), Verdict::Condensing);
    assert_eq!(call(cottage, &seen[2], "Crawl space"), AirCall::KeepClosed);
    // People in little air: the bus's cold metal runs wet on winter mornings and outdoor air would dry it.
    let bus = find("Traveling");
    for seen in pictures(bus) {
        assert_eq!(verdict(bus, &seen, "Hatch frame"), Verdict::Condensing);
        assert_eq!(call(bus, &seen, "Cabin"), AirCall::Ventilate);
    }
    // The archive dries out: its dew point falls from visit to visit.
    let archive = find("School");
    let space = archive.building.spaces.iter().find(|s| s.name == "Archive").unwrap().id;
    let dews: Vec<f64> =
        pictures(archive).iter().map(|p| p.space(space).unwrap().air.as_ref().unwrap().dew.unwrap().value).collect();
    assert!(dews.windows(2).all(|w| w[1] < w[0]), "{dews:?}");
    assert!(archive.visits.last().unwrap().open, "and waits for its visit to be finished");
}

#[test]
fn nothing_in_the_demo_would_be_questioned_at_entry() {
    for job in jobs() {
        for (visit, seen) in job.visits.iter().zip(pictures(&job)) {
            for r in &visit.readings {
                let asked = questions(&job.building, &seen, r.place, &observed(r), None);
                assert_eq!(asked, [], "{} {}: {:?} {}", job.name, visit.day, r.place, r.t);
            }
        }
    }
}

/// Its machines collect in a day what their label makes of the air: near the label where that was rated, less as it dries.
#[test]
fn machines_collect_what_their_label_makes_of_the_air() {
    let jobs = jobs();
    let archive = jobs.iter().find(|j| j.name == "School archive").unwrap();
    let liters: Vec<f64> = (0..3).map(|at| collected(archive, at).iter().map(|(_, w)| w.liters).sum()).collect();
    assert!(liters[0] == 0.0 && liters[1] > liters[2] && (8.0..24.0).contains(&liters[2]), "{liters:?}");
    assert!(jobs.iter().filter(|j| j.name != archive.name).all(|j| collected(j, 0).is_empty()));
}

#[test]
fn the_same_seed_gives_the_same_readings_and_another_gives_others() {
    let values = |seed| -> Vec<(f64, Option<f64>)> {
        let jobs = scenario(seed, Uuid::nil).unwrap();
        jobs.iter().flat_map(|j| &j.visits).flat_map(|v| &v.readings).map(|r| (r.t, r.rh)).collect()
    };
    assert_eq!(values(1), values(1));
    assert_ne!(values(1), values(2));
}
