use super::{About, Check, Finding, Place, View};
use crate::map::Severity;
use std::collections::BTreeMap;

/// Code that no module holds.
pub struct Unmapped;

impl Check for Unmapped {
    fn about(&self) -> About {
        About {
            name: "unmapped",
            severity: Severity::Warning,
            meaning: "Code lies in no module of the map, so no rule speaks of it unless it names `rest`.",
            example: "src/Volunteers/ holds 4 files, but no module's `path` matches them.",
            ways_out: &[
                "add a module for it",
                "add it to a module's `path`",
                "turn the finding off while the split goes on",
            ],
        }
    }

    fn find(&self, view: &View, found: &mut Vec<Finding>) {
        if !view.has_map {
            return;
        }
        let mut folders: BTreeMap<&str, Vec<usize>> = BTreeMap::new();
        for (file, source) in view.world.project.files.iter().enumerate() {
            if source.facts.is_some() && view.modules.of_file[file].is_none() {
                folders.entry(source.path.parent()).or_default().push(file);
            }
        }
        for (folder, files) in folders {
            let place = if folder.is_empty() { "the root" } else { folder };
            let count = files.len();
            let noun = if count == 1 { "file" } else { "files" };
            let verb = if count == 1 { "belongs" } else { "belong" };
            let message = format!("{count} {noun} in {place} {verb} to no module");
            let mut finding = view.finding(&self.about(), String::new(), message);
            finding.place = files.first().map(|&file| Place { path: view.path(file).clone(), offset: None });
            finding.rule = "every file of code belongs to a module".to_owned();
            finding.way_out = format!("add a module with path = \"{folder}\" to ferngate.toml");
            found.push(finding);
        }
    }
}
