//! A real site and a real browser, one of each per test.
#![allow(dead_code, missing_docs, clippy::unwrap_used, clippy::expect_used, clippy::panic, reason = "tests")]

pub mod client;
pub mod counted;
pub mod wire;

use gutteral::outside::{Addresses, World};
use gutteral::settings::TEST_DATABASE;
use gutteral::stand_in::{forecast, mail};
use sea_orm::sqlx::postgres::PgRow;
use sea_orm::sqlx::{self, AssertSqlSafe, Connection, PgConnection, Row};
use serde_json::json;
use std::io::BufRead;
use std::path::Path;
use std::process::Stdio;
use std::sync::atomic::{AtomicU32, Ordering};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};
use store::Store;
use thirtyfour::error::WebDriverErrorInner;
use thirtyfour::extensions::query::{ElementPollerWithTimeout, ElementQuery};
use thirtyfour::prelude::*;
use tokio::net::TcpListener;
use tokio::sync::{Mutex as AsyncMutex, OnceCell, oneshot};

/// How long something may take to appear on a machine with other things to do.
const PATIENCE: Duration = Duration::from_secs(20);

static COUNT: AtomicU32 = AtomicU32::new(0);

/// A database with the demo's data that nobody is connected to: the others are its copies.
static LOADED: OnceCell<String> = OnceCell::const_new();

async fn loaded() -> String {
    let owner = fresh_database().await;
    let name = owner.rsplit_once('/').unwrap().1.to_owned();
    let serving = serving(&owner);
    let store = connected(&serving).await;
    store::migrate(&owner, &store.role().await.unwrap()).await.unwrap();
    gutteral::demo::load(&store, chrono::Utc::now()).await.unwrap();
    drop(store);
    let base = std::env::var(TEST_DATABASE).unwrap();
    let mut asking = Asking::at(&base);
    asking.ask(&format!("alter database {name} allow_connections false")).await.unwrap();
    let connected = format!("select count(*) from pg_stat_activity where datname = '{name}'");
    while asking.ask(&connected).await.unwrap() != "0" {
        tokio::task::yield_now().await;
    }
    name
}

/// Asks again where the machine is too busy for a handshake in the time a process gives one.
async fn connected(url: &str) -> Store {
    let begun = Instant::now();
    loop {
        match Store::connect(url).await {
            Err(store::StoreError::Unavailable(_)) if begun.elapsed() < PATIENCE => {}
            outcome => return outcome.unwrap(),
        }
    }
}

fn new_name() -> String {
    format!("t{}_{}", std::process::id(), COUNT.fetch_add(1, Ordering::Relaxed))
}

/// A database of the throw-away cluster.
fn at(base: &str, name: &str) -> String {
    format!("{}/{name}", base.rsplit_once('/').unwrap().0)
}

/// An empty database of its own in the throw-away cluster, and its owner's address.
pub async fn fresh_database() -> String {
    let base = std::env::var(TEST_DATABASE).expect("run the tests with ./gutteral test");
    let name = new_name();
    Asking::at(&base).ask(&format!("create database {name}")).await.unwrap();
    at(&base, &name)
}

/// The application on a port of its own, with the demo's data.
pub struct Site {
    pub base: String,
    pub store: Store,
    pub database: String,
    /// The database as the owner of its tables.
    pub owner: String,
    /// Letters it sent.
    pub letters: Arc<Mutex<Vec<String>>>,
    /// The database as the cluster's superuser.
    admin: Arc<AsyncMutex<Asking>>,
}

impl Site {
    pub async fn start() -> Self {
        let base = std::env::var(TEST_DATABASE).expect("run the tests with ./gutteral test");
        let first = LOADED.get_or_init(loaded).await;
        let name = new_name();
        Asking::at(&base).ask(&format!("create database {name} template {first}")).await.unwrap();
        Self::over(at(&base, &name)).await
    }

