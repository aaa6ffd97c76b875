//! Declarations: namespaces, imports, attributes, classes and the heads of their members, functions, constants.

use super::lexer::Kind;
use super::{Chain, FrameKind, NO_DECLARATION, Reader, Word};
use ferngate_model::{
    CONSTANT, Context, Declaration, DeclarationKind, FUNCTION, Import, ImportKind, Member, MemberKind,
    NAMESPACE, NO_TYPE, Name, ScopeKind, Span,
};

impl Reader<'_, '_> {
    /// Reads `namespace Name;`, `namespace Name { … }` or `namespace { … }`.
    pub(super) fn namespace(&mut self) {
        let start = self.token.span.start as usize;
        self.advance();
        let name_start = self.token.span.start as usize;
        let chain = self.chain();
        let name_end = chain.links().last().map_or(name_start, |link| link.span.end as usize);
        let to_end = self.is(b';');
        if !to_end && !self.is(b'{') {
            return;
        }
        // One without braces ends where the next begins.
        while self.frames.len() > 1 && self.frame().kind != FrameKind::Namespace {
            self.recorder.close_scope(self.scope(), start);
            self.pop();
        }
        let path = chain.links().iter().map(|link| {
            let text = link.span.text(self.text);
            self.recorder.facts().texts.add(&text)
        });
        let kind =
            ScopeKind::Namespace { path: path.collect(), name: Span::new(name_start, name_end), to_end };
        let scope = self.recorder.open_scope(0, kind, start);
        self.recorder.close_scope(scope, self.text.len());
        self.push(if to_end { FrameKind::File } else { FrameKind::Namespace }, scope, NO_DECLARATION);
        self.advance();
    }

    /// Reads `use A\B, A\C as D;` and `use function A\{f, g};` outside of classes.
    pub(super) fn imports(&mut self) {
        let start = self.token.span.start as usize;
        self.advance();
        let sort = self.import_sort();
        let mut found = Vec::new();
        while self.begins_name() {
            let prefix = self.chain().named(sort);
            if self.is(b'\\') && self.peek().0.is(b'{') {
                self.advance();
                self.advance();
                self.group(&prefix, sort, &mut found);
            } else {
                self.renamed(prefix, &mut found);
            }
            if !self.is(b',') {
                break;
            }
            self.advance();
        }
        let end = self.token.span.end as usize;
        for (chain, name) in found {
            self.import(&chain, name, Span::new(start, end));
        }
        if self.is(b';') {
            self.advance();
        }
    }

    fn import_sort(&mut self) -> u8 {
        let sort = match self.word {
            Word::Function => FUNCTION,
            Word::Const => CONSTANT,
            _ => return 0,
        };
        self.advance();
        sort
    }

    fn group(&mut self, prefix: &Chain, sort: u8, found: &mut Vec<(Chain, Name)>) {
        while !matches!(self.token.kind, Kind::Mark(b'}' | b';') | Kind::End) {
            let own = if sort == 0 { self.import_sort() } else { sort };
            let rest = self.chain().named(own);
            let mut whole = prefix.clone().named(NAMESPACE);
            rest.links().iter().for_each(|link| whole.links.push(*link));
            if !rest.links().is_empty() {
                self.renamed(whole, found);
            }
            if self.is(b',') || rest.links().is_empty() {
                self.advance();
            }
        }
        if self.is(b'}') {
            self.advance();
        }
    }

    fn renamed(&mut self, chain: Chain, found: &mut Vec<(Chain, Name)>) {
        let mut name = chain.links().last().map(|link| link.name);
        if self.word == Word::As {
            self.advance();
            if self.is_word() {
                name = Some(self.token.name);
                self.advance();
            }
        }
        found.extend(name.map(|name| (chain, name)));
    }

