//! Every single reading of a log as a file, which brings in the same rows again.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::Path;
use crate::state::App;
use axum::body::Body;
use axum::extract::State;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use building::{Place, SensorKind};
use casework::{CaseFile, InView};
use chrono::{DateTime, SecondsFormat, TimeDelta, Utc};
use language::say;
use logger::Point;
use std::collections::HashMap;
use std::fmt::Write;
use std::sync::Arc;
use store::{Depth, LogSeries, Store, StoreError};
use uuid::Uuid;

/// How much is read at once: of one-minute readings of ten sensors about a hundred thousand.
const AT_ONCE: TimeDelta = TimeDelta::days(7);

/// What a column holds, as the headless interface names it.
const COLUMNS: [(&str, SensorKind); 9] = [
    ("t_c", SensorKind::Air),
    ("surface_c", SensorKind::Surface),
    ("mc_pct", SensorKind::Wood),
    ("rel", SensorKind::Relative),
    ("p_pa", SensorKind::Pressure),
    ("rain_mm", SensorKind::Rain),
    ("liters", SensorKind::Water),
    ("power_w", SensorKind::Power),
    ("rh_pct", SensorKind::Air),
];

/// What is left to be written.
struct Left {
    store: Store,
    practice: Uuid,
    /// Each series with its name in the file.
    series: HashMap<Uuid, (String, SensorKind)>,
    from: DateTime<Utc>,
    until: DateTime<Utc>,
}

/// A name for each series: its place, and its logger where two hang at one.
fn names(file: &CaseFile, series: &[LogSeries]) -> HashMap<Uuid, (String, SensorKind)> {
    let place = |s: &LogSeries| match (s.surface_id, s.space_id) {
        (Some(id), _) => file.building.place_name(Place::Surface(id)),
        (None, Some(id)) => file.building.place_name(Place::Space(id)),
        (None, None) => say!("Outdoors"),
    };
    let mut names = HashMap::new();
    for s in series {
        let alike = series.iter().filter(|x| place(x) == place(s) && x.reads == s.reads).count() > 1;
        let logger = file.instrument(s.instrument_id).map_or("", |i| i.name.as_str());
        let name = if alike { format!("{} · {logger} {}", place(s), s.channel) } else { place(s).to_owned() };
        names.insert(s.id, (format!("\"{}\"", name.trim().replace('"', "\"\"")), s.reads));
    }
    names
}

/// A reading as a line: its moment, its sensor, its figures in their columns.
fn line(out: &mut String, (name, kind): &(String, SensorKind), p: &Point) {
    let _ = write!(out, "{},{name}", p.at.to_rfc3339_opts(SecondsFormat::AutoSi, true));
    for (column, of) in COLUMNS {
        out.push(',');
        let figure = match (of == *kind, column, kind) {
            (false, ..) => None,
            (true, "rh_pct", _) => p.rh_pct,
            (true, _, SensorKind::Air | SensorKind::Surface) => p.t_c,
            (true, ..) => p.value,
        };
        if let Some(x) = figure {
            let _ = write!(out, "{x}");
        }
    }
    out.push('\n');
}

impl Left {
    /// The next lines; none at the end.
    async fn next(mut self) -> Option<(Result<String, StoreError>, Self)> {
        let ids: Vec<Uuid> = self.series.keys().copied().collect();
        while self.from < self.until {
            let span = [self.from, (self.from + AT_ONCE).min(self.until)];
            self.from = span[1];
            let read: Result<_, StoreError> = async {
                let scope = self.store.practice(self.practice).await?;
                scope.log_points(&ids, span).await
            }
            .await;
            let points = match read {
                Ok(points) => points,
                Err(e) => {
                    // What was sent is not the whole: the answer breaks off, and no reader takes it for one.
                    self.from = self.until;
                    return Some((Err(e), self));
                }
            };
            let mut all: Vec<(&(String, SensorKind), Point)> = Vec::new();
            for (id, points) in points {
                if let Some(name) = self.series.get(&id) {
                    all.extend(points.into_iter().map(|p| (name, p)));
                }
            }
            all.sort_by(|a, b| a.1.at.cmp(&b.1.at).then_with(|| a.0.cmp(b.0)));
            if !all.is_empty() {
                let mut out = String::with_capacity(all.len() * 48);
                all.iter().for_each(|(name, p)| line(&mut out, name, p));
                return Some((Ok(out), self));
            }
        }
        None
    }
}

/// All readings of a job's log, those left out among them.
pub async fn csv(State(app): State<App>, who: Who, Path(job): Path<Uuid>) -> Result<Response, Failure> {
    let file: Arc<CaseFile> = who.file(job, InView::Latest, Depth::Visit).await?;
    let series = who.scope().await?.log_series(job).await?;
    let extent = |of: fn(&LogSeries) -> Option<DateTime<Utc>>| series.iter().filter_map(of);
    let now = Utc::now();
    let left = Left {
        store: app.store.clone(),
        practice: who.person.practice_id,
        series: names(&file, &series),
        from: extent(|s| s.first_at).min().unwrap_or(now),
        until: extent(|s| s.last_at).max().map_or(now, |last| last + TimeDelta::seconds(1)),
    };
    let columns: Vec<&str> = COLUMNS.iter().map(|(name, _)| *name).collect();
    let head = format!("at,channel,{columns}\n", columns = columns.join(","));
    let lines = futures_util::stream::unfold(left, Left::next);
    let body = futures_util::StreamExt::chain(futures_util::stream::iter([Ok::<_, StoreError>(head)]), lines);
    let kind = [
        (header::CONTENT_TYPE, "text/csv; charset=utf-8"),
        (header::CONTENT_DISPOSITION, "attachment; filename=\"readings.csv\""),
    ];
    Ok((kind, Body::from_stream(body)).into_response())
}
