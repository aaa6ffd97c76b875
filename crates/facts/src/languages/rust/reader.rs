//! One pass over the tokens: items are declared where they stand, and every path is recorded.

use super::impls::{Alias, Head, Implemented};
use super::lexer::Lexer;
use crate::lexis::{Kind, Token, Words};
use ferngate_model::{
    Access, ChainLink, Context, Declaration, DeclarationKind, FUNCTION, MACRO, Name, PathBase, Recorder,
    Root, ScopeKind, Span,
};
use std::sync::LazyLock;

/// Reads `text` into `recorder`.
pub fn read(text: &[u8], recorder: &mut Recorder) {
    let file = Frame { kind: FrameKind::Module, scope: 0, own: false };
    let mut reader = Reader {
        lexer: Lexer::new(text),
        recorder,
        frames: vec![file],
        pending: None,
        item: Item::default(),
        chain: Vec::new(),
        head: None,
        alias: None,
        implemented: Vec::new(),
        before: Kind::End,
    };
    reader.lexer.advance();
    reader.run();
}

/// What a word does.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
#[rustfmt::skip]
pub(super) enum Word {
    None,
    Use, Mod, Fn, Type, Struct, Enum, Union, Trait, Impl, Const, Static, Extern, Pub, Rules, Macro,
    /// `crate`, `self`, `super`, `Self`: a path may begin with it.
    Start,
    Other,
}

#[rustfmt::skip]
pub(super) static WORDS: LazyLock<Words<Word>> = LazyLock::new(|| {
    use Word::*;
    Words::new(&[
        ("use", Use), ("mod", Mod), ("fn", Fn), ("type", Type), ("struct", Struct), ("enum", Enum),
        ("union", Union), ("trait", Trait), ("impl", Impl), ("const", Const), ("static", Static),
        ("extern", Extern), ("pub", Pub), ("macro_rules", Rules), ("macro", Macro),
        ("crate", Start), ("self", Start), ("super", Start), ("Self", Start),
        ("as", Other), ("async", Other), ("await", Other), ("break", Other), ("continue", Other),
        ("dyn", Other), ("else", Other), ("false", Other), ("for", Other), ("if", Other), ("in", Other),
        ("let", Other), ("loop", Other), ("match", Other), ("move", Other), ("mut", Other), ("ref", Other),
        ("return", Other), ("true", Other), ("unsafe", Other), ("where", Other), ("while", Other), ("_", Other),
    ], None)
});

/// What a pair of braces holds.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum FrameKind {
    /// Items of a module.
    Module,
    /// Items of a foreign library, which stand in the module around.
    Foreign,
    /// Statements.
    Body,
    /// Associated items.
    Impl,
    /// The text that a macro writes: nothing in it is declared here.
    Template,
}

#[derive(Clone, Copy, Debug)]
pub(super) struct Frame {
    pub(super) kind: FrameKind,
    pub(super) scope: u32,
    /// The scope was opened for this frame.
    pub(super) own: bool,
}

/// What was said of the item that comes next.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Item {
    pub(super) shown: bool,
    pub(super) path: Option<Span>,
    pub(super) exported: bool,
}

pub(super) struct Reader<'t, 'r> {
    pub(super) lexer: Lexer<'t>,
    pub(super) recorder: &'r mut Recorder,
    pub(super) frames: Vec<Frame>,
    /// What the next brace opens, where an item's head has been read.
    pending: Option<(FrameKind, Option<u32>)>,
    pub(super) item: Item,
    pub(super) chain: Vec<ChainLink>,
    /// The head of an `impl` that is being read.
    pub(super) head: Option<Head>,
    /// The `type Name = …;` that is being read.
    pub(super) alias: Option<Alias>,
    /// The types of the `impl` blocks that are open.
    pub(super) implemented: Vec<Implemented>,
    /// The sort of the token before the current one.
    pub(super) before: Kind,
}

impl Reader<'_, '_> {
    pub(super) fn token(&self) -> Token {
        self.lexer.token
    }

    pub(super) fn is(&self, mark: u8) -> bool {
        self.lexer.token.is(mark)
    }

    pub(super) fn advance(&mut self) {
        self.before = self.lexer.token.kind;
        self.lexer.advance();
    }

    fn frame(&self) -> Frame {
        // The frame of the file is never closed.
        self.frames[self.frames.len() - 1]
    }

    pub(super) fn scope(&self) -> u32 {
        self.frame().scope
    }

