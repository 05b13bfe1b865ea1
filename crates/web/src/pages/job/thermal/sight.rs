//! A thermal picture as it is looked at.

use super::form::{ThermalForm, Wrong};
use super::{Choices, TABLES, error};
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Path, Query};
use crate::places::PHOTOS;
use crate::view::last_change::{LastChange, last_change};
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::{IntoResponse, Response};
use building::Spot;
use casework::{CaseFile, InView};
use drawing::thermal::{ThermalLegend, ThermalScale, ThermalSheet, colors, legend, sheet};
use hygrothermal::air::{MoistAir, Over};
use hygrothermal::quantity::{Emissivity, Pressure, RelativeHumidity, Temperature};
use hygrothermal::surface::{Apparent, GridReading, Patch, Room, Scene, Settings, ThermalGrid};
use judgment::thermal::{ALIKE_WITHIN, Lookalike, lookalikes, shape, watts};
use language::{known, say};
use notation::Show;
use notation::number::fixed;
use notation::unit::AREA;
use serde::Deserialize;
use std::sync::Arc;
use store::{Depth, Photo, Scope, Thermal};
use uuid::Uuid;
use wording::picture::Shown;
use wording::thermal::{head, warning};

/// Width of a picture alone, of one of a pair, and of one beside its photo.
const WIDTHS: [f64; 3] = [780.0, 400.0, 520.0];
/// Patches told of.
const TOLD: usize = 9;

/// What stands beside it.
#[derive(Deserialize, Default)]
pub struct View {
    /// Another picture, on one scale; none where empty.
    with: Option<String>,
}

impl View {
    fn with(&self) -> Option<Uuid> {
        self.with.as_deref().and_then(|w| w.parse().ok())
    }
}

/// A picture with the air it was taken in.
struct Taken {
    record: Thermal,
    grid: ThermalGrid,
    room: Option<Room>,
    said: Option<GridReading>,
    /// Where its air comes from.
    air_from: String,
}

/// A patch told of.
struct PatchRow {
    number: usize,
    size: String,
    coldest: String,
    mean: String,
    watts: String,
    likely: Vec<String>,
    out: Vec<String>,
}

/// A picture drawn.
struct Drawn {
    name: String,
    source: String,
    sheet: Option<ThermalSheet>,
    height: f64,
    width: f64,
}

#[derive(Template, WebTemplate)]
#[template(path = "thermal/one.html")]
pub struct ThermalPage {
    frame: Frame,
    job: JobFrame,
    id: Uuid,
    name: String,
    place: String,
    when: String,
    head: String,
    warnings: Vec<String>,
    air: String,
    drawn: Vec<Drawn>,
    /// What to mind of the pair.
    pair: Option<String>,
    legend: Option<ThermalLegend>,
    figures: Vec<(&'static str, String)>,
    patches: Vec<PatchRow>,
    more: usize,
    lookalikes: &'static [Lookalike],
    /// What it turned out to be, in words.
    settled: Option<String>,
    photo: Option<Shown>,
    photos: Vec<(String, String)>,
    others: Vec<(String, String, bool)>,
    choices: Choices,
    form: ThermalForm,
    wrong: Vec<Wrong>,
    last: Option<LastChange>,
    act_id: Uuid,
}

impl ThermalPage {
    fn error(&self, field: &str) -> Option<&str> {
        error(&self.wrong, field)
    }

    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }
}

/// The air a picture was taken in: typed, else read on the visit in the space it shows.
fn room(file: &CaseFile, t: &Thermal) -> (Option<Room>, String) {
    let design = Temperature::new(file.job.design_outdoor_c).ok();
    let read_outdoors = file.picture.outdoor.as_ref().map(|o| o.value.t);
    let outdoor = t.outdoor_c.and_then(|c| Temperature::new(c).ok()).or(read_outdoors);
    if let (Some(c), Some(rh)) = (t.air_t_c, t.air_rh_pct) {
        let made = Temperature::new(c).ok().zip(RelativeHumidity::new(rh).ok());
        let air = made.and_then(|(c, rh)| MoistAir::from_rh(c, rh, Over::Water, Pressure::STANDARD).ok());
        return (air.map(|air| Room { air, outdoor, design }), say!("as typed").into());
    }
    let space = t.spot.space_in(&file.building);
    let read = space.and_then(|id| file.picture.space(id)).and_then(|s| s.air.as_ref());
    let name = space.and_then(|id| file.building.space(id)).map_or("", |s| s.name.as_str());
    (read.map(|a| Room { air: a.air, outdoor, design }), say!("of {name}, as read on the visit", name))
}

