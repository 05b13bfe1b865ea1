//! Drying: a flooded room set up, read on a phone for days, a stopped point explained, a cavity certified; what is wrong is named.

use crate::harness::client::Caller;
use crate::harness::{Browser, Site};
use chrono::{Duration, Utc};
use gutteral::demo::ENTRY;
use reqwest::StatusCode;
use uuid::Uuid;

/// A moment so many days ago, as a form without a signal carries it.
fn days_ago(days: f64) -> String {
    (Utc::now() - Duration::seconds((days * 86_400.0) as i64)).timestamp_millis().to_string()
}

/// The address of a point of the job, by its name.
async fn point(site: &Site, name: &str) -> String {
    site.text(&format!("select id::text from drying where said ->> 'is' = 'point' and said ->> 'name' = '{name}'"))
        .await
}

/// The meter and the hygrometer of the practice that drives.
async fn instruments(site: &Site) -> [String; 2] {
    let of = async |serial: &str| {
        let ask = "select i.id::text from instrument i join practice p on p.practice_id = i.practice_id where p.name like 'Ostley%' and i.serial";
        site.text(&format!("{ask} = '{serial}'")).await
    };
    [of("MM-31").await, of("TH-204").await]
}

#[tokio::test(flavor = "multi_thread")]
async fn a_flooded_room_is_set_up_read_on_a_phone_and_closed_in() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Traveling").await;
    let browser = Browser::signed_in(&site).await;
    browser.go(&site, &format!("{job}/drying")).await;
    browser.shows("What got wet, which points").await;
    let a_week_ago = (Utc::now() - Duration::days(7)).format("%Y-%m-%dT08:00").to_string();
    let set = "document.querySelector(arguments[0]).value = arguments[1]";
    let choose = async |css: &str, value: &str| {
        browser.driver.execute(set, vec![css.into(), value.into()]).await.unwrap();
    };
    choose("#at", &a_week_ago).await;
    choose("#stopped", &a_week_ago).await;
    choose("#which_water", "clean").await;
    choose("#spread", "room").await;
    browser.click("input[name^='space.']").await;
    choose("tbody tr:nth-child(1) select", "softwood").await;
    browser.fill("tbody tr:nth-child(1) input[name^=count]", "1").await;
    choose("tbody tr:nth-child(2) select", "drywall").await;
    browser.fill("tbody tr:nth-child(2) input[name^=count]", "1").await;
    browser.press("Start drying").await;
    // A meter's own scale without a dry standard says nothing: it is asked for, and what was typed stays.
    browser.shows("says nothing without a dry standard").await;
    assert_eq!(browser.value("#spread").await, "room");
    browser.fill("tbody tr:nth-child(2) input[name^=standard]", "140").await;
    browser.press("Start drying").await;
    browser.shows("No round yet.").await;
    let names = "select string_agg(said ->> 'name', '|' order by said ->> 'order') from drying d join job j on j.id = d.job_id \
        where said ->> 'is' = 'point' and j.name like 'Traveling%'";
    let names = site.text(names).await;
    let (wood, board) = names.split_once('|').unwrap();
    let (wood_id, board_id) = (point(&site, wood).await, point(&site, board).await);
    let [meter, hygrometer] = instruments(&site).await;
    let space = site.text(&format!("select said ->> 'space_id' from drying where id = '{wood_id}'")).await;
    let round = async |ago: f64, shows: [&str; 2]| {
        let fields = [
            ("id".to_owned(), Uuid::now_v7().to_string()),
            ("at".into(), days_ago(ago)),
            ("meter".into(), meter.clone()),
            ("hygrometer".into(), hygrometer.clone()),
            (format!("air.{space}"), "21".into()),
            (format!("rh.air.{space}"), "45".into()),
            (format!("moisture.{wood_id}"), shows[0].into()),
            (format!("moisture.{board_id}"), shows[1].into()),
        ];
        let fields: Vec<(&str, &str)> = fields.iter().map(|(k, v)| (k.as_str(), v.as_str())).collect();
        caller.post(&format!("{job}/drying/round"), &fields).await
    };
    for (ago, shows) in [(6.0, ["22", "620"]), (5.0, ["18", "440"]), (4.0, ["15", "352"])] {
        assert_eq!(round(ago, shows).await.status, StatusCode::SEE_OTHER);
    }
    // Three readings name a day.
    let page = caller.get(&format!("{job}/drying")).await.body;
    assert!(page.contains("The last point is at its goal about"), "{page}");
    for (ago, shows) in [(3.0, ["13", "340"]), (2.0, ["11.6", "338"]), (1.5, ["11", "341"])] {
        assert_eq!(round(ago, shows).await.status, StatusCode::SEE_OTHER);
    }
    // The last on a phone; what is typed is still there when the page was lost.
    browser.viewport(390, 844).await;
    browser.go(&site, &format!("{job}/drying/round")).await;
    browser.fill(&format!("[name='moisture.{board_id}']"), "339").await;
    browser.fill(&format!("[name='moisture.{wood_id}']"), "wet?").await;
    browser.go(&site, &format!("{job}/drying")).await;
    browser.go(&site, &format!("{job}/drying/round")).await;
    browser.shows("2 of 5").await;
    assert_eq!(browser.value(&format!("[name='moisture.{board_id}']")).await, "339");
    // What cannot be read is asked for again, the rest is stored.
    browser.press("Save the round").await;
    browser.shows("The rest is stored.").await;
    let stored = format!("drying_reading where of_id = '{board_id}'");
    assert_eq!(site.count(&stored).await, 7);
    browser.fill(&format!("[name='moisture.{wood_id}']"), "10.8").await;
    browser.press("Save the round").await;
    browser.shows("stands still").await;
    assert_eq!(site.count(&stored).await, 7, "what stands already is not stored twice");
    // Nothing moves the air there, and the order to look is the trade's.
    browser.press(board).await;
    browser.shows("3. No air moves there").await;
    browser.shows("1. Water still comes. The source is said to be stopped.").await;
    // The wood was at its goal twice, a day apart: it may be closed in, and what is certified stays as it was.
    browser.viewport(1280, 800).await;
    browser.go(&site, &format!("{job}/drying")).await;
    browser.press("Certify").await;
    browser.shows("may be closed in").await;
    browser.fill("#remark", "Fan left running overnight").await;
    browser.press("Issue the certificate").await;
    browser.shows("Ready to close in:").await;
    browser.shows("serial MM-31 (checked").await;
    let issued = browser.path().await;
    assert_eq!(round(0.0, ["28", "339"]).await.status, StatusCode::SEE_OTHER);
    assert!(caller.get(&issued).await.body.contains("Fan left running overnight"));
    assert!(site.refuses("update certificate set cavity = 'other'").await);
    let page = caller.get(&format!("{job}/drying")).await.body;
    assert!(!page.contains(">Certify<") && page.contains("rose"), "{page}");
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn what_cannot_be_in_a_drying_job_is_named_and_nothing_is_lost() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("School archive").await;
    let at = format!("{job}/drying");
    let item = format!("{at}/item");
    let ask = "select s.id::text from space s join job j on j.id = s.job_id \
        where s.name = 'Archive' and j.name = 'School archive'";
    let space = site.text(ask).await;
    let send = async |fields: &[(&str, &str)]| {
        let id = Uuid::now_v7().to_string();
        let all: Vec<(&str, &str)> =
            [("id", id.as_str()), ("space", space.as_str())].iter().chain(fields).copied().collect();
        caller.post(&item, &all).await
    };
    let refused = async |fields: &[(&str, &str)], said: &str| {
        let before = site.count("drying").await;
        let answer = send(fields).await;
        assert_eq!(answer.status, StatusCode::UNPROCESSABLE_ENTITY, "{fields:?}");
        assert!(answer.body.contains(said), "{said}: {}", answer.body);
        assert_eq!(site.count("drying").await, before);
        answer.body
    };
    let machine = [("what", "machine"), ("kind", "compressor"), ("name", "Third one"), ("rated", "12")];
    let backwards = [&machine[..], &[("from", "2026-03-02T08:00"), ("until", "2026-03-01T08:00")]].concat();
    let page = refused(&backwards, "It stopped before it started.").await;
    assert!(page.contains("value=\"Third one\""), "what was typed stays");
    refused(&[("what", "machine"), ("kind", "compressor"), ("name", "x")], "What does its label say").await;
    let board = [("what", "point"), ("name", "Board"), ("cavity", "Partition"), ("material", "drywall")];
    refused(&board, "says nothing without a dry standard").await;
    refused(&[&board[..], &[("standard", "140"), ("goal", "120")]].concat(), "it will not get drier than that").await;
    refused(&[("what", "points"), ("cavity", "Floor"), ("material", "softwood"), ("lines", "a; 11\nb; x")], "Line 2")
        .await;
    refused(
        &[
            ("what", "sheet"),
            ("name", "s"),
            ("kind", "depths"),
            ("t0", "20"),
            ("rh0", "80"),
            ("d0", "4"),
            ("t1", "19"),
            ("rh1", "90"),
            ("d1", "2"),
        ],
        "lies under the shallow one",
    )
    .await;
    refused(&[&board[..], &[("standard", "many")]].concat(), "is not a number").await;
    // Many at once, and the same form twice adds them once.
    let id = Uuid::now_v7().to_string();
    let lines: String = (1..=40).map(|n| format!("stud {n}; 11\n")).collect();
    let many = [
        ("id", id.as_str()),
        ("what", "points"),
        ("space", &space),
        ("cavity", "Floor"),
        ("material", "softwood"),
        ("lines", &lines),
    ];
    let before = site.count("drying").await;
    let both = tokio::join!(caller.post(&item, &many), caller.post(&item, &many));
    assert_eq!((both.0.status, both.1.status), (StatusCode::SEE_OTHER, StatusCode::SEE_OTHER));
    assert_eq!(site.count("drying").await, before + 40);
    // A goal that the air cannot reach is named where the point stands, and it is kept.
    let plate = point(&site, "Bottom plate, bay 2").await;
    let low = [
        ("what", "point"),
        ("of", plate.as_str()),
        ("name", "Bottom plate, bay 2"),
        ("cavity", "Partition"),
        ("material", "softwood"),
        ("goal", "6"),
    ];
    assert_eq!(send(&low).await.status, StatusCode::SEE_OTHER);
    let page = caller.get(&format!("{at}/points/{plate}")).await.body;
    assert!(page.contains("stands still") && page.contains("It settles at"), "{page}");
    // A round read before is corrected with a reason only.
    let ask = format!("select round_id::text from drying_reading where of_id = '{plate}' order by taken_at limit 1");
    let round = site.text(&ask).await;
    // Another figure than stands, whatever the demo read that morning.
    let figure = format!(
        "select (a + 1)::numeric(9, 1)::text from drying_reading where of_id = '{plate}' order by taken_at limit 1"
    );
    let figure = site.text(&figure).await;
    let correct = async |reason: &str| {
        let key = format!("moisture.{plate}");
        caller.post(&format!("{at}/round"), &[("id", &round), (&key, &figure), ("reason", reason)]).await
    };
    let readings = site.count("drying_reading").await;
    assert!(correct("").await.body.contains("Say why what was read before is corrected."));
    assert_eq!(site.count("drying_reading").await, readings);
    assert_eq!(correct("typed the neighbor’s").await.status, StatusCode::SEE_OTHER);
    assert!(caller.get(&format!("{at}/points/{plate}")).await.body.contains("corrected: typed the neighbor’s"));
    assert!(site.refuses("delete from drying_reading").await);
    // Nobody else gets there.
    let stranger = Caller::signed_in(&site, "odd@low-harbor.example").await;
    for path in ["", "/setup", "/round", "/item?what=machine", "/certificate?cavity=0", &format!("/points/{plate}")] {
        assert_eq!(stranger.get(&format!("{at}{path}")).await.status, StatusCode::NOT_FOUND, "{path}");
    }
    for path in ["/setup", "/round", "/item", "/certificate"] {
        let fields = [("id", id.as_str()), ("what", "machine"), ("act", "remove"), ("of", plate.as_str())];
        assert_eq!(stranger.post(&format!("{at}{path}"), &fields).await.status, StatusCode::NOT_FOUND, "{path}");
    }
}
