//! Values while code is read: of what type each is as far as that is spelled, so that the members used of it can be
//! noted. Shared by the readers of languages whose names live in namespaces.

mod blocks;
mod functions;
mod operators;
mod parentheses;
mod steps;

pub use self::blocks::BlockOf;
pub use self::functions::FunctionBegins;
pub use self::operators::Operator;
pub use self::parentheses::Parenthesis;
pub use self::steps::{
    Given, GivenParameters, ToldByFirst, first_meaning, object_of, or_else, pair, part, receiver_of, step,
    value_of,
};

use self::blocks::Block;
use self::operators::Operand;
use self::steps::{given, is_class, is_of_several, note_count, note_first, type_of, with_given};
use crate::cursor::in_word;
use ferngate_model::{
    BUILT_IN, CLASS_OF, ChainLink, Context, NO_TYPE, Name, Recorder, Root, UseParent, ValueType,
};
use std::sync::LazyLock;

/// The parts of a value that is taken apart, as they are called where they are declared.
pub static PARTS: LazyLock<[Name; 8]> =
    LazyLock::new(|| std::array::from_fn(|at| Name::new(format!("component{}", at + 1).as_bytes())));

/// A value of which nothing is known.
pub const UNKNOWN: UseParent = UseParent::MEMBER_OF_ANY;

/// More locals than twice this are in no code that a person wrote.
const MOST_LOCALS: usize = 256;

/// A local or parameter, with the type of its value.
#[derive(Clone, Copy, Debug)]
struct Local {
    name: Name,
    value: UseParent,
    /// It is a function, and the value what that gives.
    is_function: bool,
    /// It is given to make an object, and only what the members are first sees it.
    is_initial: bool,
    /// It is the parameter of a function of one expression.
    is_parameter: bool,
    /// It is in sight behind the statement that declares it, too.
    is_kept: bool,
}

/// Functions of the libraries around of which a language knows what they give.
#[derive(Clone, Copy, Debug)]
pub struct Gives {
    /// Those that give what the function gives that they are given, or a collection of that.
    pub as_function: &'static [Name],
    /// Those that give what they are given first, or a collection of that.
    pub as_argument: &'static [Name],
    /// Those that number the elements of what they are called on.
    pub numbered: &'static [Name],
    /// Those whose functions are given what the call around holds: `sort(comparing(bed -> bed.width()))`.
    pub of_call_around: &'static [Name],
    /// Those that give keys and values to functions with two parameters.
    pub with_keys: &'static [Name],
}

/// A local without a spelled type, whose first value is being read.
#[derive(Clone, Copy, Debug)]
struct Untyped {
    local: usize,
    /// Open parentheses around it.
    depth: usize,
    /// It takes the elements of that value one after another.
    is_loop: bool,
    /// It and so many locals behind it take parts of the value; zero where it takes the whole.
    parts: usize,
    /// What a cast makes of the value.
    cast: Option<UseParent>,
}

impl Untyped {
    fn new(local: usize, depth: usize) -> Self {
        Self { local, depth, is_loop: false, parts: 0, cast: None }
    }
}

/// A local whose first value waits until an inner piece of code is read, and an operator that does.
#[derive(Clone, Copy, Debug, Default)]
pub struct Paused(Option<Untyped>, Option<Operand>);

/// What is known of the values in sight.
#[derive(Debug)]
pub struct Values {
    /// What the expression just read gives.
    pub value: UseParent,
    /// Open parentheses and brackets.
    pub parentheses: Vec<Parenthesis>,
    /// The last type argument of what was just read and is called now, or [`NO_TYPE`].
    pub given: u32,
    /// Whether what is read is the first value of a member, or code that runs when an object is made.
    pub initial: bool,
    locals: Vec<Local>,
    /// Open blocks.
    blocks: Vec<Block>,
    /// How many locals were in sight when the statement began, and whether it has a head.
    statement: usize,
    headed: bool,
    untyped: Option<Untyped>,
    operand: Option<Operand>,
    /// Where `await` stands: the open parentheses around it.
    awaits: Option<usize>,
    gives: Gives,
    /// What the last cast makes of what follows.
    made: UseParent,
    /// What the method gives whose code is read.
    result: UseParent,
}

/// The names in `texts`, with blanks between, kept as long as the program runs; for tables that are made once.
pub fn names(texts: &str) -> &'static [Name] {
    texts.split_whitespace().map(|text| Name::new(text.as_bytes())).collect::<Vec<Name>>().leak()
}

