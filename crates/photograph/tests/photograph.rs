//! What somebody else can learn from a kept picture, and which way up it is.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, missing_docs, reason = "tests")]

use exif::experimental::Writer;
use exif::{Field, In, Rational, Tag, Value};
use flate2::Compression;
use flate2::write::ZlibEncoder;
use image::{DynamicImage, ImageFormat, Rgb, RgbImage};
use img_parts::jpeg::{Jpeg, JpegSegment};
use img_parts::png::{Png, PngChunk};
use img_parts::riff::{RiffChunk, RiffContent};
use img_parts::webp::WebP;
use img_parts::{Bytes, ImageEXIF};
use photograph::{Format, MOST_BYTES, Mark, Refused, Taken, read};
use proptest::prelude::*;
use std::io::{Cursor, Read};

/// Words no kept file may hold.
const SECRET: &str = "at-the-owner's-bedside";

/// 40 × 24, its upper left quarter red, the rest blue.
fn picture() -> RgbImage {
    RgbImage::from_fn(40, 24, |x, y| if x < 20 && y < 12 { Rgb([220, 30, 30]) } else { Rgb([30, 30, 200]) })
}

fn encoded(picture: &RgbImage, format: ImageFormat) -> Vec<u8> {
    let mut out = Cursor::new(Vec::new());
    DynamicImage::ImageRgb8(picture.clone()).write_to(&mut out, format).unwrap();
    out.into_inner()
}

/// Exif as phones write it: which side is up, when, and where.
fn exif(orientation: u16) -> Bytes {
    let ascii = |tag, text: &str| Field { tag, ifd_num: In::PRIMARY, value: Value::Ascii(vec![text.into()]) };
    let degrees = vec![Rational { num: 51, denom: 1 }, Rational { num: 28, denom: 1 }, Rational { num: 40, denom: 1 }];
    let fields = [
        Field { tag: Tag::Orientation, ifd_num: In::PRIMARY, value: Value::Short(vec![orientation]) },
        ascii(Tag::DateTimeOriginal, "2026:02:10 07:12:05"),
        ascii(Tag::OffsetTimeOriginal, "+01:00"),
        ascii(Tag::Artist, SECRET),
        Field { tag: Tag::GPSLatitude, ifd_num: In::PRIMARY, value: Value::Rational(degrees) },
    ];
    let mut writer = Writer::new();
    fields.iter().for_each(|f| writer.push_field(f));
    let mut out = Cursor::new(Vec::new());
    writer.write(&mut out, true).unwrap();
    out.into_inner().into()
}

/// A file of each kind that tells more than its picture, in several places.
fn telling(picture: &RgbImage, orientation: u16) -> Vec<Vec<u8>> {
    let secret = Bytes::from_static(SECRET.as_bytes());
    let mut jpeg = Jpeg::from_bytes(encoded(picture, ImageFormat::Jpeg).into()).unwrap();
    jpeg.set_exif(Some(exif(orientation)));
    for marker in [0xFE, 0xED, 0xE2, 0xE1] {
        jpeg.segments_mut().insert(1, JpegSegment::new_with_contents(marker, secret.clone()));
    }
    // A second picture behind the first, as phones append.
    let mut twice = jpeg.clone().encoder().bytes().to_vec();
    twice.extend(jpeg.encoder().bytes());
    let mut png = Png::from_bytes(encoded(picture, ImageFormat::Png).into()).unwrap();
    png.set_exif(Some(exif(orientation)));
    png.chunks_mut().insert(1, PngChunk::new(*b"tEXt", secret.clone()));
    let mut webp = WebP::from_bytes(encoded(picture, ImageFormat::WebP).into()).unwrap();
    webp.set_exif(Some(exif(orientation)));
    // As a phone writes it: XMP behind, and announced in the head.
    webp.chunks_mut().push(RiffChunk::new(*b"XMP ", RiffContent::Data(secret.clone())));
    let mut webp = webp.encoder().bytes().to_vec();
    let head = webp.windows(4).position(|w| w == b"VP8X").unwrap() + 8;
    webp[head] |= 0x04;
    let mut png = png.encoder().bytes().to_vec();
    png.extend(SECRET.as_bytes());
    vec![twice, png, webp]
}

fn holds(file: &[u8], words: &str) -> bool {
    file.windows(words.len()).any(|w| w == words.as_bytes())
}

