//! Reports: put together, sent out, printed, shared with a client who accepts; and what a version never does again.

use crate::harness::Site;
use crate::harness::client::{Caller, hidden};
use gutteral::demo::ENTRY;
use reqwest::StatusCode;
use std::io::Write;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};
use uuid::Uuid;

fn new() -> String {
    Uuid::now_v7().to_string()
}

/// What one of poppler's tools says of a PDF.
fn told(tool: &str, arguments: &[&str], pdf: &[u8]) -> String {
    let mut command = Command::new(tool);
    // It complains of tags newer than it is.
    command.args(arguments).stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::null());
    let mut child = command.spawn().expect("poppler-utils");
    child.stdin.take().unwrap().write_all(pdf).unwrap();
    String::from_utf8(child.wait_with_output().unwrap().stdout).unwrap()
}

/// A PDF once the queue has made it.
async fn printed(caller: &Caller, address: &str) -> Vec<u8> {
    let until = Instant::now() + Duration::from_mins(1);
    loop {
        let answer = caller.http.get(caller.url(address)).send().await.unwrap();
        if answer.status() == StatusCode::OK {
            assert_eq!(answer.headers()["content-type"], "application/pdf");
            return answer.bytes().await.unwrap().to_vec();
        }
        assert!(Instant::now() < until, "no PDF at {address}");
    }
}

/// A report of this job for a reader, as such a reader usually needs it.
async fn begun(caller: &Caller, job: &str, reader: &str) -> String {
    let begin = [("id", &*new()), ("act", "begin"), ("reader", reader)];
    caller.post(&format!("{job}/reports"), &begin).await.location
}

/// The next version of a report.
async fn sent_out(caller: &Caller, report: &str, sign: bool) -> String {
    let id = new();
    let mut fields = vec![("id", id.as_str()), ("signs_as", "building physicist")];
    if sign {
        fields.push(("sign", "yes"));
    }
    let made = caller.post(&format!("{report}/versions"), &fields).await;
    assert_eq!(made.status, StatusCode::SEE_OTHER, "{}", made.body);
    made.location
}

#[tokio::test(flavor = "multi_thread")]
async fn the_whole_job_is_printed_with_its_text_fonts_pictures_and_tags() {
    let site = Site::start().await;
    let lead = Caller::signed_in(&site, ENTRY).await;
    let job = lead.job("Mill keeper").await;
    let report = begun(&lead, &job, "engineer").await;
    let version = sent_out(&lead, &report, true).await;
    let pdf = printed(&lead, &format!("{version}/report.pdf")).await;
    assert!(report::is_sealed(&site.text("select html from report_text").await), "it could not come in elsewhere");
    let text = told("pdftotext", &["-", "-"], &pdf);
    for words in [
        "Humid outdoor air coming in and vapor from the ground act together.",
        "What to do first",
        "What can hurt",
        "Found and tested",
        "Thermal pictures",
        "Between visits",
        "What to do, in this order",
        "Instruments used",
        "Not inspected",
        "What the words mean",
        "Local code and licensed practice govern.",
        "building physicist",
        "± 0.7 K",
    ] {
        assert!(text.contains(words), "{words} is not in {text}");
    }
    let pages: usize =
        told("pdfinfo", &["-"], &pdf).lines().find_map(|l| l.strip_prefix("Pages:")).unwrap().trim().parse().unwrap();
    assert!(pages > 5 && text.contains(&format!("{pages} / {pages}")), "pages are numbered");
    let info = told("pdfinfo", &["-"], &pdf);
    assert!(info.contains("Tagged:          yes") && info.contains("A4"), "{info}");
    let tags = told("pdfinfo", &["-struct-text", "-"], &pdf);
    for tag in ["H1", "H2", "Table", "TH", "TD", "Figure"] {
        assert!(tags.lines().any(|l| l.trim_start().starts_with(tag)), "no {tag}");
    }
    assert!(pdf.windows(9).any(|w| w == b"/Outlines"), "no bookmarks");
    let fonts = told("pdffonts", &["-"], &pdf);
    let rows: Vec<Vec<&str>> = fonts.lines().skip(2).map(|l| l.split_whitespace().collect()).collect();
    assert!(fonts.contains("AtkinsonHyperlegibleNext-Regular") && !fonts.contains("DejaVu"), "{fonts}");
    // Embedded, subset, and with a way back to text: the three columns before the object's number.
    assert!(rows.iter().all(|r| r[r.len() - 5] == "yes" && r[r.len() - 3] == "yes"), "{fonts}");
    let images = told("pdfimages", &["-list", "-"], &pdf);
    let photos = site
        .count("photo p join visit v on v.id = p.visit_id join job j on j.id = p.job_id where j.name like 'Mill%'")
        .await;
    assert!(images.lines().filter(|l| l.contains("jpeg")).count() >= usize::from(photos > 0), "{images}");
    // Made once: the same bytes whoever asks, and however often.
    assert_eq!(printed(&lead, &format!("{version}/report.pdf")).await, pdf);
}

