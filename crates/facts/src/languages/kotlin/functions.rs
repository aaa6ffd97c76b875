//! Functions and properties: what they extend, take and give.

use super::types::ReadType;
use super::{Chain, FrameKind, NO_DECLARATION, Reader, Word};
use crate::lexis::{Kind, Token};
use crate::values::{GivenParameters, ToldByFirst, UNKNOWN, value_of};
use ferngate_model::{
    Access, ArgumentCounts, BUILT_IN, CONSTANT, DeclarationKind, FUNCTION, Member, MemberKind, NO_TYPE, Name,
    ParameterTypes,
};
use std::sync::LazyLock;

/// What an accessor calls the value that its property keeps.
static FIELD: LazyLock<Name> = LazyLock::new(|| Name::new(b"field"));

/// Types of the language that nothing derives from.
const FINAL: [&[u8]; 9] =
    [b"Boolean", b"Byte", b"Char", b"Double", b"Float", b"Int", b"Long", b"Short", b"String"];

/// What a function or property gives, what it takes, and who may use it.
#[derive(Clone, Copy)]
struct Giving {
    kind: MemberKind,
    value_type: u32,
    /// The same for what extends a type, as the value that it extends tells it.
    of_receiver: u32,
    parameters: ParameterTypes,
    arguments: ArgumentCounts,
    access: Access,
}

impl Reader<'_, '_> {
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
        if self.is(b'<') {
            self.type_parameters(frame.scope, None);
        }
        (self.hidden, self.hidden_arguments) = (None, GivenParameters::default());
        let Some((name, receiver)) = self.receiver_and_name() else { return };
        self.told = ToldByFirst { itself: self.hidden, arguments: self.hidden_arguments };
        self.values.initial &= frame.kind == FrameKind::Block;
        let local = (frame.kind == FrameKind::Block && receiver.is_none()).then(|| {
            self.values.local(name.name, UNKNOWN);
            self.values.last_is_function();
            self.values.locals() - 1
        });
        let around = self.sight();
        let declared = (frame.kind == FrameKind::File)
            .then(|| self.declare(&name, DeclarationKind::Function, FUNCTION, start));
        let mut types: Vec<u32> = receiver.into_iter().collect();
        let mut arguments = ArgumentCounts::default();
        if self.is(b'(') {
            let (own, accepted) = self.value_parameters(frame.scope, frame.declaration, None);
            types.extend(own);
            arguments = accepted;
        }
        let (mut value_type, mut of_receiver) = (NO_TYPE, NO_TYPE);
        if self.is(b':') {
            self.advance();
            value_type = self.value_type(frame.scope);
            of_receiver = self.told_by_first(value_type).unwrap_or(value_type);
            if receiver.is_none() {
                value_type = of_receiver;
            }
        }
        if self.word == Word::Where {
            self.constraints();
        }
        let members = self.recorder.facts().members.len();
        let parameters = self.recorder.parameters(&types);
        let access = self.access_before(start);
        let kind = MemberKind::Method;
        let give = Giving { kind, value_type, of_receiver, parameters, arguments, access };
        self.give(&name, declared, receiver.is_some(), give);
        self.give_by_operator(&name, give, start);
        self.stands_for_interface(give);
        if types.is_empty() && self.has_before(start, b"override") {
            self.getter(name.span, value_type);
        }
        self.receives(receiver);
        if let Some(local) = local {
            self.values.set_local(local, value_of(value_type));
        }
        self.is_given(value_type);
        if self.is(b'=') && of_receiver == NO_TYPE {
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

    /// Behind the head of a declaration of type `value_type`: a function that it is given is of that type.
    pub(super) fn is_given(&mut self, value_type: u32) {
        if self.is(b'=') && self.peek().0.is(b'{') {
            self.values.value = value_of(value_type);
        }
    }

    /// Reads `constructor(bed: Bed)`; what it hands on to another one is read as code.
    pub(super) fn secondary_constructor(&mut self) {
        let frame = self.frame();
        self.advance();
        self.begin_member();
        let (types, _) = self.value_parameters(frame.scope, frame.declaration, None);
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
            let Giving { kind, value_type, parameters, access, .. } = giving;
            let member = Member::public(frame.declaration, by, kind, value_type);
            self.recorder.member(Member { parameters, access, ..member });
        }
    }

