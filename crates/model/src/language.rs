use crate::{FileFacts, MakeLinker, Recorder, with_plain_blanks};

/// What a reader is asked to collect besides the plain facts.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct ReadOptions {
    /// Every use with its place.
    pub occurrences: bool,
    /// Mentions in comments that tools understand ([`crate::Context::Weak`]).
    pub weak: bool,
}

/// How names are looked up and written in a language; data for the one resolver in `core`.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Naming {
    /// Languages with the same family share declared names.
    pub family: &'static str,
    /// Between the parts of a namespace.
    pub separator: &'static str,
    /// Code sees the namespaces around its own without any import.
    pub sees_parents: bool,
    /// A namespace may be named by what is left of it behind one that can be seen; else only in full.
    pub relative_namespaces: bool,
    /// An import of a single name hides what the own namespace declares, and that hides imports of whole namespaces.
    pub single_imports_first: bool,
    /// Namespaces that every file imports without a word, behind everything else.
    pub implicit_imports: &'static [&'static str],
    /// A function or constant that the own namespace lacks is that of the outermost one.
    pub functions_fall_back: bool,
    /// A call of a name makes an object where a class has that name, without a word before it.
    pub calls_construct: bool,
    /// A member may be named without the object or type that it belongs to, inside of that type.
    pub bare_members: bool,
    /// What a method without arguments gets, `getBed()`, may be named as a value, `bed`.
    pub getters_are_values: bool,
    /// The method that an index calls where the type has no operator for it, `row[2]`; empty where none.
    pub called_by_index: &'static str,
    /// A class has the members of the interfaces that it implements without declaring them itself.
    pub interfaces_give: bool,
    /// Of interfaces that all declare a method its compiler takes that with the fewest types above it, not the nearest.
    pub lowest_interface: bool,
    /// Methods that every object has, with the number of their arguments: a call of one on a class or on what derives from
    /// an interface is not a call of what that interface says of it.
    pub objects_have: &'static [(&'static str, usize)],
    /// Types of other libraries that take a text between quotes, as parameters.
    pub text_types: &'static [&'static str],
    /// Those that take a class itself, `Bed.class`, and no text.
    pub class_types: &'static [&'static str],
    /// What common types of other libraries have themselves.
    pub own_methods: &'static [OwnMethods],
    /// Members of types of other libraries that give one of the types that these were given, by its number from zero:
    /// `pair.Value`, or `pair.getValue()` for a method; [`ALL_GIVEN`] for what was given the same, [`ALL_KEYS`] for a
    /// collection of the first.
    pub given_parts: &'static [(&'static str, usize)],
    /// What an attribute's name may leave out; empty where nothing.
    pub attribute_suffix: &'static str,
    /// How a name is forced to begin at the outermost namespace; empty where it cannot be.
    pub global_prefix: &'static str,
    /// Files whose imports count for every file of the same language at or below their folder.
    pub folder_imports: &'static [&'static str],
    /// Endings of files that are one thing with a file of this language, family by family, the longest ending first: what
    /// such a file is called before its ending makes them companions.
    pub companions: &'static [&'static [&'static str]],
    /// How folders and namespaces go together.
    pub folders: FolderNaming,
    /// Each folder with code is a part of its own, whatever it is called.
    pub folders_are_packages: bool,
    /// The folder of sources beside which others lie for later versions of the platform, with a number behind the name;
    /// empty where nothing does.
    pub versioned_folder: &'static str,
    /// Code can be moved; else moves of such files are refused.
    pub moves: bool,
}

/// Methods that a type of another library has itself, so that a call of them means none that extends something more
/// general.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct OwnMethods {
    /// The name of the type; empty for all that the language has words for.
    pub of: &'static str,
    /// Their names, with the most arguments that they take.
    pub methods: &'static [(&'static str, usize)],
}

/// In [`Naming::given_parts`]: a value that was given the same types.
pub const ALL_GIVEN: usize = usize::MAX;

/// Stands among [`Naming::given_parts`] for a collection of what the type was given first.
pub const ALL_KEYS: usize = usize::MAX - 1;

