//! People: each address for those it says and nobody else; invitations, shutting out, a second factor, a trainee's visit looked through.

use crate::harness::Site;
use crate::harness::client::{Caller, first_choice, hidden};
use gutteral::demo::{ENTRY, PASSWORD};
use reqwest::{Method, StatusCode};
use store::Role;
use uuid::Uuid;
use web::access::Right;

const EVERYBODY: [(&str, Role); 4] = [
    (ENTRY, Role::Lead),
    ("sedge@ostley-fell.example", Role::Technician),
    ("bracken@ostley-fell.example", Role::Reviewer),
    ("thrift@ostley-fell.example", Role::Trainee),
];

/// An address with something in place of its parameters: the job, and ids of nothing.
fn filled(path: &str, job: &str) -> String {
    let nothing = Uuid::now_v7().to_string();
    let part = |p: &str| match p {
        "{job}" => job.rsplit('/').next().unwrap().to_owned(),
        "{op}" => "air".into(),
        "{fix}" => "ground_film".into(),
        "{question}" => "fill_wall".into(),
        "{size}" => "thumb".into(),
        p if p.starts_with('{') => nothing.clone(),
        p => p.to_owned(),
    };
    path.split('/').map(part).collect::<Vec<_>>().join("/")
}

#[tokio::test(flavor = "multi_thread")]
async fn every_address_is_for_those_it_says_and_nobody_else() {
    let site = Site::start().await;
    let stranger = Caller::new(&site).await;
    let mut declared = web::declared();
    assert!(declared.len() > 140, "{}", declared.len());
    // What ends the session or the job comes last.
    declared.sort_by_key(|d| d.path.ends_with("/remove") || d.path == "/sign-out");
    for (email, role) in EVERYBODY {
        let caller = Caller::signed_in(&site, email).await;
        let job = caller.job("School").await;
        // What an open page listens to does not end.
        let asked = |d: &&web::access::Declared| d.right != Right::Anybody && d.path != "/sign-out";
        for d in declared.iter().filter(asked).filter(|d| !d.path.ends_with("/told")) {
            let path = filled(d.path, &job);
            let answer = match d.method {
                Method::GET => caller.get(&path).await,
                _ => caller.post(&path, &[]).await,
            };
            let refused = answer.status == StatusCode::FORBIDDEN && answer.body.contains("Not yours to do");
            assert_eq!(refused, !d.right.is_of(role, false), "{role:?} {} {path}: {}", d.method, answer.status);
            assert!(!answer.status.is_server_error(), "{role:?} {} {path}: {}", d.method, answer.body);
            if role != Role::Lead {
                continue;
            }
            let outside = match d.method {
                Method::GET => stranger.get(&path).await,
                _ => stranger.post(&path, &[]).await,
            };
            let turned_away =
                outside.location.starts_with("/sign-in?next=") || outside.status == StatusCode::UNAUTHORIZED;
            assert!(turned_away, "a stranger, {} {path}: {} {}", d.method, outside.status, outside.location);
        }
        site.run("update job set removed_at = null where name like 'School%'").await;
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn a_technician_is_invited_works_and_is_shut_out_again() {
    let site = Site::start().await;
    let lead = Caller::signed_in(&site, ENTRY).await;
    let new = || Uuid::now_v7().to_string();
    let invite = async |id: &str, name: &str, email: &str, role: &str| {
        let fields = [("id", id), ("act", "invite"), ("name", name), ("email", email), ("role", role)];
        lead.post("/people", &fields).await
    };
    for (name, email, role, said) in [
        ("", "fern@x.example", "technician", "Who is it?"),
        ("Fern", "fern", "technician", "An e-mail address"),
        ("Fern", "sedge@ostley-fell.example", "technician", "Somebody here signs in with it already."),
        ("Fern", "fern@x.example", "king", "Choose what they may do."),
    ] {
        let answer = invite(&new(), name, email, role).await;
        assert_eq!(answer.status, StatusCode::UNPROCESSABLE_ENTITY, "{said}");
        assert!(answer.body.contains(said) && answer.body.contains(email), "{said}");
    }
    let id = new();
    let made = invite(&id, "Fern <b>", "fern@x.example", "technician").await;
    assert_eq!(invite(&id, "Fern <b>", "fern@x.example", "technician").await.status, StatusCode::SEE_OTHER);
    assert_eq!((site.count("invite").await, site.count("letter where job_id is null").await), (1, 1));
    let (_, at) = made.body.split_once("/join/").unwrap();
    let join = format!("/join/{}", at.split('"').next().unwrap());
    assert!(!site.text("select key_hash from invite").await.contains(&join[6..]));
    let fern = Caller::new(&site).await;
    let page = fern.get(&join).await.body;
    assert!(page.contains("invites you") && page.contains("fern@x.example") && page.contains("Fern &#60;b&#62;"));
    let weak = fern.post(&join, &[("name", "Fern"), ("new_password", "short")]).await;
    assert!(weak.status == StatusCode::UNPROCESSABLE_ENTITY && weak.body.contains("12 characters at least: it has 5."));
    // Twice at once: one joins.
    let fields = [("name", "Fern Tarn"), ("new_password", PASSWORD)];
    let (one, two) = tokio::join!(fern.post(&join, &fields), fern.post(&join, &fields));
    let mut both = [one.status, two.status];
    both.sort();
    assert_eq!(both, [StatusCode::SEE_OTHER, StatusCode::GONE]);
    assert_eq!(fern.get(&join).await.status, StatusCode::GONE);
    assert_eq!(fern.get("/join/guessed").await.status, StatusCode::GONE);

    let fern = Caller::signed_in(&site, "fern@x.example").await;
    let job = fern.job("Mill keeper").await;
    let visit = new();
    assert_eq!(fern.post(&format!("{job}/visits"), &[("id", &visit)]).await.status, StatusCode::SEE_OTHER);
    assert_eq!(site.count("visit where for_review").await, 0);
    let refused =
        fern.post(&format!("{job}/plan/ground_film"), &[("id", &new()), ("act", "done"), ("reason", "typed")]).await;
    assert_eq!(refused.status, StatusCode::FORBIDDEN);
    assert!(refused.body.contains("Your role does not let you decide about a job.") && refused.body.contains("typed"));
    assert!(fern.get(&format!("{job}/plan")).await.body.contains("You look on: your role does"));
    // What the lead decided is not a technician's to undo.
    let change = site.text("select c.id::text from change c join job j on j.id = c.job_id where j.name like 'Mill%' and c.what like 'Decided%' limit 1").await;
    let undo = fern.post(&format!("{job}/undo"), &[("id", &new()), ("change", &change)]).await;
    assert_eq!(undo.status, StatusCode::FORBIDDEN);

    let them = site.text("select id::text from consultant where email = 'fern@x.example'").await;
    let act = async |act: &str, of: &str, role: &str| {
        lead.post("/people", &[("id", &new()), ("act", act), ("of", of), ("role", role)]).await
    };
    let me = site.text(&format!("select id::text from consultant where email = '{ENTRY}'")).await;
    for (what, role, said) in [("role", "reviewer", "Somebody must lead"), ("end", "", "You cannot shut yourself out")]
    {
        let answer = act(what, &me, role).await;
        assert!(answer.status == StatusCode::UNPROCESSABLE_ENTITY && answer.body.contains(said), "{said}");
    }
    let odd = site.text("select id::text from consultant where email = 'odd@low-harbor.example'").await;
    assert_eq!(act("role", &odd, "lead").await.status, StatusCode::NOT_FOUND);
    let calendar = format!(
        "insert into calendar_feed (practice_id, key_hash, consultant_id, created_at) \
        select practice_id, 'x', id, now() from consultant where id = '{them}'"
    );
    site.run(&calendar).await;
    act("end", &them, "").await;
    assert_eq!(site.count("calendar_feed where key_hash = 'x' and revoked_at is null").await, 0);
    assert!(fern.get("/docket").await.location.starts_with("/sign-in"));
    let closed = Caller::new(&site).await;
    let sign_in = [("email", "fern@x.example"), ("password", PASSWORD)];
    assert!(closed.post("/sign-in", &sign_in).await.body.contains("This account is closed."));
    act("back", &them, "").await;
    act("role", &them, "lead").await;
    let fern = Caller::signed_in(&site, "fern@x.example").await;
    assert!(fern.get("/people").await.body.contains("Fern Tarn"));
    let audit = lead.get("/people/audit").await.body;
    for line in [
        "Invited Fern &#60;b&#62; &#60;fern@x.example&#62; as technician",
        "joined as technician",
        "may not come in any more",
        "is lead now",
    ] {
        assert!(audit.contains(line), "{line}: {audit}");
    }
    assert!(site.refuses("update audit set what = 'nothing'").await && site.refuses_app("delete from sign_in").await);
    // A forgotten password: the link ends every session of theirs.
    let reset = act("reset", &them, "").await.body;
    let join = format!("/join/{}", reset.split_once("/join/").unwrap().1.split('"').next().unwrap());
    site.run("update invite set expires_at = now() - interval '1 minute' where ended_at is null").await;
    assert_eq!(closed.get(&join).await.status, StatusCode::GONE);
    site.run("update invite set expires_at = now() + interval '1 day' where ended_at is null").await;
    let set = closed.post(&join, &[("new_password", "another long sentence")]).await;
    assert_eq!(set.status, StatusCode::SEE_OTHER);
    assert!(fern.get("/docket").await.location.starts_with("/sign-in"));
    assert!(closed.post("/sign-in", &sign_in).await.body.contains("do not match"));
}

/// The code of a second factor, by another's reckoning of RFC 6238.
fn code(secret: &str, ahead: u64) -> String {
    let secret = totp_rs::Secret::Encoded(secret.replace(' ', "")).to_bytes().unwrap();
    let made = totp_rs::TOTP::new(totp_rs::Algorithm::SHA1, 6, 1, 30, secret, None, String::new()).unwrap();
    let now = std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH).unwrap().as_secs();
    made.generate(now + 30 * ahead)
}

#[tokio::test(flavor = "multi_thread")]
async fn a_second_factor_is_asked_for_and_no_code_counts_twice() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, "sedge@ostley-fell.example").await;
    let elsewhere = Caller::signed_in(&site, "sedge@ostley-fell.example").await;
    let act = async |fields: &[(&str, &str)]| {
        let id = Uuid::now_v7().to_string();
        caller.post("/me", &[&[("id", id.as_str())], fields].concat()).await
    };
    let wrong = act(&[("act", "second"), ("password", "a guess")]).await;
    assert!(wrong.status == StatusCode::UNPROCESSABLE_ENTITY && wrong.body.contains("That is not your password."));
    let page = act(&[("act", "second"), ("password", PASSWORD)]).await.body;
    let (word, secret) =
        (hidden(&page, "word"), page.split("break-all\">").nth(1).unwrap().split('<').next().unwrap().to_owned());
    let set = [("act", "set-second"), ("password", PASSWORD), ("word", &word), ("code", "000000")];
    assert!(act(&set).await.body.contains("That is not the code shown now."));
    let guessed = [("act", "set-second"), ("password", "a guess"), ("word", &word), ("code", "000000")];
    assert_eq!(hidden(&act(&guessed).await.body, "word"), word, "what is being set up stays");
    let set = [("act", "set-second"), ("password", PASSWORD), ("word", &word), ("code", &code(&secret, 0))];
    let spare = act(&set).await.body;
    let spare =
        spare.split("columns-2").nth(1).unwrap().split("<li>").nth(1).unwrap().split('<').next().unwrap().to_owned();
    assert_eq!(
        site.number(&format!(
            "select count(*) from consultant where second = '{word}' and recovery not like '%{spare}%'"
        ))
        .await,
        1
    );

    let half = async || {
        let caller = Caller::new(&site).await;
        let password = [("email", "sedge@ostley-fell.example"), ("password", PASSWORD), ("next", "/bench")];
        let answer = caller.post("/sign-in", &password).await;
        assert_eq!(answer.location, "/sign-in/second?next=%2Fbench");
        caller
    };
    let giving =
        async |caller: &Caller, code: &str| caller.post("/sign-in/second", &[("code", code), ("next", "/bench")]).await;
    let entering = half().await;
    assert!(entering.get("/docket").await.location.starts_with("/sign-in"), "half in is not in");
    // The one used to set it up counts no more; the next one does, once.
    assert_eq!(giving(&entering, &code(&secret, 0)).await.status, StatusCode::UNPROCESSABLE_ENTITY);
    let next = code(&secret, 1);
    assert_eq!(giving(&entering, &next).await.location, "/bench");
    assert_eq!(giving(&half().await, &next).await.status, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(giving(&half().await, &spare.to_uppercase()).await.location, "/bench");
    assert_eq!(giving(&half().await, &spare).await.status, StatusCode::UNPROCESSABLE_ENTITY);
    for _ in 0..5 {
        giving(&half().await, "123456").await;
    }
    let answer = giving(&half().await, &code(&secret, 1)).await;
    assert_eq!(answer.status, StatusCode::TOO_MANY_REQUESTS);
    assert_eq!(Caller::new(&site).await.get("/sign-in/second").await.location, "/sign-in");
    let me = caller.get("/me").await.body;
    assert!(me.contains("password and a spare code") && me.contains("a wrong code") && me.contains("This browser"));
    // A new password ends the others, not this one.
    act(&[("act", "password"), ("password", PASSWORD), ("new_password", "twelve signs and more")]).await;
    assert_eq!(caller.get("/me").await.status, StatusCode::OK);
    assert!(elsewhere.get("/me").await.location.starts_with("/sign-in"));
}

