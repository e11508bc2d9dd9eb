import { reactRouter } from "@react-router/dev/vite";
import tailwindcss from "@tailwindcss/vite";
import { defineConfig } from "vite";

export default defineConfig({
	plugins: [tailwindcss(), reactRouter()],
	resolve: { tsconfigPaths: true },
	worker: { format: "es" },
	// The solids library finds its binary by URL; pre-bundling would break that.
	optimizeDeps: { exclude: ["manifold-3d"], entries: ["app/**/*.{ts,tsx}"] },
	build: { chunkSizeWarningLimit: 4000 },
});
