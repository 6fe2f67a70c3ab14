// Puts woven text in front of those that load JavaScript and TypeScript as programs.
// Thrush has Node load it before anything else, in every process and worker.
"use strict";

const front = () => {
	const fs = require("fs");
	const path = require("path");
	const Module = require("module");
	const { env } = process;
	const SYMBOL = Symbol.for("thrush");

	if (globalThis[SYMBOL]) return;
	const children = require("./children.cjs");
	const settings = env.THRUSH_SCRIPT && env.THRUSH_HIDDEN === undefined ? { ...env } : children.hidden(env);
	if (!settings?.THRUSH_SCRIPT) return;

	const { open, read } = require("./project.cjs");
	let project;
	try {
		project = open(settings.THRUSH_SCRIPT, settings.THRUSH_COUNTERS);
	} catch {}
	if (!project) return;
	const { files, folder, note, woven } = project;
	const lead = require("./outputs.cjs")(project);

	const counters = require("./memory.cjs")(folder);
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
	// What is built to be kept is not to be woven.
	const bundlers = /[\\/]node_modules[\\/](rollup|rolldown)[\\/]/;
	const checkers = /[\\/]node_modules[\\/](ts-node|ts-jest)[\\/]dist[\\/]/;
	const checked = () => !env.TS_NODE_TRANSPILE_ONLY && Object.keys(require.cache).some((name) => checkers.test(name));
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
	const named = (name) => {
		if (typeof name === "string") return name;
		return name instanceof URL && name.protocol === "file:" ? require("url").fileURLToPath(name) : undefined;
	};
	// What a loader reads runs once in one place, so its counters may be a constant.
	const once = (text) => text?.replace(/var (_thrush[0-9a-f]{8}v),(_thrush[0-9a-f]{8}=)/, "var $1;const $2");
	const outputs = /\.[cm]?jsx?$/;
	const instead = (name, below) => {
		name = named(name);
		if (name === undefined) return undefined;
		const full = path.isAbsolute(name) ? name : path.resolve(name);
		const known = files.get(full);
		if (known) return runs(name, below) ? once(woven(known, name)?.text) : undefined;
		if (full.endsWith("/ts-node/dist/index.js")) compiled();
		return outputs.test(full) && project.own(full) && runs(name, below) ? once(lead(full, read(full, "utf8"))?.text) : undefined;
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
	const WRAPPER = /^\(\{"Object\.<anonymous>":function\([^)]*\)\{/;
	const within = (code, options) => {
		try {
			const name = named(typeof options === "string" ? options : options?.filename);
			if (typeof code !== "string" || name === undefined || code.includes('Symbol.for("thrush")')) return code;
			const known = files.get(name);
			const w = known && woven(known, name);
			const at = w?.plain ? code.indexOf(w.plain) : -1;
			if (at >= 0) return code.slice(0, at) + w.text + code.slice(at + w.plain.length);
			if (!known && !project.own(name)) return code;
			const from = WRAPPER.exec(code)?.[0].length ?? 0;
			const to = from ? code.lastIndexOf("\n}") : code.length;
			const led = lead(name, code.slice(from, to));
			if (!led && w) note(known, "what runs is not its own text, but what something made of it, without a source map that leads back");
			return led ? code.slice(0, from) + led.text + code.slice(to) : code;
		} catch {
			return code;
		}
	};
	// ts-node hands what it made to Node by itself.
	let wrapped = false;
	const compiled = () => {
		if (wrapped) return;
		wrapped = true;
		const { _compile } = Module.prototype;
		Module.prototype._compile = function (code, name, ...rest) {
			return _compile.call(this, types.test(name) ? within(code, name) : code, name, ...rest);
		};
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

	children.follow(settings, __filename);

	// Servers send scripts to browsers.
	if (settings.THRUSH_COLLECTOR) {
		let serve;
		require("diagnostics_channel").subscribe("http.server.request.start", ({ request, response }) => {
			try {
				serve ??= require("./serving.cjs")(project, lead, settings.THRUSH_COLLECTOR);
				serve(request, response);
			} catch {}
		});
	}

	// ES modules are read where JavaScript cannot reach, but for hooks. Those take time to
	// start, so they do only where the project has such modules.
	const tool = /[\\/](npm|npx|yarn|yarnpkg|pnpm|corepack)(-cli)?\.[cm]?js$/.test(process.argv[1] ?? "");
	if (project.modules && !tool && Module.register) {
		Module.register("./modules.mjs", { parentURL: require("url").pathToFileURL(__filename).href, data: { list: project.list, counters: project.counters } });
	}
};

// Whatever goes wrong here, the program is to run.
try {
	front();
} catch {}
