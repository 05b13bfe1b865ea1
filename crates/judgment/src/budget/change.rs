//! What each sink alone would do, and the smallest change that keeps it dry.

use super::run::{run_within, surface_at};
use super::{Given, Keep, Kind, Run, run};
use building::SpaceKind;
use building::timetable::{Block, TimeTable};

/// Changes tried, from the least trouble to the most: what, and how much of it.
const TRIED: [(&str, &[f64]); 6] = [
    ("roof_hatch", &[2.0, 5.0, 10.0, 20.0, 30.0]),
    ("window", &[2.0, 5.0, 10.0, 20.0]),
    ("fan", &[20.0, 40.0, 80.0, 150.0]),
    ("dehumidifier", &[5.0, 10.0, 20.0, 40.0]),
    ("cooling_low", &[1.0]),
    ("cooling_high", &[1.0]),
];
/// Hours before the first wet one at which a change may begin.
const BEFORE: f64 = 3.0;
/// Air conditioners are no help in the cold: least temperature outdoors, °C.
const WARM: f64 = 15.0;

/// A change that keeps every surface dry, or the one that helps most.
#[derive(Debug, Clone, PartialEq)]
pub struct Remedy {
    /// What is added.
    pub block: Block,
    /// Whether it keeps all of it dry.
    pub dry: bool,
    /// Wet hours with it.
    pub wet: usize,
}

/// What each thing that takes water out would do without the others: its id, liters it took, and wet hours left.
#[must_use]
pub fn alone(table: &TimeTable, given: &Given) -> Vec<(String, f64, usize)> {
    let mut ids: Vec<&str> = Vec::new();
    for block in &table.blocks {
        let sink = given.items.iter().any(|i| i.id == block.what && !i.kind.is_source());
        if sink && !ids.contains(&block.what.as_str()) {
            ids.push(&block.what);
        }
    }
    let one = |id: &&str| {
        let out = run(table, given, Keep::Only(id), 1)?;
        let took = -out.liters.get(*id).copied().unwrap_or(0.0);
        Some(((*id).to_owned(), took, out.wet()))
    };
    ids.iter().filter_map(one).collect()
}

/// The smallest change that keeps every surface dry, of those a kind of space allows; `None` where they are, or where nothing tried helps.
#[must_use]
pub fn remedy(table: &TimeTable, given: &Given, now: &Run, space: Option<SpaceKind>) -> Option<Remedy> {
    if now.wet() == 0 {
        return None;
    }
    let first = now.surfaces.iter().filter_map(|s| s.first).min()? as f64;
    let last = (0..now.hours.len()).rev().find(|h| now.is_wet(*h, given, table.celsius))? as f64 + 1.0;
    let from = (first - BEFORE).max(0.0);
    let spans = [(from, last), (0.0, f64::from(table.hours))];
    let coldest = given.outdoors.iter().map(|a| a.temperature().get()).fold(f64::INFINITY, f64::min);
    let allowed = |what: &str| {
        let item = given.items.iter().find(|i| i.id == what)?;
        let hatch = space.is_none_or(|s| matches!(s, SpaceKind::VehicleCabin | SpaceKind::BoatCabin | SpaceKind::Tent));
        (!(item.kind == Kind::Cooling && coldest < WARM || what == "roof_hatch" && !hatch)).then_some(())
    };
    let tried = || TRIED.iter().filter(|(what, _)| allowed(what).is_some());
    let with = |what: &str, amount: f64, (from, until): (f64, f64), most: usize| {
        let block = Block { what: what.into(), amount, from, until };
        let mut changed = table.clone();
        changed.blocks.push(block.clone());
        let wet = run_within(&changed, given, (Keep::All, 1), most)?.wet();
        Some(Remedy { block, dry: wet == 0, wet })
    };
    for (what, doses) in tried() {
        for span in spans {
            // A first wet hour gives a dose up.
            if let Some(found) = doses.iter().find_map(|amount| with(what, *amount, span, 0)) {
                return Some(found);
            }
        }
    }
    // Of what helps at all, the strongest of each.
    let most = tried().filter_map(|(what, doses)| with(what, *doses.last()?, spans[1], now.wet() - 1));
    most.min_by_key(|r| r.wet)
}

impl Run {
    /// Whether a surface is wet at the end of an hour.
    #[must_use]
    pub fn is_wet(&self, hour: usize, given: &Given, celsius: f64) -> bool {
        let Some(hour) = self.hours.get(hour) else { return false };
        let at = |f: &f64| surface_at(*f, celsius, hour.outdoor.0);
        hour.dew.is_some_and(|dew| given.surfaces.iter().any(|f| at(f) <= dew))
    }
}
