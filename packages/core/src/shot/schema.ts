import { array, boolean, lazy, mixed, number, object, type Schema, string, tuple, ValidationError } from "yup";
import { bad, good, type Outcome } from "../common";
import { migrate } from "./migrations";
import { COLOURED_BY, type Shot } from "./types";

const finite = () =>
	number()
		.strict()
		.required()
		.test("finite", "${path} must be a finite number", (v) => Number.isFinite(v));
const text = () => string().strict().defined().max(2000);
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
	lazy((value: unknown) =>
		object(Object.fromEntries(Object.keys((value ?? {}) as object).map((key) => [key, member])))
			.required()
			.noUnknown()
			.strict(),
	);

const settings = object({
	fps: finite().min(1).max(1000),
	firstFrame: finite().integer(),
	lastFrame: finite().integer(),
	startFrame: lazy((value: unknown) => (value === undefined ? mixed().optional() : finite().integer())),
	stepsPerSecond: finite().min(1).max(1200),
	mostParts: lazy((value: unknown) => (value === undefined ? mixed().optional() : finite().integer().min(1).max(16))),
	solverIterations: finite().integer().min(1).max(64),
	gravity: vec3(),
	gravityKeys: lazy((value: unknown) => (value === undefined ? mixed().optional() : array(key(vec3())).required())),
	timeScale: finite().moreThan(0).max(1000),
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

const options = lazy((value: unknown) =>
	object(Object.fromEntries(Object.keys((value ?? {}) as object).map((k) => [k, mixed().required()]))).required(),
);

const arraySource = object({
	kind: string().oneOf(["array"]).required(),
	sources: array(text().required()).min(1).strict().required(),
	layout: text().min(1),
	options,
})
	.noUnknown()
	.strict();

const cameraSource = object({
	kind: string().oneOf(["camera"]).required(),
	fieldOfView: finite().min(1).max(170),
	near: finite().moreThan(0),
	far: finite().moreThan(0),
	aim: string().strict().nullable().defined(),
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
	solid: string(),
})
	.noUnknown()
	.strict();

const forceSource = object({ kind: string().oneOf(["force"]).required(), force: text().min(1), options })
	.noUnknown()
	.strict();

const helperSources: Record<string, Schema> = { camera: cameraSource, light: lightSource, region: regionSource, force: forceSource };

const source = lazy(
	(value: { kind?: string } | undefined) =>
		helperSources[value?.kind ?? ""] ??
		(value?.kind === "group" || value?.kind === "beacon"
			? object({ kind: string().oneOf(["group", "beacon"]).required() })
					.noUnknown()
					.strict()
			: value?.kind === "array"
				? arraySource
				: value?.kind === "mesh"
					? object({
							kind: string().oneOf(["mesh"]).required(),
							asset: string()
								.strict()
								.matches(/^asset:[0-9a-f]{64}$/)
								.required(),
							file: text().max(300),
							repairs: array(
								object({ kind: string().oneOf(["weld", "orient", "fill", "unite", "thicken", "remesh"]).required() }),
							).required(),
						}).strict()
					: object({
							kind: string().oneOf(["shape"]).required(),
							shape: text().min(1),
							parameters: byId(finite()),
							texts: lazy((texts: unknown) => (texts === undefined ? mixed().optional() : byId(text()))),
						})
							.noUnknown()
							.strict()),
);

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
	translation: array(key(vec3())).required(),
	rotation: array(key(quat())).required(),
	numbers: lazy((value: unknown) => (value === undefined ? mixed().optional() : byId(array(key(finite())).required()))),
	layers: lazy((value: unknown) =>
		value === undefined
			? mixed().optional()
			: array(
					object({
						name: name(),
						muted: boolean().strict().required(),
						translation: array(key(vec3())).required(),
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
	parent: string().strict().nullable().defined(),
	translation: vec3(),
	rotation: quat(),
	scale: vec3().test("nonzero", "${path} must not be zero", (s) => !!s && s.every((v) => v !== 0)),
	source,
	frame: lazy((value: unknown) =>
		value === undefined
			? mixed().optional()
			: object({ scale: vec3().test("nonzero", "${path} must not be zero", (s) => !!s && s.every((v) => v !== 0)), pivot: vec3() })
					.noUnknown()
					.strict(),
	),
	bend: lazy((value: unknown) =>
		value === undefined
			? mixed().optional()
			: object({ along: finite().oneOf([0, 1, 2]), toward: finite().oneOf([0, 1, 2]), angle: finite().min(-7).max(7) })
					.noUnknown()
					.strict(),
	),
	material: text(),
	hidden: boolean().strict().required(),
	locked: boolean().strict().required(),
	order: finite(),
	keys: objectKeys,
	baked: lazy((value: unknown) =>
		value === undefined
			? mixed().optional()
			: object({
					take: text(),
					body: mixed<object>().nullable().defined(),
					keys: objectKeys,
					translation: vec3(),
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
	density: finite().moreThan(0),
	friction: finite().min(0),
	bounce: finite().min(0).max(1),
	texture: lazy((value: unknown) =>
		value === undefined
			? mixed().optional()
			: object({
					picture: asset(),
					size: finite().moreThan(0),
				})
					.noUnknown()
					.strict(),
	),
	strength: object({ tension: finite().min(0), shear: finite().min(0), compression: finite().min(0), energy: finite().min(0) })
		.noUnknown()
		.strict()
		.required(),
	inside: string().strict().nullable().defined(),
})
	.noUnknown()
	.strict();

const fractureStep = { method: text().min(1), options };
const againStep = object({ ...fractureStep, pieces: array(text().required()).strict().required(), rule: string().strict().defined() })
	.noUnknown()
	.strict();
const fracture = object({
	object: text(),
	...fractureStep,
	again: array(againStep).strict().optional(),
})
	.noUnknown()
	.strict();

const optional = () =>
	number()
		.strict()
		.test("finite", "${path} must be a finite number", (v) => v === undefined || Number.isFinite(v));
const body = object({
	kind: string().oneOf(["active", "passive", "animated", "none"]),
	density: optional().moreThan(0),
	mass: optional().moreThan(0),
	friction: optional().min(0),
	bounce: optional().min(0).max(1),
	collider: string().oneOf(["auto", "sphere", "box", "capsule", "cylinder", "cone", "hull", "shells", "parts", "mesh", "plain"]),
	hulls: optional().integer().min(1).max(256),
	hullError: optional().min(0).max(10),
	hullDepth: optional().min(0),
	margin: optional().min(0).max(1),
	rolling: optional().min(0).max(10),
	world: string().strict(),
	centre: tuple([finite(), finite(), finite()]).optional(),
	proxy: string().strict(),
	crop: string().strict(),
	restSpeed: optional().min(0).max(100),
	restAfter: optional().min(0).max(60),
	backAt: optional().integer(),
	velocity: tuple([finite(), finite(), finite()]).optional(),
	spin: tuple([finite(), finite(), finite()]).optional(),
	linearDamping: optional().min(0),
	angularDamping: optional().min(0),
	wake: lazy((value: { when?: string } | undefined) => {
		if (value === undefined) return mixed().optional();
		const when = string().oneOf(["start", "frame", "touched", "region"]).required();
		if (value?.when === "region")
			return object({ when, region: text(), leastSpeed: finite().min(0) })
				.noUnknown()
				.strict();
		if (value?.when === "frame") return object({ when, frame: finite().integer() }).noUnknown().strict();
		if (value?.when === "touched")
			return object({ when, leastSpeed: finite().min(0), leastForce: optional().min(0), by: string().strict().optional() })
				.noUnknown()
				.strict();
		return object({ when }).noUnknown().strict();
	}),
})
	.noUnknown()
	.strict();

const bondChange = object({
	id: text().min(1),
	bodies: array(text().required()).strict().required(),
	rule: string().strict().defined(),
	strokes: array(array(finite()).strict().required()).strict().required(),
	reach: finite().min(0),
	factor: finite().min(0),
})
	.noUnknown()
	.strict();

const handMade = array(array(text().required()).strict().required()).strict();

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
	connector: text().min(1),
	options,
	a: string().strict().defined(),
	b: string().strict().defined(),
	from: vec3(),
	to: vec3(),
	turn: quat(),
	hidden: boolean().strict().required(),
})
	.noUnknown()
	.strict();

const link = object({
	object: text(),
	property: text().min(1),
	source: string().strict().defined(),
	formula: string().strict().defined().max(500),
	keeps: string().oneOf(["middle", "top", "bottom"]).required(),
	hidden: boolean().strict().required(),
})
	.noUnknown()
	.strict();

const shot = object({
	format: string().oneOf(["mighty-rubble-shot"]).required(),
	version: finite().integer(),
	name: name(),
	note: text(),
	settings,
	worlds: byId(object({ name: name(), gravity: vec3() }).noUnknown().strict()),
	scenery,
	objects: byId(sceneObject),
	materials: byId(material),
	fractures: byId(fracture),
	bondSets: byId(bondSet),
	connectors: byId(connector),
	links: byId(link),
	bodies: byId(body),
	bodyRules: array(
		object({ id: text().min(1), rule: text(), settings: body })
			.noUnknown()
			.strict(),
	).required(),
	overrides: byId(body),
	motions: lazy((value: unknown) =>
		value === undefined
			? mixed().optional()
			: byId(
					object({
						translation: vec3(),
						rotation: quat(),
						keys: objectKeys,
						baked: object({ take: text(), body: mixed<object>().nullable().defined() }).noUnknown().strict().required(),
					})
						.noUnknown()
						.strict(),
				),
	),
	keptPlaces: text()
		.matches(/^asset:[0-9a-f]{64}$/)
		.nullable(),
	colouring: lazy((value: unknown) => (value === undefined ? mixed().optional() : colouring)),
})
	.noUnknown()
	.strict();

/** Reads an unknown value as a shot: migrates it, checks every field and every reference between records. */
export function parseShot(value: unknown): Outcome<Shot> {
	const migrated = migrate(value);
	if (!migrated.ok) return migrated;
	let parsed: Shot;
	try {
		parsed = shot.validateSync(migrated.value, { abortEarly: false }) as unknown as Shot;
	} catch (error) {
		if (!(error instanceof ValidationError)) throw error;
		return bad(...error.errors.slice(0, 8).map((message) => `The shot is not valid: ${message}.`));
	}
	const dangling = danglingReferences(parsed);
	return dangling.length > 0 ? bad(...dangling) : good(parsed);
}

function danglingReferences(shot: Shot): string[] {
	const problems: string[] = [];
	const siblings = new Set<string>();
	for (const [id, item] of Object.entries(shot.objects)) {
		if (!shot.materials[item.material]) problems.push(`“${item.name}” uses a material that is not in the shot.`);
		const seen = new Set([id]);
		for (let parent = item.parent; parent !== null; parent = shot.objects[parent]?.parent ?? null) {
			if (!shot.objects[parent]) problems.push(`“${item.name}” has a parent that is not in the shot.`);
			if (seen.has(parent)) {
				problems.push(`“${item.name}” is its own ancestor.`);
				break;
			}
			seen.add(parent);
		}
		if (item.source.kind === "camera" && item.source.aim !== null && !shot.objects[item.source.aim])
			problems.push(`“${item.name}” aims at an object that is not in the shot.`);
		if (item.source.kind === "array")
			for (const source of item.source.sources) {
				const kind = shot.objects[source]?.source.kind;
				if (kind === undefined) problems.push(`“${item.name}” copies an object that is not in the shot.`);
				else if (kind === "array") problems.push(`“${item.name}” copies an array; only single objects can be copied.`);
			}
		const path = `${item.parent ?? ""}/${item.name}`;
		if (siblings.has(path)) problems.push(`Two objects are called “${item.name}”; names must differ among siblings.`);
		siblings.add(path);
	}
	for (const item of Object.values(shot.fractures))
		if (!shot.objects[item.object]) problems.push("A fracture belongs to an object that is not in the shot.");
	return problems;
}
