//! Declarations: packages, imports, types and the heads of their members.

use super::properties::{enumerated, value_of_getter};
use super::{Frame, FrameKind, NO_DECLARATION, Reader, Word};
use crate::lexis::Kind;
use crate::values::{GivenParameters, Parenthesis, value_of};
use ferngate_model::{
    Access, ArgumentCounts, Context, Declaration, DeclarationKind, Import, ImportKind, Member, MemberKind,
    NO_TYPE, Name, Root, ScopeKind, Share, Span,
};

/// The words before a declaration.
#[derive(Clone, Copy)]
struct Modifiers {
    /// First byte, annotations included.
    start: usize,
    /// First byte behind the annotations.
    word: usize,
    access: Option<(Access, Span)>,
    is_static: bool,
}

impl Reader<'_, '_> {
    /// Reads one declaration, or its head up to where code begins.
    pub(super) fn member(&mut self) {
        self.values.forget(self.frame().locals);
        self.parameters.clear();
        let modifiers = self.modifiers();
        let frame = self.frame();
        match (self.tokens.token.kind, self.word) {
            (Kind::Mark(b'}'), _) => self.close(),
            (Kind::Mark(b'{'), _) => {
                self.push(FrameKind::Block, frame.scope, frame.declaration);
                self.advance();
            }
            (Kind::Mark(b'@'), _) => {
                self.advance(); // `@interface`
                self.type_declaration(modifiers, DeclarationKind::Interface);
            }
            (_, Word::Class) => self.type_declaration(modifiers, DeclarationKind::Class),
            (_, Word::Interface) => self.type_declaration(modifiers, DeclarationKind::Interface),
            (_, Word::Enum) => self.type_declaration(modifiers, DeclarationKind::Enum),
            (_, Word::Record) if self.begins_record() => {
                self.type_declaration(modifiers, DeclarationKind::Class)
            }
            (_, Word::Package) => self.package(),
            (_, Word::Import) => self.import(),
            (_, Word::Module | Word::Open) if frame.kind == FrameKind::File && frame.scope == 0 => {
                self.module_description()
            }
            (Kind::Mark(b'<'), _) => {
                self.type_parameters(frame.scope, None);
                self.typed_member(modifiers);
            }
            (Kind::Word, _) => self.typed_member(modifiers),
            _ => self.advance(),
        }
    }

    fn close(&mut self) {
        let frame = self.frame();
        let end = self.tokens.token.end();
        if frame.kind != FrameKind::File {
            self.recorder.close_scope(frame.scope, end);
            if let Some(declared) = self.recorder.facts().declarations.get_mut(frame.declaration as usize) {
                declared.span.end = end as u32;
            }
            self.pop();
        }
        self.advance();
    }

    fn modifiers(&mut self) -> Modifiers {
        let at = self.tokens.token.start();
        let mut modifiers = Modifiers { start: at, word: at, access: None, is_static: false };
        loop {
            let word = self.word;
            let access = match word {
                Word::Public | Word::Protected => Some(Access::Public),
                Word::Private => Some(Access::Private),
                Word::Static => {
                    modifiers.is_static = true;
                    None
                }
                Word::Modifier | Word::Default => None,
                // `sealed class`, `non-sealed class`
                Word::Sealed => {
                    self.advance();
                    while self.is(b'-') || self.word == Word::Sealed {
                        self.advance();
                    }
                    continue;
                }
                _ if self.is(b'@') && self.peek().1 != Word::Interface => {
                    let scope = self.scope();
                    self.annotation(scope);
                    modifiers.word = self.tokens.token.start();
                    continue;
                }
                _ => return modifiers,
            };
            if let Some(access) = access {
                modifiers.access = Some((access, self.tokens.token.span));
            }
            self.advance();
        }
    }

    fn begins_record(&mut self) -> bool {
        let (cursor, token) = (self.tokens.cursor, self.tokens.token);
        self.tokens.advance();
        let next = self.tokens.token;
        let after = self.tokens.peek();
        (self.tokens.cursor, self.tokens.token) = (cursor, token);
        next.is_word() && !self.words.get(&next).reserved() && (after.is(b'(') || after.is(b'<'))
    }

