//! Members that values of C# have, though no name spells the type of the value: each body with the files that the
//! compiler binds its names to (`B`, `G`, `L`), as `NamesJudge.cs` says them.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test may fail loudly")]

mod common;

use common::used_by;

const GROUND: &str = r#"namespace Moss {
public class Ground { public int Depth() { return 1; } }
public class Wide { public int Width; public Wide Next; public static Wide operator +(Wide a, Wide b) => a; }
}
"#;
const LABELS: &str = r#"namespace Moss { public class Label { public Ink Ink; public int this[int i] => i; } public class Ink { public int Shade() => 1; } 
public class Trouble : System.Exception { } }
"#;
const BEDS: &str = r#"using System.Collections.Generic;
namespace Moss {
public class Bed : Ground { public Label Label { get; set; } public void Deconstruct(out Label l, out Wide w) { l = null; w = null; } }
public class Pot : Wide { public Bed Bed; public bool TryGet(int n, out Bed bed) { bed = null; return true; } public (Bed bed, Wide wide) Pair() => default; public IEnumerable<Bed> All() { yield break; } public event System.Action<Bed> Grown; public static Pot operator -(Pot a) => a; }
public struct Row { public Label Label; }
public enum Kind { A, B }
public static class Ext { public static Bed First(this IEnumerable<Bed> beds) => null; public static Label Mark(this Pot pot) => null; }
}
"#;

