//! Go: packages that all declare the same few names, used by each other and under local names that hide them.

use super::STEMS;
use super::common::Project;
use super::common::numbers::Numbers;

/// What each package declares, with `SELF` for the package's own name; each in any of its files.
const DECLARED: &[(&str, &str)] = &[
    ("Bed", "type Bed struct {\n\tTour int\n\tBeds []int\n\tRow map[string]int\n}"),
    ("Rose", "func Rose(tour ...int) *Bed { return nil }"),
    ("Tour", "const Tour = 3"),
    ("Beds", "var Beds = []Bed{{Tour: 1}}"),
    ("Row", "type Row map[int]string"),
    ("Guide", "type Guide interface {\n\tRose(bed int) (tour int)\n}"),
    ("Pair", "type Pair[T any, Bed any] struct {\n\tleft T\n\tright Bed\n}"),
    ("Each", "func Each[T any](rose T) T { return rose }"),
];

/// Outside of functions; `Q` stands for what leads to a package's names, `N` for a number that is new.
const OUTSIDE: &[&str] = &[
    "var xN QBed",
    "var xN, yN = QRose(), QTour",
    "var xN = []*QBed{{Tour: QTour}, nil}",
    "var xN = map[string]QBed{\"Bed\": {Beds: nil}}",
    "var xN = [QTour]int{}",
    "var xN = [...]int{QTour: 1}",
    "var xN = QRow{QTour * 2: \"Rose\"}",
    "var xN = QBed{Tour: QTour}",
    "var xN = struct{ Bed QBed }{Bed: QBed{}}",
    "var xN func(Bed QBed, tour ...QRow) (Rose QGuide)",
    "var xN = func(Bed int) int { return Bed + QTour }(1)",
    "var xN <-chan QBed",
    "var _ QGuide = (*oN)(nil)\n\ntype oN struct{}\n\nfunc (bed *oN) Rose(Tour int) (rose int) { return Tour }",
    "var (\n\txN = QTour\n\tyN QBed\n)",
    "const (\n\txN = iota + QTour\n\tyN\n)",
    "type tN struct {\n\tQBed\n\tTour QRow `json:\"Rose\"`\n}",
    "type tN struct {\n\t*QBed\n\tRose, Guide func(QBed)\n}",
    "type tN interface {\n\tQGuide\n\tBed() QRow\n}",
    "type tN = QBed",
    "type tN[Bed QGuide] struct{ rose Bed }",
    "type tN func(Rose QBed) QRow",
    "type tN QPair[QBed, int]",
    "func fN[Tour QGuide](bed Tour, row []Tour) QBed { return QBed{} }",
    "func fN(Bed int) (Rose int) {\n\tRose = Bed\n\treturn\n}",
    "func fN(Tour int, bed func(rose int) int) (Rose func(Bed int), beds int) {\n\treturn nil, bed(Tour)\n}",
    "func fN(bed func(), Tour, Row int, rose *QBed) int { return Tour + Row + rose.Tour }",
    "type tN[Tour QGuide] []Tour",
    "type tN[Bed, Tour any] map[string]func(Bed) Tour",
    "type tN[Bed, Tour any] struct{ left Bed }\n\nfunc (rose *tN[Tour, Bed]) Each(beds Tour, tour Bed) QRow { var row Bed; _ = row; return nil }",
    "type rN struct{}\n\nfunc (Bed rN) Tour() QRow { return nil }",
];

