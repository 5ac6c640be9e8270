import { readdirSync } from "node:fs";
import { defineConfig } from "vite";

// after the pages: the worker knows their files by name
const files = readdirSync(new URL("dist/assets", import.meta.url))
  .filter((name) => /\.(js|css)$/.test(name) || name.startsWith("atkinson"))
  .map((name) => ({ url: `/assets/${name}`, revision: null }));

export default defineConfig({
  define: { __FILES: JSON.stringify(files), "process.env.NODE_ENV": JSON.stringify("production") },
  build: {
    outDir: "dist",
    emptyOutDir: false,
    rolldownOptions: { input: "worker/worker.ts", output: { format: "iife", entryFileNames: "worker.js" } },
  },
});
