//! A job as it stands, from records alone: no database, no page.
#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs, reason = "tests")]

use building::construction::{Course, Substance, Variant};
use building::entry::{Humidity, Reads};
use building::{Climate, InstrumentKind, Place, ReadingKind, Spot, Structure, blueprint};
use casework::entry::check;
use casework::evidence::{AsOf, Origin, during, gather};
use casework::plan::ChosenBy;
use casework::{CaseFile, InView};
use chrono::{DateTime, Duration, Utc};
use judgment::limits::Limited;
use notation::Units;
use std::collections::{BTreeMap, HashMap};
use store::{FindingRecord, Instrument, Job, JobRecords, LogParts, PlanRows, PriceBook, ReadingRecord, Site, Visit};
use uuid::Uuid;

fn id(n: u128) -> Uuid {
    Uuid::from_u128(n)
}

fn at(day: i64) -> DateTime<Utc> {
    DateTime::from_timestamp(1_750_000_000, 0).unwrap() + Duration::days(day)
}

fn visit(n: u128, day: i64) -> Visit {
    let ended_at = Some(at(day) + Duration::hours(2));
    Visit { ended_at, ..Visit::begun(id(n), id(1), id(2), at(day)) }
}

fn instrument() -> Instrument {
    Instrument {
        id: id(3),
        name: "Hygrometer".into(),
        serial: String::new(),
        air_err_k: 0.3,
        rh_err_pct: 2.0,
        surface_err_k: 0.5,
        wood_err_pct: 1.0,
        rh_offset_pct: 0.0,
        kind: InstrumentKind::Hygrometer,
        settle_s: 0,
        rh_slope: 1.0,
        checked_on: Some(at(-30).date_naive()),
    }
}

fn air(n: u128, visit: u128, station: Uuid, day: i64, [t, rh]: [f64; 2]) -> ReadingRecord {
    ReadingRecord {
        id: id(n),
        job_id: id(1),
        visit_id: id(visit),
        station_id: station,
        instrument_id: id(3),
        consultant_id: id(2),
        kind: ReadingKind::Air,
        as_typed: format!("{t} {rh}"),
        raw_t_c: Some(t),
        raw_humidity: Some(rh),
        humidity_kind: Some(Humidity::Rh),
        t_c: Some(t),
        rh_pct: Some(rh),
        rh_over: Some("water".into()),
        raw_value: None,
        value: None,
        species: None,
        wood_t_c: None,
        emissivity: None,
        reflected_c: None,
        hours: None,
        questions: String::new(),
        replaces: None,
        reason: String::new(),
        taken_at: at(day) + Duration::minutes(n as i64 % 60),
        stored_at: at(day),
    }
}

fn finding(n: u128, what: &str, spot: Spot, gone: Option<i64>) -> FindingRecord {
    FindingRecord {
        id: id(n),
        job_id: id(1),
        visit_id: Some(id(10)),
        consultant_id: id(2),
        what: what.into(),
        severity: 2,
        value: None,
        note: String::new(),
        absent: false,
        found_at: at(0),
        gone_at: gone.map(at),
        spot,
        removed: false,
    }
}

/// A vented crawl-space house seen twice, ten days apart: outdoors and under the floor.
fn records() -> JobRecords {
    let mut n = 1000;
    let building = blueprint(Structure::CrawlVented).unwrap().build(|| {
        n += 1;
        id(n)
    });
    let station = |place| building.station_at(place).unwrap().id;
    let crawl = building.spaces[0].id;
    let (out, under) = (station(Place::Outdoors), station(Place::Space(crawl)));
    let readings = vec![
        air(20, 10, out, 0, [20.0, 60.0]),
        air(21, 10, under, 0, [18.0, 70.0]),
        air(22, 11, out, 10, [30.0, 70.0]),
        air(23, 11, under, 10, [21.0, 92.0]),
    ];
    let gone_place = Spot::Space(id(9999));
    JobRecords {
        job: Job {
            id: id(1),
            name: "House".into(),
            address: String::new(),
            structure: Structure::CrawlVented,
            climate: Climate::Mixed,
            design_outdoor_c: -10.0,
            site: Site::default(),
            created_at: at(-2),
            rehearsal: false,
            archived_at: None,
        },
        building,
        removed_stations: HashMap::new(),
        visits: vec![visit(11, 10), visit(10, 0)],
        readings,
        instruments: vec![instrument()],
        skips: Vec::new(),
        findings: vec![
            finding(30, "soil_bare", Spot::Space(crawl), Some(5)),
            finding(31, "vents_open", gone_place, None),
        ],
        tests: Vec::new(),
        photos: Vec::new(),
        thermals: Vec::new(),
        placings: Vec::new(),
        drying: building::drying::DryingJob::default(),
        drying_readings: Vec::new(),
        maps: Vec::new(),
        map_readings: Vec::new(),
        call: None,
        conclusions: Vec::new(),
        people: HashMap::new(),
        plan: PlanRows::default(),
        book: PriceBook::default(),
        log: LogParts::default(),
        practice_schools: BTreeMap::new(),
        time_zone: "UTC".into(),
        practice_address: String::new(),
        reports: store::ReportRows::default(),
        certificates: Vec::new(),
        undoable: Vec::new(),
    }
}

