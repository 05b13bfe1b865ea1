//! Loads the demo: two invented practices with their jobs, once.

mod budgets;
mod coatings;
mod drying;
mod live;
mod logs;
mod unfolded;

pub use live::live;

use anyhow::{Context, Result, anyhow};
use building::call::Call;
use building::construction::{Course, Substance, Variant};
use building::entry::{Humidity, parse_air, parse_surface};
use building::reading::WoodValue;
use building::report::{ReportDraft, ReportReader};
use building::{InstrumentKind, Spot};
use building::{Place, Structure};
use chrono::{DateTime, Datelike, Duration, NaiveDate, Utc};
use hygrothermal::air::Over;
use hygrothermal::instrument::{Salt, salt};
use hygrothermal::quantity::Temperature;
use hygrothermal::wood::species_by_id;
use judgment::finding::{finding, test};
use judgment::plan::{fix, follow_up, question};
use notation::Units;
use photograph::Mark;
use stand_ins::camera::{EMISSIVITY, pictures, shot};
use stand_ins::{
    DemoBuilt, DemoJob, DemoPlan, DemoReading, DemoVisit, collected, pins, plans, prices, scenario, sketch,
};
use std::collections::BTreeSet;
use store::{
    Act, CallSheet, ChosenSchool, FindingRecord, FollowUpRecord, FollowUpState, Instrument, JobEdit, NewJob,
    NewPractice, NewReading, NewValue, Person, Photo, PhotoSize, PracticeAct, Role, SaltCheck, Scope, Setting, Site,
    StepDecision, Store, TestRun, Thermal, TypedFigure, Visit, plan_row_id,
};
use uuid::Uuid;

/// The consultant the demo's one-click entry signs in.
pub const ENTRY: &str = "wren@ostley-fell.example";
/// Password of every demo consultant.
pub const PASSWORD: &str = "crawl-before-you-walk";
/// Seed of everything invented.
pub const SEED: u64 = 7480;

struct PracticePlan {
    key: &'static str,
    name: &'static str,
    email: &'static str,
    consultant: &'static str,
}

const PRACTICES: [PracticePlan; 2] = [
    PracticePlan { key: "fell", name: "Ostley Fell Building Physics", email: ENTRY, consultant: "Wren Tallow" },
    PracticePlan {
        key: "harbor",
        name: "Low Harbor Damp Survey",
        email: "odd@low-harbor.example",
        consultant: "Odd Marrow",
    },
];

/// The others of the first practice: name, e-mail, and what they may.
const COLLEAGUES: [(&str, &str, Role); 3] = [
    ("Sedge Marlow", "sedge@ostley-fell.example", Role::Technician),
    ("Bracken Ayre", "bracken@ostley-fell.example", Role::Reviewer),
    ("Thrift Hollin", "thrift@ostley-fell.example", Role::Trainee),
];

/// Loads what of the demo is not there yet, each practice whole or not at all; says whether it loaded anything.
///
/// # Errors
/// When the database does not answer or the shipped scenario is not whole.
pub async fn load(store: &Store, now: DateTime<Utc>) -> Result<bool> {
    let mut missing = Vec::new();
    for plan in &PRACTICES {
        if store.account(plan.email).await?.is_none() {
            missing.push(plan);
        }
    }
    let jobs = scenario(SEED, Uuid::now_v7).map_err(|e| anyhow!("demo scenario: {e}"))?;
    for plan in &missing {
        practice(store, plan, &jobs, now).await.with_context(|| format!("loading {}", plan.name))?;
    }
    for plan in &PRACTICES {
        let account = store.account(plan.email).await?.context("a practice just loaded")?;
        logs::load(store, account, &jobs, now)
            .await
            .with_context(|| format!("loading the loggers of {}", plan.name))?;
    }
    Ok(!missing.is_empty())
}

