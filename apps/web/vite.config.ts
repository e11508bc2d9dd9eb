import { reactRouter } from "@react-router/dev/vite";
import tailwindcss from "@tailwindcss/vite";
import { defineConfig, type Plugin } from "vite";

/**
 * The toasts' library puts its styles into the page by script, without the nonce that the content policy asks for. They are in
 * styles/app.css instead; here its own attempt is taken out.
 */
const toastsWithoutInlineStyles: Plugin = {
	name: "toasts-without-inline-styles",
	enforce: "pre",
	transform: (code, id) => (/node_modules\/sonner\/dist\/index\.mjs/.test(id) ? code.replace(/^__insertCSS\(/m, "void (") : undefined),
};

export default defineConfig({
	plugins: [toastsWithoutInlineStyles, tailwindcss(), reactRouter()],
	resolve: { tsconfigPaths: true },
	worker: { format: "es" },
	// The solids library finds its binary by URL; pre-bundling would break that.
	optimizeDeps: { exclude: ["manifold-3d"], entries: ["app/**/*.{ts,tsx}"] },
	build: { chunkSizeWarningLimit: 4000 },
});
