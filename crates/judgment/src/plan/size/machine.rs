//! A dehumidifier for good: its load through the year, its size here, what it costs to run.

use super::{FigureOrigin, Measure, Work};
use crate::climate::DAYS;
use building::{Side, Space, SpaceKind};
use hygrothermal::air::MoistAir;
use hygrothermal::machine::{BUCKET, Dehumidifier, Rating, Running};
use hygrothermal::quantity::{AirFlow, Area, DailyWater, Permeance, Pressure, RelativeHumidity, Temperature};
use hygrothermal::space::{covered_soil_evaporation, removal};

/// Labels sold, L/day at 18.3 °C and 60 %.
const LABELS: [f64; 9] = [8.0, 10.0, 12.0, 16.0, 20.0, 25.0, 30.0, 40.0, 50.0];
/// A 0.2 mm polyethylene film, kg/(Pa·s·m²): s_d about 70 m.
const FILM: f64 = 2.8e-12;
/// Part of the ground that stays open at laps and edges of a film well laid.
const GAPS: f64 = 0.02;
/// A unit is chosen with a quarter to spare.
const SPARE: f64 = 1.25;

/// What a space takes in, L/day.
struct Load {
    by_air: f64,
    by_soil: f64,
}

impl Load {
    fn total(&self) -> f64 {
        (self.by_air + self.by_soil).max(0.0)
    }
}

/// A space to be held at a relative humidity.
pub(super) struct Held<'a> {
    space: &'a Space,
    held: MoistAir,
    flow: AirFlow,
    ground: Option<Temperature>,
}

impl<'a> Held<'a> {
    /// At temperature `t` and ceiling `rh`, with openings shut.
    pub(super) fn new(w: &Work<'a>, space: &'a Space, [t, rh, changes]: [f64; 3], ground_t: f64) -> Option<Self> {
        let soil = |b: &building::Boundary| b.beyond == Side::Ground && b.face == building::Face::Floor;
        let over_soil = matches!(space.kind, SpaceKind::Crawl | SpaceKind::UnderFloor)
            && w.site.building.boundaries_of(space.id).any(soil);
        Some(Self {
            space,
            held: super::moist(t, rh)?,
            flow: AirFlow::from_air_changes(changes, space.volume_m3()).ok()?,
            ground: if over_soil { Temperature::new(ground_t).ok() } else { None },
        })
    }

    fn load(&self, outdoor_dew: f64) -> Option<Load> {
        let dew = Temperature::new(outdoor_dew).ok()?;
        let t = if dew > self.held.temperature() { dew } else { self.held.temperature() };
        let out = MoistAir::from_dew_point(t, dew, Pressure::STANDARD).ok()?;
        let by_air = -removal(&self.held, &out, self.flow);
        let area = Area::new(self.space.area_m2).ok()?;
        let film = Permeance::new(FILM).ok()?;
        let by_soil =
            self.ground.map_or(0.0, |g| covered_soil_evaporation(g, &self.held, area, 1.0 - GAPS, film).max(0.0));
        Some(Load { by_air, by_soil })
    }

    /// Liters taken out in a year of outdoor air, and in its worst month a day.
    pub(super) fn year(&self, w: &Work) -> Option<(f64, f64)> {
        let year = w.year();
        let loads: Option<Vec<f64>> = (0..12).map(|m| Some(self.load(year.dew[m])?.total())).collect();
        let loads = loads?;
        Some((loads.iter().zip(DAYS).map(|(l, d)| l * d).sum(), loads.into_iter().fold(0.0, f64::max)))
    }
}

/// Kinds of spaces a dehumidifier stands in.
const KINDS: [SpaceKind; 6] = [
    SpaceKind::Crawl,
    SpaceKind::Basement,
    SpaceKind::Garage,
    SpaceKind::Room,
    SpaceKind::VehicleCabin,
    SpaceKind::BoatCabin,
];

/// A machine that takes out what is to be taken out on the worst day.
struct Unit {
    /// Its label, L/day.
    rated: f64,
    /// Whether the label is that of a machine that stands there.
    labeled: bool,
    running: Running,
}

impl Unit {
    fn is_too_small(&self) -> bool {
        self.running.runtime.is_none_or(|r| r > 1.0)
    }
}

