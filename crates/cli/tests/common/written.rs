//! Writes solutions of three projects whose types name each other in any of the ways that C# has.

use super::Project;
use proptest::prelude::*;
use std::fmt::Write as _;

/// Each project refers to the one before it; to all before it where it lists its files.
pub const PROJECTS: [&str; 3] = ["Core", "Beds", "Tours"];
/// Where a type lies in its project.
pub const FOLDERS: [&str; 3] = ["", "Rows", "Plans/Deep"];

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Sort {
    Class,
    Extending,
    Enum,
    Interface,
    Generic,
    Attribute,
    Delegate,
    /// A class that derives from the first class that it uses, and names what it inherits.
    Derived,
    /// A class in two files.
    Spread,
}

const SORTS: [Sort; 9] = [
    Sort::Class,
    Sort::Extending,
    Sort::Enum,
    Sort::Interface,
    Sort::Generic,
    Sort::Attribute,
    Sort::Delegate,
    Sort::Derived,
    Sort::Spread,
];

/// How a use spells the name.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Form {
    Simple,
    UsingInside,
    Full,
    Global,
    Alias,
    /// The last parts of the namespace, as far as the project's own reaches.
    Partial,
    /// The members by their names alone.
    Static,
    Typeof,
    /// Only a comment names it, in full.
    Comment,
    /// Only a comment names it, by an import.
    CommentImport,
}

const FORMS: [Form; 10] = [
    Form::Simple,
    Form::UsingInside,
    Form::Full,
    Form::Global,
    Form::Alias,
    Form::Partial,
    Form::Static,
    Form::Typeof,
    Form::Comment,
    Form::CommentImport,
];

/// One type, and what it uses of those before it.
#[derive(Clone, Debug)]
pub struct Type {
    project: usize,
    folder: usize,
    pub sort: Sort,
    internal: bool,
    /// It lies in the file of the type before it, where both are of one namespace.
    shares: bool,
    uses: Vec<(usize, Form)>,
}

impl Type {
    pub fn namespace(&self) -> String {
        let folder = FOLDERS[self.folder].replace('/', ".");
        let dot = if folder.is_empty() { "" } else { "." };
        format!("{}{dot}{folder}", PROJECTS[self.project])
    }

    pub fn folder(&self) -> String {
        let slash = if FOLDERS[self.folder].is_empty() { "" } else { "/" };
        format!("{}{slash}{}", PROJECTS[self.project], FOLDERS[self.folder])
    }
}

/// What is written.
#[derive(Clone, Debug)]
pub struct Solution {
    pub types: Vec<Type>,
    /// For each project, whether it lists its files.
    lists: [bool; 3],
    /// The second project may use what is internal in the first.
    friends: bool,
    /// Namespaces are written one inside of the other.
    nests: bool,
}

