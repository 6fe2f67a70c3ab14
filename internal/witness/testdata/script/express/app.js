"use strict";
const express = require("express");

const sailings = [{ to: "Grend", at: 480 }, { to: "Outer Skerry", at: 960, full: true }];

const app = express();
app.use(express.json());
app.get("/sailings", (req, res) => {
	const to = req.query.to;
	res.json(sailings.filter((s) => !to || s.to === to));
});
app.post("/book", (req, res, next) => {
	const s = sailings.find((x) => x.to === req.body?.to);
	if (!s) return next(new Error("no such harbour"));
	if (s.full && !req.body.standby) {
		res.status(409);
	}
	res.json({ booked: !s.full, at: s.at });
});
app.use((err, req, res, next) => {
	res.status(404).json({ why: err.message });
});
module.exports = app;
