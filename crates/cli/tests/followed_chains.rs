//! Values that are followed through code that nobody chose: a function takes one value, and each line takes another value
//! from one that is known, in a way that the language has. Whose members each line uses is known as it is written, and
//! what the program finds must be that.

#![allow(clippy::unwrap_used, clippy::expect_used, dead_code, reason = "a test may fail loudly")]

mod common;

use common::{for_many, used_by};
use proptest::collection::vec;
use proptest::prelude::*;
use std::collections::BTreeSet;

/// Classes of one project; each has a member of every sort for each of them.
const CLASSES: usize = 4;

/// A way from one value to another: in the text `V` is the value, of class `KI`, `KJ` the class of the new one, called `N`;
/// `J` stands for its number.
struct Way {
    text: &'static str,
    /// Whose files it uses: of the value's class, of the new one's, of the box's.
    uses: (bool, bool, bool),
    /// What closes at the end of the function what this opens.
    closes: &'static str,
}

/// It uses the class of the value only.
const fn from(text: &'static str) -> Way {
    Way { text, uses: (true, false, false), closes: "" }
}

/// It names the new class, or uses a member of it.
const fn both(text: &'static str) -> Way {
    Way { text, uses: (true, true, false), closes: "" }
}

const fn to(text: &'static str) -> Way {
    Way { text, uses: (false, true, false), closes: "" }
}

const fn boxed(text: &'static str) -> Way {
    Way { text, uses: (true, false, true), closes: "" }
}

const fn opens(text: &'static str, closes: &'static str) -> Way {
    Way { text, uses: (true, false, false), closes }
}

struct Tongue {
    extension: &'static str,
    /// The class `KI`, with `MEMBERS`, and the members of one of its sorts for each class.
    class: &'static str,
    member: &'static str,
    /// A box that holds a value of any class.
    boxes: &'static str,
    /// The code that takes `k0`, with `BODY`.
    user: &'static str,
    /// How a value gets its name, where the way does not say so: `EXPRESSION`.
    names: &'static [Way],
    /// The last line, which uses a member of the value `V`.
    last: &'static str,
    values: &'static [Way],
    statements: &'static [Way],
}

