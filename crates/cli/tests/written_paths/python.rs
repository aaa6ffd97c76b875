//! Python: packages with and without a file of their own, modules beside folders of their name, stubs, relative and
//! absolute imports.

use super::common::Project;
use super::common::numbers::Numbers;
use super::{STEMS, folder_of, join};

const FOLDERS: &[&str] = &[
    "",
    "garden",
    "garden/bed",
    "garden/bed/rose",
    "garden/tour",
    "src/moss",
    "src/moss/beds",
    "src/moss/beds/bed",
    "tests",
    "tools/rose",
];

const FORMS: &[&str] = &[
    "import MODULE",
    "import MODULE as xN",
    "import os, MODULE as xN, sys",
    "from MODULE import NAME",
    "from MODULE import NAME as xN, OTHER as yN",
    "from MODULE import (\n    NAME as xN,  # not this: import tour\n    OTHER,\n)",
    "from MODULE import \\\n    NAME, OTHER",
    "try:\n    from MODULE import NAME as xN\nexcept ImportError:\n    xN = 0",
    "def fN():\n    from MODULE import NAME\n    return NAME",
    "def fN(): import MODULE; return 1",
    "if False:\n    import MODULE as xN",
    "class CN:\n    from MODULE import NAME as xN",
    "async def fN():\n    async with x:\n        from MODULE import NAME",
    "x = 1; from MODULE import NAME as xN",
];
const STARS: &[&str] = &["from MODULE import *"];
const LOOK_ALIKES: &[&str] = &[
    "# import MODULE",
    "xN = 'import MODULE'",
    "\"\"\"\nimport MODULE\nfrom MODULE import NAME\n\"\"\"",
    "xN = f'{1} import MODULE'",
    "xN = r'''\nfrom MODULE import NAME\n'''",
    "xN = x.MODULE_import",
];

pub fn write(numbers: &mut Numbers) -> Project {
    let project = Project::new(&[]);
    let mut paths = Vec::new();
    for folder in FOLDERS {
        for stem in STEMS {
            let ending = numbers.of(&["", "", ".py", ".py", ".py", ".pyi", ".py .pyi"]);
            paths.extend(ending.split_whitespace().map(|ending| join(folder, &format!("{stem}{ending}"))));
        }
        if !folder.is_empty() && !numbers.one_in(3) {
            paths.push(format!("{folder}/__init__.py"));
        }
    }
    if numbers.one_in(2) {
        project.write("pyproject.toml", "[project]\nname = \"moss\"\nversion = \"1\"\n");
    }
    for path in &paths {
        project.write(path, &text(numbers, path, &paths));
    }
    project
}

fn text(numbers: &mut Numbers, path: &str, paths: &[String]) -> String {
    let mut lines = String::new();
    if path.ends_with("__init__.py") && numbers.one_in(2) {
        let shown: Vec<String> = numbers.some(STEMS).iter().map(|stem| format!("'{stem}'")).collect();
        let (open, close) = numbers.of(&[("[", "]"), ("(", ",)"), ("[\n    ", ",\n]")]);
        if !shown.is_empty() {
            lines.push_str(&format!("__all__ = {open}{}{close}\n", shown.join(", ")));
        }
    }
    for at in 0..5 {
        let form = match numbers.next() % 8 {
            0 => numbers.of(LOOK_ALIKES),
            1 => numbers.of(STARS),
            _ => numbers.of(FORMS),
        };
        let named = module(numbers, path, paths, form.starts_with("from") || form.contains(" from "));
        let (name, other) = (numbers.of(STEMS), numbers.of(STEMS));
        let line = form.replace("MODULE", &named).replace("NAME", name).replace("OTHER", other);
        lines.push_str(&line.replace('N', &at.to_string()));
        lines.push('\n');
    }
    lines += *numbers.of(&["bed = 1\n", "def rose():\n    pass\n", "class tour:\n    bed = 2\n", ""]);
    lines
}

/// A module's name as one file may spell it.
fn module(numbers: &mut Numbers, from: &str, paths: &[String], may_be_relative: bool) -> String {
    let to = numbers.of(paths);
    let to = to.strip_suffix("/__init__.py").unwrap_or(to);
    let to = to.strip_suffix(".py").or_else(|| to.strip_suffix(".pyi")).unwrap_or(to);
    let to = if numbers.one_in(4) && to.contains('/') { folder_of(to) } else { to };
    if may_be_relative && numbers.one_in(2) {
        let levels = 1 + numbers.next() % (1 + folder_of(from).matches('/').count());
        let mut base = folder_of(from);
        (1..levels).for_each(|_| base = folder_of(base));
        let below = to.strip_prefix(base).map(|below| below.trim_start_matches('/'));
        let below = below.unwrap_or_else(|| if numbers.one_in(2) { *numbers.of(STEMS) } else { "" });
        return format!("{}{}", ".".repeat(levels), below.replace('/', "."));
    }
    let to = if numbers.one_in(2) { to.strip_prefix("src/").unwrap_or(to) } else { to };
    to.replace('/', ".")
}
