//! Hostile and unlucky use: every form with every bad value, everything at once, and far too much of it.

use crate::harness::client::{Answer, Caller, hidden};
use crate::harness::{Site, fresh_database, serving};
use crate::log::until;
use gutteral::demo::{ENTRY, PASSWORD};
use reqwest::StatusCode;
use reqwest::multipart::{Form as Multipart, Part};
use std::collections::{BTreeMap, BTreeSet};
use store::Store;
use uuid::Uuid;

/// A form as a page has it: where it goes, and its fields with what they hold.
#[derive(Clone)]
struct Form {
    action: String,
    fields: Vec<(String, String)>,
    picture: bool,
}

fn attribute(tag: &str, name: &str) -> Option<String> {
    let rest = tag.split(&format!(" {name}=\"")).nth(1)?;
    let raw = rest.split('"').next()?;
    Some(
        raw.replace("&#38;", "&")
            .replace("&amp;", "&")
            .replace("&#34;", "\"")
            .replace("&#60;", "<")
            .replace("&#39;", "'"),
    )
}

/// The forms of a page that are posted; a button that has a name or an action of its own makes another.
fn forms(page: &str, at: &str) -> Vec<Form> {
    let mut all = Vec::new();
    for part in page.split("<form ").skip(1) {
        let (open, rest) = part.split_once('>').unwrap();
        let open = format!(" {open}");
        if attribute(&open, "method").is_none_or(|m| m != "post") {
            continue;
        }
        let body = rest.split("</form>").next().unwrap();
        let action = attribute(&open, "action").unwrap_or_else(|| at.to_owned());
        let mut fields = Vec::new();
        // Each with its own field and address, where it has them.
        let mut buttons = Vec::new();
        for tag in body.split('<').skip(1) {
            let inside = tag.split('>').next().unwrap();
            let value = attribute(inside, "value").unwrap_or_default();
            let named = attribute(inside, "name").map(|name| (name, value));
            match inside.split([' ', '\n']).next().unwrap() {
                "input" | "textarea" => fields.extend(named.filter(|_| !inside.contains("type=\"file\""))),
                "select" => {
                    let options = tag.split_once('>').map_or("", |_| body.split(tag).nth(1).unwrap_or_default());
                    let first = attribute(&format!(" {}", options.split('>').next().unwrap_or_default()), "value");
                    fields.extend(named.map(|(name, _)| (name, first.unwrap_or_default())));
                }
                "button" => buttons.push((named, attribute(inside, "formaction"))),
                _ => {}
            }
        }
        let picture = open.contains("multipart");
        for (named, own) in buttons {
            let action = own.unwrap_or_else(|| action.clone());
            all.push(Form { action, fields: fields.iter().cloned().chain(named).collect(), picture });
        }
    }
    all
}

/// An address with its ids taken out: forms alike but for whom they concern are tried once.
fn shape(form: &Form) -> String {
    let segment = |s: &str| if s.parse::<Uuid>().is_ok() { "*".to_owned() } else { s.to_owned() };
    let action: Vec<String> = form.action.split('/').map(segment).collect();
    let names: BTreeSet<&str> = form.fields.iter().map(|(k, _)| k.as_str()).collect();
    let act = form.fields.iter().rfind(|(k, _)| k == "act").map_or("", |(_, v)| v);
    format!("{} {act} {}", action.join("/"), names.len())
}

impl Caller {
    async fn sends(&self, form: &Form, fields: &[(String, String)]) -> Answer {
        let mut fields: Vec<(&str, &str)> = fields.iter().map(|(k, v)| (k.as_str(), v.as_str())).collect();
        fields.retain(|(k, _)| *k != "csrf");
        if !form.picture {
            return self.post(&form.action, &fields).await;
        }
        let whole = fields.iter().fold(Multipart::new(), |f, (k, v)| f.text((*k).to_owned(), (*v).to_owned()));
        let picture = Part::bytes(stand_ins::sketch("rim", 3).unwrap()).file_name("rim.png");
        let whole = whole.text("csrf", self.token.clone()).part("photo", picture);
        self.send(self.http.post(self.url(&form.action)).multipart(whole)).await
    }
}

