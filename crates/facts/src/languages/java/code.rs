//! Code inside members, and types wherever they stand.

use super::values::begins;
use super::{Chain, DEEPEST, FrameKind, Reader, Word};
use crate::cursor::in_word;
use crate::lexis::{Kind, opens_type_arguments};
use crate::values::{BlockOf, Given, GivenParameters, Parenthesis, UNKNOWN};
use ferngate_model::{ChainLink, Context, Root, UseParent};

impl Reader<'_, '_> {
    /// Reads code until the frame that holds it ends or another begins.
    pub(super) fn code(&mut self) {
        let base = self.frames.len();
        while self.frames.len() == base {
            let top = base - 1;
            let frame = &mut self.frames[top];
            match self.tokens.token.kind {
                Kind::End => return,
                Kind::Mark(b'{') => {
                    frame.depth += 1;
                    let (place, parentheses) = ((base, frame.depth), frame.parentheses);
                    let of = match self.before[0].0 {
                        Kind::Mark(b')') => BlockOf::Head,
                        Kind::Mark(b'>') => BlockOf::Function,
                        _ => BlockOf::Itself,
                    };
                    self.values.open_block(place, of, parentheses);
                    self.advance();
                }
                Kind::Mark(b'}') if frame.depth > 0 => {
                    self.values.close_block((base, frame.depth));
                    frame.depth -= 1;
                    self.advance();
                }
                Kind::Mark(b'}') => {
                    // A statement without its semicolon: the brace closes what is around it.
                    let is_block = frame.kind == FrameKind::Block;
                    self.pop();
                    if is_block {
                        self.advance();
                    }
                }
                Kind::Mark(b';') if frame.kind == FrameKind::Statement && frame.depth == 0 => {
                    self.pop();
                    self.advance();
                }
                Kind::Mark(b';') => {
                    let is_end = self.values.is_statement_end(base, frame.parentheses);
                    self.values.first_value_ends(self.recorder, self.tokens.token.start());
                    self.declaring = None;
                    self.advance();
                    if is_end {
                        self.values.end_statement(self.word == Word::Else);
                    }
                }
                Kind::Mark(b'(') => {
                    if !self.untyped_parameters() {
                        self.open_parenthesis();
                    }
                }
                Kind::Mark(b')') => self.close_parenthesis(),
                Kind::Mark(b'[') => {
                    self.values.open_bracket((self.frames.len(), self.frame().depth));
                    self.advance();
                }
                Kind::Mark(b']') => {
                    // An element of an array is spelled with the same type as the array.
                    let (base, at) = (frame.parentheses, self.tokens.token.start());
                    self.values.close(base, self.recorder, at);
                    self.advance();
                }
                Kind::Mark(b',') => {
                    self.values.comma((base, frame.depth));
                    self.advance();
                    self.further_declarator();
                }
                _ => self.code_token(),
            }
        }
    }

    fn close_parenthesis(&mut self) {
        let frame = self.frame();
        let is_empty = self.before[0].0 == Kind::Mark(b'(');
        let at = self.tokens.token.start();
        let is_statement = self.values.is_statement(self.text, at);
        let (base, count) = (frame.parentheses, usize::from(!is_empty));
        let closed = self.values.close_call(base, count, self.recorder, at, is_statement);
        if closed.is_some_and(|closed| closed.switches) {
            self.switches.push((self.frames.len(), frame.depth, self.values.value));
        }
        if frame.kind == FrameKind::Arguments && self.values.parentheses.len() <= frame.parentheses {
            self.pop();
            return self.advance();
        }
        self.advance();
        if let (Some(Parenthesis { base: Some(base), .. }), true) = (closed, self.is(b'{')) {
            self.anonymous_body(Some(base));
        }
    }

    #[inline]
    fn code_token(&mut self) {
        match self.tokens.token.kind {
            Kind::Word if self.word == Word::None => self.code_identifier(),
            Kind::Word => self.code_word(),
            Kind::Mark(b'@') => {
                let scope = self.scope();
                self.annotation(scope);
            }
            Kind::Mark(b'.') => self.after_dot(),
            Kind::Text => {
                let is_text = self.text.get(self.tokens.token.start()) == Some(&b'"');
                let begins = self.before[0].0 == Kind::Mark(b'(');
                if is_text && begins && matches!(self.peek().0.kind, Kind::Mark(b',' | b')' | b'+')) {
                    self.values.text_as_argument();
                }
                self.advance();
            }
            Kind::Mark(b'?') => {
                self.values.condition_ends();
                self.advance();
            }
            Kind::Mark(b':') => {
                self.advance();
                if self.is(b':') {
                    let parent = self.value_before_dot(self.before[1]);
                    self.advance();
                    self.values.function_as_argument();
                    if self.word == Word::New {
                        self.values.value = parent;
                        self.advance();
                    } else if self.tokens.token.is_word() {
                        self.member_of(parent);
                    }
                }
            }
            _ => self.advance(),
        }
    }