    fn import(&mut self, chain: &Chain, name: Name, span: Span) {
        let scope = self.scope();
        let links = chain.links();
        let (Some(first), Some(last)) = (links.first(), links.last()) else { return };
        let target_span = Span::new(first.span.start as usize, last.span.end as usize);
        // The names of an import begin at the outermost namespace, with or without a backslash.
        let root = ferngate_model::Root::Global;
        if let Some(target) = self.recorder.chain(root, links, Context::Import, false) {
            // In a group other names stand between its parts.
            let parts: Vec<_> = links.iter().map(|link| link.span.text(self.text)).collect();
            let text = parts.join("\\").into();
            let kind = ImportKind::Alias(name);
            self.recorder.import(Import::of_file(kind, scope, target, span, target_span, text));
        }
    }

    /// Reads `#[Name(…), Other]` up to its bracket; what stands in parentheses is read as code.
    pub(super) fn attributes(&mut self) {
        self.advance();
        let mut depth = 0usize;
        let mut expects_name = true;
        while self.token.kind != Kind::End {
            match self.token.kind {
                Kind::Mark(b']') if depth == 0 => return self.advance(),
                Kind::Mark(b'(' | b'[') => depth += 1,
                Kind::Mark(b')' | b']') => depth = depth.saturating_sub(1),
                Kind::Mark(b',') if depth == 0 => expects_name = true,
                _ if expects_name && self.begins_name() => {
                    expects_name = false;
                    let chain = self.chain();
                    self.record(&chain, Context::Type);
                    continue;
                }
                _ if self.begins_name() || self.word == Word::New => {
                    self.code_word();
                    continue;
                }
                _ => {}
            }
            self.advance();
        }
    }

    /// Reads a class from its word; the current token is `class`, `interface`, `trait` or `enum`.
    pub(super) fn class(&mut self, start: usize) {
        let kind = match self.word {
            Word::Interface => DeclarationKind::Interface,
            Word::Enum => DeclarationKind::Enum,
            _ => DeclarationKind::Class,
        };
        self.advance();
        if !self.is_word() {
            return;
        }
        let (name, span) = (self.token.name, self.token.span);
        self.advance();
        let declaration = self.declare(name, span, kind, 0, start);
        self.class_body(declaration, start);
    }

    /// Reads `class(…) extends … { … }` behind `new`; the arguments, where there are any, were read.
    pub(super) fn anonymous_class(&mut self) {
        let span = self.token.span;
        self.anonymous += 1;
        let name = Name::new(format!("{{anonymous {}}}", self.anonymous).as_bytes());
        let scope = self.scope();
        let declaration = self.recorder.declare(Declaration::public(
            name,
            DeclarationKind::Anonymous,
            0,
            scope,
            span,
            span,
        ));
        self.class_body(declaration, span.start as usize);
    }

    fn class_body(&mut self, declaration: u32, start: usize) {
        let around = self.scope();
        if self.recorder.is_deepest(around) {
            return;
        }
        let body = self.recorder.open_scope(around, ScopeKind::Type { declaration }, start);
        if let Some(declared) = self.recorder.facts().declarations.get_mut(declaration as usize) {
            declared.body = body;
        }
        while !matches!(self.token.kind, Kind::Mark(b'{' | b';' | b'}') | Kind::End) {
            if self.begins_name() {
                let chain = self.chain();
                if let Some(node) = self.record(&chain, Context::Type) {
                    self.recorder.facts().bases.push((declaration, node));
                }
            } else {
                self.advance();
            }
        }
        self.recorder.close_scope(body, self.token.span.end as usize);
        if self.is(b'{') {
            self.push(FrameKind::Members, body, declaration);
            self.advance();
        }
    }

    pub(super) fn declare(
        &mut self,
        name: Name,
        span: Span,
        kind: DeclarationKind,
        arity: u8,
        start: usize,
    ) -> u32 {
        let text = span.text(self.text);
        self.recorder.facts().texts.add(&text);
        let scope = self.namespace_scope();
        let whole = Span::new(start, span.end as usize);
        self.recorder.declare(Declaration::public(name, kind, arity, scope, span, whole))
    }

