//! Namespaces of pages and components, which no declaration states.

use super::Ownership;
use ferngate_model::{Language, PAGE_NAMESPACE, ProjectFacts};

/// The namespace of the page `file`: as it states itself, else as the nearest file states it that says so for all pages
/// below its folder, else as its manifest's folders say.
pub(super) fn implicit_namespace(
    project: &ProjectFacts,
    languages: &[&dyn Language],
    ownership: &Ownership,
    file: usize,
) -> Option<String> {
    let stated = |file: usize| {
        let settings = &project.files[file].facts.as_deref()?.settings;
        settings.iter().find(|(name, _)| &**name == PAGE_NAMESPACE).map(|(_, text)| text.to_string())
    };
    let by_folder = || {
        let owner = *ownership.owners[file].first()?;
        ownership.folder_namespace(project, owner, project.files[file].path.parent())
    };
    stated(file).or_else(|| stated_above(project, languages, file, &stated)).or_else(by_folder)
}

/// What the nearest file of imports above `file` states, with the folders between them behind it.
fn stated_above(
    project: &ProjectFacts,
    languages: &[&dyn Language],
    file: usize,
    stated: &dyn Fn(usize) -> Option<String>,
) -> Option<String> {
    let naming = languages[project.files[file].language?].naming();
    let path = &project.files[file].path;
    let mut folder = path.parent();
    loop {
        let of_folder = |name: &&str| {
            let path = if folder.is_empty() { (*name).to_owned() } else { format!("{folder}/{name}") };
            stated(project.file(&path)?)
        };
        if let Some(found) = naming.folder_imports.iter().find_map(of_folder) {
            let between = path.parent()[folder.len()..].split('/').filter(|part| !part.is_empty());
            return Some(between.fold(found, |namespace, part| format!("{namespace}.{part}")));
        }
        if folder.is_empty() {
            return None;
        }
        folder = folder.rfind('/').map_or("", |at| &folder[..at]);
    }
}
