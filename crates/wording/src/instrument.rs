//! What an instrument's salt check says.

use notation::Show;
use notation::number::signed;
use store::Instrument;

/// Days a salt check holds (common practice: yearly, or after a knock).
const CHECK_HOLDS: i64 = 365;

/// What an instrument's salt check says.
pub fn salt_check(i: &Instrument) -> String {
    let Some(day) = i.checked_on else {
        return if i.kind.reads_humidity() {
            "never salt-checked: do it before trusting its humidity".into()
        } else if i.kind.has_block() {
            "never checked on its block: do it before certifying by it".into()
        } else {
            "reads no humidity".into()
        };
    };
    if i.kind.has_block() {
        return meter_check(i);
    }
    let slope = if (i.rh_slope - 1.0).abs() > 1e-9 { format!("slope {:.3}, ", i.rh_slope) } else { String::new() };
    let told = format!("salt-checked {}, {slope}offset {} %", notation::day(day), signed(i.rh_offset_pct, 1));
    if expired(i) { format!("{told}; that is over a year ago: check it again") } else { told }
}

/// What a meter's check says.
#[must_use]
pub fn meter_check(i: &Instrument) -> String {
    match i.checked_on {
        None => "its check was never made".into(),
        Some(day) if expired(i) => format!("checked {}, over a year ago", notation::day(day)),
        Some(day) => format!("checked {}", notation::day(day)),
    }
}

/// Whether its humidity was never checked, or too long ago.
pub fn expired(i: &Instrument) -> bool {
    i.checked_on.is_none_or(|day| (chrono::Utc::now().date_naive() - day).num_days() > CHECK_HOLDS)
}

/// Accuracy of an instrument: K air, % RH, K surface.
pub fn accuracy(show: &Show, i: &Instrument) -> String {
    let (air, surface) = (show.spread(i.air_err_k), show.spread(i.surface_err_k));
    let wood = if i.wood_err_pct > 0.0 { format!(", ± {} % wood", i.wood_err_pct) } else { String::new() };
    format!("{air} air, ± {} % RH, {surface} surface{wood}", i.rh_err_pct)
}