#[test]
fn the_latest_visit_with_readings_is_in_view_and_the_one_before_is_a_step_away() {
    let file = CaseFile::of(records(), InView::Latest, at(20)).unwrap();
    assert_eq!(file.visit.as_ref().map(|v| v.id), Some(id(11)));
    assert_eq!((file.standing.len(), file.ever.len(), file.visit_number(id(11))), (2, 4, 2));
    let before = file.visit_before().unwrap();
    assert!(before.visit_before().is_none());
    let dew = |f: &CaseFile| f.picture.outdoor.as_ref().unwrap().dew.unwrap().value;
    assert!(dew(&file) > dew(before) + 10.0, "each visit is judged by its own air");
    assert!(CaseFile::of(records(), InView::Visit(id(77)), at(20)).is_err(), "another job's visit");
}

#[test]
fn evidence_says_where_it_came_from_and_what_was_mended_since_is_known_as_mended() {
    let file = CaseFile::of(records(), InView::Visit(id(10)), at(20)).unwrap();
    let crawl = Spot::Space(file.building.spaces[0].id);
    let then = gather(&file, None, AsOf::Visit);
    let origin = |id: &str, from: &casework::evidence::Gathered| from.sources[id].first().unwrap().from;
    assert_eq!(origin("soil_bare", &then), Origin::Finding(id(30), Some(crawl)));
    assert_eq!(origin("vents_open", &then), Origin::Finding(id(31), None), "its place is gone");
    assert_eq!(origin("season", &then), Origin::Read(Place::Outdoors));
    assert_eq!(origin("climate", &then), Origin::Job);
    assert!(then.case.has("soil_bare"));
    let now = gather(&file, None, AsOf::Now);
    assert!(!now.case.has("soil_bare") && now.case.has("vents_open"));
    assert_eq!(during(&file.findings, None).count(), 1);
}

#[test]
fn what_somebody_said_of_layers_is_an_argument_and_what_is_usual_is_none() {
    let usual = CaseFile::of(records(), InView::Latest, at(20)).unwrap();
    assert!(!gather(&usual, None, AsOf::Visit).sources.contains_key("build_up"), "nobody said it");
    let wall = usual.building.boundaries.iter().find(|b| b.name == "North wall").unwrap().clone();
    let course =
        |of: &str, mm: f64| Course { of: Substance::from_id(of).unwrap(), thickness_m: mm / 1000.0, framed: false };
    let said = |courses: Vec<Course>| {
        let mut all = records();
        let name = "As found".to_owned();
        all.building.variants = vec![Variant { id: id(900), boundary_id: wall.id, name, courses, framing_pct: 0.0 }];
        CaseFile::of(all, InView::Latest, at(20)).unwrap()
    };
    // A rubber sheet outside of open layers gathers water in a cold climate (common practice), logs do not.
    let tight =
        said(vec![course("kraft_paper", 0.3), course("stone_wool", 140.0), course("osb", 12.0), course("epdm", 1.5)]);
    let logs = said(vec![course("log_wall", 180.0)]);
    let share = |file: &CaseFile| {
        let causes = &file.argued(None).diagnosis.causes;
        causes.iter().find(|c| c.cause.id == "interstitial").map_or(0.0, |c| c.share)
    };
    for file in [&tight, &logs] {
        let from = gather(file, None, AsOf::Visit).sources["build_up"][0].from;
        assert_eq!(from, Origin::Built(wall.id));
    }
    assert!(share(&tight) > share(&usual) && share(&usual) > share(&logs), "{} {}", share(&tight), share(&logs));
    // Of a space it does not touch it says nothing.
    let attic = tight.building.spaces.iter().find(|s| s.name == "Attic").unwrap();
    assert!(!gather(&tight, Some(attic.id), AsOf::Visit).sources.contains_key("build_up"));
}

#[test]
fn a_plan_is_asked_only_what_it_contains_and_follows_the_practice() {
    let mut all = records();
    all.practice_schools.insert("wood_goal".into(), "13".into());
    all.practice_schools.insert("crawl_space".into(), "sealed".into());
    let file = CaseFile::of(all, InView::Latest, at(20)).unwrap();
    assert!((file.limits().percent(Limited::WoodGoal) - 13.0).abs() < 1e-9);
    let planned = file.planned();
    assert_eq!(planned.choices.get("crawl_space"), Some("sealed"));
    assert!(planned.chosen_by["crawl_space"] == ChosenBy::Practice);
    for (question, _) in planned.asked() {
        assert!(planned.chosen_by.contains_key(question.id.as_str()), "{} is asked and settled", question.id);
    }
    assert_eq!(planned.sized().count(), planned.plan.steps.len());
}

#[test]
fn an_entry_is_checked_against_its_own_visit() {
    let file = CaseFile::of(records(), InView::Latest, at(20)).unwrap();
    let station = file.building.stations.iter().find(|s| matches!(s.place, Place::Space(_))).unwrap();
    let reads = |t: &str, rh: &str| Reads::Air { temperature: t.into(), moisture: rh.into(), humidity: Humidity::Rh };
    let checked = |t, rh| check(&file, station, &instrument(), &reads(t, rh), Units::Metric);
    assert!(checked("20", "70").unwrap().questions.is_empty());
    assert!(!checked("70", "70").unwrap().questions.is_empty(), "70 °C is asked about");
    assert_eq!(checked("warm", "170").unwrap_err().len(), 2, "both fields are said at once");
}