async fn practice(store: &Store, plan: &PracticePlan, jobs: &[DemoJob], now: DateTime<Utc>) -> Result<()> {
    let person = Person {
        id: Uuid::now_v7(),
        email: plan.email.into(),
        name: plan.consultant.into(),
        password_hash: web::hash_password(PASSWORD).map_err(|e| anyhow!(e))?,
    };
    let (id, consultant) = (Uuid::now_v7(), person.id);
    let new = NewPractice { id, name: plan.name.into(), time_zone: "Europe/London".into(), person };
    let scope = store.create_practice(new).await?;
    for (name, email, role) in COLLEAGUES.iter().filter(|_| plan.key == "fell") {
        let hashed = web::hash_password(PASSWORD).map_err(|e| anyhow!(e))?;
        let person = Person { id: Uuid::now_v7(), email: (*email).into(), name: (*name).into(), password_hash: hashed };
        scope.add_person(person, *role).await?;
    }
    let instruments = starter_instruments(now);
    for instrument in &instruments {
        scope.add_instrument(instrument.clone()).await?;
    }
    drift(&scope, &instruments[0], consultant, now).await?;
    drying::check_meter(&scope, &instruments[2], consultant, now).await?;
    let decided = plans().map_err(|e| anyhow!("demo plans: {e}"))?;
    let (currency, cents) = prices().map_err(|e| anyhow!("demo prices: {e}"))?;
    let cents = cents.into_iter().map(|(item, cents)| (Setting::Price(item), Some(cents.to_string())));
    let settings = cents.chain([(Setting::Currency, Some(currency))]).collect();
    scope.settle(PracticeAct { id: Uuid::now_v7(), by: consultant, at: now }, settings).await?;
    for job in jobs.iter().filter(|j| j.practice == plan.key) {
        let id = load_job(&scope, job, consultant, &instruments, now).await?;
        shoot(&scope, job, id, consultant, now).await?;
        unfolded::load(&scope, job, id, &instruments, now).await?;
        budgets::load(&scope, &job.name, id, consultant, now).await?;
        coatings::load(&scope, &job.name, id, consultant, now).await?;
        drying::load(&scope, &job.name, id, consultant, &instruments, now).await?;
        report(&scope, &job.name, id, consultant, now).await?;
        for plan in decided.iter().filter(|p| p.job == job.name) {
            decide(&scope, plan, id, consultant, now).await?;
        }
    }
    Ok(scope.commit().await?)
}

/// The hand hygrometer's salt checks: over table salt it fell by 1.4 % in a year, and its offset with it rose.
async fn drift(scope: &Scope, instrument: &Instrument, consultant: Uuid, now: DateTime<Utc>) -> Result<()> {
    let box_at = Temperature::new(20.0).map_err(|e| anyhow!("{e}"))?;
    let reference = salt(Salt::SodiumChloride, box_at).context("table salt at 20 °C")?;
    for (days, offset, note) in [(695, 0.6, "As bought."), (330, instrument.rh_offset_pct, "After the damp winter.")] {
        let ended = now - Duration::days(days);
        let shown = ((reference - offset) * 10.0).round() / 10.0;
        let row = SaltCheck {
            id: Uuid::now_v7(),
            instrument_id: instrument.id,
            consultant_id: consultant,
            salts: vec!["nacl".into()],
            started_at: ended - Duration::hours(13),
            ended_at: Some(ended),
            t_c: Some(box_at.get()),
            shown: Some(serde_json::json!({ "nacl": shown })),
            rh_slope: Some(1.0),
            rh_offset_pct: Some(offset),
            max_residual_pct: Some(0.0),
            note: note.into(),
        };
        scope.keep_salt_check(row).await?;
    }
    Ok(())
}

/// The instruments a new practice starts with; it adds its own on the bench.
#[must_use]
pub fn starter_instruments(now: DateTime<Utc>) -> Vec<Instrument> {
    let instrument = |name: &str, serial: &str, errors: [f64; 4], offset: f64, checked: Option<i64>| Instrument {
        kind: InstrumentKind::Hygrometer,
        settle_s: 90,
        rh_slope: 1.0,
        id: Uuid::now_v7(),
        name: name.into(),
        serial: serial.into(),
        air_err_k: errors[0],
        rh_err_pct: errors[1],
        surface_err_k: errors[2],
        wood_err_pct: errors[3],
        rh_offset_pct: offset,
        checked_on: checked.map(|days| (now - Duration::days(days)).date_naive()),
    };
    vec![
        instrument("Hand hygrometer with contact probe and pins", "TH-204", [0.3, 2.0, 0.5, 1.0], 2.0, Some(330)),
        instrument("Pocket hygrometer with infrared spot", "PK-17", [0.5, 3.0, 1.5, 0.0], 0.0, None),
        Instrument {
            kind: InstrumentKind::Moisture,
            settle_s: 0,
            ..instrument("Moisture meter, pinless and pins", "MM-31", [0.0, 0.0, 0.0, 1.0], 0.0, None)
        },
    ]
}

