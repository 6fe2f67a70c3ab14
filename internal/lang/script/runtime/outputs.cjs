// Weaves what a tool made of sources, with the sites led back by its source map
// (ECMA-426). Thrush itself does it, and keeps what it made.
"use strict";
const fs = require("fs");
const path = require("path");
const { fileURLToPath } = require("url");
const { digest, read } = require("./project.cjs");

const SCHEME = /^[a-z][a-z0-9+.-]*:\/\/[^/]*\/*/i;

const decoded = (name) => {
	try {
		return decodeURIComponent(name);
	} catch {
		return name;
	}
};

const COMMENT = "//# sourceMappingURL=";

// mapOf gives the source map that a text names, and the folder that its names start from.
const mapOf = (name, text) => {
	const at = text.lastIndexOf(COMMENT);
	const url = at < 0 ? undefined : /^\S+/.exec(text.slice(at + COMMENT.length))?.[0];
	if (!url) return undefined;
	if (url.startsWith("data:")) {
		const [head, body] = [url.slice(0, url.indexOf(",")), url.slice(url.indexOf(",") + 1)];
		return { text: head.endsWith(";base64") ? Buffer.from(body, "base64").toString() : decodeURIComponent(body), folder: path.dirname(name) };
	}
	if (/^[a-z][a-z+.-]+:/i.test(url)) return undefined;
	const file = path.resolve(path.dirname(name), decodeURIComponent(url.split("?")[0]));
	return { text: read(file, "utf8"), folder: path.dirname(file) };
};

// sourcesOf lists the sources of a map, and of its sections, in their order.
const sourcesOf = (map, out = []) => {
	for (const s of map.sections ?? []) sourcesOf(s.map, out);
	const root = map.sourceRoot ? map.sourceRoot.replace(/\/$/, "") + "/" : "";
	(map.sources ?? []).forEach((name, i) => {
		const full = name == null || name.startsWith("/") || name.includes("://") ? name : root + name;
		out.push({ name: full, text: map.sourcesContent?.[i] });
	});
	return out;
};

module.exports = (project) => {
	const { files, store, note, woven } = project;

	// places gives the paths that the name of a source may mean, by the rule that the package
	// sourcemap of Thrush has as well: relative to the folder of the map, or, for the URLs
	// that bundlers make up, to that folder or one above it in the project.
	const places = (name, folder) => {
		const plain = name.replace(/[?#].*$/, "");
		if (plain.startsWith("file:")) return [fileURLToPath(plain)];
		if (!SCHEME.test(plain)) return [path.resolve(folder, name), path.resolve(folder, decoded(plain))];
		const out = [];
		for (let dir = folder; dir === project.root || dir.startsWith(project.root + "/"); dir = path.dirname(dir)) out.push(dir);
		return (out.length ? out : [project.root]).map((dir) => path.join(dir, plain.replace(SCHEME, "")));
	};

	// known finds a source of the project by the name that a map has for it.
	const known = (name, folder) => (name == null || name === "" ? undefined : places(name, folder).find((n) => files.has(n)));

	// ours tells which sources of the project an output was made of, as they are now.
	const ours = (name, map) => {
		let any = false;
		const list = sourcesOf(JSON.parse(map.text.replace(/^\ufeff?(\)\]\}.*\n)?/, ""))).map((s) => {
			const at = known(s.name, map.folder);
			const file = at && files.get(at);
			const w = file && woven(file, at);
			if (!w) return undefined;
			if (typeof s.text === "string" ? s.text !== w.plain : at !== name && fs.existsSync(name) && w.changed > fs.statSync(name, { bigint: true }).mtimeNs) {
				note(file, "what ran in its place was built before it changed");
				return undefined;
			}
			any = true;
			return file;
		});
		return any ? list : undefined;
	};

	const made = new Map();
	// lead gives the woven text of an output that is to run under a name, or nothing if no
	// source of the project is in it.
	const lead = (name, text) => {
		if (text.includes('Symbol.for("thrush")') || !module.exports.names(text)) return undefined;
		const map = mapOf(name, text);
		const sources = map && ours(name, map);
		if (!sources) return undefined;
		const unit = digest(project.key, text, map.text, ...sources.map((s) => s?.unit ?? ""));
		if (made.has(unit)) return made.get(unit);
		const [to, not] = [path.join(store, unit + ".woven"), path.join(store, unit + ".not")];
		if (!fs.existsSync(to) && !fs.existsSync(not)) {
			const { level, keep, root } = project;
			const input = JSON.stringify({ text, map: map.text, sources: sources.map((s) => s?.path ?? ""), root, store, unit, level, keep });
			const env = { ...process.env, NODE_OPTIONS: "" };
			const run = require("child_process").spawnSync(project.thrush, ["weave-output"], { input, env, encoding: "utf8" });
			const why = (run.stderr || String(run.error ?? "it was stopped")).trim().replace(/^thrush: /, "");
			if (run.status === null) {
				for (const s of sources) if (s) note(s, "what a tool made of it cannot be woven: " + why);
				return undefined;
			}
			if (run.status !== 0) {
				fs.writeFileSync(not + process.pid, why);
				fs.renameSync(not + process.pid, not);
			}
		}
		let out;
		if (fs.existsSync(to)) out = { text: read(to, "utf8"), unit };
		else for (const s of sources) if (s) note(s, "what a tool made of it cannot be woven: " + read(not, "utf8"));
		made.set(unit, out);
		return out;
	};
	return lead;
};
module.exports.names = (text) => text.includes(COMMENT);
