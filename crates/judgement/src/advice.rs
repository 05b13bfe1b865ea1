//! A first recommendation for each space, from computed comparison only: no diagnosis.

use crate::building::{Boundary, Building, Level, Material, Side, Space, Surface};
use crate::cautions::Work;
use crate::picture::{Picture, SpaceState, SurfaceRead, vapor_band};
use crate::reading::AirState;
use hygrothermal::air::{MoistAir, dew_point};
use hygrothermal::quantity::{AirFlow, Area, Measured, Pressure, Temperature, ThermalResistance};
use hygrothermal::space::{bare_soil_evaporation, compare_air, removal};
use hygrothermal::surface::{MOLD_RH, Target, TemperatureFactor, Verdict, added_insulation};
use uuid::Uuid;

/// Air RH held to where nothing else asks for less, % (common practice: the stricter of the usual ceilings).
pub const RH_CEILING: f64 = 60.0;

/// Everything advised for one space.
#[derive(Debug, Clone, PartialEq)]
pub struct SpaceAdvice {
    /// Which space.
    pub space_id: Uuid,
    /// Outdoor air against this space's.
    pub air: AirAdvice,
    /// Drying by machine; `None` where a space cannot be closed or its air is not read.
    pub drying: Option<Drying>,
    /// One entry for each surface read that stands between a space kept warm and outdoors.
    pub insulation: Vec<InsulationAdvice>,
    /// Under a roof: the space below that feeds it.
    pub from_below: Option<FromBelow>,
}

/// A wet space under a roof, fed by the rooms.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct FromBelow {
    /// The space whose air comes up.
    pub space_id: Uuid,
    /// Its vapor pressure less that under the roof, Pa, with its band.
    pub drive: Measured,
}

/// Ventilate or not.
#[derive(Debug, Clone, PartialEq)]
pub enum AirAdvice {
    /// The space's or the outdoor air has not been read on this visit.
    NotRead {
        /// Whether it is the outdoor air that is missing.
        outdoor_missing: bool,
    },
    /// Both are read.
    Compared(Box<AirComparison>),
}

/// The comparison of two read airs.
#[derive(Debug, Clone, PartialEq)]
pub struct AirComparison {
    /// What follows.
    pub call: AirCall,
    /// The space's air.
    pub inside: AirState,
    /// Outdoor air.
    pub outside: AirState,
    /// Dew point inside less outside, K, with its band.
    pub difference: Measured,
    /// Assumed flow with openings open, m³/s.
    pub flow: AirFlow,
    /// Assumed air changes per hour behind it.
    pub air_changes: f64,
    /// Water carried out at that flow, L/day; negative brings in.
    pub removal_l_day: f64,
    /// Whether outdoor air would condense on the coldest surface read, and which one.
    pub condenses: Option<(bool, Uuid)>,
}

/// Ventilate or not, or can't tell.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum AirCall {
    /// Outdoor air is drier beyond doubt, and something here is wet or humid.
    Ventilate,
    /// Outdoor air is drier, but nothing here asks for it.
    NotNeeded,
    /// Outdoor air is wetter beyond doubt.
    KeepClosed,
    /// The bands overlap.
    CantTell,
}

/// Drying by machine.
#[derive(Debug, Clone, PartialEq)]
pub struct Drying {
    /// What follows.
    pub call: DryingCall,
    /// Dew point to hold, °C, and what sets it.
    pub target: DryingTarget,
    /// Dew point now less the target, K, with its band.
    pub excess: Measured,
    /// The air to be dried.
    pub inside: MoistAir,
}

/// Whether to dry by machine.
#[derive(Debug, Clone, PartialEq)]
pub enum DryingCall {
    /// The air already holds less than the target.
    NotNeeded,
    /// Outdoor air is drier than the target: it does the work.
    VentilateInstead,
    /// A dehumidifier with openings shut.
    Dehumidify(DryingLoad),
    /// The bands overlap, or outdoor air has not been read.
    CantTell {
        /// Whether it is the outdoor air that is missing.
        outdoor_missing: bool,
    },
}

