//! Graphs that are known before they are read: projects are made of classes, of ways to use one and of text that only
//! looks like it, in any mixture, and what the program finds must be what was written. Each way is one that the language's
//! own compiler takes for a use; each look-alike one that it does not.

#![allow(clippy::unwrap_used, clippy::expect_used, dead_code, reason = "a test may fail loudly")]

mod common;

use common::{Project, for_many};
use proptest::collection::vec;
use proptest::prelude::*;
use std::collections::BTreeSet;

/// Files of one project.
const FILES: usize = 5;

/// How one language writes a file, a use and what looks like one. In all texts `OWN` stands for the file's own class,
/// `BED` for the used one, `QUALIFIED` for that with its package where it needs one, `PART` and `FROM` for the packages that
/// they lie in, and `NUMBER` for a number that is new.
struct Tongue {
    /// Where the file `OWN` lies.
    path: &'static str,
    /// The file, with `BODY` where uses go.
    file: &'static str,
    uses: &'static [&'static str],
    look_alikes: &'static [&'static str],
}

const CSHARP: Tongue = Tongue {
    path: "PART/OWN.cs",
    file: "using System; using System.Collections.Generic; using Moss.P0; using Moss.P1;\nnamespace Moss.PART {\n  public class OWN : Attribute {\n    public static int Make() { return 1; }\nBODY  }\n}\n",
    uses: &[
        "BED fNUMBER;",
        "BED[] fNUMBER;",
        "List<BED> fNUMBER = new List<BED>();",
        "Dictionary<string, List<BED[]>> fNUMBER;",
        "(BED bed, int wide) fNUMBER;",
        "Moss.FROM.BED fNUMBER;",
        "global::Moss.FROM.BED fNUMBER;",
        "FROM.BED fNUMBER;",
        "BED PNUMBER { get; set; }",
        "event Action<BED> ENUMBER;",
        "delegate BED DNUMBER(int wide);",
        "class NNUMBER : BED { }",
        "[BED] int fNUMBER;",
        "[Obsolete(nameof(BED))] int fNUMBER;",
        "BED mNUMBER() => null;",
        "void mNUMBER(BED bed) { }",
        "void mNUMBER(params BED[] beds) { }",
        "void mNUMBER<T>() where T : BED { }",
        "void mNUMBER() { BED bed = null; }",
        "void mNUMBER() { BED.Make(); }",
        "object mNUMBER() => new BED();",
        "object mNUMBER() => new BED[3];",
        "object mNUMBER() => typeof(BED);",
        "object mNUMBER() => nameof(BED);",
        "object mNUMBER() => default(BED);",
        "bool mNUMBER(object o) => o is BED;",
        "object mNUMBER(object o) => o as BED;",
        "object mNUMBER(object o) => (BED)o;",
        "object mNUMBER(object o) => (o as List<BED>)?[0];",
        "int mNUMBER(object o) => o switch { BED _ => 1, _ => 2 };",
        "int mNUMBER(object o) { switch (o) { case BED bed: return 1; default: return 2; } }",
        "string mNUMBER() => $\"{BED.Make()} {\"}\"}\";",
        "string mNUMBER() => $@\"\n{typeof(BED)} \"\" \";",
        "void mNUMBER() { foreach (BED bed in new object[0]) { } }",
        "void mNUMBER() { var all = new List<object> { new BED() }; }",
        "void mNUMBER() { Action<object> act = o => { BED bed = (BED)o; }; }",
        "void mNUMBER() { int Inner(BED bed) => 1; }",
        "int mNUMBER(int wide) => wide < 3 ? BED.Make() : wide;",
        "#if WET\n BED fNUMBER;\n#else\n int fNUMBER;\n#endif",
    ],
    look_alikes: &[
        "// BED bed;",
        "/* BED bed; */",
        "/// <summary>Not a BED.</summary>\n int fNUMBER;",
        "string fNUMBER = \"BED\";",
        "string fNUMBER = @\"BED \"\" BED.Make()\";",
        "string fNUMBER = \"\"\"BED \" BED.Make() \"\"\";",
        "string fNUMBER = $\"BED {1} {{BED}}\";",
        "const char fNUMBER = '\"'; // BED",
        "class QNUMBER { int BED; int m() => this.BED; }",
        "class QNUMBER { int BED() => 1; }",
        "enum QNUMBER { BED }",
        "void mNUMBER(int BED) { }",
        "class QNUMBER<BED> { BED held; List<BED> all; }",
        "BED2 mNUMBER;",
        "#region BED\n#endregion",
    ],
};

