//! Parts of a drying job as they are typed.

use building::Building;
use building::drying::{
    DryPoint, DryScale, DryingItem, DryingJob, MOST_MACHINES, MOST_POINTS, MOST_SHEETS, MOST_TAKEN, Machine,
    MachineKind, Run, SheetKind, SheetTest, Taken,
};
use casework::CaseFile;
use chrono::{DateTime, NaiveDateTime, Utc};
use judgment::drying::{material, materials};
use notation::number::{plain_number, significant};
use notation::unit::{AREA, DAILY, TEMPERATURE};
use notation::{MONTHS, Show};
use std::collections::HashMap;
use uuid::Uuid;

/// Longest name, and longest words.
pub const NAME: usize = 80;
pub const WORDS: usize = 300;

/// What was typed, by field.
pub type Typed = HashMap<String, String>;
/// Fields and what is wrong with them.
pub type Wrongs = Vec<(String, String)>;
/// Choices: ids and names.
pub type Options = Vec<(String, String)>;

/// How a field is typed.
pub enum Input {
    Text,
    Figure,
    Words,
    Choose(Options),
    Check,
    Moment,
}

/// A field of a form.
pub struct Field {
    pub name: &'static str,
    pub label: String,
    pub more: String,
    pub input: Input,
    pub value: String,
}

fn field(name: &'static str, label: &str, more: &str, input: Input, value: String) -> Field {
    Field { name, label: label.into(), more: more.into(), input, value }
}

/// A moment as its field takes it.
pub fn local(show: &Show, ms: i64) -> String {
    let at = DateTime::from_timestamp_millis(ms).unwrap_or_default();
    format!("{}T{}", show.today(at), show.clock(at))
}

/// Reads what was typed, noting what is wrong.
pub struct Reader<'a> {
    pub typed: &'a Typed,
    pub show: &'a Show,
    pub wrong: Wrongs,
}

impl<'a> Reader<'a> {
    pub const fn new(typed: &'a Typed, show: &'a Show) -> Self {
        Self { typed, show, wrong: Vec::new() }
    }

    pub fn text(&self, name: &str) -> &'a str {
        self.typed.get(name).map_or("", |t| t.trim())
    }

    pub fn bad(&mut self, name: &str, why: impl Into<String>) {
        self.wrong.push((name.to_owned(), why.into()));
    }

    /// Words of at most so many characters, on one line.
    pub fn line(&mut self, name: &str, longest: usize, needed: Option<&str>) -> String {
        let text: String = self.text(name).chars().filter(|c| !c.is_control()).collect();
        let length = text.chars().count();
        if length > longest {
            self.bad(name, format!("At most {longest} characters; these are {length}."));
        } else if let (true, Some(why)) = (text.is_empty(), needed) {
            self.bad(name, why);
        }
        text
    }

    /// A figure between two, where one was typed.
    pub fn figure(&mut self, name: &str, [low, high]: [f64; 2], what: &str) -> Option<f64> {
        let text = self.text(name);
        if text.is_empty() {
            return None;
        }
        match plain_number(text) {
            Ok(x) if (low..=high).contains(&x) => Some(x),
            Ok(_) => {
                self.bad(name, format!("{} to {} {what}.", significant(low), significant(high)));
                None
            }
            Err(e) => {
                self.bad(name, e.said(text));
                None
            }
        }
    }

    /// A quantity in the person's unit, between two in its own.
    fn quantity(&mut self, name: &str, kind: &notation::unit::Kind, [low, high]: [f64; 2]) -> Option<f64> {
        let text = self.text(name);
        if text.is_empty() {
            return None;
        }
        let units = self.show.units;
        match kind.parse(text, units) {
            Ok(x) if (low..=high).contains(&x) => Some(x),
            Ok(_) => {
                self.bad(name, format!("{} to {}.", kind.text(low, units), kind.text(high, units)));
                None
            }
            Err(why) => {
                self.bad(name, why);
                None
            }
        }
    }

    /// A moment, where one was typed; not later than now.
    pub fn moment(&mut self, name: &str, now: DateTime<Utc>) -> Option<i64> {
        let text = self.text(name);
        if text.is_empty() {
            return None;
        }
        let read = ["%Y-%m-%dT%H:%M", "%Y-%m-%dT%H:%M:%S"].iter().find_map(|f| NaiveDateTime::parse_from_str(text, f).ok());
        match read.and_then(|clock| self.show.instant(clock)) {
            Some(at) if at > now + chrono::TimeDelta::minutes(5) => {
                self.bad(name, "That is still to come.");
                None
            }
            Some(at) if (now - at).num_days() > 3650 => {
                self.bad(name, "That is over ten years ago.");
                None
            }
            Some(at) => Some(at.timestamp_millis()),
            None => {
                self.bad(name, "A day and a time: 2026-03-14 08:30.");
                None
            }
        }
    }

    /// A space of the building.
    pub fn space(&mut self, name: &str, building: &Building) -> Option<Uuid> {
        let found = self.text(name).parse().ok().and_then(|id| building.space(id)).map(|s| s.id);
        if found.is_none() {
            self.bad(name, "Choose the space.");
        }
        found
    }

    pub fn checked(&self, name: &str) -> bool {
        self.typed.contains_key(name)
    }
}

