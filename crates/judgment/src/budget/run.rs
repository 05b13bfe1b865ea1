//! A time table stepped through its hours.

use super::{Item, Kind};
use building::timetable::{Block, TimeTable};
use hygrothermal::air::{MoistAir, Over, dew_point, saturation_pressure};
use hygrothermal::machine::{Rating, relative_capacity};
use hygrothermal::quantity::{Area, Mass, Pressure, RelativeHumidity, Temperature, Volume};
use hygrothermal::space::{Desiccant, Inlet, RoomAir, bare_soil_evaporation};
use std::collections::BTreeMap;

/// Steps an hour is cut into: what machines do depends on the air they stand in.
const STEPS: usize = 12;
/// Seconds of a step.
const STEP: f64 = 3600.0 / STEPS as f64;
/// A humidistat stops a dehumidifier under this, % (common practice).
const HUMIDISTAT: f64 = 50.0;
/// Share of a coil's air that touches it.
const TOUCHES: f64 = 0.7;
/// What desiccants still can take they take up by this share an hour (ours: a tub works for a day or two).
const UPTAKE: f64 = 0.04;
/// Soil under a space stays by so much colder than its air, K (ours).
const SOIL_BELOW: f64 = 2.0;

/// What a time table is run with.
#[derive(Debug, Clone)]
pub struct Given<'a> {
    /// Everything that may go on.
    pub items: &'a [Item],
    /// Outdoor air of each hour.
    pub outdoors: &'a [MoistAir],
    /// Temperature factor of each surface.
    pub surfaces: &'a [f64],
}

/// What is left out.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Keep<'a> {
    /// Nothing.
    All,
    /// Everything that takes water out, but this.
    Only(&'a str),
}

/// How an hour ended.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct RunHour {
    /// Relative humidity at the space's temperature, %.
    pub rh: f64,
    /// Dew point, °C; none of air without water.
    pub dew: Option<f64>,
    /// Outdoor temperature and dew point, °C.
    pub outdoor: (f64, Option<f64>),
}

/// What a surface came to.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct SurfaceRun {
    /// First hour at whose end it is wet.
    pub first: Option<usize>,
    /// Hours at whose end it is.
    pub wet: usize,
    /// The smallest margin above the dew point, K, and its hour.
    pub worst: Option<(f64, usize)>,
}

/// A time table run through.
#[derive(Debug, Clone, PartialEq)]
pub struct Run {
    /// Its hours.
    pub hours: Vec<RunHour>,
    /// Its surfaces, in the order given.
    pub surfaces: Vec<SurfaceRun>,
    /// Liters each kind of thing put in (positive), took out or let out (negative), by its id.
    pub liters: BTreeMap<String, f64>,
    /// Liters put in, taken out by machines and salts, carried out by air on balance, held by the air at the end more than at the
    /// start, and condensed because the air could hold no more.
    pub sums: [f64; 5],
}

impl Run {
    /// Hours at whose end some surface is wet.
    #[must_use]
    pub fn wet(&self) -> usize {
        self.surfaces.iter().map(|s| s.wet).max().unwrap_or(0)
    }
}

/// Temperature of a surface by its factor, °C.
pub(super) fn surface_at(factor: f64, inside: f64, outside: f64) -> f64 {
    outside + factor * (inside - outside)
}

/// Air through an opening on one side of a space, m³/s.
///
/// # Formula
/// Q = 0.5 A √(0.001 v² + 0.0035 H |ΔT| + 0.01), wind v in m/s, A in m², H the opening's height in m: single-sided airing, EN 15242:2007
/// (from memory).
fn through(area: f64, height: f64, wind: f64, apart: f64) -> f64 {
    0.5 * area * (0.001 * wind * wind + 0.0035 * height * apart.abs() + 0.01).sqrt()
}

/// A block with what it is.
struct Going<'a> {
    block: &'a Block,
    item: &'a Item,
}

impl Going<'_> {
    fn at(&self, hour: f64) -> bool {
        self.block.from <= hour + 1e-9 && hour + 1e-9 < self.block.until
    }
}

/// Runs a time table; `level` chooses the sources' figures: 0 little, 1 usual, 2 much. Hours without outdoor air end it.
#[must_use]
pub fn run(table: &TimeTable, given: &Given, keep: Keep, level: usize) -> Option<Run> {
    run_within(table, given, (keep, level), usize::MAX)
}

