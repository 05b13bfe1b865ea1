//! A picture with its marks, ready to show.

use crate::part::part;
use building::Spot;
use building::{Building, Place};
use casework::CaseFile;
use drawing::{DrawnMark, drawn};
use judgment::finding::finding;
use language::say;
use notation::Show;
use photograph::{Mark, tall};
use store::{FindingRecord, Photo};
use uuid::Uuid;

/// A picture.
pub struct Shown {
    /// Id.
    pub id: Uuid,
    /// The job it belongs to.
    pub job_id: Uuid,
    /// Name.
    pub name: String,
    /// Note.
    pub note: String,
    /// Where it was taken, or which finding it shows.
    pub place: String,
    /// When.
    pub when: String,
    /// Width.
    pub width: i32,
    /// Height.
    pub height: i32,
    /// Height of the drawing over it, whose width is 1000.
    pub tall: i32,
    /// Marks on it.
    pub marks: Vec<DrawnMark>,
}

impl Shown {
    /// What is said of it to somebody who cannot see it.
    pub fn alt(&self) -> String {
        let words: Vec<&str> = self.marks.iter().map(|m| m.words.as_str()).filter(|w| !w.is_empty()).collect();
        let marked = if words.is_empty() { String::new() } else { say!("; marked: {join}", join = words.join(", ")) };
        let said = if self.note.is_empty() { &self.name } else { &self.note };
        say!("Photo of {place}: {said}{marked}", place = self.place, said, marked)
    }
}

/// What a picture belongs to: a finding, or a place as a finding has one.
#[derive(Clone, Copy, Default, PartialEq, Eq)]
pub struct Subject {
    /// The finding it shows.
    pub finding: Option<Uuid>,
    /// Its place.
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

    /// Of a picture.
    pub fn of(photo: &Photo) -> Self {
        let spot = photo.spot;
        Self { finding: photo.finding_id, spot }
    }

    /// Id.
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
        let Some(row) = findings.iter().find(|f| f.id == id) else { return say!("a finding since removed").into() };
        let name = finding(&row.what).map_or(row.what.as_str(), |f| f.name.as_str());
        format!("{name}, {}", row.spot.name(building))
    }
}

/// A picture for a file.
pub fn shown(show: &Show, building: &Building, findings: &[FindingRecord], row: &Photo) -> Shown {
    let marks = part(|| {
        let marks: Vec<Mark> = serde_json::from_value(row.marks.clone()).unwrap_or_default();
        marks.into_iter().map(drawn).collect()
    });
    Shown {
        id: row.id,
        job_id: row.job_id,
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
pub fn pictures(show: &Show, file: &CaseFile, place: Place) -> Vec<Shown> {
    let here = Spot::from(place);
    if here == Spot::Whole {
        return Vec::new();
    }
    let taken = file.photos.iter().rev().filter(|p| Subject::of(p).place(&file.findings) == here);
    taken.map(|p| shown(show, &file.building, &file.findings, p)).collect()
}
