//! Budget: who and what puts water into a small space hour by hour, what takes it out, and what would keep it dry.

mod form;
mod sight;

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path, Query};
use crate::places::BUDGET;
use crate::view::last_change::{LastChange, last_change};
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::Weather;
use building::timetable::{OutdoorsBy, TimeTable};
use casework::{CaseFile, InView};
use chrono::{Datelike, Utc};
use form::BudgetForm;
use judgment::budget::{Item, items, own_item, ready};
use language::{carried, known_of, say};
use notation::months;
use serde::Deserialize;
use sight::ResultView;
use std::collections::HashMap;
use std::sync::Arc;
use store::{Act, Depth, Scope};
use uuid::Uuid;

/// Tables time tables are kept in.
const TABLES: &[&str] = &["time_table"];
/// Most time tables of a job.
const MOST: usize = 40;

/// Choices in groups: ids and names.
type Choices = Vec<(String, Vec<(String, String)>)>;

#[derive(Deserialize, Default)]
pub struct View {
    table: Option<Uuid>,
    /// Another beside it.
    with: Option<String>,
}

/// A time table in the list.
struct Tab {
    href: String,
    name: String,
    here: bool,
}

#[derive(Template, WebTemplate)]
#[template(path = "log/budget.html")]
struct BudgetPage {
    frame: Frame,
    job: JobFrame,
    tabs: Vec<Tab>,
    ready: Vec<(String, String)>,
    spaces: Vec<(String, String)>,
    may_add: bool,
    here: Option<Here>,
    last: Option<LastChange>,
    act_id: Uuid,
}

impl BudgetPage {
    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }
}

/// The time table in view.
struct Here {
    id: Uuid,
    form: BudgetForm,
    what: Choices,
    outdoors: Choices,
    units: [&'static str; 2],
    result: Option<ResultView>,
    /// Another time table beside it.
    other: Option<ResultView>,
    others: Vec<(String, String, bool)>,
}

/// The result alone, as it is swapped in.
#[derive(Template, WebTemplate)]
#[template(path = "log/budget_alone.html")]
struct Alone {
    frame: Frame,
    result: Option<ResultView>,
}

/// What pages are made of.
struct Loaded {
    file: Arc<CaseFile>,
    tables: Vec<TimeTable>,
    items: Vec<Item>,
    weathers: Vec<Weather>,
}

/// A thing of the tables in the language spoken.
fn told(item: &Item) -> Item {
    Item { name: known_of(&item.name), per: known_of(&item.per), source: known_of(&item.source), ..item.clone() }
}

impl Loaded {
    /// The file comes first: whoever holds a connection must not wait for another.
    async fn of(scope: &Scope, file: Arc<CaseFile>) -> Result<Self, Failure> {
        let own = scope.own_sources().await?;
        Ok(Self {
            tables: scope.time_tables(file.job.id).await?,
            items: items().iter().map(told).chain(own.iter().map(own_item)).collect(),
            weathers: scope.weathers().await?,
            file,
        })
    }

    fn what(&self) -> Choices {
        let group = |name: &str, of: &dyn Fn(&Item) -> bool| {
            let all = self.items.iter().filter(|i| of(i)).map(|i| (i.id.clone(), i.name.clone()));
            (name.to_owned(), all.collect::<Vec<_>>())
        };
        let own = |i: &Item| i.id.parse::<Uuid>().is_ok();
        let mut all = vec![
            group(say!("Puts water in"), &|i| i.kind.is_source() && !own(i)),
            group(say!("Outdoor air"), &|i| i.kind.is_air()),
            group(say!("Takes water out"), &|i| !i.kind.is_source() && !i.kind.is_air()),
            group(say!("Own"), &own),
        ];
        all.retain(|(_, members)| !members.is_empty());
        all
    }

    fn outdoors(&self) -> Choices {
        let mut known = Vec::new();
        if self.file.picture.outdoor.is_some() {
            known.push(("visit".to_owned(), say!("as read on the visit").to_owned()));
        }
        if casework::log::LoggedYear::is_logged(&self.file.series) {
            known.push(("log".to_owned(), say!("as logged from a day").to_owned()));
        }
        known.push(("forecast".to_owned(), say!("as forecast from now").to_owned()));
        let months = |of: &str| {
            let month = |(m, name): (usize, &&str)| (format!("{of} {m}"), (*name).to_owned());
            months().iter().enumerate().map(month).collect::<Vec<_>>()
        };
        let mut all = vec![
            (say!("Known").to_owned(), known),
            (say!("A usual day of this climate, in").to_owned(), months("month")),
        ];
        all.extend(self.weathers.iter().map(|w| (say!("{name}, a day in", name = w.name), months(&w.id.to_string()))));
        all
    }

