import { bad, good, type Outcome } from "../common";
import { SCENERY_DEFAULTS, SHOT_VERSION, STRENGTHS } from "./defaults";

/** Lifts a document of version `from` to `from + 1`. Pure; gets and returns plain JSON. */
export interface Migration {
	readonly from: number;
	readonly what: string;
	readonly up: (document: Record<string, unknown>) => Record<string, unknown>;
}

/** In order, one per version, never edited after release. */
export const MIGRATIONS: readonly Migration[] = [
	{
		from: 0,
		what: "drafts had neither body rules nor single overrides",
		up: (document) => ({ bodyRules: [], overrides: {}, ...document }),
	},
	{
		from: 1,
		what: "shots had no scenery, and clustered points a reach and a contrast instead of a curve",
		up: (document) => ({ scenery: SCENERY_DEFAULTS, ...document, fractures: withCurves(document.fractures as Fractures) }),
	},
	{
		from: 2,
		what: "shots had one world only",
		up: (document) => ({ worlds: {}, ...document }),
	},
	{
		from: 3,
		what: "nothing was tied to anything, and materials had no strength",
		up: (document) => ({ bondSets: {}, connectors: {}, links: {}, ...document, materials: withStrength(document.materials as Materials) }),
	},
	{
		from: 4,
		what: "pieces and copies could only stand where they were made",
		up: (document) => ({ keptPlaces: null, ...document }),
	},
	{
		from: 5,
		what: "motors and stops were told for the second body against the first",
		up: (document) => ({ ...document, connectors: turnedRound(document.connectors as Connectors) }),
	},
];

/** Brings a document of any known version up to date; tells newer and foreign documents apart. */
export function migrate(value: unknown): Outcome<Record<string, unknown>> {
	if (typeof value !== "object" || value === null || Array.isArray(value)) return bad("This is not a shot: a JSON object was expected.");
	let document = value as Record<string, unknown>;
	if (document.format !== "mighty-rubble-shot") return bad("This is not a shot of Mighty Rubble: its “format” is missing or another.");
	const version = document.version;
	if (typeof version !== "number" || !Number.isInteger(version) || version < 0) return bad("The shot's version is missing.");
	if (version > SHOT_VERSION)
		return bad(`The shot was written by a newer version (${version}); this one reads up to ${SHOT_VERSION}. Update to open it.`);
	for (let at = version; at < SHOT_VERSION; at++) {
		const step = MIGRATIONS.find((migration) => migration.from === at);
		if (!step) throw new Error(`migrate: no step from version ${at}`);
		document = { ...step.up(document), version: at + 1 };
	}
	return good(document);
}

type Connectors = Readonly<Record<string, { readonly options: Readonly<Record<string, unknown>> }>>;
/** What motors and stops say, for the other body. */
const turnedRound = (connectors: Connectors = {}): Connectors =>
	Object.fromEntries(
		Object.entries(connectors).map(([id, connector]) => {
			const { least, most, speed, place, ...options } = connector.options;
			const told = { least: opposite(most), most: opposite(least), speed: opposite(speed), place: opposite(place) };
			const known = Object.entries(told).filter(([, value]) => value !== undefined);
			return [id, { ...connector, options: { ...options, ...Object.fromEntries(known) } }];
		}),
	);
const opposite = (value: unknown): number | undefined => (typeof value === "number" ? 0 - value : undefined);

type Materials = Readonly<Record<string, object>>;
const withStrength = (materials: Materials = {}): Materials =>
	Object.fromEntries(
		Object.entries(materials).map(([id, material]) => [id, { strength: STRENGTHS[id] ?? STRENGTHS.concrete, ...material }]),
	);

type Step = { readonly options: Readonly<Record<string, unknown>>; readonly again?: readonly Step[] };
type Fractures = Readonly<Record<string, Step>>;

const withCurves = (fractures: Fractures = {}): Fractures =>
	Object.fromEntries(Object.entries(fractures).map(([id, step]) => [id, withCurve(step)]));

function withCurve(step: Step): Step {
	const { reach, contrast, ...options } = step.options ?? {};
	const again = step.again && { again: step.again.map(withCurve) };
	if (typeof reach !== "number" && typeof contrast !== "number") return { ...step, ...again };
	const r = typeof reach === "number" ? reach : 0.3;
	const c = typeof contrast === "number" ? contrast : 40;
	const [near, far] = c >= 1 ? [1, 1 / c] : [c, 1];
	const density = [0, 0.5, 1, 2, 4, 8].flatMap((x) => [x * r, far + (near - far) / (1 + x * x)]);
	return { ...step, ...again, options: { ...options, density } };
}