#[tokio::test(flavor = "multi_thread")]
async fn a_trainees_visit_waits_for_somebody_and_a_rehearsal_is_their_own() {
    let site = Site::start().await;
    let trainee = Caller::signed_in(&site, "thrift@ostley-fell.example").await;
    let job = trainee.job("Warden").await;
    let [visit, rehearsal] = [(); 2].map(|()| Uuid::now_v7().to_string());
    trainee.post(&format!("{job}/visits"), &[("id", &visit)]).await;
    trainee.post(&format!("{job}/visits/{visit}/finish"), &[]).await;
    assert_eq!(site.number("select count(*) from visit where for_review").await, 1);
    let at = site.text("select '/jobs/' || job_id || '/visits/' || id from visit where for_review").await;
    assert!(trainee.get(&format!("{at}/report")).await.body.contains("nobody has looked through this visit yet."));
    let reviewer = Caller::signed_in(&site, "bracken@ostley-fell.example").await;
    assert!(reviewer.get(&format!("{at}/report")).await.body.contains("I looked through it"));
    let id = Uuid::now_v7().to_string();
    assert_eq!(trainee.post(&format!("{at}/review"), &[("id", &id)]).await.status, StatusCode::FORBIDDEN);
    reviewer.post(&format!("{at}/review"), &[("id", &id)]).await;
    assert!(trainee.get(&format!("{at}/report")).await.body.contains("Looked through by Bracken Ayre"));
    // Who reads with them on a visit somebody else began, or after it was looked through, is looked through as well.
    let other = Caller::signed_in(&site, "sedge@ostley-fell.example").await;
    let shared = other.job("School").await;
    other.post(&format!("{shared}/visits"), &[("id", &Uuid::now_v7().to_string())]).await;
    let read = async || {
        let page = trainee.get(&format!("{shared}/round")).await.body;
        let (id, station) = (Uuid::now_v7().to_string(), hidden(&page, "station"));
        let instrument = first_choice(&page, "instrument");
        let air = [
            ("id", id.as_str()),
            ("station", &station),
            ("t", "12"),
            ("m", "70"),
            ("kind", "rh"),
            ("instrument", &instrument),
        ];
        assert_eq!(trainee.post(&format!("{shared}/round"), &air).await.status, StatusCode::SEE_OTHER);
    };
    let waits = "select count(*) from visit where for_review and reviewed_at is null";
    assert_eq!(site.number(waits).await, 0);
    read().await;
    assert_eq!(site.number(waits).await, 1);
    let seen = site
        .text("select '/jobs/' || job_id || '/visits/' || id from visit where for_review and reviewed_at is null")
        .await;
    let remark = [("id", &*Uuid::now_v7().to_string()), ("words", "Read the sill again.")];
    assert_eq!(reviewer.post(&format!("{seen}/remarks"), &remark).await.location, format!("{seen}/report#remarks"));
    assert!(trainee.get(&format!("{seen}/report")).await.body.contains("Read the sill again."));
    reviewer.post(&format!("{seen}/review"), &[("id", &Uuid::now_v7().to_string())]).await;
    assert_eq!(site.number(waits).await, 0);
    read().await;
    assert_eq!(site.number(waits).await, 1);
    // Their own job to practice on: there they decide.
    let form = [
        ("id", rehearsal.as_str()),
        ("name", "Rehearsal"),
        ("structure", "attic"),
        ("climate", "cold"),
        ("design", "-15"),
    ];
    assert_eq!(trainee.post("/jobs/new", &form).await.status, StatusCode::SEE_OTHER);
    let own = format!("/jobs/{rehearsal}");
    assert!(!trainee.get(&format!("{own}/why")).await.body.contains("You look on"));
    let put = [("id", id.as_str())];
    assert_ne!(trainee.post(&format!("{own}/follow-ups"), &put).await.status, StatusCode::FORBIDDEN);
    assert_eq!(trainee.post(&format!("{job}/follow-ups"), &put).await.status, StatusCode::FORBIDDEN);
    assert_eq!(other.post(&format!("{own}/follow-ups"), &put).await.status, StatusCode::FORBIDDEN);
}

