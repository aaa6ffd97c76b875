/// A place as people count it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Position {
    /// Line, from 1.
    pub line: u32,
    /// Column in characters, from 1; a tab is one character.
    pub column: u32,
}

/// The line starts of one text, to turn byte offsets into lines and columns.
#[derive(Clone, Debug)]
pub struct LineIndex {
    starts: Vec<u32>,
}

impl LineIndex {
    /// Finds every line start; O(bytes).
    pub fn new(text: &[u8]) -> Self {
        let mut starts = vec![0];
        starts
            .extend(text.iter().enumerate().filter(|&(_, &byte)| byte == b'\n').map(|(at, _)| at as u32 + 1));
        Self { starts }
    }

    /// Where the byte `offset` of `text` stands; an offset past the end gives the end.
    pub fn position(&self, text: &[u8], offset: u32) -> Position {
        let offset = offset.min(text.len() as u32);
        let line = self.starts.partition_point(|&start| start <= offset).max(1);
        let start = self.starts[line - 1];
        let before = between(text, start, offset);
        let column = 1 + before.iter().filter(|&&byte| byte & 0xC0 != 0x80).count();
        Position { line: line as u32, column: column as u32 }
    }

    /// The text of `line` (from 1) without its line end; empty where there is no such line.
    pub fn line_text<'t>(&self, text: &'t [u8], line: u32) -> &'t [u8] {
        let Some(&start) = self.starts.get((line as usize).wrapping_sub(1)) else { return &[] };
        let end = self.starts.get(line as usize).copied().unwrap_or(text.len() as u32);
        let mut slice = between(text, start, end);
        while let [rest @ .., b'\n' | b'\r'] = slice {
            slice = rest;
        }
        slice
    }
}

fn between(text: &[u8], start: u32, end: u32) -> &[u8] {
    text.get(start as usize..end as usize).unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn counts_characters_and_survives_carriage_returns() {
        let text = "one\r\nfé tree\n".as_bytes();
        let index = LineIndex::new(text);
        assert_eq!(index.position(text, 0), Position { line: 1, column: 1 });
        assert_eq!(index.position(text, 9), Position { line: 2, column: 4 });
        assert_eq!(index.line_text(text, 1), b"one");
        assert_eq!(index.line_text(text, 9), b"");
    }
}
