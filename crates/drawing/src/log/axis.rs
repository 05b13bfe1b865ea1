//! Figures and days along the sides of a drawing.

use crate::Px;
use chrono::{DateTime, Datelike, Days, NaiveDate, NaiveTime, TimeDelta, Utc};
use language::spoken;
use notation::Show;
use notation::number::fixed;

/// A mark beside a drawing.
pub struct Tick {
    /// Where.
    pub at: Px,
    /// What stands there; nothing for a mark alone.
    pub words: String,
}

/// Round figures between two, about `count` of them.
pub fn nice(low: f64, high: f64, count: usize) -> Vec<(f64, String)> {
    let rough = ((high - low) / count as f64).max(1e-9);
    let ten = 10.0_f64.powf(rough.log10().floor());
    let step = [1.0, 2.0, 5.0, 10.0].map(|m| m * ten).into_iter().find(|s| *s >= rough).unwrap_or(rough);
    let decimals = (-step.log10().floor()).clamp(0.0, 4.0) as usize;
    let first = (low / step).ceil() as i64;
    let all = (first..).map(|i| i as f64 * step).take_while(|f| *f <= high).take(30);
    all.map(|f| (f, fixed(f, decimals))).collect()
}

/// Marks along the time, about `most` of them: hours, days or months by how long it is, by the local clock.
pub fn time_ticks(span: [DateTime<Utc>; 2], show: &Show, most: i64) -> Vec<(DateTime<Utc>, String)> {
    let length = span[1] - span[0];
    let first = show.today(span[0]);
    let midnight = |day: NaiveDate| show.instant(day.and_time(NaiveTime::MIN));
    let within = |at: &DateTime<Utc>| *at >= span[0] && *at <= span[1];
    let days = |step: u64| {
        let all = (0..).map_while(move |i| first.checked_add_days(Days::new(i * step)));
        all.map_while(move |d| midnight(d).filter(|at| *at <= span[1]).map(|at| (d, at)))
    };
    if length <= TimeDelta::days(3) {
        let step = [1, 2, 3, 6, 12].into_iter().find(|s| length.num_hours() / s <= most).unwrap_or(12);
        let step = usize::try_from(step).unwrap_or(12);
        let hours =
            days(1).flat_map(|(d, _)| (0..24).step_by(step).filter_map(move |h| Some((d, d.and_hms_opt(h, 0, 0)?))));
        return hours
            .filter_map(|(d, clock)| {
                let at = show.instant(clock)?;
                let named = if clock.time() == NaiveTime::MIN { short(d) } else { clock.format("%H:%M").to_string() };
                within(&at).then_some((at, named))
            })
            .collect();
    }
    if length <= TimeDelta::days(130) {
        let step = [1, 2, 7, 14, 28].into_iter().find(|s| length.num_days() / s <= most).unwrap_or(28);
        return days(step.unsigned_abs()).filter(|(_, at)| within(at)).map(|(d, at)| (at, short(d))).collect();
    }
    let months = days(1).filter(|(d, at)| d.day() == 1 && within(at));
    let each = usize::try_from(length.num_days() / 30 / most + 1).unwrap_or(1);
    months
        .step_by(each)
        .map(|(d, at)| (at, if d.month() == 1 { format!("{} {}", month(d), d.year()) } else { month(d).to_owned() }))
        .collect()
}

fn short(day: NaiveDate) -> String {
    spoken().short_day(day)
}

fn month(day: NaiveDate) -> &'static str {
    spoken().short_month(day.month0() as usize)
}
