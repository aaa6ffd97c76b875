//! From what the user typed to a mapping of files.

use super::{Ground, MoveError, companions};
use crate::resolve::{Container, EntityId, Table};
use ferngate_model::{ProjectFacts, ProjectPath};
use std::collections::BTreeMap;

/// What shall move.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Source {
    /// A file or a folder.
    Path(String),
    /// A declared type by its full name.
    Name(String),
}

/// One move: a source and where it goes.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Request {
    /// What.
    pub source: Source,
    /// A new path, or a folder to move into when it exists or ends with a slash.
    pub target: String,
}

impl Request {
    /// Reads a source as typed: a path, or `name:` with a full name.
    pub fn new(source: &str, target: &str) -> Self {
        let source = match source.strip_prefix("name:") {
            Some(name) => Source::Name(name.to_owned()),
            None => Source::Path(source.to_owned()),
        };
        Self { source, target: target.to_owned() }
    }
}

/// Files that go elsewhere, and types that leave their file.
#[derive(Debug, Default)]
pub struct Expanded {
    /// New path by index of the file.
    pub files: BTreeMap<usize, ProjectPath>,
    /// A type, the declaration that leaves, and the path of its new file.
    pub types: Vec<(usize, u32, ProjectPath)>,
    /// Folders that move as a whole.
    pub folders: Vec<(ProjectPath, ProjectPath)>,
}

/// Expands requests.
pub fn expand(
    requests: &[Request],
    project: &ProjectFacts,
    table: &Table,
    ground: &Ground,
) -> Result<Expanded, MoveError> {
    let mut expanded = Expanded::default();
    for request in requests {
        match &request.source {
            Source::Path(path) => expand_path(path, &request.target, project, ground, &mut expanded)?,
            Source::Name(name) => expand_name(name, &request.target, project, table, ground, &mut expanded)?,
        }
    }
    companions::join(project, ground, &mut expanded);
    let types = expanded.types.iter().map(|(file, ..)| file);
    for file in expanded.files.keys().chain(types) {
        let Some(language) = project.files[*file].language.map(|at| ground.languages[at]) else { continue };
        if !language.naming().moves {
            return Err(MoveError::Language(project.files[*file].path.clone(), language.name()));
        }
    }
    let mut taken: Vec<&ProjectPath> =
        expanded.files.values().chain(expanded.types.iter().map(|t| &t.2)).collect();
    taken.sort_unstable();
    if let Some(pair) = taken.windows(2).find(|pair| pair[0] == pair[1]) {
        return Err(MoveError::Collision(pair[0].clone()));
    }
    for new in taken {
        let leaves = project.file(new.as_str()).is_some_and(|file| expanded.files.contains_key(&file));
        if (ground.exists)(new) && !leaves {
            return Err(MoveError::TargetExists(new.clone()));
        }
    }
    Ok(expanded)
}

fn inside(text: &str) -> Result<ProjectPath, MoveError> {
    if text.starts_with('/') {
        return Err(MoveError::Outside(text.to_owned()));
    }
    ProjectPath::resolve("", text).ok_or_else(|| MoveError::Outside(text.to_owned()))
}

/// Where something called `name` ends up: below the target if that is a folder.
fn destination(target: &str, name: &str, ground: &Ground) -> Result<ProjectPath, MoveError> {
    let path = inside(target)?;
    if target.ends_with('/') || path.as_str().is_empty() || (ground.is_folder)(path.as_str()) {
        return ProjectPath::resolve(path.as_str(), name)
            .ok_or_else(|| MoveError::Outside(target.to_owned()));
    }
    Ok(path)
}

fn expand_path(
    source: &str,
    target: &str,
    project: &ProjectFacts,
    ground: &Ground,
    expanded: &mut Expanded,
) -> Result<(), MoveError> {
    let path = inside(source)?;
    let new = destination(target, path.file_name(), ground)?;
    if new == path {
        return Err(MoveError::SamePlace(path.to_string()));
    }
    if let Some(file) = project.file(path.as_str()) {
        expanded.files.insert(file, new);
        return Ok(());
    }
    if path.as_str().is_empty() || !(ground.is_folder)(path.as_str()) {
        return Err(MoveError::NoSource(source.to_owned()));
    }
    if new.is_within(path.as_str()) {
        return Err(MoveError::IntoItself(path.to_string()));
    }
    let mut any = false;
    for (file, found) in project.files.iter().enumerate() {
        if let Some(below) = found.path.below(path.as_str()).filter(|below| !below.is_empty()) {
            expanded.files.insert(file, ProjectPath::new(&format!("{new}/{below}")));
            any = true;
        }
    }
    if !any {
        return Err(MoveError::NoSource(source.to_owned()));
    }
    expanded.folders.push((path, new));
    Ok(())
}

fn expand_name(
    name: &str,
    target: &str,
    project: &ProjectFacts,
    table: &Table,
    ground: &Ground,
    expanded: &mut Expanded,
) -> Result<(), MoveError> {
    let wanted = name.split('<').next().unwrap_or(name);
    let named: Vec<usize> =
        (0..table.entities.len()).filter(|&at| table.entity_text(EntityId(at as u32)) == wanted).collect();
    if named.is_empty() {
        return Err(MoveError::NoName(name.to_owned()));
    }
    for at in named {
        let entity = &table.entities[at];
        if let Container::Entity(_) = entity.container {
            return Err(MoveError::Nested(name.to_owned()));
        }
        for (file, declaration) in &entity.declarations {
            let file = *file as usize;
            let Some(facts) = &project.files[file].facts else { continue };
            let outermost = facts.declarations.iter().filter(|d| facts.type_of(d.scope).is_none()).count();
            let old = &project.files[file].path;
            if outermost == 1 {
                let new = destination(target, old.file_name(), ground)?;
                if new == *old {
                    return Err(MoveError::SamePlace(old.to_string()));
                }
                expanded.files.insert(file, new);
            } else {
                let own_name = format!("{}.{}", table.texts.text(entity.name), old.extension());
                let new = destination(target, &own_name, ground)?;
                if new == *old {
                    return Err(MoveError::SamePlace(old.to_string()));
                }
                expanded.types.push((file, *declaration, new));
            }
        }
    }
    Ok(())
}
