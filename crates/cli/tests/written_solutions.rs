//! Solutions that nobody wrote by hand: three projects whose types name each other in any of the ways that C# has, and
//! moves of files, folders and single types between them. Each move is refused with nothing changed, or the solution
//! builds as before; undo brings back the same bytes.

#![allow(clippy::unwrap_used, clippy::expect_used, dead_code, reason = "a test may fail loudly")]

mod common;

use common::solution::build;
use common::{Project, for_many};
use proptest::prelude::*;
use std::fmt::Write as _;

/// Each project refers to the one before it.
const PROJECTS: [&str; 3] = ["Core", "Beds", "Tours"];
/// Where a type lies in its project.
const FOLDERS: [&str; 3] = ["", "Rows", "Plans/Deep"];

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Sort {
    Class,
    Extending,
    Enum,
    Interface,
    Generic,
    Attribute,
}

const SORTS: [Sort; 6] =
    [Sort::Class, Sort::Extending, Sort::Enum, Sort::Interface, Sort::Generic, Sort::Attribute];

/// How a use spells the name.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Form {
    Simple,
    UsingInside,
    Full,
    Global,
    Alias,
    /// The last parts of the namespace, as far as the project's own reaches.
    Partial,
    /// The members by their names alone.
    Static,
}

const FORMS: [Form; 7] =
    [Form::Simple, Form::UsingInside, Form::Full, Form::Global, Form::Alias, Form::Partial, Form::Static];

/// One type, and what it uses of those before it.
#[derive(Clone, Debug)]
struct Type {
    project: usize,
    folder: usize,
    sort: Sort,
    internal: bool,
    /// It lies in the file of the type before it, where both are of one namespace.
    shares: bool,
    uses: Vec<(usize, Form)>,
}

impl Type {
    fn namespace(&self) -> String {
        let folder = FOLDERS[self.folder].replace('/', ".");
        let dot = if folder.is_empty() { "" } else { "." };
        format!("{}{dot}{folder}", PROJECTS[self.project])
    }

    fn folder(&self) -> String {
        let slash = if FOLDERS[self.folder].is_empty() { "" } else { "/" };
        format!("{}{slash}{}", PROJECTS[self.project], FOLDERS[self.folder])
    }
}

/// What is moved, and where to.
#[derive(Clone, Debug)]
enum Moved {
    File(usize),
    Name(usize),
    Folder(usize),
}

fn types() -> impl Strategy<Value = Vec<Type>> {
    let used = (0usize..100, 0usize..FORMS.len()).prop_map(|(of, form)| (of, FORMS[form]));
    let one = (
        0..PROJECTS.len(),
        0..FOLDERS.len(),
        0..SORTS.len(),
        prop::bool::weighted(0.3),
        prop::bool::weighted(0.3),
        prop::collection::vec(used, 0..4),
    );
    let one = one.prop_map(|(project, folder, sort, internal, shares, uses)| Type {
        project,
        folder,
        sort: SORTS[sort],
        internal,
        shares,
        uses,
    });
    prop::collection::vec(one, 3..9)
}

fn moves() -> impl Strategy<Value = Vec<(Moved, usize, usize)>> {
    let what = prop_oneof![
        (0usize..100).prop_map(Moved::File),
        (0usize..100).prop_map(Moved::Name),
        (0usize..100).prop_map(Moved::Folder),
    ];
    prop::collection::vec((what, 0..PROJECTS.len(), 0usize..4), 1..3)
}

/// The name of type number `at` as a use in code says it.
fn name(at: usize) -> String {
    format!("T{at}")
}

/// A file being written: what it imports, and its types.
#[derive(Default)]
struct File {
    usings: Vec<String>,
    inside: Vec<String>,
    types: String,
}

impl File {
    fn using(&mut self, line: String, inside: bool) {
        let lines = if inside { &mut self.inside } else { &mut self.usings };
        if !lines.contains(&line) {
            lines.push(line);
        }
    }

    fn text(&self, namespace: &str) -> String {
        let lines = |lines: &[String], indent: &str| {
            lines.iter().fold(String::new(), |text, line| format!("{text}{indent}{line}\n"))
        };
        let (usings, inside) = (lines(&self.usings, ""), lines(&self.inside, "    "));
        format!("{usings}namespace {namespace}\n{{\n{inside}{}}}\n", self.types)
    }

