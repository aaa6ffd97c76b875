//! Builds what it can of a real solution with the C# compiler, from its project files as they are, read without any
//! help of the program under test.

use super::solution::{normal, tree, values};
use std::collections::BTreeMap;
use std::hash::{DefaultHasher, Hash, Hasher};
use std::path::{Path, PathBuf};
use std::process::Command;
use tempfile::TempDir;

/// One project file.
struct Source {
    file: PathBuf,
    name: String,
    code: Vec<PathBuf>,
    references: Vec<PathBuf>,
    libraries: Vec<PathBuf>,
    /// What the compiler is to take as defined.
    symbols: Vec<String>,
    /// It sees what the projects that it refers to refer to.
    reaches_on: bool,
}

/// A project as it was built: a number for all that went into it, and the library.
#[derive(Clone)]
struct Built {
    made_of: u64,
    library: PathBuf,
}

/// What each project file came to: a library, or what is wrong with it or with what it refers to.
pub type Outcome = BTreeMap<PathBuf, Result<(), String>>;

/// What is said of a project because another one cannot be built.
pub const BEHIND: &str = "refers to what does not build";

/// Builds a solution again and again, each time only what is made of something else than before.
pub struct Builder {
    root: PathBuf,
    out: TempDir,
    /// With what all libraries are signed if any is: signed ones may refer to signed ones only.
    key: Option<PathBuf>,
    known: BTreeMap<u64, Result<PathBuf, String>>,
}

fn element<'t>(text: &'t str, name: &str) -> Option<&'t str> {
    let inside = text.split(&format!("<{name}>")).nth(1)?;
    inside.split(&format!("</{name}>")).next()
}

fn read(file: &Path) -> Source {
    let text = std::fs::read_to_string(file).unwrap_or_default();
    let folder = file.parent().unwrap();
    let paths = |name: &str| values(&text, name).into_iter().map(|path| normal(&folder.join(path)));
    let reaches_on = text.contains("Sdk=");
    let mut code: Vec<PathBuf> = paths("Compile").collect();
    if reaches_on {
        tree(folder, "cs", &mut code);
    }
    code.sort();
    code.dedup();
    let framework = Path::new("/usr/lib/mono/4.5");
    let named = values(&text, "Reference").into_iter().map(|name| {
        let name = name.split(',').next().unwrap_or_default().trim().to_owned();
        framework.join(format!("{name}.dll"))
    });
    let hints = text.split("<HintPath>").skip(1).filter_map(|rest| rest.split("</HintPath>").next());
    let hints = hints.map(|path| normal(&folder.join(path.trim().replace('\\', "/"))));
    let symbols = element(&text, "DefineConstants").unwrap_or_default().split([',', ';', ' ']);
    let symbols = symbols.filter(|symbol| !symbol.is_empty() && !symbol.contains('$'));
    let stem = file.file_stem().unwrap_or_default().to_string_lossy().into_owned();
    Source {
        file: file.to_owned(),
        name: element(&text, "AssemblyName").map_or(stem, str::to_owned),
        references: paths("ProjectReference").collect(),
        libraries: named.chain(hints).filter(|path| path.is_file()).collect(),
        code,
        symbols: symbols.map(str::to_owned).collect(),
        reaches_on,
    }
}

impl Builder {
    pub fn new(root: &Path) -> Self {
        let mut keys = Vec::new();
        tree(root, "snk", &mut keys);
        let out = tempfile::tempdir().unwrap();
        let key = keys.first().map(|key| out.path().join(key.file_name().unwrap()));
        key.iter().for_each(|copy| {
            std::fs::copy(&keys[0], copy).unwrap();
        });
        Self { root: root.to_owned(), out, key, known: BTreeMap::new() }
    }

    /// The code that goes into the projects that `outcome` says were built.
    pub fn code_of(&self, outcome: &Outcome) -> Vec<String> {
        let built = outcome.iter().filter(|(_, outcome)| outcome.is_ok());
        let code = built.flat_map(|(file, _)| read(&self.root.join(file)).code);
        let inside = code.filter_map(|path| Some(path.strip_prefix(&self.root).ok()?.display().to_string()));
        let mut code: Vec<String> = inside.collect();
        code.sort();
        code.dedup();
        code
    }

