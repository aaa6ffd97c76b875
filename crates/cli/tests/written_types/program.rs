//! Programs of classes that share their names and members' names, with expressions whose types are known while they are
//! written; and how three languages write them.

use super::common::numbers::Numbers;

/// The simple names of classes; each package has some of them.
const CLASSES: &[&str] = &["Bed", "Rose", "Tour", "Plan"];
/// The names of fields, methods and variables.
const MEMBERS: &[&str] = &["bed", "rose", "tour", "plan", "row", "wide", "held", "led"];
pub const PACKAGES: usize = 8;

/// What an expression may be.
#[derive(Clone, Debug, PartialEq)]
pub enum Type {
    Number,
    Class(usize),
    /// The class inside of a class.
    Inner(usize),
    List(Box<Type>),
    /// The program's own generic class.
    Pot(Box<Type>),
    /// Another that derives from it.
    Tray(Box<Type>),
    /// One that derives from the library's list.
    Shelf(Box<Type>),
    Array(Box<Type>),
    /// By texts.
    Map(Box<Type>),
}

#[derive(Clone, Debug)]
pub struct Member {
    pub name: &'static str,
    /// Nothing for fields.
    pub parameters: Option<Vec<Type>>,
    pub of: Type,
    pub is_static: bool,
}

#[derive(Clone, Debug)]
pub struct Class {
    pub package: usize,
    pub name: &'static str,
    pub base: Option<usize>,
    pub members: Vec<Member>,
    /// The members of the class inside, which is called `Row`.
    pub inner: Option<Vec<Member>>,
    /// Shared members of other classes that its file takes by their names alone.
    pub taken: Vec<(usize, Member)>,
}

impl Class {
    /// One member for each name that its file takes.
    pub fn taken_by_name(&self) -> impl Iterator<Item = &(usize, Member)> {
        let is_first = |at: usize| at == 0 || self.taken[at - 1].1.name != self.taken[at].1.name;
        self.taken.iter().enumerate().filter(move |(at, _)| is_first(*at)).map(|(_, taken)| taken)
    }
}

pub struct Program {
    pub classes: Vec<Class>,
    /// Members may give lists and pots.
    holders: bool,
    /// A file may take shared members of several classes by their names alone.
    takes_several: bool,
}

impl Program {
    pub fn written(numbers: &mut Numbers, holders: bool) -> Self {
        let mut classes: Vec<Class> = Vec::new();
        for at in 0..PACKAGES * CLASSES.len() {
            let base = (at > 0 && numbers.one_in(2)).then(|| numbers.next() % at);
            let (package, name) = (at % PACKAGES, CLASSES[at / PACKAGES]);
            let inner = numbers.one_in(3).then(Vec::new);
            classes.push(Class { package, name, base, members: Vec::new(), inner, taken: Vec::new() });
        }
        let mut program = Self { classes, holders, takes_several: holders };
        for at in 0..program.classes.len() {
            let taken: Vec<&str> = program
                .line(at)
                .flat_map(|class| program.classes[class].members.iter())
                .map(|m| m.name)
                .collect();
            let free: Vec<&str> = MEMBERS.iter().copied().filter(|name| !taken.contains(name)).collect();
            let mut members = program.members(numbers, at, &free, true);
            // One more of a name, told from the other by its parameters.
            let plain =
                members.iter().find(|member| member.parameters.as_ref().is_some_and(Vec::is_empty)).cloned();
            if let Some(plain) = plain {
                let of = program.type_of(numbers, 1);
                members.push(Member { parameters: Some(vec![Type::Number]), of, ..plain });
            }
            program.classes[at].members = members;
            if program.classes[at].inner.is_some() {
                let members = program.members(numbers, at, MEMBERS, false);
                program.classes[at].inner = Some(members);
            }
        }
        for at in 0..program.classes.len() {
            program.classes[at].taken = program.taken(numbers, at);
        }
        program
    }

