import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

// The built pages go into the Python package, which serves them.
export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { outDir: "../src/hornfels/api/static", emptyOutDir: true, chunkSizeWarningLimit: 900 },
  server: { proxy: { "/api": "http://127.0.0.1:8470" } },
});
