//! PHP: namespaces of both forms, `use` of classes, functions and constants (grouped, renamed), classes, interfaces,
//! traits, enumerations, anonymous classes, functions and constants outside of classes, attributes, type declarations,
//! `::class`, `require` and `include` of literal paths; types in documentation comments and full class names in
//! strings as mentions.
//!
//! Not read: names that are put together at run time, `class_alias`, letters of other case than declared.

mod code;
mod heads;
mod lexer;

use crate::chain_links::ChainLinks;
use crate::lexis;
use ferngate_model::{
    ChainLink, Context, FolderNaming, ImportSpelling, Language, NAMESPACE, Name, Naming, Recorder, Root, Span,
};
use lexer::{Kind, Lexer, Token};
use std::sync::LazyLock;

/// PHP sources.
#[derive(Debug)]
pub struct Php;

impl Language for Php {
    fn name(&self) -> &'static str {
        "PHP"
    }

    fn extensions(&self) -> &'static [&'static str] {
        &["php", "phtml", "inc"]
    }

    fn claims(&self, text: &[u8]) -> bool {
        memchr::memmem::find(text, b"<?php").is_some()
    }

    fn naming(&self) -> Naming {
        Naming {
            family: "PHP",
            separator: "\\",
            sees_parents: false,
            relative_namespaces: true,
            single_imports_first: true,
            implicit_imports: &[],
            functions_fall_back: true,
            calls_construct: false,
            bare_members: false,
            getters_are_values: false,
            called_by_index: "",
            interfaces_give: true,
            lowest_interface: false,
            objects_have: &[],
            text_types: &[],
            class_types: &[],
            own_methods: &[],
            versioned_folder: "",
            given_parts: &[],
            attribute_suffix: "",
            global_prefix: "\\",
            folder_imports: &[],
            companions: &[],
            folders: FolderNaming::BelowRoot,
            folders_are_packages: false,
            moves: false,
        }
    }

    fn import_spelling(&self) -> ImportSpelling {
        ImportSpelling { before: "use ", after: ";" }
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
    Namespace, Use, Class, Interface, Trait, Enum, Function, Const, Extends, Implements, New, Instanceof, Catch,
    Insteadof, As, Include, Public, Private, Modifier, Static, Own, Builtin, Case, Goto, Other,
}

#[rustfmt::skip]
static WORDS: LazyLock<lexis::Words<Word>> = LazyLock::new(|| {
    use Word::*;
    lexis::Words::new(&[
        ("namespace", Namespace), ("use", Use), ("class", Class), ("interface", Interface), ("trait", Trait),
        ("enum", Enum), ("function", Function), ("fn", Function), ("const", Const), ("extends", Extends),
        ("implements", Implements), ("new", New), ("instanceof", Instanceof), ("catch", Catch),
        ("insteadof", Insteadof), ("as", As), ("require", Include), ("require_once", Include),
        ("include", Include), ("include_once", Include), ("public", Public), ("protected", Public),
        ("private", Private), ("var", Public), ("abstract", Modifier), ("final", Modifier),
        ("readonly", Modifier), ("static", Static), ("self", Own), ("parent", Own), ("int", Builtin),
        ("float", Builtin), ("bool", Builtin), ("string", Builtin), ("array", Builtin), ("callable", Builtin),
        ("iterable", Builtin), ("object", Builtin), ("mixed", Builtin), ("void", Builtin), ("never", Builtin),
        ("null", Builtin), ("true", Builtin), ("false", Builtin), ("NULL", Builtin), ("TRUE", Builtin),
        ("FALSE", Builtin), ("case", Case), ("goto", Goto), ("break", Other), ("clone", Other),
        ("continue", Other), ("declare", Other), ("default", Other), ("do", Other), ("echo", Other),
        ("else", Other), ("elseif", Other), ("empty", Other), ("enddeclare", Other), ("endfor", Other),
        ("endforeach", Other), ("endif", Other), ("endswitch", Other), ("endwhile", Other), ("eval", Other),
        ("exit", Other), ("die", Other), ("finally", Other), ("for", Other), ("foreach", Other),
        ("global", Other), ("if", Other), ("isset", Other), ("list", Other), ("match", Other), ("and", Other),
        ("or", Other), ("xor", Other), ("print", Other), ("return", Other), ("switch", Other),
        ("throw", Other), ("try", Other), ("unset", Other), ("while", Other), ("yield", Other),
        ("from", Other), ("__DIR__", Other), ("__FILE__", Other), ("__LINE__", Other), ("__CLASS__", Other),
        ("__METHOD__", Other), ("__FUNCTION__", Other), ("__NAMESPACE__", Other), ("__TRAIT__", Other),
    ], None)
});

