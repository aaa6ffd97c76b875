//! Kotlin: packages, imports (renamed, of whole packages), classes, objects, companions, interfaces, enumerations,
//! anonymous objects, functions, properties and type aliases outside of classes, extensions, types wherever they
//! stand, code in strings, the `…Kt` classes that Java code knows; members of values as far as their types are spelled
//! or begin with a constructor, also of `it` and of what `apply`, `run` and `with` bring into sight.
//!
//! Not read: what a function of the project brings into sight of a lambda, types that an `is` gives to a name.

mod code;
mod functions;
mod heads;
mod lambdas;
mod parameters;
mod parts;
mod types;
mod values;

use self::types::ReadType;
use super::java::NAMING;
use crate::chain_links::ChainLinks;
use crate::lexis::{Kind, Lexis, Token, Tokens, Words};
use crate::values::{GivenParameters, Paused, ToldByFirst, Values};
use ferngate_model::{
    ALL_GIVEN, ALL_KEYS, ChainLink, Context, Declaration, DeclarationKind, FolderNaming, ImportSpelling,
    Language, NO_TYPE, Name, Naming, Recorder, Root, Span, UseParent,
};
use std::sync::LazyLock;

/// Kotlin sources and scripts.
#[derive(Debug)]
pub struct Kotlin;

static LEXIS: Lexis = Lexis {
    hash_comments: false,
    nested_comments: true,
    triple_quotes: true,
    long_strings: false,
    holes: true,
    quoted_names: true,
    dollar_in_names: false,
};

impl Language for Kotlin {
    fn name(&self) -> &'static str {
        "Kotlin"
    }

    fn extensions(&self) -> &'static [&'static str] {
        &["kt", "kts"]
    }

    fn naming(&self) -> Naming {
        Naming {
            implicit_imports: &[
                "kotlin",
                "kotlin.annotation",
                "kotlin.collections",
                "kotlin.comparisons",
                "kotlin.io",
                "kotlin.ranges",
                "kotlin.sequences",
                "kotlin.text",
                "kotlin.jvm",
                "java.lang",
            ],
            // The start that all packages share is left out of the folders as often as not.
            folders: FolderNaming::Free,
            folders_are_packages: false,
            calls_construct: true,
            getters_are_values: true,
            called_by_index: "get",
            interfaces_give: true,
            lowest_interface: false,
            objects_have: &[],
            text_types: &[],
            class_types: &["Class", "KClass"],
            own_methods: &[],
            versioned_folder: "",
            given_parts: &[
                ("key", 0),
                ("value", 1),
                ("keys", ALL_KEYS),
                ("entries", ALL_GIVEN),
                ("first", 0),
                ("second", 1),
                ("third", 2),
                ("component1()", 0),
                ("component2()", 1),
                ("component3()", 2),
            ],
            ..NAMING
        }
    }

    fn import_spelling(&self) -> ImportSpelling {
        ImportSpelling { before: "import ", after: ".*" }
    }

    fn read(&self, text: &[u8], recorder: &mut Recorder) {
        Reader::new(text, recorder).run();
    }
}

/// A word of the language that the reader acts on.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
#[rustfmt::skip]
enum Word {
    None,
    Package, Import, Class, Interface, Object, Fun, Val, Typealias, As, Is, This, Super, Other, For, When, Flow,
    // Words that are identifiers elsewhere.
    Enum, Companion, Where, By, Constructor, Private, Internal, Modifier, In, Soft,
}

#[rustfmt::skip]
static WORDS: LazyLock<Words<Word>> = LazyLock::new(|| {
    use Word::*;
    Words::new(&[
        ("package", Package), ("import", Import), ("class", Class), ("interface", Interface),
        ("object", Object), ("fun", Fun), ("val", Val), ("var", Val), ("typealias", Typealias), ("as", As),
        ("is", Is), ("in", In), ("break", Other), ("continue", Other), ("do", Other), ("else", Other),
        ("false", Other), ("for", For), ("if", Flow), ("null", Other), ("return", Other), ("super", Super),
        ("this", This), ("throw", Other), ("true", Other), ("try", Other), ("when", When), ("while", Flow),
        ("catch", Flow), ("finally", Other), ("enum", Enum), ("companion", Companion), ("where", Where),
        ("by", By), ("constructor", Constructor), ("private", Private), ("internal", Internal),
        ("public", Modifier), ("protected", Modifier), ("abstract", Modifier), ("final", Modifier),
        ("open", Modifier), ("override", Modifier), ("inner", Modifier), ("sealed", Modifier),
        ("data", Modifier), ("annotation", Modifier), ("inline", Modifier), ("noinline", Modifier),
        ("crossinline", Modifier), ("lateinit", Modifier), ("const", Modifier), ("vararg", Modifier),
        ("suspend", Modifier), ("tailrec", Modifier), ("operator", Modifier), ("infix", Modifier),
        ("external", Modifier), ("expect", Modifier), ("actual", Modifier), ("reified", Modifier),
        ("out", Modifier), ("init", Soft), ("get", Soft), ("set", Soft), ("field", Soft), ("it", Soft),
        ("dynamic", Soft),
    ], None)
});