const JAVA: Tongue = Tongue {
    path: "moss/PART/OWN.java",
    file: "package moss.PART;\nimport java.util.*;\nimport moss.p0.*;\nimport moss.p1.*;\npublic class OWN {\n  public static int make() { return 1; }\nBODY}\n",
    uses: &[
        "BED fNUMBER;",
        "BED[] fNUMBER;",
        "List<? extends BED> fNUMBER;",
        "Map<String, List<BED[]>> fNUMBER = new HashMap<>();",
        "moss.FROM.BED fNUMBER;",
        "BED mNUMBER() { return null; }",
        "void mNUMBER(final BED bed) { }",
        "void mNUMBER(BED... beds) { }",
        "<T extends BED> void mNUMBER(T bed) { }",
        "void mNUMBER() { BED bed = null; }",
        "void mNUMBER() { BED.make(); }",
        "Object mNUMBER() { return new BED(); }",
        "Object mNUMBER() { return new BED() { }; }",
        "Object mNUMBER() { return new BED[3]; }",
        "Object mNUMBER() { return BED.class; }",
        "boolean mNUMBER(Object o) { return o instanceof BED; }",
        "boolean mNUMBER(Object o) { return o instanceof BED bed && bed != null; }",
        "Object mNUMBER(Object o) { return (BED) o; }",
        "Object mNUMBER(Object o) { return (List<BED>) o; }",
        "int mNUMBER(Object o) { return switch (o) { case BED bed -> 1; default -> 2; }; }",
        "java.util.function.Supplier<Object> mNUMBER() { return () -> (BED) null; }",
        "java.util.function.Supplier<Object> mNUMBER() { return BED::new; }",
        "java.util.function.IntSupplier mNUMBER() { return BED::make; }",
        "void mNUMBER() { for (BED bed : new BED[0]) { } }",
        "static class NNUMBER extends BED { }",
        "interface NNUMBER extends Comparable<BED> { }",
        "record NNUMBER(BED bed) { }",
    ],
    look_alikes: &[
        "// BED bed;",
        "/* BED bed; */",
        "/** Not a BED. */ int fNUMBER;",
        "String fNUMBER = \"BED\";",
        "String fNUMBER = \"\"\"\n  BED \" BED.make()\n  \"\"\";",
        "char fNUMBER = '\"'; // BED",
        "static class QNUMBER { int BED; int m() { return this.BED; } }",
        "static class QNUMBER { int BED() { return 1; } }",
        "enum QNUMBER { BED }",
        "static class QNUMBER<BED> { BED held; List<BED> all; }",
        "BED2 fNUMBER;",
    ],
};

const KOTLIN: Tongue = Tongue {
    path: "moss/PART/OWN.kt",
    file: "package moss.PART\nimport moss.p0.*\nimport moss.p1.*\nopen class OWN {\n  companion object { fun make() = 1 }\nBODY}\n",
    uses: &[
        "val fNUMBER: BED? = null",
        "lateinit var fNUMBER: BED",
        "val fNUMBER = BED()",
        "val fNUMBER: Map<String, List<BED>> = mapOf()",
        "val fNUMBER: (BED) -> Int = { 1 }",
        "val fNUMBER get() = BED.make()",
        "val fNUMBER by lazy { BED() }",
        "val fNUMBER: moss.FROM.BED? = null",
        "fun mNUMBER(): BED? = null",
        "fun mNUMBER(bed: BED) {}",
        "fun mNUMBER(vararg beds: BED) {}",
        "fun <T : BED> mNUMBER(bed: T) {}",
        "fun BED.mNUMBER() = 1",
        "fun mNUMBER() { val bed: BED? = null }",
        "fun mNUMBER() = BED.make()",
        "fun mNUMBER() = BED::class",
        "fun mNUMBER() = ::BED",
        "fun mNUMBER(o: Any) = o is BED",
        "fun mNUMBER(o: Any) = o as? BED",
        "fun mNUMBER(o: Any) = when (o) { is BED -> 1 else -> 2 }",
        "fun mNUMBER() = \"${BED.make()} }\"",
        "fun mNUMBER() = listOf<BED>()",
        "fun mNUMBER() = object : BED() {}",
        "class NNUMBER : BED()",
        "class NNUMBER(val bed: BED)",
        "data class NNUMBER(val beds: List<BED?>)",
    ],
    look_alikes: &[
        "// BED()",
        "/* BED() /* BED() */ BED() */",
        "/** Not a BED. */ val fNUMBER = 1",
        "val fNUMBER = \"BED\"",
        "val fNUMBER = \"\"\"BED \" BED.make()\"\"\"",
        "val fNUMBER = '\"' // BED",
        "class QNUMBER<BED> { var held: BED? = null }",
        "enum class QNUMBER { BED }",
        "class QNUMBER { val BED = 1; val all = this.BED }",
    ],
};

