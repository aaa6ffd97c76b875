//! C#: namespaces in all forms, usings in all forms, declared types with their bases, members that could be
//! mistaken for types, and every name in a place where a type can stand.
//!
//! Members of values are kept below the type of the value, as far as that is spelled. Of other values a name after a
//! dot is kept only where it is called, because it may be an extension method.

mod bounds;
mod braces;
mod code;
mod declarations;
mod documentation;
mod heads;
mod imports;
mod lexer;
mod library;
mod parameters;
mod patterns;
mod queries;
mod tokens;
mod types;
mod values;

use self::bounds::Waiting;
use self::braces::Braces;
use self::lexer::Lexer;
use self::patterns::Pattern;
use self::queries::Query;
use self::tokens::{Branch, Kind, Token, Word};
use crate::chain_links::ChainLinks;
use crate::values::{Given, GivenParameters, ToldByFirst, Values};
use ferngate_model::{
    ALL_KEYS, ChainLink, ConditionLine, Context, FolderNaming, ImportSpelling, Language, Name, Naming,
    Recorder, Root, ScopeKind, Span, UseParent,
};

/// C# source files.
#[derive(Debug)]
pub struct CSharp;

/// How names are looked up in C# and in the markup that compiles to it.
pub const NAMING: Naming = Naming {
    family: "C#",
    separator: ".",
    sees_parents: true,
    relative_namespaces: true,
    single_imports_first: false,
    implicit_imports: &[],
    functions_fall_back: false,
    calls_construct: false,
    bare_members: true,
    getters_are_values: false,
    called_by_index: "",
    interfaces_give: false,
    lowest_interface: false,
    objects_have: &[],
    text_types: &[],
    class_types: &[],
    own_methods: library::OWN_METHODS,
    versioned_folder: "",
    given_parts: &[
        ("Key", 0),
        ("Value", 1),
        ("Keys", ALL_KEYS),
        ("Item1", 0),
        ("Item2", 1),
        ("Item3", 2),
        ("component1()", 0),
        ("component2()", 1),
        ("component3()", 2),
    ],
    attribute_suffix: "Attribute",
    global_prefix: "global::",
    folder_imports: &[],
    // The code behind a page, what a designer wrote, a form's resources.
    companions: &[
        &[".xaml.cs", ".xaml"],
        &[".axaml.cs", ".axaml"],
        &[".razor.css", ".razor.cs", ".razor.js", ".razor"],
        &[".cshtml.css", ".cshtml.cs", ".cshtml"],
        &[".Designer.cs", ".designer.cs", ".resx", ".cs"],
    ],
    folders: FolderNaming::BelowRoot,
    folders_are_packages: false,
    moves: true,
};

