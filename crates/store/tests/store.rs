//! The store alone, over a database of its own: no page, no browser.
#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs, reason = "tests")]

use building::{Building, Climate, Edit, Spot, Structure, blueprint};
use chrono::{DateTime, Duration, SubsecRound, Utc};
use hygrothermal::quantity::Temperature;
use std::sync::atomic::{AtomicU32, Ordering};
use store::{
    Act, Depth, FindingRecord, JobEdit, Kept, NewJob, NewPractice, NewReading, NewValue, Person, Revision, Scope,
    Store, StoreError, Undone, Visit,
};
use tokio::process::Command;
use uuid::Uuid;

static COUNT: AtomicU32 = AtomicU32::new(0);

/// A database of the throw-away cluster with its tables made, as the role that serves.
async fn store() -> Store {
    let base = std::env::var("GUTTERAL_TEST_DATABASE").expect("run the tests with ./gutteral test");
    let name = format!("s{}_{}", std::process::id(), COUNT.fetch_add(1, Ordering::Relaxed));
    let made = Command::new("psql").args(["-X", "-q", &base, "-c", &format!("create database {name}")]).status().await;
    assert!(made.unwrap().success());
    let owner = format!("{}/{name}", base.rsplit_once('/').unwrap().0);
    let store = Store::connect(&owner.replace("//gutteral:", "//gutteral_app:")).await.unwrap();
    store::migrate(&owner, &store.role().await.unwrap()).await.unwrap();
    store
}

/// A practice with one person and one crawl-space job.
struct Practice {
    store: Store,
    id: Uuid,
    person: Uuid,
    job: Uuid,
    secret: String,
}

fn edit(name: &str) -> JobEdit {
    JobEdit { name: name.into(), address: String::new(), climate: Climate::Mixed, design_outdoor_c: -10.0 }
}

impl Practice {
    async fn new(store: &Store, email: &str) -> Self {
        let [id, person, job] = [Uuid::now_v7(), Uuid::now_v7(), Uuid::now_v7()];
        let someone = Person { id: person, email: email.into(), name: "Someone".into(), password_hash: "x".into() };
        let new = NewPractice { id, name: "Practice".into(), time_zone: "UTC".into(), person: someone };
        let scope = store.create_practice(new).await.unwrap();
        let building = blueprint(Structure::CrawlVented).unwrap().build(Uuid::now_v7);
        let opened = NewJob {
            id: job,
            edit: edit("House"),
            structure: Structure::CrawlVented,
            created_by: person,
            created_at: now(),
        };
        assert!(scope.create_job(&opened, &building).await.unwrap());
        scope.open_session(person, email, now()).await.unwrap();
        scope.commit().await.unwrap();
        Self { store: store.clone(), id, person, job, secret: email.into() }
    }

    async fn scope(&self) -> Scope {
        self.store.practice(self.id).await.unwrap()
    }

    fn act(&self, what: &str) -> Act {
        Act::new(Uuid::now_v7(), self.job, self.person, now(), what)
    }

    async fn revision(&self) -> Revision {
        self.store.signed_in(&self.secret, now(), Some(self.job)).await.unwrap().unwrap().revision
    }

    async fn building(&self) -> Building {
        self.scope().await.job_file(self.job, Depth::Visit).await.unwrap().unwrap().building
    }

    fn finding(&self, spot: Spot) -> FindingRecord {
        FindingRecord {
            id: Uuid::now_v7(),
            job_id: self.job,
            visit_id: None,
            consultant_id: self.person,
            what: "soil_bare".into(),
            severity: 2,
            value: None,
            note: String::new(),
            absent: false,
            found_at: now(),
            gone_at: None,
            spot,
            removed: false,
        }
    }
}

fn now() -> DateTime<Utc> {
    Utc::now().trunc_subsecs(6)
}

#[tokio::test]
async fn a_practice_sees_only_its_own_whatever_it_asks_for() {
    let store = store().await;
    let (one, other) = (Practice::new(&store, "one@x.example").await, Practice::new(&store, "other@x.example").await);
    let scope = one.scope().await;
    assert!(scope.job_file(other.job, Depth::Plan).await.unwrap().is_none());
    assert!(scope.job(other.job).await.unwrap().is_none());
    assert!(!scope.hold_job(other.job).await.unwrap());
    assert_eq!(scope.jobs_page("", 0, 10).await.unwrap().1, 1);
    // Written under another's job, it has nowhere to go.
    let stray = FindingRecord { job_id: other.job, ..one.finding(Spot::Whole) };
    let act = Act { job: other.job, ..one.act("Found") };
    assert!(scope.keep_finding(&act, stray).await.is_err());
    drop(scope);
    assert!(other.scope().await.job_file(other.job, Depth::Plan).await.unwrap().unwrap().findings.is_empty());
}

#[tokio::test]
async fn what_is_sent_twice_is_done_once_and_an_id_of_another_job_is_refused() {
    let store = store().await;
    let p = Practice::new(&store, "one@x.example").await;
    let (finding, act) = (p.finding(Spot::Whole), p.act("Found"));
    for _ in 0..2 {
        let scope = p.scope().await;
        scope.keep_finding(&act, finding.clone()).await.unwrap();
        scope.commit().await.unwrap();
    }
    let file = p.scope().await.job_file(p.job, Depth::Visit).await.unwrap().unwrap();
    assert_eq!(file.findings.len(), 1);
    assert_eq!(p.scope().await.changes(p.job, None).await.unwrap().len(), 2, "the opening and one act");
    let again = NewJob {
        id: p.job,
        edit: edit("Another"),
        structure: Structure::Attic,
        created_by: p.person,
        created_at: now(),
    };
    let building = blueprint(Structure::Attic).unwrap().build(Uuid::now_v7);
    assert!(!p.scope().await.create_job(&again, &building).await.unwrap());
    let elsewhere = Act { job: Uuid::now_v7(), ..act };
    assert!(matches!(p.scope().await.acted(elsewhere.job, elsewhere.id).await, Err(StoreError::IdTaken(_))));
}