impl Word {
    /// Whether the language reserves it.
    fn reserved(self) -> bool {
        (self as u8) >= Word::Package as u8 && (self as u8) <= Word::Flow as u8 || self == Word::In
    }
}

#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum FrameKind {
    File,
    /// The inside of a class.
    Members,
    /// Code between braces.
    Block,
}

/// What surrounds the token being read.
#[derive(Clone, Copy, Debug)]
struct Frame {
    kind: FrameKind,
    scope: u32,
    declaration: u32,
    /// The names between the start of an enumeration's body and its semicolon are constants.
    constants: bool,
    /// Open parentheses and brackets.
    depth: u32,
    /// What is in sight again when it ends.
    around: Sight,
    /// What is in sight of each of its members.
    inside: Sight,
    /// It is the inside of a companion.
    companion: bool,
    /// For a lambda, what it is given.
    lambda: Option<Lambda>,
    /// For the branches of `when (name)`, that name.
    subject: Option<Name>,
    /// For the inside of an anonymous object, what it is a value of.
    made: Option<UseParent>,
}

/// How much of what is known of values is in sight.
#[derive(Clone, Copy, Debug, Default)]
struct Sight {
    locals: usize,
    receivers: usize,
    parentheses: usize,
    /// What is given to make an object is in sight.
    initial: bool,
    /// The local whose first value the frame is a part of.
    paused: Paused,
    /// The same for a member.
    undecided: Option<Undecided>,
}

/// Members without a spelled type, whose first value or body is being read.
#[derive(Clone, Copy, Debug)]
struct Undecided {
    /// The first of them; they are the last ones so far.
    first: u32,
    /// How many there were with them.
    count: u32,
    /// Open parentheses around it.
    depth: usize,
}

/// A function between braces.
#[derive(Clone, Copy, Debug)]
struct Lambda {
    /// What `it` is: this value, or what the call gives as its argument with this number.
    it: UseParent,
    argument: Option<usize>,
    /// What the call around gives; `None` where that is what the lambda gives.
    gives: Option<UseParent>,
}

const NO_DECLARATION: u32 = u32::MAX;
/// Deeper type arguments than this are passed over.
const DEEPEST: u32 = 100;

/// A dotted name.
#[derive(Clone, Default)]
struct Chain {
    links: ChainLinks,
}

impl Chain {
    fn links(&self) -> &[ChainLink] {
        &self.links
    }

    /// The same with what its last name is: a type (0), a function or a constant.
    fn named(&self, arity: u8) -> Self {
        let mut named = self.clone();
        if let Some(last) = named.links.last_mut() {
            last.arity = arity;
        }
        named
    }
}

struct Reader<'t, 'r> {
    tokens: Tokens<'t>,
    word: Word,
    words: &'static Words<Word>,
    text: &'t [u8],
    frames: Vec<Frame>,
    recorder: &'r mut Recorder,
    /// Locals, and what expressions give.
    values: Values,
    /// Values whose members need no name before them, the nearest last.
    receivers: Vec<UseParent>,
    /// The member that is read, where its type is that of the value that follows.
    undecided: Option<Undecided>,
    /// What `apply` or its like was called on, until its brace opens.
    scoping: Option<(UseParent, values::Scoping)>,
    /// What follows `by` is being read, up to its first brace.
    delegates: bool,
    /// What was just spelled to be made, with its type arguments: `Pot<Bed>`.
    made: Option<ReadType>,
    /// Whether the parenthesis that was closed last held the arguments of a call.
    closed: bool,
    /// Where the token before the current one ended.
    last_end: usize,
    /// The name that was read last, and where it ended.
    last_name: (Name, usize),
    /// How many receivers there were with the one that `this is Bed` told the type of; none where it is gone.
    narrowed: usize,
    /// Where the last function between two values ended.
    infix_end: usize,
    /// Where the head of the last statement ended, such as `if (wet)`.
    head_end: usize,
    /// The type of the property that was declared last, as it is spelled.
    property_type: u32,
    /// The frames around the class whose bases are being read.
    head_frames: Option<usize>,
    /// The locals in sight before it, where it is that of a loop over elements.
    loop_locals: Option<usize>,
    /// The name between the parentheses of `when (name)`, until its brace opens.
    subject: Option<Name>,
    /// The local that `when (val name = …)` declares, until its parenthesis closes.
    declared_subject: Option<Name>,
    /// Type parameters of the function being read, with the last name of what each is at least.
    parameters: Vec<(Name, Option<u32>)>,
    before: (Kind, Word),
    /// The type parameter of the function being read that the type read last is.
    hidden: Option<Name>,
    /// What the first parameter of the function being read tells, or what that extends.
    told: ToldByFirst,
    /// The type parameters among the type arguments of the type just read, and of that of the first parameter.
    hidden_arguments: GivenParameters,
    depth: u32,
    anonymous: u32,
    /// The scope in which the file's own names stand.
    package: u32,
    /// Something is declared outside of classes.
    has_facade: bool,
    /// What `@file:JvmName` says.
    facade: Name,
}