impl Language for CSharp {
    fn name(&self) -> &'static str {
        "C#"
    }

    fn extensions(&self) -> &'static [&'static str] {
        &["cs"]
    }

    fn naming(&self) -> Naming {
        NAMING
    }

    fn import_spelling(&self) -> ImportSpelling {
        ImportSpelling { before: "using ", after: ";" }
    }

    fn platform_may_declare(&self, namespace: &str) -> bool {
        matches!(namespace, "Microsoft.CSharp" | "Microsoft.VisualBasic" | "Microsoft.Win32")
            || namespace.split('.').next() == Some("System")
    }

    fn whole_condition<'t>(&self, text: &'t str) -> Option<&'t str> {
        let idle = ["//", "#region", "#endregion", "#pragma", "#nullable"];
        let is_code = |line: &&str| !line.is_empty() && !idle.iter().any(|start| line.starts_with(start));
        let mut lines = text.trim_start_matches('\u{feff}').lines().map(str::trim).filter(is_code);
        let condition = lines.next().filter(|line| line.starts_with("#if"))?;
        let mut depth = 1usize;
        for line in lines {
            match line {
                _ if depth == 0 => return None,
                _ if line.starts_with("#if") => depth += 1,
                _ if line.starts_with("#endif") => depth -= 1,
                // Another branch is compiled where the first one is not.
                _ if depth == 1 && line.starts_with("#el") => return None,
                _ => {}
            }
        }
        (depth == 0).then_some(condition)
    }

    fn condition_line(&self, line: &[u8]) -> Option<ConditionLine> {
        let word = line.trim_ascii_start().strip_prefix(b"#")?.trim_ascii_start();
        match word {
            [b'i', b'f', ..] => Some(ConditionLine::Begins),
            [b'e', b'l', ..] => Some(ConditionLine::Branches),
            [b'e', b'n', b'd', b'i', b'f', ..] => Some(ConditionLine::Ends),
            _ if word.starts_with(b"define") || word.starts_with(b"undef") => Some(ConditionLine::Defines),
            _ => None,
        }
    }

    fn section_line(&self, line: &[u8]) -> Option<ConditionLine> {
        let word = line.trim_ascii_start().strip_prefix(b"#")?.trim_ascii_start();
        match word {
            _ if word.starts_with(b"region") => Some(ConditionLine::Begins),
            _ if word.starts_with(b"endregion") => Some(ConditionLine::Ends),
            _ => None,
        }
    }

    fn condition_end(&self) -> &'static str {
        "#endif"
    }

    fn read(&self, text: &[u8], recorder: &mut Recorder) {
        if text.starts_with(&[0xFF, 0xFE]) || text.starts_with(&[0xFE, 0xFF]) {
            recorder.problem(Span::new(0, 2), "the file is UTF-16; save it as UTF-8 to have it read");
            return;
        }
        let mut reader = Reader::new(text, recorder);
        reader.advance();
        reader.run();
    }
}

/// Reads the code inside `span` as statements whose names are looked up in `scope`; for markup with code in it.
pub fn read_code(text: &[u8], span: Span, scope: u32, recorder: &mut Recorder) {
    let mut reader = Reader::new(text, recorder);
    reader.lexer.cursor.at = span.start as usize;
    reader.lexer.cursor.end = span.end as usize;
    reader.frames[0].scope = scope;
    reader.advance();
    reader.code_to_end();
}

/// Reads the code inside `span` as members of the type `declaration`, whose inside is `scope`.
pub fn read_members(text: &[u8], span: Span, scope: u32, declaration: u32, recorder: &mut Recorder) {
    let mut reader = Reader::new(text, recorder);
    reader.lexer.cursor.at = span.start as usize;
    reader.lexer.cursor.end = span.end as usize;
    reader.frames.push(Frame { kind: FrameKind::Type, scope, declaration, depth: 0 });
    reader.advance();
    reader.run();
}

/// Reads one type in `span` (`List<Ticket>`), looked up in `scope`.
pub fn read_type(text: &[u8], span: Span, scope: u32, recorder: &mut Recorder) {
    let mut reader = Reader::new(text, recorder);
    reader.lexer.cursor.at = span.start as usize;
    reader.lexer.cursor.end = span.end as usize;
    reader.frames[0].scope = scope;
    reader.advance();
    reader.type_reference(scope);
}

/// Reads a dotted name in `span` as the target of an import and returns its last node.
pub fn read_import_target(text: &[u8], span: Span, scope: u32, recorder: &mut Recorder) -> Option<u32> {
    let mut reader = Reader::new(text, recorder);
    reader.lexer.cursor.at = span.start as usize;
    reader.lexer.cursor.end = span.end as usize;
    reader.advance();
    let chain = reader.chain(scope, Arguments::Types);
    let root = chain.root(scope);
    reader.recorder.chain(root, chain.links(), Context::Import, false)
}

const NO_DECLARATION: u32 = u32::MAX;
/// Deeper type arguments, tuples and parameter lists than this are passed over.
const DEEPEST: u32 = 120;

#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum FrameKind {
    /// The file: declarations, or statements at the top.
    File,
    Namespace,
    Type,
    Enum,
    /// Code between braces; `depth` counts those that are open.
    Body,
    /// The same for a property, which an initial value may follow.
    Property,
    /// Code up to a semicolon outside of braces.
    Statement,
}

/// What surrounds the token being read. The stack of frames is the whole state of the reader, so that the second
/// branch of an `#if` can start where the first one did.
#[derive(Clone, Copy, Debug)]
struct Frame {
    kind: FrameKind,
    scope: u32,
    declaration: u32,
    depth: u32,
}