    /// Shared members of classes outside of the line of `at`, whose names nothing in that line has.
    fn taken(&self, numbers: &mut Numbers, at: usize) -> Vec<(usize, Member)> {
        let line: Vec<usize> = self.line(at).collect();
        let known =
            |name: &str| line.iter().any(|class| self.classes[*class].members.iter().any(|m| m.name == name));
        let mut taken: Vec<(usize, Member)> = Vec::new();
        for _ in 0..if self.takes_several { 3 } else { 1 } {
            let class = numbers.next() % self.classes.len();
            let shared = self.classes[class].members.iter().filter(|member| member.is_static);
            let free =
                shared.filter(|m| !known(m.name) && !taken.iter().any(|(_, other)| other.name == m.name));
            // Of two functions of one name both are taken.
            let free: Vec<Member> = free.cloned().collect();
            if !line.contains(&class)
                && let Some(first) = free.first()
            {
                taken.extend(free.iter().filter(|m| m.name == first.name).map(|m| (class, m.clone())));
            }
        }
        taken
    }

    /// A class and what it derives from.
    pub fn line(&self, class: usize) -> impl Iterator<Item = usize> + '_ {
        std::iter::successors(Some(class), |class| self.classes[*class].base)
    }

    /// Members of the class `at`, or of the one inside of it.
    fn members(
        &self,
        numbers: &mut Numbers,
        at: usize,
        names: &[&'static str],
        may_be_static: bool,
    ) -> Vec<Member> {
        let mut members = Vec::new();
        for name in names.iter().filter(|_| numbers.one_in(2)).copied().collect::<Vec<_>>() {
            let parameters = match numbers.next() % 4 {
                0 => None,
                1 => Some(vec![self.type_of(numbers, 0)]),
                _ => Some(Vec::new()),
            };
            let is_static = may_be_static && numbers.one_in(4);
            // The class inside that is meant by its name alone, whatever that hides.
            let inside = self.line(at).find(|class| self.classes[*class].inner.is_some());
            let inside = inside.filter(|_| numbers.one_in(5)).map(Type::Inner);
            let of = inside.unwrap_or_else(|| self.type_of(numbers, 1));
            members.push(Member { name, parameters, of, is_static });
        }
        members
    }

    fn type_of(&self, numbers: &mut Numbers, depth: usize) -> Type {
        let class = numbers.next() % self.classes.len();
        match numbers.next() % 8 {
            0 if depth > 0 && self.holders => Type::List(Box::new(self.type_of(numbers, 0))),
            1 if depth > 0 && self.holders => {
                let hold = numbers.of(&[Type::Pot, Type::Tray, Type::Shelf, Type::Array, Type::Map]);
                hold(Box::new(self.type_of(numbers, 0)))
            }
            2 if self.classes[class].inner.is_some() => Type::Inner(class),
            _ => Type::Class(class),
        }
    }

    /// What can be asked of a value of this type, or of the class itself.
    fn shown(&self, of: &Type, is_static: bool) -> Vec<Member> {
        let all: Vec<&Member> = match of {
            Type::Class(class) => self.line(*class).flat_map(|class| &self.classes[class].members).collect(),
            Type::Inner(class) => self.classes[*class].inner.iter().flatten().collect(),
            _ => Vec::new(),
        };
        all.into_iter().filter(|member| member.is_static == is_static).cloned().collect()
    }
}

/// How a language writes types, values and statements: `OF` stands for a type, `NAME` for a name, `VALUE`, `LIST`, `LEFT`
/// and `RIGHT` for values, `INSIDE` for statements, `FUNCTION` for the name of a function.
pub struct Tongue {
    /// The type of numbers, and that of any value.
    pub number: &'static str,
    pub any: &'static str,
    /// An object that is made, a list, an array and a map.
    pub made: &'static str,
    pub made_list: &'static str,
    pub made_array: &'static str,
    pub made_map: &'static str,
    pub cast: &'static str,
    pub chosen: &'static str,
    /// The first of a list, of an array, and one of a map.
    pub first: &'static str,
    pub first_of_array: &'static str,
    pub one_of_map: &'static str,
    /// A value as a generic function gives it back.
    pub given_back: &'static str,
    /// A variable with its type, and one of the type of its value.
    pub typed: &'static str,
    pub untyped: &'static str,
    /// Statements for each of a list, and the same by a function that is given to the list.
    pub each: &'static str,
    pub each_by_function: &'static str,
    /// Statements in a function that is of a type that says what it takes, in one that a generic function hands a value, and in
    /// one of an object whose class has no name, with what the object around is called there.
    pub functions: &'static [&'static str],
    pub handed: &'static str,
    pub object: &'static str,
    pub this_around: &'static str,
    /// Statements where a variable is of a type.
    pub where_is: &'static str,
    /// Statements in blocks of other sorts; `NAME` is a fresh one.
    pub blocks: &'static [&'static str],
    /// The array and the map of a type.
    pub array: &'static str,
    pub map: &'static str,
    /// The head of a method without a result, and one of its parameters.
    pub method: &'static str,
    pub parameter: &'static str,
    /// Whether a variable may be called as a member is, and then hides it.
    pub hides: bool,
    /// Whether the variable that is asked for its type is of that type itself.
    pub knows_by_itself: bool,
}

