//! A thermal camera that is none: pictures of invented surfaces by the same physics, with the faults of real ones.

use serde::Deserialize;

/// Cells of a picture, from left to right and from top to bottom.
const CELLS: [usize; 2] = [160, 120];
/// How much colder the corners of a picture read than its middle, K: the lens.
const VIGNETTING: f64 = 0.35;
/// Noise of a cell, ± K.
const NOISE: f64 = 0.08;

/// What is wrong with a surface. Places are shares of the picture's breadth and height, factors temperature factors f_Rsi.
#[derive(Debug, Clone, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum Flaw {
    /// A box without insulation: sharp edges.
    Gap {
        /// Left, top, right, bottom.
        at: [f64; 4],
        /// Factor there.
        f: f64,
    },
    /// Outdoor air that comes in at a place and spreads one way: a plume.
    Leak {
        /// Where it comes in.
        at: [f64; 2],
        /// How far it reaches, right and down.
        toward: [f64; 2],
        /// Factor at its mouth.
        f: f64,
    },
    /// Framing every so far.
    Studs {
        /// From one to the next.
        every: f64,
        /// How broad.
        broad: f64,
        /// Factor there.
        f: f64,
    },
    /// Something wet: cooled toward the wet bulb, soft at its edges.
    Wet {
        /// Middle.
        at: [f64; 2],
        /// How far it reaches.
        reach: f64,
        /// How far toward the wet bulb it is cooled, K.
        cooled: f64,
    },
    /// A shiny plate that shows what is behind the camera.
    Plate {
        /// Left, top, right, bottom.
        at: [f64; 4],
        /// Its emissivity.
        emissivity: f64,
    },
}

/// A surface, the air on both sides and the camera before it.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DemoPicture {
    /// Name of the job.
    pub job: String,
    /// Name of the boundary it shows.
    pub boundary: String,
    /// What it is called.
    pub name: String,
    /// What was noted.
    #[serde(default)]
    pub note: String,
    /// What it turned out to be; empty where nothing settled it.
    #[serde(default)]
    pub settled: String,
    /// Days before the demo is loaded.
    pub days_ago: i64,
    /// Breadth of what is seen, m.
    pub width_m: f64,
    /// The room's air: °C and %.
    pub air: [f64; 2],
    /// Outdoors, °C.
    pub outdoor: f64,
    /// Factor of the sound surface.
    pub f: f64,
    /// What is wrong with it.
    pub flaw: Vec<Flaw>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    picture: Vec<DemoPicture>,
}

/// The demo's thermal pictures.
///
/// # Errors
/// What is wrong with the shipped table, in words.
pub fn pictures() -> Result<Vec<DemoPicture>, String> {
    toml::from_str::<File>(include_str!("../data/pictures.toml")).map(|f| f.picture).map_err(|e| e.to_string())
}

/// Emissivity the camera is set to, and that of ordinary surfaces.
pub const EMISSIVITY: f64 = 0.95;

impl Flaw {
    /// What it makes of the factor and the emissivity at a place, and by how much it cools it, K.
    fn at(&self, [x, y]: [f64; 2], (f, e): (f64, f64)) -> (f64, f64, f64) {
        let within = |[l, t, r, b]: [f64; 4]| (l..=r).contains(&x) && (t..=b).contains(&y);
        match *self {
            Self::Gap { at, f: own } if within(at) => (own, e, 0.0),
            Self::Plate { at, emissivity } if within(at) => (f, emissivity, 0.0),
            Self::Studs { every, broad, f: own } if (x / every).fract() * every < broad => (f.min(own), e, 0.0),
            Self::Leak { at, toward, f: own } => {
                let length = toward[0].hypot(toward[1]);
                let way = [toward[0] / length, toward[1] / length];
                let (dx, dy) = (x - at[0], y - at[1]);
                let (along, across) = (dx * way[0] + dy * way[1], dx * way[1] - dy * way[0]);
                let broad = 0.02 + 0.35 * along.max(0.0);
                let part = if along < -0.02 {
                    0.0
                } else {
                    (-(along / length).powi(2) * 2.0 - (across / broad).powi(2)).exp()
                };
                (f + part * (own - f), e, 0.0)
            }
            Self::Wet { at, reach, cooled } => {
                let far = ((x - at[0]).hypot(y - at[1]) / reach).powi(2);
                (f, e, cooled * (-far).exp())
            }
            _ => (f, e, 0.0),
        }
    }
}