/// The latest year in which this month and day, and every later visit's, is past; `-21` is so many days ago.
fn date(day: &str, now: DateTime<Utc>) -> Result<NaiveDate> {
    if let Some(ago) = day.strip_prefix('-') {
        return Ok((now - Duration::days(ago.parse()?)).date_naive());
    }
    let this = |year: i32| NaiveDate::parse_from_str(&format!("{year}-{day}"), "%Y-%m-%d");
    let date = this(now.year()).with_context(|| format!("day {day}"))?;
    if date < now.date_naive() { Ok(date) } else { Ok(this(now.year() - 1)?) }
}

/// A day of the year of a visit, or so many days after it, at eight in the morning.
fn gone(day: &str, visit: DateTime<Utc>) -> Result<DateTime<Utc>> {
    match day.strip_prefix('+') {
        Some(after) => Ok(visit + Duration::days(after.parse()?)),
        None => format!("{}-{day}T08:00:00Z", visit.year()).parse().with_context(|| format!("day {day}")),
    }
}

async fn load_job(
    scope: &Scope,
    job: &DemoJob,
    consultant: Uuid,
    instruments: &[Instrument],
    now: DateTime<Utc>,
) -> Result<Uuid> {
    let id = Uuid::now_v7();
    // All visits of a job fall in the same year as its last.
    let last = job.visits.last().map(|v| date(&v.day, now)).transpose()?;
    let day_of = |visit: &DemoVisit| -> Result<NaiveDate> {
        let day = date(&visit.day, now)?;
        if last.is_some_and(|l| day > l) {
            day.with_year(day.year() - 1).context("leap day in the scenario")
        } else {
            Ok(day)
        }
    };
    // Somebody called two days before the first visit.
    let first = job.visits.first().map(day_of).transpose()?.unwrap_or_else(|| now.date_naive());
    let created_at = (first - Duration::days(2)).and_hms_opt(9, 10, 0).context("hour of a call")?.and_utc();
    let edit = JobEdit {
        name: job.name.clone(),
        address: job.address.clone(),
        climate: job.climate,
        design_outdoor_c: job.design_outdoor_c,
        site: Site { altitude_m: job.altitude_m, at: None },
    };
    let new = NewJob { id, edit, structure: job.structure, rehearsal: false, created_by: consultant, created_at };
    scope.create_job(&new, &job.building).await?;
    let said = &job.call;
    let call = Call {
        said: said.said.clone(),
        built: said.built.clone(),
        year: Some(said.year),
        occupants: Some(said.occupants),
    };
    let sheet = CallSheet { complaint: said.complaint.clone(), call, updated_at: created_at };
    let act = Act::new(Uuid::now_v7(), id, consultant, created_at, "Saved the call sheet");
    scope.keep_call_sheet(&act, &sheet).await?;
    for (at, visit) in job.visits.iter().enumerate() {
        load_visit(scope, job, id, at, day_of(visit)?, consultant, instruments).await?;
    }
    Ok(id)
}

/// What the consultant decided about a job's plan.
async fn decide(scope: &Scope, plan: &DemoPlan, job: Uuid, by: Uuid, now: DateTime<Utc>) -> Result<()> {
    let act = |what: &str| Act::new(Uuid::now_v7(), job, by, now, what);
    for s in &plan.school {
        let asked = question(&s.question).with_context(|| format!("question {}", s.question))?;
        let row = ChosenSchool {
            id: plan_row_id(job, &format!("school {}", s.question)),
            job_id: job,
            question: s.question.clone(),
            choice: s.choice.clone(),
            reason: s.reason.clone(),
            updated_by: by,
            updated_at: now,
            removed: false,
        };
        scope.keep_school(&act(&asked.name), row).await?;
    }
    let figure = |f: &stand_ins::DemoFigure| TypedFigure {
        id: plan_row_id(job, &format!("figure {} {}", f.fix, f.name)),
        job_id: job,
        fix: f.fix.clone(),
        name: f.name.clone(),
        value: f.value.clone(),
        updated_by: by,
        updated_at: now,
        removed: false,
    };
    scope.keep_plan_figures(&act("Measured the ground"), plan.figure.iter().map(figure).collect()).await?;
    for s in &plan.step {
        let known = fix(&s.fix).with_context(|| format!("fix {}", s.fix))?;
        let row = StepDecision {
            id: plan_row_id(job, &format!("step {}", s.fix)),
            job_id: job,
            fix: s.fix.clone(),
            stage: s.stage.clone(),
            override_reason: s.override_reason.clone(),
            left_out: s.left_out.clone(),
            done_on: s.done.map(|days| (now - Duration::days(days)).date_naive()),
            proof: String::new(),
            updated_by: by,
            updated_at: now,
            removed: false,
        };
        scope.keep_plan_step(&act(&format!("Decided: {}", known.name)), row).await?;
    }
    build(scope, plan, job, &act).await?;
    let mut again = Vec::new();
    for f in &plan.follow_up {
        let known = follow_up(&f.what).with_context(|| format!("follow-up {}", f.what))?;
        again.push(FollowUpRecord {
            id: Uuid::now_v7(),
            job_id: job,
            what: f.what.clone(),
            name: known.name.clone(),
            note: known.note.clone(),
            begun_on: (now - Duration::days(f.begun)).date_naive(),
            due_on: (now + Duration::days(f.due_in)).date_naive(),
            state: FollowUpState::Open,
            reason: String::new(),
            updated_by: by,
            updated_at: now,
            removed: false,
        });
    }
    Ok(scope.keep_follow_ups(&act("Put follow-ups on the calendar"), again).await?)
}

