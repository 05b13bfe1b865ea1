//! Pictures for the demo, drawn with a seed: ink and wash on paper, so that nobody takes them for photographs.

use crate::scenario::Noise;
use tiny_skia::{Color, FillRule, LineCap, Paint, PathBuilder, Pixmap, Stroke, Transform};

const WIDE: u32 = 1200;
const TALL: u32 = 900;

type Point = (f64, f64);

const PAPER: [u8; 4] = [240, 232, 214, 255];
const INK: [u8; 4] = [38, 46, 50, 255];
const SHADE: [u8; 4] = [60, 70, 74, 46];
const WATER: [u8; 4] = [40, 96, 140, 110];
const WOOD: [u8; 4] = [186, 150, 96, 120];
const EARTH: [u8; 4] = [120, 96, 66, 90];
const GROWTH: [u8; 4] = [44, 52, 44, 150];

/// A drawing as a PNG file; `None` for a scene there is none of.
#[must_use]
pub fn sketch(scene: &str, seed: u64) -> Option<Vec<u8>> {
    let mut pen = Pen { sheet: Pixmap::new(WIDE, TALL)?, noise: Noise(seed) };
    pen.sheet.fill(color(PAPER));
    match scene {
        "joists" => pen.joists(),
        "soil" => pen.soil(),
        "corner" => pen.corner(),
        "glass" => pen.glass(),
        "ribs" => pen.ribs(),
        "slab" => pen.slab(),
        "rim" => pen.rim(),
        _ => return None,
    }
    pen.line(&[(14.0, 14.0), (1186.0, 14.0), (1186.0, 886.0), (14.0, 886.0), (14.0, 14.0)], 3.0);
    pen.sheet.encode_png().ok()
}

fn color([r, g, b, a]: [u8; 4]) -> Color {
    Color::from_rgba8(r, g, b, a)
}

struct Pen {
    sheet: Pixmap,
    noise: Noise,
}

impl Pen {
    fn path(points: &[Point]) -> Option<tiny_skia::Path> {
        let mut path = PathBuilder::new();
        for (i, (x, y)) in points.iter().enumerate() {
            #[allow(clippy::cast_possible_truncation, reason = "pixels")]
            let (x, y) = (*x as f32, *y as f32);
            if i == 0 { path.move_to(x, y) } else { path.line_to(x, y) }
        }
        path.finish()
    }

    /// A filled shape.
    fn wash(&mut self, points: &[Point], fill: [u8; 4]) {
        let Some(path) = Self::path(points) else { return };
        let mut paint = Paint::default();
        paint.set_color(color(fill));
        self.sheet.fill_path(&path, &paint, FillRule::Winding, Transform::identity(), None);
    }

    /// A line by hand: it wavers by a pixel or two.
    fn line(&mut self, points: &[Point], width: f32) {
        let mut wavering = Vec::new();
        for pair in points.windows(2) {
            let (a, b) = (pair[0], pair[1]);
            let steps = ((b.0 - a.0).hypot(b.1 - a.1) / 40.0).ceil().max(1.0);
            let mut f = 0.0;
            while f < steps {
                let t = f / steps;
                wavering.push((a.0 + (b.0 - a.0) * t + self.by(1.4), a.1 + (b.1 - a.1) * t + self.by(1.4)));
                f += 1.0;
            }
            wavering.push(b);
        }
        let Some(path) = Self::path(&wavering) else { return };
        let mut paint = Paint::default();
        paint.set_color(color(INK));
        let stroke = Stroke { width, line_cap: LineCap::Round, ..Stroke::default() };
        self.sheet.stroke_path(&path, &paint, &stroke, Transform::identity(), None);
    }

    fn by(&mut self, most: f64) -> f64 {
        self.noise.next() * most
    }

    fn shape(&mut self, points: &[Point], fill: [u8; 4], width: f32) {
        self.wash(points, fill);
        let mut closed = points.to_vec();
        closed.extend(points.first());
        self.line(&closed, width);
    }

