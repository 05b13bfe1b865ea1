//! Moisture maps: what is high, how far it goes, whether a second method agrees, and where a meter may not speak.
#![allow(clippy::unwrap_used, reason = "tests")]

use building::Material;
use building::unfold::{Facet, FalseWet, MapScale};
use judgment::limits::Limits;
use judgment::map::{Confirmed, Damp, MapPoint, Rising, Second, Showed, limits_of, read, refusal};
use proptest::prelude::*;

fn point(place: [f64; 3], x: f64) -> MapPoint {
    MapPoint {
        facet: Facet::Floor,
        height: None,
        place,
        showed: Showed::Figure(x),
        false_wet: None,
        spacing: 0.1,
        in_grid: false,
    }
}

/// An edge every 10 cm with these figures.
fn edge(figures: &[f64]) -> Vec<MapPoint> {
    (0..).zip(figures).map(|(i, x)| point([f64::from(i) * 0.1 + 0.05, 0.05, 0.0], *x)).collect()
}

fn limits(standard: f64) -> Option<[f64; 2]> {
    limits_of(MapScale::Pinless, Some(standard), &Limits::default())
}

/// By hand, standard 100: dry up to 110, high from 150. Nine high places in a row are 0.9 m; a bracket among them is left out and
/// does not part them; two places further on are a patch of their own.
#[test]
fn a_wet_stretch_is_measured_and_stays_open_until_a_second_method_agrees() {
    let figures = [
        100.0, 109.0, 130.0, 160.0, 200.0, 300.0, 400.0, 999.0, 380.0, 300.0, 210.0, 155.0, 120.0, 100.0, 100.0, 180.0,
        170.0,
    ];
    let mut points = edge(&figures);
    points[7].false_wet = Some(FalseWet::MetalBracket);
    points[16].showed = Showed::Over;
    let open = read(&points, limits(100.0), &[]);
    assert_eq!(
        (open.damp[0], open.damp[2], open.damp[3], open.damp[7]),
        (Damp::Dry, Damp::Raised, Damp::High, Damp::LeftOut)
    );
    assert_eq!((open.counted(), open.high()), (16, 10));
    assert_eq!(open.patches.len(), 2);
    let first = &open.patches[0];
    assert!((first.stretch_m.unwrap() - 0.8).abs() < 1e-9 && first.area_m2.is_none());
    assert_eq!((first.worst, first.confirmed), (6, Confirmed::Open));
    assert_eq!(open.worst, Some(16), "over the scale is wettest");
    // 20 cm beside it a pin speaks of it, 40 cm beside it does not; one that finds it dry closes it the other way.
    let at = |x: f64, wet| Second { place: [x, 0.2, 0.0], wet };
    let said = |seconds: &[Second]| read(&points, limits(100.0), seconds).patches[0].confirmed;
    assert_eq!(said(&[at(0.65, true)]), Confirmed::Wet(1));
    assert_eq!(said(&[Second { place: [0.65, 0.5, 0.0], wet: true }]), Confirmed::Open);
    assert_eq!(said(&[at(0.65, false)]), Confirmed::Dry);
    assert_eq!(said(&[at(0.65, false), at(0.75, true)]), Confirmed::Wet(1));
    // Without a standard nothing is said of any.
    let untold = read(&points, None, &[]);
    assert!(untold.patches.iter().all(|p| p.points == [16]) && untold.damp[5] == Damp::Untold);
    // Wood by pins has limits of its own and asks for no standard.
    assert_eq!(limits_of(MapScale::Pins, None, &Limits::default()), Some([15.0, 19.0]));
}

