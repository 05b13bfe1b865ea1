//! What is known of a case.

use super::table::{Evidence, Outcome, RedFlag, When, evidences, red_flags};
use crate::finding::finding;
use building::Structure;
use std::collections::{BTreeMap, BTreeSet};

/// Figures that move no cause by themselves: they stand beside another, or open a gate of the plan.
const ONLY_BESIDE: [&str; 5] =
    ["air_dew_c", "masonry_rel_dry", "surface_c", "dehumidifier_days", "dehumidifier_capacity_l_day"];

/// What is known: each outcome once, in the order of the table, whatever order it was said in.
#[derive(Debug, Clone, PartialEq)]
pub struct Case {
    /// Kind of building.
    pub structure: Structure,
    known: BTreeSet<(usize, usize)>,
    flags: BTreeSet<usize>,
    there: BTreeMap<String, bool>,
    figures: BTreeMap<String, f64>,
    /// Figures as they are weighed, by the evidence's place in the table, each with its error where its instrument says it.
    read: BTreeMap<usize, (f64, Option<f64>)>,
    errors: BTreeMap<String, f64>,
    words: BTreeMap<String, String>,
    unchecked: BTreeSet<String>,
}

/// Something said that the table knows nothing of.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum NotEvidence {
    /// No such id.
    #[error("{0} is not in the vocabulary")]
    Unknown(String),
    /// A figure is needed.
    #[error("{0} needs a figure")]
    NoFigure(String),
    /// It has no figure.
    #[error("{0} is true or false, not a figure")]
    NotAFigure(String),
    /// No such result.
    #[error("{0} has no result {1}")]
    NoResult(String, String),
    /// A figure that cannot be.
    #[error("{id} must be {low} to {high}, got {figure}")]
    OutOfRange {
        /// What it is about.
        id: String,
        /// Least it can be.
        low: f64,
        /// Most it can be.
        high: f64,
        /// What was said.
        figure: f64,
    },
}

impl NotEvidence {
    /// Id of what it is about.
    #[must_use]
    pub fn about(&self) -> &str {
        match self {
            Self::Unknown(id) | Self::NoFigure(id) | Self::NotAFigure(id) | Self::NoResult(id, _) => id,
            Self::OutOfRange { id, .. } => id,
        }
    }
}

/// What figures can be that are not the evidence's own range: those only said beside another, and findings'.
fn range(id: &str) -> [f64; 2] {
    let own = super::table::evidence(id).and_then(|e| e.figure).map(|f| f.range);
    match id {
        "air_dew_c" | "outdoor_dew_c" | "surface_c" => [-80.0, 100.0],
        "masonry_rel" | "masonry_rel_dry" => [0.0, 10_000.0],
        "dehumidifier_days" => [0.0, 100_000.0],
        _ => own.unwrap_or([0.0, 1e6]),
    }
}

fn in_range(id: &str, figure: f64) -> Result<(), NotEvidence> {
    let [low, high] = range(id);
    if (low..=high).contains(&figure) {
        Ok(())
    } else {
        Err(NotEvidence::OutOfRange { id: id.into(), low, high, figure })
    }
}

impl Case {
    /// Nothing known yet.
    #[must_use]
    pub const fn new(structure: Structure) -> Self {
        Self {
            structure,
            known: BTreeSet::new(),
            flags: BTreeSet::new(),
            there: BTreeMap::new(),
            figures: BTreeMap::new(),
            read: BTreeMap::new(),
            errors: BTreeMap::new(),
            words: BTreeMap::new(),
            unchecked: BTreeSet::new(),
        }
    }

    fn add(&mut self, id: &str, holds: impl Fn(&Outcome) -> bool) -> bool {
        let Some(e) = evidences().iter().position(|e| e.id == id) else { return false };
        let outcome = evidences()[e].outcomes.iter().position(holds);
        self.known.extend(outcome.map(|o| (e, o)));
        outcome.is_some()
    }

