//! Java: packages, imports of all four sorts, nested, local and anonymous types, records, sealed types, module
//! descriptions, annotations, patterns, method references, type arguments; `{@link}` and its like in comments.
//!
//! Not read: Unicode escapes inside names, types of expressions (`a.b().c()` names only what is spelled), classes
//! without a header in a file of statements.

mod annotations;
mod code;
mod declarators;
mod heads;
mod parameters;
mod properties;
mod values;

use self::declarators::Declaring;
use crate::chain_links::ChainLinks;
use crate::lexis::{Kind, Lexis, Token, Tokens, Words};
use crate::values::{Given, GivenParameters, ToldByFirst, Values};
use ferngate_model::{
    ALL_GIVEN, ALL_KEYS, ChainLink, Context, FolderNaming, ImportSpelling, Language, Name, Naming, Recorder,
    Root, Span, UseParent,
};
use std::sync::LazyLock;

pub use properties::{accessors_of_value, enumerated, value_of_getter};

/// Java sources.
#[derive(Debug)]
pub struct Java;

static LEXIS: Lexis = Lexis {
    hash_comments: false,
    nested_comments: false,
    triple_quotes: true,
    long_strings: false,
    holes: false,
    quoted_names: false,
    dollar_in_names: true,
};

/// How names are found in what runs on a Java machine.
pub const NAMING: Naming = Naming {
    family: "Java",
    separator: ".",
    sees_parents: false,
    relative_namespaces: false,
    single_imports_first: true,
    implicit_imports: &["java.lang"],
    functions_fall_back: false,
    calls_construct: false,
    bare_members: true,
    getters_are_values: false,
    called_by_index: "",
    interfaces_give: true,
    lowest_interface: true,
    objects_have: &[("toString", 0), ("hashCode", 0), ("equals", 1)],
    text_types: &["String", "CharSequence"],
    class_types: &["Class"],
    own_methods: &[],
    // JEP 238, "Multi-Release JAR Files"
    versioned_folder: "java",
    given_parts: &[("getKey()", 0), ("getValue()", 1), ("keySet()", ALL_KEYS), ("entrySet()", ALL_GIVEN)],
    attribute_suffix: "",
    global_prefix: "",
    folder_imports: &[],
    companions: &[],
    folders: FolderNaming::Whole,
    folders_are_packages: false,
    moves: false,
};

impl Language for Java {
    fn name(&self) -> &'static str {
        "Java"
    }

    fn extensions(&self) -> &'static [&'static str] {
        &["java"]
    }

    fn naming(&self) -> Naming {
        NAMING
    }

    fn import_spelling(&self) -> ImportSpelling {
        ImportSpelling { before: "import ", after: ".*;" }
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
    Package, Import, Class, Interface, Enum, New, Instanceof, Case, Catch, Throws, Extends, Implements, Static,
    Public, Private, Protected, Modifier, Default, Primitive, Super, This, Before, Switch, Else, Return, Other,
    // Words that are identifiers elsewhere.
    Record, Permits, Sealed, Var, Module, Open,
}

#[rustfmt::skip]
static WORDS: LazyLock<Words<Word>> = LazyLock::new(|| {
    use Word::*;
    Words::new(&[
        ("package", Package), ("import", Import), ("class", Class), ("interface", Interface), ("enum", Enum),
        ("new", New), ("instanceof", Instanceof), ("case", Case), ("catch", Catch), ("throws", Throws),
        ("extends", Extends), ("implements", Implements), ("static", Static), ("public", Public),
        ("private", Private), ("protected", Protected), ("final", Modifier), ("abstract", Modifier),
        ("native", Modifier), ("synchronized", Modifier), ("transient", Modifier), ("volatile", Modifier),
        ("strictfp", Modifier), ("default", Default), ("super", Super), ("this", This), ("if", Before),
        ("while", Before), ("for", Before), ("switch", Switch), ("try", Before), ("assert", Other),
        ("break", Other), ("continue", Other), ("do", Other), ("else", Else), ("finally", Other),
        ("return", Return), ("throw", Other), ("goto", Other), ("const", Other), ("true", Other),
        ("false", Other), ("null", Other), ("boolean", Primitive), ("byte", Primitive), ("char", Primitive),
        ("double", Primitive), ("float", Primitive), ("int", Primitive), ("long", Primitive),
        ("short", Primitive), ("void", Primitive), ("record", Record), ("permits", Permits),
        ("sealed", Sealed), ("non", Sealed), ("var", Var), ("yield", Var), ("module", Module), ("open", Open),
    ], None)
});

impl Word {
    /// Whether the language reserves it.
    fn reserved(self) -> bool {
        !matches!(
            self,
            Word::None | Word::Record | Word::Permits | Word::Sealed | Word::Var | Word::Module | Word::Open
        )
    }
}

#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum FrameKind {
    File,
    /// The inside of a type.
    Members,
    /// The constants at the start of an enumeration.
    Constants,
    /// Code between braces.
    Block,
    /// Code up to a semicolon outside of braces.
    Statement,
    /// Code up to the parenthesis that closes those of a constant.
    Arguments,
}

/// What surrounds the token being read.
#[derive(Clone, Copy, Debug)]
struct Frame {
    kind: FrameKind,
    scope: u32,
    declaration: u32,
    /// Open braces in it.
    depth: u32,
    /// Open parentheses when it began.
    parentheses: usize,
    /// Locals in sight when it began.
    locals: usize,
    /// What the method around gives.
    result: UseParent,
}

