//! A job's building: its spaces, what separates them, and the surfaces and stations at which it is read.

use super::caller::Caller;
use super::exchange::{Made, Path, Sent, one};
use super::problem::{Problem, Wrong};
use axum::http::HeaderMap;
use axum::response::Response;
use building::{Boundary, Building, Edit, Face, Level, Material, Side, Space, SpaceKind, Surface, buildups};
use casework::InView;
use chrono::Utc;
use serde::{Deserialize, Serialize};
use store::{Act, Depth};
use utoipa::ToSchema;
use uuid::Uuid;

/// A building.
#[derive(Debug, Serialize, ToSchema)]
pub struct BuildingView {
    /// Bodies of air, in walking order.
    spaces: Vec<SpaceView>,
    /// What separates them.
    boundaries: Vec<BoundaryView>,
    /// Where temperatures are read.
    surfaces: Vec<SurfaceView>,
    /// Where anything is read, in walking order.
    stations: Vec<StationView>,
}

/// A body of air.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SpaceView {
    /// Identity; in a change the address says it.
    #[serde(default)]
    id: Uuid,
    /// What it is called, 1 to 40 characters.
    name: String,
    /// What it is.
    kind: String,
    /// Where it stands in the cut.
    level: String,
    /// Floor area, m².
    area_m2: f64,
    /// Mean height, m.
    height_m: f64,
}

/// What separates a space from its neighbor.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct BoundaryView {
    /// Identity; in a change the address says it.
    #[serde(default)]
    id: Uuid,
    /// What it is called, 1 to 40 characters.
    name: String,
    /// The space whose face it is.
    space_id: Uuid,
    /// What lies beyond: `outdoors`, `ground`, or the id of a space.
    beyond: String,
    /// Which face of the space.
    face: String,
    /// Whether damp soil lies bare on it.
    #[serde(default)]
    bare_soil: bool,
    /// Id of its build-up in the library; null while nobody said.
    buildup: Option<String>,
}

/// A place on a boundary whose temperature is read.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SurfaceView {
    /// Identity; in a change the address says it.
    #[serde(default)]
    id: Uuid,
    /// The boundary it is on.
    boundary_id: Uuid,
    /// The space whose air touches it.
    space_id: Uuid,
    /// What it is called, 1 to 40 characters.
    name: String,
    /// A few letters for the drawing, 10 at most.
    short: String,
    /// What it is made of.
    material: String,
}

/// Where something is read.
#[derive(Debug, Serialize, ToSchema)]
pub struct StationView {
    /// Identity.
    id: Uuid,
    /// What it is called.
    name: String,
    /// Its space, for a station of air; null outdoors.
    space_id: Option<Uuid>,
    /// Its surface, for one on a surface.
    surface_id: Option<Uuid>,
}

impl BuildingView {
    fn of(b: &Building) -> Self {
        Self {
            spaces: b.spaces.iter().map(space_view).collect(),
            boundaries: b.boundaries.iter().map(boundary_view).collect(),
            surfaces: b.surfaces.iter().map(surface_view).collect(),
            stations: b.stations.iter().map(|s| station_view(b, s)).collect(),
        }
    }
}

fn space_view(s: &Space) -> SpaceView {
    SpaceView {
        id: s.id,
        name: s.name.clone(),
        kind: s.kind.id().into(),
        level: s.level.id().into(),
        area_m2: s.area_m2,
        height_m: s.height_m,
    }
}

fn boundary_view(b: &Boundary) -> BoundaryView {
    BoundaryView {
        id: b.id,
        name: b.name.clone(),
        space_id: b.space_id,
        beyond: match b.beyond {
            Side::Outdoors => "outdoors".into(),
            Side::Ground => "ground".into(),
            Side::Space(id) => id.to_string(),
        },
        face: b.face.id().into(),
        bare_soil: b.bare_soil,
        buildup: b.buildup.clone(),
    }
}

fn surface_view(s: &Surface) -> SurfaceView {
    SurfaceView {
        id: s.id,
        boundary_id: s.boundary_id,
        space_id: s.space_id,
        name: s.name.clone(),
        short: s.short.clone(),
        material: s.material.id().into(),
    }
}

fn station_view(building: &Building, s: &building::Station) -> StationView {
    let (space_id, surface_id) = s.place.columns();
    StationView { id: s.id, name: building.place_name(s.place).to_owned(), space_id, surface_id }
}

fn word<T: Copy>(field: &str, said: &str, all: &[T], id: fn(T) -> &'static str) -> Result<T, Problem> {
    let known = all.iter().copied().find(|x| id(*x) == said);
    known.ok_or_else(|| {
        let all: Vec<&str> = all.iter().map(|x| id(*x)).collect();
        Problem::wrong(vec![Wrong::new(field, format!("It is one of {}.", all.join(", ")))])
    })
}

