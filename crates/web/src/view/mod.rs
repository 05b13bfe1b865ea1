//! View models: text, marks and geometry, ready for templates.

pub mod at;
pub mod conflict;
pub mod last_change;
pub mod line;
pub mod pages;

use crate::access::Right;
use crate::auth::Who;
use crate::places::{self, Link, Stop};
use at::At;
use building::Place;
use casework::CaseFile;
use casework::evidence::Origin;
use drawing::section::Chosen;
use judgment::limits::Limits;
use language::{Language, Sentence};
use notation::Units;
use wording::Lead;

/// What every page's frame needs.
pub struct Frame {
    pub token: String,
    pub person: String,
    pub practice: String,
    pub theme: String,
    pub units: Units,
    /// Whose page this is, for what waits on a device.
    pub who: String,
    /// When it was made, ms since 1970: a copy shown later says so.
    pub rendered: i64,
    /// This page's own address, to come back to after a switch.
    pub here: String,
    /// What they may not do here; none where they may all there is.
    pub lacks: Option<Right>,
    /// Whether they run the practice.
    pub runs: bool,
    /// The limits of the practice, or of the job the page is about.
    pub limits: Limits,
    /// The language they read in.
    pub language: Language,
}

impl Frame {
    pub fn new(who: &Who) -> Self {
        Self {
            token: who.token.0.clone(),
            person: who.person.name.clone(),
            practice: who.person.practice_name.clone(),
            theme: who.person.theme.clone(),
            units: who.units(),
            who: who.person.consultant_id.to_string(),
            rendered: chrono::Utc::now().timestamp_millis(),
            here: who.here.clone(),
            lacks: who.lacks(),
            runs: who.may(Right::Practice),
            limits: who.limits(),
            language: who.language(),
        }
    }

    /// The places of the practice this person may see.
    pub fn practice_places(&self) -> impl Iterator<Item = &'static (&'static str, &'static str)> {
        places::PRACTICE.iter().filter(|(href, _)| self.runs || *href != "/people")
    }

    pub fn us(&self) -> bool {
        self.units == Units::Us
    }

    /// A sentence of the pages, in this person's language.
    pub fn tr(&self, id: &str) -> Sentence {
        self.language.sentence(id)
    }

    /// What a place is called.
    pub fn place(&self, name: &'static str) -> String {
        self.language.word("place", &name.to_lowercase(), name).into_owned()
    }

    /// Words of a closed list or a table.
    pub fn word(&self, words: impl AsRef<str>) -> String {
        language::known_of(words.as_ref())
    }

    /// A figure of a table as it stands there.
    pub fn figure(&self, figure: &f64) -> String {
        self.language.figure(figure.to_string())
    }

    /// The frame of a page about a job.
    pub fn of(who: &Who, file: &CaseFile) -> Self {
        Self { limits: file.limits(), ..Self::new(who) }
    }

    /// A sentence of the tables, its limits written in and its quantities in this person's units.
    pub fn say(&self, text: impl AsRef<str>) -> String {
        notation::prose(&self.limits.fill(&language::known_of(text.as_ref())), self.units).into_owned()
    }
}

/// The job a page is about, for its header.
#[derive(Clone)]
pub struct JobFrame {
    pub id: String,
    pub name: String,
    /// Report of the visit in view, when there is one.
    pub visit: Option<String>,
    /// Where one is.
    pub here: Stop,
}

impl JobFrame {
    pub fn new(file: &CaseFile, here: Stop) -> Self {
        Self {
            id: file.job.id.to_string(),
            name: file.job.name.clone(),
            visit: file.visit.as_ref().map(|v| v.id.to_string()),
            here,
        }
    }

    /// The words.
    pub fn words(&self) -> Vec<Link> {
        places::words(&self.id, self.here)
    }

    /// The places under the word in view.
    pub fn below(&self) -> Vec<Link> {
        places::below(&self.id, self.here)
    }

    /// Where a lead goes.
    pub fn to(&self, lead: &Lead) -> String {
        let id = &self.id;
        match lead {
            Lead::From(Origin::Finding(_, Some(spot)) | Origin::Test(_, Some(spot))) if let Some(at) = spot.id() => {
                self.section(At(Chosen::Part(at)))
            }
            Lead::From(Origin::Finding(finding, _)) => format!("/jobs/{id}/findings?at={finding}"),
            Lead::From(Origin::Test(run, _)) => format!("/jobs/{id}/tests#run-{run}"),
            Lead::From(Origin::Call) => format!("/jobs/{id}/call"),
            Lead::From(Origin::Job) => format!("/jobs/{id}/edit"),
            Lead::From(Origin::Read(place)) => self.section(At::from(*place)),
            Lead::From(Origin::Logged(Place::Space(space))) => format!("/jobs/{id}/log?space={space}"),
            Lead::From(Origin::Logged(_)) => format!("/jobs/{id}/log"),
            Lead::From(Origin::Built(boundary)) => format!("/jobs/{id}/build-ups?at={boundary}"),
            Lead::From(Origin::Pictured(picture, _)) => format!("/jobs/{id}/thermal/{picture}"),
            Lead::From(Origin::Mapped(space, map)) => format!("/jobs/{id}/unfolded?space={space}&map={map}"),
            Lead::From(Origin::Dried(point)) => format!("/jobs/{id}/drying/points/{point}"),
            Lead::Look(finding) => format!("/jobs/{id}/findings?search={finding}"),
            Lead::Test => format!("/jobs/{id}/tests"),
            Lead::Round => format!("/jobs/{id}/round"),
        }
    }

    /// A place on the section of the visit in view.
    fn section(&self, at: At) -> String {
        let visit = self.visit.as_ref().map(|v| format!("visit={v}&")).unwrap_or_default();
        format!("/jobs/{}?{visit}at={at}", self.id)
    }
}
