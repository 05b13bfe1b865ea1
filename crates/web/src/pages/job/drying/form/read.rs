//! What was typed, read into parts.

use super::{NAME, WORDS, What};
use crate::fields::{Reader, Typed, Wrongs};
use building::drying::{
    DryPoint, DryScale, DryingItem, DryingJob, MOST_POINTS, Machine, MachineKind, Run, SheetKind, SheetTest, Taken,
};
use casework::CaseFile;
use chrono::{DateTime, Utc};
use judgment::drying::{DryMaterial, material, materials};
use language::say;
use notation::Show;
use notation::number::{plain_number, significant};
use notation::unit::{AREA, DAILY, TEMPERATURE};
use uuid::Uuid;

/// Reads a form into parts; several from lines.
///
/// # Errors
/// What is wrong, field by field.
pub fn read(
    what: What,
    file: &CaseFile,
    typed: &Typed,
    show: &Show,
    [id, first]: [Uuid; 2],
    now: DateTime<Utc>,
) -> Result<Vec<DryingItem>, Wrongs> {
    let mut r = Reader::new(typed, show);
    let made = match what {
        What::Point => point(&mut r, file, id, now).map(|p| vec![DryingItem::Point(p)]),
        What::Points => points(&mut r, file, first),
        What::Machine => machine(&mut r, file, id, now).map(|m| vec![DryingItem::Machine(m)]),
        What::Taken => taken(&mut r, file, id, now).map(|t| vec![DryingItem::Taken(t)]),
        What::Sheet => sheet(&mut r, file, id, now).map(|s| vec![DryingItem::Sheet(s)]),
    };
    match made {
        Some(items) if r.wrong.is_empty() => Ok(items),
        _ => Err(r.wrong),
    }
}

/// Said of a meter's own scale without a dry standard.
pub const NO_STANDARD: &str =
    "A meter’s own scale says nothing without a dry standard: read the same material where it never got wet.";

/// Most a scale shows.
const fn most(scale: DryScale) -> f64 {
    match scale {
        DryScale::Percent => 100.0,
        DryScale::Relative => 1000.0,
    }
}

/// The next free place in the round.
fn next_order(job: &DryingJob) -> u16 {
    job.points.iter().map(|p| p.order).max().map_or(1, |o| o.saturating_add(1))
}

fn point(r: &mut Reader<'_>, file: &CaseFile, id: Uuid, now: DateTime<Utc>) -> Option<DryPoint> {
    let before = file.drying.points.iter().find(|p| p.id == id);
    let name = r.line("name", NAME, Some(say!("Say where it is.")));
    let cavity = r.line("cavity", NAME, Some(say!("Say what is closed in together with it.")));
    let space_id = r.space("space", &file.building);
    let of = material(r.text("material"));
    if of.is_none() {
        r.bad("material", say!("Choose the material."));
    }
    let scale = of.map_or(DryScale::Percent, |m| m.scale);
    let standard = r.figure("standard", [0.1, most(scale)], "");
    let goal = r.figure("goal", [0.1, most(scale)], "");
    if scale == DryScale::Relative && standard.is_none() && r.text("standard").is_empty() {
        r.bad("standard", NO_STANDARD);
    }
    if let (DryScale::Relative, Some(g), Some(s)) = (scale, goal, standard)
        && g < s
    {
        r.bad(
            "goal",
            say!("The same material, never wet, shows {s}: it will not get drier than that.", s = significant(s)),
        );
    }
    let cover = r.line("cover", NAME, None);
    let layer = r.figure("layer", [0.0, 20.0], "").map_or(0, |x| x as u8);
    let since = r.moment("since", now);
    let tent = r.text("tent").parse().ok().filter(|id| file.drying.machines.iter().any(|m| m.id == *id));
    Some(DryPoint {
        id,
        space_id: space_id?,
        cavity,
        name,
        material: of?.id.clone(),
        scale,
        species: of?.species.clone(),
        standard,
        goal,
        cover,
        tent,
        layer,
        since,
        order: before.map_or_else(|| next_order(&file.drying), |p| p.order),
    })
}

