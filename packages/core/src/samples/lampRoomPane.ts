import { addObject, emptyShot, setBody, setFracture, setKey, setSettings } from "../shot";
import type { Sample } from "./types";

/** A grapnel, keyed for twenty frames, goes through a lighthouse pane; the pane wakes where it is touched. */
export const lampRoomPane: Sample = {
	id: "lamp-room-pane",
	shot: { ...emptyShot("Lamp-room pane"), note: "A grapnel through 4 mm of glass" },
	commands: [
		setSettings({ lastFrame: 96, stepsPerSecond: 240, solverIterations: 8 }),
		addObject({ id: "floor", name: "Gallery floor", source: { kind: "shape", shape: "ground", parameters: {} }, material: "granite" }),
		setBody(["floor"], { kind: "passive" }),
		addObject({
			id: "sill",
			name: "Sill",
			source: { kind: "shape", shape: "box", parameters: { width: 1.6, height: 0.5, depth: 0.3 } },
			translation: [0, 0.25, 0],
			material: "granite",
		}),
		setBody(["sill"], { kind: "passive" }),
		addObject({
			id: "pane",
			name: "Pane",
			source: { kind: "shape", shape: "panel", parameters: { width: 1.2, height: 1.6, thickness: 0.004 } },
			translation: [0, 1.3005, 0],
			material: "glass",
		}),
		setFracture("pane-break", { object: "pane", method: "voronoi", options: { count: 400, seed: 11, spread: "random", gap: 0 } }),
		setBody(["pane"], { kind: "active", wake: { when: "touched", leastSpeed: 0.3 } }),
		addObject({
			id: "grapnel",
			name: "Grapnel",
			source: { kind: "shape", shape: "cylinder", parameters: { radius: 0.06, height: 0.36, segments: 24 } },
			translation: [0.1, 1.2, 1.5],
			material: "steel",
		}),
		setBody(["grapnel"], { kind: "animated" }),
		setKey("grapnel", 0, { translation: [0.1, 1.2, 1.5] }, "linear"),
		setKey("grapnel", 1000, { translation: [-0.05, 1.5, -1.4] }, "linear"),
	],
};