impl Naming {
    /// For a language whose imports name files, folders or packages: nothing of the table of names applies.
    pub const fn by_path(family: &'static str, separator: &'static str) -> Self {
        Self {
            family,
            separator,
            sees_parents: false,
            relative_namespaces: false,
            single_imports_first: false,
            implicit_imports: &[],
            functions_fall_back: false,
            attribute_suffix: "",
            global_prefix: "",
            folder_imports: &[],
            companions: &[],
            folders: FolderNaming::Free,
            folders_are_packages: false,
            calls_construct: false,
            bare_members: true,
            getters_are_values: false,
            called_by_index: "",
            interfaces_give: true,
            lowest_interface: false,
            objects_have: &[],
            text_types: &[],
            class_types: &[],
            own_methods: &[],
            given_parts: &[],
            versioned_folder: "",
            moves: false,
        }
    }
}

/// How folders and namespaces go together.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum FolderNaming {
    /// Not at all.
    Free,
    /// A folder's namespace is that of its manifest followed by the folders below it.
    BelowRoot,
    /// The last folders spell the whole namespace.
    Whole,
}

/// How one language writes an import.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ImportSpelling {
    /// The words before the namespace: `using `.
    pub before: &'static str,
    /// The words after it: `;`.
    pub after: &'static str,
}

/// A line about code that is compiled under a condition only.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ConditionLine {
    /// Such code begins.
    Begins,
    /// The code for another condition, or for none of them, begins.
    Branches,
    /// Such code ends.
    Ends,
    /// What conditions of the file ask for is said to hold, or not to.
    Defines,
}

/// A language: reading it and spelling it. Stateless; a row in the list of languages.
pub trait Language: Sync {
    /// Its name as people write it.
    fn name(&self) -> &'static str;

    /// File extensions, lower case, without the dot.
    fn extensions(&self) -> &'static [&'static str];

    /// Of its extensions, those of languages that are not read, too.
    fn doubtful_extensions(&self) -> &'static [&'static str] {
        &[]
    }

    /// Whether a file of this text is of the language. Asked only where several languages share its extension.
    fn claims(&self, text: &[u8]) -> bool {
        let _ = text;
        true
    }

    /// How names are looked up.
    fn naming(&self) -> Naming;

    /// Reads `text` into `recorder`, which has begun the file. Never fails: what is not understood is left out or
    /// becomes a problem. Linear in the length of `text`, in which [`plain_blanks`](crate::plain_blanks) has written.
    fn read(&self, text: &[u8], recorder: &mut Recorder);

    /// How an import of a namespace is written.
    fn import_spelling(&self) -> ImportSpelling;

    /// Whether the language's own libraries may declare types in `namespace` too, so that an import of it may serve
    /// more than what the project declares there.
    fn platform_may_declare(&self, namespace: &str) -> bool {
        let _ = namespace;
        false
    }

    /// The line that begins the condition under which all of `text` is compiled, such as `#if DESK`, if there is one.
    fn whole_condition<'t>(&self, text: &'t str) -> Option<&'t str> {
        let _ = text;
        None
    }

    /// What `line` does where code is compiled under a condition only; `None` for all other lines.
    fn condition_line(&self, line: &[u8]) -> Option<ConditionLine> {
        let _ = line;
        None
    }

    /// The same for a part of the text that is marked for readers only.
    fn section_line(&self, line: &[u8]) -> Option<ConditionLine> {
        let _ = line;
        None
    }

    /// What files are called from which builds usually make one called `name`.
    fn made_from(&self, name: &str) -> Vec<String> {
        let _ = name;
        Vec::new()
    }

    /// The line that ends such a condition.
    fn condition_end(&self) -> &'static str {
        ""
    }

    /// Finds where imports lead, for languages whose imports name files, folders or packages; the others share one
    /// table of declared names. One linker serves all languages of a family.
    fn linker(&self) -> Option<MakeLinker> {
        None
    }

    /// The facts of `text`, with buffers of its own; for single files.
    fn facts(&self, text: &[u8], options: ReadOptions) -> FileFacts {
        let mut recorder = Recorder::default();
        recorder.begin(text.len(), options);
        self.read(&with_plain_blanks(text), &mut recorder);
        let mut facts = recorder.finish();
        facts.lines = count_lines(text);
        facts
    }
}

fn count_lines(text: &[u8]) -> u32 {
    let ends = text.iter().filter(|&&byte| byte == b'\n').count() as u32;
    ends + u32::from(text.last().is_some_and(|&byte| byte != b'\n'))
}
