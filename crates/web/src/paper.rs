//! A version of a report as files that need nothing else: what is printed is the same wherever it is printed.

use crate::assets::embedded;
use crate::pages::shared::{Signed, signed};
use askama::Template;
use building::report::{Paper, ReportDraft};
use casework::outside::ToPrint;
use language::{Language, aloud, say};
use notation::{Show, Units};

#[derive(Template)]
#[template(path = "report/paper.html")]
struct PaperPage<'a> {
    title: &'a str,
    /// The size of a sheet, as styles name it.
    size: &'static str,
    /// What stands at the foot of every page.
    foot: String,
    body: &'a str,
    /// The language it is in.
    speaks: Language,
    signed: Vec<Signed>,
}

/// A font of the paper: family, weight, file, and the characters it is for where not for all.
type Face = (&'static str, u16, &'static str, Option<&'static str>);

/// Fonts of the paper. Of a variable font, as the screen has, a PDF would hold shapes instead of the font.
const FACES: [Face; 10] = [
    ("Next", 400, "next-400.woff2", None),
    ("Next", 600, "next-600.woff2", None),
    ("Next", 700, "next-700.woff2", None),
    ("Mono", 400, "mono-400.woff2", None),
    ("Mono", 600, "mono-600.woff2", None),
    ("Mono", 700, "mono-700.woff2", None),
    ("Signs", 400, "next-ext.woff2", Some("U+0100-024F")),
    ("Signs", 400, "greek-400.woff2", Some("U+0370-03FF")),
    ("Signs", 400, "latin-ext-400.woff2", Some("U+1E00-1EFF")),
    ("Signs", 400, "math.woff2", Some("U+2070-209F,U+2190-22FF,U+23??")),
];

/// The style of the program with the fonts of the paper.
fn style() -> String {
    let own = embedded("style.css").map(|css| String::from_utf8_lossy(&css).into_owned()).unwrap_or_default();
    let face = |(family, weight, file, of): &Face| {
        let of = of.map(|range| format!(";unicode-range:{range}")).unwrap_or_default();
        format!("@font-face{{font-family:{family};src:url({file})format(\"woff2\");font-weight:{weight}{of}}}")
    };
    let own = own.replace("@font-face{font-family:", "@font-face{font-family:Screen").replace("/assets/", "");
    own + &FACES.iter().map(face).collect::<String>()
}

/// Text as it stands in a string of a style: nothing in it ends the string.
fn in_style(text: &str) -> String {
    text.chars()
        .filter(|c| !c.is_control())
        .flat_map(|c| format!("\\{:x} ", u32::from(c)).chars().collect::<Vec<_>>())
        .collect()
}

/// The files of a version: `report.html` first, then its style, fonts and pictures.
///
/// # Errors
/// Where the page cannot be made.
pub fn paper(version: &ToPrint) -> Result<Vec<(String, Vec<u8>)>, askama::Error> {
    let draft: Option<ReportDraft> = serde_json::from_value(version.version.said.clone()).ok();
    let show = Show::new(Units::Metric, &version.time_zone);
    let v = &version.version;
    let speaks = draft.as_ref().map(|d| d.language).unwrap_or_default();
    let (foot, signed) = aloud(speaks, || {
        let made = say!("version {n} · {day}", n = v.n, day = show.day(v.made_at));
        (format!("{} · {} · {made}", version.practice_name, v.title), signed(&show, &version.signatures))
    });
    let page = PaperPage {
        title: &v.title,
        size: if draft.is_some_and(|d| d.paper == Paper::Letter) { "letter" } else { "A4" },
        foot: in_style(&foot),
        body: &version.html,
        speaks,
        signed,
    };
    let mut files = vec![("report.html".to_owned(), page.render()?.into_bytes())];
    files.push(("style.css".to_owned(), style().into_bytes()));
    for (_, _, font, _) in FACES {
        files.extend(embedded(font).map(|bytes| (font.to_owned(), bytes.into_owned())));
    }
    files.extend(version.images.iter().zip(1..).map(|(image, n)| (format!("images/{n}"), image.bytes.clone())));
    Ok(files)
}

#[cfg(test)]
mod tests {
    use super::in_style;

    #[test]
    fn no_text_ends_a_string_of_a_style() {
        assert_eq!(in_style("a\"}"), "\\61 \\22 \\7d ");
        assert_eq!(in_style("\n</style>").chars().filter(|c| "<>\n".contains(*c)).count(), 0);
    }
}