fn kinds<K: Copy>(all: &[K], of: impl Fn(K) -> (&'static str, &'static str)) -> Options {
    all.iter().map(|k| of(*k)).map(|(id, words)| (id.to_owned(), words.to_owned())).collect()
}

/// Spaces of the building.
pub fn spaces(file: &CaseFile) -> Options {
    file.building.spaces.iter().map(|s| (s.id.to_string(), s.name.clone())).collect()
}

/// Materials.
pub fn material_options() -> Options {
    materials().iter().map(|m| (m.id.clone(), m.name.clone())).collect()
}

/// The first space that got wet, else the first.
pub fn usual_space(file: &CaseFile) -> String {
    let wet = file.drying.event.as_ref().and_then(|e| e.spaces.first().copied());
    wet.or(file.building.spaces.first().map(|s| s.id)).map_or_else(String::new, |id| id.to_string())
}

/// What a form is of.
#[derive(Clone, Copy, PartialEq, Eq)]
pub enum What {
    Point,
    Points,
    Machine,
    Taken,
    Sheet,
}

impl What {
    pub fn from_id(id: &str) -> Option<Self> {
        Some(match id {
            "point" => Self::Point,
            "points" => Self::Points,
            "machine" => Self::Machine,
            "taken" => Self::Taken,
            "sheet" => Self::Sheet,
            _ => return None,
        })
    }

    pub const fn id(self) -> &'static str {
        match self {
            Self::Point => "point",
            Self::Points => "points",
            Self::Machine => "machine",
            Self::Taken => "taken",
            Self::Sheet => "sheet",
        }
    }

    pub const fn words(self, is_new: bool) -> &'static str {
        match (self, is_new) {
            (Self::Point, true) => "Add a point",
            (Self::Point, false) => "Point",
            (Self::Points, _) => "Add several points",
            (Self::Machine, true) => "Add a machine",
            (Self::Machine, false) => "Machine",
            (Self::Taken, true) => "Taken out",
            (Self::Taken, false) => "Taken out",
            (Self::Sheet, true) => "Add a sheet test",
            (Self::Sheet, false) => "Sheet test",
        }
    }

    /// The part with this id.
    pub fn find(self, job: &DryingJob, id: Uuid) -> Option<DryingItem> {
        match self {
            Self::Point => job.points.iter().find(|p| p.id == id).cloned().map(DryingItem::Point),
            Self::Machine => job.machines.iter().find(|m| m.id == id).cloned().map(DryingItem::Machine),
            Self::Taken => job.taken.iter().find(|t| t.id == id).cloned().map(DryingItem::Taken),
            Self::Sheet => job.sheets.iter().find(|s| s.id == id).cloned().map(DryingItem::Sheet),
            Self::Points => None,
        }
    }

    /// Whether there is room for more.
    pub const fn is_full(self, job: &DryingJob) -> bool {
        match self {
            Self::Point | Self::Points => job.points.len() >= MOST_POINTS,
            Self::Machine => job.machines.len() >= MOST_MACHINES,
            Self::Taken => job.taken.len() >= MOST_TAKEN,
            Self::Sheet => job.sheets.len() >= MOST_SHEETS,
        }
    }
}

