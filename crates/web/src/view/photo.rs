//! A picture with its marks, ready to show.

use super::part::part;
use crate::job_page::JobPage;
use building::Spot;
use building::{Building, Place};
use judgment::finding::finding;
use notation::Show;
use photograph::{Mark, Shape, tall};
use store::{FindingRecord, Photo};
use uuid::Uuid;

/// A picture.
pub struct Shown {
    pub id: Uuid,
    /// Address of its own page; its files are below it.
    pub href: String,
    pub name: String,
    pub note: String,
    /// Where it was taken, or which finding it shows.
    pub place: String,
    pub when: String,
    pub width: i32,
    pub height: i32,
    /// Height of the drawing over it, whose width is 1000.
    pub tall: i32,
    pub marks: Vec<Drawn>,
}

/// A mark as lines.
pub struct Drawn {
    pub arrow: Option<[i32; 4]>,
    pub circle: Option<[i32; 3]>,
    pub words: String,
    /// Where the words stand.
    pub at: (i32, i32),
    /// Whether they stand to the left of it, and how far below their line.
    pub left: bool,
    pub down: i32,
}

impl Shown {
    /// What is said of it to somebody who cannot see it.
    pub fn alt(&self) -> String {
        let words: Vec<&str> = self.marks.iter().map(|m| m.words.as_str()).filter(|w| !w.is_empty()).collect();
        let marked = if words.is_empty() { String::new() } else { format!("; marked: {}", words.join(", ")) };
        let said = if self.note.is_empty() { &self.name } else { &self.note };
        format!("Photo of {}: {said}{marked}", self.place)
    }
}

/// What a picture belongs to: a finding, or a place as a finding has one.
#[derive(Clone, Copy, Default, PartialEq, Eq)]
pub struct Subject {
    pub finding: Option<Uuid>,
    pub spot: Spot,
}

impl Subject {
    /// The finding or place with this id; the whole building for no id. `None` when there is no such thing.
    pub fn parse(building: &Building, findings: &[FindingRecord], text: &str) -> Option<Self> {
        let id: Option<Uuid> = text.trim().parse().ok();
        let of_finding = |f: &FindingRecord| Self { finding: Some(f.id), spot: Spot::Whole };
        let found = findings.iter().find(|f| Some(f.id) == id).map(of_finding);
        found.or_else(|| Some(Self { finding: None, spot: Spot::parse(building, text)? }))
    }

    pub fn of(photo: &Photo) -> Self {
        let spot = photo.spot;
        Self { finding: photo.finding_id, spot }
    }

    pub fn id(self) -> Option<Uuid> {
        self.finding.or_else(|| self.spot.id())
    }

    /// The place it is drawn at: a finding's picture is where the finding is.
    pub fn place(self, findings: &[FindingRecord]) -> Spot {
        let of = |id: Uuid| findings.iter().find(|f| f.id == id).map(|f| f.spot);
        self.finding.and_then(of).unwrap_or(self.spot)
    }

    /// What it is called.
    pub fn name(self, building: &Building, findings: &[FindingRecord]) -> String {
        let Some(id) = self.finding else { return self.spot.name(building).to_owned() };
        let Some(row) = findings.iter().find(|f| f.id == id) else { return "a finding since removed".into() };
        let name = finding(&row.what).map_or(row.what.as_str(), |f| f.name.as_str());
        format!("{name}, {}", row.spot.name(building))
    }
}

/// A picture for a page.
pub fn shown(show: &Show, building: &Building, findings: &[FindingRecord], row: &Photo) -> Shown {
    let marks = part("marks of a photo", || {
        let marks: Vec<Mark> = serde_json::from_value(row.marks.clone()).unwrap_or_default();
        marks.into_iter().map(drawn).collect()
    });
    Shown {
        id: row.id,
        href: format!("/jobs/{}/photos/{}", row.job_id, row.id),
        name: row.name.clone(),
        note: row.note.clone(),
        place: Subject::of(row).name(building, findings),
        when: show.moment(row.taken_at),
        width: row.width,
        height: row.height,
        tall: tall((row.width.unsigned_abs(), row.height.unsigned_abs())),
        marks: marks.unwrap_or_default(),
    }
}

/// The pictures taken at a place, the latest first.
pub fn pictures(show: &Show, page: &JobPage, place: Place) -> Vec<Shown> {
    let here = Spot::from(place);
    if here == Spot::Whole {
        return Vec::new();
    }
    let taken = page.photos.iter().rev().filter(|p| Subject::of(p).place(&page.findings) == here);
    taken.map(|p| shown(show, &page.building, &page.findings, p)).collect()
}

fn drawn(mark: Mark) -> Drawn {
    let words = mark.words;
    match mark.shape {
        // Words stand at the foot of an arrow, away from its shaft, or beside a circle, on the side where there is room.
        Shape::Arrow { from, to } => Drawn {
            arrow: Some([from.0, from.1, to.0, to.1]),
            circle: None,
            words,
            at: from,
            left: from.0 > 700 || (from.0 < to.0 && from.0 > 250),
            down: if to.1 < from.1 { 42 } else { -16 },
        },
        Shape::Circle { at, r } => {
            let left = at.0.saturating_add(r) > 700;
            let x = if left { at.0.saturating_sub(r) } else { at.0.saturating_add(r) };
            Drawn { arrow: None, circle: Some([at.0, at.1, r]), words, at: (x, at.1), left, down: 10 }
        }
    }
}