const PHP: Tongue = Tongue {
    path: "PART/OWN.php",
    file: "<?php\nnamespace Moss\\PART;\nclass OWN {\n  public static function make() { return 1; }\nBODY}\n",
    uses: &[
        "private ?\\Moss\\FROM\\BED $fNUMBER;",
        "private \\Moss\\FROM\\BED|int $fNUMBER;",
        "function mNUMBER(\\Moss\\FROM\\BED $bed) {}",
        "function mNUMBER(): \\Moss\\FROM\\BED { }",
        "function mNUMBER() { return new \\Moss\\FROM\\BED(); }",
        "function mNUMBER() { return new \\Moss\\FROM\\BED; }",
        "function mNUMBER($o) { return $o instanceof \\Moss\\FROM\\BED; }",
        "function mNUMBER() { return \\Moss\\FROM\\BED::class; }",
        "function mNUMBER() { return \\Moss\\FROM\\BED::make(); }",
        "function mNUMBER() { try { } catch (\\Moss\\FROM\\BED $bed) { } }",
        "function mNUMBER() { return fn (\\Moss\\FROM\\BED $bed) => 1; }",
        "function mNUMBER() { return function () use (&$a): \\Moss\\FROM\\BED { }; }",
        "function mNUMBER() { return new class extends \\Moss\\FROM\\BED { }; }",
        "#[\\Moss\\FROM\\BED] private $fNUMBER;",
        "function mNUMBER() { return match (true) { default => \\Moss\\FROM\\BED::make() }; }",
        "function mNUMBER() { ?> <p> <?= \\Moss\\FROM\\BED::make() ?> </p> <?php }",
    ],
    look_alikes: &[
        "// new \\Moss\\FROM\\BED()",
        "# new \\Moss\\FROM\\BED()",
        "/* \\Moss\\FROM\\BED::make() */",
        "private $fNUMBER = 'new BED()';",
        "private $fNUMBER = \"BED::make()\";",
        "function mNUMBER() { return <<<TEXT\n  new BED() { BED }\n  TEXT; }",
        "function mNUMBER() { return <<<'TEXT'\n  BED::make()\n  TEXT; }",
        "function mNUMBER() { ?> new BED() <?php }",
        "const BED = 1;",
        "function mNUMBER() { return $this->BED; }",
        "function mNUMBER() { return ['BED' => 1]; }",
    ],
};

