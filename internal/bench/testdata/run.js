const hot = require("./hot.js");
const data = [];
for (let i = 0, x = 12345; i < 4000; i++) {
	x = (Math.imul(x, 1103515245) + 12345) & 0x7fffffff;
	data.push(x >> 8);
}
const loop = hot[process.argv[2]];
for (let i = 0; i < 50; i++) loop(data);
const start = process.hrtime.bigint();
for (let i = 0; i < Number(process.argv[3]); i++) loop(data);
console.log(Number(process.hrtime.bigint() - start) / 1e9);