#[tokio::test(flavor = "multi_thread")]
async fn a_client_reads_one_version_by_a_link_and_nothing_else_and_accepts() {
    let site = Site::start().await;
    let lead = Caller::signed_in(&site, ENTRY).await;
    let job = lead.job("Mill keeper").await;
    let report = begun(&lead, &job, "owner").await;
    let version = sent_out(&lead, &report, false).await;
    let id = version.rsplit('/').next().unwrap();
    let share = async |id: &str, fields: &[(&str, &str)]| {
        let mut all = vec![("id", id)];
        all.extend(fields);
        lead.post(&format!("{job}/sharing"), &all).await
    };
    for (fields, said) in [
        ([("reader", ""), ("version", id), ("days", "30"), ("email", "")], "Whom is it for?"),
        ([("reader", "Hazel"), ("version", "x"), ("days", "30"), ("email", "")], "Choose the version."),
        ([("reader", "Hazel"), ("version", id), ("days", "9999"), ("email", "")], "1 to 365 days."),
        ([("reader", "Hazel"), ("version", id), ("days", "30"), ("email", "x")], "An e-mail address"),
    ] {
        let answer = share(&new(), &fields).await;
        assert!(answer.status == StatusCode::UNPROCESSABLE_ENTITY && answer.body.contains(said), "{said}");
    }
    let act = new();
    let fields = [("reader", "Hazel <i>"), ("version", id), ("days", "30"), ("email", "hazel@example.org")];
    let made = share(&act, &fields).await;
    assert_eq!(share(&act, &fields).await.status, StatusCode::SEE_OTHER, "sent twice");
    assert_eq!((site.count("share").await, site.count("letter where mail_to like 'hazel%'").await), (1, 1));
    let (_, at) = made.body.split_once("/shared/").unwrap();
    let secret = at.split('"').next().unwrap();
    let link = format!("/shared/{secret}");
    assert!(!site.text("select key_hash from share").await.contains(secret));

    let client = Caller::new(&site).await;
    let page = client.get(&link).await;
    assert!(page.body.contains("What is wrong") && page.headers["x-robots-tag"] == "noindex, nofollow");
    assert!(!page.body.contains("/jobs/") && !page.body.contains("/practice"), "a way into the program");
    // In the language the client’s browser asks for; the report stays in its own.
    let asked = client.http.get(client.url(&link)).header("accept-language", "es-MX,es;q=0.9,en;q=0.5");
    let spanish = client.send(asked).await.body;
    assert!(
        spanish.contains("<html lang=\"es\"")
            && spanish.contains("Acepto el plan")
            && spanish.contains("<article lang=\"en-US\">")
    );
    assert!(spanish.contains("compartido con usted hasta el ") && !spanish.contains("I accept the plan"));
    // What an owner’s report does not show is not in it at all.
    assert!(!page.body.contains("Instruments used") && !page.body.contains("Evidence against"));
    let picture = client.http.get(client.url(&format!("{link}/images/1"))).send().await.unwrap();
    assert_eq!((picture.status(), picture.headers()["content-type"].to_str().unwrap()), (StatusCode::OK, "image/jpeg"));
    printed(&client, &format!("{link}/report.pdf")).await;
    for nothing in ["/images/999", "/images/-1", "/images/x"] {
        assert_eq!(client.get(&format!("{link}{nothing}")).await.status, StatusCode::NOT_FOUND, "{nothing}");
    }
    // Every address of the program, with all a link gives: none answers.
    for d in web::declared().iter().filter(|d| d.right != web::access::Right::Anybody && d.method == "GET") {
        let path = d.path.replace("{job}", &job[6..]).replace("{version}", id).replace("{n}", "1");
        let answer = client.get(&format!("{path}?share={secret}")).await;
        assert!(answer.location.starts_with("/sign-in"), "{path}: {}", answer.status);
    }
    // The same secret is worth nothing in another place that takes one.
    assert_eq!(client.get(&format!("/join/{secret}")).await.status, StatusCode::GONE);
    assert_eq!(client.get(&format!("/calendar.ics?key={secret}")).await.status, StatusCode::NOT_FOUND);

    let token = hidden(&page.body, "csrf");
    let say = async |kind: &str, name: &str, words: &str| {
        let fields = [("csrf", token.as_str()), ("id", &*new()), ("kind", kind), ("name", name), ("words", words)];
        client.post_bare(&link, &fields).await
    };
    let blank = say("comment", "Hazel", " ").await;
    assert!(blank.status == StatusCode::UNPROCESSABLE_ENTITY && blank.body.contains("Write a few words."));
    let nameless = say("accept", "", "kept <u>").await;
    assert!(nameless.status == StatusCode::UNPROCESSABLE_ENTITY && nameless.body.contains("kept &#60;u&#62;"));
    assert_eq!(say("comment", "Hazel", "When could you begin?").await.status, StatusCode::SEE_OTHER);
    let (one, two) = tokio::join!(say("accept", "Hazel", ""), say("accept", "Hazel", ""));
    assert_eq!((one.status, two.status), (StatusCode::SEE_OTHER, StatusCode::SEE_OTHER));
    assert_eq!(site.count("share_word where kind = 'accept'").await, 1);
    let sharing = lead.get(&format!("{job}/sharing")).await.body;
    assert!(
        sharing.contains("accepted the plan")
            && sharing.contains("When could you begin?")
            && sharing.contains("2 times")
    );
    assert!(lead.get("/people/audit").await.body.contains("accepted the plan by a link"));
    let stranger = Caller::signed_in(&site, "odd@low-harbor.example").await;
    assert_eq!(stranger.get(&version).await.status, StatusCode::NOT_FOUND, "another practice");

    let them = site.text("select id::text from share").await;
    let shut = [("act", "shut"), ("share", them.as_str())];
    assert_eq!(stranger.post(&format!("{job}/sharing"), &shut).await.status, StatusCode::NOT_FOUND);
    assert_eq!(lead.post(&format!("{job}/sharing"), &shut).await.status, StatusCode::SEE_OTHER);
    for gone in ["", "/images/1", "/report.pdf"] {
        assert_eq!(client.get(&format!("{link}{gone}")).await.status, StatusCode::GONE, "shut: {gone}");
    }
    assert_eq!(say("comment", "Hazel", "Still there?").await.status, StatusCode::GONE);
    site.run("update share set revoked_at = null, expires_at = now()").await;
    assert_eq!(client.get(&link).await.status, StatusCode::GONE, "past its day");
    site.run("update share set expires_at = now() + interval '1 day'").await;
    assert_eq!(client.get(&link).await.status, StatusCode::OK);
    assert!(lead.post(&format!("{job}/remove"), &[("id", &new())]).await.status.is_redirection());
    assert_eq!(client.get(&link).await.status, StatusCode::GONE, "off the docket");
}

