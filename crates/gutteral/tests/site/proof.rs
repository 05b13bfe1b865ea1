//! Proof: two spans of a log compared at like weather; an honest “can't tell”; spans that make no sense are named.

use crate::harness::Site;
use crate::harness::client::Caller;
use gutteral::demo::ENTRY;
use reqwest::StatusCode;

/// What stands first on a page.
fn head(page: &str) -> &str {
    page.split("<p class=\"mt-3").nth(1).unwrap().split("</p>").next().unwrap()
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