/// The surface behind a picture; an air that says nothing leaves it as taken.
fn corrected(grid: ThermalGrid, t: &Thermal, room: Option<&Room>) -> ThermalGrid {
    let reflected = t.reflected_c.and_then(|c| Temperature::new(c).ok()).or(room.map(|r| r.air.temperature()));
    let Some(reflected) = reflected else { return grid };
    let set = t.set_reflected_c.and_then(|c| Temperature::new(c).ok()).unwrap_or(reflected);
    let (Ok(own), Ok(as_set)) = (Emissivity::new(t.emissivity), Emissivity::new(t.set_emissivity)) else { return grid };
    let settings = Settings {
        scene: Scene { emissivity: own, reflected },
        set: Apparent { shown: reflected, set_emissivity: as_set, set_reflected: set },
    };
    grid.corrected(&settings).unwrap_or(grid)
}

async fn load(who: &Who, file: &CaseFile, id: Uuid) -> Result<Taken, Failure> {
    let record = file.thermals.iter().find(|t| t.id == id).cloned().ok_or(Failure::NotFound)?;
    let cells = who.scope().await?.thermal_cells(&record).await?.ok_or(Failure::NotFound)?;
    taken(file, record, cells).await
}

async fn taken(file: &CaseFile, record: Thermal, cells: Vec<Vec<Option<f64>>>) -> Result<Taken, Failure> {
    let (room, air_from) = room(file, &record);
    let made = tokio::task::spawn_blocking(move || {
        let grid = ThermalGrid::from_rows(&cells).map_err(|e| e.to_string())?;
        let grid = corrected(grid, &record, room.as_ref());
        let said = room.map(|r| grid.read(&r));
        Ok::<_, String>(Taken { record, grid, room, said, air_from })
    });
    made.await.map_err(|e| Failure::Defect(e.to_string()))?.map_err(Failure::Defect)
}

/// A picture as a report tells of it.
pub struct Reported {
    pub name: String,
    pub place: String,
    pub when: String,
    pub note: String,
    pub source: String,
    pub sheet: Option<ThermalSheet>,
    pub width: f64,
    pub height: f64,
    pub head: String,
    /// What patches may be, in a line each.
    pub patches: Vec<String>,
}

/// Pictures for a report, read together.
pub async fn reported(
    show: &Show,
    file: &CaseFile,
    cells: Vec<(Thermal, Vec<Vec<Option<f64>>>)>,
    width: f64,
) -> Result<Vec<Reported>, Failure> {
    let rooms: Vec<(Option<Room>, String)> = cells.iter().map(|(t, _)| room(file, t)).collect();
    let read = tokio::task::spawn_blocking(move || {
        let all = cells.into_iter().zip(rooms);
        let one = all.filter_map(|((record, cells), (room, air_from))| {
            let grid = corrected(ThermalGrid::from_rows(&cells).ok()?, &record, room.as_ref());
            let said = room.map(|r| grid.read(&r));
            Some(Taken { record, grid, room, said, air_from })
        });
        one.collect::<Vec<Taken>>()
    });
    let job = file.job.id;
    let told = |t: &Taken| {
        let rows = patches(show, file, t);
        let line = |p: &PatchRow| {
            let shape =
                if p.likely.is_empty() { say!("shape says little").to_owned() } else { p.likely.join(say!(" or ")) };
            let lost = if p.watts.is_empty() { String::new() } else { say!(", {watts} lost", watts = p.watts) };
            say!(
                "{number}: {size}, coldest {coldest}{lost}; by its shape {shape}",
                number = p.number,
                size = p.size,
                coldest = p.coldest,
                lost,
                shape
            )
        };
        Reported {
            name: t.record.name.clone(),
            place: t.record.spot.name(&file.building).to_owned(),
            when: show.moment(t.record.taken_at),
            note: t.record.note.clone(),
            source: format!("/jobs/{job}/thermal/{}/picture.png", t.record.id),
            sheet: t.said.as_ref().map(|said| sheet(&t.grid, said, width)),
            width,
            height: width * t.grid.rows() as f64 / t.grid.columns() as f64,
            head: t.said.as_ref().zip(t.room.as_ref()).map_or_else(String::new, |(s, r)| head(show, s, r)),
            patches: rows.iter().take(3).map(line).collect(),
        }
    };
    Ok(read.await.map_err(|e| Failure::Defect(e.to_string()))?.iter().map(told).collect())
}

