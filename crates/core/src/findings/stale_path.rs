use super::{About, Check, Finding, Place, View};
use crate::map::Severity;
use crate::resolve::resolve_mention;
use ferngate_model::ItemAction;

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
                finding.way_out = match same_name(view, path.file_name()) {
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

/// The only other file of this name.
fn same_name(view: &View, name: &str) -> Option<String> {
    let mut same = view.world.project.files.iter().filter(|file| file.path.file_name() == name);
    match (same.next(), same.next()) {
        (Some(only), None) => Some(only.path.to_string()),
        _ => None,
    }
}