impl<'t, 'r> Reader<'t, 'r> {
    fn new(text: &'t [u8], recorder: &'r mut Recorder) -> Self {
        let tokens = Tokens::new(text, &LEXIS, recorder.options().weak);
        let file = Frame {
            kind: FrameKind::File,
            scope: 0,
            declaration: NO_DECLARATION,
            constants: false,
            depth: 0,
            around: Sight::default(),
            inside: Sight::default(),
            companion: false,
            lambda: None,
            subject: None,
            made: None,
        };
        let mut reader = Self {
            tokens,
            word: Word::None,
            words: &WORDS,
            text,
            frames: vec![file],
            recorder,
            values: Values::new(*lambdas::GIVES),
            receivers: Vec::new(),
            undecided: None,
            scoping: None,
            delegates: false,
            made: None,
            closed: false,
            last_end: 0,
            last_name: (Name(0), 0),
            narrowed: 0,
            infix_end: 0,
            head_end: 0,
            property_type: NO_TYPE,
            head_frames: None,
            loop_locals: None,
            subject: None,
            declared_subject: None,
            parameters: Vec::new(),
            before: (Kind::End, Word::None),
            hidden: None,
            told: ToldByFirst::default(),
            hidden_arguments: GivenParameters::default(),
            depth: 0,
            anonymous: 0,
            package: 0,
            has_facade: false,
            facade: Name(0),
        };
        reader.advance();
        reader
    }

    fn run(&mut self) {
        while self.tokens.token.kind != Kind::End {
            self.code_token();
        }
        self.end_value();
        if self.has_facade {
            let end = Span::new(self.text.len(), self.text.len());
            let facade = Declaration::public(self.facade, DeclarationKind::Facade, 0, self.package, end, end);
            self.recorder.declare(facade);
        }
    }

    fn frame(&self) -> Frame {
        self.frames[self.frames.len() - 1]
    }

    fn scope(&self) -> u32 {
        self.frame().scope
    }

    fn push(&mut self, kind: FrameKind, scope: u32, declaration: u32, constants: bool) {
        let inside = self.sight();
        self.frames.push(Frame {
            kind,
            scope,
            declaration,
            constants,
            depth: 0,
            around: inside,
            inside,
            companion: false,
            lambda: None,
            subject: None,
            made: None,
        });
    }

    #[inline]
    fn advance(&mut self) {
        self.before = (self.tokens.token.kind, self.word);
        self.last_end = self.tokens.token.end();
        self.tokens.advance();
        let token = &self.tokens.token;
        let may_be_word = token.is_word() && self.text[token.start()].is_ascii_lowercase();
        self.word = if may_be_word { self.words.get(token) } else { Word::None };
        if !self.tokens.documentation.is_empty() {
            self.documentation();
        }
    }

    /// The token after the current one, without any effect.
    fn peek(&mut self) -> (Token, Word) {
        let token = self.tokens.peek();
        (token, self.words.get(&token))
    }

    fn is_name(&self) -> bool {
        self.tokens.token.is_word() && !self.word.reserved()
    }

    fn is(&self, mark: u8) -> bool {
        self.tokens.token.is(mark)
    }

    /// The byte right behind the current token.
    fn behind(&self) -> u8 {
        self.tokens.cursor.peek(0)
    }

    /// Notes what `[Name]`, `@see`, `@throws` and their like mention.
    fn documentation(&mut self) {
        let scope = self.scope();
        for span in std::mem::take(&mut self.tokens.documentation) {
            let comment = span.of(self.text);
            let mut from = 0;
            while let Some(found) = memchr::memchr(b'[', &comment[from..]) {
                from += found + 1;
                let start = span.start as usize + from;
                let mut cursor =
                    crate::cursor::Cursor { at: start, end: span.end as usize, ..self.tokens.cursor };
                let mut chain = Chain::default();
                while crate::cursor::in_word(cursor.peek(0)) && !chain.links.is_full() {
                    let at = cursor.at;
                    let name = cursor.name();
                    chain.links.push(ChainLink { name, arity: 0, span: Span::new(at, cursor.at) });
                    if cursor.peek(0) != b'.' {
                        break;
                    }
                    cursor.at += 1;
                }
                if cursor.peek(0) == b']' {
                    self.recorder.chain(Root::Scope(scope), chain.links(), Context::Weak, false);
                }
            }
        }
    }
}
