use super::{About, Check, Finding, Place, View};
use crate::map::{MAP_FILE, Severity};
use ferngate_model::ProjectPath;

/// A module of the map that holds no file.
pub struct EmptyModule;

impl Check for EmptyModule {
    fn about(&self) -> About {
        About {
            name: "empty-module",
            severity: Severity::Warning,
            meaning: "A module of the map holds no file: its path is wrong, or what it held has gone.",
            example: "propagation = \"src/Propagaton\"\n\nmatches nothing.",
            ways_out: &["correct its path", "remove it from the map and from the rules"],
        }
    }

    fn find(&self, view: &View, found: &mut Vec<Finding>) {
        let entries = view.map.modules.iter().enumerate();
        for (at, entry) in entries {
            let instances =
                view.modules.list.iter().enumerate().filter(|(_, module)| module.entry == Some(at));
            let holds = instances.into_iter().any(|(module, _)| view.modules.files(module).next().is_some());
            if holds {
                continue;
            }
            let patterns: Vec<&str> = entry.paths.iter().map(|pattern| pattern.text.as_str()).collect();
            let message =
                format!("module `{}` holds no file: nothing matches {}", entry.name, patterns.join(", "));
            let mut finding = view.finding(&self.about(), String::new(), message);
            finding.place = Some(Place { path: ProjectPath::new(MAP_FILE), offset: Some(entry.span.start) });
            finding.rule = "every module of the map holds code".to_owned();
            finding.way_out = "correct its `path`, or remove it from the map".to_owned();
            found.push(finding);
        }
    }
}
