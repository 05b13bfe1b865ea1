//! Proof: two spans of a log compared at like weather; an honest “can't tell”; spans that make no sense are named.

use crate::harness::Site;
use crate::harness::client::{Caller, hidden};
use gutteral::demo::ENTRY;
use reqwest::StatusCode;

/// What stands first on a page.
fn head(page: &str) -> &str {
    page.split("<p class=\"mt-3").nth(1).unwrap().split("</p>").next().unwrap()
}

/// Addresses of the pages parted at a visit, the latest first.
fn visits(page: &str) -> Vec<String> {
    let links = page.split("<a href=\"").skip(1).map(|a| a.split("</a>").next().unwrap());
    links.filter(|a| a.contains(">visit of ")).map(|a| a.split('"').next().unwrap().replace("&#38;", "&")).collect()
}

#[tokio::test(flavor = "multi_thread")]
async fn the_cottage_proves_its_closed_vents_and_a_dry_spell_proves_nothing() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Mill keeper").await;
    let page = caller.get(&format!("{job}/proof")).await.body;
    assert!(head(&page).contains("It worked.") && head(&page).contains("at like weather"), "{}", head(&page));
    let event = "select to_char(m.from_at at time zone 'utc', 'YYYY-MM-DD') from log_mark m join job j on j.id = m.job_id \
        where j.name like 'Mill keeper%' and m.kind = 'event' order by m.from_at desc limit 1";
    let parted: chrono::NaiveDate = site.text(event).await.parse().unwrap();
    let day = |n: i64| (parted + chrono::Duration::days(n)).to_string();
    let ask = async |days: [String; 4]| {
        let [a, b, c, d] = days;
        let at = format!("{job}/proof?before_from={a}&before_until={b}&after_from={c}&after_until={d}");
        let answer = caller.get(&at).await;
        assert_eq!(answer.status, StatusCode::OK);
        answer.body
    };
    // Two spans before anything was done: nothing is said to have worked.
    let placebo = ask([day(-28), day(-15), day(-14), day(-1)]).await;
    assert!(!head(&placebo).contains("It worked"), "{}", head(&placebo));
    let few = ask([day(-4), day(-1), day(1), day(3)]).await;
    assert!(head(&few).contains("Can’t tell yet.") && head(&few).contains("five on each side"), "{}", head(&few));
    let overlap = ask([day(-28), day(2), day(-2), day(12)]).await;
    assert!(overlap.contains("The spans overlap") && overlap.contains(&format!("value=\"{}\"", day(2))), "{overlap}");
    assert!(ask([day(3), day(1), day(4), day(12)]).await.contains("ends before it begins"));
    for odd in [
        "before_from=soon",
        "least=many",
        "least=-4",
        "after_until=9999-99-99",
        "before_from=0001-01-01",
        "space=x",
        "at=%00",
    ] {
        let answer = caller.get(&format!("{job}/proof?{odd}")).await;
        assert!(!answer.status.is_server_error(), "{odd}: {}", answer.status);
    }
    assert!(caller.get(&format!("{job}/proof?least=many")).await.body.contains("“many” is not a number"));
    let stranger = Caller::signed_in(&site, "odd@low-harbor.example").await;
    assert_eq!(stranger.get(&format!("{job}/proof")).await.status, StatusCode::NOT_FOUND);
}

