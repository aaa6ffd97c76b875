use super::{About, Check, Finding, Place, View, only_of_name};
use crate::map::Severity;
use ferngate_model::ProjectPath;

/// Code names a file by its path that is not there.
pub struct MissingFile;

impl Check for MissingFile {
    fn about(&self) -> About {
        About {
            name: "missing-file",
            severity: Severity::Warning,
            meaning: "Code imports or includes a file by its path, and there is no such file.",
            example: "import { Seed } from \"./seed\";\n\nbut packages/web/src/ holds no seed.ts: it was moved by hand, or a build makes it.",
            ways_out: &[
                "correct the path",
                "bring the file back",
                "turn this finding off for a module whose files a build makes",
            ],
        }
    }

    fn find(&self, view: &View, found: &mut Vec<Finding>) {
        let by_name = only_of_name(view);
        for (file, links) in view.world.links.iter().enumerate() {
            // Tests of compilers and loaders name missing files on purpose.
            let Some(facts) =
                view.world.project.files[file].facts.as_deref().filter(|_| !view.modules.tests[file])
            else {
                continue;
            };
            for at in &links.missing {
                let path = &facts.paths[*at as usize];
                // Of what lies outside of the project nothing is known.
                if ProjectPath::resolve(view.path(file).parent(), &path.path).is_none() {
                    continue;
                }
                let message = format!("`{}` leads to no file", path.path);
                let mut finding = view.finding(&self.about(), String::new(), message);
                finding.place = Some(Place { path: view.path(file).clone(), offset: Some(path.span.start) });
                finding.rule = "what code names by its path must be there".to_owned();
                let name = path.path.rsplit('/').next().unwrap_or_default();
                finding.way_out = match by_name.get(name).copied().flatten() {
                    Some(other) => {
                        format!("point it at {other}, which has the same name, or bring the file back")
                    }
                    None => "correct the path, or bring the file back".to_owned(),
                };
                found.push(finding);
            }
        }
    }
}
