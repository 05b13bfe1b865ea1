//! What happens at the edge: forged, stale, doubled and braked requests, headers, files, and a database that goes away.

use crate::harness::Site;
use crate::harness::client::{Caller, first_choice, hidden};
use gutteral::cluster::{Cluster, Durability, Home};
use gutteral::demo::ENTRY;
use reqwest::StatusCode;
use uuid::Uuid;

#[tokio::test(flavor = "multi_thread")]
async fn a_post_without_our_token_or_from_another_site_changes_nothing() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Mill keeper").await;
    let id = Uuid::now_v7();
    for path in [
        "/jobs/new".to_owned(),
        "/preferences".into(),
        "/bench".into(),
        "/sign-out".into(),
        "/sign-in".into(),
        "/sign-in/demo".into(),
        format!("{job}/edit"),
        format!("{job}/visits"),
        format!("{job}/round"),
        format!("{job}/shorthand"),
        format!("{job}/visits/{id}/finish"),
        format!("{job}/visits/{id}/reopen"),
        format!("{job}/readings/{id}/correct"),
    ] {
        let stale = caller.post_bare(&path, &[("name", "typed <b>before</b>"), ("csrf", "bm9uc2Vuc2U")]).await;
        assert_eq!(stale.status, StatusCode::FORBIDDEN, "{path}");
        assert!(
            stale.body.contains("typed &#60;b&#62;before"),
            "what was typed is offered again, escaped: {}",
            stale.body
        );
    }
    let foreign = caller.http.post(format!("{}/preferences", site.base)).header("sec-fetch-site", "cross-site");
    let fields = [("csrf", caller.token.as_str()), ("units", "us"), ("back", "/")];
    let refused = caller.send(foreign.form(&fields)).await;
    assert_eq!(refused.status, StatusCode::FORBIDDEN);
    assert!(!refused.body.contains("Send it again"), "a foreign form is not offered again");
    assert_eq!(site.count("consultant where units = 'us'").await, 0);
    let away = caller.post("/preferences", &[("units", "us"), ("back", "//elsewhere.example/")]).await;
    assert_eq!((away.status, away.location.as_str()), (StatusCode::SEE_OTHER, "/"), "no redirect to another site");
}

#[tokio::test(flavor = "multi_thread")]
async fn a_form_outlives_its_session_and_a_double_click_stores_once() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let id = hidden(&caller.get("/jobs/new").await.body, "id");
    let form = [
        ("id", id.as_str()),
        ("name", "Ferry shed"),
        ("address", ""),
        ("structure", "cabin_skirted"),
        ("climate", "marine"),
        ("design", "-4"),
    ];
    caller.post("/sign-out", &[]).await;
    let lost = caller.post("/jobs/new", &form).await;
    assert_eq!(lost.status, StatusCode::UNAUTHORIZED);
    assert!(lost.body.contains("Ferry shed") && lost.body.contains("Send it again"), "{}", lost.body);
    caller.post("/sign-in", &[("email", ENTRY), ("password", gutteral::demo::PASSWORD)]).await;
    let (first, second) = tokio::join!(caller.post("/jobs/new", &form), caller.post("/jobs/new", &form));
    assert_eq!((first.location.as_str(), first.location.clone()), (second.location.as_str(), format!("/jobs/{id}")));
    assert_eq!(site.count(&format!("job where id = '{id}'")).await, 1);
    assert_eq!(site.count(&format!("space where job_id = '{id}'")).await, 3);

    let job = first.location;
    let visit = Uuid::now_v7().to_string();
    let start = [("id", visit.as_str())];
    let visits = format!("{job}/visits");
    tokio::join!(caller.post(&visits, &start), caller.post(&visits, &start));
    caller.post(&visits, &[("id", &Uuid::now_v7().to_string())]).await;
    assert_eq!(site.count(&format!("visit where job_id = '{id}'")).await, 1, "one open visit for each job");
    let line = [("id", visit.as_str()), ("line", "out -2 80 ; cabin room 17 60"), ("back", "section")];
    let path = format!("{job}/shorthand");
    let (a, b) = tokio::join!(caller.post(&path, &line), caller.post(&path, &line));
    assert!(a.status.is_redirection() && b.status.is_redirection());
    assert_eq!(site.count(&format!("reading where visit_id = '{visit}'")).await, 2);

    // Finished in one tab, typed in another: nothing is stored and nothing is lost.
    caller.post(&format!("{job}/visits/{visit}/finish"), &[]).await;
    let late = caller.post(&path, &[("id", &Uuid::now_v7().to_string()), ("line", "cabin room 18 62")]).await;
    assert_eq!(late.status, StatusCode::GONE);
    assert!(late.body.contains("cabin room 18 62") && late.body.contains("Send it again"), "{}", late.body);
    assert_eq!(site.count(&format!("reading where visit_id = '{visit}'")).await, 2);
    // A verdict fetched into the page after signing out says so in its place, and is not a whole page.
    let outsider = Caller::new(&site).await;
    let fetch = outsider.http.get(format!("{}{job}/shorthand?line=out", site.base)).header("hx-request", "true");
    let part = outsider.send(fetch).await.body;
    assert!(part.contains("signed out") && !part.contains("<html"), "{part}");

    // Two people correct the same reading: the second is told.
    let reading = site.text(&format!("select id from reading where visit_id = '{visit}' order by id limit 1")).await;
    let correct = format!("{job}/readings/{reading}/correct");
    let new = |id: Uuid| (id.to_string(), "misread the display");
    let (one, two) = (new(Uuid::now_v7()), new(Uuid::now_v7()));
    let fields = |x: &(String, &'static str)| {
        [("id", x.0.clone()), ("t", "-3".into()), ("m", "80".into()), ("kind", "rh".into()), ("reason", x.1.to_owned())]
    };
    let post = async |x: &(String, &'static str)| {
        let f = fields(x);
        let f: Vec<(&str, &str)> = f.iter().map(|(k, v)| (*k, v.as_str())).collect();
        caller.post(&correct, &f).await
    };
    assert!(post(&one).await.status.is_redirection());
    let late = post(&two).await;
    assert_eq!(late.status, StatusCode::CONFLICT);
    assert!(late.body.contains("corrected already") && late.body.contains("misread the display"));
}

