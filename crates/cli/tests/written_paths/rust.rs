//! Rust: a crate whose modules all declare the same few names, named by paths from everywhere, and a crate beside it.

use super::common::Project;
use super::common::numbers::Numbers;

/// Modules with their files; an inline one has the file of the module around it.
const MODULES: &[(&str, &str)] = &[
    ("", "core/src/lib.rs"),
    ("bed", "core/src/bed.rs"),
    ("bed::rose", "core/src/bed/rose.rs"),
    ("bed::rose::tour", "core/src/bed/rose/tour.rs"),
    ("bed::plan", "core/src/bed.rs"),
    ("tour", "core/src/tour/mod.rs"),
    ("tour::bed", "core/src/tour/bed.rs"),
    ("tour::odd", "core/src/oddly/named.rs"),
    ("rose", "core/src/rose.rs"),
];

/// What a module declares, and how it shows its inner modules.
const DECLARED: &str = "
pub struct Bed { pub tour: i32 }
impl Bed { pub const TOUR: i32 = 1; pub fn make() -> Self { Self { tour: 1 } } pub fn rose(&self) -> i32 { self.tour } }
pub fn guide(tour: i32) -> i32 { tour }
pub const TOUR: i32 = 3;
pub enum Row { Left, Right(i32) }
pub trait Guide { fn rose(&self) -> i32 { 1 } }
pub type Beds = Vec<i32>;
pub static ROSES: &[i32] = &[1, 2];
";

/// `Bed` and the others after a `§` are names of one module, each by a path that is chosen.
const FORMS: &[&str] = &[
    "pub fn fN(bed: &§Bed) -> Option<§Row> { let _ = bed; unreachable!() }",
    "pub fn fN() -> i32 { let tour = §guide(§TOUR); tour + 1 }",
    "pub fn fN() { let _ = §Bed { tour: §TOUR }; }",
    "pub fn fN() -> i32 { §Bed::make().rose() + §Bed::TOUR }",
    "pub fn fN() -> i32 { match unreachable!() { §Row::Right(guide) => guide, _ => 1 } }",
    "pub fn fN() -> bool { let §Bed { tour } = unreachable!(); tour == §TOUR }",
    "pub fn fN<T: §Guide + ?Sized>(rose: &T) -> i32 { rose.rose() }",
    "pub fn fN(rose: &dyn §Guide) -> i32 where §Bed: Sized { rose.rose() }",
    "pub fn fN() -> impl Fn(i32) -> i32 { |guide| guide + §TOUR }",
    "pub fn fN() { let _ = Vec::<§Bed>::new(); }",
    "pub fn fN() -> i32 { let guide = |tour: i32| tour; guide(2) + <§Bed>::make().tour }",
    "pub fn fN() -> i32 { use §guide as led; led(1) }",
    "pub fn fN() -> i32 { { use §TOUR; let _ = TOUR; } 0 }",
    "pub fn fN() -> i32 { 'tour: loop { break 'tour §ROSES[0]; } }",
    "pub struct TN { pub bed: §Bed, pub tour: [i32; §TOUR as usize] }",
    "pub struct TN<'bed>(pub &'bed §Bed, pub §Beds);",
    "pub struct TN; impl §Guide for TN { fn rose(&self) -> i32 { §guide(§TOUR) } }",
    "pub enum TN { Bed(§Bed), Tour { guide: §Row } }",
    "pub const CN: i32 = §TOUR + 1;",
    "pub static SN: fn(i32) -> i32 = §guide;",
    "pub type AN = Box<dyn §Guide>;",
    "pub trait WN: §Guide { type Bed; const TOUR: i32 = §TOUR; fn guide(&self) -> §Row; }",
    "pub fn fN() -> &'static str { \"crate::bed::Bed\" /* §guide() */ }",
    "pub fn fN(guide: i32) -> i32 { let TN = guide; TN }",
    "pub mod mN { pub fn inner() -> i32 { let bed = super::super_tour(); bed } }",
    "pub fn fN() -> i32 { fn guide(tour: i32) -> i32 { tour } guide(1) }",
    "pub fn fN() -> i32 { struct Bed { rose: i32 } let bed = Bed { rose: 2 }; bed.rose }",
];

/// The names that a `§` may stand before.
const NAMES: &[&str] = &["guide", "TOUR", "Beds", "Bed", "Row", "Guide", "ROSES"];

