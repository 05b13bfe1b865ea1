//! Doubts about an entry, in words.

use building::entry::DewAboveAir;
use judgment::question::Doubt;
use language::say;
use notation::Show;

/// A question as asked.
pub fn ask(show: &Show, question: &Doubt) -> String {
    match *question {
        Doubt::DewAboveAir(DewAboveAir { dew, air }) => say!(
            "A dew point of {dew} above an air temperature of {air} cannot last: kept, it counts as saturated air.",
            dew = show.temperature(dew),
            air = show.temperature(air)
        ),
        Doubt::BeyondIce { rh, limit } => say!(
            "{rh} over water is more than ice allows here ({limit}): kept, it counts as saturated.",
            rh = show.percent(rh),
            limit = show.percent(limit)
        ),
        Doubt::Saturated { rh } => {
            say!("{rh} in this kind of space is rare: is the sensor wet, or still warming up?", rh = show.percent(rh))
        }
        Doubt::VeryDry { rh } => {
            say!("{rh} is drier than buildings are: is the sensor working?", rh = show.percent(rh))
        }
        Doubt::LooksFahrenheit { t, if_fahrenheit } => say!(
            "{t} is hot for this place: did you mean {t2} °F, which is {if_fahrenheit}?",
            t = show.temperature(t),
            t2 = format_args!("{:.0}", t),
            if_fahrenheit = show.temperature(if_fahrenheit)
        ),
        Doubt::TemperatureJump { now, before } => {
            say!(
                "{now} is far from the last reading here, {before}.",
                now = show.temperature(now),
                before = show.temperature(before)
            )
        }
        Doubt::HumidityJump { now, before } => {
            say!(
                "{now} is far from the last reading here, {before}.",
                now = show.percent(now),
                before = show.percent(before)
            )
        }
        Doubt::SurfaceOutOfPlace { surface, low, high } => say!(
            "{surface} lies well outside the air on either side ({low} and {high}): a reflection, sun or a heat source?",
            surface = show.temperature(surface),
            low = show.temperature(low),
            high = show.temperature(high)
        ),
    }
}

/// Every doubt about an entry.
#[must_use]
pub fn asked(show: &Show, checked: &casework::entry::Checked) -> Vec<String> {
    checked.questions.iter().map(|q| ask(show, q)).collect()
}
