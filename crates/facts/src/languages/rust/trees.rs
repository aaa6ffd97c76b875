//! Trees of `use`, external crates, and attributes.

use super::reader::{Item, Reader};
use crate::lexis::Kind;
use ferngate_model::{ChainLink, Context, DeclarationKind, Import, ImportKind, MACRO, Name, Root, Span};

/// Trees of `use` inside trees are followed this deep.
const DEEPEST_TREE: usize = 64;

impl Reader<'_, '_> {
    /// `use a::{b as c, d::*};`; the token is behind the word.
    pub(super) fn use_tree(&mut self, start: usize) {
        let scope = self.own_scope();
        let shown = self.item.shown;
        let mut root = Root::Scope(scope);
        if self.is(b':') {
            root = Root::Global;
            self.advance();
            self.advance();
        }
        let mut links = Vec::new();
        self.tree(start, (root, scope, shown), &mut links, 0);
        self.skip_statement();
        self.item = Item::default();
    }

    fn tree(&mut self, start: usize, place: (Root, u32, bool), links: &mut Vec<ChainLink>, depth: usize) {
        let from = links.len();
        loop {
            match self.lexer.token.kind {
                Kind::Word => {
                    let token = self.token();
                    links.push(ChainLink { name: token.name, arity: 0, span: token.span });
                    self.advance();
                    if self.is(b':') && self.lexer.cursor.peek(0) == b':' {
                        self.advance();
                        self.advance();
                        continue;
                    }
                    self.leaf(start, place, links);
                }
                Kind::Mark(b'$') => {
                    self.advance();
                    continue;
                }
                Kind::Mark(b'*') => {
                    self.advance();
                    self.import(start, place, ImportKind::Namespace, links);
                }
                Kind::Mark(b'{') => self.group(start, place, links, depth),
                _ => {}
            }
            break;
        }
        links.truncate(from);
    }

    fn group(&mut self, start: usize, place: (Root, u32, bool), links: &mut Vec<ChainLink>, depth: usize) {
        self.advance();
        while !matches!(self.lexer.token.kind, Kind::End | Kind::Mark(b'}' | b';')) {
            let at = self.token().start();
            if depth < DEEPEST_TREE {
                self.tree(start, place, links, depth + 1);
            }
            if self.is(b',') || self.token().start() == at {
                self.advance();
            }
        }
        if self.is(b'}') {
            self.advance();
        }
    }

    /// The end of a path, with a name of its own or without.
    fn leaf(&mut self, start: usize, place: (Root, u32, bool), links: &mut Vec<ChainLink>) {
        // `a::{self}` brings `a`
        if links.len() > 1 && self.spells(links[links.len() - 1].span, b"self") {
            links.pop();
        }
        let Some(last) = links.last().copied() else { return };
        let mut name = last.name;
        if self.token().is_word() && self.token().name == Name::new(b"as") {
            self.advance();
            name = self.token().name;
            self.advance();
        }
        self.import(start, place, ImportKind::Alias(name), links);
    }

    fn spells(&self, span: Span, word: &[u8]) -> bool {
        &self.lexer.cursor.text[span.start as usize..span.end as usize] == word
    }

    fn import(
        &mut self,
        start: usize,
        (root, scope, shown): (Root, u32, bool),
        kind: ImportKind,
        links: &[ChainLink],
    ) {
        let (Some(first), Some(last)) = (links.first(), links.last()) else { return };
        let Some(target) = self.recorder.chain(root, links, Context::Import, false) else { return };
        let target_span = Span::new(first.span.start as usize, last.span.end as usize);
        let text = self.text(first.span).into();
        let span = Span::new(start, self.token().start());
        let import = Import::of_file(kind, scope, target, span, target_span, text);
        self.recorder.import(Import { shown, ..import });
    }