    /// A finding that is there (`true`), or was looked for and is not.
    ///
    /// # Errors
    /// [`NotEvidence`] for an id nobody knows or one that needs a figure.
    pub fn finding(&mut self, id: &str, there: bool) -> Result<(), NotEvidence> {
        let red = red_flags().iter().enumerate().filter(|(_, f)| there && f.finding == id && f.from.is_none());
        self.flags.extend(red.map(|(i, _)| i));
        *self.there.entry(id.into()).or_default() |= there;
        // Seen in one place and not in another, it is there.
        let seen = |c: &Self| c.known().any(|(e, o)| e.id == id && o.when == When::There);
        if there {
            self.known.retain(|(e, o)| evidences()[*e].id != id || evidences()[*e].outcomes[*o].when != When::NotThere);
        } else if seen(self) {
            return Ok(());
        }
        let when = if there { When::There } else { When::NotThere };
        if self.add(id, |o| o.when == when) {
            return Ok(());
        }
        match evidences().iter().find(|e| e.id == id) {
            Some(_) => Err(NotEvidence::NoFigure(id.into())),
            // Known to the vocabulary, but it moves no cause.
            None if finding(id).is_some() => Ok(()),
            None => Err(NotEvidence::Unknown(id.into())),
        }
    }

    /// Whether this id goes with a figure.
    ///
    /// # Errors
    /// [`NotEvidence`] for an id nobody knows or one that has no figure.
    pub fn takes_figure(id: &str) -> Result<(), NotEvidence> {
        let row = evidences().iter().find(|e| e.id == id);
        let known = finding(id);
        let measured = row.is_some_and(Evidence::is_figure) || known.is_some_and(|f| f.unit.is_some());
        match measured || ONLY_BESIDE.contains(&id) {
            true => Ok(()),
            false if row.is_some() || known.is_some() => Err(NotEvidence::NotAFigure(id.into())),
            false => Err(NotEvidence::Unknown(id.into())),
        }
    }

    /// A finding or measured fact with its figure. Of several figures, the one furthest up counts.
    ///
    /// # Errors
    /// [`NotEvidence`] for an id nobody knows or one that has no figure.
    pub fn figure(&mut self, id: &str, figure: f64) -> Result<(), NotEvidence> {
        Self::takes_figure(id)?;
        in_range(id, figure)?;
        self.weigh(id, figure)?;
        let kept = self.figures.entry(id.into()).or_insert(figure);
        *kept = kept.max(figure);
        Ok(())
    }

    fn weigh(&mut self, id: &str, figure: f64) -> Result<(), NotEvidence> {
        Self::takes_figure(id)?;
        let row = evidences().iter().position(|e| e.id == id);
        let red = red_flags().iter().position(|f| f.finding == id && f.from.is_some_and(|from| figure >= from));
        self.flags.extend(red);
        let holds = |o: &Outcome| matches!(o.when, When::Under(limit) if figure < limit || limit.is_infinite());
        let outcome = row.and_then(|e| Some((e, evidences()[e].outcomes.iter().position(holds)?)));
        if let Some((e, o)) = outcome {
            let before = self.known.iter().filter(|k| k.0 == e).map(|k| k.1).max();
            self.known.retain(|k| k.0 != e);
            self.known.insert((e, before.map_or(o, |b| b.max(o))));
            let err = self.errors.get(id).copied();
            let read = self.read.entry(e).or_insert((figure, err));
            if figure > read.0 {
                *read = (figure, err);
            }
        }
        Ok(())
    }

    /// Says how far a figure may be off, one standard deviation, as its instruments tell; before the figure itself.
    pub fn within(&mut self, id: &str, err: f64) {
        self.errors.insert(id.into(), err);
    }

    /// The season by the outdoor air of a visit, °C: a calendar would have to know the hemisphere and the year's weather.
    /// Near the limits it is two seasons, each a little.
    ///
    /// # Errors
    /// [`NotEvidence`] when the table has no seasons.
    pub fn outdoors(&mut self, outdoor_c: f64) -> Result<(), NotEvidence> {
        self.word("season", super::facts::season(outdoor_c))?;
        if let Some(e) = evidences().iter().position(|e| e.id == "season") {
            self.read.insert(e, (outdoor_c, None));
        }
        Ok(())
    }