const TYPESCRIPT: Tongue = Tongue {
    path: "src/PART/OWN.ts",
    file: "export class OWN {}\nexport default OWN;\nBODY",
    uses: &[
        "import { BED as iNUMBER } from \"../FROM/BED\";",
        "import type { BED as iNUMBER } from '../FROM/BED';",
        "import iNUMBER, { type BED as jNUMBER } from \"../FROM/BED.js\";",
        "import * as iNUMBER from \"../FROM/BED\";",
        "import iNUMBER = require(\"../FROM/BED\");",
        "import \"../FROM/BED\";",
        "export { BED as eNUMBER } from \"../FROM/BED\";",
        "export * as eNUMBER from \"../FROM/BED\";",
        "const cNUMBER = () => import(\"../FROM/BED\");",
        "const cNUMBER = require(`../FROM/BED`);",
        "type tNUMBER = import(\"../FROM/BED\").BED;",
        "let tNUMBER: typeof import(\"../FROM/BED\");",
        "const cNUMBER = `${require(\"../FROM/BED\")} ${\"}\"}`;",
    ],
    look_alikes: &[
        "// import \"../FROM/BED\";",
        "/* import \"../FROM/BED\"; */",
        "const sNUMBER = \"import '../FROM/BED'\";",
        "const sNUMBER = `import \"../FROM/BED\";`;",
        "const sNUMBER = /import \"..\\/FROM\\/BED\"/;",
        "const sNUMBER = { import: 1 }.import + 4 / 2;",
        "const sNUMBER = `${1}\nimport \"../FROM/BED\"\n`;",
        "const oNUMBER = { require(_: string) {} }; oNUMBER.require(\"../FROM/BED2\");",
    ],
};

const PYTHON: Tongue = Tongue {
    path: "moss/PART/OWN.py",
    file: "\"\"\"from moss.FROM import OWN2\"\"\"\nclass OWN:\n    pass\nBODY",
    uses: &[
        "import moss.FROM.BED",
        "import os, moss.FROM.BED as mNUMBER",
        "from moss.FROM.BED import BED",
        "from moss.FROM import BED",
        "from ..FROM import BED as mNUMBER",
        "from ..FROM.BED import (\n    BED,  # a bed\n)",
        "from moss.FROM.BED import *",
        "def fNUMBER():\n    from moss.FROM.BED import BED\n    return BED",
        "try:\n    import moss.FROM.BED\nexcept ImportError:\n    pass",
        "if True: import moss.FROM.BED",
        "from moss.FROM \\\n    import BED",
    ],
    look_alikes: &[
        "# import moss.FROM.BED",
        "sNUMBER = 'import moss.FROM.BED'",
        "sNUMBER = \"\"\"\nimport moss.FROM.BED\n\"\"\"",
        "sNUMBER = r'''\nfrom moss.FROM import BED\n'''",
        "sNUMBER = f\"from moss.FROM import BED {1}\"",
        "def gNUMBER():\n    \"\"\"from moss.FROM import BED\"\"\"",
    ],
};

const RUST: Tongue = Tongue {
    path: "src/PART/OWN.rs",
    file: "pub struct OWN;\nimpl OWN {\n    pub fn make() -> u8 { 1 }\n}\nBODY",
    uses: &[
        "fn mNUMBER(_: crate::PART_OF_BED::BED) {}",
        "fn mNUMBER() -> u8 { crate::PART_OF_BED::BED::make() }",
        "fn mNUMBER() { use crate::PART_OF_BED::BED; BED::make(); }",
        "fn mNUMBER() { use crate::PART_OF_BED::{BED as Other}; Other::make(); }",
        "fn mNUMBER(_: &[Option<super::super::PART_OF_BED::BED>]) {}",
        "mod nNUMBER { use crate::PART_OF_BED::*; fn bed(_: BED) {} }",
        "struct NNUMBER { bed: Box<crate::PART_OF_BED::BED> }",
        "impl From<crate::PART_OF_BED::BED> for [u8; NUMBER] { fn from(_: crate::PART_OF_BED::BED) -> Self { loop {} } }",
        "macro_rules! mNUMBER { () => { $crate::PART_OF_BED::BED::make() } }",
    ],
    look_alikes: &[
        "// crate::PART_OF_BED::BED",
        "/* /* crate::PART_OF_BED::BED */ crate::PART_OF_BED::BED */",
        "const SNUMBER: &str = \"crate::PART_OF_BED::BED\";",
        "const SNUMBER: &str = r#\"crate::PART_OF_BED::BED \" \"#;",
        "fn qNUMBER<'a>(x: &'a u8) -> &'a u8 { x } // crate::PART_OF_BED::BED",
        "mod qNUMBER { pub struct BED; fn m(_: BED) {} }",
    ],
};