#[tokio::test(flavor = "multi_thread")]
async fn guessing_passwords_is_braked_and_tells_nothing_of_who_exists() {
    let site = Site::start().await;
    let caller = Caller::new(&site).await;
    let guess = async |email: &str| caller.post("/sign-in", &[("email", email), ("password", "guess")]).await;
    let (known, unknown) = (guess(ENTRY).await, guess("nobody@nowhere.example").await);
    assert_eq!(known.status, unknown.status);
    assert_eq!(known.body.replace(ENTRY, ""), unknown.body.replace("nobody@nowhere.example", ""));
    for _ in 0..4 {
        guess(ENTRY).await;
    }
    let right = caller.post("/sign-in", &[("email", ENTRY), ("password", gutteral::demo::PASSWORD)]).await;
    assert_eq!(right.status, StatusCode::TOO_MANY_REQUESTS, "the right password waits too");
    assert!(right.body.contains("Wait ten minutes") && !right.body.contains(gutteral::demo::PASSWORD));
}

#[tokio::test(flavor = "multi_thread")]
async fn pages_carry_their_guards_and_sessions_are_secrets() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let page = caller.get("/docket").await;
    let header = |name: &str| page.headers[name].to_str().unwrap().to_owned();
    assert!(
        header("content-security-policy").contains("frame-ancestors 'none'")
            && !header("content-security-policy").contains("unsafe")
    );
    assert_eq!((header("x-frame-options"), header("x-content-type-options")), ("DENY".into(), "nosniff".into()));
    assert_eq!(
        (header("referrer-policy"), header("cache-control")),
        ("same-origin".into(), "private, no-store".into())
    );
    assert!(!header("x-request-id").is_empty());
    assert!(!page.body.contains("<script>") && !page.body.contains(" style="), "nothing inline");
    let entered = Caller::new(&site).await.post("/sign-in/demo", &[]).await;
    let cookie = entered.headers["set-cookie"].to_str().unwrap();
    assert!(cookie.contains("HttpOnly") && cookie.contains("SameSite=Lax"), "{cookie}");
    let secret = cookie.split(['=', ';']).nth(1).unwrap();
    assert_eq!(site.count(&format!("session where key_hash = '{secret}'")).await, 0, "only its hash is at rest");
    let asked = Caller::new(&site).await.get("/docket?x=1").await;
    assert_eq!((asked.status, asked.location.as_str()), (StatusCode::SEE_OTHER, "/sign-in?next=%2Fdocket%3Fx%3D1"));
}

