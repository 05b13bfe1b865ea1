//! What was read, found, concluded and decided, kept and given back as it was.

use super::*;
use chrono::{Days, NaiveDate};
use hygrothermal::quantity::Temperature;
use store::{
    Conclusion, FollowUpRecord, FollowUpState, Instrument, Kept, NewConclusion, NewReading, NewValue, SaltCheck, Skip,
    Standing, StepDecision, TestRun, TypedFigure, Visit, Worst, plan_row_id,
};

fn hygrometer() -> Instrument {
    Instrument {
        id: Uuid::now_v7(),
        name: "Hygrometer".into(),
        serial: String::new(),
        air_err_k: 0.3,
        rh_err_pct: 2.0,
        surface_err_k: 0.5,
        wood_err_pct: 0.0,
        rh_offset_pct: 0.0,
        rh_slope: 1.0,
        kind: building::InstrumentKind::Hygrometer,
        settle_s: 0,
        checked_on: None,
    }
}

fn visit(p: &Practice) -> Visit {
    Visit::begun(Uuid::now_v7(), p.job, p.person, now())
}

#[tokio::test]
async fn a_reading_is_appended_and_corrected_only_once() {
    let store = store().await;
    let p = Practice::new(&store, "one@x.example").await;
    let station = p.building().await.stations[0].id;
    let scope = p.scope().await;
    let instrument = Uuid::now_v7();
    let visit = visit(&p);
    assert_eq!(scope.start_visit(visit.clone()).await.unwrap().id, visit.id);
    let another = Visit { id: Uuid::now_v7(), ..visit.clone() };
    assert_eq!(scope.start_visit(another).await.unwrap().id, visit.id, "one visit is open at a time");
    scope.add_instrument(Instrument { id: instrument, ..hygrometer() }).await.unwrap();
    let first = NewReading {
        id: Uuid::now_v7(),
        job_id: p.job,
        visit_id: visit.id,
        station_id: station,
        instrument_id: instrument,
        consultant_id: p.person,
        value: NewValue::Surface(Temperature::new(12.5).unwrap()),
        as_typed: "12.5".into(),
        questions: String::new(),
        replaces: None,
        taken_at: now(),
    };
    assert_eq!(scope.keep_reading(&first).await.unwrap(), Kept::Stored);
    assert_eq!(scope.keep_reading(&first).await.unwrap(), Kept::Already, "sent twice it is stored once");
    let correction = NewReading { id: Uuid::now_v7(), replaces: Some((first.id, "misread".into())), ..first.clone() };
    assert_eq!(scope.keep_reading(&correction).await.unwrap(), Kept::Stored);
    let rival = NewReading { id: Uuid::now_v7(), ..correction.clone() };
    assert_eq!(scope.keep_reading(&rival).await.unwrap(), Kept::CorrectedByOther);
    scope.commit().await.unwrap();
    let rows = p.scope().await.reading_rows(&[visit.id]).await.unwrap();
    assert_eq!(rows.iter().map(|r| r.id).collect::<Vec<_>>(), [first.id, correction.id], "nothing is overwritten");
    // How the job stands is looked through again when what it was read with is checked, not when anything else is.
    let stale = async || p.scope().await.stale_standings(9).await.unwrap().0;
    let of = stale().await[0];
    p.keep(async |scope| scope.keep_standings(&[Standing { of, worst: Worst::Dry, readings: 2 }]).await).await;
    let other = Instrument { id: Uuid::now_v7(), ..hygrometer() };
    p.keep(async |scope| scope.add_instrument(other.clone()).await).await;
    p.keep(async |scope| scope.keep_salt_check(salt_check(&p, other.id)).await).await;
    assert!(stale().await.is_empty());
    p.keep(async |scope| scope.keep_salt_check(salt_check(&p, instrument)).await).await;
    assert_eq!(stale().await.len(), 1);
}

