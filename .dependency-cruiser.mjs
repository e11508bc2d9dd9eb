// The arrows of docs/decisions.md, held. Arrows point inward only.
const core = "^packages/core/src/";
const order = [
	"maths|common",
	"shot",
	"animation|mesh",
	"solid",
	"shapes|fracture|arrays",
	"shaping",
	"bodies",
	"bonds|connectors|links",
	"colouring",
	"cache",
	"simulation",
	"bake|takes",
	"formats",
	"samples",
];

/** A folder of the core may use those before it, and its own. */
const layers = order.slice(0, -1).map((folders, i) => ({
	name: `core-${folders.replaceAll("|", "-")}-points-inward`,
	severity: "error",
	from: { path: `${core}(${folders})/`, pathNot: "\\.test\\.ts$" },
	to: { path: `${core}(${order.slice(i + 1).join("|")})/`, dependencyTypesNot: ["type-only"] },
}));

export default {
	forbidden: [
		...layers,
		{
			name: "no-circles",
			severity: "error",
			from: { pathNot: "node_modules" },
			to: { circular: true, viaOnly: { dependencyTypesNot: ["type-only"] } },
		},
		{
			name: "core-stands-alone",
			comment: "No interface, DOM, Node or SQL in the core.",
			severity: "error",
			from: { path: core, pathNot: "\\.test\\.ts$|/testing/" },
			to: { path: "^(apps|packages/cli|bench|e2e)/|node_modules/(react|react-dom|react-router|drizzle-orm|pg|zustand)/" },
		},
		{
			name: "core-without-node",
			severity: "error",
			from: { path: core, pathNot: "\\.test\\.ts$|/testing/" },
			to: { dependencyTypes: ["core"] },
		},
		{
			name: "one-folder-knows-the-physics-library",
			severity: "error",
			from: { pathNot: `${core}simulation/engine/|^bench/` },
			to: { path: "rapier3d" },
		},
		{
			name: "one-folder-knows-the-solids-library",
			severity: "error",
			from: { pathNot: `${core}solid/|^apps/web/app/workers/` },
			to: { path: "node_modules/manifold-3d" },
		},
		{ name: "only-formats-knows-three", severity: "error", from: { path: `${core}(?!formats/)` }, to: { path: "node_modules/three/" } },
		{
			name: "only-data-knows-sql",
			severity: "error",
			from: { path: "^apps/web/", pathNot: "^apps/web/(app/data|drizzle\\.config|server|app/routes/health)" },
			to: { path: "node_modules/(drizzle-orm|pg)/" },
		},
		{ name: "cli-and-web-do-not-meet", severity: "error", from: { path: "^packages/cli/" }, to: { path: "^apps/" } },
		{
			name: "tests-are-not-imported",
			severity: "error",
			from: { pathNot: "\\.(test|e2e)\\.tsx?$" },
			to: { path: "\\.(test|e2e)\\.tsx?$|/testing/" },
		},
	],
	options: {
		doNotFollow: { path: "node_modules" },
		exclude: { path: "(^|/)(build|\\.react-router|node_modules/\\.cache)/" },
		tsPreCompilationDeps: "specify",
		tsConfig: { fileName: "tsconfig.json" },
		enhancedResolveOptions: { exportsFields: ["exports"], conditionNames: ["import", "default", "types"] },
	},
};
