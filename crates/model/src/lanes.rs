use wide::{i8x16, u8x16};

/// Sixteen bytes of a text, looked at together: most identifiers and most runs of blanks are told by one look, without
/// a loop that the processor would have to guess the end of.
#[derive(Clone, Copy, Debug)]
pub struct Lanes([u8; Lanes::COUNT]);

/// For each number of bytes, all bits of the first so many.
const FIRST: [u128; Lanes::COUNT + 1] = {
    let mut masks = [0; Lanes::COUNT + 1];
    let mut length = 1;
    while length <= Lanes::COUNT {
        masks[length] = masks[length - 1] << 8 | 0xff;
        length += 1;
    }
    masks
};

impl Lanes {
    /// How many bytes there are.
    pub const COUNT: usize = 16;

    /// The bytes from `at` on; zero past the end of `text`.
    #[inline]
    pub fn at(text: &[u8], at: usize) -> Self {
        match text.get(at..).and_then(<[u8]>::first_chunk) {
            Some(bytes) => Self(*bytes),
            None => Self::short(text.get(at..).unwrap_or_default()),
        }
    }

    #[cold]
    fn short(rest: &[u8]) -> Self {
        let mut bytes = [0; Self::COUNT];
        bytes[..rest.len()].copy_from_slice(rest);
        Self(bytes)
    }

    /// How many of the first bytes may stand in an identifier: letters, digits, underscores and all beyond ASCII.
    #[inline]
    pub fn leading_word_bytes(self) -> usize {
        let bytes = i8x16::from(self.0.map(u8::cast_signed));
        let within = |of: i8x16, low: u8, high: u8| {
            of.simd_gt(i8x16::splat(low as i8 - 1)) & of.simd_lt(i8x16::splat(high as i8 + 1))
        };
        let letters = within(bytes | i8x16::splat(0x20), b'a', b'z');
        let digits = within(bytes, b'0', b'9');
        let underscores = bytes.simd_eq(i8x16::splat(b'_' as i8));
        // The mask takes the top bit of each lane, which is set in bytes beyond ASCII.
        (letters | digits | underscores | bytes).to_bitmask().trailing_ones() as usize
    }

    /// How many of the first bytes are blanks, line ends or other control characters.
    #[inline]
    pub fn leading_blanks(self) -> usize {
        let bytes = u8x16::from(self.0);
        bytes.min(u8x16::splat(b' ')).simd_eq(bytes).to_bitmask().trailing_ones() as usize
    }

    /// The first `length` bytes as a number, the rest zero; `length` is at most [`Lanes::COUNT`].
    #[inline]
    pub fn leading(self, length: usize) -> u128 {
        u128::from_le_bytes(self.0) & FIRST[length]
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_byte_is_told_in_every_lane() {
        for byte in 0..=255u8 {
            for lane in 0..Lanes::COUNT {
                let with = |filler: u8| {
                    let mut bytes = [filler; Lanes::COUNT];
                    bytes[lane] = byte;
                    Lanes::at(&bytes, 0)
                };
                let in_word = byte.is_ascii_alphanumeric() || byte == b'_' || byte >= 0x80;
                assert_eq!(with(b'x').leading_word_bytes(), if in_word { 16 } else { lane }, "{byte}");
                assert_eq!(with(b' ').leading_blanks(), if byte <= b' ' { 16 } else { lane }, "{byte}");
            }
        }
    }

    #[test]
    fn what_lies_behind_the_end_is_zero() {
        let lanes = Lanes::at(b"bed_7", 2);
        assert_eq!(lanes.leading_word_bytes(), 3);
        assert_eq!(lanes.leading(16), u128::from(u32::from_le_bytes(*b"d_7\0")));
        assert_eq!(lanes.leading(1), u128::from(b'd'));
        assert_eq!((lanes.leading(0), Lanes::at(b"bed", 7).leading(16)), (0, 0));
    }
}