/// A salt check that begins.
fn salt_check(p: &Practice, instrument_id: Uuid) -> SaltCheck {
    SaltCheck {
        id: Uuid::now_v7(),
        instrument_id,
        consultant_id: p.person,
        salts: vec!["sodium_chloride".into()],
        started_at: "2026-03-01T08:00:00Z".parse().unwrap(),
        ended_at: None,
        t_c: None,
        shown: None,
        rh_slope: None,
        rh_offset_pct: None,
        max_residual_pct: None,
        note: String::new(),
    }
}

#[tokio::test]
async fn a_job_is_given_back_as_it_was_kept_and_no_deeper_than_asked() {
    let p = Practice::new(&store().await, "one@x.example").await;
    let station = p.building().await.stations[0].id;
    let open = visit(&p);
    p.keep(async |scope| scope.start_visit(open.clone()).await).await;
    let skip = Skip {
        id: Uuid::now_v7(),
        job_id: p.job,
        visit_id: open.id,
        station_id: station,
        consultant_id: p.person,
        reason: "a wasps' nest".into(),
        skipped_at: now(),
        removed: false,
    };
    let test = TestRun {
        id: Uuid::now_v7(),
        job_id: p.job,
        visit_id: Some(open.id),
        consultant_id: p.person,
        test: "plastic_sheet".into(),
        result: None,
        note: String::new(),
        started_at: now(),
        ended_at: None,
        spot: Spot::Whole,
        removed: false,
    };
    let step = StepDecision {
        id: plan_row_id(p.job, "step film"),
        job_id: p.job,
        fix: "film".into(),
        stage: Some("now".into()),
        override_reason: String::new(),
        left_out: String::new(),
        done_on: Some(NaiveDate::from_ymd_opt(2026, 3, 4).unwrap()),
        proof: String::new(),
        updated_by: p.person,
        updated_at: now(),
        removed: false,
    };
    let figure = TypedFigure {
        id: plan_row_id(p.job, "figure film area"),
        job_id: p.job,
        fix: "film".into(),
        name: "area".into(),
        value: "42.5".into(),
        updated_by: p.person,
        updated_at: now(),
        removed: false,
    };
    p.keep(async |scope| scope.keep_skip(&p.act("Skipped"), skip.clone()).await).await;
    p.keep(async |scope| scope.keep_test(&p.act("Set up a test"), test.clone()).await).await;
    let (decided, typed) = (p.act("Decided"), p.act("Typed over"));
    p.keep(async |scope| scope.keep_plan_step(&decided, step.clone()).await).await;
    p.keep(async |scope| scope.keep_plan_figures(&typed, vec![figure.clone()]).await).await;

    let plan = p.file(Depth::Plan).await;
    assert_eq!((plan.skips, plan.tests), (vec![skip], vec![test]));
    assert_eq!(plan.plan.steps, [StepDecision { updated_at: decided.at, ..step }]);
    assert_eq!(plan.plan.figures, [TypedFigure { updated_at: typed.at, ..figure }]);
    assert_eq!(plan.people.get(&p.person).map(String::as_str), Some("Someone"));
    let visit = p.file(Depth::Visit).await;
    assert_eq!((visit.plan.steps.len(), visit.conclusions.len(), visit.tests.len()), (0, 0, 1));
    let kinds: Vec<&str> = plan.undoable.iter().map(|u| u.table.as_str()).collect();
    assert!(["skip", "test_run", "plan_step", "plan_figure"].iter().all(|k| kinds.contains(k)), "{kinds:?}");
    assert_eq!(p.undo(typed.id).await, Undone::Done);
    assert!(p.file(Depth::Plan).await.plan.figures.is_empty(), "back to what the job knows");
}

