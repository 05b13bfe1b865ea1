//! Pictures: added, marked, moved, told, and never somebody else's.

use crate::harness::client::{Answer, Caller, hidden, link};
use crate::harness::wire::{Mode, Wire};
use crate::harness::{Browser, Site};
use gutteral::demo::ENTRY;
use reqwest::StatusCode;
use reqwest::multipart::{Form, Part};
use std::time::Duration;
use thirtyfour::prelude::*;
use uuid::Uuid;

/// A picture on this machine's disk, as a camera leaves one.
fn file(name: &str, scene: &str) -> std::path::PathBuf {
    let path = std::env::temp_dir().join(format!("gutteral-{}-{name}", std::process::id()));
    std::fs::write(&path, stand_ins::sketch(scene, 3).unwrap()).unwrap();
    path
}

async fn choose(browser: &Browser, path: &std::path::Path) {
    browser.find("input[type=file]").await.send_keys(path.to_str().unwrap()).await.unwrap();
}

/// Waits until a picture has really been painted.
async fn painted(browser: &Browser, css: &str) {
    browser.find(css).await;
    let script = format!(
        "const done = arguments[0]; const look = () => {{ const i = document.querySelector({css:?}); \
         i?.scrollIntoView(); i?.complete && i.naturalWidth > 0 ? done(1) : setTimeout(look, 50); }}; look();"
    );
    browser.driver.execute_async(script, vec![]).await.unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn a_photo_is_added_marked_dragged_to_its_finding_and_stands_in_the_report() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    browser.press("School archive").await;
    browser.place("Findings").await;
    browser.place("Photos").await;
    browser.shows("At the drain, 3 cm").await;
    browser.fill("#note", "Rim <beside> the stair").await;
    choose(&browser, &file("rim.png", "rim")).await;
    browser.press("Add").await;
    painted(&browser, ".album li:last-child img[alt*='Rim <beside> the stair']").await;
    assert_eq!(site.count("photo where note = 'Rim <beside> the stair'").await, 1);
    assert_eq!(site.count("photo_file").await % 3, 0, "three files each");

    // An arrow by mouse, a circle by keyboard, each with words.
    browser.click(".album a:has(img[alt*='Rim <beside>'])").await;
    browser.shows("About it").await;
    painted(&browser, "#stage img").await;
    browser.click("[data-draw=arrow]").await;
    let stage = browser.find("#stage svg").await;
    let chain = browser.driver.action_chain().move_to_element_with_offset(&stage, -120, 60).click_and_hold();
    chain.move_to_element_with_offset(&stage, 100, -40).release().perform().await.unwrap();
    browser.find("#marks li input").await.send_keys("soft here").await.unwrap();
    browser.find("[data-draw=circle]").await.send_keys(Key::Enter + "").await.unwrap();
    let words = browser.find("#marks li:nth-child(2) input").await;
    words.send_keys(Key::Right + Key::Right + Key::Down).await.unwrap();
    words.send_keys("probe").await.unwrap();
    browser.press("Save").await;
    browser.shows("Add a photo").await;
    let marks = site.text("select marks from photo where note = 'Rim <beside> the stair'").await;
    let marks: serde_json::Value = serde_json::from_str(&marks).unwrap();
    assert_eq!(marks[1], serde_json::json!({"kind": "circle", "at": [520, 385], "r": 100, "words": "probe"}));
    let (from, to) = (&marks[0]["from"], &marks[0]["to"]);
    assert!(from[0].as_i64() < to[0].as_i64() && from[1].as_i64() > to[1].as_i64(), "up to the right: {marks}");

    // Dragged onto a finding, all in view so that nothing scrolls meanwhile; then taken back.
    browser.viewport(1280, 1800).await;
    let shot = browser.find(".album a:has(img[alt*='Rim <beside>'])").await;
    let row = "//li[@data-drop][contains(., 'Loose wallpaper') or contains(., 'Wallpaper')]";
    let target = browser.driver.query(By::XPath(row)).first().await.unwrap();
    let shown = "photo p join finding f on f.id = p.finding_id where f.what = 'wallpaper_loose'";
    browser.drag(&shot, &target).await;
    browser.find(".album a:has(img[alt*='allpaper']) strong").await;
    assert_eq!(site.count(shown).await, 1);
    browser.shows("Moved a photo").await;
    browser.press("Undo").await;
    browser.find(".album img[alt^='Photo of the whole building: Rim']").await;
    assert_eq!(site.count(shown).await, 0, "back where it was");

    // At a finding itself, it is the finding's at once.
    browser.place("Findings").await;
    browser.click(".findings a").await;
    browser.shows("Save").await;
    choose(&browser, &file("slab.png", "slab")).await;
    painted(&browser, "li a .shot img").await;
    assert_eq!(site.count("photo where finding_id is not null and name like 'gutteral-%slab.png'").await, 1);

    browser.press("Report").await;
    painted(&browser, "article li img[alt*='Rim <beside>']").await;
    browser.shows("soft here").await;
    browser.quit().await;
}

