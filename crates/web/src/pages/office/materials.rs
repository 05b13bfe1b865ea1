//! A practice's own materials, each with the source of its figures.

use super::one_line as words;
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Query};
use crate::view::Frame;
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::construction::OwnMaterial;
use chrono::Utc;
use hygrothermal::material::Resists;
use hygrothermal::quantity::{Conductivity, DiffusionThickness, Permeance, Thickness, VaporResistanceFactor};
use language::{known, say};
use notation::number::{brief, plain_number};
use notation::unit::{CONDUCTIVITY, THICKNESS};
use serde::Deserialize;
use store::PracticeAct;
use uuid::Uuid;
use wording::construction::tightness;

/// Longest name and longest source, characters.
const LONGEST: [usize; 2] = [60, 200];
/// Most materials of a practice.
const MOST: usize = 300;
/// How resistance to vapor is said.
const VAPOR: [(&str, &str); 3] =
    [("mu", "factor μ, by thickness"), ("sd", "s_d in m, whole layer"), ("perm", "US perm, whole layer")];

#[derive(Template, WebTemplate)]
#[template(path = "materials.html")]
struct MaterialsPage {
    frame: Frame,
    rows: Vec<Row>,
    form: MaterialForm,
    errors: Errors,
    units: [&'static str; 2],
    act_id: Uuid,
}

impl MaterialsPage {
    fn vapors(&self) -> Vec<(String, String)> {
        VAPOR.iter().map(|(id, words)| ((*id).to_owned(), known(words).to_owned())).collect()
    }

    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }
}

struct Row {
    id: Uuid,
    name: String,
    figures: String,
    source: String,
}

/// What is wrong with a form.
#[derive(Default)]
struct Errors {
    name: Option<String>,
    lambda: Option<String>,
    vapor: Option<String>,
    thickness: Option<String>,
    source: Option<String>,
    whole: Option<String>,
}

impl Errors {
    fn any(&self) -> bool {
        let all = [&self.name, &self.lambda, &self.vapor, &self.thickness, &self.source, &self.whole];
        all.iter().any(|e| e.is_some())
    }
}

/// A material as typed.
#[derive(Deserialize, Default)]
pub struct MaterialForm {
    id: Option<Uuid>,
    /// The material, where it is there already.
    #[serde(default)]
    material: String,
    #[serde(default)]
    act: String,
    #[serde(default)]
    name: String,
    #[serde(default)]
    lambda: String,
    #[serde(default)]
    vapor_by: String,
    #[serde(default)]
    vapor: String,
    #[serde(default)]
    thickness: String,
    #[serde(default)]
    source: String,
}

#[derive(Deserialize)]
pub struct View {
    material: Option<Uuid>,
}

impl MaterialForm {
    fn of(m: &OwnMaterial, who: &Who) -> Self {
        let (by, vapor) = match m.resists {
            Resists::PerThickness(mu) => ("mu", mu.get()),
            Resists::AsLayer(sd) => ("sd", sd.get()),
        };
        Self {
            material: m.id.to_string(),
            name: m.name.clone(),
            lambda: CONDUCTIVITY.typed(m.conductivity.get(), who.units()),
            vapor_by: by.into(),
            vapor: vapor.to_string(),
            thickness: THICKNESS.typed(m.thickness_m, who.units()),
            source: m.source.clone(),
            ..Self::default()
        }
    }

    /// The material it says, or what is wrong with it.
    fn read(&self, id: Uuid, who: &Who) -> Result<OwnMaterial, Box<Errors>> {
        let units = who.units();
        let lambda = CONDUCTIVITY.parse(&self.lambda, units);
        let lambda = lambda.and_then(|x| Conductivity::new(x).map_err(|e| e.to_string()));
        let thickness = THICKNESS.parse(&self.thickness, units);
        let thickness = thickness.and_then(|x| Thickness::new(x).map_err(|e| e.to_string()));
        let (name, source) = (
            words(&self.name, LONGEST[0], say!("Give it a name.")),
            words(&self.source, LONGEST[1], say!("Say where the figures come from: a data sheet, a test, a handbook.")),
        );
        match (name, lambda, self.vapor(), thickness, source) {
            (Ok(name), Ok(conductivity), Ok(resists), Ok(d), Ok(source)) => {
                Ok(OwnMaterial { id, name, conductivity, resists, thickness_m: d.get(), source })
            }
            (name, lambda, vapor, thickness, source) => Err(Box::new(Errors {
                name: name.err(),
                lambda: lambda.err(),
                vapor: vapor.err(),
                thickness: thickness.err(),
                source: source.err(),
                whole: None,
            })),
        }
    }

