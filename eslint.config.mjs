// Only what Biome cannot say: the core must compute the same bytes in every engine.
import tseslint from "typescript-eslint";

const transcendental = [
	"sin",
	"cos",
	"tan",
	"asin",
	"acos",
	"atan",
	"atan2",
	"sinh",
	"cosh",
	"tanh",
	"exp",
	"expm1",
	"log",
	"log1p",
	"log2",
	"log10",
	"pow",
	"cbrt",
	"hypot",
	"random",
];

export default tseslint.config({
	files: ["packages/core/src/**/*.ts"],
	ignores: ["**/*.test.ts", "packages/core/src/testing/**"],
	languageOptions: { parser: tseslint.parser },
	rules: {
		"no-restricted-properties": [
			"error",
			...transcendental.map((property) => ({
				object: "Math",
				property,
				message: "Differs between engines (or has no seed): use src/maths.",
			})),
			{ object: "Date", property: "now", message: "The core has no clock." },
		],
		"no-restricted-globals": [
			"error",
			"Date",
			"performance",
			"setTimeout",
			"setInterval",
			"window",
			"document",
			"process",
			"Buffer",
			"crypto",
			"fetch",
			"console",
		],
	},
});
