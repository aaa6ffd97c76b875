//! Declarations: packages, imports, classes, objects, functions, properties, type aliases.

use super::types::ReadType;
use super::{Chain, DEEPEST, FrameKind, NO_DECLARATION, Reader, Word};
use crate::languages::java::enumerated;
use crate::lexis::{Kind, Token};
use crate::values::{PARTS, UNKNOWN, value_of};
use ferngate_model::{
    Access, BUILT_IN, CONSTANT, ChainLink, Context, Declaration, DeclarationKind, FIRST_GIVEN, FUNCTION,
    Import, ImportKind, Member, MemberKind, NO_TYPE, Name, OWN_TYPE, ParameterTypes, Root, ScopeKind, Span,
    UseParent,
};
use std::sync::Arc;

/// Words before a declaration are looked for in so many bytes.
const LONGEST_MODIFIERS: usize = 200;

/// Types of the language that nothing derives from.
const FINAL: [&[u8]; 9] =
    [b"Boolean", b"Byte", b"Char", b"Double", b"Float", b"Int", b"Long", b"Short", b"String"];

/// What a function or property gives, and what it takes.
#[derive(Clone, Copy)]
struct Giving {
    kind: MemberKind,
    value_type: u32,
    parameters: ParameterTypes,
}

impl Reader<'_, '_> {
    pub(super) fn package(&mut self) {
        let start = self.tokens.token.start();
        self.advance();
        if !self.is_name() {
            return;
        }
        let name_start = self.tokens.token.start();
        let chain = self.names();
        let name_end = chain.links().last().map_or(name_start, |link| link.span.end as usize);
        let path = chain.links().iter().map(|link| {
            let text = link.span.text(self.text);
            self.recorder.facts().texts.add(&text)
        });
        let name = Span::new(name_start, name_end);
        let kind = ScopeKind::Namespace { path: path.collect(), name, to_end: true };
        self.package = self.recorder.open_scope(0, kind, start);
        self.recorder.close_scope(self.package, self.text.len());
        self.recorder.rescope(0, self.package); // annotations of the file
        if let Some(file) = self.frames.first_mut() {
            file.scope = self.package;
        }
    }

    /// Reads names and dots alone.
    fn names(&mut self) -> Chain {
        let mut chain = Chain::default();
        while self.tokens.token.is_word() {
            self.link(&mut chain);
            if !self.is(b'.') {
                break;
            }
            self.advance();
        }
        chain
    }

    /// Reads `import a.b.Name`, `import a.b.Name as Other` or `import a.b.*`.
    pub(super) fn import(&mut self) {
        let (start, scope) = (self.tokens.token.start(), self.scope());
        self.advance();
        if !self.is_name() {
            return;
        }
        let target_start = self.tokens.token.start();
        let chain = self.names();
        let links = chain.links();
        let Some(last) = links.last().copied() else { return };
        let mut end = last.span.end as usize;
        let target_span = Span::new(target_start, end);
        let mut name = last.name;
        let star = self.is(b'*');
        if star {
            end = self.tokens.token.end();
            self.advance();
        } else if self.word == Word::As {
            self.advance();
            (name, end) = (self.tokens.token.name, self.tokens.token.end());
            self.advance();
        }
        let span = Span::new(start, end);
        let text: Arc<str> = target_span.text(self.text).into();
        let before = &links[..links.len() - 1];
        let above = self.recorder.chain(Root::Scope(0), before, Context::Import, false);
        let parent = above.map_or(UseParent::root(Root::Scope(0)), UseParent::node);
        // The name alone does not tell a class from a function or a property.
        let mut means =
            |arity| self.recorder.used(parent, ChainLink { arity, ..last }, Context::Import, false);
        let imports = if star {
            let target = means(0);
            [Some((ImportKind::Namespace, target)), Some((ImportKind::Static, target)), None, None]
        } else {
            let alias = |target| Some((ImportKind::Alias(name), target));
            let member = above.map(|above| (ImportKind::Member(last.name), above));
            [alias(means(0)), alias(means(FUNCTION)), alias(means(CONSTANT)), member]
        };
        for (kind, target) in imports.into_iter().flatten() {
            self.recorder.import(Import::of_file(kind, scope, target, span, target_span, text.clone()));
        }
    }