    pub(super) fn text(&self, span: Span) -> String {
        let text = &self.lexer.cursor.text[span.start as usize..span.end as usize];
        String::from_utf8_lossy(text).into_owned()
    }

    fn run(&mut self) {
        while self.lexer.token.kind != Kind::End {
            match self.lexer.token.kind {
                Kind::Word => match WORDS.get(&self.lexer.token) {
                    Word::None | Word::Start => self.path(),
                    Word::Other => {
                        self.in_head();
                        self.advance();
                    }
                    word => self.item_word(word),
                },
                Kind::Mark(b'#') => self.attribute(),
                Kind::Mark(b'{') => self.open(),
                Kind::Mark(b'}') => self.close(),
                Kind::Mark(b';') => {
                    self.pending = None;
                    (self.head, self.alias) = (None, None);
                    self.item = Item::default();
                    self.advance();
                }
                Kind::Mark(b'.') => self.after_dot(),
                Kind::Mark(b'$') => self.variable(),
                Kind::Mark(b':') if self.lexer.cursor.peek(0) == b':' => self.colons(),
                _ => {
                    self.in_head();
                    self.advance();
                }
            }
        }
        let end = self.lexer.cursor.end;
        while self.frames.len() > 1 {
            self.pop(end);
        }
    }

    /// A field or method; `1..name` and `..name` are no such thing.
    fn after_dot(&mut self) {
        self.advance();
        if self.is(b'.') {
            self.advance();
            if self.is(b'.') || self.is(b'=') {
                self.advance();
            }
        } else if self.lexer.token.is_word() {
            self.advance();
        }
    }

    /// `$name` and `$crate::path` in the text of a macro.
    fn variable(&mut self) {
        self.advance();
        if self.lexer.token.is_word() && self.token().name == Name::new(b"crate") {
            return self.path();
        }
        if self.lexer.token.is_word() {
            self.advance();
            // `$name:ty` gives the sort of what is taken
            if self.is(b':') && self.lexer.peek().is_word() {
                self.advance();
                self.advance();
            }
            // What `$name::path` means is known where the macro is used.
            if self.is(b':') && self.lexer.cursor.peek(0) == b':' {
                self.advance();
                self.advance();
                if self.lexer.token.is_word() {
                    self.advance();
                }
            }
        }
    }

    fn open(&mut self) {
        let start = self.token().start();
        let around = self.frame();
        self.open_impl();
        let frame = match self.pending.take() {
            _ if around.kind == FrameKind::Template => Frame { own: false, ..around },
            Some((FrameKind::Module, Some(declaration))) if !self.recorder.is_deepest(around.scope) => {
                let facts = self.recorder.facts();
                let (name, span) = {
                    let declared = &facts.declarations[declaration as usize];
                    (declared.name, declared.name_span)
                };
                let kind = ScopeKind::Namespace { path: vec![name], name: span, to_end: false };
                let scope = self.recorder.open_scope(around.scope, kind, start);
                self.recorder.facts().declarations[declaration as usize].body = scope;
                Frame { kind: FrameKind::Module, scope, own: true }
            }
            Some((kind, _)) => Frame { kind, scope: around.scope, own: false },
            // Braces of a macro call that stands among items hold items.
            None => Frame { own: false, ..around },
        };
        self.frames.push(frame);
        self.item = Item::default();
        self.advance();
    }

    fn close(&mut self) {
        let end = self.token().end();
        if self.frames.len() > 1 {
            self.pop(end);
        }
        self.pending = None;
        self.item = Item::default();
        self.advance();
    }

    fn pop(&mut self, end: usize) {
        if let Some(frame) = self.frames.pop()
            && frame.own
        {
            self.recorder.close_scope(frame.scope, end);
        }
        self.close_impl();
    }

    /// The scope for an import or item that stands here; a block gets one of its own.
    pub(super) fn own_scope(&mut self) -> u32 {
        let top = self.frames.len() - 1;
        let frame = self.frames[top];
        if frame.kind != FrameKind::Body || frame.own || self.recorder.is_deepest(frame.scope) {
            return frame.scope;
        }
        let start = self.token().start();
        let scope = self.recorder.open_scope(frame.scope, ScopeKind::Block, start);
        self.frames[top] = Frame { scope, own: true, ..frame };
        scope
    }

