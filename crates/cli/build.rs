//! Tells the tests which outside programs are here, so that tests that need a missing one are reported as ignored.

use std::path::Path;

fn main() {
    println!("cargo::rustc-check-cfg=cfg(has_mcs)");
    println!("cargo::rerun-if-env-changed=PATH");
    println!("cargo::rerun-if-env-changed=FERNGATE_REQUIRE_TOOLS");
    println!("cargo::rerun-if-changed=demo");
    let path = std::env::var_os("PATH").unwrap_or_default();
    let found = std::env::split_paths(&path).any(|folder| Path::new(&folder).join("mcs").is_file());
    if found {
        println!("cargo::rustc-cfg=has_mcs");
    } else if std::env::var_os("FERNGATE_REQUIRE_TOOLS").is_some() {
        println!("cargo::error=the C# compiler mcs is not installed, and FERNGATE_REQUIRE_TOOLS is set");
    }
}
