//! A coating as it is typed.

use crate::fields::{Field, Input, Options, Reader, Typed, Wrongs, field, kinds, local};
use building::coating::{CoatingJob, MOST_PLACES, PairedPlace, ProductLimits, Substrate};
use casework::CaseFile;
use casework::coating::area_of;
use chrono::{DateTime, Utc};
use language::{known, say};
use notation::Show;
use notation::number::{plain_number, significant};
use notation::unit::{AREA, DAILY, DIFFERENCE, EFFICIENCY, LITERS, SPREAD, TEMPERATURE};
use uuid::Uuid;

/// Longest name.
const NAME: usize = 80;

/// A new one, of a boundary where there is one.
pub fn begun(id: Uuid, file: &CaseFile, name: String) -> CoatingJob {
    let wall = file.building.boundaries.iter().find(|b| b.face.upright());
    CoatingJob {
        id,
        name,
        boundary_id: wall.map(|b| b.id),
        outdoors: true,
        substrate: Substrate::Block,
        product: String::new(),
        area_m2: None,
        coats: 2,
        spread: Substrate::Block.usual_spread(),
        first: Substrate::Block.usual_first(),
        parts: Some([1.0, 4.0]),
        jar_l: 9.5,
        pack_l: None,
        limits: ProductLimits::default(),
        warmer: 0.0,
        dry_since: None,
        first_coat: None,
        moisture: None,
        places: Vec::new(),
        liters: [None; 2],
        efficiency: 1.5,
        days: 180,
    }
}

/// As its form shows it.
pub fn as_typed(c: &CoatingJob, show: &Show) -> Typed {
    let figure = |x: Option<f64>| x.map_or_else(String::new, significant);
    let units = show.units;
    let l = &c.limits;
    let place = |p: &PairedPlace| format!("{}; {}; {}", p.name, significant(p.before), figure(p.after));
    let all: Vec<(&str, String)> = vec![
        ("name", c.name.clone()),
        ("boundary", c.boundary_id.map_or_else(String::new, |id| id.to_string())),
        ("substrate", c.substrate.id().to_owned()),
        ("product", c.product.clone()),
        ("area", c.area_m2.map_or_else(String::new, |m| AREA.typed(m, units))),
        ("coats", c.coats.to_string()),
        ("spread", SPREAD.typed(c.spread, units)),
        ("first", significant(c.first)),
        ("parts", c.parts.map_or_else(String::new, |[a, b]| format!("{}:{}", significant(a), significant(b)))),
        ("jar", LITERS.typed(c.jar_l, units)),
        ("pack", c.pack_l.map_or_else(String::new, |l| LITERS.typed(l, units))),
        ("min", TEMPERATURE.typed(l.surface[0], units)),
        ("max", TEMPERATURE.typed(l.surface[1], units)),
        ("rh", significant(l.rh)),
        ("above", DIFFERENCE.typed(l.above_dew, units)),
        ("dry_before", l.hours[0].to_string()),
        ("work", l.hours[1].to_string()),
        ("dry_after", l.hours[2].to_string()),
        ("most", figure(l.moisture)),
        ("now", figure(c.moisture)),
        ("again_from", l.again[0].to_string()),
        ("again_until", l.again[1].to_string()),
        ("warmer", DIFFERENCE.typed(c.warmer, units)),
        ("dry_since", c.dry_since.map_or_else(String::new, |ms| local(show, ms))),
        ("places", c.places.iter().map(place).collect::<Vec<_>>().join("\n")),
        ("liters_before", c.liters[0].map_or_else(String::new, |l| DAILY.typed(l, units))),
        ("liters_after", c.liters[1].map_or_else(String::new, |l| DAILY.typed(l, units))),
        ("efficiency", EFFICIENCY.typed(c.efficiency, units)),
        ("days", c.days.to_string()),
    ];
    let mut all: Typed = all.into_iter().map(|(k, v)| (k.to_owned(), v)).collect();
    if c.outdoors {
        all.insert("outdoors".into(), "1".into());
    }
    all
}