    /// The scope in which what is declared here has its name: always the namespace's.
    fn namespace_scope(&self) -> u32 {
        let around = self
            .frames
            .iter()
            .rev()
            .find(|frame| matches!(frame.kind, FrameKind::File | FrameKind::Namespace));
        around.map_or(0, |frame| frame.scope)
    }

    /// Reads one member of a class, or its head up to where code begins.
    pub(super) fn member(&mut self) {
        let frame = self.frame();
        match (self.token.kind, self.word) {
            (Kind::Mark(b'}'), _) => {
                let end = self.token.span.end;
                self.recorder.close_scope(frame.scope, end as usize);
                if let Some(declared) = self.recorder.facts().declarations.get_mut(frame.declaration as usize)
                {
                    declared.span.end = end;
                }
                self.pop();
                self.advance();
            }
            (Kind::Attribute, _) => self.attributes(),
            (_, Word::Use) => self.traits(),
            (_, Word::Function) => self.function(),
            (_, Word::Const | Word::Case) => self.constant_member(),
            (Kind::Variable, _) => {
                self.advance();
                self.after_property();
            }
            (_, Word::Public | Word::Private | Word::Modifier | Word::Static) => self.advance(),
            (Kind::Word, _) | (Kind::Mark(b'\\' | b'?' | b'('), _) => self.declared_type(),
            _ => self.advance(),
        }
    }

    /// A property ends with a semicolon, a value, or code that reads and writes it.
    fn after_property(&mut self) {
        let frame = self.frame();
        if self.is(b'{') {
            self.push(FrameKind::Block, frame.scope, frame.declaration);
            self.advance();
        } else if !self.is(b';') {
            self.push(FrameKind::Statement, frame.scope, frame.declaration);
        }
    }

    fn constant_member(&mut self) {
        let frame = self.frame();
        self.advance();
        // `const int LIMIT = 3`: a type may stand before the name
        while self.begins_name() || self.word == Word::Builtin {
            let (next, _) = self.peek();
            if next.is(b'=') || next.is(b';') {
                break;
            }
            self.declared_type();
        }
        if self.is_word() {
            let (name, kind) = (self.token.name, MemberKind::Static);
            self.recorder.member(Member::public(frame.declaration, name, kind, NO_TYPE));
            self.advance();
        }
        self.push(FrameKind::Statement, frame.scope, frame.declaration);
    }

    /// Reads `use Named, Watered { … }` inside a class.
    fn traits(&mut self) {
        let frame = self.frame();
        let mut in_braces = false;
        self.advance();
        loop {
            match self.token.kind {
                Kind::End => return,
                Kind::Mark(b';') if !in_braces => return self.advance(),
                Kind::Mark(b'{') => in_braces = true,
                Kind::Mark(b'}') => return self.advance(),
                _ if self.begins_name() && self.before.1 != Word::As => {
                    let chain = self.chain();
                    let names_class =
                        !in_braces || self.token.kind == Kind::Colons || self.before.1 == Word::Insteadof;
                    let node = if names_class { self.record(&chain, Context::Type) } else { None };
                    if let (Some(node), false) = (node, in_braces) {
                        self.recorder.facts().bases.push((frame.declaration, node));
                    }
                    if self.token.kind == Kind::Colons {
                        self.advance(); // the method behind it
                    } else {
                        continue;
                    }
                }
                _ => {}
            }
            self.advance();
        }
    }