    fn package(&mut self) {
        let start = self.tokens.token.start();
        self.advance();
        if !self.is_name() {
            return;
        }
        let name_start = self.tokens.token.start();
        let chain = self.chain(0, true);
        let name =
            Span::new(name_start, chain.links().last().map_or(name_start, |link| link.span.end as usize));
        let parts = chain.links().iter().map(|link| {
            let text = link.span.text(self.text);
            self.recorder.facts().texts.add(&text)
        });
        let kind = ScopeKind::Namespace { path: parts.collect(), name, to_end: true };
        let scope = self.recorder.open_scope(0, kind, start);
        self.recorder.close_scope(scope, self.text.len());
        self.recorder.rescope(0, scope); // annotations of the package
        self.push(FrameKind::File, scope, NO_DECLARATION);
        if self.is(b';') {
            self.advance();
        }
    }

    fn import(&mut self) {
        let (start, scope) = (self.tokens.token.start(), self.scope());
        self.advance();
        let is_static = self.word == Word::Static;
        if is_static {
            self.advance();
        }
        if !self.is_name() {
            return;
        }
        let target_start = self.tokens.token.start();
        let chain = self.chain(scope, true);
        let mut links = chain.links();
        let Some(last) = links.last() else { return };
        let target_end = last.span.end as usize;
        let star = self.is(b'.');
        while !matches!(self.tokens.token.kind, Kind::Mark(b';' | b'}') | Kind::End)
            && self.word != Word::Import
        {
            self.advance();
        }
        let kind = match (is_static, star) {
            (false, true) => ImportKind::Namespace,
            (false, false) => ImportKind::Alias(last.name),
            (true, true) => ImportKind::Static,
            (true, false) => {
                links = &links[..links.len() - 1];
                ImportKind::Member(last.name)
            }
        };
        let end = if self.is(b';') { self.tokens.token.end() } else { target_end };
        if let Some(target) = self.recorder.chain(Root::Scope(0), links, Context::Import, false) {
            let target_span = Span::new(target_start, target_end);
            let text = target_span.text(self.text).into();
            let span = Span::new(start, end);
            self.recorder.import(Import::of_file(kind, scope, target, span, target_span, text));
        }
    }

    /// Reads `module name { … }`: services and their providers are used.
    fn module_description(&mut self) {
        while !matches!(self.tokens.token.kind, Kind::Mark(b'{' | b';') | Kind::End) {
            self.advance();
        }
        let naming = [Name::new(b"uses"), Name::new(b"provides")];
        while !matches!(self.tokens.token.kind, Kind::Mark(b'}') | Kind::End) {
            self.advance();
            let names_types = self.tokens.token.is_word() && naming.contains(&self.tokens.token.name);
            while !matches!(self.tokens.token.kind, Kind::Mark(b';' | b'}') | Kind::End) {
                self.advance();
                if names_types && self.is_name() {
                    let chain = self.chain(0, true);
                    self.recorder.chain(Root::Scope(0), chain.links(), Context::Type, false);
                }
            }
        }
    }

    fn type_declaration(&mut self, modifiers: Modifiers, kind: DeclarationKind) {
        self.advance();
        let frame = self.frame();
        if !self.is_name() || self.recorder.is_deepest(frame.scope) {
            return;
        }
        let (name, name_span) = (self.tokens.token.name, self.tokens.token.span);
        let text = name_span.text(self.text);
        self.recorder.facts().texts.add(&text);
        self.advance();
        let in_type = frame.kind == FrameKind::Members;
        let access_span =
            modifiers.access.map_or(Span::new(modifiers.word, modifiers.word), |(_, span)| span);
        let access = self.access(&modifiers, frame.declaration);
        let declaration = self.recorder.declare(Declaration {
            name,
            arity: 0,
            kind,
            access: if in_type || frame.kind == FrameKind::File { access } else { Access::Private },
            share: Share::Whole,
            is_static: modifiers.is_static,
            scope: frame.scope,
            body: u32::MAX,
            name_span,
            span: Span::new(modifiers.start, self.tokens.token.end()),
            access_span,
        });
        let body = self.open_type(frame.scope, declaration, modifiers.start);
        if self.is(b'<') {
            self.type_parameters(body, Some(declaration));
        }
        if self.is(b'(') {
            self.parameter_list(body, Some(declaration));
        }
        self.recorder.begin_head(declaration, body);
        self.base_lists(frame, declaration);
        self.recorder.end_head();
        if self.is(b'{') {
            let is_enum = kind == DeclarationKind::Enum;
            if is_enum {
                enumerated(self.recorder, declaration);
            }
            self.push(if is_enum { FrameKind::Constants } else { FrameKind::Members }, body, declaration);
            self.advance();
        }
    }

