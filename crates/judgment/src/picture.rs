//! The whole building at one visit: every space's air, every surface judged, every boundary's vapor drive.

use building::reading::{AirState, Observed, Reading};
use building::{Boundary, Building, Material, Place, Side, Surface};
use hygrothermal::air::{saturation_pressure, saturation_pressure_over, saturation_slope};
use hygrothermal::quantity::{Measured, Temperature};
use hygrothermal::surface::{self, Accuracy, Judged, TemperatureFactor, Verdict};
use uuid::Uuid;

/// A building as read on one visit.
#[derive(Debug, Clone, PartialEq)]
pub struct Picture {
    /// Outdoor air, latest of the visit.
    pub outdoor: Option<AirState>,
    /// Spaces in walking order.
    pub spaces: Vec<SpaceState>,
    /// Boundaries, in the building's order.
    pub boundaries: Vec<BoundaryState>,
}

/// A space and its surfaces.
#[derive(Debug, Clone, PartialEq)]
pub struct SpaceState {
    /// Which space.
    pub space_id: Uuid,
    /// Its air, latest of the visit.
    pub air: Option<AirState>,
    /// Its surfaces in walking order.
    pub surfaces: Vec<SurfaceState>,
}

/// A surface with what was read on it.
#[derive(Debug, Clone, PartialEq)]
pub struct SurfaceState {
    /// Which surface.
    pub surface_id: Uuid,
    /// Its latest reading.
    pub read: Option<SurfaceRead>,
}

/// A surface reading and, where the space's air was read too, its judgment.
#[derive(Debug, Clone, PartialEq)]
pub struct SurfaceRead {
    /// The reading behind it.
    pub reading_id: Uuid,
    /// When, milliseconds since 1970.
    pub taken_ms: i64,
    /// Surface temperature with its band, °C.
    pub t: Temperature,
    /// Accuracy of the surface thermometer and of the air reading it is judged against.
    pub accuracy: Accuracy,
    /// The air it is judged against: the space's reading nearest in time.
    pub beside: Option<AirState>,
    /// The verdict; `None` while the space's air has not been read on this visit.
    pub judged: Option<Judged>,
    /// Temperature factor between the air of its own two sides, outdoors or another space; `None` under 5 K of difference, where
    /// the far side was not read, or where it is the ground.
    pub factor: Option<TemperatureFactor>,
}

/// A boundary with its worst surface and the vapor drive across it.
#[derive(Debug, Clone, PartialEq)]
pub struct BoundaryState {
    /// Which boundary.
    pub boundary_id: Uuid,
    /// Worst verdict of its surfaces; `None` when none was judged.
    pub worst: Option<Verdict>,
    /// Vapor pressure beyond less that in the boundary's own space, Pa: positive drives vapor in.
    pub drive: Option<Measured>,
}

/// How bad a verdict is, for picking the worst. A band that spans the dew point lies closer to wet than mold risk.
#[must_use]
pub const fn severity(verdict: Verdict) -> u8 {
    match verdict {
        Verdict::Dry => 0,
        Verdict::MoldRisk => 1,
        Verdict::Uncertain => 2,
        Verdict::Condensing => 3,
    }
}

/// Judges everything read on one visit. `readings` are that visit's effective readings, in any order.
#[must_use]
pub fn picture(building: &Building, readings: &[Reading]) -> Picture {
    let visit = Visit::new(building, readings);
    let outdoor = visit.latest_air(Place::Outdoors);
    let spaces: Vec<SpaceState> = building
        .spaces
        .iter()
        .map(|space| SpaceState {
            space_id: space.id,
            air: visit.latest_air(Place::Space(space.id)),
            surfaces: building.surfaces_in(space.id).map(|s| visit.surface(s)).collect(),
        })
        .collect();
    let boundaries =
        building.boundaries.iter().map(|b| boundary_state(building, b, &spaces, outdoor.as_ref())).collect();
    Picture { outdoor, spaces, boundaries }
}

impl Picture {
    /// The state of a space.
    #[must_use]
    pub fn space(&self, id: Uuid) -> Option<&SpaceState> {
        self.spaces.iter().find(|s| s.space_id == id)
    }

    /// Widest difference between the air of a space and outdoors, K; `None` while either was not read.
    #[must_use]
    pub fn widest_span(&self) -> Option<f64> {
        let out = self.outdoor?.value.t;
        let spans = self.spaces.iter().filter_map(|s| Some(s.air?.value.t.above(out).get().abs()));
        spans.max_by(f64::total_cmp)
    }

    /// The state of a surface.
    #[must_use]
    pub fn surface(&self, id: Uuid) -> Option<&SurfaceState> {
        self.spaces.iter().flat_map(|s| &s.surfaces).find(|s| s.surface_id == id)
    }
}

impl SpaceState {
    /// The coldest surface read in the space, bare soil left out: it is damp whatever the air does, and nobody keeps
    /// it dry by ventilating.
    #[must_use]
    pub fn coldest(&self, building: &Building) -> Option<(Uuid, &SurfaceRead)> {
        self.surfaces
            .iter()
            .filter(|s| building.surface(s.surface_id).is_some_and(|x| x.material != Material::Soil))
            .filter_map(|s| s.read.as_ref().map(|r| (s.surface_id, r)))
            .min_by(|a, b| a.1.t.get().total_cmp(&b.1.t.get()))
    }

