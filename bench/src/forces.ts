import { fitCollider } from "@rubble/core/bodies";
import { compileForce, FORCES, type Force } from "@rubble/core/forces";
import { buildShape, shapeById } from "@rubble/core/shapes";
import { addObject, edit, emptyShot, optionDefaults } from "@rubble/core/shot";
import { loadSolids } from "@rubble/core/solid";
import { type Bench, median, milliseconds, type Row } from "./types";

const BODIES = 32_000;

/** One force on 32,000 bodies, for one substep: the field alone. */
const forceRow = (force: Force): Row => ({
	name: `${force.label} on ${BODIES.toLocaleString("en")} bodies`,
	run: async () => {
		const beacons = [0, 1, 2].map((i) =>
			addObject({ id: `b${i}`, name: `b${i}`, source: { kind: "beacon" }, translation: [2 * i, i % 2, 0] }),
		);
		const options = { ...optionDefaults(force), reach: "falloff", falloff: [0, 1, 5, 0.5, 40, 0.1], through: ["b0", "b1", "b2"] };
		const shot = [...beacons, addObject({ id: "f", name: "f", source: { kind: "force", force: force.id, options } })].reduce(
			(made, command) => edit(made, command).shot,
			emptyShot("Bench"),
		);
		const live = compileForce(shot, "f", force);
		const sum = new Float64Array(3);
		const body = { x: 0, y: 0, z: 0, vx: 1, vy: 0, vz: 0, mass: 2, area: 0.3, age: 4 };
		let total = 0;
		let tick = 0;
		const ms = await median(15, () => {
			live.begin(tick, 1 / 120);
			tick += 10;
			for (let i = 0; i < BODIES; i++) {
				sum.fill(0);
				body.x = (i % 40) * 0.2;
				body.y = Math.floor(i / 1600) * 0.2;
				body.z = (Math.floor(i / 40) % 40) * 0.2;
				live.add(sum, body);
				total += sum[0]!;
			}
		});
		if (!Number.isFinite(total)) throw new Error("a force gave no number");
		return { bodies: BODIES, "ms a substep": ms, "µs a body": (1000 * ms) / BODIES };
	},
});

export const forces: Bench = { id: "forces", title: "Forces: one substep of the field alone", rows: FORCES.map(forceRow) };

const HOLLOW: readonly (readonly [name: string, shape: string, parameters: Record<string, number>])[] = [
	["cup", "cup", { radius: 0.25, foot: 0.2, height: 0.4, wall: 0.03, segments: 32 }],
	["ring", "torus", { radius: 0.1, wire: 0.03, segments: 32, sides: 16 }],
	["bowl", "bowl", { radius: 0.5, wall: 0.05, segments: 32 }],
];

const partsRow = (name: string, shape: string, parameters: Record<string, number>, mostHulls: number): Row => ({
	name: `${name}, at most ${mostHulls} hulls`,
	run: async () => {
		const solids = await loadSolids();
		const mesh = buildShape(shapeById(shape)!, parameters);
		let fitted!: ReturnType<typeof fitCollider>;
		const ms = await milliseconds(() => {
			fitted = fitCollider(solids, mesh, "parts", "active", { mostHulls, tolerance: 0.02, depth: 0 });
		});
		const hulls = fitted.shape.kind === "hulls" ? fitted.shape.hulls.length : 1;
		return { triangles: mesh.triangles.length / 3, hulls, ms, "too much, %": 100 * fitted.error };
	},
});

export const parts: Bench = {
	id: "parts",
	title: "Convex decomposition: time and error by the hulls allowed",
	rows: HOLLOW.flatMap(([name, shape, parameters]) => [12, 24, 48].map((most) => partsRow(name, shape, parameters, most))),
};
