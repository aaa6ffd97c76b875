//! Values that are taken apart, and what functions between braces call what they are given.

use super::Reader;
use crate::cursor::in_word;
use crate::values::{PARTS, part, value_of};
use ferngate_model::{Name, UseParent};

/// Names of parts end within so many bytes.
const LONGEST_PARTS: usize = 400;

impl Reader<'_, '_> {
    /// Reads `(bed, crop)`, locals that take the parts of a value that follows, or of its elements.
    pub(super) fn parts(&mut self, is_loop: bool) {
        let (names, typed) = self.names_of_parts();
        self.values.untyped_parts(&names, is_loop);
        typed.into_iter().for_each(|(at, value)| self.values.local(names[at], value));
    }

    /// Reads `(bed, crop)`, locals that take the parts of `whole`.
    fn parts_of(&mut self, whole: UseParent) {
        let at = self.tokens.token.start();
        let (names, typed) = self.names_of_parts();
        for (name, component) in names.iter().zip(PARTS.iter()) {
            let value = part(self.recorder, whole, *component, at);
            self.values.local(*name, value);
        }
        typed.into_iter().for_each(|(at, value)| self.values.local(names[at], value));
    }

    /// Reads `(bed, crop: Crop)`: the names, and the values of those whose type is spelled.
    fn names_of_parts(&mut self) -> (Vec<Name>, Vec<(usize, UseParent)>) {
        let (mut names, mut typed) = (Vec::new(), Vec::new());
        self.advance();
        while self.tokens.token.is_word() {
            if names.len() < PARTS.len() {
                names.push(self.tokens.token.name);
            }
            self.advance();
            if self.is(b':') {
                self.advance();
                let scope = self.scope();
                let value_type = self.value_type(scope);
                typed.push((names.len() - 1, value_of(value_type)));
            }
            if !self.is(b',') {
                break;
            }
            self.advance();
        }
        if self.is(b')') {
            self.advance();
        }
        (names, typed)
    }

    /// Whether what stands in the parenthesis here are names that take the parts of a parameter: `(bed, crop) ->`.
    fn takes_parts(&self) -> bool {
        let rest = &self.text[self.tokens.token.end().min(self.text.len())..];
        let is_part = |byte: &u8| in_word(*byte) || b" ,:<>?.\t\n\r".contains(byte);
        let close = rest.iter().take(LONGEST_PARTS).position(|byte| !is_part(byte));
        let Some(close) = close.filter(|at| rest[*at] == b')') else { return false };
        let behind = rest[close + 1..].trim_ascii_start();
        behind.starts_with(b"->") || behind.starts_with(b",")
    }

    /// Reads `bed, (crop, row) ->` at the start of a function.
    pub(super) fn named_parameters(&mut self) {
        let Some(lambda) = self.frame().lambda else { return };
        let mut number = 0;
        while self.is_name() || self.is(b'(') && self.takes_parts() {
            if self.is(b'(') {
                let whole = self.given(lambda, number);
                self.parts_of(whole);
                number += 1;
                if !self.is(b',') {
                    return;
                }
                self.advance();
                continue;
            }
            let (next, _) = self.peek();
            let arrow = next.is(b'-') && self.text.get(next.end()) == Some(&b'>');
            if !(arrow || next.is(b',') || next.is(b':')) {
                return;
            }
            let name = self.tokens.token.name;
            self.advance();
            let value = if self.is(b':') {
                self.advance();
                let scope = self.scope();
                let value_type = self.value_type(scope);
                value_of(value_type)
            } else if number > 0 || next.is(b',') {
                self.given_of_two(lambda, number)
            } else {
                self.given(lambda, number)
            };
            self.values.local(name, value);
            number += 1;
            if !self.is(b',') {
                return;
            }
            self.advance();
        }
    }
}
