use super::{About, Check, Finding, Place, View};
use crate::map::Severity;
use ferngate_model::{FolderNaming, ProjectPath, ScopeKind};
use rustc_hash::FxHashMap;
use std::collections::BTreeSet;

/// A declared namespace is not that of its folder.
pub struct NameMismatch;

/// Below this share of files that follow their folders, a project does not follow the convention at all.
const FOLLOWED: f64 = 0.6;

impl Check for NameMismatch {
    fn about(&self) -> About {
        About {
            name: "name-mismatch",
            severity: Severity::Warning,
            meaning: "A file declares a namespace that is not that of its folder, in a project where most files follow their folders.",
            example: "src/Visits/Tours/Tour.cs declares Mossgrove.Visits.Old,\nits folder says Mossgrove.Visits.Tours.",
            ways_out: &[
                "move the file to the folder of its namespace",
                "bring the namespace in line with the folder",
                "turn the finding off, if they differ on purpose",
            ],
        }
    }

    fn find(&self, view: &View, found: &mut Vec<Finding>) {
        let project = view.world.project;
        let source_folders = source_folders(view);
        let mut compared: Vec<Compared> = Vec::new();
        for (file, source) in project.files.iter().enumerate() {
            let named = view.world.table.named_facts(source);
            let (Some(facts), [owner]) = (named, &view.world.ownership.owners[file][..]) else {
                continue;
            };
            let naming = source.language.map(|language| view.world.languages[language].naming());
            let folders = naming.map_or(FolderNaming::Free, |naming| naming.folders);
            let named = facts.scopes.iter().enumerate().find_map(|(at, scope)| match &scope.kind {
                ScopeKind::Namespace { name, .. } => Some((at, name.start)),
                _ => None,
            });
            let (true, Some((scope, offset)), false) =
                (folders != FolderNaming::Free, named, facts.declarations.is_empty())
            else {
                continue;
            };
            let declared = view.world.table.namespace_text(view.world.table.scope_namespaces[file][scope]);
            let folder = source.path.parent();
            let expected = match folders {
                FolderNaming::Whole => below_source_folder(&source_folders, folder),
                _ => view.world.ownership.folder_namespace(project, *owner, folder),
            };
            let Some(expected) = expected else { continue };
            compared.push((*owner, file, declared, expected, offset));
        }
        let shares = shares(&compared);
        for (owner, file, declared, expected, offset) in &compared {
            // What stands in no namespace is another finding; what stands in for a platform has its names.
            let language = view.world.project.files[*file].language.map(|at| view.world.languages[at]);
            if declared == expected
                || declared.is_empty()
                || language.is_some_and(|language| language.platform_may_declare(declared))
                || shares.get(owner).is_none_or(|share| *share < FOLLOWED)
            {
                continue;
            }
            let message = format!(
                "{} declares `{declared}`, its folder says `{expected}`",
                view.path(*file).file_name()
            );
            let mut finding = view.finding(&self.about(), String::new(), message);
            finding.place = Some(Place { path: view.path(*file).clone(), offset: Some(*offset) });
            finding.rule = "a namespace follows its folder".to_owned();
            finding.way_out = format!("name it `{expected}`, or move the file to the folder of `{declared}`");
            found.push(finding);
        }
    }
}

/// The folders below which folders spell whole namespaces, sorted: found by the files whose folders do.
fn source_folders(view: &View) -> BTreeSet<String> {
    let mut found = BTreeSet::new();
    for (file, source) in view.world.project.files.iter().enumerate() {
        let (Some(facts), Some(language)) = (&source.facts, source.language) else { continue };
        if view.world.languages[language].naming().folders != FolderNaming::Whole {
            continue;
        }
        let named = facts.scopes.iter().position(|scope| matches!(scope.kind, ScopeKind::Namespace { .. }));
        let Some(scope) = named else { continue };
        let table = &view.world.table;
        let spelled = table.namespace_text(table.scope_namespaces[file][scope]).replace('.', "/");
        let folder = source.path.parent();
        if folder == spelled {
            found.insert(String::new());
        } else if let Some(start) = folder.strip_suffix(&spelled).and_then(|start| start.strip_suffix('/')) {
            found.insert(start.to_owned());
        }
    }
    found
}

/// The namespace of `folder` below the deepest of `sources` that holds it.
fn below_source_folder(sources: &BTreeSet<String>, folder: &str) -> Option<String> {
    let path = ProjectPath::new(folder);
    let holding = sources.iter().filter(|source| path.is_within(source));
    let deepest = holding.max_by_key(|source| source.len())?;
    Some(path.below(deepest)?.replace('/', "."))
}

/// A manifest, a file of it, its declared and its expected namespace, where the former stands.
type Compared = (u32, usize, String, String, u32);

/// For each manifest, how many of its files follow their folders, of one.
fn shares(compared: &[Compared]) -> FxHashMap<u32, f64> {
    let mut counts: FxHashMap<u32, (u32, u32)> = FxHashMap::default();
    for (owner, _, declared, expected, _) in compared {
        let count = counts.entry(*owner).or_default();
        count.0 += u32::from(declared == expected);
        count.1 += 1;
    }
    counts.into_iter().map(|(owner, (follow, all))| (owner, f64::from(follow) / f64::from(all))).collect()
}
