use super::{About, ByName, Check, Finding, Place, View, only_of_name};
use crate::map::Severity;
use ferngate_model::ProjectPath;
use std::collections::{BTreeMap, BTreeSet};

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
        for ((named, language), places) in missed(view) {
            let [(first, written), others @ ..] = &places[..] else { continue };
            let files: BTreeSet<&ProjectPath> = places.iter().map(|(place, _)| &place.path).collect();
            let among =
                if files.len() > 1 { format!(", named in {} files", files.len()) } else { String::new() };
            let message = format!("`{written}` leads to no file{among}");
            let mut finding = view.finding(&self.about(), String::new(), message);
            finding.place = Some(first.clone());
            finding.related = others.iter().map(|(place, _)| (place.clone(), ALSO.to_owned())).collect();
            finding.rule = "what code names by its path must be there".to_owned();
            let name = named.rsplit('/').next().unwrap_or(named.as_str());
            finding.way_out = way_out(view, &by_name, name, language);
            found.push(finding);
        }
    }
}

/// The word on further places that name the same file.
pub const ALSO: &str = "also here";

/// Places that name a file, each with the path as it is written there.
type Places<'v> = Vec<(Place, &'v str)>;

/// The files that are named and not there, with the places that name them: by their path in the project where that is
/// known, else as they are written. Each language has its own.
fn missed<'v>(view: &View<'v>) -> BTreeMap<(String, Option<usize>), Places<'v>> {
    let mut missed: BTreeMap<(String, Option<usize>), Places> = BTreeMap::new();
    for (at, links) in view.world.links.iter().enumerate() {
        let file = &view.world.project.files[at];
        // Tests of compilers and loaders name missing files on purpose.
        let Some(facts) = file.facts.as_deref().filter(|_| !view.modules.tests[at]) else { continue };
        for missing in &links.missing {
            let path = &facts.paths[*missing as usize];
            // Of what lies outside of the project nothing is known.
            let Some(resolved) = ProjectPath::resolve(file.path.parent(), &path.path) else { continue };
            let named = if path.path.starts_with('.') { resolved.to_string() } else { path.path.to_string() };
            let place = Place { path: file.path.clone(), offset: Some(path.span.start) };
            missed.entry((named, file.language)).or_default().push((place, &path.path));
        }
    }
    missed
}

fn way_out(view: &View, by_name: &ByName, name: &str, language: Option<usize>) -> String {
    if let Some(other) = by_name.get(name).copied().flatten() {
        return format!("point it at {other}, which has the same name, or bring the file back");
    }
    let sources = language.map(|at| view.world.languages[at].made_from(name)).unwrap_or_default();
    match sources.iter().find_map(|source| by_name.get(source.as_str()).copied()) {
        Some(source) => {
            let from = source.map(|source| format!(" from {source}")).unwrap_or_default();
            let off = if view.has_map { "" } else { ", once there is a map" };
            format!("a build seems to make it{from}; turn this finding off under [checks]{off}")
        }
        None => "correct the path, or bring the file back".to_owned(),
    }
}
