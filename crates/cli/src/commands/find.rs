use crate::args::Common;
use crate::error::{CommandError, Outcome};
use crate::session::{Meaning, Session};
use crate::table::{Align, table};
use crate::ui::{Style, Ui, clean, count, number, shown};
use clap::Args;
use ferngate_core::find::{FileUse, Likeness, Match, file_uses, names_like, names_of};
use ferngate_core::map::nearest;
use ferngate_model::{DeclarationKind, LineIndex, Link, ReadOptions};
use std::collections::{BTreeMap, BTreeSet};

/// How many rows of a list are shown unless all are asked for.
const SHOWN: usize = 12;
/// How many names beside a name are shown.
const BESIDE: usize = 8;

/// Options of `find`.
#[derive(Debug, Args)]
pub struct FindArgs {
    /// A name or a part of one; with dots, of the full name; or a file
    #[arg(value_name = "TEXT")]
    text: String,
    /// Show all names and users
    #[arg(long)]
    all: bool,
}

/// What was found.
struct Answer<'s> {
    session: &'s Session,
    meaning: &'s Meaning<'s>,
    names: Vec<Match>,
    /// Files whose own name holds the text, by index.
    files: Vec<usize>,
}

/// Says where a name lives, and what is around it.
pub fn cmd_find(ui: &mut Ui, common: &Common, args: &FindArgs) -> Result<Outcome, CommandError> {
    if args.text.trim().is_empty() {
        return Err(CommandError::call("there is nothing to look for; give a name or a part of one"));
    }
    // Mentions are looked for too, but count as uses only where that is asked for.
    let session = Session::load(ui, common, ReadOptions { weak: true, occurrences: false })?;
    let meaning = session.understand(ui)?;
    let names = names_like(&meaning.world, &args.text);
    let wanted = args.text.to_lowercase();
    let wanted = wanted.trim_start_matches("./");
    let is_like = |at: &usize| {
        let path = &session.project.files[*at].path;
        let name = if wanted.contains('/') { path.as_str() } else { path.file_name() };
        name.to_lowercase().contains(wanted)
    };
    let is_whole =
        |at: &usize| session.project.files[*at].path.as_str() == args.text.trim_start_matches("./");
    let all = 0..session.project.files.len();
    let files = match all.clone().find(is_whole) {
        Some(whole) => vec![whole],
        None => all.filter(is_like).collect(),
    };
    let answer = Answer { session: &session, meaning: &meaning, names, files };
    if answer.names.is_empty() && answer.files.is_empty() {
        return Err(nothing(&meaning, &args.text));
    }
    if ui.json {
        let json = answer.json(&args.text);
        ui.answer(&json)?;
    } else {
        answer.print(ui, args)?;
    }
    Ok(Outcome::Clean)
}

fn nothing(meaning: &Meaning, text: &str) -> CommandError {
    let texts = || meaning.world.texts().iter().map(|(_, text)| text);
    let message = format!("no declared name and no file is like `{text}`");
    // What moved is called as before, but elsewhere.
    let last = text.rsplit(['.', '\\', '/']).next().unwrap_or_default();
    let elsewhere = if last.is_empty() { Vec::new() } else { names_like(&meaning.world, last) };
    if let Some(found) = elsewhere.first() {
        return CommandError::call_hint(message, format!("its last part is like `{}`", found.name));
    }
    match nearest(text, texts()) {
        Some(near) => CommandError::call_hint(message, format!("did you mean `{near}`?")),
        None => CommandError::call(message),
    }
}

