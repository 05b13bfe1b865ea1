//! The file without what it tells beside the picture: where and by whom it was taken, earlier versions, words, video.
//!
//! What is kept is listed, everything else goes: a list of what to remove would never be complete.

use crate::{Format, Refused};
use flate2::read::ZlibDecoder;
use image::metadata::Orientation;
use img_parts::png::{Png, PngChunk};
use img_parts::{Bytes, ImageEXIF};
use std::io::Read;

/// PNG chunks that make the picture and its colors (PNG, third edition, § 11).
const PNG: [&[u8; 4]; 12] =
    [b"IHDR", b"PLTE", b"IDAT", b"IEND", b"tRNS", b"gAMA", b"cHRM", b"sRGB", b"iCCP", b"sBIT", b"pHYs", b"cICP"];
/// The same for WebP (RFC 9649, § 2), beside its head.
const WEBP: [&[u8; 4]; 6] = [b"VP8 ", b"VP8L", b"ALPH", b"ICCP", b"ANIM", b"ANMF"];
/// Largest color profile kept, bytes unpacked; usual ones have a few thousand. A picture is shown without a larger one.
const LARGEST_PROFILE: usize = 1 << 20;

/// The bare file; which side is up stays said, because its pixels are not turned.
pub fn bare(format: Format, bytes: &[u8], orientation: Orientation) -> Result<Vec<u8>, Refused> {
    let up = (orientation != Orientation::NoTransforms).then(|| side_up(orientation));
    match format {
        Format::Jpeg => jpeg(bytes, up.as_deref()).ok_or(Refused::Broken),
        Format::Png => {
            let mut file = Png::from_bytes(Bytes::copy_from_slice(bytes)).map_err(|_| Refused::Broken)?;
            file.chunks_mut().retain(|c| PNG.contains(&&c.kind()) && (&c.kind() != b"iCCP" || is_small_profile(c)));
            file.set_exif(up.map(Bytes::from));
            Ok(file.encoder().bytes().to_vec())
        }
        Format::WebP => webp(bytes, up.as_deref()).ok_or(Refused::Broken),
    }
}

/// Whether a PNG's profile is of a sane size once unpacked; no more than that is unpacked to find out. Behind its name and
/// a zero stands the method, then a zlib stream.
fn is_small_profile(chunk: &PngChunk) -> bool {
    let content = chunk.contents();
    let Some(packed) = content.iter().position(|b| *b == 0).and_then(|end| content.get(end + 2..)) else {
        return false;
    };
    let most = LARGEST_PROFILE as u64;
    let unpacked = std::io::copy(&mut ZlibDecoder::new(packed).take(most + 1), &mut std::io::sink());
    unpacked.is_ok_and(|bytes| bytes <= most)
}

/// A WebP of nothing but its picture. What the extended head says of other chunks is made true again: a decoder that looks
/// for what is announced and gone takes the file for damaged. Without that head nobody looks which side is up.
fn webp(bytes: &[u8], up: Option<&[u8]>) -> Option<Vec<u8>> {
    const PROFILE: u8 = 0x20;
    const EXIF: u8 = 0x08;
    const XMP: u8 = 0x04;
    let mut rest = bytes.get(12..)?;
    let mut head: Option<Vec<u8>> = None;
    let mut body: Vec<u8> = Vec::new();
    let mut profile = false;
    while let Some((id, content, behind)) = riff(rest) {
        match id {
            b"VP8X" => head = Some(content.to_vec()),
            b"ICCP" if content.len() > LARGEST_PROFILE => {}
            _ if WEBP.contains(&id) => {
                profile |= id == b"ICCP";
                put_riff(&mut body, id, content);
            }
            _ => {}
        }
        rest = behind;
    }
    let mut out = b"RIFF\0\0\0\0WEBP".to_vec();
    if let Some(mut head) = head {
        let flags = head.first_mut()?;
        *flags &= !(PROFILE | EXIF | XMP);
        *flags |= if profile { PROFILE } else { 0 } | if up.is_some() { EXIF } else { 0 };
        put_riff(&mut out, b"VP8X", &head);
        out.extend(body);
        if let Some(tiff) = up {
            put_riff(&mut out, b"EXIF", tiff);
        }
    } else {
        out.extend(body);
    }
    let length = u32::try_from(out.len() - 8).ok()?;
    out[4..8].copy_from_slice(&length.to_le_bytes());
    Some(out)
}

/// The first chunk of a RIFF file's rest: its name, its content and what is behind it.
fn riff(rest: &[u8]) -> Option<(&[u8; 4], &[u8], &[u8])> {
    let (id, rest) = rest.split_first_chunk::<4>()?;
    let (length, rest) = rest.split_first_chunk::<4>()?;
    let length = usize::try_from(u32::from_le_bytes(*length)).ok()?;
    let content = rest.get(..length)?;
    Some((id, content, rest.get(length + length % 2..).unwrap_or_default()))
}

fn put_riff(out: &mut Vec<u8>, id: &[u8; 4], content: &[u8]) {
    out.extend(id);
    out.extend(u32::try_from(content.len()).unwrap_or(u32::MAX).to_le_bytes());
    out.extend(content);
    out.resize(out.len() + content.len() % 2, 0);
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
    let (kept, profile) = jpeg_with(bytes, up, true)?;
    if profile <= LARGEST_PROFILE { Some(kept) } else { jpeg_with(bytes, up, false).map(|(kept, _)| kept) }
}

/// The file, and how many bytes its color profile has.
fn jpeg_with(bytes: &[u8], up: Option<&[u8]>, profiles: bool) -> Option<(Vec<u8>, usize)> {
    const END: u8 = 0xD9;
    const SCAN: u8 = 0xDA;
    const PROFILE: u8 = 0xE2;
    let mut out = vec![0xFF, 0xD8];
    if let Some(tiff) = up {
        let length = u16::try_from(2 + 6 + tiff.len()).ok()?;
        out.extend([0xFF, 0xE1]);
        out.extend(length.to_be_bytes());
        out.extend(b"Exif\0\0");
        out.extend(tiff);
    }
    let mut profile = 0;
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
                return Some((out, profile));
            }
            // Stuffing and restart markers have no length; outside of a scan they say nothing.
            0x00 | 0x01 | 0xD0..=0xD8 => continue,
            _ => {}
        }
        let length = usize::from(u16::from_be_bytes([*rest.first()?, *rest.get(1)?]));
        let segment = rest.get(..length)?;
        rest = rest.get(length..)?;
        let of_profile = kind == PROFILE && of_picture(kind, segment.get(2..)?);
        profile += if of_profile { segment.len() } else { 0 };
        if of_picture(kind, segment.get(2..)?) && (profiles || !of_profile) {
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