/// Thermal pictures of a job, as the stand-in camera took them.
async fn shoot(scope: &Scope, job: &DemoJob, id: Uuid, by: Uuid, now: DateTime<Utc>) -> Result<()> {
    let building = scope.building(id).await?;
    let own = pictures().map_err(|e| anyhow!("demo pictures: {e}"))?.into_iter().filter(|p| p.job == job.name);
    for (seed, p) in (SEED..).zip(own) {
        let found = building.boundaries.iter().find(|b| b.name == p.boundary);
        let boundary = found.with_context(|| format!("boundary {}", p.boundary))?;
        let cells: Vec<Vec<Option<f64>>> =
            shot(&p, seed).into_iter().map(|r| r.into_iter().map(Some).collect()).collect();
        let taken_at = now - Duration::days(p.days_ago);
        let act = Act::new(Uuid::now_v7(), id, by, taken_at, format!("Brought in the thermal picture {}", p.name));
        let picture = Thermal {
            id: Uuid::now_v7(),
            job_id: id,
            consultant_id: by,
            spot: Spot::Boundary(boundary.id),
            name: p.name,
            note: p.note,
            taken_at,
            width_m: Some(p.width_m),
            air_t_c: Some(p.air[0]),
            air_rh_pct: Some(p.air[1]),
            outdoor_c: Some(p.outdoor),
            emissivity: EMISSIVITY,
            reflected_c: None,
            set_emissivity: EMISSIVITY,
            set_reflected_c: None,
            rows: i32::try_from(cells.len())?,
            columns: i32::try_from(cells[0].len())?,
            settled: p.settled,
            photo_id: None,
            removed: false,
        };
        scope.add_thermal(&act, picture, &cells).await?;
    }
    Ok(())
}

/// How boundaries are built, as the demo's consultants typed it.
async fn build(scope: &Scope, plan: &DemoPlan, job: Uuid, act: &impl Fn(&str) -> Act) -> Result<()> {
    let building = scope.building(job).await?;
    let names: BTreeSet<&str> = plan.built.iter().map(|b| b.boundary.as_str()).collect();
    for name in names {
        let boundary =
            building.boundaries.iter().find(|b| b.name == name).with_context(|| format!("boundary {name}"))?;
        let variant = |b: &DemoBuilt| -> Result<Variant> {
            let (framing_pct, framed) = b.framing.clone().unwrap_or_default();
            let course = |(i, (of, mm)): (usize, &(String, f64))| {
                let of = Substance::from_id(of).with_context(|| format!("material {of}"))?;
                Ok(Course { of, thickness_m: mm / 1000.0, framed: framed.contains(&i) })
            };
            let courses = b.layers.iter().enumerate().map(course).collect::<Result<_>>()?;
            Ok(Variant { id: Uuid::now_v7(), boundary_id: boundary.id, name: b.name.clone(), courses, framing_pct })
        };
        let own = plan.built.iter().filter(|b| b.boundary == name);
        let variants = own.map(variant).collect::<Result<Vec<_>>>()?;
        scope.keep_variants(&act(&format!("Said how {name} is built")), boundary.id, &variants).await?;
    }
    Ok(())
}

