//! Jobs that leave and come in: the same bytes again, and nothing half taken.

use crate::harness::Site;
use crate::harness::client::Caller;
use gutteral::demo::ENTRY;
use gutteral::exchange::{export, import};
use reqwest::{StatusCode, multipart};
use serde_json::Value;
use std::collections::HashMap;
use std::time::{Duration, Instant};
use store::Store;
use uuid::Uuid;

const OTHER: &str = "odd@low-harbor.example";

async fn exported(store: &Store, email: &str, job: &str) -> String {
    let mut out = Vec::new();
    export(store, email, job, &mut out).await.unwrap();
    String::from_utf8(out).unwrap()
}

async fn imported(store: &Store, email: &str, text: &str, copy: bool) -> anyhow::Result<Uuid> {
    let file = tempfile::NamedTempFile::new().unwrap();
    std::fs::write(file.path(), text).unwrap();
    import(store, email, file.path().to_str().unwrap(), copy).await.map(|came| came.job)
}

/// The text without what differs from one place to another: each id by when it first stands there, and no date of export.
fn told(text: &str) -> String {
    let mut known: HashMap<String, usize> = HashMap::new();
    let (mut out, mut rest) = (String::new(), text);
    while !rest.is_empty() {
        let id = rest.get(..36).filter(|t| Uuid::try_parse(t).is_ok());
        if let Some(id) = id {
            let n = known.len();
            out += &format!("#{}", known.entry(id.to_owned()).or_insert(n));
            rest = &rest[36..];
        } else {
            let c = rest.chars().next().unwrap();
            out.push(c);
            rest = &rest[c.len_utf8()..];
        }
    }
    let (head, tail) = out.split_once("\"exported_at\":\"").unwrap();
    format!("{head}{}", &tail[20..])
}

/// Where two texts differ.
fn differ(a: &str, b: &str) -> String {
    let at = a.chars().zip(b.chars()).take_while(|(x, y)| x == y).count();
    let around = |t: &str| t.chars().skip(at.saturating_sub(200)).take(320).collect::<String>();
    format!("at {at} of {} and {}:\n{}\n---\n{}", a.len(), b.len(), around(a), around(b))
}

#[tokio::test(flavor = "multi_thread")]
async fn every_demo_job_and_random_ones_come_back_as_they_left() {
    let site = Site::start().await;
    let lead = Caller::signed_in(&site, ENTRY).await;
    // Names and readings as nobody would choose them, the same in every run.
    let mut seed = 18_u64;
    let mut random = |most: u64| {
        seed = seed.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (seed >> 33) % most
    };
    let letters: Vec<char> = "aZ09 \"\\/'=+-@#{}[]<>&;,.:µé‐’“日本𝄞\u{1F327}%_~|^`$".chars().collect();
    for _ in 0..3 {
        let mut word = |n: u64| (0..n).map(|_| letters[random(letters.len() as u64) as usize]).collect::<String>();
        let (name, address) = (format!("={}", word(30)), word(60));
        let kinds = ["vehicle", "slab", "basement", "round_tent"];
        let (kind, id) = (kinds[random(4) as usize], Uuid::now_v7().to_string());
        let fields = [
            ("id", id.as_str()),
            ("name", &name),
            ("address", &address),
            ("structure", kind),
            ("climate", "cold"),
            ("design", "-12C"),
        ];
        let made = lead.post("/jobs/new", &fields).await;
        assert_eq!(made.status, StatusCode::SEE_OTHER, "{}", made.body);
        let job = format!("/jobs/{id}");
        let visit = Uuid::now_v7().to_string();
        lead.post(&format!("{job}/visits"), &[("id", &visit)]).await;
        let remark = [("id", &*Uuid::now_v7().to_string()), ("words", &*address)];
        lead.post(&format!("{job}/visits/{visit}/remarks"), &remark).await;
        for _ in 0..6 {
            let (t, rh) = (format!("{}.{}", random(30), random(10)), random(100).to_string());
            let line = format!("outdoor {t} {rh}");
            lead.post(&format!("{job}/shorthand"), &[("id", &Uuid::now_v7().to_string()), ("line", &line)]).await;
        }
    }
    let scope = site.store.practice(site.store.account(ENTRY).await.unwrap().unwrap().practice_id).await.unwrap();
    let jobs = scope.job_names().await.unwrap();
    drop(scope);
    assert!(jobs.len() >= 7, "{}", jobs.len());
    for (id, name) in jobs {
        let left = exported(&site.store, ENTRY, &id.to_string()).await;
        let came = imported(&site.store, OTHER, &left, false).await.unwrap_or_else(|e| panic!("{name}: {e:#}"));
        let again = exported(&site.store, OTHER, &came.to_string()).await;
        let (left, again) = (told(&left), told(&again));
        assert!(left == again, "{name} {}", differ(&left, &again));
    }
    // It is the same job there: what it shows is what it showed.
    let there = Caller::signed_in(&site, OTHER).await;
    let job = there.job("Mill keeper").await;
    for page in ["", "/why", "/plan", "/log", "/photos", "/build-ups", "/unfolded", "/report", "/history"] {
        let answer = there.get(&format!("{job}{page}")).await;
        assert!(answer.status.is_success() || answer.status.is_redirection(), "{page}: {}", answer.status);
    }
    assert!(there.get(&format!("{job}/why")).await.body.contains("Humid outdoor air coming in"));
    let change = site.text(&format!("select id::text from change where job_id = '{}' and what like 'Decided%' and undoes is null order by at desc limit 1", &job[6..])).await;
    let undone = there.post(&format!("{job}/undo"), &[("id", &Uuid::now_v7().to_string()), ("change", &change)]).await;
    assert_eq!(undone.status, StatusCode::SEE_OTHER, "a decision that came in can be undone: {}", undone.body);
}

