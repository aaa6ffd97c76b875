//! Methods that other languages of the machine take for values, `bed.getWater()` for `bed.water`, and the reverse.

use ferngate_model::{Member, MemberKind, Name, OWN_TYPE, Recorder};
use smallvec::SmallVec;

type Text = SmallVec<[u8; 64]>;

/// What Kotlin calls the value that a method `getter` without parameters gives: `water` for `getWater`, `url` for `getURL`,
/// `htmlText` for `getHTMLText`. `None` where it sees no value in it.
pub fn value_of_getter(getter: &[u8]) -> Option<Name> {
    let name = getter.strip_prefix(b"get").filter(|name| name.first().is_some_and(u8::is_ascii_uppercase))?;
    let capitals = name.iter().take_while(|byte| byte.is_ascii_uppercase()).count();
    let lowered = match capitals {
        1 => 1,
        _ if capitals == name.len() => capitals,
        _ => capitals - 1, // the last one begins a word
    };
    let mut text = Text::from_slice(name);
    text[..lowered].make_ascii_lowercase();
    Some(Name::new(&text))
}

/// What Java calls the methods that give and set a value `name` of Kotlin: `getWater` and `setWater`, `isDry` and `setDry`.
pub fn accessors_of_value(name: &[u8]) -> [Name; 2] {
    let is_question =
        name.strip_prefix(b"is").filter(|rest| !rest.first().is_none_or(u8::is_ascii_lowercase));
    let joined = |prefix: &[u8], rest: &[u8]| {
        let mut text = Text::from_slice(prefix);
        text.extend_from_slice(rest);
        if let Some(first) = text.get_mut(prefix.len()) {
            first.make_ascii_uppercase();
        }
        Name::new(&text)
    };
    match is_question {
        Some(rest) => [Name::new(name), joined(b"set", rest)],
        None => [joined(b"get", name), joined(b"set", name)],
    }
}

/// Notes the methods that every enumeration has, which give its own constants.
pub fn enumerated(recorder: &mut Recorder, declaration: u32) {
    for name in ["values", "valueOf"] {
        let name = Name::new(name.as_bytes());
        recorder.member(Member::public(declaration, name, MemberKind::Method, OWN_TYPE));
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn getters_are_called_as_the_value_is() {
        let of = |getter: &str| value_of_getter(getter.as_bytes());
        let named = |name: &str| Some(Name::new(name.as_bytes()));
        assert_eq!(of("getWater"), named("water"));
        assert_eq!(of("getURL"), named("url"));
        assert_eq!(of("getHTMLText"), named("htmlText"));
        assert_eq!(of("getABed"), named("aBed"));
        for no_getter in ["get", "getter", "water", "isDry"] {
            assert_eq!(of(no_getter), None, "{no_getter}");
        }
    }

    #[test]
    fn values_are_got_and_set_by_methods() {
        let of = |name: &str| accessors_of_value(name.as_bytes());
        let named = |names: [&str; 2]| names.map(|name| Name::new(name.as_bytes()));
        assert_eq!(of("water"), named(["getWater", "setWater"]));
        assert_eq!(of("isDry"), named(["isDry", "setDry"]));
        assert_eq!(of("island"), named(["getIsland", "setIsland"]));
        assert_eq!(of("is"), named(["getIs", "setIs"]));
    }
}