    /// A round spot with an uneven rim.
    fn blot(&mut self, (x, y): Point, r: f64, fill: [u8; 4]) {
        let rim: Vec<Point> = (0..24)
            .map(|i| {
                let angle = f64::from(i) / 24.0 * std::f64::consts::TAU;
                let r = r * (1.0 + self.by(0.18));
                (x + r * angle.cos(), y + r * angle.sin())
            })
            .collect();
        self.wash(&rim, fill);
    }

    /// A hanging drop.
    fn drop(&mut self, (x, y): Point, size: f64) {
        let rim =
            [(0.0, -1.6), (0.55, -0.4), (0.7, 0.3), (0.4, 0.9), (0.0, 1.05), (-0.4, 0.9), (-0.7, 0.3), (-0.55, -0.4)];
        let rim = rim.map(|(dx, dy)| (x + dx * size, y + dy * size));
        self.shape(&rim, WATER, 2.0);
    }

    fn stipple(&mut self, within: impl Fn(f64, f64) -> bool, count: usize) {
        for _ in 0..count {
            let (x, y) = (600.0 + self.by(580.0), 450.0 + self.by(430.0));
            if within(x, y) {
                let (length, fall) = (3.0 + self.by(2.0), self.by(2.0));
                self.line(&[(x, y), (x + length, y + fall)], 2.0);
            }
        }
    }

    /// Floor joists from below, going away from the eye.
    fn joists(&mut self) {
        let end = (600.0, 520.0);
        self.wash(&[(0.0, 0.0), (1200.0, 0.0), end], WOOD);
        self.shape(&[(380.0, 440.0), (820.0, 440.0), (820.0, 620.0), (380.0, 620.0)], SHADE, 3.0);
        self.wash(&[(0.0, 900.0), (380.0, 620.0), (820.0, 620.0), (1200.0, 900.0)], EARTH);
        for i in 0..6 {
            let x = -40.0 + 250.0 * f64::from(i);
            let near = |x: f64| (x, 40.0);
            let far = |x: f64| (end.0 + (x - end.0) * 0.36, 440.0);
            let (left, right) = (x, x + 70.0);
            self.shape(&[near(left), near(right), far(right), far(left)], WOOD, 3.5);
            self.wash(&[near(right), (right + 34.0, 40.0), far(right + 26.0), far(right)], SHADE);
            for k in 0..5 {
                let t = f64::from(k) / 5.0 + self.by(0.06);
                let at = (near(left).0 + (far(left).0 - near(left).0) * t + 20.0, 60.0 + 380.0 * t);
                self.drop(at, 15.0 * (1.0 - 0.6 * t));
            }
        }
        self.stipple(|x, y| y > 640.0 + (x - 600.0).abs() * 0.35 - 60.0, 260);
    }

    /// Bare soil before a wall with an open vent.
    fn soil(&mut self) {
        self.shape(&[(0.0, 120.0), (1200.0, 120.0), (1200.0, 430.0), (0.0, 430.0)], SHADE, 3.0);
        for row in 0..4 {
            let y = 120.0 + 78.0 * f64::from(row);
            self.line(&[(0.0, y), (1200.0, y)], 2.0);
            for i in 0..8 {
                let x = 160.0 * f64::from(i) + if row % 2 == 0 { 0.0 } else { 80.0 };
                self.line(&[(x, y), (x, y + 78.0)], 2.0);
            }
        }
        self.shape(&[(720.0, 210.0), (960.0, 210.0), (960.0, 330.0), (720.0, 330.0)], PAPER, 5.0);
        for i in 1..5 {
            let y = 210.0 + 24.0 * f64::from(i);
            self.line(&[(720.0, y), (960.0, y)], 3.0);
        }
        self.wash(&[(0.0, 430.0), (1200.0, 430.0), (1200.0, 900.0), (0.0, 900.0)], EARTH);
        self.stipple(|_, y| y > 440.0, 700);
        for i in 0..4 {
            let at = (240.0 + 210.0 * f64::from(i), 800.0 - 85.0 * f64::from(i));
            self.blot(at, 46.0 - 7.0 * f64::from(i), SHADE);
            self.blot((at.0, at.1 + 10.0), 30.0 - 5.0 * f64::from(i), WATER);
        }
    }

