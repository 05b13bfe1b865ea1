//! What was read and what was changed, in the words and units of whoever reads it.
#![allow(clippy::unwrap_used, missing_docs, reason = "tests")]

use building::entry::Humidity;
use building::{InstrumentKind, ReadingKind};
use chrono::{DateTime, Duration, NaiveDate, Utc};
use judgment::plan::Total;
use notation::{Show, Units};
use serde_json::{Value, json};
use std::collections::HashMap;
use store::{Change, Instrument, PracticeChange, ReadingRecord, RowChange, Setting, Settled};
use uuid::Uuid;
use wording::{history, instrument, log, plan, practice_change};

const METRIC: Units = Units::Metric;
const US: Units = Units::Us;

fn show(units: Units) -> Show {
    Show::new(units, "America/New_York")
}

fn at() -> DateTime<Utc> {
    "2026-07-04T18:30:00Z".parse().unwrap()
}

fn id(n: u128) -> Uuid {
    Uuid::from_u128(n)
}

fn reading(n: u128, kind: ReadingKind) -> ReadingRecord {
    ReadingRecord {
        id: id(n),
        job_id: id(1),
        visit_id: id(2),
        station_id: id(3),
        instrument_id: id(4),
        consultant_id: id(5),
        kind,
        as_typed: String::new(),
        raw_t_c: None,
        raw_humidity: None,
        humidity_kind: None,
        t_c: None,
        rh_pct: None,
        rh_over: None,
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
        taken_at: at(),
        stored_at: at(),
    }
}

fn hygrometer() -> Instrument {
    Instrument {
        id: id(4),
        name: "Hygrometer 1".into(),
        serial: String::new(),
        air_err_k: 0.3,
        rh_err_pct: 2.0,
        surface_err_k: 0.5,
        wood_err_pct: 0.0,
        rh_offset_pct: 0.0,
        rh_slope: 1.0,
        kind: InstrumentKind::Hygrometer,
        settle_s: 0,
        checked_on: None,
    }
}

#[test]
fn every_kind_of_reading_is_told_in_the_readers_units() {
    let plain = |kind| reading(9, kind);
    for (row, metric, us) in [
        (
            ReadingRecord { t_c: Some(20.0), rh_pct: Some(61.4), ..plain(ReadingKind::Air) },
            "20.0 °C, 61 %",
            "68.0 °F, 61 %",
        ),
        (ReadingRecord { t_c: Some(-3.0), ..plain(ReadingKind::Surface) }, "−3.0 °C", "26.6 °F"),
        (
            ReadingRecord { t_c: Some(12.5), emissivity: Some(0.95), ..plain(ReadingKind::Surface) },
            "12.5 °C by infrared",
            "54.5 °F by infrared",
        ),
        (
            ReadingRecord {
                value: Some(17.24),
                species: Some("spruce".into()),
                wood_t_c: Some(10.0),
                ..plain(ReadingKind::Wood)
            },
            "wood 17.2 % (spruce at 10.0 °C)",
            "wood 17.2 % (spruce at 50.0 °F)",
        ),
        (ReadingRecord { raw_value: Some(25.4), ..plain(ReadingKind::Rain) }, "25 mm of rain", "1.00 in of rain"),
        (
            ReadingRecord { as_typed: "<dark> stain".into(), ..plain(ReadingKind::Note) },
            "“<dark> stain”",
            "“<dark> stain”",
        ),
        (
            ReadingRecord { raw_value: Some(47.0), ..plain(ReadingKind::Relative) },
            "47 on its own scale",
            "47 on its own scale",
        ),
        (plain(ReadingKind::Withdrawn), "withdrawn", "withdrawn"),
    ] {
        let told = (log::value(&show(METRIC), &row), log::value(&show(US), &row));
        assert_eq!((told.0.as_str(), told.1.as_str()), (metric, us), "{:?}", row.kind);
    }
}

