//! The vapor pressure line pulled taut against the saturation curve.

use super::layer::{BuildUp, Sides};
use crate::air::saturation_pressure;

/// The line for one climate: which planes it touches, and the pressures there.
///
/// Interfaces without vapor resistance between them are one place; the coldest of them speaks for it.
pub(super) struct Taut {
    /// Saturation pressure at each interface, Pa.
    pub sat: Vec<f64>,
    /// The places, inside first.
    places: Vec<Place>,
    /// Corners of the taut line, as indices into `places`, both ends included.
    corners: Vec<usize>,
}

/// Interfaces at one depth.
#[derive(Clone, Copy)]
struct Place {
    depth: f64,
    /// The interface with the lowest saturation pressure here.
    coldest: usize,
    /// Vapor pressure if the line touches here; at the two ends, what it starts and ends with.
    pressure: f64,
    /// Liquid here from before: the line is nailed to saturation.
    wet: bool,
}

/// A corner of the line where water comes or goes.
#[derive(Debug, Clone, Copy)]
pub(super) struct Corner {
    /// Number of the place, stable for one build-up.
    pub place: usize,
    /// Interface that speaks for it.
    pub interface: usize,
    /// Change of slope, Pa/m: what flows in less what flows out, over δ₀.
    pub bend: f64,
}

impl Taut {
    pub fn new() -> Self {
        Self { sat: Vec::new(), places: Vec::new(), corners: Vec::new() }
    }

    /// Pulls the line for these airs. `wet` says, place by place, where liquid lies from before (empty: nowhere).
    ///
    /// # Method
    /// ISO 13788:2012 (Glaser): the line may nowhere pass saturation, and water only collects where it bends upward.
    /// Both together make it the lower convex hull over diffusion thickness of the two airs' vapor pressures and the
    /// saturation pressures between, found in one sweep (monotone chain). Wet planes stay corners in any case.
    pub fn pull(&mut self, buildup: &BuildUp, sides: &Sides, wet: &[bool]) {
        let (warm, cold) = (sides.inside.temperature(), sides.outside.temperature());
        self.sat.clear();
        self.sat.extend(buildup.drop.iter().map(|&share| saturation_pressure(warm.toward(cold, share))));
        self.collect(buildup, wet);
        let last = self.places.len() - 1;
        for (end, air) in [(0, &sides.inside), (last, &sides.outside)] {
            let place = &mut self.places[end];
            place.pressure = place.pressure.min(air.vapor_pressure());
        }
        self.sweep();
    }

    /// Gathers interfaces of one depth into places.
    fn collect(&mut self, buildup: &BuildUp, wet: &[bool]) {
        self.places.clear();
        for (interface, (&depth, &sat)) in buildup.depth.iter().zip(&self.sat).enumerate() {
            match self.places.last_mut() {
                Some(place) if place.depth >= depth => {
                    if sat < place.pressure {
                        (place.coldest, place.pressure) = (interface, sat);
                    }
                }
                _ => {
                    let wet = wet.get(self.places.len()).copied().unwrap_or(false);
                    self.places.push(Place { depth, coldest: interface, pressure: sat, wet });
                }
            }
        }
    }

    fn sweep(&mut self) {
        self.corners.clear();
        for new in 0..self.places.len() {
            // Everything before stays convex; a corner that the new piece would bend downward is let go.
            while let [.., before, last] = self.corners[..] {
                if self.places[last].wet || self.slope(before, last) < self.slope(last, new) {
                    break;
                }
                self.corners.pop();
            }
            self.corners.push(new);
        }
    }

    fn slope(&self, a: usize, b: usize) -> f64 {
        let (a, b) = (self.places[a], self.places[b]);
        (b.pressure - a.pressure) / (b.depth - a.depth)
    }

    /// Corners between the two ends.
    pub fn bends(&self) -> impl Iterator<Item = Corner> {
        self.corners.windows(3).map(|w| Corner {
            place: w[1],
            interface: self.places[w[1]].coldest,
            bend: self.slope(w[1], w[2]) - self.slope(w[0], w[1]),
        })
    }

    /// Surfaces (or planes with no vapor resistance before them) at which the air itself condenses.
    pub fn sweating(&self, sides: &Sides) -> impl Iterator<Item = usize> {
        let ends = [(self.places.first(), sides.inside), (self.places.last(), sides.outside)];
        ends.into_iter()
            .filter_map(|(place, air)| place.filter(|p| p.pressure < air.vapor_pressure()).map(|p| p.coldest))
    }

    /// Vapor pressure at each interface, Pa.
    pub fn pressures(&self, buildup: &BuildUp) -> Vec<f64> {
        let mut piece = 0;
        let at = |&depth: &f64| {
            while piece + 2 < self.corners.len() && self.places[self.corners[piece + 1]].depth < depth {
                piece += 1;
            }
            let from = self.places[self.corners[piece]];
            from.pressure + self.slope(self.corners[piece], self.corners[piece + 1]) * (depth - from.depth)
        };
        buildup.depth.iter().map(at).collect()
    }
}
