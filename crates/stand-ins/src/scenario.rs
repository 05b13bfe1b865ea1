//! The demo's jobs: air as the scenario states it, surfaces from where they stand between two temperatures.

use building::reading::{AirValue, Collected};
use building::{
    Blueprint, Boundary, Building, Climate, Material, Place, Side, SpaceKind, Structure, Surface, blueprint,
};
use hygrothermal::air::{MoistAir, Over, saturation_pressure, saturation_pressure_over};
use hygrothermal::quantity::{MoistureContent, Pressure, RelativeHumidity, Temperature};
use hygrothermal::wood::{MeterReading, equilibrium_moisture, pin_meter, species_by_id};
use judgment::cause::capacity;
use serde::Deserialize;
use std::collections::HashMap;
use uuid::Uuid;

/// A job of the demo.
pub struct DemoJob {
    /// Which practice it belongs to.
    pub practice: String,
    /// Name.
    pub name: String,
    /// One line.
    pub address: String,
    /// Structure kind.
    pub structure: Structure,
    /// Climate.
    pub climate: Climate,
    /// Design outdoor temperature, °C.
    pub design_outdoor_c: f64,
    /// Above the sea, m.
    pub altitude_m: f64,
    /// What was said before the first visit.
    pub call: DemoCall,
    /// The building.
    pub building: Building,
    /// Visits, oldest first.
    pub visits: Vec<DemoVisit>,
}

/// A call of the demo.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DemoCall {
    /// In the caller's words.
    pub complaint: String,
    /// Ids of what was noticed, what changed and when it shows.
    pub said: Vec<String>,
    /// Ids of how it is built.
    pub built: Vec<String>,
    /// Year it was finished.
    pub year: i32,
    /// People there.
    pub occupants: i32,
}

/// A visit of the demo.
pub struct DemoVisit {
    /// Month and day, `07-14`.
    pub day: String,
    /// Hour of the first reading.
    pub hour: u32,
    /// Left open for the next consultant.
    pub open: bool,
    /// The weather and the air it was read in.
    pub weather: DemoWeather,
    /// Readings in walking order.
    pub readings: Vec<DemoReading>,
    /// What was found.
    pub findings: Vec<DemoFinding>,
    /// What was tested.
    pub tests: Vec<DemoTest>,
    /// What was photographed.
    pub photos: Vec<DemoPhoto>,
}

/// Weather and air of a visit: temperatures and dew points, °C.
pub struct DemoWeather {
    /// Outdoors.
    pub outdoor: [f64; 2],
    /// Temperature of the ground.
    pub ground: f64,
    /// Of each space.
    pub air: HashMap<Uuid, [f64; 2]>,
}

/// A finding of the demo.
#[derive(Deserialize, Clone)]
#[serde(deny_unknown_fields)]
pub struct DemoFinding {
    /// Id of the vocabulary.
    pub what: String,
    /// Name of the space, boundary or surface; the whole building without one.
    #[serde(default)]
    pub at: String,
    /// 1 to 3.
    pub severity: i32,
    /// Its figure.
    pub value: Option<f64>,
    /// In the consultant's words.
    #[serde(default)]
    pub note: String,
    /// Looked for, and not there.
    #[serde(default)]
    pub absent: bool,
    /// Month and day since when it is no longer there.
    pub gone: Option<String>,
}

/// A test of the demo.
#[derive(Deserialize, Clone)]
#[serde(deny_unknown_fields)]
pub struct DemoTest {
    /// Id of the vocabulary.
    pub test: String,
    /// Name of the place.
    #[serde(default)]
    pub at: String,
    /// Id of its result; none while it runs.
    pub result: Option<String>,
    /// How long after its start it was read.
    pub hours: i64,
    /// In the consultant's words.
    #[serde(default)]
    pub note: String,
}

/// A picture of the demo: a drawing, plainly no photograph of a real place.
#[derive(Deserialize, Clone)]
#[serde(deny_unknown_fields)]
pub struct DemoPhoto {
    /// Which drawing.
    pub scene: String,
    /// Name of the space, boundary or surface; the whole building without one.
    #[serde(default)]
    pub at: String,
    /// Id of the finding of the same visit that it shows instead.
    #[serde(default)]
    pub shows: String,
    /// In the consultant's words.
    #[serde(default)]
    pub note: String,
    /// Marks, as a page sends them.
    #[serde(default)]
    pub marks: String,
}