/// Points, one a line: `where; dry standard; goal; material`.
fn points(r: &mut Reader<'_>, file: &CaseFile, first: Uuid) -> Option<Vec<DryingItem>> {
    let cavity = r.line("cavity", NAME, Some(say!("Say what is closed in together.")));
    let space_id = r.space("space", &file.building);
    let usual = material(r.text("material"));
    let lines: Vec<&str> = r.text("lines").lines().map(str::trim).filter(|l| !l.is_empty()).collect();
    let room = MOST_POINTS - file.drying.points.len().min(MOST_POINTS);
    if lines.is_empty() {
        r.bad("lines", say!("A point a line: stud 4, 30 cm up; 11"));
    } else if lines.len() > room {
        r.bad(
            "lines",
            say!(
                "{lines} lines; a job has {most_points} points at most, so there is room for {room}.",
                lines = lines.len(),
                most_points = MOST_POINTS,
                room
            ),
        );
        return None;
    }
    let mut made = Vec::new();
    for (i, line) in lines.iter().enumerate() {
        match one_line(line, usual) {
            Ok(p) => made.push(DryingItem::Point(DryPoint {
                // Of one form sent twice the points are the same.
                id: Uuid::from_u128(first.as_u128().wrapping_add(1 + i as u128)),
                space_id: space_id.unwrap_or_default(),
                cavity: cavity.clone(),
                order: next_order(&file.drying).saturating_add(u16::try_from(i).unwrap_or(u16::MAX)),
                ..p
            })),
            Err(why) => {
                r.bad(
                    "lines",
                    say!("Line {i}, “{line}”: {why}", i = i + 1, line = line.chars().take(30).collect::<String>(), why),
                );
            }
        }
    }
    space_id.map(|_| made)
}

fn one_line(line: &str, usual: Option<&'static DryMaterial>) -> Result<DryPoint, String> {
    let mut parts = line.split(';').map(str::trim);
    let mut next = || parts.next().unwrap_or("");
    let [name, standard, goal, named] = [next(), next(), next(), next()];
    let count = name.chars().count();
    if !(1..=NAME).contains(&count) || name.chars().any(char::is_control) {
        return Err(say!("it begins with where it is, in at most {name} characters.", name = NAME));
    }
    let by_name = |text: &str| {
        let text = text.to_lowercase();
        materials().iter().find(|m| m.id == text || m.name.to_lowercase().starts_with(&text))
    };
    let of = if named.is_empty() { usual } else { by_name(named) };
    let of = of.ok_or_else(|| {
        if named.is_empty() {
            say!("choose a material above.").to_owned()
        } else {
            say!("“{named}” is no material of the list.", named)
        }
    })?;
    let figure = |text: &str| match plain_number(text) {
        _ if text.is_empty() => Ok(None),
        Ok(x) if (0.1..=most(of.scale)).contains(&x) => Ok(Some(x)),
        Ok(_) => Err(say!("0.1 to {most}.", most = most(of.scale))),
        Err(e) => Err(e.said(text)),
    };
    let (standard, goal) = (figure(standard)?, figure(goal)?);
    if of.scale == DryScale::Relative && standard.is_none() {
        return Err(NO_STANDARD.to_owned());
    }
    Ok(DryPoint {
        id: Uuid::nil(),
        space_id: Uuid::nil(),
        cavity: String::new(),
        name: name.to_owned(),
        material: of.id.clone(),
        scale: of.scale,
        species: of.species.clone(),
        standard,
        goal,
        cover: String::new(),
        tent: None,
        layer: 0,
        since: None,
        order: 0,
    })
}

fn machine(r: &mut Reader<'_>, file: &CaseFile, id: Uuid, now: DateTime<Utc>) -> Option<Machine> {
    let before = file.drying.machines.iter().find(|m| m.id == id);
    let kind = MachineKind::from_id(r.text("kind"));
    if kind.is_none() {
        r.bad("kind", say!("Choose what it is."));
    }
    let name = r.line("name", NAME, Some(say!("Name it, so that it is found again.")));
    let space_id = r.space("space", &file.building);
    let rated = r.quantity("rated", &DAILY, [0.1, 500.0]);
    if kind.is_some_and(MachineKind::dries) && rated.is_none() && r.text("rated").is_empty() {
        r.bad("rated", say!("What does its label say it takes out a day?"));
    }
    let watts = r.figure("watts", [1.0, 20_000.0], "W");
    let setting = r.line("setting", NAME, None);
    let (from, until) = (r.moment("from", now), r.moment("until", now));
    if let (Some(from), Some(until)) = (from, until)
        && until < from
    {
        r.bad("until", say!("It stopped before it started."));
    }
    if from.is_none() && until.is_some() {
        r.bad("from", say!("Since when did it run?"));
    }
    // The form holds the last time it ran; those before stay.
    let mut runs: Vec<Run> = before.map(|m| m.runs.clone()).unwrap_or_default();
    runs.pop();
    if let (Some(from), Some(end)) = (from, runs.last().and_then(|r| r.until))
        && from < end
    {
        let end = DateTime::from_timestamp_millis(end).unwrap_or_default();
        r.bad("from", say!("It ran before until {end}: begin after that.", end = r.show.moment(end)));
    }
    runs.extend(from.map(|from| Run { from, until }));
    Some(Machine {
        id,
        kind: kind?,
        name,
        space_id: space_id?,
        rated,
        rated_warm: r.checked("warm"),
        watts,
        setting,
        runs,
    })
}

