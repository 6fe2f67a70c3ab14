// Has a function give its own text as it was written, without probes: programs send such
// texts to workers, browsers and other places, where no counters are.
"use strict";
const fs = require("fs");
const path = require("path");
const vm = require("vm");
const { read } = require("./project.cjs");
const silent = require("./silent.cjs");

const NAME = /_thrush([0-9a-f]{8})/;

module.exports = ({ store }) => {
	const known = new Map();
	// sources gives the woven texts whose units begin with some digits, and what has to be cut
	// out of each: [at, length, what stood in its place].
	const sources = (digits) => {
		if (!known.has(digits)) {
			const names = fs.readdirSync(store).filter((n) => n.startsWith(digits) && n.endsWith(".woven"));
			known.set(digits, names.map((n) => ({ text: read(path.join(store, n), "utf8"), cuts: JSON.parse(read(path.join(store, n + ".cuts"), "utf8")) })));
		}
		return known.get(digits);
	};

	// cut gives a stretch of a woven text as it was written.
	const cut = ({ text, cuts }, from, to) => {
		let [out, done] = ["", from];
		for (const [at, length, instead] of cuts) {
			if (at + length <= from || at >= to) continue;
			out += text.slice(done, Math.max(at, from)) + instead;
			done = Math.min(at + length, to);
		}
		return out + text.slice(done, to);
	};

	// plain takes the probes out of the text of a function. If something was made of the woven
	// text, so that they cannot be found by their places, they do nothing instead.
	const plain = (text) => {
		const own = text.replace(/var (_thrush[0-9a-f]{8}v);const (_thrush[0-9a-f]{8}=)/, "var $1,$2");
		for (const source of sources(NAME.exec(text)[1])) {
			const from = source.text.indexOf(own);
			if (from >= 0) return cut(source, from, from + own.length);
		}
		return silent(text);
	};

	// patch has the functions of a realm do so. What they are replaced by looks like them.
	const patch = (prototype) => {
		const was = Object.getOwnPropertyDescriptor(prototype, "toString");
		if (!was?.writable && !was?.configurable) return;
		const original = was.value;
		const instead = new Proxy(original, {
			apply(target, self, args) {
				const text = Reflect.apply(target, self === instead ? target : self, args);
				try {
					return NAME.test(text) ? plain(text) : text;
				} catch {
					return text;
				}
			},
		});
		Object.defineProperty(prototype, "toString", { ...was, value: instead });
	};
	patch(Function.prototype);
	const prototypeOf = new vm.Script("Function.prototype");
	const { runInContext } = vm.Script.prototype;
	return (context) => {
		try {
			patch(runInContext.call(prototypeOf, context));
		} catch {}
	};
};