/// A form with what its words stand for.
fn fill(form: &str, words: &[(&str, &str)]) -> String {
    words.iter().fold(form.to_owned(), |text, (word, meant)| text.replace(word, meant))
}

impl Tongue {
    /// The name of a type, where `name` gives those of classes and of classes inside.
    pub fn named(&self, of: &Type, name: &dyn Fn(&Type) -> String) -> String {
        let held = |form: &str, inner: &Type| fill(form, &[("OF", &self.named(inner, name))]);
        match of {
            Type::Number => self.number.to_owned(),
            Type::List(inner) => held("List<OF>", inner),
            Type::Pot(inner) => held("Pot<OF>", inner),
            Type::Tray(inner) => held("Tray<OF>", inner),
            Type::Shelf(inner) => held("Shelf<OF>", inner),
            Type::Array(inner) => held(self.array, inner),
            Type::Map(inner) => held(self.map, inner),
            of => name(of),
        }
    }

    /// A value of this type, of one step.
    fn made(&self, of: &Type, name: &dyn Fn(&Type) -> String) -> String {
        let held = |form: &str, inner: &Type| fill(form, &[("OF", &self.named(inner, name))]);
        match of {
            Type::Number => "1".to_owned(),
            Type::List(inner) => held(self.made_list, inner),
            Type::Array(inner) => held(self.made_array, inner),
            Type::Map(inner) => held(self.made_map, inner),
            of => held(self.made, of),
        }
    }

    fn variable(&self, name: &str, named: Option<&str>, value: &str) -> String {
        let form = if named.is_some() { self.typed } else { self.untyped };
        fill(form, &[("OF", named.unwrap_or_default()), ("NAME", name), ("VALUE", value)])
    }

    pub fn method(&self, name: &str, parameters: &[(String, String)]) -> String {
        let parameter = |(name, of): &(String, String)| fill(self.parameter, &[("OF", of), ("NAME", name)]);
        let listed: Vec<String> = parameters.iter().map(parameter).collect();
        fill(self.method, &[("NAME", name), ("LIST", &listed.join(", "))])
    }
}

/// Writes the statements of one method of `class`.
pub struct Writer<'p> {
    pub program: &'p Program,
    pub tongue: &'p Tongue,
    pub numbers: &'p mut Numbers,
    /// The class that it is a method of.
    pub class: usize,
    /// Gives the names of classes and of classes inside, from that class.
    pub name: &'p dyn Fn(&Type) -> String,
    /// Variables, the innermost last.
    pub variables: Vec<(String, Type)>,
    pub made: usize,
    /// What the object is called whose method it is.
    pub this: String,
}