    fn code_word(&mut self) {
        let (scope, word) = (self.scope(), self.word);
        match word {
            Word::New => self.creation(scope),
            Word::Class | Word::Interface | Word::Enum => self.local_type(),
            Word::Record if self.begins_local_record() => self.local_type(),
            Word::Instanceof => {
                self.advance();
                self.pattern(scope);
            }
            Word::Case => self.case(scope),
            Word::Catch => {
                self.values.begin_head();
                self.advance();
                if self.is(b'(') {
                    self.values.parentheses.push(Parenthesis::with(None));
                    self.caught(scope);
                }
            }
            Word::Throws => self.throws(scope),
            Word::Extends | Word::Super if self.before[0].0 == Kind::Mark(b'?') => {
                self.advance();
                self.type_reference(scope);
            }
            Word::Extends => {
                self.advance();
                self.type_reference(scope);
            }
            Word::Primitive => {
                self.advance();
                self.brackets(scope);
                self.local(UNKNOWN);
            }
            Word::Var => {
                // `var taxon = …`, but `var.name()` for a local of that name
                self.advance();
                if self.is_name() {
                    let is_loop = self.peek().0.is(b':');
                    self.values.untyped(self.tokens.token.name, is_loop);
                    self.advance();
                }
            }
            Word::Before => {
                self.values.begin_head();
                self.advance();
            }
            Word::Switch => {
                let before = self.before[0];
                if matches!(before.0, Kind::Mark(b';' | b'{' | b'}' | b')' | b':')) || before.1 == Word::Else
                {
                    self.values.begin_head();
                }
                self.advance();
            }
            word if word.reserved() => self.advance(),
            _ => self.code_identifier(),
        }
    }

    fn creation(&mut self, scope: u32) {
        self.advance();
        while self.is(b'@') {
            self.annotation(scope);
        }
        if self.is(b'<') {
            self.type_arguments(scope);
        }
        let node = if self.is_name() { self.named_type(scope) } else { None };
        let made = self.value_of_type(node);
        self.values.value = made;
        if self.is(b'(') {
            let before = self.text[..self.tokens.token.start()].trim_ascii_end();
            let place = (self.frames.len(), self.frame().depth);
            let parenthesis = self.values.open(true, self.tokens.token.start());
            (parenthesis.base, parenthesis.makes_holder) = (node, before.ends_with(b"<>"));
            parenthesis.place = place;
            self.advance();
        }
    }

    /// Behind `instanceof` or `case`: a type, with what it is taken apart into.
    fn pattern(&mut self, scope: u32) {
        while self.word == Word::Modifier {
            self.advance();
        }
        let node = self.type_reference(scope);
        let value = self.value_of_type(node);
        let locals = self.values.locals();
        self.local(value);
        if self.values.locals() > locals && self.values.parentheses.iter().any(|around| around.denies) {
            self.values.last_is_kept();
        }
    }

    /// Behind `case`: constants, or patterns with their types.
    fn case(&mut self, scope: u32) {
        loop {
            self.advance();
            while self.word == Word::Modifier {
                self.advance();
            }
            if !self.is_name() {
                return;
            }
            self.case_label(scope);
            if !self.is(b',') {
                return;
            }
        }
    }

    fn case_label(&mut self, scope: u32) {
        let chain = self.chain(scope, false);
        if self.is(b'(') || self.is_name() || chain.generic {
            let node = self.record_type(&chain, scope);
            let value = self.value_of_type(node);
            self.local(value);
        } else if chain.links().len() > 1 {
            self.recorder.chain(Root::Scope(scope), chain.links(), Context::Value, false);
        } else {
            self.constant_of_switch(&chain);
        }
    }

    fn caught(&mut self, scope: u32) {
        loop {
            self.advance();
            while self.word == Word::Modifier || self.is(b'@') {
                if self.is(b'@') { self.annotation(scope) } else { self.advance() }
            }
            let node = self.type_reference(scope);
            let value = self.value_of_type(node);
            if !self.is(b'|') {
                return self.local(value);
            }
        }
    }

