import {
	array,
	boolean,
	type Lazy,
	lazy,
	mixed,
	number,
	type ObjectShape,
	object,
	type Schema,
	type StringSchema,
	string,
	tuple,
	ValidationError,
} from "yup";
import { atOnce, bad, good, inTurns, type Outcome, type Steps } from "../common";
import { migrate } from "./migrations";
import { isStorable } from "./plainText";
import { brokenReferences, isReserved } from "./references";
import { COLOURED_BY, type OptionValue, SHOT_LIMITS, type Shot } from "./types";

type AnySchema = Schema | Lazy<unknown>;

const LARGEST = SHOT_LIMITS.number;
const finite = () =>
	number()
		.strict()
		.required()
		.test("finite", "${path} must be a finite number", (v) => Number.isFinite(v))
		.test("size", "${path} is larger than anything here can be", (v) => Math.abs(v) <= LARGEST);
/** A number above nothing that is not so small that others lose their digits against it. */
const positive = () => finite().min(SHOT_LIMITS.least);
/** A frame of a shot. */
const frame = () => finite().integer().min(-SHOT_LIMITS.frame).max(SHOT_LIMITS.frame);
const storable = (schema: StringSchema) =>
	schema.test("storable", "${path} holds a character that cannot be stored (NUL, or half of one)", (v) => v == null || isStorable(v));
const text = () => storable(string().strict().defined().max(2000)).defined();
/** Rules may name many things, one after the other. */
const rule = () => storable(string().strict().defined().max(SHOT_LIMITS.ruleText)).defined();
/** The id of another record; empty or absent where there is none. */
const reference = () => storable(string().strict().max(400)).test("reserved", "${path} is no id", (v) => v == null || !isReserved(v));
const name = () =>
	text()
		.min(1, "${path} must not be empty")
		.max(200)
		.matches(/^[^/\n]*$/, "${path} must not hold a slash");
const asset = () =>
	string()
		.strict()
		.matches(/^asset:[0-9a-f]{64}$/)
		.required();
/**
 * So many numbers, none of them larger than `most`. One test sees to all: most of a shot is such, and a schema of its own for each
 * number takes several times as long.
 */
const vector = (count: number, most: number = LARGEST) =>
	mixed<readonly number[]>()
		.required()
		.test("numbers", (value, context) => {
			if (value == null) return true;
			if (!Array.isArray(value) || value.length !== count) return context.createError({ message: `\${path} must be ${count} numbers` });
			if (!value.every((v) => typeof v === "number" && Number.isFinite(v)))
				return context.createError({ message: `\${path} must be ${count} finite numbers` });
			return (
				value.every((v) => Math.abs(v) <= most) || context.createError({ message: `\${path} is larger than ${most.toLocaleString("en")}` })
			);
		});
const vec3 = () => vector(3);
/** Metres. */
const place = () => vector(3, SHOT_LIMITS.place);
/** m/s or rad/s. */
const velocity = () => vector(3, SHOT_LIMITS.speed);
const size = () =>
	vec3()
		.test("nonzero", "${path} must not be zero", (s) => Array.isArray(s) && s.every((v) => v !== 0))
		.test(
			"factor",
			"${path} must lie between a millionth and a million",
			(s) => Array.isArray(s) && s.every((v) => Math.abs(v) >= SHOT_LIMITS.least && Math.abs(v) <= 1 / SHOT_LIMITS.least),
		);
const quat = () =>
	vector(4).test(
		"unit",
		"${path} must be a unit quaternion",
		(q) => Array.isArray(q) && Math.abs(q.reduce((sum, x) => sum + x * x, 0) - 1) < 1e-3,
	);

const ABSENT = mixed().optional();
/** What may be left out. (Made once, as every schema here: making one takes longer than going by it.) */
const maybe = (schema: AnySchema) => lazy((value: unknown) => (value === undefined ? ABSENT : schema));
const NOTHING = mixed().nullable();
const orNull = (schema: AnySchema) => lazy((value: unknown) => (value === null ? NOTHING : schema));

