import { addArray, addObject, emptyShot, setBody, setFlags, setSettings } from "../shot";
import type { Sample } from "./types";

const LETTERS = ["S", "A", "L", "T"];

/** Letters of a sign spin in place, are gathered at a point after a second, and flung out again. */
export const signLetters: Sample = {
	id: "sign-letters",
	shot: { ...emptyShot("Sign letters"), note: "Spun, gathered, flung out: three ages" },
	commands: [
		setSettings({ lastFrame: 108, gravity: [0, 0, 0] }),
		...LETTERS.flatMap((letter, i) => [
			addObject({
				id: `letter-${letter}`,
				name: letter,
				source: {
					kind: "shape",
					shape: "letters",
					parameters: { height: 0.34, depth: 0.09, bevel: 0.01, spacing: 0 },
					texts: { text: letter },
				},
				translation: [-2.5 + 0.4 * i, 0, 2],
				material: i % 2 === 0 ? "paintedSteel" : "oak",
			}),
			setFlags([`letter-${letter}`], { hidden: true }),
		]),
		addArray({
			id: "board",
			name: "Board",
			source: {
				kind: "array",
				sources: LETTERS.map((letter) => `letter-${letter}`),
				layout: "grid",
				options: { columns: 8, layers: 5, rows: 1, stepX: 0.5, stepY: 0.5, stepZ: 0.5, mix: "turns" },
			},
			translation: [0, 0.5, 0],
		}),
		setBody(["board"], { kind: "active", spin: [0, 2.4, 0.6], bounce: 0.3 }),
		addObject({
			id: "gather",
			name: "Gather",
			source: { kind: "force", force: "radial", options: { strength: -3.2, ages: "between", youngest: 24, oldest: 58 } },
			translation: [0, 1.5, 0],
		}),
		addObject({
			id: "swirl",
			name: "Swirl",
			source: {
				kind: "force",
				force: "whirl",
				options: { strength: 2, lift: 0.2, inward: 0, ages: "between", youngest: 24, oldest: 58 },
			},
			translation: [0, 1.5, 0],
		}),
		addObject({
			id: "fling",
			name: "Fling",
			source: { kind: "force", force: "radial", options: { strength: 4, ages: "between", youngest: 58, oldest: 74 } },
			translation: [0, 1.5, 0],
		}),
	],
};
