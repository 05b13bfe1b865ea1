//! The log itself: what the hours say in a sentence, drawn, with a row for each surface.

use super::marks::{Typed, USUAL, moment};
use super::sight::Sight;
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Path, Query};
use crate::places::LOG;
use crate::view::last_change::{LastChange, last_change};
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use casework::log::{LogView, SpaceLog, Span, TimeSays};
use casework::{CaseFile, InView};
use chrono::{DateTime, TimeDelta, Utc};
use drawing::log::{Chart, Measure, Run, Sheet, chart};
use language::{known, say};
use notation::Show;
use serde::Deserialize;
use std::sync::Arc;
use store::Depth;
use uuid::Uuid;
use wording::hours::{Stretch, head, outdoors};
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
    measures: Vec<Tab>,
    compare: Vec<Tab>,
    compared: String,
    /// Whether the span before was asked for and holds nothing of this space.
    nothing_before: bool,
    /// The drawing as a file.
    file: String,
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
pub(super) struct MarkRow {
    pub id: Uuid,
    pub act: Uuid,
    pub when: String,
    pub what: String,
    pub note: String,
    pub left_out: bool,
}

/// A choice and whether it is in view.
pub(super) struct Tab {
    pub href: String,
    pub name: String,
    pub here: bool,
}

/// A row of the ribbon.
pub struct RibbonRow {
    pub name: String,
    /// At a desk, and on a phone.
    pub runs: [Vec<Run>; 2],
    pub wet: String,
    pub mold: String,
    pub estimated: bool,
}

#[derive(Deserialize, Default)]
pub struct View {
    space: Option<Uuid>,
    span: Option<String>,
    from: Option<String>,
    until: Option<String>,
    /// What the side shows.
    axis: Option<String>,
    /// Another space beside it.
    with: Option<String>,
    /// The span before beneath it.
    before: Option<String>,
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

    fn measure(&self) -> Measure {
        self.axis.as_deref().and_then(Measure::from_id).unwrap_or(Measure::Dew)
    }
}

/// Where a view of the log is found.
#[derive(Clone)]
struct Address {
    job: Uuid,
    space: Uuid,
    span: String,
    measure: Measure,
    with: Option<Uuid>,
    before: bool,
}

impl Address {
    fn of(sight: &Sight, view: &View) -> Self {
        let free = view.from.is_some() && view.until.is_some();
        let local = |at: DateTime<Utc>| sight.show.stamp(at).chars().take(16).collect::<String>();
        let span = if free {
            format!("from={local}&until={local2}", local = local(sight.log.from), local2 = local(sight.log.until))
        } else {
            format!(
                "span={find}",
                find = SPANS.iter().find(|s| Some(s.0) == view.span.as_deref()).unwrap_or(&SPANS[1]).0
            )
        };
        Self {
            job: sight.file.job.id,
            space: sight.space.id,
            span,
            measure: sight.measure,
            with: sight.beside.map(|s| s.id),
            before: view.before.is_some(),
        }
    }

    /// What is compared, behind an address.
    fn compared(&self) -> String {
        let with = self.with.map(|id| format!("&with={id}")).unwrap_or_default();
        with + if self.before { "&before=yes" } else { "" }
    }

    fn href(&self, path: &str) -> String {
        let axis = if self.measure == Measure::Dew {
            String::new()
        } else {
            format!("&axis={measure}", measure = self.measure.id())
        };
        format!("/jobs/{}/log{path}?space={}&{}{axis}{}", self.job, self.space, self.span, self.compared())
    }

    fn tab(&self, name: &str, here: bool) -> Tab {
        Tab { href: self.href(""), name: name.to_owned(), here }
    }
}

/// What a view is made of.
struct Loaded {
    file: Arc<CaseFile>,
    log: Option<LogView>,
    before: Option<LogView>,
    busy: bool,
}

impl Loaded {
    async fn of(who: &Who, job: Uuid, view: &View) -> Result<Self, Failure> {
        let file = who.file(job, InView::Latest, Depth::Plan).await?;
        let scope = who.scope().await?;
        let parts = scope.log_parts(job).await?;
        let (busy, again) = (parts.busy, parts.clone());
        let log = LogView::load(&scope, &file, parts, view.span(&who.show())).await?;
        let before = match log.as_ref().filter(|_| view.before.is_some()) {
            Some(log) => {
                let earlier = Span::Between(log.from - (log.until - log.from), log.from);
                LogView::load(&scope, &file, again, earlier).await?
            }
            None => None,
        };
        Ok(Self { file, log, before, busy })
    }

    fn sight<'a>(&'a self, show: &'a Show, view: &View) -> Option<Sight<'a>> {
        let log = self.log.as_ref()?;
        let space = view.space.and_then(|id| log.space(id)).or_else(|| log.worst())?;
        let fine = |log: &'a LogView, space: &'a SpaceLog| {
            log.fine.as_deref().and_then(|f| Some((f, f.space(space.id)?))).unwrap_or((log, space))
        };
        let with: Option<Uuid> = view.with.as_deref().and_then(|id| id.parse().ok());
        Some(Sight {
            show,
            file: &self.file,
            log,
            space,
            drawn: fine(log, space),
            measure: view.measure(),
            beside: with.and_then(|id| log.space(id)).filter(|s| s.id != space.id),
            before: self.before.as_ref().and_then(|b| Some(fine(b, b.space(space.id)?))),
        })
    }
}

