import { addBondSet, addObject, assetRef, emptyShot, setBody, setFracture, setSettings } from "../shot";
import type { Sample } from "./types";

const BRICKS = "d83a2a77ed3e4b1dc65181acb73fb2d65653ed046cb8d364c2e6898fbfa26d07";

/** An arch of the old causeway, its stones and joints read from a picture; a buoy that broke loose comes through. */
export const causewayArch: Sample = {
	id: "causeway-arch",
	shot: { ...emptyShot("Causeway arch"), note: "Masonry read out of a picture" },
	pictures: { [BRICKS]: "bricks.png" },
	commands: [
		setSettings({ lastFrame: 96, solverIterations: 6 }),
		addObject({ id: "shore", name: "Shore", source: { kind: "shape", shape: "ground", parameters: {} }, material: "sand" }),
		setBody(["shore"], { kind: "passive" }),
		addObject({
			id: "arch",
			name: "Arch",
			source: { kind: "shape", shape: "arch", parameters: { radius: 1.2, thickness: 0.55, depth: 0.5, segments: 64 } },
			translation: [0, 0.875, 0],
			material: "brick",
		}),
		setFracture("arch-break", {
			object: "arch",
			method: "picture",
			options: { picture: assetRef(BRICKS), joints: "dark", mortar: "pieces" },
		}),
		setBody(["arch"], { kind: "active" }),
		addBondSet("mortar", {
			name: "Mortar",
			options: { on: '"Arch/*"', strength: "material", factor: 0.25, toughness: 20, foot: "touching", uneven: 0.3, grain: 0.4, seed: 4 },
			// Joints are weaker than stones.
			changes: [{ id: "joints", bodies: [], rule: '"Arch/mortar/*"', strokes: [], reach: 0, factor: 0.4 }],
			hidden: false,
		}),
		addObject({
			id: "buoy",
			name: "Buoy",
			source: { kind: "shape", shape: "ball", parameters: { radius: 0.3, detail: 4 } },
			translation: [0.5, 1.1, -3],
			material: "paintedSteel",
		}),
		setBody(["buoy"], { kind: "active", density: 2400, velocity: [0.6, 2.2, 11] }),
	],
};