async fn send(caller: &Caller, site: &Site, job: &str, fields: &[(&str, &str)], file: Vec<u8>) -> Answer {
    let mut form = Form::new();
    for (name, value) in fields {
        form = form.text((*name).to_owned(), (*value).to_owned());
    }
    form = form.part("photo", Part::bytes(file).file_name("IMG_0001.JPG"));
    caller.send(caller.http.post(format!("{}{job}/photos", site.base)).multipart(form)).await
}

#[tokio::test(flavor = "multi_thread")]
async fn what_is_no_picture_is_refused_in_words_and_a_picture_sent_twice_is_there_once() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Mill keeper").await;
    let before = site.count("photo").await;
    let id = Uuid::now_v7().to_string();
    let fields = [("csrf", caller.token.as_str()), ("id", &id), ("note", "kept <words>")];
    for (file, said) in [
        (b"<svg onload='alert(1)'/>".to_vec(), "no JPEG, PNG or WebP"),
        (Vec::new(), "The file is empty"),
        (vec![0xFF; photograph::MOST_BYTES + 1], "20 MB at most"),
        (stand_ins::sketch("rim", 1).unwrap()[..9000].to_vec(), "damaged or cut off"),
    ] {
        let refused = send(&caller, &site, &job, &fields, file).await;
        assert_eq!(refused.status, StatusCode::UNPROCESSABLE_ENTITY);
        assert!(refused.body.contains(said) && refused.body.contains("kept &#60;words&#62;"), "{said}");
    }
    let picture = stand_ins::sketch("rim", 1).unwrap();
    let over = send(&caller, &site, &job, &fields, vec![0; photograph::MOST_BYTES + 2 * 1024 * 1024]).await;
    assert_eq!(over.status, StatusCode::PAYLOAD_TOO_LARGE);
    // Without our token, or signed out, nothing is kept but the words, with a place to choose the file again.
    let stale =
        send(&caller, &site, &job, &[("csrf", "x"), ("id", &id), ("note", "kept <words>")], picture.clone()).await;
    assert_eq!(stale.status, StatusCode::FORBIDDEN);
    assert!(stale.body.contains("kept &#60;words&#62;") && stale.body.contains("The file again"), "{}", stale.body);
    assert_eq!(site.count("photo").await, before);
    let (one, two) = tokio::join!(
        send(&caller, &site, &job, &fields, picture.clone()),
        send(&caller, &site, &job, &fields, picture.clone())
    );
    assert!(one.status == StatusCode::SEE_OTHER || two.status == StatusCode::SEE_OTHER);
    let again = send(&caller, &site, &job, &fields, picture).await;
    assert_eq!((again.status, again.location), (StatusCode::SEE_OTHER, format!("{job}/photos")));
    assert_eq!(site.count("photo").await, before + 1);
    assert_eq!(site.count(&format!("photo_file where photo_id = '{id}'")).await, 3);
    assert!(site.refuses("update photo_file set bytes = 'x'").await, "a file is never changed");
}

