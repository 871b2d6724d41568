import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

// The built pages go into the Python package, which serves them.
export default defineConfig({
  plugins: [react(), tailwindcss()],
  // Fonts stay files of their own: the content security policy allows no data addresses.
  build: { assetsInlineLimit: 0, outDir: "../src/hornfels/api/static", emptyOutDir: true, chunkSizeWarningLimit: 900 },
  server: { proxy: { "/api": "http://127.0.0.1:8470" } },
});
