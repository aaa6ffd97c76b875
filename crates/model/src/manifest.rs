use crate::{Problem, ProjectPath, Span};

/// What a manifest says of one listed path.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum ItemAction {
    /// Code that is compiled into the project.
    Compile,
    /// A pattern whose files are taken out again.
    Exclude,
    /// Another file that belongs to the project: a resource, a page, data.
    Content,
    /// Another manifest that this one uses.
    Reference,
    /// A built file that this one uses.
    Binary,
    /// A manifest that belongs to the same solution.
    Member,
    /// A further file of settings that is read as part of this one.
    Import,
}

/// A path written in a manifest.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PathMention {
    /// What the path is there for.
    pub action: ItemAction,
    /// The path as written, without quotes.
    pub span: Span,
    /// The path as written, entities decoded.
    pub written: String,
    /// The whole element or line, with the line end and the blanks before it.
    pub element: Span,
    /// Whether it is written with backslashes.
    pub backslashes: bool,
}

/// What may be the full name of a declared type, in a file that is no code.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct NameMention {
    /// Its place.
    pub span: Span,
    /// The name as written.
    pub written: Box<str>,
}

/// A dependency that a manifest declares on another one of the project, by path or by name.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ProjectReference {
    /// The other manifest's path, or its assembly or package name where `by_name`.
    pub target: String,
    /// `target` is a name.
    pub by_name: bool,
    /// The text that states it.
    pub span: Span,
    /// The whole element with its line.
    pub element: Span,
}

/// What one manifest says.
#[derive(Clone, Debug, Default)]
pub struct ManifestFacts {
    /// The ecosystem's word for it: `project`, `solution`.
    pub kind: &'static str,
    /// Where it lies.
    pub path: Option<ProjectPath>,
    /// The name by which others refer to it.
    pub name: String,
    /// The targets by which others refer to what it builds, where they do not use its name.
    pub targets: Option<Vec<String>>,
    /// What people call it, where that is not its file's name; else empty.
    pub label: String,
    /// The namespace of its own folder.
    pub root_namespace: Option<String>,
    /// Where nothing states the namespace of its folder, its file's name is that.
    pub named_root: bool,
    /// Its file may be called anything: the ending says what it is.
    pub freely_named: bool,
    /// Folders below its own (empty for that itself) whose code has a namespace of its own: folder, namespace.
    pub namespace_folders: Vec<(String, String)>,
    /// Its code may use more than it declares, because not all of what it declares can be read.
    pub open: bool,
    /// Builds make further code of it out of files in other languages, so that not all that it uses can be read.
    pub makes_code: bool,
    /// What it refers to may be there for the linker, whether its code names it or not.
    pub links: bool,
    /// It holds every code file below its folder that it does not exclude.
    pub takes_all: bool,
    /// That is so for code in the folders of other projects below, too.
    pub takes_nested: bool,
    /// References reach through the projects that are referred to.
    pub transitive: bool,
    /// Its compiler is given what it declares only, and must know what the types are made of that its code names.
    pub needs_bases: bool,
    /// Extensions of the files that `takes_all` takes; empty for all.
    pub extensions: &'static [&'static str],
    /// What else its ecosystem's linker must know, as the linker's file says.
    pub settings: Vec<(String, String)>,
    /// Listed paths.
    pub mentions: Vec<PathMention>,
    /// What may be full names of code, as written.
    pub names: Vec<NameMention>,
    /// Declared dependencies on other manifests.
    pub references: Vec<ProjectReference>,
    /// Declared dependencies on what no manifest of the project makes.
    pub outside: Vec<OutsideReference>,
    /// Where further ones are written.
    pub outside_slots: Vec<ItemSlot>,
    /// Namespaces that every file of it imports, with the place of each.
    pub imports: Vec<(String, Span)>,
    /// Names of conditions that hold in its code (`#if WET`), in any of its builds.
    pub symbols: Vec<String>,
    /// Names that may see what is internal here.
    pub friends: Vec<String>,
    /// Where a further reference is written: a byte offset, and the text around its path.
    pub reference_slot: Option<(usize, String, String)>,
    /// Where a further code file is written: a byte offset, and the text around its path.
    pub compile_slot: Option<(usize, String, String)>,
    /// What could not be read.
    pub problems: Vec<Problem>,
}

