//! What loggers read: many at a time, none twice, hours kept right whatever comes late, nothing of another practice.

use super::*;
use building::{InstrumentKind, MarkKind, SensorKind};
use chrono::{TimeDelta, TimeZone};
use logger::{Hour, Point};
use std::collections::BTreeMap;
use store::{Act, Batch, Fate, Grain, Instrument, LogMark, LogSeries, PracticeAct, Setting, Stale};

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

    /// How many of some readings were new, there already, and of these other than what is there.
    async fn log(&self, points: &[(Uuid, Point)], file: Option<Uuid>) -> (usize, usize, usize) {
        let series: Vec<Uuid> = points.iter().map(|(series, _)| *series).collect();
        let mut intake = self.store.intake(self.id, &series, file).await.unwrap();
        let fates = intake.take(Batch::new(points, |_, p| p)).await.unwrap();
        intake.commit(self.job).await.unwrap();
        let of = |fate| fates.iter().filter(|f| **f == fate).count();
        (of(Fate::New), of(Fate::Known) + of(Fate::Differs), of(Fate::Differs))
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
    assert_eq!(p.log(&night, None).await, (12, 0, 0));
    assert_eq!(p.log(&night, None).await, (0, 12, 0), "the same again changes nothing");
    let other = [(series, air(at("2026-06-30T22:00"), 99.0, 80.0)), (series, air(at("2026-06-30T22:10"), 30.0, 80.0))];
    assert_eq!(p.log(&other, None).await, (1, 1, 1), "what was there stays");
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
    assert_eq!(brought, (2, 1, 1));
    let mut intake = store.remake(p.id, &[series]).await.unwrap();
    for span in intake.take_out(file).await.unwrap() {
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
    assert_eq!(other.log(&[(series, air(at("2026-06-30T22:00"), 1.0, 50.0))], None).await.0, 0);
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
    assert_eq!(p.scope().await.retention().await.unwrap().log, Some(365));
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

/// Readings that come in any order and grouping, some twice, some without a humidity, some left out: hours and days added to bit by
/// bit are those made of all of them at once.
#[tokio::test]
async fn hours_added_to_are_those_made_at_once() {
    let store = store().await;
    let p = Practice::new(&store, "one@x.example").await;
    let series = p.series().await;
    let begin = at("2026-06-29T07:00");
    let mark = LogMark {
        id: Uuid::now_v7(),
        job_id: p.job,
        consultant_id: p.person,
        kind: MarkKind::LeftOut,
        series_id: Some(series),
        space_id: None,
        from_at: begin + TimeDelta::hours(20),
        until_at: Some(begin + TimeDelta::hours(22)),
        what: String::new(),
        note: String::new(),
        removed: false,
    };
    let act = Act::new(Uuid::now_v7(), p.job, p.person, begin, "Left out");
    p.keep(async |scope| scope.keep_mark(&act, mark).await).await;
    let point = |i: i64| {
        let (t, rh) = (15.0 + (i % 97) as f64 / 7.0, (i % 5 != 0).then_some(40.0 + (i % 41) as f64));
        (series, Point { at: begin + TimeDelta::seconds(70 * i), t_c: Some(t), rh_pct: rh, value: None })
    };
    // Nothing is there of the first; the second goes over both its ends and says some things twice; the third are few.
    let first: Vec<_> = (500..2000).rev().map(point).collect();
    let second: Vec<_> = (0..2800).chain(100..140).filter(|i| i % 3 != 0 || *i > 1000).map(point).collect();
    let third: Vec<_> = (0..500).filter(|i| i % 3 == 0).map(point).collect();
    assert_eq!(p.log(&first, None).await, (1500, 0, 0));
    let (new, known, differ) = p.log(&second, None).await;
    assert_eq!((new + known, differ), (second.len(), 0));
    assert_eq!(p.log(&third, None).await, (third.len(), 0, 0));
    assert_eq!(p.scope().await.log_series(p.job).await.unwrap()[0].points, 2800);
    let grains = [Grain::Hours, Grain::Days];
    let mut added = Vec::new();
    for grain in grains {
        added.push(p.hours(series, grain).await);
    }
    assert!(added[0].iter().map(|h| h.points).sum::<u32>() < 2800, "what is left out counts in no hour");
    let mut remake = store.remake(p.id, &[series]).await.unwrap();
    let span = Stale { series, from: begin, until: begin + TimeDelta::hours(60) };
    remake.roll_up(span, |p| p).await.unwrap();
    remake.commit(p.job).await.unwrap();
    for (grain, added) in grains.into_iter().zip(added) {
        let at_once = p.hours(series, grain).await;
        assert_eq!(added.len(), at_once.len());
        for (a, b) in added.iter().zip(&at_once) {
            assert_eq!((a.at, a.points), (b.at, b.points));
            for (a, b) in [(a.t_c, b.t_c), (a.rh_pct, b.rh_pct), (a.dew_c, b.dew_c)] {
                let (a, b) = (a.unwrap(), b.unwrap());
                assert_eq!((a.n, a.low, a.high), (b.n, b.low, b.high));
                assert!((a.mean - b.mean).abs() < 1e-9, "{a:?} {b:?}");
            }
        }
    }
}
