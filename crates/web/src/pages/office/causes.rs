//! The table behind Why, for whoever wants to follow it or argue with it.

use crate::auth::Who;
use crate::view::Frame;
use askama::Template;
use askama_web::WebTemplate;
use building::Structure;
use judgment::cause::{Cause, causes, evidences};
use language::{known, say};
use wording::argument::{outcome_words, weight};

/// A weight smaller than this is not worth a line.
const WORTH_A_LINE: f64 = 0.1;

#[derive(Template, WebTemplate)]
#[template(path = "causes.html")]
pub struct CausesPage {
    frame: Frame,
    causes: Vec<CauseTable>,
}

/// Everything that speaks of one cause.
struct CauseTable {
    id: &'static str,
    name: &'static str,
    leads: &'static str,
    odds: String,
    /// On which kinds of building it is met more often, less often or never.
    kinds: Vec<(&'static str, String)>,
    /// The heaviest first.
    speaks_for: Vec<Row>,
    speaks_against: Vec<Row>,
}

impl CauseTable {
    /// Its rows under their heads.
    fn tables(&self) -> [(&'static str, &[Row]); 2] {
        [(say!("Evidence for"), &self.speaks_for), (say!("Evidence against"), &self.speaks_against)]
    }
}

struct Row {
    words: String,
    why: &'static str,
    weight: String,
}

/// The table, cause by cause.
pub async fn page(who: Who) -> CausesPage {
    let causes = causes().iter().enumerate().map(|(i, c)| table(i, c)).collect();
    CausesPage { frame: Frame::new(&who), causes }
}

fn table(at: usize, cause: &'static Cause) -> CauseTable {
    let outcomes = evidences().iter().flat_map(|e| e.outcomes.iter().map(move |o| (e, o, o.weights[at])));
    let mut all: Vec<_> = outcomes.filter(|(.., w)| w.abs() >= WORTH_A_LINE).collect();
    all.sort_by(|a, b| b.2.abs().total_cmp(&a.2.abs()));
    let rows = |sign: f64| {
        let own = all.iter().filter(|(.., w)| w * sign > 0.0);
        own.map(|(e, o, w)| Row { words: outcome_words(e, o), why: &e.why, weight: weight(*w) }).collect()
    };
    let names =
        |kinds: &[Structure]| kinds.iter().map(|s| known(s.words()).to_lowercase()).collect::<Vec<_>>().join("; ");
    let kinds = [
        (say!("Twice as often"), &cause.often),
        (say!("A third as often"), &cause.seldom),
        (say!("Never"), &cause.never),
    ];
    CauseTable {
        id: &cause.id,
        name: known(&cause.name),
        leads: known(&cause.leads),
        odds: format!("{:.2}", cause.usual_odds()),
        kinds: kinds.into_iter().filter(|(_, k)| !k.is_empty()).map(|(words, k)| (words, names(k))).collect(),
        speaks_for: rows(1.0),
        speaks_against: rows(-1.0),
    }
}
