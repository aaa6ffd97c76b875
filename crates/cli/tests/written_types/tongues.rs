//! Java, Kotlin and C#.

use super::common::Project;
use super::common::numbers::Numbers;
use super::program::{self, Class, Member, Program, Tongue, Type, Writer};

const JAVA: Tongue = Tongue {
    number: "int",
    any: "Object",
    made: "new OF()",
    made_list: "new ArrayList<OF>()",
    made_array: "(new OF[1])",
    made_map: "new HashMap<String, OF>()",
    cast: "((OF) (Object) VALUE)",
    chosen: "(hashCode() > 1 ? LEFT : RIGHT)",
    first: "LIST.get(0)",
    first_of_array: "LIST[0]",
    one_of_map: "LIST.get(\"a\")",
    given_back: "Pot.same(VALUE)",
    typed: "OF NAME = VALUE;\n",
    untyped: "var NAME = VALUE;\n",
    each: "for (var NAME : LIST) {\nINSIDE}\n",
    each_by_function: "LIST.forEach(NAME -> {\nINSIDE});\n",
    functions: &[
        "Pot.Take<OF> FUNCTION = NAME -> {\nINSIDE};\n",
        "Object FUNCTION = (Pot.Take<OF>) NAME -> {\nINSIDE};\n",
        "Object FUNCTION = (Pot.Take<OF>) (NAME) -> {\nINSIDE};\n",
    ],
    handed: "Pot.each(VALUE, NAME -> {\nINSIDE});\n",
    object: "Object NAME = new Object() {\nvoid go() {\nINSIDE}\n};\n",
    this_around: "CLASS.this",
    where_is: "if (VALUE instanceof OF NAME) {\nINSIDE}\n",
    blocks: &[
        "{\nINSIDE}\n",
        "try {\nINSIDE} catch (RuntimeException NAME) {\n} finally { }\n",
        "try {\n} catch (RuntimeException NAME) {\nINSIDE}\n",
        "switch (hashCode()) {\ncase 1:\nINSIDEbreak;\ndefault:\n}\n",
        "Runnable NAME = () -> {\nINSIDE};\n",
        "do {\nINSIDE} while (hashCode() > 1);\n",
        "for (int NAME = 0; NAME < 2; NAME++) {\nINSIDE}\n",
        "synchronized (this) {\nINSIDE}\n",
    ],
    array: "OF[]",
    map: "Map<String, OF>",
    method: "  void NAME(LIST) ",
    parameter: "OF NAME",
    hides: true,
    knows_by_itself: false,
};

const KOTLIN: Tongue = Tongue {
    number: "Int",
    any: "Any",
    made: "OF()",
    made_list: "listOf<OF>()",
    made_array: "arrayOf<OF>()",
    made_map: "mapOf<String, OF>()",
    cast: "(VALUE as Any as OF)",
    chosen: "(if (hashCode() > 1) LEFT else RIGHT)",
    first: "LIST.first()",
    first_of_array: "LIST[0]",
    one_of_map: "LIST[\"a\"]!!",
    given_back: "same(VALUE)",
    typed: "val NAME: OF = VALUE\n",
    untyped: "val NAME = VALUE\n",
    each: "for (NAME in LIST) {\nINSIDE}\n",
    each_by_function: "LIST.forEach { NAME ->\nINSIDE}\n",
    functions: &["val FUNCTION: (OF) -> Unit = { NAME ->\nINSIDE}\n"],
    handed: "each(VALUE) { NAME ->\nINSIDE}\n",
    object: "val NAME = object {\nfun go() {\nINSIDE}\n}\n",
    this_around: "this@CLASS",
    where_is: "if (VALUE is OF) {\nINSIDE}\n",
    blocks: &[
        "run {\nINSIDE}\n",
        "try {\nINSIDE} catch (NAME: RuntimeException) {\n} finally { }\n",
        "try {\n} catch (NAME: RuntimeException) {\nINSIDE}\n",
        "when (hashCode()) {\n1 -> {\nINSIDE}\nelse -> { }\n}\n",
        "val NAME = {\nINSIDE}\n",
        // A declaration is no value, as the last of a function must be; a member of its name may take something else.
        "fun NAME_inside() {\nINSIDE}\nhashCode()\n",
        "do {\nINSIDE} while (hashCode() > 1)\n",
        "for (NAME in 0..2) {\nINSIDE}\n",
    ],
    array: "Array<OF>",
    map: "Map<String, OF>",
    method: "  fun NAME(LIST) ",
    parameter: "NAME: OF",
    hides: true,
    knows_by_itself: true,
};