/// The scale a picture is drawn on, with another where one stands beside it: the same whichever of them is asked for, with the
/// lines of the earlier one.
fn scale(one: &Taken, other: Option<&Taken>) -> Option<ThermalScale> {
    let both = || [Some(one), other].into_iter().flatten();
    let said = both().min_by_key(|t| t.record.id).and_then(|t| t.said.as_ref());
    said.map(|said| ThermalScale::of(both().filter_map(|t| t.grid.span()), said))
}

/// A picture.
pub async fn page(
    who: Who,
    Path((job, id)): Path<(Uuid, Uuid)>,
    Query(view): Query<View>,
) -> Result<impl IntoResponse, Failure> {
    let file = who.file(job, InView::Latest, Depth::Visit).await?;
    let picture = file.thermals.iter().find(|t| t.id == id).cloned().ok_or(Failure::NotFound)?;
    let form = ThermalForm::of(&picture, who.units());
    shown(&who, job, &picture, view.with(), form, Vec::new()).await
}

/// A picture's page, its form as given.
pub async fn shown(
    who: &Who,
    job: Uuid,
    picture: &Thermal,
    with: Option<Uuid>,
    form: ThermalForm,
    wrong: Vec<Wrong>,
) -> Result<ThermalPage, Failure> {
    let file: Arc<CaseFile> = who.file(job, InView::Latest, Depth::Visit).await?;
    let show = who.show();
    let one = load(who, &file, picture.id).await?;
    let other = match with.filter(|w| *w != picture.id && file.thermals.iter().any(|t| t.id == *w)) {
        Some(id) => Some(load(who, &file, id).await?),
        None => None,
    };
    let scale = scale(&one, other.as_ref());
    let (head, warnings) = match (&one.said, &one.room) {
        (Some(said), Some(room)) => {
            (head(&show, said, room), said.warnings.iter().map(|w| warning(&show, *w)).collect())
        }
        _ => (
            say!("The air it was taken in is not known: type it, or read it on a visit in the space it shows.").into(),
            Vec::new(),
        ),
    };
    let width = match (&other, picture.photo_id) {
        (Some(_), _) => WIDTHS[1],
        (None, Some(_)) => WIDTHS[2],
        (None, None) => WIDTHS[0],
    };
    let drawn = [Some(&one), other.as_ref()].into_iter().flatten().map(|t| drawn(job, t, &one, other.as_ref(), width));
    let photo = picture.photo_id.and_then(|id| file.photos.iter().find(|p| p.id == id));
    let told = one.said.as_ref().map_or(0, |s| s.patches.len());
    let others = file.thermals.iter().filter(|t| t.id != picture.id);
    Ok(ThermalPage {
        id: picture.id,
        name: picture.name.clone(),
        place: picture.spot.name(&file.building).to_owned(),
        when: show.moment(picture.taken_at),
        head,
        warnings,
        air: air(&show, &one),
        pair: other.as_ref().and_then(|o| pair(&show, &one, o)),
        legend: scale.map(|s| legend(&s, WIDTHS[0], &show)),
        figures: figures(&show, &one),
        patches: patches(&show, &file, &one),
        more: told.saturating_sub(TOLD),
        lookalikes: lookalikes(),
        settled: lookalikes().iter().find(|l| l.id == picture.settled).map(|l| known(&l.name).to_lowercase()),
        photo: photo.map(|p| wording::picture::shown(&show, &file.building, &file.findings, p)),
        photos: file.photos.iter().map(|p| photo_choice(&show, &file, p)).collect(),
        others: others.map(|t| (t.id.to_string(), t.name.clone(), with == Some(t.id))).collect(),
        choices: wording::places::choices(&file.building),
        drawn: drawn.collect(),
        form,
        wrong,
        last: last_change(who, &file, TABLES),
        act_id: Uuid::now_v7(),
        frame: Frame::of(who, &file),
        job: JobFrame::new(&file, PHOTOS),
    })
}

