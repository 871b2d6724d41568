import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { readdir, readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { promisify } from "node:util";
import { brotliCompress, gzip } from "node:zlib";
import { defineConfig, type Plugin } from "vite";

/** Beside every file that is worth it a compressed one, so that the server only has to choose. */
function packed(): Plugin {
  return {
    name: "packed",
    apply: "build",
    async writeBundle({ dir = "" }) {
      for (const name of await readdir(dir, { recursive: true })) {
        if (!/\.(js|css|svg|html)$/.test(name)) continue;
        const whole = await readFile(join(dir, name));
        await writeFile(join(dir, `${name}.br`), await promisify(brotliCompress)(whole));
        await writeFile(join(dir, `${name}.gz`), await promisify(gzip)(whole, { level: 9 }));
      }
    },
  };
}

// The built pages go into the Python package, which serves them.
export default defineConfig({
  plugins: [react(), tailwindcss(), packed()],
  // Fonts stay files of their own: the content security policy allows no data addresses.
  build: {
    assetsInlineLimit: 0,
    outDir: "../src/hornfels/api/static",
    emptyOutDir: true,
    chunkSizeWarningLimit: 900,
  },
  server: { proxy: { "/api": "http://127.0.0.1:8470" } },
});
