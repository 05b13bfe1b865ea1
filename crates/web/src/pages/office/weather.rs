//! Weather files of a practice's own, for the months of build-ups and the hours of a budget.

use crate::auth::Who;
use crate::error::Failure;
use crate::upload::Upload;
use crate::view::Frame;
use askama::Template;
use askama_web::WebTemplate;
use axum::Extension;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use casework::read_weather;
use chrono::Utc;
use language::{carried, say};
use store::PracticeAct;
use uuid::Uuid;

/// Longest name, characters.
const LONGEST: usize = 60;
/// Most weather files of a practice.
const MOST: usize = 50;

struct Row {
    id: Uuid,
    name: String,
    station: String,
    figures: String,
}

#[derive(Template, WebTemplate)]
#[template(path = "weather.html")]
pub struct WeatherPage {
    frame: Frame,
    rows: Vec<Row>,
    called: String,
    /// Where to go once it is there.
    back: String,
    /// What is wrong with the name and with the file.
    wrong: [Option<String>; 2],
    act_id: Uuid,
}

impl WeatherPage {
    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }
}

async fn shown(who: &Who, name: &str, back: &str, wrong: [Option<String>; 2]) -> Result<WeatherPage, Failure> {
    let show = who.show();
    let row = |w: &building::Weather| {
        let [celsius, _] = w.months();
        let (low, high) =
            (celsius.iter().copied().fold(f64::MAX, f64::min), celsius.iter().copied().fold(f64::MIN, f64::max));
        let figures = say!("months from {low} to {high}", low = show.temperature(low), high = show.temperature(high));
        Row { id: w.id, name: w.name.clone(), station: w.station.clone(), figures }
    };
    Ok(WeatherPage {
        frame: Frame::new(who),
        rows: who.scope().await?.weathers().await?.iter().map(row).collect(),
        called: name.into(),
        back: back.into(),
        wrong,
        act_id: Uuid::now_v7(),
    })
}

#[derive(serde::Deserialize)]
pub struct View {
    /// The page it was asked from.
    #[serde(default)]
    back: String,
}

/// Only a page of a job is gone back to.
fn own_page(back: &str) -> &str {
    let plain =
        back.starts_with("/jobs/") && back.len() < 200 && back.bytes().all(|b| b.is_ascii_graphic() && b != b'\\');
    if plain { back } else { "" }
}

/// The practice's weather files.
pub async fn page(
    who: Who,
    crate::extract::Query(view): crate::extract::Query<View>,
) -> Result<impl IntoResponse, Failure> {
    shown(&who, "", own_page(&view.back), [None, None]).await
}

/// Takes one in, or takes one away.
pub async fn keep(who: Who, sent: Option<Extension<Upload>>) -> Result<Response, Failure> {
    let Extension(sent) = sent.ok_or_else(|| Failure::BadForm("no weather file".into()))?;
    let id: Uuid = sent.text("id").parse().map_err(|_| Failure::BadForm("id".into()))?;
    let act = PracticeAct { id, by: who.person.consultant_id, at: Utc::now() };
    let (name, back) = (sent.text("name").trim().to_owned(), own_page(sent.text("back")).to_owned());
    let scope = who.scope().await?;
    if sent.text("act") == "remove" {
        let gone = sent.text("weather").parse().map_err(|_| Failure::BadForm("weather".into()))?;
        scope.remove_weather(act, gone).await?;
        scope.commit().await?;
        return Ok(Redirect::to("/weather").into_response());
    }
    let there = scope.weathers().await?;
    let onward = || match back.as_str() {
        "" => Redirect::to("/weather").into_response(),
        page => {
            let joint = if page.contains('?') { '&' } else { '?' };
            Redirect::to(&format!("{page}{joint}from={id}")).into_response()
        }
    };
    if there.iter().any(|w| w.id == id) {
        return Ok(onward());
    }
    drop(scope);
    // Without a name it has its own place's.
    let named = if name.is_empty() { None } else { super::one_line(&name, LONGEST, "").err() };
    let filed = match () {
        () if sent.file.is_empty() => Some(say!("Choose an EPW file.").to_owned()),
        () if there.len() >= MOST => {
            Some(say!("A practice has {most} weather files at most: remove one first.", most = MOST))
        }
        () => None,
    };
    if named.is_some() || filed.is_some() {
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, shown(&who, &name, &back, [named, filed]).await?).into_response());
    }
    let (bytes, own) = (sent.file.clone(), name.clone());
    let read = tokio::task::spawn_blocking(carried(move || read_weather(&bytes, id, &own)));
    match read.await.map_err(|e| Failure::Defect(e.to_string()))? {
        Ok(weather) => {
            let scope = who.scope().await?;
            scope.keep_weather(act, &weather).await?;
            scope.commit().await?;
            Ok(onward())
        }
        Err(why) => {
            let said = Some(format!("{}: {why}.", sent.name));
            Ok((StatusCode::UNPROCESSABLE_ENTITY, shown(&who, &name, &back, [None, said]).await?).into_response())
        }
    }
}