/// A part of a building that is sent whole.
trait Part: for<'de> Deserialize<'de> {
    /// What it is called in words.
    const WORD: &'static str;
    /// Its change to a building that has it or, where it is new, has not.
    fn edit(self, id: Uuid, building: &Building, station: Uuid) -> Result<Edit, Problem>;
    /// Away with it.
    fn removal(id: Uuid) -> Edit;
    /// Whether a building has it.
    fn is_in(id: Uuid, building: &Building) -> bool;
}

impl Part for SpaceView {
    const WORD: &'static str = "space";

    fn edit(self, id: Uuid, building: &Building, station: Uuid) -> Result<Edit, Problem> {
        let before = building.space(id);
        let space = Space {
            id,
            name: self.name,
            kind: word("kind", &self.kind, SpaceKind::ALL, SpaceKind::id)?,
            level: word("level", &self.level, Level::ALL, Level::id)?,
            column: before.map_or(0, |b| b.column),
            area_m2: self.area_m2,
            height_m: self.height_m,
        };
        Ok(if before.is_some() { Edit::ChangeSpace(space) } else { Edit::AddSpace(space, station) })
    }

    fn removal(id: Uuid) -> Edit {
        Edit::RemoveSpace(id)
    }

    fn is_in(id: Uuid, building: &Building) -> bool {
        building.space(id).is_some()
    }
}

impl Part for BoundaryView {
    const WORD: &'static str = "boundary";

    fn edit(self, id: Uuid, building: &Building, _: Uuid) -> Result<Edit, Problem> {
        let beyond = match self.beyond.as_str() {
            "outdoors" => Side::Outdoors,
            "ground" => Side::Ground,
            other => {
                let id = other.parse().ok().filter(|id| building.space(*id).is_some());
                let wrong = || Problem::field("beyond", "It is outdoors, ground, or the id of a space.");
                Side::Space(id.ok_or_else(wrong)?)
            }
        };
        if building.space(self.space_id).is_none() {
            return Err(Problem::field("space_id", "There is no such space."));
        }
        if self.buildup.as_ref().is_some_and(|b| !buildups().iter().any(|x| x.id == *b)) {
            return Err(Problem::field("buildup", "There is no such build-up in the library."));
        }
        let boundary = Boundary {
            id,
            name: self.name,
            space_id: self.space_id,
            beyond,
            face: word("face", &self.face, Face::ALL, Face::id)?,
            bare_soil: self.bare_soil,
            buildup: self.buildup,
        };
        Ok(if Self::is_in(id, building) { Edit::ChangeBoundary(boundary) } else { Edit::AddBoundary(boundary) })
    }

    fn removal(id: Uuid) -> Edit {
        Edit::RemoveBoundary(id)
    }

    fn is_in(id: Uuid, building: &Building) -> bool {
        building.boundary(id).is_some()
    }
}

impl Part for SurfaceView {
    const WORD: &'static str = "surface";

    fn edit(self, id: Uuid, building: &Building, station: Uuid) -> Result<Edit, Problem> {
        if building.boundary(self.boundary_id).is_none() {
            return Err(Problem::field("boundary_id", "There is no such boundary."));
        }
        if building.space(self.space_id).is_none() {
            return Err(Problem::field("space_id", "There is no such space."));
        }
        let surface = Surface {
            id,
            boundary_id: self.boundary_id,
            space_id: self.space_id,
            name: self.name,
            short: self.short,
            material: word("material", &self.material, Material::ALL, Material::id)?,
        };
        let known = Self::is_in(id, building);
        Ok(if known { Edit::ChangeSurface(surface) } else { Edit::AddSurface(surface, station) })
    }

    fn removal(id: Uuid) -> Edit {
        Edit::RemoveSurface(id)
    }

    fn is_in(id: Uuid, building: &Building) -> bool {
        building.surface(id).is_some()
    }
}

