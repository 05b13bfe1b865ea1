//! The store alone, over a database of its own: no page, no browser.
#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs, reason = "tests")]

mod acts;
mod logs;
mod records;
mod settings;

use building::{Building, Climate, Spot, Structure, blueprint};
use chrono::{DateTime, SubsecRound, Utc};
use std::sync::atomic::{AtomicU32, Ordering};
use store::{
    Act, Depth, FindingRecord, JobEdit, JobRecords, NewJob, NewPractice, Person, Revision, Scope, Site, Store,
    StoreError, Undone,
};
use tokio::process::Command;
use uuid::Uuid;

static COUNT: AtomicU32 = AtomicU32::new(0);

/// A database of the throw-away cluster with its tables made, as the role that serves.
async fn store() -> Store {
    let owner = database().await;
    let store = Store::connect(&served(&owner)).await.unwrap();
    store::migrate(&owner, &store.role().await.unwrap()).await.unwrap();
    store
}

/// A database as the role that serves, from the address of its owner.
fn served(owner: &str) -> String {
    owner.replace("//gutteral:", "//gutteral_app:")
}

/// An empty database, as its owner.
async fn database() -> String {
    let base = std::env::var("GUTTERAL_TEST_DATABASE").expect("run the tests with ./gutteral test");
    let name = format!("s{}_{}", std::process::id(), COUNT.fetch_add(1, Ordering::Relaxed));
    let made = Command::new("psql").args(["-X", "-q", &base, "-c", &format!("create database {name}")]).status().await;
    assert!(made.unwrap().success());
    format!("{}/{name}", base.rsplit_once('/').unwrap().0)
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
    JobEdit {
        name: name.into(),
        address: String::new(),
        climate: Climate::Mixed,
        design_outdoor_c: -10.0,
        site: Site::default(),
    }
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
            rehearsal: false,
            created_by: person,
            created_at: now(),
        };
        assert!(scope.create_job(&opened, &building).await.unwrap());
        scope.open_session(person, email, now(), &store::Device::default()).await.unwrap();
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

    async fn file(&self, depth: Depth) -> JobRecords {
        self.scope().await.job_file(self.job, depth).await.unwrap().unwrap()
    }

    async fn building(&self) -> Building {
        self.file(Depth::Visit).await.building
    }

    /// Does something and keeps it.
    async fn keep<T>(&self, work: impl AsyncFnOnce(&Scope) -> Result<T, StoreError>) -> T {
        let scope = self.scope().await;
        let outcome = work(&scope).await.unwrap();
        scope.commit().await.unwrap();
        outcome
    }

    async fn undo(&self, id: Uuid) -> Undone {
        let act = self.act("Undid");
        self.keep(async |scope| scope.undo(&act, id).await).await
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