impl Answer<'_> {
    /// The one name that is meant, if there is one.
    fn subject(&self) -> Option<usize> {
        let best = self.names.first()?.likeness;
        let mut alike = self.names.iter().take_while(|found| found.likeness == best);
        let only = alike.next().is_some() && alike.next().is_none();
        let nothing_else = self.names.len() == 1 && self.files.is_empty();
        (only && (best <= Likeness::SameLetters || nothing_else)).then_some(0)
    }

    fn module_of(&self, file: u32) -> &str {
        let module = self.meaning.modules.of_file[file as usize];
        module.map_or("rest", |module| self.meaning.modules.list[module].name.as_str())
    }

    fn path(&self, file: u32) -> &str {
        self.session.project.files[file as usize].path.as_str()
    }

    /// `src/Visits/Ticket.cs:5:14`
    fn place(&self, (file, offset): (u32, u32)) -> String {
        let path = &self.session.project.files[file as usize].path;
        let text = self.session.text(path);
        let position = LineIndex::new(&text).position(&text, offset);
        format!("{path}:{}:{}", position.line, position.column)
    }

    fn uses(&self, name: usize, mention: bool) -> impl Iterator<Item = &FileUse> {
        self.names[name].users.iter().filter(move |used| used.mention == mention)
    }

    fn print(&self, ui: &mut Ui, args: &FindArgs) -> Result<(), CommandError> {
        if let Some(file) = self.only_file() {
            return self.one_file(ui, file, args.all);
        }
        let subject = self.subject();
        let head = match subject {
            Some(at) => {
                let found = &self.names[at];
                let name = ui.paint(Style::Verdict, &clean(&found.name));
                let place = found.places.first().map(|place| self.place(*place)).unwrap_or_default();
                let module = found.places.first().map_or("rest", |place| self.module_of(place.0));
                format!("{name} lives in {}: {}", clean(module), clean(&place))
            }
            None => {
                let names = count(self.names.len() as u64, "name is", "names are");
                let files = count(self.files.len() as u64, "file is", "files are");
                let (what, style) = (if self.names.is_empty() { files } else { names }, Style::Verdict);
                ui.paint(style, &format!("{what} like `{}`", clean(&args.text)))
            }
        };
        ui.line(head)?;
        if let Some(at) = subject {
            self.neighbourhood(ui, at, args.all)?;
        }
        self.names(ui, subject, args.all)?;
        self.files(ui, subject, args.all)?;
        match subject.and_then(|at| self.names[at].places.first()) {
            Some(place) if self.moves(place.0) => {
                let what = format!("ferngate move {} FOLDER/", clean(self.path(place.0)));
                ui.next(&what, "show what would move with its file")?;
            }
            Some(_) => {}
            None if self.names.is_empty() => {}
            None => ui.next("ferngate find FULL.NAME", "show what is around one of them")?,
        }
        Ok(())
    }

    /// The file that is meant, where nothing else is like the text.
    fn only_file(&self) -> Option<u32> {
        match (&self.names[..], &self.files[..]) {
            ([], [file]) => Some(*file as u32),
            _ => None,
        }
    }

    /// What is around one file.
    fn one_file(&self, ui: &mut Ui, file: u32, all: bool) -> Result<(), CommandError> {
        let path = ui.paint(Style::Verdict, &clean(self.path(file)));
        ui.line(format!("{path} is a file of {}", clean(self.module_of(file))))?;
        let declared: Vec<&str> = self.declared_in(file).into_iter().map(|(name, _)| name).collect();
        if !declared.is_empty() {
            ui.line(format!("  it declares {}", some_of(&declared, all)))?;
        }
        for (heading, nobody, uses) in [
            ("it is used by", "no other file uses it", true),
            ("it uses", "it uses no other file of the project", false),
        ] {
            let ends = if uses { self.users_of(file) } else { self.used_by(file) };
            if ends.is_empty() {
                ui.heading(nobody)?;
                continue;
            }
            let places: u32 = ends.iter().map(|used| used.places).sum();
            let files = count(ends.len() as u64, "file", "files");
            ui.heading(&format!("{heading} {files}, in {}", count(u64::from(places), "place", "places")))?;
            if uses {
                self.lines(ui, &ends.iter().collect::<Vec<_>>(), all)?;
            } else {
                self.used_files(ui, file, &ends, all)?;
            }
        }
        ui.next("ferngate why FILE FILE", "show the lines between two files")?;
        Ok(())
    }

    /// What `file` uses, with the first line in it that does.
    fn used_files(&self, ui: &mut Ui, file: u32, ends: &[FileUse], all: bool) -> Result<(), CommandError> {
        let heads = [
            ("module", Align::Left),
            ("places", Align::Right),
            ("first line", Align::Right),
            ("file", Align::Left),
        ];
        let mut rows: Vec<&FileUse> = ends.iter().collect();
        rows.sort_by_key(|used| (self.module_of(used.file), self.path(used.file)));
        let text = self.session.text(&self.session.project.files[file as usize].path);
        let index = LineIndex::new(&text);
        let shown = shown(rows.len(), SHOWN, all);
        let cells: Vec<Vec<String>> = rows[..shown]
            .iter()
            .map(|used| {
                let line = index.position(&text, used.offset).line;
                vec![
                    clean(self.module_of(used.file)),
                    number(u64::from(used.places)),
                    number(u64::from(line)),
                    clean(self.path(used.file)),
                ]
            })
            .collect();
        print_table(ui, &heads, &cells, rows.len() - shown)
    }

    /// The files that use `file`, with the first place in each.
    fn users_of(&self, file: u32) -> Vec<FileUse> {
        let ties = self.meaning.ties.iter().filter(|tie| tie.to == file && tie.from != file);
        ties.filter_map(|tie| file_uses(&self.meaning.world, tie.from).remove(&file)).collect()
    }

    /// The files that `file` uses, with the first place in it.
    fn used_by(&self, file: u32) -> Vec<FileUse> {
        let mut uses = file_uses(&self.meaning.world, file);
        uses.remove(&file);
        uses.into_iter().map(|(to, used)| FileUse { file: to, ..used }).collect()
    }

    /// Whether code of the file's language can be moved.
    fn moves(&self, file: u32) -> bool {
        let language = self.session.project.files[file as usize].language;
        language.is_some_and(|language| self.meaning.world.languages[language].naming().moves)
    }

    /// What is declared beside a name, who uses it, and what its file uses.
    fn neighbourhood(&self, ui: &mut Ui, at: usize, all: bool) -> Result<(), CommandError> {
        let found = &self.names[at];
        let further = found.places.iter().skip(1);
        for place in further.take(if all { usize::MAX } else { SHOWN }) {
            ui.line(format!("  also in   {}", clean(&self.place(*place))))?;
        }
        ui.line(format!("  it is     {}", sort_of(found.kind)))?;
        let beside = self.beside(found);
        if !beside.is_empty() {
            ui.line(format!("  beside it {}", some_of(&beside, all)))?;
        }
        let uses = self.used_modules(found);
        if let Some(((module, files), rest)) = uses.split_first() {
            let first = format!("{} of {module}", count(*files as u64, "file", "files"));
            let rest = rest.iter().map(|(module, files)| format!("{files} of {module}"));
            let list: Vec<String> = std::iter::once(first).chain(rest).collect();
            ui.line(format!("  it uses   {}", clean(&list.join(", "))))?;
        }
        let users: Vec<&FileUse> = self.uses(at, false).collect();
        let whole = self.takers(found);
        if users.is_empty() && whole.is_empty() {
            ui.heading("no other file uses it")?;
        } else if !users.is_empty() {
            let places: u32 = users.iter().map(|used| used.places).sum();
            let (files, places) =
                (count(users.len() as u64, "file", "files"), count(u64::from(places), "place", "places"));
            ui.heading(&format!("used by {files}, in {places}"))?;
            self.lines(ui, &users, all)?;
        }
        if !whole.is_empty() {
            ui.heading("files that take in the whole file in which it stands")?;
            self.lines(ui, &whole.iter().collect::<Vec<_>>(), all)?;
        }
        let mentions: Vec<&FileUse> = self.uses(at, true).collect();
        if !mentions.is_empty() {
            ui.heading("mentioned in comments, strings and settings; no dependencies")?;
            self.lines(ui, &mentions, all)?;
        }
        Ok(())
    }

    /// Files that lead to the files of `found` without a word on names.
    fn takers(&self, found: &Match) -> Vec<FileUse> {
        let world = &self.meaning.world;
        let leads = |to: u32| found.places.iter().any(|(file, _)| *file == to);
        let links = world
            .links
            .iter()
            .enumerate()
            .flat_map(|(file, links)| links.files.iter().map(move |link| (file as u32, link)));
        let takes_names = |file: u32, link: &Link| {
            let facts = self.session.project.files[file as usize].facts.as_deref();
            facts.is_some_and(|facts| names_of(facts, link).next().is_some())
        };
        let whole = links.filter(|(file, link)| {
            !link.weak && leads(link.to) && !leads(*file) && !takes_names(*file, link)
        });
        let used =
            whole.map(|(file, link)| FileUse { file, mention: false, offset: link.at, places: link.count });
        used.collect()
    }

    fn lines(&self, ui: &mut Ui, users: &[&FileUse], all: bool) -> Result<(), CommandError> {
        let heads = [("module", Align::Left), ("places", Align::Right), ("first place", Align::Left)];
        let mut rows: Vec<&&FileUse> = users.iter().collect();
        rows.sort_by_key(|used| (self.module_of(used.file).to_owned(), self.path(used.file).to_owned()));
        let shown = shown(rows.len(), SHOWN, all);
        let cells: Vec<Vec<String>> = rows[..shown]
            .iter()
            .map(|used| {
                let place = self.place((used.file, used.offset));
                vec![clean(self.module_of(used.file)), number(u64::from(used.places)), clean(&place)]
            })
            .collect();
        print_table(ui, &heads, &cells, rows.len() - shown)
    }

    /// Other names that the files of `found` declare.
    fn beside(&self, found: &Match) -> Vec<&str> {
        let mut names: Vec<&str> = Vec::new();
        let mut known: BTreeSet<&str> = BTreeSet::new();
        for (file, offset) in &found.places {
            let others = self.declared_in(*file).into_iter().filter(|(_, at)| at != offset);
            names.extend(others.map(|(name, _)| name).filter(|name| known.insert(name)));
        }
        names
    }

    /// The names that a file declares, with the first byte of each.
    fn declared_in(&self, file: u32) -> Vec<(&str, u32)> {
        let facts = self.session.project.files[file as usize].facts.as_deref();
        let declared = facts.into_iter().flat_map(|facts| &facts.declarations);
        let named =
            declared.map(|found| (self.meaning.world.texts().text(found.name), found.name_span.start));
        named.filter(|(name, _)| *name != "?").collect()
    }

    /// The modules that the files of `found` use, with the number of ties, the most first.
    fn used_modules(&self, found: &Match) -> Vec<(String, usize)> {
        let mut counts: BTreeMap<&str, usize> = BTreeMap::new();
        for (file, _) in &found.places {
            for tie in self.meaning.ties.iter().filter(|tie| tie.from == *file) {
                *counts.entry(self.module_of(tie.to)).or_default() += 1;
            }
        }
        let mut counts: Vec<(String, usize)> =
            counts.into_iter().map(|(module, ties)| (module.to_owned(), ties)).collect();
        counts.sort_by_key(|(_, ties)| std::cmp::Reverse(*ties));
        counts
    }

    fn names(&self, ui: &mut Ui, subject: Option<usize>, all: bool) -> Result<(), CommandError> {
        let others: Vec<usize> = (0..self.names.len()).filter(|at| Some(*at) != subject).collect();
        if others.is_empty() {
            return Ok(());
        }
        if subject.is_some() {
            ui.heading("names like it")?;
        } else {
            ui.line("")?;
        }
        let heads = [
            ("name", Align::Left),
            ("sort", Align::Left),
            ("module", Align::Left),
            ("used by files", Align::Right),
            ("where", Align::Left),
        ];
        let shown = shown(others.len(), SHOWN, all);
        let cells: Vec<Vec<String>> = others[..shown].iter().map(|at| self.row(*at)).collect();
        print_table(ui, &heads, &cells, others.len() - shown)
    }

    fn row(&self, at: usize) -> Vec<String> {
        let found = &self.names[at];
        let first = found.places.first().copied().unwrap_or_default();
        let mut place = self.place(first);
        if found.places.len() > 1 {
            place.push_str(&format!(" + {}", found.places.len() - 1));
        }
        vec![
            clean(&found.name),
            sort_of(found.kind).to_owned(),
            clean(self.module_of(first.0)),
            number(self.uses(at, false).count() as u64),
            clean(&place),
        ]
    }

    fn files(&self, ui: &mut Ui, subject: Option<usize>, all: bool) -> Result<(), CommandError> {
        let declares = |file: &usize| {
            subject.is_some_and(|at| {
                self.names[at].places.iter().any(|(declared, _)| *declared as usize == *file)
            })
        };
        let others: Vec<&usize> = self.files.iter().filter(|file| !declares(file)).collect();
        if others.is_empty() {
            return Ok(());
        }
        ui.heading("files of such a name")?;
        let shown = shown(others.len(), SHOWN, all);
        for file in &others[..shown] {
            ui.line(format!("  {}", clean(self.path(**file as u32))))?;
        }
        Ok(ui.left_out("  ", others.len() - shown, "")?)
    }

    fn json(&self, text: &str) -> serde_json::Value {
        let user = |used: &FileUse| {
            serde_json::json!({ "first": self.place_json((used.file, used.offset)), "places": used.places,
                "mention": used.mention })
        };
        let name = |found: &Match| {
            let users: Vec<serde_json::Value> = found.users.iter().map(user).collect();
            let declared: Vec<serde_json::Value> =
                found.places.iter().map(|place| self.place_json(*place)).collect();
            serde_json::json!({ "name": found.name, "sort": sort_of(found.kind), "declared": declared,
                "users": users })
        };
        let names: Vec<serde_json::Value> = self.names.iter().map(name).collect();
        let files: Vec<&str> = self.files.iter().map(|file| self.path(*file as u32)).collect();
        let around = self.only_file().map(|file| {
            let uses = |used: &FileUse| {
                serde_json::json!({ "path": self.path(used.file), "module": self.module_of(used.file),
                    "first": self.place_json((file, used.offset)), "places": used.places })
            };
            let used_by: Vec<serde_json::Value> = self.users_of(file).iter().map(user).collect();
            let uses: Vec<serde_json::Value> = self.used_by(file).iter().map(uses).collect();
            let declared: Vec<&str> = self.declared_in(file).into_iter().map(|(name, _)| name).collect();
            serde_json::json!({ "declares": declared, "used_by": used_by, "uses": uses })
        });
        serde_json::json!({ "schema": "ferngate/find/1", "text": text, "names": names, "files": files,
            "file": around })
    }

    fn place_json(&self, (file, offset): (u32, u32)) -> serde_json::Value {
        let path = &self.session.project.files[file as usize].path;
        let text = self.session.text(path);
        let position = LineIndex::new(&text).position(&text, offset);
        serde_json::json!({ "path": path.as_str(), "module": self.module_of(file), "line": position.line,
            "column": position.column })
    }
}