    fn vapor(&self) -> Result<Resists, String> {
        let figure = plain_number(&self.vapor).map_err(|e| e.said(&self.vapor))?;
        match self.vapor_by.as_str() {
            "mu" => VaporResistanceFactor::new(figure).map(Resists::PerThickness).map_err(|e| e.to_string()),
            "sd" => DiffusionThickness::new(figure).map(Resists::AsLayer).map_err(|e| e.to_string()),
            "perm" => Permeance::new(figure * Permeance::US_PERM)
                .map(|p| Resists::AsLayer(p.diffusion_thickness()))
                .map_err(|_| say!("A permeance is more than 0 US perm, got {brief}.", brief = brief(figure))),
            _ => Err(say!("Say how its resistance to vapor is given.").into()),
        }
    }
}

async fn shown(who: &Who, form: MaterialForm, errors: Errors) -> Result<MaterialsPage, Failure> {
    let show = who.show();
    let row = |m: &OwnMaterial| {
        let vapor = match m.resists {
            Resists::PerThickness(mu) => format!("μ {}", brief(mu.get())),
            Resists::AsLayer(sd) => tightness(&show, sd.get()),
        };
        let lambda = CONDUCTIVITY.text(m.conductivity.get(), show.units);
        let figures = format!("{lambda} · {vapor} · {}", THICKNESS.text(m.thickness_m, show.units));
        Row { id: m.id, name: m.name.clone(), figures, source: m.source.clone() }
    };
    Ok(MaterialsPage {
        frame: Frame::new(who),
        rows: who.scope().await?.materials().await?.iter().map(row).collect(),
        form,
        errors,
        units: [CONDUCTIVITY.unit(show.units).name(), THICKNESS.unit(show.units).name()],
        act_id: Uuid::now_v7(),
    })
}

/// The practice's own materials, one of them to change.
pub async fn page(who: Who, Query(view): Query<View>) -> Result<impl IntoResponse, Failure> {
    let own = match view.material {
        Some(id) => who.scope().await?.materials().await?.into_iter().find(|m| m.id == id),
        None => None,
    };
    let form = own.map_or_else(MaterialForm::default, |m| MaterialForm::of(&m, &who));
    shown(&who, form, Errors::default()).await
}

/// Keeps or removes one.
pub async fn keep(who: Who, Form(form): Form<MaterialForm>) -> Result<Response, Failure> {
    let id = form.id.ok_or_else(|| Failure::BadForm("id".into()))?;
    let act = PracticeAct { id, by: who.person.consultant_id, at: Utc::now() };
    let scope = who.scope().await?;
    let known: Option<Uuid> = form.material.parse().ok();
    if form.act == "remove" {
        scope.remove_material(act, known.ok_or_else(|| Failure::BadForm("material".into()))?).await?;
        scope.commit().await?;
        return Ok(Redirect::to("/materials").into_response());
    }
    // A new one has the id of the form: sent twice it is there once.
    let there = scope.materials().await?;
    let id = known.filter(|k| there.iter().any(|m| m.id == *k)).unwrap_or(id);
    let read = form.read(id, &who).and_then(|m| {
        let taken = there.iter().any(|x| x.id != m.id && x.name.eq_ignore_ascii_case(&m.name));
        let full = there.len() >= MOST && !there.iter().any(|x| x.id == m.id);
        match () {
            () if taken => {
                Err(Box::new(Errors { name: Some(say!("Another has this name.").into()), ..Errors::default() }))
            }
            () if full => {
                let whole = say!("A practice has {most} own materials at most: remove one first.", most = MOST);
                Err(Box::new(Errors { whole: Some(whole), ..Errors::default() }))
            }
            () => Ok(m),
        }
    });
    match read {
        Ok(material) => {
            scope.keep_material(act, &material).await?;
            scope.commit().await?;
            Ok(Redirect::to("/materials").into_response())
        }
        Err(errors) => {
            drop(scope);
            Ok((StatusCode::UNPROCESSABLE_ENTITY, shown(&who, form, *errors).await?).into_response())
        }
    }
}