const GO: Tongue = Tongue {
    path: "PART/OWN.go",
    file: "package PART\n\nIMPORTS\ntype OWN struct{ Wide int }\n\nfunc MakeOWN() int { return 1 }\n\nBODY",
    uses: &[
        "var fNUMBER QUALIFIED",
        "var fNUMBER = &QUALIFIED{Wide: 1}",
        "var fNUMBER []map[string]*QUALIFIED",
        "func mNUMBER(bed QUALIFIED) {}",
        "func mNUMBER(beds ...QUALIFIED) {}",
        "func mNUMBER() (a, b *QUALIFIED, err error) { return }",
        "func mNUMBER(o any) bool { _, ok := o.(QUALIFIED); return ok }",
        "func mNUMBER(o any) { switch o.(type) { case *QUALIFIED: } }",
        "type tNUMBER struct { QUALIFIED }",
        "type tNUMBER = QUALIFIED",
        "func mNUMBER[T QUALIFIED | int](t T) {}",
        "var fNUMBER = make(chan QUALIFIED, 3)",
        "var fNUMBER = func(bed QUALIFIED) int { return bed.Wide }",
    ],
    look_alikes: &[
        "// QUALIFIED",
        "/* QUALIFIED */",
        "var sNUMBER = \"QUALIFIED\"",
        "var sNUMBER = `QUALIFIED \" \\`",
        "var sNUMBER = '\"' // QUALIFIED",
        "type qNUMBER struct { BED int }",
        "func qNUMBER(BED int) int { return BED }",
    ],
};

const CPP: Tongue = Tongue {
    path: "PART/OWN.h",
    file: "#pragma once\nstruct OWN {};\nBODY",
    uses: &[
        "#include \"../FROM/BED.h\"",
        "  #  include  \"../FROM/BED.h\"  // a bed",
        "#ifdef WET\n#include \"../FROM/BED.h\"\n#else\nint fNUMBER;\n#endif",
        "#include /* a bed */ \"../FROM/BED.h\"",
        "#/**/include\"../FROM/BED.h\"",
        "/* one */ #include \"../FROM/BED.h\"",
        "#include \\\n\"../FROM/BED.h\"",
    ],
    look_alikes: &[
        "// #include \"../FROM/BED.h\"",
        "/*\n#include \"../FROM/BED.h\"\n*/",
        "const char *sNUMBER = R\"(\n#include \"../FROM/BED.h\"\n)\";",
        "const char *sNUMBER = \"\\\n#include <../FROM/BED.h>\";",
        "#define include_NUMBER(x) #x",
        "BED *pNUMBER;",
    ],
};

const R: Tongue = Tongue {
    path: "PART/OWN.R",
    file: "OWN <- function(x) x + 1\nBODY",
    uses: &[
        "source(\"FROM/BED.R\")",
        "source('FROM/BED.R', local = TRUE)",
        "if (TRUE) base::source(file = \"FROM/BED.R\")",
        "fNUMBER <- function() {\n  source(\n    \"FROM/BED.R\"\n  )\n}",
    ],
    look_alikes: &[
        "# source(\"FROM/BED.R\")",
        "sNUMBER <- \"source('FROM/BED.R')\"",
        "sNUMBER <- r\"(source('FROM/BED.R') \")\"",
        "`source \"FROM/BED.R\"` <- 1",
        "xNUMBER$source(\"FROM/BED.R\")",
    ],
};

/// One use or look-alike: which file it stands in, of which, and how it is written.
#[derive(Clone, Debug)]
struct Written {
    user: usize,
    used: usize,
    is_use: bool,
    how: usize,
}

fn written() -> impl Strategy<Value = Vec<Written>> {
    let one = (0..FILES, 0..FILES, any::<bool>(), any::<prop::sample::Index>());
    let one =
        one.prop_map(|(user, used, is_use, how)| Written { user, used, is_use, how: how.index(1_000_000) });
    vec(one.prop_filter("a file may name itself as it likes", |one| one.user != one.used), 1..16)
}

fn name(file: usize) -> String {
    format!("Kind{}", ["Aster", "Briar", "Clover", "Daisy", "Elder"][file])
}

fn part(file: usize) -> String {
    format!("p{}", file % 2)
}

