// Reads a USD file with a reader that is not ours, in a process of its own, and prints what it understood: the layer as
// it writes it again, and the meshes it would draw. The library believes itself in a browser's worker.
import { readFileSync } from "node:fs";
import { createRequire } from "node:module";

globalThis.WorkerGlobalScope = class {};
globalThis.self = globalThis;
globalThis.location = { href: "file:///here/" };
Object.defineProperty(globalThis, "process", {
	value: {
		...process,
		type: "renderer",
		versions: process.versions,
		on: process.on.bind(process),
		exit: process.exit,
		stdout: process.stdout,
	},
	configurable: true,
	writable: true,
});
const require = createRequire(import.meta.url);
const begin = (await import(require.resolve("tinyusdz/tinyusdz.js"))).default;
const library = await begin({ wasmBinary: readFileSync(require.resolve("tinyusdz/tinyusdz.wasm")) });
// `layer`: only that; the library makes no scene of surfaces that are coloured by anything but a picture.
const [, , file, only] = globalThis.process.argv;
const bytes = new Uint8Array(readFileSync(file));
const layer = new library.TinyUSDZLoaderNative();
const asLayer = layer.loadAsLayerFromBinary(bytes, file);
const scene = new library.TinyUSDZLoaderNative();
const loaded = only !== "layer" && scene.loadFromBinary(bytes, file);
const meshes = [];
for (let i = 0; loaded && i < scene.numMeshes(); i++) {
	const mesh = scene.getMesh(i);
	meshes.push({ points: mesh.points.length / 3, name: mesh.absPath ?? mesh.primName ?? "" });
}
console.log(
	JSON.stringify({
		asLayer,
		text: asLayer ? layer.layerToString() : "",
		loaded,
		meshes,
		error: `${layer.error?.() ?? ""}${scene.error?.() ?? ""}`,
	}),
);