/// Groups of fields, holding what was typed.
pub fn groups(file: &CaseFile, typed: &Typed, show: &Show) -> Vec<(&'static str, Vec<Field>)> {
    let text = |name: &str| typed.get(name).cloned().unwrap_or_default();
    let of = |name: &'static str, label: &str, more: &str, input: Input| field(name, label, more, input, text(name));
    let figure = |name: &'static str, label: &str, more: &str| of(name, label, more, Input::Figure);
    let unit = |kind: &notation::unit::Kind| kind.unit(show.units).name();
    let b = &file.building;
    let named = |x: &building::Boundary| {
        let space = b.space(x.space_id).map_or("", |s| s.name.as_str());
        (x.id.to_string(), format!("{}, {space}", x.name))
    };
    let boundaries: Options = b.boundaries.iter().map(named).collect();
    let drawn = text("boundary").parse().ok().and_then(|id| area_of(file, id));
    let area = drawn.map_or_else(
        || unit(&AREA).to_owned(),
        |(m, measured)| {
            let how = if measured { say!("laid flat") } else { say!("as drawn, not measured") };
            format!("{}; {how} {}", unit(&AREA), show.area(m))
        },
    );
    let substrates = kinds(Substrate::ALL, |s| (s.id(), known(s.words())));
    vec![
        (
            say!("What"),
            vec![
                of("name", say!("Called"), "", Input::Text),
                of("boundary", say!("Of"), "", Input::Choose(boundaries)),
                of("outdoors", say!("From outdoors, in the weather"), "", Input::Check),
                of("substrate", say!("Substrate"), "", Input::Choose(substrates)),
                of("product", say!("Product"), say!("as its label says"), Input::Text),
                figure("area", say!("Area"), &area),
                figure("coats", say!("Coats"), ""),
                figure("spread", say!("A liter covers once"), unit(&SPREAD)),
                figure("first", say!("First coat drinks"), say!("times as much")),
            ],
        ),
        (
            say!("Mixing"),
            vec![
                of("parts", say!("Concentrate to water"), say!("1:4; empty where ready to use"), Input::Text),
                figure("jar", say!("Mixed in"), unit(&LITERS)),
                figure("pack", say!("Sold in"), unit(&LITERS)),
            ],
        ),
        (
            say!("The product’s sheet"),
            vec![
                figure("min", say!("Surface at least"), unit(&TEMPERATURE)),
                figure("max", say!("at most"), unit(&TEMPERATURE)),
                figure("rh", say!("Air under"), "% RH"),
                figure("above", say!("Above the dew point"), unit(&DIFFERENCE)),
                figure("dry_before", say!("Dry before"), "h"),
                figure("work", say!("Work"), "h"),
                figure("dry_after", say!("Dry after"), "h"),
                figure("most", say!("Substrate at most"), say!("on its meter")),
                figure("now", say!("it reads"), ""),
                figure("again_from", say!("Second coat from"), "min"),
                figure("again_until", say!("until"), "min"),
                figure("warmer", say!("Surface warmer than air by"), unit(&DIFFERENCE)),
                of("dry_since", say!("No rain since"), "", Input::Moment),
            ],
        ),
        (
            say!("Before and after, same meter"),
            vec![of("places", say!("A place a line"), say!("where; before; after"), Input::Words)],
        ),
        (
            say!("Dehumidifier"),
            vec![
                figure("liters_before", say!("Took out before"), unit(&DAILY)),
                figure("liters_after", say!("takes out after"), unit(&DAILY)),
                figure("efficiency", say!("Takes out"), unit(&EFFICIENCY)),
                figure("days", say!("Runs"), say!("days a year")),
            ],
        ),
    ]
}