#[tokio::test(flavor = "multi_thread")]
async fn what_cannot_come_in_is_named_and_nothing_of_it_is_kept() {
    let site = Site::start().await;
    let whole = exported(&site.store, ENTRY, "Mill keeper’s cottage").await;
    let tables = ["job", "space", "reading", "photo_file", "consultant", "instrument", "log_point"];
    let count = async || {
        let mut all = Vec::new();
        for table in tables {
            all.push(site.count(table).await);
        }
        all
    };
    let before = count().await;
    let foreign = site.text("select s.id::text from station s join job j on j.id = s.job_id and j.practice_id = s.practice_id where j.name not like 'Mill%' limit 1").await;
    let (_, station) =
        whole.split_once("\"station_id\" : \"").or_else(|| whole.split_once("\"station_id\":\"")).unwrap();
    let station = &station[..36];
    let one_reading = whole.find(&format!("\"station_id\" : \"{station}\"")).unwrap();
    let forged = format!("{}{}{}", &whole[..one_reading + 16], foreign, &whole[one_reading + 52..]);
    let job_row = whole.lines().find(|l| l.contains("\"design_outdoor_c\"")).unwrap();
    for (text, said) in [
        (whole.replace("\"version\":1", "\"version\":2"), "version 2 of the format"),
        (whole[..whole.len() / 2].to_owned(), "cut off"),
        (whole[..whole.len() - 3].to_owned(), "cut off"),
        ("PK\u{3}\u{4}\0\0\0".to_owned(), "this is no job"),
        (String::new(), "this is no job"),
        (forged, "rows of reading do not fit"),
        (whole.replace("\"table\": \"space\"", "\"table\": \"secrets\""), "which this version does not know"),
        (whole.replace("\"height_m\"", "\"height_ft\""), "a field “height_ft”"),
        (whole.replacen("\"rh_pct\" : ", "\"rh_pct\" : \"wet\", \"x\" : ", 1), "do"),
        (whole.replacen("\"kind\" : \"crawl\"", "\"kind\" : \"cave\"", 1), "it holds"),
        (
            whole.replacen("\n],\n\"whole\"", ",\n{\"table\": \"report_text\", \"rows\": [{\"version_id\": null, \"html\": \"<script>\"}]}\n],\n\"whole\"", 1),
            "what no report holds",
        ),
        (whole.replacen(job_row, &format!("{job_row},\n{job_row}"), 1), "more than one job"),
        (whole.replacen("\"taken_at\" : \"", "\"taken_at\" : \"x", 1), "do not fit"),
    ] {
        let refused = imported(&site.store, OTHER, &text, false).await.expect_err(said);
        assert!(format!("{refused:#}").contains(said), "{said}: {refused:#}");
        assert_eq!(count().await, before, "{said}");
    }
    assert_eq!(
        imported(&site.store, ENTRY, &whole, false).await.unwrap().to_string(),
        site.text("select id from job where name like 'Mill%'").await
    );
    assert_eq!(count().await, before, "it is here, and nothing in it is new");
    imported(&site.store, ENTRY, &whole, true).await.unwrap();
    imported(&site.store, ENTRY, &whole, true).await.unwrap();
    assert_eq!(site.count("job where name like 'Mill keeper%'").await, 3);
    // People and instruments known here are these.
    let after = count().await;
    assert_eq!((after[4], after[5]), (before[4], before[5]));
    imported(&site.store, OTHER, &whole, false).await.unwrap();
    let once = count().await;
    imported(&site.store, OTHER, &whole, true).await.unwrap();
    let twice = count().await;
    assert!(once[4] > after[4] && (once[4], once[5]) == (twice[4], twice[5]), "people and instruments come once");
}