    /// A corner of a room, dark at its foot.
    fn corner(&mut self) {
        self.wash(&[(620.0, 60.0), (1200.0, 0.0), (1200.0, 900.0), (620.0, 640.0)], SHADE);
        self.wash(&[(0.0, 900.0), (620.0, 640.0), (1200.0, 900.0)], WOOD);
        self.line(&[(620.0, 20.0), (620.0, 640.0), (0.0, 900.0)], 4.0);
        self.line(&[(620.0, 640.0), (1200.0, 880.0)], 4.0);
        for i in 0..7 {
            let y = 110.0 + 82.0 * f64::from(i);
            self.line(&[(0.0, y + 160.0 * f64::from(i) / 8.0), (620.0, y)], 1.5);
        }
        for _ in 0..150 {
            let (dx, dy) = (self.by(1.0), self.by(1.0).abs());
            let foot = (620.0 + dx * 190.0 * (1.2 - dy), 640.0 - dy * 330.0 + dx.abs() * 70.0);
            let size = 9.0 + 16.0 * (1.0 - dy) + self.by(5.0);
            self.blot(foot, size, GROWTH);
        }
        self.shape(&[(0.0, 560.0), (380.0, 560.0), (380.0, 620.0), (0.0, 640.0)], WOOD, 3.5);
    }

    /// A wide pane in the morning: drops, runs, frost along its foot.
    fn glass(&mut self) {
        let pane = [(90.0, 130.0), (1110.0, 130.0), (1180.0, 720.0), (20.0, 720.0)];
        self.shape(&pane, [176, 200, 206, 140], 6.0);
        self.wash(&[(40.0, 560.0), (1160.0, 560.0), (1180.0, 720.0), (20.0, 720.0)], [250, 252, 252, 190]);
        self.line(&[(600.0, 130.0), (600.0, 720.0)], 6.0);
        for _ in 0..170 {
            let at = (600.0 + self.by(500.0), 420.0 + self.by(270.0));
            let size = 6.0 + self.by(4.0);
            self.drop(at, size);
        }
        for _ in 0..14 {
            let x = 600.0 + self.by(480.0);
            let from = 300.0 + self.by(120.0);
            let (bend, foot) = (x + self.by(8.0), x + self.by(14.0));
            self.line(&[(x, from), (bend, from + 150.0), (foot, 700.0)], 4.0);
        }
        self.shape(&[(20.0, 720.0), (1180.0, 720.0), (1200.0, 860.0), (0.0, 860.0)], SHADE, 4.0);
        self.stipple(|x, y| y > 600.0 && y < 715.0 && x > 40.0 && x < 1160.0, 500);
    }

    /// A curved roof with its frames showing as wet stripes.
    fn ribs(&mut self) {
        self.wash(&[(0.0, 0.0), (1200.0, 0.0), (1200.0, 620.0), (0.0, 620.0)], [206, 206, 196, 160]);
        for i in 0..7 {
            let x = 40.0 + 186.0 * f64::from(i);
            let bow: Vec<Point> = (0..=20)
                .map(|k| {
                    let t = f64::from(k) / 20.0;
                    (x + 60.0 * (t * 3.0).sin(), 30.0 + 560.0 * t)
                })
                .collect();
            let back = bow.iter().rev().map(|p| (p.0 + 46.0, p.1));
            let stripe: Vec<Point> = bow.iter().copied().chain(back).collect();
            self.shape(&stripe, WATER, 3.0);
            for _ in 0..7 {
                let t = self.by(0.5) + 0.5;
                self.drop((x + 60.0 * (t * 3.0).sin() + 22.0, 40.0 + 540.0 * t), 9.0);
            }
        }
        self.line(&[(0.0, 620.0), (1200.0, 620.0)], 5.0);
        for i in 0..14 {
            let x = 90.0 * f64::from(i);
            let tall = 150.0 + self.by(40.0);
            self.shape(&[(x, 860.0 - tall), (x + 62.0, 860.0 - tall), (x + 62.0, 860.0), (x, 860.0)], WOOD, 2.5);
        }
    }

