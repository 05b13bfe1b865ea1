//! Editing the building: spaces, boundaries, surfaces and the order in which they are walked.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path, Query};
use crate::filters;
use crate::places::SECTION;
use crate::view::at::At;
use crate::view::last_change::{LastChange, last_change};
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::{
    Boundary, Building, Edit, EditError, Face, Level, Material, Place, Side, Space, SpaceKind, Surface, buildups,
};
use casework::{CaseFile, InView};
use drawing::section::Chosen;
use drawing::section::{Drawing, draw};
use language::{known, say};
use notation::Show;
use notation::Units;
use notation::unit::{self, Kind};
use serde::Deserialize;
use std::collections::HashMap;
use std::fmt::Display;
use store::{Act, Depth};
use uuid::Uuid;
use wording::part::part;

/// Tables a building is kept in.
const TABLES: &[&str] = &["space", "boundary", "surface", "station"];

#[derive(Template, WebTemplate)]
#[template(path = "building.html")]
struct BuildingPage {
    frame: Frame,
    job: JobFrame,
    drawing: Option<Drawing>,
    base: String,
    pick: Pick,
    form: Fields,
    errors: Vec<EditError>,
    building: Building,
    stations: Vec<StationRow>,
    last: Option<LastChange>,
    act_id: Uuid,
    units: [&'static str; 3],
}

/// What is being edited: something that is there, or (`None`) something new.
enum Pick {
    Nothing,
    Space(Option<Uuid>),
    Boundary(Option<Uuid>),
    Surface(Option<Uuid>),
}

struct StationRow {
    id: Uuid,
    name: String,
    space: String,
}

/// A choice of a list: value, words.
type Choice = (String, String);

impl BuildingPage {
    fn value(&self, field: &str) -> &str {
        self.form.text(field)
    }

    fn error(&self, field: &str) -> Option<&str> {
        self.errors.iter().find(|e| e.field == field).map(|e| e.message.as_str())
    }

    /// A label with the unit its figure is read in: of area, length or volume.
    fn in_units(&self, what: impl Display, i: usize) -> String {
        format!("{what}, {}", self.units[i])
    }

    fn kinds(&self) -> Vec<Choice> {
        SpaceKind::ALL.iter().map(|k| (k.id().into(), known(k.words()).into())).collect()
    }

    fn levels(&self) -> Vec<Choice> {
        Level::ALL.iter().map(|k| (k.id().into(), known(k.words()).into())).collect()
    }

    fn faces(&self) -> Vec<Choice> {
        Face::ALL.iter().map(|k| (k.id().into(), known(k.words()).into())).collect()
    }

    fn materials(&self) -> Vec<Choice> {
        Material::ALL.iter().map(|k| (k.id().into(), known(k.words()).into())).collect()
    }

    fn spaces(&self) -> Vec<Choice> {
        self.building.spaces.iter().map(|s| (s.id.to_string(), s.name.clone())).collect()
    }

    fn beyond(&self) -> Vec<Choice> {
        let open =
            [("outdoors", "outdoors"), ("ground", say!("the ground"))].map(|(id, name)| (id.into(), name.into()));
        open.into_iter().chain(self.spaces()).collect()
    }

    /// Boundaries a surface can be on, each with its spaces.
    fn boundaries(&self) -> Vec<Choice> {
        let name = |b: &Boundary| {
            let space = self.building.space(b.space_id).map_or("", |s| &s.name);
            format!("{} ({space})", b.name)
        };
        self.building.boundaries.iter().map(|b| (b.id.to_string(), name(b))).collect()
    }

    /// Build-ups by group.
    fn buildups(&self) -> Vec<(&'static str, Vec<Choice>)> {
        let groups = [
            ("wall", say!("Walls")),
            ("roof", say!("Roofs and ceilings")),
            ("floor", say!("Floors")),
            ("vehicle", say!("Panels, hulls, felt")),
        ];
        let of = |id| {
            buildups()
                .iter()
                .filter(move |b| b.group == id)
                .map(|b| (b.id.clone(), known(&b.name).to_owned()))
                .collect()
        };
        groups.into_iter().map(|(id, name)| (name, of(id))).collect()
    }

