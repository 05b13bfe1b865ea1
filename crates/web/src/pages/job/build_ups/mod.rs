//! How boundaries are built: variants side by side, each cut through, with its year and its answer.

mod edit;
mod form;

pub use edit::change;

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Path, Query};
use crate::places::BUILD_UPS;
use crate::view::last_change::{LastChange, last_change};
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::response::IntoResponse;
use building::construction::{Construction, MOST_VARIANTS, Variant};
use building::{Boundary, Building, Side, StarterBuildUp, buildups};
use casework::log::LoggedYear;
use casework::{CaseFile, InView};
use drawing::DropMark;
use drawing::construction::{Cut, CutOf, YearStrip, cut, year};
use form::EditorForm;
use hygrothermal::air::{MoistAir, Over};
use hygrothermal::buildup::Month;
use judgment::climate;
use judgment::construction::{Around, Outdoors, Said, answer, around, quick};
use judgment::hours::MoistureClass;
use language::{known, known_of, say};
use notation::number::fixed;
use notation::unit::{RESISTANCE, TEMPERATURE, THICKNESS};
use notation::{Show, Units, months};
use serde::Deserialize;
use std::sync::Arc;
use store::Depth;
use uuid::Uuid;
use wording::construction::{Told, moisture, short, tightness, told};

/// Tables build-ups are kept in.
const TABLES: &[&str] = &["build_up"];
/// Width of a cut at a desk and on a phone.
const SHEETS: [f64; 2] = [820.0, 380.0];
/// Width and height of a year beside its variant.
const STRIP: [f64; 2] = [196.0, 64.0];

/// What is looked at.
#[derive(Deserialize, Default, Clone)]
pub struct View {
    /// A boundary.
    at: Option<Uuid>,
    variant: Option<Uuid>,
    /// 1 to 12.
    month: Option<String>,
    /// Outdoor temperature in the person's unit; the month's own where empty.
    outdoor: Option<String>,
    /// The month that temperature was chosen in: another month has its own.
    was: Option<String>,
    /// Moisture class of the rooms, 1 to 5.
    class: Option<String>,
    /// `log` for logged months, or the id of a weather file.
    from: Option<String>,
}

/// A boundary in the list.
struct Tab {
    href: String,
    name: String,
    mark: DropMark,
    here: bool,
}

/// A variant beside the others.
struct Card {
    href: String,
    name: String,
    here: bool,
    stands: bool,
    mark: DropMark,
    head: &'static str,
    figures: String,
    year: Option<YearStrip>,
    /// Why it cannot be computed.
    wrong: Option<String>,
}

/// A layer in the table behind the drawing.
struct LayerRow {
    name: String,
    thickness: String,
    resistance: String,
    vapor: String,
}

/// A plane in the table behind the drawing.
struct PlaneRow {
    name: String,
    t: String,
    rh: String,
    index: String,
}

/// The variant in view, cut through in a month.
struct Shown {
    told: Told,
    cuts: [Cut; 2],
    layers: Vec<LayerRow>,
    planes: Vec<PlaneRow>,
    beyond: bool,
    /// Units of thickness and resistance.
    units: [&'static str; 2],
}

/// The month and the outdoor temperature the cut stands in.
struct Moment {
    /// 0 for January.
    month: usize,
    /// Whether somebody chose it.
    chosen: bool,
    celsius: f64,
    /// Lowest, highest and own value of the slider, in the person's unit.
    slider: [String; 3],
    error: Option<String>,
}

#[derive(Template, WebTemplate)]
#[template(path = "build_ups.html")]
struct BuildUpsPage {
    frame: Frame,
    job: JobFrame,
    spaces: Vec<(String, Vec<Tab>)>,
    here: Option<Here>,
    last: Option<LastChange>,
    act_id: Uuid,
}

impl BuildUpsPage {
    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }
}

