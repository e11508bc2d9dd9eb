import { addArray, addObject, emptyShot, placeObject, setBody, setFlags, setSettings } from "../shot";
import type { Sample } from "./types";

/** Cork floats pour from a hopper through a slot, into the wind. */
export const floatHopper: Sample = {
	id: "float-hopper",
	shot: { ...emptyShot("Float hopper"), note: "Cork floats pour out into a gust" },
	commands: [
		setSettings({ lastFrame: 144 }),
		addObject({ id: "quay", name: "Quay", source: { kind: "shape", shape: "ground", parameters: {} }, material: "granite" }),
		setBody(["quay"], { kind: "passive" }),
		// Two boards with a slot between them, and two cheeks.
		...[
			["board-left", "Left board", [-0.7, 1.5, 0], [0, 0, -0.3420201, 0.9396926]],
			["board-right", "Right board", [0.7, 1.5, 0], [0, 0, 0.3420201, 0.9396926]],
		].flatMap(([id, name, translation, rotation]) => [
			addObject({
				id: id as string,
				name: name as string,
				source: { kind: "shape", shape: "box", parameters: { width: 1.3, height: 0.04, depth: 0.9 } },
				translation: translation as [number, number, number],
				material: "oak",
			}),
			placeObject(id as string, { rotation: rotation as [number, number, number, number] }),
			setBody([id as string], { kind: "passive" }),
		]),
		...[-0.46, 0.46].flatMap((z, i) => [
			addObject({
				id: `cheek-${i}`,
				name: i === 0 ? "Far cheek" : "Near cheek",
				source: { kind: "shape", shape: "box", parameters: { width: 2.5, height: 1.1, depth: 0.03 } },
				translation: [0, 1.65, z],
				material: i === 0 ? "oak" : "glass",
			}),
			setBody([`cheek-${i}`], { kind: "passive" }),
		]),
		addObject({
			id: "float",
			name: "Float",
			source: { kind: "shape", shape: "ball", parameters: { radius: 0.055, detail: 2 } },
			translation: [0, 2.4, 0],
			material: "cork",
		}),
		setFlags(["float"], { hidden: true }),
		addArray({
			id: "floats",
			name: "Floats",
			source: {
				kind: "array",
				sources: ["float"],
				layout: "grid",
				options: { columns: 11, layers: 8, rows: 6, stepX: 0.125, stepY: 0.125, stepZ: 0.125, jitter: 0.006, seed: 3 },
			},
			translation: [0, 2.1, 0],
		}),
		setBody(["floats"], { kind: "active", rolling: 0.02, friction: 0.3, bounce: 0.15 }),
		addObject({
			id: "gust",
			name: "Gust",
			source: {
				kind: "force",
				force: "wind",
				options: { strength: 7, along: "x", reach: "falloff", falloff: [0, 1, 0.8, 0.9, 1.6, 0], frames: "between", from: 40, until: 144 },
			},
			translation: [-0.4, 0.4, 0],
		}),
		addObject({
			id: "eddies",
			name: "Eddies",
			source: {
				kind: "force",
				force: "turbulence",
				options: {
					strength: 3,
					size: 0.6,
					speed: 0.8,
					reach: "falloff",
					falloff: [0, 1, 0.8, 0.8, 1.2, 0],
					frames: "between",
					from: 40,
					until: 144,
					seed: 5,
				},
			},
			translation: [0.6, 0.6, 0],
		}),
	],
};
