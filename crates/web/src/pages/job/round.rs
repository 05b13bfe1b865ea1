//! A visit in walking order: one station at a time, the verdict beside each entry.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path, Query};
use crate::pages::job::{skips, visits};
use crate::places::ROUND;
use crate::stations::{StationStep, StationView, carried, missing, station_view, steps};
use crate::view::line::LinePanel;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::entry::{EntryError, Field, Humidity};
use building::infrared::{EmissivityRow, emissivities, usual};
use building::{Place, Station};
use casework::entry::{self, Checked, How, Method};
use casework::{CaseFile, InView};
use hygrothermal::wood::{Species, species};
use language::{known, say};
use notation::unit::{FLOW, RAIN};
use serde::Deserialize;
use std::sync::Arc;
use store::{Depth, Instrument, Kept, NewReading, Visit};
use uuid::Uuid;
use wording::instrument::{expired, salt_check};
use wording::meaning::Meaning;
use wording::picture::{Shown, pictures};

#[derive(Template, WebTemplate)]
#[template(path = "round.html")]
pub struct RoundPage {
    /// Whether its visit is still to be started.
    ahead: bool,
    frame: Frame,
    job: JobFrame,
    steps: Vec<StationStep>,
    station: StationView,
    form: ReadingForm,
    errors: FieldErrors,
    meaning: Option<Meaning>,
    asked: Vec<String>,
    /// Why the instrument may not be trusted.
    warning: Option<String>,
    instruments: Vec<Instrument>,
    visit: Visit,
    visit_label: String,
    unit: &'static str,
    flow_unit: &'static str,
    rain_unit: &'static str,
    kinds: Vec<(&'static str, &'static str)>,
    methods: &'static [Method],
    method: Method,
    emissivities: &'static [EmissivityRow],
    species: &'static [Species],
    line: LinePanel,
    /// Stations neither read nor skipped.
    missing: Vec<String>,
    act_id: Uuid,
    /// Pictures of the place, and the id of the next.
    photos: Vec<Shown>,
    photo_id: Uuid,
    reasons: [&'static str; 4],
    /// Addresses to carry along for working without a signal, separated by spaces.
    pages: String,
}

impl RoundPage {
    /// Whether this is being read.
    fn is(&self, method: &Method) -> bool {
        self.method == *method
    }

    /// Id of the place a picture taken here shows; the outdoor air has none.
    fn place(&self) -> String {
        self.station.place_id.map(|id| id.to_string()).unwrap_or_default()
    }

    /// Address of this station.
    fn here(&self) -> String {
        format!("/jobs/{}/round?at={}", self.job.id, self.station.id)
    }

    /// Address of the next station; of this one where there is none.
    fn onward(&self) -> String {
        format!("/jobs/{}/round?at={}", self.job.id, self.station.next.unwrap_or(self.station.id))
    }

    /// Whether its visit is still to be started, by a form that waits on the device.
    fn ahead(&self) -> bool {
        self.ahead
    }

    /// What the first figure is.
    fn asks(&self) -> String {
        match self.method {
            Method::Wood => say!("as the pin meter shows, %").into(),
            Method::Relative => say!("as the meter shows").into(),
            Method::Infrared => say!("as the spot shows, {unit}", unit = self.unit),
            Method::Contact => say!("surface, {unit}", unit = self.unit),
            Method::Water => say!("liters collected").into(),
            Method::Airflow => say!("airflow, {flow_unit}", flow_unit = self.flow_unit),
            Method::Rain => say!("rain of the two days before, {rain_unit}", rain_unit = self.rain_unit),
            Method::Air => say!("air, {unit}", unit = self.unit),
            Method::Note => "note".into(),
        }
    }

