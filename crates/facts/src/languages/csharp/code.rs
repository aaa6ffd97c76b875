//! Code inside members: which identifiers stand where a type can stand, and which are called after a dot.

use super::tokens::{Kind, Word};
use super::values::begins;
use super::{Arguments, Before, Chain, FrameKind, Place, Reader};
use crate::values::{BlockOf, Operator, UNKNOWN, pair, step, value_of};
use ferngate_model::{Accessor, BUILT_IN, Name, Span, UseParent};

impl Reader<'_, '_> {
    /// Reads code until the frame that holds it ends.
    pub(super) fn code(&mut self) {
        let base = self.frames.len();
        self.before = [(Kind::Mark(b';'), Word::None); 2];
        loop {
            let top = self.frames.len() - 1;
            let frame = &mut self.frames[top];
            match self.lexer.token.kind {
                Kind::End => return,
                Kind::Mark(b'{') => {
                    frame.depth += 1;
                    self.open_block();
                    self.open_braces();
                    self.open_pattern();
                    self.advance();
                }
                Kind::Mark(b'}') => {
                    self.queries_end();
                    self.values.operation_ends(self.recorder);
                    self.close_braces();
                    self.values.close_block(self.place());
                    let matched = self.close_pattern();
                    let frame = &mut self.frames[top];
                    if frame.depth == 0 {
                        return self.pop(); // a statement without its semicolon: the brace closes what is around it
                    }
                    frame.depth -= 1;
                    let (kind, done) = (frame.kind, frame.depth == 0);
                    if done && self.end_of_braces(kind) {
                        return;
                    }
                    self.advance();
                    if let Some(matched) = matched {
                        self.local(matched);
                    }
                    if done && kind == FrameKind::Statement && self.ends_block_statement() {
                        return self.pop();
                    }
                }
                Kind::Mark(b';') if frame.kind == FrameKind::Statement && frame.depth == 0 => {
                    self.creates = false;
                    self.queries_end();
                    self.forget_conditionals();
                    self.values.first_value_ends(self.recorder, self.lexer.token.start());
                    self.pop();
                    return self.advance();
                }
                _ => self.code_token(),
            }
            if self.frames.len() != base {
                return; // a branch line put another state here
            }
        }
    }

    /// Pops a frame whose last brace is here; `false` where the frame goes on.
    fn end_of_braces(&mut self, kind: FrameKind) -> bool {
        match kind {
            FrameKind::Body => {
                self.pop();
                self.advance();
                true
            }
            FrameKind::Property => {
                self.pop();
                self.advance();
                if self.lexer.token.is(b'=') {
                    let frame = self.frame();
                    self.push(FrameKind::Statement, frame.scope, frame.declaration);
                }
                true
            }
            _ => false,
        }
    }

    /// At the top of a file a block such as `if (…) { … }` ends without a semicolon.
    fn ends_block_statement(&self) -> bool {
        let around = self.frames.get(self.frames.len().wrapping_sub(2)).map(|frame| frame.kind);
        around == Some(FrameKind::File)
            && !matches!(
                self.lexer.token.kind,
                Kind::Mark(b';' | b')' | b',' | b'.' | b'}' | b']') | Kind::Arrow
            )
    }

    /// Reads code until nothing is left.
    pub(super) fn code_to_end(&mut self) {
        self.before = [(Kind::Mark(b';'), Word::None); 2];
        while self.lexer.token.kind != Kind::End {
            self.code_token();
        }
    }

    /// Reads `(…)`.
    pub(super) fn parentheses(&mut self, scope: u32) {
        self.advance();
        self.nested(scope, |reader, depth| match reader.lexer.token.kind {
            Kind::Mark(b')') => depth == 0,
            _ => false,
        });
        if self.lexer.token.is(b')') {
            self.advance();
        }
    }

    /// Reads an expression from its `=` to a comma or `closer` outside of brackets.
    pub(super) fn expression(&mut self, scope: u32, closer: u8) {
        self.advance();
        self.nested(scope, |reader, depth| {
            depth == 0 && (reader.lexer.token.is(b',') || reader.lexer.token.is(closer))
        });
    }

    fn nested(&mut self, scope: u32, stop: impl Fn(&Self, usize) -> bool) {
        let frames = self.frames.len();
        self.push(FrameKind::Body, scope, super::NO_DECLARATION);
        let mut depth = 0usize;
        while self.lexer.token.kind != Kind::End && !stop(self, depth) && self.frames.len() > frames {
            match self.lexer.token.kind {
                Kind::Mark(b'(' | b'[' | b'{') => depth += 1,
                Kind::Mark(b')' | b']' | b'}') if depth == 0 => break,
                Kind::Mark(b')' | b']' | b'}') => depth -= 1,
                _ => {}
            }
            self.code_token();
        }
        self.frames.truncate(frames);
    }