/// Where the red quarter is seen, for each of the eight orientations (Exif 2.32, § 4.6.4: which corner row 0 and column 0
/// are at).
#[test]
fn a_picture_is_shown_upright_and_its_file_tells_nothing_else() {
    let corners = [(0, 0), (1, 0), (1, 1), (0, 1), (0, 0), (1, 0), (1, 1), (0, 1)];
    for (orientation, (right, bottom)) in (1..=8).zip(corners) {
        for file in telling(&picture(), orientation) {
            assert!(holds(&file, SECRET), "the test has something to strip");
            let kept = read(&file).unwrap();
            let turned = orientation >= 5;
            assert_eq!((kept.width, kept.height), if turned { (24, 40) } else { (40, 24) });
            assert_eq!(kept.taken, Some(Taken::At("2026-02-10T06:12:05Z".parse().unwrap())), "kept apart");
            for bytes in [&kept.original, &kept.view, &kept.thumb] {
                assert!(!holds(bytes, SECRET) && !holds(bytes, "2026:02:10"), "{orientation} {:?}", kept.format);
            }
            // The file alone says which side is up, too: read again, it gives the same view.
            let again = read(&kept.original).unwrap();
            assert_eq!((&again.view, &again.original, again.taken), (&kept.view, &kept.original, None));
            for jpeg in [&kept.view, &kept.thumb] {
                let seen = image::load_from_memory(jpeg).unwrap().to_rgb8();
                let at = |far: u32, size: u32| if far == 1 { size - 5 } else { 4 };
                let [r, _, b] = seen.get_pixel(at(right, seen.width()), at(bottom, seen.height())).0;
                assert!(r > 150 && b < 100, "{orientation} {:?}: the red quarter is not where it belongs", kept.format);
            }
        }
    }
}

#[test]
fn the_pixels_of_the_original_are_those_that_were_sent() {
    let noisy = RgbImage::from_fn(300, 200, |x, y| Rgb([(x * y % 251) as u8, (x % 256) as u8, (y * 3 % 256) as u8]));
    for (file, format) in telling(&noisy, 1).iter().zip([Format::Jpeg, Format::Png, Format::WebP]) {
        let kept = read(file).unwrap();
        assert_eq!(kept.format, format);
        let pixels = |bytes: &[u8]| image::load_from_memory(bytes).unwrap().to_rgb8();
        assert!(pixels(file) == pixels(&kept.original));
    }
}

#[test]
fn a_large_picture_is_made_small_and_one_beyond_the_limits_is_refused_in_words() {
    let large = RgbImage::from_pixel(3000, 1500, Rgb([90, 120, 140]));
    let kept = read(&encoded(&large, ImageFormat::Jpeg)).unwrap();
    let size = |bytes: &[u8]| image::load_from_memory(bytes).map(|p| (p.width(), p.height())).unwrap();
    assert_eq!((kept.width, kept.height, size(&kept.view), size(&kept.thumb)), (3000, 1500, (1600, 800), (360, 180)));
    let small = read(&encoded(&picture(), ImageFormat::Png)).unwrap();
    assert_eq!(size(&small.view), (40, 24), "never made larger");
    // A header of a few bytes that claims 40 000 × 40 000.
    let mut png = Png::from_bytes(encoded(&picture(), ImageFormat::Png).into()).unwrap();
    let mut header = png.chunks()[0].contents().to_vec();
    header[..8].copy_from_slice(&[0, 0, 0x9C, 0x40, 0, 0, 0x9C, 0x40]);
    png.chunks_mut()[0] = PngChunk::new(*b"IHDR", header.into());
    assert_eq!(read(&png.encoder().bytes()).unwrap_err(), Refused::TooManyPixels(40_000, 40_000));
    assert_eq!(read(&vec![0xFF; MOST_BYTES + 1]).unwrap_err(), Refused::TooManyBytes(21));
    assert_eq!(read(b"").unwrap_err(), Refused::Empty);
    assert_eq!(read(b"\0\0\0\x18ftypheic\0\0\0\0").unwrap_err(), Refused::Unknown);
    assert_eq!(read(b"<svg onload='alert(1)'/>").unwrap_err(), Refused::Unknown);
}

