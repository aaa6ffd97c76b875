//! Values: of what type each is as far as that is spelled, and which of their members are used.

use super::lambdas::{GIVE_IT, PAIR};
use super::types::ReadType;
use super::{Chain, Frame, FrameKind, Lambda, Reader, Sight, Undecided, Word};
use crate::cursor::in_word;
use crate::lexis::Kind;
use crate::values::{UNKNOWN, first_meaning, or_else, pair, part, receiver_of, step, value_of};
use ferngate_model::{
    CONSTANT, ChainLink, Context, FUNCTION, HAS_RECEIVER, NO_TYPE, Name, Root, UseParent, ValueType,
};
use std::sync::LazyLock;

/// What a function of the standard library does with the value that it is called on and with its lambda.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) struct Scoping {
    /// The value is there without a name, and not as `it`.
    pub(super) receives: bool,
    /// The call gives the value, and not what the lambda gives.
    pub(super) returns: bool,
}

static SCOPING: LazyLock<[(Name, Scoping); 7]> = LazyLock::new(|| {
    let named = |text: &str, receives, returns| (Name::new(text.as_bytes()), Scoping { receives, returns });
    [
        named("let", false, false),
        named("use", false, false),
        named("also", false, true),
        named("takeIf", false, true),
        named("takeUnless", false, true),
        named("run", true, false),
        named("apply", true, true),
    ]
});
/// No more of the functions around are asked for what they bring into sight.
const MOST_RECEIVERS: usize = 3;
/// No more of the braces around are looked at, so that the time stays linear.
const MOST_FRAMES: usize = 64;
static IT: LazyLock<Name> = LazyLock::new(|| Name::new(b"it"));
/// Stands for `this` where names stand whose types are told.
pub(super) static THIS: LazyLock<Name> = LazyLock::new(|| Name::new(b"this"));

impl Reader<'_, '_> {
    /// What is in sight here.
    pub(super) fn sight(&self) -> Sight {
        let (locals, receivers) = (self.values.locals(), self.receivers.len());
        let (parentheses, initial) = (self.values.parentheses.len(), self.values.initial);
        Sight { locals, receivers, parentheses, initial, ..Sight::default() }
    }

    /// Brings back what was in sight when `frame` began.
    pub(super) fn restore(&mut self, frame: &Frame) {
        let around = frame.around;
        self.values.resume(around.paused, around.locals);
        self.forget_receivers(around.receivers);
        self.values.parentheses.truncate(around.parentheses);
        self.undecided = around.undecided;
        self.values.initial = around.initial;
        if let Some(made) = frame.made {
            self.values.value = made;
        }
        if let Some(Lambda { gives: Some(value), .. }) = frame.lambda {
            let at = self.tokens.token.start();
            self.values.value = match self.grouped(value) {
                Some(groups) => groups,
                None => self.values.given_a_function(self.recorder, value, at),
            };
        }
    }

    /// A member begins: what was in sight of the last one is gone.
    pub(super) fn begin_member(&mut self) {
        let around = self.frame().inside;
        self.values.forget(around.locals);
        self.forget_receivers(around.receivers);
        self.undecided = None;
        self.values.initial = true;
        self.parameters.clear();
    }

    fn forget_receivers(&mut self, count: usize) {
        self.receivers.truncate(count);
        if self.narrowed > count {
            self.narrowed = 0;
        }
    }

    /// What needs no name from here on is `value`, in place of what the last `is` said.
    pub(super) fn narrow_this(&mut self, value: UseParent) {
        if self.narrowed > 0 && self.narrowed == self.receivers.len() {
            self.receivers.pop();
        }
        self.receivers.push(value);
        self.narrowed = self.receivers.len();
    }

    /// The name whose value the current `is` tells the type of, until the code around ends: `bed is Plot`, or a branch
    /// of `when (bed)`. Where `!is` leaves the code, it is of that type from there on too.
    pub(super) fn told_apart(&self) -> Option<Name> {
        let (name, end) = self.last_name;
        let between = self.text.get(end..self.tokens.token.start()).unwrap_or_default();
        let before = between.strip_suffix(b"!").unwrap_or(between);
        if self.last_end >= end && before.iter().all(|byte| matches!(byte, b' ' | b'\t')) {
            return Some(name);
        }
        match self.before.0 {
            Kind::Mark(b'{' | b'}' | b',') => self.frame().subject,
            _ if self.on_new_line() => self.frame().subject,
            _ => None,
        }
    }

