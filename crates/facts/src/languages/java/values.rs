//! Values: of what type each is as far as that is spelled, and which of its members are used.

use super::{Chain, Reader, Word};
use crate::lexis::Kind;
use crate::values::{
    FunctionBegins, Gives, UNKNOWN, behind_names, names, object_of, or_else, part, step, value_of,
};
use ferngate_model::{Context, Name, Root, UseParent};
use std::sync::LazyLock;

/// What functions of the platform give.
pub(super) static GIVES: LazyLock<Gives> = LazyLock::new(|| Gives {
    as_function: names(
        "map flatMap mapToObj mapMulti thenApply thenCompose supplyAsync computeIfAbsent submit",
    ),
    as_argument: names(
        "of ofNullable asList singletonList singleton requireNonNull requireNonNullElse \
         requireNonNullElseGet checkNotNull verifyNotNull completedFuture copyOf just stream iterate \
         unmodifiableList unmodifiableSet unmodifiableCollection unmodifiableMap unmodifiableSortedSet \
         unmodifiableSortedMap synchronizedList synchronizedSet synchronizedCollection synchronizedMap \
         newArrayList newLinkedList newHashSet newLinkedHashSet newTreeSet",
    ),
    numbered: &[],
    of_call_around: names(
        "comparing comparingInt comparingLong comparingDouble thenComparing thenComparingInt \
         thenComparingLong thenComparingDouble groupingBy groupingByConcurrent partitioningBy toMap \
         toConcurrentMap mapping filtering flatMapping reducing summingInt summingLong summingDouble \
         averagingInt averagingLong averagingDouble summarizingInt collectingAndThen maxBy minBy \
         nullsFirst nullsLast",
    ),
    with_keys: names("forEach replaceAll compute computeIfPresent forEachOrdered"),
});

/// The methods by which a key and a value are taken from what a map holds.
static KEY_AND_VALUE: LazyLock<&[Name]> = LazyLock::new(|| names("getKey getValue"));

impl Reader<'_, '_> {
    /// A value of the type just read, of which `node` is the last name.
    pub(super) fn value_of_type(&mut self, node: Option<u32>) -> UseParent {
        value_of(self.spelled(node))
    }

    /// The type just read among the file's types of values; `node` is its last name.
    pub(super) fn spelled(&mut self, node: Option<u32>) -> u32 {
        let given = std::mem::take(&mut self.given);
        self.recorder.spelled_type(given.of(node))
    }

    /// The names in `(bed, width) ->`, if that is what the parenthesis here begins; it is passed then.
    pub(super) fn untyped_parameters(&mut self) -> bool {
        let inside = &self.text[self.tokens.token.end()..];
        let nothing = inside.trim_ascii_start().strip_prefix(b")").map(<[u8]>::trim_ascii_start);
        let behind = nothing.or_else(|| behind_names(inside));
        let Some(body) = behind.and_then(|behind| behind.strip_prefix(b"->")) else { return false };
        if !body.trim_ascii_start().starts_with(b"{") {
            self.values.function_as_argument();
        }
        let at = self.tokens.token.start();
        let taker = self.values.taker(begins(self.before[0]), self.frames.len());
        let with_keys = self.takes_keys();
        self.advance();
        let (mut number, mut first) = (0, UNKNOWN);
        while !matches!(self.tokens.token.kind, Kind::Mark(b')') | Kind::End) {
            if self.is_name() {
                let name = self.tokens.token.name;
                self.values.parameter(name, number, taker, self.recorder, at);
                let given = self.values.of_local(name).unwrap_or(UNKNOWN);
                first = if number == 0 { given } else { first };
                if with_keys && number < KEY_AND_VALUE.len() {
                    let part = part(self.recorder, first, KEY_AND_VALUE[number], at);
                    let value = or_else(self.recorder, given, part, at);
                    self.values.set_local(self.values.locals() - 1, value);
                }
                number += 1;
            }
            self.advance();
        }
        self.advance();
        true
    }

    /// Whether the function that begins here may be given keys and values: `beds.forEach((label, bed) -> …)`.
    fn takes_keys(&mut self) -> bool {
        let call = self.values.parentheses.last().and_then(|call| call.result);
        let names = &self.text[self.tokens.token.end()..];
        let ends = memchr::memchr(b')', names).unwrap_or(0);
        call.is_some_and(|call| self.values.takes_keys(self.recorder, call))
            && memchr::memchr_iter(b',', &names[..ends]).count() == 1
    }

    /// Records a name in code with the members behind it.
    pub(super) fn value_chain(&mut self, chain: &Chain, scope: u32) {
        let links = chain.links();
        let Some(first) = links.first() else { return };
        let called = self.is(b'(');
        let node = match self.values.of_local(first.name) {
            Some(value) if links.len() > 1 || !called => {
                self.values.value = value;
                if value == UNKNOWN || links.len() == 1 {
                    return;
                }
                self.recorder.chain_below(value, &links[1..], Context::Value, called)
            }
            _ => {
                let qualifies = links.len() > 1 || self.is(b'.');
                if qualifies || self.is_method_of_type(chain) {
                    self.recorder.chain(Root::Scope(scope), links, Context::Value, called)
                } else if called
                    || self.is(b'[')
                    || self.values.decides()
                    || self.inherits()
                    || self.is_first_argument()
                {
                    self.recorder.chain(Root::This(scope), links, Context::Value, called)
                } else {
                    None
                }
            }
        };
        self.values.value = node.map_or(UNKNOWN, UseParent::node);
    }

