//! The answer as it is shown: a sentence, figures with their bands, the drawing.

use crate::case::Case;
use crate::sheet::{Field, Figure, Sheet};
use crate::sketch::Sketch;
use language::known;
use notation::number::significant;
use notation::unit::{Kind, NUMBER};
use serde_json::Value;

/// An answered request.
pub struct Outcome {
    /// The answer in a sentence.
    pub verdict: String,
    /// What else to know, in sentences.
    pub notes: Vec<String>,
    /// Label and text of each figure.
    pub figures: Vec<(&'static str, String)>,
    /// What the bands come from; empty where nothing was measured.
    pub doubts: String,
    /// The drawing.
    pub drawing: Sketch,
}

impl Outcome {
    /// Shows an answered case.
    #[must_use]
    pub fn of(sheet: &'static Sheet, mut case: Case) -> Self {
        let doubts = doubts(sheet, &case);
        case.moved = doubts.iter().filter_map(|d| moved(&case, d)).collect();
        let case = &case;
        Self {
            verdict: (sheet.verdict)(case),
            notes: (sheet.notes)(case),
            figures: sheet.results.iter().map(|f| (known(f.label), text(case, f))).collect(),
            doubts: doubts.iter().map(|d| d.words(case)).collect::<Vec<_>>().join(", "),
            drawing: (sheet.draw)(case),
        }
    }
}

/// A measured figure and how far it may be off.
struct Doubt {
    key: &'static str,
    label: &'static str,
    kind: &'static Kind,
    err: f64,
}

impl Doubt {
    fn words(&self, case: &Case) -> String {
        let unit = self.kind.unit(case.units).name();
        let err = self.kind.shown(self.err, case.units) - self.kind.shown(0.0, case.units);
        let figure = significant(err);
        format!("{} ± {figure} {unit}", known(self.label).to_lowercase()).trim_end().to_owned()
    }
}

/// What was measured, with the accuracy entered beside it or, failing that, the typical one.
fn doubts(sheet: &Sheet, case: &Case) -> Vec<Doubt> {
    let entered = |key: &str| match key {
        "t_c" => case.given_if("t_err_c"),
        "rh_pct" => case.given_if("rh_err_pct"),
        "surface_c" => case.given_if("surface_err_c"),
        _ => None,
    };
    let of = |field: &'static Field| match field {
        Field::Quantity { key, label, kind, doubt, .. } if *doubt > 0.0 && case.given_if(key).is_some() => {
            let err = entered(key).unwrap_or(*doubt);
            (err > 0.0).then_some(Doubt { key, label, kind, err })
        }
        _ => None,
    };
    sheet.fields.iter().filter_map(of).collect()
}

/// The answer with one measured figure off by its doubt: upward, or downward where up is not possible.
fn moved(case: &Case, doubt: &Doubt) -> Option<Value> {
    let at = case.given_if(doubt.key)?;
    [at + doubt.err, at - doubt.err].into_iter().find_map(|x| {
        let mut request = case.request.clone();
        let place = doubt.key.split('.').try_fold(&mut request, |v, key| v.get_mut(key))?;
        *place = Value::from(x);
        let answer = calc::answer(&request);
        answer.get("error").is_none().then_some(answer)
    })
}

/// A figure with the band that the measured figures leave.
fn text(case: &Case, figure: &Figure) -> String {
    let Some(value) = case.got_if(figure.key) else { return "—".into() };
    let err = case.err(figure.key);
    if err > 0.0 && !std::ptr::eq(figure.kind, &raw const NUMBER) {
        figure.kind.band(value, err, case.units)
    } else {
        figure.kind.text(value, case.units)
    }
}