/// Inside of a function.
const INSIDE: &[&str] = &[
    "var aN QBed",
    "aN := QRose()",
    "aN := QBed{Tour: 1}.Tour",
    "aN := &QBed{QTour, nil, nil}",
    "aN := QEach[QBed](QBed{})",
    "aN := QEach(QTour)",
    "var aN QPair[int, QBed]",
    "_ = QBeds[QTour:]",
    "_ = QBeds[0].Tour + QRose().Tour",
    "_ = any(nil).(QGuide)",
    "_ = any(nil).(*QBed).Beds",
    "_ = (*QBed)(nil)",
    "_ = []QBed(nil)",
    "_ = func(Tour int) QBed { _ = Tour; return QBed{} }",
    "_ = map[QGuide]int{}",
    "_ = QRow{QTour * 2: \"x\"}",
    "_ = [...]string{QTour: \"x\"}",
    "_ = struct{ Tour int }{Tour: 1}.Tour",
    "for _, Bed := range QBeds {\n\t\t_ = Bed.Tour\n\t}",
    "for Tour := 0; Tour < QTour; Tour++ {\n\t}",
    "for Rose := range QRow(nil) {\n\t\t_ = Rose\n\t}",
    "if Bed := QRose(); Bed != nil {\n\t\t_ = Bed\n\t} else {\n\t\t_ = QTour\n\t}",
    "if aN := (QBed{}); aN.Tour > QTour {\n\t}",
    "switch Tour := any(QTour).(type) {\n\tcase QBed, *QRow:\n\t\t_ = Tour\n\tcase QGuide:\n\t}",
    "switch QTour {\n\tcase 1, QTour + 1:\n\tdefault:\n\t\tBed := QRose()\n\t\t_ = Bed\n\t}",
    "select {\n\tcase Bed := <-make(chan QBed):\n\t\t_ = Bed\n\tdefault:\n\t\t_ = QTour\n\t}",
    "{\n\t\tBed, Rose := 1, 2\n\t\t_, _ = Bed, Rose\n\t}\n\t_ = QRose",
    "{\n\t\ttype Bed struct{ Row int }\n\t\t_ = Bed{Row: 1}\n\t}",
    "{\n\t\tconst Tour = 1\n\t\tvar Row [Tour]int\n\t\t_ = Row\n\t}",
    "{\n\t\trose := struct{ Bed int }{}\n\t\t_ = rose.Bed\n\t}",
    "{\n\t\ttour, bed := QRose(), 1\n\t\t_ = tour.Tour + bed\n\t}",
    "{\n\t\tvar bed, beds struct{ Rose, Tour int }\n\t\t_ = bed.Rose + beds.Tour\n\t}",
    "func(bed, rose struct{ Tour int }) { _ = bed.Tour + rose.Tour }(struct{ Tour int }{}, struct{ Tour int }{})",
    "Bed:\n\tfor {\n\t\tbreak Bed\n\t}",
    "goto Tour\nTour:\n\t_ = QTour",
    "defer QRose(QTour)",
    "go func() { _ = QBeds }()",
    "var Rose = func() int { return QTour }\n\t_ = Rose()",
    "Tour := QTour\n\t_ = Tour",
    "_ = `QBed` + \"QRose()\" // QTour",
    "_ = QTour /* QBed{} */ + 1",
    "_ = 'Q'",
];

/// The path of the module.
const MODULE: &str = "moss.example/garden";

pub fn write(numbers: &mut Numbers) -> Project {
    let project = Project::new(&[]);
    project.write("go.mod", &format!("module {MODULE}\n\ngo 1.19\n"));
    for (at, package) in STEMS.iter().enumerate() {
        let files = ["main.go", "more.go", "rest.go"];
        let mut texts = files.map(|_| String::new());
        for (_, declared) in DECLARED {
            let place = numbers.next() % files.len();
            texts[place] += &format!("{declared}\n\n");
        }
        for (file, declared) in files.iter().zip(texts) {
            let text = text(numbers, package, &STEMS[..at], &declared);
            project.write(&format!("{package}/{file}"), &text);
        }
        let test = text(numbers, package, &STEMS[..at], "");
        project.write(&format!("{package}/{package}_test.go"), &test);
        let outside = text(numbers, &format!("{package}_test"), &STEMS[..=at], "");
        project.write(&format!("{package}/outside_test.go"), &outside);
    }
    project
}

/// A file of `package` that declares what it is told to, and uses that and some of what it may import.
fn text(numbers: &mut Numbers, package: &str, known: &[&str], declared: &str) -> String {
    let is_outside = package.ends_with("_test");
    let mut imports = Vec::new();
    let (mut ways, mut uses) = (Vec::new(), Vec::new());
    for known in numbers.some(known) {
        let (line, way) = match numbers.next() % 5 {
            0 => (format!("_ \"{MODULE}/{known}\""), None),
            1 => (format!("other \"{MODULE}/{known}\""), Some("other.".to_owned())),
            _ => (format!("\"{MODULE}/{known}\""), Some(format!("{known}."))),
        };
        if !ways.contains(&way) || way.is_none() {
            imports.push(format!("\t{line}\n"));
            // An import without a use is an error.
            uses.extend(way.iter().map(|way| format!("var _ = {way}Tour\n\n")));
            ways.extend(way.map(Some));
        }
    }
    if !is_outside {
        ways.push(Some(String::new()));
    }
    let mut at = numbers.next() % 1000 * 100;
    let mut fill = |numbers: &mut Numbers, form: &str| {
        at += 1;
        let mut filled = String::new();
        let mut parts = form.replace('N', &format!("{at}"));
        while let Some(place) = parts.find('Q') {
            filled += &parts[..place];
            let is_name = parts[place + 1..].starts_with(|c: char| c.is_ascii_uppercase());
            filled += if is_name { numbers.of(&ways).as_deref().unwrap_or_default() } else { "q" };
            parts = parts[place + 1..].to_owned();
        }
        filled + &parts
    };
    let mut text =
        format!("package {package}\n\nimport (\n{})\n\n{}{declared}", imports.concat(), uses.concat());
    if ways.is_empty() {
        return text;
    }
    for _ in 0..4 {
        let form = numbers.of(OUTSIDE);
        text += &format!("{}\n\n", fill(numbers, form));
    }
    for _ in 0..2 {
        let mut body = String::new();
        for _ in 0..4 {
            let form = numbers.of(INSIDE);
            body += &format!("\t{}\n", fill(numbers, form));
        }
        text += &format!("{} {{\n{body}}}\n\n", fill(numbers, "func bodyN()"));
    }
    text
}