    /// Builds all projects below the root whose references can be built.
    pub fn build(&mut self) -> Outcome {
        let mut files = Vec::new();
        tree(&self.root, "csproj", &mut files);
        let mut open: Vec<Source> = files.iter().map(|file| read(file)).collect();
        let mut done: BTreeMap<PathBuf, Result<Built, String>> = BTreeMap::new();
        while !open.is_empty() {
            let is_ready = |source: &Source| source.references.iter().all(|file| done.contains_key(file));
            let (ready, rest): (Vec<Source>, Vec<Source>) = open.into_iter().partition(is_ready);
            open = rest;
            if ready.is_empty() {
                let missing =
                    |source: Source| (source.file, Err("it refers to what is not there".to_owned()));
                done.extend(open.drain(..).map(missing));
            }
            for source in ready {
                let built = self.project(&source, &done, &files);
                done.insert(source.file, built);
            }
        }
        let relative = |file: PathBuf| file.strip_prefix(&self.root).unwrap().to_owned();
        done.into_iter().map(|(file, built)| (relative(file), built.map(drop))).collect()
    }

    fn project(
        &mut self,
        source: &Source,
        done: &BTreeMap<PathBuf, Result<Built, String>>,
        all: &[PathBuf],
    ) -> Result<Built, String> {
        let mut reached = source.references.clone();
        let mut at = 0;
        while source.reaches_on && at < reached.len() {
            let through = read(&reached[at]);
            let further =
                through.references.into_iter().filter(|file| through.reaches_on && !reached.contains(file));
            let new: Vec<PathBuf> = further.collect();
            reached.extend(new);
            at += 1;
        }
        let mut hasher = DefaultHasher::new();
        (&source.name, &source.symbols, &source.libraries).hash(&mut hasher);
        let mut libraries = source.libraries.clone();
        for file in &reached {
            let built = done.get(file).ok_or("it refers to what is not there")?;
            let built = built.as_ref().map_err(|_| BEHIND)?;
            built.made_of.hash(&mut hasher);
            libraries.push(built.library.clone());
        }
        // A project of the SDK style leaves out what lies below another one's file.
        let homes: Vec<&Path> =
            all.iter().filter(|file| **file != source.file).filter_map(|f| f.parent()).collect();
        let own = source.file.parent().unwrap();
        let is_other = |path: &Path| {
            source.reaches_on
                && homes.iter().any(|home| home.starts_with(own) && *home != own && path.starts_with(home))
        };
        let code: Vec<&PathBuf> = source.code.iter().filter(|path| !is_other(path)).collect();
        for path in &code {
            let text = std::fs::read(path).map_err(|_| format!("{} is not there", path.display()))?;
            (path, text).hash(&mut hasher);
        }
        let made_of = hasher.finish();
        let folder = self.out.path().join(format!("{made_of:016x}"));
        let library = folder.join(format!("{}.dll", source.name));
        let known = self.known.entry(made_of).or_insert_with(|| {
            std::fs::create_dir_all(&folder).unwrap();
            compile((own, &library), (&source.symbols, self.key.as_deref()), &libraries, &code)
                .map(|()| library)
        });
        known.clone().map(|library| Built { made_of, library })
    }
}

/// Builds `library` in `folder`, with what is to be taken as defined and the key.
fn compile(
    (folder, library): (&Path, &Path),
    (symbols, key): (&[String], Option<&Path>),
    libraries: &[PathBuf],
    code: &[&PathBuf],
) -> Result<(), String> {
    let mut command = Command::new("mcs");
    command
        .args(["-target:library", "-nologo", "-warn:0", "-unsafe"])
        .arg(format!("-out:{}", library.display()));
    if !symbols.is_empty() {
        command.arg(format!("-define:{}", symbols.join(";")));
    }
    command.args(key.map(|key| format!("-keyfile:{}", key.display())));
    command.args(libraries.iter().map(|path| format!("-r:{}", path.display())));
    let output = command.args(code).current_dir(folder).output().unwrap();
    let said = [output.stdout, output.stderr].concat();
    let said = String::from_utf8_lossy(&said);
    let errors: Vec<&str> = said.lines().filter(|line| line.contains("error")).take(4).collect();
    if output.status.success() { Ok(()) } else { Err(errors.join("\n")) }
}
