// Gives woven text to those that compile by hand the text of a file, maybe in a wrapper, or
// what they made of it.
"use strict";
const Module = require("module");
const vm = require("vm");
const { named } = require("./reading.cjs");

const WRAPPER = /^\(\{"Object\.<anonymous>":function\([^)]*\)\{/;

// seen has a global object know where counters come from, and texts has the functions of a
// context give their own text.
module.exports = ({ files, woven, own, note }, lead, seen, texts) => {
	const within = (code, options) => {
		try {
			const name = named(typeof options === "string" ? options : options?.filename);
			if (typeof code !== "string" || name === undefined || code.includes('Symbol.for("thrush")')) return code;
			const known = files.get(name);
			const w = known && woven(known, name);
			const at = w?.plain ? code.indexOf(w.plain) : -1;
			if (at >= 0) return code.slice(0, at) + w.text + code.slice(at + w.plain.length);
			if (!known && !own(name)) return code;
			const from = WRAPPER.exec(code)?.[0].length ?? 0;
			const to = from ? code.lastIndexOf("\n}") : code.length;
			const led = lead(name, code.slice(from, to));
			if (!led && w) note(known, "what runs is not its own text, but what something made of it, without a source map that leads back");
			return led ? code.slice(0, from) + led.text + code.slice(to) : code;
		} catch {
			return code;
		}
	};
	vm.Script = new Proxy(vm.Script, {
		construct: (target, [code, ...rest], made) => Reflect.construct(target, [within(code, rest[0]), ...rest], made),
	});
	const { createContext, compileFunction, runInThisContext, runInContext, runInNewContext } = vm;
	vm.createContext = (object, ...rest) => {
		const context = seen(createContext(typeof object === "object" || object === undefined ? seen(object ?? {}) : object, ...rest));
		texts(context);
		return context;
	};
	const { runInNewContext: runHere } = vm.Script.prototype;
	vm.Script.prototype.runInNewContext = function (object, ...rest) {
		return runHere.call(this, typeof object === "object" || object === undefined ? seen(object ?? {}) : object, ...rest);
	};
	vm.compileFunction = (code, params, options) => compileFunction(within(code, options), params, options);
	vm.runInThisContext = (code, options) => runInThisContext(within(code, options), options);
	vm.runInContext = (code, context, options) => runInContext(within(code, options), context, options);
	vm.runInNewContext = (code, object, options) => runInNewContext(within(code, options), seen(object ?? {}), options);

	// ts-node hands what it made to Node by itself.
	let wrapped = false;
	return () => {
		if (wrapped) return;
		wrapped = true;
		const { _compile } = Module.prototype;
		Module.prototype._compile = function (code, name, ...rest) {
			return _compile.call(this, /\.[cm]?tsx?$/.test(name) ? within(code, name) : code, name, ...rest);
		};
	};
};