    /// Notes the local that is declared here, if one is.
    fn local(&mut self, value: UseParent) {
        if self.is_name() {
            self.values.local(self.tokens.token.name, value);
            // What is assigned to it may be a function.
            self.values.value = value;
            self.advance();
            self.declares_more(value, None);
        }
    }

    /// Reads a name in code, with what follows it as far as that tells what it is.
    pub(super) fn code_identifier(&mut self) {
        let scope = self.scope();
        let [opens, operator] = self.before;
        let calls = calls(operator) && !(operator.0 == Kind::Mark(b'>') && self.opens_behind_arrow());
        let chain = self.chain(scope, false);
        if self.declares(&chain) {
            let node = self.record_type(&chain, scope);
            let value = self.value_of_type(node);
            self.brackets(scope);
            // `(Bed[]) beds`
            if opens.0 == Kind::Mark(b'(') && self.is(b')') {
                return self.values.cast(value);
            }
            return self.local(value);
        }
        if opens.0 == Kind::Mark(b'(') && !calls && self.casts(scope) {
            let node = self.record_type(&chain, scope);
            let value = self.value_of_type(node);
            return self.values.cast(value);
        }
        if self.is(b'-') && self.tokens.cursor.peek(0) == b'>' {
            // `ticket -> …`
            let arrow_end = (self.tokens.cursor.at + 1).min(self.text.len());
            if !self.text[arrow_end..].trim_ascii_start().starts_with(b"{") {
                self.values.function_as_argument();
            }
            let (name, at) = (chain.links()[0].name, self.tokens.token.start());
            let taker = self.values.taker(begins(opens), self.frames.len());
            return self.values.parameter(name, 0, taker, self.recorder, at);
        }
        self.value_chain(&chain, scope);
    }

    /// Whether some part of the name begins as the names of types do.
    pub(super) fn names_type(&self, chain: &Chain) -> bool {
        chain.links().iter().any(|link| {
            let first = self.text.get(link.span.start as usize).copied().unwrap_or_default();
            first.is_ascii_uppercase() || first == b'_' || first == b'$' || first >= 0x80
        })
    }

    /// Whether the name just read is the type in a declaration: `Ticket x`, `Ticket[] x`, `Ticket... x`.
    fn declares(&mut self, chain: &Chain) -> bool {
        match self.tokens.token.kind {
            Kind::Word => {
                self.is_name() || self.word == Word::This && !chain.links().is_empty() && chain.generic
            }
            Kind::Mark(b'[') => self.peek().0.is(b']'),
            Kind::Mark(b'.') => self.tokens.cursor.peek(0) == b'.',
            Kind::Mark(b'@') => true,
            _ => false,
        }
    }

    /// Whether the parenthesis before the current token is what a function or a case gives: `bed -> (Row) bed`.
    fn opens_behind_arrow(&self) -> bool {
        let before = self.text[..self.tokens.token.start()].trim_ascii_end();
        before.strip_suffix(b"(").is_some_and(|before| before.trim_ascii_end().ends_with(b"->"))
    }

    /// Whether `)` or `& Other)` follows, and then an operand: the parenthesis holds a type.
    fn casts(&mut self, scope: u32) -> bool {
        if self.is(b'&') && self.tokens.cursor.peek(0) != b'&' && self.closes_after_types() {
            while self.is(b'&') {
                self.advance();
                self.type_reference(scope);
            }
        }
        if !self.is(b')') {
            return false;
        }
        let (next, word) = self.peek();
        match next.kind {
            Kind::Word => word != Word::Instanceof,
            Kind::Text | Kind::Number | Kind::Mark(b'(' | b'!' | b'~' | b'@') => true,
            _ => false,
        }
    }

    /// Whether only names, dots, type arguments and `&` stand before the next `)`.
    fn closes_after_types(&self) -> bool {
        let mut cursor = self.tokens.cursor;
        while !cursor.done() {
            match cursor.peek(0) {
                b')' => return true,
                byte if in_word(byte) => {
                    cursor.word();
                }
                b'.' | b'<' | b'>' | b'?' | b',' | b'&' | b' ' | b'\n' | b'\r' | b'\t' => cursor.at += 1,
                _ => return false,
            }
        }
        false
    }