    /// Opens the inside of `declaration`.
    pub(super) fn open_type(&mut self, scope: u32, declaration: u32, start: usize) -> u32 {
        let body = self.recorder.open_scope(scope, ScopeKind::Type { declaration }, start);
        if let Some(declared) = self.recorder.facts().declarations.get_mut(declaration as usize) {
            declared.body = body;
        }
        body
    }

    /// Reads `extends …`, `implements …` and `permits …`.
    fn base_lists(&mut self, frame: Frame, declaration: u32) {
        while matches!(self.word, Word::Extends | Word::Implements | Word::Permits) {
            let is_base = self.word != Word::Permits;
            loop {
                self.advance();
                let node = self.type_reference(frame.scope);
                if let (true, Some(node)) = (is_base, node) {
                    self.recorder.facts().bases.push((declaration, node));
                    let base_type = self.spelled(Some(node));
                    self.recorder.facts().base_types.push((declaration, base_type));
                }
                if !self.is(b',') {
                    break;
                }
            }
        }
    }

    /// Reads a field, a method or a constructor from its type.
    fn typed_member(&mut self, modifiers: Modifiers) {
        let frame = self.frame();
        let owner = frame.declaration;
        if self.is_name() {
            let next = self.peek().0;
            if next.is(b'(') {
                self.advance();
                let arguments = self.after_parameters(frame);
                if owner != NO_DECLARATION {
                    let parameters = self.recorder.parameters(&self.parameter_types);
                    let access = self.access(&modifiers, owner);
                    let constructor = Member::public(owner, Name::NEW, MemberKind::Method, NO_TYPE);
                    self.recorder.member(Member { arguments, parameters, access, ..constructor });
                }
                return;
            }
            if next.is(b'{') {
                self.advance(); // a record's constructor without parameters
                self.push(FrameKind::Block, frame.scope, owner);
                return self.advance();
            }
        }
        // What a method with parameters of its own gives, its caller decides.
        self.bound_arguments = GivenParameters::default();
        let node = self.type_reference(frame.scope);
        let (bound, among) = (self.bound, self.bound_arguments);
        let node = node.filter(|_| bound.is_none());
        let value_type = self.spelled(node);
        if !self.is_name() {
            return;
        }
        let (name, name_span) = (self.tokens.token.name, self.tokens.token.span);
        self.advance();
        let kind = match modifiers.is_static {
            _ if self.is(b'(') => MemberKind::Method,
            true => MemberKind::Static,
            false => MemberKind::Value,
        };
        // What is assigned to a field may be a function.
        self.values.value = value_of(value_type);
        let member = (owner != NO_DECLARATION).then(|| {
            let access = self.access(&modifiers, owner);
            self.recorder.member(Member { access, ..Member::public(owner, name, kind, value_type) });
            self.recorder.facts().members.len() - 1
        });
        if kind == MemberKind::Method {
            let arguments = self.after_parameters(frame);
            self.values.gives(value_of(value_type));
            let parameters = self.recorder.parameters(&self.parameter_types);
            let told = match bound {
                Some(bound) => self.told.stand_in(bound),
                None => self.told.within(self.recorder, value_type, &among),
            };
            if let Some(member) = member.and_then(|at| self.recorder.facts().members.get_mut(at)) {
                (member.arguments, member.parameters) = (arguments, parameters);
                member.value_type = told.unwrap_or(member.value_type);
                let member = *member;
                let got = value_of_getter(name_span.of(self.text));
                if let Some(value) =
                    got.filter(|_| arguments == ArgumentCounts::of(0) && !modifiers.is_static)
                {
                    self.recorder.member(Member {
                        name: value.property(),
                        kind: MemberKind::Value,
                        ..member
                    });
                }
                // A function that stands for the interface is called by the method that it must have.
                let has_body = self.frame().kind == FrameKind::Block;
                if parameters.count > 0 && !has_body && !modifiers.is_static && self.is_interface(owner) {
                    self.recorder.member(Member { name: Name::CALL, ..member });
                }
            }
            return;
        }
        self.push(FrameKind::Statement, frame.scope, owner);
        self.declares_more(value_of(value_type), member);
    }

