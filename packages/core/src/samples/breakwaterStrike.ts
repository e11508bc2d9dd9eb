import { fromEuler, radians, rotate, type Vec3, vec3 } from "../maths";
import { addBondSet, addConnector, addObject, emptyShot, placeObject, setBody, setFlags, setFracture, setSettings } from "../shot";
import type { Sample } from "./types";

/** Where the davit holds the chain, and how far the buoy has been drawn back. */
const TOP: Vec3 = [0.2, 5.4, 0];
const BACK = radians(-62);
const LINKS = 21;
const RING = 0.12;
const WIRE = 0.026;
/** From link to link of a taut chain. */
const PITCH = 2 * (RING - WIRE);
const BUOY = 0.46;
/** Down the chain from the davit, metres. */
const along = (distance: number): Vec3 => vec3.add(TOP, rotate(fromEuler([BACK, 0, 0]), [0, -distance, 0]));

/** A mooring buoy on its anchor chain swings into a block of the breakwater that is bonded to the sea bed. */
export const breakwaterStrike: Sample = {
	id: "breakwater-strike",
	shot: { ...emptyShot("Breakwater strike"), note: "A buoy on its chain meets a block that is bonded to the ground" },
	commands: [
		setSettings({ lastFrame: 120, stepsPerSecond: 240 }),
		addObject({ id: "foreshore", name: "Foreshore", source: { kind: "shape", shape: "ground", parameters: {} }, material: "sand" }),
		setBody(["foreshore"], { kind: "passive" }),
		addObject({
			id: "breakwater",
			name: "Breakwater",
			source: { kind: "shape", shape: "box", parameters: { width: 3.2, height: 1.7, depth: 0.36 } },
			translation: [0, 0.85, 0],
		}),
		setFracture("breakwater-break", { object: "breakwater", method: "voronoi", options: { count: 320, seed: 7, spread: "even", gap: 0 } }),
		setBody(["breakwater"], { kind: "active" }),
		addBondSet("breakwater-bonds", {
			name: "Concrete",
			options: {
				on: '"Breakwater/*"',
				strength: "material",
				factor: 0.2,
				toughness: 30,
				foot: "touching",
				uneven: 0.3,
				grain: 0.5,
				seed: 3,
				// What comes off small comes off as rubble.
				dust: 0.265,
				dustAfter: 0.25,
				leaves: "stones",
				stones: 6,
			},
			// Its bedding goes deep.
			changes: [{ id: "bedding", bodies: [], rule: "height < 0.45 m", strokes: [], reach: 0, factor: 3 }],
			hidden: false,
		}),
		addObject({
			id: "davit",
			name: "Davit",
			source: { kind: "shape", shape: "box", parameters: { width: 0.3, height: 0.3, depth: 1.2 } },
			translation: [TOP[0], TOP[1] + 0.2, 0],
			material: "steel",
		}),
		setBody(["davit"], { kind: "passive" }),
		addObject({
			id: "link",
			name: "Link",
			source: { kind: "shape", shape: "torus", parameters: { radius: RING, wire: WIRE, segments: 28, sides: 10 } },
			translation: along(PITCH / 2),
			material: "steel",
		}),
		addObject({
			id: "chain",
			name: "Anchor chain",
			source: {
				kind: "array",
				sources: ["link"],
				layout: "line",
				options: { count: LINKS, stepX: 0, stepY: 0, stepZ: -PITCH, turnX: 0, turnY: 0, turnZ: 90 },
			},
			translation: along(PITCH / 2),
			material: "steel",
		}),
		// Links lie flat; their own z axis goes up the chain.
		placeObject("chain", { rotation: fromEuler([BACK - radians(90), 0, 0]) }),
		setFlags(["link"], { hidden: true }),
		setBody(["chain"], { kind: "active", collider: "parts" }),
		addObject({
			id: "buoy",
			name: "Buoy",
			source: { kind: "shape", shape: "ball", parameters: { radius: BUOY, detail: 4 } },
			translation: along(LINKS * PITCH + BUOY),
			material: "paintedSteel",
		}),
		setBody(["buoy"], { kind: "active", mass: 2400 }),
		addConnector("anchor", {
			name: "Anchor chain",
			connector: "pin",
			options: { between: "chain", on: '"Anchor chain/*"', collide: "no" },
			a: "davit",
			b: "buoy",
			from: TOP,
			to: TOP,
			turn: [0, 0, 0, 1],
			hidden: false,
		}),
	],
};
