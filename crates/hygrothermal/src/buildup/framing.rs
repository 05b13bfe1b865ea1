//! Layers with studs, joists or battens in them: the combined method of ISO 6946.

use crate::quantity::ThermalResistance;

/// A layer as it lies between the framing and as the framing lies in it; the same twice where none does.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Framed {
    /// Between the members.
    pub between: ThermalResistance,
    /// Through a member.
    pub through: ThermalResistance,
}

/// Resistance of a construction whose framing takes a share of its area.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Combined {
    /// Upper limit: heat flows straight through, m²K/W.
    pub upper: f64,
    /// Lower limit: each plane has one temperature, m²K/W.
    pub lower: f64,
}

impl Combined {
    /// Films and layers, with the framing's share of the area (0 to 1).
    ///
    /// # Formula
    /// 1/R′ = f/R_through + (1 − f)/R_between, each the whole construction with its films; R″ is the films with
    /// 1/R_j = f/R_j,through + (1 − f)/R_j,between layer by layer. Source: ISO 6946:2017, 6.7.2 (from memory).
    ///
    /// # Examples
    /// Studs over a tenth of a wall cost about a tenth of its insulation.
    /// ```
    /// # use hygrothermal::buildup::{Combined, Framed, film};
    /// # use hygrothermal::quantity::ThermalResistance;
    /// # let r = |x| ThermalResistance::new(x).unwrap();
    /// let wall = [Framed { between: r(2.5), through: r(0.7) }];
    /// let whole = Combined::new(&wall, 0.1, film::WALL, film::OUTSIDE).resistance();
    /// assert!((2.05..2.25).contains(&whole));
    /// ```
    #[must_use]
    pub fn new(layers: &[Framed], share: f64, r_si: ThermalResistance, r_se: ThermalResistance) -> Self {
        let share = share.clamp(0.0, 1.0);
        let mixed = |through: f64, between: f64| {
            // Where one way resists nothing, the plane is as good as open to it.
            if through <= 0.0 || between <= 0.0 {
                return if share <= 0.0 {
                    between
                } else if share >= 1.0 {
                    through
                } else {
                    0.0
                };
            }
            1.0 / (share / through + (1.0 - share) / between)
        };
        let films = r_si.get() + r_se.get();
        let whole = |one: fn(&Framed) -> f64| films + layers.iter().map(one).sum::<f64>();
        let upper = mixed(whole(|l| l.through.get()), whole(|l| l.between.get()));
        let lower = films + layers.iter().map(|l| mixed(l.through.get(), l.between.get())).sum::<f64>();
        Self { upper, lower }
    }

    /// Their mean, m²K/W.
    #[must_use]
    pub const fn resistance(self) -> f64 {
        f64::midpoint(self.upper, self.lower)
    }

    /// How far it may be off, as a share of it: (R′ − R″)/2R (ISO 6946:2017, 6.7.2.5).
    #[must_use]
    pub const fn error(self) -> f64 {
        (self.upper - self.lower) / (self.upper + self.lower)
    }
}
