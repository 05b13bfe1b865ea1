//! The command: `gutteral serve | demo | calc | read-log | export | import | add-practice | with-database | help`.

use anyhow::{Context, Result, bail};
use gutteral::cluster::{Cluster, Durability, Home};
use gutteral::demo;
use gutteral::outside::{Addresses, World};
use gutteral::read_log::{ReadLogError, Went, arguments};
use gutteral::settings::{Settings, TEST_DATABASE};
use gutteral::stand_in::{forecast, mail};
use std::io::{self, BufReader, BufWriter, Write};
use std::path::Path;
use std::pin::Pin;
use std::process::ExitCode;
use store::{Instrument, NewPractice, Person, Store};
use tokio::net::TcpListener;
use uuid::Uuid;

/// Gives memory back after a large picture; the system's own keeps what was once needed.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

const HELP: &str = "\
gutteral: read the air and the surfaces, and know what is wetting a building

  gutteral demo [--fresh]     a private database with demo data, served on loopback; --fresh starts over
  gutteral serve              serve with the database of GUTTERAL_DATABASE_URL; needs GUTTERAL_SECRET
  gutteral calc               JSON Lines in, JSON Lines out: the core without the web
  gutteral read-log [--zone ZONE] [--order dmy|mdy|ymd] FILE
                              a logger's or weather file as JSON Lines
  gutteral stand-in logger|weather [--url URL] [--seed N] [--every SECONDS] [--drift PERCENT] [--lost SHARE] [--clock HOURS]
                              post what an invented building’s logger would show; its token is GUTTERAL_LOGGER_TOKEN
  gutteral stand-in forecast [--addr ADDRESS] [--seed N]
                              invented weather to come, as a forecast service tells it
  gutteral stand-in mail [--addr ADDRESS]
                              take letters and print them, as a mail server would send them
  gutteral stand-in camera [--seed N] [NAME]
                              a thermal picture of an invented surface, as a camera's program saves it; without a name, their names
  gutteral add-practice NAME TIME_ZONE EMAIL CONSULTANT
                              add a practice; its first consultant's password is read from standard input
  gutteral export EMAIL JOB   a job of the practice of EMAIL as JSON, by its name or id
  gutteral import [--copy] EMAIL FILE
                              bring a job in from its JSON; --copy beside itself, where it is there already
  gutteral with-database COMMAND [ARGUMENT ...]
                              run a command with a throw-away database, as the tests do
  gutteral help               this text

Settings come from the environment; gutteral.env.example describes them.
";

fn main() -> ExitCode {
    let arguments: Vec<String> = std::env::args().skip(1).collect();
    let words: Vec<&str> = arguments.iter().map(String::as_str).collect();
    let done = match words.as_slice() {
        ["calc"] => return calc_lines(),
        ["read-log", rest @ ..] => return read_log(rest),
        ["demo"] => demo(false),
        ["demo", "--fresh"] => demo(true),
        ["serve"] => serve(),
        ["stand-in", rest @ ..] => stand_in(rest),
        ["export", email, job] => export(email, job),
        ["import", email, file] => import(email, file, false),
        ["import", "--copy", email, file] => import(email, file, true),
        ["add-practice", name, zone, email, consultant] => add_practice(name, zone, email, consultant),
        ["with-database", command, rest @ ..] => return with_database(command, rest),
        ["help" | "--help" | "-h"] => {
            print!("{HELP}");
            return ExitCode::SUCCESS;
        }
        _ => {
            eprint!("{HELP}");
            return ExitCode::from(2);
        }
    };
    match done {
        Ok(()) => ExitCode::SUCCESS,
        Err(e) => {
            eprintln!("gutteral: {e:#}");
            ExitCode::FAILURE
        }
    }
}

fn calc_lines() -> ExitCode {
    match calc::run_lines(BufReader::new(io::stdin()), BufWriter::new(io::stdout())) {
        Ok(outcome) => ExitCode::from(outcome.exit_code()),
        // Whoever read our output went away: nothing is left to tell them.
        Err(e) if e.kind() == io::ErrorKind::BrokenPipe => ExitCode::SUCCESS,
        Err(e) => {
            eprintln!("gutteral calc: {e}");
            ExitCode::FAILURE
        }
    }
}

