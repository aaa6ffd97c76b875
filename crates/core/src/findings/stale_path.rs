use super::{About, ByName, Check, Finding, Place, View, only_of_name};
use crate::map::{Severity, is_test_data, is_test_path};
use crate::resolve::resolve_mention;
use ferngate_model::{ItemAction, ManifestFacts, ProjectPath};

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
            if manifest.path.as_ref().is_some_and(|path| is_test_data(path.as_str())) {
                continue;
            }
            if manifest.kind == LIST {
                // What lies among tests is mostly their data.
                if manifest.path.as_ref().is_some_and(|path| is_test_path(path.as_str())) {
                    continue;
                }
                self.listed(view, manifest, &by_name, found);
                continue;
            }
            for mention in &manifest.mentions {
                let listed = matches!(
                    mention.action,
                    ItemAction::Compile | ItemAction::Content | ItemAction::Reference | ItemAction::Member
                );
                // Wildcards, what builds put in, and holes that a maker of projects fills: `{{ name }}.csproj`.
                if !listed
                    || mention.written.contains(['*', '?', '$', '%', '@'])
                    || mention.written.contains("{{")
                {
                    continue;
                }
                let Some(path) = resolve_mention(manifest, &mention.written) else { continue };
                if view.world.project.file(path.as_str()).is_some() || (view.exists)(&path) {
                    continue;
                }
                let Some(own) = &manifest.path else { continue };
                let sort = if manifest.kind == "settings" { "manifest" } else { manifest.kind };
                let rule = format!("what a {sort} lists must be there");
                let place = Place { path: own.clone(), offset: Some(mention.span.start) };
                found.push(self.stale(view, place, &path, rule, &by_name));
            }
        }
    }
}

/// The sort of manifest of whose form nothing is known.
const LIST: &str = "list";

/// A file is a list of files where at least this many of its paths lead to files, and no fewer than lead nowhere.
const FEWEST_LISTED: usize = 2;

impl StalePath {
    fn stale(
        &self,
        view: &View,
        place: Place,
        path: &ProjectPath,
        rule: String,
        by_name: &ByName,
    ) -> Finding {
        let message = format!("{} lists {path}, which does not exist", place.path.file_name());
        let mut finding = view.finding(&self.about(), String::new(), message);
        finding.place = Some(place);
        finding.rule = rule;
        finding.way_out = match by_name.get(path.file_name()).copied().flatten() {
            Some(other) => format!("point it at {other}, which has the same name, or remove the line"),
            None => "remove the line, or bring the file back".to_owned(),
        };
        finding
    }

    /// Paths of a file of unknown form, from its own folder or from the root, whichever leads to more files.
    fn listed(&self, view: &View, manifest: &ManifestFacts, by_name: &ByName, found: &mut Vec<Finding>) {
        if manifest.mentions.len() <= FEWEST_LISTED {
            return;
        }
        let Some(own) = &manifest.path else { return };
        let there =
            |path: &ProjectPath| view.world.project.file(path.as_str()).is_some() || (view.exists)(path);
        let from = |folder: &str| {
            let paths = manifest
                .mentions
                .iter()
                .filter_map(|m| Some((m.span, ProjectPath::resolve(folder, &m.written)?)));
            let (known, gone): (Vec<_>, Vec<_>) = paths.partition(|(_, path)| there(path));
            (known.len(), gone)
        };
        let best = [own.parent(), ""].map(from).into_iter().max_by_key(|(known, _)| *known);
        let Some((known, gone)) = best else { return };
        if known < FEWEST_LISTED || known < gone.len() {
            return;
        }
        for (span, path) in gone {
            let place = Place { path: own.clone(), offset: Some(span.start) };
            found.push(self.stale(
                view,
                place,
                &path,
                "a list of files names files that are there".to_owned(),
                by_name,
            ));
        }
    }
}