    /// A slab under water, shelves beside it.
    fn slab(&mut self) {
        self.wash(&[(0.0, 380.0), (1200.0, 380.0), (1200.0, 900.0), (0.0, 900.0)], SHADE);
        self.line(&[(0.0, 380.0), (1200.0, 380.0)], 4.0);
        for bay in 0..3 {
            let x = 60.0 + 390.0 * f64::from(bay);
            for shelf in 0..3 {
                let y = 110.0 + 110.0 * f64::from(shelf);
                self.line(&[(x, y), (x + 300.0, y)], 5.0);
                for k in 0..4 {
                    let left = x + 8.0 + 74.0 * f64::from(k);
                    let tall = 66.0 + self.by(16.0);
                    self.shape(&[(left, y - tall), (left + 62.0, y - tall), (left + 62.0, y), (left, y)], WOOD, 2.0);
                }
            }
            self.line(&[(x, 40.0), (x, 420.0)], 5.0);
            self.line(&[(x + 300.0, 40.0), (x + 300.0, 420.0)], 5.0);
        }
        for (x, y, r) in [(520.0, 660.0, 210.0), (760.0, 700.0, 190.0), (330.0, 740.0, 130.0)] {
            self.blot((x, y), r, WATER);
        }
        self.blot((640.0, 690.0), 34.0, GROWTH);
        for k in 1..4 {
            let r = 34.0 + 22.0 * f64::from(k);
            let ring: Vec<Point> = (0..=30)
                .map(|i| {
                    let a = f64::from(i) / 30.0 * std::f64::consts::TAU;
                    (640.0 + r * a.cos(), 690.0 + 0.5 * r * a.sin())
                })
                .collect();
            self.line(&ring, 2.0);
        }
    }

    /// The rim of a floor on its sill, soft beside a vent.
    fn rim(&mut self) {
        self.shape(&[(0.0, 560.0), (1200.0, 560.0), (1200.0, 900.0), (0.0, 900.0)], SHADE, 4.0);
        self.shape(&[(0.0, 480.0), (1200.0, 480.0), (1200.0, 560.0), (0.0, 560.0)], WOOD, 4.0);
        self.shape(&[(0.0, 140.0), (1200.0, 140.0), (1200.0, 480.0), (0.0, 480.0)], WOOD, 4.0);
        for i in 0..9 {
            let y = 170.0 + 34.0 * f64::from(i);
            let grain: Vec<Point> = (0..=12).map(|k| (100.0 * f64::from(k), y + self.by(7.0))).collect();
            self.line(&grain, 1.5);
        }
        self.shape(&[(700.0, 600.0), (1000.0, 600.0), (1000.0, 740.0), (700.0, 740.0)], PAPER, 5.0);
        for (x, y, r) in [(560.0, 440.0, 110.0), (650.0, 470.0, 90.0), (480.0, 470.0, 60.0)] {
            self.blot((x, y), r, GROWTH);
        }
        self.blot((590.0, 430.0), 13.0, INK);
        self.line(&[(590.0, 430.0), (380.0, 250.0)], 9.0);
        self.shape(&[(386.0, 242.0), (330.0, 180.0), (300.0, 206.0), (368.0, 262.0)], EARTH, 3.0);
    }
}
