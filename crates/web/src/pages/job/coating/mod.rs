//! Coating and sealing: what to buy and mix, when the weather lets it, the second coat, and what it did.

mod form;

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path, Query};
use crate::fields::{Field, Input, Typed, Wrongs};
use crate::places::COATING;
use crate::view::last_change::{LastChange, last_change};
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::coating::{CoatingJob, MOST_COATINGS};
use casework::coating::{area, when};
use casework::{CaseFile, InView};
use chrono::{DateTime, Utc};
use form::{as_typed, begun, groups, read};
use hygrothermal::proof::paired;
use hygrothermal::takeoff::WhyNot;
use judgment::cautions::{LOCAL_CODE, Work, cautions_of};
use judgment::climate::year;
use judgment::coating::{mix, months, saved_kwh};
use language::say;
use serde::Deserialize;
use store::{Act, Depth, Forecast, ForecastHour};
use uuid::Uuid;
use wording::coating as words;

/// Tables coatings are kept in.
const TABLES: &[&str] = &["coating"];

#[derive(Deserialize, Default)]
#[serde(default)]
pub struct View {
    of: Option<Uuid>,
}

/// An hour of the strip: its class and what it is.
type HourCell = (&'static str, String);

/// A coating worked out.
struct Shown {
    mix: Option<[String; 2]>,
    coats: Option<String>,
    jars: Vec<String>,
    when: [String; 2],
    why: Vec<(&'static str, usize)>,
    hours: Vec<HourCell>,
    months: String,
    substrate: Option<(bool, String)>,
    again: Option<String>,
    /// From and until when the second coat goes on, ms since 1970, for the clock on the page.
    timer: Option<[i64; 2]>,
    paired: [String; 2],
    places: Vec<[String; 3]>,
    saved: Option<String>,
}

struct Here {
    id: Uuid,
    name: String,
    groups: Vec<(&'static str, Vec<Field>)>,
    shown: Option<Shown>,
    running: bool,
}

#[derive(Template, WebTemplate)]
#[template(path = "coating/coating.html")]
struct CoatingPage {
    frame: Frame,
    job: JobFrame,
    tabs: Vec<(String, String, bool)>,
    here: Option<Here>,
    may_add: bool,
    cautions: Vec<String>,
    local_code: &'static str,
    /// Whether the forecast is being asked for.
    asking: bool,
    /// Whether it is there.
    told: bool,
    wrong: Wrongs,
    last: Option<LastChange>,
    act_id: Uuid,
}

impl CoatingPage {
    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }

    fn error(&self, name: &str) -> Option<&str> {
        self.wrong.iter().find(|(f, _)| f == name).map(|(_, e)| e.as_str())
    }
}

fn address(job: Uuid, of: Uuid) -> String {
    format!("/jobs/{job}/coating?of={of}")
}

/// A coating worked out at a moment with the weather to come.
fn shown(who: &Who, file: &CaseFile, c: &CoatingJob, told: &[ForecastHour], now: DateTime<Utc>) -> Shown {
    let show = who.show();
    let m2 = area(file, c);
    let mixed = m2.map(|m2| (mix(c, m2), m2));
    let w = when(file, c, told, now);
    let cell = |bits: u8, at: DateTime<Utc>| -> HourCell {
        let why: Vec<&str> = WhyNot::ALL
            .iter()
            .enumerate()
            .filter(|(n, _)| bits >> n & 1 == 1)
            .map(|(_, w)| words::why_not(*w))
            .collect();
        let (class, said) = if bits == 0 { ("open", "begin".to_owned()) } else { ("neither", why.join(", ")) };
        (class, format!("{}: {said}", show.moment(at)))
    };
    let hours = w.as_ref().filter(|_| c.outdoors).map_or_else(Vec::new, |w| {
        w.window.each.iter().enumerate().map(|(i, bits)| cell(*bits, w.at(w.window.first + i))).collect()
    });
    let pairs: Vec<(f64, f64)> = c.places.iter().filter_map(|p| Some((p.before, p.after?))).collect();
    let open = c.places.len() - pairs.len();
    let figure = notation::number::significant;
    Shown {
        coats: mixed.as_ref().and_then(|(m, _)| words::coats(&show, m)),
        jars: mixed.as_ref().map_or_else(Vec::new, |(m, _)| m.jars.iter().map(|j| words::jar(&show, j)).collect()),
        mix: mixed.as_ref().map(|(m, m2)| words::head(&show, c, m, *m2)),
        when: words::when(&show, c, w.as_ref()),
        why: w.as_ref().map_or_else(Vec::new, |w| {
            let all = WhyNot::ALL.iter().zip(w.window.why_not).filter(|(_, n)| *n > 0);
            all.map(|(why, n)| (words::why_not(*why), n)).collect()
        }),
        hours,
        months: if c.outdoors {
            words::months(months(year(file.job.climate), &c.limits, c.warmer))
        } else {
            String::new()
        },
        substrate: words::substrate(c),
        again: words::again(&show, c, now),
        timer: c.first_coat.map(|at| c.limits.again.map(|m| at + i64::from(m) * 60_000)),
        paired: words::paired(paired(&pairs).as_ref(), open),
        places: c
            .places
            .iter()
            .map(|p| [p.name.clone(), figure(p.before), p.after.map_or_else(|| say!("not yet").to_owned(), figure)])
            .collect(),
        saved: saved_kwh(c)
            .map(|kwh| words::saved(&show, c, kwh, file.book.cents.get("kwh_year").copied(), &file.book.currency)),
    }
}

fn page_of(
    who: &Who,
    file: &CaseFile,
    all: &[CoatingJob],
    (here, typed): (Option<&CoatingJob>, Option<Typed>),
    told: &Forecast,
    wrong: Wrongs,
) -> CoatingPage {
    let (show, frame) = (who.show(), Frame::of(who, file));
    let own = here.and_then(|c| file.building.boundary(c.boundary_id?)).and_then(|b| file.building.space(b.space_id));
    let kinds: Vec<_> = own.map(|s| s.kind).into_iter().collect();
    let cautions = cautions_of(&kinds, &[Work::Coat, Work::Roof]).map(|c| frame.say(&c.text)).collect();
    let job = file.job.id;
    CoatingPage {
        tabs: all.iter().map(|c| (address(job, c.id), c.name.clone(), here.is_some_and(|h| h.id == c.id))).collect(),
        here: here.map(|c| {
            let typed = typed.unwrap_or_else(|| as_typed(c, &show));
            Here {
                id: c.id,
                name: c.name.clone(),
                groups: groups(file, &typed, &show),
                shown: wrong.is_empty().then(|| shown(who, file, c, &told.hours, Utc::now())),
                running: c.first_coat.is_some(),
            }
        }),
        may_add: all.len() < MOST_COATINGS,
        cautions,
        local_code: LOCAL_CODE,
        asking: told.is_asked(),
        told: !told.hours.is_empty(),
        wrong,
        last: last_change(who, file, TABLES),
        act_id: Uuid::now_v7(),
        job: JobFrame::new(file, COATING),
        frame,
    }
}

/// The page.
pub async fn page(who: Who, Path(job): Path<Uuid>, Query(view): Query<View>) -> Result<Response, Failure> {
    let file = who.file(job, InView::Latest, Depth::Plan).await?;
    let scope = who.scope().await?;
    let all = scope.coatings(job).await?;
    let told = scope.forecast(job).await?;
    drop(scope);
    let here = match view.of {
        Some(id) => Some(all.iter().find(|c| c.id == id).ok_or(Failure::NotFound)?),
        None => all.last(),
    };
    Ok(page_of(&who, &file, &all, (here, None), &told, Vec::new()).into_response())
}

/// A name no other coating of the job has.
fn unlike(all: &[CoatingJob]) -> String {
    let numbered = |n: usize| if n == 1 { say!("Outside wall").to_owned() } else { say!("Outside wall, {n}", n) };
    (1..=all.len() + 1).map(numbered).find(|n| all.iter().all(|c| c.name != *n)).unwrap_or_else(|| numbered(1))
}

/// Begins, keeps or takes away a coating, or starts and stops the clock of its first coat.
pub async fn keep(who: Who, Path(job): Path<Uuid>, Form(typed): Form<Typed>) -> Result<Response, Failure> {
    let text = |name: &str| typed.get(name).map_or("", |t| t.trim());
    let act_id: Uuid = text("id").parse().map_err(|_| Failure::BadForm("id of a change".into()))?;
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    let file = CaseFile::load(&scope, job, InView::Latest, Depth::Plan).await?;
    let all = scope.coatings(job).await?;
    let own = text("of").parse::<Uuid>().ok().and_then(|id| all.iter().find(|c| c.id == id));
    let now = Utc::now();
    let acted = scope.acted(job, act_id).await?;
    let act = |what: String| Act::new(act_id, job, who.person.consultant_id, now, what);
    let kept = match text("act") {
        "begin" if acted || all.len() >= MOST_COATINGS => act_id,
        "begin" => {
            let c = begun(act_id, &file, unlike(&all));
            scope.keep_coating(&act(say!("Began the coating {name}", name = c.name)), &c, false).await?;
            act_id
        }
        "remove" => {
            if let (Some(c), false) = (own, acted) {
                scope.keep_coating(&act(say!("Removed the coating {name}", name = c.name)), c, true).await?;
                scope.commit().await?;
            }
            return Ok(Redirect::to(&format!("/jobs/{job}/coating")).into_response());
        }
        clock @ ("start" | "clear") => {
            let c = own.ok_or(Failure::NotFound)?;
            let first_coat = (clock == "start").then(|| now.timestamp_millis());
            let said =
                if clock == "start" { say!("First coat begun") } else { say!("Clock of the first coat cleared") };
            if !acted {
                let c = CoatingJob { first_coat, ..c.clone() };
                scope.keep_coating(&act(format!("{said}: {}", c.name)), &c, false).await?;
            }
            c.id
        }
        _ => {
            let c = own.ok_or(Failure::NotFound)?;
            let read = match read(c, &file, &typed, &who.show(), now) {
                Ok(read) => read,
                Err(wrong) => {
                    drop(scope);
                    let page = page_of(&who, &file, &all, (Some(c), Some(typed)), &Forecast::default(), wrong);
                    return Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response());
                }
            };
            if !acted {
                scope.keep_coating(&act(say!("Changed the coating {read}", read = read.name)), &read, false).await?;
            }
            c.id
        }
    };
    scope.commit().await?;
    Ok(Redirect::to(&address(job, kept)).into_response())
}
