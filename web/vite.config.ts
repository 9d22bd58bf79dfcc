import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

/** `first.ts` as a script of its own, before all others. */
const first: Plugin = {
  name: "first",
  transformIndexHtml: {
    order: "post",
    handler: (_, { bundle }) => {
      const built = Object.values(bundle ?? {}).find((part) => part.name === "first");
      const src = built ? `/${built.fileName}` : "/src/first.ts";
      return [{ tag: "script", attrs: { type: "module", async: true, src }, injectTo: "head-prepend" }];
    },
  },
};

export default defineConfig({
  plugins: [react(), first],
  build: {
    outDir: "../src/airtrim/web_dist",
    emptyOutDir: true,
    chunkSizeWarningLimit: 1500,
    rollupOptions: { input: { index: "index.html", first: "src/first.ts" } },
  },
  server: { proxy: { "/api": "http://127.0.0.1:8765" } },
});
