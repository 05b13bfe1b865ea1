//! The log itself: what the hours say in a sentence, drawn, with a row for each surface.

use super::marks::{Typed, USUAL, moment};
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Path, Query};
use crate::places::LOG;
use crate::view::last_change::{LastChange, last_change};
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::response::IntoResponse;
use building::{MarkKind, Place};
use casework::log::{LogView, Source, SpaceLog, Span, SurfaceLog, TimeSays, spots};
use casework::{CaseFile, InView};
use chrono::{DateTime, TimeDelta, Utc};
use drawing::log::{Cell, Chart, Dot, Drawn, Flag, Kind, Line, Run, Sheet, chart, columns, ribbon};
use logger::Spread;
use notation::Show;
use serde::Deserialize;
use store::{Depth, LogSeries};
use uuid::Uuid;
use wording::hours::{Stretch, head, hours, outdoors};
use wording::time::{TimeLine, time_says};

#[derive(Template, WebTemplate)]
#[template(path = "log/log.html")]
pub struct LogPage {
    frame: Frame,
    job: JobFrame,
    shown: Option<Shown>,
    /// Whether readings are on their way in or out.
    busy: bool,
    last: Option<LastChange>,
    undo_id: Uuid,
}

impl LogPage {
    /// An id for what a form does.
    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }
}

/// A span of a log, ready to be placed.
struct Shown {
    space: Uuid,
    /// From when to when, ms since 1970.
    ms: [i64; 2],
    zone: String,
    flaws: Vec<String>,
    marks: Vec<MarkRow>,
    sensors: Vec<(String, String)>,
    mark: Typed,
    usual: [&'static str; 8],
    spaces: Vec<Tab>,
    spans: Vec<Tab>,
    earlier: Option<String>,
    later: Option<String>,
    title: String,
    head: Vec<Stretch>,
    outdoors: Option<String>,
    /// At a desk, and on a phone.
    charts: [Chart; 2],
    ribbon: Vec<RibbonRow>,
    /// What the hours say together.
    time: Vec<TimeLine>,
    table: Vec<(String, Vec<String>)>,
    columns: Vec<String>,
}

/// Something marked in the span.
struct MarkRow {
    id: Uuid,
    act: Uuid,
    when: String,
    what: String,
    note: String,
    left_out: bool,
}

/// A choice and whether it is in view.
pub(super) struct Tab {
    pub href: String,
    pub name: String,
    pub here: bool,
}

/// A row of the ribbon.
struct RibbonRow {
    name: String,
    /// At a desk, and on a phone.
    runs: [Vec<Run>; 2],
    wet: String,
    mold: String,
    estimated: bool,
}

#[derive(Deserialize, Default)]
pub struct View {
    space: Option<Uuid>,
    span: Option<String>,
    from: Option<String>,
    until: Option<String>,
}

/// Spans that are offered: what they are called in an address and on the page, and how long.
pub(super) const SPANS: [(&str, &str, i64); 4] =
    [("day", "day", 1), ("2w", "2 weeks", 14), ("season", "season", 91), ("all", "all", 372)];

impl View {
    fn span(&self, show: &Show) -> Span {
        let at = |text: &Option<String>| moment(show, text.as_deref()?);
        match (at(&self.from), at(&self.until)) {
            (Some(from), Some(until)) if from < until => Span::Between(from, until),
            _ => Span::Last(TimeDelta::days(
                SPANS.iter().find(|s| Some(s.0) == self.span.as_deref()).unwrap_or(&SPANS[1]).2,
            )),
        }
    }
}

/// The log of a job.
pub async fn page(who: Who, Path(job): Path<Uuid>, Query(view): Query<View>) -> Result<impl IntoResponse, Failure> {
    shown(&who, job, &view, Typed::default()).await
}

/// The log as it is asked for, with the form of a mark as it was typed.
pub async fn shown(who: &Who, job: Uuid, view: &View, typed: Typed) -> Result<LogPage, Failure> {
    let loaded = who.file(job, InView::Latest, Depth::Visit).await?;
    let show = who.show();
    let scope = who.scope().await?;
    let parts = scope.log_parts(job).await?;
    let busy = parts.busy;
    let log = LogView::load(&scope, &loaded, parts, view.span(&show)).await?;
    let shown = log.as_ref().and_then(|log| {
        let asked = view.space.and_then(|id| log.spaces.iter().find(|s| s.id == id));
        let space = asked.or_else(|| log.worst())?;
        let drawn = log.fine.as_deref().and_then(|fine| Some((fine, fine.space(space.id)?))).unwrap_or((log, space));
        Some(Shown::of(&Sight { show: &show, file: &loaded, log, space, drawn }, view, typed))
    });
    Ok(LogPage {
        frame: Frame::of(who, &loaded),
        job: JobFrame::new(&loaded, LOG),
        shown,
        busy,
        last: last_change(who, &loaded, &["log_mark", "bring_in"]),
        undo_id: Uuid::now_v7(),
    })
}

/// What is looked at.
struct Sight<'a> {
    show: &'a Show,
    file: &'a CaseFile,
    log: &'a LogView,
    space: &'a SpaceLog,
    /// The same as it is drawn: finer where the span is short.
    drawn: (&'a LogView, &'a SpaceLog),
}

