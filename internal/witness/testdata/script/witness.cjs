// A witness: counts, by probes of its own on every statement and every function, what
// runs of a project in CommonJS. It knows nothing of Thrush.
"use strict";
const fs = require("fs");
const path = require("path");
const Module = require("module");
const at = process.env.WITNESS_MODULES;
const acorn = require(path.join(at, "acorn"));
const walk = require(path.join(at, "acorn-walk"));

const root = process.env.WITNESS_ROOT + path.sep;
const counts = {};
globalThis.__witness = counts;

const silent = new Set(["FunctionDeclaration", "EmptyStatement", "BlockStatement", "ImportDeclaration", "LabeledStatement", "TryStatement"]);

function weave(text, name) {
	const edits = [];
	const tree = acorn.parse(text, { ecmaVersion: "latest", sourceType: "script", allowReturnOutsideFunction: true, locations: true, allowHashBang: true });
	const probe = (node, kind) => {
		const key = JSON.stringify(`${name}:${node.loc.start.line}:${node.loc.start.column + 1}:${kind}`);
		counts[JSON.parse(key)] = 0;
		return `__witness[${key}]++;`;
	};
	const counted = (s) => !silent.has(s.type) && !s.directive && !(s.type === "VariableDeclaration" && s.kind !== "const" && s.declarations.every((d) => !d.init));
	const list = (body) =>
		body.forEach((s) => {
			// A label and its statement are one.
			const of = s.type === "LabeledStatement" ? s.body : s;
			if (counted(of)) edits.push([s.start, probe(of, "s")]);
		});
	const under = (s) => {
		if (!s || s.type === "BlockStatement" || s.type === "FunctionDeclaration") return;
		edits.push([s.start, "{" + (counted(s) ? probe(s, "s") : "")], [s.end, "}"]);
	};
	const entry = (f) => {
		if (f.body.type !== "BlockStatement") {
			edits.push([f.body.start, `{${probe(f, "f")}${probe(f.body, "s")}return `], [f.body.end, "}"]);
			return;
		}
		const first = f.body.body.find((s) => !s.directive);
		edits.push([first ? first.start : f.body.end - 1, probe(f.named || f, "f")]);
	};
	// A method begins where its name, or what is said before it, does.
	walk.full(tree, (n) => {
		if (n.type === "MethodDefinition" || (n.type === "Property" && (n.method || n.kind !== "init"))) n.value.named = n;
	});
	walk.full(tree, (n) => {
		if (n.type === "Program" || n.type === "BlockStatement" || n.type === "StaticBlock") list(n.body);
		if (n.type === "SwitchCase") list(n.consequent);
		if (n.type === "IfStatement") {
			under(n.consequent);
			if (n.alternate && n.alternate.type !== "IfStatement") under(n.alternate);
			else if (n.alternate) edits.push([n.alternate.start, "{" + probe(n.alternate, "s")], [n.alternate.end, "}"]);
		}
		if (/^(For|While|DoWhile|ForIn|ForOf)Statement$/.test(n.type)) under(n.body);
		if (/Function/.test(n.type)) entry(n);
	});
	// At one place: what ends, the inner first; functions before the statements in them.
	edits.forEach((e, i) => (e[2] = i));
	edits.sort((a, b) => a[0] - b[0] || (a[1] === "}" ? 0 : 1) - (b[1] === "}" ? 0 : 1) || (/:f"\]/.test(b[1]) ? 1 : 0) - (/:f"\]/.test(a[1]) ? 1 : 0) || b[2] - a[2]);
	let out = "", done = 0;
	for (const [where, say] of edits) {
		out += text.slice(done, where) + say;
		done = where;
	}
	return out + text.slice(done);
}

const compile = Module.prototype._compile;
Module.prototype._compile = function (text, name) {
	if (name.startsWith(root) && !/node_modules|[\\/]tests?[\\/]|\.config\./.test(name.slice(root.length))) text = weave(text, name.slice(root.length));
	return compile.call(this, text, name);
};
process.on("exit", () => {
	fs.writeFileSync(path.join(process.env.WITNESS_TO, process.pid + ".json"), JSON.stringify(counts));
});