/// Settings whose names begin with this give the folder of the project that is called as the rest of the name.
pub const PLACE: &str = "place:";

/// The setting that names the manifest of which this one has all that it declares.
pub const INHERITED: &str = "inherited";
/// The setting that says where that lies: the manifest, or its folder.
pub const INHERITED_AT: &str = "inherited-at";

/// A reference to what none of the project's manifests makes: an assembly of the framework, a package.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct OutsideReference {
    /// What sort of item states it.
    pub item: &'static str,
    /// What it refers to.
    pub name: String,
    /// The whole element.
    pub element: Span,
    /// It says by a path where that is.
    pub has_path: bool,
}

/// Where a further item is written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ItemSlot {
    /// The sort of item.
    pub item: &'static str,
    /// A byte offset.
    pub at: usize,
    /// What stands before the element there, and behind it.
    pub around: (String, String),
}

impl ManifestFacts {
    /// A project that holds every file with one of the `extensions` below its folder, called as the folder is.
    pub fn of_folder(path: &ProjectPath, extensions: &'static [&'static str]) -> Self {
        let folder = path.parent().rsplit('/').next().unwrap_or_default();
        Self {
            kind: "project",
            path: Some(path.clone()),
            name: folder.to_owned(),
            label: folder.to_owned(),
            takes_all: true,
            transitive: true,
            extensions,
            ..Self::default()
        }
    }

    /// The first setting of this name.
    pub fn setting(&self, key: &str) -> Option<&str> {
        self.settings.iter().find(|(name, _)| name == key).map(|(_, value)| value.as_str())
    }

    /// The settings whose names begin with `prefix`: the rest of the name, and the value.
    pub fn settings_of<'m>(&'m self, prefix: &'m str) -> impl Iterator<Item = (&'m str, &'m str)> {
        self.settings
            .iter()
            .filter_map(move |(name, value)| Some((name.strip_prefix(prefix)?, value.as_str())))
    }

    /// The names by which others refer to it.
    pub fn answers_to(&self) -> impl Iterator<Item = &str> {
        let own = self.targets.is_none().then_some(self.name.as_str());
        own.into_iter().chain(self.targets.iter().flatten().map(String::as_str))
    }

    /// Whether a name that is written here may be that of `other`: names of other languages' projects mean nothing here.
    pub fn shares_language(&self, other: &Self) -> bool {
        self.extensions == other.extensions
            || self.extensions.iter().any(|extension| other.extensions.contains(extension))
    }

    /// The folder that it lies in.
    pub fn folder(&self) -> &str {
        self.path.as_ref().map_or("", |path| path.parent())
    }
}

/// A reader of one sort of manifest. Stateless; a row in the list of manifests.
pub trait ManifestReader: Sync {
    /// Whether a file of this name (lower case) is such a manifest.
    fn matches(&self, file_name: &str) -> bool;

    /// The same for readers that ask where the file lies as well.
    fn matches_at(&self, path: &ProjectPath, file_name: &str) -> bool {
        let _ = path;
        self.matches(file_name)
    }

    /// Folders that tools of the ecosystem fill with other people's code: the name, and a file that they leave there; with
    /// `*/` in front in each folder inside.
    fn filled_folders(&self) -> &'static [(&'static str, &'static str)] {
        &[]
    }

    /// Whether such a file is code as well, to be read as both.
    fn is_code(&self) -> bool {
        false
    }

    /// What it says; never fails.
    fn read(&self, path: &ProjectPath, text: &[u8]) -> ManifestFacts;

    /// Corrects what only the other manifests of the tree tell, once `manifests` are all read.
    fn settle(&self, manifests: &mut [ManifestFacts]) {
        let _ = manifests;
    }
}
