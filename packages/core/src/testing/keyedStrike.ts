import { addObject, type Command, setBody, setFracture, setKey, setSettings } from "../shot";

/** A keyed buoy swings into a broken block that wakes when touched: something of everything in a few bodies. */
export const keyedStrike: readonly Command[] = [
	setSettings({ lastFrame: 72 }),
	addObject({ id: "foreshore", name: "Foreshore", source: { kind: "shape", shape: "ground", parameters: {} }, material: "sand" }),
	setBody(["foreshore"], { kind: "passive" }),
	addObject({
		id: "breakwater",
		name: "Breakwater",
		source: { kind: "shape", shape: "box", parameters: { width: 3.2, height: 1.6, depth: 0.8 } },
		translation: [0, 0.8, 0],
	}),
	setFracture("breakwater-break", { object: "breakwater", method: "voronoi", options: { count: 60, seed: 7, spread: "even", gap: 0 } }),
	setBody(["breakwater"], { kind: "active", wake: { when: "touched", leastSpeed: 0.4 } }),
	addObject({
		id: "buoy",
		name: "Buoy",
		source: { kind: "shape", shape: "ball", parameters: { radius: 0.42, detail: 4 } },
		translation: [-0.5, 2.6, -3.4],
		material: "paintedSteel",
	}),
	setBody(["buoy"], { kind: "animated" }),
	// A swing: down, through the block, up, and half way back.
	setKey("buoy", 0, { translation: [-0.5, 2.6, -3.4] }, "eased"),
	setKey("buoy", 1000, { translation: [-0.1, 1.05, -0.9] }, "linear"),
	setKey("buoy", 1400, { translation: [0.15, 1.1, 1.1] }, "linear"),
	setKey("buoy", 2200, { translation: [0.4, 2.3, 2.7] }, "eased"),
	setKey("buoy", 4000, { translation: [0.2, 1.3, 1.4] }, "eased"),
	setKey("buoy", 7150, { translation: [0.3, 1.7, 2.1] }, "eased"),
];