    #[inline]
    fn code_token(&mut self) {
        match self.lexer.token.kind {
            Kind::Identifier => self.code_identifier(),
            Kind::Keyword => self.code_keyword(),
            Kind::Interpolated => self.holes(),
            Kind::Mark(b'.') => {
                let value = self.value_before_dot();
                self.creates = false;
                self.advance();
                if self.lexer.token.is_identifier() {
                    self.after_dot(value);
                }
            }
            Kind::Mark(b'(') => {
                if self.untyped_parameters() {
                    return;
                }
                let calls = self.opens_arguments();
                let place = self.place();
                let parenthesis = self.values.open(calls, self.lexer.token.start());
                parenthesis.creates = std::mem::take(&mut self.creates) && calls;
                parenthesis.place = place;
                self.advance();
            }
            Kind::Mark(b'[') => {
                let place = self.place();
                self.values.open_bracket(place);
                self.advance();
            }
            Kind::Mark(closer @ (b')' | b']')) => {
                let at = self.lexer.token.start();
                let is_empty = self.before[0].0 == Kind::Mark(b'(');
                self.queries_end();
                let closed = match closer {
                    b')' => {
                        let is_statement = self.values.is_statement(self.text, at);
                        self.values.close_call(0, usize::from(!is_empty), self.recorder, at, is_statement)
                    }
                    _ => self.values.close(0, self.recorder, at),
                };
                if let Some(parts) = &closed
                    && parts.commas > 0
                    && parts.result.is_none()
                {
                    // `(bed, 2)`: of more parts than two the first and the last are known.
                    self.values.value = pair(self.recorder, parts.first, self.values.value);
                }
                self.creates = closed.is_some_and(|closed| closed.creates);
                if closer == b']' {
                    self.values.value = step(self.recorder, self.values.value, Name::ELEMENT, at);
                }
                self.advance();
            }
            Kind::Mark(b',') => {
                let place = self.place();
                self.queries_end();
                self.values.operation_ends(self.recorder);
                self.arm_ends();
                self.values.comma(place);
                self.advance();
                self.further_local(place);
            }
            Kind::Mark(b'?') if self.text[self.lexer.token.end()..].starts_with(b"?") => {
                self.values.before_operator(Operator::Else, self.lexer.token.start());
                self.advance();
                self.advance();
            }
            Kind::Mark(b'?') => {
                self.conditional();
                self.advance();
            }
            Kind::Mark(b':') => {
                self.otherwise();
                self.advance();
            }
            Kind::Mark(b';') => {
                (self.creates, self.declaring) = (false, None);
                self.queries_end();
                self.forget_conditionals();
                self.values.first_value_ends(self.recorder, self.lexer.token.start());
                self.advance();
                if self.values.is_statement_end(self.frames.len(), 0) {
                    self.values.end_statement(self.text[self.lexer.token.start()..].starts_with(b"else"));
                }
            }
            _ => self.advance(),
        }
    }

    /// At an opening brace: what is declared in a block goes out of sight with it, and what the head of its statement
    /// declares; but for that of an `if`, which is in sight behind it too.
    fn open_block(&mut self) {
        let of = match self.before[0] {
            (Kind::Mark(b')'), _) => BlockOf::Head,
            (Kind::Arrow, _) => BlockOf::Function,
            (Kind::Mark(b';' | b'{' | b'}'), _) | (Kind::Keyword, Word::Other) => BlockOf::Itself,
            _ => return,
        };
        self.values.open_block(self.place(), of, 0);
    }

    fn holes(&mut self) {
        let holes = std::mem::take(&mut self.lexer.holes);
        let after = self.lexer.cursor;
        if self.depth < super::DEEPEST {
            self.depth += 1;
            for hole in holes {
                self.lexer.cursor.at = hole.start as usize;
                self.lexer.cursor.end = hole.end as usize;
                self.advance();
                self.code_to_end();
            }
            self.depth -= 1;
        }
        self.lexer.cursor = after;
        self.advance();
    }

