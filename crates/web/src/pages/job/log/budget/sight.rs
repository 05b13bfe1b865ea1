//! What a time table comes to, as it is looked at.

use building::SpaceKind;
use building::timetable::{Block, TimeTable};
use casework::budget::{NoOutdoors, Pane};
use drawing::budget::{BudgetOf, BudgetSheet, Course, Lane, LaneBlock, budget_sheet};
use hygrothermal::air::MoistAir;
use judgment::budget::{Given, Item, Keep, Kind, Run, RunHour, SurfaceRun, alone, remedy, run};
use judgment::cautions::{LOCAL_CODE, Work, cautions};
use language::say;
use notation::Show;
use notation::number::fixed;
use notation::unit::LITERS;
use wording::budget as words;

/// Width of the sheet and the room beside its field, at a desk and on a phone.
const SHEETS: [[f64; 2]; 2] = [[840.0, 178.0], [380.0, 10.0]];

/// A thing that puts in or takes out, and its liters.
pub struct Sum {
    pub name: String,
    pub liters: String,
    /// Where its figure comes from.
    pub source: String,
    pub out: bool,
}

/// A surface.
pub struct SurfaceRow {
    pub name: String,
    pub factor: String,
    pub from: &'static str,
    pub first: String,
    pub wet: String,
    pub margin: String,
}

/// What a time table comes to.
pub struct ResultView {
    pub name: String,
    /// Why nothing can be said.
    pub nothing: Option<&'static str>,
    pub head: String,
    pub band: String,
    pub change: Option<String>,
    pub alone: Vec<String>,
    pub cautions: Vec<String>,
    pub sums: Vec<Sum>,
    pub surfaces: Vec<SurfaceRow>,
    pub sheets: Vec<BudgetSheet>,
    /// The rows behind the drawing: time, RH, dew point, outdoor temperature.
    pub hours: Vec<[String; 4]>,
    pub basis: String,
}

fn lanes(show: &Show, table: &TimeTable, items: &[Item]) -> Vec<Lane> {
    let mut all: Vec<(bool, String, Lane)> = Vec::new();
    for (row, block) in table.blocks.iter().enumerate() {
        let Some(item) = items.iter().find(|i| i.id == block.what) else { continue };
        let one = LaneBlock { row, from: block.from, until: block.until, words: words::amount(show, item, block) };
        match all.iter_mut().find(|(_, id, lane)| {
            // What overlaps stands in a lane of its own.
            *id == item.id && lane.blocks.iter().all(|b| b.until <= block.from + 1e-9 || block.until <= b.from + 1e-9)
        }) {
            Some((.., lane)) => lane.blocks.push(one),
            None => {
                let lane = Lane { name: item.name.clone(), source: item.kind.is_source(), blocks: vec![one] };
                all.push((!item.kind.is_source(), item.id.clone(), lane));
            }
        }
    }
    all.sort_by_key(|(out, ..)| *out);
    all.into_iter().map(|(.., lane)| lane).collect()
}

fn sums(show: &Show, runs: &Run, items: &[Item]) -> Vec<Sum> {
    let liters = |l: f64| LITERS.text(l, show.units);
    let item = |(id, l): (&String, &f64)| {
        let item = items.iter().find(|i| i.id == *id)?;
        Some((*l, Sum { name: item.name.clone(), liters: liters(l.abs()), source: item.source.clone(), out: *l < 0.0 }))
    };
    let mut all: Vec<(f64, Sum)> = runs.liters.iter().filter_map(item).filter(|(l, _)| l.abs() > 5e-4).collect();
    let [.., air, held, condensed] = runs.sums;
    let plain =
        |name: &str, l: f64, out| Sum { name: name.into(), liters: liters(l.abs()), source: String::new(), out };
    let opened: f64 = items.iter().filter(|i| i.kind.is_air()).filter_map(|i| runs.liters.get(&i.id)).sum();
    let air = air + opened;
    let aired = if air >= 0.0 { say!("Carried out by leaks") } else { say!("Brought in by leaks") };
    all.push((-air, plain(aired, air, air >= 0.0)));
    if condensed > 5e-4 {
        all.push((-condensed, plain(say!("Condensed: the air could hold no more"), condensed, true)));
    }
    let stored = if held >= 0.0 { say!("Left in the air") } else { say!("Taken from the air") };
    all.push((-held, plain(stored, held, held >= 0.0)));
    all.sort_by(|a, b| b.0.total_cmp(&a.0));
    all.into_iter().map(|(_, s)| s).collect()
}

fn minded(table: &TimeTable, items: &[Item]) -> Vec<String> {
    let flame = |b: &Block| items.iter().any(|i| i.id == b.what && i.flame);
    let mut all = Vec::new();
    if table.blocks.iter().any(flame) {
        let work = cautions(SpaceKind::VehicleCabin, &[Work::Ventilate]);
        all.extend(work.filter(|c| c.id == "combustion").map(|c| c.text.clone()));
        all.push(LOCAL_CODE.to_owned());
    }
    all
}