    /// `extern crate name as other;`; the token is the name.
    pub(super) fn external_crate(&mut self, start: usize) {
        let scope = self.own_scope();
        let token = self.token();
        if !token.is_word() {
            return;
        }
        let mut links = vec![ChainLink { name: token.name, arity: 0, span: token.span }];
        self.advance();
        let root = if self.spells(token.span, b"self") { Root::Scope(scope) } else { Root::Global };
        if self.spells(token.span, b"self") {
            links[0].name = Name::new(b"crate");
        }
        let shown = self.item.shown;
        let mut name = token.name;
        if self.token().is_word() && self.token().name == Name::new(b"as") {
            self.advance();
            name = self.token().name;
            self.advance();
        }
        self.import(start, (root, scope, shown), ImportKind::Alias(name), &links);
    }

    /// `#[…]`: derived traits and macros are uses; some say where the next item stands.
    pub(super) fn attribute(&mut self) {
        self.advance();
        if self.is(b'!') {
            self.advance();
        }
        if !self.is(b'[') {
            return;
        }
        self.advance();
        if self.token().is_word() {
            self.attribute_path();
        }
        let mut depth = 1usize;
        while depth > 0 && self.token().kind != Kind::End {
            match self.token().kind {
                Kind::Mark(b'[' | b'(' | b'{') => depth += 1,
                Kind::Mark(b']' | b')' | b'}') => depth -= 1,
                Kind::Word => {
                    self.attribute_word();
                    continue;
                }
                _ => {}
            }
            self.advance();
        }
    }

    /// The path of a macro that is applied; words of the language resolve to nothing.
    fn attribute_path(&mut self) {
        let scope = self.scope();
        let mut links: Vec<ChainLink> = Vec::new();
        let mut ahead = self.lexer.cursor;
        let mut token = self.token();
        loop {
            links.push(ChainLink { name: token.name, arity: 0, span: token.span });
            let mut next = super::lexer::Lexer { cursor: ahead, token };
            next.advance();
            if !next.token.is(b':') || next.cursor.peek(0) != b':' {
                break;
            }
            next.advance();
            next.advance();
            (ahead, token) = (next.cursor, next.token);
            if !token.is_word() {
                break;
            }
        }
        let last = links.len() - 1;
        links[last].arity = MACRO;
        self.recorder.chain(Root::Scope(scope), &links, Context::Attribute, false);
    }

    fn attribute_word(&mut self) {
        let span = self.token().span;
        if self.spells(span, b"derive") {
            self.advance();
            self.derived();
        } else if self.spells(span, b"path") {
            self.advance();
            if self.is(b'=') {
                self.advance();
                let text = self.token();
                if text.kind == Kind::Text && text.end() - text.start() > 2 {
                    self.item.path = Some(Span::new(text.start() + 1, text.end() - 1));
                }
            }
        } else if self.spells(span, b"macro_export") {
            self.item.exported = true;
            self.advance();
        } else if self.spells(span, b"proc_macro_derive") {
            self.advance();
            if self.is(b'(') {
                self.advance();
                if self.token().is_word() {
                    let token = self.token();
                    self.item.exported = true;
                    self.declare(token.start(), DeclarationKind::Function, MACRO, token);
                    self.item.exported = false;
                }
            }
        } else {
            self.advance();
        }
    }

    /// `(A, b::C)` behind `derive`.
    fn derived(&mut self) {
        if !self.is(b'(') {
            return;
        }
        self.advance();
        let scope = self.scope();
        let mut links: Vec<ChainLink> = Vec::new();
        while !matches!(self.token().kind, Kind::End | Kind::Mark(b')')) {
            let token = self.token();
            if token.is_word() {
                links.push(ChainLink { name: token.name, arity: 0, span: token.span });
            } else if token.is(b',') {
                self.derive(scope, &mut links);
            }
            self.advance();
        }
        self.derive(scope, &mut links);
    }

    fn derive(&mut self, scope: u32, links: &mut Vec<ChainLink>) {
        if let Some(last) = links.last_mut() {
            last.arity = MACRO;
            self.recorder.chain(Root::Scope(scope), links, Context::Attribute, false);
            links.clear();
        }
    }
}