fn read_log(words: &[&str]) -> ExitCode {
    let done = arguments(words)
        .and_then(|(file, wishes)| gutteral::read_log::run(file, &wishes, BufWriter::new(io::stdout().lock())));
    match done {
        Ok(Went::Whole) => ExitCode::SUCCESS,
        Ok(Went::Partly) => ExitCode::from(1),
        Err(ReadLogError::Out(e)) if e.kind() == io::ErrorKind::BrokenPipe => ExitCode::SUCCESS,
        Err(e) => {
            eprintln!("gutteral read-log: {e}");
            ExitCode::from(2)
        }
    }
}

/// Threads for what computes long; whoever comes next waits. Each keeps memory of its own.
const MOST_BLOCKED: usize = 16;

fn runtime() -> Result<tokio::runtime::Runtime> {
    Ok(tokio::runtime::Builder::new_multi_thread().max_blocking_threads(MOST_BLOCKED).enable_all().build()?)
}

fn settings() -> Result<Settings> {
    Settings::read(std::env::vars())
}

/// Logs to standard error; RUST_LOG overrides `usual`.
fn log_to_stderr(usual: &str) {
    let filter = tracing_subscriber::EnvFilter::try_from_default_env()
        .unwrap_or_else(|_| tracing_subscriber::EnvFilter::new(usual));
    tracing_subscriber::fmt().with_env_filter(filter).with_writer(io::stderr).init();
}

/// Binds before anything else is started, so that a taken port costs nothing.
async fn listen(settings: &Settings) -> Result<TcpListener> {
    TcpListener::bind(settings.addr).await.with_context(|| {
        format!("cannot listen on {}: is it taken? Choose another with GUTTERAL_ADDR=127.0.0.1:PORT", settings.addr)
    })
}

/// Resolves on Ctrl-C, the signal a supervisor stops a service with, or the terminal's closing; heard from now on.
fn stop_signal() -> Result<Pin<Box<dyn Future<Output = ()> + Send>>> {
    use tokio::signal::unix::{SignalKind, signal};
    let mut interrupt = signal(SignalKind::interrupt())?;
    let mut terminate = signal(SignalKind::terminate())?;
    let mut hangup = signal(SignalKind::hangup())?;
    Ok(Box::pin(async move {
        tokio::select! { _ = interrupt.recv() => {}, _ = terminate.recv() => {}, _ = hangup.recv() => {} }
    }))
}

/// Tells how far it is; with the terminal closed there is nobody to tell.
fn say(text: &str) {
    let mut out = io::stdout();
    let _ = writeln!(out, "{text}");
    let _ = out.flush();
}

fn demo(fresh: bool) -> Result<()> {
    log_to_stderr("warn");
    let settings = settings()?;
    if settings.database_url.is_some() {
        bail!("the demo has a database of its own: unset GUTTERAL_DATABASE_URL, or use gutteral serve");
    }
    runtime()?.block_on(async {
        let mut stop = stop_signal()?;
        let listener = listen(&settings).await?;
        let home = Home::claim(&settings.data_dir)?;
        if fresh {
            say("Starting over: removing the demo’s database");
            home.clear()?;
        }
        say("Starting the database");
        let mut cluster = Cluster::start(home, Durability::Durable)?;
        let store = tokio::select! {
            () = &mut stop => None,
            store = demo_store(&cluster) => Some(store?),
        };
        if let Some(store) = store {
            say(&format!("\nGutteral is at http://{}/", listener.local_addr()?));
            say(&format!("Sign in with one click, or as {} with the password {}", demo::ENTRY, demo::PASSWORD));
            say("Ctrl-C stops it; the data stays.");
            let secret = settings.secret.clone().unwrap_or_else(|| format!("{}{}", Uuid::new_v4(), Uuid::new_v4()));
            tokio::spawn(casework::log::work(store.clone(), World::new(demo_outside(&settings).await?)?));
            tokio::spawn(demo::live(store.clone(), format!("http://{}", listener.local_addr()?)));
            let app = web::App::new(store, &secret, Some(demo::ENTRY.into()), settings.proxies);
            tokio::select! {
                served = web::serve(listener, app, stop) => served?,
                never = cluster.supervise(Durability::Durable) => match never {},
            }
        }
        say("\nStopping the database");
        cluster.stop()
    })
}

