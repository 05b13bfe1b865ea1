//! Changing dimensions, what is built in, where things are, and what is known of a map.

use super::form::{LayoutForm, STANDARD_AT, Wrong, standard, words};
use super::sight::{View, shown};
use super::{address, laid};
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path};
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::Edit;
use building::unfold::{FalseWet, Layout};
use casework::mapped::{as_kept, false_wets, things};
use casework::{CaseFile, InView};
use language::{known, say};
use serde::Deserialize;
use std::collections::BTreeMap;
use store::{Act, Depth, Placing, Scope};
use uuid::Uuid;

/// A job held for a change.
struct Held {
    scope: Scope,
    file: CaseFile,
}

async fn hold(who: &Who, job: Uuid) -> Result<Held, Failure> {
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    let file = CaseFile::load(&scope, job, InView::Latest, Depth::Argument).await?;
    Ok(Held { scope, file })
}

fn act_id(text: &str) -> Result<Uuid, Failure> {
    LayoutForm::uuid(text).ok_or_else(|| Failure::BadForm("id of a change".into()))
}

/// The page again with what was typed and what is wrong with it; nothing was stored.
fn again(who: &Who, file: &CaseFile, form: LayoutForm, wrong: Vec<Wrong>) -> Result<Response, Failure> {
    let view = View { space: LayoutForm::uuid(&form.space), map: LayoutForm::uuid(&form.map) };
    let page = shown(who, file, &view, Some((form, wrong)))?;
    Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response())
}

/// Keeps the dimensions of a space, or changes what is built in.
pub async fn measure(who: Who, Path(job): Path<Uuid>, Form(form): Form<LayoutForm>) -> Result<Response, Failure> {
    let id = act_id(&form.id)?;
    let Held { scope, file } = hold(&who, job).await?;
    let here = laid(&file, LayoutForm::uuid(&form.space))?;
    let onward = Redirect::to(&address(job, here.space.id, LayoutForm::uuid(&form.map)));
    if scope.acted(job, id).await? {
        return Ok(onward.into_response());
    }
    let name = &here.space.name;
    let changed = match form.act.as_str() {
        "dimensions" => form
            .shape(who.units())
            .map(|shape| (Layout { shape, ..here.layout.clone() }, say!("Measured {name}", name))),
        "remove" => {
            let mut next = here.layout.clone();
            let of = LayoutForm::uuid(&form.of);
            let Some(at) = next.fixtures.iter().position(|f| Some(f.id) == of) else {
                return Ok(onward.into_response());
            };
            let gone = next.fixtures.remove(at);
            Ok((next, say!("Removed {gone} from {name}", gone = gone.name, name)))
        }
        "move" => {
            let mut next = here.layout.clone();
            let of = LayoutForm::uuid(&form.of);
            match (form.at(&here.layout, who.units()), next.fixtures.iter_mut().find(|f| Some(f.id) == of)) {
                (_, None) => return Ok(onward.into_response()),
                (Err(wrong), _) => Err(wrong),
                (Ok(at), Some(fixture)) => {
                    fixture.at = at;
                    let what = say!("Moved {fixture} in {name}", fixture = fixture.name, name);
                    Ok((next, what))
                }
            }
        }
        _ => form.fixture(id, &here.layout, who.units()).map(|fixture| {
            let mut next = here.layout.clone();
            let what = say!("Added {fixture} to {name}", fixture = fixture.name, name);
            next.fixtures.push(fixture);
            (next, what)
        }),
    };
    let checked = changed.and_then(|(next, what)| next.check().map(|()| (next, what)));
    let (next, what) = match checked {
        Ok(checked) => checked,
        Err(wrong) => {
            drop(scope);
            return again(&who, &file, form.clone(), wrong);
        }
    };
    let mut space = here.space.clone();
    if form.act == "dimensions" {
        (space.area_m2, space.height_m) = (rounded(next.area_m2()), rounded(next.mean_height_m()));
    }
    let building = match file.building.edited(&Edit::ChangeSpace(space)) {
        Ok(building) => building,
        Err(e) => {
            drop(scope);
            return again(&who, &file, form.clone(), vec![("length", e.message)]);
        }
    };
    let act = Act::new(id, job, who.person.consultant_id, chrono::Utc::now(), what);
    scope.keep_layout(&act, &building, &next).await?;
    scope.commit().await?;
    Ok(onward.into_response())
}

fn rounded(x: f64) -> f64 {
    (x * 100.0).round() / 100.0
}

