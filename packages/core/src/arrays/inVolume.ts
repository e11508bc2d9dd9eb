import { bad, good, type Progress, report } from "../common";
import { cos, random, sin, type Vec3 } from "../maths";
import { bounds, boundsSize, containment, hollowOf, type Mesh } from "../mesh";
import { pour } from "./pour";
import { keepRoom } from "./room";
import { countSpec, lengthSpec, MOST_COPIES } from "./specs";
import { type Layout, makePlaces } from "./types";

/** Ways out from a middle on one level. */
const AROUND = [0, 1, 2, 3, 4, 5, 6, 7].map((n) => [cos((n * Math.PI) / 4), sin((n * Math.PI) / 4)] as const);
/** Tries for each copy before the room counts as full. */
const TRIES = 40;
/** Of which so many are made in one go. */
const AT_ONCE = 512;

/** Copies in the room of other objects: in a vessel's hollow, or in what a solid takes up. */
export const inVolume: Layout = {
	id: "volume",
	label: "In a volume",
	help: "Filling a vessel, or the shape of a solid",
	options: {
		in: { kind: "objects", label: "In", help: "The vessels or solids that are filled" },
		room: {
			kind: "choice",
			label: "Room",
			help: "What of them is filled",
			default: "hollow",
			choices: [
				{ id: "hollow", label: "Hollow", help: "What the vessel would hold, up to its brim" },
				{ id: "solid", label: "Solid", help: "The room that the object itself takes up" },
			],
		},
		pattern: {
			kind: "choice",
			label: "Pattern",
			help: "How they lie in it",
			default: "stacked",
			choices: [
				{ id: "stacked", label: "Stacked", help: "Layer on layer from the bottom up" },
				{ id: "strewn", label: "Strewn", help: "Anywhere, at random" },
				{ id: "poured", label: "Poured", help: "One after the other, each on those below it, whatever their sizes" },
			],
		},
		brim: {
			kind: "choice",
			label: "Brim",
			help: "Whether those that find no place under it stand above it, to be poured in",
			default: "under",
			choices: [
				{ id: "under", label: "Under it", help: "Only as many as find a place" },
				{ id: "over", label: "Over it too", help: "As many as are asked for, in layers above the opening" },
			],
			when: (options) => options.pattern !== "strewn",
		},
		count: countSpec("At most", 1000, "Fewer where there is no room for more"),
		step: lengthSpec("Step", 0.2, "From middle to middle; nothing comes much nearer to a wall than half of it", {
			least: 0.0005,
			when: (options) => options.pattern !== "poured",
		}),
	},
	// Any way round, as things lie that were tipped in.
	begin: { pattern: "poured", turn: 1 },
	suggest: (box) => ({ step: Number((Math.max(...boundsSize(box)) * 1.02).toPrecision(3)) }),
	async place({ targets, reachOf }, options, progress) {
		if (targets.length === 0) return bad("Choose what is filled under “In”.");
		const { count, step, seed } = options as Record<string, number>;
		const places = makePlaces();
		let made = 0;
		const fits = keepRoom(options.pattern === "strewn" ? step! : 0);
		for (const [n, mesh] of targets.entries()) {
			const room = roomOf(mesh, options.room === "hollow");
			if (!room)
				return bad(
					options.room === "hollow"
						? "What is chosen under “In” has no hollow that would hold anything upright. Choose “Solid”, or turn it the right way up."
						: "What is chosen under “In” takes up no room.",
				);
			if (options.pattern === "poured") {
				const before = made;
				const share: Progress = { ...progress, onProgress: (part, what) => progress.onProgress?.((n + part) / targets.length, what) };
				const poured = await pour(room, (i) => reachOf(before + i), count! - before, seed! + n, options.brim === "over", share);
				for (const at of poured) places.add(at);
				made += poured.length;
				continue;
			}
			const clear = ([x, y, z]: Vec3) => {
				// The vessel's cells are a little coarse; touching is no harm.
				const r = 0.47 * step!;
				return room.contains(x, y, z) && room.contains(x, y - r, z) && AROUND.every(([a, b]) => room.contains(x + a * r, y, z + b * r));
			};
			const size = boundsSize(room);
			if (options.pattern === "strewn") {
				for (let i = 0; made < count! && i < count! * TRIES; i++) {
					if (i % AT_ONCE === 0) await report(progress, (n + i / (count! * TRIES)) / targets.length, `${made.toLocaleString("en")} copies`);
					const at = [0, 1, 2].map((axis) => room.min[axis]! + size[axis]! * random(seed!, i + n * 1_000_003, axis)) as unknown as Vec3;
					if (!clear(at) || !fits(at)) continue;
					places.add(at);
					made++;
				}
				continue;
			}
			const steps = size.map((side) => Math.max(1, Math.floor(side / step! + 1e-6))) as [number, number, number];
			if (steps[0] * steps[1] * steps[2] > 20 * MOST_COPIES)
				return bad(`A step of ${step} m makes too many places in ${size.map((s) => s.toPrecision(3)).join(" × ")} m. Make it larger.`);
			/** The uppermost layer with a place in it. */
			let layer: Vec3[] = [];
			for (let j = 0; j < steps[1]; j++) {
				const own: Vec3[] = [];
				for (let k = 0; k < steps[2]; k++)
					for (let i = 0; i < steps[0]; i++) {
						const at: Vec3 = [
							(room.min[0] + room.max[0]) / 2 + (i - (steps[0] - 1) / 2) * step!,
							room.min[1] + (j + 0.5) * step!,
							(room.min[2] + room.max[2]) / 2 + (k - (steps[2] - 1) / 2) * step!,
						];
						if (!clear(at)) continue;
						own.push(at);
						if (made >= count!) continue;
						places.add(at);
						made++;
					}
				if (own.length > 0) layer = own;
			}
			for (let up = 1; options.brim === "over" && layer.length > 0 && made < count!; up++)
				for (const [x, y, z] of layer)
					if (made < count!) {
						places.add([x, y + up * step!, z]);
						made++;
					}
		}
		return made === 0 ? bad("Not one copy fits in. Make the copies or their step smaller, or what is filled larger.") : good(places.done());
	},
};

function roomOf(mesh: Mesh, hollow: boolean) {
	if (hollow) return hollowOf(mesh);
	if (mesh.triangles.length === 0) return undefined;
	return { ...bounds(mesh), cell: 0, contains: containment(mesh) };
}
