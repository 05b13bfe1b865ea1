//! What a log is watched for, and what was raised, in words.

use building::AlertKind;
use casework::outside::News;
use notation::Show;
use store::{AlertRule, Raised};

/// A rule as a sentence about its space.
#[must_use]
pub fn rule(show: &Show, rule: &AlertRule) -> String {
    let hours = crate::hours::hours(f64::from(rule.hours));
    let figure = rule.figure.unwrap_or_default();
    match rule.kind {
        AlertKind::Wet => format!("a surface under the dew point for {hours} of a day"),
        AlertKind::Humid => format!("relative humidity over {} on average of {hours}", show.percent(figure)),
        AlertKind::Freezing => format!("air or a surface at {} or colder", show.temperature(figure)),
        AlertKind::Silent => format!("its loggers silent for {hours}"),
        AlertKind::Stuck => format!("a logger stuck for {hours} while others move"),
    }
}

fn found(show: &Show, rule: &AlertRule, (space, surface): (&str, Option<&str>), figure: f64) -> String {
    let hours = crate::hours::hours(figure.round());
    let what = surface.map_or_else(|| space.to_owned(), |s| format!("{s} in {}", space.to_lowercase()));
    match rule.kind {
        AlertKind::Wet => format!("{what} stood under the dew point for {hours} of the last day"),
        AlertKind::Humid => format!("{space} stands at {}", show.percent(figure)),
        AlertKind::Freezing => format!("{what} came down to {}", show.temperature(figure)),
        AlertKind::Silent => format!("The loggers in {} have been silent for {hours}", space.to_lowercase()),
        AlertKind::Stuck => format!("A logger in {} has shown the same for {hours}", space.to_lowercase()),
    }
}

/// What is raised, as a sentence without its end.
#[must_use]
pub fn raised(show: &Show, r: &Raised) -> String {
    found(show, &r.rule, (&r.space, r.surface.as_deref()), r.alert.figure)
}

/// A letter's subject and body, for readers of either system of units.
#[must_use]
pub fn letter(metric: &Show, imperial: &Show, news: &News) -> [String; 2] {
    let building = &news.file.building;
    let space = building.space(news.rule.space_id).map_or("a space", |s| s.name.as_str());
    let surface = news.finding.surface.and_then(|id| building.surface(id)).map(|s| s.name.as_str());
    let said = |show: &Show| found(show, news.rule, (space, surface), news.finding.figure);
    let job = &news.file.job.name;
    let subject = if news.cleared { format!("{job}: over") } else { format!("{job}: {}", said(metric)) };
    let both = if news.rule.kind == AlertKind::Freezing {
        format!("{} ({})", said(metric), imperial.temperature(news.finding.figure))
    } else {
        said(metric)
    };
    let what = if news.cleared { format!("Over, and raised before: {}", lower(&both)) } else { both };
    let body = format!(
        "{what}.\n\n{job}, {space}\n{}\nWatched for: {}.\n\nThis letter was written by Gutteral because the rule asks for it.\n",
        metric.moment(news.at),
        rule(metric, news.rule)
    );
    [subject, body]
}

fn lower(text: &str) -> String {
    let mut chars = text.chars();
    chars.next().map_or_else(String::new, |c| format!("{}{}", c.to_lowercase(), chars.as_str()))
}
