//! Declarations: namespaces, usings, attributes, types and the heads of their members.

use super::tokens::{Kind, Word};
use super::{Arguments, Frame, FrameKind, NO_DECLARATION, Reader};
use crate::cursor::in_word;
use crate::values::value_of;
use ferngate_model::{
    Access, ChainLink, Context, DeclarationKind, Member, MemberKind, NO_TYPE, Name, Share, Span,
};
use std::ops::Range;
use std::sync::LazyLock;

/// The methods of every object, with how many parameters they have.
static OF_EVERY_OBJECT: LazyLock<[(Name, usize); 4]> = LazyLock::new(|| {
    [("ToString", 0), ("Equals", 1), ("GetHashCode", 0), ("GetType", 0)]
        .map(|(name, parameters)| (Name::new(name.as_bytes()), parameters))
});

/// How what sets a property calls what it is given.
static VALUE: LazyLock<Name> = LazyLock::new(|| Name::new(b"value"));

/// The words before a declaration.
#[derive(Clone, Copy, Default)]
pub(super) struct Modifiers {
    /// First byte, attributes included.
    pub(super) start: usize,
    /// First byte behind the attributes.
    pub(super) word: usize,
    pub(super) access: Option<(Access, Span)>,
    pub(super) is_static: bool,
    pub(super) partial: bool,
    pub(super) global: bool,
}

/// What stands in front of a member's name.
struct Named {
    link: ChainLink,
    value_type: u32,
}

impl Reader<'_, '_> {
    /// Reads one declaration, or its head up to where code begins.
    pub(super) fn member(&mut self) {
        self.forget_parameters();
        if self.frame().kind != FrameKind::File {
            self.values.forget(0);
            self.values.parentheses.clear();
        }
        let modifiers = self.modifiers();
        let frame = self.frame();
        match (self.lexer.token.kind, self.lexer.token.word) {
            (Kind::Mark(b'}'), _) => self.close(),
            (Kind::Mark(b'{'), _) => self.open_body(FrameKind::Body, frame),
            (Kind::Keyword, Word::Namespace) => self.namespace(),
            (Kind::Keyword, Word::Using) => self.using(modifiers),
            (Kind::Keyword, Word::Class | Word::Struct | Word::Interface | Word::Enum) => {
                self.type_declaration(modifiers)
            }
            (Kind::Identifier, Word::Record) if self.begins_record() => self.type_declaration(modifiers),
            (Kind::Keyword, Word::Delegate) => self.delegate(modifiers),
            (Kind::Keyword, Word::Event | Word::Conversion | Word::Operator) => {
                self.advance();
                if self.lexer.token.word != Word::Operator {
                    self.typed_member(modifiers);
                } else {
                    self.advance();
                    self.type_reference(frame.scope);
                    self.after_name(None, modifiers);
                }
            }
            (Kind::Mark(b'~'), _) => self.advance(),
            (Kind::Identifier | Kind::Mark(b'('), _) | (Kind::Keyword, Word::Builtin) => {
                self.typed_member(modifiers)
            }
            (Kind::End, _) => {}
            _ if frame.kind == FrameKind::File && !self.lexer.token.is(b';') => self.statement(),
            _ => self.advance(),
        }
    }

    pub(super) fn close(&mut self) {
        let frame = self.frame();
        let end = self.lexer.token.end();
        if frame.kind == FrameKind::File {
            return self.advance();
        }
        if frame.scope != 0 {
            self.recorder.close_scope(frame.scope, end);
        }
        if let Some(declaration) = self.recorder.facts().declarations.get_mut(frame.declaration as usize) {
            declaration.span.end = end as u32;
        }
        self.pop();
        self.advance();
    }

    fn open_body(&mut self, kind: FrameKind, around: Frame) {
        self.push(kind, around.scope, around.declaration);
        // `code` counts this brace.
    }

    pub(super) fn statement(&mut self) {
        let frame = self.frame();
        self.push(FrameKind::Statement, frame.scope, frame.declaration);
    }

    fn modifiers(&mut self) -> Modifiers {
        let mut modifiers = Modifiers {
            start: self.lexer.token.start(),
            word: self.lexer.token.start(),
            ..Modifiers::default()
        };
        loop {
            let access = match self.lexer.token.word {
                Word::Public => Some(Access::Public),
                Word::Internal => Some(Access::Internal),
                Word::Private => Some(Access::Private),
                // What derives may stand anywhere, so it counts as public.
                Word::Protected => Some(Access::Public),
                _ => None,
            };
            // These words are modifiers only where a further word follows.
            let next = match self.lexer.token.word {
                Word::Partial | Word::Prefix | Word::Global => self.peek(),
                _ => self.lexer.token,
            };
            let continues = matches!(next.kind, Kind::Identifier | Kind::Keyword);
            match self.lexer.token.word {
                Word::Static => modifiers.is_static = true,
                // `const Taxon x`: a constant belongs to the type, not to its instances
                Word::Const => modifiers.is_static = true,
                Word::Partial | Word::Prefix if !continues => return modifiers,
                Word::Partial => modifiers.partial = true,
                Word::Global if next.word == Word::Using => modifiers.global = true,
                Word::Extern => self.extern_alias(),
                Word::Modifier | Word::Fixed | Word::New | Word::Prefix => {}
                Word::Argument => {} // `ref` returns
                _ if access.is_some() => {}
                _ if self.lexer.token.is(b'[') => {
                    let scope = self.frame().scope;
                    self.attributes(scope);
                    modifiers.word = self.lexer.token.start();
                    continue;
                }
                _ => return modifiers,
            }
            if let Some(access) = access {
                // `protected internal` is stated by both words.
                let start =
                    modifiers.access.map_or(self.lexer.token.start(), |(_, span)| span.start as usize);
                modifiers.access = Some((access, Span::new(start, self.lexer.token.end())));
            }
            self.advance();
        }
    }

