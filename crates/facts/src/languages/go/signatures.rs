//! Names of parameters, found ahead of reading, so that their types are read as code and they themselves are not.

use crate::cursor::{ByteClass, Cursor, class};
use ferngate_model::Name;

/// No signature is followed further than this many bytes.
const LONGEST: usize = 20_000;

/// Notes the parameters and results of a signature whose `[` or `(` is at the cursor, and its `types`, which hide names
/// in the signature already. Returns where its last list ends.
pub fn parameters(
    cursor: &Cursor,
    types: &mut Vec<Name>,
    names: &mut Vec<Name>,
    places: &mut Vec<usize>,
) -> usize {
    let mut at = *cursor;
    if at.peek(0) == b'[' {
        at.at = list(&at, types, places);
    }
    if at.peek(0) != b'(' {
        return at.at;
    }
    at.at = list(&at, names, places);
    let end = at.at;
    while matches!(at.peek(0), b' ' | b'\t') {
        at.at += 1;
    }
    if at.peek(0) == b'(' { list(&at, names, places) } else { end }
}

/// Notes the type parameters of a declared type whose `[` is at the cursor; the length of an array is none.
pub fn type_parameters(cursor: &Cursor, names: &mut Vec<Name>, places: &mut Vec<usize>) {
    list(cursor, names, places);
}

/// Notes the type parameters that the receiver at the cursor gives names to, `(bed *Pair[T, U])`.
pub fn receiver(cursor: &Cursor, types: &mut Vec<Name>, places: &mut Vec<usize>) {
    let end = closing(cursor);
    let Some(open) = cursor.text[cursor.at..end].iter().take(LONGEST).position(|byte| *byte == b'[') else {
        return;
    };
    let mut at = Cursor { at: cursor.at + open + 1, end: end.saturating_sub(1), ..*cursor };
    while !at.done() && at.peek(0) != b']' {
        if class(at.peek(0)) == ByteClass::Letter {
            places.push(at.at);
            types.push(at.name());
        } else if !pass_text(&mut at) {
            at.at += 1;
        }
    }
}

/// Behind the bracket that closes the one at the cursor.
pub fn closing(cursor: &Cursor) -> usize {
    let mut at = *cursor;
    let mut depth = 0usize;
    let limit = cursor.at.saturating_add(LONGEST * 50);
    while !at.done() && at.at < limit {
        match at.peek(0) {
            b'(' | b'[' | b'{' => depth += 1,
            b')' | b']' | b'}' => {
                depth = depth.saturating_sub(1);
                if depth == 0 {
                    return at.at + 1;
                }
            }
            _ if pass_text(&mut at) => continue,
            _ => {}
        }
        at.at += 1;
    }
    at.at
}

/// Goes behind a string or comment that begins here.
fn pass_text(at: &mut Cursor) -> bool {
    match (at.peek(0), at.peek(1)) {
        (b'/', b'/') => at.to_line_end(),
        (b'/', b'*') => {
            at.at += 2;
            at.past(b"*/");
        }
        (b'`', _) => {
            at.at += 1;
            at.at = at.find(b'`').map_or(at.end, |end| end + 1);
        }
        (quote @ (b'"' | b'\''), _) => {
            at.at += 1;
            while !at.done() && !matches!(at.peek(0), b'\n') {
                let byte = at.peek(0);
                at.at = (at.at + if byte == b'\\' { 2 } else { 1 }).min(at.end);
                if byte == quote {
                    return true;
                }
            }
        }
        _ => return false,
    }
    true
}

/// Goes to the first name of the next line that has one; false at the end.
pub fn next_line(at: &mut Cursor) -> bool {
    loop {
        at.skip_blanks();
        match at.peek(0) {
            byte if class(byte) == ByteClass::Letter => return true,
            b'/' => {
                if !pass_text(at) {
                    at.at += 1;
                }
            }
            _ if at.done() => return false,
            _ => at.at += 1,
        }
    }
}

/// Goes to the end of the line on which no bracket is open, and which does not go on behind an operator or a dot
/// (language specification, "Semicolons").
pub fn to_line_end(at: &mut Cursor) {
    let (mut depth, mut last) = (0usize, 0);
    while !at.done() {
        let byte = at.peek(0);
        match byte {
            b';' if depth == 0 => return,
            b'\n' if depth == 0 && !goes_on(last) => return,
            b'(' | b'[' | b'{' => depth += 1,
            b')' | b']' | b'}' => depth = depth.saturating_sub(1),
            _ if pass_text(at) => {
                // A comment ends nothing.
                last = if byte == b'/' { last } else { byte };
                continue;
            }
            _ => {}
        }
        if !byte.is_ascii_whitespace() {
            last = byte;
        }
        at.at += 1;
    }
}

/// Whether a line that ends with this byte goes on in the next one.
fn goes_on(last: u8) -> bool {
    // Outside of functions nothing counts up or down.
    matches!(
        last,
        b'.' | b',' | b'=' | b'+' | b'-' | b'*' | b'/' | b'%' | b'&' | b'|' | b'^' | b'<' | b'>' | b'!'
    )
}

/// Notes the names of one list in brackets: all its entries begin with one, or none does. Returns where it ends.
fn list(cursor: &Cursor, names: &mut Vec<Name>, places: &mut Vec<usize>) -> usize {
    let end = closing(cursor);
    if end - cursor.at > LONGEST {
        return end;
    }
    let mut at = Cursor { at: cursor.at + 1, end: end.saturating_sub(1).max(cursor.at + 1), ..*cursor };
    let mut found: Vec<(Name, usize)> = Vec::new();
    let mut named = false;
    loop {
        at.skip_blanks();
        if at.done() {
            break;
        }
        if pass_text(&mut at) {
            continue;
        }
        let start = at.at;
        if class(at.peek(0)) == ByteClass::Letter {
            let name = at.name();
            let direct = at.peek(0);
            let behind = at.at;
            at.skip_blanks();
            let next = at.peek(0);
            let word = &at.text[start..behind];
            let is_type =
                matches!(word, b"func" | b"map" | b"chan" | b"struct" | b"interface") || direct == b'.';
            let separate = at.at > behind && !matches!(next, b',' | 0) && !at.done();
            named |= !is_type && (separate || direct == b'.' && at.peek(1) == b'.');
            if !is_type {
                found.push((name, start));
            }
        }
        to_comma(&mut at);
    }
    if named {
        names.extend(found.iter().map(|(name, _)| *name));
        places.extend(found.iter().map(|(_, place)| *place));
    }
    end
}

/// Goes behind the next comma outside of brackets.
fn to_comma(at: &mut Cursor) {
    let mut depth = 0usize;
    while !at.done() {
        match at.peek(0) {
            b',' if depth == 0 => {
                at.at += 1;
                return;
            }
            b'(' | b'[' | b'{' => depth += 1,
            b')' | b']' | b'}' => depth = depth.saturating_sub(1),
            _ if pass_text(at) => continue,
            _ => {}
        }
        at.at += 1;
    }
}