#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum FrameKind {
    /// The file, or a namespace without braces.
    File,
    /// A namespace with braces.
    Namespace,
    /// The inside of a class.
    Members,
    /// Code between braces.
    Block,
    /// Code up to a semicolon outside of braces.
    Statement,
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
}

const NO_DECLARATION: u32 = u32::MAX;

/// A name with backslashes.
#[derive(Clone)]
struct Chain {
    links: ChainLinks,
    root: Root,
}

impl Chain {
    fn links(&self) -> &[ChainLink] {
        &self.links
    }

    /// The same with what its last name is: a class (0), a function or a constant.
    fn named(mut self, arity: u8) -> Self {
        if let Some(last) = self.links.last_mut() {
            last.arity = arity;
        }
        self
    }
}

struct Reader<'t, 'r> {
    lexer: Lexer<'t>,
    token: Token,
    word: Word,
    words: &'static lexis::Words<Word>,
    text: &'t [u8],
    frames: Vec<Frame>,
    /// For each open parenthesis, whether it holds the arguments of `new class(…)`.
    parentheses: Vec<bool>,
    recorder: &'r mut Recorder,
    before: (Kind, Word),
    anonymous: u32,
}

impl<'t, 'r> Reader<'t, 'r> {
    fn new(text: &'t [u8], recorder: &'r mut Recorder) -> Self {
        let lexer = Lexer::new(text, recorder.options().weak);
        let nothing = Token { kind: Kind::End, name: Name(0), span: Span::new(0, 0) };
        let mut reader = Self {
            lexer,
            token: nothing,
            word: Word::None,
            words: &WORDS,
            text,
            frames: Vec::new(),
            parentheses: Vec::new(),
            recorder,
            before: (Kind::End, Word::None),
            anonymous: 0,
        };
        reader.push(FrameKind::File, 0, NO_DECLARATION);
        reader.advance();
        reader
    }

