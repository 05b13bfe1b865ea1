//! The command as an operator meets it, and several processes over one database.

use crate::harness::client::Caller;
use crate::harness::{Site, fresh_database, serving};
use gutteral::cluster::{Cluster, Durability, Home};
use gutteral::demo::ENTRY;
use std::io::Write;
use std::net::TcpListener;
use std::process::{Command, Output, Stdio};
use tokio::io::{AsyncBufReadExt, BufReader};

fn run(arguments: &[&str], environment: &[(&str, &str)], input: &str) -> Output {
    let mut child = Command::new(env!("CARGO_BIN_EXE_gutteral"))
        .args(arguments)
        .envs(environment.iter().copied())
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    // A command that refuses its arguments never reads: the pipe may be closed already.
    let _ = child.stdin.take().unwrap().write_all(input.as_bytes());
    child.wait_with_output().unwrap()
}

fn said(output: &Output) -> String {
    String::from_utf8_lossy(&output.stdout).into_owned() + &*String::from_utf8_lossy(&output.stderr)
}

#[test]
fn calc_answers_in_order_and_its_status_says_how_it_went() {
    let good = r#"{"op":"air","id":1,"t_c":20,"rh_pct":50}"#;
    let bad = r#"{"op":"air","id":2,"t_c":20,"rh_pct":112}"#;
    let mixed = run(&["calc"], &[], &format!("{bad}\n{good}\n"));
    assert_eq!(mixed.status.code(), Some(1));
    let lines: Vec<serde_json::Value> =
        String::from_utf8(mixed.stdout).unwrap().lines().map(|l| serde_json::from_str(l).unwrap()).collect();
    assert_eq!((lines[0]["id"].as_i64(), lines[1]["id"].as_i64()), (Some(2), Some(1)));
    assert_eq!(run(&["calc"], &[], good).status.code(), Some(0));
    assert_eq!(run(&["calc"], &[], "").status.code(), Some(0));
    assert_eq!(run(&["calc"], &[], "no JSON here").status.code(), Some(2));
}

