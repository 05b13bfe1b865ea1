//! A moisture map in sentences.

use building::unfold::{At, Facet, FixtureKind, Layout, MapScale, Sheet};
use building::{Building, Side, Structure};
use casework::mapped::{Mapped, OneMap};
use judgment::map::{Confirmed, Showed, WetPatch};
use language::{known, say};
use notation::Show;
use notation::number::{fixed, significant};
use notation::unit::AREA;
use uuid::Uuid;

/// Nearer to a wall than this it is said to be at it, m.
const AT_WALL: f64 = 0.35;
/// So near to a wet patch something built in is named, m.
const BESIDE: f64 = 0.8;

/// A figure of a map as it is read.
#[must_use]
pub fn figure(showed: Showed, scale: MapScale) -> String {
    match (showed, scale) {
        (Showed::Figure(x), MapScale::Pinless) => significant(x),
        (Showed::Figure(x), MapScale::Pins) => format!("{} %", fixed(x, 1)),
        (Showed::Over, _) => say!("beyond the scale").into(),
        (Showed::Unread, _) => say!("not read").into(),
    }
}

/// Where a place is, by the walls it is near to.
#[must_use]
pub fn whereabouts(show: &Show, sheet: &Sheet, structure: Structure, at: &At) -> String {
    let Some(panel) = sheet.panel(at.facet) else { return String::new() };
    let [x, y] = panel.point(at);
    let [w, h] = panel.size;
    let near = |m: f64| m <= AT_WALL;
    let called = |f: Facet| known(f.called(structure));
    let length = |m: f64| show.place(m);
    if at.facet == Facet::Around || sheet.panel(Facet::Around).is_some() && at.facet == Facet::Ceiling {
        // Twelve o'clock is north.
        let turn = (x / w * 12.0).round() as i64 % 12;
        let clock = if turn == 0 { 12 } else { turn };
        let up = if at.facet == Facet::Around { say!("up") } else { say!("above the wall") };
        return say!(
            "{called} at {clock} o’clock from north, {y} {up}",
            called = called(at.facet),
            clock,
            y = length(y),
            up
        );
    }
    let ends: Vec<&str> = match at.facet {
        Facet::Floor | Facet::Ceiling => {
            [(near(x), Facet::North), (near(w - x), Facet::South), (near(y), Facet::East), (near(h - y), Facet::West)]
                .into_iter()
                .filter(|(is, _)| *is)
                .map(|(_, f)| called(f))
                .collect()
        }
        wall => {
            let [left, right] = sides(wall);
            [(near(x), left), (near(w - x), right)].into_iter().filter(|(is, _)| *is).map(|(_, f)| called(f)).collect()
        }
    };
    let what = called(at.facet);
    match (at.facet.upright(), ends.as_slice()) {
        (true, []) => say!("{what}, {x} from its left end, {y} up", what, x = length(x), y = length(y)),
        (true, ends) => say!("{what} at the {ends}, {y} up", what, ends = ends.join(say!(" and ")), y = length(y)),
        (false, []) => {
            say!(
                "{what}, {x} from the {called}, {y} from the {called2}",
                what,
                x = length(x),
                called = called(Facet::North),
                y = length(y),
                called2 = called(Facet::East)
            )
        }
        (false, [one]) => {
            let along = if *one == called(Facet::North) || *one == called(Facet::South) {
                say!("{y} from the {called}", y = length(y), called = called(Facet::East))
            } else {
                say!("{x} from the {called}", x = length(x), called = called(Facet::North))
            };
            say!("{what} at the {one}, {along}", what, one, along)
        }
        (false, ends) => say!("{what}, corner of {ends}", what, ends = ends.join(say!(" and "))),
    }
}

/// The faces left and right of a wall as seen from inside.
const fn sides(wall: Facet) -> [Facet; 2] {
    match wall {
        Facet::North => [Facet::West, Facet::East],
        Facet::South => [Facet::East, Facet::West],
        Facet::East => [Facet::North, Facet::South],
        _ => [Facet::South, Facet::North],
    }
}

/// The finding of a map.
#[must_use]
pub fn head(show: &Show, one: &OneMap, m: &Mapped) -> String {
    let counted = m.said.counted();
    if counted == 0 {
        return say!("Nothing has been read on this map yet.").into();
    }
    if m.limits.is_none() {
        let worst = m.said.worst.map_or_else(String::new, |i| figure(m.points[i].showed, one.scale));
        return say!(
            "{counted} places read, up to {worst}. Without a dry standard none of them says wet or dry: read the same material away from the trouble.",
            counted,
            worst
        );
    }
    let high = m.said.high();
    if high == 0 {
        return say!("None of {counted} places stands high.", counted);
    }
    let extent: Vec<String> = m.said.patches.iter().take(3).map(|p| extent(show, p)).collect();
    let patches = match m.said.patches.len() {
        1 => say!("over {extent}", extent = extent[0]),
        n => say!("in {n} patches: {extent}", n, extent = extent.join(", ")),
    };
    say!("{high} of {counted} places stand high {patches}.", high, counted, patches)
}