    /// Reads a dotted name, which the current token begins. In code, `types` is false: `<` may be a comparison.
    pub(super) fn chain(&mut self, scope: u32, types: bool) -> Chain {
        let mut chain = Chain::default();
        self.given = Given::default();
        loop {
            let (name, span) = (self.tokens.token.name, self.tokens.token.span);
            chain.links.push(ChainLink { name, arity: 0, span });
            self.advance();
            if self.is(b'<') && (types || opens_type_arguments(self.tokens.cursor)) {
                self.type_arguments(scope);
                chain.generic = true;
            }
            if !self.is(b'.') {
                return chain;
            }
            let (next, word) = self.peek();
            if next.is(b'@') && (types || chain.generic || self.names_type(&chain)) {
                // `Map.@Nullable Entry`
                self.advance();
                while self.is(b'@') {
                    self.annotation(scope);
                }
                if !self.is_name() {
                    return chain;
                }
            } else if next.is_word() && !word.reserved() {
                self.advance();
            } else {
                return chain;
            }
        }
    }

    /// Reads a type with what may follow it and records its names; the node of its outermost name.
    pub(super) fn type_reference(&mut self, scope: u32) -> Option<u32> {
        while self.is(b'@') || self.word == Word::Modifier {
            if self.is(b'@') { self.annotation(scope) } else { self.advance() }
        }
        let node = if self.is_name() {
            self.named_type(scope)
        } else {
            if self.word == Word::Primitive {
                self.advance();
            }
            None
        };
        self.brackets(scope);
        node
    }

    fn named_type(&mut self, scope: u32) -> Option<u32> {
        let chain = self.chain(scope, true);
        self.record_type(&chain, scope)
    }

    pub(super) fn record_type(&mut self, chain: &Chain, scope: u32) -> Option<u32> {
        self.bound = None;
        if let [only] = chain.links() {
            if let Some((_, bound)) = self.parameters.iter().rev().find(|(name, _)| *name == only.name) {
                self.bound = Some(only.name);
                return *bound;
            }
            if only.span.of(self.text) == b"var" {
                return None;
            }
        }
        self.recorder.chain(Root::Scope(scope), chain.links(), Context::Type, false)
    }

    /// Skips `[]`, `@Nullable []` and `...`.
    fn brackets(&mut self, scope: u32) {
        loop {
            if self.is(b'@') {
                self.annotation(scope);
            } else if self.is(b'[') && self.peek().0.is(b']') {
                self.advance();
                self.advance();
            } else if self.is(b'.') && self.tokens.cursor.peek(0) == b'.' {
                while self.is(b'.') {
                    self.advance();
                }
            } else {
                return;
            }
        }
    }

    /// Reads `<…>`.
    pub(super) fn type_arguments(&mut self, scope: u32) {
        self.advance();
        self.depth += 1;
        let (mut given, mut count) = (Given::default(), 0);
        let mut bounds = GivenParameters::default();
        loop {
            match (self.tokens.token.kind, self.word) {
                (Kind::Mark(b'>'), _) => {
                    self.advance();
                    break;
                }
                (Kind::Mark(b'@'), _) => self.annotation(scope),
                (Kind::Word, word) if !word.reserved() && self.depth < DEEPEST => {
                    let node = self.type_reference(scope);
                    if let Some(place) = bounds.get_mut(count) {
                        *place = self.bound;
                    }
                    given.take(count, node, false, std::mem::take(&mut self.given), self.recorder);
                }
                (Kind::Mark(b','), _) => {
                    count += 1;
                    self.advance();
                }
                (Kind::Mark(b'?' | b'&' | b'[' | b']'), _) => self.advance(),
                (Kind::Mark(b'<'), _) if self.depth >= DEEPEST => self.advance(),
                (_, Word::Extends | Word::Super | Word::Primitive) => self.advance(),
                (Kind::Word, word) if !word.reserved() => self.advance(),
                _ => break,
            }
        }
        self.depth -= 1;
        self.bound_arguments = bounds;
        self.given = given;
    }
}

/// Whether the word before a parenthesis makes it the list of a call or statement rather than a cast's.
fn calls((kind, word): (Kind, Word)) -> bool {
    match kind {
        Kind::Word => {
            matches!(
                word,
                Word::Before | Word::Switch | Word::Modifier | Word::Super | Word::This | Word::Catch
            ) || !word.reserved()
        }
        Kind::Mark(b']' | b'>') => true,
        _ => false,
    }
}
