//! The walls between practices, and what a practice settles once for all its jobs.

use super::*;
use chrono::Duration;
use store::{PracticeAct, Setting, Sought};

#[tokio::test]
async fn a_practice_sees_only_its_own_whatever_it_asks_for() {
    let store = store().await;
    let (one, other) = (Practice::new(&store, "one@x.example").await, Practice::new(&store, "other@x.example").await);
    let scope = one.scope().await;
    assert!(scope.job_file(other.job, Depth::Plan).await.unwrap().is_none());
    assert!(scope.job(other.job).await.unwrap().is_none());
    assert!(!scope.hold_job(other.job).await.unwrap());
    assert_eq!(scope.docket(&Sought::default(), one.person, 0, 10).await.unwrap().1, 1);
    // Written under another's job, it has nowhere to go.
    let stray = FindingRecord { job_id: other.job, ..one.finding(Spot::Whole) };
    let act = Act { job: other.job, ..one.act("Found") };
    assert!(scope.keep_finding(&act, stray).await.is_err());
    drop(scope);
    assert!(other.scope().await.job_file(other.job, Depth::Plan).await.unwrap().unwrap().findings.is_empty());
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
    p.keep(async |scope| scope.set_preferences(p.person, "us", "paper", "es").await).await;
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

#[tokio::test]
async fn who_could_pull_down_the_walls_does_not_serve() {
    let owner = database().await;
    let store = Store::connect(&served(&owner)).await.unwrap();
    // Two processes that start at once both see the tables made.
    let role = store.role().await.unwrap();
    let (one, other) = tokio::join!(store::migrate(&owner, &role), store::migrate(&owner, &role));
    assert!(one.is_ok() && other.is_ok(), "{one:?} {other:?}");
    assert!(store.is_current().await.unwrap());
    assert!(matches!(Store::connect(&owner).await, Err(StoreError::OwnsTables(who)) if who == "gutteral"));
    let superuser = owner.replace("//gutteral:", "//cluster:");
    assert!(matches!(Store::connect(&superuser).await, Err(StoreError::TooPowerful(who)) if who == "cluster"));
}

#[tokio::test]
async fn a_price_goes_back_to_what_it_was_unless_it_was_settled_anew() {
    let p = Practice::new(&store().await, "one@x.example").await;
    let settle = async |changes: &[(Setting, Option<&str>)]| {
        let act = PracticeAct { id: Uuid::now_v7(), by: p.person, at: now() };
        let changes = changes.iter().map(|(s, to)| (s.clone(), to.map(str::to_owned))).collect();
        p.keep(async |scope| scope.settle(act, changes).await).await;
        act.id
    };
    let undo = async |id| {
        let act = PracticeAct { id: Uuid::now_v7(), by: p.person, at: now() };
        p.keep(async |scope| scope.undo_practice_change(act, id).await).await
    };
    let film = || Setting::Price("film".into());
    let first = settle(&[(film(), Some("250")), (Setting::Currency, Some("USD"))]).await;
    let second = settle(&[(film(), Some("300"))]).await;
    settle(&[(film(), Some("300"))]).await;
    let book = async || p.scope().await.price_book().await.unwrap();
    assert_eq!((book().await.cents["film"], book().await.currency.as_str()), (300, "USD"));
    assert_eq!(p.scope().await.practice_changes().await.unwrap().len(), 2, "the same again is no change");
    assert_eq!(undo(first).await, Some(vec![film()]), "settled anew since");
    assert_eq!(undo(second).await, Some(vec![]));
    assert_eq!(undo(second).await, Some(vec![]), "done before");
    assert_eq!(book().await.cents["film"], 250);
    assert_eq!(undo(first).await, Some(vec![]));
    assert_eq!(book().await, store::PriceBook::default());
    assert_eq!(undo(Uuid::now_v7()).await, None);
    settle(&[(Setting::School("vents".into()), Some("closed"))]).await;
    assert_eq!(p.file(Depth::Plan).await.practice_schools["vents"], "closed");
}

#[tokio::test]
async fn many_who_are_counted_at_once_each_get_a_sum_of_their_own() {
    let store = store().await;
    let (window, at) = (Duration::minutes(10), now());
    let counts = (0..20).map(|_| {
        let store = store.clone();
        tokio::spawn(async move { store.count_under("somebody", 1.0, window, at).await.unwrap() })
    });
    let mut sums = Vec::new();
    for count in counts.collect::<Vec<_>>() {
        sums.push(count.await.unwrap());
    }
    sums.sort_by(f64::total_cmp);
    assert_eq!(sums, (1..=20).map(f64::from).collect::<Vec<_>>());
    let count = async |who: &str, at| store.count_under(who, 1.0, window, at).await.unwrap();
    assert_eq!(count("another", at).await, 1.0);
    assert_eq!(count("somebody", at + Duration::minutes(9)).await, 21.0);
    assert_eq!(count("somebody", at + Duration::minutes(11)).await, 1.0, "a window later it begins again");
    store.forget_count("somebody").await.unwrap();
    assert_eq!(count("somebody", at).await, 1.0);
}

#[tokio::test]
async fn a_calendar_reads_its_own_practice_until_it_is_shut_out() {
    let store = store().await;
    let (p, other) = (Practice::new(&store, "one@x.example").await, Practice::new(&store, "other@x.example").await);
    for _ in 0..2 {
        p.keep(async |scope| scope.open_feed("a secret address", p.person, now()).await).await;
    }
    let reader = store.feed_reader("a secret address", now()).await.unwrap().expect("opened");
    assert!(reader.job(p.job).await.unwrap().is_some() && reader.job(other.job).await.unwrap().is_none());
    reader.commit().await.unwrap();
    assert!(store.feed_reader("a guessed address", now()).await.unwrap().is_none());
    let feeds = p.scope().await.feeds().await.unwrap();
    assert!(feeds.len() == 1 && feeds[0].read_at.is_some() && !feeds[0].key.contains("secret"));
    assert!(other.scope().await.feeds().await.unwrap().is_empty());
    other.keep(async |scope| scope.revoke_feed(&feeds[0].key, now()).await).await;
    assert!(store.feed_reader("a secret address", now()).await.unwrap().is_some(), "nobody else shuts it out");
    p.keep(async |scope| scope.revoke_feed(&feeds[0].key, now()).await).await;
    assert!(store.feed_reader("a secret address", now()).await.unwrap().is_none());
}