/// Reads a form; what is wrong is named field by field.
///
/// # Errors
/// What is wrong.
pub fn read(
    of: &CoatingJob,
    file: &CaseFile,
    typed: &Typed,
    show: &Show,
    now: DateTime<Utc>,
) -> Result<CoatingJob, Wrongs> {
    let mut r = Reader::new(typed, show);
    let name = r.line("name", NAME, Some(say!("Name it, so that it is found again.")));
    let product = r.line("product", NAME, None);
    let boundary_id = r.text("boundary").parse().ok().filter(|id| file.building.boundary(*id).is_some());
    let substrate = Substrate::from_id(r.text("substrate"));
    if substrate.is_none() {
        r.bad("substrate", say!("Choose what it is put on."));
    }
    let substrate = substrate.unwrap_or(of.substrate);
    let area_m2 = r.quantity("area", &AREA, [0.01, 100_000.0]);
    if area_m2.is_none() && r.text("area").is_empty() && boundary_id.and_then(|id| area_of(file, id)).is_none() {
        r.bad("area", say!("No boundary gives its area: type it."));
    }
    let spread = r.quantity("spread", &SPREAD, [0.1, 100.0]).unwrap_or(substrate.usual_spread());
    let first = r.figure("first", [1.0, 5.0], "times").unwrap_or(substrate.usual_first());
    let whole = |r: &mut Reader<'_>, name: &str, low: f64, high: f64, usual: u16, what: &str| {
        r.figure(name, [low, high], what).map_or(usual, |x| x.round() as u16)
    };
    let coats = u8::try_from(whole(&mut r, "coats", 1.0, 10.0, 2, "coats")).unwrap_or(2);
    let parts = parts(&mut r);
    let jar_l = r.quantity("jar", &LITERS, [0.05, 1000.0]).unwrap_or(9.5);
    let pack_l = r.quantity("pack", &LITERS, [0.05, 1000.0]);
    let usual = ProductLimits::default();
    let surface = [
        r.quantity("min", &TEMPERATURE, [-30.0, 60.0]).unwrap_or(usual.surface[0]),
        r.quantity("max", &TEMPERATURE, [-30.0, 80.0]).unwrap_or(usual.surface[1]),
    ];
    if surface[0] >= surface[1] {
        r.bad("max", say!("The highest lies over the least."));
    }
    let hours = [
        whole(&mut r, "dry_before", 0.0, 72.0, usual.hours[0], "h"),
        whole(&mut r, "work", 1.0, 24.0, usual.hours[1], "h"),
        whole(&mut r, "dry_after", 0.0, 96.0, usual.hours[2], "h"),
    ];
    let again = [
        whole(&mut r, "again_from", 0.0, 1440.0, usual.again[0], "min"),
        whole(&mut r, "again_until", 1.0, 2880.0, usual.again[1], "min"),
    ];
    if again[0] >= again[1] {
        r.bad("again_until", say!("It ends before it begins."));
    }
    let limits = ProductLimits {
        surface,
        rh: r.figure("rh", [1.0, 100.0], "%").unwrap_or(usual.rh),
        above_dew: r.quantity("above", &DIFFERENCE, [0.0, 30.0]).unwrap_or(usual.above_dew),
        hours,
        moisture: r.figure("most", [0.1, 1000.0], ""),
        again,
    };
    let places = places(&mut r);
    let made = CoatingJob {
        id: of.id,
        name,
        boundary_id,
        outdoors: r.checked("outdoors"),
        substrate,
        product,
        area_m2,
        coats,
        spread,
        first,
        parts,
        jar_l,
        pack_l,
        limits,
        warmer: r.quantity("warmer", &DIFFERENCE, [-30.0, 40.0]).unwrap_or(0.0),
        dry_since: r.moment("dry_since", now),
        first_coat: of.first_coat,
        moisture: r.figure("now", [0.0, 1000.0], ""),
        places,
        liters: [r.quantity("liters_before", &DAILY, [0.0, 500.0]), r.quantity("liters_after", &DAILY, [0.0, 500.0])],
        efficiency: r.quantity("efficiency", &EFFICIENCY, [0.1, 20.0]).unwrap_or(1.5),
        days: whole(&mut r, "days", 1.0, 366.0, 180, "days"),
    };
    if r.wrong.is_empty() { Ok(made) } else { Err(r.wrong) }
}

/// `1:4`; nothing where it is ready to use.
fn parts(r: &mut Reader<'_>) -> Option<[f64; 2]> {
    let text = r.text("parts");
    if text.is_empty() {
        return None;
    }
    let part = |t: &str| plain_number(t.trim()).ok().filter(|x| (0.0..=1000.0).contains(x));
    let read = text.split_once(':').and_then(|(a, b)| Some([part(a)?, part(b)?])).filter(|[a, _]| *a > 0.0);
    if read.is_none() {
        r.bad("parts", say!("Parts of concentrate and water: 1:4."));
    }
    read
}

/// A place a line: `where; before; after`.
fn places(r: &mut Reader<'_>) -> Vec<PairedPlace> {
    let lines: Vec<&str> = r.text("places").lines().map(str::trim).filter(|l| !l.is_empty()).collect();
    if lines.len() > MOST_PLACES {
        r.bad(
            "places",
            say!("At most {most_places} places; these are {lines}.", most_places = MOST_PLACES, lines = lines.len()),
        );
        return Vec::new();
    }
    let mut all = Vec::new();
    for (i, line) in lines.iter().enumerate() {
        let mut bits = line.split(';').map(str::trim);
        let mut next = || bits.next().unwrap_or("");
        let [name, before, after] = [next(), next(), next()];
        let figure = |t: &str| plain_number(t).ok().filter(|x| (0.0..=1000.0).contains(x));
        let named = (1..=NAME).contains(&name.chars().count()) && !name.chars().any(char::is_control);
        match (named, figure(before), figure(after)) {
            (true, Some(before), after_read) if after.is_empty() || after_read.is_some() => {
                all.push(PairedPlace { name: name.to_owned(), before, after: after_read });
            }
            _ => r.bad(
                "places",
                say!("Line {i}: where; what it showed before; after, once it was read. Figures 0 to 1000.", i = i + 1),
            ),
        }
    }
    all
}
