//! An instrument, its salt checks and how it drifted.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path};
use crate::view::Frame;
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::InstrumentKind;
use building::entry::{Field, parse_temperature};
use chrono::{TimeDelta, Utc};
use hygrothermal::instrument::{Salt, calibrate, salt};
use hygrothermal::quantity::{RelativeHumidity, Temperature};
use language::{known, say};
use notation::Show;
use notation::number::signed;
use notation::unit::PERCENT;
use std::collections::HashMap;
use store::{Instrument, SaltCheck};
use uuid::Uuid;
use wording::instrument::accuracy;
use wording::instrument::salt_check;

/// Hours sensor and slush share the closed air before it is read (common practice).
const HOURS: i64 = 12;
/// Most points of one check.
const MOST: usize = 3;

/// Salts: id, name, what is wanted of it.
const SALTS: [(&str, &str, Salt); 4] = [
    ("nacl", "table salt, about 75 %", Salt::SodiumChloride),
    ("mgcl2", "magnesium chloride, about 33 %", Salt::MagnesiumChloride),
    ("k2so4", "potassium sulfate, about 97 %", Salt::PotassiumSulfate),
    ("licl", "lithium chloride, about 11 %", Salt::LithiumChloride),
];

#[derive(Template, WebTemplate)]
#[template(path = "salt.html")]
struct SaltPage {
    frame: Frame,
    instrument: Instrument,
    kind: &'static str,
    accuracy: String,
    says: String,
    salts: [(&'static str, &'static str, Salt); 4],
    running: Option<Running>,
    done: Vec<Done>,
    form: HashMap<String, String>,
    errors: Vec<String>,
    unit: &'static str,
    new_id: Uuid,
    /// For a logger.
    posts: Option<Posts>,
    /// A token just made, shown this once.
    fresh: Option<String>,
}

/// A check under way.
struct Running {
    id: Uuid,
    due: i64,
    due_text: String,
    ready: bool,
    points: Vec<(&'static str, &'static str)>,
}

/// Whether a logger may post.
struct Posts {
    /// When its token was made.
    made: Option<String>,
    /// When it was last heard.
    heard: Option<String>,
}

/// A check that ended: from then on its correction counts.
struct Done {
    when: String,
    points: String,
    correction: String,
    /// Change of the correction at 75 % since the check before: how it drifted.
    drift: String,
    residual: String,
    note: String,
}

impl SaltPage {
    fn text(&self, field: &str) -> &str {
        self.form.get(field).map_or("", String::as_str)
    }
}

fn salt_of(id: &str) -> Option<(&'static str, &'static str, Salt)> {
    SALTS.into_iter().find(|s| s.0 == id)
}

/// What a point of a check is called.
fn check_name(id: &str) -> &'static str {
    match id {
        "block" => say!("the meter showed"),
        "reference" => say!("the block stands for"),
        id => salt_of(id).map_or("", |s| s.1),
    }
}

/// Whether it was made on a block, not over salts.
fn is_block(check: &SaltCheck) -> bool {
    check.salts.iter().any(|s| s == "block")
}

/// What a check makes of 75 %: the figure by which two of them are compared.
fn at_75(check: &SaltCheck) -> Option<f64> {
    (!is_block(check)).then_some(check.rh_slope? * 75.0 + check.rh_offset_pct? - 75.0)
}

fn correction(slope: f64, offset: f64) -> String {
    let offset = signed(offset, 1);
    if (slope - 1.0).abs() < 1e-9 { format!("{offset} %") } else { format!("× {slope:.3} {offset} %") }
}

fn done(show: &Show, checks: &[&SaltCheck]) -> Vec<Done> {
    let ended: Vec<_> = checks.iter().filter(|c| c.ended_at.is_some()).collect();
    let told = |(i, c): (usize, &&&SaltCheck)| {
        let before = ended.get(i + 1).and_then(|b| at_75(b));
        let drift = at_75(c)
            .zip(before)
            .map(|(now, before)| say!("{signed} % since the check before", signed = signed(now - before, 1)));
        let shown = c.shown.as_ref().and_then(|s| s.as_object().cloned()).unwrap_or_default();
        let points: Vec<String> = shown.iter().map(|(id, v)| format!("{}: {v} %", check_name(id))).collect();
        Done {
            when: c.ended_at.map(|at| show.day(at)).unwrap_or_default(),
            points: points.join("; "),
            correction: if is_block(c) {
                "none".into()
            } else {
                correction(c.rh_slope.unwrap_or(1.0), c.rh_offset_pct.unwrap_or(0.0))
            },
            drift: drift.unwrap_or_default(),
            residual: c.max_residual_pct.map(|r| format!("{r:.1} %")).unwrap_or_default(),
            note: c.note.clone(),
        }
    };
    ended.iter().enumerate().map(told).collect()
}