    /// Whether `::` follows on what may be a type; a name in lower case is a local or field.
    fn is_method_of_type(&self, chain: &Chain) -> bool {
        self.is(b':') && self.tokens.cursor.peek(0) == b':' && (chain.generic || self.names_type(chain))
    }

    /// Whether the name just read is the first argument of a call, which may tell what that gives.
    fn is_first_argument(&self) -> bool {
        self.before[1].0 == Kind::Mark(b'(')
            && matches!(self.tokens.token.kind, Kind::Mark(b',' | b')'))
            && self.values.opens_call()
    }

    /// Whether some type of the file derives from another, so that a bare name may be inherited.
    fn inherits(&mut self) -> bool {
        !self.recorder.facts().bases.is_empty()
    }

    /// Reads what follows a dot that does not belong to a chain.
    pub(super) fn after_dot(&mut self) {
        // `Bed.this.row()`, and `Bed.super.row()` of an interface.
        let qualified =
            matches!(self.before[0].1, Word::This | Word::Super) && self.before[1].0 == Kind::Mark(b'.');
        let parent = if qualified { self.values.value } else { self.value_before_dot(self.before[0]) };
        self.advance();
        if self.is(b'<') {
            let scope = self.scope();
            self.type_arguments(scope);
        }
        // `outer.new Inner()` is read as if it were `new Inner()`
        if self.tokens.token.is_word() && self.word != Word::New {
            self.member_of(parent);
        }
    }

    /// The value that ends with the token `last`, which stands before a dot or `::`.
    pub(super) fn value_before_dot(&mut self, last: (Kind, Word)) -> UseParent {
        let scope = self.scope();
        match last {
            (Kind::Mark(b')' | b']' | b'>'), _) => self.values.value,
            (Kind::Word, Word::This) => UseParent::root(Root::This(scope)),
            (Kind::Word, Word::Super) => step(
                self.recorder,
                UseParent::root(Root::This(scope)),
                Name::SUPER,
                self.tokens.token.start(),
            ),
            (Kind::Word, word) if !word.reserved() => self.values.value,
            _ => UNKNOWN,
        }
    }

    /// Reads names behind a dot on `parent`.
    pub(super) fn member_of(&mut self, parent: UseParent) {
        if self.word.reserved() {
            let mut class = UNKNOWN;
            match self.word {
                Word::Class => class = self.values.given_as_value(parent, self.recorder),
                Word::This | Word::Super => {
                    self.values.value = object_of(self.recorder, parent);
                    return self.advance();
                }
                _ => {}
            }
            self.advance();
            let is_argument = self.is(b',') || self.is(b')');
            self.values.value = if is_argument { class } else { UNKNOWN };
            return;
        }
        let scope = self.scope();
        let chain = self.chain(scope, false);
        let called = self.is(b'(');
        if parent == UNKNOWN {
            self.values.value = UNKNOWN;
        } else {
            self.values.member(self.recorder, parent, chain.links(), called);
        }
    }

    /// Reads `(`; what stands before it tells whether it calls or groups.
    pub(super) fn open_parenthesis(&mut self) {
        let calls = match self.before[0] {
            (Kind::Word, word) => !word.reserved(),
            // `bed -> (Row) bed` calls nothing.
            (Kind::Mark(b'>'), _) => self.before[1].0 != Kind::Mark(b'-'),
            _ => false,
        };
        let (switches, place) = (self.before[0].1 == Word::Switch, (self.frames.len(), self.frame().depth));
        let denies = self.before[0].0 == Kind::Mark(b'!');
        let parenthesis = self.values.open(calls, self.tokens.token.start());
        (parenthesis.switches, parenthesis.place, parenthesis.denies) = (switches, place, denies);
        self.advance();
    }

    /// `case OPEN:` names a constant of what the innermost `switch` around tells apart.
    pub(super) fn constant_of_switch(&mut self, chain: &Chain) {
        let here = (self.frames.len(), self.frame().depth);
        while self.switches.last().is_some_and(|(frames, depth, _)| (*frames, *depth) >= here) {
            self.switches.pop();
        }
        if let Some((_, _, value)) = self.switches.last()
            && *value != UNKNOWN
        {
            self.recorder.chain_below(*value, chain.links(), Context::Value, false);
        }
    }
}

/// How a function without spelled types begins behind the token `before`.
pub(super) fn begins(before: (Kind, Word)) -> FunctionBegins {
    match before {
        (Kind::Mark(b'='), _) => FunctionBegins::Assigned,
        // No other parenthesis stands right before a function.
        (Kind::Mark(b')'), _) => FunctionBegins::Cast,
        (_, Word::Return) => FunctionBegins::Returned,
        _ => FunctionBegins::Elsewhere,
    }
}
