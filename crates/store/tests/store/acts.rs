//! Acts on a job: done once, undone, and whose turn it is.

use super::*;
use building::Edit;
use store::{PhotoSize, Sought, Standing, Worst};

#[tokio::test]
async fn what_is_sent_twice_is_done_once_and_an_id_of_another_job_is_refused() {
    let store = store().await;
    let p = Practice::new(&store, "one@x.example").await;
    let (finding, act) = (p.finding(Spot::Whole), p.act("Found"));
    for _ in 0..2 {
        p.keep(async |scope| scope.keep_finding(&act, finding.clone()).await).await;
    }
    let file = p.file(Depth::Visit).await;
    assert_eq!(file.findings.len(), 1);
    assert_eq!(p.scope().await.changes(p.job, None).await.unwrap().len(), 2, "the opening and one act");
    let again = NewJob {
        id: p.job,
        edit: edit("Another"),
        structure: Structure::Attic,
        rehearsal: false,
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
        p.keep(async |scope| scope.edit_job(act, &edit(name)).await).await;
    }
    let name = async || p.scope().await.job(p.job).await.unwrap().unwrap().name;
    assert!(matches!(p.undo(renames[0].id).await, Undone::Blocked(_)), "the later name stands in the way");
    assert_eq!(p.undo(renames[1].id).await, Undone::Done);
    assert_eq!(name().await, "Mill");
    assert_eq!(p.undo(renames[1].id).await, Undone::Done, "done before");
    assert_eq!(p.undo(renames[0].id).await, Undone::Done, "nothing stands in the way any more");
    assert_eq!(name().await, "House");
    assert_eq!(p.undo(Uuid::now_v7()).await, Undone::Unknown);
    let file = p.file(Depth::Visit).await;
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
    p.keep(async |scope| scope.keep_building(&act, &after).await).await;
    assert_eq!(p.building().await, after);
    assert_eq!(p.undo(act.id).await, Undone::Done);
    assert_eq!(p.building().await, before);
}

#[tokio::test]
async fn two_who_undo_the_same_at_once_undo_it_once() {
    let p = Practice::new(&store().await, "one@x.example").await;
    let renamed = p.act("Renamed");
    p.keep(async |scope| scope.edit_job(&renamed, &edit("Mill")).await).await;
    let both = tokio::join!(p.undo(renamed.id), p.undo(renamed.id));
    assert_eq!(both, (Undone::Done, Undone::Done));
    let changes = p.scope().await.changes(p.job, None).await.unwrap();
    assert_eq!(changes.iter().filter(|c| c.undoes == Some(renamed.id)).count(), 1);
    assert_eq!(p.scope().await.job(p.job).await.unwrap().unwrap().name, "House");
}

#[tokio::test]
async fn an_undoing_is_undone_in_its_turn_and_nothing_old_is() {
    let p = Practice::new(&store().await, "one@x.example").await;
    let (renamed, undid, again) = (p.act("Renamed"), p.act("Undid"), p.act("Did it again"));
    p.keep(async |scope| scope.edit_job(&renamed, &edit("Mill")).await).await;
    p.keep(async |scope| scope.undo(&undid, renamed.id).await).await;
    assert_eq!(p.keep(async |scope| scope.undo(&again, undid.id).await).await, Undone::Done);
    assert_eq!(p.scope().await.job(p.job).await.unwrap().unwrap().name, "Mill");
    let late = Act { at: now() + chrono::Duration::days(store::RESTORABLE_DAYS + 1), ..p.act("Undid") };
    assert_eq!(p.keep(async |scope| scope.undo(&late, again.id).await).await, Undone::TooOld);
}

#[tokio::test]
async fn what_others_need_meanwhile_is_not_undone_from_under_them() {
    let p = Practice::new(&store().await, "one@x.example").await;
    let before = p.building().await;
    let new = Uuid::now_v7();
    let added = building::Space { id: new, name: "Pantry".into(), ..before.spaces[0].clone() };
    let with = Building { spaces: [before.spaces.clone(), vec![added]].concat(), ..before.clone() };
    let (adding, finding) =
        (p.act("Added a space"), FindingRecord { spot: Spot::Space(new), ..p.finding(Spot::Whole) });
    p.keep(async |scope| scope.keep_building(&adding, &with).await).await;
    p.keep(async |scope| scope.keep_finding(&p.act("Found"), finding.clone()).await).await;
    let mended = FindingRecord { gone_at: Some(now()), ..finding };
    p.keep(async |scope| scope.keep_finding(&p.act("Mended"), mended).await).await;
    // The space itself was not touched since: it goes, and what was found stays on record.
    assert_eq!(p.undo(adding.id).await, Undone::Done);
    assert_eq!(p.building().await, before);
    let file = p.file(Depth::Visit).await;
    assert_eq!(file.findings.len(), 1);
    assert_eq!(file.findings[0].spot, Spot::Space(new));
}

