import { existsSync } from "node:fs";
import { dirname, resolve } from "node:path";
import { transform } from "esbuild";

const typescript = {
  name: "typescript",
  resolveId: (to, from) => {
    const name = from && resolve(dirname(from), to.replace(/\.js$/, ".ts"));
    return name && existsSync(name) ? name : null;
  },
  transform: (code, id) => (id.endsWith(".ts") ? transform(code, { loader: "ts", sourcemap: true, sourcefile: id, target: "es2020" }) : null),
};
export default { input: "entry.ts", plugins: [typescript], output: { file: "made/zod.mjs", format: "es", sourcemap: true } };