    /// A member that uses type number `of`, which is `used`, in type number `by`.
    fn member(&mut self, by: usize, user: &Type, of: usize, used: &Type, form: Form) -> String {
        let (namespace, name) = (used.namespace(), name(of));
        let full = format!("{namespace}.{name}");
        let is_attribute = used.sort == Sort::Attribute;
        let spelled = match form {
            Form::Full => full.clone(),
            Form::Global => format!("global::{full}"),
            Form::Alias if used.sort != Sort::Generic => {
                let class = if is_attribute { "Attribute" } else { "" };
                self.using(format!("using A{of} = {full}{class};"), false);
                format!("A{of}")
            }
            Form::Partial if user.project == used.project && used.folder > 0 => {
                full[PROJECTS[used.project].len() + 1..].to_owned()
            }
            Form::Static if used.sort == Sort::Extending => {
                self.using(format!("using static {full};"), false);
                return format!("int U{by}_{of}() => Twice{of}(2);");
            }
            _ => {
                self.using(format!("using {namespace};"), form == Form::UsingInside);
                name
            }
        };
        match used.sort {
            Sort::Class => format!(
                "int U{by}_{of}() => new {spelled}().Value + {spelled}.Count + new {spelled}.Inner().Depth;"
            ),
            Sort::Extending if matches!(form, Form::Simple | Form::UsingInside) => {
                format!("int U{by}_{of}() => 3.Raised{of}();")
            }
            Sort::Extending => format!("int U{by}_{of}() => {spelled}.Twice{of}(3);"),
            Sort::Enum => format!("object U{by}_{of}() => {spelled}.Wet;"),
            Sort::Interface => format!("int U{by}_{of}({spelled} thing) => thing.Go();"),
            Sort::Generic => format!("int U{by}_{of}() => new {spelled}<int>().Item;"),
            Sort::Attribute => format!("[{spelled}] int U{by}_{of}() => nameof(U{by}_{of}).Length;"),
        }
    }

    fn declare(&mut self, at: usize, types: &[Type]) {
        let own = &types[at];
        let access = if own.internal { "internal" } else { "public" };
        let (head, body) = match own.sort {
            Sort::Class => (
                format!("class T{at}"),
                "public int Value = 1; public static int Count = 2; public class Inner { public int Depth; }"
                    .to_owned(),
            ),
            Sort::Extending => (
                format!("static class T{at}"),
                format!(
                    "public static int Raised{at}(this int x) => x; public static int Twice{at}(int x) => x;"
                ),
            ),
            Sort::Enum => (format!("enum T{at}"), "Dry, Wet".to_owned()),
            Sort::Interface => (format!("interface T{at}"), "int Go();".to_owned()),
            Sort::Generic => (format!("class T{at}<T>"), "public T Item;".to_owned()),
            Sort::Attribute => {
                (format!("class T{at}Attribute : System.Attribute"), "public int Level;".to_owned())
            }
        };
        let mut members = String::new();
        let mut seen = Vec::new();
        for (of, form) in &own.uses {
            let before = at.max(1);
            let of = of % before;
            let used = &types[of];
            let is_seen = used.project == own.project || used.project < own.project && !used.internal;
            let has_code = !matches!(own.sort, Sort::Enum | Sort::Interface);
            if at == 0 || !is_seen || !has_code || seen.contains(&of) {
                continue;
            }
            seen.push(of);
            let made = if own.sort == Sort::Extending { "static " } else { "" };
            let member = self.member(at, own, of, used, *form);
            let member = match member.strip_prefix('[').and_then(|rest| rest.split_once("] ")) {
                Some((attribute, rest)) => format!("[{attribute}] {made}{rest}"),
                None => format!("{made}{member}"),
            };
            writeln!(members, "        {member}").unwrap();
        }
        write!(
            self.types,
            "    // type {at}\n    {access} {head}\n    {{\n        {body}\n{members}    }}\n"
        )
        .unwrap();
    }
}

