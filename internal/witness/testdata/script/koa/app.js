"use strict";
const Koa = require("koa");

const app = new Koa();
app.use(async (ctx, next) => {
	try {
		await next();
	} catch (e) {
		ctx.status = 500;
		ctx.body = e.message;
	}
});
app.use(async (ctx) => {
	const knots = Number(ctx.query.wind ?? 0);
	if (Number.isNaN(knots)) throw new Error("no such wind");
	ctx.body = knots > 34 ? "stays" : knots > 17 && ctx.query.night ? "waits" : "sails";
});
module.exports = app;
