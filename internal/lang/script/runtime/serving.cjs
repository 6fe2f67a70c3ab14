// Gives browsers woven text, when a server in this process sends them a script of the
// project, or what a tool made of scripts.
"use strict";
const fs = require("fs");
const path = require("path");
const { names } = require("./outputs.cjs");
const { digest, read } = require("./project.cjs");
const silent = require("./silent.cjs");

const MOST = 64 << 20;
const SCRIPTS = new Set(["script", "worker", "sharedworker", "serviceworker"]);
const PAGES = new Set(["document", "iframe", "frame"]);
const HOOK = /globalThis\[Symbol\.for\("thrush"\)\]/g;

module.exports = (project, lead, collector) => {
	const { files, note, woven, root, own } = project;
	const where = new URL(collector).origin;
	const onOneLine = (text) => text.replace(/\s*\n\s*/g, " ").trim();
	const runtime = onOneLine(read(path.join(__dirname, "page.js"), "utf8").replace(/^\/\/.*$|\/\*[^]*?\*\//gm, ""));
	const hooked = `(globalThis[Symbol.for("thrush")]||${runtime}(${JSON.stringify(collector)},${onOneLine(String(silent))}))`;
	const forPages = (text) => text.replace(HOOK, () => hooked);

	let byDigest;
	const source = (body) => {
		if (!byDigest) {
			byDigest = new Map();
			for (const [name, file] of files) if (!byDigest.has(file.digest)) byDigest.set(file.digest, [file, name]);
		}
		return byDigest.get(digest(body));
	};

	// Where on the disk an output lies is told by its name and its text: maps name their
	// sources from there.
	let walked = 0;
	const places = new Map();
	const walk = (folder, depth) => {
		for (const e of fs.readdirSync(folder, { withFileTypes: true })) {
			if (e.name === "node_modules" || e.name.startsWith(".")) continue;
			if (e.isDirectory() && depth < 12) walk(path.join(folder, e.name), depth + 1);
			else if (/\.[cm]?js$/.test(e.name)) places.set(e.name, [...(places.get(e.name) ?? []), path.join(folder, e.name)]);
		}
	};
	const place = (url, body) => {
		const base = path.posix.basename(decodeURIComponent(url.split(/[?#]/)[0]));
		const find = () => (places.get(base) ?? []).find((name) => fs.existsSync(name) && read(name).equals(body));
		let found = find();
		if (!found && Date.now() - walked > 1000) {
			places.clear();
			walk(root, 0);
			walked = Date.now();
			found = find();
		}
		return found ?? path.join(root, base);
	};

	const integrity = new Set();
	const named = (body) => ["sha256", "sha384", "sha512"].some((kind) => integrity.has(kind + "-" + require("crypto").createHash(kind).update(body).digest("base64")));

	// instead gives what a browser is to get in place of a script, or nothing.
	const instead = (url, body) => {
		const text = body.toString();
		if (text.search(HOOK) >= 0) return forPages(text);
		const known = source(body);
		if (known) {
			if (named(body)) return void note(known[0], "the page that a browser loads it from names the hash of its text (integrity)");
			const w = woven(...known);
			return w && forPages(w.text);
		}
		if (!names(text)) return undefined;
		const name = place(url, body);
		const led = own(name) && !named(body) && lead(name, text);
		return led && forPages(led.text);
	};

	const decoded = (body, encoding) => {
		const zlib = require("zlib");
		const ways = { gzip: zlib.gunzipSync, "x-gzip": zlib.gunzipSync, br: zlib.brotliDecompressSync, deflate: zlib.inflateSync };
		return encoding && encoding !== "identity" ? ways[encoding](body) : body;
	};

	// script holds a response back until all of it is there.
	const script = (request, response) => {
		for (const name of ["if-none-match", "if-modified-since", "range"]) delete request.headers[name];
		const { write, end, writeHead, flushHeaders } = response;
		let chunks = [], size = 0, reason;
		const restore = () => {
			Object.assign(response, { write, end, writeHead, flushHeaders });
			chunks = undefined;
		};
		response.flushHeaders = () => {};
		response.writeHead = (status, message, headers) => {
			if (typeof message !== "string") [message, headers] = [undefined, message];
			response.statusCode = status;
			reason = message;
			// They may be an object, a list of pairs, or a list of names and values in turn.
			let pairs = headers ?? {};
			if (!Array.isArray(pairs)) pairs = Object.entries(pairs);
			else if (!Array.isArray(pairs[0])) pairs = pairs.flatMap((name, i) => (i % 2 ? [] : [[name, pairs[i + 1]]]));
			const values = new Map();
			for (const [name, value] of pairs) if (value !== undefined) values.set(name, values.has(name) ? [values.get(name), value].flat() : value);
			for (const [name, value] of values) response.setHeader(name, value);
			return response;
		};
		const keep = (chunk, encoding) => {
			chunks.push(typeof chunk === "string" ? Buffer.from(chunk, typeof encoding === "string" ? encoding : "utf8") : Buffer.from(chunk));
			size += chunks.at(-1).length;
		};
		const start = () => {
			if (reason !== undefined) response.statusMessage = reason;
		};
		response.write = (chunk, encoding, done) => {
			keep(chunk, encoding);
			if (typeof encoding === "function") done = encoding;
			if (size > MOST) {
				const all = Buffer.concat(chunks);
				restore();
				start();
				return response.write(all, done);
			}
			if (done) process.nextTick(done);
			return true;
		};
		response.end = (chunk, encoding, done) => {
			if (typeof chunk === "function") [chunk, done] = [undefined, chunk];
			if (typeof encoding === "function") [encoding, done] = [undefined, encoding];
			if (chunk != null) keep(chunk, encoding);
			let body = Buffer.concat(chunks);
			restore();
			start();
			try {
				const type = String(response.getHeader("content-type") ?? "");
				if (response.statusCode === 200 && request.method === "GET" && (!type || /script/i.test(type)) && !response.headersSent) {
					const text = instead(request.url, decoded(body, response.getHeader("content-encoding")));
					if (text !== undefined && text !== false) {
						body = Buffer.from(text);
						for (const name of ["content-encoding", "transfer-encoding", "etag", "last-modified", "digest", "content-digest", "repr-digest"]) response.removeHeader(name);
						response.setHeader("cache-control", "no-store");
						response.setHeader("content-length", body.length);
					}
				}
			} catch {}
			return response.end(body, done);
		};
	};

	// page lets what a page loads report, and looks for hashes that it names.
	const page = (response) => {
		const { write, end, writeHead } = response;
		const look = (chunk) => {
			if (chunk == null || typeof chunk === "function") return;
			for (const [hash] of chunk.toString("latin1").matchAll(/sha(256|384|512)-[A-Za-z0-9+/=]+/g)) integrity.add(hash);
		};
		response.write = function (chunk, ...rest) {
			look(chunk);
			return write.call(this, chunk, ...rest);
		};
		response.end = function (chunk, ...rest) {
			look(chunk);
			return end.call(this, chunk, ...rest);
		};
		response.writeHead = function (...args) {
			const at = args.findIndex((a) => typeof a === "object" && a !== null);
			const name = "content-security-policy";
			try {
				if (at >= 0 && Array.isArray(args[at])) args[at] = args[at].map((v, i, all) => (i % 2 && String(all[i - 1]).toLowerCase() === name ? open(v) : v));
				else if (at >= 0) args[at] = Object.fromEntries(Object.entries(args[at]).map(([k, v]) => [k, k.toLowerCase() === name ? open(v) : v]));
				const own = this.getHeader(name);
				if (own) this.setHeader(name, open(own));
			} catch {}
			return writeHead.apply(this, args);
		};
	};
	// open has a policy let pages connect to where they report.
	const open = (policy) => {
		if (Array.isArray(policy)) return policy.map(open);
		const list = String(policy).split(";").map((d) => d.trim().split(/\s+/));
		const find = (name) => list.find((d) => d[0].toLowerCase() === name);
		const allowed = (values) => [...values.filter((v) => v.toLowerCase() !== "'none'"), where];
		const connect = find("connect-src"), all = find("default-src");
		if (connect) connect.splice(1, connect.length, ...allowed(connect.slice(1)));
		else if (all) list.push(["connect-src", ...allowed(all.slice(1))]);
		return list.filter((d) => d[0]).map((d) => d.join(" ")).join("; ");
	};

	return (request, response) => {
		const to = request.headers["sec-fetch-dest"];
		const browser = to === undefined && /^Mozilla\//.test(request.headers["user-agent"] ?? "");
		if (SCRIPTS.has(to) || (browser && /\.[cm]?[jt]sx?($|[?#])/.test(request.url))) script(request, response);
		else if (PAGES.has(to) || browser) page(response);
	};
};