    /// The value of the local `name`, or of the `it` of the function around.
    fn local(&mut self, name: Name) -> Option<UseParent> {
        let known = self.values.of_local(name);
        if known.is_some() || name != *IT {
            return known;
        }
        let lambda = self.frames.iter().rev().take(MOST_FRAMES).find_map(|frame| frame.lambda)?;
        Some(self.given(lambda, 0))
    }

    /// Whether the words `word` stand right before here.
    fn ends_with(&self, word: &[u8]) -> bool {
        let before = self.text.get(..self.last_end).and_then(|text| text.strip_suffix(word));
        before.is_some_and(|before| before.last().is_none_or(|byte| !in_word(*byte)))
    }

    /// Whether a line ends between the token before and the current one.
    pub(super) fn on_new_line(&self) -> bool {
        let between = self.text.get(self.last_end..self.tokens.token.start()).unwrap_or_default();
        memchr::memchr(b'\n', between).is_some()
    }

    /// Ends the first value of a local or member where its line ends and nothing goes on with it.
    pub(super) fn line_may_end(&mut self) {
        if !(self.values.decides() || self.undecided.is_some() || self.values.operates()) {
            return;
        }
        let goes_on = match self.tokens.token.kind {
            Kind::Mark(b'.' | b'&' | b'|') => true,
            Kind::Mark(b'?') => {
                // What follows `?:` is used only where there is nothing before it.
                if self.behind() == b':' {
                    return self.end_value();
                }
                true
            }
            _ => false,
        };
        let ends = match self.before.0 {
            Kind::Word => self.before.1 != Word::By,
            Kind::Text | Kind::Number | Kind::Mark(b')' | b']' | b'}' | b'>' | b'?' | b'!') => true,
            _ => false,
        };
        if !goes_on && ends && self.on_new_line() {
            self.end_value();
        }
    }

    /// An expression ends: what it is the first value of is of its type.
    pub(super) fn end_value(&mut self) {
        let depth = self.values.parentheses.len();
        self.delegates &= depth > 0;
        self.values.first_value_ends(self.recorder, self.tokens.token.start());
        let Some(Undecided { first, count, .. }) =
            self.undecided.filter(|undecided| undecided.depth >= depth)
        else {
            return;
        };
        self.undecided = None;
        let value_type = match self.values.value.get() {
            Ok(Root::Value(value_type)) => value_type,
            Ok(_) => NO_TYPE,
            Err(node) => self.recorder.spelled_type(ValueType::new(Some(node), None)),
        };
        if value_type != NO_TYPE {
            let members = self.recorder.facts().members.get_mut(first as usize..count as usize);
            members.into_iter().flatten().for_each(|member| member.value_type = value_type);
        }
    }

    /// The members from `first` on are of the type of the value that follows.
    pub(super) fn decide_members(&mut self, first: usize) {
        let (first, count) = (first as u32, self.recorder.facts().members.len() as u32);
        self.undecided = Some(Undecided { first, count, depth: self.values.parentheses.len() });
    }

    /// Whether what was just read is called here: with a parenthesis on its line, since one on the next begins a statement, or
    /// with a function in braces.
    pub(super) fn is_called(&self) -> bool {
        let between = || self.text.get(self.last_end..self.tokens.token.start()).unwrap_or_default();
        let takes_function = self.is(b'{') && !self.brace_opens_class();
        takes_function || self.is(b'(') && !between().contains(&b'\n')
    }