#[tokio::test]
async fn an_act_is_undone_unless_something_changed_since() {
    let store = store().await;
    let p = Practice::new(&store, "one@x.example").await;
    let renames = [p.act("Renamed"), p.act("Renamed again")];
    for (act, name) in renames.iter().zip(["Mill", "Old mill"]) {
        let scope = p.scope().await;
        scope.edit_job(act, &edit(name)).await.unwrap();
        scope.commit().await.unwrap();
    }
    let name = async || p.scope().await.job(p.job).await.unwrap().unwrap().name;
    let undo = async |id| {
        let scope = p.scope().await;
        let undone = scope.undo(&p.act("Undid"), id).await.unwrap();
        scope.commit().await.unwrap();
        undone
    };
    assert!(matches!(undo(renames[0].id).await, Undone::Blocked(_)), "the later name stands in the way");
    assert_eq!(undo(renames[1].id).await, Undone::Done);
    assert_eq!(name().await, "Mill");
    assert_eq!(undo(renames[1].id).await, Undone::Done, "done before");
    assert_eq!(undo(renames[0].id).await, Undone::Done, "nothing stands in the way any more");
    assert_eq!(name().await, "House");
    assert_eq!(undo(Uuid::now_v7()).await, Undone::Unknown);
    let file = p.scope().await.job_file(p.job, Depth::Visit).await.unwrap().unwrap();
    assert!(file.undoable.is_empty(), "an undoing is not offered to be undone: {:?}", file.undoable);
}

#[tokio::test]
async fn a_space_taken_away_comes_back_with_all_that_hung_on_it() {
    let store = store().await;
    let p = Practice::new(&store, "one@x.example").await;
    let before = p.building().await;
    let gone = before.spaces.last().unwrap().id;
    let after = before.edited(&Edit::RemoveSpace(gone)).unwrap();
    let act = p.act("Removed a space");
    let scope = p.scope().await;
    scope.keep_building(&act, &after).await.unwrap();
    scope.commit().await.unwrap();
    assert_eq!(p.building().await, after);
    let scope = p.scope().await;
    assert_eq!(scope.undo(&p.act("Undid"), act.id).await.unwrap(), Undone::Done);
    scope.commit().await.unwrap();
    assert_eq!(p.building().await, before);
}

#[tokio::test]
async fn a_reading_is_appended_and_corrected_only_once() {
    let store = store().await;
    let p = Practice::new(&store, "one@x.example").await;
    let station = p.building().await.stations[0].id;
    let scope = p.scope().await;
    let instrument = Uuid::now_v7();
    let visit = Visit { id: Uuid::now_v7(), job_id: p.job, consultant_id: p.person, started_at: now(), ended_at: None };
    assert_eq!(scope.start_visit(visit.clone()).await.unwrap().id, visit.id);
    let another = Visit { id: Uuid::now_v7(), ..visit.clone() };
    assert_eq!(scope.start_visit(another).await.unwrap().id, visit.id, "one visit is open at a time");
    scope
        .add_instrument(store::Instrument {
            id: instrument,
            name: "Thermometer".into(),
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
        })
        .await
        .unwrap();
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
}

#[tokio::test]
async fn a_revision_moves_with_what_changes_and_with_nothing_else() {
    let store = store().await;
    let p = Practice::new(&store, "one@x.example").await;
    let stranger = Practice::new(&store, "other@x.example").await;
    let (before, others) = (p.revision().await, stranger.revision().await);
    assert_eq!(p.revision().await, before, "looking changes nothing");
    let scope = p.scope().await;
    scope.keep_finding(&p.act("Found"), p.finding(Spot::Whole)).await.unwrap();
    assert_eq!(p.revision().await, before, "not committed, not there");
    scope.commit().await.unwrap();
    let found = p.revision().await;
    assert_ne!(found, before);
    let scope = p.scope().await;
    scope.set_preferences(p.person, "us", "paper").await.unwrap();
    scope.commit().await.unwrap();
    assert_ne!(p.revision().await, found, "what all jobs of the practice share");
    assert_eq!(stranger.revision().await, others, "and of nobody else's");
}

#[tokio::test]
async fn a_session_ends_when_it_is_signed_out_or_runs_out() {
    let store = store().await;
    let p = Practice::new(&store, "one@x.example").await;
    let who = async |at| store.signed_in(&p.secret, at, None).await.unwrap();
    assert_eq!(who(now()).await.unwrap().consultant_id, p.person);
    assert!(store.signed_in("guessed", now(), None).await.unwrap().is_none());
    assert!(who(now() + Duration::days(15)).await.is_none(), "it ran out");
    assert!(who(now() + Duration::days(10)).await.is_some(), "used in its second half, it goes on");
    assert!(who(now() + Duration::days(20)).await.is_some());
    store.sign_out(&p.secret).await.unwrap();
    assert!(who(now()).await.is_none());
}