    /// Whether the reading has two figures.
    fn two(&self) -> bool {
        matches!(self.method, Method::Air | Method::Water)
    }
}

#[derive(Template, WebTemplate)]
#[template(path = "parts/verdict.html")]
pub struct VerdictPart {
    frame: Frame,
    /// Why the instrument may not be trusted.
    warning: Option<String>,
    errors: FieldErrors,
    meaning: Option<Meaning>,
    asked: Vec<String>,
}

#[derive(Default)]
pub struct FieldErrors {
    pub temperature: Option<String>,
    pub humidity: Option<String>,
}

impl FieldErrors {
    pub fn of(errors: Vec<EntryError>) -> Self {
        let mut out = Self::default();
        for e in errors {
            match e.field {
                Field::Humidity => out.humidity = Some(e.message),
                Field::Temperature | Field::Surface => out.temperature = Some(e.message),
            }
        }
        out
    }
}

#[derive(Deserialize, Clone, Default)]
pub struct ReadingForm {
    #[serde(default)]
    pub id: String,
    pub station: String,
    #[serde(default)]
    pub t: String,
    #[serde(default)]
    pub m: String,
    #[serde(default)]
    pub kind: String,
    #[serde(default)]
    pub method: String,
    #[serde(default)]
    pub species: String,
    /// Kind of surface for infrared, and what it reflects.
    #[serde(default)]
    pub eps: String,
    #[serde(default)]
    pub refl: String,
    #[serde(default)]
    pub instrument: String,
    #[serde(default)]
    pub keep_anyway: Option<String>,
    /// When a device without a signal took it, ms since 1970.
    #[serde(default)]
    pub at: String,
    /// Stay at this station for another reading.
    #[serde(default)]
    pub stay: Option<String>,
}

impl ReadingForm {
    /// What "keep anyway" was said about: other values raise their own questions.
    fn said(&self) -> String {
        entry::said(&self.t, &self.m, self.how())
    }

    fn how(&self) -> How<'_> {
        How {
            humidity: &self.kind,
            method: Method::asked(&self.method),
            species: &self.species,
            wood_at: None,
            emissivity: &self.eps,
            reflected: &self.refl,
        }
    }
}

#[derive(Deserialize)]
pub struct At {
    at: Option<Uuid>,
    /// What is read on a surface.
    method: Option<String>,
    /// The station as it will be once a visit is started, to carry along before.
    ahead: Option<u8>,
}

/// The round: the station asked for, else the first without a reading.
pub async fn page(who: Who, Path(job): Path<Uuid>, Query(at): Query<At>) -> Result<Response, Failure> {
    let mut page = open(&who, job).await?;
    if at.ahead.is_some() && page.open_visit().is_none() {
        let (job, by) = (page.job.id, who.person.consultant_id);
        Arc::make_mut(&mut page).look_ahead(Visit::begun(Uuid::now_v7(), job, by, chrono::Utc::now()));
    }
    let Some(visit) = page.open_visit().cloned() else {
        return Ok(visits::start_page(&who, &page).into_response());
    };
    let station = station(&page, at.at).ok_or(Failure::NotFound)?.clone();
    let form = ReadingForm {
        id: Uuid::now_v7().to_string(),
        station: station.id.to_string(),
        instrument: usual_instrument(&page).map_or_else(String::new, |i| i.id.to_string()),
        kind: "rh".into(),
        method: at.method.unwrap_or_default(),
        species: entry::usual_species(&page, &station).to_owned(),
        eps: usual_surface(&page, &station),
        ..ReadingForm::default()
    };
    let line = LinePanel { id: Uuid::now_v7(), ..LinePanel::default() };
    let view = round(&who, &page, visit, &station, form, line)?;
    Ok(view.into_response())
}

/// Id of the emissivity usual for a station's surface; empty where there is none.
fn usual_surface(page: &CaseFile, station: &Station) -> String {
    let surface = match station.place {
        Place::Surface(id) => page.building.surface(id),
        _ => None,
    };
    surface.and_then(|s| usual(s.material)).map(|e| e.id.clone()).unwrap_or_default()
}