    /// Reads `(` or `[` in code.
    pub(super) fn open(&mut self) {
        let place = (self.frames.len(), self.frame().depth + 1);
        if self.is(b'[') {
            return self.values.open_bracket(place);
        }
        let calls = match self.before {
            (Kind::Word, word) => !word.reserved() && self.is_called(),
            // `is Bed -> (bed as Row).dig()` calls nothing.
            (Kind::Mark(b'>'), _) => {
                !self.text[..self.tokens.token.start()].trim_ascii_end().ends_with(b"->")
            }
            _ => false,
        };
        let is_when = self.before.1 == Word::When;
        let is_with = calls && self.ends_with(b"with");
        if let (Some(made), Err(node), true) = (self.made.take(), self.values.value.get(), calls) {
            // `Pot<Bed>()` is of that type as it is spelled.
            self.values.value = value_of(self.spelled(ReadType { node: Some(node), ..made }));
        }
        let counts = calls && self.names_what_is_called();
        let parenthesis = self.values.open(calls && !is_with, self.tokens.token.start());
        parenthesis.counts = counts;
        (parenthesis.place, parenthesis.receives, parenthesis.switches) = (place, is_with, is_when);
        parenthesis.heads = matches!(self.before.1, Word::For | Word::Flow);
        parenthesis.loops = self.before.1 == Word::For;
    }

    /// Whether the value just read is that of the name before, and not one before `catch (` or the parameters of a function.
    fn names_what_is_called(&mut self) -> bool {
        let node = self.values.value.get().err().map(|node| first_meaning(self.recorder, node));
        let used = node.and_then(|node| self.recorder.facts().uses.get(node as usize)).copied();
        let before = self.text.get(..self.last_end).unwrap_or_default();
        let length = before.iter().rev().take_while(|byte| in_word(**byte)).count();
        let name = Name::new(&before[before.len() - length..]);
        used.is_some_and(|used| used.name == name || self.before.0 == Kind::Mark(b'>'))
    }

    /// Reads `)` or `]` in code.
    pub(super) fn close_value(&mut self) {
        let (base, at) = (self.frame().around.parentheses, self.tokens.token.start());
        self.end_value();
        self.subject = None;
        let last = self.values.value;
        let counts = self.values.parentheses.last().is_some_and(|call| call.counts);
        let closed = if counts && self.is(b')') {
            let ends_argument = !matches!(self.before.0, Kind::Mark(b'(' | b','));
            // A function in braces is one more.
            let function_follows = self.peek().0.is(b'{') && !self.brace_opens_class();
            let beyond_commas = usize::from(ends_argument) + usize::from(function_follows);
            self.values.close_call(base, beyond_commas, self.recorder, at, false)
        } else {
            self.values.close(base, self.recorder, at)
        };
        self.closed = false;
        let Some(closed) = closed else { return };
        if closed.heads {
            self.head_end = self.tokens.token.end();
            self.loop_locals = closed.loops.then_some(closed.locals);
        }
        if self.is(b']') {
            self.values.element(&closed, last, self.recorder, at);
        } else if let Some(result) = closed.result {
            self.closed = true;
            if closed.commas == 1 && self.function_of(result) == Some(*PAIR) {
                self.values.value = pair(self.recorder, closed.first, last);
            }
        } else if closed.switches {
            let (name, end) = self.last_name;
            self.subject = self.declared_subject.take().or_else(|| (end == self.last_end).then_some(name));
        } else if closed.receives {
            self.scoping = Some((self.values.value, Scoping { receives: true, returns: false }));
        }
    }

    /// `this`, of a function that extends a type or of the class around.
    pub(super) fn this(&self) -> UseParent {
        self.receivers.last().copied().unwrap_or_else(|| UseParent::root(Root::This(self.scope())))
    }

    pub(super) fn super_value(&mut self) -> UseParent {
        let this = UseParent::root(Root::This(self.scope()));
        step(self.recorder, this, Name::SUPER, self.tokens.token.start())
    }

    /// The value that ends before a dot.
    pub(super) fn value_before_dot(&self) -> UseParent {
        match self.before {
            (Kind::Mark(b')' | b']' | b'}' | b'!' | b'?' | b'>'), _) => self.values.value,
            (Kind::Word, Word::This | Word::Super) => self.values.value,
            (Kind::Word, word) if !word.reserved() => self.values.value,
            _ => UNKNOWN,
        }
    }