/// Every form of every page the demo's consultant can come to, each kind once.
async fn every_form(caller: &Caller) -> Vec<Form> {
    let mut pages =
        ["/docket", "/bench", "/prices", "/calendar", "/jobs/new", "/people", "/me", "/practice", "/data", "/programs"]
            .map(str::to_owned)
            .to_vec();
    let bench = caller.get("/bench").await.body;
    pages.push(crate::harness::client::link(&bench, "/bench/0"));
    for job in [caller.job("School archive").await, caller.job("Mill keeper").await] {
        let visit = Uuid::now_v7().to_string();
        caller.post(&format!("{job}/visits"), &[("id", &visit)]).await;
        for view in [
            "",
            "/edit",
            "/building",
            "/findings",
            "/photos",
            "/tests",
            "/why",
            "/plan",
            "/history",
            "/call",
            "/round",
            "/drying",
            "/report",
            "/sharing",
            "/data",
        ] {
            pages.push(format!("{job}{view}"));
        }
        // Into each kind of place, photo, finding, step and follow-up.
        let mut deeper = BTreeMap::new();
        for page in pages.clone() {
            let body = caller.get(&page).await.body;
            for href in body.split("href=\"").skip(1).filter_map(|r| r.split('"').next()) {
                let href = href.replace("&#38;", "&").replace("&amp;", "&");
                let path = href.split('#').next().unwrap().to_owned();
                if path.starts_with(&job) && !path.contains("readings.") && !path.contains("/thumb") {
                    let ids = |s: &str| {
                        s.split(['/', '?', '=', '&'])
                            .map(|x| if x.len() == 36 { "*" } else { x })
                            .collect::<Vec<_>>()
                            .join("/")
                    };
                    deeper.entry(ids(&path)).or_insert(path);
                }
            }
        }
        pages.extend(deeper.into_values());
    }
    let mut all = BTreeMap::new();
    for page in pages {
        let answer = caller.get(&page).await;
        assert!(answer.status.as_u16() < 500, "{page}: {}", answer.body);
        for form in forms(&answer.body, &page) {
            if !["/sign-out", "/sign-in"].contains(&form.action.as_str()) {
                all.entry(shape(&form)).or_insert(form);
            }
        }
    }
    all.into_values().collect()
}

/// Values that some field somewhere does not expect.
fn hostile() -> Vec<String> {
    let foreign = "0198c0de-0000-7000-8000-000000000001";
    let texts = [
        "",
        "\0",
        "a\u{1}b\u{1b}[31m",
        "\u{202e}\u{feff}<script>alert(1)</script>",
        "'; drop table job; --",
        "-1e308",
        "99999999999999999999",
        "NaN",
        "+262142-12-31",
        "0001-01-01",
        "\t/evil.example",
        "%00%0d%0aX: y",
        foreign,
        "{\"a\":[{}]}",
        "[{\"kind\":\"circle\",\"at\":[1,1],\"r\":2,\"words\":\"\\u0000\"}]",
    ];
    texts.map(str::to_owned).into_iter().chain(["long ".repeat(20_000)]).collect()
}