/// How many frames are open, and how many braces in the last of them.
type Place = (usize, u32);

/// What is remembered of a token that was passed.
type Before = (Kind, Word);

struct Reader<'t, 'r> {
    lexer: Lexer<'t>,
    text: &'t [u8],
    frames: Vec<Frame>,
    branches: Vec<Vec<Frame>>,
    recorder: &'r mut Recorder,
    /// Locals and parameters of the member being read, and what expressions give.
    values: Values,
    /// Type parameters of the type or method whose head was read last.
    parameters: Vec<Name>,
    /// What type parameters of the method being read are at least: the node of that type.
    bounds: Vec<(Name, u32)>,
    /// The type parameter of the method that the type read last is, or is given.
    hidden: Option<Name>,
    /// The type parameters of the method being read among the type arguments of the type just read.
    hidden_arguments: GivenParameters,
    /// The type parameter of that method that is the type of its first parameter, and those among its type arguments.
    told: ToldByFirst,
    /// Parameters of the method whose types wait for what its type parameters are at least.
    waiting: Vec<Waiting>,
    /// Where a declaration of locals began that may name more of them, and the type of their values.
    declaring: Option<(Place, UseParent)>,
    /// Types named since the member began, as far as its head goes.
    signature: Vec<u32>,
    /// What was just read makes an object.
    creates: bool,
    /// Braces inside of expressions.
    braces: Braces,
    /// Queries that are being read, the innermost last.
    queries: Vec<Query>,
    /// Braces between which members are compared, the innermost last.
    patterns: Vec<Pattern>,
    /// What is compared with the members between the braces that begin here.
    matching: Option<UseParent>,
    /// What the type just read was given.
    given: Given,
    /// Types of the parameters just read.
    parameter_types: Vec<u32>,
    /// The field or property just declared: index into the members, and its name.
    property: Option<(u32, Span)>,
    /// The token before the current one, and the one before that, in code.
    before: [Before; 2],
    depth: u32,
    /// Some type of the file has parts, which may stand in other files.
    has_parts: bool,
    /// Names that `extern alias` gives to whole libraries.
    aliases: Vec<Name>,
}

/// What stands between `<` and `>` behind a name.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Arguments {
    /// Types that are used.
    Types,
    /// Type parameters that are declared.
    Parameters,
    /// Types, if it is no comparison.
    Unsure,
}

/// More type parameters than this are those of no code that a person wrote.
const MOST_PARAMETERS: usize = 64;

/// No head of a member names more types than this.
const LONGEST_SIGNATURE: usize = 64;

/// A dotted name.
#[derive(Default)]
struct Chain {
    links: ChainLinks,
    global: bool,
    /// A dot follows that no name follows.
    open: bool,
}

impl Chain {
    fn links(&self) -> &[ChainLink] {
        &self.links
    }

    fn root(&self, scope: u32) -> Root {
        if self.global { Root::Global } else { Root::Scope(scope) }
    }

    fn last(&self) -> Option<ChainLink> {
        self.links().last().copied()
    }
}

impl<'t, 'r> Reader<'t, 'r> {
    fn new(text: &'t [u8], recorder: &'r mut Recorder) -> Self {
        let lexer = Lexer::new(text, recorder.options().weak);
        let file = Frame { kind: FrameKind::File, scope: 0, declaration: NO_DECLARATION, depth: 0 };
        Self {
            lexer,
            text,
            frames: vec![file],
            branches: Vec::new(),
            recorder,
            values: Values::new(*values::GIVES),
            parameters: Vec::new(),
            bounds: Vec::new(),
            hidden: None,
            hidden_arguments: GivenParameters::default(),
            told: ToldByFirst::default(),
            waiting: Vec::new(),
            declaring: None,
            signature: Vec::new(),
            creates: false,
            braces: Braces::default(),
            queries: Vec::new(),
            patterns: Vec::new(),
            matching: None,
            given: Given::default(),
            parameter_types: Vec::new(),
            property: None,
            before: [(Kind::End, Word::None); 2],
            depth: 0,
            has_parts: false,
            aliases: Vec::new(),
        }
    }

