//! The modules that a project has without a map, and which languages see each other.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test may fail loudly")]

mod common;

use common::Project;

/// Modules by default: `name folder` each.
fn default_modules(files: &[(&str, &str)]) -> Vec<String> {
    let survey = Project::new(files).run(&["survey", "--json"]).json();
    let row = |module: &serde_json::Value| {
        format!("{} {}", module["module"].as_str().unwrap(), module["folder"].as_str().unwrap())
    };
    let mut found: Vec<String> = survey["modules"].as_array().unwrap().iter().map(row).collect();
    found.sort();
    found
}

#[test]
fn modules_are_what_people_would_say() {
    let class = "package x; class A { }";
    let found = default_modules(&[
        ("build.gradle", ""),
        ("src/main/java/org/garden/beds/A.java", class),
        ("src/main/java/org/garden/tools/A.java", class),
        ("src/main/java/org/garden/App.java", class),
        ("src/test/java/org/garden/beds/ATest.java", class),
    ]);
    assert_eq!(
        found,
        [
            "beds src/main/java/org/garden/beds",
            "garden src/main/java/org/garden",
            "test src/test",
            "tools src/main/java/org/garden/tools"
        ]
    );
    let found = default_modules(&[
        ("composer.json", "{ \"name\": \"garden/all\" }"),
        ("src/Garden/Beds/composer.json", "{ \"name\": \"garden/beds\" }"),
        ("src/Garden/Beds/Bed.php", "<?php class Bed { }"),
        ("src/Garden/Tools/composer.json", "{ \"name\": \"garden/tools\" }"),
        ("src/Garden/Tools/Tool.php", "<?php class Tool { }"),
        ("src/Garden/Core/Deep/Core.php", "<?php class Core { }"),
        ("tests/Beds/BedTest.php", "<?php class BedTest { }"),
    ]);
    assert_eq!(
        found,
        ["Core src/Garden/Core", "beds src/Garden/Beds", "tests tests", "tools src/Garden/Tools"]
    );
}

#[test]
fn families_of_languages_share_no_names() {
    let project = Project::new(&[
        ("a/Label.cs", "class Label { }"),
        ("b/Label.java", "class Label { }"),
        ("c/Label.php", "<?php class Label { }"),
        ("d/Use.cs", "class Use { Label label; }"),
        ("d/Use.java", "class Use { Label label; }"),
        ("d/Use.php", "<?php class Use_ { public Label $label; }"),
        ("d/Use.kt", "class Use2(val label: Label)"),
    ]);
    let out = project.run(&["export", "--level", "file", "--as", "csv"]).out;
    assert_eq!(
        out,
        "from,to,references\nd/Use.cs,a/Label.cs,1\nd/Use.java,b/Label.java,1\nd/Use.kt,b/Label.java,1\nd/Use.php,c/Label.php,1\n"
    );
}

#[test]
fn kotlin_and_java_see_each_other() {
    let project = Project::new(&[
        ("src/beds/Beds.kt", "package beds\nconst val LIMIT = 3\nfun plant(count: Int) = count\n"),
        ("src/beds/Near.kt", "package beds\nfun near() = plant(LIMIT)\n"),
        (
            "src/far/Far.kt",
            "package far\nimport beds.plant as put\nclass Far { fun plant(x: Int) = put(x) + plant(x) }\n",
        ),
        (
            "src/app/App.java",
            "package app;\nimport beds.BedsKt;\nclass App { int a = BedsKt.plant(far.Far.class.hashCode()); }\n",
        ),
        (
            "src/far/Own.kt",
            "package far\nimport app.*\nclass Own : Thread() { val a: App? = null; val plant = 3 }\n",
        ),
    ]);
    let out = project.run(&["export", "--level", "file", "--as", "csv"]).out;
    let ties: Vec<&str> = out.lines().skip(1).map(|line| line.rsplit_once(',').unwrap().0).collect();
    assert_eq!(
        ties,
        [
            "src/app/App.java,src/beds/Beds.kt",
            "src/app/App.java,src/far/Far.kt",
            "src/beds/Near.kt,src/beds/Beds.kt",
            "src/far/Far.kt,src/beds/Beds.kt",
            "src/far/Own.kt,src/app/App.java",
        ]
    );
}

#[test]
fn survey_counts_manifests_by_what_they_are() {
    let project = Project::new(&[
        ("settings.gradle", "include ':valves'\n"),
        ("valves/build.gradle", ""),
        ("valves/src/main/java/Valve.java", "class Valve {}\n"),
        ("Garden.sln", "Microsoft Visual Studio Solution File\n"),
    ]);
    let answer = project.run(&["survey"]);
    assert!(answer.out.contains("1 .sln · 1 build.gradle · 1 settings.gradle"), "{}", answer.all());
}

