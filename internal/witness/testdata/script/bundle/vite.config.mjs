export default {
  build: { lib: { entry: "entry.ts", formats: ["es"], fileName: () => "zod.mjs" }, outDir: "made", sourcemap: true, minify: false, target: "es2020" },
};