#[tokio::test(flavor = "multi_thread")]
async fn a_practice_says_who_it_is_and_takes_it_back() {
    let site = Site::start().await;
    let lead = Caller::signed_in(&site, ENTRY).await;
    let keep = async |name: &str, address: &str, zone: &str| {
        let id = Uuid::now_v7().to_string();
        let page = lead.get("/practice").await.body;
        let [was_name, was_address, was_zone] = ["was_name", "was_address", "was_zone"].map(|f| hidden(&page, f));
        let was = [("was_name", was_name.as_str()), ("was_address", &was_address), ("was_zone", &was_zone)];
        lead.post(
            "/practice",
            &[&was[..], &[("id", &id), ("name", name), ("address", address), ("zone", zone)]].concat(),
        )
        .await
    };
    let answer = keep("", &"x".repeat(401), "Atlantis/Center").await;
    assert_eq!(answer.status, StatusCode::UNPROCESSABLE_ENTITY);
    for said in ["A practice has a name.", "401 characters; 400 at most.", "A time zone by its name", "Atlantis/Center"]
    {
        assert!(answer.body.contains(said), "{said}");
    }
    let zone = site.text("select time_zone from practice where name like 'Ostley%'").await;
    keep("Fell <Damp>", "Weir Lane 4\r\nOstley", "America/Chicago").await;
    let job = lead.job("Mill keeper").await;
    let report = lead.get(&format!("{job}/report")).await.location;
    let report = lead.get(&report).await.body;
    assert!(
        report.contains("Fell &#60;Damp&#62;, Weir Lane 4, Ostley") && report.contains("(America/Chicago"),
        "{report}"
    );
    let changes = lead.get("/prices").await.body;
    assert!(changes.contains("Time zone: Europe/London → America/Chicago"), "{changes}");
    let change = site.text("select id::text from practice_change order by at desc limit 1").await;
    let undo = [("id", &*Uuid::now_v7().to_string()), ("change", &change)];
    assert_eq!(lead.post("/prices/undo", &undo).await.status, StatusCode::SEE_OTHER);
    assert_eq!(site.text("select time_zone from practice where name like 'Ostley%'").await, zone);
}
