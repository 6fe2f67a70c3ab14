const server = require("./app").listen(0, "127.0.0.1", async () => {
	const at = `http://127.0.0.1:${server.address().port}`;
	const ask = async (path, body) => {
		const r = await fetch(at + path, body && { method: "POST", headers: { "content-type": "application/json" }, body: JSON.stringify(body) });
		console.log(r.status, await r.text());
	};
	await ask("/?wind=40");
	await ask("/?wind=20&night=1");
	await ask("/");
	process.exit(0);
});