fn surface(show: &Show, table: &TimeTable, pane: &Pane, run: &SurfaceRun) -> SurfaceRow {
    SurfaceRow {
        name: pane.name.clone(),
        factor: fixed(pane.factor, 2),
        from: words::factor(pane.from),
        first: run.first.map_or_else(|| say!("never").into(), |h| words::spoken(table, h as f64 + 1.0)),
        wet: format!("{} h", run.wet),
        margin: run.worst.map_or_else(String::new, |(m, _)| show.difference(m)),
    }
}

fn hour(show: &Show, table: &TimeTable, i: usize, hour: &RunHour) -> [String; 4] {
    [
        words::clock(table, i as f64 + 1.0),
        show.percent(hour.rh),
        hour.dew.map_or_else(|| "none".into(), |d| show.temperature(d)),
        show.temperature(hour.outdoor.0),
    ]
}

/// The sheet of what was run with little, usual and much from each source.
fn drawn(
    show: &Show,
    table: &TimeTable,
    given: &Given,
    panes: &[Pane],
    runs: [&Run; 3],
    [width, right]: [f64; 2],
) -> BudgetSheet {
    let usual = runs[1];
    let at = |f: f64| usual.hours.iter().map(|h| Some(h.outdoor.0 + f * (table.celsius - h.outdoor.0))).collect();
    // Without room for their names only the coldest is drawn.
    let shown = if right > 50.0 { 4 } else { 1 };
    let course = |p: &Pane| Course { name: p.name.clone(), at: at(p.factor) };
    budget_sheet(&BudgetOf {
        width,
        right,
        hours: usize::from(table.hours),
        begins: usize::from(table.begins),
        lanes: lanes(show, table, given.items),
        dew: runs.map(|r| r.hours.iter().map(|h| h.dew).collect()),
        outdoors: at(0.0),
        surfaces: panes.iter().take(shown).map(course).collect(),
        wet: (0..usual.hours.len()).map(|h| usual.is_wet(h, given, table.celsius)).collect(),
    })
}

/// What is assumed, in words.
fn basis(show: &Show, table: &TimeTable, items: &[Item], weather: Option<&str>, known: usize) -> String {
    let short = if known < usize::from(table.hours) { say!(" Outdoor air is known no further.") } else { "" };
    let salt = |b: &Block| items.iter().any(|i| i.id == b.what && i.kind == Kind::Salt);
    let tubs = if table.blocks.iter().any(salt) {
        say!(" Tubs of salt are for storage: brine corrodes, and tips.")
    } else {
        ""
    };
    say!(
        "Outdoor air {outdoors}. The air is taken as well mixed and held at {table}; nothing is taken up by cloth or wood, and water leaves the air only past 100 %: on a cold surface it does so earlier.{short}{tubs}",
        outdoors = words::outdoors(table.outdoors, weather),
        table = show.temperature(table.celsius),
        short,
        tubs
    )
}

/// What a time table comes to; why not, where its outdoor air is not known.
pub fn of(
    show: &Show,
    table: &TimeTable,
    items: &[Item],
    panes: &[Pane],
    air: Result<Vec<MoistAir>, NoOutdoors>,
    (space, weather): (Option<SpaceKind>, Option<&str>),
) -> ResultView {
    let mut view = ResultView {
        name: table.name.clone(),
        nothing: None,
        head: String::new(),
        band: String::new(),
        change: None,
        alone: Vec::new(),
        cautions: minded(table, items),
        sums: Vec::new(),
        surfaces: Vec::new(),
        sheets: Vec::new(),
        hours: Vec::new(),
        basis: String::new(),
    };
    let outdoors = match air {
        Ok(air) => air,
        Err(why) => {
            view.nothing = Some(words::no_outdoors(&why));
            return view;
        }
    };
    let factors: Vec<f64> = panes.iter().map(|p| p.factor).collect();
    let given = Given { items, outdoors: &outdoors, surfaces: &factors };
    let runs: Option<Vec<Run>> = (0..3).map(|level| run(table, &given, Keep::All, level)).collect();
    let Some([little, usual, much]) = runs.and_then(|r| <[Run; 3]>::try_from(r).ok()) else {
        view.nothing = Some(say!("This air is beyond what can be computed: check temperature and humidity."));
        return view;
    };
    view.head = words::head(show, table, &usual, panes);
    view.band = words::band(table, &little, &much);
    view.change = remedy(table, &given, &usual, space).map(|r| words::change(show, table, items, &r));
    let each = alone(table, &given);
    let named = |id: &str| items.iter().find(|i| i.id == id);
    view.alone = each.iter().filter_map(|(id, took, wet)| Some(words::alone(show, named(id)?, *took, *wet))).collect();
    view.sums = sums(show, &usual, items);
    view.surfaces = panes.iter().zip(&usual.surfaces).map(|(p, s)| surface(show, table, p, s)).collect();
    view.sheets = SHEETS.map(|sheet| drawn(show, table, &given, panes, [&little, &usual, &much], sheet)).into();
    view.hours = usual.hours.iter().enumerate().map(|(i, h)| hour(show, table, i, h)).collect();
    view.basis = basis(show, table, items, weather, usual.hours.len());
    view
}