#[tokio::test(flavor = "multi_thread")]
async fn every_form_with_every_hostile_value_is_answered_and_never_breaks() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let all = every_form(&caller).await;
    let kinds: BTreeSet<String> = all.iter().map(shape).collect();
    assert!(all.len() > 60, "the pages have their forms: {kinds:?}");
    let values = hostile();
    // The whole product takes long: asked for by hand. Else each form gets a third of the values, at another field each.
    let whole = std::env::var_os("GUTTERAL_WHOLE_ATTACK").is_some();
    let mut tried = 0;
    for (turn, form) in all.iter().enumerate() {
        let own: Vec<usize> = (0..form.fields.len()).filter(|i| form.fields[*i].0 != "csrf").collect();
        for (at, value) in values.iter().enumerate().filter(|(at, _)| whole || (at + turn) % 3 == 0) {
            // Everything at once, then fields one by one, each value at another of them.
            let mut at_once = vec![own.clone()];
            let singly = own.iter().filter(|i| whole || own.len() > 1 && (**i + turn + at / 3) % own.len() == 0);
            at_once.extend(singly.map(|i| vec![*i]));
            for chosen in at_once {
                let mut fields = form.fields.clone();
                fields.iter_mut().filter(|(k, _)| k == "id").for_each(|f| f.1 = Uuid::now_v7().to_string());
                chosen.iter().for_each(|i| fields[*i].1.clone_from(value));
                let answer = caller.sends(form, &fields).await;
                let names: Vec<&str> = chosen.iter().map(|i| form.fields[*i].0.as_str()).collect();
                assert!(answer.status.as_u16() < 500, "{} {names:?} = {value:.60?}: {}", shape(form), answer.body);
                assert!(!answer.location.contains("evil"), "{} {names:?} = {value:.60?}", shape(form));
                tried += 1;
            }
        }
    }
    println!("{tried} posts to {} kinds of form", all.len());
    // A control character is refused in words, with everything else that was typed.
    let refused = caller.post("/bench", &[("name", "Pro\u{2}be"), ("serial", "S-9")]).await;
    assert_eq!(refused.status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(refused.body.contains("control character") && refused.body.contains("value=\"S-9\""), "{}", refused.body);
    assert!(refused.body.contains("value=\"Probe\""), "offered again without it: {}", refused.body);
    for path in ["/jobs/%00", "/docket?words=%00", "/calculator/air?t_c=%01", "/jobs/new%0a", "/sign-in?next=%07/x"] {
        let answer = caller.get(path).await.status.as_u16();
        assert!((400..500).contains(&answer), "{path}: {answer}");
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn every_form_sent_twice_at_once_is_done_once_and_answered_alike() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    for form in every_form(&caller).await {
        if form.action.ends_with("/remove") || form.action == "/preferences" {
            continue;
        }
        let (one, two) = tokio::join!(caller.sends(&form, &form.fields), caller.sends(&form, &form.fields));
        assert!(
            one.status.as_u16() < 500 && two.status.as_u16() < 500,
            "{}: {} {}",
            shape(&form),
            one.status,
            two.body
        );
        assert_eq!((one.status, &one.location), (two.status, &two.location), "{}", shape(&form));
    }
    let twice = "select count(*) from (select practice_id, job_id, what, at from change where at > now() - interval '1 hour' \
        and what not like 'Opened%' group by 1, 2, 3, 4 having count(*) > 1) d";
    assert_eq!(site.number(twice).await, 0);
    let bench = caller.get("/bench").await.body;
    let id = hidden(bench.split("action=\"/bench\"").nth(1).unwrap(), "id");
    let probe = [("id", id.as_str()), ("name", "Twin"), ("air_err", "1"), ("rh_err", "1"), ("surface_err", "1")];
    tokio::join!(caller.post("/bench", &probe), caller.post("/bench", &probe));
    assert_eq!(site.count("instrument where name = 'Twin'").await, 1);
}

#[tokio::test(flavor = "multi_thread")]
async fn an_id_of_another_job_is_refused_and_what_is_done_stays_done() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let (mill, archive) = (caller.job("Mill keeper").await, caller.job("School archive").await);
    let id = Uuid::now_v7().to_string();
    let rot = [("id", id.as_str()), ("what", "rot")];
    assert!(caller.post(&format!("{mill}/findings"), &rot).await.status.is_redirection());
    let reused = caller.post(&format!("{archive}/findings"), &rot).await;
    assert_eq!(reused.status, StatusCode::CONFLICT);
    assert!(reused.body.contains("used for something else") && !hidden(&reused.body, "id").contains(&id));
    let there = format!("finding where id = '{id}' and job_id = '{}'", mill.trim_start_matches("/jobs/"));
    assert_eq!(site.count(&there).await, 1, "it stays where it was found");
    let visit = site
        .text("select v.id::text from visit v join job j on j.id = v.job_id where j.name like 'Mill%' limit 1")
        .await;
    let empty = Uuid::now_v7().to_string();
    let form =
        [("id", empty.as_str()), ("name", "Empty"), ("structure", "slab"), ("climate", "cold"), ("design", "-5")];
    assert!(caller.post("/jobs/new", &form).await.status.is_redirection());
    assert_eq!(caller.post(&format!("/jobs/{empty}/visits"), &[("id", &visit)]).await.status, StatusCode::CONFLICT);

    // A follow-up ended twice, by two people at once and by one later, is ended once and comes back once.
    let docket = caller.get("/calendar").await.body;
    let path =
        docket.split("action=\"").skip(1).filter_map(|r| r.split('"').next()).find(|a| a.contains("/follow-ups/"));
    let path = path.unwrap().to_owned();
    let ids = [Uuid::now_v7().to_string(), Uuid::now_v7().to_string()];
    let done = |id: &'_ str| vec![("id", id.to_owned()), ("act", "done".to_owned()), ("back", "docket".to_owned())];
    let send = async |id: &str| {
        let fields = done(id);
        let fields: Vec<(&str, &str)> = fields.iter().map(|(k, v)| (*k, v.as_str())).collect();
        caller.post(&path, &fields).await
    };
    let before = site.count("follow_up").await;
    let (one, two) = tokio::join!(send(&ids[0]), send(&ids[1]));
    let mut statuses = [one.status.as_u16(), two.status.as_u16()];
    statuses.sort_unstable();
    assert_eq!(statuses, [303, 409], "{}", two.body);
    let late = send(&Uuid::now_v7().to_string()).await;
    assert!(late.status == StatusCode::CONFLICT && late.body.contains("It is done already"), "{}", late.body);
    assert!(site.count("follow_up").await <= before + 1);
}

