//! Java, Kotlin and C#.

use super::common::Project;
use super::common::numbers::Numbers;
use super::program::{self, Class, Member, Program, Tongue, Type, Writer, named};

const JAVA: Tongue = Tongue {
    any: "Object",
    made: "new OF()",
    made_list: "new ArrayList<OF>()",
    cast: "((OF) (Object) VALUE)",
    chosen: "(hashCode() > 1 ? LEFT : RIGHT)",
    first: "LIST.get(0)",
    typed: "OF NAME = VALUE;\n",
    untyped: "var NAME = VALUE;\n",
    each: "for (var NAME : LIST) {\nINSIDE}\n",
    each_by_function: "LIST.forEach(NAME -> {\nINSIDE});\n",
    where_is: "if (VALUE instanceof OF NAME) {\nINSIDE}\n",
    method: "  void NAME(LIST) ",
    parameter: "OF NAME",
    hides: true,
    knows_by_itself: false,
};

const KOTLIN: Tongue = Tongue {
    any: "Any",
    made: "OF()",
    made_list: "listOf<OF>()",
    cast: "(VALUE as Any as OF)",
    chosen: "(if (hashCode() > 1) LEFT else RIGHT)",
    first: "LIST.first()",
    typed: "val NAME: OF = VALUE\n",
    untyped: "val NAME = VALUE\n",
    each: "for (NAME in LIST) {\nINSIDE}\n",
    each_by_function: "LIST.forEach { NAME ->\nINSIDE}\n",
    where_is: "if (VALUE is OF) {\nINSIDE}\n",
    method: "  fun NAME(LIST) ",
    parameter: "NAME: OF",
    hides: true,
    knows_by_itself: true,
};

const CSHARP: Tongue = Tongue {
    any: "object",
    made_list: "new List<OF>()",
    cast: "((OF)(object)VALUE)",
    chosen: "(Environment.TickCount > 1 ? LEFT : RIGHT)",
    first: "LIST[0]",
    each: "foreach (var NAME in LIST) {\nINSIDE}\n",
    each_by_function: "LIST.ForEach(NAME => {\nINSIDE});\n",
    where_is: "if (VALUE is OF NAME) {\nINSIDE}\n",
    hides: false,
    ..JAVA
};

/// Where a class lies, in its namespace.
const PACKAGES: [&str; program::PACKAGES] =
    ["beds", "roses", "tours", "plans", "rows", "pots", "paths", "ponds"];

/// Which package's class each simple name means in one file: its own name is its own.
fn meant(numbers: &mut Numbers, program: &Program, at: usize) -> Vec<usize> {
    let own = &program.classes[at];
    let names: Vec<&str> = program.classes.iter().map(|class| class.name).collect();
    let chosen = |name: &&str| {
        let package = if *name == own.name { own.package } else { numbers.next() % PACKAGES.len() };
        program.classes.iter().position(|class| class.name == *name && class.package == package)
    };
    let mut distinct = names.clone();
    distinct.dedup();
    distinct.iter().filter_map(chosen).collect()
}

/// How the file of class `at` names classes: those in `simple` by their names alone.
fn name_of(program: &Program, at: usize, simple: &[usize], root: &str, inherits: bool, of: &Type) -> String {
    let class = |class: usize| {
        let known = &program.classes[class];
        match simple.contains(&class) {
            true => known.name.to_owned(),
            false => format!("{root}.{}.{}", PACKAGES[known.package], known.name),
        }
    };
    match of {
        Type::Inner(owner) => {
            let nearest = program.line(at).find(|class| program.classes[*class].inner.is_some());
            if inherits && nearest == Some(*owner) {
                "Row".to_owned()
            } else {
                format!("{}.Row", class(*owner))
            }
        }
        Type::Class(of) => class(*of),
        _ => String::new(),
    }
}

/// A method with statements, of the class `at`.
fn method(
    numbers: &mut Numbers,
    (program, tongue, at): (&Program, &Tongue, usize),
    name: &dyn Fn(&Type) -> String,
) -> String {
    let given = |place: usize| match tongue.hides {
        true => ["bed", "tour"][place].to_owned(),
        false => format!("given_{place}"),
    };
    let class = |numbers: &mut Numbers| Type::Class(numbers.next() % program.classes.len());
    let variables: Vec<(String, Type)> = (0..2).map(|place| (given(place), class(numbers))).collect();
    let shown: Vec<(String, String)> =
        variables.iter().map(|(own, of)| (own.clone(), named(of, name))).collect();
    let head = tongue.method(&format!("go{at}"), &shown);
    let mut writer = Writer { program, tongue, numbers, class: at, name, variables, made: 0 };
    format!("{head}{{\n{}}}\n", writer.statements(4, 2))
}

pub fn java(numbers: &mut Numbers) -> Project {
    let project = Project::new(&[]);
    let program = Program::written(numbers, true);
    let pot = "package moss.kept;\npublic class Pot<T> {\n  public T kept;\n  public T take() { return kept; }\n}\n";
    project.write("moss/kept/Pot.java", pot);
    for (at, class) in program.classes.iter().enumerate() {
        let simple = meant(numbers, &program, at);
        let name = |of: &Type| name_of(&program, at, &simple, "moss", true, of);
        let member = |member: &Member| declared(member, "  ", &name);
        let mut text = format!(
            "package moss.{};\nimport java.util.*;\nimport moss.kept.Pot;\n",
            PACKAGES[class.package]
        );
        for other in
            simple.iter().map(|other| &program.classes[*other]).filter(|o| o.package != class.package)
        {
            text += &format!("import moss.{}.{};\n", PACKAGES[other.package], other.name);
        }
        let base = class.base.map(|base| format!(" extends {}", name(&Type::Class(base))));
        text += &format!("public class {}{} {{\n", class.name, base.unwrap_or_default());
        text += &class.members.iter().map(member).collect::<String>();
        if let Some(inner) = &class.inner {
            text += &format!(
                "  public static class Row {{\n{}  }}\n",
                inner.iter().map(member).collect::<String>()
            );
        }
        text += &method(numbers, (&program, &JAVA, at), &name);
        project.write(&format!("moss/{}/{}.java", PACKAGES[class.package], class.name), &(text + "}\n"));
    }
    project
}