    /// Figures together, since some mean something only beside another: the outdoor dew point beside that of the air inside,
    /// masonry beside a dry place of the same material, a dehumidifier's liters beside what it can take out in this air.
    ///
    /// # Errors
    /// [`NotEvidence`] for an id nobody knows or one that has no figure.
    pub fn figures(&mut self, all: &BTreeMap<String, f64>) -> Result<(), NotEvidence> {
        for (id, figure) in all {
            Self::takes_figure(id)?;
            in_range(id, *figure)?;
        }
        for (id, figure) in all {
            let said = self.figures.clone();
            let beside = |other: &str| all.get(other).or(said.get(other)).copied();
            match id.as_str() {
                "air_dew_c" | "masonry_rel_dry" => {}
                "outdoor_dew_c" => beside("air_dew_c").map_or(Ok(()), |air| self.weigh(id, figure - air))?,
                "masonry_rel" => {
                    let dry = beside("masonry_rel_dry").filter(|dry| *dry > 0.0);
                    dry.map_or(Ok(()), |dry| self.weigh(id, figure / dry))?;
                }
                "dehumidifier_l_day" => match beside("dehumidifier_capacity_l_day").filter(|most| *most > 0.0) {
                    Some(most) => self.weigh("dehumidifier_share", figure / most)?,
                    None => self.weigh(id, *figure)?,
                },
                _ => self.weigh(id, *figure)?,
            }
            self.figures.insert(id.clone(), *figure);
        }
        Ok(())
    }

    /// A test's result, or a word of a context: `season` `winter`.
    ///
    /// # Errors
    /// [`NotEvidence`] for an id or a word nobody knows.
    pub fn word(&mut self, id: &str, word: &str) -> Result<(), NotEvidence> {
        if self.add(id, |o| matches!(&o.when, When::Is(w) if w == word)) {
            // Of a test made again, the later result is how things stand.
            self.words.insert(id.into(), word.into());
            return Ok(());
        }
        match evidences().iter().any(|e| e.id == id) {
            true => Err(NotEvidence::NoResult(id.into(), word.into())),
            false => Err(NotEvidence::Unknown(id.into())),
        }
    }

    /// What is known, in the order of the table.
    pub fn known(&self) -> impl Iterator<Item = (&'static Evidence, &'static Outcome)> + '_ {
        self.known.iter().map(|(e, o)| (&evidences()[*e], &evidences()[*e].outcomes[*o]))
    }

    /// Everything known, in the order of the table: the evidence, how it turned out, and its figure with its error.
    pub(super) fn pieces(
        &self,
    ) -> impl Iterator<Item = (&'static Evidence, &'static Outcome, Option<(f64, Option<f64>)>)> + '_ {
        let read = |e: &usize| self.read.get(e).copied();
        self.known.iter().map(move |(e, o)| (&evidences()[*e], &evidences()[*e].outcomes[*o], read(e)))
    }

    /// Whether anything is known of a piece of evidence.
    #[must_use]
    pub fn knows(&self, id: &str) -> bool {
        self.known().any(|(e, _)| e.id == id)
    }

    /// Whether something was found.
    #[must_use]
    pub fn has(&self, id: &str) -> bool {
        self.there.get(id) == Some(&true)
    }

    /// Whether it was looked for and is not there; not having looked is neither.
    #[must_use]
    pub fn lacks(&self, id: &str) -> bool {
        self.there.get(id) == Some(&false)
    }

    /// A figure as it was said.
    #[must_use]
    pub fn figure_of(&self, id: &str) -> Option<f64> {
        self.figures.get(id).copied()
    }

    /// A test's latest result, or the word of a context.
    #[must_use]
    pub fn word_of(&self, id: &str) -> Option<&str> {
        self.words.get(id).map(String::as_str)
    }

    /// Says that a figure rests on a hygrometer whose salt check is missing or old.
    pub fn distrust(&mut self, id: &str) {
        self.unchecked.insert(id.into());
    }

    /// Whether a figure rests on a hygrometer that was checked; one nobody said anything of counts as checked.
    #[must_use]
    pub fn trusts(&self, id: &str) -> bool {
        !self.unchecked.contains(id)
    }

    /// Red flags raised.
    pub fn flags(&self) -> impl Iterator<Item = &'static RedFlag> + '_ {
        let beside = |f: &&RedFlag| f.beside.is_empty() || f.beside.iter().any(|id| self.has(id));
        self.flags.iter().map(|i| &red_flags()[*i]).filter(beside)
    }
}
