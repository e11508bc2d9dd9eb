import type { BodyRow } from "../bodies";
import type { Chunk } from "../cache";
import { bad, good, type Outcome } from "../common";
import {
	type BodySettings,
	type Command,
	edit,
	type Id,
	isBodiless,
	objectOf,
	objectPath,
	type Shot,
	setBody,
	setSettings,
	withInside,
} from "../shot";

/** How long things may fall and roll before they are taken as they are. s */
const LONGEST = 20;

/**
 * The shot in which what is picked falls onto everything else that is drawn, which holds still; forces and keys aside,
 * everything is as it is set up. Nothing picked: what is active falls, and the rest is as it is.
 */
export function settleShot(shot: Shot, picked: readonly string[]): Outcome<Shot> {
	const longer = edit(
		shot,
		setSettings({
			lastFrame: Math.max(shot.settings.lastFrame, shot.settings.firstFrame + Math.ceil(LONGEST * shot.settings.fps)),
			startFrame: undefined,
		}),
	).shot;
	if (picked.length === 0) {
		const any = [...Object.values(shot.bodies), ...Object.values(shot.overrides), ...shot.bodyRules.map(({ settings }) => settings)];
		return any.some(({ kind }) => kind === "active")
			? good(allAwake(longer))
			: bad("Pick what shall fall, or make something active in Weigh.");
	}
	const falling = new Set<Id>();
	const objects = picked.flatMap((id) => objectOf(shot, id) ?? []);
	for (const one of withInside(shot, objects)) if (!isBodiless(shot.objects[one]!)) falling.add(one);
	if (falling.size === 0) return bad("What is picked has no shape that could fall.");
	const bodies: Record<Id, BodySettings> = {};
	for (const [id, item] of Object.entries(shot.objects)) {
		if (isBodiless(item) || item.hidden) continue;
		const { wake: _, ...own } = shot.bodies[id] ?? {};
		bodies[id] = falling.has(id) ? { ...own, kind: "active" } : { ...own, kind: "passive" };
	}
	return good({ ...longer, bodies, bodyRules: [], overrides: {}, bondSets: {}, connectors: {} });
}

/** Nothing waits: what is to settle falls at once. */
function allAwake(shot: Shot): Shot {
	const awake = <T extends BodySettings>({ wake: _, ...settings }: T) => settings;
	const each = (map: Shot["bodies"]) => Object.fromEntries(Object.entries(map).map(([id, settings]) => [id, awake(settings)]));
	return {
		...shot,
		bodies: each(shot.bodies),
		overrides: each(shot.overrides),
		bodyRules: shot.bodyRules.map((rule) => ({ ...rule, settings: awake(rule.settings) })),
	};
}

/** What is kept reaches into other things by no more. m */
export const DEEPEST = 0.001;
/** How many frames nothing may have moved until things count as settled. */
const STILL_FRAMES = 6;

/** A signal for `simulate` that is raised once everything rests, or from outside. */
export class RestWatch {
	private still = 0;
	constructor(private readonly outside: { readonly aborted: boolean } = { aborted: false }) {}

	see({ awake }: Pick<Chunk, "awake">): void {
		for (const count of awake) this.still = count === 0 ? this.still + 1 : 0;
	}

	get rested(): boolean {
		return this.still >= STILL_FRAMES;
	}

	get aborted(): boolean {
		return this.rested || this.outside.aborted;
	}
}

/** Physics away: what stands, stands. Settings of single pieces and copies go with it. */
export const physicsOff = (shot: Shot, bodies: readonly Pick<BodyRow, "id" | "object">[]): Command => {
	const objects = new Set(bodies.map(({ object }) => object).filter((id) => shot.bodies[id]?.kind === "active"));
	// What a rule has made active, only the single setting can make something else.
	const ruled = shot.bodyRules.some(({ settings }) => settings.kind !== undefined);
	const single = bodies.filter(({ id, object }) => (ruled && id !== object) || shot.overrides[id]?.kind === "active").map(({ id }) => id);
	return setBody([...objects, ...single], { kind: "none" });
};

/** The shot with nothing active but what is picked, and a name for it. */
export function onlyActive(
	shot: Shot,
	bodies: readonly Pick<BodyRow, "id" | "object" | "path" | "settings">[],
	picked: readonly string[],
): Outcome<{ readonly name: string; readonly shot: Shot }> {
	const chosen = new Set(picked);
	const isMeant = ({ id, object }: Pick<BodyRow, "id" | "object">) => chosen.has(id) || chosen.has(object);
	const active = bodies.filter(({ settings }) => settings.kind === "active");
	const meant = active.filter(isMeant);
	if (meant.length === 0) return bad("Pick something that is active; it then runs with everything else away.");
	const others = active.filter((body) => !isMeant(body)).map(({ id }) => id);
	const name = meant.length === 1 ? meant[0]!.path : objectPath(shot, meant[0]!.object);
	return good({ name: `${name} alone`, shot: edit(shot, setBody(others, { kind: "none" })).shot });
}
