//! Scripts: packages of a workspace, with settings of the compiler, in all endings and forms of import.

use super::common::Project;
use super::common::numbers::Numbers;
use super::{STEMS, folder_of, join, relative};

const FOLDERS: &[&str] = &[
    "src",
    "src/beds",
    "src/beds/rose",
    "src/tour",
    "packages/core",
    "packages/core/src",
    "packages/core/src/bed",
    "packages/tours",
    "packages/tours/lib",
    "packages/tours/lib/beds",
    "test",
];
const ENDINGS: &[&str] = &[".ts", ".tsx", ".js", ".jsx", ".mjs", ".mts", ".cts", ".cjs", ".d.ts", ".json"];
/// Package and its folder.
const PACKAGES: &[(&str, &str)] = &[("@moss/core", "packages/core"), ("tours", "packages/tours")];

/// A statement with `PATH` in it, for any file; then for those with types.
const FORMS: &[&str] = &[
    "import xN from \"PATH\";",
    "import * as xN from 'PATH';",
    "import { a as xN } from \"PATH\";",
    "import xN, { b as yN } from\n  \"PATH\"\n",
    "import {\n  a as xN, // \"./not\"\n  default as yN,\n} from \"PATH\";",
    "import \"PATH\";",
    "export * from \"PATH\";",
    "export * as xN from \"PATH\";",
    "export { a as xN } from 'PATH'",
    "const xN = require(\"PATH\");",
    "const { a: xN } = require('PATH').b;",
    "const xN = () => import(\"PATH\");",
    "async function xN() { return (await import(`PATH`)).a; }",
    "const xN = require.resolve(\"PATH\");",
    "const xN = `${require(\"PATH\").a} }`;",
    "if (/[\"'/]/.test(\"\")) { require(\"PATH\"); }",
    "const xN = 4 / 2; const yN = require(\"PATH\") / 2;",
    "class CN { m() { return require(\"PATH\"); } }",
];
const TYPED: &[&str] = &[
    "import type { A as XN } from \"PATH\";",
    "import { type A as XN, b as yN } from \"PATH\";",
    "import xN = require(\"PATH\");",
    "export import xN = require('PATH');",
    "let xN: import(\"PATH\").A;",
    "let xN: typeof import('PATH');",
    "export type { A as XN } from \"PATH\";",
    "function fN<T extends import(\"PATH\").A>(x: T): asserts x is T {}",
    "const xN = <T,>(y: T) => require(\"PATH\") as T;",
];
const LOOK_ALIKES: &[&str] = &[
    "// import \"PATH\";",
    "/* require(\"PATH\") */",
    "const xN = \"require('PATH')\";",
    "const xN = `import \"PATH\"; ${1}`;",
    "const xN = { import: 1, require: 2 };",
    "class CN { import(x) {} require(x) { return this.require(\"PATH\"); } }",
    "const xN = /require(\"PATH\")/g;",
    "function fN(require) { return require(\"PATH\"); }",
];

pub fn write(numbers: &mut Numbers) -> Project {
    let project = Project::new(&[]);
    let paths = files(numbers);
    settings(numbers, &project);
    for (package, folder) in PACKAGES {
        project.write(&format!("{folder}/package.json"), &description(numbers, package, folder, &paths));
        let link = project.root().join("node_modules").join(package);
        std::fs::create_dir_all(link.parent().unwrap()).unwrap();
        #[cfg(unix)]
        std::os::unix::fs::symlink(project.root().join(folder), link).unwrap();
    }
    project.write("package.json", "{ \"private\": true, \"workspaces\": [\"packages/*\"] }\n");
    if numbers.one_in(2) {
        let main = numbers.of(&["rose", "./bed", "../tour/bed.js", "./rose", "missing"]);
        project.write("src/beds/package.json", &format!("{{ \"main\": \"{main}\" }}\n"));
    }
    for path in &paths {
        project.write(path, &text(numbers, path, &paths));
    }
    project
}

/// Some files in every folder, many of which differ by their endings only.
fn files(numbers: &mut Numbers) -> Vec<String> {
    let mut paths = Vec::new();
    for folder in FOLDERS {
        for stem in STEMS.iter().chain(&["index"]) {
            let mut endings: Vec<&str> = ENDINGS.iter().copied().filter(|_| numbers.one_in(8)).collect();
            // Which of these a script means is told in each tool's settings.
            if endings.len() > 1 || *folder != "test" || *stem == "index" {
                endings.retain(|ending| *ending != ".jsx");
            }
            if endings.len() > 1 {
                endings.retain(|ending| *ending != ".json");
            }
            paths.extend(endings.iter().map(|ending| join(folder, &format!("{stem}{ending}"))));
        }
    }
    paths
}