/// Air there, °C and %, and what is to be taken out of it on the worst day.
fn worst_day<'a>(w: &mut Work<'a>, space: &'a Space) -> Option<(Held<'a>, [f64; 2], Load)> {
    let ceiling = w.site.choices.percent("rh_ceiling")?;
    w.drawn("volume_m3", "Space", Measure::Volume, space.volume_m3());
    let read = w.air_of(space).map_or((15.0, FigureOrigin::Assumed("not read yet")), |a| {
        (a.value.t.get(), FigureOrigin::Read(space.name.clone()))
    });
    let t = w.give("t", "Air there", Measure::Temperature, read.0, read.1);
    let rh = w.give("rh", "Held at", Measure::Percent, ceiling, FigureOrigin::Assumed("the school chosen"));
    let changes = w.changes_shut(space);
    let year = w.year();
    let month = year.most_humid();
    let today = w.site.picture.outdoor.and_then(|o| o.dew).map(|d| d.value);
    let (dew, origin) = match today {
        Some(d) if d > year.dew[month] => (d, FigureOrigin::Read("Outdoor air".into())),
        _ => (year.dew[month], FigureOrigin::Assumed("the climate’s most humid month")),
    };
    let dew = w.give("out_dew", "Outdoor dew point", Measure::Temperature, dew, origin);
    let ground =
        w.assume("ground_t", "Ground", Measure::Temperature, year.ground(month), "half the air’s swing, a month later");
    let held = Held::new(w, space, [t, rh, changes], ground)?;
    let load = held.load(dew)?;
    w.found("By air that leaks in", Measure::Daily, load.by_air);
    if load.by_soil > 0.0 {
        w.found("Through the covered ground", Measure::Daily, load.by_soil);
    }
    w.found("To take out on the worst day", Measure::Daily, load.total());
    Some((held, [t, rh], load))
}

/// The machine that stands there where one is put right, else the smallest sold with some to spare.
fn unit(w: &mut Work, [t, rh]: [f64; 2], total: f64) -> Option<Unit> {
    let at = (Temperature::new(t).ok()?, RelativeHumidity::new(rh).ok()?);
    let daily = DailyWater::new(total).ok()?;
    let run = |label: f64| {
        Some(Dehumidifier { rated: DailyWater::new(label).ok()?, at: Rating::COOL }.run(at.0, at.1, daily))
    };
    let fits = LABELS.into_iter().find(|l| run(*l).is_some_and(|r| r.capacity >= SPARE * total));
    let sold = (
        fits.unwrap_or(LABELS[8]),
        FigureOrigin::Assumed("the smallest sold with a quarter to spare, rated at 18.3 °C and 60 %"),
    );
    // One that stands there already is weighed as it is.
    let label = w.site.case.figure_of("dehumidifier_rated_l_day").filter(|_| is_repaired(w));
    let (rated, origin) = label.map_or(sold, |l| (l, FigureOrigin::Read("its label".into())));
    let rated = w.give("rated", "Label", Measure::Daily, rated, origin);
    let running = run(rated)?;
    w.found("It takes out here", Measure::Daily, running.capacity);
    let share = running.runtime.unwrap_or(f64::INFINITY).min(99.0);
    w.found("Share of the time it runs on that day", Measure::Share, share);
    Some(Unit { rated, labeled: label.is_some(), running })
}

fn is_repaired(w: &Work) -> bool {
    w.fix.id == "fix_dehumidifier"
}

pub fn dehumidifier(w: &mut Work) -> Option<()> {
    let space = w.space(&KINDS)?;
    let (held, [t, rh], load) = worst_day(w, space)?;
    let total = load.total();
    let unit = unit(w, [t, rh], total)?;
    let units = unit.running.units.unwrap_or(0) as f64;
    if units > 1.0 {
        w.found("Units", Measure::Number, units);
    }
    let efficiency =
        w.assume("l_kwh", "Water for a kilowatt-hour", Measure::Efficiency, 1.6, "a usual label, from memory");
    let (liters, _) = held.year(w)?;
    let kwh = if efficiency > 0.0 { liters / efficiency } else { 0.0 };
    w.found("In a year of this climate", Measure::Liters, liters);
    w.found("Energy", Measure::YearlyEnergy, kwh);
    w.explain(
        &[
            "by air = ρ Q (W_out − W_held);  Q = air changes × volume",
            "through the ground = A (0.98 W_film + 0.02 β)(p_sat(T_ground) − p_held)",
            "capacity here = label × curve(t, φ)/curve(18.3 °C, 60 %);  energy = liters in the year / (L/kWh)",
        ],
        "Mass balance; generic compressor unit and film (s_d 70 m) from memory; climate’s monthly means from memory.",
    );
    w.same("dehumidifier", &[("rated_l_day", unit.rated), ("t_c", t), ("rh_pct", rh), ("load_l_day", total)], &[]);
    if unit.running.frosts {
        w.note("Below 18 °C a standard unit’s coil frosts: the low-temperature type.");
    }
    if total / BUCKET > 1.0 {
        w.note("More than a bucket a day: a hose or a pump to a drain.");
    }
    let repaired = is_repaired(w);
    if repaired {
        w.note(match (unit.labeled, unit.is_too_small()) {
            (true, true) => "Too small for this load, however sound: the next size.",
            (true, false) => "Large enough for this load: put it right, do not replace it.",
            (false, _) => "Enter its label among the findings: is it large enough at all?",
        });
    }
    if !repaired || (unit.labeled && unit.is_too_small()) {
        w.need("dehumidifier", units.max(1.0));
    }
    w.need("hose_m", 6.0);
    w.need("kwh_year", kwh);
    Some(())
}