const CSHARP: Tongue = Tongue {
    extension: "cs",
    class: "using System; using System.Collections.Generic; using System.Threading.Tasks;\nnamespace Moss { public class KI {\nMEMBERS} }\n",
    member: "public KJ fJ; public KJ PJ { get; set; } public KJ mJ() => null; public List<KJ> lJ; public KJ[] aJ; public Dictionary<string, KJ> dJ; public Func<int, KJ> gJ; public Box<KJ> bJ; public Task<KJ> tJ; public Lazy<KJ> zJ; public (KJ one, int two) pJ; public bool tryJ(out KJ found) { found = null; return true; } public IEnumerable<KJ> eJ() => null; public List<List<KJ>> rJ;\n",
    boxes: "namespace Moss { public class Box<T> { public T held; public T Open() => held; } }\n",
    user: "using System; using System.Linq; using System.Collections.Generic; using System.Threading.Tasks;\nnamespace Moss { class User { async Task F(K0 k0, bool wet, object other) {\nBODY} } }\n",
    names: &[from("var N = EXPRESSION;"), both("KJ N = EXPRESSION;")],
    last: "_ = V.f0;",
    values: &[
        from("V.fJ"),
        from("V.PJ"),
        from("V.mJ()"),
        from("V.lJ[0]"),
        from("V.aJ[0]"),
        from("V.dJ[\"a\"]"),
        from("V.gJ(1)"),
        from("V.gJ.Invoke(1)"),
        boxed("V.bJ.held"),
        boxed("V.bJ.Open()"),
        from("await V.tJ"),
        from("V.tJ.Result"),
        from("V.zJ.Value"),
        from("V.pJ.one"),
        from("V.pJ.Item1"),
        from("V.rJ[0][1]"),
        from("V.eJ().First()"),
        from("V.lJ.First(x => x != null)"),
        both("V.lJ.Where(x => x.f0 != null).First()"),
        both("V.lJ.Select(x => x.fJ).First()"),
        both("V.lJ.Select(x => x.mJ()).Where(x => x.P0 != null).ToList()[0]"),
        both("V.lJ.OrderBy(x => x.f0).ThenBy(x => x.f1).Last()"),
        both("V.rJ.SelectMany(x => x).First(x => x.f1 != null)"),
        both("V.lJ.FirstOrDefault(x => { return x.f1 == null; })"),
        from("V.aJ.ToList()[0]"),
        from("V.dJ.Values.First()"),
        from("(V.fJ)"),
        from("V?.fJ"),
        from("V!.fJ!"),
        from("V.fJ ?? V.mJ()"),
        from("V?.mJ() ?? throw new Exception(\"none\")"),
        from("wet ? V.fJ : V.mJ()"),
        from("wet ? null : V.fJ"),
        from("V switch { null => null, _ => V.fJ }"),
        from("new[] { V.fJ }[0]"),
        from("Task.Run(() => V.fJ).Result"),
        from("await Task.FromResult(V.fJ)"),
        to("(KJ)other"),
        to("((KJ)other)"),
        to("other as KJ"),
        to("new KJ()"),
        to("new KJ { f0 = null }"),
        to("new List<KJ>()[0]"),
        from("V.dJ.First().Value"),
        from("V.lJ.ToDictionary(x => 1).Values.First()"),
        from("V.lJ.GroupBy(x => 1).First().First()"),
        from("V.lJ.Concat(V.lJ).Reverse().Distinct().Skip(1).ElementAt(0)"),
        from("V.aJ.Single()"),
        from("V.lJ.ToArray()[0]"),
        from("V.lJ.Find(x => x != null)"),
        from("V.lJ.FindAll(x => x != null)[0]"),
        from("V.lJ.GetEnumerator().Current"),
        from("V.lJ.AsReadOnly()[0]"),
        from("(from x in V.lJ where x != null select x).First()"),
        from("(from x in V.lJ orderby x select x.fJ).First()"),
        from("(from x in V.lJ let y = 1 select x).First()"),
        from("(V.fJ, 1).Item1"),
        from("V.dJ.Select(x => x.Value).First()"),
        from("V.dJ.OrderBy(x => x.Key).First().Value"),
        from("V.dJ.Where(x => x.Key == \"\").Select(p => p.Value).First()"),
        from("V.dJ.ToList()[0].Value"),
        from("V.dJ.Single(x => x.Key == \"a\").Value"),
        from("V.rJ.First().Last()"),
        from("V.rJ.Select(x => x.First()).First()"),
        from("V.rJ.Select(x => x[0]).ToList()[0]"),
        from("V.lJ.Select((x, i) => x).First()"),
        from("V.lJ.Aggregate((x, y) => y)"),
        from("V.lJ.Max()"),
        from("V.lJ.MinBy(x => 1)"),
        from("V.lJ.DefaultIfEmpty().First()"),
        both("V.lJ.Where(x => x is KJ).Cast<KJ>().First()"),
        from("V.tJ.GetAwaiter().GetResult()"),
        from("await V.tJ.ConfigureAwait(false)"),
        from("(await V.tJ)"),
        from("V.tJ.ContinueWith(t => t.Result).Result"),
        from("V.lJ.AsEnumerable().AsQueryable().First()"),
        from("V.lJ.Union(V.lJ).Except(V.lJ).Intersect(V.lJ).First()"),
        from("V.lJ.TakeWhile(x => x != null).ToHashSet().First()"),
        both("V.gJ.DynamicInvoke(1) as KJ"),
        from("V.zJ?.Value"),
        from("V.eJ().ToList().FirstOrDefault()"),
        from("V.lJ[^1]"),
        from("V.aJ[1..][0]"),
        from("V.lJ.Append(null).Prepend(null).First()"),
        from("V.lJ.Chunk(2).First()[0]"),
        from("(from x in V.lJ group x by 1 into g select g.First()).First()"),
        from("(from x in V.lJ group x by 1 into g from y in g select y).First()"),
        from("(from x in V.rJ from y in x where y != null select y).Last()"),
        from("(from x in (from y in V.lJ select y) select x).First()"),
        from("wet ? V.fJ : null"),
        from("wet ? null : (wet ? V.fJ : null)"),
        from("wet ? V.fJ : wet ? null : null"),
        from("wet ? (V.fJ) : default"),
        from("(wet ? V.fJ : null)"),
        from("new[] { wet ? V.fJ : null }[0]"),
        from("V.lJ.Select(x => wet ? x : null).First()"),
    ],
    statements: &[
        opens("foreach (var N in V.lJ) {", "}"),
        opens("foreach (var N in V.aJ) {", "}"),
        opens("foreach (var N in V.eJ()) {", "}"),
        opens("foreach (var (_, N) in V.dJ) {", "}"),
        opens("foreach (var pair_N in V.dJ) { var N = pair_N.Value;", "}"),
        opens("if (V.fJ is { } N) {", "}"),
        opens("if (V.mJ() is var N && wet) {", "}"),
        opens("if (V.tryJ(out var N)) {", "}"),
        opens("if (V.dJ.TryGetValue(\"a\", out var N)) {", "}"),
        opens("V.lJ.ForEach(N => {", "});"),
        opens("for (var N = V.fJ; N != null; N = null) {", "}"),
        opens("using (wet ? null : (IDisposable)null) { var N = V.mJ();", "}"),
        opens("lock (V) { var N = V.fJ;", "}"),
        opens("var (N, _) = V.pJ; {", "}"),
        both("if (other is not KJ N) return; _ = V.f0;"),
        both("KJ N; N = V.fJ;"),
        both("KJ Make_N() { return V.fJ; } var N = Make_N();"),
    ],
};