async fn load_visit(
    scope: &Scope,
    job: &DemoJob,
    job_id: Uuid,
    at: usize,
    day: NaiveDate,
    consultant: Uuid,
    instruments: &[Instrument],
) -> Result<()> {
    let plan = &job.visits[at];
    let start = day.and_hms_opt(plan.hour, 5, 0).context("hour of a visit")?.and_utc();
    let minutes = 2 * i64::try_from(plan.readings.len())?;
    let ended_at = (!plan.open).then(|| start + Duration::minutes(minutes + 4));
    let visit = Visit { ended_at, ..Visit::begun(Uuid::now_v7(), job_id, consultant, start) };
    let visit_id = visit.id;
    // A vehicle is read with the infrared spot: its panels must not be pierced.
    let instrument = &instruments[usize::from(job.structure == Structure::Vehicle)];
    scope.start_visit(visit).await?;
    let new = |place: Place, (value, as_typed): (NewValue, String), minute: i64| -> Result<NewReading> {
        Ok(NewReading {
            id: Uuid::now_v7(),
            job_id,
            visit_id,
            station_id: job.building.station_at(place).context("station of the scenario")?.id,
            instrument_id: instrument.id,
            consultant_id: consultant,
            value,
            as_typed,
            questions: String::new(),
            replaces: None,
            taken_at: start + Duration::minutes(minute),
        })
    };
    let near = Near { scope, job, job_id, visit_id, consultant, at: start + Duration::minutes(minutes + 1) };
    evidence(&near, plan).await?;
    for (i, reading) in (0..).zip(&plan.readings) {
        scope.keep_reading(&new(reading.place, entry(reading, instrument)?, 2 * i + 2)?).await?;
    }
    for (place, water) in collected(job, at) {
        let said = format!("water {} {}", water.liters, water.hours);
        scope.keep_reading(&new(place, (NewValue::Water(water), said), minutes + 2)?).await?;
    }
    if job.structure == Structure::Vehicle {
        return Ok(()); // no pins in its panels
    }
    for (place, shown, at) in pins(&job.building, &plan.readings) {
        let wood = WoodValue::corrected(shown, species_by_id("spruce").context("spruce in the library")?, at)?;
        let said = (NewValue::Wood(wood), format!("mc {:.1}", shown.get()));
        scope.keep_reading(&new(place, said, minutes + 3)?).await?;
    }
    Ok(())
}

/// A visit and the moment its notes were made.
struct Near<'a> {
    scope: &'a Scope,
    job: &'a DemoJob,
    job_id: Uuid,
    visit_id: Uuid,
    consultant: Uuid,
    at: DateTime<Utc>,
}

/// A space, boundary or surface by its name; none for the whole building.
fn spot(job: &DemoJob, name: &str) -> Result<Spot> {
    if name.is_empty() {
        return Ok(Spot::Whole);
    }
    let b = &job.building;
    // A wall and the surface on it may share a name: the surface is where it was seen.
    let surface = b.surfaces.iter().find(|s| s.name == name).map(|s| Spot::Surface(s.id));
    let space = || b.spaces.iter().find(|s| s.name == name).map(|s| Spot::Space(s.id));
    let boundary = || b.boundaries.iter().find(|x| x.name == name).map(|x| Spot::Boundary(x.id));
    surface.or_else(space).or_else(boundary).with_context(|| format!("{name} is not in {}", job.name))
}

/// The visit's pictures, drawn and kept as if a camera had sent them.
async fn photos(near: &Near<'_>, plan: &DemoVisit, found: &[(String, Uuid)]) -> Result<()> {
    for (i, p) in (0_u32..).zip(&plan.photos) {
        let drawn = sketch(&p.scene, SEED + u64::from(i)).with_context(|| format!("drawing {}", p.scene))?;
        let picture = photograph::read(&drawn)?;
        let spot = spot(near.job, &p.at)?;
        let finding_id = found.iter().find(|(what, _)| *what == p.shows).map(|(_, id)| *id);
        let marks = Mark::parse(&p.marks, (picture.width, picture.height)).map_err(|e| anyhow!("{}: {e}", p.scene))?;
        let taken_at = near.at + Duration::seconds(40 * i64::from(i) + 10);
        let row = Photo {
            id: Uuid::now_v7(),
            job_id: near.job_id,
            visit_id: Some(near.visit_id),
            consultant_id: near.consultant,
            finding_id,
            spot,
            name: format!("drawing-of-{}.png", p.scene),
            note: p.note.clone(),
            marks: serde_json::to_value(&marks)?,
            media_type: picture.format.media_type().to_owned(),
            width: i32::try_from(picture.width)?,
            height: i32::try_from(picture.height)?,
            bytes: i32::try_from(picture.original.len())?,
            taken_at,
            removed: false,
        };
        let act = Act::new(Uuid::now_v7(), near.job_id, near.consultant, taken_at, format!("Photo: {}", p.note));
        let files = [
            (PhotoSize::Original, picture.original),
            (PhotoSize::View, picture.view),
            (PhotoSize::Thumb, picture.thumb),
        ];
        near.scope.add_photo(&act, row, files).await?;
    }
    Ok(())
}