/// A part as its form shows it.
pub fn as_typed(item: &DryingItem, show: &Show) -> Typed {
    let figure = |x: Option<f64>| x.map_or_else(String::new, significant);
    let moment = |ms: Option<i64>| ms.map_or_else(String::new, |ms| local(show, ms));
    let id = |id: Option<Uuid>| id.map_or_else(String::new, |id| id.to_string());
    let mut all: Vec<(&str, String)> = Vec::new();
    match item {
        DryingItem::Point(p) => all.extend([
            ("name", p.name.clone()),
            ("cavity", p.cavity.clone()),
            ("space", p.space_id.to_string()),
            ("material", p.material.clone()),
            ("standard", figure(p.standard)),
            ("goal", figure(p.goal)),
            ("cover", p.cover.clone()),
            ("tent", id(p.tent)),
            ("layer", if p.layer == 0 { String::new() } else { p.layer.to_string() }),
            ("since", moment(p.since)),
        ]),
        DryingItem::Machine(m) => {
            all.extend([
                ("name", m.name.clone()),
                ("kind", m.kind.id().to_owned()),
                ("space", m.space_id.to_string()),
                ("rated", m.rated.map_or_else(String::new, |l| DAILY.typed(l, show.units))),
                ("watts", figure(m.watts)),
                ("setting", m.setting.clone()),
                ("from", moment(m.runs.last().map(|r| r.from))),
                ("until", moment(m.runs.last().and_then(|r| r.until))),
            ]);
            if m.rated_warm {
                all.push(("warm", "1".into()));
            }
        }
        DryingItem::Taken(t) => all.extend([
            ("what_out", t.what.clone()),
            ("amount", t.amount.clone()),
            ("why", t.why.clone()),
            ("space", id(t.space_id)),
            ("photo", id(t.photo)),
            ("at", local(show, t.at)),
        ]),
        DryingItem::Sheet(s) => {
            let depth = |i: usize, j: usize| s.depths.map(|d| d[i][j]);
            let [t0, t1] = [0, 1].map(|i| depth(i, 0).map_or_else(String::new, |c| TEMPERATURE.typed(c, show.units)));
            all.extend([
                ("name", s.name.clone()),
                ("space", s.space_id.to_string()),
                ("kind", s.kind.id().to_owned()),
                ("from", local(show, s.from)),
                ("until", local(show, s.until)),
                ("area", AREA.typed(s.area_m2, show.units)),
                ("whole", AREA.typed(s.whole_m2, show.units)),
                ("grams", figure(s.grams)),
                ("t0", t0),
                ("rh0", figure(depth(0, 1))),
                ("d0", figure(depth(0, 2).map(|m| m * 100.0))),
                ("t1", t1),
                ("rh1", figure(depth(1, 1))),
                ("d1", figure(depth(1, 2).map(|m| m * 100.0))),
                ("high", s.high_month.to_string()),
            ]);
            if s.wet_on_top {
                all.push(("top", "1".into()));
            }
        }
        DryingItem::Event(_) => {}
    }
    all.into_iter().map(|(k, v)| (k.to_owned(), v)).collect()
}

