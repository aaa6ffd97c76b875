//! Names in code: which are local and which are those of the package.

use super::Go;
use ferngate_model::{FileFacts, Language, UseParent};

/// The uses as dotted names.
fn uses(facts: &FileFacts, text: &str) -> Vec<String> {
    let word = |at: u32| {
        let rest = &text[at as usize..];
        rest.split(|c: char| !c.is_alphanumeric() && c != '_').next().unwrap_or_default().to_owned()
    };
    let whole = |at: usize| {
        let used = &facts.uses[at];
        match used.parent.get() {
            Err(parent) => format!("{}.{}", word(facts.uses[parent as usize].first), word(used.first)),
            Ok(_) => word(used.first),
        }
    };
    let is_parent = |at: usize| facts.uses.iter().any(|used| used.parent == UseParent::node(at as u32));
    (0..facts.uses.len()).filter(|at| !is_parent(*at)).map(whole).collect()
}

#[test]
fn tells_local_names_from_those_of_the_package() {
    let text = r#"package rain // gauges
import (
	"fmt"
	tide "mossgrove.example/tides"
	_ "mossgrove.example/init"
)
var total, limit = start(), Limit
type Gauge[T any] struct {
	reading, level T
	*Base
	tide.Level
	clock func(now Time) error
}
func (g *Gauge) Read(ctx Context, tide2 ...tide.Kind) (sum Sum, err error) {
	limit, ok := g.limit(limit), true
	for i := range readings {
		limit.add(i, tide2)
	}
	if x := measure(ctx); x != nil {
		return Sum{Value: limit, Unit: Unit}, wrap(err)
	}
	m := map[Kind]string{KindRain: "`", KindSnow: fmt.Sprint(ok)}
	go func(limit int) { show(limit, m) }(3)
	return limit, limit
}
type Reader interface {
	Read(p []byte) (n int, err error)
	Closer
}
"#;
    let facts = Go.facts(text.as_bytes(), Default::default());
    let paths: Vec<&str> = facts.paths.iter().map(|path| &*path.path).collect();
    assert_eq!(paths, ["fmt", "mossgrove.example/tides", "mossgrove.example/init"]);
    let names: Vec<&str> = facts.declarations.iter().map(|found| facts.texts.text(found.name)).collect();
    assert_eq!(names, ["rain", "total", "limit", "Gauge", "Reader"]);
    let expected = [
        "start",
        "Limit",
        "any",
        "Base",
        "tide.Level",
        "Time",
        "error",
        "Gauge",
        "Context",
        "tide.Kind",
        "Sum",
        "limit",
        "true",
        "readings",
        "measure",
        "nil",
        "Unit",
        "wrap",
        "Kind",
        "string",
        "KindRain",
        "KindSnow",
        "fmt.Sprint",
        "int",
        "show",
        "byte",
        "Closer",
    ];
    assert_eq!(uses(&facts, text), expected);
}