const CSHARP: Tongue = Tongue {
    any: "object",
    made_list: "new List<OF>()",
    made_map: "new Dictionary<string, OF>()",
    one_of_map: "LIST[\"a\"]",
    map: "Dictionary<string, OF>",
    cast: "((OF)(object)VALUE)",
    chosen: "(Environment.TickCount > 1 ? LEFT : RIGHT)",
    first: "LIST[0]",
    each: "foreach (var NAME in LIST) {\nINSIDE}\n",
    each_by_function: "LIST.ForEach(NAME => {\nINSIDE});\n",
    functions: &["Action<OF> FUNCTION = NAME => {\nINSIDE};\n"],
    handed: "Pot.each(VALUE, NAME => {\nINSIDE});\n",
    object: "",
    where_is: "if (VALUE is OF NAME) {\nINSIDE}\n",
    blocks: &[
        "{\nINSIDE}\n",
        "try {\nINSIDE} catch (Exception NAME) {\n} finally { }\n",
        "try {\n} catch (Exception NAME) {\nINSIDE}\n",
        "switch (Environment.TickCount) {\ncase 1:\nINSIDEbreak;\ndefault: break;\n}\n",
        "Action NAME = () => {\nINSIDE};\n",
        "Action NAME = delegate {\nINSIDE};\n",
        "do {\nINSIDE} while (Environment.TickCount > 1);\n",
        "for (int NAME = 0; NAME < 2; NAME++) {\nINSIDE}\n",
        "lock (this) {\nINSIDE}\n",
        "checked {\nINSIDE}\n",
    ],
    hides: false,
    ..JAVA
};

const JAVA_POT: &str = "package moss.kept;
import java.util.*;
public class Pot<T> {
  public interface Take<U> { void take(U it); }
  public T kept;
  public Map<String, T> named;
  public T take() { return kept; }
  public List<T> all() { return null; }
  public static <U> U same(U it) { return it; }
  public static <U> void each(U it, Take<U> act) { }
}
";

const KOTLIN_POT: &str = "package moss.kept
open class Pot<T> {
  val kept: T get() = TODO()
  val named: Map<String, T> get() = TODO()
  fun take(): T = TODO()
  fun all(): List<T> = TODO()
}
fun <U> same(it: U): U = it
fun <U> each(it: U, act: (U) -> Unit) { }
";

const CSHARP_POT: &str = "namespace Moss.kept {
  public class Pot<T> {
    public T kept;
    public T take() { return kept; }
  }
  public static class Pot {
    public static U same<U>(U it) { return it; }
    public static void each<U>(U it, System.Action<U> act) { }
  }
}
";

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
        variables.iter().map(|(own, of)| (own.clone(), tongue.named(of, name))).collect();
    let head = tongue.method(&format!("go{at}"), &shown);
    let mut writer =
        Writer { program, tongue, numbers, class: at, name, variables, made: 0, this: "this".to_owned() };
    format!("{head}{{\n{}}}\n", writer.statements(4, 2))
}

