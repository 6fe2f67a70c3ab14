// A loader of webpack's that takes the types out.
const { transform } = require("esbuild");

module.exports = function (code) {
  const done = this.async();
  transform(code, { loader: "ts", sourcemap: true, sourcefile: this.resourcePath, target: "es2020" })
    .then((out) => done(null, out.code, out.map), done);
};