/// The same, given up as soon as more hours than `most` are wet.
pub(super) fn run_within(table: &TimeTable, given: &Given, (keep, level): (Keep, usize), most: usize) -> Option<Run> {
    let celsius = Temperature::new(table.celsius).ok()?;
    let start = RelativeHumidity::new(table.start_rh).ok()?;
    let start = MoistAir::from_rh(celsius, start, Over::Ice, Pressure::STANDARD).ok()?;
    let mut room = RoomAir::new(Volume::new(table.volume_m3).ok()?, &start);
    let begun = room;
    let known = |b: &'_ Block| given.items.iter().find(|i| i.id == b.what);
    let kept = |i: &Item| i.kind.is_source() || keep == Keep::All || keep == Keep::Only(&i.id);
    let going: Vec<Going> = table
        .blocks
        .iter()
        .filter_map(|block| Some(Going { block, item: known(block)? }))
        .filter(|g| kept(g.item))
        .collect();
    let mut out = Run {
        hours: Vec::new(),
        surfaces: vec![SurfaceRun { first: None, wet: 0, worst: None }; given.surfaces.len()],
        liters: BTreeMap::new(),
        sums: [0.0; 5],
    };
    // What each desiccant holds so far, kg, by its block.
    let mut held = vec![0.0; going.len()];
    for (h, outdoor) in given.outdoors.iter().enumerate().take(usize::from(table.hours)) {
        for step in 0..STEPS {
            let at = h as f64 + step as f64 / STEPS as f64;
            let now: Vec<usize> = (0..going.len()).filter(|i| going[*i].at(at)).collect();
            let apart = table.celsius - outdoor.temperature().get();
            let flows = Flows::of(&going, &now, &room, table, apart, &mut held, level);
            out.book(&mut room, table, outdoor, &going, &flows);
        }
        let dew = dew_point(room.vapor_pressure()).map(Temperature::get);
        out.hours.push(RunHour {
            rh: room.rh(),
            dew,
            outdoor: (outdoor.temperature().get(), outdoor.dew_point().map(Temperature::get)),
        });
        for (surface, factor) in out.surfaces.iter_mut().zip(given.surfaces) {
            let Some(dew) = dew else { continue };
            let margin = surface_at(*factor, table.celsius, outdoor.temperature().get()) - dew;
            if surface.worst.is_none_or(|(least, _)| margin < least) {
                surface.worst = Some((margin, h));
            }
            if margin <= 0.0 {
                surface.first = surface.first.or(Some(h));
                surface.wet += 1;
            }
        }
        if out.wet() > most {
            return None;
        }
    }
    let mass = table.volume_m3 / start.specific_volume();
    out.sums[3] = mass * (room.ratio() - begun.ratio());
    Some(out)
}

/// What goes on through a step: each of it by its block.
#[derive(Default)]
struct Flows {
    /// Sources, and removals below nothing, kg/s.
    gives: Vec<(usize, f64)>,
    /// Openings, m³/s.
    airs: Vec<(usize, f64)>,
    /// Coils: what of the air touches them, and how it leaves them.
    coils: Vec<(usize, Inlet)>,
}

impl Flows {
    /// What goes on between the air as it is and outdoors; `held` is what each desiccant holds so far, kg.
    fn of(
        going: &[Going],
        now: &[usize],
        room: &RoomAir,
        table: &TimeTable,
        apart: f64,
        held: &mut [f64],
        level: usize,
    ) -> Self {
        let rh = room.rh().min(100.0);
        let mut flows = Self::default();
        for &i in now {
            let Going { block, item } = &going[i];
            let amount = block.amount;
            match item.kind {
                Kind::Rate => flows.gives.push((i, amount * item.liters[level] / 3600.0)),
                Kind::Event => {
                    flows.gives.push((i, amount * item.liters[level] / ((block.until - block.from) * 3600.0)));
                }
                Kind::Soil => flows.gives.push((i, soil(room, table.celsius, amount))),
                Kind::Window => {
                    let area = amount / 100.0 * item.opening[0];
                    flows.airs.push((i, through(area, item.opening[1], table.wind, apart)));
                }
                Kind::Fan => flows.airs.push((i, amount / 3600.0)),
                Kind::Air => flows.airs.push((i, amount * table.volume_m3 / 3600.0)),
                Kind::Dehumidifier => flows.gives.push((i, -machine(amount, table.celsius, rh))),
                Kind::Cooling => flows.coils.extend(coil(item, amount, room).map(|c| (i, c))),
                Kind::Silica | Kind::Salt => {
                    let takes = (most(item.kind, amount, rh) - held[i]).max(0.0) * UPTAKE / 3600.0;
                    held[i] += takes * STEP;
                    flows.gives.push((i, -takes));
                }
            }
        }
        flows
    }
}

