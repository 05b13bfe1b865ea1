//! A thermal picture in sentences.

use hygrothermal::surface::{GridReading, GridWarning, Room};
use judgment::thermal::{Season, season};
use notation::Show;
use notation::number::fixed;

/// A share as people say it.
fn share(of: f64) -> String {
    match 100.0 * of {
        p if p <= 0.0 => "None".into(),
        p if p < 1.0 => "Under 1 %".into(),
        p if p > 99.0 && of < 1.0 => "Over 99 %".into(),
        p => format!("{} %", fixed(p, 0)),
    }
}

/// The finding of a picture, its figures after it.
#[must_use]
pub fn head(show: &Show, said: &GridReading, room: &Room) -> String {
    let (Some(coldest), Some(dew)) = (said.coldest, said.dew) else {
        return "No cell of it was read.".into();
    };
    let (wet, damp) = (said.wet_share.unwrap_or(0.0), said.mold_share.unwrap_or(0.0));
    let t = show.temperature(coldest.celsius);
    let first = if wet > 0.0 {
        format!("{} of it stands under the dew point, {} over 80 %.", share(wet), share(damp).to_lowercase())
    } else if damp > 0.0 {
        format!("Nothing is wet, but {} of it stands over 80 %.", share(damp).to_lowercase())
    } else {
        let margin = show.difference(coldest.celsius - dew.get());
        format!("All of it is dry: the coldest spot, {t}, stands {margin} above the dew point.")
    };
    let night = said.design.zip(room.design).map(|(spot, night)| {
        let then = if spot <= dew.get() { ", under the dew point of this air" } else { "" };
        format!(
            " On the coldest night, {} outdoors, its coldest spot would stand at {}{then}.",
            show.temperature(night.get()),
            show.temperature(spot)
        )
    });
    let warm = if season(room) == Season::Warm {
        " Outdoors is warmer: what lacks insulation or leaks shows warm, not cold."
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
            "The outdoor temperature is not known: nothing is said of the construction. Type it.".into()
        }
        GridWarning::LowContrast => format!(
            "Inside and outdoors are within {}: missing insulation hardly shows. Take it again in the hottest or coldest weather.",
            k(10.0)
        ),
        GridWarning::AllCellsAlike => format!("All cells are within {}: the picture shows nothing.", k(0.3)),
        GridWarning::NotEvaporation => format!(
            "The coldest spot lies over {} under the room’s wet bulb: water alone cannot be so cold. Look for an air leak or a bridge.",
            k(0.5)
        ),
        GridWarning::OutsideBoth => format!(
            "Some of it is over {} colder or warmer than both airs: a reflection, the sun or a device. Take it again from another side.",
            k(2.0)
        ),
    }
}
