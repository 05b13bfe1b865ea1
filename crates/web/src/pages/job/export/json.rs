//! A visit as one JSON file: the job's frame around its readings, what was found and tested, why, and what was decided.

use super::{Record, attachment, file_name, records};
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::Path;
use axum::response::Response;
use casework::evidence::during;
use casework::{CaseFile, InView};
use chrono::{DateTime, NaiveDate, Utc};
use serde::Serialize;
use store::Depth;
use store::{Conclusion, FindingRecord, Photo, PlanRows, TestRun};
use uuid::Uuid;
use wording::picture::Subject;

#[derive(Serialize)]
struct File {
    format: &'static str,
    job: String,
    address: String,
    structure: &'static str,
    climate: &'static str,
    design_outdoor_c: f64,
    altitude_m: f64,
    #[serde(skip_serializing_if = "Option::is_none")]
    latitude_longitude: Option<[f64; 2]>,
    visit_id: Uuid,
    readings: Vec<Record>,
    findings: Vec<FoundRecord>,
    /// Ids of what was looked for and is not there.
    absent: Vec<String>,
    tests: Vec<TestRecord>,
    photos: Vec<PhotoRecord>,
    why: WhyRecord,
    plan: PlanRecord,
}

/// What wets it: computed for the whole building, and what was concluded.
#[derive(Serialize)]
struct WhyRecord {
    computed: Vec<CauseRecord>,
    conclusions: Vec<ConclusionRecord>,
}

#[derive(Serialize)]
struct CauseRecord {
    id: &'static str,
    /// Of the whole, 0 to 1.
    share: f64,
}

#[derive(Serialize)]
struct ConclusionRecord {
    /// None for the whole building.
    place: Option<String>,
    causes: Vec<String>,
    /// What was computed when it was drawn.
    computed: Vec<String>,
    reason: String,
}

/// What was decided about the plan, as it stands now; the plan itself follows from this and the rest.
#[derive(Serialize)]
struct PlanRecord {
    schools: Vec<SchoolRecord>,
    steps: Vec<StepRecord>,
    /// In SI.
    figures: Vec<FigureRecord>,
    follow_ups: Vec<FollowUpRecord>,
}

#[derive(Serialize)]
struct SchoolRecord {
    question: String,
    choice: String,
    reason: String,
}

#[derive(Serialize)]
struct StepRecord {
    id: String,
    stage: Option<String>,
    done_on: Option<NaiveDate>,
    left_out: String,
    override_reason: String,
}

#[derive(Serialize)]
struct FigureRecord {
    step: String,
    name: String,
    value: String,
}

#[derive(Serialize)]
struct FollowUpRecord {
    id: String,
    name: String,
    due_on: NaiveDate,
    state: &'static str,
    reason: String,
}

fn plan_record(rows: PlanRows) -> PlanRecord {
    let school = |s: store::ChosenSchool| SchoolRecord { question: s.question, choice: s.choice, reason: s.reason };
    let step = |s: store::StepDecision| StepRecord {
        id: s.fix,
        stage: s.stage,
        done_on: s.done_on,
        left_out: s.left_out,
        override_reason: s.override_reason,
    };
    let figure = |f: store::TypedFigure| FigureRecord { step: f.fix, name: f.name, value: f.value };
    let follow_up = |f: store::FollowUpRecord| FollowUpRecord {
        id: f.what,
        name: f.name,
        due_on: f.due_on,
        state: f.state.id(),
        reason: f.reason,
    };
    PlanRecord {
        schools: rows.schools.into_iter().map(school).collect(),
        steps: rows.steps.into_iter().map(step).collect(),
        figures: rows.figures.into_iter().map(figure).collect(),
        follow_ups: rows.follow_ups.into_iter().map(follow_up).collect(),
    }
}

/// A picture of the visit; the file itself is downloaded from its page.
#[derive(Serialize)]
struct PhotoRecord {
    id: Uuid,
    shows: String,
    note: String,
    /// Lengths in thousandths of the width of the picture as it is looked at.
    marks: serde_json::Value,
    file: String,
    media_type: String,
    width: i32,
    height: i32,
    taken_at_utc: String,
}

