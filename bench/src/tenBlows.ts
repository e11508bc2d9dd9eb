// `npm run blows -w @rubble/bench`: the same blow with ten seeds of unevenness, drawn as docs/charts/ten-blows.svg.
import { mkdirSync, writeFileSync } from "node:fs";
import { dirname, resolve } from "node:path";
import { fileURLToPath } from "node:url";
import { buildBodies, makeWorkshop } from "@rubble/core/bodies";
import { addChunk, type FrameStore } from "@rubble/core/cache";
import { sampleShot } from "@rubble/core/samples";
import { makeScene, rapierEngine, simulate } from "@rubble/core/simulation";
import { loadSolids } from "@rubble/core/solid";
import { sweep, takeSeries } from "@rubble/core/takes";
import { NO_ASSETS } from "./types";

const [WIDTH, HEIGHT, LEFT, BOTTOM] = [760, 320, 52, 34];
const COLOURS = ["#0d6e68", "#5b4f9e", "#2f6fab", "#56626b"];

const workshop = makeWorkshop(await loadSolids(), NO_ASSETS);
const made = sweep(sampleShot("breakwater-strike")!, [
	{ path: "bonds/Concrete/seed", values: Array.from({ length: 10 }, (_, n) => n + 1) },
]);
if (!made.ok) throw new Error(made.problems[0]!.message);
const lines: { name: string; broken: readonly number[]; bonds: number }[] = [];
for (const { name, shot } of made.value) {
	const { bodies } = await buildBodies(workshop, shot);
	const scene = await makeScene(workshop, shot, bodies);
	let store: FrameStore = { bodies: scene.shown, chunks: [] };
	await simulate(scene, rapierEngine, {
		onChunk: (chunk) => {
			store = addChunk(store, chunk);
		},
	});
	const { broken } = takeSeries(store);
	lines.push({ name, broken, bonds: scene.bonds.count });
	process.stdout.write(`${name}: ${broken.at(-1)} of ${scene.bonds.count} bonds broken\n`);
}
const frames = lines[0]!.broken.length;
const top = Math.ceil(Math.max(...lines.flatMap(({ broken }) => broken)) / 100) * 100;
const x = (n: number) => LEFT + (n / (frames - 1)) * (WIDTH - LEFT - 12);
const y = (value: number) => HEIGHT - BOTTOM - (value / top) * (HEIGHT - BOTTOM - 14);
const path = (broken: readonly number[]) =>
	broken.map((value, n) => `${n === 0 ? "M" : "L"}${x(n).toFixed(1)} ${y(value).toFixed(1)}`).join("");
const label = (at: readonly [number, number], text: string, anchor: string) =>
	`<text x="${at[0]}" y="${at[1]}" text-anchor="${anchor}">${text}</text>`;
const grid = Array.from({ length: 5 }, (_, k) => (top * k) / 4);
const svg = [
	`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${WIDTH} ${HEIGHT}" font-family="sans-serif" font-size="12" fill="#56626b">`,
	`<rect width="${WIDTH}" height="${HEIGHT}" fill="#f6f5f1"/>`,
	...grid.map(
		(value) => `<path d="M${LEFT} ${y(value)}H${WIDTH - 12}" stroke="#d9d5ca"/>${label([LEFT - 6, y(value) + 4], String(value), "end")}`,
	),
	label([LEFT, HEIGHT - 10], "frame 1", "start"),
	label([WIDTH - 12, HEIGHT - 10], `frame ${frames}`, "end"),
	label([LEFT + 8, 22], `bonds broken, of ${lines[0]!.bonds}, ten seeds of the same blow`, "start"),
	...lines.map(
		({ broken, name }, n) =>
			`<path d="${path(broken)}" fill="none" stroke="${COLOURS[n % COLOURS.length]}" stroke-width="1.6" opacity="0.85"><title>${name}</title></path>`,
	),
	"</svg>",
].join("\n");
const file = resolve(dirname(fileURLToPath(import.meta.url)), "../../docs/charts/ten-blows.svg");
mkdirSync(dirname(file), { recursive: true });
writeFileSync(file, `${svg}\n`);