#[test]
fn a_corrected_reading_stays_on_record_behind_the_one_that_corrects_it() {
    let first = ReadingRecord { t_c: Some(12.5), ..reading(20, ReadingKind::Surface) };
    let second = ReadingRecord {
        t_c: Some(15.2),
        replaces: Some(first.id),
        reason: "read the wrong line".into(),
        questions: "15.2 °C is far from the others".into(),
        ..reading(21, ReadingKind::Surface)
    };
    let withdrawn = ReadingRecord { replaces: Some(second.id), ..reading(22, ReadingKind::Withdrawn) };
    let elsewhere = ReadingRecord { station_id: id(99), ..reading(23, ReadingKind::Note) };
    let rows = [first, second, withdrawn, elsewhere];
    let told = log::entries(&show(METRIC), &rows, &[hygrometer()], id(3));
    assert_eq!(told.iter().map(|e| e.id).collect::<Vec<_>>(), [id(22), id(21), id(20)], "latest first");
    assert_eq!(
        told.iter().map(|e| (e.replaced, e.open)).collect::<Vec<_>>(),
        [(false, false), (true, false), (true, false)]
    );
    assert!(told[1].note.contains("read the wrong line") && told[1].note.contains("far from the others"));
    assert_eq!(told[0].instrument, "Hygrometer 1");
    assert!(told[0].when.contains("14:30") || told[0].when.contains("2:30"), "New York's clock: {}", told[0].when);
}

#[test]
fn an_air_reading_says_how_it_was_taken_and_what_its_check_made_of_it() {
    let row = ReadingRecord {
        t_c: Some(20.0),
        rh_pct: Some(75.3),
        raw_humidity: Some(78.3),
        humidity_kind: Some(Humidity::Rh),
        rh_over: Some("water".into()),
        ..reading(20, ReadingKind::Air)
    };
    let metric = |row: &ReadingRecord, i: Option<&Instrument>| log::air_line(&show(METRIC), row, i);
    let told = metric(&row, Some(&hygrometer()));
    assert!(told.contains("20.0 °C, 75 %") && told.contains("raw 78.3 %, corrected by −3.0 %"), "{told}");
    assert!(told.ends_with("by Hygrometer 1 (never salt-checked)."), "{told}");
    let exact = ReadingRecord { rh_pct: Some(78.3), ..row.clone() };
    assert!(!metric(&exact, None).contains("raw"), "nothing was corrected");
    let frost = ReadingRecord { t_c: Some(-5.0), ..row.clone() };
    assert!(metric(&frost, None).ends_with("RH over liquid water."));
    let dew = ReadingRecord { raw_humidity: Some(10.0), humidity_kind: Some(Humidity::Dew), ..row };
    assert!(log::air_line(&show(US), &dew, None).contains("read as dew point 50.0 °F"));
}

#[test]
fn a_salt_check_is_told_with_its_day_and_what_is_left_of_it() {
    let on = |days: i64| Some(Utc::now().date_naive() - Duration::days(days));
    let told = |checked_on, rh_slope, kind| {
        let meter = Instrument { checked_on, rh_slope, rh_offset_pct: -2.5, kind, ..hygrometer() };
        instrument::salt_check(&meter)
    };
    let kind = InstrumentKind::Hygrometer;
    assert!(told(None, 1.0, kind).starts_with("never salt-checked"));
    let fresh = told(on(364), 1.0, kind);
    assert!(fresh.ends_with("offset −2.5 %") && !fresh.contains("slope"), "{fresh}");
    let old = told(on(366), 1.05, kind);
    assert!(old.contains("slope 1.050, offset −2.5 %") && old.contains("check it again"), "{old}");
    assert_eq!(told(None, 1.0, InstrumentKind::Contact), "reads no humidity");
}

fn change(rows: Vec<RowChange>) -> Change {
    let (at, what) = (at(), "Changed".into());
    Change { id: id(50), by: id(5), at, what, rows, undoes: None, undone: false }
}

