//! A short span by its single readings.

use building::MarkKind;
use chrono::{DateTime, TimeDelta, Utc};
use logger::{Hour, Hours, Point, hour_of};
use std::collections::HashMap;
use store::LogMark;
use uuid::Uuid;

/// The step a short span is drawn in.
pub(super) fn finer(length: TimeDelta) -> Option<TimeDelta> {
    match length.num_hours() {
        ..=8 => Some(TimeDelta::minutes(1)),
        9..=40 => Some(TimeDelta::minutes(5)),
        41..=120 => Some(TimeDelta::minutes(15)),
        _ => None,
    }
}

/// Single readings in fine steps: what is left out is not among them, and humidity is corrected as the hour it lies in was.
pub(super) fn finely(
    points: HashMap<Uuid, Vec<Point>>,
    hours: &HashMap<Uuid, Vec<Hour>>,
    marks: &[LogMark],
    step: TimeDelta,
) -> HashMap<Uuid, Vec<Hour>> {
    let of_series = |(id, points): (Uuid, Vec<Point>)| {
        let left_out = |at: DateTime<Utc>| {
            marks.iter().any(|m| {
                m.kind == MarkKind::LeftOut
                    && m.series_id.is_none_or(|s| s == id)
                    && at >= m.from_at
                    && m.until_at.is_some_and(|u| at < u)
            })
        };
        let standing: Vec<Point> = points.into_iter().filter(|p| !left_out(p.at)).collect();
        let mut made = Vec::new();
        let mut fine = Hours::of(step);
        for hour in standing.chunk_by(|a, b| hour_of(a.at) == hour_of(b.at)) {
            let raw: Vec<f64> = hour.iter().filter_map(|p| p.rh_pct).collect();
            let mean = raw.iter().sum::<f64>() / raw.len().max(1) as f64;
            let at = hour.first().map(|p| hour_of(p.at));
            let rolled = hours.get(&id).and_then(|all| all.iter().find(|h| Some(h.at) == at)).and_then(|h| h.rh_pct);
            let shift = rolled.map_or(0.0, |h| h.mean - mean);
            for point in hour {
                made.extend(fine.take(&Point { rh_pct: point.rh_pct.map(|rh| rh + shift), ..*point }));
            }
        }
        made.extend(fine.end());
        (id, held(made, step))
    };
    points.into_iter().map(of_series).collect()
}

/// A reading stands until the next, where that comes as soon as this logger's usually do.
fn held(made: Vec<Hour>, step: TimeDelta) -> Vec<Hour> {
    let mut gaps: Vec<TimeDelta> = made.windows(2).map(|w| w[1].at - w[0].at).collect();
    gaps.sort_unstable();
    let usual = gaps.get(gaps.len() / 2).copied().unwrap_or(step);
    let longest = usual + usual / 2;
    let mut out = Vec::with_capacity(made.len());
    for (i, hour) in made.iter().enumerate() {
        let next = made.get(i + 1).map_or(hour.at + usual, |n| n.at);
        let until = if next - hour.at <= longest { next } else { hour.at + step };
        let mut at = hour.at;
        while at < until {
            // An amount is told once: it fell before the reading, not after.
            out.push(Hour { at, value: hour.value.filter(|_| at == hour.at), ..*hour });
            at += step;
        }
    }
    out
}