/// Solutions of a few types each.
pub fn solutions() -> impl Strategy<Value = Solution> {
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
    let types = prop::collection::vec(one, 3..9);
    let lists = prop::array::uniform3(prop::bool::weighted(0.3));
    let all = (types, lists, prop::bool::weighted(0.3), prop::bool::weighted(0.3));
    all.prop_map(|(types, lists, friends, nests)| Solution { types, lists, friends, nests })
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

    fn text(&self, namespace: &str, nests: bool) -> String {
        let lines = |lines: &[String], indent: &str| {
            lines.iter().fold(String::new(), |text, line| format!("{text}{indent}{line}\n"))
        };
        let (usings, inside) = (lines(&self.usings, ""), lines(&self.inside, "    "));
        let names: Vec<&str> = if nests { namespace.split('.').collect() } else { vec![namespace] };
        let opened = names.iter().fold(String::new(), |text, name| format!("{text}namespace {name}\n{{\n"));
        format!("{usings}{opened}{inside}{}{}", self.types, "}\n".repeat(names.len()))
    }

    /// How the name of type number `of`, which is `used`, is spelled in `user`.
    fn spelled(&mut self, user: &Type, of: usize, used: &Type, form: Form) -> String {
        let namespace = used.namespace();
        let full = format!("{namespace}.T{of}");
        match form {
            Form::Full | Form::Comment => full,
            Form::Global => format!("global::{full}"),
            Form::Alias if used.sort != Sort::Generic => {
                let class = if used.sort == Sort::Attribute { "Attribute" } else { "" };
                self.using(format!("using A{of} = {full}{class};"), false);
                format!("A{of}")
            }
            Form::Partial if user.project == used.project && used.folder > 0 => {
                full[PROJECTS[used.project].len() + 1..].to_owned()
            }
            _ => {
                self.using(format!("using {namespace};"), form == Form::UsingInside);
                format!("T{of}")
            }
        }
    }

    /// A member that uses type number `of`, which is `used`, in type number `by`; `made` stands before its type.
    fn member(&mut self, by: usize, user: &Type, of: usize, used: &Type, form: Form, made: &str) -> String {
        if form == Form::Static && used.sort == Sort::Extending {
            self.using(format!("using static {}.T{of};", used.namespace()), false);
            return format!("{made}int U{by}_{of}() => Twice{of}(2);");
        }
        let spelled = self.spelled(user, of, used, form);
        let class = if used.sort == Sort::Attribute && form != Form::Alias { "Attribute" } else { "" };
        match (form, used.sort) {
            (Form::Comment | Form::CommentImport, _) => {
                let given = if used.sort == Sort::Generic { "{T}" } else { "" };
                return format!(
                    "/// <see cref=\"{spelled}{class}{given}\"/>\n        {made}int U{by}_{of}() => 1;"
                );
            }
            (Form::Typeof, Sort::Generic) => {
                return format!("{made}object U{by}_{of}() => typeof({spelled}<>);");
            }
            (Form::Typeof, _) => return format!("{made}object U{by}_{of}() => typeof({spelled}{class});"),
            _ => {}
        }
        let rest = match used.sort {
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
            Sort::Attribute => {
                return format!("[{spelled}] {made}int U{by}_{of}() => nameof(U{by}_{of}).Length;");
            }
            Sort::Delegate => {
                format!("int U{by}_{of}() {{ {spelled} twice = x => 2 * x; return twice(3); }}")
            }
            Sort::Derived => format!("int U{by}_{of}() => new {spelled}().Own{of};"),
            Sort::Spread => format!("int U{by}_{of}() => new {spelled}().Value + new {spelled}().Rest;"),
        };
        format!("{made}{rest}")
    }
}