const JAVA: Tongue = Tongue {
    extension: "java",
    class: "package moss; import java.util.*; import java.util.function.*;\npublic class KI {\nMEMBERS}\n",
    member: "public KJ fJ; public KJ mJ() { return null; } public List<KJ> lJ; public KJ[] aJ; public Map<String, KJ> dJ; public Function<Integer, KJ> gJ; public Box<KJ> bJ; public Optional<KJ> oJ; public Supplier<KJ> sJ; public List<List<KJ>> rJ; public Iterator<KJ> iJ() { return null; }\n",
    boxes: "package moss; public class Box<T> { public T held; public T open() { return held; } }\n",
    user: "package moss; import java.util.*; import java.util.function.*; import java.util.stream.*;\nclass User { void f(K0 k0, boolean wet, Object other) {\nBODY} }\n",
    names: &[from("var N = EXPRESSION;"), both("KJ N = EXPRESSION;"), both("final KJ N = EXPRESSION;")],
    last: "var last = V.f0;",
    values: &[
        from("V.fJ"),
        from("V.mJ()"),
        from("V.lJ.get(0)"),
        from("V.aJ[0]"),
        from("V.dJ.get(\"a\")"),
        from("V.gJ.apply(1)"),
        from("V.sJ.get()"),
        boxed("V.bJ.held"),
        boxed("V.bJ.open()"),
        from("V.oJ.get()"),
        from("V.oJ.orElse(null)"),
        from("V.rJ.get(0).get(1)"),
        from("V.iJ().next()"),
        from("V.lJ.iterator().next()"),
        from("V.dJ.values().iterator().next()"),
        from("V.dJ.entrySet().iterator().next().getValue()"),
        from("V.lJ.stream().findFirst().get()"),
        both("V.lJ.stream().filter(x -> x.f0 != null).findFirst().get()"),
        both("V.lJ.stream().map(x -> x.fJ).findFirst().orElse(null)"),
        both("V.lJ.stream().map(x -> { return x.f1; }).map(x -> V.fJ).findAny().get()"),
        both("V.lJ.stream().sorted(Comparator.comparing(x -> x.f0.hashCode())).toList().get(0)"),
        both("V.oJ.filter(x -> x.f0 != null).orElseThrow()"),
        both("V.oJ.map(x -> x.mJ()).get()"),
        from("(V.fJ)"),
        from("wet ? V.fJ : V.mJ()"),
        from("Objects.requireNonNull(V.fJ)"),
        from("Optional.of(V.fJ).get()"),
        from("List.of(V.fJ).get(0)"),
        to("(KJ) other"),
        to("((KJ) other)"),
        to("new KJ()"),
        from("wet ? V.fJ : null"),
        from("wet ? null : (wet ? V.fJ : null)"),
        from("(wet ? V.fJ : null)"),
        from("V.fJ == null ? null : V.fJ"),
        from("V.lJ.stream().map(x -> wet ? x : null).findFirst().get()"),
        from("switch (1) { case 1 -> V.fJ; default -> null; }"),
        from("V.lJ.stream().collect(Collectors.toList()).get(0)"),
        from("V.lJ.stream().collect(Collectors.toMap(x -> 1, x -> x)).get(1)"),
        from("V.lJ.stream().collect(Collectors.groupingBy(x -> 1)).get(1).get(0)"),
        from("V.lJ.stream().reduce((x, y) -> x).get()"),
        from("V.lJ.stream().flatMap(x -> Stream.of(x)).findFirst().get()"),
        from("V.rJ.stream().flatMap(x -> x.stream()).findFirst().get()"),
        from("V.rJ.stream().flatMap(List::stream).findFirst().get()"),
        from("V.lJ.stream().max(Comparator.comparing(x -> 1)).get()"),
        from("V.lJ.stream().skip(1).limit(2).distinct().peek(x -> {}).toList().get(0)"),
        both("V.lJ.toArray(new KJ[0])[0]"),
        from("Arrays.asList(V.aJ).get(0)"),
        from("Arrays.stream(V.aJ).findFirst().get()"),
        from("Stream.of(V.aJ).findFirst().get()"),
        from("Stream.of(V.fJ, V.fJ).findFirst().get()"),
        from("Collections.singletonList(V.fJ).get(0)"),
        from("Collections.unmodifiableList(V.lJ).get(0)"),
        from("new ArrayList<>(V.lJ).get(0)"),
        to("new ArrayList<KJ>().get(0)"),
        from("new HashMap<>(V.dJ).get(\"a\")"),
        from("Map.of(\"a\", V.fJ).get(\"a\")"),
        from("V.dJ.getOrDefault(\"a\", null)"),
        from("V.dJ.computeIfAbsent(\"a\", k -> null)"),
        from("V.dJ.remove(\"a\")"),
        from("V.dJ.putIfAbsent(\"a\", null)"),
        from("V.lJ.remove(0)"),
        from("V.lJ.subList(0, 1).get(0)"),
        from("V.oJ.or(() -> Optional.of(V.fJ)).get()"),
        from("V.oJ.orElseGet(() -> null)"),
        from("V.oJ.flatMap(x -> Optional.of(V.fJ)).get()"),
        from("V.oJ.stream().findFirst().get()"),
        from("Optional.ofNullable(V.fJ).map(x -> x).orElseThrow()"),
        both("((Supplier<KJ>) () -> V.fJ).get()"),
        from("CompletableFuture.supplyAsync(() -> V.fJ).join()"),
    ],
    statements: &[
        opens("for (var N : V.lJ) {", "}"),
        opens("for (var N : V.aJ) {", "}"),
        opens("for (var entry_N : V.dJ.entrySet()) { var N = entry_N.getValue();", "}"),
        opens("for (var N = V.fJ; N != null; N = null) {", "}"),
        opens("V.lJ.forEach(N -> {", "});"),
        opens("V.dJ.forEach((key_N, N) -> {", "});"),
        opens("V.oJ.ifPresent(N -> {", "});"),
        opens("synchronized (V) { var N = V.mJ();", "}"),
        opens("try { var N = V.fJ;", "} finally { }"),
        both("if (!(other instanceof KJ N)) return; var old_N = V.f0;"),
        both("KJ N; N = V.fJ;"),
    ],
};