/// A job's building
#[utoipa::path(get, path = "/api/v1/jobs/{job}/building", tag = "buildings", params(("job" = Uuid, Path)),
    responses((status = 200, body = BuildingView), (status = 304),
        (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn get(caller: Caller, headers: HeaderMap, Path(job): Path<Uuid>) -> Result<Response, Problem> {
    let scope = caller.scope().await?;
    let file = caller.file(&scope, job, InView::Latest, Depth::Visit).await?;
    one(&headers, &BuildingView::of(&file.building))
}

async fn put<P: Part>(caller: Caller, job: Uuid, id: Uuid, sent: Sent) -> Result<Response, Problem> {
    change(caller, job, &sent, |building, station| {
        let known = P::is_in(id, building);
        let what = format!("{} the {}", if known { "Changed" } else { "Added" }, P::WORD);
        sent.read::<P>()?.edit(id, building, station).map(|edit| (edit, what))
    })
    .await
}

async fn remove<P: Part>(caller: Caller, job: Uuid, id: Uuid, sent: Sent) -> Result<Response, Problem> {
    change(caller, job, &sent, |building, _| {
        if !P::is_in(id, building) {
            return Err(Problem::not_found());
        }
        Ok((P::removal(id), format!("Removed the {}", P::WORD)))
    })
    .await
}

/// Changes a building that is as whoever sends the change saw it; the answer is the whole building again.
async fn change(
    caller: Caller,
    job: Uuid,
    sent: &Sent,
    edit: impl Fn(&Building, Uuid) -> Result<(Edit, String), Problem>,
) -> Result<Response, Problem> {
    sent.once(&caller, async |scope, names| {
        if !scope.hold_job(job).await? {
            return Err(Problem::not_found());
        }
        let building = caller.file(scope, job, InView::Latest, Depth::Visit).await?.building;
        sent.is_of(&BuildingView::of(&building))?;
        let (edit, what) = edit(&building, names.id(None, 1))?;
        let act = Act::new(names.id(None, 0), job, caller.by(), Utc::now(), what);
        scope.keep_building(&act, &building.edited(&edit)?).await?;
        let now = caller.file(scope, job, InView::Latest, Depth::Visit).await?.building;
        Made::changed(&BuildingView::of(&now))
    })
    .await
}

/// Add or change a space
#[utoipa::path(put, path = "/api/v1/jobs/{job}/building/spaces/{id}", tag = "buildings", request_body = SpaceView,
    params(("job" = Uuid, Path), ("id" = Uuid, Path, description = "The sender makes it."),
        ("If-Match" = String, Header, description = "ETag of the building.")),
    responses((status = 200, body = BuildingView), (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn put_space(caller: Caller, Path((job, id)): Path<(Uuid, Uuid)>, sent: Sent) -> Result<Response, Problem> {
    put::<SpaceView>(caller, job, id, sent).await
}

/// Remove a space
#[utoipa::path(delete, path = "/api/v1/jobs/{job}/building/spaces/{id}", tag = "buildings",
    params(("job" = Uuid, Path), ("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag of the building.")),
    responses((status = 200, body = BuildingView), (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn remove_space(
    caller: Caller,
    Path((job, id)): Path<(Uuid, Uuid)>,
    sent: Sent,
) -> Result<Response, Problem> {
    remove::<SpaceView>(caller, job, id, sent).await
}

/// Add or change a boundary
#[utoipa::path(put, path = "/api/v1/jobs/{job}/building/boundaries/{id}", tag = "buildings", request_body = BoundaryView,
    params(("job" = Uuid, Path), ("id" = Uuid, Path, description = "The sender makes it."),
        ("If-Match" = String, Header, description = "ETag of the building.")),
    responses((status = 200, body = BuildingView), (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn put_boundary(
    caller: Caller,
    Path((job, id)): Path<(Uuid, Uuid)>,
    sent: Sent,
) -> Result<Response, Problem> {
    put::<BoundaryView>(caller, job, id, sent).await
}

/// Remove a boundary and its surfaces
#[utoipa::path(delete, path = "/api/v1/jobs/{job}/building/boundaries/{id}", tag = "buildings",
    params(("job" = Uuid, Path), ("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag of the building.")),
    responses((status = 200, body = BuildingView), (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn remove_boundary(
    caller: Caller,
    Path((job, id)): Path<(Uuid, Uuid)>,
    sent: Sent,
) -> Result<Response, Problem> {
    remove::<BoundaryView>(caller, job, id, sent).await
}

/// Add or change a surface
#[utoipa::path(put, path = "/api/v1/jobs/{job}/building/surfaces/{id}", tag = "buildings", request_body = SurfaceView,
    params(("job" = Uuid, Path), ("id" = Uuid, Path, description = "The sender makes it."),
        ("If-Match" = String, Header, description = "ETag of the building.")),
    responses((status = 200, body = BuildingView), (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn put_surface(caller: Caller, Path((job, id)): Path<(Uuid, Uuid)>, sent: Sent) -> Result<Response, Problem> {
    put::<SurfaceView>(caller, job, id, sent).await
}

/// Remove a surface and its station
#[utoipa::path(delete, path = "/api/v1/jobs/{job}/building/surfaces/{id}", tag = "buildings",
    params(("job" = Uuid, Path), ("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag of the building.")),
    responses((status = 200, body = BuildingView), (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn remove_surface(
    caller: Caller,
    Path((job, id)): Path<(Uuid, Uuid)>,
    sent: Sent,
) -> Result<Response, Problem> {
    remove::<SurfaceView>(caller, job, id, sent).await
}
