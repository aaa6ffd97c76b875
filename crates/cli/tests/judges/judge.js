// Prints, for each pair of files below a folder of which one imports the other, `from,to`: the compiler's own parser
// finds the imports, and the compiler's own resolution finds the files.
//     node judge.js TYPESCRIPT FOLDER [node16]
// With `node16` packages are opened by their maps of `exports` and `imports`, and relative names need their endings.
"use strict";
const ts = require(process.argv[2]);
const path = require("path");
const fs = require("fs");

const root = fs.realpathSync(process.argv[3]);
const endings = [".ts", ".tsx", ".mts", ".cts", ".js", ".jsx", ".mjs", ".cjs"];
const byMaps = process.argv[4] === "node16";
const files = [];
(function list(folder) {
  for (const entry of fs.readdirSync(folder, { withFileTypes: true })) {
    if (entry.name === "node_modules" || entry.name.startsWith(".")) continue;
    const full = path.join(folder, entry.name);
    if (entry.isDirectory()) list(full);
    else if (entry.isFile() && endings.some((ending) => entry.name.endsWith(ending))) files.push(full);
  }
})(root);

const settings = new Map();
function optionsFor(file) {
  const folder = path.dirname(file);
  if (settings.has(folder)) return settings.get(folder);
  let options = {};
  const config =
    ts.findConfigFile(folder, ts.sys.fileExists, "tsconfig.json") ||
    ts.findConfigFile(folder, ts.sys.fileExists, "jsconfig.json");
  if (config && config.startsWith(root)) {
    const parsed = ts.readConfigFile(config, ts.sys.readFile);
    options = ts.parseJsonConfigFileContent(parsed.config || {}, ts.sys, path.dirname(config)).options;
  }
  options = { ...options, allowJs: true, resolveJsonModule: true };
  options.moduleResolution = byMaps ? ts.ModuleResolutionKind.Node16 : ts.ModuleResolutionKind.NodeJs;
  settings.set(folder, options);
  return options;
}

const shadowed = (node, name) => {
  for (let at = node.parent; at; at = at.parent) {
    if (at.parameters && at.parameters.some((p) => ts.isIdentifier(p.name) && p.name.text === name)) return true;
  }
  return false;
};

function specifiers(source, script) {
  const found = [];
  const literal = (node) => node && ts.isStringLiteralLike(node) && found.push(node.text);
  (function visit(node) {
    if (ts.isImportDeclaration(node) || ts.isExportDeclaration(node)) literal(node.moduleSpecifier);
    else if (ts.isExternalModuleReference(node)) literal(node.expression);
    else if (ts.isImportTypeNode(node)) literal(node.argument && node.argument.literal);
    else if (ts.isCallExpression(node)) {
      const called = node.expression;
      if (called.kind === ts.SyntaxKind.ImportKeyword) literal(node.arguments[0]);
      else if (ts.isIdentifier(called) && called.text === "require" && !shadowed(node, "require"))
        literal(node.arguments[0]);
      else if (
        ts.isPropertyAccessExpression(called) &&
        ts.isIdentifier(called.expression) &&
        called.expression.text === "require" &&
        called.name.text === "resolve"
      )
        literal(node.arguments[0]);
    }
    ts.forEachChild(node, visit);
  })(source);
  return found;
}

const lines = new Set();
for (const file of files) {
  const text = fs.readFileSync(file, "utf8");
  const script = /\.[mc]?jsx?$/.test(file);
  const source = ts.createSourceFile(file, text, ts.ScriptTarget.Latest, true);
  for (const reference of source.referencedFiles) {
    const target = path.resolve(path.dirname(file), reference.fileName);
    if (fs.existsSync(target)) lines.add(`${path.relative(root, file)},${path.relative(root, target)}`);
  }
  for (const name of specifiers(source, script)) {
    let target = null;
    if (script) {
      // A script is run, so what it names is what the runtime opens; only then what the compiler would.
      try {
        target = require.resolve(name, { paths: [path.dirname(file)] });
      } catch {}
      if (target && !path.isAbsolute(target)) target = null;
    }
    if (!target) {
      const kind = byMaps ? ts.ModuleKind.ESNext : undefined;
      const resolved = ts.resolveModuleName(name, file, optionsFor(file), ts.sys, undefined, undefined, kind).resolvedModule;
      target = resolved && resolved.resolvedFileName;
      // A script is not run from a description or a source, where what is made of them is there.
      const ending = /\.[mc]?js$/.test(name) ? path.extname(name) : ".js";
      const made = target && target.replace(/(\.d)?\.[mc]?tsx?$/, ending);
      if (script && made && fs.existsSync(made)) target = made;
    }
    if (!target || !target.startsWith(root + path.sep) || target.includes("/node_modules/")) continue;
    if (!endings.some((ending) => target.endsWith(ending))) continue;
    const [from, to] = [path.relative(root, file), path.relative(root, target)];
    if (from !== to) lines.add(`${from},${to}`);
  }
}
process.stdout.write([...lines].sort().join("\n") + "\n");
