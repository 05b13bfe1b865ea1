//! Ventilate or not, hour by hour: the best hours of a day.

use super::exchange::removal;
use crate::air::MoistAir;
use crate::quantity::{AirFlow, Temperature};
use std::ops::Range;

/// One hour: the air inside and out.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Hour {
    /// Air of the space.
    pub inside: MoistAir,
    /// Outdoor air.
    pub outside: MoistAir,
}

/// A run of hours in which opening up dries without wetting the coldest surface.
#[derive(Debug, Clone, PartialEq)]
pub struct Window {
    /// Hours, counted from 0, the end not included.
    pub hours: Range<usize>,
    /// Water carried out, L.
    pub removed_l: f64,
}

/// What a series of hours offers.
#[derive(Debug, Clone, PartialEq)]
pub struct Airing {
    /// Water carried out in each hour if open, L; negative wets.
    pub hourly_l: Vec<f64>,
    /// Windows to open in, the one that removes most first.
    pub windows: Vec<Window>,
    /// Water carried out when open in those windows only, L.
    pub in_windows_l: f64,
    /// Water carried out when open all the time, L; negative wets.
    pub always_l: f64,
}

/// Finds the hours in which `flow` of outdoor air removes water and would not condense on `coldest`.
#[must_use]
pub fn airing(hours: &[Hour], flow: AirFlow, coldest: Option<Temperature>) -> Airing {
    let hourly_l: Vec<f64> = hours.iter().map(|h| removal(&h.inside, &h.outside, flow) / 24.0).collect();
    let condenses = |h: &Hour| coldest.is_some_and(|s| h.outside.dew_point().is_some_and(|d| d > s));
    let good = |i: usize| hourly_l[i] > 0.0 && !condenses(&hours[i]);
    let mut windows: Vec<Window> = Vec::new();
    for i in (0..hours.len()).filter(|&i| good(i)) {
        match windows.last_mut() {
            Some(last) if last.hours.end == i => {
                last.hours.end = i + 1;
                last.removed_l += hourly_l[i];
            }
            _ => windows.push(Window { hours: i..i + 1, removed_l: hourly_l[i] }),
        }
    }
    windows.sort_by(|a, b| b.removed_l.total_cmp(&a.removed_l));
    let in_windows_l = windows.iter().map(|w| w.removed_l).sum();
    let always_l = hourly_l.iter().sum();
    Airing { hourly_l, windows, in_windows_l, always_l }
}
