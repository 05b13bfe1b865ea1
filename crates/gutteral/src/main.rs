//! The command: `gutteral serve | demo | calc | add-practice | with-database | help`.

use anyhow::{Context, Result, bail};
use gutteral::cluster::{self, Cluster, Durability};
use gutteral::demo;
use gutteral::settings::{Settings, TEST_DATABASE};
use std::io::{self, BufReader, BufWriter, Write};
use std::path::Path;
use std::process::ExitCode;
use store::{Instrument, NewPractice, Person, Store};
use tokio::net::TcpListener;
use uuid::Uuid;

const HELP: &str = "\
gutteral: read the air and the surfaces, and know what is wetting a building

  gutteral demo [--fresh]     a private database with demo data, served on loopback; --fresh starts over
  gutteral serve              serve with the database of GUTTERAL_DATABASE_URL; needs GUTTERAL_SECRET
  gutteral calc               JSON Lines in, JSON Lines out: the core without the web
  gutteral add-practice NAME TIME_ZONE EMAIL CONSULTANT
                              add a practice; its first consultant's password is read from standard input
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
        ["demo"] => demo(false),
        ["demo", "--fresh"] => demo(true),
        ["serve"] => serve(),
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

fn runtime() -> Result<tokio::runtime::Runtime> {
    Ok(tokio::runtime::Builder::new_multi_thread().enable_all().build()?)
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

/// Ctrl-C, or the signal a supervisor stops a service with.
async fn stop_signal() {
    use tokio::signal::unix::{SignalKind, signal};
    match signal(SignalKind::terminate()) {
        Ok(mut terminate) => {
            tokio::select! { _ = tokio::signal::ctrl_c() => {}, _ = terminate.recv() => {} }
        }
        Err(_) => {
            let _ = tokio::signal::ctrl_c().await;
        }
    }
}

fn demo(fresh: bool) -> Result<()> {
    log_to_stderr("warn");
    let settings = settings()?;
    if settings.database_url.is_some() {
        bail!("the demo has a database of its own: unset GUTTERAL_DATABASE_URL, or use gutteral serve");
    }
    runtime()?.block_on(async {
        let listener = listen(&settings).await?;
        if fresh {
            println!("Starting over: removing the demo’s database");
            cluster::remove(&settings.data_dir)?;
        }
        println!("Starting the database");
        let mut cluster = Cluster::start(&settings.data_dir, Durability::Durable)?;
        let store = Store::connect(&cluster.database("gutteral")?).await?;
        println!("Bringing its tables up to date");
        store.migrate().await?;
        if demo::load(&store, chrono::Utc::now()).await? {
            println!("Loaded the demo data: two practices, five jobs");
        }
        let addr = listener.local_addr()?;
        println!("\nGutteral is at http://{addr}/");
        println!("Sign in with one click, or as {} with the password {}", demo::ENTRY, demo::PASSWORD);
        println!("Ctrl-C stops it; the data stays.");
        io::stdout().flush()?;
        let secret = settings.secret.clone().unwrap_or_else(|| format!("{}{}", Uuid::new_v4(), Uuid::new_v4()));
        let app = web::App::new(store, &secret, Some(demo::ENTRY.into()));
        web::serve(listener, app, stop_signal()).await?;
        println!("\nStopping the database");
        cluster.stop()
    })
}

fn serve() -> Result<()> {
    log_to_stderr("warn,web=info,tower_http=info");
    let settings = settings()?;
    let url = settings.database_url.as_deref().context("GUTTERAL_DATABASE_URL is not set: where is the database?")?;
    let secret =
        settings.secret.as_deref().context("GUTTERAL_SECRET is not set: 32 characters or more, kept private")?;
    runtime()?.block_on(async {
        let listener = listen(&settings).await?;
        let store = Store::connect(url).await?;
        store.migrate().await?;
        println!("Gutteral is at http://{}/", listener.local_addr()?);
        web::serve(listener, web::App::new(store, secret, None), stop_signal()).await?;
        Ok(())
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
        let store = Store::connect(url).await?;
        store.migrate().await?;
        if store.account(email).await?.is_some() {
            bail!("{email} has an account already");
        }
        let password_hash = web::hash_password(password).map_err(|e| anyhow::anyhow!(e))?;
        let person = Person { id: Uuid::now_v7(), email: email.into(), name: consultant.into(), password_hash };
        let id = Uuid::now_v7();
        store.create_practice(NewPractice { id, name: name.into(), time_zone: zone.into(), person }).await?;
        let scope = store.practice(id).await?;
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
    let cluster = Cluster::start(home, Durability::ThrowAway)?;
    let status = std::process::Command::new(command)
        .args(arguments)
        .env(TEST_DATABASE, cluster.url("postgres"))
        .status()
        .with_context(|| format!("cannot run {command}"))?;
    Ok(u8::try_from(status.code().unwrap_or(1)).unwrap_or(1))
}