/// A field or method of Java or C#.
fn declared(member: &Member, indent: &str, name: &dyn Fn(&Type) -> String) -> String {
    let (word, of) = (if member.is_static { "static " } else { "" }, named(&member.of, name));
    match &member.parameters {
        None => format!("{indent}public {word}{of} {};\n", member.name),
        Some(parameters) => {
            let listed = listed(parameters, |of, at| format!("{} p{at}", named(of, name)));
            format!("{indent}public {word}{of} {}({listed}) {{ return null; }}\n", member.name)
        }
    }
}

fn listed(parameters: &[Type], write: impl Fn(&Type, usize) -> String) -> String {
    parameters.iter().enumerate().map(|(at, of)| write(of, at)).collect::<Vec<_>>().join(", ")
}

pub fn kotlin(numbers: &mut Numbers) -> Project {
    let project = Project::new(&[]);
    let program = Program::written(numbers, true);
    let pot =
        "package moss.kept\nclass Pot<T> {\n  val kept: T get() = TODO()\n  fun take(): T = TODO()\n}\n";
    project.write("moss/kept/Pot.kt", pot);
    for (at, class) in program.classes.iter().enumerate() {
        let simple = meant(numbers, &program, at);
        let name = |of: &Type| name_of(&program, at, &simple, "moss", false, of);
        let named = |of: &Type| if *of == Type::Number { "Int".to_owned() } else { named(of, &name) };
        let member = |member: &Member| match &member.parameters {
            None => format!("  val {}: {} get() = TODO()\n", member.name, named(&member.of)),
            Some(parameters) => {
                let listed = listed(parameters, |of, at| format!("p{at}: {}", named(of)));
                format!("  fun {}({listed}): {} = TODO()\n", member.name, named(&member.of))
            }
        };
        let mut text = format!("package moss.{}\nimport moss.kept.Pot\n", PACKAGES[class.package]);
        for other in
            simple.iter().map(|other| &program.classes[*other]).filter(|o| o.package != class.package)
        {
            text += &format!("import moss.{}.{}\n", PACKAGES[other.package], other.name);
        }
        let base = class.base.map(|base| format!(" : {}()", name(&Type::Class(base))));
        text += &format!("open class {}{} {{\n", class.name, base.unwrap_or_default());
        let (shared, own): (Vec<&Member>, Vec<&Member>) = class.members.iter().partition(|m| m.is_static);
        text += &own.into_iter().map(member).collect::<String>();
        text +=
            &format!("  companion object {{\n{}  }}\n", shared.into_iter().map(member).collect::<String>());
        if let Some(inner) = &class.inner {
            text += &format!("  class Row {{\n{}  }}\n", inner.iter().map(member).collect::<String>());
        }
        text += &method(numbers, (&program, &KOTLIN, at), &name);
        project.write(&format!("moss/{}/{}.kt", PACKAGES[class.package], class.name), &(text + "}\n"));
    }
    project
}

pub fn csharp(numbers: &mut Numbers) -> Project {
    let project = Project::new(&[]);
    // What a member of a list of beds is used of is, to the assembly, a use of beds, which nothing spells.
    let program = Program::written(numbers, false);
    let pot = "namespace Moss.kept {\n  public class Pot<T> {\n    public T kept;\n    public T take() { return kept; }\n  }\n}\n";
    project.write("kept/Pot.cs", pot);
    for (at, class) in program.classes.iter().enumerate() {
        // What the own namespace declares comes before what is brought.
        let simple: Vec<usize> = program
            .classes
            .iter()
            .enumerate()
            .filter(|(_, other)| other.package == class.package)
            .map(|(at, _)| at)
            .collect();
        let aliased = numbers.next() % program.classes.len();
        let name = |of: &Type| match of {
            Type::Class(of) if *of == aliased => "Other".to_owned(),
            of => name_of(&program, at, &simple, "Moss", true, of),
        };
        let member = |member: &Member| declared(member, "    ", &name);
        let Class { package, name: own, .. } = program.classes[aliased];
        let mut text = format!(
            "using System;\nusing System.Collections.Generic;\nusing Moss.kept;\nusing Other = Moss.{}.{own};\n\nnamespace Moss.{} {{\n",
            PACKAGES[package], PACKAGES[class.package]
        );
        let base = class.base.map(|base| format!(" : {}", name(&Type::Class(base))));
        text += &format!("  public class {}{} {{\n", class.name, base.unwrap_or_default());
        text += &class.members.iter().map(member).collect::<String>();
        if let Some(inner) = &class.inner {
            text +=
                &format!("    public class Row {{\n{}    }}\n", inner.iter().map(member).collect::<String>());
        }
        text += &method(numbers, (&program, &CSHARP, at), &name);
        project.write(&format!("{}/{}.cs", PACKAGES[class.package], class.name), &(text + "  }\n}\n"));
    }
    project
}