/// A reading of the demo, as an instrument would show it.
pub struct DemoReading {
    /// Where.
    pub place: Place,
    /// °C, to a tenth.
    pub t: f64,
    /// RH over liquid water, %, for air.
    pub rh: Option<f64>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    job: Vec<JobPlan>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct JobPlan {
    practice: String,
    name: String,
    address: String,
    structure: Structure,
    blueprint: Option<String>,
    climate: Climate,
    design_c: f64,
    altitude_m: f64,
    call: DemoCall,
    visit: Vec<VisitPlan>,
}

#[derive(Deserialize, Clone)]
#[serde(deny_unknown_fields)]
struct VisitPlan {
    day: String,
    hour: u32,
    outdoor: [f64; 2],
    ground: f64,
    air: HashMap<String, [f64; 2]>,
    #[serde(default)]
    open: bool,
    #[serde(default)]
    findings: Vec<DemoFinding>,
    #[serde(default)]
    photos: Vec<DemoPhoto>,
    #[serde(default)]
    tests: Vec<DemoTest>,
    /// How many stations were read before the visit was left; all by default.
    stations: Option<usize>,
}

/// The demo's jobs, the same for the same seed but for identities, which come from `new_id`.
///
/// # Errors
/// What is wrong with the shipped tables, in words.
pub fn scenario(seed: u64, mut new_id: impl FnMut() -> Uuid) -> Result<Vec<DemoJob>, String> {
    let file: File = toml::from_str(include_str!("../data/scenario.toml")).map_err(|e| e.to_string())?;
    let mut noise = Noise(seed);
    file.job.into_iter().map(|plan| build(plan, &mut noise, &mut new_id)).collect()
}

fn plan_of(plan: &JobPlan) -> Result<Blueprint, String> {
    match plan.blueprint.as_deref() {
        None => blueprint(plan.structure).cloned().ok_or_else(|| format!("no blueprint for {}", plan.name)),
        Some("cottage") => Blueprint::from_toml(include_str!("../data/cottage.toml")),
        Some("archive") => Blueprint::from_toml(include_str!("../data/archive.toml")),
        Some(other) => Err(format!("unknown blueprint {other}")),
    }
}

fn build(plan: JobPlan, noise: &mut Noise, new_id: &mut impl FnMut() -> Uuid) -> Result<DemoJob, String> {
    let drawn = plan_of(&plan)?;
    let building = drawn.build(new_id);
    let keys: HashMap<Uuid, &str> =
        building.spaces.iter().zip(&drawn.spaces).map(|(s, p)| (s.id, p.key.as_str())).collect();
    let mut visits = Vec::new();
    for visit in &plan.visit {
        let mut readings = Vec::new();
        for station in building.stations.iter().take(visit.stations.unwrap_or(usize::MAX)) {
            readings.push(read(&building, &keys, visit, station.place, noise)?);
        }
        let VisitPlan { day, hour, open, findings, tests, photos, outdoor, ground, air, .. } = visit.clone();
        let air = keys.iter().filter_map(|(id, key)| Some((*id, *air.get(*key)?))).collect();
        let weather = DemoWeather { outdoor, ground, air };
        visits.push(DemoVisit { day, hour, open, weather, readings, findings, tests, photos });
    }
    let JobPlan { practice, name, address, structure, climate, design_c, altitude_m, call, .. } = plan;
    Ok(DemoJob {
        practice,
        name,
        address,
        structure,
        climate,
        design_outdoor_c: design_c,
        altitude_m,
        call,
        building,
        visits,
    })
}

fn read(
    building: &Building,
    keys: &HashMap<Uuid, &str>,
    visit: &VisitPlan,
    place: Place,
    noise: &mut Noise,
) -> Result<DemoReading, String> {
    let air_of = |id: Uuid| {
        let key = keys.get(&id).ok_or("space without a key")?;
        visit.air.get(*key).copied().ok_or_else(|| format!("no air for {key} on {}", visit.day))
    };
    match place {
        Place::Outdoors => air(place, visit.outdoor, noise),
        Place::Space(id) => air(place, air_of(id)?, noise),
        Place::Surface(id) => {
            let surface = building.surface(id).ok_or("surface not in its building")?;
            let boundary = building.boundary(surface.boundary_id).ok_or("surface without a boundary")?;
            let space = building.space(surface.space_id).ok_or("surface without a space")?;
            let inside = air_of(surface.space_id)?[0];
            let beyond = match boundary.beyond {
                Side::Outdoors => visit.outdoor[0],
                Side::Ground => visit.ground,
                Side::Space(other) => air_of(other)?[0],
            };
            let t = surface_temperature(surface, boundary, space.kind, inside, beyond, visit.ground);
            Ok(DemoReading { place, t: tenth(t + noise.next() * 0.25), rh: None })
        }
    }
}

/// Where a surface stands between the air beside it and what lies beyond (rough factors of ordinary constructions,
/// common practice). Timber low in a crawl space also follows the ground.
pub(crate) fn surface_temperature(
    surface: &Surface,
    boundary: &Boundary,
    kind: SpaceKind,
    inside: f64,
    beyond: f64,
    ground: f64,
) -> f64 {
    let low = matches!(kind, SpaceKind::Crawl | SpaceKind::UnderFloor);
    if low && surface.material == Material::Wood {
        return match boundary.beyond {
            Side::Outdoors => 0.50 * inside + 0.10 * beyond + 0.40 * ground,
            _ => 0.80 * inside + 0.05 * beyond + 0.15 * ground,
        };
    }
    let factor = match surface.material {
        Material::Soil => 0.15,
        Material::Concrete => 0.45,
        Material::Metal => 0.40,
        Material::Glass => 0.52,
        Material::Masonry => 0.60,
        Material::Panel | Material::Laminate => 0.62,
        Material::Fabric => 0.66,
        Material::Wood => 0.72,
        Material::Plasterboard => 0.86,
        Material::Insulation => 0.90,
    };
    beyond + factor * (inside - beyond)
}

/// Air as a hygrometer shows it: RH over liquid water, whole per cents.
fn air(place: Place, [t, dew]: [f64; 2], noise: &mut Noise) -> Result<DemoReading, String> {
    let t = tenth(t + noise.next() * 0.1);
    let temperature = Temperature::new(t).map_err(|e| e.to_string())?;
    let dew = Temperature::new(dew.min(t)).map_err(|e| e.to_string())?;
    let state = MoistAir::from_dew_point(temperature, dew, Pressure::STANDARD).map_err(|e| e.to_string())?;
    Ok(DemoReading { place, t, rh: Some(state.rh(Over::Water).round()) })
}

fn tenth(x: f64) -> f64 {
    (x * 10.0).round() / 10.0
}

/// A small seeded generator (SplitMix64), uniform in −1 to 1.
pub(crate) struct Noise(pub(crate) u64);

impl Noise {
    pub(crate) fn next(&mut self) -> f64 {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        z ^= z >> 31;
        (z >> 11) as f64 / (1_u64 << 52) as f64 - 1.0
    }
}

/// What a pin meter scaled for Douglas fir would show in the wood of a visit's surfaces, and the wood's temperature:
/// spruce in equilibrium with the air film on each.
#[must_use]
pub fn pins(building: &Building, readings: &[DemoReading]) -> Vec<(Place, MoistureContent, Temperature)> {
    let wooden = |place: Place| match place {
        Place::Surface(id) => building.surface(id).filter(|s| s.material == Material::Wood),
        _ => None,
    };
    let shown = |surface: &Surface, t: f64| {
        let air = readings.iter().find(|r| r.place == Place::Space(surface.space_id))?;
        let vapor = air.rh? / 100.0 * saturation_pressure_over(Temperature::new(air.t).ok()?, Over::Water);
        let at = Temperature::new(t).ok()?;
        // Wood never reaches saturation with its air: a wet film stands at 97 % for it.
        let rh = RelativeHumidity::new((100.0 * vapor / saturation_pressure(at)).min(97.0)).ok()?;
        Some((shown_for(equilibrium_moisture(at, rh).ok()?, at)?, at))
    };
    let read = |r: &DemoReading| {
        let (mc, at) = shown(wooden(r.place)?, r.t)?;
        Some((r.place, mc, at))
    };
    readings.iter().filter_map(read).collect()
}

/// Liters that dehumidifiers that never stop have collected in a day up to visit `at`: what their label, noted by then,
/// makes of the air they stand in.
#[must_use]
pub fn collected(job: &DemoJob, at: usize) -> Vec<(Place, Collected)> {
    let noted = job.visits.iter().take(at + 1).flat_map(|v| &v.findings);
    let labels = noted.filter(|f| f.what == "dehumidifier_rated_l_day").filter_map(|f| Some((f.at.as_str(), f.value?)));
    let read = |(name, label): (&str, f64)| {
        let place = Place::Space(job.building.spaces.iter().find(|s| s.name == name)?.id);
        let air = job.visits.get(at)?.readings.iter().find(|r| r.place == place)?;
        let (t, rh) = (Temperature::new(air.t).ok()?, RelativeHumidity::new(air.rh?).ok()?);
        let liters = tenth(capacity(label, &AirValue { t, rh, over: Over::Water })?);
        Some((place, Collected { liters, hours: 24.0 }))
    };
    labels.filter_map(read).collect()
}

/// The reading that corrects to a moisture content in spruce, to a tenth; the correction rises all the way.
fn shown_for(moisture: f64, at: Temperature) -> Option<MoistureContent> {
    let spruce = species_by_id("spruce")?;
    (0..1000).filter_map(|tenth| MoistureContent::new(f64::from(tenth) / 10.0).ok()).find(|shown| {
        match pin_meter(*shown, at, spruce) {
            Ok(MeterReading::Percent(m)) => m.value >= moisture,
            Ok(MeterReading::Wet) | Err(_) => true,
        }
    })
}