/// The first of `names`, and how many more there are.
fn some_of(names: &[&str], all: bool) -> String {
    let shown = shown(names.len(), BESIDE, all);
    let more = names.len() - shown;
    let rest = if more > 0 { format!(" and {more} more") } else { String::new() };
    format!("{}{rest}", clean(&names[..shown].join(", ")))
}

fn print_table(
    ui: &mut Ui,
    heads: &[(&str, Align)],
    cells: &[Vec<String>],
    left: usize,
) -> Result<(), CommandError> {
    for (at, line) in table(heads, cells).into_iter().enumerate() {
        let line = if at == 0 { ui.paint(Style::Faint, &line) } else { line };
        ui.line(format!("  {line}"))?;
    }
    Ok(ui.left_out("  ", left, "")?)
}

fn sort_of(kind: DeclarationKind) -> &'static str {
    match kind {
        DeclarationKind::Class | DeclarationKind::Anonymous => "class",
        DeclarationKind::Struct => "struct",
        DeclarationKind::Interface => "interface",
        DeclarationKind::Enum => "enumeration",
        DeclarationKind::Delegate => "delegate",
        DeclarationKind::Facade => "functions of a file",
        DeclarationKind::Function => "function",
        DeclarationKind::Module => "module",
        DeclarationKind::Constant => "value",
    }
}
