//! Builds a solution with the C# compiler, project by project.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::process::Command;

/// A project file, read without any help of the program under test.
struct Built {
    name: String,
    file: PathBuf,
    sources: Vec<PathBuf>,
    references: Vec<PathBuf>,
    is_program: bool,
    /// It sees what the projects that it refers to refer to.
    reaches_on: bool,
}

pub fn values(text: &str, element: &str) -> Vec<String> {
    let start = format!("<{element} Include=\"");
    let found = text.match_indices(&start).map(|(at, _)| &text[at + start.len()..]);
    found.filter_map(|rest| rest.split('"').next()).map(|path| path.replace('\\', "/")).collect()
}

pub fn tree(folder: &Path, extension: &str, found: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(folder).unwrap().flatten() {
        let path = entry.path();
        if path.is_dir() {
            tree(&path, extension, found);
        } else if path.extension().is_some_and(|own| own == extension) {
            found.push(path);
        }
    }
}

pub fn normal(path: &Path) -> PathBuf {
    let mut out = PathBuf::new();
    for part in path.components() {
        match part {
            std::path::Component::ParentDir => drop(out.pop()),
            other => out.push(other),
        }
    }
    out
}

fn project(file: &Path) -> Built {
    let text = std::fs::read_to_string(file).unwrap();
    let folder = file.parent().unwrap();
    let name = text.split("<AssemblyName>").nth(1).unwrap().split('<').next().unwrap().to_owned();
    let mut sources = Vec::new();
    if text.contains("Sdk=") {
        tree(folder, "cs", &mut sources);
    } else {
        // The demo lists one file that was moved by hand: an old-style build would only warn of it.
        let listed = values(&text, "Compile").into_iter().map(|path| normal(&folder.join(path)));
        sources.extend(listed.filter(|path| !path.ends_with("Rows/SpecimenRow.cs")));
    }
    let mut references: Vec<PathBuf> =
        values(&text, "ProjectReference").into_iter().map(|path| normal(&folder.join(path))).collect();
    if name == "Mossgrove.Web" {
        // The demo's missing reference, which would keep it from being built at all.
        let mut projects = Vec::new();
        tree(file.parent().unwrap().parent().unwrap().parent().unwrap(), "csproj", &mut projects);
        references
            .extend(projects.into_iter().filter(|path| path.ends_with("Mossgrove.Storage.Files.csproj")));
    }
    let is_program = sources.iter().any(|path| path.ends_with("Program.cs"));
    let reaches_on = text.contains("Sdk=");
    Built { name, file: file.to_owned(), sources, references, is_program, reaches_on }
}

/// Builds every project below `root` with what it refers to, those of the SDK style with what others of them refer to
/// as well.
pub fn build(root: &Path) -> Result<(), String> {
    build_all(root, false)
}

/// The same, where comments may name what is not there.
pub fn build_but_comments(root: &Path) -> Result<(), String> {
    build_all(root, true)
}

fn build_all(root: &Path, lenient: bool) -> Result<(), String> {
    let out = tempfile::tempdir().unwrap();
    let mut files = Vec::new();
    tree(root, "csproj", &mut files);
    let projects: BTreeMap<PathBuf, Built> = files.iter().map(|file| (file.clone(), project(file))).collect();
    for built in projects.values() {
        if let Some(missing) = built.references.iter().find(|path| !projects.contains_key(*path)) {
            return Err(format!("{} refers to {}, which is not there", built.name, missing.display()));
        }
    }
    let mut done: Vec<PathBuf> = Vec::new();
    while done.len() < projects.len() {
        let next = projects
            .values()
            .find(|built| {
                !done.contains(&built.file) && built.references.iter().all(|path| done.contains(path))
            })
            .ok_or("the projects refer to each other")?;
        compile(next, &projects, out.path(), lenient)?;
        done.push(next.file.clone());
    }
    Ok(())
}

fn compile(
    built: &Built,
    projects: &BTreeMap<PathBuf, Built>,
    out: &Path,
    lenient: bool,
) -> Result<(), String> {
    let mut reached: Vec<&PathBuf> = built.references.iter().collect();
    let mut at = 0;
    while built.reaches_on && at < reached.len() {
        let through = &projects[reached[at]];
        for next in through.references.iter().filter(|_| through.reaches_on) {
            if !reached.contains(&next) {
                reached.push(next);
            }
        }
        at += 1;
    }
    let (kind, ending) = if built.is_program { ("exe", "exe") } else { ("library", "dll") };
    let mut command = Command::new("mcs");
    command.arg(format!("-target:{kind}")).arg("-nologo").arg("-langversion:7.2");
    command.arg(format!("-out:{}", out.join(format!("{}.{ending}", built.name)).display()));
    command.arg(format!("-doc:{}", out.join(format!("{}.xml", built.name)).display())).arg("-nowarn:1591");
    for reference in reached {
        command.arg(format!("-r:{}", out.join(format!("{}.dll", projects[reference].name)).display()));
    }
    let output = command.args(&built.sources).output().unwrap();
    let text =
        format!("{}{}", String::from_utf8_lossy(&output.stdout), String::from_utf8_lossy(&output.stderr));
    // A comment that names what is no longer there is only warned of: CS1574, CS1584.
    let unknown = !lenient && (text.contains("CS1574") || text.contains("CS1584"));
    if !output.status.success() || unknown {
        return Err(format!("{}:\n{text}", built.name));
    }
    Ok(())
}