proptest! {
    /// Patches part the high places: each is in exactly one, nothing else is in any, and the order of walking does not matter.
    #[test]
    fn patches_part_the_high_places(figures in proptest::collection::vec((0..12_i32, 0..12_i32, 50.0..400.0_f64), 1..80)) {
        let points: Vec<MapPoint> = figures
            .iter()
            .map(|(x, y, v)| MapPoint { in_grid: true, ..point([f64::from(*x) * 0.1, f64::from(*y) * 0.1, 0.0], *v) })
            .collect();
        let said = read(&points, limits(100.0), &[]);
        let mut all: Vec<usize> = said.patches.iter().flat_map(|p| p.points.clone()).collect();
        all.sort_unstable();
        let high: Vec<usize> = (0..points.len()).filter(|i| said.damp[*i] == Damp::High).collect();
        prop_assert_eq!(all, high);
        let mut back = points.clone();
        back.reverse();
        let sizes = |s: &judgment::map::MapSaid| s.patches.iter().map(|p| p.points.len()).collect::<Vec<_>>();
        prop_assert_eq!(sizes(&said), sizes(&read(&back, limits(100.0), &[])));
    }
}

fn wall(of: impl Fn(f64, usize) -> f64) -> Vec<MapPoint> {
    let heights = [0.1, 0.3, 0.5, 0.7, 0.9, 1.1];
    let row = |h: f64| (0..5).map(move |i| (h, i));
    let points = heights.into_iter().flat_map(row).map(|(h, i)| MapPoint {
        facet: Facet::North,
        height: Some(h),
        in_grid: true,
        ..point([0.0, i as f64 * 0.2, h], of(h, i))
    });
    points.collect()
}

/// A wall that is wettest at its foot says so; the same scatter without a fall says nothing, nor does a fall within the scatter.
#[test]
fn a_profile_by_height_tells_the_ground_from_the_rest() {
    let scatter = |i: usize| [3.0, -2.0, 1.0, -3.0, 2.0][i];
    let says = |points: &[MapPoint]| read(points, limits(60.0), &[]).profiles.first().map(|p| p.says);
    assert_eq!(says(&wall(|h, i| 220.0 - 140.0 * h + scatter(i))), Some(Rising::Falls));
    assert_eq!(says(&wall(|h, i| 80.0 + 140.0 * h + scatter(i))), Some(Rising::Rises));
    assert_eq!(says(&wall(|_, i| 90.0 + scatter(i))), Some(Rising::Even));
    assert_eq!(says(&wall(|h, i| 90.0 - 2.0 * h + scatter(i))), Some(Rising::Even));
    assert_eq!(says(&wall(|h, _| 220.0 - h)[..10]), None, "two heights are no profile");
    // Means by height, by hand.
    let falling = read(&wall(|h, i| 220.0 - 140.0 * h + scatter(i)), limits(60.0), &[]);
    let (height, mean, n) = falling.profiles[0].heights[0];
    assert!((height - 0.1).abs() < 1e-9 && (mean - (206.0 + 0.2)).abs() < 1e-9 && n == 5);
}

#[test]
fn a_meter_is_refused_where_it_cannot_speak() {
    let built = |id: &str| vec![id.to_owned()];
    let may = |id: &str, facet, scale, material| refusal(&built(id), facet, scale, material).is_none();
    assert!(may("bonded_wood_floor", Facet::Floor, MapScale::Pinless, Material::Wood));
    assert!(may("bonded_wood_floor", Facet::Floor, MapScale::Pins, Material::Wood));
    assert!(!may("bonded_wood_floor", Facet::West, MapScale::Pinless, Material::Panel));
    assert!(!may("bonded_foam", Facet::Floor, MapScale::Pins, Material::Wood));
    assert!(may("timber", Facet::North, MapScale::Pinless, Material::Wood));
    assert!(!may("timber", Facet::North, MapScale::Pins, Material::Wood), "pins in finished panels without consent");
    assert!(!may("masonry", Facet::North, MapScale::Pins, Material::Masonry));
    assert!(may("masonry", Facet::North, MapScale::Pinless, Material::Masonry));
    assert!(!may("", Facet::Floor, MapScale::Pinless, Material::Metal));
}