/// What stands in the braces of a type, and before them.
fn declaration(at: usize, sort: Sort) -> (String, String) {
    let class = |body: &str| (format!("class T{at}"), body.to_owned());
    match sort {
        Sort::Class => class(
            "public int Value = 1; public static int Count = 2; public class Inner { public int Depth; }",
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
        Sort::Delegate => (format!("delegate int T{at}(int x);"), String::new()),
        Sort::Derived => class(&format!("public int Own{at} = 1;")),
        Sort::Spread => (format!("partial class T{at}"), "public int Value = 1;".to_owned()),
    }
}

impl Solution {
    fn sees(&self, user: &Type, used: &Type) -> bool {
        let is_friend = self.friends && (used.project, user.project) == (0, 1);
        used.project == user.project || used.project < user.project && (!used.internal || is_friend)
    }

    /// Adds type number `at` to `file`, and the part of it that stands in another file to `rest`.
    fn declare(&self, at: usize, file: &mut File, rest: &mut File) {
        let own = &self.types[at];
        let access = if own.internal { "internal" } else { "public" };
        let (mut head, mut body) = declaration(at, own.sort);
        if own.sort == Sort::Delegate {
            writeln!(file.types, "    // type {at}\n    {access} {head}").unwrap();
            return;
        }
        let used = own.uses.iter().map(|(of, form)| (of % at.max(1), *form));
        let used = used.filter(|(of, _)| at > 0 && self.sees(own, &self.types[*of]));
        let used: Vec<(usize, Form)> = used.collect();
        let is_base = |of: usize| {
            let other = &self.types[of];
            other.sort == Sort::Class && (own.internal && other.project == own.project || !other.internal)
        };
        if let Some((of, form)) = used.iter().find(|(of, _)| own.sort == Sort::Derived && is_base(*of)) {
            let base = file.spelled(own, *of, &self.types[*of], *form);
            head = format!("{head} : {base}");
            body = format!("public int Own{at} => Value + Count + new Inner().Depth;");
        }
        let has_code = !matches!(own.sort, Sort::Enum | Sort::Interface);
        let in_rest = own.sort == Sort::Spread;
        let (mut members, mut seen) = (String::new(), Vec::new());
        for (of, form) in used.into_iter().filter(|_| has_code) {
            if !seen.contains(&of) {
                seen.push(of);
                let made = if own.sort == Sort::Extending { "static " } else { "" };
                let place = if in_rest { &mut *rest } else { &mut *file };
                let member = place.member(at, own, of, &self.types[of], form, made);
                writeln!(members, "        {member}").unwrap();
            }
        }
        if in_rest {
            let body = format!("        public int Rest = 2;\n{members}");
            write!(rest.types, "    {access} {head}\n    {{\n{body}    }}\n").unwrap();
            members.clear();
        }
        let body = format!("        {body}\n{members}");
        write!(file.types, "    // type {at}\n    {access} {head}\n    {{\n{body}    }}\n").unwrap();
    }

    /// The solution on disk, and for each type its file.
    pub fn write(&self) -> (Project, Vec<String>) {
        let project = Project::new(&[]);
        let mut files: Vec<String> = Vec::new();
        let mut texts: Vec<(String, String, File)> = Vec::new();
        for (at, own) in self.types.iter().enumerate() {
            let namespace = own.namespace();
            let last = texts.iter().rposition(|(path, ..)| !path.ends_with(".Rest.cs"));
            let shared = last.filter(|last| own.shares && texts[*last].1 == namespace);
            let place = shared.unwrap_or_else(|| {
                texts.push((format!("{}/T{at}.cs", own.folder()), namespace.clone(), File::default()));
                texts.len() - 1
            });
            let mut rest = File::default();
            self.declare(at, &mut texts[place].2, &mut rest);
            files.push(texts[place].0.clone());
            if !rest.types.is_empty() {
                texts.push((format!("{}/T{at}.Rest.cs", own.folder()), namespace, rest));
            }
        }
        for (path, namespace, file) in &texts {
            project.write(path, &file.text(namespace, self.nests));
        }
        let paths: Vec<&str> = texts.iter().map(|(path, ..)| path.as_str()).collect();
        (0..PROJECTS.len()).for_each(|at| self.write_project(at, &project, &paths));
        (project, files)
    }

    fn write_project(&self, at: usize, project: &Project, files: &[&str]) {
        let name = PROJECTS[at];
        // Through a project of the old style, and from one, nothing is reached but what it refers to itself.
        let nearest = at.saturating_sub(1);
        let nearest = if self.lists[at] || self.lists[nearest] { 0 } else { nearest };
        let reference = PROJECTS[nearest..at].iter().rev().fold(String::new(), |text, before| {
            format!("{text}    <ProjectReference Include=\"..\\{before}\\{before}.csproj\" />\n")
        });
        let mark = format!("{name}Mark.cs");
        let own = files.iter().filter_map(|path| path.strip_prefix(name)?.strip_prefix('/'));
        let listed = own.chain([mark.as_str()]).fold(String::new(), |text, path| {
            format!("{text}    <Compile Include=\"{}\" />\n", path.replace('/', "\\"))
        });
        let (sdk, listed) = match self.lists[at] {
            true => (" ToolsVersion=\"15.0\"", listed.as_str()),
            false => (" Sdk=\"Microsoft.NET.Sdk\"", ""),
        };
        let properties =
            format!("<AssemblyName>{name}</AssemblyName>\n    <RootNamespace>{name}</RootNamespace>");
        project.write(
            &format!("{name}/{name}.csproj"),
            &format!(
                "<Project{sdk}>\n  <PropertyGroup>\n    {properties}\n  </PropertyGroup>\n  <ItemGroup>\n{listed}{reference}  </ItemGroup>\n</Project>\n"
            ),
        );
        let friend = match (self.friends, at) {
            (true, 0) => "[assembly: System.Runtime.CompilerServices.InternalsVisibleTo(\"Beds\")]\n",
            _ => "",
        };
        let text = format!("{friend}namespace {name}\n{{\n    public class {name}Mark {{ }}\n}}\n");
        project.write(&format!("{name}/{mark}"), &text);
    }
}