    fn item_word(&mut self, word: Word) {
        let start = self.token().start();
        let (kind, before) = (self.frame().kind, self.before);
        let declares = matches!(kind, FrameKind::Module | FrameKind::Foreign | FrameKind::Body);
        self.advance();
        match word {
            Word::Use if kind == FrameKind::Template => self.skip_statement(),
            Word::Use => self.use_tree(start),
            Word::Mod if self.lexer.token.is_word() => self.module(start, declares),
            Word::Fn => {
                self.add_associated();
                self.named(start, DeclarationKind::Function, declares);
                self.pending = Some((FrameKind::Body, None));
            }
            Word::Struct | Word::Union if self.lexer.token.is_word() => {
                self.named(start, DeclarationKind::Struct, declares);
                self.pending = Some((FrameKind::Impl, None));
            }
            Word::Enum => {
                self.named(start, DeclarationKind::Enum, declares);
                self.pending = Some((FrameKind::Impl, None));
            }
            Word::Trait => {
                self.named(start, DeclarationKind::Interface, declares);
                self.pending = Some((FrameKind::Impl, None));
            }
            Word::Type => {
                let declared = self.recorder.facts().declarations.len();
                self.named(start, DeclarationKind::Class, declares);
                self.begin_alias(declared);
            }
            // `impl Trait` in a signature opens nothing: the body of the function is still to come
            Word::Impl if self.pending.is_none() => {
                self.pending = Some((FrameKind::Impl, None));
                self.head = Some(Head::default());
            }
            // `*const T`, and the parameter of `<T, const N: usize>`, declare nothing.
            Word::Const | Word::Static if matches!(before, Kind::Mark(b'*' | b'<' | b',' | b'(')) => {}
            Word::Const | Word::Static => self.constant(start, declares),
            Word::Extern => self.external(start),
            Word::Pub => {
                self.item.shown = true;
                if self.is(b'(') && self.lexer.peek().is_word() {
                    self.skip_parentheses();
                }
            }
            Word::Rules => self.rules(start, declares),
            Word::Macro if self.lexer.token.is_word() => {
                self.named_in(start, DeclarationKind::Function, MACRO, declares);
                self.pending = Some((FrameKind::Template, None));
            }
            _ => {}
        }
    }

    fn named(&mut self, start: usize, kind: DeclarationKind, declares: bool) {
        self.named_in(start, kind, if kind == DeclarationKind::Function { FUNCTION } else { 0 }, declares);
    }

    fn named_in(&mut self, start: usize, kind: DeclarationKind, space: u8, declares: bool) {
        if self.lexer.token.is_word() {
            let token = self.token();
            if declares {
                self.declare(start, kind, space, token);
            }
            self.advance();
        }
    }

    pub(super) fn declare(&mut self, start: usize, kind: DeclarationKind, space: u8, token: Token) -> u32 {
        let scope = self.own_scope();
        let text = self.text(token.span);
        let name = self.recorder.facts().texts.add(&text);
        let span = Span::new(start.min(token.start()), token.end());
        let access = if self.item.shown || self.item.exported { Access::Public } else { Access::Private };
        let declaration = Declaration::public(name, kind, space, scope, token.span, span);
        self.recorder.declare(Declaration { access, is_static: self.item.exported, ..declaration })
    }

    fn module(&mut self, start: usize, declares: bool) {
        let token = self.token();
        let path = self.item.path;
        self.advance();
        match self.lexer.token.kind {
            Kind::Mark(b';') if declares => {
                self.declare(start, DeclarationKind::Module, 0, token);
                // For each module without a body there is a path, in the same order.
                let (span, base) = match path {
                    Some(span) => (span, PathBase::Folder),
                    None => (token.span, PathBase::Name),
                };
                let text = self.text(span);
                self.recorder.path(span, &text, base, false);
            }
            Kind::Mark(b'{') if declares => {
                let declaration = self.declare(start, DeclarationKind::Module, 0, token);
                self.pending = Some((FrameKind::Module, Some(declaration)));
            }
            _ => {}
        }
    }

    /// `const NAME: …`, `static mut NAME: …`, but not `const fn`.
    fn constant(&mut self, start: usize, declares: bool) {
        if self.token().name == Name::new(b"mut") {
            self.advance();
        }
        let plain = self.lexer.token.is_word() && WORDS.get(&self.token()) == Word::None;
        if plain && self.lexer.peek().is(b':') {
            self.add_associated();
            self.named_in(start, DeclarationKind::Constant, FUNCTION, declares);
        }
    }

    /// `extern crate name as other;`, `extern "C" { … }`.
    fn external(&mut self, start: usize) {
        if self.lexer.token.kind == Kind::Text {
            self.advance();
            if self.is(b'{') {
                self.pending = Some((FrameKind::Foreign, None));
            }
        } else if self.token().name == Name::new(b"crate") && self.frame().kind != FrameKind::Template {
            self.advance();
            self.external_crate(start);
        }
    }

