use super::{About, Check, Finding, Place, View};
use crate::map::Severity;
use crate::resolve::{Container, EntityId};
use ferngate_model::{CONSTANT, Declaration, FUNCTION};

/// A type stands in no namespace.
pub struct RootNamespace;

/// Below this share of files in namespaces, a project does without them.
const NAMESPACED: f64 = 0.5;

impl Check for RootNamespace {
    fn about(&self) -> About {
        About {
            name: "root-namespace",
            severity: Severity::Warning,
            meaning: "A type is declared outside of any namespace, where every file of every project sees it, in a project that uses namespaces.",
            example: "public class Helpers { … }\n\nwithout a namespace in src/Mossgrove/Helpers.cs",
            ways_out: &["put it into the namespace of its folder"],
        }
    }

    fn find(&self, view: &View, found: &mut Vec<Finding>) {
        let table = &view.world.table;
        let declaring: Vec<usize> =
            (0..table.declared.len()).filter(|&file| !table.declared[file].is_empty()).collect();
        let is_outside = |entity: &EntityId| matches!(table.entities[entity.index()].container, Container::Namespace(id) if table.is_outermost(id));
        let inside = declaring.iter().filter(|&&file| !table.declared[file].iter().any(is_outside)).count();
        if (inside as f64) < NAMESPACED * declaring.len() as f64 {
            return;
        }
        for file in declaring {
            let Some(facts) = &view.world.project.files[file].facts else { continue };
            // Functions and constants beside types are no types.
            let mut declared = table.declared[file].iter().zip(&facts.declarations);
            let is_type = |declared: &Declaration| !matches!(declared.arity, FUNCTION | CONSTANT);
            let Some(at) = declared.position(|(entity, declared)| is_outside(entity) && is_type(declared))
            else {
                continue;
            };
            // The class of a program's own statements has no choice, nor has a page.
            let stem = view.path(file).stem();
            if facts.implicit_namespace || stem == "Program" || view.modules.tests[file] {
                continue;
            }
            let name = table.texts.text(table.entities[table.declared[file][at].index()].name);
            let mut finding =
                view.finding(&self.about(), String::new(), format!("`{name}` stands in no namespace"));
            let offset = Some(facts.declarations[at].name_span.start);
            finding.place = Some(Place { path: view.path(file).clone(), offset });
            finding.rule = "every type stands in a namespace".to_owned();
            let expected = view.world.ownership.owners[file].first().and_then(|owner| {
                let folder = view.path(file).parent();
                view.world.ownership.folder_namespace(view.world.project, *owner, folder)
            });
            finding.way_out = match expected.filter(|namespace| !namespace.is_empty()) {
                Some(namespace) => format!("put it into `{namespace}`"),
                None => "put it into a namespace of its part".to_owned(),
            };
            found.push(finding);
        }
    }
}
