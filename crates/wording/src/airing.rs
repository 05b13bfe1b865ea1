//! Air on its chart, and when to open up, in sentences.

use crate::hours::{Stretch, figure, hours, said};
use building::Building;
use casework::log::{Aired, Airing};
use chrono::{DateTime, TimeDelta, Utc};
use drawing::log::{Cloud, SurfaceTick};
use hygrothermal::air::{dew_point, saturation_pressure, vapor_pressure_of_ratio};
use hygrothermal::quantity::{Pressure, Temperature};
use language::{known, say};
use notation::Show;
use notation::unit::LITERS;
use uuid::Uuid;

/// Windows told one by one; of more the first are.
const TOLD: usize = 3;

fn liters(show: &Show, l: f64) -> String {
    LITERS.text(l.abs(), show.units)
}

fn end(aired: &Aired, hour: usize) -> DateTime<Utc> {
    aired.from + TimeDelta::hours(i64::try_from(hour).unwrap_or(0))
}

/// A window: “July 3, 22:00 to 6:00”.
#[must_use]
pub fn window(show: &Show, aired: &Aired, [first, last]: [usize; 2]) -> String {
    let (from, until) = (end(aired, first), end(aired, last));
    let until_words = if show.day(from) == show.day(until) || until - from < TimeDelta::hours(20) {
        show.clock(until)
    } else {
        show.moment(until)
    };
    say!("{from} to {until_words}", from = show.moment(from), until_words)
}

fn open_hours(aired: &Aired) -> f64 {
    aired.said.open.iter().map(|[first, last]| last - first).sum::<usize>() as f64
}

/// What airing all the time comes to, in how it carries out and how it brings in.
fn always(show: &Show, aired: &Aired, [carries, brings]: [&'static str; 2]) -> String {
    let l = aired.said.always_l;
    let does = known(if l < 0.0 { brings } else { carries });
    say!("Open all the time, it {does} {liters}.", does, liters = liters(show, l))
}

const WOULD_HAVE: [&str; 2] = ["would have carried out", "would have brought in"];
const WOULD: [&str; 2] = ["would carry out", "would bring in"];

/// Over what was logged.
#[must_use]
pub fn past(show: &Show, building: &Building, space: Uuid, airing: &Airing) -> Vec<Stretch> {
    let name = building.space(space).map_or(say!("The space"), |s| &s.name).to_lowercase();
    let aired = &airing.past;
    let known = hours(aired.known as f64);
    if aired.known == 0 {
        return vec![said(say!(
            "Nothing can be said of the {name}: its air and the outdoor air must be logged in the same hours.",
            name
        ))];
    }
    let open = open_hours(aired);
    if open == 0.0 {
        return vec![
            said(say!(
                "In none of the {known} logged would outdoor air have dried the {name} and wet nothing. ",
                known,
                name
            )),
            said(always(show, aired, WOULD_HAVE)),
        ];
    }
    if open == aired.known as f64 {
        return vec![
            said(say!("Outdoor air would have dried the {name} in ", name)),
            figure(say!("all of the {known}", known)),
            said(say!(" logged: {liters} out.", liters = liters(show, aired.said.open_l))),
        ];
    }
    let mut out = vec![
        said(say!("Outdoor air would have dried the {name} in ", name)),
        figure(say!("{open} of {known}", open = format_args!("{:.0}", open), known)),
        said(say!(": {liters} out, opened only then. ", liters = liters(show, aired.said.open_l))),
        said(always(show, aired, WOULD_HAVE)),
    ];
    if let Some(best) = aired.said.best {
        out.push(said(say!(" It did most {window}.", window = window(show, aired, best))));
    }
    out
}

/// Over the weather to come.
#[must_use]
pub fn ahead(show: &Show, building: &Building, space: Uuid, aired: &Aired) -> Vec<Stretch> {
    let name = building.space(space).map_or(say!("the space"), |s| &s.name).to_lowercase();
    let days = aired.known.div_ceil(24);
    if aired.said.open.is_empty() {
        return vec![
            figure(say!("Keep the {name} shut for the next {days} days", name, days)),
            said(say!(": in no hour would outdoor air dry it and wet nothing. ")),
            said(always(show, aired, WOULD)),
        ];
    }
    if open_hours(aired) == aired.known as f64 {
        return vec![
            figure(say!("Open the {name} at any hour of the next {days} days", name, days)),
            said(say!(
                ": outdoor air dries it and wets nothing, {liters} out in all.",
                liters = liters(show, aired.said.open_l)
            )),
        ];
    }
    let told: Vec<String> = aired.said.open.iter().take(TOLD).map(|w| window(show, aired, *w)).collect();
    let more = aired.said.open.len().saturating_sub(TOLD);
    let more = match more {
        0 => String::new(),
        1 => say!(", and once more after").into(),
        n => say!(", and {n} times more after", n),
    };
    vec![
        figure(say!("Open the {name} {told}", name, told = told.join("; "))),
        said(say!("{more}: {liters} out in {days} days. ", more, liters = liters(show, aired.said.open_l), days)),
        said(always(show, aired, WOULD)),
    ]
}

/// How the mean of some hours stands, and which surfaces it would wet.
#[must_use]
pub fn state(show: &Show, pressure: Pressure, cloud: Option<&Cloud>, surfaces: &[SurfaceTick]) -> String {
    let Some(cloud) = cloud.filter(|c| !c.hours.is_empty()) else { return String::new() };
    let n = cloud.hours.len() as f64;
    let (t, w) = cloud.hours.iter().fold((0.0, 0.0), |(t, w), h| (t + h[0] / n, w + h[1] / n));
    let vapor = vapor_pressure_of_ratio(w, pressure);
    let rh = Temperature::new(t).map_or(0.0, |t| 100.0 * vapor / saturation_pressure(t));
    let dew = dew_point(vapor).map(Temperature::get);
    let mean = if n > 1.0 { say!("The mean of {hours}", hours = hours(n)) } else { say!("The reading").into() };
    let air = say!(
        "{mean} in the {cloud}: {t} and {rh}, {humidity_ratio}",
        mean,
        cloud = cloud.name.to_lowercase(),
        t = show.temperature(t),
        rh = show.percent(rh.min(100.0)),
        humidity_ratio = show.humidity_ratio(w)
    );
    let Some(dew) = dew else { return format!("{air}.") };
    let wet: Vec<&str> = surfaces.iter().filter(|s| s.t_c[0] <= dew).map(|s| s.name.as_str()).collect();
    let ever: Vec<&str> =
        surfaces.iter().filter(|s| s.t_c[0] > dew && s.t_c[1] <= dew).map(|s| s.name.as_str()).collect();
    let which = match (wet.is_empty(), ever.is_empty()) {
        (false, _) => say!("{lies} left of it: wet in air like this", lies = lies(&wet)),
        (true, false) => say!("{lies} left of it at times", lies = lies(&ever)),
        (true, true) if surfaces.is_empty() => say!("no surface is known beside it").into(),
        (true, true) => say!("every surface lies right of it").into(),
    };
    say!("{air}. Its dew point is {dew}; {which}.", air, dew = show.temperature(dew), which)
}

fn lies(names: &[&str]) -> String {
    format!("{} {}", names.join(", "), if names.len() == 1 { say!("lies") } else { say!("lie") })
}