    /// Whether a value ends right before here.
    pub(super) fn ends_operand(&self) -> bool {
        match self.before {
            (Kind::Text | Kind::Number | Kind::Mark(b')' | b']'), _) => true,
            (Kind::Word, word) => matches!(word, Word::None | Word::Soft | Word::This),
            _ => false,
        }
    }

    /// Whether what is here is code: between braces or parentheses, or what a member is of the type of.
    fn is_code(&self) -> bool {
        let frame = self.frame();
        frame.kind == FrameKind::Block || frame.depth > 0 || self.undecided.is_some()
    }

    /// Whether the current name, behind `before`, is the function in `bed shares crop`.
    pub(super) fn is_infix(&mut self) -> bool {
        self.ends_operand()
            && self.infix_end != self.last_end
            && self.head_end != self.last_end
            && self.is_code()
            && !self.on_new_line()
            && {
                let (next, _) = self.peek();
                matches!(next.kind, Kind::Word | Kind::Text | Kind::Number | Kind::Mark(b'('))
            }
    }

    /// Records a name in code with the names behind it.
    pub(super) fn value_chain(&mut self, chain: &Chain, scope: u32) {
        let called = self.is_called();
        let links = chain.links();
        let Some((first, rest)) = links.split_first() else { return };
        if rest.is_empty() {
            self.last_name = (first.name, first.span.end as usize);
        }
        if rest.is_empty() && self.names_argument() {
            self.values.value = UNKNOWN;
            return;
        }
        if called && rest.is_empty() {
            if let Some(given) = self.called_local(first.name, first.span.start as usize) {
                self.values.value = given;
                return;
            }
        } else if let Some(value) = self.local(first.name) {
            self.values.value = value;
            return self.members(rest, called);
        }
        let scoping = self.scoping_function(rest, called);
        let links = if scoping.is_some() { &links[..links.len() - 1] } else { links };
        let node = self.global(chain, links, scope, called && scoping.is_none());
        self.values.value = node.map_or(UNKNOWN, UseParent::node);
        if called || !self.is_capital(first) {
            self.by_receivers(links, called);
            if let Some(node) = node.filter(|_| called) {
                // What no receiver has may be known without one.
                let at = self.tokens.token.start();
                self.values.value = or_else(self.recorder, self.values.value, UseParent::node(node), at);
            }
        }
        if let Some(local) = self.values.of_local(first.name).filter(|_| called && rest.is_empty()) {
            // Perhaps a local whose type says what it gives when it is called.
            let at = first.span.start as usize;
            let given = part(self.recorder, local, Name::CALL, at);
            self.values.value = or_else(self.recorder, self.values.value, given, at);
        }
        self.scoping = scoping.map(|how| (self.values.value, how));
    }

    /// What the local `name` gives that is called: a function inside of another one, or a value that is a function.
    fn called_local(&mut self, name: Name, at: usize) -> Option<UseParent> {
        if let Some(given) = self.values.of_function(name) {
            return Some(given);
        }
        // Of other values it is not known here whether they can be called.
        let (value, _) = self.function_local(name)?;
        Some(part(self.recorder, value, Name::CALL, at))
    }

    /// What a local gives that is a function and is called on a value as if that had it: `bed.price(2)`.
    fn called_with_receiver(&mut self, link: &ChainLink) -> Option<UseParent> {
        let (value, _) = self.function_local(link.name).filter(|(_, extends)| *extends)?;
        Some(part(self.recorder, value, Name::CALL, link.span.start as usize))
    }

    /// The local `name` whose type is that of a function, and whether that extends what it is called on.
    fn function_local(&mut self, name: Name) -> Option<(UseParent, bool)> {
        let value = self.values.of_local(name)?;
        let Ok(Root::Value(value_type)) = value.get() else { return None };
        match self.recorder.facts().value_types.get(value_type as usize)?.outer {
            NO_TYPE => Some((value, false)),
            HAS_RECEIVER => Some((value, true)),
            _ => None,
        }
    }