    fn boundaries_of(&self, space: &Uuid) -> Vec<(Uuid, String)> {
        self.building.boundaries_of(*space).map(|b| (b.id, b.name.clone())).collect()
    }

    fn surfaces_on(&self, boundary: &Uuid) -> Vec<(Uuid, String)> {
        let on = self.building.surfaces.iter().filter(|s| s.boundary_id == *boundary);
        on.map(|s| (s.id, s.name.clone())).collect()
    }
}

#[derive(Deserialize)]
pub struct View {
    at: Option<At>,
    /// `space`, `boundary` or `surface` for a new one.
    new: Option<String>,
    /// The space or boundary a new one begins on.
    on: Option<Uuid>,
}

/// The form as typed: field to text.
#[derive(Default, Clone)]
struct Fields(HashMap<String, String>);

impl Fields {
    fn text(&self, field: &str) -> &str {
        self.0.get(field).map_or("", |t| t.trim())
    }

    fn set(&mut self, field: &str, text: impl Into<String>) {
        self.0.insert(field.into(), text.into());
    }

    fn id(&self, field: &str) -> Option<Uuid> {
        self.text(field).parse().ok()
    }

    fn of_space(space: &Space, units: Units) -> Self {
        let mut out = Self::default();
        out.set("name", &space.name);
        out.set("kind", space.kind.id());
        out.set("level", space.level.id());
        out.set("area", unit::AREA.typed(space.area_m2, units));
        out.set("height", unit::LENGTH.typed(space.height_m, units));
        out.set("volume", unit::VOLUME.typed((space.volume_m3() * 100.0).round() / 100.0, units));
        out
    }

    fn of_boundary(b: &Boundary) -> Self {
        let mut out = Self::default();
        out.set("name", &b.name);
        out.set("space", b.space_id.to_string());
        out.set(
            "beyond",
            match b.beyond {
                Side::Outdoors => "outdoors".to_owned(),
                Side::Ground => "ground".to_owned(),
                Side::Space(id) => id.to_string(),
            },
        );
        out.set("face", b.face.id());
        if b.bare_soil {
            out.set("bare", "1");
        }
        out.set("buildup", b.buildup.clone().unwrap_or_default());
        out
    }

    fn of_surface(s: &Surface) -> Self {
        let mut out = Self::default();
        out.set("name", &s.name);
        out.set("short", &s.short);
        out.set("material", s.material.id());
        out.set("boundary", s.boundary_id.to_string());
        out.set("space", s.space_id.to_string());
        out
    }

    /// The space the form describes. A volume that does not follow from area and height sets the height: a mean one.
    fn space(&self, id: Uuid, units: Units, before: Option<&Space>) -> Result<Space, Vec<EditError>> {
        let mut errors = Vec::new();
        let mut figure = |field, kind: &Kind| match kind.parse(self.text(field), units) {
            Ok(x) => x,
            Err(message) => {
                errors.push(EditError { field, message });
                f64::NAN
            }
        };
        let area_m2 = figure("area", &unit::AREA);
        let same = |field: &str, was: f64, kind: &Kind| self.text(field) == kind.typed(was, units);
        let volume = self.text("volume");
        let untouched = before.is_some_and(|b| {
            volume == unit::VOLUME.typed((b.volume_m3() * 100.0).round() / 100.0, units)
                || !same("height", b.height_m, &unit::LENGTH)
        });
        let height_m = if volume.is_empty() || untouched {
            figure("height", &unit::LENGTH)
        } else {
            figure("volume", &unit::VOLUME) / area_m2
        };
        let kind = SpaceKind::from_id(self.text("kind"));
        let level = Level::from_id(self.text("level"));
        match (kind, level) {
            (Some(kind), Some(level)) if errors.is_empty() => {
                let column = before.map_or(0, |b| b.column);
                Ok(Space { id, name: self.text("name").into(), kind, level, column, area_m2, height_m })
            }
            (kind, level) => {
                if kind.is_none() {
                    errors.push(EditError { field: "kind", message: say!("Choose what it is.").into() });
                }
                if level.is_none() {
                    errors.push(EditError { field: "level", message: say!("Choose its level.").into() });
                }
                Err(errors)
            }
        }
    }

