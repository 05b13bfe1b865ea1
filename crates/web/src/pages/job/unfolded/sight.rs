//! An unfolded space as it is looked at.

use super::form::{LayoutForm, Wrong};
use super::map::{MapView, map_view};
use super::{Laid, TABLES, address, laid};
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Path, Query};
use crate::places::UNFOLDED;
use crate::stations::step_mark;
use crate::view::last_change::{LastChange, last_change};
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::response::IntoResponse;
use building::unfold::{Facet, FalseWet, Fixture, FixtureKind, MOST_STOPS, MapScale, RouteKind, Thing};
use building::{Material, Space, Structure};
use casework::mapped::{MOST_MAPS, maps_of, things};
use casework::{CaseFile, InView};
use drawing::DropMark;
use drawing::Px;
use drawing::unfolded::{Flat, FlatSheet};
use language::{known, retold, say};
use notation::Show;
use serde::Deserialize;
use store::Depth;
use uuid::Uuid;
use wording::log;
use wording::map::name;

/// Width and height of the sheet at a desk, px.
const SHEET: [f64; 2] = [880.0, 640.0];

/// What is looked at.
#[derive(Deserialize, Default)]
pub struct View {
    pub space: Option<Uuid>,
    /// One of the walks of the map in view.
    pub map: Option<Uuid>,
}

/// A link among others.
pub struct Tab {
    pub href: String,
    pub name: String,
    pub here: bool,
}

/// Something placed on the sheet.
struct Token {
    id: Uuid,
    kind: Thing,
    at: [Px; 2],
    name: String,
    /// What stands beside it.
    label: String,
    href: String,
    mark: DropMark,
    /// A picture: where it is, its size, and how far it is turned.
    picture: Option<(String, [Px; 2], f64)>,
    /// Where its corner is from its middle.
    corner: [Px; 2],
}

/// A thing that is not on the sheet, or is.
struct ThingRow {
    id: Uuid,
    kind: Thing,
    name: String,
    placed: bool,
}

#[derive(Template, WebTemplate)]
#[template(path = "unfolded.html")]
pub struct UnfoldedPage {
    frame: Frame,
    job: JobFrame,
    space: Uuid,
    name: String,
    spaces: Vec<Tab>,
    maps: Vec<Tab>,
    sheet: FlatSheet,
    tokens: Vec<Token>,
    map: Option<MapView>,
    map_id: Option<Uuid>,
    measured: bool,
    area: String,
    things: Vec<ThingRow>,
    fixtures: Vec<(Uuid, String, String)>,
    routes: Vec<(String, String)>,
    full: bool,
    kinds: Vec<(String, String)>,
    facets: Vec<(String, String)>,
    roofs: [(&'static str, &'static str); 4],
    false_wets: &'static [FalseWet],
    form: LayoutForm,
    wrong: Vec<Wrong>,
    length_unit: &'static str,
    last: Option<LastChange>,
    act_id: Uuid,
    /// Pages to carry along for walking without a signal.
    pages: String,
}

impl UnfoldedPage {
    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }

    fn error(&self, field: &str) -> Option<&str> {
        self.wrong.iter().find(|(f, _)| *f == field).map(|(_, e)| e.as_str())
    }

    /// Whether what was typed into a form came back.
    fn is(&self, act: &str) -> bool {
        !self.wrong.is_empty() && self.form.act == act
    }

    /// What is wrong without a field of its own in sight.
    fn general(&self) -> Option<&str> {
        let own = ["of", "facet", "fixture"];
        self.wrong.iter().find(|(f, _)| own.contains(f)).map(|(_, e)| e.as_str())
    }
}

/// A space laid flat.
pub async fn page(who: Who, Path(job): Path<Uuid>, Query(view): Query<View>) -> Result<impl IntoResponse, Failure> {
    let file = who.file(job, InView::Latest, Depth::Argument).await?;
    shown(&who, &file, &view, None)
}

