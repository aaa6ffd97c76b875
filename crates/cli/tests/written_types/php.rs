//! PHP: namespaces that all declare the same few classes, functions and constants, used under every form of name.

use super::common::Project;
use super::common::numbers::Numbers;

/// Namespaces; the first is the outermost one.
const SPACES: &[&str] = &["", "Moss", "Moss\\Bed", "Moss\\Bed\\Rose", "Garden", "Garden\\Tour"];
const CLASSES: &[&str] = &["Bed", "Rose", "Tour"];
const FUNCTIONS: &[&str] = &["bed", "rose", "strlen"];
const CONSTANTS: &[&str] = &["WIDE", "TOUR"];

/// Inside of a class; `§` stands before a class, `¤` before a function, `¢` before a constant, `N` for a number.
const MEMBERS: &[&str] = &[
    "public §Bed $pN;",
    "protected ?§Rose $pN = null;",
    "private static §Bed|int|null $pN;",
    "const CN = §Tour::class;",
    "const CN = ¢WIDE + 1;",
    "public function mN(§Bed $bed, §Rose ...$roses): ?§Tour { return null; }",
    "public function mN(int $wide = ¢TOUR, $bed = [§Rose::LED => ¢WIDE]) {}",
    "public function mN() { return new §Bed; }",
    "public function mN() { return new §Rose(¤bed(1)); }",
    "public function mN($o) { return $o instanceof §Tour; }",
    "public function mN() { try { ¤rose(); } catch (§Bed | §Rose $e) {} }",
    "public function mN() { return §Bed::make()->rose()->Tour; }",
    "public function mN() { return §Tour::$led . §Tour::LED; }",
    "public function mN() { return fn(§Bed $bed): §Rose => ¤rose($bed); }",
    "public function mN() { return function (§Tour $tour) use (&$wide): §Bed { return $tour; }; }",
    "public function mN() { return new class extends §Bed { }; }",
    "public function mN($bed) { return match (true) { $bed instanceof §Rose => ¢WIDE, default => ¤bed() }; }",
    "public function mN() { return \"{$this->mN(§Bed::LED)} Rose\"; }",
    "public function mN() { return <<<ROSE\n  Bed {$this->mN(¢TOUR)}\n  ROSE; }",
    "public function mN() { return array_map([§Bed::class, 'make'], [¤strlen('Bed')]); }",
    "public function mN() { ?> <b>Bed</b> <?= ¢WIDE ?> <?php }",
    "#[§Rose(¢WIDE)] public function mN() {}",
    "public function mN() { return static::class . self::class . parent::class; }",
    "public function mN() { goto Bed; Bed: return ¢TOUR; }",
    "public function mN() { static $bed = ¢WIDE; global $rose; return isset($bed) ? §Bed::LED : ¤bed(); }",
];
const LOOK_ALIKES: &[&str] = &[
    "public $Bed; public function rose() { return $this->Bed->Rose; }",
    "public function mN() { return ['Bed' => 1, 'rose' => $this->rose(), 'Tour' => $this->Tour]; }",
    "public function mN() { return 'new Bed(Rose::LED)'; /* new Rose */ // Tour::make()\n }",
    "public function mN() { return <<<'BED'\n  {$this->Rose(Bed::LED)}\n  BED; }",
    "public function Tour() { return $this->Tour(rose: 1, Bed: 2); }",
    "public function mN() { return $bed::Rose + $bed->rose(); }",
];

pub fn write(numbers: &mut Numbers) -> Project {
    let project = Project::new(&[]);
    for space in SPACES {
        for (at, class) in CLASSES.iter().enumerate() {
            project.write(&format!("src/{at}{}.php", space.replace('\\', "_")), &text(numbers, space, class));
        }
        let at = space.replace('\\', "_");
        let head = if space.is_empty() { String::new() } else { format!("namespace {space};\n") };
        // The outermost ones are fallen back to where a namespace has none.
        let some = |numbers: &mut Numbers| space.is_empty() || numbers.one_in(2);
        let functions: String = FUNCTIONS[..2]
            .iter()
            .filter(|_| some(numbers))
            .map(|name| format!("function {name}() {{}}\n"))
            .collect();
        project.write(&format!("src/functions{at}.php"), &format!("<?php\n{head}{functions}"));
        let constants: String =
            CONSTANTS.iter().filter(|_| some(numbers)).map(|name| format!("const {name} = 1;\n")).collect();
        project.write(&format!("src/constants{at}.php"), &format!("<?php\n{head}{constants}"));
    }
    project
}

