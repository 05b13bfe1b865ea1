//! What was changed of a practice's prices and ways, in words.

use crate::construction::tightness;
use crate::plan::{price_factor, priced_for};
use building::Weather;
use building::construction::OwnMaterial;
use building::report::TextBlock;
use building::timetable::OwnSource;
use hygrothermal::material::Resists;
use judgment::plan::{item, question};
use language::say;
use notation::Show;
use notation::money;
use notation::number::brief;
use notation::unit::CONDUCTIVITY;
use std::collections::HashMap;
use store::{PracticeChange, Setting, Settled};
use uuid::Uuid;

/// A change with its undoing.
pub struct ChangeRow {
    /// When.
    pub when: String,
    /// Who does it.
    pub who: String,
    /// Lines.
    pub lines: Vec<String>,
    /// How many more it changed.
    pub more: usize,
    /// The change.
    pub change: Uuid,
    /// The id its undoing will have.
    pub undo: Uuid,
    /// Whether it undid another.
    pub undoes: bool,
    /// Whether another undid it.
    pub undone: bool,
}

/// Lines told of one change.
const TOLD: usize = 6;

/// A change in words.
pub fn told(show: &Show, names: &HashMap<Uuid, String>, change: &PracticeChange) -> ChangeRow {
    let lines: Vec<String> = change.rows.iter().map(|r| line(show, r)).collect();
    ChangeRow {
        when: show.moment(change.at),
        who: names.get(&change.by).cloned().unwrap_or_default(),
        more: lines.len().saturating_sub(TOLD),
        lines: lines.into_iter().take(TOLD).collect(),
        change: change.id,
        undo: Uuid::now_v7(),
        undoes: change.undoes.is_some(),
        undone: change.undone,
    }
}

fn line(show: &Show, row: &Settled) -> String {
    let value =
        |v: &Option<String>| v.as_ref().map_or_else(|| unsettled(&row.setting), |v| shown(show, &row.setting, v));
    format!("{}: {} → {}", name(show, &row.setting), value(&row.before), value(&row.after))
}

fn unsettled(setting: &Setting) -> String {
    match setting {
        Setting::Price(_) => say!("no price").into(),
        Setting::Currency => say!("none").into(),
        Setting::School(_) => say!("each building’s figures").into(),
        Setting::LogDays | Setting::RemovedDays | Setting::ArchivedDays | Setting::SignInDays => {
            say!("for good").into()
        }
        Setting::Material(_) | Setting::Weather(_) | Setting::Source(_) | Setting::TextBlock(_) => say!("none").into(),
        Setting::PracticeName | Setting::Address | Setting::Zone | Setting::Units | Setting::Language => {
            say!("none").into()
        }
    }
}

/// What a setting is called.
pub fn name(show: &Show, setting: &Setting) -> String {
    match setting {
        Setting::Currency => say!("Currency").into(),
        Setting::PracticeName => say!("Name of the practice").into(),
        Setting::Address => say!("Address of the practice").into(),
        Setting::Zone => say!("Time zone").into(),
        Setting::Units => say!("Units newcomers begin with").into(),
        Setting::Language => say!("Language newcomers begin with").into(),
        Setting::LogDays => say!("Single readings of loggers kept").into(),
        Setting::RemovedDays => say!("Jobs taken off the docket kept").into(),
        Setting::ArchivedDays => say!("Archived jobs kept").into(),
        Setting::SignInDays => say!("Sign-ins kept").into(),
        Setting::Material(_) => say!("Own material").into(),
        Setting::Weather(_) => say!("Weather file").into(),
        Setting::TextBlock(_) => say!("Text block").into(),
        Setting::Source(_) => say!("Own source").into(),
        Setting::Price(id) => item(id).map_or_else(
            || id.clone(),
            |i| format!("{} / {}", notation::prose(&i.name, show.units), priced_for(show, i)),
        ),
        Setting::School(id) => question(id).map_or_else(|| id.clone(), |q| q.name.clone()),
    }
}

fn shown(show: &Show, setting: &Setting, value: &str) -> String {
    let school = |q: &str| Some(question(q)?.school(value)?.name.clone());
    let price = |id: &str| {
        let cents: f64 = value.parse().ok()?;
        // Hundredths of a currency are whole.
        Some(money((cents * price_factor(show, item(id)?)).round() as i64, ""))
    };
    let known = match setting {
        Setting::Address => Some(value.lines().collect::<Vec<_>>().join(", ")),
        Setting::Currency | Setting::PracticeName | Setting::Zone | Setting::Units | Setting::Language => None,
        Setting::LogDays | Setting::RemovedDays | Setting::ArchivedDays | Setting::SignInDays => {
            Some(say!("{value} days", value))
        }
        Setting::Material(_) => serde_json::from_str::<OwnMaterial>(value).ok().map(|m| material(show, &m)),
        Setting::Weather(_) => serde_json::from_str::<Weather>(value).ok().map(|w| w.name),
        Setting::TextBlock(_) => serde_json::from_str::<TextBlock>(value).ok().map(|b| b.heading),
        Setting::Source(_) => serde_json::from_str::<OwnSource>(value).ok().map(|s| s.name),
        Setting::Price(id) => price(id),
        Setting::School(id) => school(id),
    };
    known.unwrap_or_else(|| value.to_owned())
}

/// A material of the practice's own in a line.
fn material(show: &Show, own: &OwnMaterial) -> String {
    let vapor = match own.resists {
        Resists::PerThickness(mu) => format!("μ {}", brief(mu.get())),
        Resists::AsLayer(sd) => tightness(show, sd.get()),
    };
    format!("{}, {}, {vapor}", own.name, CONDUCTIVITY.text(own.conductivity.get(), show.units))
}