fn row(table: &str, before: Option<Value>, after: Value) -> RowChange {
    RowChange { table: table.into(), before, after }
}

#[test]
fn a_change_is_told_before_and_after() {
    let space = |area: f64, removed: Option<&str>| json!({"name": "Crawl space", "area_m2": area, "height_m": 0.9, "removed_at": removed, "position": area});
    let (open, gone) = (space(60.0, None), space(60.0, Some("2026-07-04T18:30:00Z")));
    let finding = |severity: i64, note: &str, marks: usize| json!({"what": "soil_bare", "severity": severity, "note": note, "marks": vec![1; marks]});
    let told = |units, rows: Vec<RowChange>| history::told(&show(units), &change(rows));
    let wider = || vec![row("space", Some(open.clone()), space(65.0, None))];
    assert_eq!(told(METRIC, wider()), ["Space Crawl space: floor area 60 m² → 65 m²"]);
    assert_eq!(told(US, wider()), ["Space Crawl space: floor area 646 ft² → 700 ft²"]);
    let [added, removed, restored] = [
        row("space", None, open.clone()),
        row("space", Some(open.clone()), gone.clone()),
        row("space", Some(gone), open.clone()),
    ];
    assert_eq!(
        told(METRIC, vec![added, removed, restored]),
        ["Space Crawl space: added", "Space Crawl space: removed", "Space Crawl space: restored"]
    );
    assert_eq!(
        told(METRIC, vec![row("finding", Some(finding(1, "", 0)), finding(3, "by the hatch", 2))]),
        ["Bare soil: severity 1 → 3; marks 0 → 2; note none → by the hatch"]
    );
    let order = |n: i64| json!({"position": n});
    assert_eq!(told(METRIC, vec![row("station", Some(order(1)), order(2))]), ["Order only."]);
}

#[test]
fn prices_are_told_for_the_unit_they_are_typed_in() {
    let price = |id: &str, before: Option<&str>, after: Option<&str>| Settled {
        setting: Setting::Price(id.into()),
        before: before.map(str::to_owned),
        after: after.map(str::to_owned),
    };
    let told = |units, rows| {
        let change = PracticeChange { id: id(60), by: id(5), at: at(), rows, undoes: None, undone: false };
        practice_change::told(&show(units), &HashMap::from([(id(5), "Someone".to_owned())]), &change)
    };
    let tarp = || vec![price("tarp_m2", None, Some("1076"))];
    assert_eq!(told(METRIC, tarp()).lines, ["Tarp / m²: no price → 10.76"]);
    assert_eq!(told(US, tarp()).lines, ["Tarp / ft²: no price → 1.00"], "a square foot is 0.0929 m²");
    let many = told(METRIC, (0..9).map(|_| price("tarp_m2", Some("100"), None)).collect());
    assert_eq!((many.lines.len(), many.more, many.who.as_str()), (6, 3, "Someone"));
}

#[test]
fn a_sum_says_what_is_not_in_it() {
    let sum = |cents, yearly_cents, unpriced| plan::sum(Total { cents, yearly_cents, unpriced }, "USD");
    assert_eq!(sum(0, 0, 0), "0.00 USD");
    assert_eq!(sum(12_500, 0, 0), "125.00 USD");
    assert_eq!(sum(12_500, 4_000, 2), "125.00 USD + 40.00 USD a year + 2 without a price");
    assert_eq!(sum(0, 0, 3), "3 without a price", "and is not free");
}

#[test]
fn a_day_is_the_day_of_the_practice() {
    let late: DateTime<Utc> = "2026-07-05T03:30:00Z".parse().unwrap();
    let told = show(METRIC).moment(late);
    let fourth = NaiveDate::from_ymd_opt(2026, 7, 4).unwrap();
    assert!(told.contains(&notation::day(fourth)), "{told}");
}
