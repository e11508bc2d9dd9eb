import { worldPose } from "@rubble/core/animation";
import { compileForce, forceById } from "@rubble/core/forces";
import type { Vec3 } from "@rubble/core/maths";
import type { ForceSource, Id, Shot, Ticks } from "@rubble/core/shot";

/** Arrows along the longest side of the room. */
const ALONG = 11;
const HEAD = 0.3;
/** A thing that stands still, of a kilogram and a tenth of a square metre, is what the arrows are of. */
const PROBE = { vx: 0, vy: 0, vz: 0, mass: 1, area: 0.1 };

/**
 * Arrows of what the forces do at a tick, as pairs of line ends: of the picked force, or of all together. They stand on
 * a grid over the room that matters: a force's reach where it falls off, else the room of the bodies. The longest is as
 * long as the grid is wide; ages are left out of account.
 */
export function fieldArrows(
	shot: Shot,
	tick: Ticks,
	picked: Id | undefined,
	room: { readonly centre: Vec3; readonly radius: number },
): Float32Array {
	const ids = Object.keys(shot.objects)
		.sort()
		.filter((id) => shot.objects[id]!.source.kind === "force" && (picked === undefined || picked === id));
	const live = ids.flatMap((id) => {
		const source = shot.objects[id]!.source as ForceSource;
		const force = forceById(source.force);
		const compiled = force && compileForce(shot, id, force);
		return compiled?.begin(tick, 1 / shot.settings.stepsPerSecond) ? [{ id, compiled, options: source.options }] : [];
	});
	if (live.length === 0) return new Float32Array(0);
	const { centre, radius } = live.length === 1 ? reachOf(shot, tick, live[0]!, room) : room;
	const step = (2 * radius) / (ALONG - 1);
	const places: Vec3[] = [];
	const pushes: Vec3[] = [];
	let most = 0;
	const sum = new Float64Array(3);
	for (let j = 0; j < ALONG; j += 2)
		for (let i = 0; i < ALONG; i++)
			for (let k = 0; k < ALONG; k++) {
				const place: Vec3 = [centre[0] - radius + i * step, centre[1] - radius + j * step, centre[2] - radius + k * step];
				sum.fill(0);
				for (const { compiled, options } of live)
					compiled.add(sum, { ...PROBE, x: place[0], y: place[1], z: place[2], age: Number(options.youngest ?? 0) });
				const size = Math.hypot(sum[0]!, sum[1]!, sum[2]!);
				if (size < 1e-6) continue;
				most = Math.max(most, size);
				places.push(place);
				pushes.push([sum[0]!, sum[1]!, sum[2]!]);
			}
	const lines: number[] = [];
	places.forEach((place, n) => {
		const size = Math.hypot(...pushes[n]!);
		// Weak ones stay visible: lengths go by the root.
		const length = (0.9 * step * Math.sqrt(size / most)) / size;
		const to = place.map((x, k) => x + length * pushes[n]![k]!);
		lines.push(...place, ...to);
		const along = to.map((x, k) => x - place[k]!);
		const side = Math.abs(along[1]!) > 0.8 * Math.hypot(...along) ? [1, 0, 0] : [0, 1, 0];
		const across = [
			along[1]! * side[2]! - along[2]! * side[1]!,
			along[2]! * side[0]! - along[0]! * side[2]!,
			along[0]! * side[1]! - along[1]! * side[0]!,
		];
		for (const s of [-0.5, 0.5]) lines.push(...to, ...to.map((x, k) => x - HEAD * (along[k]! + s * across[k]!)));
	});
	return Float32Array.from(lines);
}

function reachOf(
	shot: Shot,
	tick: Ticks,
	{ id, options }: { readonly id: Id; readonly options: ForceSource["options"] },
	room: { readonly centre: Vec3; readonly radius: number },
) {
	const falloff = options.falloff as readonly number[] | undefined;
	if (options.reach !== "falloff" || !falloff?.length || (shot.objects[id]!.source as ForceSource).force === "stream") return room;
	return { centre: worldPose(shot, id, tick).translation, radius: Math.max(0.1, falloff[falloff.length - 2]!) };
}