impl Tongue {
    /// Fills the words of `text` that stand in the file `user` for what it uses of the file `used`.
    fn filled(&self, text: &str, user: usize, used: usize, number: usize) -> String {
        // Rust's files are modules of their parts, C#'s parts begin with a capital letter.
        let spelled = |part: String| if self.path.ends_with(".cs") { part.to_uppercase() } else { part };
        let qualified = if part(user) == part(used) { "BED" } else { "FROM.BED" };
        text.replace("QUALIFIED", qualified)
            .replace("PART_OF_BED", &format!("{}::{}", part(used), name(used)))
            .replace("BED", &name(used))
            .replace("FROM", &spelled(part(used)))
            .replace("PART", &spelled(part(user)))
            .replace("OWN", &name(user))
            .replace("NUMBER", &number.to_string())
    }

    fn project(&self, all: &[Written]) -> Project {
        let project = Project::new(&[]);
        for file in 0..FILES {
            let mut body = String::new();
            for (number, one) in all.iter().enumerate().filter(|(_, one)| one.user == file) {
                let ways = if one.is_use { self.uses } else { self.look_alikes };
                body.push_str(&self.filled(ways[one.how % ways.len()], file, one.used, number));
                body.push('\n');
            }
            // Go takes no import that nothing uses.
            let other = all.iter().find(|one| one.is_use && one.user == file && part(one.used) != part(file));
            let import = other.map(|one| format!("import \"moss/{}\"\n", part(one.used))).unwrap_or_default();
            let text = self.filled(self.file, file, file, 0);
            let text = text.replace("IMPORTS", &import).replace("BODY", &body);
            project.write(&self.filled(self.path, file, file, 0), &text);
        }
        project
    }

    /// Holds what the program finds against what was written, for many projects.
    fn judge(&self, beside: &[(&str, &str)]) {
        for_many((60, 26), &written(), |all| {
            let project = self.project(&all);
            beside.iter().for_each(|(path, text)| project.write(path, text));
            let path = |file: usize| self.filled(self.path, file, file, 0);
            let uses = all.iter().filter(|one| one.is_use);
            let expected: BTreeSet<String> =
                uses.map(|one| format!("{},{}", path(one.user), path(one.used))).collect();
            let answer = project.run(&["export", "--level", "file"]);
            let kinds = |line: &&str| line.matches("Kind").count() == 2;
            let found = answer.out.lines().skip(1).filter(kinds);
            let found: BTreeSet<String> =
                found.filter_map(|line| Some(line.rsplit_once(',')?.0.to_owned())).collect();
            let texts = (0..FILES).map(|file| project.read(&path(file))).collect::<Vec<String>>();
            prop_assert_eq!(found, expected, "{}", texts.join("\n----\n"));
            Ok(())
        });
    }
}

#[test]
fn of_csharp() {
    CSHARP.judge(&[]);
}

#[test]
fn of_java() {
    JAVA.judge(&[]);
}

#[test]
fn of_kotlin() {
    KOTLIN.judge(&[]);
}

#[test]
fn of_php() {
    PHP.judge(&[]);
}

#[test]
fn of_typescript() {
    TYPESCRIPT.judge(&[]);
}

#[test]
fn of_python() {
    PYTHON.judge(&[("moss/__init__.py", ""), ("moss/p0/__init__.py", ""), ("moss/p1/__init__.py", "")]);
}

#[test]
fn of_go() {
    GO.judge(&[("go.mod", "module moss\n\ngo 1.21\n")]);
}

#[test]
fn of_cpp() {
    CPP.judge(&[]);
}

#[test]
fn of_r() {
    R.judge(&[]);
}

#[test]
fn of_rust() {
    let names = |parity: usize| (0..FILES).filter(move |file| file % 2 == parity).map(name);
    let modules = |parity: usize| names(parity).map(|name| format!("pub mod {name};\n")).collect::<String>();
    RUST.judge(&[
        ("Cargo.toml", "[package]\nname = \"moss\"\nversion = \"1.0.0\"\nedition = \"2021\"\n"),
        ("src/lib.rs", "pub mod p0;\npub mod p1;\n"),
        ("src/p0/mod.rs", &modules(0)),
        ("src/p1/mod.rs", &modules(1)),
    ]);
}