/// Fields of a form, holding what was typed.
pub fn fields(what: What, file: &CaseFile, typed: &Typed, show: &Show) -> Vec<Field> {
    let text = |name: &str| typed.get(name).cloned().unwrap_or_default();
    let or = |name: &str, usual: String| typed.get(name).cloned().unwrap_or(usual);
    let space = || {
        field("space", "Space", "", Input::Choose(spaces(file)), or("space", usual_space(file)))
    };
    let degrees = notation::unit::TEMPERATURE.unit(show.units).name;
    let area = AREA.unit(show.units).name;
    match what {
        What::Point => {
            let tents = file.drying.machines.iter().filter(|m| m.kind == MachineKind::Tent);
            let tents: Options = tents.map(|m| (m.id.to_string(), m.name.clone())).collect();
            let mut all = vec![
                field("name", "Where", "wall 30 cm up, stud 4", Input::Text, text("name")),
                field("cavity", "Closed in with", "wall, floor or cavity", Input::Text, text("cavity")),
                space(),
                field("material", "Material", "", Input::Choose(material_options()), text("material")),
                field("standard", "Dry standard", "the same material, never wet", Input::Figure, text("standard")),
                field("goal", "Goal", "where it is not the usual one", Input::Figure, text("goal")),
                field("cover", "Covered by", "vinyl, foil, tile, paint; empty where bare", Input::Text, text("cover")),
                field("layer", "Layer", "1 on top, of a floor", Input::Figure, text("layer")),
            ];
            if !tents.is_empty() {
                all.push(field("tent", "Under the tent", "", Input::Choose(tents), text("tent")));
            }
            all.push(field("since", "Count readings from", "after opening it up, say", Input::Moment, text("since")));
            all
        }
        What::Points => vec![
            field("cavity", "Closed in with", "wall, floor or cavity", Input::Text, text("cavity")),
            space(),
            field("material", "Material", "where a line names none", Input::Choose(material_options()), text("material")),
            field("lines", "A point a line", "where; dry standard; goal; material", Input::Words, text("lines")),
        ],
        What::Machine => vec![
            field("kind", "What", "", Input::Choose(kinds(MachineKind::ALL, |k| (k.id(), k.words()))), text("kind")),
            field("name", "Called", "", Input::Text, text("name")),
            space(),
            field("rated", "Takes out by its label", DAILY.unit(show.units).name, Input::Figure, text("rated")),
            field("warm", "Labeled at 26.7 °C (80 °F), as before 2019", "", Input::Check, text("warm")),
            field("watts", "Draws", "W", Input::Figure, text("watts")),
            field("setting", "Set to", "fan high, 45 %, drain hose", Input::Text, text("setting")),
            field("from", "Runs since", "", Input::Moment, or("from", local(show, Utc::now().timestamp_millis()))),
            field("until", "Stopped", "empty while it runs", Input::Moment, text("until")),
        ],
        What::Taken => {
            let photos = file.photos.iter().map(|p| {
                let name = if p.note.is_empty() { p.name.clone() } else { p.note.clone() };
                (p.id.to_string(), format!("{name}, {}", show.day(p.taken_at)))
            });
            vec![
                field("what_out", "What", "carpet, drywall to 60 cm", Input::Text, text("what_out")),
                field("amount", "How much", "12 m², 3 bags", Input::Text, text("amount")),
                space(),
                field("why", "Why", "foul water, swollen, grown", Input::Text, text("why")),
                field("photo", "Photo", "", Input::Choose(photos.collect()), text("photo")),
                field("at", "When", "", Input::Moment, or("at", local(show, Utc::now().timestamp_millis()))),
            ]
        }
        What::Sheet => {
            let months: Options = MONTHS.iter().enumerate().map(|(i, m)| (i.to_string(), (*m).to_owned())).collect();
            vec![
                field("name", "Where", "slab by the drain", Input::Text, text("name")),
                space(),
                field("kind", "How", "", Input::Choose(kinds(SheetKind::ALL, |k| (k.id(), k.words()))), or("kind", "sheet".into())),
                field("from", "Laid", "", Input::Moment, text("from")),
                field("until", "Read", "", Input::Moment, or("until", local(show, Utc::now().timestamp_millis()))),
                field("area", "Area under it", area, Input::Figure, text("area")),
                field("whole", "Area it stands for", area, Input::Figure, text("whole")),
                field("grams", "Water caught", "g; 0 where dry", Input::Figure, text("grams")),
                field("top", "Wet on top, from the air", "", Input::Check, text("top")),
                field("t0", "Shallow: temperature", degrees, Input::Figure, text("t0")),
                field("rh0", "Shallow: humidity", "%", Input::Figure, text("rh0")),
                field("d0", "Shallow: depth", "cm", Input::Figure, text("d0")),
                field("t1", "Deep: temperature", degrees, Input::Figure, text("t1")),
                field("rh1", "Deep: humidity", "%", Input::Figure, text("rh1")),
                field("d1", "Deep: depth", "cm", Input::Figure, text("d1")),
                field("high", "Ground water is highest in", "", Input::Choose(months), or("high", "2".into())),
            ]
        }
    }
}

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
    let name = r.line("name", NAME, Some("Say where it is."));
    let cavity = r.line("cavity", NAME, Some("Say what is closed in together with it."));
    let space_id = r.space("space", &file.building);
    let of = material(r.text("material"));
    if of.is_none() {
        r.bad("material", "Choose the material.");
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
        r.bad("goal", format!("The same material, never wet, shows {}: it will not get drier than that.", significant(s)));
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
    let cavity = r.line("cavity", NAME, Some("Say what is closed in together."));
    let space_id = r.space("space", &file.building);
    let usual = material(r.text("material"));
    let lines: Vec<&str> = r.text("lines").lines().map(str::trim).filter(|l| !l.is_empty()).collect();
    let room = MOST_POINTS - file.drying.points.len().min(MOST_POINTS);
    if lines.is_empty() {
        r.bad("lines", "A point a line: stud 4, 30 cm up; 11");
    } else if lines.len() > room {
        r.bad("lines", format!("{} lines; a job has {MOST_POINTS} points at most, so there is room for {room}.", lines.len()));
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
            Err(why) => r.bad("lines", format!("Line {}, “{}”: {why}", i + 1, line.chars().take(30).collect::<String>())),
        }
    }
    space_id.map(|_| made)
}