/// Litres a day that must be taken out, and where they come from.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct DryingLoad {
    /// Leaking outdoor air, L/day; negative where it helps.
    pub by_air: f64,
    /// Bare soil, L/day.
    pub by_soil: f64,
    /// Low end of the sum within the instruments' band.
    pub low: f64,
    /// High end of the sum within the instruments' band.
    pub high: f64,
    /// Assumed air changes per hour with openings shut.
    pub air_changes: f64,
}

impl DryingLoad {
    /// L/day in all.
    #[must_use]
    pub fn total(&self) -> f64 {
        (self.by_air + self.by_soil).max(0.0)
    }
}

/// The dew point to hold.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct DryingTarget {
    /// °C.
    pub dew: f64,
    /// The surface that sets it (below 80 % RH there), or `None` when the air's own ceiling does.
    pub surface_id: Option<Uuid>,
}

/// Insulation for a surface on the design night.
#[derive(Debug, Clone, PartialEq)]
pub struct InsulationAdvice {
    /// Which surface.
    pub surface_id: Uuid,
    /// What follows.
    pub call: InsulationCall,
}

/// What the design night asks of a surface.
#[derive(Debug, Clone, PartialEq)]
pub enum InsulationCall {
    /// Inside and outside lie too close, or outside is the warmer, or the surface does not follow the outdoor air.
    CantTell(WhyNot),
    /// The band leaves open whether it stays clear.
    Open(DesignNight),
    /// It stays clear as it is.
    StaysDry(DesignNight),
    /// It needs more.
    Add(DesignNight),
    /// It will be wet, and insulation is not what is done about it.
    Otherwise(DesignNight, Remedy),
    /// No insulation keeps it clear at this moisture: the air must be dried.
    DryTheAir(DesignNight),
}

/// What is done about a surface that nobody insulates (common practice).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Remedy {
    /// Glass: drier air, a cover at night, better glazing.
    Glass,
    /// Metal through the construction: a thermal break.
    Metal,
    /// A membrane, film or cloth: a more open one outside.
    Membrane,
    /// A hatch: its gasket and an insulated cover on its far side.
    Hatch,
    /// The crown ring of a round dwelling: the opening, and a cover at night.
    Crown,
}

impl Remedy {
    /// What a surface is, where it is none that takes insulation.
    fn of(surface: &Surface) -> Option<Self> {
        let named = |word: &str| surface.name.to_lowercase().split(|c: char| !c.is_alphanumeric()).any(|w| w == word);
        match surface.material {
            _ if named("crown") => Some(Self::Crown),
            Material::Glass => Some(Self::Glass),
            Material::Metal => Some(Self::Metal),
            Material::Fabric => Some(Self::Membrane),
            _ if named("hatch") => Some(Self::Hatch),
            _ => None,
        }
    }
}

/// Why a temperature factor cannot be used.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum WhyNot {
    /// Indoor or outdoor air was not read on this visit.
    NotRead,
    /// Under 5 K between indoors and outdoors.
    TooLittleDifference,
    /// Outdoors is warmer than indoors today.
    WarmerOutside,
    /// The surface is warmer than the room or colder than outdoors: sun, ground or stored heat.
    NotByOutdoorAir,
}

/// A surface predicted at the design outdoor temperature.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct DesignNight {
    /// Today's air inside.
    pub inside: MoistAir,
    /// Design outdoor temperature, °C.
    pub outdoor: f64,
    /// Temperature factor with its band.
    pub factor: TemperatureFactor,
    /// Predicted surface temperature, °C, with its band.
    pub surface: Measured,
    /// Dew point of today's air, °C, with its band.
    pub dew: Measured,
    /// Whole resistance now, films in, m²K/W.
    pub r_now: f64,
    /// Surface film used, m²K/W.
    pub r_si: f64,
    /// Resistance to add against condensation, m²K/W: best estimate; `None` if impossible.
    pub r_added: Option<f64>,
    /// Low and high end of that within the band; the high end is `None` if unbounded.
    pub r_range: (f64, Option<f64>),
    /// Resistance to add to stay below 80 % RH at the surface, m²K/W.
    pub r_added_mold: Option<f64>,
    /// Less than 10 K between indoors and outdoors today: repeat in colder weather.
    pub weak: bool,
}