impl Values {
    /// Of a file's start, in a language that knows what some functions give.
    pub fn new(gives: Gives) -> Self {
        Self {
            value: UNKNOWN,
            parentheses: Vec::new(),
            given: NO_TYPE,
            initial: true,
            locals: Vec::new(),
            blocks: Vec::new(),
            statement: 0,
            headed: false,
            untyped: None,
            operand: None,
            awaits: None,
            gives,
            made: UNKNOWN,
            result: UNKNOWN,
        }
    }

    /// How many locals are in sight.
    pub fn locals(&self) -> usize {
        self.locals.len()
    }

    /// Forgets all but the first `count` locals.
    pub fn forget(&mut self, count: usize) {
        self.locals.truncate(count);
        (self.untyped, self.operand, self.awaits) = (None, None, None);
        self.result = UNKNOWN;
    }

    /// Puts the local aside whose first value is being read, while code inside of that value is.
    pub fn pause(&mut self) -> Paused {
        Paused(self.untyped.take(), self.operand.take())
    }

    /// Goes on with what was put aside, with the first `count` locals in sight.
    pub fn resume(&mut self, paused: Paused, count: usize) {
        self.forget(count);
        (self.untyped, self.operand) = (paused.0, paused.1);
    }

    /// Notes a local or parameter.
    pub fn local(&mut self, name: Name, value: UseParent) {
        self.locals.push(Local {
            name,
            value,
            is_function: false,
            is_initial: false,
            is_parameter: false,
            is_kept: false,
        });
    }

    /// States the value of local number `at`.
    pub fn set_local(&mut self, at: usize, value: UseParent) {
        if let Some(local) = self.locals.get_mut(at) {
            local.value = value;
        }
    }

    /// Notes that the local noted last is a function, of which the value is what it gives.
    pub fn last_is_function(&mut self) {
        if let Some(local) = self.locals.last_mut() {
            local.is_function = true;
        }
    }

    /// Notes that the local noted last is seen by the first values of members only.
    pub fn last_is_initial(&mut self) {
        if let Some(local) = self.locals.last_mut() {
            local.is_initial = true;
        }
    }

    /// Notes that local number `at` gives the value that follows.
    pub fn decide(&mut self, at: usize) {
        self.untyped = Some(Untyped::new(at, self.parentheses.len()));
    }

    /// What the local function `name` gives, if there is one.
    pub fn of_function(&self, name: Name) -> Option<UseParent> {
        let local = self.local_named(name)?;
        local.is_function.then_some(local.value)
    }

    /// Notes a local whose type is that of the value that follows, or of its elements.
    pub fn untyped(&mut self, name: Name, is_loop: bool) {
        let (local, depth) = (self.locals.len(), self.parentheses.len());
        self.untyped = Some(Untyped { is_loop, ..Untyped::new(local, depth) });
        self.local(name, UNKNOWN);
    }

    /// Notes locals that take the parts of the value that follows, or of its elements; no more than [`PARTS`].
    pub fn untyped_parts(&mut self, names: &[Name], is_loop: bool) {
        let (local, depth) = (self.locals.len(), self.parentheses.len());
        self.untyped = Some(Untyped { is_loop, parts: names.len(), ..Untyped::new(local, depth) });
        names.iter().for_each(|name| self.local(*name, UNKNOWN));
    }

    /// Whether the value of a local is being read whose type it decides.
    pub fn decides(&self) -> bool {
        self.untyped.is_some()
    }

    /// The value of the local `name`, if there is one.
    #[inline]
    pub fn of_local(&self, name: Name) -> Option<UseParent> {
        self.local_named(name).map(|local| local.value)
    }

    #[inline]
    fn local_named(&self, name: Name) -> Option<&Local> {
        // Where there are very many, only the last and the first of them are looked at, so that the time stays linear.
        let (first, last) = match self.locals.len() {
            many if many > 2 * MOST_LOCALS => {
                (&self.locals[..MOST_LOCALS], &self.locals[many - MOST_LOCALS..])
            }
            _ => (&[][..], &self.locals[..]),
        };
        let named = |local: &&Local| local.name == name && (self.initial || !local.is_initial);
        // In `val bed = bed` the second is another one.
        let last = match self.untyped {
            Some(untyped) if untyped.parts == 0 && untyped.local + 1 == self.locals.len() => {
                &last[..last.len() - 1]
            }
            _ => last,
        };
        last.iter().rev().find(named).or_else(|| first.iter().find(named))
    }

    /// Opens a parenthesis at `at`; `calls` tells whether it holds the arguments of what was just read, or groups.
    pub fn open(&mut self, calls: bool, at: usize) -> &mut Parenthesis {
        let mut parenthesis = Parenthesis::with(calls.then_some(self.value));
        parenthesis.at = at;
        parenthesis.operand = self.operand.take();
        parenthesis.locals = self.locals.len();
        parenthesis.given = std::mem::replace(&mut self.given, NO_TYPE);
        self.parentheses.push(parenthesis);
        self.value = UNKNOWN;
        let last = self.parentheses.len() - 1;
        &mut self.parentheses[last]
    }