/// Members of a class, with the files that their names lead to.
const BODIES: &[(&str, &str)] = &[
    (
        "int F(object o) => o switch { Pot p => p.Width, Bed { Label: { } l } => l.Ink.Shade(), _ => 0 };",
        "B G L",
    ),
    ("int F(Bed b) { if (b is { Label: var l }) return l.Ink.Shade(); return 0; }", "B L"),
    ("int F(Pot p) { return p.TryGet(1, out var bed) ? bed.Depth() : 0; }", "B G"),
    (
        r#"int F(Dictionary<string, Bed> all) { if (all.TryGetValue("a", out var bed)) return bed.Depth(); return 0; }"#,
        "B G",
    ),
    ("int F(Pot p) { var (bed, wide) = p.Pair(); return bed.Depth() + wide.Width; }", "B G"),
    ("int F(Pot p) { var pair = p.Pair(); return pair.bed.Depth() + pair.Item2.Width; }", "B G"),
    ("int F(Bed b) { var (l, w) = b; return l.Ink.Shade() + w.Width; }", "B G L"),
    (
        "int F(List<Bed> beds) => beds.Where(b => b.Depth() > 1).OrderBy(b => b.Label).Select(b => b.Label.Ink).Sum(i => i.Shade());",
        "B G L",
    ),
    (
        "int F(List<Bed> beds) => (from b in beds where b.Depth() > 1 let l = b.Label orderby l.Ink select l.Ink.Shade()).Sum();",
        "B G L",
    ),
    ("async Task<int> F(Task<Bed> t) => (await t).Depth();", "B G"),
    (
        "async Task<int> F(Task<Bed> t) { var b = await t.ConfigureAwait(false); return b.Label.Ink.Shade(); }",
        "B L",
    ),
    (
        "int F(Pot p) { p.Grown += bed => bed.Depth(); p.Grown += (Bed b) => b.Label.Ink.Shade(); p.Grown += delegate (Bed b) { b.Depth(); }; return 0; }",
        "B G L",
    ),
    ("int F(Pot p) { int Inner(Bed b) => b.Depth(); return Inner(p.Bed); }", "B G"),
    ("Bed G() => null; int F() { return G()?.Label?.Ink?.Shade() ?? throw new Trouble(); }", "B L"),
    ("int F(Bed[] beds, int i) => beds[i].Depth() + beds[^1].Label.Ink.Shade();", "B G L"),
    (
        "int F(List<Bed[]> beds) { foreach (var row in beds) foreach (var b in row) return b.Depth(); return 0; }",
        "B G",
    ),
    ("int F(Lazy<Bed> b) => b.Value.Depth();", "B G"),
    ("int F(Func<Bed> f) => f().Depth() + f.Invoke().Label.Ink.Shade();", "B G L"),
    ("int F(Row? row) => row.Value.Label.Ink.Shade() + row?.Label.Ink.Shade() ?? 0;", "B L"),
    ("int F(Pot p) => (p + p).Width + (-p).Mark().Ink.Shade();", "B G L"),
    ("int F(bool c, Bed a, Bed b) => (c ? a : b).Depth();", "B G"),
    ("int F(object o) => ((o as Bed) ?? new Bed()).Depth();", "B G"),
    (
        "int F(Pot p) { for (Bed b = p.Bed; b != null; b = null) b.Depth(); using (var x = G()) return 0; } IDisposable G() => null;",
        "B G",
    ),
    (
        "static readonly Dictionary<Kind, Label> all = new Dictionary<Kind, Label> { { Kind.A, new Label() }, [Kind.B] = new Label() }; int F() => all[Kind.A].Ink.Shade();",
        "B L",
    ),
    ("int F(IGrouping<Label, Bed> g) => g.Key.Ink.Shade() + g.First().Depth();", "B G L"),
    (
        "int F(List<Bed> beds) { var top = beds.Aggregate((a, b) => a.Depth() > b.Depth() ? a : b); return top.Label.Ink.Shade(); }",
        "B G L",
    ),
    (
        "int F(List<Bed> beds) { var x = beds.Select(b => new { b.Label, D = b.Depth() }).First(); return x.Label.Ink.Shade(); }",
        "B G L",
    ),
    ("int F(Tuple<Bed, Label> t) => t.Item1.Depth() + t.Item2.Ink.Shade();", "B G L"),
    ("int F(KeyValuePair<Bed, Label> t) => t.Key.Depth() + t.Value.Ink.Shade();", "B G L"),
    (
        "int F(Dictionary<Bed, Label> all) { foreach (var pair in all) return pair.Key.Depth() + pair.Value.Ink.Shade(); return 0; }",
        "B G L",
    ),
    (
        "int F(Dictionary<Bed, Label> all) { foreach (var (bed, label) in all) return bed.Depth() + label.Ink.Shade(); return 0; }",
        "B G L",
    ),
    ("int F(Task<List<Bed>> t) => t.Result.First().Depth();", "B G"),
    (
        "int F(ref Bed b, in Label l, params Pot[] pots) => b.Depth() + l.Ink.Shade() + pots[0].Width;",
        "B G L",
    ),
    ("int F(Wide w) => w.Next.Next.Next.Width;", "G"),
    ("int F(Label l) => l[3] + l.Ink[2]; ", "L"),
    (
        "event EventHandler<Bed> Grown; void F(Bed b) => Grown?.Invoke(this, b); void H() { Grown += (sender, b) => b.Depth(); }",
        "B G",
    ),
    ("Label Label => null; int F() => Label.Ink.Shade(); int G() => this.Label.Ink.Shade();", "L"),
    (
        "int F(object o) { switch (o) { case Bed b when b.Depth() > 1: return b.Label.Ink.Shade(); case Pot p: return p.Width; } return 0; }",
        "B G L",
    ),
    (
        "int F(object o) { try { return 1; } catch (Trouble t) when (t.Message != null) { return t.HResult; } }",
        "L",
    ),
    ("unsafe int F(Row* r) => r->Label.Ink.Shade();", "B L"),
    (
        "int F(Bed b) { Action<Bed, Label> a = (x, y) => { x.Depth(); y.Ink.Shade(); }; Func<Bed, Label> f = x => x.Label; return f(b).Ink.Shade(); }",
        "B G L",
    ),
    (
        "int F(Bed b) { var list = new List<Label> { b.Label }; list.ForEach(l => l.Ink.Shade()); return list.Count; }",
        "B L",
    ),
    (
        "IEnumerable<Bed> P { get { yield return new Bed(); } } int F() { foreach (var b in P) return b.Depth(); return P.ElementAt(0).Label.Ink.Shade(); }",
        "B G L",
    ),
    ("int F(object o) => o switch { Bed { Label: null } => 1, _ => 0 };", "B"),
    (
        "int F(object o) => o switch { 1 => 2, Bed { } => 1, Wide { Width: 3 } w => 0, Pot _ => 7, _ => 0 };",
        "B G",
    ),
    ("bool F(object o) => o is Bed { Label: null } || o is Wide { Width: 1 };", "B G"),
    (
        "int F(object o) { switch (o) { case Bed { Label: null }: return 1; case Wide _: return 2; case Kind.A: return 3; } return 0; }",
        "B G",
    ),
    ("int F(Kind k) => k switch { Kind.A => 1, Kind.B => 2, _ => 0 };", "B"),
    ("object F() => (Func<Bed, int>)((Bed b) => 1);", "B"),
    ("object F() { Func<object, int> f = (object b) => { return b is Wide ? 1 : 0; }; return f; }", "G"),
    (
        "object F() { return new Dictionary<Kind, Func<object>> { [Kind.A] = () => new Bed(), [Kind.B] = () => new Label() }; }",
        "B L",
    ),
    ("object F(object o) { if (!(o is Bed b)) return null; return b.Label; }", "B"),
    ("void F() { Action<Bed> a = delegate { }; a += delegate (Bed x) { x.Depth(); }; }", "B G"),
    ("object F(object x) => x as Bed ?? (object)(x as Wide);", "B G"),
    ("object F() => default(Row).Label; Row G(Row r = default) => r;", "B"),
    ("object F() => typeof(List<>).MakeGenericType(typeof(Bed)); object H() => nameof(Label.Ink);", "B L"),
    ("static implicit operator User(Bed b) => null; static explicit operator Wide(User u) => null;", "B G"),
    ("Bed this[Label l, int n] { get => null; set { value.Depth(); } }", "B G L"),
    (
        "object F() { Bed[] a = { new Bed() }; var b = new[] { new Wide() }; var c = new Label[2, 3]; return a; }",
        "B G L",
    ),
    (r#"object F() => $"{new Bed().Depth():X} {(true ? new Wide() : null)}";"#, "B G"),
    (
        "object F(IEnumerable<object> o) => o.OfType<Bed>().Select(b => b.Depth()).Concat(o.Cast<Wide>().Select(w => w.Width));",
        "B G",
    ),
    (
        "Task<Bed> F() => Task.FromResult<Bed>(null); async Task G() { (await F()).Depth(); var b = await F(); b.Label.Ink.Shade(); }",
        "B G L",
    ),
    (
        "unsafe void F() { Row r; Row* p = &r; var q = stackalloc Row[3]; fixed (Row* s = new Row[1]) { s->Label.Ink.Shade(); } }",
        "B L",
    ),
    ("[Obsolete(nameof(Bed))] void F([System.Runtime.InteropServices.In] Wide w) { }", "B G"),
    ("object F() { goto end; end: return new Bed(); }", "B"),
    ("object F(bool a) => a ? new Bed() : a ? (object)new Wide() : new Label();", "B G L"),
    (
        "void F<T>(T t) where T : Bed, new() { var x = new T(); x.Depth(); T y = default; y.Label.Ink.Shade(); }",
        "B G L",
    ),
    ("class In<T> where T : Wide { T held; int F() => held.Width; int G(List<T> l) => l[0].Width; } ", "G"),
    (
        "interface I { Bed B { get; } } class Im : I { Bed I.B => null; } int F(I i) => i.B.Depth(); int G(Im i) => ((I)i).B.Label.Ink.Shade();",
        "B G L",
    ),
    (
        "delegate Bed Make(Label l); Make make; int F() => make(null).Depth(); int G(Make m) => m.Invoke(null).Label.Ink.Shade();",
        "B G L",
    ),
    ("enum E { A = Kind2.X } enum Kind2 { X } const Kind K = Kind.A; object F() => K;", "B"),
    ("int F(Bed b) => ((Func<Bed, Label>)(x => x.Label))(b).Ink.Shade();", "B L"),
    (
        "int F(SortedList<int, Bed> l) { foreach (KeyValuePair<int, Bed> p in l) p.Value.Depth(); return l.Values[0].Depth() + l[3].Depth(); }",
        "B G",
    ),
    (
        "int F(Stack<Bed> s, Queue<Label> q, HashSet<Wide> h) => s.Pop().Depth() + q.Dequeue().Ink.Shade() + h.First().Width;",
        "B G L",
    ),
    ("int F(LinkedList<Bed> l) => l.First.Value.Depth() + l.First.Next.Value.Depth();", "B G"),
    ("int F(WeakReference<Bed> w) { return w.TryGetTarget(out var b) ? b.Depth() : 0; }", "B G"),
    (
        r#"int F(IDictionary<string, List<Bed>> d) { List<Bed> l; if (!d.TryGetValue("", out l)) return 0; return d["x"][0].Depth() + l[1].Label.Ink.Shade(); }"#,
        "B G L",
    ),
    (
        r#"int F(IDictionary<string, List<Bed>> d) { foreach (var l in d.Values) foreach (var b in l) return b.Depth(); return d["x"].First().Depth(); }"#,
        "B G",
    ),
    (
        "int F(List<Bed> l) => l.Find(b => b.Depth() > 0).Label.Ink.Shade() + l.Max(b => b.Label.Ink.Shade());",
        "B G L",
    ),
    (
        "int F(List<Bed> l) { l.Sort((a, b) => a.Depth() - b.Label.Ink.Shade()); return l.Any(x => x.Depth() > 0) ? 1 : 0; }",
        "B G L",
    ),
    (
        "int F(Pot p) { p.Bed.Label = new Label(); p.Bed.Label.Ink = new Ink(); return p.Bed.Label.Ink.Shade(); }",
        "B L",
    ),
    ("int F() { try { return 0; } catch (Trouble) { throw; } finally { new Bed().Depth(); } }", "B G L"),
];

#[test]
fn each_body_leads_to_the_files_that_the_compiler_binds() {
    let mut wrong = Vec::new();
    for (body, expected) in BODIES {
        let usings = "using System; using System.Linq; using System.Collections.Generic; using System.Threading.Tasks;";
        let user = format!("{usings}\nnamespace Moss {{ class User {{ {body} }} }}\n");
        let files = [("G.cs", GROUND), ("L.cs", LABELS), ("B.cs", BEDS), ("User.cs", &*user)];
        let found = used_by("User.cs", &files).join(" ").replace(".cs", "");
        if found != *expected {
            wrong.push(format!("{body}\n  leads to {found:?}, not to {expected:?}"));
        }
    }
    assert!(wrong.is_empty(), "{} of {}:\n{}", wrong.len(), BODIES.len(), wrong.join("\n"));
}