/// Advice for a space of the picture.
#[must_use]
pub fn advise(
    building: &Building,
    picture: &Picture,
    space: &Space,
    design_outdoor: Option<Temperature>,
) -> SpaceAdvice {
    let Some(state) = picture.space(space.id) else {
        let air = AirAdvice::NotRead { outdoor_missing: picture.outdoor.is_none() };
        return SpaceAdvice { space_id: space.id, air, drying: None, insulation: Vec::new(), from_below: None };
    };
    let air = air_advice(building, space, state, picture.outdoor.as_ref());
    let drying = drying(building, space, state, picture.outdoor.as_ref());
    // An unheated space follows the weather: its temperature on the design night is unknown.
    let design_outdoor = design_outdoor.filter(|_| space.kind.kept_warm());
    let insulation =
        design_outdoor.map(|t| insulation(building, state, picture.outdoor.as_ref(), t)).unwrap_or_default();
    SpaceAdvice { space_id: space.id, air, drying, insulation, from_below: from_below(building, picture, space, state) }
}

/// Whether anything in a space is wet or asks to be drier: a surface that is not dry, or air over its ceiling.
fn asks(state: &SpaceState) -> bool {
    let wet = state.worst().is_some_and(|v| v != Verdict::Dry);
    wet || state.air.is_some_and(|a| a.value.rh.get() > RH_CEILING)
}

/// The room whose air feeds a wet space under a roof: the wettest of those next to it that holds more vapor than it, beyond
/// the band, while it holds more than outdoors: what comes up must be more than what blows in.
fn from_below(building: &Building, picture: &Picture, space: &Space, state: &SpaceState) -> Option<FromBelow> {
    let own = state.air.as_ref()?;
    if space.level != Level::Roof || !asks(state) {
        return None;
    }
    let drier_outside = picture.outdoor.as_ref()?.dew?.minus(own.dew?);
    if drier_outside.value >= 0.0 || drier_outside.spans_zero() {
        return None;
    }
    let beside = |b: &Boundary| match b.beyond {
        Side::Space(id) if b.space_id == space.id => Some(id),
        Side::Space(id) if id == space.id => Some(b.space_id),
        _ => None,
    };
    let rooms = building.boundaries.iter().filter_map(beside);
    let fed = rooms.filter_map(|id| {
        let drive = vapor_band(picture.space(id)?.air.as_ref()?).minus(vapor_band(own));
        (drive.value > 0.0 && !drive.spans_zero()).then_some(FromBelow { space_id: id, drive })
    });
    fed.max_by(|a, b| a.drive.value.total_cmp(&b.drive.value))
}

impl SpaceAdvice {
    /// The kinds of work advised, for their cautions.
    #[must_use]
    pub fn work(&self) -> Vec<Work> {
        let mut work = Vec::new();
        if let AirAdvice::Compared(c) = &self.air {
            match c.call {
                AirCall::Ventilate => work.push(Work::Ventilate),
                AirCall::KeepClosed => work.push(Work::KeepClosed),
                AirCall::CantTell | AirCall::NotNeeded => {}
            }
        }
        if matches!(&self.drying, Some(Drying { call: DryingCall::Dehumidify(_), .. })) {
            work.push(Work::Dehumidify);
        }
        if self.insulation.iter().any(|i| matches!(i.call, InsulationCall::Add(_))) {
            work.push(Work::Insulate);
        }
        work
    }
}