/// The page, a form as given.
pub fn shown(
    who: &Who,
    file: &CaseFile,
    view: &View,
    sent: Option<(LayoutForm, Vec<Wrong>)>,
) -> Result<UnfoldedPage, Failure> {
    let (job, structure, show) = (file.job.id, file.job.structure, who.show());
    let here = laid(file, view.space)?;
    let space = here.space.id;
    let flat = Flat::new(&here.layout, SHEET);
    let maps = maps_of(file, space);
    let asked = maps.iter().find(|(_, ways)| ways.iter().any(|w| Some(w.id) == view.map));
    // Pins confirm a map of their own: they stand on it too.
    let chosen = asked.or_else(|| maps.iter().find(|(one, _)| one.scale == MapScale::Pinless)).or(maps.first());
    let map_id = chosen.and_then(|(_, ways)| ways.first()).map(|w| w.id);
    let map = chosen.map(|(one, ways)| map_view(&who.show(), file, &here, &flat, (one, ways)));
    let tabs = maps.iter().filter_map(|(one, ways)| {
        let first = ways.first()?;
        Some(Tab {
            href: address(job, space, Some(first.id)),
            name: name(&show, file, one, first.started_at),
            here: map_id == Some(first.id),
        })
    });
    let all = things(file, space);
    let placed = |id: Uuid| file.placings.iter().any(|p| p.id == id && p.space_id == space);
    let (form, wrong) = sent.unwrap_or_default();
    let form = form.with_dimensions(&here.layout, who.units());
    let routes = here.layout.routes(structure);
    let pages = routes.iter().map(|r| super::walk::address(job, space, &r.id, super::walk::usual_spacing(r.kind)));
    let walks: Vec<String> = pages.chain([address(job, space, None)]).collect();
    Ok(UnfoldedPage {
        space,
        name: here.space.name.clone(),
        spaces: spaces(file, space),
        full: maps.iter().map(|m| m.1.len()).sum::<usize>() >= MOST_MAPS,
        maps: tabs.collect(),
        sheet: flat.drawn(&here.layout, structure, who.units()),
        tokens: tokens(who, file, &here, &flat, &all),
        map,
        map_id,
        measured: here.measured,
        area: show.area(here.layout.area_m2()),
        things: all
            .into_iter()
            .map(|(kind, id, name)| ThingRow { id, kind, name: retold(&name), placed: placed(id) })
            .collect(),
        fixtures: fixtures(&show, &here, structure),
        routes: routes.into_iter().map(|r| (r.id, retold(&r.name))).collect(),
        kinds: FixtureKind::ALL.iter().map(|k| (k.id().to_owned(), known(k.words()).to_owned())).collect(),
        facets: facets(&here, structure),
        roofs: ROOFS.map(|(id, words)| (id, known(words))),
        false_wets: FalseWet::ALL,
        form,
        wrong,
        length_unit: notation::unit::LENGTH.unit(who.units()).name(),
        last: last_change(who, file, TABLES),
        act_id: Uuid::now_v7(),
        pages: walks.join(" "),
        frame: Frame::of(who, file),
        job: JobFrame::new(file, UNFOLDED),
    })
}

/// Ceilings to choose from.
const ROOFS: [(&str, &str); 4] = [
    ("flat", "flat ceiling"),
    ("gable", "gable, ridge north–south"),
    ("shed", "one slope, higher in the east"),
    ("round", "round, under a cone"),
];

fn spaces(file: &CaseFile, here: Uuid) -> Vec<Tab> {
    let tab = |s: &Space| Tab { href: address(file.job.id, s.id, None), name: s.name.clone(), here: s.id == here };
    file.building.spaces.iter().map(tab).collect()
}

/// What is built in: its id, its name, and where with its size.
fn fixtures(show: &Show, here: &Laid, structure: Structure) -> Vec<(Uuid, String, String)> {
    let one = |f: &Fixture| {
        let size = format!("{} × {}", show.place(f.width_m), show.place(f.height_m));
        (f.id, f.name.clone(), format!("{}, {size}", known(f.at.facet.called(structure))))
    };
    here.layout.fixtures.iter().map(one).collect()
}

