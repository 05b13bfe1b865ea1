//! A report as its form holds it, and read back.

use crate::fields::{Options, Reader, Typed, Wrongs, kinds};
use building::report::{
    Detail, LONGEST_HEADING, LONGEST_TEXT, MOST_TEXTS, Paper, ReportDraft, ReportItem, ReportPart, ReportReader,
};
use casework::CaseFile;
use language::{Language, known, say};
use notation::Show;

/// Something in the order of a report, with its fields.
pub struct ItemRow {
    /// Its place, by which its fields are named.
    pub n: usize,
    /// The part, and whether it is in; nothing for own words.
    pub part: Option<(&'static str, &'static str, bool)>,
    pub heading: String,
    pub text: String,
    /// Whether there is anything of it on this job.
    pub empty: bool,
}

/// Units of a report: those of whoever makes it, or one of both.
pub fn units() -> Options {
    [("", say!("mine, when it is made")), ("metric", say!("metric")), ("us", say!("US"))]
        .map(|(a, b)| (a.into(), b.into()))
        .to_vec()
}

pub fn languages() -> Options {
    Language::ALL.map(|l| (l.id().to_owned(), l.name().to_owned())).to_vec()
}

pub fn details() -> Options {
    kinds(Detail::ALL, |d| (d.id(), known(d.words())))
}

pub fn papers() -> Options {
    kinds(Paper::ALL, |p| (p.id(), known(p.words())))
}

/// Visits a report can be of, the latest first.
pub fn visits(show: &Show, file: &CaseFile) -> Options {
    let one = |v: &store::Visit| {
        (
            v.id.to_string(),
            say!("visit {file}, {started_at}", file = file.visit_number(v.id), started_at = show.day(v.started_at)),
        )
    };
    std::iter::once((String::new(), say!("the latest").to_owned())).chain(file.visits.iter().map(one)).collect()
}

/// The draft’s items as rows of its form.
pub fn rows(file: &CaseFile, draft: &ReportDraft) -> Vec<ItemRow> {
    let row = |(n, item): (usize, &ReportItem)| match item {
        ReportItem::Part { part, shown } => ItemRow {
            n,
            part: Some((part.id(), known(part.words()), *shown)),
            heading: String::new(),
            text: String::new(),
            empty: nothing(file, *part),
        },
        ReportItem::Text { heading, text } => {
            ItemRow { n, part: None, heading: heading.clone(), text: text.clone(), empty: false }
        }
    };
    draft.items.iter().enumerate().map(row).collect()
}

/// Whether a job has nothing of a part.
fn nothing(file: &CaseFile, part: ReportPart) -> bool {
    match part {
        ReportPart::Unfolded => file.maps.is_empty(),
        ReportPart::Thermal => file.thermals.is_empty(),
        ReportPart::BuildUps => file.building.variants.is_empty(),
        ReportPart::Log => file.log().is_none(),
        ReportPart::Photos => file.photos.is_empty(),
        ReportPart::Drying => file.drying.event.is_none(),
        ReportPart::Found => file.findings.is_empty() && file.tests.is_empty(),
        _ => false,
    }
}

/// Reads a draft from its form. What is wrong is named by field; the draft then holds what was typed all the same.
pub fn read(file: &CaseFile, was: &ReportDraft, typed: &Typed, show: &Show) -> (ReportDraft, Wrongs) {
    let mut r = Reader::new(typed, show);
    let title = r.line("title", LONGEST_HEADING, Some(say!("A report has a name.")));
    let visit = r.text("visit").parse().ok().filter(|id| file.visits.iter().any(|v| v.id == *id));
    let us_units = match r.text("units") {
        "us" => Some(true),
        "metric" => Some(false),
        _ => None,
    };
    let draft = ReportDraft {
        id: was.id,
        title,
        visit,
        us_units,
        language: Language::from_id(r.text("language")).unwrap_or(was.language),
        reader: ReportReader::from_id(r.text("reader")).unwrap_or(was.reader),
        detail: Detail::from_id(r.text("detail")).unwrap_or(was.detail),
        paper: Paper::from_id(r.text("paper")).unwrap_or(was.paper),
        items: items(&mut r),
    };
    (draft, r.wrong)
}

/// Every part once, in the order typed; parts the form does not name stand last, not in.
fn items(r: &mut Reader) -> Vec<ReportItem> {
    let mut all: Vec<ReportItem> = Vec::new();
    let named = |all: &[ReportItem], p: ReportPart| {
        all.iter().any(|i| matches!(i, ReportItem::Part { part, .. } if *part == p))
    };
    for n in 0..ReportPart::ALL.len() + MOST_TEXTS {
        let kind = r.text(&format!("item.{n}"));
        if kind == "text" {
            let (name, heading) = (format!("text.{n}"), format!("heading.{n}"));
            let text = r.text(&name).replace("\r\n", "\n");
            let length = text.chars().count();
            if length > LONGEST_TEXT {
                r.bad(&name, say!("{length} characters; {longest_text} at most.", length, longest_text = LONGEST_TEXT));
            }
            let heading = r.line(&heading, LONGEST_HEADING, None);
            all.push(ReportItem::Text { heading, text });
        } else if let Some(part) = ReportPart::from_id(kind).filter(|p| !named(&all, *p)) {
            all.push(ReportItem::Part { part, shown: r.checked(&format!("shown.{n}")) });
        }
    }
    let rest: Vec<ReportPart> = ReportPart::ALL.iter().copied().filter(|p| !named(&all, *p)).collect();
    all.extend(rest.into_iter().map(|part| ReportItem::Part { part, shown: false }));
    all
}

/// What a button of the form does to the draft; where to look afterwards. `None` for a button there is none of.
pub fn change(file: &CaseFile, draft: &mut ReportDraft, act: &str) -> Option<usize> {
    let (what, which) = act.split_once('.').unwrap_or((act, ""));
    let n: Option<usize> = which.parse().ok().filter(|n| *n < draft.items.len());
    let texts = draft.items.iter().filter(|i| matches!(i, ReportItem::Text { .. })).count();
    let blank = || ReportItem::Text { heading: String::new(), text: String::new() };
    match what {
        "save" => Some(0),
        "up" => n.map(|n| {
            draft.items.swap(n, n.saturating_sub(1));
            n.saturating_sub(1)
        }),
        "down" => n.map(|n| {
            let next = (n + 1).min(draft.items.len() - 1);
            draft.items.swap(n, next);
            next
        }),
        "remove" => n.filter(|n| matches!(draft.items[*n], ReportItem::Text { .. })).map(|n| {
            draft.items.remove(n);
            n.saturating_sub(1)
        }),
        "add" if texts < MOST_TEXTS => {
            draft.items.insert(0, blank());
            Some(0)
        }
        "insert" if texts < MOST_TEXTS => {
            let block =
                which.parse().ok().and_then(|id: uuid::Uuid| file.reports.blocks.iter().find(|b| b.id == id))?;
            draft.items.insert(0, ReportItem::Text { heading: block.heading.clone(), text: block.text.clone() });
            Some(0)
        }
        "usual" => {
            let usual = ReportDraft::usual(draft.id, draft.reader, draft.title.clone());
            let own = draft.items.iter().filter(|i| matches!(i, ReportItem::Text { .. })).cloned();
            draft.items = own.chain(usual.items).collect();
            draft.detail = usual.detail;
            Some(0)
        }
        _ => None,
    }
}