    /// Notes that the call whose arguments are being read is given `class` as a value: `find(Bed.class)`. Gives what
    /// stands for the class itself.
    pub fn given_as_value(&mut self, class: UseParent, recorder: &mut Recorder) -> UseParent {
        let call = self.parentheses.last_mut().filter(|call| call.result.is_some());
        let (Some(call), Err(node)) = (call, class.get()) else { return UNKNOWN };
        call.given = recorder.spelled_type(ValueType::of_expression(node));
        let mut itself = ValueType::new(Some(CLASS_OF), None);
        itself.arguments[0] = recorder.value_type(Some(node), None);
        value_of(recorder.spelled_type(itself))
    }

    /// Takes note of a comma at `place`.
    pub fn comma(&mut self, place: (usize, u32)) {
        if let Some(parenthesis) = self.parentheses.last_mut()
            && parenthesis.place == place
        {
            if parenthesis.commas == 0 {
                parenthesis.first = self.value;
            }
            parenthesis.commas += 1;
            parenthesis.function = false;
        }
    }

    /// Opens a bracket behind a value, at this place.
    pub fn open_bracket(&mut self, place: (usize, u32)) {
        let operand = self.operand.take();
        let bracket = Parenthesis { operand, place, indexes: true, ..Parenthesis::with(Some(self.value)) };
        self.parentheses.push(bracket);
        self.value = UNKNOWN;
    }

    /// Behind the bracket that was `closed`, where the last value in it was `last`: what the index takes.
    pub fn element(&mut self, closed: &Parenthesis, last: UseParent, recorder: &mut Recorder, at: usize) {
        let first = if closed.commas == 0 { last } else { closed.first };
        self.value = step(recorder, self.value, Name::ELEMENT, at);
        note_first(recorder, self.value, first);
    }

    /// Notes that an argument of the call whose parenthesis is open is a function of one expression that follows, or the
    /// name of one.
    pub fn function_as_argument(&mut self) {
        if let Some(call) = self.parentheses.last_mut() {
            call.function = true;
        }
    }

    /// Notes that the argument which begins here is a text.
    pub fn text_as_argument(&mut self) {
        if let Some(call) = self.parentheses.last_mut().filter(|call| call.commas == 0) {
            call.text = true;
        }
    }

    /// Closes the innermost parenthesis or bracket, of more than `base`; the value is then what it gives.
    pub fn close(&mut self, base: usize, recorder: &mut Recorder, at: usize) -> Option<Parenthesis> {
        self.first_value_ends(recorder, at);
        if self.parentheses.len() <= base {
            return None;
        }
        let mut closed = self.parentheses.pop()?;
        self.operand = closed.operand;
        if closed.result.is_some() && !closed.indexes {
            self.forget_parameters(closed.locals);
        }
        let first = match closed.commas {
            0 if closed.function => UNKNOWN,
            0 => self.value,
            _ => closed.first,
        };
        let argument = if closed.text { UseParent::root(Root::Value(BUILT_IN)) } else { first };
        if let (Some(result), false) = (&mut closed.result, closed.indexes) {
            if let (Err(call), true) = (result.get(), closed.counts) {
                *result = UseParent::node(recorder.called_on(call, argument, closed.at, closed.is_statement));
            }
            note_first(recorder, *result, argument);
        }
        self.value = match closed.result {
            Some(result) if closed.makes_holder => match type_of(recorder, first) {
                NO_TYPE => result,
                held => with_given(recorder, result, held, at),
            },
            Some(result) if self.is_call_of(recorder, result, self.gives.as_argument) => {
                // `Map.of("north", bed)`: nothing is known of a text.
                let known = if first == UNKNOWN && !closed.function { self.value } else { first };
                match known {
                    known if known == UNKNOWN || is_class(recorder, known) => {
                        given(recorder, result, closed.given, at)
                    }
                    known => or_else(recorder, result, known, at),
                }
            }
            Some(result) if closed.function => {
                self.value = closed.cast.unwrap_or(self.value);
                self.given_a_function(recorder, result, at)
            }
            Some(result) => given(recorder, result, closed.given, at),
            None => closed.cast.unwrap_or(self.value),
        };
        Some(closed)
    }