/// The boundary in view.
struct Here {
    boundary: Uuid,
    name: String,
    place: String,
    cards: Vec<Card>,
    variant: Option<Uuid>,
    shown: Option<Shown>,
    moment: Moment,
    month_name: &'static str,
    months: [&'static str; 12],
    basis: String,
    classes: Vec<(usize, &'static str, bool)>,
    /// Where the outdoor months may come from.
    sources: Vec<(String, String)>,
    /// Where they do.
    source: String,
    form: EditorForm,
    stock: Vec<String>,
    usual: Vec<Group>,
    may_add: bool,
    base: String,
    /// This page, for the page of weather files to come back to.
    weather_back: String,
}

/// A cut alone, as it is swapped in.
#[derive(Template, WebTemplate)]
#[template(path = "parts/cut_alone.html")]
struct Drawing {
    frame: Frame,
    here: Here,
}

/// Where the outdoor months come from.
enum From {
    Climate,
    /// The log, with which months were logged.
    Log([bool; 12]),
    /// A weather file, by its name.
    File(Uuid, String),
}

/// What everything about a boundary is computed from.
struct Loaded {
    file: Arc<CaseFile>,
    outdoors: Outdoors,
    from: From,
    /// The practice's own weather files: id and name.
    weathers: Vec<(Uuid, String)>,
    /// Whether outdoors was logged at all.
    has_log: bool,
    class: MoistureClass,
}

impl Loaded {
    async fn of(who: &Who, job: Uuid, view: &View) -> Result<Self, Failure> {
        let file = who.file(job, InView::Latest, Depth::Argument).await?;
        let usual = Outdoors::of(climate::year(file.job.climate));
        let has_log = LoggedYear::is_logged(&file.series);
        let scope = who.scope().await?;
        let weathers = scope.weathers().await?;
        let asked = view.from.as_deref();
        let chosen = asked.and_then(|f| weathers.iter().find(|w| w.id.to_string() == f));
        let (outdoors, from) = match chosen {
            Some(w) => (Outdoors::of_weather(w), From::File(w.id, w.name.clone())),
            None if has_log && asked == Some("log") => {
                match LoggedYear::load(&scope, &file.series, usual, chrono::Utc::now()).await? {
                    Some(year) => (year.outdoors, From::Log(year.logged)),
                    None => (usual, From::Climate),
                }
            }
            None => (usual, From::Climate),
        };
        let asked = view.class.as_deref().and_then(|c| c.parse::<usize>().ok());
        let class = asked.and_then(|c| MoistureClass::ALL.get(c.wrapping_sub(1))).copied();
        Ok(Self {
            outdoors,
            from,
            weathers: weathers.into_iter().map(|w| (w.id, w.name)).collect(),
            has_log,
            class: class.unwrap_or(MoistureClass::Ordinary),
            file,
        })
    }

    /// Where the outdoor months may come from.
    fn sources(&self) -> Vec<(String, String)> {
        let log = self.has_log.then(|| ("log".to_owned(), say!("the log").to_owned()));
        let own = self.weathers.iter().map(|(id, name)| (id.to_string(), name.clone()));
        [(String::new(), say!("the climate").to_owned())].into_iter().chain(log).chain(own).collect()
    }

    fn source(&self) -> String {
        match &self.from {
            From::Climate => String::new(),
            From::Log(_) => "log".into(),
            From::File(id, _) => id.to_string(),
        }
    }

    fn around(&self, boundary: &Boundary) -> Around {
        around(&self.file.building, boundary, self.class)
    }
}

/// Longest choice an address repeats, bytes: the header of a redirect must stay short whatever a form says.
const LONGEST_CHOICE: usize = 36;

/// The address of a view with something in place of its own.
fn address(job: Uuid, view: &View, at: Uuid, variant: Option<Uuid>) -> String {
    let kept = [("month", &view.month), ("outdoor", &view.outdoor), ("class", &view.class), ("from", &view.from)];
    let own = variant.map(|v| ("variant", v.to_string()));
    let all = [("at", at.to_string())].into_iter().chain(own);
    let kept =
        kept.into_iter().filter_map(|(k, v)| Some((k, v.clone().filter(|v| (1..=LONGEST_CHOICE).contains(&v.len()))?)));
    let query = serde_urlencoded::to_string(all.chain(kept).collect::<Vec<_>>()).unwrap_or_default();
    format!("/jobs/{job}/build-ups?{query}")
}

/// The page of a job's build-ups.
pub async fn page(who: Who, Path(job): Path<Uuid>, Query(view): Query<View>) -> Result<impl IntoResponse, Failure> {
    let loaded = Loaded::of(&who, job, &view).await?;
    Ok(shown(&who, &loaded, &view, None))
}

/// The cut alone.
pub async fn drawing(who: Who, Path(job): Path<Uuid>, Query(view): Query<View>) -> Result<impl IntoResponse, Failure> {
    let loaded = Loaded::of(&who, job, &view).await?;
    let boundary = chosen(&loaded.file.building, view.at).ok_or(Failure::NotFound)?;
    Ok(Drawing { frame: Frame::of(&who, &loaded.file), here: here(&who, &loaded, &view, boundary, None) })
}

/// The boundary asked for, else the first of a warm space toward the outdoors of which is said how it is built, else the first.
fn chosen(building: &Building, at: Option<Uuid>) -> Option<&Boundary> {
    let warm = |b: &Boundary| building.space(b.space_id).is_some_and(|s| s.kind.kept_warm());
    let known = |b: &&Boundary| b.beyond == Side::Outdoors && warm(b) && !building.variants_of(b).is_empty();
    let asked = at.and_then(|id| building.boundary(id));
    asked.or_else(|| building.boundaries.iter().find(known)).or_else(|| building.boundaries.first())
}

fn shown(who: &Who, loaded: &Loaded, view: &View, typed: Option<EditorForm>) -> BuildUpsPage {
    let file = &loaded.file;
    let at = chosen(&file.building, view.at);
    let tab = |b: &Boundary| {
        let said = file.building.construction(b).and_then(|c| quick(&c, &loaded.around(b), &loaded.outdoors));
        Tab {
            href: address(file.job.id, &View { month: None, outdoor: None, ..view.clone() }, b.id, None),
            name: b.name.clone(),
            mark: said.map_or(DropMark::NONE, |a| short(a).0),
            here: at.is_some_and(|x| x.id == b.id),
        }
    };
    let of_space = |s: &building::Space| {
        let own = file.building.boundaries.iter().filter(|b| b.space_id == s.id);
        (s.name.clone(), own.map(tab).collect::<Vec<_>>())
    };
    BuildUpsPage {
        frame: Frame::of(who, file),
        job: JobFrame::new(file, BUILD_UPS),
        spaces: file.building.spaces.iter().map(of_space).filter(|(_, tabs)| !tabs.is_empty()).collect(),
        here: at.map(|b| here(who, loaded, view, b, typed)),
        last: last_change(who, file, TABLES),
        act_id: Uuid::now_v7(),
    }
}

/// A variant with what was computed of it.
struct Computed {
    variant: Variant,
    built: Result<(Construction, Option<Said>), String>,
}

fn here(who: &Who, loaded: &Loaded, view: &View, boundary: &Boundary, typed: Option<EditorForm>) -> Here {
    let (show, file) = (who.show(), &loaded.file);
    let (building, around) = (&file.building, loaded.around(boundary));
    let stock = building.stock();
    let computed: Vec<Computed> = building
        .variants_of(boundary)
        .into_iter()
        .map(|variant| {
            let built = stock.construct(&variant, boundary.face).map_err(|e| e.to_string());
            let built = built.map(|c| {
                let said = answer(&c, &around, &loaded.outdoors);
                (c, said)
            });
            Computed { variant, built }
        })
        .collect();
    let at = view.variant.and_then(|id| computed.iter().position(|c| c.variant.id == id)).unwrap_or(0);
    let of_view = computed.get(at);
    let said = of_view.and_then(|c| Some((&c.built.as_ref().ok()?.0, c.built.as_ref().ok()?.1.as_ref()?)));
    let moment = moment(&show, loaded, view, said.map(|(_, s)| s));
    let beyond = match boundary.beyond {
        Side::Outdoors => "outdoors",
        Side::Ground => say!("the ground"),
        Side::Space(id) => building.space(id).map_or("", |s| s.name.as_str()),
    };
    let space = building.space(boundary.space_id).map_or("", |s| s.name.as_str());
    let may_add = (1..MOST_VARIANTS).contains(&computed.len());
    let form = typed.unwrap_or_else(|| EditorForm::of(of_view.map(|c| &c.variant), stock, show.units));
    let back = address(file.job.id, &View { from: None, ..view.clone() }, boundary.id, of_view.map(|c| c.variant.id));
    Here {
        boundary: boundary.id,
        name: boundary.name.clone(),
        place: say!(
            "{boundary} side of {space}, toward {beyond}",
            boundary = known(boundary.face.words()),
            space,
            beyond
        ),
        cards: cards(&show, loaded, view, boundary, &computed, at),
        variant: of_view.map(|c| c.variant.id),
        shown: said.and_then(|(c, said)| shown_of(&show, c, said, &around, loaded, &moment)),
        month_name: months()[moment.month],
        moment,
        months: months(),
        basis: basis(&show, loaded, boundary, &around),
        classes: (1..).zip(MoistureClass::ALL).map(|(i, c)| (i, moisture(c), c == loaded.class)).collect(),
        sources: loaded.sources(),
        source: loaded.source(),
        form,
        stock: stock.all().map(|o| o.name.to_owned()).collect(),
        usual: usual(),
        may_add,
        base: format!("/jobs/{}/build-ups", file.job.id),
        weather_back: serde_urlencoded::to_string([("back", back)]).unwrap_or_default(),
    }
}

/// A group of choices: ids and names.
type Group = (&'static str, Vec<(String, String)>);

/// The library's usual build-ups, in groups.
fn usual() -> Vec<Group> {
    let mut groups: Vec<Group> = Vec::new();
    for b in buildups() {
        let one = |b: &'static StarterBuildUp| (b.id.clone(), known(&b.name).to_owned());
        match groups.iter_mut().find(|(g, _)| *g == known(&b.group)) {
            Some((_, list)) => list.push(one(b)),
            None => groups.push((known(&b.group), vec![one(b)])),
        }
    }
    groups
}

fn cards(
    show: &Show,
    loaded: &Loaded,
    view: &View,
    boundary: &Boundary,
    computed: &[Computed],
    at: usize,
) -> Vec<Card> {
    let saids = || computed.iter().filter_map(|c| c.built.as_ref().ok()?.1.as_ref());
    let most = saids().map(|s| s.year.peak).fold(50.0, f64::max);
    let card = |(i, c): (usize, &Computed)| {
        let said = c.built.as_ref().ok().and_then(|(_, said)| said.as_ref());
        let figures = c.built.as_ref().map_or_else(
            |_| String::new(),
            |(built, _)| {
                let r = built.combined.resistance();
                let figure = RESISTANCE.figure(r, show.units);
                if show.units == Units::Us { format!("R-{figure}") } else { format!("R {figure} m²K/W") }
            },
        );
        let (mark, head) = said.map_or((DropMark::NONE, say!("Not computed")), |s| short(s.answer));
        Card {
            href: address(loaded.file.job.id, view, boundary.id, Some(c.variant.id)),
            name: known_of(&c.variant.name),
            here: i == at,
            stands: i == 0,
            mark,
            head,
            figures,
            year: said.map(|s| year(s, most, STRIP, show)),
            wrong: c.built.as_ref().err().cloned(),
        }
    };
    computed.iter().enumerate().map(card).collect()
}

/// The month asked for, else the one in which the variant is worst, and the outdoor temperature asked for, else the month's own.
fn moment(show: &Show, loaded: &Loaded, view: &View, said: Option<&Said>) -> Moment {
    let asked = view.month.as_deref().and_then(|m| m.parse::<usize>().ok()).filter(|m| (1..=12).contains(m));
    let month = asked.map_or_else(|| said.map_or(0, |s| s.levers.month), |m| m - 1);
    let out = &loaded.outdoors.celsius;
    let coldest = out.iter().copied().fold(loaded.file.job.design_outdoor_c, f64::min);
    let warmest = out.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    let range = [(coldest - 5.0).floor().max(-50.0), (warmest + 8.0).ceil().min(50.0)];
    let is_of_month = view.was.as_deref().is_none_or(|was| was == (month + 1).to_string());
    let typed = view.outdoor.as_deref().map(str::trim).filter(|t| !t.is_empty() && is_of_month);
    let read = typed.map(|t| TEMPERATURE.parse(t, show.units));
    let (celsius, error) = match read {
        Some(Ok(t)) if (-60.0..=60.0).contains(&t) => (t, None),
        Some(Ok(_)) => {
            let [low, high] = [-60.0, 60.0].map(|t| show.temperature(t));
            (out[month], Some(say!("Outdoors must be {low} to {high}.", low, high)))
        }
        Some(Err(why)) => (out[month], Some(why)),
        None => (out[month], None),
    };
    let whole = |c: f64| fixed(TEMPERATURE.shown(c, show.units), 0).replace('−', "-");
    let slider = [whole(range[0]), whole(range[1]), whole(celsius.clamp(range[0], range[1]))];
    let own = (celsius - out[month]).abs() < 0.6;
    Moment {
        month,
        chosen: typed.is_some() && error.is_none() && !own,
        celsius: if own { out[month] } else { celsius },
        slider,
        error,
    }
}

fn shown_of(
    show: &Show,
    built: &Construction,
    said: &Said,
    around: &Around,
    loaded: &Loaded,
    moment: &Moment,
) -> Option<Shown> {
    let sides = around.at(&loaded.outdoors, moment.month, moment.celsius)?;
    let profile = built.between.profile(&sides);
    let layer = |p: &building::construction::Ply| LayerRow {
        name: p.name.clone(),
        thickness: THICKNESS.figure(p.thickness_m, show.units),
        resistance: RESISTANCE.figure(p.layer.resistance.get(), show.units),
        vapor: tightness(show, p.layer.diffusion.get()),
    };
    let row = |p: &judgment::construction::PlaneYear| {
        let at = &profile.interfaces[p.interface];
        PlaneRow {
            name: match p.interface {
                0 => say!("inner surface").into(),
                i if i == built.plies.len() => say!("outer surface").into(),
                i => say!("between {i} and {i2}", i, i2 = i + 1),
            },
            t: show.temperature(at.temperature.get()),
            rh: show.percent(100.0 * at.vapor / at.sat),
            index: fixed(p.peak(), 1),
        }
    };
    Some(Shown {
        told: told(show, built, said),
        cuts: SHEETS.map(|width| cut(&CutOf { width, construction: built, sides: &sides, show })),
        layers: built.plies.iter().map(layer).collect(),
        planes: said.planes.iter().map(row).collect(),
        beyond: !built.beyond.is_empty(),
        units: [THICKNESS.unit(show.units).name(), RESISTANCE.unit(show.units).name()],
    })
}

/// What is assumed, in words.
fn basis(show: &Show, loaded: &Loaded, boundary: &Boundary, around: &Around) -> String {
    let outdoors = match &loaded.from {
        From::File(_, name) => say!("outdoors by the months of {name}, a weather file of the practice", name),
        From::Log(months) => {
            let known = months.iter().filter(|m| **m).count();
            say!("outdoors as logged in {known} of 12 months, else the climate’s monthly means, from memory", known)
        }
        From::Climate => {
            let climate = known(loaded.file.job.climate.words()).to_lowercase();
            say!("outdoors by the monthly means of a {climate} climate, from memory", climate)
        }
    };
    let rooms = say!(
        "Rooms at {temperature} to {temperature2} with the moisture of {moisture} (ISO 13788, annex A)",
        temperature = show.temperature(20.0),
        temperature2 = show.temperature(25.0),
        moisture = moisture(loaded.class)
    );
    let within =
        if around.is_within() { say!(" Rooms are kept warm on both sides: nothing is driven through.") } else { "" };
    let cool = cool(show, loaded, boundary, around);
    say!(
        "{rooms}; {outdoors}.{cool} Diffusion only: neither rain nor air leaks are in it.{within}",
        rooms,
        outdoors,
        cool,
        within
    )
}

/// How spaces that nobody keeps warm are taken, in words.
fn cool(show: &Show, loaded: &Loaded, boundary: &Boundary, around: &Around) -> String {
    let Some(months) = around.months(&loaded.outdoors) else { return String::new() };
    let air =
        |a: &MoistAir| format!("{}, {}", show.temperature(a.temperature().get()), show.percent(a.rh(Over::Water)));
    let one = |id: Uuid, side: fn(&Month) -> &MoistAir| {
        let space = loaded.file.building.space(id).filter(|s| !s.kind.kept_warm())?;
        let (january, july) = (air(side(&months[0])), air(side(&months[6])));
        Some(say!(" {space} is assumed at {january} in January and {july} in July.", space = space.name, january, july))
    };
    let beyond = match boundary.beyond {
        Side::Space(id) => one(id, |m| &m.sides.outside),
        Side::Outdoors | Side::Ground => None,
    };
    let own = one(boundary.space_id, |m| &m.sides.inside);
    own.into_iter().chain(beyond).collect()
}
