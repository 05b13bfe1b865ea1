//! A surface on the design night: what it needs, or what helps where nobody insulates.

use crate::picture::{SpaceState, SurfaceRead};
use building::reading::AirState;
use building::{Building, Material, Side, Surface};
use hygrothermal::air::MoistAir;
use hygrothermal::quantity::{Measured, Pressure, Temperature, ThermalResistance};
use hygrothermal::surface::{Target, TemperatureFactor, added_insulation};
use uuid::Uuid;

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

pub(super) fn insulation(
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
            let call = match design_night(read, outdoor, design, boundary.face.heat_flow().inside_film().get()) {
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