    /// Notes the name of `extern alias Name;`, of which the current token is the first.
    fn extern_alias(&mut self) {
        let (next, name) = self.peek_two();
        if next.span().of(self.text) == b"alias" && name.is_identifier() {
            self.aliases.push(name.name);
        }
    }

    /// Reads a field, property, event or method from its type on; a constructor from its name on.
    fn typed_member(&mut self, modifiers: Modifiers) {
        let frame = self.frame();
        let at_file = frame.kind == FrameKind::File;
        self.signature.clear();
        if at_file && self.is_statement() {
            return self.statement();
        }
        if self.lexer.token.is_identifier() && self.peek().is(b'(') && !at_file {
            let named = Named { link: ChainLink { name: Name::NEW, ..self.link() }, value_type: NO_TYPE };
            self.advance();
            return self.after_name(Some(named), modifiers);
        }
        let value_type = self.value_type(frame.scope);
        match self.lexer.token.word {
            Word::Operator => {
                self.advance();
                while !matches!(self.lexer.token.kind, Kind::Mark(b'(' | b';' | b'{') | Kind::End) {
                    self.advance();
                }
                self.after_name(None, modifiers);
            }
            Word::This => {
                let indexer = Named { link: ChainLink { name: Name::ELEMENT, ..self.link() }, value_type };
                self.advance();
                self.after_name(Some(indexer), modifiers);
            }
            _ if self.lexer.token.is_identifier() => self.named_member(modifiers, value_type),
            _ if at_file => self.statement(),
            _ => {
                if !matches!(self.lexer.token.kind, Kind::Mark(b'}' | b'{' | b';')) {
                    self.advance();
                }
            }
        }
    }

    fn link(&self) -> ChainLink {
        ChainLink { name: self.lexer.token.name, arity: 0, span: self.lexer.token.span() }
    }

    /// Whether what begins here at the top of a file is a statement: `Type name` does not follow.
    fn is_statement(&mut self) -> bool {
        if self.lexer.token.is(b'(')
            || self.lexer.token.word == Word::Var
            || self.lexer.token.word == Word::Prefix
        {
            return true;
        }
        let next = self.peek();
        !matches!(next.kind, Kind::Identifier | Kind::Mark(b'<' | b'.' | b'?' | b'[' | b'*') | Kind::Colons)
            || matches!(next.kind, Kind::Mark(b'.')) && self.is_call_statement()
    }

    /// Whether the dotted name here is followed by something other than a name.
    fn is_call_statement(&mut self) -> bool {
        let rest = &self.text[self.lexer.token.start()..];
        let length = rest.iter().take_while(|&&b| b == b'.' || in_word(b)).count();
        let next = rest[length..].iter().copied().find(|byte| !byte.is_ascii_whitespace());
        !next.is_some_and(|byte| in_word(byte) || byte == b'<' || byte == b'[')
    }

    fn named_member(&mut self, modifiers: Modifiers, value_type: u32) {
        let frame = self.frame();
        let chain = self.chain(frame.scope, Arguments::Parameters);
        let explicit = if chain.open { chain.links().len() } else { chain.links().len().saturating_sub(1) };
        if explicit > 0 {
            // `IClimate.Open`: all but the member's own name is a type
            let root = chain.root(frame.scope);
            self.recorder.chain(root, &chain.links()[..explicit], Context::Type, false);
        }
        self.hide_parameters();
        if chain.open {
            self.advance();
            return self.after_name(None, modifiers);
        }
        // What implements a type's member under that type's name only is a member of nothing else.
        let named = chain.last().filter(|_| explicit == 0).map(|link| Named { link, value_type });
        self.after_name(named, modifiers);
    }

