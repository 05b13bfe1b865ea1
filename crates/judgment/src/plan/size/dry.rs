//! Taking out, cleaning and drying.

use super::{FigureOrigin, Measure, Work, pieces};
use building::{Space, SpaceKind};
use hygrothermal::machine::{Dehumidifier, Rating, restoration_rule};
use hygrothermal::quantity::{AirFlow, Area, DailyWater, Days, MoistureContent, RelativeHumidity, Temperature, Volume};
use hygrothermal::space::{bare_soil_evaporation, removal};
use hygrothermal::wood::{equilibrium_moisture, humidity_at};

/// A household or rental machine's label, L/day.
const USUAL_MACHINE: f64 = 30.0;
/// A box fan, m³/s.
const BOX_FAN: f64 = 0.5;

const WET_SPACES: [SpaceKind; 9] = [
    SpaceKind::Basement,
    SpaceKind::Crawl,
    SpaceKind::UnderFloor,
    SpaceKind::Room,
    SpaceKind::Garage,
    SpaceKind::VehicleCabin,
    SpaceKind::BoatCabin,
    SpaceKind::Tent,
    SpaceKind::Bilge,
];

pub fn growth_and_removal(w: &mut Work) -> Option<()> {
    let read = w.site.case.figure_of("growth_area_m2");
    match w.fix.id.as_str() {
        "contain_and_filter" => {
            let film = w.assume("film_m2", "Film over doors and registers", Measure::Area, 6.0, "two openings");
            w.need("containment_film_m2", film);
            w.need("filter_fan_day", 2.0);
        }
        "remove_wet_materials" => {
            let space = w.space(&WET_SPACES)?;
            let (length, width) = super::rectangle(space.area_m2);
            let area = w.assume(
                "area_m2",
                "Wet material",
                Measure::Area,
                2.0 * (length + width) * 0.3,
                "a strip of 30 cm along the walls",
            );
            w.explain(&["area = wall × 0.3 m;  a bag holds 0.5 m²"], "Common practice.");
            w.need("waste_bag", pieces(area / 0.5));
        }
        id => {
            let origin = if read.is_some() {
                FigureOrigin::Read("finding".into())
            } else {
                FigureOrigin::Assumed("nobody measured it: add the patches up")
            };
            let area = w.give("area_m2", "Growth", Measure::Area, read.unwrap_or(0.5), origin);
            if id == "clean_growth" {
                w.explain(&["cleaner = area × 2 passes / 8 m²/L"], "Common practice.");
                w.need("cleaner_l", area * 2.0 / 8.0);
                w.need("suit_and_filter", 1.0);
            }
        }
    }
    Some(())
}

pub fn ventilate(w: &mut Work) -> Option<()> {
    let space = w.space(&WET_SPACES)?;
    let volume = w.drawn("volume_m3", "Space", Measure::Volume, space.volume_m3());
    let inside = w.inside_air(Some(space), [15.0, 80.0], "not read yet")?;
    let outside = w.outdoor_air()?;
    let changes = w.assume(
        "ach",
        "Air changes an hour, opened up",
        Measure::Number,
        space.kind.air_changes().open,
        "openings on two sides, rough",
    );
    let flow = AirFlow::from_air_changes(changes, volume).ok()?;
    w.found("Airflow", Measure::Flow, flow.get());
    w.exchange(space, (&inside, &outside), flow)?;
    w.need("fan_day", pieces(flow.get() / BOX_FAN).max(1.0) * 7.0);
    Some(())
}

