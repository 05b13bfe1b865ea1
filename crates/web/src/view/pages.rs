//! One page of a long list, and the addresses of its neighbors.

use language::Language;
use serde::Deserialize;

/// Which page is asked for, counted from one.
#[derive(Deserialize, Default, Clone, Copy)]
pub struct At {
    #[serde(default)]
    pub page: u64,
}

/// A page of a list.
pub struct Pages {
    path: &'static str,
    /// What else the address holds.
    query: Vec<(&'static str, String)>,
    /// What is counted, in words; or the sentence that says it, in a language.
    of: &'static str,
    pub language: Language,
    pub page: u64,
    pub pages: u64,
    pub found: u64,
}

impl At {
    /// The page, and the row it begins with.
    pub fn from(self, per_page: u64) -> (u64, u64) {
        let page = self.page.clamp(1, 1_000_000);
        (page, (page - 1) * per_page)
    }
}

impl Pages {
    pub fn new(path: &'static str, of: &'static str, at: At, per_page: u64, found: u64) -> Self {
        Self {
            path,
            of,
            language: Language::English,
            query: Vec::new(),
            page: at.from(per_page).0,
            pages: found.div_ceil(per_page),
            found,
        }
    }

    /// With what else the address holds.
    pub fn asked(self, query: Vec<(&'static str, String)>) -> Self {
        Self { query, ..self }
    }

    /// In a language: `of` is then the sentence that counts.
    pub fn speaking(self, language: Language) -> Self {
        Self { language, ..self }
    }

    /// The page before, as an address.
    pub fn before(&self) -> Option<String> {
        (self.page > 1).then(|| self.at(self.page - 1))
    }

    /// The page after, as an address.
    pub fn after(&self) -> Option<String> {
        (self.page < self.pages).then(|| self.at(self.page + 1))
    }

    pub fn said(&self) -> String {
        let counted = [
            ("page", self.page.to_string().into()),
            ("pages", self.pages.to_string().into()),
            ("found", self.found.into()),
        ];
        self.language.say_with(self.of, &counted)
    }

    fn at(&self, page: u64) -> String {
        let fields: Vec<(&str, String)> = self.query.iter().cloned().chain([("page", page.to_string())]).collect();
        format!("{}?{}", self.path, serde_urlencoded::to_string(fields).unwrap_or_default())
    }
}
