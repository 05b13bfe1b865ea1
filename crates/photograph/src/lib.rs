//! Pictures as a camera makes them: recognized by their bytes, freed of all they tell beside the picture, turned upright,
//! made small enough for a page, and marked without being touched.

mod bare;
mod mark;
mod taken;

pub use mark::{LONGEST_WORDS, MOST_MARKS, Mark, Shape, tall};
pub use taken::Taken;

use image::metadata::Orientation;
use image::{DynamicImage, ImageDecoder, ImageFormat, ImageReader, Limits, Rgb, RgbImage};
use std::io::Cursor;

/// Largest file taken, bytes.
pub const MOST_BYTES: usize = 20 * 1024 * 1024;
/// Most pixels taken: about what a camera of 60 megapixels makes.
pub const MOST_PIXELS: u64 = 60_000_000;
/// Longest side taken, pixels: a wide panorama's.
pub const LONGEST_SIDE: u32 = 30_000;
/// Most that one side may be longer than the other.
pub const SLIMMEST: u32 = 20;
/// Longest edge of the picture for the page, pixels.
pub const VIEW_EDGE: u32 = 1600;
/// Longest edge of the picture for lists, pixels.
pub const THUMB_EDGE: u32 = 360;

/// Kinds of file taken.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Format {
    /// JPEG.
    Jpeg,
    /// PNG.
    Png,
    /// WebP.
    WebP,
}

impl Format {
    /// Its media type.
    #[must_use]
    pub const fn media_type(self) -> &'static str {
        match self {
            Self::Jpeg => "image/jpeg",
            Self::Png => "image/png",
            Self::WebP => "image/webp",
        }
    }

    /// The format a media type names.
    #[must_use]
    pub fn of(media_type: &str) -> Option<Self> {
        [Self::Jpeg, Self::Png, Self::WebP].into_iter().find(|f| f.media_type() == media_type)
    }

    /// Usual ending of its files.
    #[must_use]
    pub const fn ending(self) -> &'static str {
        match self {
            Self::Jpeg => "jpg",
            Self::Png => "png",
            Self::WebP => "webp",
        }
    }
}

/// Why a file is not taken.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum Refused {
    /// No bytes.
    #[error("The file is empty.")]
    Empty,
    /// More bytes than [`MOST_BYTES`].
    #[error("The file has {0} MB; {limit} MB at most. A smaller size in the camera’s settings is enough.", limit = MOST_BYTES / 1024 / 1024)]
    TooManyBytes(usize),
    /// Neither JPEG, PNG nor WebP.
    #[error(
        "This is no JPEG, PNG or WebP picture. Phones that store HEIC have a setting for the most compatible format."
    )]
    Unknown,
    /// More pixels than [`MOST_PIXELS`].
    #[error("The picture has {0} × {1} pixels; {limit} million at most.", limit = MOST_PIXELS / 1_000_000)]
    TooManyPixels(u32, u32),
    /// A side over [`LONGEST_SIDE`], or one that is [`SLIMMEST`] times the other.
    #[error(
        "The picture has {0} × {1} pixels: a strip. No side may be over {LONGEST_SIDE}, nor {SLIMMEST} times the other."
    )]
    Strip(u32, u32),
    /// Cut off or damaged.
    #[error("The picture is damaged or cut off and cannot be shown.")]
    Broken,
}

/// A picture ready to keep.
#[derive(Debug, Clone)]
pub struct Photograph {
    /// Format of the original.
    pub format: Format,
    /// Width as it is looked at, pixels.
    pub width: u32,
    /// Height as it is looked at, pixels.
    pub height: u32,
    /// The file as taken, pixel for pixel, without anything but the picture, its colors and which side is up.
    pub original: Vec<u8>,
    /// Upright JPEG of at most [`VIEW_EDGE`].
    pub view: Vec<u8>,
    /// Upright JPEG of at most [`THUMB_EDGE`].
    pub thumb: Vec<u8>,
    /// When, if the camera said so.
    pub taken: Option<Taken>,
}