fn air_advice(building: &Building, space: &Space, state: &SpaceState, outdoor: Option<&AirState>) -> AirAdvice {
    let (Some(inside), Some(outside)) = (state.air, outdoor.copied()) else {
        return AirAdvice::NotRead { outdoor_missing: outdoor.is_none() };
    };
    let air_changes = space.kind.air_changes().open;
    let (Some(dew_in), Some(dew_out), Ok(flow)) =
        (inside.dew, outside.dew, AirFlow::from_air_changes(air_changes, space.volume_m3()))
    else {
        return AirAdvice::NotRead { outdoor_missing: false };
    };
    let coldest = state.coldest(building);
    let compared = compare_air(&inside.air, &outside.air, flow, coldest.map(|(_, r)| r.t));
    let difference = dew_in.minus(dew_out);
    let call = match difference {
        d if d.spans_zero() => AirCall::CantTell,
        d if d.value > 0.0 && asks(state) => AirCall::Ventilate,
        d if d.value > 0.0 => AirCall::NotNeeded,
        _ => AirCall::KeepClosed,
    };
    AirAdvice::Compared(Box::new(AirComparison {
        call,
        inside,
        outside,
        difference,
        flow,
        air_changes,
        removal_l_day: compared.removal_l_day,
        condenses: compared.condenses.zip(coldest.map(|(id, _)| id)),
    }))
}

/// The lower of: the air's RH ceiling, and the dew point at which the coldest surface stands at 80 % RH.
fn drying_target(building: &Building, state: &SpaceState, air: &AirState) -> Option<DryingTarget> {
    let share_of_saturation =
        |t: Temperature, rh: f64| dew_point(rh / 100.0 * hygrothermal::air::saturation_pressure(t));
    let ceiling = share_of_saturation(air.value.t, RH_CEILING)?.get();
    let surface = state.coldest(building).and_then(|(id, r)| Some((share_of_saturation(r.t, MOLD_RH)?.get(), id)));
    Some(match surface {
        Some((dew, id)) if dew < ceiling => DryingTarget { dew, surface_id: Some(id) },
        _ => DryingTarget { dew: ceiling, surface_id: None },
    })
}

fn drying(building: &Building, space: &Space, state: &SpaceState, outdoor: Option<&AirState>) -> Option<Drying> {
    if !space.kind.can_be_closed() {
        return None;
    }
    let air = state.air.as_ref()?;
    let target = drying_target(building, state, air)?;
    let exact = Measured::exact(target.dew);
    let excess = air.dew?.minus(exact);
    let call = if excess.spans_zero() {
        DryingCall::CantTell { outdoor_missing: false }
    } else if excess.value < 0.0 {
        DryingCall::NotNeeded
    } else {
        match outdoor.and_then(|o| o.dew) {
            None => DryingCall::CantTell { outdoor_missing: true },
            Some(out) if out.high() < target.dew => DryingCall::VentilateInstead,
            Some(out) => DryingCall::Dehumidify(drying_load(building, space, state, air, out, target.dew)?),
        }
    };
    Some(Drying { call, target, excess, inside: air.air })
}

fn drying_load(
    building: &Building,
    space: &Space,
    state: &SpaceState,
    air: &AirState,
    outdoor_dew: Measured,
    target_dew: f64,
) -> Option<DryingLoad> {
    let air_changes = space.kind.air_changes().closed;
    let flow = AirFlow::from_air_changes(air_changes, space.volume_m3()).ok()?;
    let at_dew = |dew: f64| {
        let dew = Temperature::new(dew).ok()?;
        let t = if dew > air.value.t { dew } else { air.value.t };
        MoistAir::from_dew_point(t, dew, Pressure::STANDARD).ok()
    };
    let held = at_dew(target_dew)?;
    let leaking = |dew: f64| Some(-removal(&held, &at_dew(dew)?, flow));
    let by_air = leaking(outdoor_dew.value)?;
    let by_soil = soil_load(building, space, state, &held);
    let low = (leaking(outdoor_dew.low())? + by_soil).max(0.0);
    let high = (leaking(outdoor_dew.high())? + by_soil).max(0.0);
    Some(DryingLoad { by_air, by_soil, low, high, air_changes })
}

