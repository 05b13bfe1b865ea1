//! Drawings as marks on a sheet: lines, areas, dots and words, styled by class, printed by a template.

/// Something drawn.
#[derive(Debug, Clone)]
pub enum Shape {
    /// An open line through points, as an SVG path.
    Line {
        /// Path data.
        path: String,
        /// How it looks.
        class: &'static str,
    },
    /// A filled shape, as an SVG path.
    Area {
        /// Path data.
        path: String,
        /// How it looks.
        class: &'static str,
    },
    /// A dot.
    Dot {
        /// Center.
        x: f64,
        /// Center.
        y: f64,
        /// How it looks.
        class: &'static str,
    },
    /// A word.
    Text {
        /// Where it is anchored.
        x: f64,
        /// Its base line.
        y: f64,
        /// What it says.
        text: String,
        /// How it looks.
        class: &'static str,
        /// `start`, `middle` or `end`.
        anchor: &'static str,
    },
}

/// A drawing with its size and what a screen reader says.
#[derive(Debug, Clone)]
pub struct Sketch {
    /// Width of the view box.
    pub width: f64,
    /// Height of the view box.
    pub height: f64,
    /// What it shows.
    pub label: String,
    /// Back to front.
    pub marks: Vec<Shape>,
}

/// Which end of a word stands at its place.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Anchor {
    /// Begins there.
    Start,
    /// Centered there.
    Middle,
    /// Ends there.
    End,
}

impl Anchor {
    const fn name(self) -> &'static str {
        match self {
            Self::Start => "start",
            Self::Middle => "middle",
            Self::End => "end",
        }
    }
}

fn path(points: impl IntoIterator<Item = (f64, f64)>) -> String {
    let mut path = String::new();
    for (x, y) in points.into_iter().filter(|(x, y)| x.is_finite() && y.is_finite()) {
        path.push(if path.is_empty() { 'M' } else { 'L' });
        path.push_str(&format!("{x:.1} {y:.1}"));
    }
    path
}

impl Sketch {
    /// An empty sheet.
    #[must_use]
    pub fn new(width: f64, height: f64, label: impl Into<String>) -> Self {
        Self { width, height, label: label.into(), marks: Vec::new() }
    }

    /// A line through points.
    pub fn line(&mut self, class: &'static str, points: impl IntoIterator<Item = (f64, f64)>) {
        self.marks.push(Shape::Line { path: path(points), class });
    }

    /// A filled shape.
    pub fn area(&mut self, class: &'static str, points: impl IntoIterator<Item = (f64, f64)>) {
        self.marks.push(Shape::Area { path: format!("{}Z", path(points)), class });
    }

    /// A filled rectangle between two corners.
    pub fn rect(&mut self, class: &'static str, (x1, y1): (f64, f64), (x2, y2): (f64, f64)) {
        self.area(class, [(x1, y1), (x2, y1), (x2, y2), (x1, y2)]);
    }

    /// A dot.
    pub fn dot(&mut self, class: &'static str, (x, y): (f64, f64)) {
        if x.is_finite() && y.is_finite() {
            self.marks.push(Shape::Dot { x, y, class });
        }
    }

    /// A word.
    pub fn text(&mut self, class: &'static str, (x, y): (f64, f64), anchor: Anchor, text: impl Into<String>) {
        if x.is_finite() && y.is_finite() {
            self.marks.push(Shape::Text { x, y, text: text.into(), class, anchor: anchor.name() });
        }
    }

    /// An arrow from one point to another.
    pub fn arrow(&mut self, class: &'static str, (x1, y1): (f64, f64), (x2, y2): (f64, f64)) {
        let length = (x2 - x1).hypot(y2 - y1).max(1e-9);
        let (ux, uy) = ((x2 - x1) / length, (y2 - y1) / length);
        let (bx, by) = (x2 - 9.0 * ux, y2 - 9.0 * uy);
        self.line(class, [(x1, y1), (bx, by)]);
        self.area("head", [(x2, y2), (bx - 5.0 * uy, by + 5.0 * ux), (bx + 5.0 * uy, by - 5.0 * ux)]);
    }
}
