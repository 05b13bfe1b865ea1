//! Thermal pictures: brought in, read against the room's air, set on one scale, confirmed by a station.

use crate::harness::client::{Answer, Caller};
use crate::harness::{Browser, Site};
use calc::answer;
use gutteral::demo::ENTRY;
use reqwest::StatusCode;
use reqwest::multipart::{Form, Part};
use serde_json::json;
use std::fmt::Write;
use thirtyfour::prelude::*;
use uuid::Uuid;

/// A ceiling at 18 °C with a cold box of 6 by 4 cells, as a camera's program saves it: a head, kelvin, a decimal comma.
fn ceiling() -> String {
    let mut file = String::from("Temperature [K]\nrows;12\n\n");
    for row in 0..12 {
        let cell = |column: usize| {
            let cold = (3..7).contains(&row) && (8..14).contains(&column);
            format!("{:.2}", if cold { 8.0 } else { 18.0 + 0.01 * column as f64 } + 273.15).replace('.', ",")
        };
        writeln!(file, "{}", (0..20).map(cell).collect::<Vec<_>>().join(";")).unwrap();
    }
    file
}

async fn send(caller: &Caller, job: &str, id: &str, file: Vec<u8>, more: &[(&str, &str)]) -> Answer {
    let mut form = Form::new().text("csrf", caller.token.clone()).text("id", id.to_owned());
    for (name, value) in more {
        form = form.text((*name).to_owned(), (*value).to_owned());
    }
    let form = form.part("file", Part::bytes(file).file_name("ceiling.csv"));
    caller.send(caller.http.post(caller.url(&format!("{job}/thermal"))).multipart(form)).await
}

async fn kept(site: &Site) -> [i64; 2] {
    [site.count("thermal").await, site.count("thermal_cells").await]
}