fn station(page: &CaseFile, asked: Option<Uuid>) -> Option<&Station> {
    let read = |s: &Station| page.is_read(s.id) || page.skipped(s.id).is_some();
    match asked {
        Some(id) => page.building.station(id),
        None => page.building.stations.iter().find(|s| !read(s)).or(page.building.stations.last()),
    }
}

/// The instrument last used on this visit, else the first of the practice.
pub fn usual_instrument(page: &CaseFile) -> Option<&Instrument> {
    let last = page.visit_rows().last().and_then(|r| page.instrument(r.instrument_id));
    last.or(page.at_hand().first().copied())
}

/// A warning beside an air reading by an instrument whose humidity nobody has checked lately.
fn unchecked(station: &Station, i: Option<&Instrument>) -> Option<String> {
    let air = !matches!(station.place, Place::Surface(_));
    i.filter(|i| air && expired(i)).map(|i| format!("{}: {}.", i.name, salt_check(i)))
}

#[allow(clippy::too_many_arguments, reason = "one page, assembled from its parts")]
pub fn round(
    who: &Who,
    page: &CaseFile,
    visit: Visit,
    station: &Station,
    form: ReadingForm,
    line: LinePanel,
) -> Result<RoundPage, Failure> {
    let show = who.show();
    let warned = form.instrument.parse().ok().and_then(|id| page.instrument(id));
    let method = Method::asked(&form.method).at(station.place);
    Ok(RoundPage {
        frame: Frame::of(who, page),
        job: JobFrame::new(page, ROUND),
        steps: steps(&show, page, station.id),
        station: station_view(&show, page, station, method),
        missing: missing(page),
        act_id: Uuid::now_v7(),
        photos: pictures(&show, page, station.place),
        photo_id: Uuid::now_v7(),
        reasons: skips::REASONS,
        method,
        form,
        errors: FieldErrors::default(),
        meaning: None,
        asked: Vec::new(),
        warning: unchecked(station, warned).filter(|_| method == Method::Air),
        instruments: page.at_hand().into_iter().cloned().collect(),
        visit_label: say!("visit {page}", page = page.visit_number(visit.id)),
        ahead: page.is_ahead,
        visit,
        unit: show.temperature_unit(),
        flow_unit: FLOW.unit(show.units).name(),
        rain_unit: RAIN.unit(show.units).name(),
        kinds: Humidity::ALL.iter().map(|h| (h.id(), known(h.words()))).collect(),
        methods: Method::offered(station.place),
        emissivities: emissivities(),
        species: species(),
        line,
        pages: carried(page, false),
    })
}

/// The verdict while typing.
pub async fn verdict(who: Who, Path(job): Path<Uuid>, Query(form): Query<ReadingForm>) -> Result<VerdictPart, Failure> {
    let mut part = VerdictPart {
        frame: Frame::new(&who),
        warning: None,
        errors: FieldErrors::default(),
        meaning: None,
        asked: Vec::new(),
    };
    let page = open(&who, job).await?;
    let Some((station, instrument)) = chosen(&page, &form) else { return Ok(part) };
    let method = Method::asked(&form.method).at(station.place);
    part.warning = unchecked(station, Some(instrument)).filter(|_| method == Method::Air);
    let two = matches!(method, Method::Air | Method::Water);
    if form.t.trim().is_empty() || (two && form.m.trim().is_empty()) {
        return Ok(part);
    }
    match check(&who, &page, station, instrument, &form) {
        Ok(checked) => {
            part.asked = wording::question::asked(&who.show(), &checked);
            part.meaning = meaning(&who, &page, station, instrument, &checked);
        }
        Err(errors) => part.errors = FieldErrors::of(errors),
    }
    Ok(part)
}

/// The job with its open visit in view.
pub async fn open(who: &Who, job: Uuid) -> Result<Arc<CaseFile>, Failure> {
    who.file(job, InView::Open, Depth::Argument).await
}

fn chosen<'a>(page: &'a CaseFile, form: &ReadingForm) -> Option<(&'a Station, &'a Instrument)> {
    let station = page.building.station(form.station.parse().ok()?)?;
    let instrument = page.instrument(form.instrument.parse().ok()?)?;
    Some((station, instrument))
}

