import { gravityAt, localPose, moves, numberAt, worldPose, worldScale } from "../animation";
import { meshHash, piecesHash, regionForm } from "../bodies";
import { type Hash, hashText, hashValue } from "../common";
import {
	type BodySettings,
	fractureOf,
	type Id,
	isBodiless,
	objectPath,
	type Shot,
	simulationStart,
	TICKS_PER_SECOND,
	tickOfFrame,
} from "../shot";
import { ENGINE_BUILD } from "./engine";

/** Changes whenever the same shot may give other bytes. */
export const BUILD_ID = `rubble 21, ${ENGINE_BUILD}`;

/**
 * The hash of everything that shapes the simulation except keyed values and wakes by frame, which are hashed frame by
 * frame. Looks, cameras, names (unless rules ask for them) and the end of the range are left out.
 */
export function startHash(shot: Shot): Hash {
	const { settings } = shot;
	const hasBonds = Object.keys(shot.bondSets).length > 0;
	// Rules of bonds and connectors may ask for names.
	const ruled = shot.bodyRules.length > 0 || hasBonds || Object.keys(shot.connectors).length > 0;
	const objects = Object.keys(shot.objects)
		.filter((id) => takesPart(shot, id))
		.sort()
		.map((id) => {
			const item = shot.objects[id]!;
			const made = item.source.kind === "array" ? item.source.sources : [id];
			const materials = made.map((source) => shot.materials[shot.objects[source]!.material]!);
			return {
				id,
				mesh: meshHash(shot, id),
				pose: moves(shot, id) ? null : worldPose(shot, id, 0),
				body: withoutFrame(shot.bodies[id]),
				material: materials.map(({ density, friction, bounce }) => [density, friction, bounce]),
				pieces: [fractureOf(shot, id), piecesHash(shot, id)],
				path: ruled ? [objectPath(shot, id), item.hidden, item.locked, materials.map(({ name }) => name)] : null,
			};
		});
	return hashValue({
		build: BUILD_ID,
		settings: [
			settings.fps,
			settings.firstFrame,
			settings.stepsPerSecond,
			settings.solverIterations,
			settings.gravityKeys ? null : settings.gravity,
			settings.timeScale,
			settings.seed,
			...((settings.mostParts ?? 1) > 1 ? [{ mostParts: settings.mostParts }] : []),
		],
		objects,
		proxies: allSettings(shot).flatMap(({ proxy }) => (proxy && shot.objects[proxy] ? [[proxy, meshHash(shot, proxy)]] : [])),
		crops: allSettings(shot).flatMap(({ crop }) =>
			crop && shot.objects[crop]?.source.kind === "region"
				? [[crop, ...regionForm(shot, crop), worldPose(shot, crop, 0), worldScale(shot, crop)]]
				: [],
		),
		worlds: shot.worlds,
		...(shot.keptPlaces && { kept: shot.keptPlaces }),
		...(shot.motions && { keyed: Object.keys(shot.motions).sort() }),
		forces: influences(shot)
			.filter((id) => shot.objects[id]!.source.kind === "force")
			.map((id) => {
				const { source, hidden, keys } = shot.objects[id]!;
				return [id, source, hidden, keys.numbers ? null : 0, moves(shot, id) ? null : worldPose(shot, id, 0)];
			}),
		// Rules may ask what stands in a region, bodies may wait for one.
		...((ruled || waitsForRegions(shot)) && {
			regions: Object.keys(shot.objects)
				.sort()
				.filter((id) => shot.objects[id]!.source.kind === "region")
				.map((id) => [shot.objects[id]!.name, ...regionForm(shot, id), worldPose(shot, id, 0), worldScale(shot, id)]),
		}),
		...(Object.keys(shot.connectors).length > 0 && {
			connectors: Object.keys(shot.connectors)
				.sort()
				.map((id) => ({ ...shot.connectors[id]!, name: "" })),
		}),
		...(hasBonds && {
			bonds: Object.keys(shot.bondSets)
				.sort()
				.map((id) => ({ ...shot.bondSets[id]!, id, name: "" })),
			strengths: Object.keys(shot.materials)
				.sort()
				.map((id) => [id, shot.materials[id]!.strength]),
		}),
		rules: shot.bodyRules.map(({ rule, settings: change }) => [rule, withoutFrame(change)]),
		overrides: Object.keys(shot.overrides)
			.sort()
			.map((id) => [id, withoutFrame(shot.overrides[id])]),
	});
}