    /// Serves over a database that is there already, given by its owner's address.
    pub async fn over(owner: String) -> Self {
        let database = serving(&owner);
        let store = connected(&database).await;
        store::migrate(&owner, &store.role().await.unwrap()).await.unwrap();
        gutteral::demo::load(&store, chrono::Utc::now()).await.unwrap();
        let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
        let base = format!("http://{}", listener.local_addr().unwrap());
        let app = web::App::new(store.clone(), "a secret for tests only", Some(gutteral::demo::ENTRY.into()), 1);
        tokio::spawn(web::serve(listener, app, std::future::pending()));
        let weather = TcpListener::bind("127.0.0.1:0").await.unwrap();
        let post = TcpListener::bind("127.0.0.1:0").await.unwrap();
        let outside = Addresses {
            forecast: Some(forecast::address(weather.local_addr().unwrap())),
            smtp: Some(mail::address(post.local_addr().unwrap())),
            mail_from: Some("gutteral@ostley-fell.example".into()),
            chromium: None,
            webhooks_at_home: true,
        };
        let site = Self::of(base, store.clone(), database, owner);
        let taken = Arc::clone(&site.letters);
        tokio::spawn(mail::serve(post, move |letter| taken.lock().unwrap().push(letter)));
        tokio::spawn(forecast::serve(weather, gutteral::demo::SEED));
        tokio::spawn(casework::log::work(store.clone(), World::new(outside).unwrap()));
        site
    }

    /// What is served already.
    pub fn of(base: String, store: Store, database: String, owner: String) -> Self {
        let admin = Arc::new(AsyncMutex::new(Asking::at(&database.replace("//gutteral_app:", "//cluster:"))));
        Self { base, store, database, owner, letters: Arc::default(), admin }
    }

    /// Another process over the same database, reached by another address.
    pub async fn through(&self, database: &str) -> Self {
        let store = connected(database).await;
        let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
        let base = format!("http://{}", listener.local_addr().unwrap());
        let app = web::App::new(store.clone(), "a secret for tests only", Some(gutteral::demo::ENTRY.into()), 1);
        tokio::spawn(web::serve(listener, app, std::future::pending()));
        Self {
            base,
            store,
            database: database.to_owned(),
            owner: self.owner.clone(),
            letters: Arc::clone(&self.letters),
            admin: Arc::clone(&self.admin),
        }
    }

    /// The same site served by somebody else, at an address.
    pub fn at(&self, base: &str) -> Self {
        Self {
            base: base.to_owned(),
            store: self.store.clone(),
            database: self.database.clone(),
            owner: self.owner.clone(),
            letters: Arc::clone(&self.letters),
            admin: Arc::clone(&self.admin),
        }
    }

    /// Number of rows in a table, seen past row-level security.
    pub async fn count(&self, table: &str) -> i64 {
        self.number(&format!("select count(*) from {table}")).await
    }

    /// A number asked as the cluster's superuser.
    pub async fn number(&self, query: &str) -> i64 {
        self.text(query).await.parse().unwrap()
    }

    /// The same where the database may be away.
    pub async fn try_number(&self, query: &str) -> Option<i64> {
        self.admin.lock().await.ask(query).await.ok()?.parse().ok()
    }

    /// Runs statements as the cluster's superuser.
    pub async fn run(&self, statements: &str) {
        self.admin.lock().await.ask(statements).await.unwrap();
    }

    pub async fn text(&self, query: &str) -> String {
        self.admin.lock().await.ask(query).await.unwrap()
    }

    /// A number asked as the application's own role.
    pub async fn number_as_app(&self, query: &str) -> i64 {
        Asking::at(&self.database).ask(query).await.unwrap().parse().unwrap()
    }

    /// Whether the database refuses a statement, even from the superuser.
    pub async fn refuses(&self, statement: &str) -> bool {
        self.admin.lock().await.ask(statement).await.is_err()
    }

    /// Whether the database refuses a statement to the role that serves.
    pub async fn refuses_app(&self, statement: &str) -> bool {
        Asking::at(&self.database).ask(statement).await.is_err()
    }
}

/// The address of a database as the role that serves, from that of its owner.
pub fn serving(owner: &str) -> String {
    owner.replace("//gutteral:", "//gutteral_app:")
}

/// A database that is asked beside what is tested, over a connection of its own.
struct Asking {
    url: String,
    connection: Option<PgConnection>,
}

impl Asking {
    fn at(url: &str) -> Self {
        Self { url: url.to_owned(), connection: None }
    }

    /// What statements answer, as text: rows on lines, columns between bars. Where the server went away it is looked for once more.
    async fn ask(&mut self, statements: &str) -> Result<String, sqlx::Error> {
        let known = self.connection.is_some();
        match self.once(statements).await {
            Err(e) if known && is_away(&e) => {
                self.connection = None;
                self.once(statements).await
            }
            outcome => outcome,
        }
    }

