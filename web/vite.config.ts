import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";
import { VitePWA } from "vite-plugin-pwa";
import { generateSW } from "workbox-build";

/** The diary's own service worker: the few files that a person's phone needs, and nothing of the practice's side. */
function diaryOffline(): Plugin {
  let files: string[] = [];
  return {
    name: "diary-offline",
    apply: "build",
    generateBundle(_, bundle) {
      const seen = new Set<string>();
      const take = (name: string) => {
        const chunk = bundle[name];
        if (seen.has(name) || !chunk) return;
        seen.add(name);
        if (chunk.type !== "chunk") return;
        for (const one of [...chunk.imports, ...chunk.dynamicImports]) take(one);
        for (const one of chunk.viteMetadata?.importedCss ?? []) seen.add(one);
      };
      for (const chunk of Object.values(bundle))
        if (chunk.type === "chunk" && chunk.isEntry && chunk.name === "diary") take(chunk.fileName);
      files = [...seen, "diary.html", "mark.svg"];
    },
    async closeBundle() {
      await generateSW({
        globDirectory: "dist",
        globPatterns: [...files, "assets/atkinson-hyperlegible-next-latin-wght-*.woff2"],
        swDest: "dist/diary-worker.js",
        inlineWorkboxRuntime: true,
        navigateFallback: "/diary.html",
        navigateFallbackAllowlist: [/^\/diary/],
        clientsClaim: true,
        skipWaiting: true,
        sourcemap: false,
      });
    },
  };
}

// The service worker keeps the application itself, so that it opens while the server is away; data never goes through it.
export default defineConfig({
  plugins: [
    react(),
    VitePWA({
      registerType: "autoUpdate",
      injectRegister: null,
      manifest: {
        name: "Acuthesis",
        short_name: "Acuthesis",
        display: "standalone",
        background_color: "#eef1f3",
        theme_color: "#eef1f3",
        icons: [{ src: "/mark.svg", sizes: "any", type: "image/svg+xml" }],
      },
      workbox: {
        globPatterns: ["**/*.{js,css,html,svg}", "assets/atkinson-*latin-wght-*.woff2"],
        globIgnores: ["diary*", "**/diary-*", "say*", "**/say-*"],
        navigateFallbackDenylist: [/^\/api\//, /^\/diary/, /^\/say/],
        maximumFileSizeToCacheInBytes: 3_000_000,
      },
    }),
    diaryOffline(),
  ],
  build: {
    target: "es2022",
    chunkSizeWarningLimit: 1200,
    assetsInlineLimit: 0,
    rollupOptions: { input: { index: "index.html", diary: "diary.html", say: "say.html" } },
  },
  // ./acuthesis dev says where the API is. It has to see the address that the browser asks for, or takes it for another site.
  server: { proxy: { "/api": { target: process.env.ACUTHESIS_API ?? "http://127.0.0.1:8714", changeOrigin: false } } },
});
