//! What moisture meters said, in words: wood percent, and relative scales against themselves.

use building::reading::WoodValue;
use drawing::DropMark;
use hygrothermal::quantity::ScaleReading;
use hygrothermal::wood::{MeterReading, RelativeReading, Species, species_by_id};
use judgment::limits::{Limits, WoodState};
use notation::Show;
use store::ReadingRecord;
use uuid::Uuid;

/// Head, text and figures of a wood reading.
pub fn wood(show: &Show, limits: &Limits, wood: &WoodValue) -> (DropMark, String, String, Vec<(&'static str, String)>) {
    let (mark, text) = match limits.wood(wood.value) {
        WoodState::Dry => (DropMark { symbol: "dry", word: "dry" }, "Under {wood_goal} %: it may be closed in."),
        WoodState::Damp => {
            let text = "{wood_goal} to {wood_wet} %: do not close it in; find what feeds it.";
            (DropMark { symbol: "mold", word: "damp" }, text)
        }
        WoodState::Wet => {
            let text = "{wood_wet} % and more is wet by most codes; decay becomes possible.";
            (DropMark { symbol: "wet", word: "wet" }, text)
        }
    };
    let figures = vec![
        ("As the meter showed", format!("{} %", wood.shown.get())),
        ("Corrected for", format!("{} at {}", name(wood.species), show.temperature(wood.at.get()))),
    ];
    (mark, format!("Wood moisture {}", moisture(wood.value)), limits.fill(text), figures)
}

/// `17.2 ± 1.5 %`, or what is said over fiber saturation.
pub fn moisture(value: MeterReading) -> String {
    match value {
        MeterReading::Percent(m) => format!("{:.1} ± {:.1} %", m.value, m.err),
        MeterReading::Wet => "wet (over fiber saturation)".into(),
    }
}

fn name(species: &str) -> &str {
    species_by_id(species).map_or(species, |s: &Species| s.name.as_str())
}

/// A stored wood row: corrected value and wood.
pub fn wood_row(show: &Show, row: &ReadingRecord) -> String {
    let value = row.value.map_or_else(|| "wet".to_owned(), |v| format!("{v:.1} %"));
    let at = row.wood_t_c.map_or_else(String::new, |t| format!(" at {}", show.temperature(t)));
    format!("wood {value} ({}{at})", name(row.species.as_deref().unwrap_or_default()))
}

/// A relative reading against the one before on the same spot, by the same meter or not.
pub fn relative(spot: Uuid, now: (Uuid, ScaleReading), before: Option<(Uuid, ScaleReading)>) -> String {
    let reading = |(meter, shown)| RelativeReading { meter, spot, shown };
    let Some(before) = before else {
        return "A relative scale means nothing alone: read the same spot with the same meter again.".into();
    };
    match reading(before).change_to(&reading(now)) {
        Ok(change) => {
            let percent = 100.0 * (1.0 - change.of_first);
            let way = if change.points <= 0.0 { "fallen" } else { "risen" };
            let (first, last) = (before.1.get(), now.1.get());
            format!("From {first} to {last} on the same spot: {way} by {:.0} of a hundred.", percent.abs())
        }
        Err(e) => format!("Not compared with last time: {e}."),
    }
}
