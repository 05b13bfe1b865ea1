//! A report as it is put together: for whom, how technical, which parts in which order, and the consultant's own words.

use crate::kinds;
use language::{Language, spoken};
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// Most reports of a job, own words in one, and characters of one's own words.
pub const MOST_REPORTS: usize = 20;
/// Most own words in a report.
pub const MOST_TEXTS: usize = 12;
/// Longest own words, characters.
pub const LONGEST_TEXT: usize = 4000;
/// Longest heading, characters.
pub const LONGEST_HEADING: usize = 120;

kinds! {
    /// Whom a report is for.
    ReportReader {
        /// Whoever owns it and pays.
        Owner = "owner", "owner";
        /// Whoever may buy it.
        Buyer = "buyer", "buyer";
        /// Whoever does the work.
        Contractor = "contractor", "contractor";
        /// Whoever insures it.
        Insurer = "insurer", "insurer";
        /// Whoever checks it.
        Engineer = "engineer", "engineer";
    }
    /// How technical a report is.
    Detail {
        /// What is, and what to do, with the figures that matter.
        Plain = "plain", "plain words";
        /// Evidence and figures with their bands.
        Figures = "figures", "with figures";
        /// Everything, to be checked.
        Full = "full", "to be checked";
    }
    /// What it is printed on.
    Paper {
        /// 210 × 297 mm.
        A4 = "a4", "A4";
        /// 8½ × 11 in.
        Letter = "letter", "Letter";
    }
    /// A part of a report. The first page, what was not inspected, the words of certainty, limits and cautions are in every one.
    ReportPart {
        /// Who, where, when.
        Visit = "visit", "the visit";
        /// The drawn section.
        Section = "section", "section";
        /// Verdict of each surface.
        Verdicts = "verdicts", "verdicts";
        /// Findings and tests.
        Found = "found", "found and tested";
        /// Moisture maps on unfolded spaces.
        Unfolded = "unfolded", "moisture maps";
        /// Thermal pictures.
        Thermal = "thermal", "thermal pictures";
        /// Inside of constructions.
        BuildUps = "build_ups", "build-ups";
        /// What loggers wrote.
        Log = "log", "log";
        /// Causes and evidence.
        Causes = "causes", "causes";
        /// Steps, gates, costs.
        Plan = "plan", "plan";
        /// Photos with marks.
        Photos = "photos", "photos";
        /// Getting it dry.
        Drying = "drying", "drying";
        /// Steps closed by proof, and what is to be looked at again.
        Proof = "proof", "proof";
        /// First advice by space.
        Advice = "advice", "first advice";
        /// Every reading of the visit.
        Readings = "readings", "readings";
        /// Instruments with accuracy and checks.
        Instruments = "instruments", "instruments";
    }
}

impl ReportReader {
    /// Parts such a reader usually needs, in order.
    #[must_use]
    pub fn usual(self) -> Vec<ReportPart> {
        use ReportPart as P;
        match self {
            Self::Owner => vec![P::Section, P::Photos, P::Causes, P::Plan, P::Proof],
            Self::Buyer => vec![P::Visit, P::Verdicts, P::Found, P::Photos, P::Causes, P::Plan],
            Self::Contractor => vec![P::Section, P::Unfolded, P::BuildUps, P::Plan, P::Drying, P::Photos],
            Self::Insurer => vec![
                P::Visit,
                P::Found,
                P::Photos,
                P::Thermal,
                P::Log,
                P::Causes,
                P::Drying,
                P::Proof,
                P::Readings,
                P::Instruments,
            ],
            Self::Engineer => P::ALL.to_vec(),
        }
    }

    /// How technical such a reader usually wants it.
    #[must_use]
    pub const fn usual_detail(self) -> Detail {
        match self {
            Self::Owner => Detail::Plain,
            Self::Buyer | Self::Contractor => Detail::Figures,
            Self::Insurer | Self::Engineer => Detail::Full,
        }
    }
}

/// Something in the order of a report.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum ReportItem {
    /// A part of the job, and whether it is in.
    Part {
        /// Which.
        part: ReportPart,
        /// Whether it is in.
        shown: bool,
    },
    /// The consultant's own words.
    Text {
        /// Their heading.
        heading: String,
        /// Paragraphs, parted by empty lines.
        text: String,
    },
}

/// A report as it is put together.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ReportDraft {
    /// Identity.
    pub id: Uuid,
    /// For whom.
    pub reader: ReportReader,
    /// What it is called.
    pub title: String,
    /// The visit it is of; none for the latest.
    pub visit: Option<Uuid>,
    /// How technical.
    pub detail: Detail,
    /// Units of its figures: US ones, metric ones, or those of whoever makes it.
    pub us_units: Option<bool>,
    /// The language it is in.
    #[serde(default, skip_serializing_if = "Language::is_usual")]
    pub language: Language,
    /// What it is printed on.
    pub paper: Paper,
    /// What is in it, in order; what is not in stands last.
    pub items: Vec<ReportItem>,
}

impl ReportDraft {
    /// One as such a reader usually needs it, in the language spoken.
    #[must_use]
    pub fn usual(id: Uuid, reader: ReportReader, title: String) -> Self {
        let own = reader.usual();
        let rest = ReportPart::ALL.iter().filter(|p| !own.contains(p));
        let items = own.iter().map(|p| (*p, true)).chain(rest.map(|p| (*p, false)));
        Self {
            id,
            reader,
            title,
            visit: None,
            detail: reader.usual_detail(),
            us_units: None,
            language: spoken(),
            paper: Paper::A4,
            items: items.map(|(part, shown)| ReportItem::Part { part, shown }).collect(),
        }
    }

    /// Whether a part is in it.
    #[must_use]
    pub fn shows(&self, part: ReportPart) -> bool {
        self.items.contains(&ReportItem::Part { part, shown: true })
    }
}

/// What a practice writes again and again.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct TextBlock {
    /// Identity.
    pub id: Uuid,
    /// Its heading.
    pub heading: String,
    /// Paragraphs, parted by empty lines.
    pub text: String,
}
