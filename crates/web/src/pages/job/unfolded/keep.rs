//! Keeping a walk: its line of figures, as far as it went.

use super::form::{STANDARD_AT, Wrong, standard, words};
use super::laid;
use super::sight::{faces, too_many};
use super::walk::{WalkForm, address, built, find, spacing, walked};
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path};
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::Material;
use building::unfold::{FalseWet, MapScale, RouteKind, SPACING, Stop};
use casework::entry::moment;
use casework::mapped::{MOST_MAPS, MapFigure, as_kept, false_wets, figures};
use casework::{CaseFile, InView};
use chrono::{DateTime, Utc};
use hygrothermal::wood::species_by_id;
use judgment::map::{Showed, refusal};
use language::{known, say};
use std::collections::{BTreeMap, HashMap};
use store::{Act, Depth, MapReading, MoistureMap};
use uuid::Uuid;

/// Longest reason, characters.
const REASON: usize = 300;

/// What a walk is, read from its form.
struct Read {
    map: MoistureMap,
    figures: Vec<MapFigure>,
    stops: Vec<Stop>,
}

/// Why a walk is not taken.
enum NoWalk {
    /// What is wrong, field by field.
    Wrong(Vec<Wrong>),
    /// There is no such space or way.
    Failed(Failure),
}

impl From<Failure> for NoWalk {
    fn from(failure: Failure) -> Self {
        Self::Failed(failure)
    }
}

/// Reads a walk; what is wrong is named field by field.
fn read(file: &CaseFile, who: &Who, id: Uuid, form: &WalkForm) -> Result<Read, NoWalk> {
    let mut wrong = Vec::new();
    let space = form.space.parse().ok();
    let here = laid(file, space)?;
    let Some(every) = spacing(&form.every) else {
        return Err(NoWalk::Wrong(vec![(
            "every",
            say!("The spacing must be {a} to {a2} m.", a = SPACING[0], a2 = SPACING[1]),
        )]));
    };
    let (route, stops) = find(file, Some(here.space.id), &form.route, every)?;
    let stops = stops.map_err(|count| NoWalk::Wrong(vec![("every", too_many(count, route.kind))]))?;
    let instrument = form.instrument.parse().ok().and_then(|id| file.instrument(id));
    if instrument.is_none() {
        wrong.push(("instrument", say!("Choose the meter.").into()));
    }
    let (scale, material) = (MapScale::from_id(&form.scale), Material::from_id(&form.material));
    if scale.is_none() {
        wrong.push(("scale", say!("Choose what the figures are.").into()));
    }
    if material.is_none() {
        wrong.push(("material", say!("Choose the material.").into()));
    }
    let standard = standard(&form.standard).unwrap_or_else(|e| {
        wrong.push(e);
        None
    });
    let reason = words(&form.reason, REASON);
    if let (Some(scale), Some(material), true) = (scale, material, reason.is_empty()) {
        let built = built(file);
        if let Some(why) = faces(&stops).iter().find_map(|f| refusal(&built, *f, scale, material)) {
            wrong.push(("reason", say!("{why} To go on, say why.", why = known(why))));
        }
    }
    let typed = format!("{} {}", form.figures, form.figure);
    let figures = figures(&typed, stops.len()).unwrap_or_else(|e| {
        wrong
            .push(("figures", say!("Place {place}, “{typed}”: {why}.", place = e.place, typed = e.typed, why = e.why)));
        Vec::new()
    });
    let (Some(scale), Some(material), Some(instrument), true) = (scale, material, instrument, wrong.is_empty()) else {
        return Err(NoWalk::Wrong(wrong));
    };
    let wets: BTreeMap<i32, FalseWet> = (0..).zip(&figures).filter_map(|(n, f)| Some((n, f.false_wet?))).collect();
    let species =
        if scale == MapScale::Pins { species_by_id(&form.species).map_or("spruce", |s| s.id.as_str()) } else { "" };
    let map = MoistureMap {
        id,
        job_id: file.job.id,
        visit_id: file.open_visit().map(|v| v.id),
        space_id: here.space.id,
        consultant_id: who.person.consultant_id,
        instrument_id: instrument.id,
        name: route.name.clone(),
        route: route.id.clone(),
        is_grid: route.kind == RouteKind::Grid,
        scale,
        material,
        species: species.to_owned(),
        spacing_m: every,
        standard,
        standard_at: words(&form.standard_at, STANDARD_AT),
        reason,
        false_wets: as_kept(&wets),
        started_at: moment(&form.at, chrono::Utc::now()),
        removed: false,
    };
    Ok(Read { map, figures, stops })
}

