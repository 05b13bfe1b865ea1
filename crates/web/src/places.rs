//! The places of a job: seven words in the order of the work, each with its places below it. A place is added to the
//! navigation, with its key, by one line here.

use uuid::Uuid;

/// A place of a job.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Stop {
    /// The word it stands under.
    pub word: &'static str,
    /// What it is called.
    pub name: &'static str,
    /// Its address behind the job's.
    path: &'static str,
}

const fn place(word: &'static str, name: &'static str, path: &'static str) -> Stop {
    Stop { word, name, path }
}

pub const SECTION: Stop = place("Section", "Section", "");
pub const UNFOLDED: Stop = place("Section", "Unfolded", "/unfolded");
pub const BUILD_UPS: Stop = place("Section", "Build-ups", "/build-ups");
pub const CALL: Stop = place("Visit", "Call", "/call");
pub const ROUND: Stop = place("Visit", "Round", "/round");
pub const FINDINGS: Stop = place("Visit", "Findings", "/findings");
pub const TESTS: Stop = place("Visit", "Tests", "/tests");
pub const PHOTOS: Stop = place("Visit", "Photos", "/photos");
pub const LOG: Stop = place("Log", "Log", "/log");
pub const AIR: Stop = place("Log", "Air", "/log/air");
pub const AIRING: Stop = place("Log", "Airing", "/log/airing");
pub const BUDGET: Stop = place("Log", "Budget", "/log/budget");
pub const ALERTS: Stop = place("Log", "Alerts", "/log/alerts");
pub const WHY: Stop = place("Why", "Why", "/why");
pub const PLAN: Stop = place("Plan", "Plan", "/plan");
pub const COATING: Stop = place("Plan", "Coating", "/coating");
pub const DRYING: Stop = place("Proof", "Drying", "/drying");
pub const PROOF: Stop = place("Proof", "Proof", "/proof");
pub const REPORT: Stop = place("Report", "Report", "/report");
pub const SHARING: Stop = place("Report", "Sharing", "/sharing");
pub const DATA: Stop = place("Report", "Data", "/data");

/// Every place, in the order shown.
const PLACES: [Stop; 21] = [
    SECTION, UNFOLDED, BUILD_UPS, CALL, ROUND, FINDINGS, TESTS, PHOTOS, LOG, AIR, AIRING, BUDGET, ALERTS, WHY, PLAN,
    COATING, DRYING, PROOF, REPORT, SHARING, DATA,
];

/// The words, the key of each, and the place each leads to.
const WORDS: [(&str, char, Stop); 7] = [
    ("Section", 's', SECTION),
    ("Visit", 'v', ROUND),
    ("Log", 'l', LOG),
    ("Why", 'w', WHY),
    ("Plan", 'p', PLAN),
    ("Proof", 'o', PROOF),
    ("Report", 'r', REPORT),
];

/// The places of a practice, beside its jobs.
pub static PRACTICE: [(&str, &str); 6] = [
    ("/docket", "Docket"),
    ("/calendar", "Calendar"),
    ("/bench", "Bench"),
    ("/prices", "Prices"),
    ("/people", "People"),
    ("/calculator", "Calculator"),
];

/// A link of the navigation.
pub struct Link {
    pub name: &'static str,
    pub href: String,
    pub key: char,
    pub current: bool,
}

impl Stop {
    /// Its address.
    pub fn of(self, job: &str) -> String {
        format!("/jobs/{job}{}", self.path)
    }
}

/// The words of a job.
pub fn words(job: &str, here: Stop) -> Vec<Link> {
    let link = |(name, key, leads): &(&'static str, char, Stop)| Link {
        name,
        href: leads.of(job),
        key: *key,
        current: *name == here.word,
    };
    WORDS.iter().map(link).collect()
}

/// The places under the word in view; none where there is only one. Their keys count from 1.
pub fn below(job: &str, here: Stop) -> Vec<Link> {
    let under: Vec<&Stop> = PLACES.iter().filter(|p| p.word == here.word).collect();
    if under.len() < 2 {
        return Vec::new();
    }
    let link = |(key, p): (char, &&Stop)| Link { name: p.name, href: p.of(job), key, current: **p == here };
    ('1'..='9').zip(&under).map(link).collect()
}

/// The address of the report of a visit.
pub fn report_of(job: Uuid, visit: Uuid) -> String {
    format!("/jobs/{job}/visits/{visit}/report")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_place_is_reached_and_no_two_by_the_same_key() {
        let keys: std::collections::BTreeSet<char> = WORDS.iter().map(|w| w.1).collect();
        assert_eq!(keys.len(), WORDS.len());
        for place in PLACES {
            assert!(words("j", place).iter().any(|w| w.current), "{place:?}");
            let below = below("j", place);
            assert!(below.is_empty() || below.iter().filter(|l| l.current).count() == 1, "{place:?}");
        }
    }
}