#[test]
fn what_holds_nearly_all_code_is_split_by_its_folders() {
    let mut files: Vec<(String, String)> = Vec::new();
    for part in ["beds", "paths", "ponds"] {
        files.push((format!("garden/{part}/__init__.py"), String::new()));
        files.extend((0..40).map(|at| (format!("garden/{part}/plot{at}.py"), format!("width = {at}\n"))));
    }
    files.push(("garden/__init__.py".into(), "name = 'Mossgrove'\n".into()));
    files.push(("tests/test_beds.py".into(), "import garden.beds.plot1\n".into()));
    files.push(("docs/conf.py".into(), "project = 'Mossgrove'\n".into()));
    files.push(("setup.py".into(), "from setuptools import setup\nsetup(name='mossgrove')\n".into()));
    let files: Vec<(&str, &str)> = files.iter().map(|(path, text)| (&**path, &**text)).collect();
    let survey = Project::new(&files).run(&["survey", "--json"]).json();
    let mut names: Vec<&str> =
        survey["modules"].as_array().unwrap().iter().map(|row| row["module"].as_str().unwrap()).collect();
    names.sort_unstable();
    assert_eq!(names, ["beds", "docs", "garden", "mossgrove", "paths", "ponds", "tests"]);
}

/// `count` files of Python in `folder`, a line each.
fn plots(folder: &str, count: usize) -> impl Iterator<Item = (String, String)> {
    (0..count).map(move |at| (format!("{folder}/plot{at}.py"), format!("width = {at}\n")))
}

/// The folders of the modules by default.
fn default_folders(files: &[(String, String)]) -> Vec<String> {
    let files: Vec<(&str, &str)> = files.iter().map(|(path, text)| (&**path, &**text)).collect();
    let folder = |row: String| row.split_once(' ').unwrap().1.to_owned();
    let mut folders: Vec<String> = default_modules(&files).into_iter().map(folder).collect();
    folders.sort();
    folders
}

#[test]
fn what_holds_much_among_few_is_split_and_what_a_manifest_names_among_many_is_not() {
    // Two large folders, neither of them nearly all.
    let mut files: Vec<(String, String)> = Vec::new();
    for (part, count) in [
        ("garden/beds", 60),
        ("garden/paths", 60),
        ("garden/ponds", 60),
        ("shop/till", 70),
        ("shop/shelf", 70),
    ] {
        files.extend(plots(part, count));
    }
    files.extend(plots("docs", 3));
    assert_eq!(
        default_folders(&files),
        ["docs", "garden/beds", "garden/paths", "garden/ponds", "shop/shelf", "shop/till"]
    );
    // Six projects, one of them with half of the code.
    let projects = ["a", "b", "c", "d", "e", "f"];
    let mut files: Vec<(String, String)> = Vec::new();
    for project in projects {
        files.push((format!("{project}/package.json"), format!("{{\"name\": \"{project}\"}}")));
        files.push((format!("{project}/index.js"), "exports.width = 1\n".into()));
    }
    let scripts = (0..80).flat_map(|at| [format!("a/beds/plot{at}.js"), format!("a/paths/plot{at}.js")]);
    files.extend(scripts.map(|path| (path, "exports.width = 1\n".into())));
    files.extend((0..90).map(|at| (format!("b/plot{at}.js"), "exports.width = 1\n".into())));
    assert_eq!(default_folders(&files), projects);
    // With two projects it is.
    files.retain(|(path, _)| path.starts_with("a/") || path.starts_with("b/"));
    assert_eq!(default_folders(&files), ["a", "a/beds", "a/paths", "b"]);
}

#[test]
fn all_code_is_in_some_module_though_the_only_manifest_holds_most() {
    let class = "package x; class A { }";
    let mut files: Vec<(String, String)> = vec![("engine/build.gradle".into(), String::new())];
    files.extend((0..30).map(|at| (format!("engine/src/org/moss/A{at}.java"), class.to_owned())));
    files.extend((0..20).map(|at| (format!("src/com/moss/beds/A{at}.java"), class.to_owned())));
    files.extend((0..5).map(|at| (format!("src/com/moss/tools/A{at}.java"), class.to_owned())));
    assert_eq!(default_folders(&files), ["engine/src/org/moss", "src/com/moss/beds", "src/com/moss/tools"]);
}

#[test]
fn code_beside_modules_is_in_one_too() {
    let mut files: Vec<(String, String)> = Vec::new();
    for part in ["beds", "paths"] {
        files.push((format!("src/garden/{part}/CMakeLists.txt"), format!("project({part})\n")));
        files.push((format!("src/garden/{part}/plot.cpp"), "int width;\n".into()));
    }
    files.push(("src/garden/main.cpp".into(), "int main() { return 0; }\n".into()));
    files.push(("setup.py".into(), "width = 1\n".into()));
    assert_eq!(default_folders(&files), ["", "src/garden", "src/garden/beds", "src/garden/paths"]);
}