impl Writer<'_> {
    pub fn statements(&mut self, count: usize, depth: usize) -> String {
        let known = self.variables.len();
        let text = (0..count).map(|_| self.statement(depth)).collect();
        self.variables.truncate(known);
        text
    }

    fn statement(&mut self, depth: usize) -> String {
        // A variable hides what is called alike in its own value already.
        let name = self.fresh();
        self.variables.push((name.clone(), Type::Number));
        let (value, of) = self.value(3);
        self.variables.pop();
        match (self.numbers.next() % 9, &of) {
            (0, _) if depth > 0 => {
                let form = *self.numbers.of(self.tongue.blocks);
                self.variables.push((name.clone(), Type::Number));
                let inside = self.statements(2, depth - 1);
                self.variables.pop();
                fill(form, &[("NAME", &name), ("INSIDE", &inside)])
            }
            (1, Type::List(inner) | Type::Shelf(inner) | Type::Array(inner)) if depth > 0 => {
                let is_function = !matches!(of, Type::Array(_)) && self.numbers.one_in(2);
                self.variables.push((name.clone(), (**inner).clone()));
                let inside = self.statements(2, depth - 1);
                self.variables.pop();
                let form = if is_function { self.tongue.each_by_function } else { self.tongue.each };
                fill(form, &[("NAME", &name), ("LIST", &value), ("INSIDE", &inside)])
            }
            (2, Type::Class(_)) if depth > 0 => {
                let other = Type::Class(self.numbers.next() % self.program.classes.len());
                let held = self.tongue.variable(&name, Some(self.tongue.any), &value);
                self.variables.push((name.clone(), Type::Number));
                let known = match self.tongue.knows_by_itself {
                    true => name.clone(),
                    false => self.fresh(),
                };
                self.variables.push((known.clone(), other.clone()));
                let inside = self.statements(2, depth - 1);
                self.variables.pop();
                let words =
                    [("VALUE", &*name), ("OF", &self.named(&other)), ("NAME", &known), ("INSIDE", &inside)];
                held + &fill(self.tongue.where_is, &words)
            }
            (7, Type::Class(_)) if depth > 0 => {
                let form = match self.numbers.one_in(2) {
                    true => self.tongue.handed,
                    false => *self.numbers.of(self.tongue.functions),
                };
                let (function, named) = (self.fresh(), self.named(&of));
                self.variables.push((function.clone(), Type::Number));
                self.variables.push((name.clone(), of.clone()));
                let inside = self.statements(2, depth - 1);
                self.variables.pop();
                let words = [("VALUE", &*value), ("FUNCTION", &function), ("OF", &named), ("NAME", &name)];
                fill(&fill(form, &words), &[("INSIDE", &inside)])
            }
            (8, _) if depth > 0 && !self.tongue.object.is_empty() => {
                let own = self.program.classes[self.class].name;
                let around =
                    std::mem::replace(&mut self.this, fill(self.tongue.this_around, &[("CLASS", own)]));
                self.variables.push((name.clone(), Type::Number));
                let inside = self.statements(2, depth - 1);
                self.variables.pop();
                self.this = around;
                fill(self.tongue.object, &[("NAME", &name), ("INSIDE", &inside)])
            }
            (3, _) => {
                let text = self.tongue.variable(&name, Some(self.tongue.any), &value);
                self.variables.push((name, Type::Number));
                text
            }
            (4, _) => {
                let named = self.named(&of);
                let text = self.tongue.variable(&name, Some(&named), &value);
                self.variables.push((name, of));
                text
            }
            _ => {
                let text = self.tongue.variable(&name, None, &value);
                self.variables.push((name, of));
                text
            }
        }
    }

    fn named(&self, of: &Type) -> String {
        self.tongue.named(of, self.name)
    }

    /// A name for a variable: one of those that members have, if no variable has it.
    fn fresh(&mut self) -> String {
        let name = *self.numbers.of(MEMBERS);
        self.made += 1;
        let is_known = self.variables.iter().any(|(known, _)| known == name);
        let hides = self.tongue.hides && !is_known && !self.numbers.one_in(3);
        if hides { name.to_owned() } else { format!("{name}{}", self.made) }
    }

    /// An expression of any type, of so many steps.
    pub fn value(&mut self, steps: usize) -> (String, Type) {
        let (mut text, mut of) = self.start();
        for _ in 0..self.numbers.next() % (steps + 1) {
            match &of {
                Type::List(inner) | Type::Shelf(inner) => {
                    (text, of) = (fill(self.tongue.first, &[("LIST", &text)]), (**inner).clone())
                }
                Type::Pot(inner) => (text, of) = (self.of_pot(&text, &["kept", "take()"]), (**inner).clone()),
                Type::Tray(inner) => {
                    let asked = &["kept", "take()", "top", "above()"];
                    (text, of) = (self.of_pot(&text, asked), (**inner).clone());
                }
                Type::Array(inner) => {
                    (text, of) = (fill(self.tongue.first_of_array, &[("LIST", &text)]), (**inner).clone())
                }
                Type::Map(inner) => {
                    (text, of) = (fill(self.tongue.one_of_map, &[("LIST", &text)]), (**inner).clone())
                }
                _ => {
                    let shown = self.program.shown(&of, false);
                    if shown.is_empty() {
                        break;
                    }
                    let member = self.numbers.of(&shown).clone();
                    text = format!("{text}.{}", self.asked(&member));
                    of = member.of;
                }
            }
        }
        (text, of)
    }

    /// What is in a pot: by one of these members, or by one that gives a library's type.
    fn of_pot(&mut self, pot: &str, members: &[&str]) -> String {
        match self.numbers.next() % 4 {
            0 => fill(self.tongue.first, &[("LIST", &format!("{pot}.all()"))]),
            1 => fill(self.tongue.one_of_map, &[("LIST", &format!("{pot}.named"))]),
            _ => format!("{pot}.{}", self.numbers.of(members)),
        }
    }

    fn asked(&mut self, member: &Member) -> String {
        let Some(parameters) = &member.parameters else { return member.name.to_owned() };
        let values: Vec<String> = parameters.iter().map(|of| self.some(of)).collect();
        format!("{}({})", member.name, values.join(", "))
    }

    /// A value of this type, of one step.
    fn some(&mut self, of: &Type) -> String {
        self.tongue.made(of, self.name)
    }

    fn new_one(&mut self) -> (String, Type) {
        let of = Type::Class(self.numbers.next() % self.program.classes.len());
        (self.some(&of), of)
    }

    fn start(&mut self) -> (String, Type) {
        let own = Type::Class(self.class);
        match self.numbers.next() % 10 {
            8 => {
                let (value, of) = self.new_one();
                (fill(self.tongue.given_back, &[("VALUE", &value)]), of)
            }
            9 => {
                let hidden = |name: &str| self.variables.iter().any(|(known, _)| known == name);
                let taken = &self.program.classes[self.class].taken;
                let free: Vec<Member> =
                    taken.iter().map(|(_, m)| m.clone()).filter(|m| !hidden(m.name)).collect();
                if free.is_empty() {
                    return self.new_one();
                }
                let member = self.numbers.of(&free).clone();
                (self.asked(&member), member.of)
            }
            0 | 1 => {
                let typed = self.variables.iter().filter(|(_, of)| *of != Type::Number);
                let typed: Vec<&(String, Type)> = typed.collect();
                if typed.is_empty() { self.new_one() } else { (*self.numbers.of(&typed)).clone() }
            }
            2 | 3 => {
                let mut shown = self.program.shown(&own, true);
                shown.extend(self.program.shown(&own, false));
                if shown.is_empty() {
                    return self.new_one();
                }
                let member = self.numbers.of(&shown).clone();
                let asked = self.asked(&member);
                let is_hidden = self.variables.iter().any(|(name, _)| name == member.name);
                match (member.is_static, is_hidden) {
                    (true, true) => self.new_one(),
                    (false, true) => (format!("{}.{asked}", self.this), member.of),
                    (false, false) if self.numbers.one_in(4) => (format!("{}.{asked}", self.this), member.of),
                    _ => (asked, member.of),
                }
            }
            4 => {
                let class = self.numbers.next() % self.program.classes.len();
                let shown: Vec<Member> = self.program.classes[class]
                    .members
                    .iter()
                    .filter(|member| member.is_static)
                    .cloned()
                    .collect();
                if shown.is_empty() {
                    return self.new_one();
                }
                let member = self.numbers.of(&shown).clone();
                let asked = self.asked(&member);
                (format!("{}.{asked}", (self.name)(&Type::Class(class))), member.of)
            }
            5 => {
                let (value, _) = self.new_one();
                let class = Type::Class(self.numbers.next() % self.program.classes.len());
                let named = self.named(&class);
                (fill(self.tongue.cast, &[("OF", &named), ("VALUE", &value)]), class)
            }
            6 => {
                let (left, of) = self.new_one();
                let right = self.some(&of);
                (fill(self.tongue.chosen, &[("LEFT", &left), ("RIGHT", &right)]), of)
            }
            _ => {
                let of = self.program.type_of(self.numbers, 1);
                (self.some(&of), of)
            }
        }
    }
}
