//! Packages of scripts that say what they show: maps of `exports` and `imports` with conditions, patterns and lists.

use super::common::Project;
use super::common::numbers::Numbers;
use super::{STEMS, join};

const PACKAGES: &[(&str, &str)] =
    &[("@moss/core", "packages/core"), ("tours", "packages/tours"), ("@moss/beds.js", "packages/beds")];
const FOLDERS: &[&str] = &["src", "src/bed", "src/tour", "lib"];
/// What a map may call a file by, and what may ask for it: with a star, without.
const KEYS: &[&str] = &[
    "./bed",
    "./rose.js",
    "./bed/tour",
    "./*",
    "./bed/*",
    "./bed/*.js",
    "./*/last",
    "./b*",
    "./tour/*/end",
    "./package.json",
];
/// What a map may lead to for a file's path without its ending, and a star where the key has one.
const TARGETS: &[&str] = &[
    "\"./PATH.ts\"",
    "\"./PATH.js\"",
    "\"./missing/PATH.js\"",
    "{ \"types\": \"./PATH.ts\", \"default\": \"./OTHER.ts\" }",
    "{ \"import\": \"./PATH.js\", \"require\": \"./PATH.js\" }",
    "{ \"browser\": \"./OTHER.ts\", \"default\": \"./PATH.ts\" }",
    "{ \"node\": { \"browser\": \"./OTHER.ts\", \"import\": \"./PATH.ts\" }, \"default\": \"./PATH.ts\" }",
    "{ \"deno\": \"./OTHER.ts\", \"worker\": \"./OTHER.js\", \"types\": \"./PATH.ts\" }",
    "[\"./missing.ts\", \"./PATH.ts\"]",
    "[{ \"browser\": \"./OTHER.ts\" }, \"./PATH.ts\"]",
    "null",
    "{ \"browser\": null, \"default\": \"./PATH.ts\" }",
];
const FORMS: &[&str] = &[
    "import { a as xN } from \"PATH\";",
    "export * from 'PATH';",
    "const xN = () => import(\"PATH\");",
    "import type { A as XN } from \"PATH\";",
    "let xN: import(\"PATH\").A;",
];

pub fn write(numbers: &mut Numbers) -> Project {
    let project = Project::new(&[]);
    project.write("package.json", "{ \"private\": true, \"workspaces\": [\"packages/*\"] }\n");
    project.write("tsconfig.json", "{ \"compilerOptions\": { \"module\": \"node16\" } }\n");
    let mut files = Vec::new();
    for (name, home) in PACKAGES {
        let mut stems = Vec::new();
        for folder in FOLDERS {
            for stem in STEMS.iter().chain(&["index"]) {
                if !numbers.one_in(3) {
                    stems.push(join(folder, stem));
                }
            }
        }
        let text = description(numbers, name, &stems);
        project.write(&format!("{home}/package.json"), &text);
        files.extend(stems.iter().map(|stem| format!("{home}/{stem}.ts")));
        let link = project.root().join("node_modules").join(name);
        std::fs::create_dir_all(link.parent().unwrap()).unwrap();
        #[cfg(unix)]
        std::os::unix::fs::symlink(project.root().join(home), link).unwrap();
    }
    for path in &files {
        let mut lines = String::new();
        for at in 0..6 {
            let line = numbers.of(FORMS).replace("PATH", &specifier(numbers));
            lines.push_str(&line.replace('N', &at.to_string()));
            lines.push('\n');
        }
        lines.push_str("export const a = 1; export type A = number;\n");
        project.write(path, &lines);
    }
    project
}

/// A `package.json` with maps, whose keys come in any order.
fn description(numbers: &mut Numbers, name: &str, stems: &[String]) -> String {
    let mut exports = Vec::new();
    for key in std::iter::once(&".").chain(KEYS) {
        if numbers.one_in(2) {
            exports.push(format!("    \"{key}\": {}", target(numbers, key.contains('*'), stems)));
        }
    }
    let exports = match numbers.next() % 4 {
        0 => target(numbers, false, stems),
        _ => format!("{{\n{}\n  }}", exports.join(",\n")),
    };
    let mut imports = Vec::new();
    for key in ["#bed", "#rose/*", "#*", "#tour/*.js"] {
        if numbers.one_in(2) {
            imports.push(format!("    \"{key}\": {}", target(numbers, key.contains('*'), stems)));
        }
    }
    let imports = imports.join(",\n");
    let kind = numbers.of(&["module", "commonjs"]);
    format!(
        "{{\n  \"name\": \"{name}\",\n  \"type\": \"{kind}\",\n  \"exports\": {exports},\n  \"imports\": {{\n{imports}\n  }}\n}}\n"
    )
}

fn target(numbers: &mut Numbers, has_star: bool, stems: &[String]) -> String {
    let path = |numbers: &mut Numbers| {
        let stem = numbers.of(stems).clone();
        match stem.rsplit_once('/') {
            Some((folder, _)) if has_star && numbers.one_in(3) => format!("{folder}/*"),
            _ if has_star => numbers.of(&["src/*", "src/bed/*", "lib/*", "src/*/bed"]).to_string(),
            _ => stem,
        }
    };
    let (first, other) = (path(numbers), path(numbers));
    numbers.of(TARGETS).replace("PATH", &first).replace("OTHER", &other)
}

/// What one file asks for: the name of a package, alone or with a path behind it, or a name of its own package's.
fn specifier(numbers: &mut Numbers) -> String {
    let below = |numbers: &mut Numbers| {
        let key = numbers.of(KEYS).trim_start_matches("./");
        let caught = [*numbers.of(STEMS), *numbers.of(STEMS)];
        key.replace('*', &caught[..1 + numbers.next() % 2].join("/"))
    };
    if numbers.one_in(3) {
        return match numbers.next() % 4 {
            0 => "#bed".to_owned(),
            1 => format!("#{}", numbers.of(STEMS)),
            2 => format!("#{}.js", below(numbers)),
            _ => format!("#rose/{}", numbers.of(STEMS)),
        };
    }
    let (package, _) = numbers.of(PACKAGES);
    if numbers.one_in(4) { (*package).to_owned() } else { format!("{package}/{}", below(numbers)) }
}
