// Has processes of Node report that the program starts with an environment of its own. They
// do not see what it takes.
"use strict";
const path = require("path");

const NAMES = ["THRUSH_SCRIPT", "THRUSH_COUNTERS", "THRUSH_COLLECTOR"];
// What shells put into an environment that has none: there is one in front of Node.
const SHELLS = ["PWD", "OLDPWD", "SHLVL", "_"];
const SHELL = /^(?:ba|da)?sh$/;
const NODE = /^(?:\S*\/)?node(?:\s|$)/;
const isNode = (file, args) => {
	if (SHELL.test(path.basename(String(file)))) return args?.some((a) => NODE.test(String(a).replace(/^"([^"]*)"/, "$1")));
	return file === process.execPath || /^node$|\.[cm]?js$/.test(path.basename(String(file)));
};

// quoted writes a word as NODE_OPTIONS has words with blanks.
const quoted = (word) => `"${word.replace(/["\\]/g, "\\$&")}"`;

// workers sees to workers with an environment of their own.
exports.workers = (settings, preload) => {
	const threads = require("worker_threads");
	const { Worker } = threads;
	threads.setEnvironmentData("thrush", Object.fromEntries(NAMES.map((n) => [n, settings[n]])));
	threads.Worker = new Proxy(Worker, {
		construct(target, [file, options, ...rest], made) {
			try {
				const env = options?.env;
				if (env !== null && typeof env === "object" && !(env.NODE_OPTIONS ?? "").includes(quoted(preload))) {
					options = { ...options, execArgv: ["--require", preload, ...(options.execArgv ?? process.execArgv)] };
				}
			} catch {}
			return Reflect.construct(target, [file, options, ...rest], made === threads.Worker ? target : made);
		},
	});
	require("module").syncBuiltinESMExports();
};

// hidden takes what a parent put into the environment out of it again, and gives it.
exports.hidden = (env) => {
	const threads = require("worker_threads");
	const out = env.THRUSH_HIDDEN === undefined ? threads.getEnvironmentData("thrush") : Object.fromEntries(NAMES.map((n) => [n, env[n]]));
	if (env.THRUSH_HIDDEN !== undefined) {
		threads.setEnvironmentData("thrush", out);
		if (env.THRUSH_HIDDEN) env.NODE_OPTIONS = env.THRUSH_HIDDEN.slice(1);
		else delete env.NODE_OPTIONS;
		for (const name of [...(env.THRUSH_LACKED ?? "").split(" "), ...NAMES, "THRUSH_HIDDEN", "THRUSH_LACKED"]) delete env[name];
	}
	return out;
};

// follow sees to processes that this one starts, with what Thrush needs left out of their
// environment, or with another value in its place.
exports.follow = (settings, preload) => {
	const children = require("child_process");
	const whole = (env) => env.THRUSH_SCRIPT !== undefined && (env.NODE_OPTIONS ?? "").includes(quoted(preload));
	const add = (env, file) => {
		if (env.THRUSH_SCRIPT !== undefined) {
			// Only the options are others: the program knows the rest.
			return { ...env, NODE_OPTIONS: `--require=${quoted(preload)} ${env.NODE_OPTIONS ?? ""}`.trim() };
		}
		const own = env.NODE_OPTIONS === undefined ? "" : "=" + env.NODE_OPTIONS;
		const more = Object.fromEntries(NAMES.filter((n) => settings[n]).map((n) => [n, settings[n]]));
		const lacked = file && !SHELL.test(path.basename(String(file))) ? SHELLS.filter((n) => env[n] === undefined).join(" ") : "";
		return { ...env, ...more, THRUSH_HIDDEN: own, THRUSH_LACKED: lacked, NODE_OPTIONS: `--require=${quoted(preload)} ${own.slice(1)}`.trim() };
	};
	const { spawn } = children.ChildProcess.prototype;
	children.ChildProcess.prototype.spawn = function (options) {
		try {
			const pairs = options.envPairs;
			const env = pairs && Object.fromEntries(pairs.map((p) => [p.slice(0, p.indexOf("=")), p.slice(p.indexOf("=") + 1)]));
			if (env && !whole(env) && isNode(options.file, options.args)) {
				options.envPairs = Object.entries(add(env, options.file)).map(([name, value]) => `${name}=${value}`);
			}
		} catch {}
		return spawn.call(this, options);
	};
	const sync = (name, uses) => {
		const plain = children[name];
		children[name] = function (file, ...rest) {
			try {
				const i = rest.findIndex((a) => a !== null && typeof a === "object" && !Array.isArray(a));
				const env = i < 0 ? process.env : rest[i].env ?? process.env;
				if (!whole(env) && uses(file, rest[0])) {
					const options = { ...rest[i], env: add(env, name === "execSync" || rest[i]?.shell ? undefined : file) };
					if (i < 0) rest.push(options);
					else rest[i] = options;
				}
			} catch {}
			return plain.call(this, file, ...rest);
		};
		Object.defineProperty(children[name], "name", { value: name });
	};
	const runs = (file, args) => isNode(file, Array.isArray(args) ? args : []);
	sync("spawnSync", runs);
	sync("execFileSync", runs);
	sync("execSync", (command) => NODE.test(String(command).replace(/^"([^"]*)"/, "$1")));
	require("module").syncBuiltinESMExports();
};