/// Machines for a space closed up: what evaporates from the wet surfaces into air held at the ceiling, and what comes in
/// with the air that leaks. The trade's rule by volume stands beside it as a cross-check.
pub fn dehumidify(w: &mut Work) -> Option<()> {
    let space = w.space(&WET_SPACES)?;
    let ceiling = w.site.choices.percent("rh_ceiling")?;
    let volume = w.drawn("volume_m3", "Space", Measure::Volume, space.volume_m3());
    let read = w.air_of(space).map(|a| (a.value.t.get(), FigureOrigin::Read(space.name.clone())));
    let (t, origin) = read.unwrap_or((15.0, FigureOrigin::Assumed("not read yet")));
    let t = w.give("t", "Air there", Measure::Temperature, t, origin);
    let rh = w.give("rh", "Held at", Measure::Percent, ceiling, FigureOrigin::Assumed("the school chosen"));
    let outside = w.outdoor_air()?;
    let changes = w.changes_shut(space);
    let wet = w.wet_area(space);
    let rated =
        w.assume("rated", "Machine’s label", Measure::Daily, USUAL_MACHINE, "a usual one, rated at 18.3 °C and 60 %");
    let held = super::moist(t, rh)?;
    let flow = AirFlow::from_air_changes(changes, volume).ok()?;
    let by_air = -removal(&held, &outside, flow);
    let by_surfaces = bare_soil_evaporation(held.temperature(), &held, Area::new(wet).ok()?);
    let load = (by_air + by_surfaces).max(0.0);
    let machine = Dehumidifier { rated: DailyWater::new(rated).ok()?, at: Rating::COOL };
    let humidity = RelativeHumidity::new(rh).ok()?;
    let running = machine.run(held.temperature(), humidity, DailyWater::new(load).ok()?);
    let count = running.units.unwrap_or(0).clamp(1, 20) as f64;
    w.found("Evaporating from what is wet", Measure::Daily, by_surfaces);
    w.found("By air that leaks in", Measure::Daily, by_air);
    w.found("To take out at the start", Measure::Daily, load);
    w.found("It takes out here", Measure::Daily, running.capacity);
    w.found("Machines to begin with", Measure::Number, count);
    w.found("Cross-check, the trade’s rule by volume", Measure::Daily, restoration_rule(Volume::new(volume).ok()?));
    w.explain(
        &[
            "evaporating = A β (p_sat(t) − φ p_sat(t));  β = h_c/(ρ c_p R_v T), h_c = 2.4 W/(m²K)",
            "by air = ρ Q (W_out − W_held);  Q = air changes × volume",
            "capacity here = label × curve(t, φ)/curve(18.3 °C, 60 %);  machines = load / capacity, rounded up",
            "rule: volume in ft³ / 50 = pints a day; a cross-check, never the sizing",
        ],
        "Mass balance; Lewis relation (film: common practice); generic compressor unit, from memory.",
    );
    if running.frosts {
        w.note("Below 18 °C a standard machine’s coil frosts: one with hot-gas defrost.");
    }
    w.note("Surfaces as wet as open water at the start; it falls as they dry: read the liters daily and take machines away.");
    w.same("dehumidifier", &[("rated_l_day", rated), ("t_c", t), ("rh_pct", rh), ("load_l_day", load)], &[]);
    w.need("machine_day", count * 10.0);
    Some(())
}

impl Work<'_> {
    /// Surface that gives off water: the floor and a strip of wall where water stood, else a patch.
    fn wet_area(&mut self, space: &Space) -> f64 {
        let stood = ["flood_event", "standing_water", "pipe_burst_event", "whole_space_wet"];
        let (length, width) = super::rectangle(space.area_m2);
        let (area, why) = if stood.iter().any(|id| self.site.case.has(id)) {
            (space.area_m2 + 2.0 * (length + width) * 0.3, "the floor and 0.3 m of wall, where water stood")
        } else {
            (space.area_m2 / 4.0, "a quarter of the floor: mark it with the meter")
        };
        self.assume("wet_m2", "Wet surface open to the air", Measure::Area, area, why)
    }
}