/// The solution, and for each type its file.
fn written(types: &[Type]) -> (Project, Vec<String>) {
    let project = Project::new(&[]);
    for (at, name) in PROJECTS.iter().enumerate() {
        let reference = at.checked_sub(1).map_or(String::new(), |before| {
            let before = PROJECTS[before];
            format!("  <ItemGroup>\n    <ProjectReference Include=\"..\\{before}\\{before}.csproj\" />\n  </ItemGroup>\n")
        });
        project.write(
            &format!("{name}/{name}.csproj"),
            &format!(
                "<Project Sdk=\"Microsoft.NET.Sdk\">\n  <PropertyGroup>\n    <AssemblyName>{name}</AssemblyName>\n  </PropertyGroup>\n{reference}</Project>\n"
            ),
        );
        project.write(
            &format!("{name}/{name}Mark.cs"),
            &format!("namespace {name}\n{{\n    public class {name}Mark {{ }}\n}}\n"),
        );
    }
    let mut files: Vec<String> = Vec::new();
    let mut texts: Vec<(String, String, File)> = Vec::new();
    for (at, own) in types.iter().enumerate() {
        let namespace = own.namespace();
        let shares = own.shares && texts.last().is_some_and(|(_, before, _)| *before == namespace);
        if !shares {
            texts.push((format!("{}/T{at}.cs", own.folder()), namespace, File::default()));
        }
        let (path, _, file) = texts.last_mut().unwrap();
        file.declare(at, types);
        files.push(path.clone());
    }
    for (path, namespace, file) in &texts {
        project.write(path, &file.text(namespace));
    }
    (project, files)
}

/// The arguments of one move.
fn call(moved: &(Moved, usize, usize), types: &[Type], files: &[String]) -> Vec<String> {
    let (what, project, folder) = moved;
    let place = match FOLDERS.get(*folder) {
        Some(&"") => format!("{}/", PROJECTS[*project]),
        Some(folder) => format!("{}/{folder}/", PROJECTS[*project]),
        None => format!("{}/Made/", PROJECTS[*project]),
    };
    let of = |at: &usize| at % types.len();
    let what = match what {
        Moved::File(at) => files[of(at)].clone(),
        Moved::Folder(at) => types[of(at)].folder(),
        Moved::Name(at) => {
            let class = if types[of(at)].sort == Sort::Attribute { "Attribute" } else { "" };
            format!("name:{}.T{}{class}", types[of(at)].namespace(), of(at))
        }
    };
    vec!["move".to_owned(), "--apply".to_owned(), "--widen".to_owned(), what, place]
}

#[test]
#[cfg_attr(not(has_mcs), ignore = "the C# compiler mcs is not installed")]
fn moves_between_written_projects_build_and_are_taken_back() {
    // More of them, and others, where one goes looking: `FERNGATE_CASES=200 FERNGATE_SEED=5`.
    let asked = |name: &str| std::env::var(name).ok().and_then(|text| text.parse::<u32>().ok());
    let (cases, seed) = (asked("FERNGATE_CASES").unwrap_or(6), asked("FERNGATE_SEED").unwrap_or(71));
    for_many((cases, u64::from(seed)), &(types(), moves()), |(types, moves)| {
        let (project, files) = written(&types);
        if let Err(errors) = build(project.root()) {
            panic!("what was written does not build: {errors}");
        }
        let before = project.snapshot();
        for moved in &moves {
            let call = call(moved, &types, &files);
            let call: Vec<&str> = call.iter().map(String::as_str).collect();
            let answer = project.run(&call);
            if answer.status != 0 {
                prop_assert!([1, 2].contains(&answer.status), "{call:?}: {}", answer.all());
                prop_assert_eq!(project.snapshot(), before.clone(), "{:?}: {}", call, answer.all());
                continue;
            }
            let built = build(project.root());
            prop_assert!(built.is_ok(), "{call:?}: {}\n{}", built.unwrap_err(), answer.all());
            prop_assert_eq!(project.run(&["undo"]).status, 0);
            prop_assert_eq!(project.snapshot(), before.clone(), "{:?} was not taken back", call);
        }
        Ok(())
    });
}