#[tokio::test(flavor = "multi_thread")]
async fn a_broken_picture_takes_no_page_with_it_and_can_be_removed() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("School archive").await;
    site.run(
        "update photo set width = 1, height = 60000000, \
         marks = '[{\"kind\":\"circle\",\"at\":[2147483647,5],\"r\":2147483647}, {\"kind\":\"arrow\",\"from\":[1,1],\"to\":[2147483647,-2147483648]}]'",
    )
    .await;
    let id = site.text(&format!("select id from photo where job_id = '{}' limit 1", &job[6..])).await;
    let visit = site.text(&format!("select visit_id from photo where id = '{id}'")).await;
    for view in ["", "/photos", "/findings", "/round", &format!("/photos/{id}"), &format!("/visits/{visit}/report")] {
        let page = caller.get(&format!("{job}{view}")).await;
        assert_eq!(page.status, StatusCode::OK, "{view}: {}", page.body);
    }
    let act = Uuid::now_v7().to_string();
    let remove = [("id", act.as_str()), ("act", "remove"), ("marks", "no marks"), ("place", "nowhere")];
    assert!(caller.post(&format!("{job}/photos/{id}"), &remove).await.status.is_redirection());
    assert_eq!(site.count(&format!("photo where id = '{id}' and removed_at is not null")).await, 1);
}

