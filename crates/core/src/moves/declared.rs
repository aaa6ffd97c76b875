//! Declared namespaces follow their files.

use super::MoveError;
use super::imports::line_with_end;
use super::namespaces::{FolderNamespace, folder_namespace, mapped};
use super::past::Past;
use super::texts::Texts;
use crate::resolve::Ownership;
use ferngate_model::{Edit, FileFacts, Name, NamespacePath, ProjectFacts, ProjectPath, ScopeKind, Span};

/// Gives the files that moved the namespaces of their new places.
pub(super) fn rename_namespaces(
    after: &mut ProjectFacts,
    past: &Past,
    texts: &mut Texts,
) -> Result<(), MoveError> {
    let ownership = Ownership::new(after);
    for new_index in 0..after.files.len() {
        let new_path = after.files[new_index].path.clone();
        let old_path = texts.old_path(&new_path);
        if old_path == new_path {
            continue;
        }
        let to = folder_namespace(after, &ownership, &new_path);
        let from = past_folder_namespace(after, &ownership, past, texts, &old_path);
        let Some(facts) = after.files[new_index].facts.as_mut() else { continue };
        for nest in nests(facts) {
            let written = |at: &u32| spelled(facts, *at);
            let declared = nest.iter().map(written).collect::<Vec<_>>().join(".");
            let new = mapped(&declared, from.as_ref(), to.as_ref());
            if new != declared {
                rename(facts, &nest, &declared, &new, &old_path, texts)?;
            }
        }
    }
    Ok(())
}

/// The outermost namespaces of a file, each with those that are all that it holds: `namespace Moss { namespace Beds {`.
/// What else lies inside of one follows it.
fn nests(facts: &FileFacts) -> Vec<Vec<u32>> {
    let is_namespace = |at: &u32| matches!(facts.scopes[*at as usize].kind, ScopeKind::Namespace { .. });
    let inside = |around: u32| {
        let all = 0..facts.scopes.len() as u32;
        all.filter(move |at| *at != around && facts.scopes[*at as usize].parent == around)
    };
    let only_inside = |around: u32| {
        let mut inner = inside(around);
        let only = inner.next().filter(is_namespace)?;
        let is_bare = facts.declarations.iter().all(|declaration| declaration.scope != around);
        (inner.next().is_none() && is_bare).then_some(only)
    };
    let all = (0..facts.scopes.len() as u32).filter(is_namespace);
    let outermost = all.filter(|at| facts.namespace_of(facts.scopes[*at as usize].parent).is_empty());
    outermost.map(|at| std::iter::successors(Some(at), |around| only_inside(*around)).collect()).collect()
}

fn spelled(facts: &FileFacts, scope: u32) -> String {
    let ScopeKind::Namespace { path, .. } = &facts.scopes[scope as usize].kind else { return String::new() };
    path.iter().map(|part| facts.texts.text(*part)).collect::<Vec<_>>().join(".")
}

/// Writes `new` over the names of `nest`, a part or more to each; where there are more of them than parts, the inner
/// ones go.
fn rename(
    facts: &mut FileFacts,
    nest: &[u32],
    declared: &str,
    new: &str,
    path: &ProjectPath,
    texts: &mut Texts,
) -> Result<(), MoveError> {
    let mut parts: Vec<&str> = new.split('.').collect();
    parts.iter().for_each(|part| {
        facts.texts.add(part);
    });
    let (staying, going) = nest.split_at(nest.len().min(parts.len()));
    let mut edits: Vec<(Span, String)> = Vec::new();
    for &at in going {
        let scope = &mut facts.scopes[at as usize];
        let ScopeKind::Namespace { name, .. } = scope.kind else { continue };
        edits.extend(braces(texts.get(path)?, scope.span, name).map(|span| (span, String::new())));
        scope.kind = ScopeKind::Block;
    }
    for (level, &at) in staying.iter().enumerate() {
        let ScopeKind::Namespace { path: old, name, .. } = &mut facts.scopes[at as usize].kind else {
            continue;
        };
        let further = staying.len() - level - 1;
        let taken = if further == 0 { parts.len() } else { old.len().min(parts.len() - further) };
        let own: Vec<&str> = parts.drain(..taken).collect();
        let now: NamespacePath = own.iter().map(|part| Name::new(part.as_bytes())).collect();
        if now != *old {
            edits.push((*name, own.join(".")));
        }
        *old = now;
    }
    let mut edits = edits.into_iter().map(|(span, text)| Edit { span, text, what: "namespace follows" });
    if let Some(first) = edits.next() {
        texts.edit(path, first, format!("{declared} → {new}"));
    }
    edits.for_each(|edit| {
        texts.edit_too(path, edit);
    });
    Ok(())
}

/// What a namespace around others is written with: its head as far as the brace, and the brace at its end, each with
/// its line where nothing else stands on it.
fn braces(text: &[u8], scope: Span, name: Span) -> [Span; 2] {
    let open = text[name.end as usize..].iter().position(|&byte| byte == b'{').map_or(0, |at| at + 1);
    let head = Span::new(scope.start as usize, name.end as usize + open);
    let end = Span::new((scope.end as usize).saturating_sub(1), scope.end as usize);
    [head, end].map(|span| line_with_end(text, span))
}

/// The namespace of the folder that a file had; its manifest may have moved with it.
fn past_folder_namespace(
    after: &ProjectFacts,
    ownership: &Ownership,
    past: &Past,
    texts: &Texts,
    old_path: &ProjectPath,
) -> Option<FolderNamespace> {
    let manifests = after.manifests.iter().enumerate().filter(|(_, manifest)| manifest.kind == "project");
    let above = manifests.filter_map(|(at, manifest)| {
        let old = texts.old_path(manifest.path.as_ref()?);
        old_path.below(old.parent()).map(|below| (old.parent().len(), at, below.to_owned()))
    });
    let (_, at, below) = above.max_by_key(|(length, at, _)| (*length, std::cmp::Reverse(*at)))?;
    let root = past.ownership.root_namespaces[at].clone()?;
    // The same folder below the manifest, wherever that is now.
    let home = after.manifests[at].path.as_ref()?.parent();
    let folder = ProjectPath::new(&format!("{home}/{below}"));
    let full = ownership.folder_namespace(after, at as u32, folder.parent())?;
    let own = ownership.root_namespaces[at].clone()?;
    let full = full.strip_prefix(&own).map_or(full.clone(), |rest| format!("{root}{rest}"));
    Some(FolderNamespace { root, full })
}
