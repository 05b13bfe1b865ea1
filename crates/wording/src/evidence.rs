//! What a piece of evidence amounts to, and where it came from, in words.

use building::{Building, Place};
use casework::evidence::{Amount, Origin, Source};
use judgment::cause::Fact;
use language::say;
use notation::Show;

/// Where a reader may go from here.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Lead {
    /// Where a piece of evidence came from.
    From(Origin),
    /// To look for a finding: its id.
    Look(&'static str),
    /// To make a test.
    Test,
    /// To read a figure.
    Round,
}

/// A figure of evidence in a person's units; empty where it has none.
#[must_use]
pub fn amount(show: &Show, source: &Source) -> String {
    match source.amount {
        Amount::None => String::new(),
        Amount::Figure(figure) => figure.to_string(),
        Amount::Fact(fact) => of_fact(show, &fact),
        Amount::Collected(liters, Some(most)) => {
            say!(
                "{water_per_day} of {water_per_day2}",
                water_per_day = show.water_per_day(liters),
                water_per_day2 = show.water_per_day(most)
            )
        }
        Amount::Collected(liters, None) => show.water_per_day(liters),
        Amount::AgainstDry(shown, dry) => say!("{shown} against {dry}", shown, dry),
        Amount::DewAgainst(out, inside) => {
            say!("{out} against {inside}", out = show.temperature(out), inside = show.temperature(inside))
        }
        Amount::Outdoors(t) => say!("outdoors {t}", t = show.temperature(t)),
        Amount::Hours(went) if went.damp_h > 0 => {
            say!("outdoor air alone in {went} of {went2} damp hours", went = went.by_outdoors_h, went2 = went.damp_h)
        }
        Amount::Hours(went) => say!(
            "{pressure_difference} inside against outdoors",
            pressure_difference = show.pressure_difference(went.excess_pa)
        ),
    }
}

fn of_fact(show: &Show, fact: &Fact) -> String {
    match fact.id {
        "worst_margin_c" => show.difference(fact.figure),
        "hours_below_dew" => say!("{fact} h in two weeks", fact = format_args!("{:.0}", fact.figure)),
        "rain_correlation" => format!("r {:.2}", fact.figure).replace('-', "−"),
        _ => show.percent(fact.figure),
    }
}

/// Where it came from.
#[must_use]
pub fn origin(building: &Building, origin: Origin) -> &str {
    match origin {
        Origin::Finding(_, None) | Origin::Test(_, None) | Origin::Pictured(_, None) => say!("a place since removed"),
        Origin::Finding(_, Some(spot)) | Origin::Test(_, Some(spot)) | Origin::Pictured(_, Some(spot)) => {
            spot.name(building)
        }
        Origin::Call => say!("on the call"),
        Origin::Job => say!("the job"),
        Origin::Read(Place::Outdoors) => say!("Outdoor air"),
        Origin::Read(place) | Origin::Logged(place) => building.place_name(place),
        Origin::Mapped(space, _) => building.space(space).map_or(say!("a moisture map"), |s| s.name.as_str()),
        Origin::Dried(_) => say!("the last drying round"),
        Origin::Built(id) => building.boundary(id).map_or(say!("a place since removed"), |b| b.name.as_str()),
    }
}