const KOTLIN: Tongue = Tongue {
    extension: "kt",
    class: "package moss\nclass KI {\nMEMBERS}\n",
    member: "lateinit var fJ: KJ; fun mJ(): KJ = fJ; val lJ: List<KJ> = listOf(); val dJ: Map<String, KJ> = mapOf(); val gJ: (Int) -> KJ = { fJ }; lateinit var bJ: Box<KJ>; val qJ: KJ? = null; val aJ: Array<KJ> = arrayOf(); val rJ: List<List<KJ>> = listOf(); val pJ: Pair<Int, KJ> get() = 1 to fJ; val sJ: Sequence<KJ> = sequenceOf()\n",
    boxes: "package moss\nclass Box<T>(val held: T) { fun open(): T = held }\n",
    user: "package moss\nclass User { fun f(k0: K0, wet: Boolean, other: Any) {\nBODY} }\n",
    names: &[from("val N = EXPRESSION"), both("val N: KJ = EXPRESSION")],
    last: "val last = V.f0",
    values: &[
        from("V.fJ"),
        from("V.mJ()"),
        from("V.lJ[0]"),
        from("V.aJ[0]"),
        from("V.lJ.first()"),
        from("V.sJ.first()"),
        from("V.dJ[\"a\"]!!"),
        from("V.dJ.getValue(\"a\")"),
        from("V.dJ.values.first()"),
        from("V.gJ(1)"),
        from("V.gJ.invoke(1)"),
        boxed("V.bJ.held"),
        boxed("V.bJ.open()"),
        from("V.qJ!!"),
        from("V.qJ ?: V.mJ()"),
        from("V.qJ ?: error(\"none\")"),
        from("V.rJ[0][1]"),
        from("V.rJ.flatten().first()"),
        from("V.pJ.second"),
        both("V.lJ.first { it.f0 == it.f1 }"),
        both("V.lJ.filter { x -> x.f0 == x.f1 }.last()"),
        both("V.lJ.map { it.fJ }.first()"),
        both("V.lJ.map { x -> x.mJ() }.filter { it.f0 == it.f1 }.sortedBy { 1 }[0]"),
        both("V.lJ.associateBy { it.f0.hashCode() }.values.first()"),
        from("V.let { it.fJ }"),
        from("V.run { fJ }"),
        from("with(V) { mJ() }"),
        both("V.fJ.also { it.f0 }"),
        both("V.fJ.apply { f0 }"),
        from("V?.fJ!!"),
        from("(V.fJ)"),
        from("if (wet) V.fJ else V.mJ()"),
        from("when { wet -> V.fJ; else -> V.mJ() }"),
        from("listOf(V.fJ)[0]"),
        from("requireNotNull(V.qJ)"),
        to("other as KJ"),
        to("(other as KJ)"),
        to("KJ()"),
        to("listOf<KJ>()[0]"),
        from("if (wet) V.fJ else null!!"),
        from("(if (wet) V.fJ else V.mJ())"),
        from("when (V.qJ) { null -> V.fJ; else -> V.mJ() }"),
        from("V.lJ.toList()[0]"),
        from("V.lJ.toMutableList()[0]"),
        from("V.lJ.associateWith { 1 }.keys.first()"),
        from("V.lJ.groupBy { 1 }[1]!![0]"),
        from("V.lJ.groupBy { 1 }.values.first().first()"),
        from("V.lJ.partition { true }.first[0]"),
        from("V.lJ.withIndex().first().value"),
        from("V.lJ.fold(V.fJ) { a, b -> b }"),
        from("V.lJ.reduce { a, b -> b }"),
        from("V.lJ.maxByOrNull { 1 }!!"),
        from("V.lJ.firstOrNull()!!"),
        from("V.lJ.find { true }!!"),
        from("V.lJ.single()"),
        from("V.lJ.getOrNull(0)!!"),
        from("V.lJ.getOrElse(0) { V.fJ }"),
        from("V.lJ.asSequence().map { it }.first()"),
        from("V.lJ.mapNotNull { it }.first()"),
        from("V.lJ.flatMap { listOf(it) }.first()"),
        from("V.lJ.windowed(2)[0][0]"),
        from("V.lJ.chunked(2).first().first()"),
        from("V.lJ.filterNotNull().first()"),
        both("V.lJ.filterIsInstance<KJ>().first()"),
        from("V.lJ.sortedWith(compareBy { 1 }).first()"),
        from("V.lJ.reversed().drop(1).take(1).distinct()[0]"),
        from("(V.lJ + V.lJ)[0]"),
        from("(V.lJ + V.fJ).last()"),
        from("V.dJ.entries.first().value"),
        from("V.dJ.map { it.value }.first()"),
        from("V.dJ.map { (k, v) -> v }[0]"),
        from("V.dJ.filter { it.key == \"a\" }.values.first()"),
        from("V.dJ.mapValues { it.value }[\"a\"]!!"),
        from("V.dJ.toList()[0].second"),
        from("V.dJ.getOrDefault(\"a\", V.fJ)"),
        from("V.dJ.getOrElse(\"a\") { V.fJ }"),
        from("mutableMapOf(\"a\" to V.fJ)[\"a\"]!!"),
        from("arrayOf(V.fJ)[0]"),
        from("setOf(V.fJ).first()"),
        from("sequenceOf(V.fJ).first()"),
        from("lazy { V.fJ }.value"),
        from("run { V.fJ }"),
        from("V.fJ.takeIf { true }!!"),
        from("V.takeUnless { false }!!.fJ"),
        from("V.apply { mJ() }.fJ"),
        from("V.qJ?.let { it }!!"),
        from("checkNotNull(V.qJ)"),
        from("runCatching { V.fJ }.getOrThrow()"),
        from("runCatching { V.fJ }.getOrNull()!!"),
        from("try { V.fJ } catch (e: Exception) { V.mJ() }"),
        to("(other as? KJ)!!"),
        from("V.pJ.let { (a, b) -> b }"),
    ],
    statements: &[
        opens("for (N in V.lJ) {", "}"),
        opens("for ((index_N, N) in V.lJ.withIndex()) {", "}"),
        opens("for ((key_N, N) in V.dJ) {", "}"),
        opens("V.lJ.forEach { N ->", "}"),
        opens("V.dJ.forEach { (key_N, N) ->", "}"),
        opens("V.fJ.let { N ->", "}"),
        opens("V.qJ?.let { N ->", "}"),
        opens("try { val N = V.mJ()", "} finally { }"),
        opens("val (one_N, N) = V.pJ; run {", "}"),
        both("if (other !is KJ) return; val N = other; V.f0"),
        from("val N by lazy { V.fJ }"),
        both("fun make_N(): KJ = V.fJ; val N = make_N()"),
    ],
};