#[tokio::test(flavor = "multi_thread")]
async fn guesses_are_counted_before_they_are_checked_and_do_not_lock_the_owner_out() {
    let site = Site::start().await;
    let owner = Caller::signed_in(&site, ENTRY).await;
    let stranger = Caller::new(&site).await;
    let from = async |caller: &Caller, address: String, password: &str| {
        let fields = [("csrf", caller.token.as_str()), ("email", ENTRY), ("password", password)];
        let post = caller.http.post(caller.url("/sign-in")).form(&fields).header("x-forwarded-for", address);
        caller.send(post).await.status
    };
    let guesses = (0..60).map(|_| from(&stranger, "203.0.113.7".into(), "guess"));
    let answers = futures(guesses).await;
    let checked = answers.iter().filter(|s| **s == StatusCode::UNPROCESSABLE_ENTITY).count();
    assert_eq!((checked, answers.iter().filter(|s| s.as_u16() == 429).count()), (5, 55), "{answers:?}");
    assert_eq!(from(&stranger, "203.0.113.7".into(), PASSWORD).await.as_u16(), 429, "the right one too, from there");
    // What stands before the proxy's own entry anybody may have written.
    assert_eq!(from(&stranger, "198.51.100.1, 203.0.113.7".into(), PASSWORD).await.as_u16(), 429);
    // Elsewhere, and in a browser used before, the owner comes in.
    assert_eq!(from(&Caller::new(&site).await, "198.51.100.9".into(), PASSWORD).await, StatusCode::SEE_OTHER);
    assert_eq!(from(&owner, "203.0.113.7".into(), PASSWORD).await, StatusCode::SEE_OTHER);
    for _ in 0..6 {
        from(&owner, "198.51.100.10".into(), "mistyped").await;
    }
    assert_eq!(from(&owner, "198.51.100.10".into(), PASSWORD).await.as_u16(), 429, "a known browser is counted too");
}

/// All of them at once.
async fn futures<T>(all: impl IntoIterator<Item = impl Future<Output = T>>) -> Vec<T> {
    futures_util::future::join_all(all).await
}

#[tokio::test(flavor = "multi_thread")]
async fn signing_in_again_ends_the_session_before() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let before = site.text("select key_hash from session").await;
    caller.post("/sign-in", &[("email", ENTRY), ("password", PASSWORD)]).await;
    assert_eq!(site.count(&format!("session where key_hash = '{before}'")).await, 0);
    assert_eq!(site.count("session").await, 1);
}

