//! Functions between braces: what they are given, and what calls make of what they give.

use super::values::Scoping;
use super::{FrameKind, Lambda, Reader};
use crate::cursor::in_word;
use crate::lexis::Kind;
use crate::values::{Gives, PARTS, UNKNOWN, names, or_else, pair, part, receiver_of, step};
use ferngate_model::{HAS_RECEIVER, Name, Root, UseParent};
use std::sync::LazyLock;

/// What functions of the standard library and of those around it give.
pub(super) static GIVES: LazyLock<Gives> = LazyLock::new(|| Gives {
    as_function: names(
        "map flatMap mapNotNull mapIndexed mapIndexedNotNull computeIfAbsent getOrPut getOrElse \
         runCatching runBlocking withContext async synchronized lazy run withLock coroutineScope \
         supervisorScope withTimeout remember derivedStateOf firstNotNullOf firstNotNullOfOrNull maxOf \
         minOf zipWithNext associate",
    ),
    as_argument: names(
        "listOf listOfNotNull mutableListOf arrayListOf setOf mutableSetOf hashSetOf linkedSetOf \
         setOfNotNull arrayOf sequenceOf flowOf mapOf mutableMapOf linkedMapOf hashMapOf requireNotNull \
         checkNotNull lazyOf fold generateSequence WeakReference SoftReference AtomicReference \
         MutableStateFlow MutableLiveData mutableStateOf CompletableDeferred of ofNullable asList \
         singletonList singleton requireNonNull ArrayList LinkedList HashSet LinkedHashSet ArrayDeque \
         HashMap LinkedHashMap TreeMap TreeSet",
    ),
    numbered: names("withIndex"),
    of_call_around: names("compareBy compareByDescending Comparator nullsFirst nullsLast"),
    with_keys: names("forEach replaceAll compute computeIfPresent"),
});

/// Functions of the standard library that give what they are called on, or what it holds, to a function as its `it`; that
/// function has nothing in sight without a name.
pub(super) static GIVE_IT: LazyLock<&[Name]> = LazyLock::new(|| {
    names(
        "let also takeIf takeUnless forEach forEachIndexed onEach map mapNotNull mapIndexed flatMap filter filterNot \
         filterIndexed partition any all none count first firstOrNull last lastOrNull single singleOrNull find \
         findLast indexOfFirst indexOfLast associate associateBy associateWith groupBy sortedBy sortedByDescending \
         maxBy minBy maxByOrNull minByOrNull sumBy sumOf distinctBy fold reduce takeWhile dropWhile removeIf",
    )
});

/// The function that makes a pair of what it is given.
pub(super) static PAIR: LazyLock<Name> = LazyLock::new(|| Name::new(b"Pair"));

/// One half of what a function makes a map of.
#[derive(Clone, Copy, Debug)]
enum Half {
    /// What the function gives that it is given.
    Given,
    /// All that it is called on.
    All,
    /// Each element of that.
    Element,
    /// The key of each.
    Key,
    /// The value of each.
    Value,
}

/// Functions that give a map, with what its keys and values are.
static GROUPS: LazyLock<[(Name, [Half; 2]); 5]> = LazyLock::new(|| {
    [
        ("groupBy", [Half::Given, Half::All]),
        ("associateBy", [Half::Given, Half::Element]),
        ("associateWith", [Half::Element, Half::Given]),
        ("mapValues", [Half::Key, Half::Given]),
        ("mapKeys", [Half::Given, Half::Value]),
    ]
    .map(|(text, halves)| (Name::new(text.as_bytes()), halves))
});

impl Reader<'_, '_> {
    /// Opens a brace in code: a block, or a function with what it is given.
    pub(super) fn open_brace(&mut self) {
        let lambda = self.lambda();
        let scoping = self.scoping.take();
        self.delegates = false;
        let frame = self.frame();
        let mut around = self.sight();
        if let (Some(locals), true) = (self.loop_locals, self.head_end == self.last_end) {
            around.locals = locals;
        }
        (around.paused, around.undecided) = (self.values.pause(), self.undecided.take());
        let (scope, declaration) = (frame.scope, frame.declaration);
        self.push(FrameKind::Block, scope, declaration, false);
        if let Some(block) = self.frames.last_mut() {
            (block.around, block.lambda) = (around, lambda);
            block.subject = self.subject.take();
        }
        if let Some((value, Scoping { receives: true, .. })) = scoping {
            self.receivers.push(value);
        }
        if let Some(receiver) = lambda.and_then(|lambda| self.declared_receiver(lambda)) {
            self.receivers.push(receiver);
        }
        self.advance();
        self.named_parameters();
    }