    /// Who may see what is declared here, by the words just before; `start` is where the declaration's word stands.
    fn access_before(&self, start: usize) -> Access {
        match () {
            () if self.has_before(start, b"private") => Access::Private,
            () if self.has_before(start, b"internal") => Access::Internal,
            () => Access::Public,
        }
    }

    /// Whether `word` stands before `start` on its line.
    fn has_before(&self, start: usize, word: &[u8]) -> bool {
        let line = &self.text[start.saturating_sub(LONGEST_MODIFIERS)..start];
        let line = &line[memchr::memrchr(b'\n', line).map_or(0, |at| at + 1)..];
        line.split(|byte| !byte.is_ascii_alphabetic()).any(|part| part == word)
    }

    fn declare(&mut self, token: &Token, kind: DeclarationKind, arity: u8, start: usize) -> u32 {
        let text = token.span.text(self.text);
        self.recorder.facts().texts.add(&text);
        let mut declared = Declaration::public(token.name, kind, arity, self.scope(), token.span, token.span);
        declared.access = self.access_before(start);
        declared.span = Span::new(start, token.end());
        self.recorder.declare(declared)
    }

    /// Reads `class Name<T>(val taxon: Taxon) : Base(taxon), Named by taxon where T : Any`, up to its brace.
    pub(super) fn class(&mut self, is_enum: bool) {
        let start = self.tokens.token.start();
        let kind = match self.word {
            Word::Interface => DeclarationKind::Interface,
            _ if is_enum => DeclarationKind::Enum,
            _ => DeclarationKind::Class,
        };
        let is_object = self.word == Word::Object;
        let companion = self.before.1 == Word::Companion;
        let is_data = self.before.1 == Word::Modifier && self.has_before(start, b"data");
        self.advance();
        if self.recorder.is_deepest(self.scope()) {
            return;
        }
        let declared = if self.is_name() && !(is_object && self.word == Word::By) {
            let name = self.tokens.token;
            self.advance();
            self.declare(&name, kind, 0, start)
        } else if companion {
            self.named_companion(start)
        } else if is_object {
            self.unnamed(start)
        } else {
            return;
        };
        let body = self.recorder.open_scope(self.scope(), ScopeKind::Type { declaration: declared }, start);
        if let Some(own) = self.recorder.facts().declarations.get_mut(declared as usize) {
            own.body = body;
        }
        if self.is(b'<') {
            self.type_parameters(body, Some(declared));
        }
        while self.is(b'@') || self.word == Word::Constructor || self.is_modifier() {
            if self.is(b'@') { self.annotation() } else { self.advance() }
        }
        let around = self.sight();
        if self.is(b'(') && !is_object {
            let types = self.value_parameters(body, declared, Some(declared));
            let parameters = self.recorder.parameters(&types);
            let constructor = Member::public(declared, Name::NEW, MemberKind::Method, NO_TYPE);
            self.recorder.member(Member { parameters, ..constructor });
            if is_data {
                let copy = (Name::new(b"copy"), OWN_TYPE);
                let given = PARTS.iter().copied().zip(types).chain([copy]);
                for (name, value_type) in given {
                    self.recorder.member(Member::public(declared, name, MemberKind::Method, value_type));
                }
            }
        }
        if self.is(b':') {
            self.supertypes(declared, body);
        }
        if self.word == Word::Where {
            self.recorder.begin_head(declared, body);
            self.constraints();
            self.recorder.end_head();
        }
        self.recorder.close_scope(body, self.tokens.token.end());
        if kind == DeclarationKind::Enum {
            enumerated(self.recorder, declared);
            let entries = Member::public(declared, Name::new(b"entries"), MemberKind::Static, OWN_TYPE);
            self.recorder.member(entries);
        }
        if self.is(b'{') {
            self.push(FrameKind::Members, body, declared, kind == DeclarationKind::Enum);
            if let Some(frame) = self.frames.last_mut() {
                (frame.companion, frame.around) = (companion, around);
            }
            self.advance();
        } else {
            self.values.forget(around.locals);
        }
    }

    pub(super) fn is_modifier(&self) -> bool {
        matches!(self.word, Word::Private | Word::Internal | Word::Modifier)
    }

