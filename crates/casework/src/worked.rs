//! What follows from a file, worked out once when it is first asked for.

use crate::drying::Drying;
use crate::evidence::{AsOf, Gathered, gather};
use crate::file::CaseFile;
use crate::log::LogView;
use crate::plan::{Made, Planned};
use building::Space;
use hygrothermal::quantity::Temperature;
use judgment::advice::{SpaceAdvice, advise};
use judgment::cause::{Diagnosis, diagnose};
use std::any::{Any, TypeId};
use std::collections::BTreeMap;
use std::sync::{Arc, Mutex, OnceLock, PoisonError};
use uuid::Uuid;

/// What is known, and the causes it speaks for.
pub struct Argued {
    /// What is known.
    pub gathered: Gathered,
    /// The causes.
    pub diagnosis: Diagnosis,
}

/// What was worked out of a file so far.
#[derive(Default)]
pub(crate) struct Worked {
    advice: Mutex<BTreeMap<Uuid, Arc<SpaceAdvice>>>,
    argued: Mutex<BTreeMap<Option<Uuid>, Arc<Argued>>>,
    earlier: OnceLock<Option<Box<CaseFile>>>,
    pub(crate) log: OnceLock<Option<Box<LogView>>>,
    made: OnceLock<Box<Made>>,
    pub(crate) drying: OnceLock<Box<Drying>>,
    beside: Mutex<BTreeMap<(TypeId, u8), Arc<dyn Any + Send + Sync>>>,
}

impl Clone for Worked {
    /// A copy is made to be changed: what followed from the original need not follow from it.
    fn clone(&self) -> Self {
        Self::default()
    }
}

/// The value kept under a key, else a new one. Two who ask at once may both work it out: it comes out the same.
fn kept<K: Ord, V>(all: &Mutex<BTreeMap<K, Arc<V>>>, key: K, make: impl FnOnce() -> V) -> Arc<V> {
    let locked = || all.lock().unwrap_or_else(PoisonError::into_inner);
    let there = locked().get(&key).cloned();
    there.unwrap_or_else(|| {
        let made = Arc::new(make());
        locked().insert(key, Arc::clone(&made));
        made
    })
}

impl CaseFile {
    /// Advice for a space of the building.
    #[must_use]
    pub fn advice(&self, space: &Space) -> Arc<SpaceAdvice> {
        let design = Temperature::new(self.job.design_outdoor_c).ok();
        kept(&self.worked.advice, space.id, || advise(&self.building, &self.picture, space, design))
    }

    /// What speaks for which cause on the visit in view: in a space of the building, or in all of it.
    #[must_use]
    pub fn argued(&self, space: Option<Uuid>) -> Arc<Argued> {
        kept(&self.worked.argued, space, || {
            let gathered = gather(self, space, AsOf::Visit);
            Argued { diagnosis: diagnose(&gathered.case), gathered }
        })
    }

    /// The same job with the visit before the one in view in view; `None` where there is none.
    #[must_use]
    pub fn visit_before(&self) -> Option<&Self> {
        self.worked.earlier.get_or_init(|| self.at_visit_before().map(Box::new)).as_deref()
    }

    /// What a crate above makes of this file, made once: a drawing of it, say. `which` tells apart what is made of it more
    /// than once; it is for a few, such as two systems of units, not for every place one can look at.
    pub fn beside<T: Any + Send + Sync>(&self, which: u8, make: impl FnOnce() -> T) -> Arc<T> {
        let locked = || self.worked.beside.lock().unwrap_or_else(PoisonError::into_inner);
        let key = (TypeId::of::<T>(), which);
        let there = locked().get(&key).cloned().and_then(|kept| kept.downcast().ok());
        there.unwrap_or_else(|| {
            let made = Arc::new(make());
            locked().insert(key, made.clone());
            made
        })
    }

    /// The plan.
    #[must_use]
    pub fn planned(&self) -> Planned<'_> {
        Planned::of(self, self.worked.made.get_or_init(|| Box::new(Made::of(self))))
    }
}
