//! Pages that need nothing of the program any more: no link leads into it, and every picture has a number of its own.

/// Pages as they go out.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Sealed {
    /// HTML in which pictures are `images/1`, `images/2` and so on.
    pub html: String,
    /// Where each picture stood in the program, in order.
    pub images: Vec<String>,
}

/// Takes every address of the program out of rendered pages: pictures get numbers, all other links are dropped.
///
/// Addresses of the program begin with a slash; text of people cannot look like one, since quotes in it are escaped.
#[must_use]
pub fn seal(html: &str) -> Sealed {
    let mut out = String::with_capacity(html.len());
    let mut images: Vec<String> = Vec::new();
    let mut rest = html;
    while let Some((at, name)) = next(rest) {
        let value = &rest[at + name.len()..];
        let Some(end) = value.find('"') else { break };
        let (address, after) = value.split_at(end);
        out.push_str(&rest[..at]);
        if is_picture(name, address) {
            let n = images.iter().position(|known| known == address).unwrap_or_else(|| {
                images.push(address.to_owned());
                images.len() - 1
            });
            out.push_str(&format!("{name}images/{}\"", n + 1));
        }
        rest = &after[1..];
    }
    out.push_str(rest);
    Sealed { html: out, images }
}

/// Sealed pages with their pictures found under an address of the program.
#[must_use]
pub fn at_home(html: &str, base: &str) -> String {
    html.replace(" src=\"images/", &format!(" src=\"{base}/images/"))
        .replace(" href=\"images/", &format!(" href=\"{base}/images/"))
}

/// The next attribute that holds an address of the program: where it begins, and how.
fn next(html: &str) -> Option<(usize, &'static str)> {
    let found = [" href=\"", " src=\""].into_iter().filter_map(|name| {
        let at = html.match_indices(name).find(|(at, _)| html[at + name.len()..].starts_with('/'))?.0;
        Some((at, name))
    });
    found.min()
}

/// Whether it is shown, and not followed: what an image has for its source, or a drawing for its picture.
fn is_picture(attribute: &str, address: &str) -> bool {
    attribute == " src=\""
        || address.split('?').next().is_some_and(|path| path.rsplit_once('.').is_some_and(|(_, end)| end == "png"))
}

/// Elements pages are made of: none that runs, loads or sends anything.
const ELEMENTS: [&str; 60] = [
    "a", "article", "b", "br", "caption", "circle", "clippath", "code", "dd", "defs", "details", "div", "dl", "dt",
    "em", "figure", "footer", "g", "h1", "h2", "h3", "h4", "header", "i", "image", "img", "input", "kbd", "label",
    "li", "line", "marker", "ol", "p", "path", "pattern", "polygon", "polyline", "rect", "section", "small", "span",
    "strong", "sub", "summary", "sup", "svg", "symbol", "table", "tbody", "td", "text", "tfoot", "th", "thead",
    "title", "tr", "tspan", "ul", "use",
];

/// Whether pages that came from elsewhere are no more than sealed pages can be: known elements, pictures of their own, nothing
/// that leads out, loads or runs.
#[must_use]
pub fn is_sealed(html: &str) -> bool {
    let mut rest = html;
    while let Some(at) = rest.find('<') {
        let Some(after) = tag(&rest[at + 1..]) else { return false };
        rest = after;
    }
    true
}

/// What stands behind a tag, where it is a known one with harmless attributes.
fn tag(text: &str) -> Option<&str> {
    let text = text.strip_prefix('/').unwrap_or(text);
    let end = text.find(|c: char| !c.is_ascii_alphanumeric())?;
    let name = text[..end].to_ascii_lowercase();
    if !ELEMENTS.contains(&name.as_str()) {
        return None;
    }
    let mut rest = &text[end..];
    loop {
        rest = rest.trim_start();
        if let Some(after) = rest.strip_prefix('>').or_else(|| rest.strip_prefix("/>")) {
            return Some(after);
        }
        let end = rest.find(|c: char| !(c.is_ascii_alphanumeric() || c == '-')).filter(|end| *end > 0)?;
        let (name, after) = rest.split_at(end);
        let (value, after) = match after.strip_prefix("=\"") {
            Some(value) => value.split_once('"')?,
            None => ("", after),
        };
        if !is_harmless(&name.to_ascii_lowercase(), value) {
            return None;
        }
        rest = after;
    }
}

fn is_harmless(name: &str, value: &str) -> bool {
    let own = || value.strip_prefix("images/").is_some_and(|n| !n.is_empty() && n.bytes().all(|b| b.is_ascii_digit()));
    match name {
        "src" => own(),
        "href" => value.starts_with('#') || own(),
        "style" | "srcset" | "action" | "formaction" | "ping" | "background" | "xmlns" => false,
        "fill" | "stroke" | "filter" | "mask" | "clip-path" | "marker-start" | "marker-mid" | "marker-end" => {
            !value.to_ascii_lowercase().replace("url(#", "").contains("url")
        }
        _ => !name.starts_with("on") && !name.starts_with("hx-"),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn no_address_of_the_program_leaves_and_each_picture_once() {
        let page = "<a class=\"x\" href=\"/jobs/1/photos/2\"><img src=\"/jobs/1/photos/2/view\"></a>\
            <a href=\"/jobs/1?at=3\">Rim</a> <use href=\"#drop-wet\"/>\
            <image href=\"/jobs/1/thermal/4/picture.png\"/><img src=\"/jobs/1/photos/2/view\"> said &#34;/x&#34; a=\"/b\"";
        let sealed = seal(page);
        assert_eq!(
            sealed.html,
            "<a class=\"x\"><img src=\"images/1\"></a><a>Rim</a> <use href=\"#drop-wet\"/><image href=\"images/2\"/>\
             <img src=\"images/1\"> said &#34;/x&#34; a=\"/b\""
        );
        assert_eq!(sealed.images, ["/jobs/1/photos/2/view", "/jobs/1/thermal/4/picture.png"]);
        assert!(at_home(&sealed.html, "/shared/s").contains("src=\"/shared/s/images/1\""));
        assert_eq!(seal(&sealed.html).html, sealed.html, "sealed twice is sealed");
        assert!(is_sealed(
            "<section class=\"a\"><h2>Wet</h2><image href=\"images/2\"/><path fill=\"url(#soil)\" d=\"M0 0\"/> 3 > 2</section>"
        ));
        for bad in [
            "<script>",
            "<SCRIPT src=\"images/1\">",
            "<meta http-equiv=\"refresh\" content=\"0;url=file:///etc/passwd\">",
            "<img src=\"file:///etc/passwd\">",
            "<img src=\"images/1\" onerror=\"x\">",
            "<img src='images/1'>",
            "<a href=\"javascript:x\">",
            "<a href=\"//elsewhere\">",
            "<iframe srcdoc=\"x\">",
            "<p style=\"background:url(x)\">",
            "<rect fill=\"url(http://x)\"/>",
            "<!-- <p> -->",
            "<p",
            "<form>",
            "<p hx-get=\"x\">",
        ] {
            assert!(!is_sealed(bad), "{bad}");
        }
        assert_eq!(seal("<a href=\"/jobs").html, "<a href=\"/jobs", "cut off in the middle");
    }
}
