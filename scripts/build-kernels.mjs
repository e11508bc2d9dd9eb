// Compiles packages/core/kernels/ to WebAssembly and writes it, as text, where the core imports it: `npm run kernels`.
// With --check it only says whether what is there is what would be written.
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import asc from "assemblyscript/asc";
import { ROOT } from "./environment.mjs";

const FOLDER = "packages/core/src/simulation/bonded";
const KERNELS = [
	{ source: "packages/core/kernels/lattice.ts", name: "LATTICE_KERNEL", target: `${FOLDER}/latticeKernel.ts` },
	{ source: "packages/core/kernels/blocks.ts", name: "BLOCKS_KERNEL", target: `${FOLDER}/blocksKernel.ts` },
];
const WORDS = ["-O3", "--noAssert", "--runtime", "minimal", "--importMemory", "--enable", "simd", "--use", "abort="];

let stale = 0;
for (const { source, name, target } of KERNELS) {
	let bytes;
	const { error, stderr } = await asc.main([source, ...WORDS, "--baseDir", ROOT, "--outFile", "kernel.wasm"], {
		writeFile: (file, content) => {
			if (file.endsWith(".wasm")) bytes = content;
		},
	});
	if (error) throw new Error(`${source} does not compile:\n${stderr}`);
	const text = `// Made from ${source.replace("packages/core/", "")} by \`npm run kernels\`.\nexport const ${name} =\n\t"${Buffer.from(bytes).toString("base64")}";\n`;
	const file = join(ROOT, target);
	if (!process.argv.includes("--check")) writeFileSync(file, text);
	else if (readFileSync(file, "utf8") !== text) {
		stale++;
		process.stderr.write(`${target} is not what ${source} makes: npm run kernels\n`);
	}
}
process.exitCode = stale > 0 ? 1 : 0;