#[tokio::test(flavor = "multi_thread")]
async fn the_headless_interface_is_bounded_for_strangers() {
    let site = Site::start().await;
    let caller = Caller::new(&site).await;
    let ask = async |body: String| {
        let answer = caller.send(caller.http.post(caller.url("/api/calc")).body(body)).await;
        (answer.status.as_u16(), serde_json::from_str::<serde_json::Value>(&answer.body).unwrap())
    };
    let plans = |n: usize| format!("[{}]", vec![r#"{"op":"plan","structure":"crawl_vented"}"#; n].join(","));
    let (status, said) = ask(plans(5000)).await;
    assert!(status == 413 && said["error"]["message"].as_str().unwrap().contains("times the work"), "{said}");
    assert_eq!(ask(format!("[{}0]", "0,".repeat(900_000))).await.0, 413, "many values in few bytes");
    assert_eq!(ask("[".repeat(100_000)).await.0, 400, "and deep ones");
    let (status, all) = ask(plans(20)).await;
    assert!(status == 200 && all.as_array().unwrap().len() == 20);
    let mut refused = false;
    for _ in 0..5 {
        refused |= ask(plans(150)).await.0 == 429;
    }
    assert!(refused, "a stranger has so much a minute");
    let person = Caller::signed_in(&site, ENTRY).await;
    let ours = person.send(person.http.post(person.url("/api/calc")).body(plans(20))).await;
    assert_eq!(ours.status, StatusCode::OK, "and takes nothing from those who are signed in");
}

#[tokio::test(flavor = "multi_thread")]
async fn many_pictures_at_once_stand_in_line_and_others_go_on_working() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let other = Caller::signed_in(&site, "odd@low-harbor.example").await;
    let job = caller.job("Mill keeper").await;
    let before = site.count("photo").await;
    let large = image::RgbImage::from_fn(4000, 3000, |x, y| {
        image::Rgb([(x % 251) as u8, (y % 241) as u8, (x * y % 239) as u8])
    });
    let mut file = std::io::Cursor::new(Vec::new());
    image::DynamicImage::ImageRgb8(large).write_to(&mut file, image::ImageFormat::Jpeg).unwrap();
    let file = file.into_inner();
    let send = (0..24).map(|_| {
        let form = Multipart::new().text("csrf", caller.token.clone()).text("id", Uuid::now_v7().to_string());
        let form = form.part("photo", Part::bytes(file.clone()).file_name("large.jpg"));
        caller.send(caller.http.post(caller.url(&format!("{job}/photos"))).multipart(form))
    });
    let look = async {
        let mut worst = StatusCode::OK;
        for _ in 0..40 {
            let status = other.get("/docket").await.status;
            worst = if status == StatusCode::OK { worst } else { status };
        }
        worst
    };
    let (sent, looked) = tokio::join!(futures(send), look);
    assert_eq!(looked, StatusCode::OK);
    assert!(
        sent.iter().all(|a| a.status == StatusCode::SEE_OTHER),
        "{:?}",
        sent.iter().map(|a| a.status).collect::<Vec<_>>()
    );
    assert_eq!(site.count("photo").await, before + 24);
}

#[tokio::test(flavor = "multi_thread")]
async fn several_processes_starting_at_once_make_the_tables_once() {
    let owner = fresh_database().await;
    let store = Store::connect(&serving(&owner)).await.unwrap();
    let role = store.role().await.unwrap();
    assert!(!store.is_current().await.unwrap());
    let made = futures((0..6).map(|_| store::migrate(&owner, &role))).await;
    assert!(made.iter().all(Result::is_ok), "{made:?}");
    assert!(store.is_current().await.unwrap());
}

#[tokio::test(flavor = "multi_thread")]
async fn a_full_disk_is_said_as_such_and_recovers() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    site.run(
        "create function full_disk() returns trigger language plpgsql as \
         $$ begin raise exception 'could not extend file: No space left on device' using errcode = '53100'; end $$; \
         create trigger full_disk before insert on job for each row execute function full_disk()",
    )
    .await;
    let id = Uuid::now_v7().to_string();
    let form =
        [("id", id.as_str()), ("name", "Weir lodge"), ("structure", "slab"), ("climate", "cold"), ("design", "-5")];
    let full = caller.post("/jobs/new", &form).await;
    assert_eq!(full.status, StatusCode::INSUFFICIENT_STORAGE);
    assert!(
        full.body.contains("no room left") && full.body.contains("Weir lodge") && full.body.contains("Send it again")
    );
    site.run("drop trigger full_disk on job").await;
    assert!(caller.post("/jobs/new", &form).await.status.is_redirection());
}

#[tokio::test(flavor = "multi_thread")]
async fn a_reading_sent_late_says_when_it_was_stored() {
    let site = Site::start().await;
    let late = "select count(*) from reading where stored_at < now() - interval '1 hour' or stored_at > now()";
    assert!(site.number("select count(*) from reading where taken_at < now() - interval '1 day'").await > 50);
    assert_eq!(site.number(late).await, 0);
}

