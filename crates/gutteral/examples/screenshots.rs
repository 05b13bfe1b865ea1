//! Takes the pictures in `docs/screenshots` from a fresh demo: `./gutteral screenshots`.
#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a tool for developers")]

#[path = "../tests/site/harness/mod.rs"]
mod harness;

use harness::{Browser, Site};
use std::path::PathBuf;
use thirtyfour::prelude::ElementQueryable;

/// Name, path, width, height, theme. `{job}` is a job by the beginning of its name, `{at:…}` a place in it.
const SHOTS: &[(&str, &str, &str, u32, u32, &str)] = &[
    ("docket", "", "/docket", 1280, 800, "paper"),
    ("calculator", "", "/calculator", 1280, 800, "paper"),
    ("section", "Mill keeper", "", 1280, 800, "paper"),
    ("build-ups", "Mill keeper", "/build-ups", 1280, 1000, "paper"),
    ("drying", "School", "/drying", 1280, 1000, "paper"),
    ("drying-phone", "School", "/drying/round", 390, 844, "headlamp"),
    ("coating", "Mill keeper", "/coating", 1280, 1000, "paper"),
    ("unfolded", "Traveling", "/unfolded", 1280, 800, "paper"),
    ("walk-phone", "Traveling", "/unfolded/walk", 390, 844, "headlamp"),
    ("air", "Mill keeper", "/log/air?span=all", 1280, 800, "headlamp"),
    ("thermal", "Mill keeper", "/thermal?one", 1280, 1000, "paper"),
    ("budget", "Traveling", "/log/budget", 1280, 800, "paper"),
    ("proof", "Mill keeper", "/proof", 1280, 1000, "paper"),
    ("section-bus", "Traveling", "", 1280, 800, "headlamp"),
    ("log", "Mill keeper", "/log?span=season", 1280, 800, "paper"),
    ("why", "Mill keeper", "/why", 1280, 1000, "paper"),
    ("plan", "Mill keeper", "/plan?step=dehumidifier", 1280, 1000, "paper"),
    ("round-phone", "School", "/round?typed", 390, 844, "headlamp"),
    ("report", "Mill keeper", "report", 1280, 1100, "paper"),
];

#[tokio::main]
async fn main() {
    let only: Vec<String> = std::env::args().skip(1).collect();
    let out = PathBuf::from(std::env::var("OUT").unwrap_or_else(|_| "docs/screenshots".into()));
    std::fs::create_dir_all(&out).unwrap();
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    for (name, job, path, width, height, theme) in SHOTS {
        if !only.is_empty() && !only.iter().any(|o| o == name) {
            continue;
        }
        browser.viewport(*width, *height).await;
        browser.go(&site, "/docket").await;
        if browser.find("html").await.attr("data-theme").await.unwrap().as_deref() != Some(theme) {
            browser.click("button[name=theme]").await;
            browser.find(&format!("html[data-theme={theme}]")).await;
        }
        let target = match (*job, *path) {
            ("", path) => path.to_owned(),
            (job, path) => {
                let link = browser.driver.query(thirtyfour::By::PartialLinkText(job)).first().await.unwrap();
                // What is raised on a job leads to its log.
                let base: String =
                    link.attr("href").await.unwrap().unwrap().split('/').take(3).collect::<Vec<_>>().join("/");
                if let Some((view, place)) = path.split_once("?at=") {
                    browser.go(&site, &format!("{base}{view}")).await;
                    let css = format!("svg a[aria-label^={place:?}]");
                    browser.find(&css).await.attr("href").await.unwrap().unwrap()
                } else if path == "report" {
                    browser.go(&site, &base).await;
                    browser.find("nav.views a[href*=report]").await.attr("href").await.unwrap().unwrap()
                } else {
                    format!("{base}{}", path.trim_end_matches("?typed").trim_end_matches("?one"))
                }
            }
        };
        browser.go(&site, &target).await;
        if *path == "report" {
            // Put together for its reader, page by page.
            browser.click("#reports + ul a, section a[href*='/reports/0']").await;
            browser.shows("as they will be printed").await;
        }
        if path.ends_with("/airing") {
            browser.shows("Forecast of").await;
        }
        if path.ends_with("?one") {
            browser.click(".album a, main li:last-child > a:has(img)").await;
            browser.shows("About it").await;
        }
        if path.ends_with("?typed") {
            browser.fill("#t", "13.1").await;
            browser.shows("Margin").await;
        }
        browser.screenshot(&out.join(format!("{name}.png"))).await;
    }
    browser.quit().await;
}
