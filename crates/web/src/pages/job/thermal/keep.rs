//! Taking a thermal picture in, and changing what is known of it.

use super::form::{ThermalForm, Wrong};
use super::sight::shown;
use super::{MOST, listed};
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path};
use crate::upload::Upload;
use axum::Extension;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::{Building, Edit, Material, Spot, Surface};
use casework::{CaseFile, InView};
use chrono::Utc;
use hygrothermal::surface::ThermalGrid;
use language::say;
use logger::{Scale, matrix};
use store::{Act, Depth, Thermal};
use uuid::Uuid;

/// The form of a picture as it was sent with its file.
fn sent_form(sent: &Upload) -> ThermalForm {
    let text = |name: &str| sent.text(name).to_owned();
    ThermalForm {
        id: text("id"),
        name: text("name"),
        place: text("place"),
        note: text("note"),
        width: text("width"),
        air_t: text("air_t"),
        air_rh: text("air_rh"),
        outdoor: text("outdoor"),
        emissivity: text("emissivity"),
        reflected: text("reflected"),
        set_emissivity: text("set_emissivity"),
        set_reflected: text("set_reflected"),
        cells: text("cells"),
        scale: text("scale"),
        settled: text("settled"),
        photo: text("photo"),
        ..ThermalForm::default()
    }
}

/// Takes a picture in: a file, or cells typed by hand.
pub async fn take(who: Who, Path(job): Path<Uuid>, sent: Option<Extension<Upload>>) -> Result<Response, Failure> {
    let Extension(sent) = sent.ok_or_else(|| Failure::BadForm("no picture".into()))?;
    let form = sent_form(&sent);
    let id = form.act_id().ok_or_else(|| Failure::BadForm("id of a picture".into()))?;
    let file = who.file(job, InView::Latest, Depth::Visit).await?;
    let there = format!("/jobs/{job}/thermal/{id}");
    if who.scope().await?.acted(job, id).await? {
        return Ok(Redirect::to(&there).into_response());
    }
    let again = |mut wrong: Vec<Wrong>, more: Option<Wrong>| {
        wrong.extend(more);
        (StatusCode::UNPROCESSABLE_ENTITY, listed(&who, &file, form.clone(), wrong)).into_response()
    };
    if file.thermals.len() >= MOST {
        let why = say!("This job has {most} thermal pictures, the most there can be: remove some first.", most = MOST);
        return Ok(again(Vec::new(), Some(("file", why))));
    }
    let scale = Scale::ALL.into_iter().find(|s| s.unit() == form.scale);
    let bytes = if sent.file.is_empty() { form.cells.clone().into_bytes() } else { sent.file.to_vec() };
    let field = if sent.file.is_empty() { "cells" } else { "file" };
    let read = tokio::task::spawn_blocking(move || matrix(bytes.as_slice(), scale))
        .await
        .map_err(|e| Failure::Defect(e.to_string()))?;
    let read = read.map_err(|e| e.to_string()).and_then(|m| {
        let grid = ThermalGrid::from_rows(&m.rows).map_err(|e| e.to_string())?;
        Ok((m.rows, grid))
    });
    let (rows, grid) = match read {
        Ok(read) => read,
        Err(why) => {
            let why = if sent.name.is_empty() { capital(&why) } else { format!("{}: {why}.", sent.name) };
            return Ok(again(Vec::new(), Some((field, why))));
        }
    };
    let picture =
        match form.read(new(id, job, who.person.consultant_id, &grid), &file.building, &photos(&file), who.units()) {
            Ok(picture) => picture,
            Err(wrong) => return Ok(again(wrong, None)),
        };
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    let what = say!("Brought in the thermal picture {picture}", picture = picture.name);
    let act = Act::new(id, job, who.person.consultant_id, Utc::now(), what);
    scope.add_thermal(&act, picture, &rows).await?;
    scope.commit().await?;
    Ok(Redirect::to(&there).into_response())
}

/// A picture nothing is said of yet.
fn new(id: Uuid, job_id: Uuid, consultant_id: Uuid, grid: &ThermalGrid) -> Thermal {
    let count = |n: usize| i32::try_from(n).unwrap_or(i32::MAX);
    Thermal {
        id,
        job_id,
        consultant_id,
        spot: Spot::Whole,
        name: String::new(),
        note: String::new(),
        taken_at: Utc::now(),
        width_m: None,
        air_t_c: None,
        air_rh_pct: None,
        outdoor_c: None,
        emissivity: 1.0,
        reflected_c: None,
        set_emissivity: 1.0,
        set_reflected_c: None,
        rows: count(grid.rows()),
        columns: count(grid.columns()),
        settled: String::new(),
        photo_id: None,
        removed: false,
    }
}

