import { array, boolean, lazy, mixed, number, object, type Schema, type StringSchema, string, tuple, ValidationError } from "yup";
import { bad, good, type Outcome } from "../common";
import { migrate } from "./migrations";
import { isStorable } from "./plainText";
import { brokenReferences, isReserved } from "./references";
import { COLOURED_BY, type OptionValue, SHOT_LIMITS, type Shot } from "./types";

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
const vec3 = () => tuple([finite(), finite(), finite()]).required();
/** Metres. */
const place = () => {
	const coordinate = () => finite().min(-SHOT_LIMITS.place).max(SHOT_LIMITS.place);
	return tuple([coordinate(), coordinate(), coordinate()]).required();
};
/** m/s or rad/s. */
const velocity = () => {
	const part = () => finite().min(-SHOT_LIMITS.speed).max(SHOT_LIMITS.speed);
	return tuple([part(), part(), part()]);
};
const size = () =>
	vec3()
		.test("nonzero", "${path} must not be zero", (s) => !!s && s.every((v) => v !== 0))
		.test("factor", "${path} must lie between a millionth and a million", (s) =>
			s.every((v) => Math.abs(v) >= SHOT_LIMITS.least && Math.abs(v) <= 1 / SHOT_LIMITS.least),
		);
const quat = () =>
	tuple([finite(), finite(), finite(), finite()])
		.required()
		.test(
			"unit",
			"${path} must be a unit quaternion",
			(q) => !!q && Math.abs(q[0] * q[0] + q[1] * q[1] + q[2] * q[2] + q[3] * q[3] - 1) < 1e-3,
		);

/** A map by id whose every member has the one shape. */
const byId = (member: Schema) =>
	lazy((value: unknown) => {
		const ids = isRecord(value) ? Object.keys(value) : [];
		return object(Object.fromEntries(ids.map((key) => [key, member])))
			.required()
			.noUnknown()
			.strict()
			.test("ids", "${path} has an id that cannot be one", () => !ids.some(isReserved));
	});

const isRecord = (value: unknown): value is Readonly<Record<string, unknown>> =>
	typeof value === "object" && value !== null && !Array.isArray(value);

const settings = object({
	fps: finite().min(1).max(1000),
	firstFrame: frame(),
	lastFrame: frame(),
	startFrame: lazy((value: unknown) => (value === undefined ? mixed().optional() : frame())),
	stepsPerSecond: finite().min(1).max(1200),
	mostParts: lazy((value: unknown) => (value === undefined ? mixed().optional() : finite().integer().min(1).max(16))),
	solverIterations: finite().integer().min(1).max(64),
	gravity: velocity().required(),
	gravityKeys: lazy((value: unknown) => (value === undefined ? mixed().optional() : array(key(velocity().required())).required())),
	timeScale: positive().max(1000),
	seed: finite().integer(),
})
	.noUnknown()
	.strict()
	.required()
	.test("range", "the last frame lies before the first", (s) => s.lastFrame >= s.firstFrame)
	.test("length", "a shot may have at most 100,000 frames", (s) => s.lastFrame - s.firstFrame < 100_000);

const key = (value: Schema) =>
	object({
		tick: finite().integer(),
		value,
		easing: string().oneOf(["linear", "eased", "stepped", "curved"]).required(),
		slope: lazy((slope: unknown) => (slope === undefined ? mixed().optional() : value)),
	})
		.noUnknown()
		.strict();

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

const arraySource = object({
	kind: string().oneOf(["array"]).required(),
	sources: array(reference().required()).min(1).max(SHOT_LIMITS.objects).strict().required(),
	layout: reference().required(),
	options,
})
	.noUnknown()
	.strict();

const cameraSource = object({
	kind: string().oneOf(["camera"]).required(),
	fieldOfView: finite().min(1).max(170),
	near: positive(),
	far: positive(),
	aim: reference().nullable().defined(),
})
	.noUnknown()
	.strict()
	.test("depth", "a camera's far limit must lie behind its near one", (camera) => camera.far > camera.near);