#[test]
fn a_build_in_a_folder_of_sources_is_not_called_so_and_may_be_split() {
    let mut files: Vec<(String, String)> = Vec::new();
    for part in ["cli", "desk", "proxy", "tests", "tools"] {
        let folder = if part == "tests" { part.to_owned() } else { format!("src/{part}") };
        files.push((format!("{folder}/CMakeLists.txt"), "add_library(x STATIC x.cpp)\n".into()));
        files.push((format!("{folder}/x.cpp"), "int width;\n".into()));
    }
    files.push(("src/CMakeLists.txt".into(), "add_subdirectory(cli)\n".into()));
    for part in ["core", "gui"] {
        files.extend((0..80).map(|at| (format!("src/{part}/plot{at}.cpp"), "int width;\n".into())));
    }
    files.push(("src/main.cpp".into(), "int main() { return 0; }\n".into()));
    let texts: Vec<(&str, &str)> = files.iter().map(|(path, text)| (&**path, &**text)).collect();
    let modules = default_modules(&texts);
    assert!(!modules.iter().any(|module| module.starts_with("src ")), "{modules:?}");
    assert_eq!(
        default_folders(&files),
        ["src", "src/cli", "src/core", "src/desk", "src/gui", "src/proxy", "src/tools", "tests"]
    );
}

#[test]
fn each_folder_of_go_is_a_part_of_its_own() {
    let found = default_modules(&[
        ("go.mod", "module moss.example/rain/v2\n"),
        ("main.go", "package main\nimport \"moss.example/rain/v2/source\"\nvar s = source.Row{}\n"),
        ("source/row.go", "package source\ntype Row struct{}\n"),
        ("pkg/beds/bed.go", "package beds\ntype Bed struct{}\n"),
        ("langs/lang.go", "package langs\nimport \"moss.example/rain/v2/source\"\nvar s = source.Row{}\n"),
    ]);
    assert_eq!(found, ["beds pkg/beds", "langs langs", "rain ", "source source"]);
}

#[test]
fn what_is_kept_beside_other_modules_is_not_called_as_what_lies_around_them() {
    let mut files: Vec<(String, String)> = Vec::new();
    for part in ["beds", "paths", "ponds", "java"] {
        files.push((format!("modules/{part}/CMakeLists.txt"), format!("project({part})\n")));
        files.push((format!("modules/{part}/plot.cpp"), "int width;\n".into()));
    }
    files.retain(|(path, _)| path != "modules/java/CMakeLists.txt");
    let files: Vec<(&str, &str)> = files.iter().map(|(path, text)| (&**path, &**text)).collect();
    assert_eq!(
        default_modules(&files),
        ["beds modules/beds", "modules/java modules/java", "paths modules/paths", "ponds modules/ponds"]
    );
}

#[test]
fn packages_that_hold_nearly_all_are_told_apart_though_they_are_many() {
    let mut files: Vec<(String, String)> = Vec::new();
    for at in 0..80 {
        let folder = format!("packages/plot-{at}");
        files.push((format!("{folder}/package.json"), format!("{{\"name\": \"@moss/plot-{at}\"}}")));
        files.extend((0..2).map(|bed| (format!("{folder}/bed{bed}.js"), "exports.width = 1\n".into())));
    }
    for part in ["bench", "docs", "lint", "scripts", "site"] {
        files.push((format!("{part}/run.js"), "exports.width = 1\n".into()));
    }
    files.push(("package.json".into(), "{\"name\": \"moss\", \"workspaces\": [\"packages/*\"]}".into()));
    let folders = default_folders(&files);
    assert_eq!(folders.len(), 85, "{folders:?}");
    assert!(folders.contains(&"packages/plot-79".to_owned()) && folders.contains(&"lint".to_owned()));
}

#[test]
fn many_packages_are_better_than_next_to_none() {
    let manifest = |name: &str| {
        format!(
            "{{\"name\": \"moss/{name}\", \"autoload\": {{\"psr-4\": {{\"Moss\\\\{name}\\\\\": \"\"}}}}}}"
        )
    };
    let mut files: Vec<(String, String)> = Vec::new();
    for at in 0..70 {
        let folder = format!("src/Moss/Part/Plot{at}");
        files.push((format!("{folder}/composer.json"), manifest(&format!("Plot{at}"))));
        files.push((
            format!("{folder}/Bed.php"),
            format!("<?php\nnamespace Moss\\Plot{at};\nclass Bed {{}}\n"),
        ));
        files.push((
            format!("{folder}/Deep/Bed.php"),
            format!("<?php\nnamespace Moss\\Plot{at}\\Deep;\nclass Bed {{}}\n"),
        ));
    }
    let files: Vec<(&str, &str)> = files.iter().map(|(path, text)| (&**path, &**text)).collect();
    let survey = Project::new(&files).run(&["survey", "--json"]).json();
    let modules = survey["modules"].as_array().unwrap();
    assert_eq!(modules.len(), 70);
    // A module is called after the namespace around nearly all that it declares.
    assert!(modules.iter().all(|row| {
        row["namespace"]
            .as_str()
            .is_some_and(|namespace| namespace.starts_with("Moss\\Plot") && !namespace.ends_with("Deep"))
    }));
}
