//! What is typed about a thermal picture.

use building::{Building, Spot};
use hygrothermal::quantity::{Emissivity, RelativeHumidity, Temperature};
use hygrothermal::surface::LEAST_EMISSIVITY;
use judgment::thermal::lookalikes;
use language::say;
use notation::Units;
use notation::number::plain_number;
use notation::unit::{LENGTH, TEMPERATURE};
use serde::Deserialize;
use store::Thermal;
use uuid::Uuid;

/// Longest name and note, characters.
const LONGEST: [usize; 2] = [80, 500];
/// Broadest view, m.
const BROADEST: f64 = 100.0;

/// A picture's words and figures as typed.
#[derive(Deserialize, Default, Clone)]
#[serde(default)]
pub struct ThermalForm {
    pub id: String,
    pub act: String,
    /// The patch a station is made of, from 1.
    pub patch: String,
    pub name: String,
    pub place: String,
    pub note: String,
    pub width: String,
    pub air_t: String,
    pub air_rh: String,
    pub outdoor: String,
    pub emissivity: String,
    pub reflected: String,
    pub set_emissivity: String,
    pub set_reflected: String,
    /// What its patches turned out to be.
    pub settled: String,
    /// The photo beside it.
    pub photo: String,
    /// Cells typed by hand, a row a line.
    pub cells: String,
    /// The scale they are in, where somebody says it.
    pub scale: String,
}

/// A field and what is wrong with it.
pub type Wrong = (&'static str, String);

impl ThermalForm {
    /// As it is kept.
    pub fn of(t: &Thermal, units: Units) -> Self {
        let temperature = |c: Option<f64>| c.map_or_else(String::new, |c| TEMPERATURE.typed(c, units));
        Self {
            name: t.name.clone(),
            place: t.spot.id().map_or_else(String::new, |id| id.to_string()),
            note: t.note.clone(),
            width: t.width_m.map_or_else(String::new, |w| LENGTH.typed(w, units)),
            air_t: temperature(t.air_t_c),
            air_rh: t.air_rh_pct.map_or_else(String::new, |rh| rh.to_string()),
            outdoor: temperature(t.outdoor_c),
            emissivity: t.emissivity.to_string(),
            reflected: temperature(t.reflected_c),
            set_emissivity: t.set_emissivity.to_string(),
            set_reflected: temperature(t.set_reflected_c),
            settled: t.settled.clone(),
            photo: t.photo_id.map_or_else(String::new, |id| id.to_string()),
            ..Self::default()
        }
    }

    /// What it says of a picture that is otherwise as `t`; everything that is wrong with it.
    pub fn read(&self, t: Thermal, building: &Building, photos: &[Uuid], units: Units) -> Result<Thermal, Vec<Wrong>> {
        let mut wrong = Vec::new();
        let mut note = |field, message: String| wrong.push((field, message));
        macro_rules! field {
            ($name:literal, $read:expr, $else:expr) => {
                $read.unwrap_or_else(|why| {
                    note($name, why);
                    $else
                })
            };
        }
        let name = field!("name", words(&self.name, LONGEST[0]), String::new());
        let words = field!("note", words(&self.note, LONGEST[1]), String::new());
        let width_m = field!("width", self.width(units), None);
        let air_t_c = field!("air_t", temperature(&self.air_t, units), None);
        let air_rh_pct = field!("air_rh", self.humidity(), None);
        let outdoor_c = field!("outdoor", temperature(&self.outdoor, units), None);
        let reflected_c = field!("reflected", temperature(&self.reflected, units), None);
        let set_reflected_c = field!("set_reflected", temperature(&self.set_reflected, units), None);
        let own = field!("emissivity", emissivity(&self.emissivity), 1.0);
        let set = field!("set_emissivity", emissivity(&self.set_emissivity), 1.0);
        if air_t_c.is_some() != air_rh_pct.is_some() && wrong.is_empty() {
            wrong.push(("air_rh", say!("The air is both: its temperature and its humidity.").into()));
        }
        let spot = Spot::parse(building, &self.place);
        if spot.is_none() {
            wrong.push(("place", say!("That place is no longer there: choose another.").into()));
        }
        let known = lookalikes().iter().find(|l| l.id == self.settled);
        if known.is_none() && !self.settled.is_empty() {
            wrong.push(("settled", say!("Choose one of the list.").into()));
        }
        let photo = self.photo.parse().ok().filter(|id| photos.contains(id));
        if photo.is_none() && !self.photo.is_empty() {
            wrong.push(("photo", say!("That photo is no longer there: choose another.").into()));
        }
        if !wrong.is_empty() {
            return Err(wrong);
        }
        Ok(Thermal {
            name: if name.is_empty() { say!("Thermal picture").into() } else { name },
            note: words,
            spot: spot.unwrap_or_default(),
            width_m,
            air_t_c,
            air_rh_pct,
            outdoor_c,
            reflected_c,
            set_reflected_c,
            emissivity: own,
            set_emissivity: set,
            settled: known.map_or_else(String::new, |l| l.id.clone()),
            photo_id: photo,
            ..t
        })
    }

    fn width(&self, units: Units) -> Result<Option<f64>, String> {
        if self.width.trim().is_empty() {
            return Ok(None);
        }
        match LENGTH.parse(&self.width, units)? {
            w if w > 0.0 && w <= BROADEST => Ok(Some(w)),
            _ => {
                Err(say!("The breadth must be more than 0 and at most {units}.", units = LENGTH.text(BROADEST, units)))
            }
        }
    }

    fn humidity(&self) -> Result<Option<f64>, String> {
        let typed = self.air_rh.trim().trim_end_matches('%').trim();
        if typed.is_empty() {
            return Ok(None);
        }
        let rh = plain_number(typed).map_err(|e| e.said(typed))?;
        RelativeHumidity::new(rh).map(|h| Some(h.get())).map_err(|e| e.to_string())
    }

    /// The id the form carries.
    pub fn act_id(&self) -> Option<Uuid> {
        self.id.parse().ok()
    }
}

fn words(text: &str, longest: usize) -> Result<String, String> {
    let length = text.trim().chars().count();
    if length > longest {
        Err(say!("{length} characters; {longest} at most.", length, longest))
    } else {
        Ok(text.trim().to_owned())
    }
}

/// °C; none where nothing is typed.
fn temperature(typed: &str, units: Units) -> Result<Option<f64>, String> {
    if typed.trim().is_empty() {
        return Ok(None);
    }
    let c = TEMPERATURE.parse(typed, units)?;
    Temperature::new(c).map(|t| Some(t.get())).map_err(|e| e.to_string())
}

/// An emissivity at which a surface can be judged; the usual one where nothing is typed.
fn emissivity(typed: &str) -> Result<f64, String> {
    /// Paint, drywall, wood, masonry (common practice).
    const USUAL: f64 = 0.95;
    if typed.trim().is_empty() {
        return Ok(USUAL);
    }
    let e = plain_number(typed).map_err(|e| e.said(typed))?;
    if e < LEAST_EMISSIVITY {
        return Err(say!(
            "Under an emissivity of {least_emissivity} a surface mirrors the room: put matte tape on it and read that.",
            least_emissivity = LEAST_EMISSIVITY
        ));
    }
    Emissivity::new(e).map(Emissivity::get).map_err(|e| e.to_string())
}
