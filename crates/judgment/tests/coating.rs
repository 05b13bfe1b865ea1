//! What a coating needs, in jars, and in which months it goes on.
#![allow(clippy::unwrap_used, missing_docs, reason = "tests")]

use building::Climate;
use building::coating::{CoatingJob, ProductLimits, Substrate};
use judgment::climate::year;
use judgment::coating::{mix, months, saved_kwh};
use uuid::Uuid;

fn wall() -> CoatingJob {
    CoatingJob {
        id: Uuid::nil(),
        name: "Wall".into(),
        boundary_id: None,
        outdoors: true,
        substrate: Substrate::Block,
        product: String::new(),
        area_m2: None,
        coats: 2,
        spread: 7.9,
        first: 1.0,
        parts: Some([1.0, 4.0]),
        jar_l: 9.5,
        pack_l: Some(1.0),
        limits: ProductLimits::default(),
        warmer: 0.0,
        dry_since: None,
        first_coat: None,
        moisture: None,
        places: Vec::new(),
        liters: [Some(8.0), Some(3.0)],
        efficiency: 2.0,
        days: 200,
    }
}

/// A 1:4 concentrate making 9.5 L (2.5 gal) covers about 37 m² (400 ft²) of block twice (common practice): one jar, 1.9 L of it.
#[test]
fn one_jar_covers_the_trades_wall_twice() {
    let m = mix(&wall(), 37.5);
    assert!((m.liters - 9.5).abs() < 0.05 && (m.bought - 1.9).abs() < 0.01 && m.packs == Some(2), "{m:?}");
    // What is mixed is what is needed, coat by coat and jar by jar.
    let thirsty = mix(&CoatingJob { first: 1.4, jar_l: 2.0, ..wall() }, 61.0);
    let in_jars: f64 = thirsty.jars.iter().map(|j| j.count as f64 * j.liters).sum();
    let in_parts: f64 = thirsty.jars.iter().map(|j| j.count as f64 * j.parts.unwrap().iter().sum::<f64>()).sum();
    let needed = 61.0 / 7.9 * 2.4;
    for sum in [in_jars, in_parts, thirsty.coats.iter().sum()] {
        assert!((sum / needed - 1.0).abs() < 1e-9, "{sum} of {needed}");
    }
    assert!((thirsty.bought / needed - 0.2).abs() < 1e-9);
    assert_eq!(saved_kwh(&wall()), Some(5.0 * 200.0 / 2.0));
}

/// Cold winters rule coatings out (surface ≥ 10 °C), hot summers under an upper limit do; cold seasons in warm climates are often the
/// better ones (common practice).
#[test]
fn the_cold_season_is_the_better_one_where_it_is_warm() {
    let cold = months(year(Climate::Cold), &ProductLimits::default(), 0.0);
    assert!(!cold[0] && cold[6], "{cold:?}");
    let low = ProductLimits { surface: [10.0, 30.0], ..ProductLimits::default() };
    let hot = months(year(Climate::HotDry), &low, 5.0);
    assert!(hot[0] && !hot[6], "{hot:?}");
}