#[tokio::test(flavor = "multi_thread")]
async fn a_version_stays_and_the_next_one_says_what_changed() {
    let site = Site::start().await;
    let lead = Caller::signed_in(&site, ENTRY).await;
    let job = lead.job("Mill keeper").await;
    let report = begun(&lead, &job, "contractor").await;
    let first = sent_out(&lead, &report, false).await;
    let before = lead.get(&first).await.body;
    // Put together otherwise: own words first, photos out, US units, Letter.
    let page = lead.get(&report).await.body;
    let text = |name: &str| hidden(&page, name);
    let parts: Vec<String> = (0..16).map(|n| text(&format!("item.{n}"))).collect();
    let id = new();
    let mut fields: Vec<(String, String)> = vec![
        ("id".into(), id.clone()),
        ("report".into(), text("report")),
        ("title".into(), "For the builder".into()),
        ("reader".into(), "contractor".into()),
        ("detail".into(), "full".into()),
        ("units".into(), "us".into()),
        ("paper".into(), "letter".into()),
        ("item.0".into(), "text".into()),
        ("heading.0".into(), "Before you come".into()),
        ("text.0".into(), "Ring first.\n\n<script>alert(1)</script>".into()),
    ];
    for (n, part) in parts.iter().enumerate() {
        fields.push((format!("item.{}", n + 1), part.clone()));
        if part != "photos" {
            fields.push((format!("shown.{}", n + 1), "yes".into()));
        }
    }
    let send = async |more: &[(&str, &str)]| {
        let mut all: Vec<(&str, &str)> = fields.iter().map(|(k, v)| (k.as_str(), v.as_str())).collect();
        all.retain(|(k, _)| more.iter().all(|(m, _)| m != k));
        all.extend(more);
        lead.post(&format!("{job}/reports"), &all).await
    };
    let long = "x".repeat(4001);
    let refused = send(&[("act", "save"), ("text.0", &long)]).await;
    assert!(
        refused.status == StatusCode::UNPROCESSABLE_ENTITY && refused.body.contains("4001 characters; 4000 at most.")
    );
    assert!(refused.body.contains(&long), "what was typed is kept");
    let nameless = send(&[("act", "save"), ("title", "")]).await;
    assert!(nameless.body.contains("A report has a name.") && nameless.body.contains("Ring first."));
    assert_eq!(send(&[("act", "save")]).await.status, StatusCode::SEE_OTHER);
    let page = lead.get(&report).await.body;
    assert!(page.contains("pages-letter") && page.contains("Ring first.") && page.contains("&#60;script&#62;"));
    assert!(page.contains("°F") && !page.contains("As taken; arrows"), "US units, no photos");

    // The soil is covered, and a version says so.
    let done = [("id", &*new()), ("act", "done")];
    assert_eq!(lead.post(&format!("{job}/plan/ground_film"), &done).await.status, StatusCode::SEE_OTHER);
    let second = sent_out(&lead, &report, false).await;
    let after = lead.get(&second).await.body;
    assert!(after.contains("Version 2,") && after.contains("Ring first."));
    let (_, changed) = after.split_once("Changed since version 1").unwrap();
    let changed = changed.split("</section>").next().unwrap();
    assert!(changed.contains(": done; before, may be done now.") && !before.contains("Changed since"), "{changed}");
    let text_of = |page: &str| {
        page.split("<article lang=\"en-US\">").nth(1).unwrap().split("</article>").next().unwrap().to_owned()
    };
    assert!(text_of(&lead.get(&first).await.body) == text_of(&before), "the first stays as it was");
    assert!(site.refuses("update report_text set html = ''").await && site.refuses("delete from report_version").await);
    // In another language than its maker's: one's own words stay, and what changed is told from a version in the same language.
    assert_eq!(send(&[("id", &*new()), ("act", "save"), ("language", "es")]).await.status, StatusCode::SEE_OTHER);
    let third = lead.get(&sent_out(&lead, &report, true).await).await.body;
    assert!(third.contains("<html lang=\"en-US\"") && third.contains("<article lang=\"es\">"), "{third}");
    for said in [
        "Versión 3,",
        "Qué pasa",
        "Qué puede hacer daño",
        "Suelo descubierto",
        "Rigen las normas locales",
        "Ring first.",
        "Firmado:",
    ] {
        assert!(third.contains(said), "{said}: {third}");
    }
    for english in ["What is wrong", "Cautions", "Signed:", "may be done now", "Cambiado desde"] {
        assert!(!third.contains(english), "{english}: {third}");
    }
    // Taken away, its versions are still there to be read.
    let gone = [("id", &*new()), ("act", "delete"), ("report", &*text("report"))];
    assert_eq!(lead.post(&format!("{job}/reports"), &gone).await.status, StatusCode::SEE_OTHER);
    assert_eq!(lead.get(&report).await.status, StatusCode::NOT_FOUND);
    assert_eq!(lead.get(&second).await.status, StatusCode::OK);
    // A reviewer signs, once.
    let reviewer = Caller::signed_in(&site, "bracken@ostley-fell.example").await;
    for _ in 0..2 {
        reviewer.post(&second, &[("sign", "yes"), ("signs_as", "reviewer <b>")]).await;
    }
    assert_eq!(site.count("signature where signs_as like 'reviewer%'").await, 1);
    assert!(reviewer.get(&second).await.body.contains("reviewer &#60;b&#62;"));
}