fn soil_load(building: &Building, space: &Space, state: &SpaceState, held: &MoistAir) -> f64 {
    let Ok(area) = Area::new(space.area_m2) else { return 0.0 };
    let bare = building.boundaries_of(space.id).find(|b| b.bare_soil && b.beyond == Side::Ground);
    let ground = bare.and_then(|b| {
        state
            .surfaces
            .iter()
            .find(|s| building.surface(s.surface_id).is_some_and(|x| x.boundary_id == b.id))
            .and_then(|s| s.read.as_ref())
    });
    ground.map_or(0.0, |g| bare_soil_evaporation(g.t, held, area).max(0.0))
}

fn insulation(
    building: &Building,
    state: &SpaceState,
    outdoor: Option<&AirState>,
    design: Temperature,
) -> Vec<InsulationAdvice> {
    let against_outdoors = |surface_id: Uuid| {
        building
            .surface(surface_id)
            .and_then(|s| building.boundary(s.boundary_id))
            .filter(|b| b.beyond == Side::Outdoors)
    };
    state
        .surfaces
        .iter()
        .filter_map(|s| {
            let boundary = against_outdoors(s.surface_id)?;
            let read = s.read.as_ref()?;
            let call = match design_night(read, outdoor, design, boundary.face.r_si()) {
                InsulationCall::Add(night) => building
                    .surface(s.surface_id)
                    .and_then(Remedy::of)
                    .map_or(InsulationCall::Add(night), |remedy| InsulationCall::Otherwise(night, remedy)),
                call => call,
            };
            Some(InsulationAdvice { surface_id: s.surface_id, call })
        })
        .collect()
}

fn design_night(read: &SurfaceRead, outdoor: Option<&AirState>, design: Temperature, r_si: f64) -> InsulationCall {
    let (Some(inside), Some(out)) = (read.beside, outdoor) else { return InsulationCall::CantTell(WhyNot::NotRead) };
    let span = inside.value.t.above(out.value.t).get();
    let Some(factor) = read.factor else { return InsulationCall::CantTell(WhyNot::TooLittleDifference) };
    if span < 0.0 {
        return InsulationCall::CantTell(WhyNot::WarmerOutside);
    }
    let night = inside.dew.and_then(|dew| predict(&inside, factor, dew, design, r_si, span < 10.0));
    let Some(night) = night else { return InsulationCall::CantTell(WhyNot::NotByOutdoorAir) };
    match (night.r_added, night.r_range) {
        (None, _) => InsulationCall::DryTheAir(night),
        (_, (_, Some(0.0))) => InsulationCall::StaysDry(night),
        (_, (0.0, _)) => InsulationCall::Open(night),
        _ => InsulationCall::Add(night),
    }
}

fn predict(
    inside: &AirState,
    factor: TemperatureFactor,
    dew: Measured,
    design: Temperature,
    r_si: f64,
    weak: bool,
) -> Option<DesignNight> {
    let film = ThermalResistance::new(r_si).ok()?;
    let r_now = factor.resistance(film)?;
    let t_in = inside.value.t;
    let added = |air: &MoistAir, r, target| added_insulation(air, design, r, film, target).added;
    // The ends of the band: a better construction in drier air, a worse one in wetter air.
    let shifted = |sign: f64| {
        let f = factor.0.value - sign * factor.0.err;
        let d = Temperature::new(dew.value + sign * dew.err).ok()?;
        let air = MoistAir::from_dew_point(t_in, if d > t_in { t_in } else { d }, Pressure::STANDARD).ok()?;
        if f >= 1.0 {
            return Some(0.0);
        }
        let r = ThermalResistance::new(film.get() / (1.0 - f)).ok()?;
        added(&air, r, Target::NoCondensation)
    };
    let span = t_in.above(design).get();
    let surface = Measured { value: factor.surface_at(t_in, design), err: factor.0.err * span.abs() };
    Some(DesignNight {
        inside: inside.air,
        outdoor: design.get(),
        factor,
        surface,
        dew,
        r_now: r_now.get(),
        r_si,
        r_added: added(&inside.air, r_now, Target::NoCondensation),
        r_range: (shifted(-1.0).unwrap_or(0.0), shifted(1.0)),
        r_added_mold: added(&inside.air, r_now, Target::NoMold),
        weak,
    })
}