const colour = () =>
	string()
		.strict()
		.matches(/^#[0-9a-f]{6}$/)
		.required();

const scenery = object({ backdrop: colour(), sky: finite().min(0).max(100) })
	.noUnknown()
	.strict()
	.required();

const lightSource = object({
	kind: string().oneOf(["light"]).required(),
	light: string().oneOf(["sun", "lamp"]).required(),
	colour: colour(),
	strength: finite().min(0),
})
	.noUnknown()
	.strict();

const regionSource = object({
	kind: string().oneOf(["region"]).required(),
	form: string().oneOf(["box", "ball", "solid"]).required(),
	solid: reference(),
})
	.noUnknown()
	.strict();

const forceSource = object({ kind: string().oneOf(["force"]).required(), force: reference().required(), options })
	.noUnknown()
	.strict();

const repair = lazy((value: { kind?: unknown } | undefined) => {
	const plain = { kind: string().oneOf(["weld", "orient", "fill", "unite", "thicken", "remesh"]).required() };
	const length: Record<string, Schema> = {
		...(value?.kind === "weld" && { distance: finite().min(0) }),
		...(value?.kind === "thicken" && { thickness: positive() }),
		...(value?.kind === "remesh" && { voxel: positive() }),
	};
	return object({ ...plain, ...length })
		.noUnknown()
		.strict()
		.required();
});

const meshSource = object({
	kind: string().oneOf(["mesh"]).required(),
	asset: asset(),
	file: text().max(300),
	repairs: array(repair).max(SHOT_LIMITS.steps).required(),
})
	.noUnknown()
	.strict();

const shapeSource = object({
	kind: string().oneOf(["shape"]).required(),
	shape: reference().required(),
	parameters: byId(finite()),
	texts: lazy((texts: unknown) => (texts === undefined ? mixed().optional() : byId(text()))),
})
	.noUnknown()
	.strict();

const plainSource = object({ kind: string().oneOf(["group", "beacon"]).required() })
	.noUnknown()
	.strict();

const sources = new Map<unknown, Schema>([
	["camera", cameraSource],
	["light", lightSource],
	["region", regionSource],
	["force", forceSource],
	["array", arraySource],
	["mesh", meshSource],
	["group", plainSource],
	["beacon", plainSource],
]);

const source = lazy((value: { kind?: unknown } | null | undefined) => (sources.get(value?.kind) ?? shapeSource).required());

const colouring = object({
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
	picture: lazy((value: unknown) =>
		value === undefined
			? mixed().optional()
			: object({
					picture: asset(),
					seen: string().oneOf(["front", "side", "above"]).required(),
					middle: vec3(),
					width: finite().moreThan(0),
				})
					.noUnknown()
					.strict(),
	),
})
	.noUnknown()
	.strict();

const objectKeys = object({
	translation: array(key(place())).required(),
	rotation: array(key(quat())).required(),
	numbers: lazy((value: unknown) => (value === undefined ? mixed().optional() : byId(array(key(finite())).required()))),
	layers: lazy((value: unknown) =>
		value === undefined
			? mixed().optional()
			: array(
					object({
						name: name(),
						muted: boolean().strict().required(),
						translation: array(key(place())).required(),
						rotation: array(key(quat())).required(),
					})
						.noUnknown()
						.strict(),
				).required(),
	),
})
	.noUnknown()
	.strict()
	.required();

const sceneObject = object({
	name: name(),
	parent: reference().nullable().defined(),
	translation: place(),
	rotation: quat(),
	scale: size(),
	source,
	frame: lazy((value: unknown) =>
		value === undefined ? mixed().optional() : object({ scale: size(), pivot: place() }).noUnknown().strict(),
	),
	bend: lazy((value: unknown) =>
		value === undefined
			? mixed().optional()
			: object({ along: finite().oneOf([0, 1, 2]), toward: finite().oneOf([0, 1, 2]), angle: finite().min(-7).max(7) })
					.noUnknown()
					.strict(),
	),
	material: reference().defined(),
	hidden: boolean().strict().required(),
	locked: boolean().strict().required(),
	order: finite(),
	keys: objectKeys,
	baked: lazy((value: unknown) =>
		value === undefined
			? mixed().optional()
			: object({
					take: text(),
					body: lazy((value: unknown) => (value === null ? mixed().nullable() : body.required())),
					keys: objectKeys,
					translation: place(),
					rotation: quat(),
				})
					.noUnknown()
					.strict(),
	),
})
	.noUnknown()
	.strict();

const material = object({
	name: name(),
	colour: colour(),
	roughness: finite().min(0).max(1),
	metalness: finite().min(0).max(1),
	opacity: finite().min(0).max(1),
	density: positive(),
	friction: finite().min(0),
	bounce: finite().min(0).max(1),
	texture: lazy((value: unknown) =>
		value === undefined
			? mixed().optional()
			: object({
					picture: asset(),
					size: positive(),
				})
					.noUnknown()
					.strict(),
	),
	strength: object({ tension: finite().min(0), shear: finite().min(0), compression: finite().min(0), energy: finite().min(0) })
		.noUnknown()
		.strict()
		.required(),
	inside: reference().nullable().defined(),
})
	.noUnknown()
	.strict();

export const fractureStep = { method: reference().required(), options };
export const againStep = object({ ...fractureStep, pieces: array(text().required()).strict().required(), rule: rule() })
	.noUnknown()
	.strict();
const fracture = object({
	object: reference().defined(),
	...fractureStep,
	again: array(againStep).strict().max(SHOT_LIMITS.steps).optional(),
})
	.noUnknown()
	.strict();

const optional = () =>
	number()
		.strict()
		.test("finite", "${path} must be a finite number", (v) => v === undefined || (Number.isFinite(v) && Math.abs(v) <= LARGEST));
const body = object({
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
	backAt: lazy((value: unknown) => (value === undefined ? mixed().optional() : frame())),
	velocity: velocity().optional(),
	spin: velocity().optional(),
	linearDamping: optional().min(0),
	angularDamping: optional().min(0),
	wake: lazy((value: { when?: string } | undefined) => {
		if (value === undefined) return mixed().optional();
		const when = string().oneOf(["start", "frame", "touched", "region"]).required();
		if (value?.when === "region")
			return object({ when, region: reference().defined(), leastSpeed: finite().min(0) })
				.noUnknown()
				.strict();
		if (value?.when === "frame") return object({ when, frame: frame() }).noUnknown().strict();
		if (value?.when === "touched")
			return object({
				when,
				leastSpeed: finite().min(0),
				leastForce: optional().min(0),
				by: storable(string().strict().max(SHOT_LIMITS.ruleText)).optional(),
			})
				.noUnknown()
				.strict();
		return object({ when }).noUnknown().strict();
	}),
})
	.noUnknown()
	.strict();

const bondChange = object({
	id: text().min(1),
	bodies: array(reference().required()).strict().required(),
	rule: rule(),
	strokes: array(array(finite()).strict().required()).strict().required(),
	reach: finite().min(0),
	factor: finite().min(0),
})
	.noUnknown()
	.strict();

const handMade = array(array(reference().required()).strict().required()).strict();

const bondSet = object({
	name: name(),
	options,
	changes: array(bondChange).strict().required(),
	slabs: lazy((value: unknown) => (value === undefined ? mixed().optional() : handMade.required())),
	hidden: boolean().strict().required(),
})
	.noUnknown()
	.strict();

const connector = object({
	name: name(),
	connector: reference().required(),
	options,
	a: reference().defined(),
	b: reference().defined(),
	from: place(),
	to: place(),
	turn: quat(),
	hidden: boolean().strict().required(),
})
	.noUnknown()
	.strict();

const link = object({
	object: reference().defined(),
	property: reference().required(),
	source: reference().defined(),
	formula: text().max(500),
	keeps: string().oneOf(["middle", "top", "bottom"]).required(),
	hidden: boolean().strict().required(),
})
	.noUnknown()
	.strict();

/** Of every record by its id. */
const MEMBERS = {
	worlds: object({ name: name(), gravity: velocity().required() }).noUnknown().strict(),
	objects: sceneObject,
	materials: material,
	fractures: fracture,
	bondSets: bondSet,
	connectors: connector,
	links: link,
	bodies: body,
	overrides: body,
	motions: object({
		translation: place(),
		rotation: quat(),
		keys: objectKeys,
		baked: object({
			take: text(),
			body: lazy((value: unknown) => (value === null ? mixed().nullable() : body.required())),
		})
			.noUnknown()
			.strict()
			.required(),
	})
		.noUnknown()
		.strict(),
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
	bodyRules: array(
		object({ id: text().min(1), rule: rule(), settings: body.required() })
			.noUnknown()
			.strict(),
	)
		.max(SHOT_LIMITS.rules)
		.required(),
	motions: lazy((value: unknown) => (value === undefined ? mixed().optional() : byId(motions))),
	keptPlaces: text()
		.matches(/^asset:[0-9a-f]{64}$/)
		.nullable(),
	colouring: lazy((value: unknown) => (value === undefined ? mixed().optional() : colouring)),
};

const shot = object(FIELDS).noUnknown().strict();

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

/** Reads an unknown value as a shot: migrates it, checks every field and every reference between records. */
export function parseShot(value: unknown): Outcome<Shot> {
	const migrated = migrate(value);
	if (!migrated.ok) return migrated;
	const faults = faultsOf(shot, migrated.value);
	if (faults.length > 0) return invalid(faults);
	// Nothing is transformed on the way: what is strict is what it was.
	const parsed = migrated.value as unknown as Shot;
	const broken = brokenReferences(parsed);
	return broken.length > 0 ? bad(...broken.map(({ message }) => message)) : good(parsed);
}

/**
 * Reads what an edit made of a valid shot. Only records that are not the `same` as before are looked at, so that the cost goes with
 * the edit and not with the shot (5,000 objects: 2 s for all, 2 ms for one). References that did not hold before may go on not to.
 * `same`: whether two values are equal; by identity where an edit has made one of the other, by contents where one has been read anew.
 */
export function parseChange(before: Shot, value: unknown, same: (a: unknown, b: unknown) => boolean = Object.is): Outcome<Shot> {
	if (!isRecord(value)) return bad("The change leaves no shot.");
	const faults: string[] = [];
	for (const field of new Set([...Object.keys(value), ...Object.keys(FIELDS)])) {
		if (!Object.hasOwn(FIELDS, field)) faults.push(`this field has unspecified keys: ${field}`);
		else if (value[field] !== before[field as keyof Shot]) faults.push(...faultsOfField(before, field as keyof Shot, value[field], same));
	}
	if (faults.length > 0) return invalid(faults);
	const parsed = value as unknown as Shot;
	const broken = brokenReferences(parsed);
	if (broken.length === 0) return good(parsed);
	const old = new Set(brokenReferences(before).map(({ at }) => at));
	const made = broken.filter(({ at }) => !old.has(at));
	return made.length > 0 ? bad(...made.map(({ message }) => message)) : good(parsed);
}

function faultsOfField(before: Shot, field: keyof Shot, value: unknown, same: (a: unknown, b: unknown) => boolean): string[] {
	const known = before[field];
	if (!Object.hasOwn(MEMBERS, field) || !isRecord(value) || !isRecord(known)) return faultsOf(FIELDS[field], value, field);
	const member = MEMBERS[field as keyof typeof MEMBERS];
	return Object.entries(value).flatMap(([id, record]) => {
		if (isReserved(id)) return [`${field} has an id that cannot be one`];
		return Object.hasOwn(known, id) && same(known[id], record) ? [] : faultsOf(member.required(), record, `${field}.${id}`);
	});
}
