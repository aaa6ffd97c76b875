//! Rules as sentences: `glasshouse may use catalogue only from Start/*.cs because …`.

use super::MapError;
use ferngate_model::Span;

/// The verb of a sentence.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Verb {
    /// `A may use B`
    May,
    /// `A must not use B`
    MustNot,
    /// `only A may use B`
    Only,
}

/// Modules or packages, as a sentence names them.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Selector {
    /// A module's name, with `*` for any text.
    Module(String),
    /// `layer:NAME`: all modules on the layer that holds the module.
    Layer(String),
    /// `kind:NAME`
    Kind(String),
    /// `owner:NAME`
    Owner(String),
    /// `package:GLOB`
    Package(String),
    /// `tests`: test code wherever it lies.
    Tests,
    /// `tests of NAME`
    TestsOf(String),
    /// `rest`: code in no module.
    Rest,
    /// `every module`
    Every,
}

/// What a sentence is about.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Objects {
    /// These.
    List(Vec<Selector>),
    /// Everything.
    Anything,
    /// Not a thing.
    Nothing,
    /// The subjects themselves, among each other.
    EachOther,
}

/// One sentence.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Rule {
    /// Its verb.
    pub verb: Verb,
    /// Who.
    pub subjects: Vec<Selector>,
    /// What.
    pub objects: Objects,
    /// The files from which alone it is granted.
    pub only_from: Vec<String>,
    /// Why.
    pub because: Option<String>,
    /// The sentence as written.
    pub text: String,
    /// Where it stands in the map.
    pub span: Span,
}

impl Rule {
    /// Reads a sentence. `span` is where it stands in the map, for messages.
    pub fn parse(text: &str, span: Span) -> Result<Self, MapError> {
        let (body, because) = match find_word(text, "because") {
            Some(at) => (&text[..at], Some(text[at + "because".len()..].trim().to_owned())),
            None => (text, None),
        };
        let wrong = |what: &str| {
            MapError::new(span, format!("this rule {what}: \"{text}\"")).hint(
                "a rule reads `A may use B`, `A must not use B` or `only A may use B`; several are separated by commas",
            )
        };
        let (subjects, verb, rest) = if let Some(at) = find_words(body, &["must", "not", "use"]) {
            (&body[..at.0], Verb::MustNot, &body[at.1..])
        } else if let Some(at) = find_words(body, &["may", "use"]) {
            match body[..at.0].trim_start().strip_prefix("only ") {
                Some(subjects) => (subjects, Verb::Only, &body[at.1..]),
                None => (&body[..at.0], Verb::May, &body[at.1..]),
            }
        } else {
            return Err(wrong("has no verb"));
        };
        let (objects, only_from) = match find_words(rest, &["only", "from"]) {
            Some(at) if verb == Verb::May => (&rest[..at.0], list(&rest[at.1..])),
            Some(_) => return Err(wrong("can say `only from` after `may use` alone")),
            None => (rest, Vec::new()),
        };
        let selectors = |names: &str, missing: &str| {
            let mut found = Vec::new();
            for name in list(names) {
                found.push(selector(&name).ok_or_else(|| match name.split_once(':') {
                    Some((sort, _)) => MapError::new(span, format!("`{sort}:` chooses nothing, in \"{text}\""))
                        .hint("modules are chosen by their names, by `layer:`, `kind:` or `owner:`, packages by `package:`"),
                    None => wrong(missing),
                })?);
            }
            if found.is_empty() { Err(wrong(missing)) } else { Ok(found) }
        };
        let subjects = selectors(subjects, "does not say who")?;
        let objects = match (objects.trim(), verb) {
            ("anything", Verb::May) => Objects::Anything,
            ("nothing", Verb::May) => Objects::Nothing,
            ("each other", Verb::MustNot) => Objects::EachOther,
            (names, _) => Objects::List(selectors(names, "does not say what")?),
        };
        Ok(Self { verb, subjects, objects, only_from, because, text: text.to_owned(), span })
    }