    /// Records a name that may be a member of what needs no name here: what is extended, or what functions around are
    /// given so.
    fn by_receivers(&mut self, links: &[ChainLink], called: bool) {
        for at in (0..self.receivers.len()).rev().take(MOST_RECEIVERS) {
            let node = self.recorder.chain_below(self.receivers[at], links, Context::Value, called);
            self.values.value = node.map_or(UNKNOWN, UseParent::node);
        }
        let mut seen = 0;
        for at in (0..self.frames.len()).rev().take(MOST_FRAMES) {
            let Some(Lambda { it, argument: Some(argument), .. }) = self.frames[at].lambda else { continue };
            seen += 1;
            if seen > MOST_RECEIVERS {
                return;
            }
            let gives_it = self.function_of(it).is_some_and(|name| GIVE_IT.contains(&name));
            if it != UNKNOWN && !gives_it {
                let start = self.tokens.token.start();
                let receiver = step(self.recorder, it, Name::given(argument, Name::RECEIVER), start);
                self.recorder.chain_below(receiver, links, Context::Value, called);
            }
        }
    }

    /// Records a name that is no local: a class, a function or a property, outside of classes or inherited.
    fn global(&mut self, chain: &Chain, links: &[ChainLink], scope: u32, called: bool) -> Option<u32> {
        let root = Root::Scope(scope);
        let (first, rest) = links.split_first()?;
        let capital = links.iter().any(|link| self.is_capital(link));
        let single = rest.is_empty();
        let typed = |reader: &mut Self| reader.recorder.chain(root, links, Context::Value, called && !single);
        match (called, capital) {
            (true, _) if single => {
                self.recorder.chain(root, chain.named(FUNCTION).links(), Context::Value, called)
            }
            (_, true) => {
                let node = typed(self);
                if single {
                    let constant = ChainLink { arity: CONSTANT, ..*first };
                    self.recorder.chain(root, &[constant], Context::Value, false);
                }
                for (at, link) in rest.iter().enumerate() {
                    self.behind_dot(*link, called && at + 1 == rest.len());
                }
                node
            }
            (_, false) => {
                if called {
                    // `a.b.c(…)` may be a function by its full name.
                    self.recorder.chain(root, chain.named(FUNCTION).links(), Context::Value, false);
                }
                let first = ChainLink { arity: CONSTANT, ..*first };
                let node = self.recorder.used(UseParent::root(root), first, Context::Value, false);
                self.recorder.chain_below(UseParent::node(node), rest, Context::Value, called).or(Some(node))
            }
        }
    }

    /// Whether the name just read is that of an argument: `(width = 3)`.
    fn names_argument(&self) -> bool {
        self.is(b'=') && self.behind() != b'=' && self.frame().depth > 0
    }

    /// What the last of `links` does, if it is `apply` or its like, and a brace follows.
    fn scoping_function(&self, links: &[ChainLink], called: bool) -> Option<Scoping> {
        let last = links.last().filter(|_| called && self.is(b'{'))?;
        SCOPING.iter().find(|(name, _)| *name == last.name).map(|(_, how)| *how)
    }

    /// Records names behind a dot on the value just read.
    pub(super) fn members(&mut self, links: &[ChainLink], called: bool) {
        if let ([only], true) = (links, called)
            && let Some(given) = self.called_with_receiver(only)
        {
            self.values.value = given;
            return;
        }
        let scoping = self.scoping_function(links, called);
        let parent = self.values.value;
        let before = if scoping.is_some() { &links[..links.len() - 1] } else { links };
        if parent == UNKNOWN {
            for (at, link) in links.iter().enumerate() {
                self.behind_dot(*link, called && at + 1 == links.len());
            }
        } else if !before.is_empty() {
            self.values.member(self.recorder, parent, before, called && scoping.is_none());
        }
        if let (Some(_), Some(last), true) = (scoping, links.last(), parent != UNKNOWN) {
            // The project may have a function of that name itself.
            let value = self.values.value;
            self.recorder.used(value, *last, Context::Value, true);
        }
        self.scoping = scoping.map(|how| (self.values.value, how));
        // `also(::water)` gives what it is called on, too.
        let returns = |link: &&ChainLink| SCOPING.iter().any(|(name, how)| *name == link.name && how.returns);
        if scoping.is_none() && self.is(b'(') && links.last().filter(returns).is_some() {
            self.values.value = receiver_of(self.recorder, self.values.value);
        }
    }
}