#[tokio::test(flavor = "multi_thread")]
async fn files_name_their_units_and_are_safe_in_a_spreadsheet() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("School archive").await;
    let round = caller.get(&format!("{job}/round")).await.body;
    let (station, id) = (hidden(&round, "station"), Uuid::now_v7().to_string());
    let instrument = first_choice(&round, "instrument");
    let fields = [
        ("id", id.as_str()),
        ("station", &station),
        ("t", "-0.5"),
        ("instrument", &instrument),
        ("method", "temperature"),
        ("keep_anyway", "-0.5|||temperature"),
    ];
    assert!(caller.post(&format!("{job}/round"), &fields).await.status.is_redirection());
    let reason = [("id", &*Uuid::now_v7().to_string()), ("t", "13.4"), ("reason", "=HYPERLINK(\"http://x\")")];
    assert!(caller.post(&format!("{job}/readings/{id}/correct"), &reason).await.status.is_redirection());
    let report = caller.get(&format!("{job}/report")).await.location;
    let csv = caller.get(&report.replace("/report", "/readings.csv")).await;
    assert!(csv.headers["content-disposition"].to_str().unwrap().contains("school-archive-visit-3.csv"));
    let head = csv.body.lines().next().unwrap();
    for column in [
        "t_raw_c",
        "rh_raw_pct",
        "rh_pct",
        "dew_c",
        "margin_k",
        "margin_err_k",
        "surface_rh_pct",
        "verdict",
        "status",
        "wood_raw_pct",
        "wood_pct",
        "relative_scale",
    ] {
        assert!(head.split(',').any(|c| c == column), "{column} in {head}");
    }
    assert!(csv.body.contains("'=HYPERLINK"), "a formula is defused: {}", csv.body);
    assert!(csv.body.contains("'-0.5") && csv.body.contains(",-0.5,"), "typing is defused, figures are left alone");
    let (bus, empty) = (caller.job("Traveling").await, Uuid::now_v7().to_string());
    caller.post(&format!("{bus}/visits"), &[("id", &empty)]).await;
    let nothing = caller.get(&format!("{bus}/visits/{empty}/readings.csv")).await.body;
    assert_eq!(nothing.trim_end(), head, "a visit without readings still names its columns");
    let json: serde_json::Value =
        serde_json::from_str(&caller.get(&report.replace("/report", "/readings.json")).await.body).unwrap();
    let readings = json["readings"].as_array().unwrap();
    let by_status = |s: &str| readings.iter().filter(|r| r["status"] == s).count();
    assert_eq!((by_status("replaced"), by_status("stands")), (1, readings.len() - 1));
    let judged = readings.iter().find(|r| r["verdict"] == "mold_risk").unwrap();
    assert!(judged["surface_rh_pct"].as_f64().unwrap() >= 80.0 && judged["margin_k"].as_f64().unwrap() > 0.0);
}

#[tokio::test(flavor = "multi_thread")]
async fn an_instrument_is_added_with_the_accuracy_its_readings_will_carry() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let mut form = [
        ("name", "Probe <7>"),
        ("air_err", "0.2"),
        ("rh_err", "wide"),
        ("surface_err", "0,4"),
        ("offset", "-1.5"),
        ("wood_err", "2"),
    ];
    let refused = caller.post("/bench", &form).await;
    assert_eq!(refused.status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(refused.body.contains("A number from 0.1 to 50, got “wide”"), "{}", refused.body);
    assert!(refused.body.contains("say when it was") && refused.body.contains("Probe &#60;7&#62;"));
    form[2].1 = "1.5";
    let whole = [&form[..], &[("checked_on", "2026-01-05")]].concat();
    assert!(caller.post("/bench", &whole).await.status.is_redirection());
    let stored = "instrument where name = 'Probe <7>' and rh_err_pct = 1.5 and surface_err_k = 0.4 and rh_offset_pct = -1.5 and wood_err_pct = 2";
    assert_eq!(site.count(stored).await, 1);
}