/// A photo to stand beside the picture, in words.
fn photo_choice(show: &Show, file: &CaseFile, photo: &Photo) -> (String, String) {
    let words = if photo.note.is_empty() { photo.name.as_str() } else { photo.note.as_str() };
    let place = photo.spot.name(&file.building);
    let words: String = words.chars().take(40).collect();
    (photo.id.to_string(), format!("{place}, {}: {words}", show.day(photo.taken_at)))
}

fn drawn(job: Uuid, taken: &Taken, one: &Taken, other: Option<&Taken>, width: f64) -> Drawn {
    let id = taken.record.id;
    let beside = if id == one.record.id { other } else { Some(one) };
    let with = beside.map_or_else(String::new, |b| format!("?with={record}", record = b.record.id));
    Drawn {
        name: taken.record.name.clone(),
        source: format!("/jobs/{job}/thermal/{id}/picture.png{with}"),
        sheet: taken.said.as_ref().map(|said| sheet(&taken.grid, said, width)),
        height: width * taken.grid.rows() as f64 / taken.grid.columns() as f64,
        width,
    }
}

fn air(show: &Show, t: &Taken) -> String {
    let Some(room) = &t.room else { return String::new() };
    let own = format!("{}, {}", show.temperature(room.air.temperature().get()), show.percent(room.air.rh(Over::Water)));
    let outdoor = room.outdoor.map_or_else(String::new, |o| say!("; outdoors {get}", get = show.temperature(o.get())));
    say!("Air {own} {air_from}{outdoor}.", own, air_from = t.air_from, outdoor)
}

/// What to mind where two pictures stand side by side.
fn pair(show: &Show, one: &Taken, other: &Taken) -> Option<String> {
    let difference = |t: &Taken| {
        let room = t.room.as_ref()?;
        Some(room.air.temperature().get() - room.outdoor?.get())
    };
    let (a, b) = (difference(one)?, difference(other)?);
    ((a - b).abs() > ALIKE_WITHIN).then(|| {
        say!("Inside and outdoors differed by {difference} in one and {difference2} in the other: the pair says little. Take the second at a like difference.", difference = show.difference(a), difference2 = show.difference(b))
    })
}

fn figures(show: &Show, t: &Taken) -> Vec<(&'static str, String)> {
    let Some(said) = &t.said else { return Vec::new() };
    let temperature = |c: Option<f64>| c.map(|c| show.temperature(c));
    let known = [
        (say!("Coldest"), temperature(said.coldest.map(|s| s.celsius))),
        (say!("Mean"), temperature(said.mean)),
        (say!("Warmest"), temperature(said.warmest.map(|s| s.celsius))),
        (say!("Dew point of the air"), temperature(said.dew.map(Temperature::get))),
        (say!("80 % line"), temperature(said.mold.map(Temperature::get))),
        (say!("Temperature factor, least"), said.factor.map(|f| fixed(f.0.value, 2))),
        (say!("Coldest spot on the coldest night"), temperature(said.design)),
    ];
    known.into_iter().filter_map(|(name, value)| Some((name, value?))).collect()
}

