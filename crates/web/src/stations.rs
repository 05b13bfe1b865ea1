//! The stations of a round: the way, the one in view, and what is missing.

use casework::CaseFile;
use casework::entry::Method;
use drawing::DropMark;

use building::entry::Humidity;
use building::reading::Observed;
use building::{Place, Station};
use language::{known, say};
use notation::Show;
use uuid::Uuid;
use wording::log::{self, Entry};

/// A station on the way.
pub struct StationStep {
    pub id: Uuid,
    pub name: String,
    pub mark: DropMark,
    pub done: bool,
    pub skipped: bool,
    pub current: bool,
    /// What it showed on the visit before.
    pub last: String,
}

/// The station in view.
pub struct StationView {
    pub id: Uuid,
    pub name: String,
    pub place: String,
    /// Space or surface it stands at.
    pub place_id: Option<Uuid>,
    pub number: usize,
    pub last: Option<String>,
    /// The figures of the visit before, to type over.
    pub ghost: [String; 2],
    /// Id and reason of its skip on this visit.
    pub skipped: Option<(Uuid, String)>,
    pub entries: Vec<Entry>,
    pub next: Option<Uuid>,
    pub previous: Option<Uuid>,
}

/// Names of the stations neither read nor skipped on the visit in view.
pub fn missing(page: &CaseFile) -> Vec<String> {
    let open = page.building.stations.iter().filter(|s| !page.is_read(s.id) && page.skipped(s.id).is_none());
    open.map(|s| page.building.place_name(s.place).to_owned()).collect()
}

/// Every page a round needs: its stations with each way of reading them, and where what is seen is noted. Before its visit
/// is started a station's page is asked for as it will be.
pub fn carried(page: &CaseFile, ahead: bool) -> String {
    let job = format!("/jobs/{}", page.job.id);
    let ahead = if ahead { "&ahead=1" } else { "" };
    let station = |s: &Station| format!("{job}/round?at={id}", id = s.id);
    let mut pages: Vec<String> = page.building.stations.iter().map(|s| station(s) + ahead).collect();
    for s in &page.building.stations {
        pages.extend(
            Method::offered(s.place)
                .iter()
                .map(|m| format!("{station}&method={id}{ahead}", station = station(s), id = m.id())),
        );
    }
    pages.extend(
        ["/findings", "/tests", "/photos", "/thermal/survey", "/unfolded", "/round", "/call", ""]
            .map(|view| format!("{job}{view}")),
    );
    pages.extend(["/docket".into(), "/queue".into()]);
    pages.join(" ")
}

/// Every station on the way.
pub fn steps(show: &Show, page: &CaseFile, current: Uuid) -> Vec<StationStep> {
    let last = page.last_rows();
    page.building
        .stations
        .iter()
        .map(|s| {
            let done = page.is_read(s.id);
            StationStep {
                skipped: page.skipped(s.id).is_some(),
                last: last.get(&s.id).map(|r| log::value(show, r)).unwrap_or_default(),
                id: s.id,
                name: page.building.place_name(s.place).to_owned(),
                mark: step_mark(page, s.place),
                done,
                current: s.id == current,
            }
        })
        .collect()
}

/// The mark of a surface's verdict.
pub fn step_mark(page: &CaseFile, place: Place) -> DropMark {
    let verdict = match place {
        Place::Surface(id) => page.picture.surface(id).and_then(|s| Some(s.read.as_ref()?.judged?.verdict)),
        _ => None,
    };
    verdict.map_or(DropMark::NONE, DropMark::from)
}

/// The figures last typed here for the same kind of reading, in this person's units.
fn ghost(show: &Show, page: &CaseFile, station: &Station, method: Method) -> [String; 2] {
    let kind = |o: &Observed| match (o, station.place) {
        (Observed::Surface(_), Place::Surface(_)) => matches!(method, Method::Contact | Method::Infrared),
        (Observed::Air(_), _) => method == Method::Air,
        (Observed::Wood(_), _) => method == Method::Wood,
        (Observed::Relative(_), _) => method == Method::Relative,
        (Observed::Water(_), _) => method == Method::Water,
        (Observed::Rain(_), _) => method == Method::Rain,
        _ => false,
    };
    let Some((_, row)) = page.before(station.id, kind) else { return Default::default() };
    let second = match (row.humidity_kind, row.raw_humidity) {
        (Some(Humidity::Rh), Some(rh)) => rh.to_string(),
        (_, Some(t)) => show.degrees(t),
        _ => row.hours.map(|h| h.to_string()).unwrap_or_default(),
    };
    let first = row.raw_value.map(|v| v.to_string()).or(row.raw_t_c.map(|t| show.degrees(t)));
    [first.unwrap_or_default(), second]
}

/// The station in view, for one way of reading it.
pub fn station_view(show: &Show, page: &CaseFile, station: &Station, method: Method) -> StationView {
    let surface = matches!(station.place, Place::Surface(_));
    let stations = &page.building.stations;
    let index = stations.iter().position(|s| s.id == station.id).unwrap_or(0);
    let space = page.building.space_of(station.place);
    let air = space.and_then(|s| page.picture.space(s.id)).and_then(|s| s.air.as_ref());
    let place = match (space, surface, air) {
        (None, _, _) => say!("read it first: every space is compared with it").to_owned(),
        (Some(s), false, _) => say!("air of the {kind}", kind = known(s.kind.words())),
        (Some(s), true, None) => say!("{name}: its air has not been read on this visit", name = s.name),
        (Some(s), true, Some(a)) => {
            let dew =
                a.dew.map_or_else(String::new, |d| say!(", dew point {degrees}", degrees = show.degrees(d.value)));
            format!("{} {} {}{dew}", s.name, show.temperature(a.value.t.get()), show.percent(a.value.rh.get()))
        }
    };
    let before = page
        .before(station.id, |_| true)
        .map(|(_, row)| say!("{log} on {row}", log = log::value(show, row), row = show.day(row.taken_at)));
    let visit_rows: Vec<_> = page.visit_rows().cloned().collect();
    StationView {
        id: station.id,
        name: page.building.place_name(station.place).to_owned(),
        place,
        place_id: match station.place {
            Place::Outdoors => None,
            Place::Space(id) | Place::Surface(id) => Some(id),
        },
        number: index + 1,
        last: before,
        ghost: ghost(show, page, station, method),
        skipped: page.skipped(station.id).map(|s| (s.id, s.reason.clone())),
        entries: log::entries(show, &visit_rows, &page.instruments, station.id),
        next: stations.get(index + 1).map(|s| s.id),
        previous: index.checked_sub(1).and_then(|i| stations.get(i)).map(|s| s.id),
    }
}