    fn run(&mut self) {
        while self.lexer.token.kind != Kind::End {
            let at = self.lexer.token.start();
            let depth = self.frames.len();
            match self.frame().kind {
                FrameKind::Body | FrameKind::Property | FrameKind::Statement => self.code(),
                FrameKind::Enum => self.enum_member(),
                _ => self.member(),
            }
            // Whatever was odd about this token, the next one is read.
            if self.lexer.token.start() == at
                && self.frames.len() == depth
                && self.lexer.token.kind != Kind::End
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

    fn place(&self) -> Place {
        (self.frames.len(), self.frame().depth)
    }

    fn push(&mut self, kind: FrameKind, scope: u32, declaration: u32) {
        self.frames.push(Frame { kind, scope, declaration, depth: 0 });
    }

    fn pop(&mut self) {
        if self.frames.len() > 1 {
            self.frames.pop();
        }
    }

    /// Goes to the next token. Frames are pushed and popped before this, because branch lines on the way restore them.
    #[inline]
    fn advance(&mut self) {
        self.before = [(self.lexer.token.kind, self.lexer.token.word), self.before[0]];
        self.lexer.next();
        if self.lexer.noted {
            self.noted();
        }
    }

    /// Kept out of `advance`, which is small without it.
    #[cold]
    fn noted(&mut self) {
        self.lexer.noted = false;
        self.branch_lines();
        self.documentation();
    }

    /// The token after the current one, without any effect.
    fn peek(&mut self) -> Token {
        self.peek_two().0
    }

    fn peek_two(&mut self) -> (Token, Token) {
        let cursor = self.lexer.cursor;
        let (holes, keep) = (std::mem::take(&mut self.lexer.holes), self.lexer.keep_documentation);
        let (branches, noted) = (self.lexer.branches.len(), self.lexer.noted);
        self.lexer.keep_documentation = false;
        let current = self.lexer.token;
        self.lexer.next();
        let first = self.lexer.token;
        self.lexer.next();
        let tokens = (first, self.lexer.token);
        self.lexer.token = current;
        self.lexer.branches.truncate(branches);
        self.lexer.noted = noted;
        self.lexer.cursor = cursor;
        self.lexer.holes = holes;
        self.lexer.keep_documentation = keep;
        tokens
    }

    fn branch_lines(&mut self) {
        for branch in std::mem::take(&mut self.lexer.branches) {
            match branch {
                Branch::If => self.branches.push(self.frames.clone()),
                Branch::Else => {
                    if let Some(saved) = self.branches.last() {
                        self.frames.clone_from(saved);
                    }
                }
                Branch::End => drop(self.branches.pop()),
            }
        }
    }
}

/// A namespace scope's parts from a chain, with their texts remembered.
fn namespace_kind(reader: &mut Reader, chain: &Chain, span: Span, to_end: bool) -> ScopeKind {
    let path = chain.links().iter().map(|link| {
        let text = link.span.text(reader.text);
        reader.recorder.facts().texts.add(&text)
    });
    ScopeKind::Namespace { path: path.collect(), name: span, to_end }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_condition_of_a_whole_file_is_told() {
        let told = |text: &str| CSharp.whole_condition(text).map(str::to_owned);
        assert_eq!(
            told("\u{feff}// note\n\n  #if A && B\nclass X {}\n#endif\n"),
            Some("#if A && B".to_owned())
        );
        assert_eq!(
            told("#region Licence\n// note\n#endregion\n#if A\nclass X {}\n#endif"),
            Some("#if A".to_owned())
        );
        assert_eq!(told("#if A\n#if B\n#else\n#endif\nclass X {}\n#endif // A\n"), Some("#if A".to_owned()));
        for part in [
            "class X {}\n",
            "#if A\n#endif\nclass X {}",
            "#if A\n#else\nclass X {}\n#endif",
            "#if A\nclass X {}",
            "",
        ] {
            assert_eq!(told(part), None, "{part}");
        }
    }
}