/// Puts something at its place, or takes it off the sheet.
pub async fn place(who: Who, Path(job): Path<Uuid>, Form(form): Form<LayoutForm>) -> Result<Response, Failure> {
    let id = act_id(&form.id)?;
    let Held { scope, file } = hold(&who, job).await?;
    let here = laid(&file, LayoutForm::uuid(&form.space))?;
    let onward = Redirect::to(&address(job, here.space.id, LayoutForm::uuid(&form.map)));
    if scope.acted(job, id).await? {
        return Ok(onward.into_response());
    }
    let of = LayoutForm::uuid(&form.of);
    let act = |what: String| Act::new(id, job, who.person.consultant_id, chrono::Utc::now(), what);
    if form.act == "off" {
        if let Some(there) = file.placings.iter().find(|p| Some(p.id) == of) {
            let gone = Placing { removed: true, ..there.clone() };
            scope
                .keep_placing(
                    &act(say!("Took a {there} off the unfolded space", there = known(there.what.words()))),
                    gone,
                )
                .await?;
            scope.commit().await?;
        }
        return Ok(onward.into_response());
    }
    let Some((what, of, name)) = things(&file, here.space.id).into_iter().find(|(_, id, _)| Some(*id) == of) else {
        drop(scope);
        let wrong = vec![("of", say!("Choose what to place; it may have been removed meanwhile.").to_owned())];
        return again(&who, &file, form, wrong);
    };
    let at = match form.at(&here.layout, who.units()) {
        Ok(at) => at,
        Err(wrong) => {
            drop(scope);
            return again(&who, &file, form.clone(), wrong);
        }
    };
    let placing = Placing { id: of, job_id: job, space_id: here.space.id, what, at, removed: false };
    scope.keep_placing(&act(say!("Placed {name}", name)), placing).await?;
    scope.commit().await?;
    Ok(onward.into_response())
}

/// The address of a space without a map in view.
fn without(job: Uuid, space: &str) -> String {
    LayoutForm::uuid(space).map_or_else(|| format!("/jobs/{job}/unfolded"), |space| address(job, space, None))
}

/// What is said of a map.
#[derive(Deserialize, Default)]
#[serde(default)]
pub struct MapForm {
    id: String,
    act: String,
    standard: String,
    standard_at: String,
    /// Number of a place, and why it only seems wet; nothing takes that back.
    n: String,
    why: String,
    /// The space in view: a map taken away leads back to it.
    space: String,
}

/// Changes what is known of a map: its dry standard, a false wet; or takes it away.
pub async fn change_map(
    who: Who,
    Path((job, map)): Path<(Uuid, Uuid)>,
    Form(form): Form<MapForm>,
) -> Result<Response, Failure> {
    let id = act_id(&form.id)?;
    let Held { scope, file } = hold(&who, job).await?;
    let done = scope.acted(job, id).await?;
    let Some(there) = file.maps.iter().find(|m| m.id == map).cloned() else {
        let gone = Redirect::to(&without(job, &form.space));
        return if done { Ok(gone.into_response()) } else { Err(Failure::NotFound) };
    };
    let space = there.space_id;
    if done {
        return Ok(Redirect::to(&address(job, space, Some(map))).into_response());
    }
    let act = |what: String| Act::new(id, job, who.person.consultant_id, chrono::Utc::now(), what);
    let (what, next) = match form.act.as_str() {
        "remove" => {
            (say!("Removed the walk {there}", there = there.name), store::MoistureMap { removed: true, ..there })
        }
        "false_wet" => {
            let Ok(n) = form.n.parse::<i32>() else { return Err(Failure::BadForm("number of a place".into())) };
            let mut wets: BTreeMap<i32, FalseWet> = false_wets(&there);
            let what = match FalseWet::from_id(&form.why) {
                Some(why) => {
                    wets.insert(n, why);
                    say!(
                        "Place {n} of {there} only seems wet: {why}",
                        n = n + 1,
                        there = there.name,
                        why = known(why.words())
                    )
                }
                None => {
                    wets.remove(&n);
                    say!("Place {n} of {there} counts again", n = n + 1, there = there.name)
                }
            };
            (what, store::MoistureMap { false_wets: as_kept(&wets), ..there })
        }
        _ => {
            let standard = match standard(&form.standard) {
                Ok(standard) => standard,
                Err(wrong) => {
                    drop(scope);
                    let form = LayoutForm {
                        space: space.to_string(),
                        map: map.to_string(),
                        name: form.standard,
                        act: "standard".into(),
                        ..LayoutForm::default()
                    };
                    return again(&who, &file, form, vec![wrong]);
                }
            };
            let standard_at = words(&form.standard_at, STANDARD_AT);
            (say!("Dry standard of {there}", there = there.name), store::MoistureMap { standard, standard_at, ..there })
        }
    };
    let onward = if next.removed { without(job, &form.space) } else { address(job, space, Some(map)) };
    scope.keep_map(&act(what), next).await?;
    scope.commit().await?;
    Ok(Redirect::to(&onward).into_response())
}
