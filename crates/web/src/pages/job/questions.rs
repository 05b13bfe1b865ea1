//! Questions people ask before they build: all with their answers, and one at a time with its figures.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Path, Query};
use crate::places::BUILD_UPS;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::response::{IntoResponse, Response};
use building::construction::Variant;
use building::{Boundary, SpaceKind};
use casework::special::{self, boundaries};
use casework::{CaseFile, InView};
use drawing::DropMark;
use judgment::cautions::{LOCAL_CODE, cautions_of};
use judgment::climate::year;
use judgment::construction::Outdoors;
use judgment::hours::MoistureClass;
use judgment::special::{Field, Given, Mark, Reply, Special, Where, reply, special, specials};
use language::{known, known_of, say};
use notation::Show;
use std::collections::HashMap;
use store::Depth;
use uuid::Uuid;
use wording::plan::kind_of;
use wording::special::{figure, outcome, source, text};

/// What was typed, by the field's id.
type Typed = HashMap<String, String>;

/// A question in the list, with how it stands.
struct Row {
    id: &'static str,
    name: &'static str,
    mark: DropMark,
    head: &'static str,
}

#[derive(Template, WebTemplate)]
#[template(path = "questions.html")]
struct QuestionsPage {
    frame: Frame,
    job: JobFrame,
    rows: Vec<Row>,
}

/// A field as it stands in the form.
struct FieldView {
    id: &'static str,
    label: &'static str,
    note: &'static str,
    unit: &'static str,
    value: String,
    /// Where the figure comes from, where nobody typed it.
    from: String,
    error: Option<String>,
}

/// A choice as it stands in the form: its id, its name, and its options.
struct ChoiceView {
    id: &'static str,
    label: &'static str,
    options: Vec<(String, String, bool)>,
}

/// A way compared.
struct WayRow {
    name: &'static str,
    mark: DropMark,
    figures: Vec<String>,
}

/// The answer.
struct AnswerView {
    mark: DropMark,
    head: &'static str,
    text: String,
    columns: Vec<&'static str>,
    ways: Vec<WayRow>,
}

#[derive(Template, WebTemplate)]
#[template(path = "question.html")]
struct QuestionPage {
    frame: Frame,
    job: JobFrame,
    asked: &'static Special,
    fields: Vec<FieldView>,
    choices: Vec<ChoiceView>,
    answer: Option<AnswerView>,
    cautions: Vec<String>,
}

#[derive(Template, WebTemplate)]
#[template(path = "parts/question_answer.html")]
struct AnswerPart {
    frame: Frame,
    answer: Option<AnswerView>,
}

fn drop_mark(mark: Mark) -> DropMark {
    DropMark { symbol: mark.id(), word: known(mark.words()) }
}

/// What a question is asked with.
struct Asked<'a> {
    given: Given,
    fields: Vec<FieldView>,
    choices: Vec<ChoiceView>,
    of: Option<(&'a Boundary, Variant)>,
}

/// A field: as typed, else as the job knows it, else the table's.
fn field(file: &CaseFile, show: &Show, f: &'static Field, typed: &Typed) -> (f64, FieldView) {
    let kind = kind_of(f.measure);
    let within = |x: f64| (f.range[0]..=f.range[1]).contains(&x);
    let known = special::known(file, &f.from).filter(|(x, _)| within(*x));
    let own = typed.get(&f.id).map(|t| t.trim()).filter(|t| !t.is_empty());
    let (x, value, from, error) = match (own, known) {
        (Some(text), _) => match kind.parse(text, show.units) {
            Ok(x) if within(x) => (x, text.to_owned(), String::new(), None),
            Ok(_) => {
                let [low, high] = f.range.map(|x| kind.text(x, show.units));
                (f64::NAN, text.to_owned(), String::new(), Some(say!("It must be {low} to {high}.", low, high)))
            }
            Err(e) => (f64::NAN, text.to_owned(), String::new(), Some(e)),
        },
        (None, Some((x, known))) => (x, rounded(kind, x, show), source(&known), None),
        (None, None) => (f.usual, rounded(kind, f.usual, show), String::new(), None),
    };
    let unit = kind.unit(show.units).name();
    (x, FieldView { id: &f.id, label: &f.label, note: &f.note, unit, value, from, error })
}

fn rounded(kind: &notation::unit::Kind, x: f64, show: &Show) -> String {
    notation::number::significant(kind.shown(x, show.units))
}

