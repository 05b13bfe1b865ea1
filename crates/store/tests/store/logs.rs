//! What loggers read: many at a time, none twice, hours kept right whatever comes late, nothing of another practice.

use super::*;
use building::{InstrumentKind, SensorKind};
use chrono::{TimeDelta, TimeZone};
use logger::{Hour, Point};
use std::collections::BTreeMap;
use store::{Grain, Instrument, LogSeries, PracticeAct, Setting, SettledPoints};

fn at(text: &str) -> DateTime<Utc> {
    format!("{text}:00Z").parse().unwrap()
}

fn air(at: DateTime<Utc>, t: f64, rh: f64) -> Point {
    Point { at, t_c: Some(t), rh_pct: Some(rh), value: None }
}

impl Practice {
    /// A logger in the crawl space.
    async fn series(&self) -> Uuid {
        let building = self.building().await;
        let logger = Instrument {
            id: Uuid::now_v7(),
            name: "Logger".into(),
            serial: String::new(),
            air_err_k: 0.3,
            rh_err_pct: 2.0,
            surface_err_k: 0.5,
            wood_err_pct: 0.0,
            rh_offset_pct: 0.0,
            rh_slope: 1.0,
            kind: InstrumentKind::Logger,
            settle_s: 0,
            checked_on: None,
        };
        let series = LogSeries::at((self.job, logger.id), "", SensorKind::Air, (Some(building.spaces[0].id), None));
        self.keep(async |scope| {
            scope.add_instrument(logger).await?;
            scope.series_at(series).await
        })
        .await
    }

    async fn log(&self, points: &[(Uuid, Point)], file: Option<Uuid>) -> SettledPoints {
        let mut intake = self.store.intake(self.id).await.unwrap();
        intake.take(points).await.unwrap();
        let settled = intake.settle(file).await.unwrap();
        for span in settled.stale() {
            intake.roll_up(span, |p| p).await.unwrap();
        }
        intake.commit(self.job).await.unwrap();
        settled
    }

    async fn hours(&self, series: Uuid, grain: Grain) -> Vec<Hour> {
        let ever = [at("2000-01-01T00:00"), at("2100-01-01T00:00")];
        self.scope().await.log_hours(&[series], grain, &[ever]).await.unwrap().remove(&series).unwrap_or_default()
    }
}

#[tokio::test]
async fn readings_are_there_once_and_their_hours_follow_what_comes_late() {
    let store = store().await;
    let p = Practice::new(&store, "one@x.example").await;
    let series = p.series().await;
    let night: Vec<(Uuid, Point)> = (0..12)
        .map(|i| (series, air(at("2026-06-30T22:00") + TimeDelta::minutes(20 * i), 18.0 + i as f64, 80.0)))
        .collect();
    assert_eq!(p.log(&night, None).await.fresh(), 12);
    let again = p.log(&night, None).await;
    assert_eq!((again.fresh(), again.known, again.differ), (0, 12, 0), "the same again changes nothing");
    let other = [(series, air(at("2026-06-30T22:00"), 99.0, 80.0)), (series, air(at("2026-06-30T22:10"), 30.0, 80.0))];
    let overlap = p.log(&other, None).await;
    assert_eq!((overlap.fresh(), overlap.known, overlap.differ), (1, 1, 1), "what was there stays");
    let hours = p.hours(series, Grain::Hours).await;
    let t = |h: &Hour| h.t_c.map(|t| (t.mean, t.low, t.high)).unwrap();
    assert_eq!(hours.iter().map(|h| h.points).collect::<Vec<_>>(), [4, 3, 3, 3], "over the end of a month");
    assert_eq!(t(&hours[0]), ((18.0 + 19.0 + 20.0 + 30.0) / 4.0, 18.0, 30.0), "a spike that came late is in its hour");
    // 18 °C and 80 %: PsychroLib 2.5 GetTDewPointFromRelHum(18, 0.8) = 14.51.
    assert!((hours[0].dew_c.unwrap().low - 14.51).abs() < 0.02, "{:?}", hours[0].dew_c);
    let days = p.hours(series, Grain::Days).await;
    assert_eq!(
        days.iter().map(|d| (d.at, d.points)).collect::<Vec<_>>(),
        [(at("2026-06-30T00:00"), 7), (at("2026-07-01T00:00"), 6)]
    );
    assert_eq!(t(&days[1]).2, 29.0);
    let known = p.scope().await.log_series(p.job).await.unwrap().remove(0);
    assert_eq!(
        (known.points, known.first_at, known.last_at),
        (13, Some(at("2026-06-30T22:00")), Some(at("2026-07-01T01:40")))
    );
}