    fn boundary(&self, id: Uuid) -> Result<Boundary, Vec<EditError>> {
        let beyond = match self.text("beyond") {
            "outdoors" => Some(Side::Outdoors),
            "ground" => Some(Side::Ground),
            other => other.parse().ok().map(Side::Space),
        };
        let one = |field, message: &str| vec![EditError { field, message: message.into() }];
        let buildup = Some(self.text("buildup")).filter(|b| buildups().iter().any(|x| x.id == *b));
        Ok(Boundary {
            id,
            name: self.text("name").into(),
            space_id: self.id("space").ok_or_else(|| one("space", say!("Choose its space.")))?,
            beyond: beyond.ok_or_else(|| one("beyond", say!("Choose what lies beyond.")))?,
            face: Face::from_id(self.text("face")).ok_or_else(|| one("face", say!("Choose the side.")))?,
            bare_soil: !self.text("bare").is_empty(),
            buildup: buildup.map(str::to_owned),
        })
    }

    fn surface(&self, id: Uuid, building: &Building) -> Result<Surface, Vec<EditError>> {
        let one = |field, message: &str| vec![EditError { field, message: message.into() }];
        let boundary = self.id("boundary").and_then(|b| building.boundary(b));
        let boundary = boundary.ok_or_else(|| one("boundary", say!("Choose the boundary it is on.")))?;
        let name = self.text("name");
        // The drawing has room for a few letters: by default the first word that says something.
        let short: String = match self.text("short") {
            "" => name.split([' ', ',']).next().unwrap_or("").to_lowercase().chars().take(10).collect(),
            short => short.into(),
        };
        Ok(Surface {
            id,
            boundary_id: boundary.id,
            space_id: self.id("space").unwrap_or(boundary.space_id),
            name: name.into(),
            short,
            material: Material::from_id(self.text("material"))
                .ok_or_else(|| one("material", say!("Choose a material.")))?,
        })
    }
}

fn pick(building: &Building, view: &View, units: Units) -> Option<(Pick, Fields)> {
    if let Some(id) = view.at.and_then(At::part) {
        let space = building.space(id).map(|s| (Pick::Space(Some(id)), Fields::of_space(s, units)));
        let boundary = || building.boundary(id).map(|b| (Pick::Boundary(Some(id)), Fields::of_boundary(b)));
        let surface = || building.surface(id).map(|s| (Pick::Surface(Some(id)), Fields::of_surface(s)));
        return space.or_else(boundary).or_else(surface);
    }
    let mut form = Fields::default();
    Some(match view.new.as_deref() {
        Some("space") => (Pick::Space(None), form),
        Some("boundary") => {
            form.set("space", view.on.map(|id| id.to_string()).unwrap_or_default());
            (Pick::Boundary(None), form)
        }
        Some("surface") => {
            let boundary = view.on.and_then(|id| building.boundary(id));
            form.set("boundary", boundary.map(|b| b.id.to_string()).unwrap_or_default());
            form.set("space", boundary.map(|b| b.space_id.to_string()).unwrap_or_default());
            (Pick::Surface(None), form)
        }
        _ => (Pick::Nothing, form),
    })
}

/// The building with what is picked beside it.
pub async fn page(who: Who, Path(job): Path<Uuid>, Query(view): Query<View>) -> Result<Response, Failure> {
    let page = who.file(job, InView::Latest, Depth::Visit).await?;
    // What was removed meanwhile is not an error: the whole building is shown instead.
    let (pick, form) = pick(&page.building, &view, who.units()).unwrap_or((Pick::Nothing, Fields::default()));
    Ok(show(&who, &page, pick, form, Vec::new()).into_response())
}

fn show(who: &Who, page: &CaseFile, pick: Pick, form: Fields, errors: Vec<EditError>) -> BuildingPage {
    let show: Show = who.show();
    let chosen = match &pick {
        Pick::Space(id) | Pick::Boundary(id) | Pick::Surface(id) => *id,
        Pick::Nothing => None,
    };
    let empty = judgment::picture::picture(&page.building, &[]);
    let row = |s: &building::Station| StationRow {
        id: s.id,
        name: page.building.place_name(s.place).to_owned(),
        space: match s.place {
            Place::Surface(_) => page.building.space_of(s.place).map_or_else(String::new, |x| x.name.clone()),
            Place::Space(_) => say!("air").into(),
            Place::Outdoors => say!("first").into(),
        },
    };
    let drawing = part(|| {
        let mut drawing = draw(&show, &page.building, page.job.structure.shell(), &empty, chosen.map(Chosen::Part));
        for space in &page.building.spaces {
            drawing.measure(space.id, &format!("{} × {}", show.area(space.area_m2), show.length(space.height_m)));
        }
        drawing
    });
    let units = [&unit::AREA, &unit::LENGTH, &unit::VOLUME].map(|k| k.unit(who.units()).name());
    BuildingPage {
        frame: Frame::new(who),
        job: JobFrame::new(page, SECTION),
        drawing,
        base: format!("/jobs/{}/building?", page.job.id),
        pick,
        form,
        errors,
        stations: page.building.stations.iter().map(row).collect(),
        last: last_change(who, page, TABLES),
        act_id: Uuid::now_v7(),
        units,
        building: page.building.clone(),
    }
}

/// What a posted form asks for, in words too, and where to go on.
struct Wish {
    edit: Edit,
    what: String,
    next: Option<Uuid>,
}

building::kinds! {
    /// What is done to a building.
    BuildingAct {
        /// A new space.
        AddSpace = "add-space", "space";
        /// A space changes.
        Space = "space", "space";
        /// A space moves to the left.
        Left = "left", "space";
        /// A space moves to the right.
        Right = "right", "space";
        /// A space goes.
        RemoveSpace = "remove-space", "space";
        /// A new boundary.
        AddBoundary = "add-boundary", "boundary";
        /// A boundary changes.
        Boundary = "boundary", "boundary";
        /// A boundary goes.
        RemoveBoundary = "remove-boundary", "boundary";
        /// A new surface.
        AddSurface = "add-surface", "surface";
        /// A surface changes.
        Surface = "surface", "surface";
        /// A surface goes.
        RemoveSurface = "remove-surface", "surface";
        /// The stations are walked in another order.
        Order = "order", "order";
    }
}

fn wish(building: &Building, act: BuildingAct, form: &Fields, units: Units) -> Result<Wish, Vec<EditError>> {
    let gone = || vec![EditError { field: "", message: say!("It is no longer there: someone removed it.").into() }];
    let (id, new) = (form.id("at"), Uuid::now_v7());
    let name = form.text("name");
    let space = || id.and_then(|id| building.space(id)).ok_or_else(gone);
    let boundary = || id.and_then(|id| building.boundary(id)).ok_or_else(gone);
    let surface = || id.and_then(|id| building.surface(id)).ok_or_else(gone);
    let wish = |edit, what: String, next| Ok(Wish { edit, what, next });
    match act {
        BuildingAct::AddSpace => {
            let space = form.space(new, units, None)?;
            wish(Edit::AddSpace(space, Uuid::now_v7()), say!("Added the space {name}", name), Some(new))
        }
        BuildingAct::Space => {
            let before = space()?;
            let edit = Edit::ChangeSpace(form.space(before.id, units, Some(before))?);
            wish(edit, say!("Changed the space {before}", before = before.name), id)
        }
        BuildingAct::Left | BuildingAct::Right => {
            let s = space()?;
            let by = if act == BuildingAct::Left { -1 } else { 1 };
            wish(Edit::ShiftSpace(s.id, by), say!("Moved {name} {act}", name = s.name, act = act.id()), id)
        }
        BuildingAct::RemoveSpace => {
            let s = space()?;
            wish(Edit::RemoveSpace(s.id), say!("Removed the space {name}", name = s.name), None)
        }
        BuildingAct::AddBoundary => {
            let b = form.boundary(new)?;
            wish(Edit::AddBoundary(b), say!("Added the boundary {name}", name), Some(new))
        }
        BuildingAct::Boundary => {
            let before = boundary()?;
            wish(
                Edit::ChangeBoundary(form.boundary(before.id)?),
                say!("Changed the boundary {before}", before = before.name),
                id,
            )
        }
        BuildingAct::RemoveBoundary => {
            let b = boundary()?;
            wish(Edit::RemoveBoundary(b.id), say!("Removed the boundary {name}", name = b.name), Some(b.space_id))
        }
        BuildingAct::AddSurface => {
            let s = form.surface(new, building)?;
            wish(Edit::AddSurface(s, Uuid::now_v7()), say!("Added the surface {name}", name), Some(new))
        }
        BuildingAct::Surface => {
            let before = surface()?;
            let edit = Edit::ChangeSurface(form.surface(before.id, building)?);
            wish(edit, say!("Changed the surface {before}", before = before.name), id)
        }
        BuildingAct::RemoveSurface => {
            let s = surface()?;
            wish(Edit::RemoveSurface(s.id), say!("Removed the surface {name}", name = s.name), Some(s.boundary_id))
        }
        BuildingAct::Order => {
            let order = form.text("order").split(',').filter_map(|id| id.parse().ok()).collect();
            wish(Edit::Order(order), say!("Changed the walking order").into(), None)
        }
    }
}

/// Makes an edit; a refused one comes back as typed.
pub async fn change(
    who: Who,
    Path(job): Path<Uuid>,
    Form(fields): Form<HashMap<String, String>>,
) -> Result<Response, Failure> {
    let form = Fields(fields);
    let act_id = form.id("id").ok_or_else(|| Failure::BadForm("id of a change".into()))?;
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    let page = CaseFile::load(&scope, job, InView::Latest, Depth::Visit).await?;
    let act = BuildingAct::from_id(form.text("act")).ok_or_else(|| Failure::BadForm("act".into()))?;
    let wished = wish(&page.building, act, &form, who.units());
    // The same form sent twice changes the building once; whatever was chosen then may be gone since.
    if scope.acted(job, act_id).await? {
        return Ok(onward(job, wished.ok().and_then(|w| w.next)));
    }
    let done = wished.and_then(|w| page.building.edited(&w.edit).map(|b| (b, w)).map_err(|e| vec![e]));
    match done {
        Ok((building, w)) => {
            let act = Act::new(act_id, job, who.person.consultant_id, chrono::Utc::now(), w.what);
            scope.keep_building(&act, &building).await?;
            scope.commit().await?;
            Ok(onward(job, w.next))
        }
        Err(errors) => {
            let there = form.id("at");
            let pick = match known(act.words()) {
                "space" => Pick::Space(there),
                "boundary" => Pick::Boundary(there),
                "surface" => Pick::Surface(there),
                _ => Pick::Nothing,
            };
            let again = show(&who, &page, pick, form, errors);
            Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response())
        }
    }
}

/// To the building, and the place in view after a change.
fn onward(job: Uuid, next: Option<Uuid>) -> Response {
    let at = next.map(|id| format!("?at={id}")).unwrap_or_default();
    Redirect::to(&format!("/jobs/{job}/building{at}")).into_response()
}