/// A walk that goes on: its visit, moment and person are those of its first figure; a dry standard and false wets that a desk noted
/// meanwhile stand where this line of figures says nothing of them.
fn went_on(first: &MoistureMap, next: MoistureMap, figures: usize) -> MoistureMap {
    let mut wets = false_wets(&next);
    let beyond = |n: &i32| usize::try_from(*n).is_ok_and(|n| n >= figures);
    wets.extend(false_wets(first).into_iter().filter(|(n, _)| beyond(n)));
    let noted = next.standard.is_none();
    MoistureMap {
        visit_id: first.visit_id,
        consultant_id: first.consultant_id,
        started_at: first.started_at,
        standard: next.standard.or(first.standard),
        standard_at: if noted { first.standard_at.clone() } else { next.standard_at },
        false_wets: as_kept(&wets),
        ..next
    }
}

/// Figures that are new at their place, or differ from what stands there.
fn fresh(
    file: &CaseFile,
    map: &MoistureMap,
    figures: &[MapFigure],
    stops: &[Stop],
    now: DateTime<Utc>,
) -> Result<Vec<MapReading>, Failure> {
    let sheet = laid(file, Some(map.space_id))?.layout.sheet();
    let there: HashMap<i32, &str> =
        file.map_readings.iter().filter(|r| r.map_id == map.id).map(|r| (r.n, r.as_typed.as_str())).collect();
    let one = |(n, (f, stop)): (i32, (&MapFigure, &Stop))| {
        if there.get(&n) == Some(&f.typed.as_str()) {
            return None;
        }
        Some(MapReading {
            id: Uuid::now_v7(),
            job_id: map.job_id,
            map_id: map.id,
            n,
            at: sheet.panel(stop.facet)?.at(stop.point),
            value: match f.showed {
                Showed::Figure(x) => Some(x),
                Showed::Over | Showed::Unread => None,
            },
            over: f.showed == Showed::Over,
            as_typed: f.typed.clone(),
            taken_at: now,
        })
    };
    Ok((0..).zip(figures.iter().zip(stops)).filter_map(one).collect())
}

/// Keeps a walk as far as it went. Sent again, with more figures or the same, it is the same walk: what differs at a place is
/// added, and the latest stands.
pub async fn keep_walk(who: Who, Path(job): Path<Uuid>, Form(form): Form<WalkForm>) -> Result<Response, Failure> {
    let id: Uuid = form.id.parse().map_err(|_| Failure::BadForm("id of a walk".into()))?;
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    let file = CaseFile::load(&scope, job, InView::Open, Depth::Argument).await?;
    let begun = file.maps.iter().find(|m| m.id == id).cloned();
    let full = |space| file.maps.iter().filter(|m| m.space_id == space).count() >= MOST_MAPS;
    let read = read(&file, &who, id, &form).and_then(|read| {
        if begun.is_none() && full(read.map.space_id) {
            let why = say!(
                "This space has {most_maps} walks, the most there can be: remove some first.",
                most_maps = MOST_MAPS
            );
            return Err(NoWalk::Wrong(vec![("every", why)]));
        }
        Ok(read)
    });
    let read = match read {
        Ok(read) => read,
        Err(NoWalk::Failed(failure)) => return Err(failure),
        Err(NoWalk::Wrong(wrong)) => {
            drop(scope);
            return Ok((StatusCode::UNPROCESSABLE_ENTITY, walked(&who, &file, form, wrong)?).into_response());
        }
    };
    let map = match &begun {
        Some(first) => went_on(first, read.map, read.figures.len()),
        None => read.map,
    };
    let now = chrono::Utc::now();
    let fresh = fresh(&file, &map, &read.figures, &read.stops, now)?;
    let onward = format!("{address}&map={id}", address = address(job, map.space_id, &map.route, map.spacing_m));
    if begun.as_ref() != Some(&map) {
        let act_id = if begun.is_none() { id } else { Uuid::now_v7() };
        let what = if begun.is_none() {
            say!("Walked {map}", map = map.name)
        } else {
            say!("Went on with {map}", map = map.name)
        };
        scope.keep_map(&Act::new(act_id, job, who.person.consultant_id, now, what), map).await?;
    }
    scope.add_map_readings(fresh).await?;
    scope.commit().await?;
    Ok(Redirect::to(&onward).into_response())
}