/// A file that declares `own` in `space`, and uses others.
fn text(numbers: &mut Numbers, space: &str, own: &str) -> String {
    let mut imports = String::new();
    let mut known: Vec<(char, &str, String)> = Vec::new();
    let mut taken = vec![own.to_owned()];
    for at in 0..3 {
        let (sign, word, names) = *numbers.of(&[
            ('§', "", CLASSES),
            ('§', "", CLASSES),
            ('¤', "function ", FUNCTIONS),
            ('¢', "const ", CONSTANTS),
        ]);
        let (from, name) = (*numbers.of(&SPACES[1..]), *numbers.of(names));
        let own = if taken.iter().any(|taken| taken == name) || numbers.one_in(2) {
            format!("{name}{at}x")
        } else {
            name.to_owned()
        };
        let renamed = if own == name { String::new() } else { format!(" as {own}") };
        imports += &match numbers.next() % 4 {
            0 => format!("use {word}\\{from}\\{name}{renamed};\n"),
            1 => format!("use {word}{from}\\{{{name}{renamed}}};\n"),
            2 if sign == '§' => format!(
                "use {from}\\{{{name}{renamed}, Other{at} as Never{at}, function bed as called{at}}};\n"
            ),
            _ => format!("use {word}{from}\\{name}{renamed};\n"),
        };
        taken.push(own.clone());
        known.push((sign, name, own));
    }
    // A namespace that is brought stands before the names in it.
    let part = *numbers.of(&SPACES[1..]);
    imports += &format!("use {part} as Part;\n");
    let mut body = String::new();
    for at in 0..5 {
        let form = if numbers.one_in(5) { *numbers.of(LOOK_ALIKES) } else { *numbers.of(MEMBERS) };
        body += &format!("    {}\n", fill(numbers, form, space, &known).replace('N', &at.to_string()));
    }
    let base = numbers.one_in(3).then(|| format!(" extends {}", fill(numbers, "§Bed", space, &known)));
    let base = base.unwrap_or_else(|| fill(numbers, " implements §Tour, §Rose", space, &known));
    let class = format!("class {own}{base}\n{{\n{body}}}\n");
    match (space, numbers.next() % 3) {
        ("", 0) => format!("<?php\nnamespace {{\n{imports}{class}}}\n"),
        ("", _) => format!("<?php\n\n{imports}\n{class}"),
        (space, 0) => format!("<?php\ndeclare(strict_types=1);\nnamespace {space} {{\n{imports}{class}}}\n"),
        (space, _) => format!("<?php\n/** Of a Bed. */\nnamespace {space};\n\n{imports}\n{class}"),
    }
}

/// Replaces each name behind a sign by one that is spelled in one of the ways that there are.
fn fill(numbers: &mut Numbers, form: &str, space: &str, known: &[(char, &str, String)]) -> String {
    let mut filled = String::new();
    let mut rest = form;
    while let Some(at) = rest.find(['§', '¤', '¢']) {
        let sign = rest[at..].chars().next().unwrap_or_default();
        filled += &rest[..at];
        rest = &rest[at + sign.len_utf8()..];
        let end = rest.find(|c: char| !c.is_ascii_alphanumeric()).unwrap_or(rest.len());
        let name = &rest[..end];
        rest = &rest[end..];
        let brought: Vec<&String> =
            known.iter().filter(|(of, own, _)| *of == sign && *own == name).map(|(.., own)| own).collect();
        let below: Vec<&str> = SPACES[1..]
            .iter()
            .filter_map(|other| {
                if space.is_empty() { Some(*other) } else { other.strip_prefix(space)?.strip_prefix('\\') }
            })
            .collect();
        filled += &match numbers.next() % 6 {
            0 | 1 if !brought.is_empty() => (*numbers.of(&brought)).clone(),
            0 | 2 => format!("\\{}\\{name}", numbers.of(&SPACES[1..])),
            3 => format!("namespace\\{name}"),
            4 if !below.is_empty() => format!("{}\\{name}", numbers.of(&below)),
            5 => format!("Part\\{name}"),
            _ => name.to_owned(),
        };
    }
    filled + rest
}
