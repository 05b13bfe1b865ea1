//! Watching a log by its rules: what is raised, and what clears itself.

use super::WorkError;
use super::view::{LogView, Logged, SpaceLog};
use crate::file::{CaseFile, FileError, InView};
use crate::outside::{News, Outside};
use building::{AlertKind, Material};
use chrono::{DateTime, TimeDelta, Utc};
use hygrothermal::surface::Verdict;
use judgment::hours::Fault;
use logger::hour_of;
use store::{Alert, AlertRule, Depth, Letter, Scope, Store};
use uuid::Uuid;

/// Hours in which a surface's wet hours are counted.
const DAY: usize = 24;
/// What was raised clears only when it is by so much better, so that nothing flickers: % of RH, K.
const RH_BACK: f64 = 2.0;
const T_BACK: f64 = 1.0;
/// Hours in which it may freeze.
const LATELY: usize = 3;

/// What a rule found.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Finding {
    /// On which surface.
    pub surface: Option<Uuid>,
    /// Hours, % or °C, by the rule's kind.
    pub figure: f64,
}

/// What a rule finds in a view of the log that ends now; `was` says whether it is raised already.
#[must_use]
pub fn found(file: &CaseFile, view: &LogView, rule: &AlertRule, now: DateTime<Utc>, was: bool) -> Option<Finding> {
    let hours = usize::try_from(rule.hours).unwrap_or(1);
    match rule.kind {
        AlertKind::Silent => silent(file, view, rule, now),
        AlertKind::Stuck => stuck(file, view, rule, hours),
        AlertKind::Wet => wet(file, view.space(rule.space_id)?, hours, was),
        AlertKind::Humid => humid(view.space(rule.space_id)?, rule.figure?, hours, was),
        AlertKind::Freezing => freezing(view.space(rule.space_id)?, rule.figure?, was),
    }
}

fn last<T>(row: &[T], hours: usize) -> &[T] {
    &row[row.len().saturating_sub(hours)..]
}

/// The surface with most wet hours of the last day; bare soil is damp whatever the air does.
fn wet(file: &CaseFile, space: &SpaceLog, hours: usize, was: bool) -> Option<Finding> {
    let soil = |id: Uuid| file.building.surface(id).is_some_and(|s| s.material == Material::Soil);
    let count = |stood: &[Option<Verdict>]| {
        last(stood, DAY.max(hours)).iter().filter(|v| **v == Some(Verdict::Condensing)).count()
    };
    let surfaces = space.surfaces.iter().filter(|s| !soil(s.id)).map(|s| (s.id, count(&s.stood)));
    let (id, wet) = surfaces.max_by_key(|s| s.1)?;
    let enough = if was { hours.div_ceil(2) } else { hours };
    (wet >= enough).then_some(Finding { surface: Some(id), figure: wet as f64 })
}

fn humid(space: &SpaceLog, ceiling: f64, hours: usize, was: bool) -> Option<Finding> {
    let known: Vec<f64> = last(&space.air, hours).iter().flatten().map(|h| h.rh_pct.mean).collect();
    if 2 * known.len() < hours {
        return None;
    }
    let mean = known.iter().sum::<f64>() / known.len() as f64;
    (mean > if was { ceiling - RH_BACK } else { ceiling }).then_some(Finding { surface: None, figure: mean })
}

/// The coldest of air and surfaces in the last hours.
fn freezing(space: &SpaceLog, limit: f64, was: bool) -> Option<Finding> {
    let air = last(&space.air, LATELY).iter().flatten().map(|h| (None, h.t_c.low));
    let surfaces =
        space.surfaces.iter().flat_map(|s| last(&s.t_c, LATELY).iter().flatten().map(move |t| (Some(s.id), t.low)));
    let (surface, figure) = air.chain(surfaces).min_by(|a, b| a.1.total_cmp(&b.1))?;
    (figure <= if was { limit + T_BACK } else { limit }).then_some(Finding { surface, figure })
}

/// How long the sensors of a space have written nothing; one that never wrote is not waited for.
fn silent(file: &CaseFile, view: &LogView, rule: &AlertRule, now: DateTime<Utc>) -> Option<Finding> {
    let own = view.series.iter().filter(|s| space_of(file, s) == Some(rule.space_id));
    let last = own.filter_map(|s| s.last_at).max()?;
    let hours = (now - last).num_minutes() as f64 / 60.0;
    (hours >= f64::from(rule.hours)).then_some(Finding { surface: None, figure: hours })
}