pub fn dry_out(w: &mut Work) -> Option<()> {
    let goal = w.site.choices.percent("wood_goal")?;
    w.give("goal", "Wood goal", Measure::Percent, goal, FigureOrigin::Assumed("the school chosen"));
    let space = w.space(&WET_SPACES)?;
    let area = w.drawn("area_m2", "Floor", Measure::Area, space.area_m2);
    w.inside_air(Some(space), [15.0, 70.0], "not read yet")?;
    let [t, rh] = w.figures(["t", "rh"])?;
    let (temperature, humidity) = (Temperature::new(t).ok()?, RelativeHumidity::new(rh).ok()?);
    let equilibrium = equilibrium_moisture(temperature, humidity).ok()?;
    w.found("Wood in this air ends at", Measure::Percent, equilibrium);
    w.found("Air that lets it reach the goal: RH under", Measure::Percent, humidity_at(temperature, goal).ok()?);
    w.explain(&["equilibrium by t and φ (Wood Handbook eq. 4-5), and its inverse"], "USDA FPL-GTR-282, eq. 4-5.");
    if equilibrium >= goal {
        w.note("In this air the wood never reaches its goal: the air must be drier first.");
    }
    forecast(w, equilibrium, goal);
    w.same("emc", &[("t_c", t), ("rh_pct", rh)], &[]);
    w.need("fan_day", pieces(area / 15.0).max(1.0) * 7.0);
    Some(())
}

/// How far wood's equilibrium computed from the air may be off, % (ours).
const EQUILIBRIUM_ERR: f64 = 1.0;

/// When the wettest station with enough readings passes the goal.
fn forecast(w: &mut Work, equilibrium: f64, goal: f64) {
    let mut stations: Vec<uuid::Uuid> = w.site.wood.iter().map(|r| r.0).collect();
    stations.sort_unstable();
    stations.dedup();
    let latest = |id: &uuid::Uuid| w.site.wood.iter().filter(|r| r.0 == *id).map(|r| r.2).next_back().unwrap_or(0.0);
    let Some(wettest) = stations.into_iter().max_by(|a, b| latest(a).total_cmp(&latest(b))) else { return };
    let own: Vec<(f64, f64)> = w.site.wood.iter().filter(|r| r.0 == wettest).map(|r| (r.1, r.2)).collect();
    let read: Option<Vec<_>> =
        own.iter().map(|(day, mc)| Some((Days::new(*day).ok()?, MoistureContent::new(*mc).ok()?))).collect();
    let known = read.zip(MoistureContent::new(equilibrium).ok()).zip(MoistureContent::new(goal).ok());
    let fitted = known.and_then(|((r, e), g)| hygrothermal::drying::forecast(&r, (e, EQUILIBRIUM_ERR), g).ok());
    let Some((_, passes)) = fitted else {
        w.note("Three readings of the same wood on different days tell when it will be dry.");
        return;
    };
    match passes {
        Some(f) => {
            let today = own.last().map_or(0.0, |r| r.0);
            w.found("Days until the wettest wood passes the goal", Measure::Days, (f.day - today).max(0.0));
            if f.high.is_finite() {
                w.found("and at the latest", Measure::Days, (f.high - today).max(0.0));
            }
        }
        None => {
            w.note("The wettest wood has stopped drying, or stops above the goal: look for water that still comes.");
        }
    }
}

pub fn tent(w: &mut Work) -> Option<()> {
    let space = w.space(&WET_SPACES)?;
    let area = w.assume(
        "area_m2",
        "Floor under the tent",
        Measure::Area,
        space.area_m2 / 4.0,
        "a quarter of the floor: mark it with the meter",
    );
    let (length, width) = super::rectangle(area);
    w.explain(&["film = area × 1.2;  tape = its edge"], "Common practice.");
    w.need("containment_film_m2", area * 1.2);
    w.need("tape_m", 2.0 * (length + width));
    w.need("machine_day", 7.0);
    Some(())
}

pub fn monitor(w: &mut Work) -> Option<()> {
    let loggers = w.assume("loggers", "Loggers", Measure::Number, 2.0, "one in the space, one outdoors");
    let days = w.assume("days", "For", Measure::Days, 14.0, "two weeks tell the weather from the building");
    w.explain(&["surface under the dew point, hour by hour"], "Common practice.");
    w.need("logger_week", loggers * pieces(days / 7.0));
    Some(())
}