const isRecord = (value: unknown): value is Readonly<Record<string, unknown>> =>
	typeof value === "object" && value !== null && !Array.isArray(value);

/** An object of just these members. */
const exact = <T extends ObjectShape>(shape: T) => object(shape).noUnknown().strict();

/** An object whose other members go by one of them, `tag`. */
function ofKind(tag: string, kinds: Readonly<Record<string, ObjectShape>>) {
	const named = (names: string[]) => ({ [tag]: string().oneOf(names).required() });
	const schemas = new Map<unknown, Schema>(
		Object.entries(kinds).map(([kind, own]) => [kind, exact({ ...named([kind]), ...own }).required()]),
	);
	const none = object(named(Object.keys(kinds))).required();
	return lazy((value: Readonly<Record<string, unknown>> | null | undefined) => schemas.get(value?.[tag]) ?? none);
}

/** A map by id whose every member has the one shape. */
const byId = (member: AnySchema) =>
	mixed()
		.required()
		.test("members", (value, context) => {
			if (!isRecord(value)) return context.createError({ message: "${path} must be a map by id" });
			const faults = Object.entries(value).flatMap(([id, one]) => faultsOfMember(member, one, context.path, id));
			return faults.length === 0 || new ValidationError(faults.map((message) => context.createError({ message })));
		});

const key = (value: Schema) =>
	exact({
		tick: finite().integer(),
		value,
		easing: string().oneOf(["linear", "eased", "stepped", "curved"]).required(),
		slope: maybe(value),
	});

const settings = exact({
	fps: finite().min(1).max(1000),
	firstFrame: frame(),
	lastFrame: frame(),
	startFrame: maybe(frame()),
	stepsPerSecond: finite().min(1).max(1200),
	mostParts: maybe(finite().integer().min(1).max(16)),
	solverIterations: finite().integer().min(1).max(64),
	gravity: velocity(),
	gravityKeys: maybe(array(key(velocity())).required()),
	timeScale: positive().max(1000),
	seed: finite().integer(),
})
	.required()
	.test("range", "the last frame lies before the first", (s) => s.lastFrame >= s.firstFrame)
	.test("length", "a shot may have at most 100,000 frames", (s) => s.lastFrame - s.firstFrame < 100_000);

/** Described options; what each may be is said by whoever describes them. Of no shape that could hold more than it says. */
const options = mixed<Readonly<Record<string, OptionValue>>>()
	.required()
	.test("options", "${path} holds something that no option can be", (value) => {
		if (!isRecord(value)) return false;
		const entries = Object.entries(value);
		return entries.length <= SHOT_LIMITS.options && entries.every(([key, option]) => !isReserved(key) && isOptionValue(option));
	});

const isNumber = (value: unknown): value is number => typeof value === "number" && Math.abs(value) <= LARGEST;
const isWord = (value: unknown): value is string =>
	typeof value === "string" && value.length <= SHOT_LIMITS.ruleText && isStorable(value) && !isReserved(value);

function isOptionValue(value: unknown): value is OptionValue {
	if (Array.isArray(value))
		return value.every(isNumber) || value.every(isWord) || value.every((line) => Array.isArray(line) && line.every(isNumber));
	return isNumber(value) || isWord(value) || typeof value === "boolean";
}

