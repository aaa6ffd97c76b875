//! Where imports by path lead, in small projects: what each ecosystem's tools would open, seen in the built program.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test may fail loudly")]

mod common;

use common::Project;

/// The ties between the files of a project, as `from -> to`.
fn ties(files: &[(&str, &str)]) -> Vec<String> {
    let answer = Project::new(files).run(&["export", "--level", "file"]);
    assert_eq!(answer.status, 0, "{}", answer.all());
    let rows = answer.out.lines().skip(1).map(|line| line.split(',').collect::<Vec<_>>());
    rows.map(|row| format!("{} -> {}", row[0], row[1])).collect()
}

#[test]
fn a_package_of_the_workspace_is_its_source_before_any_build() {
    let found = ties(&[
        (
            "post/package.json",
            r#"{ "name": "@moss/post", "main": "dist/index.js", "types": "dist/index.d.ts" }"#,
        ),
        ("post/src/index.ts", "export const stamp = 1;"),
        ("post/src/parcel.ts", "export const parcel = 1;"),
        ("web/package.json", r#"{ "name": "@moss/web", "dependencies": { "@moss/post": "*" } }"#),
        (
            "web/page.ts",
            "import { stamp } from '@moss/post';\nimport '@moss/post/dist/parcel';\nimport 'react';",
        ),
    ]);
    assert_eq!(found, ["web/page.ts -> post/src/index.ts", "web/page.ts -> post/src/parcel.ts"]);
}

#[test]
fn settings_of_the_compiler_are_followed_through_what_they_extend() {
    let found = ties(&[
        ("base.json", "{}"),
        (
            "tsconfig.base.json",
            r#"{ "compilerOptions": { "baseUrl": ".", "paths": { "~/*": ["lib/*", "old/*"], "clock": ["lib/time.ts"] } } }"#,
        ),
        ("app/tsconfig.json", r#"{ "extends": "../tsconfig.base" }"#),
        ("app/main.ts", "import a from '~/bed'; import b from '~/row'; import c from 'clock';"),
        ("lib/bed.ts", ""),
        ("old/row.ts", ""),
        ("lib/time.ts", ""),
    ]);
    assert_eq!(
        found,
        ["app/main.ts -> lib/bed.ts", "app/main.ts -> lib/time.ts", "app/main.ts -> old/row.ts"]
    );
}

#[test]
fn a_barrel_is_used_and_the_file_behind_it_is_named() {
    let project = Project::new(&[
        ("ferngate.toml", "[modules]\nweb = \"web\"\npost = \"post\"\n"),
        ("post/index.ts", "export * from './all';"),
        ("post/all.ts", "export { parcel as box } from './parcel';"),
        ("post/parcel.ts", "export const parcel = 1;"),
        ("web/page.ts", "import { box } from '../post';"),
    ]);
    let answer = project.run(&["why", "web", "post"]);
    assert!(answer.out.contains("post/index.ts  1  (declared in post/parcel.ts)"), "{}", answer.all());
    assert!(answer.out.contains("web/page.ts:1:22"), "{}", answer.all());
}

#[test]
fn a_name_of_a_package_leads_to_the_submodule_or_to_what_binds_it() {
    let found = ties(&[
        ("notes/__init__.py", "from .dates import Day\n"),
        ("notes/dates.py", "class Day: pass\n"),
        ("notes/beds.py", "import os.path, json\n"),
        ("run.py", "from notes import Day, beds\n"),
    ]);
    let expected =
        ["notes/__init__.py -> notes/dates.py", "run.py -> notes/__init__.py", "run.py -> notes/beds.py"];
    assert_eq!(found, expected);
}

#[test]
fn a_second_module_inside_the_tree_is_its_own() {
    let found = ties(&[
        ("go.mod", "module moss.example/rain\nreplace moss.example/tides => ./vendored/tides\n"),
        (
            "main.go",
            "package main\n\nimport \"moss.example/rain/tools\"\nimport t \"moss.example/tides\"\n\nvar a = tools.Name + t.High\n",
        ),
        ("tools/go.mod", "module moss.example/tools\n"),
        ("tools/tools.go", "package tools\n\nconst Name = 1\n"),
        ("vendored/tides/go.mod", "module moss.example/tides\n"),
        ("vendored/tides/low.go", "package tides\n\nconst Low = 1\n"),
        ("vendored/tides/high.go", "package tides\n\nconst High = 2\n"),
    ]);
    assert_eq!(found, ["main.go -> vendored/tides/high.go"]);
}

#[test]
fn paths_begin_where_the_edition_says() {
    let source =
        [("src/beds.rs", "pub struct Bed;"), ("src/walk.rs", "use beds::Bed;\npub fn walk(_: Bed) {}")];
    let root = ("src/lib.rs", "mod beds;\nmod walk;\n");
    let old = ("Cargo.toml", "[package]\nname = \"garden\"\n");
    let new = ("Cargo.toml", "[package]\nname = \"garden\"\nedition = \"2021\"\n");
    let found = |manifest| ties(&[manifest, root, source[0], source[1]]);
    assert!(found(old).contains(&"src/walk.rs -> src/beds.rs".to_owned()));
    assert!(!found(new).contains(&"src/walk.rs -> src/beds.rs".to_owned()));
}

#[test]
fn of_two_headers_of_one_name_the_own_folder_decides() {
    let found = ties(&[
        ("pump/config.h", ""),
        ("pump/pump.c", "#include \"config.h\"\n"),
        ("valve/config.h", ""),
        ("valve/valve.c", "#include \"config.h\"\n#include <config.h>\n#include \"made_by_the_build.h\"\n"),
    ]);
    assert_eq!(found, ["pump/pump.c -> pump/config.h", "valve/valve.c -> valve/config.h"]);
}

#[test]
fn imports_that_lead_nowhere_are_said_once_and_tests_are_left_alone() {
    let project = Project::new(&[
        ("web/page.ts", "import './gone';\nimport 'react';\n"),
        ("web/tests/page.ts", "import './gone';\n"),
    ]);
    let found = project.run(&["check", "--json"]).json();
    let missing: Vec<&str> = found["findings"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|finding| finding["finding"] == "missing-file")
        .map(|finding| finding["message"].as_str().unwrap())
        .collect();
    assert_eq!(missing, ["`./gone` leads to no file"]);
}

#[test]
fn a_list_of_unknown_form_is_known_by_what_it_lists() {
    let files = [("src/tour.py", ""), ("src/guide.py", "")];
    let list = ("checks.yaml", "run:\n  - src/tour.py\n  - src/guide.py\n  - src/gone.py\n");
    let prose = ("words.yaml", "run:\n  - src/tour.py\n  - a/b.py\n  - c/d.py\n");
    let answer = Project::new(&[files[0], files[1], list, prose]).run(&["check"]);
    assert!(answer.out.contains("checks.yaml lists src/gone.py, which does not exist"), "{}", answer.all());
    assert!(!answer.out.contains("words.yaml"), "{}", answer.all());
}

#[test]
fn a_manifest_takes_its_own_ecosystem_only() {
    let answer = Project::new(&[
        ("package.json", r#"{ "name": "tools" }"#),
        ("app.py", "import lib.bed\n"),
        ("lib/bed.py", ""),
        ("lib/setup.py", "setup(name='beds')\n"),
    ])
    .run(&["check"]);
    assert!(!answer.out.contains("undeclared-dependency"), "{}", answer.all());
}

#[test]
fn a_loader_finds_what_its_configuration_says() {
    let found = ties(&[
        (
            "site/js/main.js",
            "requirejs.config({ baseUrl: 'js/lib', // where most lies\n paths: { app: '../app', plant: ['//cdn.moss.example/x', 'flora'] },\n \
             shim: { 'old': { deps: ['plant'], exports: 'Old' }, 'older': ['old'] }, waitSeconds: f({ a: 1 }) });\n\
             requirejs(['app/bed', 'plant']);",
        ),
        ("site/js/app/bed.js", "define(['old', './row'], function (old, row) {});"),
        ("site/js/app/row.js", "define([], function () {});"),
        ("site/js/lib/old.js", "window.Old = 1;"),
        ("site/js/lib/older.js", "window.Older = 1;"),
        ("site/js/lib/flora.js", "define([], 1);"),
        ("site/index.html", "<script>var require = { baseUrl: 'js/lib' };</script>"),
    ]);
    let expected = [
        "site/js/app/bed.js -> site/js/app/row.js",
        "site/js/app/bed.js -> site/js/lib/old.js",
        "site/js/lib/old.js -> site/js/lib/flora.js",
        "site/js/lib/older.js -> site/js/lib/old.js",
        "site/js/main.js -> site/js/app/bed.js",
        "site/js/main.js -> site/js/lib/flora.js",
    ];
    assert_eq!(found, expected);
}

#[test]
fn full_names_in_settings_are_mentions() {
    let project = Project::new(&[
        ("wiring.xml", "<bean class=\"org.moss.valves.Tap\"/>"),
        ("src/META-INF/services/org.moss.valves.Valve", "# ours\norg.moss.valves.Tap$Inner\n"),
        ("src/org/moss/valves/Valve.java", "package org.moss.valves; public interface Valve {}"),
        (
            "src/org/moss/valves/Tap.java",
            "package org.moss.valves; public class Tap { public static class Inner implements Valve {} }",
        ),
    ]);
    let ties = |weak: &[&str]| {
        let answer = project.run(&[&["export", "--level", "file"], weak].concat());
        answer.out.lines().skip(1).map(str::to_owned).collect::<Vec<_>>()
    };
    let strong = "src/org/moss/valves/Tap.java,src/org/moss/valves/Valve.java,1";
    assert_eq!(ties(&[]), [strong]);
    let weak = [
        "src/META-INF/services/org.moss.valves.Valve,src/org/moss/valves/Tap.java,1",
        "src/META-INF/services/org.moss.valves.Valve,src/org/moss/valves/Valve.java,1",
        strong,
        "wiring.xml,src/org/moss/valves/Tap.java,1",
    ];
    assert_eq!(ties(&["--weak"]), weak);
}

#[test]
fn a_package_of_r_takes_names_from_others_for_all_its_code() {
    let found = ties(&[
        ("survey/DESCRIPTION", "Package: survey\nImports: dates, beds\n"),
        ("survey/NAMESPACE", "import(dates)\nimportFrom(beds, row)\n"),
        ("survey/R/bloom.R", "bloom <- function() { today(); row(1); width(2) }\n"),
        ("dates/DESCRIPTION", "Package: dates\n"),
        ("dates/R/today.R", "today <- function() 1\n"),
        ("beds/DESCRIPTION", "Package: beds\n"),
        ("beds/R/row.R", "row <- function(x) x\n"),
        ("beds/R/width.R", "width <- function(x) x\n"),
    ]);
    assert_eq!(found, ["survey/R/bloom.R -> beds/R/row.R", "survey/R/bloom.R -> dates/R/today.R"]);
}

#[test]
fn modules_of_cpp_are_found_by_name_and_part() {
    let found = ties(&[
        ("beds/beds.cppm", "export module garden.beds;\nexport import :rows;\n"),
        ("beds/rows.cppm", "export module garden.beds:rows;\n"),
        ("beds/beds.cpp", "module garden.beds;\nint dig() { return 1; }\n"),
        ("main.cpp", "import garden.beds;\nimport <vector>;\nint main() {}\n"),
    ]);
    let expected =
        ["beds/beds.cpp -> beds/beds.cppm", "beds/beds.cppm -> beds/rows.cppm", "main.cpp -> beds/beds.cppm"];
    assert_eq!(found, expected);
}

#[test]
fn a_page_lies_in_the_namespace_that_is_stated_for_it() {
    let project = r#"<Project Sdk="Microsoft.NET.Sdk.Razor"><PropertyGroup><RootNamespace>Moss</RootNamespace></PropertyGroup></Project>"#;
    let user = |namespace: &str| format!("class User {{ {namespace}.Ticket ticket; }}");
    let found = ties(&[
        ("Moss.csproj", project),
        ("Sale/_Imports.razor", "@namespace Garden.Shop\n@using System\n"),
        ("Sale/Ticket.razor", "<p>A ticket</p>\n"),
        ("Sale/Group/Ticket.razor", "<p>Tickets for many</p>\n"),
        ("Sale/Own/Ticket.razor", "@namespace Fern\n<p>A ticket of another sort</p>\n"),
        ("Plain/Ticket.razor", "<p>One without a word on it</p>\n"),
        ("ByImports.cs", &user("Garden.Shop")),
        ("ByImportsAbove.cs", &user("Garden.Shop.Group")),
        ("ByItself.cs", &user("Fern")),
        ("ByFolder.cs", &user("Moss.Plain")),
        ("Nothing.cs", &user("Moss.Sale")),
    ]);
    assert_eq!(
        found,
        [
            "ByFolder.cs -> Plain/Ticket.razor",
            "ByImports.cs -> Sale/Ticket.razor",
            "ByImportsAbove.cs -> Sale/Group/Ticket.razor",
            "ByItself.cs -> Sale/Own/Ticket.razor",
        ]
    );
}