#[test]
fn a_strip_is_refused_before_anything_is_unpacked() {
    for (width, height) in [(1, 60_000_000), (60_000_000, 1), (31_000, 1900), (10, 201)] {
        let mut png = Png::from_bytes(encoded(&picture(), ImageFormat::Png).into()).unwrap();
        let mut header = png.chunks()[0].contents().to_vec();
        header[..4].copy_from_slice(&u32::to_be_bytes(width));
        header[4..8].copy_from_slice(&u32::to_be_bytes(height));
        png.chunks_mut()[0] = PngChunk::new(*b"IHDR", header.into());
        assert_eq!(read(&png.encoder().bytes()).unwrap_err(), Refused::Strip(width, height));
        // One that came in all the same has a shape all the same.
        assert!(photograph::tall((width, height)) >= 0);
        let _ = Mark::parse(r#"[{"kind":"circle","at":[1,1],"r":2}]"#, (width, height));
    }
    let panorama = RgbImage::from_pixel(4000, 200, Rgb([90, 120, 140]));
    assert_eq!(read(&encoded(&panorama, ImageFormat::Jpeg)).unwrap().width, 4000, "a panorama is no strip");
}

/// A color profile of some hundred bytes that would be 64 MB unpacked.
#[test]
fn a_profile_that_swells_is_left_out_and_a_sane_one_kept() {
    let profile = |bytes: u64| {
        let mut packed = ZlibEncoder::new(b"icc\0\0".to_vec(), Compression::best());
        std::io::copy(&mut std::io::repeat(0).take(bytes), &mut packed).unwrap();
        let mut png = Png::from_bytes(encoded(&picture(), ImageFormat::Png).into()).unwrap();
        png.chunks_mut().insert(1, PngChunk::new(*b"iCCP", packed.finish().unwrap().into()));
        png.encoder().bytes().to_vec()
    };
    let has = |file: &[u8]| file.windows(4).any(|w| w == b"iCCP");
    let bomb = profile(64 << 20);
    assert!(has(&bomb) && bomb.len() < 1 << 17);
    assert!(!has(&read(&bomb).unwrap().original));
    assert!(has(&read(&profile(600_000)).unwrap().original));
    // In a JPEG it stands as it is, in pieces of 64 kB.
    let pieces = |n: usize| {
        let mut jpeg = Jpeg::from_bytes(encoded(&picture(), ImageFormat::Jpeg).into()).unwrap();
        let piece: Bytes = [b"ICC_PROFILE\0\x01\x01".as_slice(), &[0; 60_000]].concat().into();
        (0..n).for_each(|_| jpeg.segments_mut().insert(1, JpegSegment::new_with_contents(0xE2, piece.clone())));
        read(&jpeg.encoder().bytes()).unwrap().original
    };
    assert!(holds(&pieces(3), "ICC_PROFILE") && !holds(&pieces(30), "ICC_PROFILE"));
}

#[test]
fn marks_stay_within_their_picture() {
    let two =
        r#"[{"kind":"arrow","from":[10,20],"to":[500,600],"words":"drops"},{"kind":"circle","at":[200,300],"r":80}]"#;
    let marks = Mark::parse(two, (4000, 3000)).unwrap();
    assert_eq!(Mark::parse(&serde_json::to_string(&marks).unwrap(), (4000, 3000)).unwrap(), marks);
    assert!(Mark::parse("", (40, 30)).unwrap().is_empty());
    for wrong in [
        "no marks",
        r#"[{"kind":"star","at":[1,1]}]"#,
        r#"[{"kind":"circle","at":[200,900],"r":80}]"#,
        r#"[{"kind":"circle","at":[200,300],"r":0}]"#,
        r#"[{"kind":"arrow","from":[9,9],"to":[9,9]}]"#,
        r#"[{"kind":"arrow","from":[-1,9],"to":[9,9]}]"#,
        &format!(r#"[{{"kind":"circle","at":[1,1],"r":2,"words":"{}"}}]"#, "x".repeat(61)),
        &format!("[{}]", vec![r#"{"kind":"circle","at":[1,1],"r":2}"#; 31].join(",")),
        r#"[{"kind":"circle","at":[1,1],"r":2,"words":"a\u0000b"}]"#,
        &format!("[{}", " ".repeat(100_000)),
    ] {
        assert!(Mark::parse(wrong, (4000, 3000)).is_err(), "{wrong}");
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(1000))]
    /// A damaged file is refused or shown; it never brings the reader down, and what is kept can be read again.
    #[test]
    fn damage_never_brings_the_reader_down(
        kind in 0usize..3,
        orientation in 1u16..=8,
        damage in prop::collection::vec((any::<prop::sample::Index>(), any::<u8>()), 1..8),
        cut in any::<Option<prop::sample::Index>>(),
    ) {
        let mut file = telling(&picture(), orientation).swap_remove(kind);
        for (at, byte) in damage {
            let at = at.index(file.len());
            file[at] = byte;
        }
        if let Some(cut) = cut {
            file.truncate(cut.index(file.len()));
        }
        if let Ok(kept) = read(&file) {
            prop_assert!(!holds(&kept.original, SECRET));
            prop_assert!(read(&kept.original).is_ok());
        }
    }
}
