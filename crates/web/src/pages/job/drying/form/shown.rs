//! A form as it stands on the page.

use super::{What, material_options, spaces};
use crate::fields::{Field, Input, Options, Typed, field, kinds, local};
use building::drying::{DryingItem, MachineKind, SheetKind};
use casework::CaseFile;
use chrono::Utc;
use language::{known, say};
use notation::number::significant;
use notation::unit::{AREA, DAILY, TEMPERATURE};
use notation::{Show, months};
use uuid::Uuid;

/// The first space that got wet, else the first.
fn usual_space(file: &CaseFile) -> String {
    let wet = file.drying.event.as_ref().and_then(|e| e.spaces.first().copied());
    wet.or(file.building.spaces.first().map(|s| s.id)).map_or_else(String::new, |id| id.to_string())
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
    let form = Holding { file, typed, show };
    match what {
        What::Point => form.point(),
        What::Points => form.points(),
        What::Machine => form.machine(),
        What::Taken => form.taken(),
        What::Sheet => form.sheet(),
    }
}

/// What a form holds, and what it is of.
struct Holding<'a> {
    file: &'a CaseFile,
    typed: &'a Typed,
    show: &'a Show,
}

impl Holding<'_> {
    fn text(&self, name: &str) -> String {
        self.or(name, String::new())
    }

    fn or(&self, name: &str, usual: String) -> String {
        self.typed.get(name).cloned().unwrap_or(usual)
    }

    fn space(&self) -> Field {
        let usual = self.or("space", usual_space(self.file));
        field("space", say!("Space"), "", Input::Choose(spaces(self.file)), usual)
    }

    fn point(&self) -> Vec<Field> {
        let tents = self.file.drying.machines.iter().filter(|m| m.kind == MachineKind::Tent);
        let tents: Options = tents.map(|m| (m.id.to_string(), m.name.clone())).collect();
        let mut all = vec![
            field("name", say!("Where"), say!("wall 30 cm up, stud 4"), Input::Text, self.text("name")),
            field("cavity", say!("Closed in with"), say!("wall, floor or cavity"), Input::Text, self.text("cavity")),
            self.space(),
            field("material", say!("Material"), "", Input::Choose(material_options()), self.text("material")),
            field(
                "standard",
                say!("Dry standard"),
                say!("the same material, never wet"),
                Input::Figure,
                self.text("standard"),
            ),
            field("goal", say!("Goal"), say!("where it is not the usual one"), Input::Figure, self.text("goal")),
            field(
                "cover",
                say!("Covered by"),
                say!("vinyl, foil, tile, paint; empty where bare"),
                Input::Text,
                self.text("cover"),
            ),
            field("layer", say!("Layer"), say!("1 on top, of a floor"), Input::Figure, self.text("layer")),
        ];
        if !tents.is_empty() {
            all.push(field("tent", say!("Under the tent"), "", Input::Choose(tents), self.text("tent")));
        }
        all.push(field(
            "since",
            say!("Count readings from"),
            say!("after opening it up, say"),
            Input::Moment,
            self.text("since"),
        ));
        all
    }

    fn points(&self) -> Vec<Field> {
        vec![
            field("cavity", say!("Closed in with"), say!("wall, floor or cavity"), Input::Text, self.text("cavity")),
            self.space(),
            field(
                "material",
                say!("Material"),
                say!("where a line names none"),
                Input::Choose(material_options()),
                self.text("material"),
            ),
            field(
                "lines",
                say!("A point a line"),
                say!("where; dry standard; goal; material"),
                Input::Words,
                self.text("lines"),
            ),
        ]
    }

    fn machine(&self) -> Vec<Field> {
        vec![
            field(
                "kind",
                say!("What"),
                "",
                Input::Choose(kinds(MachineKind::ALL, |k| (k.id(), known(k.words())))),
                self.text("kind"),
            ),
            field("name", say!("Called"), "", Input::Text, self.text("name")),
            self.space(),
            field(
                "rated",
                say!("Takes out by its label"),
                DAILY.unit(self.show.units).name(),
                Input::Figure,
                self.text("rated"),
            ),
            field("warm", say!("Labeled at 26.7 °C (80 °F), as before 2019"), "", Input::Check, self.text("warm")),
            field("watts", say!("Draws"), "W", Input::Figure, self.text("watts")),
            field("setting", say!("Set to"), say!("fan high, 45 %, drain hose"), Input::Text, self.text("setting")),
            field(
                "from",
                say!("Runs since"),
                "",
                Input::Moment,
                self.or("from", local(self.show, Utc::now().timestamp_millis())),
            ),
            field("until", say!("Stopped"), say!("empty while it runs"), Input::Moment, self.text("until")),
        ]
    }

    fn taken(&self) -> Vec<Field> {
        let photos = self.file.photos.iter().map(|p| {
            let name = if p.note.is_empty() { p.name.clone() } else { p.note.clone() };
            (p.id.to_string(), format!("{name}, {}", self.show.day(p.taken_at)))
        });
        vec![
            field("what_out", say!("What"), say!("carpet, drywall to 60 cm"), Input::Text, self.text("what_out")),
            field("amount", say!("How much"), say!("12 m², 3 bags"), Input::Text, self.text("amount")),
            self.space(),
            field("why", say!("Why"), say!("foul water, swollen, grown"), Input::Text, self.text("why")),
            field("photo", say!("Photo"), "", Input::Choose(photos.collect()), self.text("photo")),
            field(
                "at",
                say!("When"),
                "",
                Input::Moment,
                self.or("at", local(self.show, Utc::now().timestamp_millis())),
            ),
        ]
    }

    fn sheet(&self) -> Vec<Field> {
        let degrees = TEMPERATURE.unit(self.show.units).name();
        let area = AREA.unit(self.show.units).name();
        let months: Options = months().iter().enumerate().map(|(i, m)| (i.to_string(), (*m).to_owned())).collect();
        vec![
            field("name", say!("Where"), say!("slab by the drain"), Input::Text, self.text("name")),
            self.space(),
            field(
                "kind",
                say!("How"),
                "",
                Input::Choose(kinds(SheetKind::ALL, |k| (k.id(), known(k.words())))),
                self.or("kind", "sheet".into()),
            ),
            field("from", say!("Laid"), "", Input::Moment, self.text("from")),
            field(
                "until",
                say!("Read"),
                "",
                Input::Moment,
                self.or("until", local(self.show, Utc::now().timestamp_millis())),
            ),
            field("area", say!("Area under it"), area, Input::Figure, self.text("area")),
            field("whole", say!("Area it stands for"), area, Input::Figure, self.text("whole")),
            field("grams", say!("Water caught"), say!("g; 0 where dry"), Input::Figure, self.text("grams")),
            field("top", say!("Wet on top, from the air"), "", Input::Check, self.text("top")),
            field("t0", say!("Shallow: temperature"), degrees, Input::Figure, self.text("t0")),
            field("rh0", say!("Shallow: humidity"), "%", Input::Figure, self.text("rh0")),
            field("d0", say!("Shallow: depth"), "cm", Input::Figure, self.text("d0")),
            field("t1", say!("Deep: temperature"), degrees, Input::Figure, self.text("t1")),
            field("rh1", say!("Deep: humidity"), "%", Input::Figure, self.text("rh1")),
            field("d1", say!("Deep: depth"), "cm", Input::Figure, self.text("d1")),
            field("high", say!("Ground water is highest in"), "", Input::Choose(months), self.or("high", "2".into())),
        ]
    }
}