fn patches(show: &Show, file: &CaseFile, t: &Taken) -> Vec<PatchRow> {
    let (Some(said), Some(room)) = (&t.said, &t.room) else { return Vec::new() };
    let whole = t.record.width_m.map(|w| w * w * t.grid.rows() as f64 / t.grid.columns() as f64);
    let face = match t.record.spot {
        Spot::Boundary(id) => file.building.boundary(id).map(|b| b.face),
        Spot::Surface(id) => {
            file.building.surface(id).and_then(|s| file.building.boundary(s.boundary_id)).map(|b| b.face)
        }
        Spot::Whole | Spot::Space(_) => None,
    };
    let r_si = face.map_or(0.13, |f| f.heat_flow().inside_film().get());
    let in_patches: usize = said.patches.iter().map(|p| p.cells).sum();
    let sum: f64 = said.patches.iter().map(|p| p.mean * p.cells as f64).sum();
    let rest = said.read - in_patches;
    let surround = said.mean.filter(|_| rest > 0).map(|mean| (mean * said.read as f64 - sum) / rest as f64);
    let name = |id: &&str| lookalikes().iter().find(|l| l.id == **id).map(|l| known(&l.name).to_lowercase());
    let row = |(i, p): (usize, &Patch)| {
        let share = p.cells as f64 / said.read as f64;
        let area = whole.map(|w| w * p.cells as f64 / (t.grid.rows() * t.grid.columns()) as f64);
        let lost = area.zip(surround).map(|(a, s)| format!("{} W", fixed(watts(s, p, a, r_si), 0)));
        let (likely, out) = shape(&t.grid, p, room);
        PatchRow {
            number: i + 1,
            size: area.map_or_else(|| format!("{} %", fixed(100.0 * share, 1)), |a| AREA.text(a, show.units)),
            coldest: show.temperature(p.coldest.celsius),
            mean: show.temperature(p.mean),
            watts: lost.unwrap_or_default(),
            likely: likely.iter().filter_map(name).collect(),
            out: out.iter().filter_map(name).collect(),
        }
    };
    said.patches.iter().take(TOLD).enumerate().map(row).collect()
}

/// The cells of a picture in colors.
pub async fn picture(
    who: Who,
    Path((job, id)): Path<(Uuid, Uuid)>,
    Query(view): Query<View>,
    headers: HeaderMap,
) -> Result<Response, Failure> {
    let file = who.file(job, InView::Latest, Depth::Visit).await?;
    let one = load(&who, &file, id).await?;
    let other = match view.with().filter(|w| *w != id) {
        Some(with) => Some(load(&who, &file, with).await?),
        None => None,
    };
    let plain = || one.grid.span().map(|(low, high)| ThermalScale { low, high, lines: [None, None] });
    let scale = scale(&one, other.as_ref()).or_else(plain).ok_or(Failure::NotFound)?;
    let tag = format!("\"{id} {scale:?} {} {}\"", one.record.emissivity, one.record.set_emissivity);
    let fixed = [(header::ETAG, tag.clone()), (header::CACHE_CONTROL, "private, no-cache".to_owned())];
    if headers.get(header::IF_NONE_MATCH).is_some_and(|t| t.as_bytes() == tag.as_bytes()) {
        return Ok((StatusCode::NOT_MODIFIED, fixed).into_response());
    }
    Ok((fixed, [(header::CONTENT_TYPE, "image/png")], png(one, scale).await?).into_response())
}

/// A thermal picture on a scale of its own, as a file.
pub async fn alone(scope: &Scope, file: &CaseFile, id: Uuid) -> Result<Vec<u8>, Failure> {
    let record = file.thermals.iter().find(|t| t.id == id).cloned().ok_or(Failure::NotFound)?;
    let cells = scope.thermal_cells(&record).await?.ok_or(Failure::NotFound)?;
    let one = taken(file, record, cells).await?;
    let plain = || one.grid.span().map(|(low, high)| ThermalScale { low, high, lines: [None, None] });
    let scale = scale(&one, None).or_else(plain).ok_or(Failure::NotFound)?;
    png(one, scale).await
}

async fn png(one: Taken, scale: ThermalScale) -> Result<Vec<u8>, Failure> {
    let made = tokio::task::spawn_blocking(move || {
        let size = [one.grid.columns(), one.grid.rows()].map(|n| u32::try_from(n).unwrap_or(u32::MAX));
        photograph::png(size[0], size[1], colors(&one.grid, &scale))
    });
    let png = made.await.map_err(|e| Failure::Defect(e.to_string()))?;
    png.ok_or_else(|| Failure::Defect("a thermal picture without a picture".into()))
}