#[tokio::test(flavor = "multi_thread")]
async fn a_large_practice_finds_its_jobs() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    site.run(
        "insert into job (practice_id, id, name, address, structure, climate, design_outdoor_c, created_by, created_at) \
         select c.practice_id, gen_random_uuid(), 'Filler ' || n, 'Row ' || n % 7, 'slab', 'cold', -5, c.id, \
           now() - n * interval '1 minute' from consultant c, generate_series(1, 300) n where c.email like 'wren%'",
    )
    .await;
    let first = caller.get("/docket").await.body;
    assert!(first.contains("Page 1 of 7, 305 jobs") && first.contains("Filler 2<"), "{first}");
    assert!(!first.contains("Filler 200<") && caller.get("/docket?page=4").await.body.contains("Filler 200<"));
    let found = caller.get("/docket?words=filler+row%203+17").await.body;
    assert!(found.contains("Filler 17<") && !found.contains("Filler 18<"), "{found}");
    assert!(caller.get("/docket?words=100%25_").await.body.contains("holds “100%_”"));
    assert!(caller.get("/docket?page=99").await.body.contains("no more jobs"));
    // All are looked through, by the queue where they are many: none was read in, so none was judged but the demo's.
    until(&site, "select count(*) from standing", 305).await;
    let judged = caller.get("/docket?worst=condensing&order=name").await.body;
    assert!(judged.contains("worst: condensing") && !judged.contains("worst: not judged"), "{judged}");
    assert!(!judged.contains("looked through again"), "{judged}");
    let slabs = caller.get("/docket?structure=slab&worst=not_judged&order=name&page=2").await.body;
    assert!(slabs.contains("Page 2 of 6, 300 jobs") && slabs.contains("worst=not_judged&"), "{slabs}");
    // Pinned it stands on top; archived it stands in the archive only, and may come back.
    let far = format!("/jobs/{}", site.text("select id from job where name = 'Filler 299'").await);
    caller.post(&format!("{far}/pin"), &[("pinned", "true"), ("back", "/docket?page=1")]).await;
    let names =
        |page: &str| page.split("group-hover:underline\">").skip(1).map(|n| n[..10].to_owned()).collect::<Vec<_>>();
    assert_eq!(names(&caller.get("/docket").await.body)[0], "Filler 299");
    let away = [("id", &*Uuid::now_v7().to_string()), ("archived", "true"), ("back", "https://elsewhere.example/")];
    assert_eq!(caller.post(&format!("{far}/archive"), &away).await.location, "/docket");
    assert!(!caller.get("/docket").await.body.contains("Filler 299"));
    assert_eq!(names(&caller.get("/docket?archived=yes").await.body), ["Filler 299"]);
    let back = [("id", &*Uuid::now_v7().to_string()), ("archived", "false"), ("back", "/docket?archived=yes")];
    assert_eq!(caller.post(&format!("{far}/archive"), &back).await.location, "/docket?archived=yes");
    assert!(caller.get("/docket").await.body.contains("Filler 299"));
    // What an address holds that nobody offered narrows nothing.
    let odd = caller.get("/docket?structure=%F0%9F%8F%9A&worst=x&due=x&person=x&order=x&archived=x").await.body;
    assert!(odd.contains("305 jobs"), "{odd}");
    site.run(
        "insert into follow_up select j.practice_id, gen_random_uuid(), j.id, 'look', 'Look ' || n || '.', '', \
           current_date, current_date + n % 9, 'open', '', j.created_by, now(), null from generate_series(1, 250) n, \
           lateral (select * from job where name = 'Filler ' || n) j; \
         insert into change select j.practice_id, gen_random_uuid(), j.id, j.created_by, now() - n * interval '1 minute', \
           'Act ' || n || '.', '[]', null from generate_series(1, 250) n, (select * from job where name = 'Filler 1') j",
    )
    .await;
    let soon = caller.get("/docket").await.body;
    assert_eq!(soon.matches("Done<").count(), 20);
    assert!(soon.contains("And ") && soon.contains(" more."), "{soon}");
    let calendar = caller.get("/calendar?page=2").await.body;
    assert!(calendar.matches("Done<").count() == 100 && calendar.contains("Page 2 of 3"), "{calendar}");
    let job = site.text("select id from job where name = 'Filler 1'").await;
    let history = caller.get(&format!("/jobs/{job}/history?page=3")).await.body;
    assert!(history.contains("Act 201.") && history.contains("Act 250.") && !history.contains("Act 200."), "{history}");
}