    /// `macro_rules! name { … }`.
    fn rules(&mut self, start: usize, declares: bool) {
        if !self.is(b'!') {
            return;
        }
        self.advance();
        if self.lexer.token.is_word() {
            self.named_in(start, DeclarationKind::Function, MACRO, declares);
            self.pending = Some((FrameKind::Template, None));
        }
    }

    pub(super) fn skip_statement(&mut self) {
        while !matches!(self.lexer.token.kind, Kind::End | Kind::Mark(b';' | b'}')) {
            self.advance();
        }
    }

    pub(super) fn skip_parentheses(&mut self) {
        let mut depth = 0usize;
        loop {
            match self.lexer.token.kind {
                Kind::End => return,
                Kind::Mark(b'(' | b'[') => depth += 1,
                Kind::Mark(b')' | b']') => depth -= 1,
                _ => {}
            }
            self.advance();
            if depth == 0 {
                return;
            }
        }
    }

    /// `::name` outside of a path begins at the crates; behind `>` it goes on with a type.
    fn colons(&mut self) {
        let before = self.lexer.cursor.text[..self.token().start()].trim_ascii_end();
        let goes_on = before.ends_with(b">") && !before.ends_with(b"->") && !before.ends_with(b"=>");
        self.advance();
        self.advance();
        match self.lexer.token.is_word() {
            true if goes_on => self.advance(),
            true => self.path_from(Root::Global),
            false => {}
        }
    }

    /// A path, or a single name.
    pub(super) fn path(&mut self) {
        self.path_from(Root::Scope(self.scope()));
    }

    fn path_from(&mut self, root: Root) {
        let before = self.before;
        self.chain.clear();
        loop {
            let token = self.token();
            self.chain.push(ChainLink { name: token.name, arity: 0, span: token.span });
            self.advance();
            if !(self.is(b':') && self.lexer.cursor.peek(0) == b':') {
                break;
            }
            let next = {
                self.advance();
                self.lexer.peek()
            };
            if !next.is_word() {
                // `path::<T>`, `path::{` and `path::*` of a macro
                self.advance();
                break;
            }
            self.advance();
        }
        self.spell_self();
        self.finish_path(before, root);
    }

    fn finish_path(&mut self, before: Kind, root: Root) {
        let last = self.chain.len() - 1;
        let single = last == 0;
        let word = self.chain[0].span;
        let first = self.lexer.cursor.text[word.start as usize];
        let after = self.lexer.token.kind;
        let is_macro = after == Kind::Mark(b'!') && self.lexer.cursor.peek(0) != b'=';
        let called = after == Kind::Mark(b'(');
        let argument = matches!(before, Kind::Mark(b'(' | b',')) && matches!(after, Kind::Mark(b')' | b','));
        let starts = single && self.is_start(word);
        if starts
            || single && !first.is_ascii_uppercase() && !is_macro && !called && !argument && first < 0x80
        {
            return;
        }
        let space = match () {
            () if is_macro => MACRO,
            () if called && (!single || !first.is_ascii_uppercase()) => FUNCTION,
            () if single && !first.is_ascii_uppercase() => FUNCTION,
            () => 0,
        };
        if is_macro && single {
            self.included(word);
        }
        self.chain[last].arity = space;
        let node = self.recorder.chain(root, &self.chain, Context::Value, called);
        self.path_in_head(node);
    }

    /// `include!("x.rs")` stands for the file's text; `include_str!` and `include_bytes!` only mention it.
    fn included(&mut self, word: Span) {
        let word = &self.lexer.cursor.text[word.start as usize..word.end as usize];
        let strong = word == b"include";
        if !strong && (!matches!(word, b"include_str" | b"include_bytes") || !self.recorder.options().weak) {
            return;
        }
        let mut ahead = Lexer { cursor: self.lexer.cursor, token: self.lexer.token };
        ahead.advance();
        ahead.advance();
        let text = ahead.token;
        if text.kind == Kind::Text
            && text.end() - text.start() > 2
            && self.lexer.cursor.text[text.start()] == b'"'
        {
            let span = Span::new(text.start() + 1, text.end() - 1);
            let path = self.text(span);
            self.recorder.path(span, &path, PathBase::Anywhere, !strong);
        }
    }

    fn is_start(&self, span: Span) -> bool {
        matches!(
            &self.lexer.cursor.text[span.start as usize..span.end as usize],
            b"self" | b"super" | b"crate" | b"Self"
        )
    }
}
