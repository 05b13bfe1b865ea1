//! The drawn cut through a building: geometry computed here, drawn by the template.

mod draw;
mod ladder;
mod layout;
mod shape;

pub use draw::{Chosen, Drawing, draw};

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used, clippy::expect_used, reason = "tests")]

    use super::*;
    use building::reading::{AirValue, Observed, Reading};
    use building::{
        Blueprint, Boundary, Building, Edit, Face, Level, Material, Place, Shell, Side, Space, SpaceKind, Structure,
        Surface, blueprint,
    };
    use hygrothermal::air::Over;
    use hygrothermal::quantity::{RelativeHumidity, Temperature};
    use hygrothermal::surface::Accuracy;
    use judgment::picture::picture;
    use notation::Show;
    use notation::Units;
    use uuid::Uuid;

    /// A text's box: at most 0.62 em a character, from its anchor.
    struct Text {
        what: String,
        x: f64,
        y: f64,
        w: f64,
        h: f64,
    }

    fn text(what: &str, x: f64, y: f64, size: f64, anchor: &str) -> Text {
        let w = what.chars().count() as f64 * size * 0.62;
        let x = if anchor == "end" { x - w } else { x };
        Text { what: what.to_owned(), x, y: y - size * 0.75, w, h: size * 0.9 }
    }

    fn texts(d: &Drawing) -> Vec<Text> {
        let mut out = Vec::new();
        for c in &d.cells {
            out.extend(c.name.iter().map(|(y, line)| text(line, c.text_x, *y, 14.0, "start")));
            out.push(text("▶ 1", c.flag_x, c.flag_y, 12.5, "start"));
            let air = c.air.as_ref().unwrap();
            out.push(text(&air.state, c.text_x, c.text_y + 20.0, 13.5, "start"));
            out.push(text(&air.dew, c.text_x, c.text_y + 38.0, 12.0, "start"));
            let ladder = c.ladder.as_ref().unwrap();
            out.extend(ladder.ticks.iter().map(|(y, label)| text(label, ladder.x - 7.0, y + 4.0, 11.0, "end")));
            out.extend(ladder.dots.iter().map(|d| text(&d.label, ladder.x + 44.0, d.label_y + 4.0, 12.0, "start")));
        }
        out.extend(d.ends.iter().map(|e| text(e.label, e.x, e.y, 12.0, "start")));
        out.extend(d.arrows.iter().map(|a| text(&a.label, a.label_x, a.label_y, 12.5, a.anchor)));
        let outdoors = d.outdoors.air.as_ref().unwrap();
        out.push(text("Outdoors", 16.0, d.outdoors.y, 14.0, "start"));
        out.push(text(&outdoors.state, 16.0, d.outdoors.y + 20.0, 13.5, "start"));
        out.push(text(&outdoors.dew, 16.0, d.outdoors.y + 38.0, 12.0, "start"));
        out
    }

    fn read_everywhere(building: &Building, t: f64, seed: u64) -> Vec<Reading> {
        let mut state = seed;
        let mut next = || {
            state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1);
            (state >> 33) as f64 / f64::from(u32::MAX >> 1)
        };
        let mut readings = Vec::new();
        for (i, s) in building.stations.iter().enumerate() {
            let temperature = Temperature::new(t + 14.0 * next() - 7.0).unwrap();
            let observed = match s.place {
                Place::Surface(_) => Observed::Surface(temperature),
                _ => {
                    let rh = RelativeHumidity::new((40.0 + 55.0 * next()).round()).unwrap();
                    Observed::Air(AirValue { t: temperature, rh, over: Over::Water })
                }
            };
            let (id, taken_ms) = (Uuid::from_u128(i as u128 + 1000), i as i64);
            readings.push(Reading {
                id,
                station_id: s.id,
                instrument_id: Uuid::nil(),
                taken_ms,
                observed,
                accuracy: Accuracy::TYPICAL,
            });
        }
        readings
    }

    /// A building of `n` spaces with long names, walls on every side and many surfaces, in up to four rows.
    fn crowded(n: usize, seed: u64) -> Building {
        let mut next = 5000;
        let mut id = || {
            next += 1;
            Uuid::from_u128(next)
        };
        let mut b = blueprint(Structure::Custom).unwrap().build(&mut id);
        let names =
            ["North store behind the old kitchen range", "Bath", "Uninterruptedlylongwordwithoutspaces", "Loft"];
        for i in 1..n {
            let level = Level::ALL[(i + seed as usize) % 4];
            let (kind, name) = (SpaceKind::Room, names[i % names.len()].chars().take(40).collect());
            let space = Space { id: id(), name, kind, level, column: 0, area_m2: 9.0, height_m: 2.0 };
            b = b.edited(&Edit::AddSpace(space, id())).unwrap();
        }
        for (i, space) in b.spaces.clone().iter().enumerate() {
            for (k, face) in Face::ALL.iter().enumerate() {
                let neighbor = b.spaces[(i + k) % b.spaces.len()].id;
                let beyond = if k % 2 == 0 || neighbor == space.id { Side::Outdoors } else { Side::Space(neighbor) };
                for part in 0..=((i + k) % 3) {
                    let (name, face) = (format!("{} {part}", face.words()), *face);
                    let (space_id, boundary_id) = (space.id, id());
                    let boundary =
                        Boundary { id: boundary_id, name, space_id, beyond, face, bare_soil: false, buildup: None };
                    let Ok(with) = b.edited(&Edit::AddBoundary(boundary)) else { continue };
                    b = with;
                    let (name, short, material) = ("A surface".into(), "sheathing".into(), Material::Wood);
                    let surface = Surface { id: id(), boundary_id, space_id, name, short, material };
                    b = b.edited(&Edit::AddSurface(surface, id())).unwrap();
                }
            }
        }
        b
    }

    fn cuts_nothing(name: &str, building: &Building, shell: Shell, seeds: u64) {
        for (seed, t, units) in
            (0..seeds).flat_map(|s| [(s, 12.0, Units::Metric), (s, -8.0, Units::Us), (s, 30.0, Units::Us)])
        {
            let picture = picture(building, &read_everywhere(building, t, seed));
            let mut drawing = draw(&Show::new(units, "UTC"), building, shell, &picture, None);
            building.spaces.iter().for_each(|s| drawing.flag(Some(s.id)));
            let all = texts(&drawing);
            for (i, a) in all.iter().enumerate() {
                let inside = a.x >= 0.0 && a.x + a.w <= drawing.width && a.y >= 0.0 && a.y + a.h <= drawing.height;
                assert!(inside, "{name}: {:?} leaves the sheet at {} {}", a.what, a.x, a.y);
                for b in &all[i + 1..] {
                    let apart = a.x + a.w <= b.x || b.x + b.w <= a.x || a.y + a.h <= b.y || b.y + b.h <= a.y;
                    assert!(apart, "{name} seed {seed}: {:?} over {:?} at {:.0} {:.0}", a.what, b.what, b.x, b.y);
                }
            }
        }
    }

    /// No text lies over another or outside the sheet, whatever was read, in both unit systems.
    #[test]
    fn nothing_overlaps_and_nothing_is_cut_off() {
        let cottage = Blueprint::from_toml(include_str!("../../../stand-ins/data/cottage.toml")).unwrap();
        let archive = Blueprint::from_toml(include_str!("../../../stand-ins/data/archive.toml")).unwrap();
        for plan in Structure::ALL.iter().filter_map(|s| blueprint(*s)).chain([&cottage, &archive]) {
            let mut n = 0;
            let building = plan.build(|| {
                n += 1;
                Uuid::from_u128(n)
            });
            cuts_nothing(&plan.name, &building, plan.shell, 40);
        }
        for n in 1..=12 {
            for (seed, shell) in (0..4).zip([Shell::House, Shell::Vehicle, Shell::Cabin, Shell::Tent]) {
                cuts_nothing(&format!("{n} spaces, {seed}"), &crowded(n, seed), shell, 2);
            }
        }
    }
}
