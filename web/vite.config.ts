import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: {
    outDir: "dist",
    sourcemap: false,
    chunkSizeWarningLimit: 400,
    rolldownOptions: {
      output: {
        codeSplitting: {
          groups: [
            { name: "react", test: /node_modules\/(react|react-dom|scheduler)\// },
            { name: "tanstack", test: /node_modules\/@tanstack\// },
            { name: "forms", test: /node_modules\/(zod|react-hook-form|@hookform)\// },
          ],
        },
      },
    },
  },
  server: { proxy: { "/api": "http://127.0.0.1:8600" } },
  test: { environment: "jsdom" },
});
