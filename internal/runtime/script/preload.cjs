// Puts woven text in front of those that load JavaScript and TypeScript as programs.
// Thrush has Node load it before anything else, in every process and worker.
"use strict";

(() => {
	const fs = require("fs");
	const path = require("path");
	const Module = require("module");
	const { env } = process;
	const read = fs.readFileSync;
	const HEADER = 64;
	const CHUNK = 1 << 16;
	const SYMBOL = Symbol.for("thrush");

	if (!env.THRUSH_SCRIPT || globalThis[SYMBOL]) return;

	// What this process knows of the project.
	let files, store, folder, modules;
	try {
		const fields = read(env.THRUSH_SCRIPT, "utf8").split("\0");
		store = fields[1];
		folder = env.THRUSH_COUNTERS || (fs.existsSync(fields[2]) ? fields[2] : undefined);
		modules = fields[3] === "modules";
		const roots = Number(fields[4]);
		files = new Map();
		for (let i = 5 + roots; i + 4 < fields.length; i += 5) {
			const file = { path: fields[i], size: fields[i + 1], changed: fields[i + 2], unit: fields[i + 3], digest: fields[i + 4] };
			for (let r = 0; r < roots; r++) files.set(fields[5 + r] + "/" + file.path, file);
		}
	} catch {
		return;
	}
	if (!folder) return;

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
			const found = require("crypto").createHash("sha256").update(plain).digest("hex").slice(0, 32);
			if (found !== file.digest) {
				note(file, "it changed while the command ran");
				return undefined;
			}
		}
		const out = { changed: stat.mtimeNs, size: stat.size, plain: plain.toString(), text: read(path.join(store, file.unit + ".woven"), "utf8") };
		texts.set(name, out);
		return out;
	};

	// Counters lie in a file that is mapped, or, where that cannot be, are written to one
	// when the process ends.
	let addon, file = -1, used = 0, there = 0;
	const kept = [];
	const blocks = new Map();
	const load = () => {
		addon = null;
		try {
			const m = { exports: {} };
			process.dlopen(m, path.join(__dirname, `counters-${{ x64: "x86_64", arm64: "aarch64" }[process.arch]}.node`));
			const name = (n) => path.join(folder, `p${process.pid}-${n}`);
			for (let n = 0; n < 4096 && file < 0; n++) if (!fs.existsSync(name(n))) file = m.exports.open(name(n));
			if (file >= 0) addon = m.exports;
		} catch {}
		if (!addon) process.on("exit", write);
	};
	const write = () => {
		for (let n = 0; n < 4096; n++) {
			try {
				return fs.writeFileSync(path.join(folder, `p${process.pid}-j${n}`), Buffer.concat(kept.map((b) => Buffer.from(b))), { flag: "wx" });
			} catch (e) {
				if (e.code !== "EEXIST") return;
			}
		}
	};
	const counters = (unit, n, width) => {
		const key = unit + width;
		if (blocks.has(key)) return blocks.get(key);
		if (addon === undefined) load();
		const bytes = Math.ceil((HEADER + Math.max(n, 1) * width) / HEADER) * HEADER;
		let buffer;
		if (addon) {
			if (used + bytes > there) {
				const more = Math.ceil((used + bytes - there) / CHUNK) * CHUNK;
				if (addon.grow(file, there, more) < 0) return width === 1 ? new Uint8Array(n) : new Float64Array(n);
				there += more;
			}
			buffer = addon.block(file, used, bytes);
			used += bytes;
		} else {
			kept.push((buffer = new ArrayBuffer(bytes)));
		}
		new Uint8Array(buffer).set(Buffer.from(`thrush counters\n${unit}${n.toString(16).padStart(8, "0")}${width === 1 ? 1 : "f"}`));
		const out = width === 1 ? new Uint8Array(buffer, HEADER, Math.max(n, 1)) : new Float64Array(buffer, HEADER, Math.max(n, 1));
		blocks.set(key, out);
		return out;
	};
	const seen = (global) => {
		try {
			if (!Object.prototype.hasOwnProperty.call(global, SYMBOL)) Object.defineProperty(global, SYMBOL, { value: counters });
		} catch {}
		return global;
	};
	seen(globalThis);

	// Who reads a file to run it, and not to look at it, is told by where it is called from.
	const types = /\.[cm]?tsx?$/;
	const loaders = /^node:internal\/modules\/|[\\/]node_modules[\\/](@jest[\\/]transform|jest-runtime|tsx|vite|vite-node|rolldown-vite)[\\/]/;
	const checkers = /[\\/]node_modules[\\/](ts-node|ts-jest)[\\/]dist[\\/]/;
	const checked = () => !env.TS_NODE_TRANSPILE_ONLY && Object.keys(require.cache).some((name) => checkers.test(name));
	const runs = (name, below) => {
		const limit = Error.stackTraceLimit;
		const prepare = Error.prepareStackTrace;
		const at = {};
		Error.stackTraceLimit = 1;
		Error.prepareStackTrace = (_, frames) => frames[0]?.getFileName() ?? "";
		Error.captureStackTrace(at, below);
		const from = at.stack;
		Error.stackTraceLimit = limit;
		Error.prepareStackTrace = prepare;
		return loaders.test(from) && !(types.test(name) && checked());
	};
	const named = (name) => {
		if (typeof name === "string") return name;
		return name instanceof URL && name.protocol === "file:" ? require("url").fileURLToPath(name) : undefined;
	};
	const instead = (name, below) => {
		name = named(name);
		const known = name !== undefined && files.get(path.isAbsolute(name) ? name : path.resolve(name));
		return known && runs(name, below) ? woven(known, name)?.text : undefined;
	};
	const encoded = (text, options) => {
		const encoding = typeof options === "string" ? options : options?.encoding;
		return encoding ? text : Buffer.from(text);
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

	// What is compiled by hand counts as well, if it is the text of a file, maybe in a wrapper.
	const vm = require("vm");
	const within = (code, options) => {
		try {
			const name = typeof options === "string" ? options : options?.filename;
			const known = typeof code === "string" && files.get(named(name));
			if (!known) return code;
			const w = woven(known, named(name));
			if (!w || code.includes(`"${known.unit}"`)) return code;
			const at = w.plain ? code.indexOf(w.plain) : -1;
			if (at < 0) note(known, "what runs is not its own text, but what something made of it");
			return at < 0 ? code : code.slice(0, at) + w.text + code.slice(at + w.plain.length);
		} catch {
			return code;
		}
	};
	vm.Script = new Proxy(vm.Script, {
		construct: (target, [code, ...rest], made) => Reflect.construct(target, [within(code, rest[0]), ...rest], made),
	});
	const { createContext, compileFunction, runInThisContext, runInContext, runInNewContext } = vm;
	vm.createContext = (object, ...rest) => seen(createContext(typeof object === "object" || object === undefined ? seen(object ?? {}) : object, ...rest));
	vm.compileFunction = (code, params, options) => compileFunction(within(code, options), params, options);
	vm.runInThisContext = (code, options) => runInThisContext(within(code, options), options);
	vm.runInContext = (code, context, options) => runInContext(within(code, options), context, options);
	vm.runInNewContext = (code, object, options) => runInNewContext(within(code, options), seen(object ?? {}), options);

	// ES modules are read where JavaScript cannot reach, but for hooks. Those take time to
	// start, so they do only where the project has such modules.
	const tool = /[\\/](npm|npx|yarn|yarnpkg|pnpm|corepack)(-cli)?\.[cm]?js$/.test(process.argv[1] ?? "");
	if (modules && !tool && Module.register) {
		Module.register("./modules.mjs", { parentURL: require("url").pathToFileURL(__filename).href, data: { files: [...files], store, folder } });
	}
})();