    /// What the brace here begins, if it is a function.
    fn lambda(&mut self) -> Option<Lambda> {
        if let Some((value, how)) = self.scoping {
            return Some(Lambda { it: value, argument: None, gives: how.returns.then_some(value) });
        }
        let value = self.values.value;
        if self.values.takes_of_call_around(self.recorder, value) {
            let call = self.values.parentheses.last().and_then(|call| call.result);
            let it = call.unwrap_or(UNKNOWN);
            return Some(Lambda { it, argument: Some(Name::LAST), gives: Some(value) });
        }
        match self.before {
            (Kind::Mark(b')'), _) if self.closed => {
                let gives = (!self.delegates).then_some(value);
                Some(Lambda { it: value, argument: Some(Name::LAST), gives })
            }
            (Kind::Word, word) if !word.reserved() => {
                let value = self.called_with_function(value);
                // What is there by a delegate is what that holds: `by lazy { … }`.
                let gives = (!self.delegates).then_some(value);
                Some(Lambda { it: value, argument: Some(Name::LAST), gives })
            }
            (Kind::Mark(b'(' | b','), _) => {
                let (call, argument) = self.values.call_around(self.recorder)?;
                Some(Lambda { it: call, argument: Some(argument), gives: Some(UNKNOWN) })
            }
            // `val water: (Bed) -> Unit = { bed -> … }`
            (Kind::Mark(b'='), _) if value != UNKNOWN && self.is_assigned() => {
                Some(Lambda { it: value, argument: Some(Name::ITSELF), gives: Some(value) })
            }
            _ => None,
        }
    }

    /// What needs no name in a function whose declared type extends one: `val water: Bed.() -> Unit = { … }`.
    fn declared_receiver(&mut self, lambda: Lambda) -> Option<UseParent> {
        let (Ok(Root::Value(value_type)), Some(Name::ITSELF)) = (lambda.it.get(), lambda.argument) else {
            return None;
        };
        let declared = self.recorder.facts().value_types.get(value_type as usize)?;
        let extends = declared.outer == HAS_RECEIVER;
        let (at, receiver) = (self.tokens.token.start(), Name::given(Name::ITSELF, Name::RECEIVER));
        extends.then(|| step(self.recorder, lambda.it, receiver, at))
    }

    /// Whether the `=` just read gives what is before it a value, and is no part of another operator.
    fn is_assigned(&self) -> bool {
        let before = self.text[..self.tokens.token.start()].trim_ascii_end();
        let named = before.strip_suffix(b"=").and_then(<[u8]>::last);
        named.is_some_and(|last| in_word(*last) || matches!(last, b' ' | b'\t' | b'>' | b')' | b'?' | b'`'))
    }

    /// What gives `value` is called with a function in braces and nothing else.
    fn called_with_function(&mut self, value: UseParent) -> UseParent {
        let Err(node) = value.get() else { return value };
        let at = self.tokens.token.start();
        self.values.value = UseParent::node(self.recorder.called_with(node, 1, at));
        self.values.value
    }

    /// The name of the function that gives `value`, if it is one that is called.
    pub(super) fn function_of(&mut self, value: UseParent) -> Option<Name> {
        let node = value.get().err()?;
        Some(self.recorder.facts().uses.get(node as usize)?.name)
    }

    /// The map that the call `result` gives, which is closed here, if it gives one of what its function gives.
    pub(super) fn grouped(&mut self, result: UseParent) -> Option<UseParent> {
        let name = self.function_of(result)?;
        let [key, value] = GROUPS.iter().find(|(of, _)| *of == name)?.1;
        let (given, all) = (self.values.value, receiver_of(self.recorder, result));
        if all == UNKNOWN && given == UNKNOWN {
            return None;
        }
        let key = self.half(key, given, all);
        let value = self.half(value, given, all);
        Some(pair(self.recorder, key, value))
    }

    /// One half of a map made of `all`, by a function that gives `given`.
    fn half(&mut self, half: Half, given: UseParent, all: UseParent) -> UseParent {
        let at = self.tokens.token.start();
        let mut element = || step(self.recorder, all, Name::EACH, at);
        match half {
            Half::Given => given,
            Half::All => all,
            Half::Element => element(),
            Half::Key => {
                let element = element();
                part(self.recorder, element, PARTS[0], at)
            }
            Half::Value => {
                let element = element();
                part(self.recorder, element, PARTS[1], at)
            }
        }
    }

    /// The first or second parameter, by its `number`, of a function that has two: perhaps a key, and its value.
    pub(super) fn given_of_two(&mut self, lambda: Lambda, number: usize) -> UseParent {
        let given = self.given(lambda, number);
        if number > 1 || !self.values.takes_keys(self.recorder, lambda.it) {
            return given;
        }
        let (entry, at) = (self.given(lambda, 0), self.tokens.token.start());
        let part = part(self.recorder, entry, PARTS[number], at);
        or_else(self.recorder, given, part, at)
    }

    pub(super) fn given(&mut self, lambda: Lambda, number: usize) -> UseParent {
        match lambda.argument {
            Some(argument) => {
                let at = self.tokens.token.start();
                step(self.recorder, lambda.it, Name::given(argument, number), at)
            }
            None if number == 0 => lambda.it,
            None => UNKNOWN,
        }
    }
}
