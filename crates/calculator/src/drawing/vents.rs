//! An attic with its vents, and a bucket with its parts.

use crate::case::Case;
use crate::sketch::{Anchor, Sketch};
use language::say;
use notation::unit::{FREE_AREA, LITERS, SHARE};

/// A gable with air coming in at the eaves and leaving at the ridge, and a bar of what is needed beside what is there.
pub fn attic(c: &Case) -> Sketch {
    let mut s = Sketch::new(820.0, 340.0, say!("Attic vents, high and low, against what is required"));
    s.area("layer-a", [(60.0, 250.0), (270.0, 80.0), (480.0, 250.0)]);
    s.line("axis", [(40.0, 266.0), (270.0, 80.0), (500.0, 266.0)]);
    s.line("axis", [(60.0, 250.0), (480.0, 250.0)]);
    let (high, low) = (c.given_if("high_m2"), c.given_if("low_m2"));
    if let Some(low) = low.filter(|a| *a > 0.0) {
        s.arrow("arrow", (20.0, 292.0), (84.0, 240.0));
        s.arrow("arrow", (520.0, 292.0), (456.0, 240.0));
        s.text("word", (270.0, 240.0), Anchor::Middle, say!("low {low}", low = FREE_AREA.text(low, c.units)));
    }
    if let Some(high) = high.filter(|a| *a > 0.0) {
        s.arrow("arrow", (270.0, 96.0), (270.0, 32.0));
        s.text("word", (286.0, 48.0), Anchor::Start, say!("high {high}", high = FREE_AREA.text(high, c.units)));
    }
    let (required, there) = (c.got("required_m2"), high.unwrap_or(0.0) + low.unwrap_or(0.0));
    let most = required.max(there).max(1e-9);
    let y = |area: f64| 270.0 - 210.0 * area / most;
    if let Some(high) = high.or(low.map(|_| 0.0)) {
        s.rect("bar", (600.0, y(there - high)), (660.0, 270.0));
        s.rect("bar-b", (600.0, y(there)), (660.0, y(there - high)));
    }
    s.rect("layer-b", (700.0, y(required)), (760.0, 270.0));
    s.line("axis", [(580.0, 270.0), (790.0, 270.0)]);
    s.text("word", (630.0, 290.0), Anchor::Middle, say!("there"));
    s.text("word", (730.0, 290.0), Anchor::Middle, say!("required"));
    s.text("tick", (630.0, y(there) - 7.0), Anchor::Middle, FREE_AREA.text(there, c.units));
    s.text("tick", (730.0, y(required) - 7.0), Anchor::Middle, FREE_AREA.text(required, c.units));
    if let Some(share) = c.got_if("high_share") {
        s.text("word", (630.0, 312.0), Anchor::Middle, say!("{share} high", share = SHARE.text(share, c.units)));
    }
    s
}

/// The mix in a vessel, concentrate below, and the wall it covers.
pub fn bucket(c: &Case) -> Sketch {
    let mut s = Sketch::new(820.0, 300.0, say!("What to mix"));
    let liters = c.got("litres");
    let (top, bottom) = (60.0, 250.0);
    let share = c.got_if("concentrate_l").map_or(1.0, |l| if liters > 0.0 { l / liters } else { 0.0 });
    let level = bottom - share * (bottom - top - 20.0);
    s.rect("bar", (90.0, level), (290.0, bottom));
    if share < 1.0 {
        s.rect("bar-b", (90.0, top + 20.0), (290.0, level));
    }
    s.line("axis", [(90.0, top), (90.0, bottom), (290.0, bottom), (290.0, top)]);
    s.text(
        "word strong",
        (310.0, top + 26.0),
        Anchor::Start,
        say!("{liters} in all", liters = LITERS.text(liters, c.units)),
    );
    if let Some((concentrate, water)) = c.got_if("concentrate_l").zip(c.got_if("water_l")) {
        s.text(
            "word",
            (310.0, level + 16.0),
            Anchor::Start,
            say!("{concentrate} of concentrate", concentrate = LITERS.text(concentrate, c.units)),
        );
        s.text(
            "word",
            (310.0, top + 50.0),
            Anchor::Start,
            say!("{water} of water", water = LITERS.text(water, c.units)),
        );
    }
    let coats = c.given("coats").clamp(0.0, 6.0) as u32;
    for i in 0..coats {
        let x = 560.0 + 14.0 * f64::from(i);
        s.rect("layer-b", (x, top + 20.0 + 10.0 * f64::from(i)), (x + 160.0, bottom - 40.0 + 10.0 * f64::from(i)));
    }
    let words = say!(
        "{n} coats of {area}",
        n = c.given("coats"),
        area = notation::unit::AREA.text(c.given("area_m2"), c.units)
    );
    s.text("word", (660.0, bottom + 24.0), Anchor::Middle, words);
    s
}