    /// The same for a parenthesis that ends at `at`; what it calls is told from calls with other numbers of arguments, or another
    /// first one, unless it `is_statement` by itself. Most often there is one argument `beyond_commas`.
    pub fn close_call(
        &mut self,
        base: usize,
        beyond_commas: usize,
        recorder: &mut Recorder,
        at: usize,
        is_statement: bool,
    ) -> Option<Parenthesis> {
        if self.parentheses.len() > base
            && let Some(call) = self.parentheses.last_mut()
            && !call.indexes
            && let Some(Err(node)) = call.result.map(UseParent::get)
        {
            let count = call.commas + beyond_commas;
            if is_of_several(recorder, node) {
                note_count(recorder, UseParent::node(node), count);
            } else {
                (call.counts, call.is_statement) = (true, is_statement);
                call.result = Some(UseParent::node(recorder.called_with(node, count, call.at)));
            }
        }
        self.close(base, recorder, at)
    }

    /// Notes that the innermost parenthesis is a cast to the type of `value`: what is around it gives that, be it the
    /// first value of a local or another parenthesis.
    pub fn cast(&mut self, value: UseParent) {
        self.made = value;
        let around = self.parentheses.len().checked_sub(1);
        if let Some(cast) = around.and_then(|depth| self.cast_at(depth)) {
            cast.get_or_insert(value);
        }
    }

    /// At the `?` of a conditional: a cast before it stands in the condition, `(Kind) sort == Kind.WET ? bed : row`.
    pub fn condition_ends(&mut self) {
        if let Some(cast) = self.cast_at(self.parentheses.len()) {
            *cast = None;
        }
    }

    /// The cast that counts with so many parentheses open.
    fn cast_at(&mut self, depth: usize) -> Option<&mut Option<UseParent>> {
        match &mut self.untyped {
            Some(untyped) if untyped.depth == depth => Some(&mut untyped.cast),
            _ => Some(&mut self.parentheses.get_mut(depth.checked_sub(1)?)?.cast),
        }
    }

    /// The value of the call `result` of a function that was given one that gives the value just read:
    /// `beds.map(bed -> bed.row())`.
    pub fn given_a_function(&self, recorder: &mut Recorder, result: UseParent, at: usize) -> UseParent {
        if !self.is_call_of(recorder, result, self.gives.as_function) {
            return result;
        }
        or_else(recorder, result, self.value, at)
    }

    /// Whether `result` is what one of these `functions` gives.
    fn is_call_of(&self, recorder: &mut Recorder, result: UseParent, functions: &[Name]) -> bool {
        let called = result.get().err().and_then(|node| recorder.facts().uses.get(node as usize));
        called.is_some_and(|used| functions.contains(&used.name))
    }

    /// Notes that the value that follows is waited for.
    pub fn awaits(&mut self) {
        self.awaits = Some(self.parentheses.len());
    }

    /// At the end of an expression: the local that it is the first value of is of its type.
    pub fn first_value_ends(&mut self, recorder: &mut Recorder, at: usize) {
        self.operation_ends(recorder);
        let depth = self.parentheses.len();
        if let Some(of) = self.awaits
            && of >= depth
        {
            self.awaits = None;
            self.value = step(recorder, self.value, Name::ELEMENT, at);
        }
        if let Some(untyped) = self.untyped
            && untyped.depth >= depth
        {
            self.untyped = None;
            self.value = untyped.cast.unwrap_or(self.value);
            let numbers = untyped.is_loop && untyped.parts == 2;
            if numbers && self.is_call_of(recorder, self.value, self.gives.numbered) {
                let elements = receiver_of(recorder, self.value);
                let element = step(recorder, elements, Name::EACH, at);
                return self.set_local(untyped.local + 1, element);
            }
            let value = if untyped.is_loop { step(recorder, self.value, Name::EACH, at) } else { self.value };
            let parts = self.locals.iter_mut().skip(untyped.local).take(untyped.parts.max(1));
            for (local, name) in parts.zip(PARTS.iter()) {
                local.value = if untyped.parts == 0 { value } else { part(recorder, value, *name, at) };
            }
        }
    }

    /// Records names behind a dot on `parent`; the value is then the last of them.
    pub fn member(&mut self, recorder: &mut Recorder, parent: UseParent, links: &[ChainLink], called: bool) {
        self.value = match recorder.chain_below(parent, links, Context::Value, called) {
            Some(node) if parent != UNKNOWN => UseParent::node(node),
            _ => UNKNOWN,
        };
    }
}

/// What follows the parenthesis that closes a list of names with commas between, where `text` begins with their first.
pub fn behind_names(text: &[u8]) -> Option<&[u8]> {
    let mut rest = text;
    loop {
        rest = rest.trim_ascii_start();
        let length = rest.iter().take_while(|byte| in_word(**byte)).count();
        rest = rest[length..].trim_ascii_start();
        match rest.split_first() {
            Some((b',', behind)) if length > 0 => rest = behind,
            Some((b')', behind)) if length > 0 => return Some(behind.trim_ascii_start()),
            _ => return None,
        }
    }
}
