import { execFileSync } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { buildBodies, makeWorkshop } from "@rubble/core/bodies";
import type { Shot } from "@rubble/core/shot";
import { Kind, makeScene, rapierEngine, type SimScene, simulate } from "@rubble/core/simulation";
import { loadSolids } from "@rubble/core/solid";
import { balls, heap } from "./steps";
import { type Bench, milliseconds, NO_ASSETS, type Row } from "./types";

/** The scene as `native/bullet.cpp` reads it. */
function sceneBytes(scene: SimScene): Uint8Array {
	const { settings } = scene;
	const parts: Uint8Array[] = [];
	const put = (kind: typeof Uint32Array | typeof Float32Array, ...values: number[]) => parts.push(new Uint8Array(kind.from(values).buffer));
	const frames = settings.lastFrame - settings.firstFrame + 1;
	put(Uint32Array, scene.count, frames, settings.stepsPerSecond / settings.fps, settings.solverIterations);
	put(Float32Array, 1 / settings.stepsPerSecond);
	for (let i = 0; i < scene.count; i++) {
		const { shape } = scene.colliders[i]!;
		const kind = shape.kind === "ground" ? 0 : shape.kind === "sphere" ? 1 : 2;
		put(Uint32Array, kind);
		put(Float32Array, scene.kind[i] === Kind.Active ? scene.mass[i]! : 0);
		put(Float32Array, ...scene.position.subarray(3 * i, 3 * i + 3), ...scene.rotation.subarray(4 * i, 4 * i + 4), scene.friction[i]!);
		if (shape.kind === "sphere") put(Float32Array, shape.radius);
		else if (shape.kind === "hulls") {
			put(Uint32Array, shape.hulls.length);
			for (const hull of shape.hulls) {
				put(Uint32Array, hull.length / 3);
				put(Float32Array, ...hull);
			}
		} else if (shape.kind !== "ground") throw new Error(`no “${shape.kind}” in this comparison`);
	}
	return new Uint8Array(Buffer.concat(parts));
}

/** The same scene in both, one after the other. Needs Debian's `g++`, `pkg-config` and `libbullet-dev`. */
const compare = (name: string, shot: () => Shot): Row => ({
	name,
	run: async () => {
		const folder = mkdtempSync(join(tmpdir(), "rubble-native-"));
		try {
			const program = join(folder, "bullet");
			const flags = execFileSync("pkg-config", ["--cflags", "--libs", "bullet"], { encoding: "utf8" }).trim().split(/\s+/);
			const source = fileURLToPath(new URL("../native/bullet.cpp", import.meta.url));
			execFileSync("g++", ["-O3", "-march=native", "-o", program, source, ...flags]);
			const workshop = makeWorkshop(await loadSolids(), NO_ASSETS);
			const made = shot();
			const scene = await makeScene(workshop, made, (await buildBodies(workshop, made)).bodies);
			writeFileSync(join(folder, "scene"), sceneBytes(scene));
			const native = JSON.parse(execFileSync(program, [join(folder, "scene")], { encoding: "utf8" })) as {
				frame: number;
				resting: number;
				lowest: number;
			};
			const frames = made.settings.lastFrame - made.settings.firstFrame + 1;
			const ours = (await milliseconds(() => simulate(scene, rapierEngine, { onChunk: () => undefined }))) / frames;
			return { bodies: scene.count, "ms a frame": ours, "native ms": native.frame, "times native": ours / native.frame };
		} finally {
			rmSync(folder, { recursive: true, force: true });
		}
	},
});

export const native: Bench = {
	id: "native",
	title: "The same scenes in Debian's Bullet, native",
	rows: [
		...[1_000, 4_000].map((count) => compare(`heap of ${count} pieces`, () => heap(count))),
		...[1_000, 4_000, 8_000].map((count) => compare(`${count} balls`, () => balls(count))),
	],
};
