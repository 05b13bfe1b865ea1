//! What moisture meters said, in words: wood percent, and relative scales against themselves.

use building::reading::WoodValue;
use drawing::DropMark;
use hygrothermal::quantity::ScaleReading;
use hygrothermal::wood::{MeterReading, RelativeReading, Species, species_by_id};
use judgment::limits::{Limits, WoodState};
use language::say;
use notation::Show;
use store::ReadingRecord;
use uuid::Uuid;

/// Head, text and figures of a wood reading.
pub fn wood(show: &Show, limits: &Limits, wood: &WoodValue) -> (DropMark, String, String, Vec<(&'static str, String)>) {
    let (mark, text) = match limits.wood(wood.value) {
        WoodState::Dry => (DropMark { symbol: "dry", word: say!("dry") }, "Under {wood_goal} %: it may be closed in."),
        WoodState::Damp => {
            let text = "{wood_goal} to {wood_wet} %: do not close it in; find what feeds it.";
            (DropMark { symbol: "mold", word: say!("damp") }, text)
        }
        WoodState::Wet => {
            let text = "{wood_wet} % and more is wet by most codes; decay becomes possible.";
            (DropMark { symbol: "wet", word: say!("wet") }, text)
        }
    };
    let figures = vec![
        (say!("As the meter showed"), format!("{} %", wood.shown.get())),
        (
            say!("Corrected for"),
            say!("{wood} at {wood2}", wood = name(wood.species), wood2 = show.temperature(wood.at.get())),
        ),
    ];
    (mark, say!("Wood moisture {moisture}", moisture = moisture(wood.value)), limits.fill(text), figures)
}

/// `17.2 ± 1.5 %`, or what is said over fiber saturation.
pub fn moisture(value: MeterReading) -> String {
    match value {
        MeterReading::Percent(m) => format!("{:.1} ± {:.1} %", m.value, m.err),
        MeterReading::Wet => say!("wet (over fiber saturation)").into(),
    }
}

fn name(species: &str) -> &str {
    species_by_id(species).map_or(species, |s: &Species| s.name.as_str())
}

/// A stored wood row: corrected value and wood.
pub fn wood_row(show: &Show, row: &ReadingRecord) -> String {
    let value = row.value.map_or_else(|| say!("wet").to_owned(), |v| format!("{v:.1} %"));
    let at = row.wood_t_c.map_or_else(String::new, |t| say!(" at {t}", t = show.temperature(t)));
    say!("wood {value} ({row}{at})", value, row = name(row.species.as_deref().unwrap_or_default()), at)
}

/// A relative reading against the one before on the same spot, by the same meter or not.
pub fn relative(spot: Uuid, now: (Uuid, ScaleReading), before: Option<(Uuid, ScaleReading)>) -> String {
    let reading = |(meter, shown)| RelativeReading { meter, spot, shown };
    let Some(before) = before else {
        return say!("A relative scale means nothing alone: read the same spot with the same meter again.").into();
    };
    match reading(before).change_to(&reading(now)) {
        Ok(change) => {
            let percent = 100.0 * (1.0 - change.of_first);
            let way = if change.points <= 0.0 { say!("fallen") } else { say!("risen") };
            let (first, last) = (before.1.get(), now.1.get());
            say!(
                "From {first} to {last} on the same spot: {way} by {abs} of a hundred.",
                first,
                last,
                way,
                abs = format_args!("{:.0}", percent.abs())
            )
        }
        Err(e) => say!("Not compared with last time: {e}.", e),
    }
}