#[tokio::test]
async fn two_who_add_to_the_same_hour_at_once_leave_it_whole() {
    let store = store().await;
    let p = Practice::new(&store, "one@x.example").await;
    let series = p.series().await;
    let part = |k: i64| -> Vec<(Uuid, Point)> {
        (0..15).map(|i| (series, air(at("2026-06-30T22:00") + TimeDelta::minutes(4 * i + k), 20.0, 50.0))).collect()
    };
    let parts = [part(0), part(1), part(2), part(3)];
    tokio::join!(p.log(&parts[0], None), p.log(&parts[1], None), p.log(&parts[2], None), p.log(&parts[3], None));
    assert_eq!(p.hours(series, Grain::Hours).await.iter().map(|h| h.points).collect::<Vec<_>>(), [60]);
}

#[tokio::test]
async fn a_file_taken_out_leaves_what_others_brought() {
    let store = store().await;
    let p = Practice::new(&store, "one@x.example").await;
    let series = p.series().await;
    let hour = |h: u32, m: u32| Utc.with_ymd_and_hms(2026, 6, 30, h, m, 0).unwrap();
    p.log(&[(series, air(hour(5, 0), 20.0, 50.0)), (series, air(hour(6, 0), 20.0, 50.0))], None).await;
    let file = Uuid::now_v7();
    let brought = p
        .log(
            &[
                (series, air(hour(6, 0), 9.0, 50.0)),
                (series, air(hour(6, 30), 10.0, 50.0)),
                (series, air(hour(7, 0), 10.0, 50.0)),
            ],
            Some(file),
        )
        .await;
    assert_eq!((brought.fresh(), brought.differ), (2, 1));
    let mut intake = store.intake(p.id).await.unwrap();
    for span in intake.take_out(&[series], file).await.unwrap() {
        intake.roll_up(span, |p| p).await.unwrap();
    }
    intake.commit(p.job).await.unwrap();
    let hours = p.hours(series, Grain::Hours).await;
    assert_eq!(hours.iter().map(|h| (h.at, h.points)).collect::<Vec<_>>(), [(hour(5, 0), 1), (hour(6, 0), 1)]);
}

#[tokio::test]
async fn nobody_adds_to_or_reads_the_log_of_another_practice() {
    let store = store().await;
    let p = Practice::new(&store, "one@x.example").await;
    let other = Practice::new(&store, "two@x.example").await;
    let series = p.series().await;
    p.log(&[(series, air(at("2026-06-30T22:00"), 20.0, 50.0))], None).await;
    assert!(other.hours(series, Grain::Hours).await.is_empty());
    // A series of somebody else's is none of one's own.
    assert_eq!(other.log(&[(series, air(at("2026-06-30T22:00"), 1.0, 50.0))], None).await.fresh(), 0);
    let hours = p.hours(series, Grain::Hours).await;
    assert_eq!((hours.len(), hours[0].t_c.unwrap().mean), (1, 20.0));
}

#[tokio::test]
async fn old_readings_go_and_their_hours_stay_whatever_comes_late() {
    let store = store().await;
    let p = Practice::new(&store, "one@x.example").await;
    let other = Practice::new(&store, "two@x.example").await;
    let (series, theirs) = (p.series().await, other.series().await);
    // In the middle of an hour: a minute earlier is in the same.
    let now = logger::hour_of(Utc::now()) + TimeDelta::minutes(30);
    let ago = |days: i64, minutes: i64| now - TimeDelta::days(days) - TimeDelta::minutes(minutes);
    let all = |series: Uuid| -> Vec<(Uuid, Point)> {
        (0..60).map(|i| (series, air(ago(500 - 10 * i, 0), 18.0, 70.0))).collect()
    };
    p.log(&all(series), None).await;
    other.log(&all(theirs), None).await;
    let act = PracticeAct { id: Uuid::now_v7(), by: p.person, at: now };
    p.keep(async |scope| scope.settle(act, BTreeMap::from([(Setting::LogDays, Some("365".into()))])).await).await;
    assert_eq!(p.scope().await.log_days().await.unwrap(), Some(365));
    let before = p.hours(series, Grain::Hours).await;
    let removed = p.keep(async |scope| scope.remove_older(ago(365, 0)).await).await;
    assert_eq!(removed, 14);
    assert_eq!(p.keep(async |scope| scope.remove_older(ago(365, 0)).await).await, 0);
    let points = async |of: &Practice, series| {
        let ever = [at("2000-01-01T00:00"), at("2100-01-01T00:00")];
        of.scope().await.log_points(&[series], ever).await.unwrap().remove(&series).map_or(0, |p| p.len())
    };
    assert_eq!((points(&p, series).await, points(&other, theirs).await), (46, 60));
    assert_eq!(p.hours(series, Grain::Hours).await, before);
    // What comes late into an hour that was made stays out of it; an hour nobody had is made.
    p.log(&[(series, air(ago(500, 1), 40.0, 70.0)), (series, air(ago(497, 0), 19.0, 70.0))], None).await;
    let after = p.hours(series, Grain::Hours).await;
    assert_eq!(after.len(), before.len() + 1);
    assert!(before.iter().all(|h| after.contains(h)), "no hour is another for what is lost");
}
