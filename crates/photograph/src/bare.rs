//! The file without what it tells beside the picture: where and by whom it was taken, earlier versions, words, video.
//!
//! What is kept is listed, everything else goes: a list of what to remove would never be complete.

use crate::{Format, Refused};
use image::metadata::Orientation;
use img_parts::png::Png;
use img_parts::webp::WebP;
use img_parts::{Bytes, ImageEXIF};

/// PNG chunks that make the picture and its colors (PNG, third edition, § 11).
const PNG: [&[u8; 4]; 12] =
    [b"IHDR", b"PLTE", b"IDAT", b"IEND", b"tRNS", b"gAMA", b"cHRM", b"sRGB", b"iCCP", b"sBIT", b"pHYs", b"cICP"];
/// The same for WebP (RFC 9649, § 2).
const WEBP: [&[u8; 4]; 7] = [b"VP8X", b"VP8 ", b"VP8L", b"ALPH", b"ICCP", b"ANIM", b"ANMF"];

/// The bare file; which side is up stays said, because its pixels are not turned.
pub fn bare(format: Format, bytes: &[u8], orientation: Orientation) -> Result<Vec<u8>, Refused> {
    let up = (orientation != Orientation::NoTransforms).then(|| side_up(orientation));
    let shared = || Bytes::copy_from_slice(bytes);
    match format {
        Format::Jpeg => jpeg(bytes, up.as_deref()).ok_or(Refused::Broken),
        Format::Png => {
            let mut file = Png::from_bytes(shared()).map_err(|_| Refused::Broken)?;
            file.chunks_mut().retain(|c| PNG.contains(&&c.kind()));
            file.set_exif(up.map(Bytes::from));
            Ok(file.encoder().bytes().to_vec())
        }
        Format::WebP => {
            let mut file = WebP::from_bytes(shared()).map_err(|_| Refused::Broken)?;
            file.chunks_mut().retain(|c| WEBP.contains(&&c.id()));
            file.set_exif(up.map(Bytes::from));
            Ok(file.encoder().bytes().to_vec())
        }
    }
}

/// Exif that says nothing but which side is up: a TIFF header and one entry, tag 0x0112 (Exif 2.32, § 4.5.2).
fn side_up(orientation: Orientation) -> Vec<u8> {
    let mut tiff = b"II*\0\x08\0\0\0\x01\0\x12\x01\x03\0\x01\0\0\0".to_vec();
    tiff.extend([orientation.to_exif(), 0, 0, 0, 0, 0, 0, 0]);
    tiff
}

/// A JPEG's own segments up to the end of its first picture (ITU-T T.81, annex B). Phones append a second picture or a
/// whole video, each with a place of its own; `img_parts` would carry those along.
fn jpeg(bytes: &[u8], up: Option<&[u8]>) -> Option<Vec<u8>> {
    const END: u8 = 0xD9;
    const SCAN: u8 = 0xDA;
    let mut out = vec![0xFF, 0xD8];
    if let Some(tiff) = up {
        let length = u16::try_from(2 + 6 + tiff.len()).ok()?;
        out.extend([0xFF, 0xE1]);
        out.extend(length.to_be_bytes());
        out.extend(b"Exif\0\0");
        out.extend(tiff);
    }
    let mut rest = bytes.get(2..)?;
    loop {
        // Any number of FF may fill up before a marker.
        let at = rest.iter().position(|b| *b == 0xFF)?;
        let marker = at + rest.get(at..)?.iter().position(|b| *b != 0xFF)?;
        let kind = *rest.get(marker)?;
        rest = rest.get(marker + 1..)?;
        match kind {
            END => {
                out.extend([0xFF, END]);
                return Some(out);
            }
            // Stuffing and restart markers have no length; outside of a scan they say nothing.
            0x00 | 0x01 | 0xD0..=0xD8 => continue,
            _ => {}
        }
        let length = usize::from(u16::from_be_bytes([*rest.first()?, *rest.get(1)?]));
        let segment = rest.get(..length)?;
        rest = rest.get(length..)?;
        if of_picture(kind, segment.get(2..)?) {
            out.extend([0xFF, kind]);
            out.extend(segment);
        }
        if kind == SCAN {
            let scan = scan_length(rest);
            out.extend(rest.get(..scan)?);
            rest = rest.get(scan..)?;
        }
    }
}

/// Bytes of a scan: up to a marker that is neither stuffing nor a restart.
fn scan_length(rest: &[u8]) -> usize {
    let ends = |pair: &[u8]| pair[0] == 0xFF && !matches!(pair[1], 0x00 | 0xD0..=0xD7 | 0xFF);
    rest.windows(2).position(ends).unwrap_or(rest.len())
}

/// Whether a segment is needed to show the picture in its colors: tables, frames and scans, the JFIF header, the color
/// profile and the note of how colors are transformed.
fn of_picture(kind: u8, content: &[u8]) -> bool {
    match kind {
        // Frames browsers show, Huffman and quantization tables, scans: what unpacking would stumble over if it were anything else.
        0xC0..=0xC2 | 0xC4 | 0xDA | 0xDB => true,
        // Number of lines and restart interval: one figure each.
        0xDC | 0xDD => content.len() == 2,
        // Of their exact lengths: a JFIF header may carry a small picture of its own.
        0xE0 => content.starts_with(b"JFIF\0") && content.len() == 14,
        0xE2 => content.starts_with(b"ICC_PROFILE\0"),
        0xEE => content.starts_with(b"Adobe") && content.len() == 12,
        _ => false,
    }
}