    fn named_companion(&mut self, start: usize) -> u32 {
        let name = self.recorder.facts().texts.add("Companion");
        let span = Span::new(start, start);
        self.recorder.declare(Declaration::public(name, DeclarationKind::Class, 0, self.scope(), span, span))
    }

    fn unnamed(&mut self, start: usize) -> u32 {
        self.anonymous += 1;
        let name = Name::new(format!("{{anonymous {}}}", self.anonymous).as_bytes());
        let span = Span::new(start, start);
        self.recorder.declare(Declaration::public(
            name,
            DeclarationKind::Anonymous,
            0,
            self.scope(),
            span,
            span,
        ))
    }

    /// Reads `: Base(…), Named by taxon`. Arguments are read as code.
    fn supertypes(&mut self, declaration: u32, body: u32) {
        let around = self.scope();
        loop {
            self.advance();
            self.recorder.begin_head(declaration, body);
            let read = self.type_reference(around);
            self.recorder.end_head();
            if let Some(node) = read.node {
                self.recorder.facts().bases.push((declaration, node));
                let base_type = self.spelled(read);
                self.recorder.facts().base_types.push((declaration, base_type));
            }
            if self.is(b'(') {
                self.parenthesized(body, declaration);
            }
            if self.word == Word::By {
                self.advance();
                // One value: a name, perhaps with arguments, or an object.
                self.depth += 1;
                if self.depth < DEEPEST {
                    self.code_token();
                }
                self.depth -= 1;
                if self.is(b'(') {
                    self.parenthesized(body, declaration);
                }
            }
            if !self.is(b',') {
                return;
            }
        }
    }

    /// Reads `(…)` as code.
    fn parenthesized(&mut self, scope: u32, declaration: u32) {
        self.push(FrameKind::Block, scope, declaration, false);
        let frames = self.frames.len();
        self.code_token();
        while self.tokens.token.kind != Kind::End
            && self.frames.len() >= frames
            && !(self.frames.len() == frames && self.frame().depth == 0)
        {
            self.code_token();
        }
        self.frames.truncate(frames - 1);
    }

    /// Reads `fun <T> Receiver.name(parameters): Type`, with the brace or equals sign before its body.
    pub(super) fn function(&mut self) {
        let start = self.tokens.token.start();
        let frame = self.frame();
        self.advance();
        if self.word == Word::Interface {
            return self.class(false);
        }
        if frame.kind != FrameKind::Block {
            self.begin_member();
        }
        let around = self.sight();
        if self.is(b'<') {
            self.type_parameters(frame.scope, None);
        }
        (self.hidden, self.first_hidden) = (None, None);
        let Some((name, receiver)) = self.receiver_and_name() else { return };
        self.first_hidden = self.hidden;
        self.values.initial &= frame.kind == FrameKind::Block;
        let local = (frame.kind == FrameKind::Block && receiver.is_none()).then(|| {
            self.values.local(name.name, UNKNOWN);
            self.values.last_is_function();
            self.values.locals() - 1
        });
        let around = local.map_or(around, |_| self.sight());
        let declared = (frame.kind == FrameKind::File)
            .then(|| self.declare(&name, DeclarationKind::Function, FUNCTION, start));
        let mut types: Vec<u32> = receiver.into_iter().collect();
        if self.is(b'(') {
            types.extend(self.value_parameters(frame.scope, frame.declaration, None));
        }
        let mut value_type = NO_TYPE;
        if self.is(b':') {
            self.advance();
            value_type = self.value_type(frame.scope);
            if value_type == NO_TYPE && receiver.is_none() && self.is_first_given() {
                value_type = FIRST_GIVEN;
            }
        }
        if self.word == Word::Where {
            self.constraints();
        }
        let members = self.recorder.facts().members.len();
        let parameters = self.recorder.parameters(&types);
        let give = Giving { kind: MemberKind::Method, value_type, parameters };
        self.give(&name, declared, receiver.is_some(), give);
        self.give_by_operator(&name, give, start);
        if types.is_empty() && self.has_before(start, b"override") {
            self.getter(name.span, value_type);
        }
        self.receives(receiver);
        if let Some(local) = local {
            self.values.set_local(local, value_of(value_type));
        }
        if self.is(b'=') && value_type == NO_TYPE {
            match local {
                Some(local) => self.values.decide(local),
                None => self.decide_members(members),
            }
        } else if self.is(b'{') {
            self.push(FrameKind::Block, frame.scope, frame.declaration, false);
            if let Some(body) = self.frames.last_mut() {
                body.around = around;
            }
            self.advance();
        }
    }