#[derive(serde::Deserialize)]
pub struct TokenForm {
    #[serde(default)]
    act: String,
}

/// Makes a token for a logger, shown this once, or takes it away.
pub async fn token(who: Who, Path(id): Path<Uuid>, Form(form): Form<TokenForm>) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    let logger = |i: &Instrument| i.id == id && i.kind == InstrumentKind::Logger;
    if !scope.instruments().await?.iter().any(logger) {
        return Err(Failure::NotFound);
    }
    let fresh = if form.act == "revoke" { None } else { Some(crate::auth::fresh_secret()?) };
    scope.set_token(id, fresh.as_deref()).await?;
    scope.commit().await?;
    let mut page = view(&who, id, HashMap::new(), Vec::new()).await?;
    page.fresh = fresh;
    Ok(page.into_response())
}

async fn view(who: &Who, id: Uuid, form: HashMap<String, String>, errors: Vec<String>) -> Result<SaltPage, Failure> {
    let (show, scope, now) = (who.show(), who.scope().await?, Utc::now());
    let instrument = scope.instruments().await?.into_iter().find(|i| i.id == id).ok_or(Failure::NotFound)?;
    let all = scope.salt_checks().await?;
    let own: Vec<&SaltCheck> = all.iter().filter(|c| c.instrument_id == id).collect();
    let running = own.iter().find(|c| c.ended_at.is_none()).map(|c| {
        let due = c.started_at + TimeDelta::hours(HOURS);
        let points = c.salts.iter().filter_map(|s| salt_of(s)).map(|(id, name, _)| (id, known(name))).collect();
        Running { id: c.id, due: due.timestamp_millis(), due_text: show.moment(due), ready: due <= now, points }
    });
    let live = scope.live_loggers().await?.into_iter().find(|l| l.instrument == id);
    let heard = live.as_ref().and_then(|l| l.heard_at).map(|at| show.moment(at));
    let made = live.as_ref().and_then(|l| l.token_made_at).map(|at| show.moment(at));
    Ok(SaltPage {
        frame: Frame::new(who),
        posts: (instrument.kind == InstrumentKind::Logger).then_some(Posts { made, heard }),
        fresh: None,
        kind: known(instrument.kind.words()),
        accuracy: accuracy(&show, &instrument),
        says: salt_check(&instrument),
        done: done(&show, &own),
        instrument,
        salts: SALTS.map(|(id, name, salt)| (id, known(name), salt)),
        running,
        form,
        errors,
        unit: show.temperature_unit(),
        new_id: Uuid::now_v7(),
    })
}

/// The instrument with its checks.
pub async fn page(who: Who, Path(id): Path<Uuid>) -> Result<Response, Failure> {
    Ok(view(&who, id, HashMap::new(), Vec::new()).await?.into_response())
}

/// How far a meter may be off on its block, % (common practice: a point).
const BLOCK: f64 = 1.0;
/// Most a block stands for, %.
const MOST_BLOCK: f64 = 100.0;

/// A moisture meter on its block: it shows what the block stands for, or is not to be believed.
fn on_block(who: &Who, id: [Uuid; 2], form: &HashMap<String, String>) -> Result<SaltCheck, Vec<String>> {
    let text = |field: &str| form.get(field).map_or("", |t| t.trim());
    let mut errors = Vec::new();
    let mut figure = |field: &str, what: &str| {
        let read = notation::number::plain_number(text(field).trim_end_matches('%')).ok();
        let read = read.filter(|x| (0.0..=MOST_BLOCK).contains(x));
        if read.is_none() {
            errors.push(say!("{what}: a figure, 0 to {most_block}.", what, most_block = MOST_BLOCK));
        }
        read
    };
    let both =
        figure("reference", say!("What the block stands for")).zip(figure("block", say!("What the meter showed")));
    if let Some((stands, shown)) = both
        && (shown - stands).abs() > BLOCK
    {
        errors.push(say!("It showed {shown} where the block stands for {stands}: more than {block} off. Change the battery and clean the pins; if it still does, have it repaired, and certify nothing by it.", shown, stands, block = BLOCK));
    }
    let note = text("note").to_owned();
    if note.chars().count() > 2000 {
        errors.push(say!("The note has 2000 characters at most.").into());
    }
    let Some((stands, shown)) = both.filter(|_| errors.is_empty()) else { return Err(errors) };
    let now = Utc::now();
    Ok(SaltCheck {
        id: id[0],
        instrument_id: id[1],
        consultant_id: who.person.consultant_id,
        salts: vec!["block".into()],
        started_at: now,
        ended_at: Some(now),
        t_c: None,
        shown: Some(serde_json::json!({ "block": shown, "reference": stands })),
        // A block corrects nothing: it says that the meter may be believed.
        rh_slope: Some(1.0),
        rh_offset_pct: Some(0.0),
        max_residual_pct: Some((shown - stands).abs()),
        note,
    })
}

