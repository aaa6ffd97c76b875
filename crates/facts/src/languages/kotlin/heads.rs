//! Declarations: packages, imports, classes, objects, functions, properties, type aliases.

use super::{Chain, DEEPEST, FrameKind, Reader, Word};
use crate::languages::java::enumerated;
use crate::lexis::{Kind, Token};
use crate::values::{PARTS, UNKNOWN, value_of};
use ferngate_model::{
    Access, CONSTANT, ChainLink, Context, Declaration, DeclarationKind, FUNCTION, Import, ImportKind, Member,
    MemberKind, NO_TYPE, Name, OWN_TYPE, Root, ScopeKind, Share, Span, UseParent,
};
use std::sync::Arc;

/// Words before a declaration are looked for in so many bytes.
const LONGEST_MODIFIERS: usize = 200;

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
    pub(super) fn access_before(&self, start: usize) -> Access {
        match () {
            () if self.has_before(start, b"private") => Access::Private,
            () if self.has_before(start, b"internal") => Access::Internal,
            () => Access::Public,
        }
    }

    /// What the words just before say of one name for several platforms.
    fn share_before(&self, start: usize) -> Share {
        match () {
            () if self.has_before(start, b"expect") => Share::Expected,
            () if self.has_before(start, b"actual") => Share::Actual,
            () => Share::Whole,
        }
    }

    /// Whether `word` stands before `start` on its line.
    pub(super) fn has_before(&self, start: usize, word: &[u8]) -> bool {
        let line = &self.text[start.saturating_sub(LONGEST_MODIFIERS)..start];
        let line = &line[memchr::memrchr(b'\n', line).map_or(0, |at| at + 1)..];
        line.split(|byte| !byte.is_ascii_alphabetic()).any(|part| part == word)
    }

    pub(super) fn declare(&mut self, token: &Token, kind: DeclarationKind, arity: u8, start: usize) -> u32 {
        let text = token.span.text(self.text);
        self.recorder.facts().texts.add(&text);
        let mut declared = Declaration::public(token.name, kind, arity, self.scope(), token.span, token.span);
        declared.access = self.access_before(start);
        declared.share = self.share_before(start);
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
        let mut around = self.sight();
        let own = self.recorder.facts().declarations.get(declared as usize);
        let is_value = own.is_some_and(|own| own.kind == DeclarationKind::Anonymous);
        if is_value {
            (around.paused, around.undecided) = (self.values.pause(), self.undecided.take());
        }
        self.values.initial = true;
        if self.is(b'(') && !is_object {
            let (types, _) = self.value_parameters(body, declared, Some(declared));
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
        let made = is_value.then(|| self.first_base(declared));
        if self.is(b'{') {
            self.push(FrameKind::Members, body, declared, kind == DeclarationKind::Enum);
            if let Some(frame) = self.frames.last_mut() {
                (frame.companion, frame.around, frame.made) = (companion, around, made);
            }
            self.advance();
        } else {
            self.values.resume(around.paused, around.locals);
            self.values.initial = around.initial;
            if let Some(made) = made {
                (self.undecided, self.values.value) = (around.undecided, made);
            }
        }
    }

    /// A value of the first type that `declaration` derives from.
    fn first_base(&mut self, declaration: u32) -> UseParent {
        let bases = &self.recorder.facts().base_types;
        let own = bases.iter().rev().take_while(|(of, _)| *of == declaration);
        own.last().map_or(UNKNOWN, |(_, base)| value_of(*base))
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
        let outer = self.head_frames.replace(self.frames.len());
        self.bases(declaration, body);
        self.head_frames = outer;
    }

    fn bases(&mut self, declaration: u32, body: u32) {
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
                self.delegate(declaration, body);
            }
            if !self.is(b',') {
                return;
            }
        }
    }

    /// Reads what a class is delegated to: an object, or names with dots and arguments. A brace behind them opens the class.
    fn delegate(&mut self, declaration: u32, body: u32) {
        self.depth += 1;
        let frames = self.frames.len();
        while self.depth < DEEPEST {
            self.code_token();
            // The body of an object.
            while self.frames.len() > frames && self.tokens.token.kind != Kind::End {
                self.code_token();
            }
            while self.is(b'(') {
                self.parenthesized(body, declaration);
            }
            // `row.first()!!`, `row ?: other`
            if !matches!(self.tokens.token.kind, Kind::Mark(b'.' | b'?' | b'!' | b':')) {
                break;
            }
        }
        self.depth -= 1;
    }

    /// Whether a brace that follows here opens the class whose head is being read: it is no function that is passed.
    pub(super) fn brace_opens_class(&self) -> bool {
        let closes_arguments = usize::from(self.is(b')') && self.frame().depth == 1);
        self.head_frames == self.frames.len().checked_sub(closes_arguments)
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