fn asked<'a>(file: &'a CaseFile, show: &Show, s: &'static Special, typed: &Typed) -> Asked<'a> {
    let mut out = Asked { given: Given::default(), fields: Vec::new(), choices: Vec::new(), of: None };
    for f in &s.field {
        let (x, view) = field(file, show, f, typed);
        out.given.figures.insert(f.id.clone(), x);
        out.fields.push(view);
    }
    if s.boundary {
        let mut all = boundaries(file, s);
        let id = |b: &Boundary, v: &Variant| format!("{}.{}", b.id, v.id);
        let wanted = typed.get("of").and_then(|of| all.iter().position(|(b, v)| id(b, v) == *of)).unwrap_or(0);
        let options = all
            .iter()
            .enumerate()
            .map(|(i, (b, v))| (id(b, v), format!("{}: {}", b.name, known_of(&v.name)), i == wanted));
        out.choices.push(ChoiceView { id: "of", label: say!("Which"), options: options.collect() });
        out.of = (wanted < all.len()).then(|| all.swap_remove(wanted));
    }
    for c in &s.choice {
        let chosen = typed.get(&c.id).filter(|t| c.options.iter().any(|(id, _)| id == *t)).unwrap_or(&c.usual);
        out.given.words.insert(c.id.clone(), chosen.clone());
        let options = c.options.iter().map(|(id, name)| (id.clone(), known_of(name), id == chosen)).collect();
        out.choices.push(ChoiceView { id: &c.id, label: &c.label, options });
    }
    out
}

fn replied(file: &CaseFile, s: &'static Special, with: &Asked) -> Option<Reply> {
    if with.given.figures.values().any(|x| x.is_nan()) {
        return None;
    }
    let outdoors = Outdoors::of(year(file.job.climate));
    let of = with.of.as_ref().map(|(b, v)| (*b, v));
    let at = Where { building: &file.building, outdoors: &outdoors, class: MoistureClass::Ordinary, of };
    reply(&s.id, &with.given, at)
}

fn answered(show: &Show, s: &'static Special, said: &Reply) -> Option<AnswerView> {
    let outcome = outcome(s, said)?;
    let way = |told: &judgment::special::Told| {
        let way = s.option.iter().find(|w| w.id == told.id)?;
        let figures = told.figures.iter().zip(&s.column);
        let figures = figures.map(|(x, c)| x.map_or_else(|| "–".into(), |x| figure(show, c.measure, x)));
        Some(WayRow { name: known(&way.name), mark: drop_mark(told.mark), figures: figures.collect() })
    };
    Some(AnswerView {
        mark: drop_mark(outcome.mark),
        head: &outcome.head,
        text: text(show, outcome, said),
        columns: s.column.iter().map(|c| known(&c.label)).collect(),
        ways: said.options.iter().filter_map(way).collect(),
    })
}

/// The answer to a question with what it was asked with.
fn answer(file: &CaseFile, show: &Show, s: &'static Special, with: &Asked) -> Option<AnswerView> {
    replied(file, s, with).and_then(|r| answered(show, s, &r))
}

/// Every question with how it stands for this job.
pub async fn list(who: Who, Path(job): Path<Uuid>) -> Result<Response, Failure> {
    let file = who.file(job, InView::Latest, Depth::Visit).await?;
    let (show, none) = (who.show(), Typed::new());
    let row = |s: &'static Special| {
        let said = replied(&file, s, &asked(&file, &show, s, &none));
        let outcome = said.as_ref().and_then(|r| outcome(s, r));
        Row {
            id: &s.id,
            name: &s.name,
            mark: outcome.map_or(DropMark::NONE, |o| drop_mark(o.mark)),
            head: outcome.map_or("", |o| o.head.as_str()),
        }
    };
    let rows = specials().iter().map(row).collect();
    Ok(QuestionsPage { frame: Frame::of(&who, &file), job: JobFrame::new(&file, BUILD_UPS), rows }.into_response())
}

/// A question with its figures and its answer.
pub async fn page(
    who: Who,
    Path((job, id)): Path<(Uuid, String)>,
    Query(typed): Query<Typed>,
) -> Result<Response, Failure> {
    let s = special(&id).ok_or(Failure::NotFound)?;
    let file = who.file(job, InView::Latest, Depth::Visit).await?;
    let show = who.show();
    let with = asked(&file, &show, s, &typed);
    let answer = answer(&file, &show, s, &with);
    let kinds: Vec<SpaceKind> = file.building.kinds();
    let frame = Frame::of(&who, &file);
    let said = cautions_of(&kinds, &s.work).map(|c| frame.say(&c.text));
    let cautions = said.chain([LOCAL_CODE.to_owned()]).collect();
    let job = JobFrame::new(&file, BUILD_UPS);
    Ok(QuestionPage { frame, job, asked: s, fields: with.fields, choices: with.choices, answer, cautions }
        .into_response())
}

/// The answer while typing.
pub async fn live(
    who: Who,
    Path((job, id)): Path<(Uuid, String)>,
    Query(typed): Query<Typed>,
) -> Result<Response, Failure> {
    let s = special(&id).ok_or(Failure::NotFound)?;
    let file = who.file(job, InView::Latest, Depth::Visit).await?;
    let show = who.show();
    let answer = answer(&file, &show, s, &asked(&file, &show, s, &typed));
    Ok(AnswerPart { frame: Frame::of(&who, &file), answer }.into_response())
}
