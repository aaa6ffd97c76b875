//! What stands outside of functions: the package, imports, and declarations with their signatures.

use super::reader::{Last, Reader};
use super::{BLANK, DOT, OWN_NAME};
use crate::cursor::{ByteClass, Cursor, class};
use ferngate_model::{Declaration, DeclarationKind, Name, PathBase, Span};
use memchr::{memchr, memmem};

impl Reader<'_, '_> {
    pub(super) fn declare(&mut self, kind: DeclarationKind, whole: usize, (start, end): (usize, usize)) {
        // The blank name declares nothing.
        if &self.cursor.text[start..end] == b"_" {
            return;
        }
        let text = String::from_utf8_lossy(&self.cursor.text[start..end]).into_owned();
        let name = self.recorder.facts().texts.add(&text);
        let (span, whole) = (Span::new(start, end), Span::new(whole, end));
        self.recorder.declare(Declaration::public(name, kind, 0, 0, span, whole));
    }

    pub(super) fn package(&mut self, whole: usize) {
        self.cursor.skip_blanks();
        let start = self.cursor.at;
        if !self.cursor.word().is_empty() {
            self.declare(DeclarationKind::Module, whole, (start, self.cursor.at));
        }
    }

    /// `import "a"`, `import ( … )`.
    pub(super) fn imports(&mut self) {
        let before = self.comment;
        let listed = {
            self.cursor.skip_blanks();
            self.cursor.peek(0) == b'('
        };
        if listed {
            self.cursor.at += 1;
        }
        let mut alias = OWN_NAME;
        while !self.cursor.done() {
            let byte = self.cursor.peek(0);
            match byte {
                b'"' | b'`' => {
                    let start = self.cursor.at + 1;
                    let rest = &self.cursor.text[start..self.cursor.end];
                    let Some(length) = memchr(byte, rest) else { return };
                    self.imported(Span::new(start, start + length), alias, before);
                    self.cursor.at = start + length + 1;
                    alias = OWN_NAME;
                    if !listed {
                        return;
                    }
                }
                b'.' => {
                    alias = DOT;
                    self.cursor.at += 1;
                }
                b'/' if self.cursor.peek(1) == b'/' => self.cursor.to_line_end(),
                b'/' if self.cursor.peek(1) == b'*' => {
                    self.cursor.at += 2;
                    self.cursor.past(b"*/");
                }
                b')' => {
                    self.cursor.at += 1;
                    return;
                }
                byte if class(byte) == ByteClass::Letter => {
                    let start = self.cursor.at;
                    let name = self.cursor.name();
                    alias = if &self.cursor.text[start..self.cursor.at] == b"_" { BLANK } else { name };
                }
                byte if class(byte) == ByteClass::Blank || byte == b';' => self.cursor.at += 1,
                _ => return,
            }
        }
    }

    pub(super) fn imported(&mut self, span: Span, alias: Name, comment: Span) {
        let path =
            String::from_utf8_lossy(&self.cursor.text[span.start as usize..span.end as usize]).into_owned();
        if path == "C" {
            return self.included(comment);
        }
        self.recorder.path_with_names(span, &path, PathBase::Name, false, vec![(alias, alias)]);
    }

    /// Headers that the comment before `import "C"` includes.
    pub(super) fn included(&mut self, comment: Span) {
        let (mut at, end) = (comment.start as usize, comment.end as usize);
        while let Some(found) = memmem::find(&self.cursor.text[at..end], b"#include \"") {
            let start = at + found + 10;
            let Some(length) = memchr(b'"', &self.cursor.text[start..end]) else { return };
            let path = String::from_utf8_lossy(&self.cursor.text[start..start + length]).into_owned();
            self.recorder.path(Span::new(start, start + length), &path, PathBase::Folder, false);
            at = start + length;
        }
    }

    /// `func name(…)`, `func (receiver) name(…)`, `func(…)`.
    pub(super) fn function(&mut self, whole: usize) {
        let inside = self.in_function && self.in_signature(whole);
        self.cursor.skip_blanks();
        if inside {
            return self.function_type();
        }
        let outermost = self.blocks.is_empty();
        self.parameters.clear();
        self.in_function = true;
        if class(self.cursor.peek(0)) == ByteClass::Letter {
            let start = self.cursor.at;
            self.cursor.word();
            if outermost {
                self.declare(DeclarationKind::Function, whole, (start, self.cursor.at));
            }
        } else if outermost && self.parentheses == 0 && self.looks > 0 && self.method_follows() {
            super::signatures::receiver(&self.cursor, &mut self.type_parameters, &mut self.named_at);
            self.signature();
            // The name of a method is found by its receiver; it is passed when the receiver has been read.
            let end = super::signatures::closing(&self.cursor);
            let mut ahead = Cursor { at: end, ..self.cursor };
            ahead.skip_blanks();
            self.named_at.push(ahead.at);
            ahead.word();
            self.signature_end = super::signatures::parameters(
                &ahead,
                &mut self.type_parameters,
                &mut self.parameters,
                &mut self.named_at,
            );
            self.looks = self.looks.saturating_sub(ahead.at - self.cursor.at);
            self.sort_names();
            self.last = Last::Keyword;
            return;
        }
        self.signature();
    }

