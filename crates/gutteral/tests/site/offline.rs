//! The round without a signal: nothing is lost, nothing is doubled, nothing is decided silently.

use crate::harness::client::{Caller, hidden};
use crate::harness::wire::{Mode, Wire};
use crate::harness::{Browser, Site};
use gutteral::cluster::{Cluster, Durability, Home};
use gutteral::demo::ENTRY;
use std::net::SocketAddr;
use std::process::{Child, Command, Stdio};
use std::sync::atomic::Ordering;
use std::time::{Duration, Instant};
use thirtyfour::prelude::*;

/// A site behind a wire.
async fn wired(site: &mut Site) -> Wire {
    let wire = Wire::to(site.base.trim_start_matches("http://").parse().unwrap()).await;
    site.base.clone_from(&wire.base);
    wire
}

async fn run(browser: &Browser, script: &str) -> serde_json::Value {
    browser.driver.execute_async(script, vec![]).await.unwrap().json().clone()
}

/// How many entries wait on the device.
async fn waiting(browser: &Browser) -> i64 {
    run(browser, "const done = arguments[0]; outbox.all().then((a) => done(a.length));").await.as_i64().unwrap()
}

async fn until(what: &str, mut holds: impl AsyncFnMut() -> bool) {
    let begun = Instant::now();
    while !holds().await {
        assert!(begun.elapsed() < Duration::from_mins(4), "{what} never came");
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
}

const SYNC: &str = "window.dispatchEvent(new Event('online')); arguments[0]();";

async fn carried(browser: &Browser) {
    let css = By::Css("#carry[data-done]");
    let query = browser.driver.query(css).wait(Duration::from_mins(3), Duration::from_millis(100));
    query.exists().await.unwrap();
    assert!(query.first().await.is_ok(), "the round is carried along");
}

/// Opens a job of a kind and starts its first visit.
async fn visit(browser: &Browser, site: &Site, name: &str, structure: &str) {
    browser.go(site, "/jobs/new").await;
    browser.fill("#name", name).await;
    browser.click(&format!("input[value={structure}]")).await;
    browser.click("input[value=cold]").await;
    browser.fill("#design", "-15").await;
    browser.press("Open the job").await;
    browser.press("Start a round").await;
    browser.press("Start a visit").await;
    browser.shows("Outdoor air").await;
}

#[tokio::test(flavor = "multi_thread")]
async fn whole_visits_without_a_signal_arrive_whole() {
    let mut site = Site::start().await;
    let wire = wired(&mut site).await;
    let browser = Browser::signed_in(&site).await;
    browser.viewport(390, 844).await;
    for (n, structure) in ["crawl_vented", "basement", "vehicle"].into_iter().enumerate() {
        let name = format!("Away {structure}");
        visit(&browser, &site, &name, structure).await;
        carried(&browser).await;
        wire.set(Mode::Cut);
        let count = browser.driver.find_all(By::Css(".strip a")).await.unwrap().len();
        let mut typed = Vec::new();
        for i in 0..count {
            let t = format!("{}.{}", 3 + n, i % 10);
            let only = browser.driver.find_all(By::Css("#m")).await.unwrap().is_empty();
            let humidity = 60 + i;
            // As one types it: the figure, Enter, the next figure, Enter.
            let keys = if only { t.clone() } else { format!("{t}{}{humidity}", Key::Enter.value()) };
            browser.find("#t").await.send_keys(keys + Key::Enter).await.unwrap();
            typed.push(if only { t } else { format!("{t} {humidity}") });
            browser.shows(&format!("{} waiting", i + 1)).await;
        }
        // Still there after the page is loaded again, and shown where it was read.
        browser.driver.refresh().await.unwrap();
        browser.shows("waits on this device").await;
        browser.press("Add a finding here").await;
        browser.press("Musty smell").await;
        browser.shows(&format!("{} waiting", count + 1)).await;
        let job = format!("(select id from job where name = '{name}')");
        let stored = format!("reading where job_id = {job}");
        assert_eq!(site.count(&stored).await, 0, "nothing could be sent");
        wire.set(Mode::Whole);
        run(&browser, SYNC).await;
        until("the end of the queue", async || waiting(&browser).await == 0).await;
        let sent = site.text(&format!("select string_agg(as_typed, '|' order by taken_at, id) from {stored}")).await;
        assert_eq!(sent, typed.join("|"), "{structure}: every figure as typed, in the order taken");
        assert_eq!(site.count(&format!("finding where what = 'musty_smell' and job_id = {job}")).await, 1);
        // And right on the desk.
        browser.viewport(1280, 800).await;
        browser.go(&site, "/docket").await;
        browser.press(&name).await;
        browser.shows(&format!("{}.0 °C 62 %", 3 + n)).await;
        browser.viewport(390, 844).await;
    }
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_visit_started_without_a_signal_is_sent_before_its_readings() {
    let mut site = Site::start().await;
    let wire = wired(&mut site).await;
    let browser = Browser::signed_in(&site).await;
    browser.viewport(390, 844).await;
    browser.press("Mill keeper").await;
    browser.press("Visit").await;
    carried(&browser).await;
    let job = browser.path().await.replace("/round", "").replace("/jobs/", "");
    let visits = format!("visit where job_id = '{job}'");
    let before = site.count(&visits).await;
    wire.set(Mode::Cut);
    browser.press("Start a visit").await;
    browser.shows("Outdoor air").await;
    browser.fill("#t", "29.1").await;
    browser.fill("#m", "62").await;
    browser.click(".keep").await;
    browser.shows("2 waiting").await;
    browser.fill("#t", "20.4").await;
    browser.fill("#m", "88").await;
    browser.click(".keep").await;
    browser.shows("3 waiting").await;
    assert_eq!(site.count(&visits).await, before);
    wire.set(Mode::Whole);
    run(&browser, SYNC).await;
    until("the end of the queue", async || waiting(&browser).await == 0).await;
    assert_eq!(site.count(&visits).await, before + 1);
    let sent = "select string_agg(as_typed, '|' order by taken_at) from reading r join visit v on v.id = r.visit_id \
        where v.ended_at is null and v.started_at <= r.taken_at and r.job_id = ";
    assert_eq!(site.text(&format!("{sent} '{job}'")).await, "29.1 62|20.4 88", "begun before what was read on it");
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn what_cannot_be_taken_is_said_and_waits_for_a_decision() {
    let mut site = Site::start().await;
    let wire = wired(&mut site).await;
    let browser = Browser::signed_in(&site).await;
    visit(&browser, &site, "Disputed van", "vehicle").await;
    carried(&browser).await;
    // A finding both will change.
    browser.press("Add a finding here").await;
    browser.press("Musty smell").await;
    browser.shows("Strongest where").await;
    browser.place("Findings").await;
    browser
        .driver
        .query(By::XPath("//ul[contains(@class,'findings')]//a[.='Musty smell']"))
        .first()
        .await
        .unwrap()
        .click()
        .await
        .unwrap();
    browser.shows("Save").await;
    wire.set(Mode::Cut);
    browser.fill("#note", "mine, without a signal").await;
    browser.press("Save").await;
    browser.shows("1 waiting").await;
    browser.press("Visit").await;
    browser.fill("#t", "68").await; // odd: it would have been asked about
    browser.fill("#m", "50").await;
    browser.click(".keep").await;
    browser.shows("2 waiting").await;
    browser.fill("#t", "12.5").await;
    browser.fill("#m", "71").await;
    browser.click(".keep").await;
    browser.shows("3 waiting").await;
    // Meanwhile a colleague changes the finding at the desk.
    let server = site.owner.clone();
    let desk = Site::over(server).await;
    let colleague = Caller::signed_in(&desk, ENTRY).await;
    let job = colleague.job("Disputed van").await;
    let id = site
        .text("select id from finding where what = 'musty_smell' and note = '' order by found_at desc limit 1")
        .await;
    let page = colleague.get(&format!("{job}/findings?at={id}")).await.body;
    let act = uuid::Uuid::now_v7().to_string();
    let fields = [
        ("id", act.as_str()),
        ("seen", &hidden(&page, "seen")),
        ("severity", "3"),
        ("note", "theirs"),
        ("act", "keep"),
    ];
    assert_eq!(colleague.post(&format!("{job}/findings/{id}"), &fields).await.status, 303);
    wire.set(Mode::Whole);
    run(&browser, SYNC).await;
    browser.shows("2 waiting, 2 to look at").await;
    assert_eq!(
        site.text(&format!("select note from finding where id = '{id}'")).await,
        "theirs",
        "nothing is overwritten"
    );
    assert_eq!(site.count("reading where as_typed = '12.5 71'").await, 1, "what nobody disputes is stored");
    browser.click("#waiting").await;
    browser.shows("changed this on").await;
    browser.shows("severity 2 → 3").await;
    browser.shows("did you mean 68 °F").await;
    // Discarding asks once more; keeping anyway stores it.
    let row = |words: &str| format!("//li[contains(., '{words}')]");
    let act = async |row: String, button: &str| {
        let path = format!("{row}//button[starts-with(., '{button}')]");
        browser.driver.query(By::XPath(path)).first().await.unwrap().click().await.unwrap();
    };
    act(row("Musty smell"), "Save anyway").await;
    browser.shows("1 waiting, 1 to look at").await;
    assert_eq!(site.text(&format!("select note from finding where id = '{id}'")).await, "mine, without a signal");
    act(row("68 50"), "Discard").await;
    assert_eq!(waiting(&browser).await, 1);
    act(row("68 50"), "Discard for good").await;
    browser.shows("Nothing waits").await;
    assert_eq!(site.count("reading where as_typed = '68 50'").await, 0);
    // Signing out with something waiting leads to it instead.
    browser.press("Docket").await;
    browser.press("Disputed van").await;
    browser.press("Visit").await;
    carried(&browser).await;
    wire.set(Mode::Cut);
    browser.fill("#t", "4.5").await;
    browser.fill("#m", "66").await;
    browser.click(".keep").await;
    browser.shows("1 waiting").await;
    browser.press("Sign out").await;
    browser.shows("Waiting to be sent").await;
    assert_eq!(waiting(&browser).await, 1);
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn copies_on_a_device_are_for_the_eyes_of_whoever_carried_them() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    let copies = "const done = arguments[0]; caches.open('carried').then((c) => c.keys())\
        .then((keys) => done(keys.filter((k) => k.url.includes('/jobs/')).length));";
    let copies = async |browser: &Browser| run(browser, copies).await.as_i64().unwrap();
    visit(&browser, &site, "Shared van", "vehicle").await;
    carried(&browser).await;
    assert!(copies(&browser).await > 10);
    // Somebody else signs in on the same device without the first having signed out.
    run(&browser, "const done = arguments[0]; outbox.say('who', 'somebody else').then(() => done(1));").await;
    browser.go(&site, "/docket").await;
    until("forgetting another's copies", async || copies(&browser).await == 0).await;
    // And whoever signs out leaves none behind.
    browser.press("Shared van").await;
    browser.press("Visit").await;
    carried(&browser).await;
    browser.press("Sign out").await;
    browser.find("#password").await;
    assert_eq!(copies(&browser).await, 0);
    browser.quit().await;
}

/// The real program, killed and started again on the same port over the same database.
struct Server {
    child: Child,
    addr: SocketAddr,
    url: String,
}

impl Server {
    async fn start(addr: SocketAddr, url: &str) -> Self {
        let child = Command::new(env!("CARGO_BIN_EXE_gutteral"))
            .arg("serve")
            .env("GUTTERAL_DATABASE_URL", url)
            .env("GUTTERAL_SECRET", "a-private-secret-of-more-than-32-characters")
            .env("GUTTERAL_ADDR", addr.to_string())
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .spawn()
            .unwrap();
        until("the server", async || tokio::net::TcpStream::connect(addr).await.is_ok()).await;
        Self { child, addr, url: url.to_owned() }
    }

    fn kill(&mut self) {
        self.child.kill().unwrap();
        self.child.wait().unwrap();
    }

    async fn killed(mut self) -> Self {
        self.kill();
        Self::start(self.addr, &self.url).await
    }
}

fn crash(home: &std::path::Path) {
    let pid = std::fs::read_to_string(home.join("postgres/postmaster.pid")).unwrap();
    let pid = pid.lines().next().unwrap().to_owned();
    assert!(Command::new("kill").args(["-9", &pid]).status().unwrap().success());
}

#[tokio::test(flavor = "multi_thread")]
async fn an_entry_that_breaks_the_server_is_said_and_stands_aside() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    visit(&browser, &site, "Cursed van", "vehicle").await;
    site.run(
        "create function broken() returns trigger language plpgsql as $$ begin raise exception 'as luck would have it'; end $$; \
         create trigger broken before insert on reading for each row execute function broken()",
    )
    .await;
    browser.fill("#t", "12.5").await;
    browser.fill("#m", "71").await;
    browser.click(".keep").await;
    browser.shows("1 waiting").await;
    browser.go(&site, "/queue").await;
    until("the third try", async || {
        run(&browser, SYNC).await;
        browser.text("#queue").await.contains("tried 3 times")
    })
    .await;
    browser.shows("The server could not store it").await;
    browser.shows("1 to look at").await;
    site.run("drop trigger broken on reading").await;
    browser.press("Send again").await;
    browser.shows("Nothing waits").await;
    assert_eq!(site.count("reading where as_typed = '12.5 71'").await, 1);
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn five_hundred_readings_over_twenty_failures_are_stored_once_each() {
    let home = std::env::temp_dir().join(format!("gutteral-offline-{}", std::process::id()));
    let mut cluster = Cluster::start(Home::claim(&home).unwrap(), Durability::Durable).unwrap();
    cluster.database("kept").unwrap();
    let (url, owner) = (cluster.url("kept"), cluster.owner_url("kept"));
    let store = store::Store::connect(&url).await.unwrap();
    store::migrate(&owner, &store.role().await.unwrap()).await.unwrap();
    gutteral::demo::load(&store, chrono::Utc::now()).await.unwrap();
    let free = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    let addr = free.local_addr().unwrap();
    drop(free);
    let mut server = Server::start(addr, &url).await;
    let wire = Wire::to(addr).await;
    let site = Site::of(wire.base.clone(), store.clone(), url.clone(), owner.clone());
    let browser = Browser::start().await;
    browser.go(&site, "/sign-in").await;
    browser.fill("#email", ENTRY).await;
    browser.fill("#password", gutteral::demo::PASSWORD).await;
    browser.find("#password").await.send_keys("" + Key::Enter).await.unwrap();
    browser.shows("Docket").await;
    visit(&browser, &site, "Long haul", "vehicle").await;
    carried(&browser).await;
    wire.set(Mode::Cut);
    let fill = "const done = arguments[0]; (async () => {
        const form = document.getElementById('entry'), who = document.documentElement.dataset.who;
        const stations = [...document.querySelectorAll('.strip a')].map((a) => new URL(a.href).searchParams.get('at'));
        for (let i = 0; i < 500; i++) {
          const body = new URLSearchParams(new FormData(form));
          body.set('id', crypto.randomUUID()); body.set('station', stations[0]);
          body.set('t', (i % 300 / 10 - 10).toFixed(1)); body.set('m', String(i % 60 + 20));
          await outbox.put({ url: form.getAttribute('action'), body: body.toString(), at: Date.now() - 500 + i, who, state: 'waiting', said: '' });
        }
        done(1);
      })();";
    browser.driver.set_script_timeout(Duration::from_mins(2)).await.unwrap();
    run(&browser, fill).await;
    assert_eq!(waiting(&browser).await, 500);
    // The table is asked over a connection of its own, which the crashes below do not always leave standing.
    let rows = async |site: &Site| {
        let query = "select count(*) from reading where job_id = (select id from job where name = 'Long haul')";
        site.try_number(query).await.unwrap_or(-1)
    };
    for failure in 0..20 {
        let before = rows(&site).await;
        wire.set(Mode::Whole);
        // Who is still giving up on the last failure does not hear that it is over: told until it is heard.
        until("progress", async || {
            run(&browser, SYNC).await;
            rows(&site).await >= before + 15
        })
        .await;
        match failure % 5 {
            0 => wire.set(Mode::Cut),
            1 => {
                // The server does its work and its answer is lost on the way, several times over.
                wire.set(Mode::LosesAnswers);
                let before = wire.lost.load(Ordering::SeqCst);
                until("lost answers", async || {
                    run(&browser, SYNC).await;
                    wire.lost.load(Ordering::SeqCst) >= before + 3
                })
                .await;
            }
            2 => server = server.killed().await,
            3 => {
                crash(&home);
                wire.set(Mode::Cut);
                until("the database", async || cluster.start_again(Durability::Durable).is_ok()).await;
            }
            _ => {
                server.kill();
                crash(&home);
                until("the database", async || cluster.start_again(Durability::Durable).is_ok()).await;
                server = Server::start(addr, &url).await;
            }
        }
        wire.set(Mode::Cut);
    }
    wire.set(Mode::Whole);
    until("the end of the queue", async || {
        run(&browser, SYNC).await;
        rows(&site).await >= 500 && waiting(&browser).await == 0
    })
    .await;
    assert_eq!(rows(&site).await, 500, "none lost, none doubled");
    let query = "select count(distinct (as_typed, taken_at)) from reading where job_id = (select id from job where name = 'Long haul')";
    assert_eq!(site.try_number(query).await.unwrap(), 500, "and each the one it was");
    browser.quit().await;
    server.kill();
    drop(store);
    cluster.discard().unwrap();
}
