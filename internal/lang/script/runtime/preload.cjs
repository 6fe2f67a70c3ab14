// Puts woven text in front of those that load JavaScript and TypeScript as programs.
// Thrush has Node load it before anything else, in every process and worker.
"use strict";

const SYMBOL = Symbol.for("thrush");

// hooking tells whether this is the thread in which Node runs hooks for modules.
const hooking = () => {
	if (!process.abort.disabled) return false; // no worker
	const threads = require("worker_threads");
	return threads.isInternalThread ?? (threads.parentPort === null && threads.workerData === null);
};

const front = () => {
	const { env } = process;
	if (globalThis[SYMBOL]) return;
	const children = require("./children.cjs");
	const settings = env.THRUSH_SCRIPT && env.THRUSH_HIDDEN === undefined ? { ...env } : children.hidden(env);
	if (!settings?.THRUSH_SCRIPT) return;
	const project = require("./project.cjs").open(settings.THRUSH_SCRIPT, settings.THRUSH_COUNTERS);
	if (!project) return;
	let leads;
	const lead = (...text) => (leads ??= require("./outputs.cjs")(project))(...text);
	if (hooking()) return require("./reading.cjs")(project, lead, () => {});

	const counters = require("./memory.cjs")(project.folder);
	const seen = (global) => {
		try {
			if (!Object.prototype.hasOwnProperty.call(global, SYMBOL)) Object.defineProperty(global, SYMBOL, { value: counters });
		} catch {}
		return global;
	};
	seen(globalThis);
	const texts = require("./texts.cjs")(project);
	require("./reading.cjs")(project, lead, require("./compiling.cjs")(project, lead, seen, texts));
	children.follow(settings, __filename);
	children.workers(settings, __filename);

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
	const Module = require("module");
	const tool = /[\\/](npm|npx|yarn|yarnpkg|pnpm|corepack)(-cli)?\.[cm]?js$/.test(process.argv[1] ?? "");
	if (project.modules && !tool && Module.register) {
		Module.register("./modules.mjs", { parentURL: require("url").pathToFileURL(__filename).href, data: { list: project.list, counters: project.counters } });
	}
};

// Whatever goes wrong here, the program is to run.
try {
	front();
} catch {}
