//! What the tokens of C# are, and its words.

use ferngate_model::{Name, Span};
use std::sync::OnceLock;

/// A reserved or contextual word that the reader acts on.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
#[rustfmt::skip]
pub enum Word {
    /// No such word: a plain identifier.
    None,
    // Reserved words.
    Namespace, Using, Extern, Class, Struct, Interface, Enum, Delegate, Event, Operator, Conversion, This, Base,
    Const, Fixed, New, Is, As, TypeOperator, Default, Argument, Public, Internal, Private, Protected, Static, Modifier,
    Case, Catch, Before, Builtin, Value, Return, Other,
    // Words that are identifiers elsewhere.
    Var, Prefix, Pattern, Query, Nameof, Partial, Record, Global, Where,
}

#[rustfmt::skip]
const WORDS: &[(&str, Word)] = &[
    ("namespace", Word::Namespace), ("using", Word::Using), ("extern", Word::Extern), ("class", Word::Class),
    ("struct", Word::Struct), ("interface", Word::Interface), ("enum", Word::Enum), ("delegate", Word::Delegate),
    ("event", Word::Event), ("operator", Word::Operator), ("implicit", Word::Conversion),
    ("explicit", Word::Conversion), ("this", Word::This), ("base", Word::Base), ("const", Word::Const),
    ("fixed", Word::Fixed), ("new", Word::New), ("stackalloc", Word::New), ("is", Word::Is), ("as", Word::As),
    ("typeof", Word::TypeOperator), ("sizeof", Word::TypeOperator), ("default", Word::Default),
    ("out", Word::Argument), ("ref", Word::Argument), ("in", Word::Argument), ("params", Word::Argument),
    ("public", Word::Public), ("internal", Word::Internal), ("private", Word::Private),
    ("protected", Word::Protected), ("static", Word::Static), ("abstract", Word::Modifier),
    ("sealed", Word::Modifier), ("readonly", Word::Modifier), ("unsafe", Word::Modifier),
    ("virtual", Word::Modifier), ("override", Word::Modifier), ("volatile", Word::Modifier),
    ("case", Word::Case), ("catch", Word::Catch), ("if", Word::Before), ("while", Word::Before),
    ("for", Word::Before), ("foreach", Word::Before), ("lock", Word::Before), ("switch", Word::Before),
    ("bool", Word::Builtin), ("byte", Word::Builtin), ("char", Word::Builtin), ("decimal", Word::Builtin),
    ("double", Word::Builtin), ("float", Word::Builtin), ("int", Word::Builtin), ("long", Word::Builtin),
    ("object", Word::Builtin), ("sbyte", Word::Builtin), ("short", Word::Builtin), ("string", Word::Builtin),
    ("uint", Word::Builtin), ("ulong", Word::Builtin), ("ushort", Word::Builtin), ("void", Word::Builtin),
    ("null", Word::Value), ("true", Word::Value), ("false", Word::Value), ("break", Word::Other),
    ("checked", Word::Other), ("unchecked", Word::Other), ("continue", Word::Other), ("do", Word::Other),
    ("else", Word::Other), ("finally", Word::Other), ("goto", Word::Other), ("return", Word::Return),
    ("throw", Word::Other), ("try", Word::Other), ("var", Word::Var), ("dynamic", Word::Var),
    ("await", Word::Prefix), ("async", Word::Prefix), ("yield", Word::Prefix), ("required", Word::Prefix),
    ("scoped", Word::Prefix), ("file", Word::Prefix), ("not", Word::Pattern), ("and", Word::Pattern),
    ("or", Word::Pattern), ("when", Word::Query), ("from", Word::Query), ("select", Word::Query),
    ("orderby", Word::Query), ("group", Word::Query), ("by", Word::Query), ("into", Word::Query),
    ("on", Word::Query), ("equals", Word::Query), ("join", Word::Query), ("let", Word::Query),
    ("ascending", Word::Query), ("descending", Word::Query), ("with", Word::Query), ("where", Word::Where),
    ("nameof", Word::Nameof), ("partial", Word::Partial), ("record", Word::Record), ("global", Word::Global),
];

impl Word {
    /// Whether the language reserves it.
    pub fn reserved(self) -> bool {
        (self as u8) >= Word::Namespace as u8 && (self as u8) <= Word::Other as u8
    }
}

/// A table of the words by hash: 1,024 slots for about 100 words, so that a miss costs one look.
#[derive(Debug)]
pub struct Words([(u64, Word); 1024]);

impl Words {
    /// The one table.
    pub fn table() -> &'static Words {
        static TABLE: OnceLock<Words> = OnceLock::new();
        TABLE.get_or_init(|| {
            let mut slots = [(0, Word::None); 1024];
            for (text, word) in WORDS {
                let name = Name::new(text.as_bytes());
                let mut at = name.0 as usize & 1023;
                while slots[at].1 != Word::None {
                    at = (at + 1) & 1023;
                }
                slots[at] = (name.0, *word);
            }
            Words(slots)
        })
    }

    #[inline]
    pub fn get(&self, name: Name) -> Word {
        let mut at = name.0 as usize & 1023;
        loop {
            let (key, word) = self.0[at];
            if key == name.0 || word == Word::None {
                return word;
            }
            at = (at + 1) & 1023;
        }
    }
}

/// The sort of a token.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Kind {
    /// Nothing is left.
    End,
    /// An identifier; its `word` may still be a contextual one.
    Identifier,
    /// A reserved word.
    Keyword,
    /// A number, character or string.
    Literal,
    /// A string with holes of code; they are in [`Lexer::holes`].
    Interpolated,
    /// `=>`
    Arrow,
    /// `::`
    Colons,
    /// Any other single byte.
    Mark(u8),
}

/// A token.
#[derive(Clone, Copy, Debug)]
pub struct Token {
    /// Its sort.
    pub kind: Kind,
    /// The word it spells, where the reader acts on it.
    pub word: Word,
    /// The name it spells.
    pub name: Name,
    /// First byte (behind the `@` of `@class`).
    pub(super) start: u32,
    /// The byte behind it.
    pub(super) end: u32,
}

impl Token {
    /// Whether it is the single byte `mark`.
    #[inline]
    pub fn is(&self, mark: u8) -> bool {
        self.kind == Kind::Mark(mark)
    }

    /// Whether it is an identifier (contextual words included).
    #[inline]
    pub fn is_identifier(&self) -> bool {
        self.kind == Kind::Identifier
    }

    /// Its bytes.
    #[inline]
    pub fn span(&self) -> Span {
        Span { start: self.start, end: self.end }
    }

    /// Its first byte.
    #[inline]
    pub fn start(&self) -> usize {
        self.start as usize
    }

    /// The byte behind it.
    #[inline]
    pub fn end(&self) -> usize {
        self.end as usize
    }

    /// A token of no length before anything was read.
    pub fn nothing(kind: Kind) -> Self {
        Self { kind, word: Word::None, name: Name(0), start: 0, end: 0 }
    }
}

/// A conditional-compilation line that changes which branch is read.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Branch {
    /// `#if`
    If,
    /// `#elif`, `#else`
    Else,
    /// `#endif`
    End,
}
