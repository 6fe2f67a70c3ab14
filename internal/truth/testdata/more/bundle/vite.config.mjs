export default {
  build: { lib: { entry: "src/v3/index.ts", formats: ["es"], fileName: () => "zod.mjs" }, outDir: "made", sourcemap: true, minify: false, target: "es2020" },
};
