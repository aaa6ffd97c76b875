//! Blocks of `impl`: the type that each is for, and what it adds to the type; and types that stand for another.

use super::reader::Reader;
use crate::lexis::Kind;
use ferngate_model::{ChainLink, Name, Span};

/// A type is named by no longer path; every `Self::` below is read as if the path stood there.
const LONGEST_TYPE: usize = 16;

/// The head of an `impl` that is being read.
#[derive(Default)]
pub(super) struct Head {
    /// The type so far: in `impl Trait for Type` the trait until `for` has been read.
    path: Vec<ChainLink>,
    node: Option<u32>,
    /// How many `<` are open.
    angles: u32,
    /// `where` has been read.
    bounds: bool,
}

/// A `type Name = …;` that is being read.
#[derive(Clone, Copy)]
pub(super) struct Alias {
    declaration: u32,
    /// The sign of equality has been read.
    equal: bool,
}

/// The type of an open `impl`.
pub(super) struct Implemented {
    /// How many frames are open around the block.
    depth: usize,
    path: Vec<ChainLink>,
    node: u32,
}

impl Reader<'_, '_> {
    /// Takes note of a mark or word in the head of an `impl`.
    pub(super) fn in_head(&mut self) {
        let (token, before) = (self.token(), self.before);
        if let Some(alias) = &mut self.alias {
            alias.equal |= token.is(b'=');
        }
        let Some(head) = &mut self.head else { return };
        match token.kind {
            Kind::Mark(b'<') => head.angles += 1,
            // `->` and `=>` close nothing.
            Kind::Mark(b'>') if !matches!(before, Kind::Mark(b'-' | b'=')) => {
                head.angles = head.angles.saturating_sub(1);
            }
            Kind::Word if head.angles == 0 => match &self.lexer.cursor.text[token.start()..token.end()] {
                b"for" => (head.path, head.node) = (Vec::new(), None),
                b"where" => head.bounds = true,
                _ => {}
            },
            _ => {}
        }
    }

    /// The name of a `type` has been read; `declared` tells how many names were declared before it.
    pub(super) fn begin_alias(&mut self, declared: usize) {
        let new = self.recorder.facts().declarations.len() > declared;
        self.alias = new.then_some(Alias { declaration: declared as u32, equal: false });
    }

    /// Takes note of the path just recorded as `node`, which may be the type of an `impl` or what a `type` stands for.
    pub(super) fn path_in_head(&mut self, node: Option<u32>) {
        if let (Some(Alias { declaration, equal: true }), Some(node)) = (self.alias, node) {
            self.recorder.facts().bases.push((declaration, node));
            self.alias = None;
        }
        if let Some(head) = &mut self.head
            && head.angles == 0
            && !head.bounds
            && head.node.is_none()
            && self.chain.len() <= LONGEST_TYPE
        {
            (head.path, head.node) = (self.chain.clone(), node);
        }
    }

    /// The block of an `impl` opens; its frame is not there yet.
    pub(super) fn open_impl(&mut self) {
        if let Some(Head { path, node: Some(node), .. }) = self.head.take() {
            self.implemented.push(Implemented { depth: self.frames.len(), path, node });
        }
    }

    /// A frame was closed.
    pub(super) fn close_impl(&mut self) {
        self.implemented.pop_if(|open| open.depth >= self.frames.len());
    }

    /// Notes the function or constant whose name is here, if it stands in an `impl`.
    pub(super) fn add_associated(&mut self) {
        if let Some(open) = self.implemented.last()
            && open.depth + 1 == self.frames.len()
            && self.lexer.token.is_word()
        {
            let (name, node) = (self.lexer.token.name, open.node);
            self.recorder.facts().associated.push((name, node));
        }
    }

    /// `Self::new` means what the type has that the `impl` around is for.
    pub(super) fn spell_self(&mut self) {
        let (Some(open), [first, _, ..]) = (self.implemented.last(), &self.chain[..]) else { return };
        if first.name == Name::new(b"Self") {
            let span: Span = first.span;
            self.chain.splice(..1, open.path.iter().map(|link| ChainLink { span, ..*link }));
        }
    }
}
