//! What stands between a declaration's name and its body: type parameters, parameters, constraints.

use super::{DEEPEST, FrameKind, NO_DECLARATION, Reader, Word};
use crate::languages::java::{accessors_of_value, value_of_getter};
use crate::lexis::Kind;
use crate::values::{ToldByFirst, value_of};
use ferngate_model::{Access, ArgumentCounts, Member, MemberKind, NO_TYPE, Name, Span};

impl Reader<'_, '_> {
    /// Reads `(val taxon: Taxon, count: Int = 1)`, whose default values are code; the parameters are locals then, and
    /// those with `val` or `var` properties of the class `owner`. Gives their types, and with how many arguments the
    /// function can be called.
    pub(super) fn value_parameters(
        &mut self,
        scope: u32,
        declaration: u32,
        owner: Option<u32>,
    ) -> (Vec<u32>, ArgumentCounts) {
        let (mut types, mut needed, mut takes_many) = (Vec::new(), 0, false);
        if self.depth >= DEEPEST {
            return (types, ArgumentCounts::ANY);
        }
        self.depth += 1;
        self.push(FrameKind::Block, scope, declaration, false);
        let frames = self.frames.len();
        self.code_token(); // the parenthesis
        let mut begins = true;
        let (mut is_property, mut is_many, mut access) = (false, false, Access::Public);
        while self.tokens.token.kind != Kind::End
            && self.frames.len() >= frames
            && !(self.frames.len() == frames && self.frame().depth == 0)
        {
            let outermost = self.frames.len() == frames && self.frame().depth == 1;
            if begins && outermost && self.word == Word::Val {
                is_property = owner.is_some();
                self.advance();
            } else if begins && outermost && self.is_name() && self.peek().0.is(b':') {
                let (name, span) = (self.tokens.token.name, self.tokens.token.span);
                self.advance();
                self.advance();
                let read = self.type_reference(scope);
                let value_type = match is_many {
                    true => self.recorder.value_type(None, read.node),
                    false => self.spelled(read),
                };
                if types.is_empty() && owner.is_none() && self.told.itself.is_none() {
                    self.told = ToldByFirst { itself: self.hidden, arguments: self.hidden_arguments };
                }
                types.push(value_type);
                takes_many |= is_many;
                needed += usize::from(!self.is(b'='));
                self.values.local(name, value_of(value_type));
                self.is_given(value_type);
                // In the functions of the class a property is one as any other, behind what needs no name there.
                if owner.is_some() {
                    self.values.last_is_initial();
                }
                if let Some(owner) = owner.filter(|_| is_property) {
                    let member = Member::public(owner, name, MemberKind::Value, value_type);
                    self.recorder.member(Member { access, ..member });
                    self.accessors(span, owner, value_type);
                }
                (begins, is_property, is_many, access) = (false, false, false, Access::Public);
            } else if begins && outermost && (self.is_modifier() || self.is(b'@')) {
                match self.tokens.token.span.of(self.text) {
                    b"vararg" => is_many = true,
                    b"private" => access = Access::Private,
                    _ => {}
                }
                if self.is(b'@') { self.whole_annotation() } else { self.advance() }
            } else {
                let comma = self.is(b',');
                self.code_token();
                begins = outermost && comma;
            }
        }
        self.frames.truncate(frames - 1);
        self.depth -= 1;
        let accepted = (needed..=types.len()).map(ArgumentCounts::of);
        let accepted = accepted.fold(ArgumentCounts::default(), ArgumentCounts::with);
        (types, if takes_many { ArgumentCounts::ANY } else { accepted })
    }

    /// Notes the methods by which Java gets and sets a property.
    pub(super) fn accessors(&mut self, name: Span, owner: u32, value_type: u32) {
        let [get, set] = accessors_of_value(name.of(self.text));
        for (name, value_type, count) in [(get, value_type, 0), (set, NO_TYPE, 1)] {
            let member = Member::public(owner, name, MemberKind::Accessor, value_type);
            self.recorder.member(Member { arguments: ArgumentCounts::of(count), ..member });
        }
    }

    /// Notes the value that a method without parameters gives, if it may override a getter of Java.
    pub(super) fn getter(&mut self, name: Span, value_type: u32) {
        let owner = self.frame().declaration;
        if let Some(value) = value_of_getter(name.of(self.text)).filter(|_| owner != NO_DECLARATION) {
            self.recorder.member(Member::public(owner, value.property(), MemberKind::Value, value_type));
        }
    }

    /// Reads `@Name(…)`.
    pub(super) fn whole_annotation(&mut self) {
        self.annotation();
        let (frames, depth) = (self.frames.len(), self.frame().depth);
        if self.is(b'(') && self.behind_word() {
            self.code_token();
            while self.frames.len() > frames
                || self.frame().depth > depth && self.tokens.token.kind != Kind::End
            {
                self.code_token();
            }
        }
    }

    fn behind_word(&self) -> bool {
        self.last_end == self.tokens.token.start()
    }

    /// Reads `where T : Taxon, T : Named`.
    pub(super) fn constraints(&mut self) {
        let scope = self.scope();
        loop {
            self.advance();
            if self.is_name() {
                self.advance();
            }
            if self.is(b':') {
                self.advance();
                self.type_reference(scope);
            }
            if !self.is(b',') {
                return;
            }
        }
    }

    /// Reads `<out T : Taxon, reified U>`, of a class where `owner` is given, else of a function.
    pub(super) fn type_parameters(&mut self, scope: u32, owner: Option<u32>) {
        self.advance();
        while !matches!(self.tokens.token.kind, Kind::Mark(b'>' | b'{' | b'(') | Kind::End) {
            if self.is(b'@') {
                self.annotation();
            } else if self.is_name() && !self.is_modifier() {
                let name = self.tokens.token.name;
                let kind = MemberKind::TypeParameter;
                self.advance();
                let mut bound = None;
                if self.is(b':') {
                    self.advance();
                    let begins = self.tokens.token.name;
                    // Every value is an `Any`.
                    bound = self.type_reference(scope).node.filter(|_| begins != Name::new(b"Any"));
                }
                match owner {
                    Some(owner) => {
                        let bound = self.recorder.value_type(bound, None);
                        self.recorder.member(Member::public(owner, name, kind, bound));
                    }
                    None => self.parameters.push((name, bound)),
                }
            } else {
                self.advance();
            }
        }
        if self.is(b'>') {
            self.advance();
        }
    }
}
