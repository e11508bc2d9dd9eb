import { compose, fromAxisAngle, type Quat, type Vec3 } from "../maths";
import { addArray, addObject, emptyShot, placeObject, setBody, setFlags, setKey, setSettings } from "../shot";
import type { Sample } from "./types";

const RADIUS = 0.32;
const SLOPE = 0.42;
const STEEPNESS = Math.sqrt(1 + SLOPE * SLOPE);

/** Where the barrel lies, on its side across the slope, after so many metres along x. */
function rolled(way: number): { translation: Vec3; rotation: Quat } {
	const x = -6.2 + way;
	const surface = SLOPE * (-1 - x);
	return {
		translation: [x, surface + RADIUS * STEEPNESS + 0.003, 0],
		rotation: compose(fromAxisAngle([0, 0, 1], (-way * STEEPNESS) / RADIUS), fromAxisAngle([1, 0, 0], Math.PI / 2)),
	};
}

/** Fish boxes stand stacked on the slipway until a barrel, rolled by hand for a second, is let go. */
export const slipwayStack: Sample = {
	id: "slipway-stack",
	shot: { ...emptyShot("Slipway stack"), note: "A barrel is let go above a stack of boxes" },
	commands: [
		setSettings({ lastFrame: 120 }),
		addObject({ id: "quay", name: "Quay", source: { kind: "shape", shape: "ground", parameters: {} }, material: "granite" }),
		setBody(["quay"], { kind: "passive" }),
		addObject({
			id: "slip",
			name: "Slipway",
			source: { kind: "shape", shape: "wedge", parameters: { width: 6, height: 6 * SLOPE, depth: 2.2 } },
			translation: [-4, 3 * SLOPE, 0],
			material: "concrete",
		}),
		placeObject("slip", { rotation: [0, 1, 0, 0] }),
		setBody(["slip"], { kind: "passive" }),
		addObject({
			id: "box",
			name: "Fish box",
			source: { kind: "shape", shape: "box", parameters: { width: 0.5, height: 0.24, depth: 0.36 } },
			translation: [0.6, 0.12, 0],
			material: "oak",
		}),
		setFlags(["box"], { hidden: true }),
		addArray({
			id: "stack",
			name: "Stack",
			source: {
				kind: "array",
				sources: ["box"],
				layout: "grid",
				options: { columns: 2, layers: 8, rows: 4, stepX: 0.53, stepY: 0.2401, stepZ: 0.4 },
			},
			translation: [0.9, 0.1205, 0],
		}),
		setBody(["stack"], { kind: "active", density: 70, friction: 0.35 }),
		addObject({
			id: "barrel",
			name: "Barrel",
			source: { kind: "shape", shape: "cylinder", parameters: { radius: RADIUS, height: 0.9, segments: 40 } },
			translation: rolled(0).translation,
			material: "paintedSteel",
		}),
		placeObject("barrel", { rotation: rolled(0).rotation }),
		setBody(["barrel"], { kind: "active", density: 1000, wake: { when: "frame", frame: 25 }, friction: 0.8 }),
		// Rolled by hand down the slope: five keys in a second, without slipping.
		...[0, 1, 2, 3, 4].map((k) => setKey("barrel", 300 * k, rolled(0.3 * k), "linear")),
	],
};