#[tokio::test(flavor = "multi_thread")]
async fn what_people_of_the_practice_say_to_one_another_is_in_no_report() {
    let site = Site::start().await;
    let lead = Caller::signed_in(&site, ENTRY).await;
    let job = lead.job("Mill keeper").await;
    let about = sent_out(&lead, &begun(&lead, &job, "owner").await, false).await;
    let remark = async |who: &Caller, id: &str, words: &str| {
        who.post(&format!("{about}/remarks"), &[("id", id), ("words", words)]).await
    };
    let reviewer = Caller::signed_in(&site, "bracken@ostley-fell.example").await;
    let act = new();
    for _ in 0..2 {
        assert_eq!(remark(&reviewer, &act, "Is the rim <b>dry</b>?").await.location, format!("{about}#remarks"));
    }
    let long = format!("{}end", "x".repeat(4000));
    for (words, said) in [(" \n", "Write a few words."), (long.as_str(), "4003 characters; 4000 at most.")] {
        let refused = remark(&reviewer, &new(), words).await;
        assert!(refused.status == StatusCode::UNPROCESSABLE_ENTITY && refused.body.contains(said), "{said}");
        assert!(refused.body.contains(words.trim()), "what was typed is kept");
    }
    let said = lead.get(&about).await.body;
    assert!(said.contains("Is the rim &#60;b&#62;dry&#60;/b&#62;?") && said.contains("Bracken"), "{said}");
    assert!(site.count("remark").await == 1 && site.refuses("update remark set words = 'x'").await);
    let other = Caller::signed_in(&site, "odd@low-harbor.example").await;
    assert_eq!(remark(&other, &new(), "x").await.status, StatusCode::NOT_FOUND);
    let share = [
        ("id", &*new()),
        ("reader", "Hazel"),
        ("version", about.rsplit('/').next().unwrap()),
        ("days", "30"),
        ("email", ""),
    ];
    let made = lead.post(&format!("{job}/sharing"), &share).await;
    let (_, link) = made.body.split_once("/shared/").unwrap();
    let page = Caller::new(&site).await.get(&format!("/shared/{}", link.split('"').next().unwrap())).await;
    assert!(page.body.contains("What is wrong") && !page.body.contains("Is the rim"));
}