async fn evidence(near: &Near<'_>, plan: &DemoVisit) -> Result<()> {
    let mut found = Vec::new();
    let act = |what: String, at: DateTime<Utc>| Act::new(Uuid::now_v7(), near.job_id, near.consultant, at, what);
    for (i, f) in (0..).zip(&plan.findings) {
        let known = finding(&f.what).with_context(|| format!("finding {}", f.what))?;
        let spot = spot(near.job, &f.at)?;
        let found_at = near.at + Duration::seconds(20 * i);
        let row = FindingRecord {
            id: Uuid::now_v7(),
            job_id: near.job_id,
            visit_id: Some(near.visit_id),
            consultant_id: near.consultant,
            what: f.what.clone(),
            spot,
            severity: f.severity,
            value: f.value,
            note: f.note.clone(),
            absent: f.absent,
            found_at,
            gone_at: None,
            removed: false,
        };
        found.push((f.what.clone(), row.id));
        near.scope.keep_finding(&act(format!("Found: {}", known.name), found_at), row.clone()).await?;
        if let Some(day) = &f.gone {
            let gone = gone(day, near.at)?;
            let row = FindingRecord { gone_at: Some(gone), ..row };
            near.scope.keep_finding(&act(format!("No longer there: {}", known.name), gone), row).await?;
        }
    }
    photos(near, plan, &found).await?;
    for t in &plan.tests {
        let known = test(&t.test).with_context(|| format!("test {}", t.test))?;
        if let Some(result) = t.result.as_deref().filter(|r| known.result(r).is_none()) {
            return Err(anyhow!("{} has no result {result}", t.test));
        }
        let spot = spot(near.job, &t.at)?;
        let ended_at = t.result.as_ref().map(|_| near.at + Duration::hours(t.hours));
        let row = TestRun {
            id: Uuid::now_v7(),
            job_id: near.job_id,
            visit_id: Some(near.visit_id),
            consultant_id: near.consultant,
            test: t.test.clone(),
            spot,
            result: t.result.clone(),
            note: t.note.clone(),
            started_at: near.at,
            ended_at,
            removed: false,
        };
        near.scope.keep_test(&act(format!("Test: {}", known.name), near.at), row).await?;
    }
    Ok(())
}

/// A reading as its consultant typed it, through the same parser as theirs; the raw RH lacks the offset.
fn entry(reading: &DemoReading, instrument: &Instrument) -> Result<(NewValue, String)> {
    let t = format!("{:.1}", reading.t);
    let refused = |e: &dyn std::fmt::Display| anyhow!("demo reading refused: {e}");
    match (reading.place, reading.rh) {
        (Place::Surface(_), _) => {
            let value = parse_surface(&t, Units::Metric).map_err(|e| refused(&e))?;
            Ok((NewValue::Surface(value), t))
        }
        (_, rh) => {
            let shown = (rh.context("air without humidity")? - instrument.rh_offset_pct).clamp(0.0, 100.0);
            let m = format!("{shown:.0}");
            let entry = parse_air(&t, &m, Humidity::Rh, Units::Metric, Over::Water, |x| x + instrument.rh_offset_pct)
                .map_err(|e| refused(&e[0]))?;
            Ok((NewValue::Air(entry), format!("{t} {m}")))
        }
    }
}

/// Reports that are put together: for whoever owns the cottage, and for whoever insures the archive.
async fn report(scope: &Scope, name: &str, job: Uuid, by: Uuid, now: DateTime<Utc>) -> Result<()> {
    let readers = [("Mill keeper", ReportReader::Owner), ("School archive", ReportReader::Insurer)];
    let Some((_, reader)) = readers.into_iter().find(|(job, _)| name.starts_with(job)) else { return Ok(()) };
    let id = Uuid::now_v7();
    let act = Act::new(id, job, by, now - Duration::days(1), format!("Began a report for the {}", reader.words()));
    scope.keep_report(&act, &ReportDraft::usual(id, reader, "Report".into()), false).await?;
    Ok(())
}