/// What lies outside of the demo: what is set, else stand-ins of its own. Letters lie in its folder.
async fn demo_outside(settings: &Settings) -> Result<Addresses> {
    let mut at = outside(settings);
    if at.forecast.is_none() {
        let weather = TcpListener::bind("127.0.0.1:0").await?;
        at.forecast = Some(forecast::address(weather.local_addr()?));
        tokio::spawn(forecast::serve(weather, demo::SEED));
    }
    if at.smtp.is_none() {
        let letters = TcpListener::bind("127.0.0.1:0").await?;
        at.smtp = Some(mail::address(letters.local_addr()?));
        at.mail_from = Some("gutteral@ostley-fell.example".into());
        let folder = settings.data_dir.join("letters");
        tokio::spawn(mail::serve(letters, move |letter| {
            let _ = std::fs::create_dir_all(&folder);
            // A letter nobody can keep is no reason to stop.
            let _ = std::fs::write(folder.join(format!("{}.eml", Uuid::now_v7())), letter);
        }));
    }
    Ok(at)
}

fn outside(settings: &Settings) -> Addresses {
    Addresses {
        forecast: settings.forecast_url.clone(),
        smtp: settings.smtp_url.clone(),
        mail_from: settings.mail_from.clone(),
        chromium: settings.chromium.clone(),
        webhooks_at_home: settings.webhooks_at_home,
    }
}

/// The demo's database with its data.
async fn demo_store(cluster: &Cluster) -> Result<Store> {
    cluster.database("gutteral")?;
    say("Bringing its tables up to date");
    let store = prepared(&cluster.url("gutteral"), Some(&cluster.owner_url("gutteral"))).await?;
    if demo::load(&store, chrono::Utc::now()).await? {
        say("Loaded the demo data: two practices, five jobs");
    }
    Ok(store)
}

/// The store of the role that serves, its tables up to date: made by their owner, where that is known.
async fn prepared(url: &str, owner: Option<&str>) -> Result<Store> {
    let store = Store::connect(url).await?;
    if let Some(owner) = owner {
        store::migrate(owner, &store.role().await?).await.context("bringing the tables up to date")?;
    }
    if !store.is_current().await? {
        bail!(
            "the tables are missing or of another version: start once with GUTTERAL_OWNER_URL, \
             the database as the role that owns them"
        );
    }
    Ok(store)
}

fn serve() -> Result<()> {
    log_to_stderr("warn,web=info,tower_http=info");
    let settings = settings()?;
    let url = settings.database_url.as_deref().context("GUTTERAL_DATABASE_URL is not set: where is the database?")?;
    let secret =
        settings.secret.as_deref().context("GUTTERAL_SECRET is not set: 32 characters or more, kept private")?;
    runtime()?.block_on(async {
        let listener = listen(&settings).await?;
        let store = prepared(url, settings.owner_url.as_deref()).await?;
        say(&format!("Gutteral is at http://{}/", listener.local_addr()?));
        tokio::spawn(casework::log::work(store.clone(), World::new(outside(&settings))?));
        web::serve(listener, web::App::new(store, secret, None, settings.proxies), stop_signal()?).await?;
        Ok(())
    })
}

fn export(email: &str, job: &str) -> Result<()> {
    let settings = settings()?;
    let url = settings.database_url.as_deref().context("GUTTERAL_DATABASE_URL is not set: where is the database?")?;
    runtime()?.block_on(async {
        let store = prepared(url, settings.owner_url.as_deref()).await?;
        gutteral::exchange::export(&store, email, job, io::stdout().lock()).await
    })
}

fn import(email: &str, file: &str, copy: bool) -> Result<()> {
    let settings = settings()?;
    let url = settings.database_url.as_deref().context("GUTTERAL_DATABASE_URL is not set: where is the database?")?;
    runtime()?.block_on(async {
        let store = prepared(url, settings.owner_url.as_deref()).await?;
        let came = gutteral::exchange::import(&store, email, file, copy).await?;
        say(&format!("/jobs/{}: {}", came.job, casework::parcel::says(came)));
        Ok(())
    })
}

