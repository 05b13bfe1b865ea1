//! What a log is watched for, and what was raised, in words.

use building::AlertKind;
use casework::outside::News;
use language::say;
use notation::Show;
use store::{AlertRule, Raised};

/// A rule as a sentence about its space.
#[must_use]
pub fn rule(show: &Show, rule: &AlertRule) -> String {
    let hours = crate::hours::hours(f64::from(rule.hours));
    let figure = rule.figure.unwrap_or_default();
    match rule.kind {
        AlertKind::Wet => say!("a surface under the dew point for {hours} of a day", hours),
        AlertKind::Humid => {
            say!("relative humidity over {figure} on average of {hours}", figure = show.percent(figure), hours)
        }
        AlertKind::Freezing => say!("air or a surface at {figure} or colder", figure = show.temperature(figure)),
        AlertKind::Silent => say!("its loggers silent for {hours}", hours),
        AlertKind::Stuck => say!("a logger stuck for {hours} while others move", hours),
    }
}

fn found(show: &Show, rule: &AlertRule, (space, surface): (&str, Option<&str>), figure: f64) -> String {
    let hours = crate::hours::hours(figure.round());
    let what = surface.map_or_else(|| space.to_owned(), |s| format!("{s} in {}", space.to_lowercase()));
    match rule.kind {
        AlertKind::Wet => say!("{what} stood under the dew point for {hours} of the last day", what, hours),
        AlertKind::Humid => say!("{space} stands at {figure}", space, figure = show.percent(figure)),
        AlertKind::Freezing => say!("{what} came down to {figure}", what, figure = show.temperature(figure)),
        AlertKind::Silent => {
            say!("The loggers in {space} have been silent for {hours}", space = space.to_lowercase(), hours)
        }
        AlertKind::Stuck => {
            say!("A logger in {space} has shown the same for {hours}", space = space.to_lowercase(), hours)
        }
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
    let space = building.space(news.rule.space_id).map_or(say!("a space"), |s| s.name.as_str());
    let surface = news.finding.surface.and_then(|id| building.surface(id)).map(|s| s.name.as_str());
    let said = |show: &Show| found(show, news.rule, (space, surface), news.finding.figure);
    let job = &news.file.job.name;
    let subject = if news.cleared { say!("{job}: over", job) } else { format!("{job}: {}", said(metric)) };
    let both = if news.rule.kind == AlertKind::Freezing {
        format!("{} ({})", said(metric), imperial.temperature(news.finding.figure))
    } else {
        said(metric)
    };
    let what = if news.cleared { say!("Over, and raised before: {lower}", lower = lower(&both)) } else { both };
    let body = say!(
        "{what}.\n\n{job}, {space}\n{metric}\nWatched for: {rule}.\n\nThis letter was written by Gutteral because the rule asks for it.\n",
        what,
        job,
        space,
        metric = metric.moment(news.at),
        rule = rule(metric, news.rule)
    );
    [subject, body]
}

fn lower(text: &str) -> String {
    let mut chars = text.chars();
    chars.next().map_or_else(String::new, |c| format!("{}{}", c.to_lowercase(), chars.as_str()))
}
