//! Blanks beyond ASCII.

use std::borrow::Cow;

const BYTE_ORDER_MARK: &[u8] = b"\xEF\xBB\xBF";
const SPACES: [u8; 3] = [b' '; 3];

/// Writes spaces over the blanks beyond ASCII, as many bytes as each has, so that places stay what they are.
///
/// Pasted code holds them: no-break spaces, wide spaces, byte order marks between two files that were joined. Scanners
/// take every byte beyond ASCII for a letter and would read `\u{feff}namespace` as one name.
pub fn plain_blanks(text: &mut [u8]) {
    let mut at = next_blank(text, 0);
    while let Some((start, length)) = at {
        text[start..start + length].copy_from_slice(&SPACES[..length]);
        at = next_blank(text, start + length);
    }
}

/// `text` as [`plain_blanks`] leaves it; a copy only where something changes.
pub fn with_plain_blanks(text: &[u8]) -> Cow<'_, [u8]> {
    if next_blank(text, 0).is_none() {
        return Cow::Borrowed(text);
    }
    let mut copy = text.to_vec();
    plain_blanks(&mut copy);
    Cow::Owned(copy)
}

/// Where the next such blank at or after `from` begins, and its bytes. The mark at the very start is no code and stays.
fn next_blank(text: &[u8], from: usize) -> Option<(usize, usize)> {
    let mut at = if from == 0 && text.starts_with(BYTE_ORDER_MARK) { BYTE_ORDER_MARK.len() } else { from };
    while at < text.len() {
        at += first_beyond_ascii(&text[at..])?;
        match blank_length(&text[at..]) {
            0 => at += 1,
            length => return Some((at, length)),
        }
    }
    None
}

/// Whole chunks are passed at once: nearly all code is ASCII.
fn first_beyond_ascii(text: &[u8]) -> Option<usize> {
    const CHUNK: usize = 256;
    let plain = text.chunks_exact(CHUNK).take_while(|chunk| chunk.is_ascii()).count() * CHUNK;
    text[plain..].iter().position(|byte| !byte.is_ascii()).map(|found| plain + found)
}

/// How many bytes the blank at the start of `text` has, 0 if there is none (Unicode's property `White_Space`, and the
/// byte order mark).
fn blank_length(text: &[u8]) -> usize {
    match text {
        [0xC2, 0x85 | 0xA0, ..] => 2,
        [0xE1, 0x9A, 0x80, ..]
        | [0xE2, 0x80, 0x80..=0x8A | 0xA8 | 0xA9 | 0xAF, ..]
        | [0xE2, 0x81, 0x9F, ..]
        | [0xE3, 0x80, 0x80, ..]
        | [0xEF, 0xBB, 0xBF, ..] => 3,
        _ => 0,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Every character is asked, since the bytes above are spelled by hand.
    #[test]
    fn blanks_are_what_unicode_calls_white_space() {
        for character in '\u{80}'..=char::MAX {
            let text = format!("a{character}b");
            let plain = with_plain_blanks(text.as_bytes());
            let is_blank = character.is_whitespace() || character == '\u{feff}';
            let expected = if is_blank {
                text.replace(character, &" ".repeat(character.len_utf8()))
            } else {
                text.clone()
            };
            assert_eq!(plain, expected.as_bytes(), "{character:?}");
        }
    }

    #[test]
    fn the_mark_at_the_start_stays_and_places_do_too() {
        let text = format!("\u{feff}{}\u{a0}é\u{feff}x\u{3000}", "a".repeat(600));
        let plain = with_plain_blanks(text.as_bytes());
        assert_eq!(plain, format!("\u{feff}{}  é   x   ", "a".repeat(600)).as_bytes());
        assert!(matches!(with_plain_blanks("\u{feff}só".as_bytes()), Cow::Borrowed(_)));
    }
}
