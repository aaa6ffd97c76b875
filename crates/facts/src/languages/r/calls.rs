//! Calls that name scripts, packages and classes, and what may give a function.

use super::reader::{Reader, WORDS};
use crate::cursor::{ByteClass, Cursor, class, in_word};
use ferngate_model::{DeclarationKind, Name, PathBase, Span};

/// Functions of the language that make no function.
const MAKERS_OF_VALUES: &[&[u8]] = &[
    b"array",
    b"as.character",
    b"as.integer",
    b"as.numeric",
    b"c",
    b"cbind",
    b"character",
    b"data.frame",
    b"factor",
    b"file.path",
    b"getOption",
    b"integer",
    b"lapply",
    b"length",
    b"list",
    b"logical",
    b"matrix",
    b"names",
    b"new.env",
    b"numeric",
    b"paste",
    b"paste0",
    b"rbind",
    b"read.csv",
    b"readLines",
    b"readRDS",
    b"rep",
    b"sapply",
    b"seq",
    b"seq_along",
    b"seq_len",
    b"setdiff",
    b"sprintf",
    b"Sys.getenv",
    b"Sys.time",
    b"system.file",
    b"table",
    b"union",
    b"unlist",
    b"vapply",
    b"vector",
];

/// Functions that let what they are given happen where the call stands.
pub(super) const LOOKED_THROUGH: &[&[u8]] = &[
    b"invisible",
    b"suppressMessages",
    b"suppressPackageStartupMessages",
    b"suppressWarnings",
    b"try",
    b"tryCatch",
];

/// Whether what is assigned at `ahead` may be a function: one that is written here, another's name, or what a call
/// gives, unless that is known to be a value.
pub(super) fn may_be_function(mut ahead: Cursor) -> bool {
    while matches!(ahead.peek(0), b' ' | b'\t' | b'\r' | b'\n') {
        ahead.at += 1;
    }
    let start = ahead.at;
    while in_word(ahead.peek(0)) || ahead.peek(0) == b'.' {
        ahead.at += 1;
    }
    let word = &ahead.text[start..ahead.at];
    match word.first() {
        None => matches!(ahead.peek(0), b'\\' | b'`'),
        Some(digit) if digit.is_ascii_digit() => false,
        Some(_) if word == b"function" => true,
        Some(_) => {
            let behind = ahead.peek(0);
            let quoted = matches!(behind, b'"' | b'\'');
            !quoted && !WORDS.contains(&word) && (behind != b'(' || !MAKERS_OF_VALUES.contains(&word))
        }
    }
}

/// Whether what is assigned at `ahead` is a function that is written there.
pub(super) fn is_written_function(mut ahead: Cursor) -> bool {
    ahead.skip_blanks();
    let rest = &ahead.text[ahead.at.min(ahead.end)..ahead.end];
    let behind = rest.strip_prefix(b"function").or_else(|| rest.strip_prefix(b"\\"));
    behind.is_some_and(|rest| matches!(rest.trim_ascii_start().first(), Some(b'(')))
}

/// Goes behind the `file =` of `source(file = "beds.R")`, if the argument here is named.
fn pass_name_of_argument(cursor: &mut Cursor) {
    let mut ahead = *cursor;
    while in_word(ahead.peek(0)) || ahead.peek(0) == b'.' {
        ahead.at += 1;
    }
    let named = ahead.at > cursor.at;
    ahead.skip_blanks();
    if named && ahead.peek(0) == b'=' && ahead.peek(1) != b'=' {
        ahead.at += 1;
        ahead.skip_blanks();
        *cursor = ahead;
    }
}

impl Reader<'_, '_> {
    /// Calls that name scripts or packages; `ahead` is at the parenthesis.
    pub(super) fn call(&mut self, start: usize, end: usize, mut ahead: Cursor) {
        let function = &self.cursor.text[start..end];
        let (script, package) = match function {
            b"source" | b"sys.source" => (true, false),
            b"library" | b"require" | b"requireNamespace" | b"loadNamespace" | b"attachNamespace" => {
                (false, true)
            }
            b"setClass" | b"setRefClass" | b"setGeneric" | b"setValidity" | b"assign" | b"delayedAssign"
            | b"makeActiveBinding" => (false, false),
            _ => return,
        };
        ahead.at += 1;
        ahead.skip_blanks();
        pass_name_of_argument(&mut ahead);
        let quote = ahead.peek(0);
        let (from, to) = match quote {
            b'"' | b'\'' => {
                let from = ahead.at + 1;
                let rest = &self.cursor.text[from..self.cursor.end];
                let Some(length) = rest.iter().position(|byte| *byte == quote || *byte == b'\n') else {
                    return;
                };
                (from, from + length)
            }
            byte if package && class(byte) == ByteClass::Letter => {
                let from = ahead.at;
                while in_word(ahead.peek(0)) || ahead.peek(0) == b'.' {
                    ahead.at += 1;
                }
                (from, ahead.at)
            }
            _ => return,
        };
        let text = String::from_utf8_lossy(&self.cursor.text[from..to]).into_owned();
        let span = Span::new(from, to);
        if text.is_empty() {
            return;
        }
        if script {
            self.recorder.path(span, &text, PathBase::Anywhere, false);
        } else if package {
            let whole = vec![(Name(0), Name(1))];
            self.recorder.path_with_names(span, &text, PathBase::Name, false, whole);
        } else if self.outermost() {
            self.declare(from, to, DeclarationKind::Class, start);
        }
    }
}