#[test]
fn a_loggers_file_becomes_lines_and_its_status_says_how_it_went() {
    let file = std::env::temp_dir().join(format!("gutteral-log-{}.csv", std::process::id()));
    let path = file.to_str().unwrap();
    let read = |text: &str, more: &[&str]| {
        std::fs::write(&file, text).unwrap();
        let output = run(&[&["read-log"], more, &[path]].concat(), &[], "");
        let lines = String::from_utf8(output.stdout).unwrap();
        let lines: Vec<serde_json::Value> = lines.lines().map(|l| serde_json::from_str(l).unwrap()).collect();
        (output.status.code(), lines, String::from_utf8(output.stderr).unwrap())
    };
    let text = "Date;Time;Temp (°C);RH (%)\n01.07.2026;10:00;12,5;80\n17.07.2026;11:00;12,6;OL\nMean;;12,55;80\n";
    let (status, lines, _) = read(text, &["--zone", "America/New_York"]);
    assert_eq!(status, Some(1));
    let log = &lines[0]["log"];
    assert_eq!([&log["rows"], &log["refused"]], [2, 1]);
    assert_eq!([&log["order"], &log["zone"], &log["delimiter"]], ["dmy", "America/New_York", ";"]);
    assert_eq!(lines[1]["at"], "2026-07-01T14:00:00Z");
    assert_eq!((lines[2]["t_c"].as_f64(), lines[2]["rh_pct"].is_null()), (Some(12.6), true));
    assert_eq!((lines[3]["line"].as_u64(), lines.len()), (Some(4), 4));
    assert_eq!(read(text.split("Mean").next().unwrap(), &[]).0, Some(0));
    let (status, lines, said) = read("\u{89}PNG", &[]);
    assert_eq!((status, lines.len(), said.lines().count()), (Some(2), 0, 1));
    assert_eq!(read(text, &["--zone", "Nowhere"]).0, Some(2));
    std::fs::remove_file(&file).unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn a_start_that_cannot_work_says_why_and_never_repeats_a_secret() {
    let refused = |arguments: &[&str], environment: &[(&str, &str)]| {
        let output = run(arguments, environment, "");
        assert!(!output.status.success(), "{arguments:?} {environment:?}");
        said(&output)
    };
    assert!(refused(&["sevre"], &[]).contains("gutteral serve"), "an unknown word shows the help");
    assert!(refused(&["serve"], &[]).contains("GUTTERAL_DATABASE_URL is not set"));
    assert!(refused(&["serve"], &[("GUTTERAL_PROT", "1")]).contains("GUTTERAL_PROT is not a setting"));
    let url = fresh_database().await;
    assert!(refused(&["serve"], &[("GUTTERAL_DATABASE_URL", &url)]).contains("GUTTERAL_SECRET is not set"));
    let secret = "a-private-secret-of-more-than-32-characters";
    let powerful = url.replace("//gutteral:", "//cluster:");
    let text = refused(
        &["serve"],
        &[("GUTTERAL_DATABASE_URL", &powerful), ("GUTTERAL_SECRET", secret), ("GUTTERAL_ADDR", "127.0.0.1:0")],
    );
    assert!(text.contains("is a superuser or bypasses row-level security") && !text.contains(secret), "{text}");
    let start = |url: &str| {
        refused(
            &["serve"],
            &[("GUTTERAL_DATABASE_URL", url), ("GUTTERAL_SECRET", secret), ("GUTTERAL_ADDR", "127.0.0.1:0")],
        )
    };
    assert!(start(&serving(&url)).contains("start once with GUTTERAL_OWNER_URL"), "no tables yet");
    let site = Site::over(url.clone()).await;
    let text = start(&url);
    assert!(text.contains("owns the tables") && text.contains("serve as another role"), "{text}");
    drop(site);
    let taken = TcpListener::bind("127.0.0.1:0").unwrap();
    let addr = taken.local_addr().unwrap().to_string();
    let text =
        refused(&["serve"], &[("GUTTERAL_DATABASE_URL", &url), ("GUTTERAL_SECRET", secret), ("GUTTERAL_ADDR", &addr)]);
    assert!(text.contains(&format!("cannot listen on {addr}")), "{text}");
}

#[tokio::test(flavor = "multi_thread")]
async fn a_practice_is_added_from_the_command_line_and_signs_in() {
    let url = fresh_database().await;
    let app = serving(&url);
    let environment = [("GUTTERAL_DATABASE_URL", app.as_str()), ("GUTTERAL_OWNER_URL", &url)];
    let add = |zone: &str, email: &str, password: &str| {
        run(&["add-practice", "Weir Surveys", zone, email, "Ash Penny"], &environment, password)
    };
    assert!(said(&add("Europe/London", "ash@weir.example", "short\n")).contains("at least 12 characters"));
    assert!(said(&add("Mars/North", "ash@weir.example", "long enough, surely\n")).contains("not a time zone"));
    assert!(said(&add("Europe/London", "ash", "long enough, surely\n")).contains("not an e-mail address"));
    assert!(add("Europe/London", "Ash@Weir.example", "long enough, surely\n").status.success());
    assert!(
        said(&add("Europe/London", "ash@weir.example", "long enough, surely\n")).contains("has an account already")
    );
    let site = Site::over(url).await;
    let caller = Caller::new(&site).await;
    let entered =
        caller.post("/sign-in", &[("email", " ASH@weir.example "), ("password", "long enough, surely")]).await;
    assert_eq!(entered.location, "/docket", "{}", entered.body);
    assert!(caller.get("/docket").await.body.contains("No jobs yet"), "the demo's jobs belong to others");
    assert!(
        caller.get("/bench").await.body.contains("never salt-checked"),
        "a new practice starts with instruments to check"
    );
}

#[tokio::test(flavor = "multi_thread")]
async fn processes_over_one_database_share_sessions_forms_and_the_brake() {
    let one = Site::start().await;
    let two = Site::over(one.owner.clone()).await;
    let caller = Caller::signed_in(&one, ENTRY).await;
    let there = caller.at(&two);
    assert!(there.get("/docket").await.body.contains("Mill keeper"), "signed in at one, known at the other");
    let kept = there.post("/preferences", &[("units", "us"), ("back", "/docket")]).await;
    assert_eq!(kept.location, "/docket", "a form of one is taken by the other");
    assert!(caller.get(&caller.job("Mill keeper").await).await.body.contains("87.8 °F"), "and shows at the first");
    let (a, b) = (Caller::new(&one).await, Caller::new(&two).await);
    for guesser in [&a, &b, &a, &b, &a] {
        guesser.post("/sign-in", &[("email", ENTRY), ("password", "guess")]).await;
    }
    let right = b.post("/sign-in", &[("email", ENTRY), ("password", gutteral::demo::PASSWORD)]).await;
    assert_eq!(right.status, 429, "guesses at either count together");
}

#[test]
fn a_private_cluster_keeps_its_data_over_a_restart_until_it_is_removed() {
    let home = std::env::temp_dir().join(format!("gutteral-keeps-{}", std::process::id()));
    let mut cluster = Cluster::start(Home::claim(&home).unwrap(), Durability::ThrowAway).unwrap();
    cluster.database("kept").unwrap();
    cluster.admin("kept", "create table t as select 1 as x").unwrap();
    cluster.stop().unwrap();
    drop(cluster);
    let cluster = Cluster::start(Home::claim(&home).unwrap(), Durability::ThrowAway).unwrap();
    cluster.admin("kept", "select x from t").unwrap();
    assert!(cluster.admin("kept", "select y from t").is_err());
    cluster.discard().unwrap();
    let cluster = Cluster::start(Home::claim(&home).unwrap(), Durability::ThrowAway).unwrap();
    assert!(cluster.admin("kept", "select 1").is_err(), "started over");
    drop(cluster);
    std::fs::remove_dir_all(&home).unwrap();
}

/// The demo as somebody starts it.
struct Demo {
    child: tokio::process::Child,
    lines: tokio::io::Lines<tokio::io::BufReader<tokio::process::ChildStdout>>,
}

impl Demo {
    fn start(home: &std::path::Path, arguments: &[&str]) -> Self {
        let mut command = tokio::process::Command::new(env!("CARGO_BIN_EXE_gutteral"));
        command.arg("demo").args(arguments).env("GUTTERAL_DATA_DIR", home).env("GUTTERAL_ADDR", "127.0.0.1:0");
        let mut child = command.stdout(Stdio::piped()).stderr(Stdio::piped()).kill_on_drop(true).spawn().unwrap();
        let lines = BufReader::new(child.stdout.take().unwrap()).lines();
        Self { child, lines }
    }

    /// Reads what it says up to some words, and gives the rest of their line.
    async fn says(&mut self, words: &str) -> String {
        while let Some(line) = self.lines.next_line().await.unwrap() {
            if let Some((_, rest)) = line.split_once(words) {
                return rest.to_owned();
            }
        }
        panic!("it never said {words}");
    }

    /// Its base address, once it serves.
    async fn base(&mut self) -> String {
        self.says("Gutteral is at ").await.trim_end_matches('/').to_owned()
    }

    async fn signal(&mut self, signal: &str) -> std::process::ExitStatus {
        let pid = self.child.id().unwrap().to_string();
        assert!(Command::new("kill").args([signal, &pid]).status().unwrap().success());
        self.child.wait().await.unwrap()
    }
}

/// Jobs on the docket of the demo's consultant, or why it cannot be seen.
async fn jobs(base: &str) -> Result<usize, String> {
    let http = reqwest::Client::builder().cookie_store(true).build().unwrap();
    let page = async |request: reqwest::RequestBuilder| -> Result<String, String> {
        let answer = request.send().await.and_then(reqwest::Response::error_for_status).map_err(|e| e.to_string())?;
        answer.text().await.map_err(|e| e.to_string())
    };
    let entry = page(http.get(format!("{base}/sign-in"))).await?;
    let token = crate::harness::client::hidden(&entry, "csrf");
    let docket = page(http.post(format!("{base}/sign-in/demo")).form(&[("csrf", token)])).await?;
    Ok(docket.matches("/round\"").count())
}

#[tokio::test(flavor = "multi_thread")]
async fn the_demo_comes_up_with_all_its_data_however_it_ended() {
    let home = std::env::temp_dir().join(format!("gutteral-demo-{}", std::process::id()));
    // Killed while its tables are made, while its data is loaded, and while it serves.
    for (words, signal) in
        [("Starting the database", "-9"), ("Bringing its tables", "-9"), ("Bringing its tables", "-HUP")]
    {
        let mut demo = Demo::start(&home, &[]);
        demo.says(words).await;
        demo.signal(signal).await;
    }
    for signal in ["-9", "-HUP", "-TERM", "-9"] {
        let mut demo = Demo::start(&home, &[]);
        let base = demo.base().await;
        assert_eq!(jobs(&base).await, Ok(5), "before {signal}");
        let ended = demo.signal(signal).await;
        assert_eq!(ended.success(), signal != "-9", "{ended:?}");
        assert_eq!(
            home.join("postgres/postmaster.pid").exists(),
            signal == "-9",
            "{signal}: the database stops with it"
        );
    }
    // While it runs, nobody else touches its folder, whatever they ask for.
    let mut demo = Demo::start(&home, &[]);
    let base = demo.base().await;
    for arguments in [&[][..], &["--fresh"][..]] {
        let other = Demo::start(&home, arguments).child.wait_with_output().await.unwrap();
        assert!(!other.status.success() && said(&other).contains("in use by another gutteral"), "{}", said(&other));
    }
    assert_eq!(jobs(&base).await, Ok(5));
    // Its database killed under it comes back by itself.
    let pid = std::fs::read_to_string(home.join("postgres/postmaster.pid")).unwrap().lines().next().unwrap().to_owned();
    assert!(Command::new("kill").args(["-9", &pid]).status().unwrap().success());
    let begun = std::time::Instant::now();
    while jobs(&base).await != Ok(5) {
        assert!(begun.elapsed().as_secs() < 120, "the database never came back");
    }
    demo.signal("-9").await;
    // Started over, an orphan is stopped first.
    let mut fresh = Demo::start(&home, &["--fresh"]);
    assert_eq!(jobs(&fresh.base().await).await, Ok(5));
    assert!(fresh.signal("-INT").await.success());
    let kept = std::fs::metadata(home.join("secret")).unwrap();
    assert_eq!(std::os::unix::fs::PermissionsExt::mode(&kept.permissions()) & 0o077, 0, "its secret is its own");
    std::fs::remove_dir_all(&home).unwrap();
}