fn taken(r: &mut Reader<'_>, file: &CaseFile, id: Uuid, now: DateTime<Utc>) -> Option<Taken> {
    let what = r.line("what_out", NAME, Some(say!("Say what was taken out.")));
    let amount = r.line("amount", NAME, None);
    let why = r.line("why", WORDS, None);
    let photo = r.text("photo").parse().ok().filter(|id| file.photos.iter().any(|p| p.id == *id));
    let space_id = if r.text("space").is_empty() { None } else { r.space("space", &file.building) };
    let at = r.moment("at", now).unwrap_or_else(|| now.timestamp_millis());
    Some(Taken { id, space_id, what, amount, why, photo, at })
}

fn sheet(r: &mut Reader<'_>, file: &CaseFile, id: Uuid, now: DateTime<Utc>) -> Option<SheetTest> {
    let name = r.line("name", NAME, Some(say!("Say where it lies.")));
    let space_id = r.space("space", &file.building);
    let kind = SheetKind::from_id(r.text("kind"));
    if kind.is_none() {
        r.bad("kind", say!("Choose how it was measured."));
    }
    let (from, until) = (r.moment("from", now), r.moment("until", now));
    let is_depths = kind == Some(SheetKind::Depths);
    let until = until.unwrap_or_else(|| now.timestamp_millis());
    if from.is_none() && !is_depths && r.text("from").is_empty() {
        r.bad("from", say!("When was it laid?"));
    }
    if from.is_some_and(|f| until - f < 3_600_000) && !is_depths {
        r.bad("until", say!("It must lie for an hour at least; a day or two says more."));
    }
    let area_m2 = r.quantity("area", &AREA, [0.001, 100.0]);
    let grams = r.figure("grams", [0.0, 100_000.0], "g");
    let depths = is_depths.then(|| depths(r)).flatten();
    if !is_depths {
        if area_m2.is_none() && r.text("area").is_empty() {
            r.bad("area", say!("The area under it is needed."));
        }
        if grams.is_none() && r.text("grams").is_empty() {
            r.bad("grams", say!("What was caught? 0 where it was dry."));
        }
    }
    let whole_m2 = r.quantity("whole", &AREA, [0.01, 100_000.0]);
    let usual = space_id.and_then(|id| file.building.space(id)).map_or(1.0, |s| s.area_m2);
    Some(SheetTest {
        id,
        space_id: space_id?,
        name,
        kind: kind?,
        from: from.unwrap_or(until),
        until,
        area_m2: area_m2.unwrap_or(1.0),
        whole_m2: whole_m2.unwrap_or(usual),
        grams: grams.filter(|_| !is_depths),
        wet_on_top: r.checked("top"),
        depths,
        high_month: r.text("high").parse().ok().filter(|m| *m < 12).unwrap_or(2),
    })
}

fn depths(r: &mut Reader<'_>) -> Option<[[f64; 3]; 2]> {
    let mut one = |t: &str, rh: &str, d: &str| {
        let (celsius, humid) = (r.quantity(t, &TEMPERATURE, [-20.0, 60.0]), r.figure(rh, [1.0, 100.0], "%"));
        let deep = r.figure(d, [0.1, 200.0], "cm").map(|cm| cm / 100.0);
        for (name, missing) in [(t, celsius.is_none()), (rh, humid.is_none()), (d, deep.is_none())] {
            if missing && r.text(name).is_empty() {
                r.bad(name, say!("Two depths need temperature, humidity and depth each."));
            }
        }
        Some([celsius?, humid?, deep?])
    };
    let (shallow, deep) = (one("t0", "rh0", "d0"), one("t1", "rh1", "d1"));
    let (shallow, deep) = (shallow?, deep?);
    if deep[2] <= shallow[2] {
        r.bad("d1", say!("The deep one lies under the shallow one."));
    }
    Some([shallow, deep])
}
