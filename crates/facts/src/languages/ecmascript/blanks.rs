//! What stands between tokens.

use crate::cursor::Cursor;

/// Goes behind blanks and comments.
pub(super) fn skip(cursor: &mut Cursor) {
    loop {
        cursor.skip_blanks();
        match (cursor.peek(0), cursor.peek(1)) {
            (b'/', b'/') => cursor.to_line_end(),
            (b'/', b'*') => {
                cursor.at += 2;
                cursor.past(b"*/");
            }
            _ => return,
        }
    }
}