    /// Reads a function's head; its parameters and code are read by the frames that follow.
    pub(super) fn function(&mut self) {
        let start = self.token.span.start as usize;
        let frame = self.frame();
        let arrow = self.token.span.len() == 2;
        self.advance();
        if self.is(b'&') {
            self.advance();
        }
        if self.is_word() && !arrow {
            let (name, span) = (self.token.name, self.token.span);
            self.advance();
            if frame.declaration == NO_DECLARATION {
                self.declare(name, span, DeclarationKind::Function, FUNCTION, start);
            }
        }
        if self.is(b'(') {
            self.parameters();
        }
        if self.word == Word::Use {
            // The variables that a closure takes along.
            while !matches!(self.token.kind, Kind::Mark(b')' | b'{' | b';') | Kind::End) {
                self.advance();
            }
            if self.is(b')') {
                self.advance();
            }
        }
        if self.is(b':') {
            self.advance();
            self.declared_type();
        }
        // Code in braces; an arrow function's goes on in the expression around it.
        if self.is(b'{') {
            self.push(FrameKind::Block, frame.scope, frame.declaration);
            self.advance();
        }
    }

    /// Reads `(Taxon $taxon, int ...$counts)`. Default values with calls in them are read as code.
    fn parameters(&mut self) {
        self.advance();
        let mut depth = 0usize;
        while self.token.kind != Kind::End {
            match self.token.kind {
                Kind::Mark(b')') if depth == 0 => return self.advance(),
                Kind::Mark(b'{' | b'}' | b';') if depth == 0 => return,
                Kind::Mark(b'(' | b'[') => depth += 1,
                Kind::Mark(b')' | b']') => depth = depth.saturating_sub(1),
                Kind::Attribute => {
                    self.attributes();
                    continue;
                }
                Kind::Mark(b'=') => {
                    self.default_value();
                    continue;
                }
                Kind::Mark(b'?' | b'\\') | Kind::Word if depth == 0 => {
                    let at = self.token.span.start;
                    self.declared_type();
                    if self.token.span.start != at {
                        continue;
                    }
                }
                _ => {}
            }
            self.advance();
        }
    }

    fn default_value(&mut self) {
        self.advance();
        let mut depth = 0usize;
        while self.token.kind != Kind::End {
            match self.token.kind {
                Kind::Mark(b',' | b')') if depth == 0 => return,
                Kind::Mark(b'{' | b'}' | b';') => return,
                Kind::Mark(b'(' | b'[') => depth += 1,
                Kind::Mark(b')' | b']') => depth = depth.saturating_sub(1),
                Kind::Word | Kind::Mark(b'\\') | Kind::Arrow | Kind::Colons => {
                    self.code_token();
                    continue;
                }
                _ => {}
            }
            self.advance();
        }
    }

    /// Reads a type: `?Taxon`, `Taxon|null`, `(Named&Watered)|false`.
    pub(super) fn declared_type(&mut self) {
        loop {
            let kind = self.token.kind;
            match kind {
                Kind::Mark(b'?' | b'|' | b'(') => self.advance(),
                Kind::Mark(b')') if self.closes_type() => self.advance(),
                // `Taxon & Named`, but `Taxon &$byReference`
                Kind::Mark(b'&')
                    if !matches!(self.peek().0.kind, Kind::Variable | Kind::Mark(b'.' | b'&')) =>
                {
                    self.advance()
                }
                _ if self.begins_name() => {
                    let chain = self.chain();
                    self.record(&chain, Context::Type);
                }
                Kind::Word
                    if matches!(
                        self.word,
                        Word::Own
                            | Word::Builtin
                            | Word::Static
                            | Word::Public
                            | Word::Private
                            | Word::Modifier
                    ) =>
                {
                    self.advance();
                }
                _ => return,
            }
        }
    }

    /// Whether the parenthesis here belongs to a type: another part of the type or a variable follows.
    fn closes_type(&mut self) -> bool {
        let next = self.peek().0;
        next.is(b'|') || next.kind == Kind::Variable
    }

    /// Opens a parenthesis; it may hold the `arguments` of `new class(…)`.
    pub(super) fn open_parenthesis(&mut self, arguments: bool) {
        self.parentheses.push(arguments);
        self.advance();
    }
}
