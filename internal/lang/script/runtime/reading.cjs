// Gives the woven text of a file to those that read it to run it.
"use strict";
const fs = require("fs");
const path = require("path");
const { read } = require("./project.cjs");

const types = /\.[cm]?tsx?$/;
const outputs = /\.[cm]?jsx?$/;
const loaders = /^node:internal\/modules\/|[\\/]node_modules[\\/](@jest[\\/]transform|jest-runtime|tsx|vite|vite-node|rolldown-vite)[\\/]/;
// What is built to be kept is not to be woven.
const bundlers = /[\\/]node_modules[\\/](rollup|rolldown)[\\/]/;
// Types are checked in the text as it was written.
const checkers = /[\\/]node_modules[\\/](ts-node|ts-jest)[\\/]dist[\\/]/;
const checked = () => !process.env.TS_NODE_TRANSPILE_ONLY && Object.keys(require.cache).some((name) => checkers.test(name));

// runs tells by where a function that reads was called from whether it was to run the file,
// and not to look at it.
const runs = (name, below) => {
	const limit = Error.stackTraceLimit;
	const prepare = Error.prepareStackTrace;
	const at = {};
	Error.stackTraceLimit = 3;
	Error.prepareStackTrace = (_, frames) => frames.map((f) => f.getFileName() ?? "");
	Error.captureStackTrace(at, below);
	const from = at.stack;
	Error.stackTraceLimit = limit;
	Error.prepareStackTrace = prepare;
	return loaders.test(from[0]) && !from.some((f) => bundlers.test(f)) && !(types.test(name) && checked());
};

// named gives the path that a name or an address stands for.
const named = (name) => {
	if (typeof name === "string") return name;
	return name instanceof URL && name.protocol === "file:" ? require("url").fileURLToPath(name) : undefined;
};

// What a loader reads runs once in one place, so its counters may be a constant.
const once = (text) => text?.replace(/var (_thrush[0-9a-f]{8}v),(_thrush[0-9a-f]{8}=)/, "var $1;const $2");

const encoded = (text, options) => {
	const encoding = typeof options === "string" ? options : options?.encoding;
	return encoding ? text : Buffer.from(text);
};

module.exports = ({ files, woven, own }, lead, compiles) => {
	const instead = (name, below) => {
		name = named(name);
		if (name === undefined) return undefined;
		const full = path.isAbsolute(name) ? name : path.resolve(name);
		const known = files.get(full);
		if (known) return runs(name, below) ? once(woven(known, name)?.text) : undefined;
		if (full.endsWith("/ts-node/dist/index.js")) compiles();
		return outputs.test(full) && own(full) && runs(name, below) ? once(lead(full, read(full, "utf8"))?.text) : undefined;
	};
	fs.readFileSync = function readFileSync(name, options) {
		try {
			const text = instead(name, readFileSync);
			if (text !== undefined) return encoded(text, options);
		} catch {}
		return read.call(this, name, options);
	};
	const later = fs.promises.readFile;
	fs.promises.readFile = function readFile(name, options) {
		try {
			const text = instead(name, readFile);
			if (text !== undefined) return Promise.resolve(encoded(text, options));
		} catch {}
		return later.call(this, name, options);
	};
};
module.exports.named = named;
