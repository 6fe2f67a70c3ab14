// Hot loops, timed by themselves: node run.js LOOP TIMES.
"use strict";

exports.checksum = (data) => {
	let a = 1, b = 0;
	for (let i = 0; i < data.length; i++) {
		a += data[i];
		if (a >= 65521) a %= 65521;
		b += a;
		if (b >= 65521) b %= 65521;
	}
	return b * 65536 + a;
};

exports.shell_sort = (data) => {
	const a = data.slice();
	for (let gap = a.length >> 1; gap > 0; gap >>= 1) {
		for (let i = gap; i < a.length; i++) {
			const x = a[i];
			let j = i;
			while (j >= gap && a[j - gap] > x) {
				a[j] = a[j - gap];
				j -= gap;
			}
			a[j] = x;
		}
	}
	return a[0];
};

exports.sieve = (data) => {
	const n = data.length * 4;
	const prime = new Array(n).fill(true);
	let count = 0;
	for (let i = 2; i < n; i++) {
		if (prime[i]) {
			count++;
			for (let j = i * i; j < n; j += i) prime[j] = false;
		}
	}
	return count;
};

exports.words = (data) => {
	const counts = new Map();
	for (const x of data) {
		const word = "w" + (x % 97);
		if (counts.has(word)) counts.set(word, counts.get(word) + 1);
		else counts.set(word, 1);
	}
	return Math.max(...counts.values());
};

exports.matrix = (data) => {
	const n = 24;
	const a = [];
	for (let i = 0; i < n; i++) {
		a.push([]);
		for (let j = 0; j < n; j++) a[i].push(data[(i * n + j) % data.length] & 1023);
	}
	let out = 0;
	for (let i = 0; i < n; i++) {
		for (let j = 0; j < n; j++) {
			let s = 0;
			for (let k = 0; k < n; k++) s += a[i][k] * a[k][j];
			out ^= s;
		}
	}
	return out;
};

class Node {
	constructor(key) {
		this.key = key;
		this.left = this.right = null;
	}
	add(key) {
		if (key < this.key) {
			if (this.left === null) this.left = new Node(key);
			else this.left.add(key);
		} else if (key > this.key) {
			if (this.right === null) this.right = new Node(key);
			else this.right.add(key);
		}
	}
}

exports.trees = (data) => {
	const root = new Node(data[0]);
	for (let i = 0; i < 1000; i++) root.add(data[i]);
	return root.key;
};

exports.distance = (data) => {
	const a = data.slice(0, 90), b = data.slice(90, 180);
	const row = Array.from({ length: b.length + 1 }, (_, i) => i);
	for (let i = 0; i < a.length; i++) {
		let last = row[0];
		row[0] = i + 1;
		for (let j = 0; j < b.length; j++) {
			const cost = a[i] === b[j] ? last : 1 + Math.min(last, row[j], row[j + 1]);
			last = row[j + 1];
			row[j + 1] = cost;
		}
	}
	return row[row.length - 1];
};

exports.tokens = (data) => {
	const text = data.slice(0, 600).join(" ") + ' "a b" (c)';
	const out = [];
	const digit = (c) => c >= "0" && c <= "9";
	for (let i = 0; i < text.length; ) {
		const c = text[i];
		if (c === " ") {
			i++;
		} else if (digit(c)) {
			let j = i;
			while (j < text.length && digit(text[j])) j++;
			out.push(Number(text.slice(i, j)));
			i = j;
		} else if (c === '"' || c === "'") {
			const j = text.indexOf(c, i + 1);
			out.push(text.slice(i + 1, j));
			i = j + 1;
		} else {
			out.push(c);
			i++;
		}
	}
	return out.length;
};