impl Shown {
    fn of(sight: &Sight, view: &View, mark: Typed) -> Self {
        let Sight { show, file, log, space, drawn } = sight;
        let local = |at: DateTime<Utc>| show.stamp(at).chars().take(16).collect::<String>();
        let base = format!("/jobs/{}/log", file.job.id);
        let between = |from: DateTime<Utc>, until: DateTime<Utc>| {
            format!("{base}?space={}&from={}&until={}", space.id, local(from), local(until))
        };
        let length = log.until - log.from;
        let free = view.from.is_some() && view.until.is_some();
        let span = view.span.as_deref().unwrap_or("2w");
        let name = |id| file.building.space(id).map(|s| s.name.clone()).unwrap_or_default();
        let kept = if free {
            format!("&from={}&until={}", local(log.from), local(log.until))
        } else {
            format!("&span={span}")
        };
        Self {
            space: space.id,
            ms: [log.from.timestamp_millis(), log.until.timestamp_millis()],
            zone: show.zone_name(),
            flaws: sight.flaws(),
            marks: sight.marks(),
            sensors: log.series.iter().map(|s| (s.id.to_string(), sight.sensor(s))).collect(),
            mark,
            usual: USUAL,
            spaces: log
                .spaces
                .iter()
                .map(|s| Tab { href: format!("{base}?space={}{kept}", s.id), name: name(s.id), here: s.id == space.id })
                .collect(),
            spans: SPANS
                .iter()
                .map(|(id, words, _)| Tab {
                    href: format!("{base}?space={}&span={id}", space.id),
                    name: (*words).to_owned(),
                    here: !free && *id == span,
                })
                .collect(),
            earlier: (log.from > log.extent[0]).then(|| between(log.from - length, log.from)),
            later: (log.until <= log.extent[1]).then(|| between(log.until, log.until + length)),
            title: format!("{}, {} to {}", name(space.id), show.moment(log.from), show.moment(log.until)),
            head: head(show, &file.building, log, space),
            outdoors: outdoors(show, log, space),
            charts: [Sheet::DESK, Sheet::PHONE].map(|sheet| chart(&sight.drawing(sheet))),
            ribbon: drawn.1.surfaces.iter().map(|s| sight.row(s)).collect(),
            time: time_says(show, &file.building, &TimeSays::of(file, log, space)),
            columns: sight.columns(),
            table: sight.table(),
        }
    }
}

fn cell(spread: Option<Spread>) -> Option<Cell> {
    spread.map(|s| Cell { mean: s.mean, low: s.low, high: s.high })
}

