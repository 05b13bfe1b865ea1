//! Passkeys, with a device the browser itself plays (WebDriver's virtual authenticator): made, let in by, and refused.

use crate::harness::client::{Caller, hidden};
use crate::harness::{Browser, Site};
use gutteral::demo::PASSWORD;
use reqwest::StatusCode;
use serde_json::json;
use uuid::Uuid;

/// A site reached by its name: keys belong to names.
async fn named() -> Site {
    let mut site = Site::start().await;
    site.base = site.base.replace("127.0.0.1", "localhost");
    site
}

/// A device that has made sure who holds it.
async fn device(browser: &Browser) {
    let cdp = browser.driver.cdp();
    cdp.send_raw("WebAuthn.enable", json!({})).await.unwrap();
    let options = json!({ "protocol": "ctap2", "transport": "internal", "hasResidentKey": true, "hasUserVerification": true,
        "isUserVerified": true, "automaticPresenceSimulation": true });
    cdp.send_raw("WebAuthn.addVirtualAuthenticator", json!({ "options": options })).await.unwrap();
}

/// What the device answers on the page, kept from being sent: what was asked, and the answer.
async fn answered(browser: &Browser, site: &Site) -> [String; 2] {
    browser.go(site, "/sign-in").await;
    let hold = "HTMLFormElement.prototype.requestSubmit = () => document.body.append('held back');";
    browser.driver.execute(hold, vec![]).await.unwrap();
    browser.press("Sign in with a passkey").await;
    browser.shows("held back").await;
    [browser.value("input[name=asked]").await, browser.value("input[name=credential]").await]
}

#[tokio::test(flavor = "multi_thread")]
async fn a_device_lets_its_owner_in_once_an_answer_and_nobody_else() {
    let site = named().await;
    let browser = Browser::signed_in(&site).await;
    device(&browser).await;
    let makes = async |name: &str, password: &str| {
        browser.go(&site, "/me").await;
        browser.fill("#key_name", name).await;
        browser.fill("#passkey-password", password).await;
        browser.press("Add a passkey").await;
    };
    makes("phone", "a guess").await;
    browser.shows("That is not your password.").await;
    assert_eq!(browser.value("#key_name").await, "phone", "what was typed stays");
    makes("phone <b>", PASSWORD).await;
    browser.press("Make it").await;
    browser.shows("phone <b> since").await;
    browser.shows("not used yet").await;
    // The same device is not asked for a second one.
    makes("phone again", PASSWORD).await;
    browser.press("Make it").await;
    browser.shows("Nothing came of it").await;

    browser.press("Sign out").await;
    browser.press("Sign in with a passkey").await;
    browser.shows("Docket").await;
    browser.go(&site, "/me").await;
    browser.shows("by a passkey").await;
    browser.press("Sign out").await;

    // The same answer, once; to another question, never.
    let [asked, credential] = answered(&browser, &site).await;
    let caller = Caller::new(&site).await;
    let other = hidden(&caller.get("/sign-in").await.body, "asked");
    let giving = async |asked: &str, credential: &str| {
        let answer = Caller::new(&site).await;
        answer.post("/sign-in/passkey", &[("asked", asked), ("credential", credential), ("next", "/bench")]).await
    };
    let refused = async |asked: &str, credential: &str, why: &str| {
        let answer = giving(asked, credential).await;
        assert!(
            answer.status == StatusCode::UNPROCESSABLE_ENTITY && answer.body.contains(why),
            "{why}: {}",
            answer.body
        );
    };
    refused(&other, &credential, "That passkey does not let you in here.").await;
    assert_eq!(giving(&asked, &credential).await.location, "/bench");
    refused(&asked, &credential, "was sent before").await;
    let [asked, credential] = answered(&browser, &site).await;
    let (until, rest) = asked.split_once('.').unwrap();
    let later = format!("{}.{rest}", until.parse::<i64>().unwrap() + 1000);
    refused(&later, &credential, "took too long").await;
    for wrong in
        ["", "{}", "null", "\u{0}", &"x".repeat(70_000), &credential.replace("userHandle\":\"", "userHandle\":\"AA")]
    {
        let answer = giving(&hidden(&caller.get("/sign-in").await.body, "asked"), wrong).await;
        assert!(answer.status.is_client_error(), "{}: {}", wrong.chars().take(20).collect::<String>(), answer.status);
    }
    // A device that counts fewer uses than were seen here has a double.
    site.run("update passkey set key = jsonb_set(key, '{cred,counter}', '1000')").await;
    refused(&asked, &credential, "there may be a copy").await;
    site.run("update passkey set key = jsonb_set(key, '{cred,counter}', '1')").await;
    site.run("update consultant set ended_at = now() where email like 'wren%'").await;
    let [asked, credential] = answered(&browser, &site).await;
    refused(&asked, &credential, "This account is closed.").await;
    site.run("update consultant set ended_at = null").await;
    site.run("delete from passkey").await;
    let [asked, credential] = answered(&browser, &site).await;
    refused(&asked, &credential, "does not let you in here").await;
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn by_a_number_there_are_no_keys_and_a_lead_or_a_new_password_takes_them_away() {
    let site = Site::start().await;
    let sedge = "sedge@ostley-fell.example";
    let caller = Caller::signed_in(&site, sedge).await;
    let stranger = Caller::new(&site).await;
    assert!(!stranger.get("/sign-in").await.body.contains("passkey"));
    let id = Uuid::now_v7().to_string();
    let add = [("id", &*id), ("act", "passkey"), ("password", PASSWORD), ("key_name", "phone")];
    assert!(caller.post("/me", &add).await.body.contains("Open it by its name"));

    let held = "insert into passkey select practice_id, gen_random_uuid(), id, 'made-up', '{}', 'phone', now(), null \
        from consultant where email like 'sedge%'";
    let lead = Caller::signed_in(&site, gutteral::demo::ENTRY).await;
    let who = site.text("select id from consultant where email like 'sedge%'").await;
    for act in ["second", "reset"] {
        site.run(held).await;
        assert!(lead.get("/people").await.body.contains("second factor or passkey"));
        let id = Uuid::now_v7().to_string();
        let page = lead.post("/people", &[("id", &id), ("act", act), ("of", &who)]).await;
        if act == "reset" {
            let link = page.body.split("/join/").nth(1).unwrap().split(['"', '<', ' ']).next().unwrap().to_owned();
            let set = stranger.post(&format!("/join/{link}"), &[("new_password", "twelve signs and more")]).await;
            assert_eq!(set.location, "/sign-in?joined=yes");
        }
        assert_eq!(site.count("passkey").await, 0, "{act}: {}", page.body);
    }
}
