//! Imports that count for many files follow: those of a project file, global ones, and those of `_Imports.razor`.
//!
//! Where all types of a namespace went elsewhere, the import of it follows them, so that the files that it counts for
//! need none of their own.

use super::names::ImportMeant;
use super::past::{Order, Past, living_namespaces};
use super::texts::Texts;
use crate::resolve::{ImportTarget, NamespaceId, World};
use ferngate_model::{Edit, ImportKind};
use std::collections::BTreeMap;

const WHAT: &str = "import for many files follows";

/// Lets imports of namespaces that are gone lead to where their types went, in `world` and in the texts.
pub(super) fn follow_shared_imports(world: &mut World, order: &Order, past: &Past, texts: &mut Texts) {
    let renamed = renamed(world);
    if renamed.is_empty() {
        return;
    }
    for manifest in &world.project.manifests {
        let Some(path) = &manifest.path else { continue };
        for (import, span) in &manifest.imports {
            let Some(now) = renamed.get(import) else { continue };
            let now: Vec<String> = now.iter().map(|id| world.table.namespace_text(*id)).collect();
            let edit = Edit { span: *span, text: now.join(";"), what: WHAT };
            texts.edit(&texts.old_path(path), edit, format!("{import} → {}", now.join(", ")));
        }
    }
    for (new, old) in order.iter().enumerate() {
        follow_in_file(world, new, &past.imports[*old], &renamed, texts);
    }
    world.share_imports(&renamed);
}

/// What became of each namespace that no type is left in: where its types are now.
fn renamed(world: &World) -> BTreeMap<String, Vec<NamespaceId>> {
    let living = living_namespaces(world);
    let mut renamed: BTreeMap<String, Vec<NamespaceId>> = BTreeMap::new();
    for (entity, former) in &world.former {
        let lives = world.table.namespace_named(former).is_some_and(|id| living.contains(&id));
        let now = world.table.namespace_of(*entity);
        let all = renamed.entry(former.clone()).or_default();
        if !lives && !all.contains(&now) {
            all.push(now);
        }
    }
    renamed.retain(|_, now| !now.is_empty() && !now.iter().any(|id| world.table.is_outermost(*id)));
    renamed.values_mut().for_each(|now| now.sort_by_key(|id| id.0));
    renamed
}

/// The imports of one file that count for others. Only where all types went to one namespace: one import names one.
fn follow_in_file(
    world: &mut World,
    file: usize,
    meant: &[ImportMeant],
    renamed: &BTreeMap<String, Vec<NamespaceId>>,
    texts: &mut Texts,
) {
    let source = &world.project.files[file];
    let (Some(facts), Some(language)) = (&source.facts, source.language) else { return };
    let for_folder = world.languages[language].naming().folder_imports.contains(&source.path.file_name());
    for (at, (import, meant)) in facts.imports.iter().zip(meant).enumerate() {
        let (ImportMeant::Namespace(old), ImportKind::Namespace) = (meant, import.kind) else { continue };
        let Some([only]) = renamed.get(old).map(Vec::as_slice).filter(|_| import.global || for_folder) else {
            continue;
        };
        // What is imported there already need not be imported twice.
        if world.imports[file].contains(&ImportTarget::Namespace(*only)) {
            continue;
        }
        world.imports[file][at] = ImportTarget::Namespace(*only);
        let name = world.table.namespace_text(*only);
        let path = texts.old_path(&source.path);
        let detail = format!("{old} → {name}");
        texts.edit(&path, Edit { span: import.target_span, text: name, what: WHAT }, detail);
    }
}