    /// Notes that a function may stand for the interface around, which is called by the method without a body that was
    /// just read.
    fn stands_for_interface(&mut self, giving: Giving) {
        let frame = self.frame();
        let has_body = self.is(b'=') || self.is(b'{');
        let around = self.recorder.facts().declarations.get(frame.declaration as usize);
        let is_interface = around.is_some_and(|around| around.kind == DeclarationKind::Interface);
        if frame.kind == FrameKind::Members && is_interface && !has_body && giving.parameters.count > 0 {
            let Giving { kind, value_type, parameters, .. } = giving;
            let member = Member::public(frame.declaration, Name::CALL, kind, value_type);
            self.recorder.member(Member { parameters, ..member });
        }
    }

    /// Notes what the function or property `name` gives, as a member of the class around or of what is `declared`.
    fn give(&mut self, name: &Token, declared: Option<u32>, extends: bool, giving: Giving) {
        let frame = self.frame();
        let Giving { kind, value_type, parameters, arguments, access, .. } = giving;
        if let Some(declared) = declared {
            self.has_facade = true;
            let parameters = parameters.behind_first(extends);
            let member = Member::public(declared, Name::NEW, kind, value_type);
            self.recorder.member(Member { parameters, arguments, ..member });
            if extends {
                self.extension(declared, name, giving);
            }
        } else if frame.kind == FrameKind::Members && frame.declaration != NO_DECLARATION {
            // What extends a type inside of a class is used without a name before it, there and in what derives from it.
            let parameters = parameters.behind_first(extends);
            let member = Member::public(frame.declaration, name.name, kind, value_type);
            self.recorder.member(Member { parameters, arguments, access, ..member });
            if extends {
                return;
            }
            if kind == MemberKind::Value {
                self.accessors(name.span, frame.declaration, value_type);
            }
            // What a companion has is used as if the class around had it.
            let outer = self.frames.len().checked_sub(2).map(|at| self.frames[at].declaration);
            if let Some(outer) = outer.filter(|outer| frame.companion && *outer != NO_DECLARATION) {
                let kind = if kind == MemberKind::Value { MemberKind::Static } else { kind };
                let member = Member::public(outer, name.name, kind, value_type);
                self.recorder.member(Member { parameters, arguments, access, ..member });
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
        self.is_given(value_type);
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
        let access = self.access_before(start);
        let giving = Giving {
            kind: MemberKind::Value,
            value_type,
            of_receiver: value_type,
            parameters,
            arguments: ArgumentCounts::default(),
            access,
        };
        self.give(&name, declared, receiver.is_some(), giving);
        self.property_type = value_type;
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

    /// Whether the word here, `get` or `set`, begins an accessor: what stands before it ends a declaration.
    pub(super) fn begins_accessor(&mut self) -> bool {
        let frame = self.frame();
        let may_have = matches!(frame.kind, FrameKind::Members | FrameKind::File) && frame.depth == 0;
        let declared = match self.before {
            (Kind::Word, word) => word != Word::By,
            (Kind::Text | Kind::Number | Kind::Mark(b')' | b']' | b'}' | b'>' | b'?' | b'!' | b';'), _) => {
                true
            }
            _ => false,
        };
        let is_accessor = matches!(self.tokens.token.span.of(self.text), b"get" | b"set");
        may_have && declared && is_accessor && self.peek().0.is(b'(')
    }

    /// Reads `get(): Type` or `set(value)`, up to the body, in which `field` and the value have the property's type.
    pub(super) fn accessor(&mut self) {
        self.end_value();
        let (frame, around) = (self.frame(), self.sight());
        let sets = self.tokens.token.span.of(self.text) == b"set";
        let value = value_of(self.property_type);
        self.values.initial = false;
        self.values.local(*FIELD, value);
        self.advance();
        self.advance();
        while self.is(b'@') || self.is_modifier() {
            if self.is(b'@') { self.whole_annotation() } else { self.advance() }
        }
        if sets && self.is_name() {
            self.values.local(self.tokens.token.name, value);
            self.advance();
            self.passed_type(frame.scope);
        }
        if self.is(b',') {
            self.advance();
        }
        if self.is(b')') {
            self.advance();
            self.passed_type(frame.scope);
        }
        if self.is(b'{') {
            self.push(FrameKind::Block, frame.scope, frame.declaration, false);
            if let Some(body) = self.frames.last_mut() {
                body.around = around;
            }
            self.advance();
        }
    }

    /// Reads `: Type`, if it is here.
    fn passed_type(&mut self, scope: u32) {
        if self.is(b':') {
            self.advance();
            self.value_type(scope);
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
        let Giving { of_receiver, parameters, arguments, .. } = giving;
        let member = Member::public(declared, name.name, MemberKind::Extension, of_receiver);
        self.recorder.member(Member { parameters, arguments, ..member });
    }
}
