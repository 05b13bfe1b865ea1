//! Sensitivity classes of surfaces.

/// Index from which growth is unacceptable (ASHRAE 160-2016, from memory).
pub const CRITERION: f64 = 3.0;

/// How readily a surface grows mold.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Sensitivity {
    /// Untreated pine sapwood.
    VerySensitive,
    /// Planed wood, paper-faced boards, wood panels.
    Sensitive,
    /// Cement, plastics, wool.
    Medium,
    /// Glass, metal, treated surfaces.
    Resistant,
}

/// The constants of a class.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Class {
    /// Relative growth below index 1.
    pub k1_below: f64,
    /// Relative growth from index 1 up.
    pub k1_above: f64,
    /// Wood species term.
    pub w: f64,
    /// M_max = A + B x − C x².
    pub a: f64,
    /// See `a`.
    pub b: f64,
    /// See `a`.
    pub c: f64,
    /// Lowest RH (%) at which it grows at all.
    pub rh_min: f64,
}

impl Sensitivity {
    /// All classes, most sensitive first.
    pub const ALL: [Self; 4] = [Self::VerySensitive, Self::Sensitive, Self::Medium, Self::Resistant];

    /// The id used in files and by the headless interface.
    #[must_use]
    pub const fn id(self) -> &'static str {
        match self {
            Self::VerySensitive => "very_sensitive",
            Self::Sensitive => "sensitive",
            Self::Medium => "medium",
            Self::Resistant => "resistant",
        }
    }

    /// What belongs to it.
    #[must_use]
    pub const fn examples(self) -> &'static str {
        match self {
            Self::VerySensitive => "untreated pine sapwood",
            Self::Sensitive => "planed wood, paper-faced boards, wood panels",
            Self::Medium => "cement, plastics, wool",
            Self::Resistant => "glass, metal, treated surfaces",
        }
    }

    /// Constants of Hukka and Viitanen 1999 and Ojanen et al. 2010, as ASHRAE 160-2016 lists them (from memory).
    #[must_use]
    pub const fn class(self) -> Class {
        match self {
            Self::VerySensitive => Class { k1_below: 1.0, k1_above: 2.0, w: 0.0, a: 1.0, b: 7.0, c: 2.0, rh_min: 80.0 },
            Self::Sensitive => Class { k1_below: 0.578, k1_above: 0.386, w: 1.0, a: 0.3, b: 6.0, c: 1.0, rh_min: 80.0 },
            Self::Medium => Class { k1_below: 0.072, k1_above: 0.097, w: 1.0, a: 0.0, b: 5.0, c: 1.5, rh_min: 85.0 },
            Self::Resistant => Class { k1_below: 0.033, k1_above: 0.014, w: 1.0, a: 0.0, b: 3.0, c: 1.0, rh_min: 85.0 },
        }
    }
}