/// A finding that was there on the visit.
#[derive(Serialize)]
struct FoundRecord {
    id: String,
    place: String,
    severity: i32,
    value: Option<f64>,
    note: String,
    found_at_utc: String,
    gone_at_utc: Option<String>,
}

/// A test begun by the end of the visit.
#[derive(Serialize)]
struct TestRecord {
    id: String,
    place: String,
    result: Option<String>,
    note: String,
    started_at_utc: String,
    ended_at_utc: Option<String>,
}

fn utc(at: DateTime<Utc>) -> String {
    at.to_rfc3339_opts(chrono::SecondsFormat::Secs, true)
}

fn found_record(page: &CaseFile, f: &FindingRecord) -> FoundRecord {
    FoundRecord {
        place: f.spot.name(&page.building).to_owned(),
        id: f.what.clone(),
        severity: f.severity,
        value: f.value,
        note: f.note.clone(),
        found_at_utc: utc(f.found_at),
        gone_at_utc: f.gone_at.map(utc),
    }
}

fn test_record(page: &CaseFile, t: &TestRun) -> TestRecord {
    TestRecord {
        place: t.spot.name(&page.building).to_owned(),
        id: t.test.clone(),
        result: t.result.clone(),
        note: t.note.clone(),
        started_at_utc: utc(t.started_at),
        ended_at_utc: t.ended_at.map(utc),
    }
}

fn photo_record(page: &CaseFile, p: &Photo) -> PhotoRecord {
    PhotoRecord {
        id: p.id,
        shows: Subject::of(p).name(&page.building, &page.findings),
        note: p.note.clone(),
        marks: p.marks.clone(),
        file: p.name.clone(),
        media_type: p.media_type.clone(),
        width: p.width,
        height: p.height,
        taken_at_utc: utc(p.taken_at),
    }
}

/// JSON with the job's frame around the readings.
pub async fn json(who: Who, Path((job, visit)): Path<(Uuid, Uuid)>) -> Result<Response, Failure> {
    let page = who.file(job, InView::Visit(visit), Depth::Plan).await?;
    let photo = |p: &Photo| photo_record(&page, p);
    let (found, tested) = (|f: &FindingRecord| found_record(&page, f), |t: &TestRun| test_record(&page, t));
    let photos = page.photos.iter().filter(|p| p.visit_id == Some(visit)).map(photo).collect();
    let findings = during(&page.findings, page.visit.as_ref()).map(found).collect();
    let end = page.visit.as_ref().and_then(|v| v.ended_at);
    let begun = |t: &&TestRun| end.is_none_or(|end| t.started_at <= end);
    let tests = page.tests.iter().filter(begun).map(tested).collect();
    let conclusion = |row: &Conclusion| ConclusionRecord {
        place: row.space_id.and_then(|id| Some(page.building.space(id)?.name.clone())),
        causes: row.causes.clone(),
        computed: row.computed.clone(),
        reason: row.reason.clone(),
    };
    let why = WhyRecord {
        computed: page
            .argued(None)
            .diagnosis
            .causes
            .iter()
            .map(|r| CauseRecord { id: &r.cause.id, share: r.share })
            .collect(),
        conclusions: page.conclusions.iter().map(conclusion).collect(),
    };
    let file = File {
        why,
        format: "gutteral readings 5",
        absent: page.absent.iter().map(|f| f.what.clone()).collect(),
        plan: plan_record(page.decided.clone()),
        findings,
        tests,
        photos,
        job: page.job.name.clone(),
        address: page.job.address.clone(),
        structure: page.job.structure.id(),
        climate: page.job.climate.id(),
        design_outdoor_c: page.job.design_outdoor_c,
        altitude_m: page.job.site.altitude_m,
        latitude_longitude: page.job.site.at,
        visit_id: visit,
        readings: records(&who.show(), &page),
    };
    let body = serde_json::to_vec_pretty(&file).map_err(|e| Failure::Defect(e.to_string()))?;
    Ok(attachment("application/json", &file_name(&page, visit, "json"), body))
}