    async fn result(&self, who: &Who, scope: &Scope, table: &TimeTable) -> Result<ResultView, Failure> {
        let air = casework::budget::outdoors(scope, &self.file, table, &self.weathers, Utc::now()).await?;
        let panes = casework::budget::panes(&self.file, table.space_id);
        let (show, table, items) = (who.show(), table.clone(), self.items.clone());
        let space = self.file.building.space(table.space_id).map(|s| s.kind);
        let weather = match table.outdoors {
            OutdoorsBy::Weather(id, _) => self.weathers.iter().find(|w| w.id == id).map(|w| w.name.clone()),
            _ => None,
        };
        // A fortnight is stepped some hundred times over.
        let work = carried(move || sight::of(&show, &table, &items, &panes, air, (space, weather.as_deref())));
        tokio::task::spawn_blocking(work).await.map_err(|e| Failure::Defect(e.to_string()))
    }
}

fn address(job: Uuid, table: Uuid) -> String {
    format!("/jobs/{job}/log/budget?table={table}")
}

/// The page.
pub async fn page(who: Who, Path(job): Path<Uuid>, Query(view): Query<View>) -> Result<impl IntoResponse, Failure> {
    let file = who.file(job, InView::Latest, Depth::Argument).await?;
    let scope = who.scope().await?;
    let loaded = Loaded::of(&scope, file).await?;
    let chosen = loaded.tables.iter().find(|t| Some(t.id) == view.table).or(loaded.tables.last());
    let form = chosen.map(|t| (t.id, BudgetForm::of(t, &who.show())));
    shown(&who, &scope, &loaded, form, view.with.as_deref()).await
}

async fn shown(
    who: &Who,
    scope: &Scope,
    loaded: &Loaded,
    form: Option<(Uuid, BudgetForm)>,
    with: Option<&str>,
) -> Result<BudgetPage, Failure> {
    let (file, job) = (&loaded.file, loaded.file.job.id);
    let with = with.and_then(|w| w.parse::<Uuid>().ok());
    let here = match form {
        None => None,
        Some((id, mut form)) => {
            let show = who.show();
            // The last row waits for what comes next, and is no part of it.
            let mut typed =
                BudgetForm { rows: form.rows.iter().filter(|r| !r.what.is_empty()).cloned().collect(), ..form.clone() };
            let table = typed.read(id, &file.building, &loaded.items, &show);
            if table.is_none() {
                form = typed.go_on();
            }
            let other = loaded.tables.iter().find(|t| Some(t.id) == with && t.id != id);
            Some(Here {
                id,
                result: match &table {
                    Some(t) => Some(loaded.result(who, scope, t).await?),
                    None => None,
                },
                other: match other {
                    Some(t) => Some(loaded.result(who, scope, t).await?),
                    None => None,
                },
                others: loaded
                    .tables
                    .iter()
                    .filter(|t| t.id != id)
                    .map(|t| (t.id.to_string(), t.name.clone(), Some(t.id) == with))
                    .collect(),
                form,
                what: loaded.what(),
                outdoors: loaded.outdoors(),
                units: [
                    notation::unit::TEMPERATURE.unit(show.units).name(),
                    notation::unit::VOLUME.unit(show.units).name(),
                ],
            })
        }
    };
    let own = here.as_ref().map(|h| h.id);
    Ok(BudgetPage {
        tabs: loaded
            .tables
            .iter()
            .map(|t| Tab { href: address(job, t.id), name: t.name.clone(), here: Some(t.id) == own })
            .collect(),
        ready: ready().iter().map(|r| (r.id.clone(), known_of(&r.name))).collect(),
        spaces: file.building.spaces.iter().map(|s| (s.id.to_string(), s.name.clone())).collect(),
        may_add: loaded.tables.len() < MOST,
        here,
        last: last_change(who, file, TABLES),
        act_id: Uuid::now_v7(),
        frame: Frame::of(who, file),
        job: JobFrame::new(file, BUDGET),
    })
}

/// The result of what is typed; nothing is kept.
pub async fn live(
    who: Who,
    Path(job): Path<Uuid>,
    Form(fields): Form<HashMap<String, String>>,
) -> Result<Response, Failure> {
    let file = who.file(job, InView::Latest, Depth::Argument).await?;
    let scope = who.scope().await?;
    let loaded = Loaded::of(&scope, file).await?;
    let mut form = BudgetForm::sent(&fields);
    let table = form.read(Uuid::nil(), &loaded.file.building, &loaded.items, &who.show());
    let result = match table {
        Some(t) => Some(loaded.result(&who, &scope, &t).await?),
        None => None,
    };
    Ok(Alone { frame: Frame::new(&who), result }.into_response())
}

/// Keeps, copies, begins or takes away a time table.
pub async fn keep(
    who: Who,
    Path(job): Path<Uuid>,
    Form(fields): Form<HashMap<String, String>>,
) -> Result<Response, Failure> {
    let id_of = |key: &str| fields.get(key).and_then(|id| id.parse::<Uuid>().ok());
    let act_id = id_of("id").ok_or_else(|| Failure::BadForm("id of a change".into()))?;
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    let file = Arc::new(CaseFile::load(&scope, job, InView::Latest, Depth::Argument).await?);
    let loaded = Loaded::of(&scope, file).await?;
    let own = id_of("table").and_then(|id| loaded.tables.iter().find(|t| t.id == id));
    let acted = scope.acted(job, act_id).await?;
    let act = |what: String| Act::new(act_id, job, who.person.consultant_id, Utc::now(), what);
    let full = loaded.tables.len() >= MOST;
    let kept = match fields.get("act").map(String::as_str) {
        Some("ready") if acted || full => act_id,
        Some("ready") => {
            let table = begun(&loaded, &fields, act_id)?;
            scope
                .keep_time_table(&act(say!("Began the time table {table}", table = table.name)), &table, false)
                .await?;
            act_id
        }
        Some("copy") if acted || full => act_id,
        Some("copy") => {
            let of = own.ok_or(Failure::NotFound)?;
            let name = unlike(&of.name, &loaded.tables);
            let table = TimeTable { id: act_id, name, ..of.clone() };
            scope.keep_time_table(&act(say!("Copied the time table {of}", of = of.name)), &table, false).await?;
            act_id
        }
        Some("remove") => {
            if let (Some(table), false) = (own, acted) {
                scope
                    .keep_time_table(&act(say!("Removed the time table {table}", table = table.name)), table, true)
                    .await?;
                scope.commit().await?;
            }
            return Ok(Redirect::to(&format!("/jobs/{job}/log/budget")).into_response());
        }
        _ => {
            let id = own.ok_or(Failure::NotFound)?.id;
            let mut form = BudgetForm::sent(&fields);
            let Some(table) = form.read(id, &loaded.file.building, &loaded.items, &who.show()) else {
                let page = shown(&who, &scope, &loaded, Some((id, form.go_on())), None).await?;
                return Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response());
            };
            if !acted {
                scope
                    .keep_time_table(&act(say!("Changed the time table {table}", table = table.name)), &table, false)
                    .await?;
            }
            id
        }
    };
    scope.commit().await?;
    Ok(Redirect::to(&address(job, kept)).into_response())
}

