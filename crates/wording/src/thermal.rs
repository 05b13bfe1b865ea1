//! A thermal picture in sentences.

use hygrothermal::surface::{GridReading, GridWarning, Room};
use judgment::thermal::{Season, season};
use language::say;
use notation::Show;
use notation::number::fixed;

/// A share as people say it.
fn share(of: f64) -> String {
    match 100.0 * of {
        p if p <= 0.0 => say!("None").into(),
        p if p < 1.0 => say!("Under 1 %").into(),
        p if p > 99.0 && of < 1.0 => say!("Over 99 %").into(),
        p => format!("{} %", fixed(p, 0)),
    }
}

/// The finding of a picture, its figures after it.
#[must_use]
pub fn head(show: &Show, said: &GridReading, room: &Room) -> String {
    let (Some(coldest), Some(dew)) = (said.coldest, said.dew) else {
        return say!("No cell of it was read.").into();
    };
    let (wet, damp) = (said.wet_share.unwrap_or(0.0), said.mold_share.unwrap_or(0.0));
    let t = show.temperature(coldest.celsius);
    let first = if wet > 0.0 {
        say!(
            "{share} of it stands under the dew point, {share2} over 80 %.",
            share = share(wet),
            share2 = share(damp).to_lowercase()
        )
    } else if damp > 0.0 {
        say!("Nothing is wet, but {share} of it stands over 80 %.", share = share(damp).to_lowercase())
    } else {
        let margin = show.difference(coldest.celsius - dew.get());
        say!("All of it is dry: the coldest spot, {t}, stands {margin} above the dew point.", t, margin)
    };
    let night = said.design.zip(room.design).map(|(spot, night)| {
        let then = if spot <= dew.get() { say!(", under the dew point of this air") } else { "" };
        say!(
            " On the coldest night, {night} outdoors, its coldest spot would stand at {spot}{then}.",
            night = show.temperature(night.get()),
            spot = show.temperature(spot),
            then
        )
    });
    let warm = if season(room) == Season::Warm {
        say!(" Outdoors is warmer: what lacks insulation or leaks shows warm, not cold.")
    } else {
        ""
    };
    format!("{first}{}{warm}", night.unwrap_or_default())
}

/// What to mind of a picture, and what to do about it.
#[must_use]
pub fn warning(show: &Show, warning: GridWarning) -> String {
    let k = |kelvin: f64| show.difference(kelvin);
    match warning {
        GridWarning::NoOutdoor => {
            say!("The outdoor temperature is not known: nothing is said of the construction. Type it.").into()
        }
        GridWarning::LowContrast => say!(
            "Inside and outdoors are within {k}: missing insulation hardly shows. Take it again in the hottest or coldest weather.",
            k = k(10.0)
        ),
        GridWarning::AllCellsAlike => say!("All cells are within {k}: the picture shows nothing.", k = k(0.3)),
        GridWarning::NotEvaporation => say!(
            "The coldest spot lies over {k} under the room’s wet bulb: water alone cannot be so cold. Look for an air leak or a bridge.",
            k = k(0.5)
        ),
        GridWarning::OutsideBoth => say!(
            "Some of it is over {k} colder or warmer than both airs: a reflection, the sun or a device. Take it again from another side.",
            k = k(2.0)
        ),
    }
}