fn photos(file: &CaseFile) -> Vec<Uuid> {
    file.photos.iter().map(|p| p.id).collect()
}

fn capital(text: &str) -> String {
    let mut chars = text.chars();
    chars.next().map_or_else(String::new, |c| format!("{}{}.", c.to_uppercase(), chars.as_str()))
}

/// Changes what is known of a picture, makes a surface to read of a spot, or takes the picture away.
pub async fn keep(
    who: Who,
    Path((job, id)): Path<(Uuid, Uuid)>,
    Form(form): Form<ThermalForm>,
) -> Result<Response, Failure> {
    let act_id = form.act_id().ok_or_else(|| Failure::BadForm("id of a change".into()))?;
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    let file = CaseFile::load(&scope, job, InView::Latest, Depth::Visit).await?;
    let there = format!("/jobs/{job}/thermal/{id}");
    let done = scope.acted(job, act_id).await?;
    let Some(picture) = file.thermals.iter().find(|t| t.id == id).cloned() else {
        // Taken away by this very form, sent again.
        return if done {
            Ok(Redirect::to(&format!("/jobs/{job}/thermal")).into_response())
        } else {
            Err(Failure::NotFound)
        };
    };
    if done {
        return Ok(Redirect::to(&there).into_response());
    }
    let act = |what: String| Act::new(act_id, job, who.person.consultant_id, Utc::now(), what);
    match form.act.as_str() {
        "remove" => {
            let what = say!("Removed the thermal picture {picture}", picture = picture.name);
            scope.keep_thermal(&act(what), Thermal { removed: true, ..picture }).await?;
            scope.commit().await?;
            Ok(Redirect::to(&format!("/jobs/{job}/thermal")).into_response())
        }
        "station" => {
            let number = form.patch.parse::<usize>().unwrap_or(1);
            let made = station(&file.building, &picture, number);
            let (building, surface) = match made {
                Ok(made) => made,
                Err(why) => {
                    drop(scope);
                    let kept = ThermalForm::of(&picture, who.units());
                    return refused(&who, job, &picture, kept, vec![("station", why)]).await;
                }
            };
            scope
                .keep_building(&act(say!("Added the surface {surface} to be read", surface = surface.name)), &building)
                .await?;
            scope.commit().await?;
            Ok(Redirect::to(&format!("/jobs/{job}/building?at={}", surface.id)).into_response())
        }
        _ => match form.read(picture.clone(), &file.building, &photos(&file), who.units()) {
            Ok(changed) => {
                let what = say!("Changed the thermal picture {picture}", picture = picture.name);
                scope.keep_thermal(&act(what), changed).await?;
                scope.commit().await?;
                Ok(Redirect::to(&there).into_response())
            }
            Err(wrong) => {
                drop(scope);
                refused(&who, job, &picture, form, wrong).await
            }
        },
    }
}

/// The picture's page with its form as sent, and what is wrong with it.
async fn refused(
    who: &Who,
    job: Uuid,
    picture: &Thermal,
    form: ThermalForm,
    wrong: Vec<Wrong>,
) -> Result<Response, Failure> {
    let page = shown(who, job, picture, None, form, wrong).await?;
    Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response())
}

/// The building with a surface where a patch is coldest, so that a meter can confirm it.
fn station(building: &Building, picture: &Thermal, number: usize) -> Result<(Building, Surface), String> {
    let of_surface = |id| building.surface(id).map(|s| s.boundary_id);
    let boundary = match picture.spot {
        Spot::Boundary(id) => building.boundary(id),
        Spot::Surface(id) => of_surface(id).and_then(|id| building.boundary(id)),
        Spot::Whole | Spot::Space(_) => None,
    };
    let boundary = boundary.ok_or(say!("Say first which wall, ceiling or floor the picture shows."))?;
    let beside = building.surfaces.iter().find(|s| s.boundary_id == boundary.id);
    let name: String =
        say!("Cold spot {number}, {boundary}", number, boundary = boundary.name).chars().take(40).collect();
    let surface = Surface {
        id: Uuid::now_v7(),
        boundary_id: boundary.id,
        space_id: boundary.space_id,
        name,
        short: say!("cold {number}", number),
        material: beside.map_or(Material::Plasterboard, |s| s.material),
    };
    let edit = Edit::AddSurface(surface.clone(), Uuid::now_v7());
    building.edited(&edit).map(|b| (b, surface)).map_err(|e| e.message)
}
