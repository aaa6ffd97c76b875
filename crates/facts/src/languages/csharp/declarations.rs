//! Declared types: classes, records, structs, interfaces, enumerations, delegates.

use super::heads::Modifiers;
use super::tokens::{Kind, Word};
use super::values::INVOKE;
use super::{FrameKind, Reader};
use ferngate_model::{
    Access, ArgumentCounts, Declaration, DeclarationKind, Member, MemberKind, NO_TYPE, Name, ScopeKind,
    Share, Span,
};

impl Reader<'_, '_> {
    pub(super) fn begins_record(&mut self) -> bool {
        let (next, after) = self.peek_two();
        matches!(next.word, Word::Class | Word::Struct)
            || next.is_identifier() && matches!(after.kind, Kind::Mark(b'(' | b'{' | b'<' | b':' | b';'))
    }

    pub(super) fn type_declaration(&mut self, modifiers: Modifiers) {
        let kind = match self.lexer.token.word {
            Word::Struct => DeclarationKind::Struct,
            Word::Interface => DeclarationKind::Interface,
            Word::Enum => DeclarationKind::Enum,
            _ => DeclarationKind::Class,
        };
        let is_record = self.lexer.token.word == Word::Record;
        self.advance();
        if is_record && matches!(self.lexer.token.word, Word::Class | Word::Struct) {
            self.advance();
        }
        let frame = self.frame();
        if !self.lexer.token.is_identifier() || self.recorder.is_deepest(frame.scope) {
            return;
        }
        let (name, name_span) = (self.lexer.token.name, self.lexer.token.span());
        self.values.forget(0);
        self.advance();
        let arity = if self.lexer.token.is(b'<') { self.type_arguments(frame.scope, true) } else { 0 };
        let declaration = self.declare(modifiers, kind, name, name_span, arity);
        let body = self.recorder.open_scope(frame.scope, ScopeKind::Type { declaration }, modifiers.start);
        if let Some(declared) = self.recorder.facts().declarations.get_mut(declaration as usize) {
            declared.body = body;
        }
        self.type_parameters(declaration);
        self.recorder.begin_head(declaration, body);
        if self.lexer.token.is(b'(') {
            let access = if is_record { Access::Public } else { Access::Private };
            self.parameters(body, Some((declaration, access)));
            if is_record {
                self.taken_apart(declaration);
            }
        }
        // Of two, each stands between lines that may leave it out.
        while self.lexer.token.is(b':') {
            self.base_list(frame.scope, declaration);
        }
        self.constraints(body, Some(declaration));
        self.recorder.end_head();
        self.recorder.close_scope(body, self.lexer.token.end());
        if self.lexer.token.is(b'{') {
            let kind = if kind == DeclarationKind::Enum { FrameKind::Enum } else { FrameKind::Type };
            self.push(kind, body, declaration);
            self.advance();
        } else if self.lexer.token.is(b';') {
            if let Some(declared) = self.recorder.facts().declarations.get_mut(declaration as usize) {
                declared.span.end = self.lexer.token.end() as u32;
            }
            self.advance();
        }
    }

    /// A record gives its parameters as parts: `var (bed, label) = pair`.
    fn taken_apart(&mut self, record: u32) {
        let parameters = self.recorder.parameters(&self.parameter_types);
        let arguments = ArgumentCounts::of(self.parameter_types.len());
        let name = Name::new(b"Deconstruct");
        let member = Member::public(record, name, MemberKind::Method, NO_TYPE);
        self.recorder.member(Member { parameters, arguments, ..member });
    }

    fn declare(
        &mut self,
        modifiers: Modifiers,
        kind: DeclarationKind,
        name: Name,
        span: Span,
        arity: u8,
    ) -> u32 {
        let frame = self.frame();
        let nested = frame.kind == FrameKind::Type;
        let text = span.text(self.text);
        self.recorder.facts().texts.add(&text);
        self.has_parts |= modifiers.partial;
        let default = if nested { Access::Private } else { Access::Internal };
        let (access, access_span) =
            modifiers.access.unwrap_or((default, Span::new(modifiers.word, modifiers.word)));
        self.recorder.declare(Declaration {
            name,
            arity,
            kind,
            access,
            share: if modifiers.partial { Share::Part } else { Share::Whole },
            is_static: modifiers.is_static,
            scope: frame.scope,
            body: u32::MAX,
            name_span: span,
            span: Span::new(modifiers.start, self.lexer.token.end()),
            access_span,
        })
    }

    fn base_list(&mut self, scope: u32, declaration: u32) {
        self.advance();
        loop {
            let node = self.type_reference(scope);
            if let Some(node) = node {
                self.recorder.facts().bases.push((declaration, node));
            }
            let given = std::mem::take(&mut self.given).of(node);
            if given.argument != NO_TYPE {
                let base_type = self.recorder.spelled_type(given);
                self.recorder.facts().base_types.push((declaration, base_type));
            }
            if self.lexer.token.is(b'(') {
                self.parentheses(scope);
            }
            // Without a comma the next one stands in another branch of an `#if`.
            if self.lexer.token.is(b',') {
                self.advance();
            } else if !self.lexer.token.is_identifier() || self.lexer.token.word == Word::Where {
                return;
            }
        }
    }

    pub(super) fn delegate(&mut self, modifiers: Modifiers) {
        self.advance();
        let scope = self.scope();
        self.signature.clear();
        let result = self.value_type(scope);
        if !self.lexer.token.is_identifier() {
            return;
        }
        let (name, span) = (self.lexer.token.name, self.lexer.token.span());
        self.values.forget(0);
        self.advance();
        let arity = if self.lexer.token.is(b'<') { self.type_arguments(scope, true) } else { 0 };
        self.hide_parameters();
        let declaration = self.declare(modifiers, DeclarationKind::Delegate, name, span, arity);
        let body = self.recorder.open_scope(scope, ScopeKind::Type { declaration }, modifiers.start);
        self.type_parameters(declaration);
        self.recorder.begin_head(declaration, body);
        self.parameter_types.clear();
        if self.lexer.token.is(b'(') {
            self.parameters(body, None);
        }
        let parameters = self.recorder.parameters(&self.parameter_types);
        let call = Member::public(declaration, Name::new(INVOKE), MemberKind::Method, result);
        let call = Member { parameters, ..call };
        self.recorder.member_with_signature(call, &self.signature);
        // Mostly it is called without that name.
        self.recorder.member(Member { name: Name::CALL, ..call });
        self.constraints(body, Some(declaration));
        self.recorder.end_head();
        self.recorder.close_scope(body, self.lexer.token.end());
        let end = self.lexer.token.end() as u32;
        if let Some(declared) = self.recorder.facts().declarations.get_mut(declaration as usize) {
            declared.span.end = end;
            declared.body = body;
        }
        if self.lexer.token.is(b';') {
            self.advance();
        }
    }

    /// Reads one name of an enumeration.
    pub(super) fn enum_member(&mut self) {
        let frame = self.frame();
        match self.lexer.token.kind {
            Kind::Mark(b'}') => self.close(),
            Kind::Mark(b'[') => self.attributes(frame.scope),
            Kind::Identifier => {
                let (owner, name) = (frame.declaration, self.lexer.token.name);
                self.recorder.member(Member::public(owner, name, MemberKind::Static, NO_TYPE));
                self.advance();
                if self.lexer.token.is(b'=') {
                    self.expression(frame.scope, b'}');
                }
            }
            _ => self.advance(),
        }
    }
}