/** One hash per frame of the range: H(the previous one, what is keyed in that frame). A frame is stale when it differs. */
export function frameHashes(shot: Shot, start: Hash = startHash(shot)): Hash[] {
	const { settings } = shot;
	const acting = influences(shot);
	const keyed = Object.keys(shot.objects)
		.filter((id) => (takesPart(shot, id) || acting.includes(id)) && moves(shot, id))
		.sort();
	const numbers = acting.filter((id) => shot.objects[id]!.keys.numbers);
	const motions = Object.keys(shot.motions ?? {}).sort();
	const wakes = wakesByFrame(shot);
	const hashes: Hash[] = [];
	let previous = start;
	const step = TICKS_PER_SECOND / settings.stepsPerSecond;
	for (let frame = settings.firstFrame; frame <= settings.lastFrame; frame++) {
		const end = tickOfFrame(settings, frame);
		const begin = frame === settings.firstFrame ? end : tickOfFrame(settings, frame - 1);
		const values: unknown[] = [];
		// All values the frame's steps see: they may bend between two frames.
		const ticks: number[] = [];
		for (let tick = Math.floor(begin / step) * step; tick < end + step; tick += step) ticks.push(tick);
		for (const id of keyed)
			for (const tick of ticks) {
				const { translation, rotation } = worldPose(shot, id, tick);
				values.push(...translation, ...rotation);
			}
		for (const id of numbers)
			for (const tick of ticks)
				for (const name of Object.keys(shot.objects[id]!.keys.numbers!).sort()) values.push(numberAt(shot.objects[id]!, name, tick));
		for (const id of motions)
			for (const tick of ticks) {
				const { translation, rotation } = localPose(shot.motions![id]!, tick);
				values.push(...translation, ...rotation);
			}
		if (settings.gravityKeys) for (const tick of ticks) values.push(...gravityAt(settings, tick));
		const woken = wakes.filter(([at]) => at <= frame).map(([, id]) => id);
		// Until things move by themselves it matters that they do not yet; when they will does not.
		const waits = frame < simulationStart(settings) ? "|waits" : "";
		previous = hashText(`${previous}|${values.join()}|${woken.join()}${waits}`);
		hashes.push(previous);
	}
	return hashes;
}

/** The first frame of the range whose hash differs from the stored ones, or the one after the last where none does. */
export function staleFrom(stored: readonly Hash[], current: readonly Hash[], firstFrame: number): number {
	let same = 0;
	while (same < stored.length && same < current.length && stored[same] === current[same]) same++;
	return firstFrame + same;
}

/** Objects that shape a run without being bodies: forces, the beacons they go through, and regions, with their parents. */
function influences(shot: Shot): Id[] {
	const forces = Object.keys(shot.objects).filter((id) => shot.objects[id]!.source.kind === "force");
	const beacons = forces.length > 0 ? Object.keys(shot.objects).filter((id) => shot.objects[id]!.source.kind === "beacon") : [];
	const regions = Object.keys(shot.objects).filter((id) => shot.objects[id]!.source.kind === "region");
	return [...forces, ...beacons, ...regions].sort();
}

function takesPart(shot: Shot, id: Id): boolean {
	if (isBodiless(shot.objects[id]!)) return false;
	const kind = shot.bodies[id]?.kind ?? "none";
	if (kind !== "none" || shot.bodyRules.length > 0) return true;
	const fracture = fractureOf(shot, id);
	return Object.keys(shot.overrides).some((derived) => derived.startsWith(`${fracture}:`) || derived.startsWith(`${id}:`));
}

function withoutFrame(settings: BodySettings | undefined): unknown {
	if (settings?.wake?.when !== "frame") return settings ?? null;
	return { ...settings, wake: { when: "frame" } };
}

/** Every setting of bodies that the shot holds. */
const allSettings = (shot: Shot): BodySettings[] => [
	...Object.values(shot.bodies),
	...Object.values(shot.overrides),
	...shot.bodyRules.map((rule) => rule.settings),
];

const waitsForRegions = (shot: Shot): boolean => allSettings(shot).some((settings) => settings.wake?.when === "region");

/** Wakes by frame, as (frame, whose), in order. */
function wakesByFrame(shot: Shot): [number, string][] {
	const all: [number, string][] = [];
	const note = (owner: string, settings: BodySettings | undefined) => {
		if (settings?.wake?.when === "frame") all.push([settings.wake.frame, owner]);
	};
	for (const [id, settings] of Object.entries(shot.bodies)) note(id, settings);
	for (const [id, settings] of Object.entries(shot.overrides)) note(id, settings);
	for (const rule of shot.bodyRules) note(rule.rule, rule.settings);
	return all.sort((a, b) => a[0] - b[0] || (a[1] < b[1] ? -1 : 1));
}
