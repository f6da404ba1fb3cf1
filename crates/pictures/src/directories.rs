//! A look at the directories of a TIFF-like file before any library follows them.
//!
//! TIFF, DNG and most camera raw files are chains and trees of directories by offset. A file of a few bytes whose
//! directory names itself as the next keeps a parser that does not look going until memory is gone; here every offset is
//! visited once and all counts are bounded (TIFF 6.0, section 2: an IFD is a count, twelve bytes an entry, and the offset
//! of the next).

use crate::Refusal;
use std::collections::BTreeSet;

/// Directories of one file: pages, thumbnails, sub-pictures, Exif. Camera raw holds about a dozen.
const MOST_DIRECTORIES: usize = 128;
/// Entries of one directory. Real ones hold under two hundred.
const MOST_ENTRIES: usize = 4096;
/// Tags whose values are offsets of further directories: sub-pictures, Exif, GPS, interoperability.
const DIRECTORY_TAGS: [u16; 4] = [0x014a, 0x8769, 0x8825, 0xa005];

struct File<'a> {
    bytes: &'a [u8],
    big_endian: bool,
}

impl File<'_> {
    fn u16(&self, at: usize) -> Option<u16> {
        let b: [u8; 2] = self.bytes.get(at..at.checked_add(2)?)?.try_into().ok()?;
        Some(if self.big_endian { u16::from_be_bytes(b) } else { u16::from_le_bytes(b) })
    }

    fn u32(&self, at: usize) -> Option<u32> {
        let b: [u8; 4] = self.bytes.get(at..at.checked_add(4)?)?.try_into().ok()?;
        Some(if self.big_endian { u32::from_be_bytes(b) } else { u32::from_le_bytes(b) })
    }
}

/// Whether a file begins as TIFF does, in either byte order, whatever number stands in place of TIFF's 42.
pub(crate) fn is_tiff_like(bytes: &[u8]) -> bool {
    matches!(bytes.get(..2), Some(b"II" | b"MM")) && bytes.len() >= 8 && bytes.get(..4) != Some(b"MMII")
}

/// Checks that the directories of a TIFF-like file end. Files of other kinds pass.
///
/// # Errors
/// [`Refusal::Damaged`] if a directory is named twice in a chain, or there are more than any camera writes.
pub(crate) fn check(bytes: &[u8]) -> Result<(), Refusal> {
    if !is_tiff_like(bytes) {
        return Ok(());
    }
    let file = File { bytes, big_endian: bytes[0] == b'M' };
    let damaged = |what: &str| Err(Refusal::Damaged(what.to_owned()));
    let mut seen = BTreeSet::new();
    let mut open: Vec<u32> = file.u32(4).into_iter().collect();
    while let Some(offset) = open.pop() {
        if offset == 0 {
            continue;
        }
        if !seen.insert(offset) {
            return damaged("one of its directories names itself or one before it");
        }
        if seen.len() > MOST_DIRECTORIES {
            return damaged("it has more directories than a picture can need");
        }
        let at = offset as usize;
        // an offset outside the file is for the decoder to judge: some cameras write such
        let Some(count) = file.u16(at).map(usize::from) else { continue };
        if count > MOST_ENTRIES {
            return damaged("one of its directories has more entries than a picture can need");
        }
        for k in 0..count {
            let entry = at + 2 + 12 * k;
            let (Some(tag), Some(kind), Some(n)) = (file.u16(entry), file.u16(entry + 2), file.u32(entry + 4)) else {
                break;
            };
            // only long (4) and directory (13) values are offsets
            if !DIRECTORY_TAGS.contains(&tag) || !matches!(kind, 4 | 13) {
                continue;
            }
            if n as usize > MOST_DIRECTORIES {
                return damaged("it has more directories than a picture can need");
            }
            if n == 1 {
                open.extend(file.u32(entry + 8));
            } else if let Some(list) = file.u32(entry + 8) {
                open.extend((0..n as usize).filter_map(|i| file.u32((list as usize).checked_add(4 * i)?)));
            }
        }
        open.extend(file.u32(at + 2 + 12 * count));
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Little-endian TIFF head and one directory of `entries` at offset 8, followed by `next`.
    fn tiff(entries: &[[u32; 4]], next: u32) -> Vec<u8> {
        let mut out = b"II*\0".to_vec();
        out.extend(8u32.to_le_bytes());
        out.extend((entries.len() as u16).to_le_bytes());
        for [tag, kind, n, value] in entries {
            out.extend((*tag as u16).to_le_bytes());
            out.extend((*kind as u16).to_le_bytes());
            out.extend(n.to_le_bytes());
            out.extend(value.to_le_bytes());
        }
        out.extend(next.to_le_bytes());
        out
    }

    #[test]
    fn a_directory_that_names_itself_is_refused() {
        // 26 bytes: this took a server down
        let file = tiff(&[[0x0100, 4, 1, 1]], 8);
        assert_eq!(file.len(), 26);
        assert!(matches!(check(&file), Err(Refusal::Damaged(_))));
        assert!(check(&tiff(&[[0x014a, 4, 1, 8]], 0)).is_err(), "as a picture of its own");
        assert!(check(&tiff(&[[0x8769, 4, 1, 8]], 0)).is_err(), "as its Exif");
        assert!(check(&tiff(&[[0x0100, 4, 1, 1]], 0)).is_ok());
    }

    #[test]
    fn counts_are_bounded_and_offsets_outside_the_file_are_left_to_the_decoder() {
        assert!(check(&tiff(&[[0x014a, 4, 1_000_000, 8]], 0)).is_err());
        assert!(check(&tiff(&[], u32::MAX)).is_ok());
        let mut long = tiff(&[], 0);
        long[8..10].copy_from_slice(&u16::MAX.to_le_bytes());
        assert!(check(&long).is_err());
        assert!(check(b"\x89PNG").is_ok() && check(b"").is_ok() && check(b"II").is_ok());
    }
}