#[tokio::test(flavor = "multi_thread")]
async fn a_step_is_closed_by_its_proof_and_a_missing_season_goes_on_the_calendar() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Mill keeper").await;
    let page = caller.get(&format!("{job}/proof")).await.body;
    let [space, at, id] = ["space", "at", "id"].map(|name| hidden(&page, name));
    let close = async |id: &str, at: &str, fix: &str, more: &[(&str, &str)]| {
        let fields = [&[("id", id), ("space", space.as_str()), ("at", at), ("fix", fix)], more].concat();
        caller.post(&format!("{job}/proof"), &fields).await
    };
    for odd in ["", "no_such_fix"] {
        let answer = close(&id, &at, odd, &[]).await;
        assert_eq!(answer.status, StatusCode::UNPROCESSABLE_ENTITY, "{odd}");
        assert!(answer.body.contains("Choose the step of the plan that this proves."), "{odd}");
    }
    // The visits part days that cannot tell.
    let visit = visits(&page).remove(0);
    let answer = close(&id, visit.split("at=").nth(1).unwrap(), "air_seal_rim", &[]).await;
    assert_eq!(answer.status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(answer.body.contains("Nothing can be told yet, so nothing is closed by it."));
    let overlapping = [("before_until", "2026-07-25"), ("after_from", "2026-07-20")];
    let answer = close(&id, &at, "air_seal_rim", &overlapping).await;
    assert!(answer.body.contains("The spans overlap") && answer.body.contains("2026-07-25"));
    assert_eq!(site.number("select count(*) from plan_step where proof <> ''").await, 0);
    // Twice at once is once.
    let (one, two) = tokio::join!(close(&id, &at, "air_seal_rim", &[]), close(&id, &at, "air_seal_rim", &[]));
    assert_eq!([one.status, two.status], [StatusCode::SEE_OTHER; 2]);
    let closed = "select count(*) from change where what like 'Closed by its proof:%'";
    assert_eq!(site.number(closed).await, 1);
    let done = "select to_char(s.done_on, 'YYYY-MM-DD') from plan_step s where s.proof <> ''";
    let parted = "select to_char(m.from_at at time zone 'utc', 'YYYY-MM-DD') from log_mark m join job j on j.id = m.job_id \
        where j.name like 'Mill keeper%' and m.kind = 'event' limit 1";
    assert_eq!(site.text(done).await, site.text(parted).await);
    let step = caller.get(&format!("{job}/plan?step=air_seal_rim")).await.body;
    assert!(step.contains("closed by its proof:</strong> It worked. Crawl space holds"), "{step}");
    let report = caller.get(&format!("{job}/report")).await.location;
    assert!(caller.get(&report).await.body.contains("It worked. Crawl space holds"));
    // Not done after all: the proof goes with it.
    let undone = [("id", &*uuid::Uuid::now_v7().to_string()), ("act", "undone")];
    caller.post(&format!("{job}/plan/air_seal_rim"), &undone).await;
    assert_eq!(site.number("select count(*) from plan_step where proof <> ''").await, 0);

    // Nothing is missing in the season the trouble showed in; drips in frost ask for winter.
    assert!(page.contains("Nothing is missing."));
    site.run("update call_sheet set said = 'frost_drips ' || said where said like '%floor_cold_wet%'").await;
    let page = caller.get(&format!("{job}/proof")).await.body;
    assert!(page.contains("Missing: winter. The trouble shows in winter: that one decides."), "{page}");
    let winter = async || {
        let id = uuid::Uuid::now_v7().to_string();
        let fields = [("id", id.as_str()), ("space", &space), ("at", &at), ("season", "winter")];
        caller.post(&format!("{job}/proof/season"), &fields).await.status
    };
    assert_eq!([winter().await, winter().await], [StatusCode::SEE_OTHER; 2]);
    assert_eq!(site.number("select count(*) from follow_up where name = 'Compare Crawl space in winter'").await, 1);
    assert!(caller.get("/calendar").await.body.contains("Compare Crawl space in winter"));
    assert!(caller.get(&format!("{job}/proof")).await.body.contains("winter is on the"));
    let stranger = Caller::signed_in(&site, "odd@low-harbor.example").await;
    let fields = [("id", id.as_str()), ("space", &space), ("season", "winter"), ("fix", "air_seal_rim")];
    for path in ["proof", "proof/season"] {
        let answer = stranger.post(&format!("{job}/{path}"), &fields).await;
        assert_eq!(answer.status, StatusCode::NOT_FOUND, "{path}");
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn points_and_machines_are_compared_with_the_weather_taken_out() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Mill keeper").await;
    // A dehumidifier that collected 6 L a day, and 2 since the vents were closed, less the warmer it was outdoors.
    site.run(
        "with own as (select s.*, j.id as of_job from log_series s join job j on j.id = s.job_id join space p on p.id = s.space_id \
            where j.name like 'Mill keeper%' and p.name = 'Crawl space' and s.reads = 'air' and s.surface_id is null limit 1), \
         made as (insert into log_series select practice_id, job_id, 'd0d0d0d0-0000-4000-8000-000000000001', instrument_id, 'W', \
            'water', space_id, null, points, first_at, last_at, null from own returning 1), \
         event as (select max(m.from_at) as at from log_mark m join own on m.job_id = own.job_id where m.kind = 'event') \
         insert into log_day (practice_id, series_id, at, points, value_n, value, value_low, value_high) \
         select d.practice_id, 'd0d0d0d0-0000-4000-8000-000000000001', d.at, 24, 24, v, v, v from log_day d \
            join own on own.id = d.series_id, event, made, \
            lateral (select (case when d.at < event.at then 6.0 else 2.0 end + 0.3 * sin(extract(day from d.at)))/24 as v) x",
    )
    .await;
    let page = caller.get(&format!("{job}/proof")).await.body;
    // Since the first visit the joists have taken up more than the wetter air accounts for; the rim has not.
    let page = caller.get(visits(&page).last().unwrap()).await.body;
    let row = |name: &str| page.split(name).nth(1).unwrap().split("</tr>").next().unwrap().to_owned();
    let points = page.split("Wood over the air’s equilibrium").nth(1).unwrap();
    assert!(points.contains("0 better, 1 worse, 1 within their bands."), "{points}");
    assert!(row("<td>Joist underside").contains("class=\"worse\""), "{}", row("<td>Joist underside"));
    assert!(row("<td>Rim joist, north").contains("within its band"));
    let page = caller.get(&format!("{job}/proof")).await.body;
    let said = page.split("The machine collects ").nth(1).unwrap().split("</p>").next().unwrap();
    let (liters, _) = said.split_once(" L a day less at like weather").unwrap_or_else(|| panic!("{said}"));
    assert!((liters.parse::<f64>().unwrap() - 4.0).abs() < 0.4, "{said}");
}