    /// All selectors of the sentence.
    pub fn selectors(&self) -> impl Iterator<Item = &Selector> {
        let objects = match &self.objects {
            Objects::List(list) => &list[..],
            _ => &[],
        };
        self.subjects.iter().chain(objects)
    }
}

fn list(text: &str) -> Vec<String> {
    text.split(',').map(|part| part.trim().to_owned()).filter(|part| !part.is_empty()).collect()
}

fn selector(text: &str) -> Option<Selector> {
    Some(match text {
        "tests" => Selector::Tests,
        "rest" => Selector::Rest,
        "every module" => Selector::Every,
        _ => match text.split_once(':') {
            Some(("layer", name)) => Selector::Layer(name.trim().into()),
            Some(("kind", name)) => Selector::Kind(name.trim().into()),
            Some(("owner", name)) => Selector::Owner(name.trim().into()),
            Some(("package", name)) => Selector::Package(name.trim().into()),
            Some(_) => return None,
            None => match text.strip_prefix("tests of ") {
                Some(name) => Selector::TestsOf(name.trim().into()),
                None if text.contains(char::is_whitespace) => return None,
                None => Selector::Module(text.into()),
            },
        },
    })
}

/// Where the word stands with blanks or ends around it.
fn find_word(text: &str, word: &str) -> Option<usize> {
    text.match_indices(word).map(|(at, _)| at).find(|&at| {
        let before = text[..at].chars().next_back().is_none_or(char::is_whitespace);
        let after = text[at + word.len()..].chars().next().is_none_or(char::is_whitespace);
        before && after
    })
}

/// The bytes of the first place where `words` follow each other.
fn find_words(text: &str, words: &[&str]) -> Option<(usize, usize)> {
    let mut from = 0;
    while let Some(found) = find_word(&text[from..], words[0]) {
        let start = from + found;
        let mut end = start + words[0].len();
        let matched = words[1..].iter().all(|word| {
            let rest = &text[end..];
            let trimmed = rest.trim_start();
            let fits = trimmed
                .strip_prefix(word)
                .is_some_and(|after| after.is_empty() || after.starts_with(char::is_whitespace));
            end += rest.len() - trimmed.len() + word.len();
            fits
        });
        if matched {
            return Some((start, end));
        }
        from = start + words[0].len();
    }
    None
}

#[cfg(test)]
mod tests {
    use super::*;

    fn parse(text: &str) -> Result<Rule, MapError> {
        Rule::parse(text, Span::default())
    }

    #[test]
    fn reads_the_three_forms() {
        let rule = parse("catalogue, kind:feature may use storage-*, package:Npgsql only from Program.cs, Start/*.cs because wiring").unwrap();
        assert_eq!(rule.verb, Verb::May);
        assert_eq!(rule.subjects, [Selector::Module("catalogue".into()), Selector::Kind("feature".into())]);
        assert_eq!(rule.only_from, ["Program.cs", "Start/*.cs"]);
        assert_eq!(rule.because.as_deref(), Some("wiring"));
        let rule = parse("kind:feature must not use each other").unwrap();
        assert_eq!((rule.verb, rule.objects), (Verb::MustNot, Objects::EachOther));
        let rule = parse("only tests of visits may use rest, every module").unwrap();
        assert_eq!((rule.verb, &rule.subjects[..]), (Verb::Only, &[Selector::TestsOf("visits".into())][..]));
        assert_eq!(
            parse("catalogue may use nothing because it must outlive us").unwrap().objects,
            Objects::Nothing
        );
    }

    #[test]
    fn says_what_is_missing() {
        for (text, what) in [
            ("catalogue uses visits", "has no verb"),
            ("may use visits", "does not say who"),
            ("catalogue may use", "does not say what"),
            ("a must not use b only from c", "can say `only from`"),
            ("colour:red may use b", "`colour:` chooses nothing"),
            ("a b may use c", "does not say who"),
        ] {
            let error = parse(text).unwrap_err();
            assert!(error.message.contains(what), "{text}: {}", error.message);
        }
    }
}
