// Gives ES modules their woven text. It runs in the thread that Node has for such hooks.
import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { fileURLToPath } from "node:url";

const require = createRequire(import.meta.url);
let project, lead;

export async function initialize({ list, counters }) {
	project = require("./project.cjs").open(list, counters);
	lead = require("./outputs.cjs")(project);
}

export async function load(url, context, next) {
	const loaded = await next(url, context);
	try {
		if (loaded.source == null || !url.startsWith("file:")) return loaded;
		const name = fileURLToPath(url.split("?")[0]);
		const file = project.files.get(name);
		if (file && Buffer.from(loaded.source).compare(readFileSync(name)) === 0) {
			const w = project.woven(file, name);
			return w ? { ...loaded, source: w.text } : loaded;
		}
		const w = loaded.format === "module" && project.own(name) && lead(name, Buffer.from(loaded.source).toString());
		return w ? { ...loaded, source: w.text } : loaded;
	} catch {
		return loaded;
	}
}