    fn code_keyword(&mut self) {
        let word = self.lexer.token.word;
        let scope = self.scope();
        let (at, opens) = (self.lexer.token.start(), self.before[0].0);
        self.advance();
        match word {
            Word::New if self.lexer.token.is_identifier() => {
                let made = value_of(self.value_type(scope));
                // The constructor is a member, too.
                step(self.recorder, made, Name::NEW, self.lexer.token.start());
                self.values.value = made;
                self.creates = true;
            }
            Word::Is | Word::As => self.pattern(scope),
            Word::Case if self.lexer.token.is_identifier() => self.bare_name(scope),
            Word::Internal => self.accessor(at),
            Word::Builtin => self.built_in(),
            Word::Before | Word::Catch | Word::Using | Word::Fixed => {
                self.values.value = UNKNOWN;
                let begins = matches!(opens, Kind::Mark(b';' | b'{' | b'}' | b')' | b':') | Kind::Keyword);
                if begins && self.lexer.token.is(b'(') && !self.text[at..].starts_with(b"if") {
                    self.values.begin_head();
                }
            }
            _ => self.values.value = UNKNOWN,
        }
    }

    /// What follows a type that the language has a word for: the local that it declares, or a member.
    fn built_in(&mut self) {
        self.values.value = UNKNOWN;
        let array = matches!(self.lexer.token.kind, Kind::Mark(b'[' | b'*')) && self.type_suffix();
        let optional = self.lexer.token.is(b'?') && {
            let (name, after) = self.peek_two();
            name.is_identifier() && (matches!(after.kind, Kind::Mark(b'=' | b';' | b')')))
        };
        if optional {
            self.advance();
        }
        self.local(if array { UNKNOWN } else { value_of(BUILT_IN) });
    }

    /// Notes the half of a property whose access the word at `at` states, or a word before it.
    fn accessor(&mut self, mut at: usize) {
        let frame = self.frame();
        let Some((member, name)) =
            self.property.filter(|_| (frame.kind, frame.depth) == (FrameKind::Property, 1))
        else {
            return;
        };
        if let (Kind::Keyword, Word::Protected) = self.before[1] {
            at = self.text[..at]
                .iter()
                .rposition(|byte| !byte.is_ascii_whitespace())
                .map_or(at, |last| last + 1);
            at -= "protected".len();
        }
        if self.lexer.token.word == Word::Protected {
            self.advance();
        }
        let half = self.lexer.token.span();
        let words = Span::new(at, half.start as usize);
        let sets = half.text(self.text) != "get";
        self.recorder.facts().accessors.push(Accessor { member, name, words, sets });
    }

    /// Notes the local that is declared here, if one is.
    pub(super) fn local(&mut self, value: UseParent) {
        if self.lexer.token.is_identifier() && (!self.is_operator_word() || self.names_local()) {
            self.values.local(self.lexer.token.name, value);
            self.values.value = value;
            self.advance();
            self.declaring = self.values.parentheses.is_empty().then(|| (self.place(), value));
        }
    }

    /// Another local of the declaration at `place`, behind its comma: `Bed first, second;`.
    fn further_local(&mut self, place: Place) {
        if let Some((declared, value)) = self.declaring
            && declared == place
            && self.values.parentheses.is_empty()
            && self.lexer.token.is_identifier()
            && matches!(self.peek().kind, Kind::Mark(b'=' | b',' | b';'))
        {
            self.local(value);
        }
    }

    pub(super) fn is_operator_word(&self) -> bool {
        matches!(self.lexer.token.word, Word::Pattern | Word::Query | Word::Where)
    }

    /// Whether the word here can only be the name of a local, by what follows it.
    pub(super) fn names_local(&mut self) -> bool {
        let next = self.peek();
        matches!(next.kind, Kind::Mark(b'=' | b';' | b',' | b')')) || next.word == Word::Argument
    }

    fn code_identifier(&mut self) {
        if self.lexer.token.word != Word::None && self.contextual() {
            return;
        }
        let scope = self.scope();
        let [opens, operator] = self.before;
        if opens.0 == Kind::Mark(b'(')
            && matches!(operator.1, Word::TypeOperator | Word::Default | Word::Catch)
        {
            let value = value_of(self.value_type(scope));
            // `default(Bed)` is a bed, `typeof(Bed)` is none.
            self.values.value = if operator.1 == Word::Default { value } else { UNKNOWN };
            return if operator.1 == Word::Catch {
                self.local(value)
            };
        }
        let cast = opens.0 == Kind::Mark(b'(') && !self.calls_before();
        let chain = self.chain(scope, Arguments::Unsure);
        if self.in_pattern(&chain, opens, scope) {
            return;
        }
        if self.declares(&chain) {
            let node = self.record_type(&chain, scope);
            let array = self.type_suffix();
            let value = self.value_of_type(node, array);
            // `(Bed[])beds`
            if cast && self.lexer.token.is(b')') {
                return self.values.cast(value);
            }
            return self.local(value);
        }
        if cast && self.lexer.token.is(b'?') && self.peek().is(b')') {
            self.advance();
        }
        if cast && self.lexer.token.is(b')') && self.casts(operator) || self.is_pointer(opens) {
            let node = self.record_type(&chain, scope);
            let value = self.value_of_type(node, false);
            return self.values.cast(value);
        }
        if self.is_parameter(&chain, opens) {
            // `ticket => …`
            let (name, at) = (chain.links()[0].name, self.lexer.token.start());
            let taker = self.values.taker(begins(opens), self.frames.len());
            if !self.text[self.lexer.token.end()..].trim_ascii_start().starts_with(b"{") {
                self.values.function_as_argument();
            }
            return self.values.parameter(name, 0, taker, self.recorder, at);
        }
        self.value(&chain, scope, opens, operator);
    }