/// The demo's ceiling tells a slipped batt from a leak, and the pair what was mended.
#[tokio::test(flavor = "multi_thread")]
async fn the_stand_in_cameras_ceiling_tells_a_slipped_batt_from_a_leak() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    browser.press("Mill keeper").await;
    browser.press("Visit").await;
    browser.place("Photos").await;
    browser.press("Thermal pictures").await;
    browser.press("Kitchen ceiling, a cold morning").await;
    browser.shows("stands under the dew point").await;
    let rows = browser.driver.find_all(By::Css("main table tbody tr")).await.unwrap();
    let mut told = Vec::new();
    for row in rows {
        told.push(row.text().await.unwrap());
    }
    // The batt is a box with sharp edges; the plume at the hatch is none, and stands beside it.
    assert!(told.len() >= 2 && told[0].contains("missing or slipped insulation"), "{told:?}");
    assert!(told.iter().skip(1).any(|t| t.contains("air leak") && t.contains("not wet")), "{told:?}");
    let lost = |t: &str| t.split(" W").next().and_then(|t| t.rsplit(' ').next()?.parse::<f64>().ok());
    assert!(lost(&told[0]).is_some_and(|w| w > 10.0), "{told:?}");
    browser.find("#with option:nth-child(2)").await.click().await.unwrap();
    browser.press("Show").await;
    browser.find("figure:nth-of-type(2) image[href*='with=']").await;
    // Once a test settled it, the latest picture is evidence; and a photo stands beside it.
    browser.press("Thermal pictures").await;
    browser.press("Kitchen ceiling, batt put back").await;
    browser.shows("Settled: air leak").await;
    browser.find("#settled option[value=missing_insulation]").await.click().await.unwrap();
    browser.find("#photo option:nth-child(2)").await.click().await.unwrap();
    browser.press("Save").await;
    browser.shows("Settled: missing or slipped insulation").await;
    browser.find("figure a[href*='/photos/'] img").await;
    let job = browser.path().await.split("/thermal").next().unwrap().to_owned();
    browser.go(&site, &format!("{job}/why?cause=thermal_bridge")).await;
    browser.shows("A thermal picture showed missing insulation").await;
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_picture_says_what_is_under_the_dew_point_and_a_station_confirms_it() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Mill keeper").await;
    let before = kept(&site).await;
    let place = site.text("select id::text from boundary where name = 'Kitchen ceiling'").await;
    let id = Uuid::now_v7().to_string();
    let air = [
        ("name", "Kitchen ceiling"),
        ("place", place.as_str()),
        ("width", "2"),
        ("air_t", "20"),
        ("air_rh", "50"),
        ("outdoor", "-2"),
    ];
    for _ in 0..2 {
        let sent = send(&caller, &job, &id, ceiling().into_bytes(), &air).await;
        assert_eq!(sent.status, StatusCode::SEE_OTHER, "{}", sent.body);
    }
    assert_eq!(kept(&site).await, [before[0] + 1, before[1] + 1], "sent twice it is there once");
    let page = caller.get(&format!("{job}/thermal/{id}")).await.body;
    // As the headless interface reads it: 24 of 240 cells.
    let grid: Vec<Vec<f64>> = (0..12)
        .map(|r| {
            (0..20)
                .map(|c| if (3..7).contains(&r) && (8..14).contains(&c) { 8.0 } else { 18.0 + 0.01 * f64::from(c) })
                .collect()
        })
        .collect();
    let by_core =
        answer(&json!({"op": "thermal_grid", "grid_c": grid, "air": {"t_c": 20, "rh_pct": 50}, "outdoor_c": -2}));
    assert_eq!(by_core["share_wet"], json!(0.1));
    assert!(page.contains("10 % of it stands under the dew point, 10 % over 80 %"), "{page}");
    let factor = by_core["f_rsi_min"].as_f64().unwrap();
    assert!(page.contains(&format!("{factor:.2}")), "{factor}");
    // 2 m broad, so 0.01 m² a cell; the rest stands at 18.1 °C: 24 cells lose (18.1 − 8)/0.10 · 0.24 W upward (ISO 6946 film).
    let rest = grid.iter().flatten().filter(|t| **t > 10.0);
    let mean = rest.clone().sum::<f64>() / rest.count() as f64;
    assert!(page.contains(&format!("{:.0} W", (mean - 8.0) / 0.10 * 0.24)), "{page}");
    assert!(page.contains("0.24 m²") && page.contains("missing or slipped insulation"));
    let png = caller.http.get(caller.url(&format!("{job}/thermal/{id}/picture.png"))).send().await.unwrap();
    assert_eq!(png.headers()["content-type"], "image/png");
    assert!(png.bytes().await.unwrap().starts_with(b"\x89PNG"));
    // The coldest spot becomes a surface of the round.
    let act = Uuid::now_v7().to_string();
    let read =
        caller.post(&format!("{job}/thermal/{id}"), &[("id", act.as_str()), ("act", "station"), ("patch", "1")]).await;
    assert_eq!(read.status, StatusCode::SEE_OTHER, "{}", read.body);
    assert_eq!(site.count("surface where name = 'Cold spot 1, Kitchen ceiling'").await, 1);
    // A second one beside it, on one scale.
    let after = Uuid::now_v7().to_string();
    let typed = [("name", "After"), ("cells", "18 17.5\n16 17"), ("air_t", "20"), ("air_rh", "50"), ("outdoor", "14")];
    let form =
        typed.iter().fold(Form::new().text("csrf", caller.token.clone()).text("id", after.clone()), |f, (k, v)| {
            f.text((*k).to_owned(), (*v).to_owned())
        });
    let sent = caller.send(caller.http.post(caller.url(&format!("{job}/thermal"))).multipart(form)).await;
    assert_eq!(sent.status, StatusCode::SEE_OTHER, "{}", sent.body);
    let pair = caller.get(&format!("{job}/thermal/{id}?with={after}")).await.body;
    assert!(pair.contains("the pair says little") && pair.matches("/picture.png?with=").count() == 2, "{pair}");
    // Seen as a person does, taken away and taken back.
    let browser = Browser::signed_in(&site).await;
    browser.go(&site, &format!("{job}/photos")).await;
    browser.press("Thermal pictures").await;
    browser.press("After").await;
    browser.shows("All of it is dry").await;
    browser.press("Remove").await;
    browser.shows("Removed the thermal picture After").await;
    browser.press("Undo").await;
    browser.find("img[src*='/thermal/']").await;
    assert_eq!(site.count("thermal where removed_at is null").await, before[0] + 2);
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn what_is_no_thermal_picture_is_named_at_its_place() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Mill keeper").await;
    let before = kept(&site).await;
    let wide = ("20.5,".repeat(999) + "20.5\n").repeat(1500);
    for (file, more, said) in [
        (b"18,17\n18,17\n18\n".to_vec(), ("name", "x"), "line 3 has 1 cells, the first row 2"),
        (b"18,17\n18,17\n18,warm\n".to_vec(), ("name", "x"), "line 3, column 2 says “warm”"),
        (b"\x89PNG\r\n".to_vec(), ("name", "x"), "a picture, not a table"),
        (b"Date,Note\na,b\n".to_vec(), ("name", "x"), "no row of temperatures"),
        (b"900,901\n900,901\n".to_vec(), ("scale", "°C"), "temperature must be"),
        (wide.into_bytes(), ("name", "x"), "more than any camera"),
        (ceiling().into_bytes(), ("emissivity", "0.2"), "matte tape"),
        (ceiling().into_bytes(), ("width", "-3"), "more than 0"),
        (ceiling().into_bytes(), ("air_t", "warm"), "“warm” is not a number"),
        (ceiling().into_bytes(), ("air_t", "20"), "its temperature and its humidity"),
        (ceiling().into_bytes(), ("place", "nowhere"), "choose another"),
    ] {
        let sent = send(&caller, &job, &Uuid::now_v7().to_string(), file, &[more, ("note", "kept words")]).await;
        assert_eq!(sent.status, StatusCode::UNPROCESSABLE_ENTITY, "{said}: {}", sent.body);
        assert!(sent.body.contains(said) && sent.body.contains("kept words"), "{said}: {}", sent.body);
    }
    assert_eq!(kept(&site).await, before);
    // Nobody else's.
    let id = Uuid::now_v7().to_string();
    send(&caller, &job, &id, ceiling().into_bytes(), &[]).await;
    let stranger = Caller::signed_in(&site, "odd@low-harbor.example").await;
    for path in [format!("{job}/thermal"), format!("{job}/thermal/{id}"), format!("{job}/thermal/{id}/picture.png")] {
        assert_eq!(stranger.get(&path).await.status, StatusCode::NOT_FOUND, "{path}");
    }
    let theirs = stranger.job("Net loft").await;
    assert_eq!(stranger.get(&format!("{theirs}/thermal/{id}")).await.status, StatusCode::NOT_FOUND);
    let taken = send(&stranger, &job, &Uuid::now_v7().to_string(), ceiling().into_bytes(), &[]).await;
    assert_eq!(taken.status, StatusCode::NOT_FOUND);
    // The cells never change, even by SQL.
    assert!(site.refuses("update thermal_cells set cells = ''").await);
}

/// The survey is a walk: a stop ticked stands under Findings, one looked at and not there is kept as that, and the walk goes on where it was.
#[tokio::test(flavor = "multi_thread")]
async fn a_survey_is_ticked_stop_by_stop() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    browser.press("Warden").await;
    browser.press("Visit").await;
    browser.place("Photos").await;
    browser.press("Thermal pictures").await;
    browser.press("Thermal survey").await;
    browser.shows("colder by").await;
    let (seen, absent) = ("window_seal_failed", "register_leaks");
    let row = |what: &str| {
        format!("finding where what = '{what}' and job_id = (select id from job where name like 'Warden%')")
    };
    assert_eq!((site.count(&row(seen)).await, site.count(&row(absent)).await), (0, 0));
    browser.click(&format!("form:has(input[value={absent}]):has(input[name=absent]) button")).await;
    browser.shows("looked for, not there").await;
    browser.click(&format!("form:has(input[value={seen}]) button.button")).await;
    browser.find("a[href*='/findings?at=']").await;
    assert!(browser.path().await.ends_with("/thermal/survey"), "the walk goes on where it was");
    assert_eq!((site.count(&row(seen)).await, site.count(&format!("{} and absent", row(absent))).await), (1, 1));
    browser.quit().await;
}