    /// Reads `constructor(bed: Bed)`; what it hands on to another one is read as code.
    pub(super) fn secondary_constructor(&mut self) {
        let frame = self.frame();
        self.advance();
        self.begin_member();
        let types = self.value_parameters(frame.scope, frame.declaration, None);
        let parameters = self.recorder.parameters(&types);
        let constructor = Member::public(frame.declaration, Name::NEW, MemberKind::Method, NO_TYPE);
        self.recorder.member(Member { parameters, ..constructor });
    }

    /// Notes what a function gives that is called without its name: `beds[2]`, `price(bed)`.
    fn give_by_operator(&mut self, name: &Token, giving: Giving, start: usize) {
        let by = match name.span.of(self.text) {
            b"get" => Name::ELEMENT,
            b"invoke" => Name::CALL,
            _ => return,
        };
        let frame = self.frame();
        if frame.kind == FrameKind::Members && self.has_before(start, b"operator") {
            let Giving { kind, value_type, parameters } = giving;
            let member = Member::public(frame.declaration, by, kind, value_type);
            self.recorder.member(Member { parameters, ..member });
        }
    }

    /// Notes what the function or property `name` gives, as a member of the class around or of what is `declared`.
    fn give(&mut self, name: &Token, declared: Option<u32>, extends: bool, giving: Giving) {
        let frame = self.frame();
        let Giving { kind, value_type, parameters } = giving;
        if let Some(declared) = declared {
            self.has_facade = true;
            let parameters = parameters.behind_first(extends);
            self.recorder
                .member(Member { parameters, ..Member::public(declared, Name::NEW, kind, value_type) });
            if extends {
                self.extension(declared, name, giving);
            }
        } else if frame.kind == FrameKind::Members && !extends && frame.declaration != NO_DECLARATION {
            let member = Member::public(frame.declaration, name.name, kind, value_type);
            self.recorder.member(Member { parameters, ..member });
            if kind == MemberKind::Value {
                self.accessors(name.span, frame.declaration, value_type);
            }
            // What a companion has is used as if the class around had it.
            let outer = self.frames.len().checked_sub(2).map(|at| self.frames[at].declaration);
            if let Some(outer) = outer.filter(|outer| frame.companion && *outer != NO_DECLARATION) {
                let kind = if kind == MemberKind::Value { MemberKind::Static } else { kind };
                self.recorder
                    .member(Member { parameters, ..Member::public(outer, name.name, kind, value_type) });
            }
        }
    }

    /// Reads `Receiver<T>?.name`; the name, and the type of the receiver if one stands before it.
    fn receiver_and_name(&mut self) -> Option<(Token, Option<u32>)> {
        let scope = self.scope();
        while self.is(b'@') {
            self.annotation();
        }
        let mut receiver = None;
        if self.is(b'(') {
            // `fun ((Taxon) -> Bed).plant()`; without a dot behind the parenthesis the function has no name.
            if !self.dot_behind_parenthesis() {
                return None;
            }
            receiver = Some(self.value_type(scope));
            while self.is(b'?') || self.is(b'.') {
                self.advance();
            }
        }
        let mut chain = Chain::default();
        let (mut last, mut given) = (None, None);
        while self.tokens.token.is_word() {
            last = Some(self.tokens.token);
            self.link(&mut chain);
            if self.is(b'<') {
                given = Some(self.type_arguments(scope));
            }
            while self.is(b'?') {
                self.advance();
            }
            if !self.is(b'.') {
                break;
            }
            self.advance();
        }
        let last = last?;
        if chain.links().len() > 1 {
            chain.links.pop();
            let node = self.record_type(&chain, scope);
            let is_final = chain.links().len() == 1 && FINAL.contains(&chain.links()[0].span.of(self.text));
            receiver = Some(match given {
                _ if is_final => BUILT_IN,
                Some(given) => self.spelled(ReadType { node, ..given }),
                None => self.recorder.value_type(node, None),
            });
        }
        Some((last, receiver))
    }