/// One line: which of the known values it starts from, the class that it leads to, and how.
#[derive(Clone, Debug)]
struct Line {
    value: prop::sample::Index,
    to: usize,
    is_statement: bool,
    way: prop::sample::Index,
    name: prop::sample::Index,
}

fn lines() -> impl Strategy<Value = Vec<Line>> {
    let index = any::<prop::sample::Index>;
    let line = (index(), 0..CLASSES, prop::bool::weighted(0.3), index(), index());
    let line =
        line.prop_map(|(value, to, is_statement, way, name)| Line { value, to, is_statement, way, name });
    vec(line, 1..7)
}

/// `text` with `by` in place of the word `word`, where it stands alone.
fn with_word(text: &str, word: char, by: &str) -> String {
    let is_part = |character: Option<char>| character.is_some_and(|it| it.is_alphanumeric() || it == '_');
    let alone = |place: usize| {
        !is_part(text[..place].chars().next_back())
            && !is_part(text[place + word.len_utf8()..].chars().next())
    };
    let filled = text.char_indices().map(|(place, character)| match character == word && alone(place) {
        true => by.to_owned(),
        false => character.to_string(),
    });
    filled.collect()
}

impl Tongue {
    fn path(&self, name: &str) -> String {
        format!("moss/{name}.{}", self.extension)
    }