    /// Whether what begins at `start` is a part of the signature that is being read, or its result.
    fn in_signature(&self, start: usize) -> bool {
        let between = self.cursor.text.get(self.signature_end..start);
        between.is_none_or(|text| text.iter().all(|byte| matches!(byte, b' ' | b'\t')))
    }

    /// `func(bed int) int` as a type in a signature: its parameters have names that nobody uses.
    fn function_type(&mut self) {
        self.last = Last::Keyword;
        if self.looks > 0 {
            let (mut types, mut names) = (Vec::new(), Vec::new());
            let end = super::signatures::parameters(&self.cursor, &mut types, &mut names, &mut self.named_at);
            self.looks = self.looks.saturating_sub(end - self.cursor.at);
            self.signature_end = self.signature_end.max(end);
            self.sort_names();
        }
    }

    /// Whether the parentheses that begin here are those of a receiver.
    pub(super) fn method_follows(&self) -> bool {
        let mut ahead = Cursor { at: super::signatures::closing(&self.cursor), ..self.cursor };
        ahead.skip_blanks();
        if ahead.word().is_empty() {
            return false;
        }
        ahead.peek(0) == b'(' || ahead.peek(0) == b'['
    }

    pub(super) fn sort_names(&mut self) {
        self.named_at.sort_unstable_by(|a, b| b.cmp(a));
        self.named_at.dedup();
    }

    /// Notes the names of parameters and results that begin here.
    pub(super) fn signature(&mut self) {
        if self.looks > 0 {
            self.signature_end = super::signatures::parameters(
                &self.cursor,
                &mut self.type_parameters,
                &mut self.parameters,
                &mut self.named_at,
            );
            // Signatures inside of signatures are looked at again for each of them, but not without end.
            let end = super::signatures::closing(&self.cursor);
            self.looks = self.looks.saturating_sub(end - self.cursor.at);
            self.sort_names();
        }
        self.last = Last::Keyword;
    }

    /// `var a, b T = …`, `const ( … )`, `type T …`.
    pub(super) fn declarations(&mut self, word: &[u8], whole: usize) {
        self.last = Last::Keyword;
        let kind = if word == b"type" { DeclarationKind::Class } else { DeclarationKind::Constant };
        self.cursor.skip_blanks();
        if self.cursor.peek(0) != b'(' {
            return self.declared(kind, whole);
        }
        // Each name of the list begins a line; they are noted first, so that what stands between is read as code.
        let close = super::signatures::closing(&self.cursor);
        let mut ahead = Cursor { at: self.cursor.at + 1, end: close, ..self.cursor };
        while super::signatures::next_line(&mut ahead) {
            let kept = self.cursor;
            self.cursor = Cursor { at: ahead.at, ..kept };
            self.declared_names(kind, whole);
            ahead.at = self.cursor.at;
            self.cursor = kept;
            super::signatures::to_line_end(&mut ahead);
        }
        self.sort_names();
    }

    pub(super) fn declared(&mut self, kind: DeclarationKind, whole: usize) {
        let kept = self.cursor;
        self.declared_names(kind, whole);
        self.cursor = kept;
        self.sort_names();
    }

    /// A list of names, at the cursor; they are no uses.
    pub(super) fn declared_names(&mut self, kind: DeclarationKind, whole: usize) {
        loop {
            let start = self.cursor.at;
            let name = self.cursor.name();
            let end = self.cursor.at;
            if start == end {
                return;
            }
            self.named_at.push(start);
            if self.blocks.is_empty() {
                if &self.cursor.text[start..end] != b"_" {
                    self.declare(kind, whole, (start, end));
                }
            } else {
                self.locals.push(name);
            }
            if kind == DeclarationKind::Class && self.cursor.peek(0) == b'[' && self.looks > 0 {
                let end = super::signatures::closing(&self.cursor);
                self.looks = self.looks.saturating_sub(end - self.cursor.at);
                super::signatures::type_parameters(
                    &self.cursor,
                    &mut self.type_parameters,
                    &mut self.named_at,
                );
            }
            while matches!(self.cursor.peek(0), b' ' | b'\t') {
                self.cursor.at += 1;
            }
            if self.cursor.peek(0) != b',' {
                return;
            }
            self.cursor.at += 1;
            self.cursor.skip_blanks();
        }
    }
}