const NO_DECLARATION: u32 = u32::MAX;
/// Deeper type arguments than this are passed over.
const DEEPEST: u32 = 100;

/// A dotted name.
#[derive(Default)]
struct Chain {
    links: ChainLinks,
    /// Type arguments stand somewhere in it, so it names a type.
    generic: bool,
}

impl Chain {
    fn links(&self) -> &[ChainLink] {
        &self.links
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
    /// What the type just read was given.
    given: Given,
    /// The values of the `switch`es around, with how deep in frames and braces each stands.
    switches: Vec<(usize, u32, UseParent)>,
    /// The declaration of locals or fields that was read last.
    declaring: Option<Declaring>,
    /// Type parameters of the method being read, with the last name of what each is at least.
    parameters: Vec<(Name, Option<u32>)>,
    /// The types of the parameters of the method just read, among the file's types of values.
    parameter_types: Vec<u32>,
    /// The type just read, if it is such a parameter.
    bound: Option<Name>,
    /// The type parameters among the type arguments of the type just read.
    bound_arguments: GivenParameters,
    /// What the first parameter of the method just read tells.
    told: ToldByFirst,
    /// The token before the current one, and the one before that.
    before: [(Kind, Word); 2],
    depth: u32,
    anonymous: u32,
}

impl<'t, 'r> Reader<'t, 'r> {
    fn new(text: &'t [u8], recorder: &'r mut Recorder) -> Self {
        let tokens = Tokens::new(text, &LEXIS, recorder.options().weak);
        let mut reader = Self {
            tokens,
            word: Word::None,
            words: &WORDS,
            text,
            frames: Vec::new(),
            recorder,
            values: Values::new(*values::GIVES),
            given: Given::default(),
            switches: Vec::new(),
            declaring: None,
            parameters: Vec::new(),
            parameter_types: Vec::new(),
            bound: None,
            bound_arguments: GivenParameters::default(),
            told: ToldByFirst::default(),
            before: [(Kind::End, Word::None); 2],
            depth: 0,
            anonymous: 0,
        };
        reader.push(FrameKind::File, 0, NO_DECLARATION);
        reader.advance();
        reader
    }

    fn run(&mut self) {
        while self.tokens.token.kind != Kind::End {
            let (at, depth) = (self.tokens.token.start(), self.frames.len());
            match self.frame().kind {
                FrameKind::File | FrameKind::Members => self.member(),
                FrameKind::Constants => self.constant(),
                FrameKind::Block | FrameKind::Statement | FrameKind::Arguments => self.code(),
            }
            // Whatever was odd about this token, the next one is read.
            if self.tokens.token.start() == at
                && self.frames.len() == depth
                && self.tokens.token.kind != Kind::End
            {
                self.advance();
            }
        }
    }

    fn frame(&self) -> Frame {
        self.frames[self.frames.len() - 1]
    }

    fn scope(&self) -> u32 {
        self.frame().scope
    }

    fn push(&mut self, kind: FrameKind, scope: u32, declaration: u32) {
        let (parentheses, locals) = (self.values.parentheses.len(), self.values.locals());
        self.values.begin_statement();
        self.frames.push(Frame {
            kind,
            scope,
            declaration,
            depth: 0,
            parentheses,
            locals,
            result: self.values.result(),
        });
    }

    /// Leaves the innermost frame, with the parentheses that it left open.
    fn pop(&mut self) {
        if self.frames.len() > 1
            && let Some(frame) = self.frames.pop()
        {
            self.values.parentheses.truncate(frame.parentheses);
            self.values.gives(frame.result);
        }
    }

    #[inline]
    fn advance(&mut self) {
        self.before = [(self.tokens.token.kind, self.word), self.before[0]];
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

    /// Notes what `{@link …}`, `@see`, `@throws` and their like mention.
    fn documentation(&mut self) {
        let scope = self.scope();
        for span in std::mem::take(&mut self.tokens.documentation) {
            let comment = span.of(self.text);
            let mut from = 0;
            while let Some(found) = memchr::memchr(b'@', &comment[from..]) {
                let tag_start = from + found + 1;
                let letters =
                    comment[tag_start..].iter().take_while(|byte| byte.is_ascii_alphabetic()).count();
                from = tag_start + letters;
                let tag = &comment[tag_start..from];
                if matches!(tag, b"link" | b"linkplain" | b"see" | b"throws" | b"exception" | b"value") {
                    let start = span.start as usize + from;
                    self.mention(start, span.end as usize, scope);
                }
            }
        }
    }

    /// Records the dotted name that stands at `start`, up to its `#`.
    fn mention(&mut self, start: usize, end: usize, scope: u32) {
        let mut cursor = crate::cursor::Cursor { at: start, end, ..self.tokens.cursor };
        cursor.skip_blanks();
        let mut links = ChainLinks::default();
        while crate::cursor::in_word(cursor.peek(0)) && !links.is_full() {
            let at = cursor.at;
            let name = cursor.name();
            links.push(ChainLink { name, arity: 0, span: Span::new(at, cursor.at) });
            if cursor.peek(0) != b'.' {
                break;
            }
            cursor.at += 1;
        }
        self.recorder.chain(Root::Scope(scope), &links, Context::Weak, false);
    }
}
