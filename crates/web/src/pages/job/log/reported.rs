//! The log as a report shows it: each logged space over the weeks that count for the visit.

use super::sight::Sight;
use super::view::RibbonRow;
use casework::CaseFile;
use casework::log::{SpaceLog, TimeSays};
use drawing::log::{Chart, Measure, Sheet, chart};
use notation::Show;
use wording::hours::{Stretch, head};
use wording::time::{TimeLine, time_says};

/// A logged space.
pub struct ReportedLog {
    pub title: String,
    pub head: Vec<Stretch>,
    pub chart: Chart,
    pub rows: Vec<RibbonRow>,
    pub time: Vec<TimeLine>,
    pub flaws: Vec<String>,
}

/// Every logged space.
pub fn reported(show: &Show, file: &CaseFile) -> Vec<ReportedLog> {
    let Some(log) = file.log() else { return Vec::new() };
    let one = |space: &SpaceLog| {
        let measure = Measure::Dew;
        let sight = Sight { show, file, log, space, drawn: (log, space), measure, beside: None, before: None };
        ReportedLog {
            title: sight.title(),
            head: head(show, &file.building, log, space),
            chart: chart(&sight.drawing(Sheet::PAGE)),
            rows: space.surfaces.iter().map(|s| sight.row(s)).collect(),
            time: time_says(show, &file.building, &TimeSays::of(file, log, space)),
            flaws: sight.flaws(),
        }
    };
    log.spaces.iter().map(one).collect()
}
