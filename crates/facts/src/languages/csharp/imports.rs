//! What stands between declarations: namespaces, usings, attributes.

use super::heads::Modifiers;
use super::tokens::{Kind, Word};
use super::{Arguments, FrameKind, NO_DECLARATION, Reader, namespace_kind};
use crate::values::value_of;
use ferngate_model::{ChainLink, Context, Import, ImportKind, Span};

/// Attributes of an assembly that may stand there once only, beside those whose names begin with `Assembly`.
const ONCE: &[&[u8]] =
    &[b"CLSCompliant", b"ComVisible", b"Guid", b"NeutralResourcesLanguage", b"AllowPartiallyTrustedCallers"];

impl Reader<'_, '_> {
    pub(super) fn using(&mut self, modifiers: Modifiers) {
        let (start, scope) = (modifiers.start, self.scope());
        if self.peek().is(b'(') {
            return self.statement();
        }
        self.advance();
        let mut kind = ImportKind::Namespace;
        while matches!(self.lexer.token.word, Word::Static | Word::Modifier) {
            kind = if self.lexer.token.word == Word::Static { ImportKind::Static } else { kind };
            self.advance();
        }
        if self.lexer.token.is_identifier() && self.peek().is(b'=') {
            kind = ImportKind::Alias(self.lexer.token.name);
            self.advance();
            self.advance();
        }
        if !self.lexer.token.is_identifier() {
            return self.statement();
        }
        let target_start = self.lexer.token.start();
        let chain = self.chain(scope, Arguments::Types);
        if self.lexer.token.is_identifier() {
            return self.statement(); // `using Sensor sensor = …;`
        }
        let target_end = chain.last().map_or(target_start, |link| link.span.end as usize);
        let end = if self.lexer.token.is(b';') { self.lexer.token.end() } else { target_end };
        if let Some(target) = self.recorder.chain(chain.root(scope), chain.links(), Context::Import, false) {
            let target_span = Span::new(target_start, target_end);
            let text = target_span.text(self.text).into();
            let (global, conditional) = (modifiers.global, !self.branches.is_empty());
            let import = Import::of_file(kind, scope, target, Span::new(start, end), target_span, text);
            self.recorder.import(Import { global, conditional, ..import });
        }
        while !matches!(self.lexer.token.kind, Kind::Mark(b';') | Kind::End | Kind::Mark(b'{')) {
            self.advance();
        }
        if self.lexer.token.is(b';') {
            self.advance();
        }
    }

    /// Reads `[…]`.
    pub(super) fn attributes(&mut self, scope: u32) {
        self.advance();
        let mut of_assembly = false;
        if matches!(self.lexer.token.kind, Kind::Identifier | Kind::Keyword) && self.peek().is(b':') {
            of_assembly = self.lexer.token.span().of(self.text) == b"assembly";
            self.advance();
            self.advance();
        }
        while self.lexer.token.is_identifier() {
            let chain = self.chain(scope, Arguments::Types);
            let node = self.recorder.chain(chain.root(scope), chain.links(), Context::Attribute, false);
            if of_assembly {
                self.state_once(chain.last());
            }
            if self.lexer.token.is(b'(') {
                self.friend(chain.last());
                self.attribute_arguments(scope, node);
            }
            if !self.lexer.token.is(b',') {
                break;
            }
            self.advance();
        }
        while !matches!(self.lexer.token.kind, Kind::Mark(b']' | b';' | b'{') | Kind::End) {
            self.advance();
        }
        if self.lexer.token.is(b']') {
            self.advance();
        }
    }

    /// Reads `(name, Length = 3)` behind the name of an attribute, whose members are given values there.
    fn attribute_arguments(&mut self, scope: u32, attribute: Option<u32>) {
        let rest = &self.text[self.lexer.token.end()..];
        let assigns = memchr::memchr2(b'=', b'\n', rest).is_some_and(|found| rest[found] == b'=');
        if assigns {
            let made = value_of(self.recorder.value_type(attribute, None));
            self.braces.initialize((self.frames.len() + 1, 0), made);
        }
        self.parentheses(scope);
        if assigns {
            self.braces.forget_initialized();
        }
    }

    /// Notes an attribute of the assembly, if the framework lets it stand there once only.
    fn state_once(&mut self, attribute: Option<ChainLink>) {
        let name = attribute.map_or(&[][..], |link| link.span.of(self.text));
        let name = name.strip_suffix(b"Attribute").unwrap_or(name);
        let known = name.starts_with(b"Assembly") && name != b"AssemblyMetadata" || ONCE.contains(&name);
        if let Some(name) = std::str::from_utf8(name).ok().filter(|_| known) {
            self.recorder.facts().stated_once.push(name.into());
        }
    }

    /// Notes the name in `InternalsVisibleTo("Mossgrove.Tests, PublicKey=…")`.
    pub(super) fn friend(&mut self, attribute: Option<ChainLink>) {
        let name = attribute.map_or(&[][..], |link| link.span.of(self.text));
        if !matches!(name, b"InternalsVisibleTo" | b"InternalsVisibleToAttribute") {
            return;
        }
        let text = self.peek();
        if text.kind == Kind::Literal {
            let quoted = text.span().text(self.text);
            let friend = quoted.trim_matches(['"', '@']).split(',').next().unwrap_or_default().trim();
            self.recorder.facts().friends.push(friend.into());
        }
    }

    pub(super) fn namespace(&mut self) {
        let start = self.lexer.token.start();
        self.advance();
        if !self.lexer.token.is_identifier() {
            return;
        }
        let parent = self.scope();
        let name_start = self.lexer.token.start();
        let chain = self.chain(parent, Arguments::Types);
        let name = Span::new(name_start, chain.last().map_or(name_start, |link| link.span.end as usize));
        let to_end = self.lexer.token.is(b';');
        let kind = namespace_kind(self, &chain, name, to_end);
        let scope = self.recorder.open_scope(parent, kind, start);
        if to_end {
            self.recorder.close_scope(scope, self.text.len());
        }
        if to_end || self.lexer.token.is(b'{') {
            self.push(if to_end { FrameKind::File } else { FrameKind::Namespace }, scope, NO_DECLARATION);
            self.advance();
        }
    }
}