/// The latest of so many files of a page, once the queue has made it.
async fn fetched(caller: &Caller, page: &str, of: usize) -> Vec<u8> {
    let until = Instant::now() + Duration::from_mins(2);
    loop {
        let body = caller.get(page).await.body;
        let marked = format!("<a href=\"{page}/0");
        if let Some(at) = body.find(&marked).filter(|_| body.matches(&marked).count() == of) {
            let href: String = body[at + 9..].chars().take_while(|c| *c != '"').collect();
            return caller.http.get(caller.url(&href)).send().await.unwrap().bytes().await.unwrap().to_vec();
        }
        assert!(Instant::now() < until, "{body}");
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn readings_of_months_nobody_had_come_in_too() {
    let site = Site::start().await;
    let whole = exported(&site.store, ENTRY, "Mill keeper’s cottage").await;
    let mut document: Value = serde_json::from_str(&whole).unwrap();
    let parts = document["parts"].as_array_mut().unwrap();
    let at = parts.iter().position(|p| p["table"] == "log_point").unwrap();
    let series = parts[at]["rows"][0]["series_id"].clone();
    // Each month in a part of its own: made when the one before stands in the same transaction.
    for month in 0..4_i64 {
        let moments: Vec<i64> = (0..3).map(|n| (915_148_800 + month * 2_678_400 + n * 3600) * 1_000_000).collect();
        let row = serde_json::json!({ "series_id": series, "bring_in_id": null, "at": moments, "t_c": [1.0, null, 3.0],
            "rh_pct": [null, null, null], "value": [null, null, null] });
        parts.insert(at, serde_json::json!({ "table": "log_point", "rows": [row] }));
    }
    imported(&site.store, OTHER, &document.to_string(), false).await.unwrap();
    assert_eq!(site.count("log_point where at < '2000-01-01'").await, 12);
    assert_eq!(site.count("log_point where at < '2000-01-01' and t_c is null").await, 4);
}

/// Every row has the fields of its table, and each is what the schema says.
fn fits(document: &Value, schema: &Value) {
    for part in document["parts"].as_array().unwrap() {
        let table = part["table"].as_str().unwrap();
        let of = &schema["$defs"][table];
        for row in part["rows"].as_array().unwrap() {
            let row = row.as_object().unwrap();
            assert!(
                of["required"].as_array().unwrap().iter().all(|k| row.contains_key(k.as_str().unwrap())),
                "{table}"
            );
            for (name, value) in row {
                let kind = &of["properties"][name]["type"];
                let is = match value {
                    Value::Null => "null",
                    Value::Bool(_) => "boolean",
                    Value::Number(x) if x.is_i64() => "integer",
                    Value::Number(_) => "number",
                    Value::String(_) => "string",
                    Value::Array(_) => "array",
                    Value::Object(_) => "object",
                };
                let fits = |k: &str| k == is || (k == "number" && is == "integer");
                let fits = kind.is_null()
                    || kind.as_str().is_some_and(fits)
                    || kind.as_array().is_some_and(|a| a.iter().any(|k| fits(k.as_str().unwrap())));
                assert!(of["properties"].get(name).is_some() && fits, "{table}.{name} is {is}");
            }
        }
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn a_lead_takes_a_job_out_in_every_form_brings_it_in_elsewhere_and_erases_it() {
    let site = Site::start().await;
    let lead = Caller::signed_in(&site, ENTRY).await;
    let job = lead.job("Mill keeper").await;
    site.run("update space set name = '=HYPERLINK(1)' where name = 'Crawl space'").await;
    let page = format!("{job}/data");
    let ask = async |kind: &str, of: usize| {
        let asked = lead.post(&page, &[("id", &Uuid::now_v7().to_string()), ("act", kind)]).await;
        assert_eq!(asked.status, StatusCode::SEE_OTHER, "{}", asked.body);
        fetched(&lead, &page, of).await
    };
    let json = ask("json", 1).await;
    let document: Value = serde_json::from_slice(&json).unwrap();
    let schema: Value = serde_json::from_str(&lead.get("/api/job.schema.json").await.body).unwrap();
    let rows_of = |table: &str| -> Vec<Value> {
        let parts = document["parts"].as_array().unwrap().iter().filter(|p| p["table"] == table);
        parts.flat_map(|p| p["rows"].as_array().unwrap().clone()).collect()
    };
    fits(&document, &schema);
    let readings = rows_of("reading").len();
    assert!(readings > 20 && !rows_of("photo_file").is_empty() && !rows_of("log_point").is_empty());

    // By readers that are not ours.
    let zip = tempfile::NamedTempFile::new().unwrap();
    std::fs::write(zip.path(), ask("csv", 2).await).unwrap();
    let script = "import sys,zipfile,csv,io,json\nz=zipfile.ZipFile(sys.argv[1])\nassert z.testzip() is None\np=json.loads(z.read('datapackage.json'))\n\
        for r in p['resources']:\n  rows=list(csv.reader(io.TextIOWrapper(z.open(r['path']),'utf-8',newline='')))\n  \
        assert rows[0]==[f['name'] for f in r['schema']['fields']], r['path']\n  assert all(len(x)==len(rows[0]) for x in rows), r['path']\n  \
        print(r['name'],len(rows)-1)\nprint(z.read('space.csv').decode())";
    let read = std::process::Command::new("python3").args(["-c", script]).arg(zip.path()).output().unwrap();
    let read = [read.stdout, read.stderr].map(|t| String::from_utf8(t).unwrap()).concat();
    assert!(read.contains(&format!("\nreading {readings}\n")) && read.contains(",'=HYPERLINK(1),"), "{read}");
    let book = tempfile::Builder::new().suffix(".xlsx").tempfile().unwrap();
    std::fs::write(book.path(), ask("xlsx", 3).await).unwrap();
    let mut book: calamine::Xlsx<_> = calamine::open_workbook(book.path()).unwrap();
    let sheet = calamine::Reader::worksheet_range(&mut book, "reading").unwrap();
    assert_eq!(sheet.height(), readings + 1);
    let formulas = calamine::Reader::worksheet_formula(&mut book, "space").unwrap();
    assert!(formulas.used_cells().next().is_none(), "a name became a formula");

    // In another practice, by its page.
    let there = Caller::signed_in(&site, OTHER).await;
    let send = async |bytes: Vec<u8>| {
        let file = multipart::Part::bytes(bytes).file_name("job.json");
        let form = multipart::Form::new()
            .text("csrf", there.token.clone())
            .text("id", Uuid::now_v7().to_string())
            .part("file", file);
        there.send(there.http.post(there.url("/data/in")).multipart(form)).await
    };
    assert_eq!(send(Vec::new()).await.status, StatusCode::UNPROCESSABLE_ENTITY);
    let broken = send(json[..json.len() / 2].to_vec()).await;
    assert_eq!(broken.status, StatusCode::SEE_OTHER, "{}", broken.body);
    let until = Instant::now() + Duration::from_mins(1);
    while !there.get("/data").await.body.contains("the file is cut off") {
        assert!(Instant::now() < until, "{}", there.get("/data").await.body);
    }
    assert_eq!(
        site.count("parcel_piece p join parcel a on a.id = p.parcel_id where a.kind = 'in'").await,
        0,
        "not kept either"
    );
    assert_eq!(send(json.clone()).await.status, StatusCode::SEE_OTHER);
    while !there.get("/data").await.body.contains("brought in") {
        assert!(Instant::now() < until, "{}", there.get("/data").await.body);
    }
    let came = there.job("Mill keeper").await;
    assert!(there.get(&came).await.body.contains("=HYPERLINK(1)"));
    let whole = there.post("/data", &[("id", &Uuid::now_v7().to_string())]).await;
    assert_eq!(whole.status, StatusCode::SEE_OTHER);
    let bundle = fetched(&there, "/data", 1).await;
    assert!(bundle.starts_with(b"PK") && bundle.len() > 1000);

    // Erased is gone, from every table.
    let erase = async |name: &str| {
        there
            .post(&format!("{came}/data"), &[("id", &Uuid::now_v7().to_string()), ("act", "erase"), ("name", name)])
            .await
    };
    let wrong = erase("Mill").await;
    assert!(wrong.status == StatusCode::UNPROCESSABLE_ENTITY && wrong.body.contains("Type its name as it stands"));
    assert_eq!(erase("Mill keeper’s cottage").await.location, "/docket");
    let bundles = "parcel a join practice p on p.practice_id = a.practice_id where p.name like 'Low%'";
    assert_eq!(site.count(bundles).await, 0, "nor in a file of the practice");
    assert_eq!(there.get(&came).await.status, StatusCode::NOT_FOUND);
    let with = "select string_agg(table_name, ' ') from information_schema.columns where column_name = 'job_id' and table_schema = 'public'";
    for table in site.text(with).await.split(' ') {
        assert_eq!(site.count(&format!("{table} where job_id = '{}'", &came[6..])).await, 0, "{table}");
    }
    assert!(there.get("/people/audit").await.body.contains("Erased a job with everything of it"));
    assert_eq!(lead.get(&job).await.status, StatusCode::OK, "the other practice keeps its own");
}

#[tokio::test(flavor = "multi_thread")]
async fn the_published_schema_is_that_of_the_tables() {
    let site = Site::start().await;
    let scope = site.store.practice(Uuid::nil()).await.unwrap();
    // What stays at home: links, letters, what waits to be done, and what is told from the rest. Every other table of a job leaves.
    let home = [
        "alert",
        "audit",
        "delivery",
        "forecast",
        "letter",
        "parcel",
        "pin",
        "revision",
        "share",
        "share_word",
        "standing",
        "task",
    ];
    let with = "select string_agg(table_name, ' ') from information_schema.columns where column_name = 'job_id' and table_schema = 'public'";
    let left = site.text(with).await;
    let left: Vec<&str> = left.split(' ').filter(|t| !home.contains(t) && store::Table::named(t).is_none()).collect();
    assert_eq!(left, Vec::<&str>::new(), "neither leaves nor stays");
    let made = casework::parcel::schema(&store::fields(&scope).await.unwrap());
    let text = serde_json::to_string_pretty(&made).unwrap() + "\n";
    let published = include_str!("../../../../docs/job.schema.json");
    if text != published {
        let at = std::env::temp_dir().join("job.schema.json");
        std::fs::write(&at, &text).unwrap();
        panic!(
            "a table of a job changed: raise FORMAT_VERSION where old files cannot come in any more, and take {} for docs/job.schema.json",
            at.display()
        );
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn what_a_practice_keeps_no_longer_goes_and_nothing_else() {
    let site = Site::start().await;
    let lead = Caller::signed_in(&site, ENTRY).await;
    let settles = async |fields: &[(&str, &str)]| {
        let id = Uuid::now_v7().to_string();
        lead.post("/practice/keeping", &[&[("id", &*id)], fields].concat()).await
    };
    for odd in ["29", "-1", "x", "31", "99999999999"] {
        assert_eq!(settles(&[("removed", odd)]).await.status, StatusCode::UNPROCESSABLE_ENTITY, "{odd}");
    }
    let old = "now() - interval '40 days'";
    site.run(&format!("update job set removed_at = {old} where name like 'Mill%'")).await;
    site.run(&format!("update job set archived_at = {old} where name like 'Traveling%'")).await;
    let asked = settles(&[("removed", "30"), ("archived", "365")]).await;
    assert!(
        asked.status == StatusCode::UNPROCESSABLE_ENTITY && asked.body.contains("A job is older than that"),
        "{}",
        asked.body
    );
    assert!(
        asked.body.contains("value=\"30\" selected") && asked.body.contains("value=\"365\" selected"),
        "choices stay"
    );
    site.run("update task set due_at = now() + interval '1 hour' where kind = 'retain'").await;
    let settled = [("removed", "30"), ("archived", "365"), ("sign_in", "90"), ("sure", "yes")];
    assert_eq!(settles(&settled).await.location, "/practice#keeping");
    let due = "select count(*) from task where kind = 'retain' and state = 'waiting' and due_at between now() + interval '23 h' and now() + interval '24 h'";
    assert_eq!(site.number(due).await, 1, "it may be undone until tomorrow");
    assert!(lead.get("/prices").await.body.contains("Jobs taken off the docket kept: for good → 30 days"));
    site.run(&format!(
        "insert into sign_in select practice_id, gen_random_uuid(), id, now() - interval '100 days', 'a password', true, '', 'long ago'
           from consultant where email like 'wren%';
         insert into parcel (practice_id, id, kind, name, consultant_id, made_at)
           select practice_id, gen_random_uuid(), 'practice', 'old.zip', id, {old} from consultant where email like 'wren%';
         insert into webhook select practice_id, gen_random_uuid(), 'https://x.example', 's', '', id, now(), null from consultant where email like 'wren%';
         insert into delivery (practice_id, id, webhook_id, event, body, made_at)
           select practice_id, gen_random_uuid(), id, 'job.changed', '{{}}', at from webhook, (values (now()), ({old})) t(at);
         update task set due_at = now() where kind = 'retain'"
    ))
    .await;
    let until = Instant::now() + Duration::from_mins(1);
    let later = "select count(*) from task where kind = 'retain' and due_at > now() + interval '23 h'";
    while site.number(later).await < site.number("select count(*) from practice").await {
        assert!(Instant::now() < until, "nobody looked");
        tokio::task::yield_now().await;
    }
    assert_eq!(site.count("job where name like 'Mill%' and practice_id = (select practice_id from consultant where email like 'wren%')").await, 0);
    assert_eq!(site.count("job where name like 'Traveling%'").await, 1, "archived forty days ago, kept for a year");
    assert_eq!(site.count("sign_in where address = 'long ago'").await, 0);
    assert!(site.count("sign_in").await > 0);
    assert_eq!([site.count("parcel").await, site.count("delivery").await], [0, 1]);
    assert!(lead.get("/people/audit").await.body.contains("it is kept no longer"));
}

/// Another row like one that is there, under an id of its own.
fn another(table: &str, of: &str, but: &str) -> String {
    format!(
        "insert into {table} select (x.r).* from (select jsonb_populate_record(q, jsonb_build_object('id', gen_random_uuid(), {but})) r
           from {table} q where {of} order by q.id desc limit 1) x"
    )
}

#[tokio::test(flavor = "multi_thread")]
async fn the_same_job_sent_again_brings_what_is_new_and_takes_nothing_away() {
    let site = Site::start().await;
    let cottage = "Mill keeper’s cottage";
    let practice = |email: &str| format!("practice_id = (select practice_id from consultant where email = '{email}')");
    let (ours, theirs) = (practice(ENTRY), practice(OTHER));
    let mill = format!("job_id in (select id from job where name like 'Mill%' and {theirs})");
    let bring = async |text: &str| {
        let file = tempfile::NamedTempFile::new().unwrap();
        std::fs::write(file.path(), text).unwrap();
        import(&site.store, OTHER, file.path().to_str().unwrap(), false).await
    };
    let first = exported(&site.store, ENTRY, cottage).await;
    // Sent twice at once it comes in once.
    let (came, again) = tokio::join!(bring(&first), bring(&first));
    let (came, again) = (came.unwrap(), again.unwrap());
    assert!(came.job == again.job && [came.more, again.more].contains(&Some(0)), "{came:?} {again:?}");
    assert_eq!(site.text(&format!("select count(*)::text from job where name like 'Mill%' and {theirs}")).await, "1");

    // A reading, an open visit and a point of the log come after, and the job is renamed.
    let lead = Caller::signed_in(&site, ENTRY).await;
    let job = lead.job("Mill keeper").await;
    let own = format!("{ours} and job_id = '{}'", &job[6..]);
    site.run(&another("reading", &format!("{own} and replaces is null"), "'stored_at', now()")).await;
    site.run(&another("visit", &own, "'started_at', now(), 'ended_at', null")).await;
    let archived =
        lead.post(&format!("{job}/archive"), &[("id", &*Uuid::now_v7().to_string()), ("archived", "true")]).await;
    assert!(archived.status.is_redirection(), "{}", archived.body);
    let second = exported(&site.store, ENTRY, cottage).await;
    let more = bring(&second).await.unwrap();
    assert!(more.job == came.job && more.more.is_some_and(|n| (3..20).contains(&n)), "{more:?}");
    let there = exported(&site.store, OTHER, &came.job.to_string()).await;
    assert!(told(&second) == told(&there), "{}", differ(&told(&second), &told(&there)));

    // A visit that was ended here stays so; what is here alone is named, and nothing of the file is kept.
    site.run(&format!("update visit set ended_at = now() where ended_at is null and {theirs} and {mill}")).await;
    assert_eq!(bring(&second).await.unwrap().more, Some(0));
    let refused = bring(&first).await.expect_err("it is older");
    assert!(format!("{refused:#}").contains("what the file lacks: 1 × visit, 1 × reading, 1 × change"), "{refused:#}");
    site.run(&another("reading", &format!("{theirs} and {mill} and replaces is null"), "'stored_at', now()")).await;
    site.run(&another("reading", &format!("{own} and replaces is null"), "'stored_at', now()")).await;
    let third = exported(&site.store, ENTRY, cottage).await;
    let before = site.count("reading").await;
    let refused = bring(&third).await.expect_err("both went on");
    assert!(format!("{refused:#}").contains("lacks: 1 × reading"), "{refused:#}");
    assert_eq!(site.count("reading").await, before);
    // A file may name ids of other jobs of the practice: those are let be.
    let bus = site.text("select s.id from space s join job j on j.id = s.job_id and j.practice_id = s.practice_id where j.name like 'Traveling%' limit 1").await;
    let space = site.text(&format!("select id from space where {own} order by id limit 1")).await;
    let forged = exported(&site.store, ENTRY, cottage).await.replace(&space, &bus);
    let mine = tempfile::NamedTempFile::new().unwrap();
    std::fs::write(mine.path(), forged).unwrap();
    let told = "select string_agg(to_jsonb(s)::text, '' order by id) from space s";
    let spaces = site.text(told).await;
    import(&site.store, ENTRY, mine.path().to_str().unwrap(), false).await.expect_err("a space of another job");
    assert_eq!(site.text(told).await, spaces);
}