#[tokio::test]
async fn a_place_and_the_whole_building_each_have_one_conclusion() {
    let p = Practice::new(&store().await, "one@x.example").await;
    let space = Some(p.building().await.spaces[0].id);
    let concluded = |space, causes| NewConclusion { space, causes, computed: &["soil_evaporation"], reason: "seen" };
    let acts = [p.act("Concluded"), p.act("Concluded"), p.act("Concluded again")];
    for (act, place, causes) in [
        (&acts[0], None, &["soil_evaporation"] as &[&str]),
        (&acts[1], space, &["plumbing_leak"]),
        (&acts[2], space, &["plumbing_leak", "rain_entry"]),
    ] {
        p.keep(async |scope| scope.keep_conclusion(act, &concluded(place, causes)).await).await;
    }
    let causes = async || {
        let mut all: Vec<Conclusion> = p.file(Depth::Argument).await.conclusions;
        all.sort_by_key(|c| c.space_id);
        all.into_iter().map(|c| (c.space_id, c.causes.join(" "))).collect::<Vec<_>>()
    };
    let whole = (None, "soil_evaporation".to_owned());
    let place = |causes: &str| (space, causes.to_owned());
    assert_eq!(causes().await, [whole.clone(), place("plumbing_leak rain_entry")]);
    assert_eq!(p.undo(acts[2].id).await, Undone::Done);
    assert_eq!(causes().await, [whole.clone(), place("plumbing_leak")]);
    let withdrawn = p.act("Withdrew");
    p.keep(async |scope| scope.withdraw_conclusion(&withdrawn, space).await).await;
    assert_eq!(causes().await, std::slice::from_ref(&whole));
    assert_eq!(p.undo(withdrawn.id).await, Undone::Done);
    assert_eq!(causes().await, [whole, place("plumbing_leak")]);
}

#[tokio::test]
async fn what_is_due_comes_soonest_first_and_only_of_jobs_on_the_docket() {
    let p = Practice::new(&store().await, "one@x.example").await;
    let day = NaiveDate::from_ymd_opt(2026, 3, 1).unwrap();
    let due = |name: &str, days: u64, state| FollowUpRecord {
        id: Uuid::now_v7(),
        job_id: p.job,
        what: "look_again".into(),
        name: name.into(),
        note: String::new(),
        begun_on: day,
        due_on: day + Days::new(days),
        state,
        reason: String::new(),
        updated_by: p.person,
        updated_at: now(),
        removed: false,
    };
    let all = vec![
        due("in a year", 365, FollowUpState::Open),
        due("in a week", 7, FollowUpState::Open),
        due("done", 1, FollowUpState::Done),
        due("in a month", 30, FollowUpState::Open),
    ];
    p.keep(async |scope| scope.keep_follow_ups(&p.act("Put on the calendar"), all).await).await;
    let names = async |until, from, most| {
        let (rows, count) = p.scope().await.open_follow_ups(until, from, most).await.unwrap();
        (rows.into_iter().map(|r| r.name).collect::<Vec<_>>().join(", "), count)
    };
    assert_eq!(names(None, 0, 2).await, ("in a week, in a month".into(), 3));
    assert_eq!(names(None, 2, 2).await, ("in a year".into(), 3));
    assert_eq!(names(Some(day + Days::new(30)), 0, 9).await, ("in a week, in a month".into(), 2));
    p.keep(async |scope| scope.remove_job(&p.act("Removed")).await).await;
    assert_eq!(names(None, 0, 9).await, (String::new(), 0));
}

#[tokio::test]
async fn a_salt_check_counts_from_its_end_and_is_never_changed_after() {
    let p = Practice::new(&store().await, "one@x.example").await;
    let meter = hygrometer();
    p.keep(async |scope| scope.add_instrument(meter.clone()).await).await;
    let running = salt_check(&p, meter.id);
    let end = running.started_at + chrono::Duration::hours(8);
    let ended = SaltCheck {
        ended_at: Some(end),
        t_c: Some(25.0),
        rh_slope: Some(1.0),
        rh_offset_pct: Some(-3.0),
        ..running.clone()
    };
    let rewritten = SaltCheck { rh_offset_pct: Some(9.0), ..ended.clone() };
    let corrected = async |at| p.scope().await.instruments_at(at).await.unwrap()[0].corrected(78.3);
    p.keep(async |scope| scope.keep_salt_check(running).await).await;
    assert_eq!(corrected(end).await, 78.3, "while it runs nothing is known");
    for check in [ended, rewritten] {
        p.keep(async |scope| scope.keep_salt_check(check).await).await;
    }
    assert_eq!(corrected(end - chrono::Duration::seconds(1)).await, 78.3);
    assert_eq!(corrected(end).await, 75.3, "as it ended, whatever was sent after");
}
