//! What was found, drawn and said.

use casework::CaseFile;
use casework::proof::{Compared, PairKind};
use chrono::{DateTime, Datelike, Utc};
use drawing::proof::{PairSheet, ProofSheet, pair_sheet, proof_sheet};
use hygrothermal::proof::ProofDay;
use language::{known, say};
use notation::number::fixed;
use notation::unit::TEMPERATURE;
use notation::{Show, day};
use uuid::Uuid;
use wording::proof::{self as words, PairTable};

/// Width of the drawing at a desk and on a phone.
const WIDTHS: [f64; 2] = [820.0, 380.0];
/// Width of a row of pairs.
const PAIRS: f64 = 320.0;

/// A day in the table behind the drawing.
pub struct DayRow {
    pub side: &'static str,
    pub day: String,
    pub excess: String,
    pub outdoor: String,
}

/// Pairs of one figure with their drawing.
pub struct PairsShown {
    pub table: PairTable,
    pub sheet: PairSheet,
}

/// Two thermal pictures of one place.
pub struct ThermalShown {
    pub name: String,
    /// Where both are seen together; none where they are not alike.
    pub href: Option<String>,
    pub said: String,
}

/// A season still to be known.
pub struct Missing {
    pub id: &'static str,
    pub name: &'static str,
    /// The day it is put on the calendar for; none where it is there already.
    pub due: Option<String>,
}

pub struct Shown {
    pub head: [String; 2],
    pub weight: Option<String>,
    pub sheets: Vec<ProofSheet>,
    pub rows: Vec<DayRow>,
    pub unit: &'static str,
    pub duty: Vec<String>,
    pub visits: Option<String>,
    pub pairs: Vec<PairsShown>,
    pub thermals: Vec<ThermalShown>,
    pub seasons: String,
    pub missing: Vec<Missing>,
}

fn day_rows(show: &Show, found: [&[ProofDay]; 2]) -> Vec<DayRow> {
    let row = |side, d: &ProofDay| DayRow {
        side,
        day: DateTime::from_timestamp(d.at * 86_400, 0).map_or_else(String::new, |at| at.date_naive().to_string()),
        excess: format!("{} Pa", fixed(d.excess, 0)).replace('-', "−"),
        outdoor: show.temperature(d.outdoor_t),
    };
    found
        .iter()
        .zip([say!("before"), say!("after")])
        .flat_map(|(days, side)| days.iter().map(move |d| row(side, d)))
        .collect()
}

/// Pairs of each figure, drawn on its own scale.
fn pairs(found: &Compared) -> Vec<PairsShown> {
    let Some(pairs) = &found.pairs else { return Vec::new() };
    let sheet = |kind: PairKind| {
        let own = pairs.points.iter().filter(|p| p.kind == kind);
        let marks: Vec<[(f64, f64); 2]> = own.map(|p| p.both.map(|m| (m.value, m.err))).collect();
        pair_sheet(PAIRS, &marks)
    };
    words::pair_rows(pairs).into_iter().map(|table| PairsShown { sheet: sheet(table.kind), table }).collect()
}

/// Everything found about a space.
pub fn shown(show: &Show, file: &CaseFile, (space, name): (Uuid, &str), found: &Compared, now: DateTime<Utc>) -> Shown {
    let days = [found.days[0].as_slice(), found.days[1].as_slice()];
    let change = found.air.change.as_ref();
    let turn = |c: f64| TEMPERATURE.shown(c, show.units);
    let trouble = super::troubled(file);
    let missing = found.seasons.missing(&trouble);
    let today = show.today(now);
    let one = |s: &casework::proof::Season| Missing {
        id: s.id(),
        name: known(s.words()),
        due: super::close::due(*s, today).filter(|_| !super::close::is_put(file, space, *s)).map(day),
    };
    let thermal = |t: &casework::proof::ThermalPair| {
        let (alike, said) = words::thermal_said(show, t);
        let href = format!("/jobs/{}/thermal/{}?with={}", file.job.id, t.ids[1], t.ids[0]);
        ThermalShown { name: t.name.clone(), href: alike.then_some(href), said }
    };
    Shown {
        head: words::verdict(show, name, &found.air, days, file.job.climate, now.month0() as usize),
        weight: change.map(|c| words::weight(c, days.map(<[ProofDay]>::len))),
        sheets: WIDTHS.map(|w| proof_sheet(w, days, change, turn)).into(),
        rows: day_rows(show, days),
        unit: TEMPERATURE.unit(show.units).name(),
        duty: found.duty.iter().map(words::duty).collect(),
        visits: found.pairs.as_ref().map(|p| words::pairs_said(show, p)),
        pairs: pairs(found),
        thermals: found.thermals.iter().map(thermal).collect(),
        seasons: words::seasons_said(&found.seasons, &missing, &trouble),
        missing: missing.iter().map(one).collect(),
    }
}
