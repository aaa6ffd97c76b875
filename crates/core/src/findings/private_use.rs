use super::{About, Check, Finding, Place, View};
use crate::map::Severity;

/// Code uses what another module keeps private.
pub struct PrivateUse;

impl Check for PrivateUse {
    fn about(&self) -> About {
        About {
            name: "private-use",
            severity: Severity::Error,
            meaning: "A file uses a name from a file that its module does not list as `public`.",
            example: "glasshouse = { path = \"src/Glasshouse\", public = [\"Contracts/**\"] }\n\napps/Desk/Main.cs:9:20 uses `VentMotor` from src/Glasshouse/Vents/VentMotor.cs",
            ways_out: &[
                "use what the module shows instead",
                "move the name to the module's public side: ferngate move FILE FOLDER/",
                "show it: add its file to `public` of the module in ferngate.toml",
            ],
        }
    }

    fn find(&self, view: &View, found: &mut Vec<Finding>) {
        let closed: Vec<bool> = view.modules.list.iter().map(|module| !module.public.is_empty()).collect();
        if !closed.contains(&true) {
            return;
        }
        for file in 0..view.world.project.files.len() {
            let from = view.modules.of_file[file];
            for used_here in view.world.strong_uses(file) {
                let declaring = &used_here.files;
                // One public part is enough to show the whole type.
                let private = declaring.iter().find(|&&to_file| {
                    let to = view.modules.of_file[to_file as usize];
                    to != from && to.is_some_and(|to| closed[to] && !shows(view, to, to_file as usize))
                });
                let shown = declaring.iter().any(|&to_file| {
                    let to = view.modules.of_file[to_file as usize];
                    to == from || to.is_some_and(|to| shows(view, to, to_file as usize))
                });
                let Some((&to_file, to)) =
                    private.filter(|_| !shown).and_then(|f| Some((f, view.modules.of_file[*f as usize]?)))
                else {
                    continue;
                };
                let short = view.world.short_use(used_here.target);
                let user = from.map_or("rest", |from| view.module_name(from));
                let owner = view.module_name(to);
                let message = format!("`{user}` uses `{short}`, which `{owner}` keeps private");
                let mut finding = view.finding(&self.about(), format!("{user} → {owner}"), message);
                let offset = Some(used_here.offset);
                finding.place = Some(Place { path: view.path(file).clone(), offset });
                let public: Vec<&str> =
                    view.modules.list[to].public.iter().map(|pattern| pattern.text.as_str()).collect();
                finding.rule = format!(
                    "`{owner}` shows only {}, not {}",
                    public.join(", "),
                    view.path(to_file as usize)
                );
                finding.way_out =
                    format!("use what `{owner}` shows, or add the file to its `public` in ferngate.toml");
                found.push(finding);
            }
        }
    }
}

/// Whether `file` is on the public side of `module`.
fn shows(view: &View, module: usize, file: usize) -> bool {
    let module = &view.modules.list[module];
    let path = view.path(file);
    let below = path.below(&module.folder).unwrap_or(path.as_str());
    module.public.is_empty()
        || module.public.iter().any(|pattern| pattern.matches(below) || pattern.matches(path.as_str()))
}
