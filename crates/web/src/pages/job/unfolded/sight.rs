//! An unfolded space as it is looked at.

use super::form::{LayoutForm, Wrong};
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
use building::unfold::{At, Facet, FalseWet, FixtureKind, MOST_STOPS, MapScale, RouteKind, Thing};
use building::{Material, Structure};
use casework::mapped::{MOST_MAPS, Mapped, OneMap, SecondBy, mapped, maps_of, things};
use casework::{CaseFile, InView};
use chrono::{DateTime, Utc};
use drawing::DropMark;
use drawing::Px;
use drawing::unfolded::{Dot, Flat, FlatSheet};
use judgment::limits::Limited;
use judgment::map::{Damp, Profile, Showed};
use serde::Deserialize;
use store::Depth;
use uuid::Uuid;
use wording::log;
use wording::map::{behind, confirmed, extent, figure, head, name, whereabouts};

/// Width and height of the sheet at a desk, px.
const SHEET: [f64; 2] = [880.0, 640.0];
/// Patches told of, and readings listed.
const TOLD: usize = 5;

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

/// A place of the map in view.
pub struct DotView {
    pub dot: Dot,
    pub title: String,
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

/// A wet patch in words.
pub struct PatchRow {
    pub place: String,
    pub extent: String,
    pub highest: String,
    pub confirmed: String,
    pub behind: Vec<String>,
    /// Where its number stands on the sheet.
    pub at: Option<[Px; 2]>,
}

/// A wall by height: its name, what it says, and its bars from the top down.
pub struct ProfileView {
    pub wall: &'static str,
    pub says: &'static str,
    pub bars: Vec<(String, Px, String)>,
}

/// A place in the table behind the map.
pub struct PlaceRow {
    pub map: Uuid,
    pub n: i32,
    pub place: String,
    pub figure: String,
    pub word: &'static str,
    pub false_wet: Option<FalseWet>,
    pub high: bool,
}

/// A walk of the map in view.
pub struct WayRow {
    pub id: Uuid,
    pub name: String,
    pub href: String,
    pub reason: String,
}

/// The map in view.
pub struct MapView {
    pub name: String,
    pub head: String,
    pub figures: Vec<(String, String)>,
    pub patches: Vec<PatchRow>,
    pub profiles: Vec<ProfileView>,
    pub dots: Vec<DotView>,
    /// What second methods said: where, whether wet, and in words.
    pub seconds: Vec<([Px; 2], bool, String)>,
    pub rows: Vec<PlaceRow>,
    pub ways: Vec<WayRow>,
    /// The walk whose standard counts.
    pub own: Uuid,
    pub standard: String,
    pub standard_at: String,
    pub pinless: bool,
}

impl MapView {
    fn any_high(&self) -> bool {
        self.rows.iter().any(|r| r.high)
    }
}

/// A map as a report shows it.
pub struct Mapsheet {
    pub space: String,
    pub sheet: FlatSheet,
    pub map: MapView,
}

/// Width and height of a map in a report, px.
const IN_REPORT: [f64; 2] = [760.0, 480.0];

/// The latest map of each space that was walked by a moment, for a report.
pub fn mapsheets(who: &Who, file: &CaseFile, until: Option<DateTime<Utc>>) -> Vec<Mapsheet> {
    let by_then = |m: &&store::MoistureMap| until.is_none_or(|u| m.started_at <= u);
    let one = |space: &building::Space| {
        let mut maps = maps_of(file, space.id);
        maps.iter_mut().for_each(|(_, ways)| ways.retain(|w| by_then(w)));
        maps.retain(|(_, ways)| !ways.is_empty());
        let at = maps.iter().position(|(one, _)| one.scale == MapScale::Pinless).unwrap_or(0);
        let (one, ways) = maps.get(at)?;
        let here = laid(file, Some(space.id)).ok()?;
        let flat = Flat::new(&here.layout, IN_REPORT);
        let said = mapped(file, &here.layout, one);
        Some(Mapsheet {
            space: space.name.clone(),
            sheet: flat.drawn(&here.layout, file.job.structure, who.units()),
            map: map_view(who, file, &here, &flat, (one, ways), &said),
        })
    };
    file.building.spaces.iter().filter_map(one).collect()
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
    let map = chosen.map(|(one, ways)| {
        let said = mapped(file, &here.layout, one);
        map_view(who, file, &here, &flat, (one, ways), &said)
    });
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
    let dimensions = LayoutForm::of(&here.layout, who.units());
    // Dimensions stand in their form, whatever other form came back.
    let form = if form.act == "dimensions" {
        form
    } else {
        LayoutForm {
            roof: dimensions.roof,
            length: dimensions.length,
            width: dimensions.width,
            height: dimensions.height,
            ridge: dimensions.ridge,
            ..form
        }
    };
    let routes = here.layout.routes(structure);
    let pages = routes.iter().map(|r| super::walk::address(job, space, &r.id, super::walk::usual_spacing(r.kind)));
    let walks: Vec<String> = pages.chain([address(job, space, None)]).collect();
    Ok(UnfoldedPage {
        space,
        name: here.space.name.clone(),
        spaces: file
            .building
            .spaces
            .iter()
            .map(|s| Tab { href: address(job, s.id, None), name: s.name.clone(), here: s.id == space })
            .collect(),
        full: maps.iter().map(|m| m.1.len()).sum::<usize>() >= MOST_MAPS,
        maps: tabs.collect(),
        sheet: flat.drawn(&here.layout, structure, who.units()),
        tokens: tokens(who, file, &here, &flat, &all),
        map,
        map_id,
        measured: here.measured,
        area: show.area(here.layout.area_m2()),
        things: all.into_iter().map(|(kind, id, name)| ThingRow { id, kind, name, placed: placed(id) }).collect(),
        fixtures: here
            .layout
            .fixtures
            .iter()
            .map(|f| {
                let size = format!("{} × {}", show.place(f.width_m), show.place(f.height_m));
                (f.id, f.name.clone(), format!("{}, {size}", f.at.facet.called(structure)))
            })
            .collect(),
        routes: routes.into_iter().map(|r| (r.id, r.name)).collect(),
        kinds: FixtureKind::ALL.iter().map(|k| (k.id().to_owned(), k.words().to_owned())).collect(),
        facets: facets(&here, structure),
        roofs: [
            ("flat", "flat ceiling"),
            ("gable", "gable, ridge north–south"),
            ("shed", "one slope, higher in the east"),
            ("round", "round, under a cone"),
        ],
        false_wets: FalseWet::ALL,
        form,
        wrong,
        length_unit: notation::unit::LENGTH.unit(who.units()).name,
        last: last_change(who, file, TABLES),
        act_id: Uuid::now_v7(),
        pages: walks.join(" "),
        frame: Frame::of(who, file),
        job: JobFrame::new(file, UNFOLDED),
    })
}

fn facets(here: &Laid, structure: Structure) -> Vec<(String, String)> {
    here.layout.sheet().panels.iter().map(|p| (p.facet.id().to_owned(), p.facet.called(structure).to_owned())).collect()
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

fn map_view(
    who: &Who,
    file: &CaseFile,
    here: &Laid,
    flat: &Flat,
    (one, ways): (&OneMap, &[&store::MoistureMap]),
    m: &Mapped,
) -> MapView {
    let (show, structure) = (who.show(), file.job.structure);
    let sheet = here.layout.sheet();
    let place = |i: usize| whereabouts(&show, &sheet, structure, &m.places[i].1.at);
    let word = |d: Damp| match d {
        Damp::Dry => "dry",
        Damp::Raised => "raised",
        Damp::High => "high",
        Damp::LeftOut => "false wet, left out",
        Damp::Unread => "not read",
        Damp::Untold => "no standard",
    };
    let mut dots = Vec::new();
    let mut rows = Vec::new();
    for (i, (map, r)) in m.places.iter().enumerate() {
        let (point, damp) = (&m.points[i], m.said.damp[i]);
        let row = PlaceRow {
            map: *map,
            n: r.n,
            place: place(i),
            figure: figure(point.showed, one.scale),
            word: word(damp),
            false_wet: point.false_wet,
            high: damp == Damp::High || damp == Damp::LeftOut,
        };
        if let Some(dot) = flat.dot(i, &r.at, damp, point.spacing) {
            let title = format!("{}: {}, {}", row.place, row.figure, row.word);
            dots.push(DotView { dot, title });
        }
        rows.push(row);
    }
    // The wettest are drawn last, over their neighbors.
    dots.sort_by_key(|d| d.dot.look == "high");
    let patch = |p: &judgment::map::WetPatch| {
        let at = &m.places[p.worst].1.at;
        PatchRow {
            place: place(p.worst),
            extent: extent(&show, p),
            highest: match m.points[p.worst].showed {
                Showed::Figure(_) => format!("up to {}", figure(m.points[p.worst].showed, one.scale)),
                other => figure(other, one.scale),
            },
            confirmed: confirmed(one, p),
            behind: behind(&show, &file.building, &here.layout, structure, at),
            at: flat.place(at).map(|[x, y]| [Px(x), Px(y)]),
        }
    };
    let latest = ways.iter().filter(|w| w.standard.is_some()).max_by_key(|w| w.started_at);
    let way = |w: &&store::MoistureMap| {
        let instrument = file.instrument(w.instrument_id).map_or("", |i| i.name.as_str());
        WayRow {
            id: w.id,
            name: format!("{}, every {}, {instrument}", w.name, show.place(w.spacing_m)),
            href: super::walk::resumed(file.job.id, w),
            reason: w.reason.clone(),
        }
    };
    MapView {
        name: ways.first().map_or_else(String::new, |w| name(&show, file, one, w.started_at)),
        head: head(&show, one, m),
        figures: figures(file, one, m),
        patches: m.said.patches.iter().take(TOLD).map(patch).collect(),
        profiles: m.said.profiles.iter().map(|p| profile(&show, structure, p)).collect(),
        seconds: seconds(file, flat, m),
        dots,
        rows,
        ways: ways.iter().map(way).collect(),
        own: latest.or(ways.first()).map_or(Uuid::nil(), |w| w.id),
        standard: m.standard.as_ref().map_or_else(String::new, |(x, _)| x.to_string()),
        standard_at: m.standard.as_ref().map_or_else(String::new, |(_, at)| at.clone()),
        pinless: one.scale == MapScale::Pinless,
    }
}

fn seconds(file: &CaseFile, flat: &Flat, m: &Mapped) -> Vec<([Px; 2], bool, String)> {
    let one = |(at, wet, by): &(At, bool, SecondBy)| {
        let [x, y] = flat.place(at)?;
        let words = match by {
            SecondBy::Pins(showed) => format!("pins {}", figure(*showed, MapScale::Pins)),
            SecondBy::Trial(id) => {
                let run = file.tests.iter().find(|t| t.id == *id)?;
                judgment::finding::test(&run.test).map_or_else(String::new, |t| t.name.to_lowercase())
            }
        };
        Some(([Px(x), Px(y)], *wet, words))
    };
    m.seconds.iter().filter_map(one).collect()
}

fn figures(file: &CaseFile, one: &OneMap, m: &Mapped) -> Vec<(String, String)> {
    let worst = m.said.worst.map(|i| figure(m.points[i].showed, one.scale));
    let left_out = m.said.damp.iter().filter(|d| **d == Damp::LeftOut).count();
    let share = file.limits().percent(Limited::MapHigh);
    let from = m.limits.map(|[_, high]| figure(Showed::Figure(high), one.scale));
    let high = match one.scale {
        MapScale::Pinless => format!("High from, {share} % of it"),
        MapScale::Pins => "Wet from".to_owned(),
    };
    let standard = m.standard.as_ref().map(|(x, _)| figure(Showed::Figure(*x), one.scale));
    let all = [
        ("Dry standard".to_owned(), standard),
        (high, from),
        ("Highest".to_owned(), worst),
        ("Places read".to_owned(), Some(m.said.counted().to_string())),
        ("False wets left out".to_owned(), (left_out > 0).then(|| left_out.to_string())),
    ];
    all.into_iter().filter_map(|(k, v)| Some((k, v?))).collect()
}

fn profile(show: &notation::Show, structure: Structure, p: &Profile) -> ProfileView {
    let most = p.heights.iter().map(|h| h.1).fold(0.0, f64::max).max(1e-9);
    let bar = |(h, x, n): &(f64, f64, usize)| {
        (show.place(*h), Px(150.0 * x / most), format!("{}, mean of {n}", notation::number::significant(*x)))
    };
    ProfileView {
        wall: p.facet.called(structure),
        says: p.says.words(),
        bars: p.heights.iter().rev().map(bar).collect(),
    }
}

/// Kinds of figures and of materials to choose from.
pub fn scales() -> Vec<(String, String)> {
    MapScale::ALL.iter().map(|s| (s.id().to_owned(), s.words().to_owned())).collect()
}

/// Materials to choose from.
pub fn materials() -> Vec<(String, String)> {
    Material::ALL.iter().map(|m| (m.id().to_owned(), m.words().to_owned())).collect()
}

/// Why a spacing is too fine for a way.
pub fn too_many(count: usize, kind: RouteKind) -> String {
    let what = match kind {
        RouteKind::Edge => "the edge",
        RouteKind::Grid => "the grid",
    };
    format!("At this spacing {what} has {count} places, {MOST_STOPS} at most: choose a wider one.")
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