    async fn once(&mut self, statements: &str) -> Result<String, sqlx::Error> {
        let mut connection = match self.connection.take() {
            Some(connection) => connection,
            None => PgConnection::connect(&self.url).await?,
        };
        let rows = sqlx::raw_sql(AssertSqlSafe(statements)).fetch_all(&mut connection).await;
        self.connection = Some(connection);
        let text = |row: &PgRow, i: usize| row.try_get_raw(i).unwrap().as_str().unwrap_or_default().to_owned();
        let line = |row: &PgRow| (0..row.len()).map(|i| text(row, i)).collect::<Vec<_>>().join("|");
        Ok(rows?.iter().map(line).collect::<Vec<_>>().join("\n"))
    }
}

/// Whether the server fell: it says so on the way (57P01 to 57P03), or nothing.
fn is_away(e: &sqlx::Error) -> bool {
    e.as_database_error().is_none_or(|e| e.code().is_some_and(|c| c.starts_with("57P")))
}

/// The one ChromeDriver of this program.
static DRIVER: OnceCell<String> = OnceCell::const_new();

/// Chromiums whose test is over, by the address they are steered at: the next test takes one over.
static IDLE: Mutex<Vec<String>> = Mutex::new(Vec::new());

/// Starts a program that ends when this one does, in whatever way, and gives what follows `words` in what it prints.
async fn companion(program: &str, arguments: &[&str], words: &'static str, home: &Path) -> String {
    // A pipe closes with the program that holds it, killed or not. What it started may be a script around another: all of them go.
    let script = r#"home=$1; shift; trap : INT; setsid "$@" 2>&1 & exec 2>/dev/null; read -r _; kill -- -$!; wait $!; rm -rf "$home""#;
    let mut command = std::process::Command::new("sh");
    command.args(["-c", script, "sh"]).arg(home).arg(program).args(arguments);
    let mut shell = command.stdin(Stdio::piped()).stdout(Stdio::piped()).spawn().unwrap();
    let (tell, told) = oneshot::channel();
    std::thread::spawn(move || {
        let lines = std::io::BufReader::new(shell.stdout.take().unwrap()).lines().map_while(Result::ok);
        let mut tell = Some(tell);
        for line in lines {
            if let Some((tell, (_, rest))) = tell.take_if(|_| line.contains(words)).zip(line.split_once(words)) {
                let _ = tell.send(rest.to_owned());
            }
        }
        shell.wait()
    });
    told.await.unwrap_or_else(|_| panic!("{program} did not start"))
}

/// A headless Chromium, by the address it is steered at. The build without a desktop behind it asks half the work of the
/// machine.
async fn chromium() -> String {
    let number = COUNT.fetch_add(1, Ordering::Relaxed);
    let profile = std::env::temp_dir().join(format!("gutteral-browser-{}-{number}", std::process::id()));
    let arguments = [
        "--no-sandbox",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
        "--disable-dev-shm-usage",
        "--hide-scrollbars",
        "--force-device-scale-factor=1",
        "--remote-debugging-port=0",
        &format!("--user-data-dir={}", profile.display()),
        "about:blank",
    ];
    let said = companion("chromium-headless-shell", &arguments, "DevTools listening on ws://", &profile).await;
    said.split('/').next().unwrap().to_owned()
}

/// A headless Chromium, steered. Tests share browsers one after another; since every test's site is an origin of its own,
/// what one leaves there no other sees, and cookies go with the test.
pub struct Browser {
    pub driver: WebDriver,
    address: String,
}

/// Clicks an element, brought into view.
async fn pushed(element: &WebElement) -> WebDriverResult<()> {
    element.scroll_into_view().await?;
    element.click().await
}

impl Browser {
    pub async fn start() -> Self {
        let driver = async {
            let port = companion("chromedriver", &["--port=0"], "successfully on port ", Path::new("")).await;
            format!("http://127.0.0.1:{}", port.trim_end_matches('.'))
        };
        let driver = DRIVER.get_or_init(|| driver).await;
        let idle = IDLE.lock().unwrap().pop();
        let address = match idle {
            Some(address) => address,
            None => chromium().await,
        };
        let mut caps = DesiredCapabilities::chrome();
        caps.set_debugger_address(&address).unwrap();
        // A page is there in a few hundredths of a second: who looks twice a second mostly waits.
        let poller = Arc::new(ElementPollerWithTimeout::new(PATIENCE, Duration::from_millis(40)));
        let driver = WebDriver::builder(driver, caps).poller(poller).await.unwrap();
        let browser = Self { driver, address };
        browser.viewport(1280, 800).await;
        browser
    }