/// Reads a file somebody sent. Takes up to half a second and some hundred megabytes for the largest: not for an
/// asynchronous thread.
///
/// # Errors
/// [`Refused`] when it is no picture of a known kind, too large, or broken.
pub fn read(bytes: &[u8]) -> Result<Photograph, Refused> {
    if bytes.is_empty() {
        return Err(Refused::Empty);
    }
    if bytes.len() > MOST_BYTES {
        return Err(Refused::TooManyBytes(bytes.len().div_ceil(1024 * 1024)));
    }
    let format = match image::guess_format(bytes) {
        Ok(ImageFormat::Jpeg) => Format::Jpeg,
        Ok(ImageFormat::Png) => Format::Png,
        Ok(ImageFormat::WebP) => Format::WebP,
        _ => return Err(Refused::Unknown),
    };
    // What is shown is made from what is kept: a file that only the untouched one could be shown from is refused. Before
    // anything else reads it, what may be packed to any size is gone.
    let (up, taken) = taken::said(bytes);
    let original = bare::bare(format, bytes, up)?;
    let upright = upright(&original)?;
    let view = flat(&upright.thumbnail(VIEW_EDGE.min(upright.width()), VIEW_EDGE.min(upright.height())));
    let small = DynamicImage::ImageRgb8(view.clone());
    let thumb = small.thumbnail(THUMB_EDGE.min(small.width()), THUMB_EDGE.min(small.height())).into_rgb8();
    Ok(Photograph {
        format,
        width: upright.width(),
        height: upright.height(),
        view: jpeg(&view)?,
        thumb: jpeg(&thumb)?,
        original,
        taken,
    })
}

/// A decoder that has read the file's head and nothing else, within the limits.
fn decoder(bytes: &[u8]) -> Result<impl ImageDecoder + '_, Refused> {
    let broken = |_| Refused::Broken;
    let reader = ImageReader::new(Cursor::new(bytes)).with_guessed_format().map_err(|_| Refused::Unknown)?;
    let mut decoder = reader.into_decoder().map_err(broken)?;
    let (width, height) = decoder.dimensions();
    // Before anything is unpacked: a few bytes can claim to be a very large picture.
    if u64::from(width) * u64::from(height) > MOST_PIXELS {
        return Err(Refused::TooManyPixels(width, height));
    }
    let (short, long) = (width.min(height), width.max(height));
    if long > LONGEST_SIDE || long > short.saturating_mul(SLIMMEST) {
        return Err(Refused::Strip(width, height));
    }
    let mut limits = Limits::default();
    limits.max_alloc = Some(MOST_PIXELS * 8);
    decoder.set_limits(limits).map_err(broken)?;
    Ok(decoder)
}

fn upright(bytes: &[u8]) -> Result<DynamicImage, Refused> {
    let mut decoder = decoder(bytes)?;
    let orientation = decoder.orientation().unwrap_or(Orientation::NoTransforms);
    let mut picture = DynamicImage::from_decoder(decoder).map_err(|_| Refused::Broken)?;
    picture.apply_orientation(orientation);
    Ok(picture)
}

/// Without transparency, which JPEG lacks: white shows through.
fn flat(picture: &DynamicImage) -> RgbImage {
    if !picture.color().has_alpha() {
        return picture.to_rgb8();
    }
    let over = picture.to_rgba8();
    RgbImage::from_fn(over.width(), over.height(), |x, y| {
        let [r, g, b, a] = over.get_pixel(x, y).0.map(u16::from);
        let mixed = |c: u16| u8::try_from((c * a + 255 * (255 - a)) / 255).unwrap_or(u8::MAX);
        Rgb([mixed(r), mixed(g), mixed(b)])
    })
}

fn jpeg(picture: &RgbImage) -> Result<Vec<u8>, Refused> {
    let mut out = Vec::new();
    let encoder = image::codecs::jpeg::JpegEncoder::new_with_quality(&mut out, 82);
    picture.write_with_encoder(encoder).map_err(|_| Refused::Broken)?;
    Ok(out)
}

/// A picture of colors, three bytes each, row by row, as PNG; `None` where they are not as many as its sides say.
#[must_use]
pub fn png(width: u32, height: u32, colors: Vec<u8>) -> Option<Vec<u8>> {
    let picture = RgbImage::from_raw(width, height, colors)?;
    let mut out = Cursor::new(Vec::new());
    picture.write_to(&mut out, ImageFormat::Png).ok()?;
    Some(out.into_inner())
}