fn one_line(line: &str, usual: Option<&'static judgment::drying::DryMaterial>) -> Result<DryPoint, String> {
    let mut parts = line.split(';').map(str::trim);
    let mut next = || parts.next().unwrap_or("");
    let [name, standard, goal, named] = [next(), next(), next(), next()];
    let count = name.chars().count();
    if !(1..=NAME).contains(&count) || name.chars().any(char::is_control) {
        return Err(format!("it begins with where it is, in at most {NAME} characters."));
    }
    let by_name = |text: &str| {
        let text = text.to_lowercase();
        materials().iter().find(|m| m.id == text || m.name.to_lowercase().starts_with(&text))
    };
    let of = if named.is_empty() { usual } else { by_name(named) };
    let of = of.ok_or_else(|| if named.is_empty() { "choose a material above.".to_owned() } else { format!("“{named}” is no material of the list.") })?;
    let figure = |text: &str| match plain_number(text) {
        _ if text.is_empty() => Ok(None),
        Ok(x) if (0.1..=most(of.scale)).contains(&x) => Ok(Some(x)),
        Ok(_) => Err(format!("0.1 to {}.", most(of.scale))),
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
        r.bad("kind", "Choose what it is.");
    }
    let name = r.line("name", NAME, Some("Name it, so that it is found again."));
    let space_id = r.space("space", &file.building);
    let rated = r.quantity("rated", &DAILY, [0.1, 500.0]);
    if kind.is_some_and(MachineKind::dries) && rated.is_none() && r.text("rated").is_empty() {
        r.bad("rated", "What does its label say it takes out a day?");
    }
    let watts = r.figure("watts", [1.0, 20_000.0], "W");
    let setting = r.line("setting", NAME, None);
    let (from, until) = (r.moment("from", now), r.moment("until", now));
    if let (Some(from), Some(until)) = (from, until)
        && until < from
    {
        r.bad("until", "It stopped before it started.");
    }
    if from.is_none() && until.is_some() {
        r.bad("from", "Since when did it run?");
    }
    // The form holds the last time it ran; those before stay.
    let mut runs: Vec<Run> = before.map(|m| m.runs.clone()).unwrap_or_default();
    runs.pop();
    if let (Some(from), Some(end)) = (from, runs.last().and_then(|r| r.until))
        && from < end
    {
        let end = DateTime::from_timestamp_millis(end).unwrap_or_default();
        r.bad("from", format!("It ran before until {}: begin after that.", r.show.moment(end)));
    }
    runs.extend(from.map(|from| Run { from, until }));
    Some(Machine { id, kind: kind?, name, space_id: space_id?, rated, rated_warm: r.checked("warm"), watts, setting, runs })
}

fn taken(r: &mut Reader<'_>, file: &CaseFile, id: Uuid, now: DateTime<Utc>) -> Option<Taken> {
    let what = r.line("what_out", NAME, Some("Say what was taken out."));
    let amount = r.line("amount", NAME, None);
    let why = r.line("why", WORDS, None);
    let photo = r.text("photo").parse().ok().filter(|id| file.photos.iter().any(|p| p.id == *id));
    let space_id = if r.text("space").is_empty() { None } else { r.space("space", &file.building) };
    let at = r.moment("at", now).unwrap_or_else(|| now.timestamp_millis());
    Some(Taken { id, space_id, what, amount, why, photo, at })
}

fn sheet(r: &mut Reader<'_>, file: &CaseFile, id: Uuid, now: DateTime<Utc>) -> Option<SheetTest> {
    let name = r.line("name", NAME, Some("Say where it lies."));
    let space_id = r.space("space", &file.building);
    let kind = SheetKind::from_id(r.text("kind"));
    if kind.is_none() {
        r.bad("kind", "Choose how it was measured.");
    }
    let (from, until) = (r.moment("from", now), r.moment("until", now));
    let is_depths = kind == Some(SheetKind::Depths);
    let until = until.unwrap_or_else(|| now.timestamp_millis());
    if from.is_none() && !is_depths && r.text("from").is_empty() {
        r.bad("from", "When was it laid?");
    }
    if from.is_some_and(|f| until - f < 3_600_000) && !is_depths {
        r.bad("until", "It must lie for an hour at least; a day or two says more.");
    }
    let area_m2 = r.quantity("area", &AREA, [0.001, 100.0]);
    let grams = r.figure("grams", [0.0, 100_000.0], "g");
    let depths = is_depths.then(|| depths(r)).flatten();
    if !is_depths {
        if area_m2.is_none() && r.text("area").is_empty() {
            r.bad("area", "The area under it is needed.");
        }
        if grams.is_none() && r.text("grams").is_empty() {
            r.bad("grams", "What was caught? 0 where it was dry.");
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
                r.bad(name, "Two depths need temperature, humidity and depth each.");
            }
        }
        Some([celsius?, humid?, deep?])
    };
    let (shallow, deep) = (one("t0", "rh0", "d0"), one("t1", "rh1", "d1"));
    let (shallow, deep) = (shallow?, deep?);
    if deep[2] <= shallow[2] {
        r.bad("d1", "The deep one lies under the shallow one.");
    }
    Some([shallow, deep])
}
