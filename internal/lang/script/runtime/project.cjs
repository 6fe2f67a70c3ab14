// What one process of Node knows of the project: its files, their woven texts, and where
// to leave counts and notes.
"use strict";
const fs = require("fs");
const path = require("path");
const read = fs.readFileSync;

const digest = (...texts) => {
	const hash = require("crypto").createHash("sha256");
	texts.forEach((t, i) => hash.update(i > 0 ? "\0" : "").update(t));
	return hash.digest("hex").slice(0, 32);
};

// open gives it, as the list of files and the environment say, or nothing.
const open = (list, counters) => {
	const fields = read(list, "utf8").split("\0");
	const [, store, pending, modules, thrush, key, level, keep, count] = fields;
	const roots = fields.slice(9, 9 + Number(count));
	const folder = counters || (fs.existsSync(pending) ? pending : undefined);
	if (!folder) return undefined;
	const files = new Map();
	for (let i = 9 + roots.length; i + 4 < fields.length; i += 5) {
		const file = { path: fields[i], size: fields[i + 1], changed: fields[i + 2], unit: fields[i + 3], digest: fields[i + 4] };
		for (const root of roots) files.set(root + "/" + file.path, file);
	}

	const noted = new Set();
	const note = (file, why) => {
		if (noted.has(file.path + why)) return;
		noted.add(file.path + why);
		try {
			fs.appendFileSync(path.join(folder, "n" + process.pid), JSON.stringify({ path: file.path, why }) + "\n");
		} catch {}
	};

	// woven gives the text with probes of a file, if it is as it was when it was woven.
	const texts = new Map();
	const woven = (file, name) => {
		const stat = fs.statSync(name, { bigint: true });
		const known = texts.get(name);
		if (known && known.changed === stat.mtimeNs && known.size === stat.size) return known;
		const plain = read(name);
		if (String(stat.size) !== file.size || String(stat.mtimeNs) !== file.changed) {
			if (digest(plain) !== file.digest) {
				note(file, "it changed while the command ran");
				return undefined;
			}
		}
		const out = { changed: stat.mtimeNs, size: stat.size, plain: plain.toString(), text: read(path.join(store, file.unit + ".woven"), "utf8") };
		texts.set(name, out);
		return out;
	};
	const own = (name) => roots.some((root) => name.startsWith(root + "/")) && !/[\\/]node_modules[\\/]/.test(name);
	return { list, counters, files, store, folder, modules: modules === "modules", thrush, key, level, keep, root: roots[0], own, note, woven };
};

module.exports = { open, digest, read };