/// The log of a job.
pub async fn page(who: Who, Path(job): Path<Uuid>, Query(view): Query<View>) -> Result<impl IntoResponse, Failure> {
    shown(&who, job, &view, Typed::default()).await
}

/// The log as it is asked for, with the form of a mark as it was typed.
pub async fn shown(who: &Who, job: Uuid, view: &View, typed: Typed) -> Result<LogPage, Failure> {
    let loaded = Loaded::of(who, job, view).await?;
    let show = who.show();
    Ok(LogPage {
        frame: Frame::of(who, &loaded.file),
        job: JobFrame::new(&loaded.file, LOG),
        shown: loaded.sight(&show, view).map(|sight| Shown::of(&sight, view, typed)),
        busy: loaded.busy,
        last: last_change(who, &loaded.file, &["log_mark", "bring_in"]),
        undo_id: Uuid::now_v7(),
    })
}

/// The drawing by itself, as a file that needs nothing else.
pub async fn drawing(who: Who, Path(job): Path<Uuid>, Query(view): Query<View>) -> Result<Response, Failure> {
    let loaded = Loaded::of(&who, job, &view).await?;
    let show = who.show();
    let sight = loaded.sight(&show, &view).ok_or(Failure::NotFound)?;
    let c = chart(&sight.drawing(Sheet::DESK));
    let text =
        DrawingFile { frame: Frame::new(&who), c, title: sight.title() }.render().map_err(|_| Failure::NotFound)?;
    let kind = [(header::CONTENT_TYPE, "image/svg+xml"), (header::CONTENT_DISPOSITION, "inline; filename=\"log.svg\"")];
    Ok((kind, text).into_response())
}

#[derive(Template)]
#[template(path = "log/drawing.svg", escape = "xml")]
struct DrawingFile {
    frame: Frame,
    c: Chart,
    title: String,
}

impl Shown {
    fn of(sight: &Sight, view: &View, mark: Typed) -> Self {
        let Sight { show, file, log, space, drawn, .. } = sight;
        let here = Address::of(sight, view);
        let another = |change: &dyn Fn(&mut Address)| {
            let mut address = here.clone();
            change(&mut address);
            address
        };
        let name = |id| file.building.space(id).map(|s| s.name.clone()).unwrap_or_default();
        let local = |at: DateTime<Utc>| show.stamp(at).chars().take(16).collect::<String>();
        let between = |from: DateTime<Utc>, until: DateTime<Utc>| {
            another(&|a| a.span = format!("from={local}&until={local2}", local = local(from), local2 = local(until)))
                .href("")
        };
        let length = log.until - log.from;
        let others = log.spaces.iter().filter(|s| s.id != space.id);
        let mut compare: Vec<Tab> = others
            .map(|s| {
                let is = here.with == Some(s.id);
                another(&|a| a.with = Some(s.id).filter(|_| !is)).tab(&name(s.id), is)
            })
            .collect();
        compare.push(another(&|a| a.before = !a.before).tab(say!("the span before"), here.before));
        Self {
            space: space.id,
            ms: [log.from.timestamp_millis(), log.until.timestamp_millis()],
            zone: show.zone_name(),
            flaws: sight.flaws(),
            marks: sight.marks(),
            sensors: log.series.iter().map(|s| (s.id.to_string(), sight.sensor(s))).collect(),
            mark,
            usual: USUAL.map(known),
            spaces: log
                .spaces
                .iter()
                .map(|s| another(&|a| (a.space, a.with) = (s.id, None)).tab(&name(s.id), s.id == space.id))
                .collect(),
            spans: SPANS
                .iter()
                .map(|(id, words, _)| {
                    let span = format!("span={id}");
                    another(&|a| a.span.clone_from(&span)).tab(known(words), here.span == span)
                })
                .collect(),
            measures: Measure::ALL
                .iter()
                .map(|m| another(&|a| a.measure = *m).tab(known(m.words()), *m == here.measure))
                .collect(),
            compare,
            compared: here.compared(),
            nothing_before: here.before && sight.before.is_none(),
            file: here.href("/drawing.svg"),
            earlier: (log.from > log.extent[0]).then(|| between(log.from - length, log.from)),
            later: (log.until <= log.extent[1]).then(|| between(log.until, log.until + length)),
            title: sight.title(),
            head: head(show, &file.building, log, space),
            outdoors: outdoors(show, &file.building, log, space),
            charts: [Sheet::DESK, Sheet::PHONE].map(|sheet| chart(&sight.drawing(sheet))),
            ribbon: drawn.1.surfaces.iter().map(|s| sight.row(s)).collect(),
            time: time_says(show, &file.building, &TimeSays::of(file, log, space)),
            columns: sight.columns(),
            table: sight.table(),
        }
    }
}

impl RibbonRow {
    /// Words for whoever cannot see it.
    fn said(&self) -> String {
        say!("{name}: wet {wet}, mold risk {mold}", name = self.name, wet = self.wet, mold = self.mold)
    }
}