#[tokio::test]
async fn a_job_taken_off_the_docket_is_found_by_nobody_until_it_is_put_back() {
    let p = Practice::new(&store().await, "one@x.example").await;
    let named = JobEdit { address: "3 Weir Lane, 100 % damp".into(), ..edit("Mill keeper") };
    p.keep(async |scope| scope.edit_job(&p.act("Named"), &named).await).await;
    let found = async |words: &str| {
        let sought = Sought { words: words.to_owned(), ..Sought::default() };
        p.scope().await.docket(&sought, p.person, 0, 10).await.unwrap().1
    };
    for (words, count) in [("", 1), ("weir MILL", 1), ("weir attic", 0), ("100 %", 1), ("_", 0)] {
        assert_eq!(found(words).await, count, "{words:?}");
    }
    let removed = p.act("Removed the job");
    p.keep(async |scope| scope.remove_job(&removed).await).await;
    assert_eq!(found("").await, 0);
    assert!(p.scope().await.job_file(p.job, Depth::Visit).await.unwrap().is_none());
    let gone = p.scope().await.removed_jobs(removed.at).await.unwrap();
    assert_eq!(gone.iter().map(|(job, change)| (job.id, *change)).collect::<Vec<_>>(), [(p.job, removed.id)]);
    assert_eq!(p.undo(removed.id).await, Undone::Done);
    assert_eq!(found("weir").await, 1);
    assert!(p.scope().await.removed_jobs(removed.at).await.unwrap().is_empty());
}

#[tokio::test]
async fn a_picture_comes_goes_and_comes_back_with_its_files() {
    let store = store().await;
    let (p, other) = (Practice::new(&store, "one@x.example").await, Practice::new(&store, "other@x.example").await);
    let photo = store::Photo {
        id: Uuid::now_v7(),
        job_id: p.job,
        visit_id: None,
        consultant_id: p.person,
        finding_id: None,
        name: "rim.jpg".into(),
        note: String::new(),
        marks: serde_json::json!([]),
        media_type: "image/jpeg".into(),
        width: 3,
        height: 2,
        bytes: 4,
        taken_at: now(),
        spot: Spot::Whole,
        removed: false,
    };
    let files = [(PhotoSize::Original, vec![1, 2, 3, 4]), (PhotoSize::View, vec![5]), (PhotoSize::Thumb, vec![6])];
    let added = p.act("Added a photo");
    for _ in 0..2 {
        p.keep(async |scope| scope.add_photo(&added, photo.clone(), files.clone()).await).await;
    }
    let file = async |who: &Practice, size| {
        let file = who.scope().await.photo_file(who.job, photo.id, size).await.unwrap();
        file.map(|(known, bytes)| (known.name, bytes))
    };
    assert_eq!(p.file(Depth::Visit).await.photos, std::slice::from_ref(&photo));
    assert_eq!(file(&p, PhotoSize::Original).await, Some(("rim.jpg".into(), vec![1, 2, 3, 4])));
    assert_eq!(file(&p, PhotoSize::Thumb).await, Some(("rim.jpg".into(), vec![6])));
    assert_eq!(file(&other, PhotoSize::Original).await, None, "of nobody else's job");
    let removed = p.act("Removed a photo");
    let gone = store::Photo { removed: true, ..photo.clone() };
    p.keep(async |scope| scope.keep_photo(&removed, gone).await).await;
    assert_eq!(file(&p, PhotoSize::View).await, None);
    assert!(p.file(Depth::Visit).await.photos.is_empty());
    assert_eq!(p.undo(removed.id).await, Undone::Done);
    assert_eq!(file(&p, PhotoSize::View).await, Some(("rim.jpg".into(), vec![5])));
}

#[tokio::test]
async fn a_job_is_pinned_for_one_archived_for_all_and_looked_through_again_once_it_changed() {
    let p = Practice::new(&store().await, "one@x.example").await;
    let listed = async |sought: Sought, who: Uuid| p.scope().await.docket(&sought, who, 0, 10).await.unwrap().0;
    let scope = p.scope().await;
    scope.pin(p.job, p.person, true).await.unwrap();
    scope.pin(p.job, p.person, true).await.unwrap();
    scope.commit().await.unwrap();
    assert!(listed(Sought::default(), p.person).await[0].pinned);
    assert!(!listed(Sought::default(), Uuid::now_v7()).await[0].pinned, "of another’s docket");
    let seen = async || p.scope().await.stale_standings(10).await.unwrap().0;
    let of = seen().await[0];
    assert_eq!(of.job, p.job);
    let standing = Standing { of, worst: Worst::MoldRisk, readings: 3 };
    p.keep(async |scope| scope.keep_standings(&[standing]).await).await;
    assert!(seen().await.is_empty());
    let mold = Sought { worst: Some(Worst::MoldRisk), ..Sought::default() };
    assert_eq!(listed(mold.clone(), p.person).await[0].readings, 3);
    p.keep(async |scope| scope.edit_job(&p.act("Named"), &edit("Weir lodge")).await).await;
    let of = seen().await[0];
    // Changed once more while it was looked at: what is kept is what it was, and it is looked at again.
    p.keep(async |scope| scope.edit_job(&p.act("Named"), &edit("Mill lodge")).await).await;
    p.keep(async |scope| scope.keep_standings(&[Standing { of, ..standing }]).await).await;
    let of = seen().await[0];
    p.keep(async |scope| scope.keep_standings(&[Standing { of, ..standing }]).await).await;
    assert!(seen().await.is_empty());
    let archived = p.act("Put it in the archive");
    p.keep(async |scope| scope.archive_job(&archived, true).await).await;
    p.keep(async |scope| scope.archive_job(&p.act("Again"), true).await).await;
    assert!(listed(Sought::default(), p.person).await.is_empty());
    let archive = Sought { archived: true, ..mold };
    assert_eq!(listed(archive.clone(), p.person).await[0].job.name, "Mill lodge");
    assert_eq!(p.undo(archived.id).await, Undone::Done);
    assert!(listed(archive, p.person).await.is_empty() && listed(Sought::default(), p.person).await.len() == 1);
}