    /// Reads what follows a member's name up to its code or its end.
    fn after_name(&mut self, named: Option<Named>, modifiers: Modifiers) {
        let frame = self.frame();
        match self.lexer.token.kind {
            Kind::Mark(b'(') => self.method(named, modifiers),
            Kind::Mark(b'[') => {
                self.parameters(frame.scope, None);
                self.after_name(named, modifiers);
            }
            Kind::Mark(b'{') => {
                let value_type = named.as_ref().map_or(NO_TYPE, |named| named.value_type);
                self.value_member(named, modifiers);
                // What a property is set to.
                self.values.local(*VALUE, value_of(value_type));
                self.open_body(FrameKind::Property, frame);
            }
            Kind::Mark(b'=') | Kind::Arrow => {
                self.value_member(named, modifiers);
                self.statement();
            }
            Kind::Mark(b',') => {
                let value_type = named.as_ref().map_or(NO_TYPE, |named| named.value_type);
                self.value_member(named, modifiers);
                self.advance();
                if self.lexer.token.is_identifier() {
                    let named = Named { link: self.link(), value_type };
                    self.advance();
                    self.after_name(Some(named), modifiers);
                }
            }
            Kind::Mark(b';') => {
                self.value_member(named, modifiers);
                self.advance();
            }
            _ => {}
        }
    }

    fn value_member(&mut self, named: Option<Named>, modifiers: Modifiers) {
        let owner = self.frame().declaration;
        self.property = None;
        if let Some(named) = named
            && owner != NO_DECLARATION
        {
            let kind = if modifiers.is_static { MemberKind::Static } else { MemberKind::Value };
            // What is assigned to it may be a function.
            self.values.value = value_of(named.value_type);
            let name = named.link.span;
            self.add_member(owner, named, kind, modifiers);
            self.property = Some((self.recorder.facts().members.len() as u32 - 1, name));
        }
    }

    fn add_member(&mut self, owner: u32, named: Named, kind: MemberKind, modifiers: Modifiers) {
        let around = self.recorder.facts().declarations.get(owner as usize).map(|declared| declared.kind);
        let default =
            if around == Some(DeclarationKind::Interface) { Access::Public } else { Access::Private };
        let (access, span) = modifiers.access.unwrap_or((default, Span::new(modifiers.word, modifiers.word)));
        let (name, value_type, access_at) = (named.link.name, named.value_type, span.start);
        let member = Member { kind, access, access_at, ..Member::public(owner, name, kind, value_type) };
        let shown = if access == Access::Private { &[] } else { &self.signature[..] };
        self.recorder.member_with_signature(member, shown);
    }

    /// Notes the text of the parameters of the method read last, if other files may declare the rest of its type. Of a
    /// partial method two files declare the same; it is noted as if it had no like.
    fn note_parameters(&mut self, owner: u32, text: Range<usize>, partial: bool) {
        let facts = self.recorder.facts();
        let is_part =
            facts.declarations.get(owner as usize).is_some_and(|declared| declared.share == Share::Part);
        if is_part && let Some(member) = facts.members.len().checked_sub(1) {
            let text = if partial { Name(0) } else { Name::new(self.text[text].trim_ascii_end()) };
            facts.parameter_texts.push((member as u32, text));
        }
    }

    fn method(&mut self, named: Option<Named>, modifiers: Modifiers) {
        let frame = self.frame();
        let extends = modifiers.is_static && self.peek().word == Word::This;
        let opens = self.lexer.token.start();
        let arguments = self.parameters(frame.scope, None);
        let behind = self.lexer.token.start();
        let extends = extends && !named.as_ref().is_some_and(|named| self.every_object_has(named.link.name));
        if let Some(named) = named
            && frame.declaration != NO_DECLARATION
        {
            let arity = named.link.arity;
            let kind = match (extends, modifiers.is_static) {
                (true, _) => MemberKind::Extension,
                (false, true) => MemberKind::Static,
                (false, false) => MemberKind::Method,
            };
            if extends {
                let text = named.link.span.text(self.text);
                self.recorder.facts().texts.add(&text);
            }
            let told = self.told_by_first(named.value_type);
            self.values.gives(value_of(named.value_type));
            self.add_member(frame.declaration, named, kind, modifiers);
            let parameters = self.recorder.parameters(&self.parameter_types);
            if let Some(member) = self.recorder.facts().members.last_mut() {
                member.value_type = told.unwrap_or(member.value_type);
                member.parameters = parameters;
                member.arity = arity;
                // An extension is called without its first parameter, or with it.
                member.arguments = if extends { arguments.or_one_less() } else { arguments };
            }
            self.note_parameters(frame.declaration, opens..behind, modifiers.partial);
        }
        if self.lexer.token.is(b':') {
            self.advance();
            self.advance();
            if self.lexer.token.is(b'(') {
                self.parentheses(frame.scope);
            }
        }
        self.constraints(frame.scope, None);
        match self.lexer.token.kind {
            Kind::Mark(b'{') => self.open_body(FrameKind::Body, frame),
            Kind::Arrow => self.statement(),
            Kind::Mark(b';') => self.advance(),
            _ => {}
        }
    }

    /// Whether a method of this name is called instead of the one just read, whatever it is called on.
    fn every_object_has(&self, name: Name) -> bool {
        let further = self.parameter_types.len().saturating_sub(1);
        OF_EVERY_OBJECT.iter().any(|(of, parameters)| *parameters == further && *of == name)
    }
}
