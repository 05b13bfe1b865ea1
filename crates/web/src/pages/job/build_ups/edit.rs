//! Changing how a boundary is built.

use super::form::EditorForm;
use super::{Loaded, View, address, shown};
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path};
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::construction::{MOST_VARIANTS, Variant};
use building::{Boundary, buildup};
use casework::{CaseFile, InView};
use language::say;
use std::collections::HashMap;
use store::{Act, Depth};
use uuid::Uuid;

building::kinds! {
    /// What is done to a boundary's variants.
    BuildUpAct {
        /// The layers of one are typed.
        Save = "save", "layers";
        /// A copy of one to change.
        Copy = "copy", "copy";
        /// One becomes how it stands.
        Stands = "stands", "stands";
        /// One goes.
        Remove = "remove", "removed";
        /// A usual build-up of the library is taken over.
        Usual = "usual", "library";
    }
}

/// What a form asks for: all variants then, and in words.
struct Wish {
    variants: Vec<Variant>,
    what: String,
}

/// A name none of them has.
fn new_name(variants: &[Variant]) -> String {
    let free = |letter: &char| !variants.iter().any(|v| v.name == say!("Variant {letter}", letter));
    say!("Variant {find}", find = ('B'..='Z').find(free).unwrap_or('Z'))
}

/// The variant to look at after an act that was done: a new one has the act's id, so that the same form sent twice is answered
/// alike.
fn look_at(act: BuildUpAct, act_id: Uuid, variant: Option<Uuid>) -> Option<Uuid> {
    match act {
        BuildUpAct::Save => variant.or(Some(act_id)),
        BuildUpAct::Copy | BuildUpAct::Usual => Some(act_id),
        BuildUpAct::Stands => variant,
        BuildUpAct::Remove => None,
    }
}

fn wish(
    (act, act_id): (BuildUpAct, Uuid),
    boundary: &Boundary,
    variants: Vec<Variant>,
    id: Option<Uuid>,
    library: &str,
) -> Option<Wish> {
    let mut variants = variants;
    let at = id.and_then(|id| variants.iter().position(|v| v.id == id));
    let name = &boundary.name;
    match act {
        BuildUpAct::Save => None,
        BuildUpAct::Copy => {
            let copy = Variant { id: act_id, name: new_name(&variants), ..variants.get(at?)?.clone() };
            let what = say!("Added {copy} to the build-ups of {name}", copy = copy.name, name);
            variants.push(copy);
            Some(Wish { variants, what })
        }
        BuildUpAct::Stands => {
            let stands = variants.remove(at?);
            let what = say!("{stands} is how {name} stands", stands = stands.name, name);
            variants.insert(0, stands);
            Some(Wish { variants, what })
        }
        BuildUpAct::Remove => {
            let gone = variants.remove(at?);
            Some(Wish { variants, what: say!("Removed {gone} from the build-ups of {name}", gone = gone.name, name) })
        }
        BuildUpAct::Usual => {
            let usual = buildup(library)?;
            let made = Variant { id: act_id, ..usual.variant(boundary.id) };
            let what = say!("Added {made} to the build-ups of {name}", made = made.name, name);
            variants.push(made);
            Some(Wish { variants, what })
        }
    }
}

/// Makes a change; a refused one comes back as typed.
pub async fn change(
    who: Who,
    Path(job): Path<Uuid>,
    Form(fields): Form<HashMap<String, String>>,
) -> Result<Response, Failure> {
    let id = |key: &str| fields.get(key).and_then(|id| id.parse::<Uuid>().ok());
    let text = |key: &str| fields.get(key).cloned().filter(|t| !t.is_empty());
    let act_id = id("id").ok_or_else(|| Failure::BadForm("id of a change".into()))?;
    let act = fields.get("act").and_then(|a| BuildUpAct::from_id(a)).ok_or_else(|| Failure::BadForm("act".into()))?;
    let view = View {
        at: id("at"),
        variant: id("variant"),
        month: text("month"),
        outdoor: text("outdoor"),
        was: None,
        class: text("class"),
        from: text("from"),
    };
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    let file = CaseFile::load(&scope, job, InView::Latest, Depth::Visit).await?;
    let boundary = view.at.and_then(|id| file.building.boundary(id)).ok_or(Failure::NotFound)?.clone();
    let onward = |variant| Redirect::to(&address(job, &view, boundary.id, variant)).into_response();
    // The same form sent twice changes it once.
    if scope.acted(job, act_id).await? {
        return Ok(onward(look_at(act, act_id, view.variant)));
    }
    let variants = file.building.variants_of(&boundary);
    let adds = matches!(act, BuildUpAct::Copy | BuildUpAct::Usual);
    let wished = if act == BuildUpAct::Save {
        let mut form = EditorForm::sent(&fields);
        // Nobody said how it is built until now: the first one said is how it stands.
        let own = view.variant.filter(|id| variants.iter().any(|v| v.id == *id)).unwrap_or(act_id);
        let stock = file.building.stock();
        let read = form.read(own, boundary.id, stock, who.units());
        let whole = read.and_then(|v| match stock.construct(&v, boundary.face) {
            Ok(_) => Some(v),
            Err(why) => {
                form.error = Some(say!("This is no build-up: {why}.", why));
                None
            }
        });
        let Some(variant) = whole else {
            drop(scope);
            let loaded = Loaded::of(&who, job, &view).await?;
            let again = shown(&who, &loaded, &view, Some(form));
            return Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response());
        };
        let mut variants = variants;
        match variants.iter_mut().find(|v| v.id == own) {
            Some(there) => *there = variant,
            None => variants.push(variant),
        }
        Some(Wish { variants, what: say!("Changed how {boundary} is built", boundary = boundary.name) })
    } else if adds && variants.len() >= MOST_VARIANTS {
        None
    } else {
        wish((act, act_id), &boundary, variants, view.variant, fields.get("library").map_or("", String::as_str))
    };
    // What it was about is gone meanwhile, or there is no room: the page says how it stands.
    let Some(wished) = wished else { return Ok(onward(None)) };
    let kept = Act::new(act_id, job, who.person.consultant_id, chrono::Utc::now(), wished.what);
    scope.keep_variants(&kept, boundary.id, &wished.variants).await?;
    scope.commit().await?;
    Ok(onward(look_at(act, act_id, view.variant)))
}
