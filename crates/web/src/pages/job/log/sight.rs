//! A log as it is looked at: what is drawn of it, and the figures and words beside.

use super::view::{MarkRow, RibbonRow};
use building::{MarkKind, Place};
use casework::CaseFile;
use casework::log::{HourAir, LogView, Row, Source, SpaceLog, SurfaceLog, spots};
use chrono::{DateTime, Utc};
use drawing::log::{Cell, Dot, Drawn, Flag, Kind, Line, Measure, Sheet, columns, ribbon};
use hygrothermal::mold::CRITERION;
use hygrothermal::surface::MOLD_RH;
use language::{known, say};
use logger::Spread;
use notation::Show;
use store::LogSeries;
use uuid::Uuid;
use wording::hours::{hours, step};

/// Surfaces drawn at once; all have their row below.
const DRAWN: usize = 5;

/// What is looked at.
pub(super) struct Sight<'a> {
    pub show: &'a Show,
    pub file: &'a CaseFile,
    pub log: &'a LogView,
    pub space: &'a SpaceLog,
    /// The same as it is drawn: finer where the span is short.
    pub drawn: (&'a LogView, &'a SpaceLog),
    /// What its side shows.
    pub measure: Measure,
    /// Another space beside it.
    pub beside: Option<&'a SpaceLog>,
    /// The same space over the span before, as long.
    pub before: Option<(&'a LogView, &'a SpaceLog)>,
}

fn cell(spread: Option<Spread>) -> Option<Cell> {
    spread.map(|s| Cell { mean: s.mean, low: s.low, high: s.high })
}

/// A figure without a spread of its own.
fn plain(figure: Option<f64>) -> Option<Cell> {
    figure.map(|x| Cell { mean: x, low: x, high: x })
}

/// Air as one of the figures; none for what only a surface has.
fn of_air(measure: Measure, air: &Row<HourAir>, outdoors: &Row<HourAir>) -> Vec<Option<Cell>> {
    let each = |of: fn(&HourAir) -> Option<Cell>| air.iter().map(|h| h.as_ref().and_then(of)).collect();
    match measure {
        Measure::Dew => each(|h| cell(h.dew_c)),
        Measure::Rh => each(|h| cell(Some(h.rh_pct))),
        Measure::Ratio => each(|h| plain(Some(1000.0 * h.air.humidity_ratio()))),
        Measure::Excess => {
            let more = |(i, e): (&Option<HourAir>, &Option<HourAir>)| {
                Some(1000.0 * (i.as_ref()?.air.absolute_humidity() - e.as_ref()?.air.absolute_humidity()))
            };
            air.iter().zip(outdoors).map(|pair| plain(more(pair))).collect()
        }
        Measure::Mold => Vec::new(),
    }
}