    /// The worst verdict among its surfaces.
    #[must_use]
    pub fn worst(&self) -> Option<Verdict> {
        worst(self.surfaces.iter())
    }
}

/// One visit's readings, sorted by time.
struct Visit<'a> {
    building: &'a Building,
    sorted: Vec<&'a Reading>,
}

impl<'a> Visit<'a> {
    fn new(building: &'a Building, readings: &'a [Reading]) -> Self {
        let mut sorted: Vec<_> = readings.iter().collect();
        sorted.sort_by_key(|r| (r.taken_ms, r.id));
        Self { building, sorted }
    }

    fn at(&self, place: Place) -> impl DoubleEndedIterator<Item = &'a Reading> {
        let station = self.building.station_at(place).map(|s| s.id);
        self.sorted.iter().copied().filter(move |r| Some(r.station_id) == station)
    }

    fn latest_air(&self, place: Place) -> Option<AirState> {
        self.at(place).rev().find_map(AirState::of)
    }

    fn nearest_air(&self, place: Place, taken_ms: i64) -> Option<AirState> {
        self.at(place).filter_map(AirState::of).min_by_key(|a| a.taken_ms.abs_diff(taken_ms))
    }

    fn surface(&self, surface: &Surface) -> SurfaceState {
        let read = self.at(Place::Surface(surface.id)).rev().find_map(|r| match r.observed {
            Observed::Surface(t) => Some(self.judge(r, t, surface)),
            _ => None,
        });
        SurfaceState { surface_id: surface.id, read }
    }

    /// The air on the other side of a surface; none in the ground.
    fn far_air(&self, surface: &Surface, taken_ms: i64) -> Option<AirState> {
        let boundary = self.building.boundary(surface.boundary_id)?;
        match boundary.beyond {
            Side::Outdoors => self.latest_air(Place::Outdoors),
            Side::Space(id) if id != surface.space_id => self.nearest_air(Place::Space(id), taken_ms),
            Side::Space(_) => self.nearest_air(Place::Space(boundary.space_id), taken_ms),
            Side::Ground => None,
        }
    }

    fn judge(&self, reading: &Reading, t: Temperature, surface: &Surface) -> SurfaceRead {
        let beside = self.nearest_air(Place::Space(surface.space_id), reading.taken_ms);
        let own = reading.accuracy.surface;
        let accuracy = beside.map_or(reading.accuracy, |a| Accuracy { surface: own, ..a.accuracy });
        let band = Measured { value: t.get(), err: own.get() };
        SurfaceRead {
            reading_id: reading.id,
            taken_ms: reading.taken_ms,
            t,
            accuracy,
            beside,
            judged: beside.map(|a| surface::judge(&a.air, t, a.value.over, &accuracy)),
            factor: beside
                .zip(self.far_air(surface, reading.taken_ms))
                .and_then(|(inside, out)| surface::temperature_factor(band, inside.temperature(), out.temperature())),
        }
    }
}

fn boundary_state(
    building: &Building,
    boundary: &Boundary,
    spaces: &[SpaceState],
    outdoor: Option<&AirState>,
) -> BoundaryState {
    let state = |id: Uuid| spaces.iter().find(|s| s.space_id == id);
    let own = state(boundary.space_id);
    let on_it: Vec<&SurfaceState> = own
        .iter()
        .flat_map(|s| &s.surfaces)
        .filter(|s| building.surface(s.surface_id).is_some_and(|x| x.boundary_id == boundary.id))
        .collect();
    let here = own.and_then(|s| s.air.as_ref()).map(vapor_band);
    let beyond = match boundary.beyond {
        Side::Outdoors => outdoor.map(vapor_band),
        Side::Space(id) => state(id).and_then(|s| s.air.as_ref()).map(vapor_band),
        Side::Ground => on_it.iter().find_map(|s| ground_vapor(building, s)),
    };
    let drive = beyond.zip(here).map(|(b, h)| b.minus(h));
    BoundaryState { boundary_id: boundary.id, worst: worst(on_it.into_iter()), drive }
}

fn worst<'a>(surfaces: impl Iterator<Item = &'a SurfaceState>) -> Option<Verdict> {
    surfaces.filter_map(|s| Some(s.read.as_ref()?.judged?.verdict)).max_by_key(|v| severity(*v))
}

/// Vapor pressure of read air with its band, Pa (first order in temperature and RH).
pub(crate) fn vapor_band(state: &AirState) -> Measured {
    let AirState { value, air, accuracy, .. } = state;
    let by_t = value.rh.get() / 100.0 * saturation_slope(value.t, value.over) * accuracy.air.get();
    let by_rh = saturation_pressure_over(value.t, value.over) / 100.0 * accuracy.rh.get();
    Measured::from_contributions(air.vapor_pressure(), &[by_t, by_rh])
}

/// Damp ground and masonry in contact with it stand near saturation at their own temperature (common practice).
fn ground_vapor(building: &Building, state: &SurfaceState) -> Option<Measured> {
    let material = building.surface(state.surface_id)?.material;
    let read = state.read.as_ref()?;
    matches!(material, Material::Soil | Material::Concrete).then(|| Measured {
        value: saturation_pressure(read.t),
        err: saturation_slope(read.t, hygrothermal::air::Over::Ice) * read.accuracy.surface.get(),
    })
}
