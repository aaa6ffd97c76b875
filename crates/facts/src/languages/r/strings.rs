//! Strings, plain and raw, and the paths that they mention.

use super::reader::{Last, Reader};
use ferngate_model::{PathBase, Span};
use memchr::memchr2;

impl Reader<'_, '_> {
    pub(super) fn string(&mut self, quote: u8) {
        self.cursor.at += 1;
        loop {
            let rest = &self.cursor.text[self.cursor.at.min(self.cursor.end)..self.cursor.end];
            let Some(found) = memchr2(quote, b'\\', rest) else {
                self.cursor.at = self.cursor.end;
                return;
            };
            self.cursor.at += found;
            if self.cursor.peek(0) == quote {
                self.cursor.at += 1;
                return;
            }
            self.cursor.at = (self.cursor.at + 2).min(self.cursor.end);
        }
    }

    pub(super) fn raw_string(&mut self) {
        let quote = self.cursor.peek(0);
        let rest = &self.cursor.text[self.cursor.at + 1..self.cursor.end];
        let dashes = rest.iter().take_while(|byte| **byte == b'-').count();
        let close = match rest.get(dashes) {
            Some(b'(') => b')',
            Some(b'[') => b']',
            Some(b'{') => b'}',
            _ => return self.string(quote),
        };
        let mut mark = vec![close];
        mark.extend(std::iter::repeat_n(b'-', dashes));
        mark.push(quote);
        self.cursor.at += dashes + 2;
        self.cursor.past(&mark);
        self.set(Last::Other);
    }

    /// A path in a string is a mention.
    pub(super) fn mentioned(&mut self, start: usize) {
        if !self.recorder.options().weak {
            return;
        }
        let end = self.cursor.at.saturating_sub(1).max(start);
        let known = self.recorder.facts().paths.last().is_some_and(|path| path.span.start as usize == start);
        if !known && crate::linking::looks_like_path(&self.cursor.text[start..end]) {
            let path = String::from_utf8_lossy(&self.cursor.text[start..end]).into_owned();
            self.recorder.path(Span::new(start, end), &path, PathBase::Anywhere, true);
        }
    }
}