impl Sight<'_> {
    /// What is drawn, on a sheet.
    pub fn drawing(&self, sheet: Sheet) -> Drawn<'_> {
        let (log, space) = self.drawn;
        let each = sheet.each(log.steps());
        let rain = log.rain.chunks(each).map(|c| c.iter().flatten().copied().reduce(|a, b| a + b)).collect();
        let [from, until] = [log.from, log.until];
        let lines = self.lines().into_iter().filter(|(_, _, cells)| cells.iter().any(Option::is_some));
        Drawn {
            sheet,
            measure: self.measure,
            limit: self.limit(),
            span: [from, until],
            lines: lines.map(|(name, kind, cells)| Line { name, kind, cells: columns(&cells, each) }).collect(),
            band_k: space.dew_band_k,
            rain,
            flags: self.flags(),
            dots: if self.measure == Measure::Dew { self.dots() } else { Vec::new() },
            left_out: self.left_out(),
            show: self.show,
        }
    }

    /// What it is of.
    pub fn title(&self) -> String {
        let name = self.file.building.space(self.space.id).map_or("", |s| s.name.as_str());
        say!(
            "{name}, {log} to {log2}",
            name,
            log = self.show.moment(self.log.from),
            log2 = self.show.moment(self.log.until)
        )
    }

    /// The figure not to be passed.
    fn limit(&self) -> Option<(f64, String)> {
        match self.measure {
            Measure::Rh => Some((MOLD_RH, say!("mold at {a}", a = self.show.percent(MOLD_RH)))),
            Measure::Excess => Some((0.0, say!("as outdoors").into())),
            Measure::Mold => Some((CRITERION, say!("not acceptable").into())),
            Measure::Dew | Measure::Ratio => None,
        }
    }

    /// The lines of the figure chosen, the air of the space first.
    fn lines(&self) -> Vec<(String, Kind, Vec<Option<Cell>>)> {
        let (log, space) = self.drawn;
        let measure = self.measure;
        let words = known(measure.words());
        let mut lines =
            vec![(say!("{words} of the air", words), Kind::Dew, of_air(measure, &space.air, &log.outdoors))];
        if measure != Measure::Excess {
            let outdoors = of_air(measure, &log.outdoors, &log.outdoors);
            lines.push((say!("outdoor {words}", words), Kind::Outdoors, outdoors));
        }
        if let Some(other) = self.beside {
            let other = log.space(other.id).unwrap_or(other);
            let name = self.file.building.space(other.id).map_or("", |s| s.name.as_str());
            lines.push((format!("{name}: {words}"), Kind::Beside, of_air(measure, &other.air, &log.outdoors)));
        }
        if let Some((earlier, space)) = self.before {
            let cells = of_air(measure, &space.air, &earlier.outdoors);
            lines.push((say!("the span before: {words}", words), Kind::Before, cells));
        }
        // Bare soil is damp whatever the air does: it has its row below.
        for surface in space.surfaces.iter().filter(|s| !self.is_soil(s)).take(DRAWN) {
            let kind = if surface.source == Source::Measured { Kind::Surface } else { Kind::Estimated };
            lines.push((self.named(surface), kind, self.of_surface(surface)));
        }
        lines
    }

    fn of_surface(&self, surface: &SurfaceLog) -> Vec<Option<Cell>> {
        let (_, space) = self.drawn;
        match self.measure {
            Measure::Dew => surface.t_c.iter().map(|s| cell(*s)).collect(),
            Measure::Rh => surface.humidity(&space.air).into_iter().map(plain).collect(),
            // The index counts hours: of finer steps it says nothing.
            Measure::Mold => {
                let whole = self.space.surfaces.iter().find(|s| s.id == surface.id);
                let material = self.file.building.surface(surface.id).map(|s| s.material);
                let course = whole.zip(material).map(|(s, m)| s.mold(&self.space.air, m)).unwrap_or_default();
                course.into_iter().map(plain).collect()
            }
            Measure::Ratio | Measure::Excess => Vec::new(),
        }
    }

    fn is_soil(&self, surface: &SurfaceLog) -> bool {
        let soil = |s: &building::Surface| s.material == building::Material::Soil;
        self.space.surfaces.len() > 1 && self.file.building.surface(surface.id).is_some_and(soil)
    }

    pub fn named(&self, surface: &SurfaceLog) -> String {
        let name = self.file.building.surface(surface.id).map(|s| s.name.clone()).unwrap_or_default();
        if surface.source == Source::Measured { name } else { say!("{name} · estimated", name) }
    }

    /// Stretches left out of anything drawn here.
    fn left_out(&self) -> Vec<[DateTime<Utc>; 2]> {
        let own = |id: Uuid| {
            let series = self.log.series.iter().find(|s| s.id == id);
            series.is_some_and(|s| {
                s.space_id == Some(self.space.id) || self.space.surfaces.iter().any(|x| Some(x.id) == s.surface_id)
            })
        };
        let out = self.log.marks.iter().filter(|m| m.kind == MarkKind::LeftOut && m.series_id.is_none_or(own));
        out.filter_map(|m| Some([m.from_at, m.until_at?])).collect()
    }

    fn flags(&self) -> Vec<Flag> {
        let visits = self.file.visits.iter().filter(|v| v.started_at >= self.log.from && v.started_at < self.log.until);
        let visits = visits.map(|v| Flag {
            at: v.started_at,
            until: None,
            words: say!("visit {file}", file = self.file.visit_number(v.id)),
        });
        let here = |m: &&store::LogMark| m.space_id.is_none_or(|id| id == self.space.id) && m.kind != MarkKind::LeftOut;
        let marks = self.log.marks.iter().filter(here);
        let within = |at: &DateTime<Utc>| *at >= self.log.from && *at < self.log.until;
        let steps = self.file.steps_done().into_iter().filter(|(at, _)| within(at));
        let steps = steps.map(|(at, fix)| Flag { at, until: None, words: step(fix).to_lowercase() });
        let mut all: Vec<Flag> = visits
            .chain(steps)
            .chain(marks.map(|m| Flag { at: m.from_at, until: m.until_at, words: m.what.clone() }))
            .collect();
        all.sort_by_key(|f| f.at);
        all
    }

    /// A sensor by its logger, what it reads and where.
    pub fn sensor(&self, series: &LogSeries) -> String {
        let logger = self.file.instrument(series.instrument_id).map(|i| i.name.as_str()).unwrap_or_default();
        let space = series.space_id.and_then(|id| self.file.building.space(id)).map(|s| s.name.as_str());
        let surface = series.surface_id.and_then(|id| self.file.building.surface(id)).map(|s| s.name.as_str());
        let place = surface.or(space).unwrap_or("outdoors");
        say!("{logger}, {series} of {place}", logger, series = known(series.reads.words()), place)
    }

    /// What is wrong with the loggers of this space, and of outdoors.
    pub fn flaws(&self) -> Vec<String> {
        let here = |s: &&LogSeries| {
            let of = s.surface_id.and_then(|id| self.file.building.surface(id)).map(|x| x.space_id).or(s.space_id);
            of.is_none_or(|id| id == self.space.id)
        };
        let series = |id: Uuid| self.log.series.iter().find(|s| s.id == id);
        let mut all = Vec::new();
        for flaw in &self.log.flaws {
            let (Some(own), with) = (series(flaw.series), flaw.with.and_then(series)) else { continue };
            if here(&own) || with.as_ref().is_some_and(here) {
                let names = (self.sensor(own), with.map(|s| self.sensor(s)).unwrap_or_default());
                all.push(wording::hours::flaw(self.show, (&names.0, &names.1), flaw, own.reads));
            }
        }
        all.truncate(12);
        all
    }

    pub fn marks(&self) -> Vec<MarkRow> {
        let row = |m: &store::LogMark| {
            let until = m.until_at.map_or_else(String::new, |u| say!(" to {u}", u = self.show.moment(u)));
            let of = m.series_id.and_then(|id| self.log.series.iter().find(|s| s.id == id)).map(|s| self.sensor(s));
            let left_out = m.kind == MarkKind::LeftOut;
            let what = match (left_out, of) {
                (true, Some(of)) => say!("left out: {of}", of),
                (true, None) => say!("left out: all sensors").to_owned(),
                _ => m.what.clone(),
            };
            MarkRow {
                id: m.id,
                act: Uuid::now_v7(),
                when: format!("{}{until}", self.show.moment(m.from_at)),
                what,
                note: m.note.clone(),
                left_out,
            }
        };
        let here = |m: &&store::LogMark| m.space_id.is_none_or(|id| id == self.space.id);
        self.log.marks.iter().filter(here).map(row).collect()
    }

    /// What was read on visits in this space.
    fn dots(&self) -> Vec<Dot> {
        let here = |place: Place| match place {
            Place::Space(id) => id == self.space.id,
            Place::Surface(id) => self.space.surfaces.iter().any(|s| s.id == id && !self.is_soil(s)),
            Place::Outdoors => false,
        };
        let read = spots(self.file, self.log).into_iter().filter(|s| here(s.place));
        read.map(|s| Dot {
            at: s.at,
            t_c: s.t_c,
            words: say!(
                "{file}, {t_c}, read on a visit {at}",
                file = self.file.building.place_name(s.place),
                t_c = self.show.temperature(s.t_c),
                at = self.show.moment(s.at)
            ),
        })
        .collect()
    }

    pub fn row(&self, surface: &SurfaceLog) -> RibbonRow {
        RibbonRow {
            name: self.file.building.surface(surface.id).map(|s| s.name.clone()).unwrap_or_default(),
            runs: [Sheet::DESK, Sheet::PHONE].map(|sheet| ribbon(sheet, &surface.stood)),
            wet: hours(surface.said.wet),
            mold: hours(surface.said.mold),
            estimated: surface.source != Source::Measured,
        }
    }

    pub fn columns(&self) -> Vec<String> {
        let own = self.space.surfaces.iter().map(|s| self.named(s));
        [say!("Air"), say!("Humidity"), say!("Dew point"), say!("Outdoor dew point")]
            .map(str::to_owned)
            .into_iter()
            .chain(own)
            .collect()
    }

    /// The figures behind the drawing, by hour or by several.
    pub fn table(&self) -> Vec<(String, Vec<String>)> {
        let (log, space) = self.drawn;
        let each = log.steps().div_ceil(400).max(1);
        let t = |x: Option<Cell>| x.map_or_else(|| "–".to_owned(), |c| self.show.temperature(c.mean));
        let of = |cells: Vec<Option<Cell>>| columns(&cells, each);
        let air = |pick: fn(&HourAir) -> Option<Spread>, row: &Row<HourAir>| {
            of(row.iter().map(|h| cell(h.as_ref().and_then(pick))).collect())
        };
        let temperature = air(|h| Some(h.t_c), &space.air);
        let humidity = air(|h| Some(h.rh_pct), &space.air);
        let dew = air(|h| h.dew_c, &space.air);
        let out = air(|h| h.dew_c, &log.outdoors);
        let surfaces: Vec<Vec<Option<Cell>>> =
            space.surfaces.iter().map(|s| of(s.t_c.iter().map(|x| cell(*x)).collect())).collect();
        let row = |i: usize| {
            let rh = humidity[i].map_or_else(|| "–".to_owned(), |c| self.show.percent(c.mean));
            let mut cells = vec![t(temperature[i]), rh, t(dew[i]), t(out[i])];
            cells.extend(surfaces.iter().map(|s| t(s[i])));
            (self.show.moment(log.at(i * each)), cells)
        };
        (0..temperature.len()).filter(|i| temperature[*i].is_some()).map(row).collect()
    }
}