impl Run {
    /// Takes the air a step further, and books what went where.
    fn book(&mut self, room: &mut RoomAir, table: &TimeTable, outdoor: &MoistAir, going: &[Going], flows: &Flows) {
        let source: f64 = flows.gives.iter().map(|(_, kg_s)| kg_s.max(0.0)).sum();
        let removal: f64 = flows.gives.iter().map(|(_, kg_s)| (-kg_s).max(0.0)).sum();
        let open: f64 = flows.airs.iter().map(|(_, m3_s)| m3_s).sum();
        let aired = (table.leak * table.volume_m3 / 3600.0 + open) / outdoor.specific_volume();
        let whole = aired + flows.coils.iter().map(|(_, c)| c.kg_s).sum::<f64>();
        let dried = flows.coils.iter().map(|(_, c)| c.kg_s * c.ratio).sum::<f64>();
        let brought = aired * outdoor.humidity_ratio() + dried;
        let ratio = if whole > 0.0 { brought / whole } else { outdoor.humidity_ratio() };
        let end = room.over(STEP, Inlet { kg_s: whole, ratio }, source, removal);
        // What coils took of what left with all the airs: their mean ratio through the step is known from their sum.
        let mean = if whole > 0.0 { end.air_out / (whole * STEP) + ratio } else { 0.0 };
        let took = |c: &Inlet| c.kg_s * STEP * (mean - c.ratio);
        let share = if removal > 0.0 { end.removed / (removal * STEP) } else { 0.0 };
        let given = flows.gives.iter().map(|(i, kg_s)| (*i, kg_s * STEP * if *kg_s < 0.0 { share } else { 1.0 }));
        let over = mean - outdoor.humidity_ratio();
        let carried = flows.airs.iter().map(|(i, m3_s)| (*i, -m3_s / outdoor.specific_volume() * STEP * over));
        let cooled = flows.coils.iter().map(|(i, c)| (*i, -took(c)));
        for (i, liters) in given.chain(carried).chain(cooled) {
            *self.liters.entry(going[i].item.id.clone()).or_default() += liters;
        }
        let by_coils: f64 = flows.coils.iter().map(|(_, c)| took(c)).sum();
        self.sums[0] += source * STEP;
        self.sums[1] += end.removed + by_coils;
        self.sums[2] += end.air_out - by_coils;
        self.sums[4] += room.condense();
    }
}

/// Air over a cooling coil; none where the coil is warmer than the dew point and takes nothing out.
fn coil(item: &Item, units: f64, room: &RoomAir) -> Option<Inlet> {
    /// Air, kg/m³.
    const DENSITY: f64 = 1.2;
    let leaves = MoistAir::saturated(Temperature::new(item.coil[1]).ok()?, Pressure::STANDARD).ok()?.humidity_ratio();
    let kg_s = units * TOUCHES * item.coil[0] / 3600.0 * DENSITY;
    (room.ratio() > leaves).then_some(Inlet { kg_s, ratio: leaves })
}

/// What a desiccant takes up at last, kg.
fn most(kind: Kind, dry: f64, rh: f64) -> f64 {
    let of = if kind == Kind::Silica { Desiccant::SilicaGel } else { Desiccant::CalciumChloride };
    Mass::new(dry).ok().zip(RelativeHumidity::new(rh).ok()).map_or(0.0, |(dry, rh)| of.uptake(dry, rh))
}

/// Water from bare soil, kg/s; negative where the air wets it.
fn soil(room: &RoomAir, celsius: f64, area: f64) -> f64 {
    let made = Temperature::new(celsius - SOIL_BELOW).ok().zip(Area::new(area).ok()).and_then(|(ground, area)| {
        let at = Temperature::new(celsius).ok()?;
        let rh = 100.0 * room.vapor_pressure() / saturation_pressure(at);
        let air =
            MoistAir::from_rh(at, RelativeHumidity::new(rh.min(100.0)).ok()?, Over::Ice, Pressure::STANDARD).ok()?;
        Some(bare_soil_evaporation(ground, &air, area) / 86_400.0)
    });
    made.unwrap_or(0.0)
}

/// What a dehumidifier takes out, kg/s.
fn machine(label: f64, celsius: f64, rh: f64) -> f64 {
    let state = Temperature::new(celsius).ok().zip(RelativeHumidity::new(rh).ok());
    let rated = relative_capacity(Rating::WARM.t, Rating::WARM.rh);
    match state {
        Some((t, phi)) if rh > HUMIDISTAT => label / 86_400.0 * relative_capacity(t, phi) / rated,
        _ => 0.0,
    }
}