fn facets(here: &Laid, structure: Structure) -> Vec<(String, String)> {
    here.layout
        .sheet()
        .panels
        .iter()
        .map(|p| (p.facet.id().to_owned(), known(p.facet.called(structure)).to_owned()))
        .collect()
}

/// What is placed in a space.
fn tokens(who: &Who, file: &CaseFile, here: &Laid, flat: &Flat, all: &[(Thing, Uuid, String)]) -> Vec<Token> {
    let (job, show) = (file.job.id, who.show());
    let token = |p: &store::Placing| {
        let (_, _, name) = all.iter().find(|(_, id, _)| *id == p.id)?;
        let [x, y] = flat.place(&p.at)?;
        let station = file.building.station(p.id);
        let read =
            station.and_then(|s| file.visit_rows().filter(|r| r.station_id == s.id && !r.kind.is_aside()).last());
        let label = match p.what {
            Thing::Station => read.map_or_else(|| name.clone(), |r| format!("{name} {}", log::value(&show, r))),
            Thing::Photo => String::new(),
            _ => name.clone(),
        };
        let href = match p.what {
            Thing::Station => format!("/jobs/{job}/round?at={}", p.id),
            Thing::Finding => format!("/jobs/{job}/findings?at={}", p.id),
            Thing::Test => format!("/jobs/{job}/tests#run-{}", p.id),
            Thing::Photo => format!("/jobs/{job}/photos/{}", p.id),
            Thing::Logger => format!("/jobs/{job}/log?space={}", here.space.id),
            Thing::Thermal => format!("/jobs/{job}/thermal/{}", p.id),
        };
        let thermal = file.thermals.iter().find(|t| t.id == p.id);
        let picture = match p.what {
            Thing::Photo => Some((format!("/jobs/{job}/photos/{}/thumb", p.id), [Px(46.0), Px(34.0)], 0.0)),
            Thing::Thermal => thermal.map(|t| {
                let width = flat.length(t.width_m.unwrap_or(0.8)).clamp(40.0, 260.0);
                let height = width * f64::from(t.rows) / f64::from(t.columns.max(1));
                (format!("/jobs/{job}/thermal/{}/picture.png", p.id), [Px(width), Px(height)], Flat::turn(p.at.facet))
            }),
            _ => None,
        };
        let mark = station.map_or(DropMark::NONE, |s| step_mark(file, s.place));
        let corner = picture.as_ref().map_or([Px(0.0); 2], |(_, [w, h], _)| [Px(-w.0 / 2.0), Px(-h.0 / 2.0)]);
        Some(Token {
            id: p.id,
            kind: p.what,
            at: [Px(x), Px(y)],
            name: name.clone(),
            label,
            href,
            mark,
            picture,
            corner,
        })
    };
    let mut all: Vec<Token> = file.placings.iter().filter(|p| p.space_id == here.space.id).filter_map(token).collect();
    // Large pictures lie under small marks.
    all.sort_by_key(|t| t.kind != Thing::Thermal);
    all
}

/// Kinds of figures and of materials to choose from.
pub fn scales() -> Vec<(String, String)> {
    MapScale::ALL.iter().map(|s| (s.id().to_owned(), known(s.words()).to_owned())).collect()
}

/// Materials to choose from.
pub fn materials() -> Vec<(String, String)> {
    Material::ALL.iter().map(|m| (m.id().to_owned(), known(m.words()).to_owned())).collect()
}

/// Why a spacing is too fine for a way.
pub fn too_many(count: usize, kind: RouteKind) -> String {
    let what = match kind {
        RouteKind::Edge => say!("the edge"),
        RouteKind::Grid => say!("the grid"),
    };
    say!(
        "At this spacing {what} has {count} places, {most_stops} at most: choose a wider one.",
        what,
        count,
        most_stops = MOST_STOPS
    )
}

/// The faces a way goes over.
pub fn faces(stops: &[building::unfold::Stop]) -> Vec<Facet> {
    let mut all: Vec<Facet> = Vec::new();
    for stop in stops {
        if !all.contains(&stop.facet) {
            all.push(stop.facet);
        }
    }
    all
}