impl Sight<'_> {
    fn drawing(&self, sheet: Sheet) -> Drawn<'_> {
        let (log, space) = self.drawn;
        let each = sheet.each(log.steps());
        let line = |name: String, kind, cells: Vec<Option<Cell>>| Line { name, kind, cells: columns(&cells, each) };
        let mut lines = vec![line(
            "dew point of the air".into(),
            Kind::Dew,
            space.air.iter().map(|h| cell(h.and_then(|h| h.dew_c))).collect(),
        )];
        if log.outdoors.iter().any(Option::is_some) {
            let cells = log.outdoors.iter().map(|h| cell(h.and_then(|h| h.dew_c))).collect();
            lines.push(line("outdoor dew point".into(), Kind::Outdoors, cells));
        }
        // Bare soil is damp whatever the air does: it has its row below.
        let drawn = space.surfaces.iter().filter(|s| !self.is_soil(s)).take(5);
        for surface in drawn {
            let kind = if surface.source == Source::Measured { Kind::Surface } else { Kind::Estimated };
            lines.push(line(self.named(surface), kind, surface.t_c.iter().map(|s| cell(*s)).collect()));
        }
        let rain = log.rain.chunks(each).map(|c| c.iter().flatten().copied().reduce(|a, b| a + b)).collect();
        let [from, until] = [log.from, log.until];
        Drawn {
            sheet,
            span: [from, until],
            lines,
            band_k: space.dew_band_k,
            rain,
            flags: self.flags(),
            dots: self.dots(),
            left_out: self.left_out(),
            show: self.show,
        }
    }

    fn is_soil(&self, surface: &SurfaceLog) -> bool {
        let soil = |s: &building::Surface| s.material == building::Material::Soil;
        self.space.surfaces.len() > 1 && self.file.building.surface(surface.id).is_some_and(soil)
    }

    fn named(&self, surface: &SurfaceLog) -> String {
        let name = self.file.building.surface(surface.id).map(|s| s.name.clone()).unwrap_or_default();
        if surface.source == Source::Measured { name } else { format!("{name} · estimated") }
    }

    /// Stretches left out of anything drawn here.
    fn left_out(&self) -> Vec<[DateTime<Utc>; 2]> {
        let own = |id: Uuid| {
            let series = self.log.series.iter().find(|s| s.id == id);
            series.is_some_and(|s| {
                s.space_id == Some(self.space.id) || self.space.surfaces.iter().any(|x| Some(x.id) == s.surface_id)
            })
        };
        let out = self.log.marks.iter().filter(|m| m.kind == MarkKind::LeftOut && m.series_id.is_none_or(own));
        out.filter_map(|m| Some([m.from_at, m.until_at?])).collect()
    }

    fn flags(&self) -> Vec<Flag> {
        let visits = self.file.visits.iter().filter(|v| v.started_at >= self.log.from && v.started_at < self.log.until);
        let visits = visits.map(|v| Flag {
            at: v.started_at,
            until: None,
            words: format!("visit {}", self.file.visit_number(v.id)),
        });
        let here = |m: &&store::LogMark| m.space_id.is_none_or(|id| id == self.space.id) && m.kind != MarkKind::LeftOut;
        let marks = self.log.marks.iter().filter(here);
        let mut all: Vec<Flag> =
            visits.chain(marks.map(|m| Flag { at: m.from_at, until: m.until_at, words: m.what.clone() })).collect();
        all.sort_by_key(|f| f.at);
        all
    }

    /// A sensor by its logger, what it reads and where.
    fn sensor(&self, series: &LogSeries) -> String {
        let logger = self.file.instrument(series.instrument_id).map(|i| i.name.as_str()).unwrap_or_default();
        let space = series.space_id.and_then(|id| self.file.building.space(id)).map(|s| s.name.as_str());
        let surface = series.surface_id.and_then(|id| self.file.building.surface(id)).map(|s| s.name.as_str());
        let place = surface.or(space).unwrap_or("outdoors");
        format!("{logger}, {} of {place}", series.reads.words())
    }

    /// What is wrong with the loggers of this space, and of outdoors.
    fn flaws(&self) -> Vec<String> {
        let here = |s: &&LogSeries| {
            let of = s.surface_id.and_then(|id| self.file.building.surface(id)).map(|x| x.space_id).or(s.space_id);
            of.is_none_or(|id| id == self.space.id)
        };
        let series = self.log.series.iter().filter(here);
        let flawed = series.flat_map(|s| self.log.flaws.iter().filter(|f| f.series == s.id).map(move |f| (s, f)));
        let mut all: Vec<String> =
            flawed.map(|(s, f)| wording::hours::flaw(self.show, &self.sensor(s), f, s.reads)).collect();
        all.truncate(12);
        all
    }

    fn marks(&self) -> Vec<MarkRow> {
        let row = |m: &store::LogMark| {
            let until = m.until_at.map_or_else(String::new, |u| format!(" to {}", self.show.moment(u)));
            let of = m.series_id.and_then(|id| self.log.series.iter().find(|s| s.id == id)).map(|s| self.sensor(s));
            let left_out = m.kind == MarkKind::LeftOut;
            let what = match (left_out, of) {
                (true, Some(of)) => format!("left out: {of}"),
                (true, None) => "left out: all sensors".to_owned(),
                _ => m.what.clone(),
            };
            MarkRow {
                id: m.id,
                act: Uuid::now_v7(),
                when: format!("{}{until}", self.show.moment(m.from_at)),
                what,
                note: m.note.clone(),
                left_out,
            }
        };
        let here = |m: &&store::LogMark| m.space_id.is_none_or(|id| id == self.space.id);
        self.log.marks.iter().filter(here).map(row).collect()
    }

    /// What was read on visits in this space.
    fn dots(&self) -> Vec<Dot> {
        let here = |place: Place| match place {
            Place::Space(id) => id == self.space.id,
            Place::Surface(id) => self.space.surfaces.iter().any(|s| s.id == id && !self.is_soil(s)),
            Place::Outdoors => false,
        };
        let read = spots(self.file, self.log).into_iter().filter(|s| here(s.place));
        read.map(|s| Dot {
            at: s.at,
            t_c: s.t_c,
            words: format!(
                "{}, {}, read on a visit {}",
                self.file.building.place_name(s.place),
                self.show.temperature(s.t_c),
                self.show.moment(s.at)
            ),
        })
        .collect()
    }

    fn row(&self, surface: &SurfaceLog) -> RibbonRow {
        RibbonRow {
            name: self.file.building.surface(surface.id).map(|s| s.name.clone()).unwrap_or_default(),
            runs: [Sheet::DESK, Sheet::PHONE].map(|sheet| ribbon(sheet, &surface.stood)),
            wet: hours(surface.said.wet),
            mold: hours(surface.said.mold),
            estimated: surface.source != Source::Measured,
        }
    }

    fn columns(&self) -> Vec<String> {
        let own = self.space.surfaces.iter().map(|s| self.named(s));
        ["Air", "Humidity", "Dew point", "Outdoor dew point"].map(str::to_owned).into_iter().chain(own).collect()
    }

    /// The figures behind the drawing, by hour or by several.
    fn table(&self) -> Vec<(String, Vec<String>)> {
        let (log, space) = self.drawn;
        let each = log.steps().div_ceil(400).max(1);
        let t = |x: Option<Cell>| x.map_or_else(|| "–".to_owned(), |c| self.show.temperature(c.mean));
        let of = |cells: Vec<Option<Cell>>| columns(&cells, each);
        let air = |pick: fn(&casework::log::HourAir) -> Option<Spread>,
                   row: &casework::log::Row<casework::log::HourAir>| {
            of(row.iter().map(|h| cell(h.as_ref().and_then(pick))).collect())
        };
        let temperature = air(|h| Some(h.t_c), &space.air);
        let humidity = air(|h| Some(h.rh_pct), &space.air);
        let dew = air(|h| h.dew_c, &space.air);
        let out = air(|h| h.dew_c, &log.outdoors);
        let surfaces: Vec<Vec<Option<Cell>>> =
            space.surfaces.iter().map(|s| of(s.t_c.iter().map(|x| cell(*x)).collect())).collect();
        let row = |i: usize| {
            let rh = humidity[i].map_or_else(|| "–".to_owned(), |c| self.show.percent(c.mean));
            let mut cells = vec![t(temperature[i]), rh, t(dew[i]), t(out[i])];
            cells.extend(surfaces.iter().map(|s| t(s[i])));
            (self.show.moment(log.at(i * each)), cells)
        };
        (0..temperature.len()).filter(|i| temperature[*i].is_some()).map(row).collect()
    }
}

impl RibbonRow {
    /// Words for whoever cannot see it.
    fn said(&self) -> String {
        format!("{}: wet {}, mold risk {}", self.name, self.wet, self.mold)
    }
}
