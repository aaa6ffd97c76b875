//! Tells the tests which outside programs are here, so that tests that need a missing one are reported as ignored.

use std::path::Path;

/// Name of the flag, the file that shows that the tool is here (below a folder of PATH where it has no slash), and
/// what it is.
const TOOLS: &[(&str, &str, &str)] = &[
    ("has_mcs", "mcs", "the C# compiler mcs"),
    ("has_cecil", "/usr/lib/mono-cecil/Mono.Cecil.dll", "the library Mono.Cecil"),
    ("has_javac", "javac", "the Java compiler javac"),
    ("has_kotlin", "/usr/share/kotlin/kotlinc/lib/kotlin-compiler.jar", "the Kotlin compiler"),
    ("has_php", "php", "the PHP interpreter"),
    ("has_node", "node", "the JavaScript runtime node"),
    ("has_typescript", "/usr/share/nodejs/typescript/lib/typescript.js", "the TypeScript compiler"),
    ("has_python", "python3", "the Python interpreter"),
    ("has_go", "go", "the Go compiler"),
    ("has_gxx", "g++", "the C++ compiler g++"),
    ("has_r", "/usr/lib/R/library/codetools/DESCRIPTION", "the R interpreter with its package codetools"),
    ("has_git", "git", "the program git"),
    ("has_script", "script", "the program script, which makes a terminal"),
    ("has_php_parser", "/usr/share/php/PhpParser/autoload.php", "the library php-parser"),
];

fn main() {
    println!("cargo::rerun-if-env-changed=PATH");
    println!("cargo::rerun-if-env-changed=FERNGATE_REQUIRE_TOOLS");
    println!("cargo::rerun-if-changed=demo");
    println!("cargo::rerun-if-changed=build.rs");
    let path = std::env::var_os("PATH").unwrap_or_default();
    for (flag, file, what) in TOOLS {
        println!("cargo::rustc-check-cfg=cfg({flag})");
        let found = Path::new(file).is_absolute() && Path::new(file).is_file()
            || std::env::split_paths(&path).any(|folder| folder.join(file).is_file());
        if found {
            println!("cargo::rustc-cfg={flag}");
        } else if std::env::var_os("FERNGATE_REQUIRE_TOOLS").is_some() {
            println!("cargo::error={what} is not installed, and FERNGATE_REQUIRE_TOOLS is set");
        }
    }
}
