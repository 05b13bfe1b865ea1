//! What an instrument's salt check says.

use language::say;
use notation::Show;
use notation::number::signed;
use store::Instrument;

/// Days a salt check holds (common practice: yearly, or after a knock).
const CHECK_HOLDS: i64 = 365;

/// What an instrument's salt check says.
pub fn salt_check(i: &Instrument) -> String {
    let Some(day) = i.checked_on else {
        return if i.kind.reads_humidity() {
            say!("never salt-checked: do it before trusting its humidity").into()
        } else if i.kind.has_block() {
            say!("never checked on its block: do it before certifying by it").into()
        } else {
            say!("reads no humidity").into()
        };
    };
    if i.kind.has_block() {
        return meter_check(i);
    }
    let slope = if (i.rh_slope - 1.0).abs() > 1e-9 {
        say!("slope {rh_slope}, ", rh_slope = format_args!("{:.3}", i.rh_slope))
    } else {
        String::new()
    };
    let told = say!(
        "salt-checked {day}, {slope}offset {signed} %",
        day = notation::day(day),
        slope,
        signed = signed(i.rh_offset_pct, 1)
    );
    if expired(i) { say!("{told}; that is over a year ago: check it again", told) } else { told }
}

/// What a meter's check says.
#[must_use]
pub fn meter_check(i: &Instrument) -> String {
    match i.checked_on {
        None => say!("its check was never made").into(),
        Some(day) if expired(i) => say!("checked {day}, over a year ago", day = notation::day(day)),
        Some(day) => say!("checked {day}", day = notation::day(day)),
    }
}

/// Whether its humidity was never checked, or too long ago.
pub fn expired(i: &Instrument) -> bool {
    i.checked_on.is_none_or(|day| (chrono::Utc::now().date_naive() - day).num_days() > CHECK_HOLDS)
}

/// Accuracy of an instrument: K air, % RH, K surface.
pub fn accuracy(show: &Show, i: &Instrument) -> String {
    let (air, surface) = (show.spread(i.air_err_k), show.spread(i.surface_err_k));
    let wood = if i.wood_err_pct > 0.0 {
        say!(", ± {wood_err_pct} % wood", wood_err_pct = i.wood_err_pct)
    } else {
        String::new()
    };
    say!("{air} air, ± {rh_err_pct} % RH, {surface} surface{wood}", air, rh_err_pct = i.rh_err_pct, surface, wood)
}
