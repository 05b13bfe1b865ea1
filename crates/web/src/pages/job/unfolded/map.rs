//! A moisture map as it is looked at, on the page of its space and in a report.

use super::{Laid, laid};
use building::Structure;
use building::unfold::{At, FalseWet, MapScale};
use casework::CaseFile;
use casework::mapped::{Mapped, OneMap, SecondBy, mapped, maps_of};
use chrono::{DateTime, Utc};
use drawing::Px;
use drawing::unfolded::{Dot, Flat, FlatSheet};
use judgment::limits::Limited;
use judgment::map::{Damp, Profile, Showed, WetPatch};
use language::{known, say};
use notation::Show;
use store::MoistureMap;
use uuid::Uuid;
use wording::map::{behind, confirmed, extent, figure, head, name, whereabouts};

/// Patches told of.
const TOLD: usize = 5;

/// A place of the map in view.
pub struct DotView {
    pub dot: Dot,
    pub title: String,
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
    pub fn any_high(&self) -> bool {
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
pub fn mapsheets(show: &Show, file: &CaseFile, until: Option<DateTime<Utc>>) -> Vec<Mapsheet> {
    let by_then = |m: &&MoistureMap| until.is_none_or(|u| m.started_at <= u);
    let one = |space: &building::Space| {
        let mut maps = maps_of(file, space.id);
        maps.iter_mut().for_each(|(_, ways)| ways.retain(|w| by_then(w)));
        maps.retain(|(_, ways)| !ways.is_empty());
        let at = maps.iter().position(|(one, _)| one.scale == MapScale::Pinless).unwrap_or(0);
        let (one, ways) = maps.get(at)?;
        let here = laid(file, Some(space.id)).ok()?;
        let flat = Flat::new(&here.layout, IN_REPORT);
        Some(Mapsheet {
            space: space.name.clone(),
            sheet: flat.drawn(&here.layout, file.job.structure, show.units),
            map: map_view(show, file, &here, &flat, (one, ways)),
        })
    };
    file.building.spaces.iter().filter_map(one).collect()
}

/// What a place amounts to, in words.
fn word(damp: Damp) -> &'static str {
    match damp {
        Damp::Dry => say!("dry"),
        Damp::Raised => say!("raised"),
        Damp::High => say!("high"),
        Damp::LeftOut => say!("false wet, left out"),
        Damp::Unread => say!("not read"),
        Damp::Untold => say!("no standard"),
    }
}

/// The map of some walks, on a sheet.
pub fn map_view(
    show: &Show,
    file: &CaseFile,
    here: &Laid,
    flat: &Flat,
    (one, ways): (&OneMap, &[&MoistureMap]),
) -> MapView {
    let structure = file.job.structure;
    let m = &mapped(file, &here.layout, one);
    let (dots, rows) = places(show, structure, here, flat, one, m);
    let latest = ways.iter().filter(|w| w.standard.is_some()).max_by_key(|w| w.started_at);
    let way = |w: &&MoistureMap| {
        let instrument = file.instrument(w.instrument_id).map_or("", |i| i.name.as_str());
        WayRow {
            id: w.id,
            name: say!(
                "{name}, every {place}, {instrument}",
                name = w.name,
                place = show.place(w.spacing_m),
                instrument
            ),
            href: super::walk::resumed(file.job.id, w),
            reason: w.reason.clone(),
        }
    };
    MapView {
        name: ways.first().map_or_else(String::new, |w| name(show, file, one, w.started_at)),
        head: head(show, one, m),
        figures: figures(file, one, m),
        patches: patches(show, file, here, flat, one, m),
        profiles: m.said.profiles.iter().map(|p| profile(show, structure, p)).collect(),
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

/// Its places, drawn and listed.
fn places(
    show: &Show,
    structure: Structure,
    here: &Laid,
    flat: &Flat,
    one: &OneMap,
    m: &Mapped,
) -> (Vec<DotView>, Vec<PlaceRow>) {
    let sheet = here.layout.sheet();
    let (mut dots, mut rows) = (Vec::new(), Vec::new());
    for (i, (map, r)) in m.places.iter().enumerate() {
        let (point, damp) = (&m.points[i], m.said.damp[i]);
        let row = PlaceRow {
            map: *map,
            n: r.n,
            place: whereabouts(show, &sheet, structure, &r.at),
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
    (dots, rows)
}

/// Its wet patches in words, the largest of them.
fn patches(show: &Show, file: &CaseFile, here: &Laid, flat: &Flat, one: &OneMap, m: &Mapped) -> Vec<PatchRow> {
    let (sheet, structure) = (here.layout.sheet(), file.job.structure);
    let patch = |p: &WetPatch| {
        let (at, showed) = (&m.places[p.worst].1.at, m.points[p.worst].showed);
        PatchRow {
            place: whereabouts(show, &sheet, structure, at),
            extent: extent(show, p),
            highest: match showed {
                Showed::Figure(_) => say!("up to {showed}", showed = figure(showed, one.scale)),
                other => figure(other, one.scale),
            },
            confirmed: confirmed(one, p),
            behind: behind(show, &file.building, &here.layout, structure, at),
            at: flat.place(at).map(|[x, y]| [Px(x), Px(y)]),
        }
    };
    m.said.patches.iter().take(TOLD).map(patch).collect()
}

fn seconds(file: &CaseFile, flat: &Flat, m: &Mapped) -> Vec<([Px; 2], bool, String)> {
    let one = |(at, wet, by): &(At, bool, SecondBy)| {
        let [x, y] = flat.place(at)?;
        let words = match by {
            SecondBy::Pins(showed) => say!("pins {showed}", showed = figure(*showed, MapScale::Pins)),
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
        MapScale::Pinless => say!("High from, {share} % of it", share),
        MapScale::Pins => say!("Wet from").to_owned(),
    };
    let standard = m.standard.as_ref().map(|(x, _)| figure(Showed::Figure(*x), one.scale));
    let all = [
        (say!("Dry standard").to_owned(), standard),
        (high, from),
        (say!("Highest").to_owned(), worst),
        (say!("Places read").to_owned(), Some(m.said.counted().to_string())),
        (say!("False wets left out").to_owned(), (left_out > 0).then(|| left_out.to_string())),
    ];
    all.into_iter().filter_map(|(k, v)| Some((k, v?))).collect()
}

fn profile(show: &Show, structure: Structure, p: &Profile) -> ProfileView {
    let most = p.heights.iter().map(|h| h.1).fold(0.0, f64::max).max(1e-9);
    let bar = |(h, x, n): &(f64, f64, usize)| {
        (show.place(*h), Px(150.0 * x / most), say!("{x}, mean of {n}", x = notation::number::significant(*x), n))
    };
    ProfileView {
        wall: known(p.facet.called(structure)),
        says: known(p.says.words()),
        bars: p.heights.iter().rev().map(bar).collect(),
    }
}