    /// Who may use what is declared inside of `owner`.
    fn access(&mut self, modifiers: &Modifiers, owner: u32) -> Access {
        match modifiers.access {
            Some((access, _)) => access,
            None if self.is_interface(owner) => Access::Public,
            None => Access::Namespace,
        }
    }

    fn is_interface(&mut self, owner: u32) -> bool {
        let declared = self.recorder.facts().declarations.get(owner as usize);
        declared.is_some_and(|declared| declared.kind == DeclarationKind::Interface)
    }

    fn after_parameters(&mut self, frame: Frame) -> ArgumentCounts {
        let arguments = self.parameter_list(frame.scope, None);
        while self.is(b'[') || self.is(b']') {
            self.advance();
        }
        if self.word == Word::Throws {
            self.throws(frame.scope);
        }
        let kind = if self.is(b'{') { FrameKind::Block } else { FrameKind::Statement };
        self.push(kind, frame.scope, frame.declaration);
        if kind == FrameKind::Block {
            self.advance();
        }
        arguments
    }

    pub(super) fn throws(&mut self, scope: u32) {
        loop {
            self.advance();
            self.type_reference(scope);
            if !self.is(b',') {
                return;
            }
        }
    }

    /// Reads one constant of an enumeration, or what ends their list.
    pub(super) fn constant(&mut self) {
        self.values.forget(self.frame().locals);
        let frame = self.frame();
        match self.tokens.token.kind {
            Kind::Mark(b'}') => self.close(),
            Kind::Mark(b';') => {
                if let Some(frame) = self.frames.last_mut() {
                    frame.kind = FrameKind::Members;
                }
                self.advance();
            }
            Kind::Mark(b'@') => self.annotation(frame.scope),
            Kind::Mark(b'(') => {
                self.push(FrameKind::Arguments, frame.scope, frame.declaration);
                self.values.parentheses.push(Parenthesis::with(None));
                self.advance();
            }
            Kind::Mark(b'{') => self.anonymous_body(None),
            Kind::Word if self.is_name() => {
                let name = self.tokens.token.name;
                let (kind, value_type) = (MemberKind::Static, NO_TYPE);
                self.recorder.member(Member::public(frame.declaration, name, kind, value_type));
                self.advance();
            }
            _ => self.advance(),
        }
    }

    /// Opens the body of a class without a name; the current token is its brace.
    pub(super) fn anonymous_body(&mut self, base: Option<u32>) {
        let frame = self.frame();
        if self.recorder.is_deepest(frame.scope) {
            self.push(FrameKind::Block, frame.scope, frame.declaration);
            return self.advance();
        }
        let at = self.tokens.token.span;
        self.anonymous += 1;
        let declaration = self.recorder.declare(Declaration {
            name: Name::new(format!("{{anonymous {}}}", self.anonymous).as_bytes()),
            arity: 0,
            kind: DeclarationKind::Anonymous,
            access: Access::Private,
            share: Share::Whole,
            is_static: false,
            scope: frame.scope,
            body: u32::MAX,
            name_span: at,
            span: at,
            access_span: Span::new(at.start as usize, at.start as usize),
        });
        if let Some(base) = base {
            self.recorder.facts().bases.push((declaration, base));
        }
        let body = self.open_type(frame.scope, declaration, at.start as usize);
        self.push(FrameKind::Members, body, declaration);
        self.advance();
    }

    /// A type that is declared among statements.
    pub(super) fn local_type(&mut self) {
        let start = self.tokens.token.start();
        let modifiers = Modifiers { start, word: start, access: None, is_static: false };
        let kind = match self.word {
            Word::Interface => DeclarationKind::Interface,
            Word::Enum => DeclarationKind::Enum,
            _ => DeclarationKind::Class,
        };
        self.type_declaration(modifiers, kind);
    }

    /// Whether a record is declared here, among statements.
    pub(super) fn begins_local_record(&mut self) -> bool {
        self.word == Word::Record && self.begins_record()
    }
}
