use super::{About, Check, Finding, Place, View};
use crate::map::Severity;
use crate::resolve::resolve_mention;
use ferngate_model::ItemAction;
use rustc_hash::FxHashMap;

/// A manifest names a file that is not there.
pub struct StalePath;

impl Check for StalePath {
    fn about(&self) -> About {
        About {
            name: "stale-path",
            severity: Severity::Error,
            meaning: "A project or solution lists a path at which there is nothing.",
            example: "<Compile Include=\"Tours\\TourPlan.cs\" />\n\nbut src/Visits/Tours/TourPlan.cs does not exist: it was moved by hand.",
            ways_out: &["correct the path", "remove the line", "bring the file back"],
        }
    }

    fn find(&self, view: &View, found: &mut Vec<Finding>) {
        let by_name = only_of_name(view);
        for manifest in &view.world.project.manifests {
            for mention in &manifest.mentions {
                let listed = matches!(
                    mention.action,
                    ItemAction::Compile | ItemAction::Content | ItemAction::Reference | ItemAction::Member
                );
                if !listed || mention.written.contains(['*', '?', '$', '%', '@']) {
                    continue;
                }
                let Some(path) = resolve_mention(manifest, &mention.written) else { continue };
                if view.world.project.file(path.as_str()).is_some() || (view.exists)(&path) {
                    continue;
                }
                let Some(own) = &manifest.path else { continue };
                let message = format!("{own} lists {path}, which does not exist");
                let mut finding = view.finding(&self.about(), String::new(), message);
                finding.place = Some(Place { path: own.clone(), offset: Some(mention.span.start) });
                finding.rule = format!("what a {} lists must be there", manifest.kind);
                finding.way_out = match by_name.get(path.file_name()).copied().flatten() {
                    Some(other) => {
                        format!("point it at {other}, which has the same name, or remove the line")
                    }
                    None => "remove the line, or bring the file back".to_owned(),
                };
                found.push(finding);
            }
        }
    }
}

/// The files by name, where the name is that of one file only.
fn only_of_name<'v>(view: &'v View) -> FxHashMap<&'v str, Option<&'v str>> {
    let mut only: FxHashMap<&str, Option<&str>> = FxHashMap::default();
    for file in &view.world.project.files {
        only.entry(file.path.file_name())
            .and_modify(|known| *known = None)
            .or_insert(Some(file.path.as_str()));
    }
    only
}
