//! What templates write otherwise than as it is.

use askama::filters::Safe;
use drawing::Px;

/// A number as a template holds it, by however many references.
pub trait Coordinate {
    fn get(&self) -> f64;
}

impl Coordinate for f64 {
    fn get(&self) -> f64 {
        *self
    }
}

impl<C: Coordinate> Coordinate for &C {
    fn get(&self) -> f64 {
        (*self).get()
    }
}

/// A coordinate of a drawing.
#[askama::filter_fn]
pub fn px(x: impl Coordinate, _: &dyn askama::Values) -> askama::Result<Safe<Px>> {
    Ok(Safe(Px(x.get())))
}