fn settings(numbers: &mut Numbers, project: &Project) {
    let base = numbers.of(&[
        "",
        "\"baseUrl\": \".\",",
        "\"baseUrl\": \"src\",",
        "\"baseUrl\": \"./packages/core\",",
    ]);
    let paths = numbers.of(&[
        "",
        "\"paths\": { \"~/*\": [\"./src/*\"] }",
        "\"paths\": { \"~/*\": [\"./src/*\", \"./test/*\"], \"~/beds/*\": [\"./src/tour/*\"], \"bed\": [\"./test/bed\"] }",
        "\"paths\": { \"*/rose\": [\"./src/*/rose\", \"./*/bed\"], \"rose\": [\"./packages/tours/lib\"] }",
    ]);
    // Comments and a comma at the end are usual there.
    let text = format!(
        "{{\n  // for all\n  \"compilerOptions\": {{ \"jsx\": \"preserve\", {base} {paths} }},\n}}\n"
    );
    project.write("tsconfig.json", &text);
    if numbers.one_in(2) {
        let own = numbers.of(&[
            "",
            ", \"compilerOptions\": { \"baseUrl\": \"src\" }",
            ", \"compilerOptions\": { \"paths\": { \"~/*\": [\"./src/*\"] } }",
        ]);
        let text = format!("{{ \"extends\": \"../../tsconfig\"{own} }}");
        project.write("packages/core/tsconfig.json", &text);
    }
}

/// A `package.json` whose entry is one of the package's files, with or without its ending, or is not there.
fn description(numbers: &mut Numbers, package: &str, folder: &str, paths: &[String]) -> String {
    let inside: Vec<&str> =
        paths.iter().filter_map(|path| path.strip_prefix(folder)?.strip_prefix('/')).collect();
    let mut fields = vec![format!("\"name\": \"{package}\"")];
    for (key, ending) in [("main", ".js"), ("types", ".ts"), ("typings", ".ts")] {
        let entries: Vec<&str> = inside.iter().copied().filter(|path| path.ends_with(ending)).collect();
        // What a script means by a package that only has types is for no one to know.
        let is_run = key == "main" || fields.len() > 1;
        if !entries.is_empty() && is_run && (key == "main" || numbers.one_in(2)) {
            let entry = numbers.of(&entries);
            let entry = if numbers.one_in(2) { without_ending(entry) } else { entry };
            let start = numbers.of(&["", "./"]);
            fields.push(format!("\"{key}\": \"{start}{entry}\""));
        }
    }
    format!("{{ {} }}\n", fields.join(", "))
}

fn without_ending(path: &str) -> &str {
    let ending = ENDINGS.iter().rev().find(|ending| path.ends_with(**ending));
    ending.map_or(path, |ending| &path[..path.len() - ending.len()])
}

fn is_typed(path: &str) -> bool {
    path.ends_with("ts") || path.ends_with(".tsx")
}

fn text(numbers: &mut Numbers, path: &str, paths: &[String]) -> String {
    if path.ends_with(".json") {
        return "{ \"a\": 1 }\n".to_owned();
    }
    let mut lines = String::new();
    for at in 0..6 {
        let form = if numbers.one_in(6) {
            numbers.of(LOOK_ALIKES)
        } else if is_typed(path) && numbers.one_in(2) {
            numbers.of(TYPED)
        } else {
            numbers.of(FORMS)
        };
        let named = specifier(numbers, path, paths);
        lines.push_str(&form.replace("PATH", &named).replace('N', &at.to_string()));
        lines.push('\n');
    }
    lines.push_str("export const a = 1, b = 2;\nexport default a;\n");
    lines
}

/// How one file asks for another: by any way that may lead there, and some that do not.
fn specifier(numbers: &mut Numbers, from: &str, paths: &[String]) -> String {
    let to = numbers.of(paths);
    let bare = without_ending(to);
    let named = match numbers.next() % 6 {
        0 => to.clone(),
        1 => format!("{bare}{}", numbers.of(&[".js", ".mjs", ".cjs", ".json", ".ts"])),
        2 => folder_of(to).to_owned(),
        _ => bare.to_owned(),
    };
    let roots = ["src/", "packages/core/"];
    // What a script means by the compiler's settings is told in each tool's own.
    let ways = if is_typed(from) { 0 } else { 3 };
    match ways + numbers.next() % (8 - ways) {
        0 => named,
        1 => roots.iter().find_map(|root| named.strip_prefix(root)).unwrap_or(&named).to_owned(),
        2 => format!("~/{}", named.split_once('/').map_or("", |(_, rest)| rest)),
        3 => {
            let (package, folder) = numbers.of(PACKAGES);
            // A folder below a package is opened by the package's own entry, by a whim of the compiler.
            let below = if FOLDERS.contains(&bare) { None } else { bare.strip_prefix(folder) };
            format!("{package}{}", below.unwrap_or_default())
        }
        _ => {
            let path = relative(folder_of(from), &named);
            let dots = path.is_empty() || path == ".." || path.starts_with("../");
            let path = if dots && !path.is_empty() { path } else { format!("./{path}") };
            match numbers.next() % 8 {
                0 => path.trim_end_matches('/').to_owned(),
                1 => format!("{path}/").replace("//", "/"),
                2 => path.replacen("./", "././", 1),
                _ => path,
            }
        }
    }
}
