const server = require("./app").listen(0, "127.0.0.1", async () => {
	const at = `http://127.0.0.1:${server.address().port}`;
	const ask = async (path, body) => {
		const r = await fetch(at + path, body && { method: "POST", headers: { "content-type": "application/json" }, body: JSON.stringify(body) });
		console.log(r.status, await r.text());
	};
	await ask("/sailings");
	await ask("/sailings?to=Grend");
	await ask("/book", { to: "Grend" });
	await ask("/book", { to: "Outer Skerry" });
	await ask("/book", { to: "Nowhere" });
	process.exit(0);
});