    fn run(&mut self) {
        while self.token.kind != Kind::End {
            let (at, depth) = (self.token.span.start, self.frames.len());
            match self.frame().kind {
                FrameKind::Members => self.member(),
                _ => self.code(),
            }
            // Whatever was odd about this token, the next one is read.
            if self.token.span.start == at && self.frames.len() == depth && self.token.kind != Kind::End {
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
        let parentheses = self.parentheses.len();
        self.frames.push(Frame { kind, scope, declaration, depth: 0, parentheses });
    }

    /// Leaves the innermost frame, with the parentheses that it left open.
    fn pop(&mut self) {
        if self.frames.len() > 1
            && let Some(frame) = self.frames.pop()
        {
            self.parentheses.truncate(frame.parentheses);
        }
    }

    #[inline]
    fn advance(&mut self) {
        self.before = (self.token.kind, self.word);
        self.token = self.lexer.token();
        self.word = self.words.get_named(self.token.kind == Kind::Word, self.token.name, self.token.span);
        if !self.lexer.documentation.is_empty() {
            self.documentation();
        }
    }

    /// The token after the current one, without any effect.
    fn peek(&mut self) -> (Token, Word) {
        let (cursor, keep) = (self.lexer.cursor, self.lexer.keep_documentation);
        let holes = std::mem::take(&mut self.lexer.holes);
        self.lexer.keep_documentation = false;
        let token = self.lexer.token();
        (self.lexer.cursor, self.lexer.holes) = (cursor, holes);
        self.lexer.keep_documentation = keep;
        (token, self.words.get_named(token.kind == Kind::Word, token.name, token.span))
    }

    fn is(&self, mark: u8) -> bool {
        self.token.is(mark)
    }

    fn is_word(&self) -> bool {
        self.token.kind == Kind::Word
    }

    /// Whether a class can be named here.
    fn begins_name(&self) -> bool {
        self.is_word() && matches!(self.word, Word::None | Word::Enum | Word::Namespace) || self.is(b'\\')
    }

    /// Reads a name with backslashes. All parts but the last name namespaces.
    fn chain(&mut self) -> Chain {
        let scope = self.scope();
        let mut chain = Chain { links: ChainLinks::default(), root: Root::Scope(scope) };
        if self.is(b'\\') {
            chain.root = Root::Global;
            self.advance();
        } else if self.word == Word::Namespace {
            // `namespace\Name`: of the namespace itself, whatever is imported.
            chain.root = Root::Global;
            let at = self.token.span.start as usize;
            for name in self.recorder.facts().namespace_of(scope) {
                chain.links.push(ChainLink { name, arity: NAMESPACE, span: Span::new(at, at) });
            }
            self.advance();
            if self.is(b'\\') {
                self.advance();
            }
        }
        while self.is_word() {
            if let Some(last) = chain.links.last_mut() {
                last.arity = NAMESPACE;
            }
            chain.links.push(ChainLink { name: self.token.name, arity: 0, span: self.token.span });
            self.advance();
            if !self.is(b'\\') || self.peek().0.kind != Kind::Word {
                break;
            }
            self.advance();
        }
        chain
    }

    fn record(&mut self, chain: &Chain, context: Context) -> Option<u32> {
        self.recorder.chain(chain.root, chain.links(), context, false)
    }

    /// Notes the types that documentation comments give.
    fn documentation(&mut self) {
        for span in std::mem::take(&mut self.lexer.documentation) {
            let comment = span.of(self.text);
            let mut from = 0;
            while let Some(found) = memchr::memchr(b'@', &comment[from..]) {
                let start = from + found + 1;
                let line = memchr::memchr(b'\n', &comment[start..]).map_or(comment.len(), |end| start + end);
                from = line;
                let tag = comment[start..line]
                    .iter()
                    .take_while(|b| b.is_ascii_alphabetic() || **b == b'-')
                    .count();
                if is_type_tag(&comment[start..start + tag]) {
                    let base = span.start as usize;
                    self.mentions(base + start + tag, base + line);
                }
            }
        }
    }

    /// Notes the names in a documented type: up to the first variable or word that cannot belong to it.
    fn mentions(&mut self, start: usize, end: usize) {
        let mut cursor = crate::cursor::Cursor { at: start, end, ..self.lexer.cursor };
        cursor.skip_blanks();
        let (scope, mut depth) = (self.scope(), 0usize);
        while !cursor.done() {
            match cursor.peek(0) {
                byte if byte == b'\\' || crate::cursor::in_word(byte) && !byte.is_ascii_digit() => {
                    self.mention(&mut cursor, scope);
                }
                b'<' | b'{' | b'(' => (depth, cursor.at) = (depth + 1, cursor.at + 1),
                b'>' | b'}' | b')' => (depth, cursor.at) = (depth.saturating_sub(1), cursor.at + 1),
                b'|' | b'&' | b'?' | b'[' | b']' => cursor.at += 1,
                b',' | b' ' | b':' if depth > 0 => cursor.at += 1,
                _ => return,
            }
        }
    }

    fn mention(&mut self, cursor: &mut crate::cursor::Cursor, scope: u32) {
        let mut chain = Chain { links: ChainLinks::default(), root: Root::Scope(scope) };
        if cursor.peek(0) == b'\\' {
            chain.root = Root::Global;
            cursor.at += 1;
        }
        while crate::cursor::in_word(cursor.peek(0)) && !chain.links.is_full() {
            if let Some(last) = chain.links.last_mut() {
                last.arity = NAMESPACE;
            }
            let at = cursor.at;
            let name = cursor.name();
            chain.links.push(ChainLink { name, arity: 0, span: Span::new(at, cursor.at) });
            if cursor.peek(0) != b'\\' {
                break;
            }
            cursor.at += 1;
        }
        self.record(&chain, Context::Weak);
    }
}

fn is_type_tag(tag: &[u8]) -> bool {
    matches!(
        tag,
        b"param"
            | b"return"
            | b"var"
            | b"throws"
            | b"see"
            | b"mixin"
            | b"property"
            | b"property-read"
            | b"property-write"
            | b"extends"
            | b"implements"
            | b"use"
            | b"method"
            | b"uses"
            | b"covers"
    )
}