/// Numbers between −1 and 1 from a seed, the same each time.
fn noise(seed: u64, i: usize) -> f64 {
    let mut x = seed ^ (i as u64).wrapping_mul(0x9e37_79b9_7f4a_7c15);
    x = (x ^ (x >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
    x = (x ^ (x >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
    ((x ^ (x >> 31)) >> 11) as f64 / (1_u64 << 52) as f64 - 1.0
}

/// What the camera shows, °C, row by row from the top.
///
/// # Formula
/// T = T_e + f (T_i − T_e), less what evaporation takes; W = ε T⁴ + (1 − ε) T_refl⁴ reaches the camera, which takes the surface
/// for one of [`EMISSIVITY`] that reflects the room.
#[must_use]
pub fn shot(of: &DemoPicture, seed: u64) -> Vec<Vec<f64>> {
    let (inside, outdoor) = (of.air[0], of.outdoor);
    let fourth = |celsius: f64| (celsius + 273.15).powi(4);
    let cell = |row: usize, column: usize| {
        let at = [(column as f64 + 0.5) / CELLS[0] as f64, (row as f64 + 0.5) / CELLS[1] as f64];
        let (mut f, mut e, mut cooled) = (of.f, EMISSIVITY, 0.0);
        for flaw in &of.flaw {
            let by;
            (f, e, by) = flaw.at(at, (f, e));
            cooled += by;
        }
        let t = outdoor + f * (inside - outdoor) - cooled;
        let reached = e * fourth(t) + (1.0 - e) * fourth(inside);
        let taken_for = ((reached - (1.0 - EMISSIVITY) * fourth(inside)) / EMISSIVITY).powf(0.25) - 273.15;
        let corner = ((at[0] - 0.5).powi(2) + (at[1] - 0.5).powi(2)) / 0.5;
        taken_for - VIGNETTING * corner + NOISE * noise(seed, row * CELLS[0] + column)
    };
    (0..CELLS[1]).map(|row| (0..CELLS[0]).map(|column| cell(row, column)).collect()).collect()
}

/// A picture as a camera's program saves it: a head, then a row a line.
#[must_use]
pub fn saved(of: &DemoPicture, seed: u64) -> String {
    let rows = shot(of, seed);
    let line = |row: &Vec<f64>| row.iter().map(|t| format!("{t:.2}")).collect::<Vec<_>>().join(";");
    let body: Vec<String> = rows.iter().map(line).collect();
    format!("Name;{}\nEmissivity;{EMISSIVITY}\nTemperature [°C]\n\n{}\n", of.name, body.join("\n"))
}

#[cfg(test)]
#[allow(clippy::unwrap_used, reason = "tests")]
mod tests {
    use super::*;
    use hygrothermal::quantity::{Emissivity, Temperature};
    use hygrothermal::surface::{Apparent, Scene, infrared};

    #[test]
    fn what_the_camera_shows_is_the_surface_but_for_its_faults() {
        for picture in pictures().unwrap() {
            let rows = shot(&picture, 1);
            assert_eq!((rows.len(), rows[0].len()), (CELLS[1], CELLS[0]), "{}", picture.name);
            let sound = picture.outdoor + picture.f * (picture.air[0] - picture.outdoor);
            let mut sorted: Vec<f64> = rows.into_iter().flatten().collect();
            sorted.sort_by(f64::total_cmp);
            // Most of a picture is sound; its corners read a little cold.
            let most = sorted[sorted.len() * 3 / 4];
            assert!((most - sound).abs() < 0.5, "{}: {most} against {sound}", picture.name);
        }
        // A plate shows the room: corrected by its own emissivity it is the surface again.
        let plate = Flaw::Plate { at: [0.0, 0.0, 1.0, 1.0], emissivity: 0.7 };
        let mut picture = pictures().unwrap().remove(0);
        picture.flaw = vec![plate];
        let shown = shot(&picture, 1)[CELLS[1] / 2][CELLS[0] / 2];
        let t = |c: f64| Temperature::new(c).unwrap();
        let e = |x: f64| Emissivity::new(x).unwrap();
        let room = t(picture.air[0]);
        let seen = Apparent { shown: t(shown), set_emissivity: e(EMISSIVITY), set_reflected: room };
        let surface = infrared(&seen, &Scene { emissivity: e(0.7), reflected: room }).unwrap().get();
        let true_ = picture.outdoor + picture.f * (picture.air[0] - picture.outdoor);
        assert!((surface - true_).abs() < 0.2, "{surface} against {true_}");
    }
}
