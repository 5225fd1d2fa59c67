import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { VitePWA } from "vite-plugin-pwa";

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
        navigateFallbackDenylist: [/^\/api\//],
        maximumFileSizeToCacheInBytes: 3_000_000,
      },
    }),
  ],
  build: { target: "es2022", chunkSizeWarningLimit: 1200, assetsInlineLimit: 0 },
  server: { proxy: { "/api": "http://127.0.0.1:8714" } },
});