fn stand_in(words: &[&str]) -> Result<()> {
    if let ["mail", rest @ ..] = words {
        let addr = mail::arguments(rest)?;
        return runtime()?.block_on(async {
            let stop = stop_signal()?;
            let listener = TcpListener::bind(addr).await.with_context(|| format!("listening on {addr}"))?;
            say(&format!("GUTTERAL_SMTP_URL={}", mail::address(listener.local_addr()?)));
            tokio::select! {
                served = mail::serve(listener, |letter| say(&letter)) => served,
                () = stop => Ok(()),
            }
        });
    }
    if let ["forecast", rest @ ..] = words {
        let service = forecast::arguments(rest)?;
        return runtime()?.block_on(async {
            let stop = stop_signal()?;
            let listener =
                TcpListener::bind(service.addr).await.with_context(|| format!("listening on {}", service.addr))?;
            say(&format!("GUTTERAL_FORECAST_URL={}", forecast::address(listener.local_addr()?)));
            tokio::select! {
                served = forecast::serve(listener, service.seed) => served,
                () = stop => Ok(()),
            }
        });
    }
    if let ["camera", rest @ ..] = words {
        return Ok(std::io::stdout().write_all(gutteral::stand_in::camera(rest)?.as_bytes())?);
    }
    let stand_in = gutteral::stand_in::arguments(words)?;
    runtime()?.block_on(async {
        let stop = stop_signal()?;
        tokio::select! {
            posted = gutteral::stand_in::run(stand_in) => posted,
            () = stop => Ok(()),
        }
    })
}

fn add_practice(name: &str, zone: &str, email: &str, consultant: &str) -> Result<()> {
    let settings = settings()?;
    let url = settings.database_url.as_deref().context("GUTTERAL_DATABASE_URL is not set: where is the database?")?;
    if !email.contains('@') {
        bail!("{email} is not an e-mail address");
    }
    if !web::is_time_zone(zone) {
        bail!("{zone} is not a time zone; it is written like Europe/London");
    }
    let mut password = String::new();
    io::stdin().read_line(&mut password)?;
    let password = password.trim_end_matches(['\r', '\n']);
    if password.chars().count() < 12 {
        bail!("the password must be at least 12 characters long");
    }
    runtime()?.block_on(async {
        let store = prepared(url, settings.owner_url.as_deref()).await?;
        if store.account(email).await?.is_some() {
            bail!("{email} has an account already");
        }
        let password_hash = web::hash_password(password).map_err(|e| anyhow::anyhow!(e))?;
        let person = Person { id: Uuid::now_v7(), email: email.into(), name: consultant.into(), password_hash };
        let id = Uuid::now_v7();
        let new = NewPractice { id, name: name.into(), time_zone: zone.into(), person };
        let scope = store.create_practice(new).await?;
        for instrument in demo::starter_instruments(chrono::Utc::now()) {
            scope.add_instrument(Instrument { rh_offset_pct: 0.0, checked_on: None, ..instrument }).await?;
        }
        scope.commit().await?;
        println!("Added {name} with {consultant}, who signs in as {email}");
        Ok(())
    })
}

/// Runs a command with the address of a throw-away cluster in its environment, and takes its exit status.
fn with_database(command: &str, arguments: &[&str]) -> ExitCode {
    let home = std::env::temp_dir().join(format!("gutteral-test-{}", std::process::id()));
    let outcome = run_with_database(&home, command, arguments);
    let _ = std::fs::remove_dir_all(&home);
    match outcome {
        Ok(code) => ExitCode::from(code),
        Err(e) => {
            eprintln!("gutteral: {e:#}");
            ExitCode::FAILURE
        }
    }
}

fn run_with_database(home: &Path, command: &str, arguments: &[&str]) -> Result<u8> {
    let cluster = Cluster::start(Home::claim(home)?, Durability::ThrowAway)?;
    let status = std::process::Command::new(command)
        .args(arguments)
        .env(TEST_DATABASE, cluster.owner_url("postgres"))
        .status()
        .with_context(|| format!("cannot run {command}"))?;
    Ok(u8::try_from(status.code().unwrap_or(1)).unwrap_or(1))
}