#[tokio::test(flavor = "multi_thread")]
async fn a_salt_check_corrects_what_is_read_from_its_end_on() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Mill keeper").await;
    caller.post(&format!("{job}/visits"), &[("id", &Uuid::now_v7().to_string())]).await;
    let page = caller.get(&format!("{job}/round")).await.body;
    let station = hidden(&page, "station");
    let practice =
        site.text(&format!("select practice_id from job where id = '{}'", job.rsplit('/').next().unwrap())).await;
    let pocket_here =
        site.text(&format!("select id from instrument where serial = 'PK-17' and practice_id = '{practice}'")).await;
    let read = async |m: &str, at: &str| {
        let id = Uuid::now_v7().to_string();
        let fields = [
            ("id", id.as_str()),
            ("station", &station),
            ("t", "20"),
            ("m", m),
            ("instrument", &pocket_here),
            ("at", at),
        ];
        assert!(caller.post(&format!("{job}/round"), &fields).await.status.is_redirection());
        site.text(&format!("select round(rh_pct::numeric, 2) from reading where id = '{id}'")).await
    };
    let before = (chrono::Utc::now().timestamp_millis() - 3_600_000).to_string();
    assert_eq!(read("60", "").await, "60.00", "never checked: as it shows");
    let warned =
        caller.get(&format!("{job}/round/verdict?station={station}&instrument={pocket_here}&t=20&m=60")).await.body;
    assert!(warned.contains("never salt-checked"), "{warned}");
    let (bench, check) = (format!("/bench/{pocket_here}"), Uuid::now_v7().to_string());
    assert!(caller.post(&bench, &[("id", &check)]).await.body.contains("Choose one to 3 salts"));
    caller.post(&bench, &[("id", &check), ("salt.nacl", "1"), ("salt.mgcl2", "1")]).await;
    assert!(caller.get(&bench).await.body.contains("May be read from"), "twelve hours are running");
    let wrong = caller.post(&bench, &[("id", &check), ("t", "20"), ("shown.nacl", "12"), ("shown.mgcl2", "33")]).await;
    assert_eq!(wrong.status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(wrong.body.contains("more than 25 % off") && wrong.body.contains("value=\"12\""), "{}", wrong.body);
    let shown =
        [("id", check.as_str()), ("t", "20"), ("shown.nacl", "73.5"), ("shown.mgcl2", "33.0"), ("note", "read early")];
    assert!(caller.post(&bench, &shown).await.status.is_redirection());
    // Greenspan at 20 °C: 75.47 over table salt, 33.07 over magnesium chloride. By hand: slope 42.40/40.5 = 1.0469,
    // offset 33.07 − 34.55 = −1.478; 60 becomes 61.34.
    assert_eq!(read("60", "").await, "61.34");
    assert_eq!(read("60", &before).await, "60.00", "read before the check and sent after it");
    assert!(caller.get(&bench).await.body.contains("× 1.047 −1.5 %"));
    // An ended check is never changed, and another practice cannot reach it.
    caller.post(&bench, &[("id", &check), ("t", "20"), ("shown.nacl", "70"), ("shown.mgcl2", "30")]).await;
    assert_eq!(
        site.count(&format!("salt_check where id = '{check}' and round(rh_slope::numeric, 4) = 1.0469")).await,
        1
    );
    let thief = Caller::signed_in(&site, "odd@low-harbor.example").await;
    assert_eq!(thief.get(&bench).await.status, StatusCode::NOT_FOUND);
    assert_eq!(thief.post(&bench, &[("id", &check), ("salt.nacl", "1")]).await.status, StatusCode::NOT_FOUND);
}

#[tokio::test(flavor = "multi_thread")]
async fn the_headless_interface_answers_over_http_without_signing_in() {
    let site = Site::start().await;
    let caller = Caller::new(&site).await;
    let ask = async |body: &'static str| {
        let answer = caller.send(caller.http.post(format!("{}/api/calc", site.base)).body(body)).await;
        (answer.status, serde_json::from_str::<serde_json::Value>(&answer.body).unwrap())
    };
    let (status, one) = ask(r#"{"op":"air","t_c":20,"rh_pct":50}"#).await;
    assert!(status.is_success() && (one["dew_c"].as_f64().unwrap() - 9.272).abs() < 0.002);
    let (status, many) = ask(r#"[{"op":"air","t_c":20,"rh_pct":50},{"op":"air","t_c":20,"rh_pct":112}]"#).await;
    assert!(status.is_success() && many[1]["error"]["field"] == "rh_pct");
    assert_eq!(ask("nonsense").await.0, StatusCode::BAD_REQUEST);
}

#[tokio::test(flavor = "multi_thread")]
async fn the_application_outlives_its_database() {
    let home = std::env::temp_dir().join(format!("gutteral-restart-{}", std::process::id()));
    let mut cluster = Cluster::start(Home::claim(&home).unwrap(), Durability::ThrowAway).unwrap();
    let site = Site::over(cluster.database("gutteral").map(|()| cluster.owner_url("gutteral")).unwrap()).await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    assert_eq!(caller.get("/readyz").await.status, StatusCode::OK);
    cluster.stop().unwrap();
    let gone = caller.get("/docket").await;
    assert_eq!(gone.status, StatusCode::SERVICE_UNAVAILABLE);
    assert!(gone.body.contains("The database is not answering"), "{}", gone.body);
    let typed = caller.post("/jobs/new", &[("id", &Uuid::now_v7().to_string()), ("name", "Lock cottage")]).await;
    assert_eq!(typed.status, StatusCode::SERVICE_UNAVAILABLE);
    assert!(typed.body.contains("Lock cottage") && typed.body.contains("Send it again"), "{}", typed.body);
    assert_eq!(caller.get("/readyz").await.status, StatusCode::SERVICE_UNAVAILABLE);
    assert_eq!(caller.get("/healthz").await.status, StatusCode::OK);
    cluster.start_again(Durability::ThrowAway).unwrap();
    assert_eq!(caller.get("/docket").await.status, StatusCode::OK, "it works again without being restarted");
    cluster.discard().unwrap();
    std::fs::remove_dir_all(&home).unwrap();
}
