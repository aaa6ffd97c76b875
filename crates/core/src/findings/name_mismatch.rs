use super::{About, Check, Finding, Place, View};
use crate::map::Severity;
use ferngate_model::{FolderNaming, ScopeKind};

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
        let mut compared: Vec<(u32, usize, String, String, u32)> = Vec::new();
        for (file, source) in project.files.iter().enumerate() {
            let (Some(facts), [owner]) = (&source.facts, &view.world.ownership.owners[file][..]) else {
                continue;
            };
            let follows = source
                .language
                .is_some_and(|l| view.world.languages[l].naming().folders == FolderNaming::BelowRoot);
            let named = facts.scopes.iter().enumerate().find_map(|(at, scope)| match &scope.kind {
                ScopeKind::Namespace { name, .. } => Some((at, name.start)),
                _ => None,
            });
            let (true, Some((scope, offset)), false) = (follows, named, facts.declarations.is_empty()) else {
                continue;
            };
            let declared = view.world.table.namespace_text(view.world.table.scope_namespaces[file][scope]);
            let Some(expected) = view.world.ownership.folder_namespace(project, *owner, source.path.parent())
            else {
                continue;
            };
            compared.push((*owner, file, declared, expected, offset));
        }
        for (owner, file, declared, expected, offset) in &compared {
            if declared == expected || self.share(&compared, *owner) < FOLLOWED {
                continue;
            }
            let message = format!(
                "{} declares `{declared}`, its folder says `{expected}`",
                view.path(*file).file_name()
            );
            let mut finding = view.finding(&self.about(), String::new(), message);
            finding.place = Some(Place { path: view.path(*file).clone(), offset: Some(*offset) });
            finding.rule = "a namespace follows its folder below the project's root namespace".to_owned();
            finding.way_out = format!("name it `{expected}`, or move the file to the folder of `{declared}`");
            found.push(finding);
        }
    }
}

impl NameMismatch {
    fn share(&self, compared: &[(u32, usize, String, String, u32)], owner: u32) -> f64 {
        let own = || compared.iter().filter(|row| row.0 == owner);
        own().filter(|row| row.2 == row.3).count() as f64 / own().count().max(1) as f64
    }
}
