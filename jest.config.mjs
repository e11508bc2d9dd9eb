/** Unit tests of the core and the command line. WASM libraries load under ESM, so Node needs --experimental-vm-modules. */
export default {
	testEnvironment: "node",
	setupFiles: ["<rootDir>/jest.setup.mjs"],
	roots: ["<rootDir>/packages", "<rootDir>/apps/web"],
	testMatch: ["**/*.test.ts", "**/*.test.tsx"],
	extensionsToTreatAsEsm: [".ts", ".tsx"],
	transform: { "\\.[jt]sx?$": ["babel-jest", { configFile: "./babel.config.json" }] },
	transformIgnorePatterns: ["/node_modules/"],
	moduleNameMapper: {
		"^@rubble/core/(.*)$": "<rootDir>/packages/core/src/$1/index.ts",
		"^~/(.*)$": "<rootDir>/apps/web/app/$1",
	},
	// Half of the tests are heavy: every core is used, so that each takes longer beside another.
	maxWorkers: "100%",
	testTimeout: 120_000,
};
