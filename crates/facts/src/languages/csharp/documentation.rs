//! What documentation comments mention: `<see cref="Moss.Bed"/>`.

use super::Reader;
use crate::cursor::{Cursor, in_word};
use ferngate_model::{ChainLink, Context, Root, Span};

impl Reader<'_, '_> {
    /// Notes what `cref="…"` mentions in the documentation comments just passed.
    pub(super) fn documentation(&mut self) {
        let scope = self.scope();
        for span in std::mem::take(&mut self.lexer.documentation) {
            let line = span.of(self.text);
            let mut from = 0;
            while let Some(found) = memchr::memmem::find(&line[from..], b"cref=\"") {
                let start = from + found + 6;
                let length = memchr::memchr(b'"', &line[start..]).unwrap_or(line.len() - start);
                from = start + length;
                let prefixed = usize::from(line.get(start + 1) == Some(&b':')) * 2;
                self.mention(span.start as usize + start + prefixed, span.start as usize + from, scope);
            }
        }
    }

    fn mention(&mut self, start: usize, end: usize, scope: u32) {
        let mut cursor = Cursor { at: start, end, ..self.lexer.cursor };
        let mut links = Vec::new();
        while !cursor.done() && in_word(cursor.peek(0)) {
            let at = cursor.at;
            let name = cursor.name();
            let span = Span::new(at, cursor.at);
            links.push(ChainLink { name, arity: type_arguments_in_braces(&mut cursor), span });
            if cursor.peek(0) != b'.' {
                break;
            }
            cursor.at += 1;
        }
        self.recorder.chain(Root::Scope(scope), &links, Context::Weak, false);
    }
}

/// `{T, U}` in a documentation comment: two.
fn type_arguments_in_braces(cursor: &mut Cursor) -> u8 {
    if cursor.peek(0) != b'{' {
        return 0;
    }
    let (mut depth, mut count) = (0usize, 1u8);
    while !cursor.done() {
        match cursor.peek(0) {
            b'{' => depth += 1,
            b',' if depth == 1 => count = count.saturating_add(1),
            b'}' => depth -= 1,
            _ => {}
        }
        cursor.at += 1;
        if depth == 0 {
            break;
        }
    }
    count
}