fn check(
    who: &Who,
    page: &CaseFile,
    station: &Station,
    instrument: &Instrument,
    form: &ReadingForm,
) -> Result<Checked, Vec<EntryError>> {
    let reads = entry::reads(station.place, &form.t, &form.m, form.how());
    entry::check(page, station, instrument, &reads, who.units())
}

fn meaning(
    who: &Who,
    page: &CaseFile,
    station: &Station,
    instrument: &Instrument,
    checked: &Checked,
) -> Option<Meaning> {
    let observed = (checked.observed, checked.accuracy);
    wording::meaning::meaning(&who.show(), page, station, instrument, observed, chrono::Utc::now())
}

/// Keeps a reading and goes on to the next station; a refused or doubted one stays on screen as typed.
pub async fn keep(who: Who, Path(job): Path<Uuid>, Form(form): Form<ReadingForm>) -> Result<Response, Failure> {
    let mut page = open(&who, job).await?;
    // Read a while ago without a signal: corrected as its instrument was then.
    Arc::make_mut(&mut page).instruments =
        who.scope().await?.instruments_at(entry::moment(&form.at, chrono::Utc::now())).await?;
    let visit = page.open_visit().cloned();
    let (Some((station, instrument)), Ok(id)) = (chosen(&page, &form), form.id.parse::<Uuid>()) else {
        return Err(Failure::BadForm("station, instrument or id of a reading".into()));
    };
    // Sent again because the answer never arrived: it is stored, whatever happened since.
    if page.row(id).is_some() {
        return Ok(onward(&page, station, form.stay.is_some()));
    }
    let Some(visit) = visit else {
        return Err(Failure::VisitFinished);
    };
    let again = |errors: FieldErrors, asked: Vec<String>, meaning: Option<Meaning>| -> Result<Response, Failure> {
        let line = LinePanel { id: Uuid::now_v7(), ..LinePanel::default() };
        let mut view = round(&who, &page, visit.clone(), station, form.clone(), line)?;
        (view.errors, view.asked, view.meaning) = (errors, asked, meaning);
        Ok((StatusCode::UNPROCESSABLE_ENTITY, view).into_response())
    };
    let checked = match check(&who, &page, station, instrument, &form) {
        Ok(checked) => checked,
        Err(errors) => return again(FieldErrors::of(errors), Vec::new(), None),
    };
    let asked = wording::question::asked(&who.show(), &checked);
    if !asked.is_empty() && form.keep_anyway.as_ref() != Some(&form.said()) {
        let meaning = meaning(&who, &page, station, instrument, &checked);
        return again(FieldErrors::default(), asked, meaning);
    }
    let reads = entry::reads(station.place, &form.t, &form.m, form.how());
    let new = NewReading {
        id,
        job_id: page.job.id,
        visit_id: visit.id,
        station_id: station.id,
        instrument_id: instrument.id,
        consultant_id: who.person.consultant_id,
        value: checked.value,
        as_typed: entry::as_typed(&reads),
        questions: asked.join(" "),
        replaces: None,
        taken_at: entry::moment(&form.at, chrono::Utc::now()),
    };
    let scope = who.scope().await?;
    if scope.keep_reading(&new).await? == Kept::CorrectedByOther {
        return Err(Failure::Defect("a new reading met another's correction".into()));
    }
    scope.commit().await?;
    Ok(onward(&page, station, form.stay.is_some()))
}

/// To the next station, or the same again.
fn onward(page: &CaseFile, station: &Station, stay: bool) -> Response {
    let index = page.building.stations.iter().position(|s| s.id == station.id);
    let after = index.and_then(|i| page.building.stations.get(i + 1)).filter(|_| !stay);
    let next = after.unwrap_or(station);
    Redirect::to(&format!("/jobs/{}/round?at={}", page.job.id, next.id)).into_response()
}
