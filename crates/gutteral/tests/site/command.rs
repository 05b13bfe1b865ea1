//! The command as an operator meets it, and several processes over one database.

use crate::harness::client::Caller;
use crate::harness::{Site, fresh_database, serving};
use gutteral::cluster::{Cluster, Durability, Home};
use gutteral::demo::ENTRY;
use std::io::Write;
use std::net::TcpListener;
use std::process::{Command, Output, Stdio};

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