    fn project(&self) -> Vec<(String, String)> {
        let class = |own: usize| {
            let members = (0..CLASSES)
                .map(|to| self.member.replace("KJ", &format!("K{to}")).replace('J', &to.to_string()));
            self.class.replace("KI", &format!("K{own}")).replace("MEMBERS", &members.collect::<String>())
        };
        let classes = (0..CLASSES).map(|own| (self.path(&format!("K{own}")), class(own)));
        classes.chain([(self.path("Box"), self.boxes.to_owned())]).collect()
    }

    /// The code of these lines, and the files that it uses.
    fn written(&self, lines: &[Line]) -> (String, BTreeSet<String>) {
        // The parameter spells its class.
        let mut known = vec![("k0".to_owned(), 0usize)];
        let mut used: BTreeSet<String> = BTreeSet::from([self.path("K0")]);
        let (mut body, mut closing) = (String::new(), Vec::new());
        for (at, line) in lines.iter().enumerate() {
            let (value, class) = known[line.value.index(known.len())].clone();
            let mut note = |way: &Way| {
                let (from, to, boxes) = way.uses;
                let files =
                    [(from, format!("K{class}")), (to, format!("K{}", line.to)), (boxes, "Box".to_owned())];
                used.extend(files.iter().filter(|(uses, _)| *uses).map(|(_, file)| self.path(file)));
            };
            let text = if line.is_statement {
                let way = &self.statements[line.way.index(self.statements.len())];
                note(way);
                closing.push(way.closes);
                way.text.to_owned()
            } else {
                let way = &self.values[line.way.index(self.values.len())];
                let name = &self.names[line.name.index(self.names.len())];
                note(way);
                if name.uses.1 {
                    note(&to(""));
                }
                name.text.replace("EXPRESSION", way.text)
            };
            let new = format!("v{at}");
            let text =
                text.replace("_N", &format!("_{new}")).replace("KJ", "#").replace('J', &line.to.to_string());
            let named = with_word(&with_word(&text, 'N', &new), 'V', &value);
            body.push_str(&format!("{}\n", named.replace('#', &format!("K{}", line.to))));
            known.push((new, line.to));
        }
        let (value, class) = &known[known.len() - 1];
        body.push_str(&with_word(self.last, 'V', value));
        body.push('\n');
        used.insert(self.path(&format!("K{class}")));
        closing.iter().rev().for_each(|close| body.push_str(close));
        (self.user.replace("BODY", &body), used)
    }

    fn judge(&self) {
        let classes = self.project();
        for_many((400, 11), &lines(), |lines| {
            let (text, expected) = self.written(&lines);
            let user = self.path("User");
            let files = classes.iter().map(|(path, text)| (&**path, &**text));
            let files: Vec<(&str, &str)> = files.chain([(&*user, &*text)]).collect();
            let found: BTreeSet<String> = used_by(&user, &files).into_iter().collect();
            prop_assert_eq!(found, expected, "{}", text);
            Ok(())
        });
    }
}

#[test]
fn in_csharp() {
    CSHARP.judge();
}

#[test]
fn in_java() {
    JAVA.judge();
}

#[test]
fn in_kotlin() {
    KOTLIN.judge();
}
