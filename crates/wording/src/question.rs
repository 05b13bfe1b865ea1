//! Doubts about an entry, in words.

use building::entry::DewAboveAir;
use judgment::question::Doubt;
use notation::Show;

/// A question as asked.
pub fn ask(show: &Show, question: &Doubt) -> String {
    match *question {
        Doubt::DewAboveAir(DewAboveAir { dew, air }) => format!(
            "A dew point of {} above an air temperature of {} cannot last: kept, it counts as saturated air.",
            show.temperature(dew),
            show.temperature(air)
        ),
        Doubt::BeyondIce { rh, limit } => format!(
            "{} over water is more than ice allows here ({}): kept, it counts as saturated.",
            show.percent(rh),
            show.percent(limit)
        ),
        Doubt::Saturated { rh } => {
            format!("{} in this kind of space is rare: is the sensor wet, or still warming up?", show.percent(rh))
        }
        Doubt::VeryDry { rh } => format!("{} is drier than buildings are: is the sensor working?", show.percent(rh)),
        Doubt::LooksFahrenheit { t, if_fahrenheit } => format!(
            "{} is hot for this place: did you mean {:.0} °F, which is {}?",
            show.temperature(t),
            t,
            show.temperature(if_fahrenheit)
        ),
        Doubt::TemperatureJump { now, before } => {
            format!("{} is far from the last reading here, {}.", show.temperature(now), show.temperature(before))
        }
        Doubt::HumidityJump { now, before } => {
            format!("{} is far from the last reading here, {}.", show.percent(now), show.percent(before))
        }
        Doubt::SurfaceOutOfPlace { surface, low, high } => format!(
            "{} lies well outside the air on either side ({} and {}): a reflection, sun or a heat source?",
            show.temperature(surface),
            show.temperature(low),
            show.temperature(high)
        ),
    }
}

/// Every doubt about an entry.
#[must_use]
pub fn asked(show: &Show, checked: &casework::entry::Checked) -> Vec<String> {
    checked.questions.iter().map(|q| ask(show, q)).collect()
}
