//! Mold index over hours.

use super::Answer;
use crate::input::Input;
use hygrothermal::mold::{self, Decline, Sensitivity};
use hygrothermal::quantity::{Factor, MoldIndex, RelativeHumidity, Temperature};

/// The index after a series of hours.
pub fn mold_index(input: &Input) -> Answer {
    input.only(&["hours", "class", "start", "decline"])?;
    let hours = input.pairs("hours", Temperature::new, RelativeHumidity::new)?;
    let classes = Sensitivity::ALL.map(|s| (s.id(), s));
    let class = input.word("class", &classes)?.ok_or_else(|| input.missing("class"))?;
    let start = input.optional("start", MoldIndex::new)?.unwrap_or(MoldIndex::CLEAN);
    let decline = match input.optional("decline", Factor::new)? {
        None => Decline::ASHRAE_160,
        Some(given) => Decline::new(given.get())
            .ok_or_else(|| input.fault("decline", format!("decline must be 0 to 1, got {}", given.get())))?,
    };
    let growth =
        mold::mold_index(&hours, class, start, decline).map_err(|e| input.fault(&format!("hours[{}]", e.hour), e))?;
    Ok(fields!({
        "peak": growth.peak,
        "end": growth.end,
        "first_hour_over_1": growth.first_over_1,
        "first_hour_over_3": growth.first_over_3,
    }))
}
