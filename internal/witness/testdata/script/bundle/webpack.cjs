// Makes made/zod.mjs with webpack.
const path = require("node:path");
const webpack = require("webpack");

const options = {
  mode: "development", devtool: "source-map", target: "node", entry: "./entry.ts",
  experiments: { outputModule: true },
  output: { path: path.resolve("made"), filename: "zod.mjs", library: { type: "module" } },
  resolve: { extensionAlias: { ".js": [".ts", ".js"] } },
  module: { rules: [{ test: /\.ts$/, use: path.resolve("typescript.cjs") }] },
};
webpack(options, (error, stats) => {
  if (error || stats.hasErrors()) throw error ?? new Error(stats.toString());
});
