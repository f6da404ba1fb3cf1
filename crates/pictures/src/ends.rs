//! Where a picture ends in its file. What stands after that is no part of it: motion photos keep a film there, with its
//! place and time.

/// Length of a JPEG up to and with its end marker; `None` if it breaks off (ITU-T T.81, annex B: markers and segments up
/// to start of scan, then coded data in which 0xFF is followed by 0 or by a restart marker).
pub(crate) fn jpeg(bytes: &[u8]) -> Option<usize> {
    const END: u8 = 0xd9;
    const SCAN: u8 = 0xda;
    let mut at = 2;
    loop {
        // fill bytes may stand before a marker
        while bytes.get(at) == Some(&0xff) && bytes.get(at + 1) == Some(&0xff) {
            at += 1;
        }
        if *bytes.get(at)? != 0xff {
            // damage between segments is for the decoder to judge: the next marker goes on
            at += bytes.get(at..)?.iter().position(|b| *b == 0xff)?;
            continue;
        }
        let marker = *bytes.get(at + 1)?;
        match marker {
            END => return Some(at + 2),
            // markers without a segment
            0x01 | 0xd0..=0xd8 => at += 2,
            0x00 => at += 2,
            _ => {
                let length = u16::from_be_bytes(bytes.get(at + 2..at + 4)?.try_into().ok()?);
                at += 2 + usize::from(length.max(2));
                if marker == SCAN {
                    // coded data: up to a marker that is neither stuffed nor a restart
                    loop {
                        at += bytes.get(at..)?.iter().position(|b| *b == 0xff)?;
                        match bytes.get(at + 1)? {
                            0x00 | 0xd0..=0xd7 => at += 2,
                            0xff => at += 1,
                            _ => break,
                        }
                    }
                }
            }
        }
    }
}

/// Length of a PNG up to and with its end chunk; `None` if there is none (PNG, third edition, section 5: length, type,
/// data, checksum).
pub(crate) fn png(bytes: &[u8]) -> Option<usize> {
    let mut at = 8usize;
    loop {
        let length = u32::from_be_bytes(bytes.get(at..at.checked_add(4)?)?.try_into().ok()?) as usize;
        let kind = bytes.get(at + 4..at + 8)?;
        let end = at.checked_add(12)?.checked_add(length)?;
        if end > bytes.len() {
            return None;
        }
        if kind == b"IEND" {
            return Some(end);
        }
        at = end;
    }
}

/// Length of a WebP by its head: eight bytes and what it says (RIFF).
pub(crate) fn webp(bytes: &[u8]) -> Option<usize> {
    let length = u32::from_le_bytes(bytes.get(4..8)?.try_into().ok()?) as usize;
    let end = length.checked_add(8)?;
    (end <= bytes.len()).then_some(end)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn picture(format: image::ImageFormat) -> Vec<u8> {
        let mut out = std::io::Cursor::new(Vec::new());
        let img = image::RgbImage::from_fn(40, 30, |x, y| image::Rgb([x as u8 * 6, y as u8 * 8, 255 - x as u8]));
        image::DynamicImage::ImageRgb8(img).write_to(&mut out, format).unwrap();
        out.into_inner()
    }

    #[test]
    fn what_follows_the_end_is_not_part_of_the_picture() {
        for (format, end) in [
            (image::ImageFormat::Jpeg, jpeg as fn(&[u8]) -> Option<usize>),
            (image::ImageFormat::Png, png),
            (image::ImageFormat::WebP, webp),
        ] {
            let whole = picture(format);
            assert_eq!(end(&whole), Some(whole.len()), "{format:?}");
            let mut longer = whole.clone();
            longer.extend(b"ftypmp42 a film with its place \xff\xd9");
            assert_eq!(end(&longer), Some(whole.len()), "{format:?}");
            assert_eq!(end(&whole[..whole.len() / 2]), None, "{format:?}: half a picture has no end");
            for n in 0..whole.len() {
                let _ = end(&whole[..n]);
            }
        }
    }

    #[test]
    fn a_thumbnail_inside_is_not_the_end() {
        let (inner, whole) = (picture(image::ImageFormat::Jpeg), picture(image::ImageFormat::Jpeg));
        let mut file = whole[..2].to_vec();
        file.extend([0xff, 0xe1]);
        file.extend(((inner.len() + 2) as u16).to_be_bytes());
        file.extend(&inner);
        file.extend(&whole[2..]);
        assert_eq!(jpeg(&file), Some(file.len()));
    }
}