    /// Whether a dot follows the parenthesis that closes the one here.
    fn dot_behind_parenthesis(&self) -> bool {
        let mut cursor = self.tokens.cursor;
        let mut depth = 1usize;
        while depth > 0 {
            match cursor.peek(0) {
                b'(' => depth += 1,
                b')' => depth -= 1,
                0 | b'{' | b'}' | b';' | b'=' => return false,
                _ => {}
            }
            cursor.at += 1;
        }
        cursor.peek(0) == b'.' || cursor.peek(0) == b'?' && cursor.peek(1) == b'.'
    }

    /// Reads `val Receiver.name: Type`, or the names of `val (a, b)`, up to the value.
    pub(super) fn property(&mut self) {
        let start = self.tokens.token.start();
        let frame = self.frame();
        let is_local = frame.kind == FrameKind::Block || frame.depth > 0;
        self.advance();
        if !is_local {
            self.begin_member();
        }
        if self.is(b'<') {
            self.type_parameters(frame.scope, None);
        }
        if is_local && self.is(b'(') {
            return self.parts(false);
        }
        let Some((name, receiver)) = self.receiver_and_name() else { return };
        let mut value_type = NO_TYPE;
        let typed = self.is(b':');
        if typed {
            self.advance();
            value_type = self.value_type(frame.scope);
        }
        if is_local {
            if typed {
                self.values.local(name.name, value_of(value_type));
            } else {
                self.values.untyped(name.name, false);
                if self.is(b'=') && self.peek().0.is(b'{') {
                    // `val width = { bed: Bed -> bed.width }`
                    self.values.last_is_function();
                }
            }
            if self.values.parentheses.last().is_some_and(|parenthesis| parenthesis.switches) {
                self.declared_subject = Some(name.name);
            }
            return;
        }
        let declared = (frame.kind == FrameKind::File)
            .then(|| self.declare(&name, DeclarationKind::Constant, CONSTANT, start));
        let parameters = self.recorder.parameters(receiver.as_slice());
        let members = self.recorder.facts().members.len();
        let giving = Giving { kind: MemberKind::Value, value_type, parameters };
        self.give(&name, declared, receiver.is_some(), giving);
        self.receives(receiver);
        self.values.initial &= !self.text[self.tokens.token.start()..].starts_with(b"get()");
        if !typed && self.gives_by_expression() {
            // `val width get() = bed.width`
            self.advance();
            self.advance();
            self.advance();
        }
        if !typed && (self.is(b'=') || self.word == Word::By) {
            self.decide_members(members);
        }
    }

    /// Whether `get() = …` is here.
    fn gives_by_expression(&self) -> bool {
        let rest = self.text.get(self.tokens.token.start()..).unwrap_or_default();
        let behind = rest.strip_prefix(b"get()").map(|behind| behind.trim_ascii_start());
        behind.is_some_and(|behind| behind.starts_with(b"=") && !behind.starts_with(b"=="))
    }

    /// What follows needs no name for the members of the type that is extended.
    fn receives(&mut self, receiver: Option<u32>) {
        if let Some(receiver) = receiver.filter(|receiver| *receiver != BUILT_IN) {
            self.receivers.push(value_of(receiver));
        }
    }

    /// Notes that what was declared extends a type.
    fn extension(&mut self, declared: u32, name: &Token, giving: Giving) {
        let Giving { value_type, parameters, .. } = giving;
        let member = Member::public(declared, name.name, MemberKind::Extension, value_type);
        self.recorder.member(Member { parameters, ..member });
    }

    /// Reads `typealias Name<T> = Type` up to its type.
    pub(super) fn type_alias(&mut self) {
        let start = self.tokens.token.start();
        self.advance();
        if !self.is_name() {
            return;
        }
        let name = self.tokens.token;
        self.advance();
        let declared = self.declare(&name, DeclarationKind::Class, 0, start);
        let scope = self.scope();
        self.parameters.clear();
        if self.is(b'<') {
            self.type_parameters(scope, None);
        }
        if self.is(b'=') {
            self.advance();
            // Its members are those of what it stands for.
            let read = self.type_reference(scope);
            if let Some(node) = read.node {
                self.recorder.facts().bases.push((declared, node));
            }
            let value_type = self.spelled(read);
            self.recorder.facts().base_types.push((declared, value_type));
        }
    }
}