/// Starts a check, or ends one with what the instrument showed.
pub async fn keep(
    who: Who,
    Path(id): Path<Uuid>,
    Form(form): Form<HashMap<String, String>>,
) -> Result<Response, Failure> {
    let text = |field: &str| form.get(field).map_or("", |t| t.trim());
    let check_id: Uuid = text("id").parse().map_err(|_| Failure::BadForm("id of a check".into()))?;
    let scope = who.scope().await?;
    let instrument = scope.instruments().await?.into_iter().find(|i| i.id == id).ok_or(Failure::NotFound)?;
    if instrument.kind.has_block() {
        let row = match on_block(&who, [check_id, id], &form) {
            Ok(row) => row,
            Err(errors) => {
                drop(scope);
                let again = view(&who, id, form, errors).await?;
                return Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response());
            }
        };
        scope.keep_salt_check(row).await?;
        scope.commit().await?;
        return Ok(Redirect::to(&format!("/bench/{id}")).into_response());
    }
    let there = scope.salt_checks().await?.into_iter().find(|c| c.id == check_id && c.instrument_id == id);
    let now = Utc::now();
    let row = match there {
        None => {
            let chosen: Vec<&str> =
                SALTS.iter().map(|s| s.0).filter(|s| form.contains_key(&format!("salt.{s}"))).collect();
            if !(1..=MOST).contains(&chosen.len()) {
                let errors = vec![say!("Choose one to {most} salts.", most = MOST)];
                let again = view(&who, id, form, errors).await?;
                return Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response());
            }
            SaltCheck {
                id: check_id,
                instrument_id: id,
                consultant_id: who.person.consultant_id,
                salts: chosen.iter().map(|s| (*s).to_owned()).collect(),
                started_at: now,
                ended_at: None,
                t_c: None,
                shown: None,
                rh_slope: None,
                rh_offset_pct: None,
                max_residual_pct: None,
                note: String::new(),
            }
        }
        Some(check) => match ended(&who, check, &form) {
            Ok(row) => row,
            Err(errors) => {
                let again = view(&who, id, form, errors).await?;
                return Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response());
            }
        },
    };
    scope.keep_salt_check(row).await?;
    scope.commit().await?;
    Ok(Redirect::to(&format!("/bench/{id}")).into_response())
}

/// A check with what was read, and the correction that follows.
fn ended(who: &Who, check: SaltCheck, form: &HashMap<String, String>) -> Result<SaltCheck, Vec<String>> {
    let text = |field: &str| form.get(field).map_or("", |t| t.trim());
    let mut errors = Vec::new();
    let t = parse_temperature(text("t"), who.units(), Field::Temperature, say!("temperature of the box"));
    let t: Option<Temperature> = t.map_err(|e| errors.push(e.message)).ok();
    let (mut points, mut shown) = (Vec::new(), serde_json::Map::new());
    for (id, name, which) in check.salts.iter().filter_map(|s| salt_of(s)) {
        let read = PERCENT.parse(text(&format!("shown.{id}")), who.units()).ok();
        let read = read.and_then(|x| RelativeHumidity::new(x).ok());
        let reference = t.and_then(|t| salt(which, t)).and_then(|x| RelativeHumidity::new(x).ok());
        match (read, reference, t) {
            (None, ..) => errors.push(say!("Over {name}: what it showed, 0 to 100 %.", name)),
            (_, None, Some(_)) => errors.push(say!("Salt solutions are known from 0 to 30 °C.").into()),
            (Some(read), Some(reference), _) => {
                if (read.get() - reference.get()).abs() > 25.0 {
                    errors.push(say!(
                        "Over {name} it showed {read} %: more than 25 % off. Is the slush wet, the box tight?",
                        name,
                        read = read.get()
                    ));
                }
                shown.insert(id.into(), read.get().into());
                points.push((reference, read));
            }
            _ => {}
        }
    }
    let note = text("note").to_owned();
    if note.chars().count() > 2000 {
        errors.push(say!("The note has 2000 characters at most.").into());
    }
    let found =
        if errors.is_empty() { calibrate(&points).map_err(|e| errors.push(format!("{e}."))).ok() } else { None };
    let Some(found) = found else { return Err(errors) };
    Ok(SaltCheck {
        ended_at: Some(Utc::now()),
        t_c: t.map(Temperature::get),
        shown: Some(shown.into()),
        rh_slope: Some(found.slope),
        rh_offset_pct: Some(found.offset),
        max_residual_pct: Some(found.max_residual),
        note,
        ..check
    })
}
