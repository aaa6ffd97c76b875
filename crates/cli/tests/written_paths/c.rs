//! C and C++: headers of the same few names in many folders, asked for with quotes and brackets.

use super::common::Project;
use super::common::numbers::Numbers;
use super::{STEMS, folder_of, join, relative};

/// Where headers are looked for.
pub const FOLDERS: &[&str] = &["include", "src"];
const PLACES: &[&str] =
    &["include", "include/moss", "include/moss/bed", "src", "src/bed", "src/bed/rose", "lib", "lib/bed"];
const ENDINGS: &[&str] = &[".h", ".hpp", ".inl"];

const FORMS: &[&str] = &[
    "#include \"PATH\"",
    "#include <PATH>",
    "  #  include   \"PATH\" // of rain",
    "#include/* here */\"PATH\"",
    "#if 1\n#include \"PATH\"\n#endif",
    "#ifdef SLOW\n#include <PATH>\n#else\n#include \"OTHER\"\n#endif",
    "#\\\ninclude \"PATH\"",
    "/* of\n rain */ #include \"PATH\"",
];
const LOOK_ALIKES: &[&str] = &[
    "// #include \"PATH\"",
    "/*\n#include \"PATH\"\n*/",
    "const char *xN = \"\\\n#include <PATH>\";",
    "// over \\\n#include \"PATH\"",
    "int xN = '\"'; // #include \"PATH\"",
    "const char *xN = R\"x(\n#include \"PATH\"\n)\" )x\";",
];

pub fn write(numbers: &mut Numbers) -> Project {
    let project = Project::new(&[]);
    let mut paths = Vec::new();
    for place in PLACES {
        for stem in STEMS {
            for ending in ENDINGS {
                if numbers.one_in(4) {
                    paths.push(join(place, &format!("{stem}{ending}")));
                }
            }
            if place.starts_with("src") && numbers.one_in(2) {
                paths.push(join(place, &format!("{stem}{}", numbers.of(&[".cpp", ".cc"]))));
            }
        }
    }
    project.write("CMakeLists.txt", "project(moss)\ninclude_directories(include src)\n");
    for path in &paths {
        project.write(path, &text(numbers, path, &paths));
    }
    project
}

fn text(numbers: &mut Numbers, path: &str, paths: &[String]) -> String {
    let mut lines = if path.contains(".c") { String::new() } else { "#pragma once\n".to_owned() };
    for at in 0..4 {
        let form = if numbers.one_in(5) { numbers.of(LOOK_ALIKES) } else { numbers.of(FORMS) };
        let (named, other) = (named(numbers, path, paths), named(numbers, path, paths));
        lines.push_str(&form.replace("PATH", &named).replace("OTHER", &other).replace('N', &at.to_string()));
        lines.push('\n');
    }
    lines
}

fn named(numbers: &mut Numbers, from: &str, paths: &[String]) -> String {
    let headers: Vec<&String> = paths.iter().filter(|path| !path.contains(".c")).collect();
    let to = *numbers.of(&headers);
    match numbers.next() % 4 {
        0 => relative(folder_of(from), to),
        1 => to.rsplit('/').next().unwrap_or_default().to_owned(),
        _ => to.split_once('/').map_or(to.as_str(), |(_, rest)| rest).to_owned(),
    }
}
