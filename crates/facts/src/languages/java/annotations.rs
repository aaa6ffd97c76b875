//! Annotations, wherever they stand.

use super::{Chain, Reader};
use crate::lexis::Kind;
use ferngate_model::{ChainLink, Context, Root};

impl Reader<'_, '_> {
    /// Reads `@Name(…)`. Code inside is looked through without going deeper than the parentheses.
    pub(super) fn annotation(&mut self, scope: u32) {
        self.advance();
        self.annotation_name(scope);
        if !self.is(b'(') {
            return;
        }
        let mut depth = 0usize;
        loop {
            match self.tokens.token.kind {
                Kind::End => return,
                Kind::Mark(b'(') => depth += 1,
                Kind::Mark(b')') => {
                    depth -= 1;
                    if depth == 0 {
                        return self.advance();
                    }
                }
                Kind::Mark(b'@') => {
                    self.advance();
                    self.annotation_name(scope);
                    continue;
                }
                // `value = …` names what the annotation declares, and nothing in sight.
                Kind::Word if self.is_name() => {
                    if self.names_element() {
                        self.advance()
                    } else {
                        self.code_identifier()
                    }
                    continue;
                }
                _ => {}
            }
            self.advance();
        }
    }

    /// Reads the name of an annotation, behind which `<` begins the type parameters of a method.
    fn annotation_name(&mut self, scope: u32) {
        let mut chain = Chain::default();
        while self.is_name() {
            let (name, span) = (self.tokens.token.name, self.tokens.token.span);
            chain.links.push(ChainLink { name, arity: 0, span });
            self.advance();
            if !(self.is(b'.') && self.peek().0.is_word()) {
                break;
            }
            self.advance();
        }
        if !chain.links().is_empty() {
            self.recorder.chain(Root::Scope(scope), chain.links(), Context::Type, false);
        }
    }

    /// Whether `value =` is here, and not `value ==`.
    fn names_element(&mut self) -> bool {
        let next = self.peek().0;
        next.is(b'=') && self.text.get(next.end()) != Some(&b'=')
    }
}