pub fn write(numbers: &mut Numbers) -> Project {
    let project = Project::new(&[]);
    project.write("Cargo.toml", "[workspace]\nmembers = [\"core\", \"tours\"]\nresolver = \"2\"\n");
    project.write(
        "core/Cargo.toml",
        "[package]\nname = \"garden-core\"\nversion = \"0.1.0\"\nedition = \"2021\"\n",
    );
    let tours = "[package]\nname = \"tours\"\nversion = \"0.1.0\"\nedition = \"2021\"\n\n[dependencies]\n\
                 moss = { package = \"garden-core\", path = \"../core\" }\n";
    project.write("tours/Cargo.toml", tours);
    for (module, path) in MODULES.iter().filter(|(module, _)| *module != "bed::plan") {
        let mut text =
            format!("#![allow(dead_code, unused, clippy::all)]\n{DECLARED}{}", body(numbers, module, None));
        for (inner, place) in MODULES {
            let Some((around, name)) = split(inner).filter(|(around, _)| around == module) else { continue };
            if place == path {
                text += &format!("pub mod {name} {{\n{DECLARED}{}}}\n", body(numbers, inner, None));
            } else if name == "odd" {
                text += "#[path = \"../oddly/named.rs\"]\npub mod odd;\n";
            } else {
                text += &format!("pub mod {name};\n");
            }
            let _ = around;
        }
        project.write(path, &text);
    }
    project.write("tours/src/lib.rs", &format!("pub mod beds;\n{}", body(numbers, "", Some("moss"))));
    project.write("tours/src/beds.rs", &body(numbers, "beds", Some("moss")));
    project
}

/// The module around a module, and its own name; nothing for the root.
fn split(module: &str) -> Option<(&str, &str)> {
    (!module.is_empty()).then(|| module.rsplit_once("::").unwrap_or(("", module)))
}

/// Imports and items of `module`, of the crate or of another one that calls it `outside`.
fn body(numbers: &mut Numbers, module: &str, outside: Option<&str>) -> String {
    let mut text = String::from("pub fn super_tour() -> i32 { 1 }\n");
    let mut known: Vec<(String, String)> = Vec::new();
    for at in 0..3 {
        let (from, name) = (numbers.of(MODULES).0, numbers.of(NAMES));
        let (path, own) = (path(numbers, module, from, outside), format!("{name}_{at}"));
        let line = match numbers.next() % 6 {
            0 => format!("use {path}{name} as {own};"),
            1 => format!("use {path}{{{name} as {own}, Row as Also_{at}}};"),
            2 => format!("use {path}{{self as shown_{at}, {name} as {own}}};"),
            3 if path.ends_with("::") => {
                format!("use {}  as via_{at}; use via_{at}::{name} as {own};", &path[..path.len() - 2])
            }
            4 => format!("pub(crate) use {path}{name} as {own};"),
            _ => format!("use {path}{{Beds as Also_{at}, {{{name} as {own}}}}};"),
        };
        // A path that ends with a word of the language cannot be called by another name, and the judge does not follow
        // modules that lie elsewhere.
        let last = path.trim_end_matches("::").rsplit("::").next().unwrap_or_default();
        let is_plain = matches!(last, "" | "crate" | "self" | "super" | "moss") || from == "tour::odd";
        let line = if is_plain { format!("use {path}{name} as {own};") } else { line };
        text += &format!("{line}\n");
        known.push(((*name).to_owned(), own));
    }
    for at in 0..6 {
        let mut form = *numbers.of(FORMS);
        let mut filled = String::new();
        while let Some((before, rest)) = form.split_once('§') {
            let name = NAMES.iter().find(|name| rest.starts_with(**name)).copied().unwrap_or_default();
            let brought: Vec<&String> =
                known.iter().filter(|(of, _)| of == name).map(|(_, own)| own).collect();
            filled += before;
            if !brought.is_empty() && numbers.one_in(2) {
                filled += brought[numbers.next() % brought.len()];
            } else {
                let (from, _) = numbers.of(MODULES);
                filled += &path(numbers, module, from, outside);
                filled += name;
            }
            form = &rest[name.len()..];
        }
        text += &(filled + form).replace('N', &at.to_string());
        text.push('\n');
    }
    text
}

/// A path from `module` to `to`, with `::` at its end.
fn path(numbers: &mut Numbers, module: &str, to: &str, outside: Option<&str>) -> String {
    let below = |rest: &str| if rest.is_empty() { String::new() } else { format!("{rest}::") };
    if let Some(outside) = outside {
        return format!("{}{outside}::{}", numbers.of(&["", "::"]), below(to));
    }
    let whole = format!("crate::{}", below(to));
    let mut around = module;
    let mut up = if numbers.one_in(2) { "self::".to_owned() } else { String::new() };
    if numbers.one_in(2) {
        return whole;
    }
    loop {
        let rest = if around.is_empty() { Some(to) } else { to.strip_prefix(around) };
        if let Some(rest) = rest.filter(|rest| around.is_empty() || rest.is_empty() || rest.starts_with("::"))
        {
            let path = format!("{up}{}", below(rest.trim_start_matches("::")));
            return if path.is_empty() { "self::".to_owned() } else { path };
        }
        let Some((next, _)) = split(around) else { return whole };
        (around, up) = (next, format!("{up}super::"));
    }
}