/// How far a patch goes.
#[must_use]
pub fn extent(show: &Show, p: &WetPatch) -> String {
    let stretch = p.stretch_m.map(|m| say!("a stretch of {place}", place = show.place(m)));
    let area = p.area_m2.map(|a| AREA.text(a, show.units));
    let both: Vec<String> = stretch.into_iter().chain(area).collect();
    both.join(say!(" and "))
}

/// Whether a second method agrees about a patch.
#[must_use]
pub fn confirmed(one: &OneMap, p: &WetPatch) -> String {
    match (one.scale, p.confirmed) {
        (MapScale::Pins, _) => say!("Per cent by pins in the wood itself.").into(),
        (_, Confirmed::Open) => {
            say!("Open: a meter’s own scale alone does not say wet. Pins, a probe or opening up settle it.").into()
        }
        (_, Confirmed::Wet(1)) => say!("A second method found it wet too.").into(),
        (_, Confirmed::Wet(n)) => say!("A second method found it wet at {n} places.", n),
        (_, Confirmed::Dry) => say!(
            "A second method found it dry: look for metal, wiring, foil, rubber or salts, and mark it as a false wet."
        )
        .into(),
    }
}

/// What lies behind a place: the boundaries there with what is beyond, and what is built in near it.
#[must_use]
pub fn behind(show: &Show, building: &Building, layout: &Layout, structure: Structure, at: &At) -> Vec<String> {
    let sheet = layout.sheet();
    let mut faces = vec![at.facet];
    if let (Some(panel), false) = (sheet.panel(at.facet), at.facet == Facet::Around) {
        let [x, y] = panel.point(at);
        let [w, h] = panel.size;
        let edges = match at.facet {
            Facet::Floor | Facet::Ceiling => {
                [(x, Facet::North), (w - x, Facet::South), (y, Facet::East), (h - y, Facet::West)]
            }
            wall => {
                let [left, right] = sides(wall);
                [(x, left), (w - x, right), (y, Facet::Floor), (h - y, Facet::Ceiling)]
            }
        };
        faces.extend(edges.into_iter().filter(|(m, _)| *m <= AT_WALL).map(|(_, f)| f));
    }
    let mut said = Vec::new();
    for facet in faces {
        let own = building.boundaries.iter().filter(|b| facet.is_of(b, layout.space_id));
        said.extend(own.map(|b| {
            let beyond = match b.beyond {
                Side::Outdoors => say!("outdoors").to_owned(),
                Side::Ground => say!("the ground").to_owned(),
                Side::Space(id) => {
                    let other = if id == layout.space_id { b.space_id } else { id };
                    building.space(other).map_or_else(String::new, |s| s.name.clone())
                }
            };
            let built = building.construction(b).map(|c| {
                let plies: Vec<String> = c.plies.iter().map(|p| p.name.to_lowercase()).collect();
                format!(" ({})", plies.join(", "))
            });
            say!(
                "{facet}: {name}, beyond it {beyond}{built}",
                facet = facet.called(structure),
                name = b.name,
                beyond,
                built = built.unwrap_or_default()
            )
        }));
    }
    if let Some(place) = sheet.in_space(at) {
        for f in layout.fixtures.iter().filter(|f| f.kind != FixtureKind::Machine) {
            let Some(other) = sheet.in_space(&f.at) else { continue };
            let reach = f.width_m.hypot(f.height_m) / 2.0 + BESIDE;
            let apart = (0..3).map(|i| (place[i] - other[i]).powi(2)).sum::<f64>().sqrt();
            if apart <= reach {
                said.push(say!("{name}, {place} away to its middle", name = f.name, place = show.place(apart)));
            }
        }
    }
    said.dedup();
    said
}

/// A map's name: its meter's scale, its material, and the visit or day.
#[must_use]
pub fn name(show: &Show, file: &casework::CaseFile, one: &OneMap, started: chrono::DateTime<chrono::Utc>) -> String {
    let scale = match one.scale {
        MapScale::Pinless => say!("Pinless"),
        MapScale::Pins => say!("Pins"),
    };
    let when = one.visit.filter(|id| file.visits.iter().any(|v| v.id == *id)).map_or_else(
        || show.day(started),
        |id: Uuid| say!("visit {file}, {started}", file = file.visit_number(id), started = show.day(started)),
    );
    format!("{scale} · {} · {when}", known(known(one.material.words())))
}