fn space_of(file: &CaseFile, series: &store::LogSeries) -> Option<Uuid> {
    series.surface_id.and_then(|id| file.building.surface(id)).map(|s| s.space_id).or(series.space_id)
}

/// A logger that has shown the same for so long, and still does.
fn stuck(file: &CaseFile, view: &LogView, rule: &AlertRule, hours: usize) -> Option<Finding> {
    let here = |id: Uuid| view.series.iter().any(|s| s.id == id && space_of(file, s) == Some(rule.space_id));
    let end = view.steps();
    let stuck = view.flaws.iter().filter(|f| here(f.series)).filter_map(|f| match f.fault {
        Fault::Stuck { from, hours: long, .. } if from + long + 2 >= end => Some(long),
        _ => None,
    });
    stuck.max().filter(|long| *long >= hours).map(|long| Finding { surface: None, figure: long as f64 })
}

/// Looks at a job's log by its rules, raises and clears, and writes to whoever wants to know. `false` where nothing is left to watch.
pub async fn watch(store: &Store, practice: Uuid, job: Uuid, outside: &impl Outside) -> Result<bool, WorkError> {
    let scope = store.practice(practice).await?;
    let rules = scope.alert_rules(job).await?;
    let open: Vec<Alert> = scope.alerts(job).await?.into_iter().filter(|a| a.cleared_at.is_none()).collect();
    let now = Utc::now();
    for gone in open.iter().filter(|a| rules.iter().all(|r| r.id != a.rule_id)) {
        scope.clear(gone.rule_id, now).await?;
    }
    let file = match CaseFile::load(&scope, job, InView::Latest, Depth::Visit).await {
        Ok(file) if !rules.is_empty() => file,
        // Nobody watches it any more, or it is no longer there.
        Ok(_) | Err(FileError::NotFound) => {
            scope.commit().await?;
            return Ok(false);
        }
        Err(FileError::Store(e)) => return Err(e.into()),
    };
    let mut logged = Logged::of(scope.log_parts(job).await?);
    let longest = rules.iter().map(|r| i64::from(r.hours)).max().unwrap_or(1) + 24;
    let until = hour_of(now) + TimeDelta::hours(1);
    let span = [until - TimeDelta::hours(longest), until];
    match logged.load(&scope, &[span]).await {
        Err(FileError::Store(e)) => return Err(e.into()),
        // No file is looked for here.
        Ok(()) | Err(FileError::NotFound) => {}
    }
    let view = logged.view(&file, span);
    for rule in &rules {
        let was = open.iter().find(|a| a.rule_id == rule.id);
        let finding = found(&file, &view, rule, now, was.is_some());
        tell(&scope, &file, (rule, was, finding), now, outside).await?;
    }
    scope.commit().await?;
    Ok(true)
}

/// Raises or clears, and writes a letter where somebody asked for one.
async fn tell(
    scope: &Scope,
    file: &CaseFile,
    (rule, was, finding): (&AlertRule, Option<&Alert>, Option<Finding>),
    now: DateTime<Utc>,
    outside: &impl Outside,
) -> Result<(), WorkError> {
    let (finding, cleared) = match (finding, was) {
        (Some(f), None) => {
            let alert = Alert {
                id: Uuid::now_v7(),
                rule_id: rule.id,
                surface_id: f.surface,
                figure: f.figure,
                raised_at: now,
                cleared_at: None,
            };
            // Somebody else raised it meanwhile, and wrote.
            if !scope.raise(file.job.id, &alert).await? {
                return Ok(());
            }
            (f, false)
        }
        (None, Some(alert)) => {
            if !scope.clear(rule.id, now).await? {
                return Ok(());
            }
            (Finding { surface: alert.surface_id, figure: alert.figure }, true)
        }
        _ => return Ok(()),
    };
    if rule.mail_to.is_empty() {
        return Ok(());
    }
    let [subject, body] = outside.words(&News { file, rule, finding, cleared, at: now });
    let letter = Letter { id: Uuid::now_v7(), job_id: Some(file.job.id), mail_to: rule.mail_to.clone(), subject, body };
    Ok(scope.post_letter(&letter).await?)
}
