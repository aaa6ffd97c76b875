use std::borrow::Cow;
use std::ops::Range;

/// A half-open range of bytes in one file.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Span {
    /// First byte, counted from 0.
    pub start: u32,
    /// The byte after the last one; never below `start`.
    pub end: u32,
}

impl Span {
    /// The range from `start` to `end`; an `end` below `start` gives an empty span at `start`.
    pub fn new(start: usize, end: usize) -> Self {
        let start = clamp(start);
        Self { start, end: clamp(end).max(start) }
    }

    /// How many bytes it covers.
    pub fn len(self) -> usize {
        (self.end - self.start) as usize
    }

    /// Whether it covers no byte.
    pub fn is_empty(self) -> bool {
        self.end == self.start
    }

    /// The span as a range to slice with.
    pub fn range(self) -> Range<usize> {
        self.start as usize..self.end as usize
    }

    /// The bytes of `text` under this span; empty where it lies outside.
    pub fn of(self, text: &[u8]) -> &[u8] {
        text.get(self.range()).unwrap_or_default()
    }

    /// The text under this span, with a mark of its own for what is not UTF-8.
    pub fn text(self, text: &[u8]) -> Cow<'_, str> {
        let bytes = self.of(text);
        // Reading valid text piece by piece takes several times as long as looking once that it is.
        std::str::from_utf8(bytes).map_or_else(|_| String::from_utf8_lossy(bytes), Cow::Borrowed)
    }

    /// Whether `other` lies wholly inside.
    pub fn contains(self, other: Span) -> bool {
        self.start <= other.start && other.end <= self.end
    }
}

/// Files over 4 GiB are never read as code, so the clamp is a guard, not a path that is taken.
fn clamp(offset: usize) -> u32 {
    u32::try_from(offset).unwrap_or(u32::MAX)
}