    /// A browser signed in as the demo's consultant.
    pub async fn signed_in(site: &Site) -> Self {
        let browser = Self::start().await;
        browser.go(site, "/sign-in").await;
        browser.click("form.demo button").await;
        browser.shows("Docket").await;
        browser
    }

    pub async fn viewport(&self, width: u32, height: u32) {
        let metrics = json!({ "width": width, "height": height, "deviceScaleFactor": 1, "mobile": width < 500 });
        self.driver.cdp().send_raw("Emulation.setDeviceMetricsOverride", metrics).await.unwrap();
    }

    pub async fn go(&self, site: &Site, path: &str) {
        self.driver.goto(format!("{}{path}", site.base)).await.unwrap();
    }

    pub async fn path(&self) -> String {
        let url = self.driver.current_url().await.unwrap();
        url.as_str().splitn(4, '/').nth(3).map_or_else(String::new, |p| format!("/{p}"))
    }

    pub async fn find(&self, css: &str) -> WebElement {
        self.driver.query(By::Css(css)).first().await.unwrap_or_else(|e| panic!("{css}: {e}"))
    }

    pub async fn click(&self, css: &str) {
        self.on(self.driver.query(By::Css(css)), pushed).await;
    }

    /// Clicks a link or button by its words.
    pub async fn press(&self, words: &str) {
        let path = format!("//*[self::a or self::button][contains(normalize-space(.), {words:?})]");
        self.on(self.driver.query(By::XPath(&path)).and_displayed(), pushed).await;
    }

    /// Does something with the first element of a query. The page may be changing beneath: what was found on the one before is looked
    /// for again.
    pub async fn on<T>(&self, query: ElementQuery, act: impl AsyncFn(&WebElement) -> WebDriverResult<T>) -> T {
        for _ in 0..5 {
            let done = async { act(&query.first().await?).await };
            match done.await {
                Err(e) if matches!(&*e, WebDriverErrorInner::StaleElementReference(_)) => {}
                done => return done.unwrap(),
            }
        }
        panic!("the page never stood still: {}", self.path().await);
    }

    /// Goes to a place of a visit, from wherever one is on the job.
    pub async fn place(&self, name: &str) {
        self.press("Visit").await;
        let path = format!("//nav[@aria-label='Places']/a[normalize-space(.)={name:?}]");
        self.driver.query(By::XPath(path)).first().await.unwrap().click().await.unwrap();
    }

    /// Drags as a person does, with the mouse, to just below the middle of another element.
    pub async fn drag(&self, from: &WebElement, to: &WebElement) {
        from.scroll_into_view().await.unwrap();
        // The last move must stay on the element it came to: only what was dragged over takes a drop.
        let slow = Some(Duration::from_millis(60));
        let chain = self.driver.action_chain_with_delay(slow, None).click_and_hold_element(from).move_by_offset(6, 6);
        let chain = chain.move_to_element_center(to).move_by_offset(1, 1).move_by_offset(1, 1).move_by_offset(0, 1);
        chain.release().perform().await.unwrap();
    }

    /// Replaces what a field holds, on a page whose scripts run: they would not hear what was typed before.
    pub async fn fill(&self, css: &str, text: &str) {
        while self.driver.execute("return document.readyState", vec![]).await.unwrap().json() != "complete" {}
        let typed = async |field: &WebElement| {
            field.clear().await?;
            field.send_keys(text).await
        };
        self.on(self.driver.query(By::Css(css)), typed).await;
    }

    pub async fn value(&self, css: &str) -> String {
        self.find(css).await.prop("value").await.unwrap().unwrap_or_default()
    }

    /// Waits until the page's text holds `words`.
    pub async fn shows(&self, words: &str) {
        let path = format!("//body[contains(normalize-space(.), {words:?})]");
        if self.driver.query(By::XPath(path)).first().await.is_err() {
            let text = self.find("body").await.text().await.unwrap();
            panic!("{words:?} is not on the page {}:\n{text}", self.path().await);
        }
    }

    pub async fn text(&self, css: &str) -> String {
        self.find(css).await.text().await.unwrap()
    }

    pub async fn screenshot(&self, file: &std::path::Path) {
        self.driver.screenshot(file).await.unwrap();
    }

    /// Leaves the browser to the next test.
    pub async fn quit(self) {
        let cdp = self.driver.cdp();
        cdp.send_raw("Network.clearBrowserCookies", json!({})).await.unwrap();
        self.driver.goto("about:blank").await.unwrap();
        self.driver.quit().await.unwrap();
        IDLE.lock().unwrap().push(self.address);
    }
}