    /// Whether the `*` here belongs to a type: `Valve* first =`, `(Valve*)`.
    fn is_pointer(&mut self, opens: Before) -> bool {
        if !self.lexer.token.is(b'*') {
            return false;
        }
        let (name, after) = self.peek_two();
        let statement = matches!(opens.0, Kind::Mark(b';' | b'{' | b'}' | b'('));
        opens.0 == Kind::Mark(b'(') && name.is(b')')
            || statement && name.is_identifier() && matches!(after.kind, Kind::Mark(b'=' | b';'))
    }

    /// Words that are identifiers elsewhere; `true` where the word was dealt with.
    fn contextual(&mut self) -> bool {
        let next = self.peek();
        let before_name =
            matches!(next.kind, Kind::Identifier | Kind::Keyword | Kind::Literal | Kind::Interpolated);
        match self.lexer.token.word {
            Word::Var if next.is_identifier() => {
                self.advance();
                self.untyped_local();
                true
            }
            Word::Var if next.is(b'(') => {
                self.advance();
                self.parts_of_value()
            }
            // `bed with { Width = 2 }`
            Word::Query if next.is(b'{') => {
                self.creates = true;
                self.advance();
                true
            }
            Word::Prefix if &self.lexer.token.span().of(self.text) == b"await" => {
                self.values.awaits();
                self.advance();
                true
            }
            Word::Query if next.is_identifier() => {
                self.query_clause();
                true
            }
            Word::Prefix | Word::Query | Word::Where
                if before_name || next.is(b'(') && self.before[0].0 == Kind::Identifier =>
            {
                if self.lexer.token.word != Word::Prefix {
                    self.clause_ends();
                }
                self.advance();
                true
            }
            Word::Prefix if next.is(b'(') => {
                self.advance();
                true
            }
            Word::Pattern if before_name => {
                let scope = self.scope();
                self.pattern(scope);
                true
            }
            _ => false,
        }
    }

    /// Whether the chain just read is the type in a declaration: `Ticket x`, `Ticket[] x`, `Ticket? x =`.
    pub(super) fn declares(&mut self, chain: &Chain) -> bool {
        if chain.links().is_empty() {
            return false;
        }
        match self.lexer.token.kind {
            // `Group group = …` declares a local that is named like a word of queries
            Kind::Identifier => !self.is_operator_word() || self.names_local(),
            Kind::Mark(b'[') => {
                let next = self.peek();
                next.is(b']') || next.is(b',')
            }
            Kind::Mark(b'?') => {
                let (name, after) = self.peek_two();
                name.is_identifier()
                    && (matches!(after.kind, Kind::Mark(b'=' | b';' | b',' | b')'))
                        || after.word == Word::Argument)
                    && chain.links().first().is_none_or(|link| self.values.of_local(link.name).is_none())
            }
            _ => false,
        }
    }

    /// Whether the parenthesis before the current token belongs to a call or a statement rather than to a cast.
    fn calls_before(&self) -> bool {
        let (kind, word) = self.before[1];
        match kind {
            Kind::Identifier => word != Word::Prefix,
            Kind::Mark(b']' | b'>') => true,
            Kind::Keyword => matches!(
                word,
                Word::Before
                    | Word::Using
                    | Word::Fixed
                    | Word::TypeOperator
                    | Word::Default
                    | Word::Base
                    | Word::This
                    | Word::Builtin
            ),
            _ => false,
        }
    }

    /// Whether the `)` here ends a cast: an operand follows. Behind another `)` only a name or literal proves it.
    fn casts(&mut self, before: Before) -> bool {
        let next = self.peek();
        match next.kind {
            Kind::Mark(_) if before.0 == Kind::Mark(b')') => false,
            Kind::Identifier => !matches!(next.word, Word::Query | Word::Pattern),
            Kind::Literal | Kind::Interpolated | Kind::Mark(b'(' | b'~' | b'!' | b'$') => true,
            Kind::Keyword => !matches!(next.word, Word::Is | Word::As | Word::Argument),
            _ => false,
        }
    }
}