#[tokio::test(flavor = "multi_thread")]
async fn pictures_of_one_practice_are_nobody_elses() {
    let site = Site::start().await;
    let owner = Caller::signed_in(&site, ENTRY).await;
    let thief = Caller::signed_in(&site, "odd@low-harbor.example").await;
    let job = owner.job("Mill keeper").await;
    let own = thief.job("Net loft").await;
    let photo = link(&owner.get(&format!("{job}/photos")).await.body, &format!("{job}/photos/"));
    let id = photo.rsplit('/').next().unwrap().to_owned();
    for path in [photo.clone(), format!("{photo}/thumb"), format!("{photo}/view"), format!("{photo}/original")] {
        let answer = owner.get(&path).await;
        assert_eq!(answer.status, StatusCode::OK, "{path}");
        if path != photo {
            assert!(answer.headers["content-type"].to_str().unwrap().starts_with("image/"));
            assert_eq!(answer.headers["cache-control"], "private, no-cache", "asked for again after signing out");
        }
        assert_eq!(thief.get(&path).await.status, StatusCode::NOT_FOUND, "{path}");
        let through = path.replace(&job, &own);
        assert_eq!(
            thief.get(&through).await.status,
            StatusCode::NOT_FOUND,
            "nor through a job of one's own: {through}"
        );
    }
    let act = Uuid::now_v7().to_string();
    let remove = [("id", act.as_str()), ("act", "remove")];
    assert_eq!(thief.post(&photo, &remove).await.status, StatusCode::NOT_FOUND);
    let fields = [("csrf", thief.token.as_str()), ("id", &act), ("place", &id)];
    let sent = send(&thief, &site, &job, &fields, stand_ins::sketch("rim", 1).unwrap()).await;
    assert_eq!(sent.status, StatusCode::NOT_FOUND);
    // A place of another practice is no place: the picture is kept, of one's own whole building.
    let finding = hidden(&owner.get(&photo).await.body, "seen");
    let fields = [("csrf", thief.token.as_str()), ("id", &act), ("place", &finding)];
    assert_eq!(
        send(&thief, &site, &own, &fields, stand_ins::sketch("rim", 1).unwrap()).await.status,
        StatusCode::SEE_OTHER
    );
    assert_eq!(site.count(&format!("photo where id = '{act}' and finding_id is null")).await, 1);
    // Removed, it is gone for its owner too, until it is restored.
    let act = Uuid::now_v7().to_string();
    assert_eq!(owner.post(&photo, &[("id", act.as_str()), ("act", "remove")]).await.status, StatusCode::SEE_OTHER);
    assert_eq!(owner.get(&format!("{photo}/view")).await.status, StatusCode::NOT_FOUND);
    let undo = Uuid::now_v7().to_string();
    owner.post(&format!("{job}/undo"), &[("id", undo.as_str()), ("change", act.as_str())]).await;
    assert_eq!(owner.get(&format!("{photo}/view")).await.status, StatusCode::OK);
}

#[tokio::test(flavor = "multi_thread")]
async fn photos_taken_without_a_signal_wait_in_view_and_arrive_once() {
    let mut site = Site::start().await;
    let wire = Wire::to(site.base.trim_start_matches("http://").parse().unwrap()).await;
    site.base.clone_from(&wire.base);
    let browser = Browser::signed_in(&site).await;
    browser.viewport(390, 844).await;
    browser.press("School archive").await;
    browser.press("Visit").await;
    browser.find("#carry[data-done]").await;
    let place = browser.find("#add-photo [name=place]").await.prop("value").await.unwrap().unwrap();
    wire.set(Mode::Cut);
    choose(&browser, &file("slab.png", "slab")).await;
    browser.shows("1 waiting").await;
    painted(&browser, ".kept-photos img").await;
    browser.driver.refresh().await.unwrap();
    painted(&browser, ".kept-photos img").await;
    browser.press("Add a finding here").await;
    browser.place("Photos").await;
    browser.driver.query(By::Css("#photo[multiple]")).first().await.unwrap();
    let two = [file("rim.png", "rim"), file("ribs.png", "ribs")].map(|p| p.to_str().unwrap().to_owned());
    browser.find("#photo").await.send_keys(two.join("\n")).await.unwrap();
    browser.press("Add").await;
    browser.shows("3 waiting").await;
    browser.click("#waiting").await;
    browser.shows("waits for a signal").await;
    assert_eq!(browser.driver.find_all(By::Css(".waiting-photo")).await.unwrap().len(), 3);
    let before = site.count("photo").await;
    // The server keeps the first, and its answer is lost on the way.
    wire.set(Mode::LosesAnswers);
    let sync = "window.dispatchEvent(new Event('online')); arguments[0]();";
    let stored = async || site.count("photo").await - before;
    for _ in 0..600 {
        browser.driver.execute_async(sync, vec![]).await.unwrap();
        if stored().await > 0 {
            break;
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    wire.set(Mode::Whole);
    browser.driver.execute_async(sync, vec![]).await.unwrap();
    let none = browser.driver.query(By::XPath("//body[contains(., 'Nothing waits')]"));
    none.wait(Duration::from_mins(1), Duration::from_millis(100)).exists().await.unwrap();
    assert_eq!(stored().await, 3, "each once");
    assert_eq!(site.count(&format!("photo where space_id = '{place}' or surface_id = '{place}'")).await, 1);
    browser.quit().await;
}
