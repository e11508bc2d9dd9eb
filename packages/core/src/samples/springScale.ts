import { addConnector, addObject, emptyShot, setBody, setLink, setSettings } from "../shot";
import type { Sample } from "./types";

const TOP = 2;
/** Of the coil, where the empty pan holds it. */
const LENGTH = 0.42;
const TURNS = 9;
const STIFFNESS = 260;
const PAN = 1.2;
/** Shorter than as it stands by what the pan stretches it: so it rests where it was set. */
const REST = LENGTH - (PAN * 9.81) / STIFFNESS;

/** The fish market's scale: floats drop into its pan, the spring gives, and the coil stretches with it. */
export const springScale: Sample = {
	id: "spring-scale",
	shot: { ...emptyShot("Spring scale"), note: "A coil that stretches with what is weighed" },
	commands: [
		setSettings({ lastFrame: 120 }),
		addObject({ id: "quay", name: "Quay", source: { kind: "shape", shape: "ground", parameters: {} }, material: "concrete" }),
		setBody(["quay"], { kind: "passive" }),
		addObject({
			id: "beam",
			name: "Beam",
			source: { kind: "shape", shape: "box", parameters: { width: 1.1, height: 0.1, depth: 0.14 } },
			translation: [0, TOP + 0.05, 0],
			material: "oak",
		}),
		addObject({
			id: "post",
			name: "Post",
			source: { kind: "shape", shape: "box", parameters: { width: 0.12, height: TOP, depth: 0.12 } },
			translation: [-0.49, TOP / 2, 0],
			material: "oak",
		}),
		setBody(["beam", "post"], { kind: "passive" }),
		addObject({
			id: "coil",
			name: "Coil",
			source: { kind: "shape", shape: "coil", parameters: { radius: 0.055, wire: 0.007, turns: TURNS, pitch: LENGTH / TURNS, sides: 12 } },
			translation: [0, TOP - LENGTH / 2, 0],
			material: "steel",
		}),
		addObject({
			id: "pan",
			name: "Pan",
			source: { kind: "shape", shape: "cup", parameters: { radius: 0.29, foot: 0.24, height: 0.22, wall: 0.025, segments: 24 } },
			translation: [0, TOP - LENGTH - 0.11, 0],
			material: "paintedSteel",
		}),
		setBody(["pan"], { kind: "active", mass: PAN, collider: "parts", hulls: 40, bounce: 0 }),
		addConnector("spring", {
			name: "Spring",
			connector: "spring",
			options: { stiffness: STIFFNESS, damping: 5, rest: "given", length: REST },
			a: "pan",
			b: "",
			from: [0, TOP - LENGTH, 0],
			to: [0, TOP, 0],
			turn: [0, 0, 0, 1],
			hidden: false,
		}),
		addConnector("guide", {
			name: "Guide",
			connector: "slider",
			options: {},
			a: "pan",
			b: "",
			from: [0, TOP - LENGTH, 0],
			to: [0, TOP - LENGTH, 0],
			// Its x axis upright.
			turn: [0, 0, Math.SQRT1_2, Math.SQRT1_2],
			hidden: false,
		}),
		setLink("stretch", {
			object: "coil",
			property: "pitch",
			source: "pan",
			formula: "-(height - height0) / turns",
			keeps: "top",
			hidden: false,
		}),
		...[
			[0.1, 0.3, 0.02, 0.08],
			[-0.03, 0.8, 0.17, 0.075],
			[0.03, 1.9, -0.17, 0.085],
		].flatMap(([x, up, z, radius], n) => [
			addObject({
				id: `float-${n}`,
				name: `Float ${n + 1}`,
				source: { kind: "shape", shape: "ball", parameters: { radius: radius!, detail: 4 } },
				translation: [x!, TOP - LENGTH + up!, z!],
				material: "cork",
			}),
			setBody([`float-${n}`], { kind: "active", mass: 1.6, bounce: 0.1 }),
		]),
	],
};