/// A name no other time table of the job has.
fn unlike(name: &str, there: &[TimeTable]) -> String {
    let numbered = |n: usize| match n {
        1 => name.to_owned(),
        n => format!("{}, {n}", name.chars().take(54).collect::<String>()),
    };
    (1..=there.len() + 1).map(numbered).find(|n| there.iter().all(|t| t.name != *n)).unwrap_or_else(|| name.to_owned())
}

/// A time table from a ready one.
fn begun(loaded: &Loaded, fields: &HashMap<String, String>, id: Uuid) -> Result<TimeTable, Failure> {
    let text = |key: &str| fields.get(key).map_or("", String::as_str);
    let of = ready().iter().find(|r| r.id == text("ready")).or(ready().first());
    let of = of.ok_or_else(|| Failure::Defect("no ready time table".into()))?;
    let building = &loaded.file.building;
    let space = text("space").parse().ok().and_then(|id| building.space(id)).or(building.spaces.first());
    let space = space.ok_or(Failure::NotFound)?;
    let read = loaded.file.picture.space(space.id).and_then(|s| s.air.as_ref());
    let month = u8::try_from(Utc::now().month0()).unwrap_or(0);
    let outdoors = if loaded.file.picture.outdoor.is_some() { OutdoorsBy::Visit } else { OutdoorsBy::Month(month) };
    Ok(TimeTable {
        id,
        space_id: space.id,
        name: unlike(&of.name, &loaded.tables),
        begins: of.begins,
        hours: of.hours,
        celsius: of.celsius,
        start_rh: read.map_or(of.start_rh, |a| a.air.rh(hygrothermal::air::Over::Water).clamp(1.0, 99.0).round()),
        volume_m3: space.volume_m3().clamp(0.5, 5000.0),
        leak: of.leak,
        wind: of.wind,
        outdoors,
        blocks: of.blocks.clone(),
    })
}