const colour = () =>
	string()
		.strict()
		.matches(/^#[0-9a-f]{6}$/)
		.required();

const scenery = exact({ backdrop: colour(), sky: finite().min(0).max(100) }).required();

const repair = ofKind("kind", {
	weld: { distance: finite().min(0) },
	orient: {},
	fill: {},
	unite: {},
	thicken: { thickness: positive() },
	remesh: { voxel: positive() },
});

/** What an object is, by its kind. */
const source = ofKind("kind", {
	group: {},
	beacon: {},
	shape: { shape: reference().required(), parameters: byId(finite()), texts: maybe(byId(text())) },
	mesh: { asset: asset(), file: text().max(300), repairs: array(repair).max(SHOT_LIMITS.steps).required() },
	array: {
		sources: array(reference().required()).min(1).max(SHOT_LIMITS.objects).strict().required(),
		layout: reference().required(),
		options,
	},
	camera: {
		fieldOfView: finite().min(1).max(170),
		near: positive(),
		far: positive().test("depth", "a camera's far limit must lie behind its near one", (far, { parent }) => far > parent.near),
		aim: reference().nullable().defined(),
	},
	light: { light: string().oneOf(["sun", "lamp"]).required(), colour: colour(), strength: finite().min(0) },
	region: { form: string().oneOf(["box", "ball", "solid"]).required(), solid: reference() },
	force: { force: reference().required(), options },
});

const colouring = exact({
	by: string().oneOf(COLOURED_BY).required(),
	from: finite(),
	to: finite(),
	size: finite().moreThan(0),
	seed: finite().integer(),
	moving: boolean().strict().required(),
	formula: text(),
	stops: array(tuple([finite().min(0).max(1), text().matches(/^#[0-9a-f]{6}$/i)]).required())
		.min(1)
		.max(32)
		.required(),
	picture: maybe(
		exact({
			picture: asset(),
			seen: string().oneOf(["front", "side", "above"]).required(),
			middle: vec3(),
			width: finite().moreThan(0),
		}),
	),
});

const objectKeys = exact({
	translation: array(key(place())).required(),
	rotation: array(key(quat())).required(),
	numbers: maybe(byId(array(key(finite())).required())),
	layers: maybe(
		array(
			exact({
				name: name(),
				muted: boolean().strict().required(),
				translation: array(key(place())).required(),
				rotation: array(key(quat())).required(),
			}),
		).required(),
	),
}).required();

const optional = () =>
	number()
		.strict()
		.test("finite", "${path} must be a finite number", (v) => v === undefined || (Number.isFinite(v) && Math.abs(v) <= LARGEST));

const body = exact({
	kind: string().oneOf(["active", "passive", "animated", "none"]),
	density: optional().min(SHOT_LIMITS.least),
	mass: optional().min(SHOT_LIMITS.leastMass),
	friction: optional().min(0),
	bounce: optional().min(0).max(1),
	collider: string().oneOf(["auto", "sphere", "box", "capsule", "cylinder", "cone", "hull", "shells", "parts", "mesh", "plain"]),
	hulls: optional().integer().min(1).max(256),
	hullError: optional().min(0).max(10),
	hullDepth: optional().min(0),
	margin: optional().min(0).max(1),
	rolling: optional().min(0).max(10),
	world: reference(),
	centre: place().optional(),
	proxy: reference(),
	crop: reference(),
	restSpeed: optional().min(0).max(100),
	restAfter: optional().min(0).max(60),
	backAt: maybe(frame()),
	velocity: velocity().optional(),
	spin: velocity().optional(),
	linearDamping: optional().min(0),
	angularDamping: optional().min(0),
	wake: maybe(
		ofKind("when", {
			start: {},
			frame: { frame: frame() },
			touched: {
				leastSpeed: finite().min(0),
				leastForce: optional().min(0),
				by: storable(string().strict().max(SHOT_LIMITS.ruleText)).optional(),
			},
			region: { region: reference().defined(), leastSpeed: finite().min(0) },
		}),
	),
});

const sceneObject = exact({
	name: name(),
	parent: reference().nullable().defined(),
	translation: place(),
	rotation: quat(),
	scale: size(),
	source,
	frame: maybe(exact({ scale: size(), pivot: place() })),
	bend: maybe(exact({ along: finite().oneOf([0, 1, 2]), toward: finite().oneOf([0, 1, 2]), angle: finite().min(-7).max(7) })),
	material: reference().defined(),
	hidden: boolean().strict().required(),
	locked: boolean().strict().required(),
	order: finite(),
	keys: objectKeys,
	baked: maybe(
		exact({
			take: text(),
			body: orNull(body.required()),
			keys: objectKeys,
			translation: place(),
			rotation: quat(),
		}),
	),
});

const material = exact({
	name: name(),
	colour: colour(),
	roughness: finite().min(0).max(1),
	metalness: finite().min(0).max(1),
	opacity: finite().min(0).max(1),
	density: positive(),
	friction: finite().min(0),
	bounce: finite().min(0).max(1),
	texture: maybe(
		exact({
			picture: asset(),
			size: positive(),
		}),
	),
	strength: exact({ tension: finite().min(0), shear: finite().min(0), compression: finite().min(0), energy: finite().min(0) }).required(),
	inside: reference().nullable().defined(),
});

export const fractureStep = { method: reference().required(), options };
export const againStep = exact({ ...fractureStep, pieces: array(text().required()).strict().required(), rule: rule() });
const fracture = exact({
	object: reference().defined(),
	...fractureStep,
	again: array(againStep).strict().max(SHOT_LIMITS.steps).optional(),
});

const bondChange = exact({
	id: text().min(1),
	bodies: array(reference().required()).strict().required(),
	rule: rule(),
	strokes: array(array(finite()).strict().required()).strict().required(),
	reach: finite().min(0),
	factor: finite().min(0),
});

const handMade = array(array(reference().required()).strict().required()).strict();

const bondSet = exact({
	name: name(),
	options,
	changes: array(bondChange).strict().required(),
	slabs: maybe(handMade.required()),
	hidden: boolean().strict().required(),
});

const connector = exact({
	name: name(),
	connector: reference().required(),
	options,
	a: reference().defined(),
	b: reference().defined(),
	from: place(),
	to: place(),
	turn: quat(),
	hidden: boolean().strict().required(),
});

const link = exact({
	object: reference().defined(),
	property: reference().required(),
	source: reference().defined(),
	formula: text().max(500),
	keeps: string().oneOf(["middle", "top", "bottom"]).required(),
	hidden: boolean().strict().required(),
});

/** Of every record by its id. */
const MEMBERS = {
	worlds: exact({ name: name(), gravity: velocity() }),
	objects: sceneObject,
	materials: material,
	fractures: fracture,
	bondSets: bondSet,
	connectors: connector,
	links: link,
	bodies: body,
	overrides: body,
	motions: exact({
		translation: place(),
		rotation: quat(),
		keys: objectKeys,
		baked: exact({
			take: text(),
			body: orNull(body.required()),
		}).required(),
	}),
} satisfies Readonly<Record<string, Schema>>;

const { motions, ...always } = MEMBERS;
const FIELDS = {
	format: string().oneOf(["mighty-rubble-shot"]).required(),
	version: finite().integer(),
	name: name(),
	note: text(),
	settings,
	scenery,
	...(Object.fromEntries(Object.entries(always).map(([field, member]) => [field, byId(member)])) as Record<
		keyof typeof always,
		ReturnType<typeof byId>
	>),
	bodyRules: array(exact({ id: text().min(1), rule: rule(), settings: body.required() }))
		.max(SHOT_LIMITS.rules)
		.required(),
	motions: maybe(byId(motions)),
	keptPlaces: text()
		.matches(/^asset:[0-9a-f]{64}$/)
		.nullable(),
	colouring: maybe(colouring),
};

/** What does not fit, as sentences; `at`: where in the shot. */
function faultsOf(schema: Pick<Schema, "validateSync">, value: unknown, at = ""): string[] {
	try {
		// The path is what messages begin with, the value what schemas that go by it (in each other, too) are made for: the library
		// takes both, though its types do not say so.
		schema.validateSync(value, { abortEarly: false, path: at, value } as Parameters<Schema["validateSync"]>[1]);
		return [];
	} catch (error) {
		if (!(error instanceof ValidationError)) throw error;
		return error.errors;
	}
}

const invalid = (faults: readonly string[]): Outcome<never> =>
	bad(...faults.slice(0, 8).map((message) => `The shot is not valid: ${message}.`));

/** A valid shot that another one is mostly like. */
interface Known {
	readonly shot: Shot;
	/** Whether two records are equal; by identity where an edit has made one of the other, by contents where one has been read anew. */
	readonly same: (a: unknown, b: unknown) => boolean;
}

/** Reads an unknown value as a shot: migrates it, checks every field and every reference between records. */
export function parseShot(value: unknown): Outcome<Shot> {
	const migrated = migrate(value);
	return migrated.ok ? atOnce(parsing(migrated.value)) : migrated;
}

/** Records that are looked at before others get their turn: some milliseconds. */
const RECORDS_AT_ONCE = 50;

/** As `parseShot`, for a thread that has others to answer meanwhile: they have their turn in `pause`. */
export async function parseShotGently(value: unknown, pause: () => Promise<void>, known?: Known): Promise<Outcome<Shot>> {
	const migrated = migrate(value);
	if (!migrated.ok) return migrated;
	return inTurns(parsing(migrated.value, known), pause, RECORDS_AT_ONCE);
}

/**
 * Reads what an edit made of a valid shot. Only records that are not the same as before are looked at, so that the cost goes with
 * the edit and not with the shot. References that did not hold before may go on not to.
 */
export function parseChange(before: Shot, value: unknown): Outcome<Shot> {
	return isRecord(value) ? atOnce(parsing(value, { shot: before, same: Object.is })) : bad("The change leaves no shot.");
}

/** One step for every record. */
function* parsing(value: Readonly<Record<string, unknown>>, known?: Known): Steps<Outcome<Shot>> {
	const faults: string[] = [];
	for (const found of faultsByRecord(known?.shot ?? {}, value, known?.same ?? Object.is)) {
		faults.push(...found);
		yield;
	}
	if (faults.length > 0) return invalid(faults);
	// Nothing is transformed on the way: what is strict is what it was.
	const parsed = value as unknown as Shot;
	const broken = brokenReferences(parsed);
	if (broken.length === 0) return good(parsed);
	const old = new Set(known && brokenReferences(known.shot).map(({ at }) => at));
	const made = broken.filter(({ at }) => !old.has(at));
	return made.length > 0 ? bad(...made.map(({ message }) => message)) : good(parsed);
}

/** What does not fit of everything that is not as it was before, record by record. */
function* faultsByRecord(before: Partial<Shot>, value: Readonly<Record<string, unknown>>, same: (a: unknown, b: unknown) => boolean) {
	for (const field of new Set([...Object.keys(value), ...Object.keys(FIELDS)])) {
		const now = value[field];
		const known = before[field as keyof Shot];
		if (!Object.hasOwn(FIELDS, field)) yield [`this field has unspecified keys: ${field}`];
		else if (now === undefined || now !== known) yield* faultsOfField(field as keyof Shot, known, now, same);
	}
}

function* faultsOfField(field: keyof Shot, known: unknown, value: unknown, same: (a: unknown, b: unknown) => boolean) {
	if (!Object.hasOwn(MEMBERS, field) || !isRecord(value)) {
		yield faultsOf(FIELDS[field], value, field);
		return;
	}
	const member = MEMBERS[field as keyof typeof MEMBERS];
	const before = isRecord(known) ? known : {};
	for (const [id, record] of Object.entries(value))
		if (isReserved(id) || !Object.hasOwn(before, id) || !same(before[id], record)) yield faultsOfMember(member, record, field, id);
}

function faultsOfMember(member: AnySchema, record: unknown, field: string, id: string): string[] {
	return isReserved(id) ? [`${field} has an id that cannot be one`] : faultsOf(member, record, `${field}.${id}`);
}