pub fn java(numbers: &mut Numbers) -> Project {
    let project = Project::new(&[]);
    let program = Program::written(numbers, true);
    project.write("moss/kept/Pot.java", JAVA_POT);
    let tray = "package moss.kept;\npublic class Tray<V> extends Pot<V> {\n  public V top;\n  public V above() { return top; }\n}\n";
    project.write("moss/kept/Tray.java", tray);
    let shelf = "package moss.kept;\npublic class Shelf<V> extends java.util.ArrayList<V> {\n}\n";
    project.write("moss/kept/Shelf.java", shelf);
    for (at, class) in program.classes.iter().enumerate() {
        let simple = meant(numbers, &program, at);
        let name = |of: &Type| name_of(&program, at, &simple, "moss", true, of);
        let member = |member: &Member| declared(member, "  ", &JAVA, &name);
        let mut text =
            format!("package moss.{};\nimport java.util.*;\nimport moss.kept.*;\n", PACKAGES[class.package]);
        for other in
            simple.iter().map(|other| &program.classes[*other]).filter(|o| o.package != class.package)
        {
            text += &format!("import moss.{}.{};\n", PACKAGES[other.package], other.name);
        }
        for (other, member) in class.taken_by_name() {
            let Class { package, name, .. } = program.classes[*other];
            text += &format!("import static moss.{}.{name}.{};\n", PACKAGES[package], member.name);
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
fn declared(member: &Member, indent: &str, tongue: &Tongue, name: &dyn Fn(&Type) -> String) -> String {
    let (word, of) = (if member.is_static { "static " } else { "" }, tongue.named(&member.of, name));
    match &member.parameters {
        None => format!("{indent}public {word}{of} {};\n", member.name),
        Some(parameters) => {
            let listed = listed(parameters, |of, at| format!("{} p{at}", tongue.named(of, name)));
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
    project.write("moss/kept/Pot.kt", KOTLIN_POT);
    project.write("moss/kept/Shelf.kt", "package moss.kept\nclass Shelf<V> : ArrayList<V>()\n");
    let tray = "package moss.kept\nclass Tray<V> : Pot<V>() {\n  val top: V get() = TODO()\n  fun above(): V = TODO()\n}\n";
    project.write("moss/kept/Tray.kt", tray);
    for (at, class) in program.classes.iter().enumerate() {
        let simple = meant(numbers, &program, at);
        let name = |of: &Type| name_of(&program, at, &simple, "moss", false, of);
        let named = |of: &Type| KOTLIN.named(of, &name);
        let member = |member: &Member| match &member.parameters {
            None => format!("  val {}: {} get() = TODO()\n", member.name, named(&member.of)),
            Some(parameters) => {
                let listed = listed(parameters, |of, at| format!("p{at}: {}", named(of)));
                format!("  fun {}({listed}): {} = TODO()\n", member.name, named(&member.of))
            }
        };
        let mut text = format!("package moss.{}\nimport moss.kept.*\n", PACKAGES[class.package]);
        for other in
            simple.iter().map(|other| &program.classes[*other]).filter(|o| o.package != class.package)
        {
            text += &format!("import moss.{}.{}\n", PACKAGES[other.package], other.name);
        }
        for (other, member) in class.taken_by_name() {
            let Class { package, name, .. } = program.classes[*other];
            text += &format!("import moss.{}.{name}.Companion.{}\n", PACKAGES[package], member.name);
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
    project.write("kept/Pot.cs", CSHARP_POT);
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
        let member = |member: &Member| declared(member, "    ", &CSHARP, &name);
        let Class { package, name: own, .. } = program.classes[aliased];
        let mut text = format!(
            "using System;\nusing System.Collections.Generic;\nusing Moss.kept;\nusing Other = Moss.{}.{own};\n\nnamespace Moss.{} {{\n",
            PACKAGES[package], PACKAGES[class.package]
        );
        if let Some((other, _)) = class.taken.first() {
            let Class { package, name, .. } = program.classes[*other];
            text = format!("using static Moss.{}.{name};\n{text}", PACKAGES[package]);
        }
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
