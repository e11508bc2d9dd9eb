import { IDENTITY, ONE, ZERO } from "../maths";
import type {
	BodilessSource,
	CameraSource,
	FullBodySettings,
	Id,
	LightSource,
	Material,
	SceneObject,
	Scenery,
	Shot,
	ShotSettings,
	Strength,
} from "./types";

export const SHOT_VERSION = 6;

export const SETTINGS_DEFAULTS: ShotSettings = {
	fps: 24,
	firstFrame: 1,
	lastFrame: 120,
	stepsPerSecond: 120,
	solverIterations: 4,
	gravity: [0, -9.81, 0],
	timeScale: 1,
	seed: 1,
};

/** Friction and bounce come from the material, so they are not here. */
export const BODY_DEFAULTS: Omit<FullBodySettings, "density" | "friction" | "bounce"> = {
	kind: "none",
	mass: undefined,
	collider: "auto",
	hulls: 12,
	hullError: 0.02,
	hullDepth: 0,
	margin: 0,
	rolling: 0,
	backAt: undefined,
	centre: ZERO,
	proxy: "",
	crop: "",
	restSpeed: 0.3,
	restAfter: 0.5,
	world: "",
	velocity: ZERO,
	spin: ZERO,
	linearDamping: 0,
	angularDamping: 0,
	wake: { when: "start" },
};

/**
 * Tension, shear and compression in MPa, fracture energy in J/m²: mid values of what tables of building materials and
 * textbooks of fracture mechanics give (EN 1992 for concrete, EN 1996 for brick and mortar, EN 338 for oak along the grain,
 * Michel's "Ice Mechanics", Ashby's material charts for the rest).
 */
const strength = (tension: number, shear: number, compression: number, energy: number): Strength => ({
	tension,
	shear,
	compression,
	energy,
});
export const STRENGTHS: Readonly<Record<Id, Strength>> = {
	concrete: strength(2.6, 4, 30, 100),
	rawConcrete: strength(2.6, 4, 30, 100),
	granite: strength(9, 18, 150, 120),
	brick: strength(2, 3, 20, 60),
	mortar: strength(0.5, 1, 8, 20),
	glass: strength(40, 60, 800, 8),
	oak: strength(60, 9, 45, 600),
	cork: strength(1.2, 1, 8, 400),
	ice: strength(1.4, 1, 5, 3),
	steel: strength(400, 240, 400, 100_000),
	paintedSteel: strength(400, 240, 400, 100_000),
	sand: strength(0.01, 0.02, 1, 2),
};

/** Densities after common engineering tables (ISO 12006 grouping; mid values, dry). Ids are fixed: samples and new shots use them. */
export const MATERIALS: Readonly<Record<Id, Material>> = {
	concrete: material("Concrete", "#b9b2a4", 2400, 0.6, 0.1, { strength: STRENGTHS.concrete!, inside: "rawConcrete", roughness: 0.92 }),
	rawConcrete: material("Raw concrete", "#8f897d", 2400, 0.7, 0.1, { strength: STRENGTHS.rawConcrete!, roughness: 0.98 }),
	granite: material("Granite", "#8d8a86", 2700, 0.6, 0.1, { strength: STRENGTHS.granite!, roughness: 0.85 }),
	mortar: material("Mortar", "#c9c4b8", 1900, 0.65, 0.05, { strength: STRENGTHS.mortar!, roughness: 0.97 }),
	brick: material("Brick", "#a8644b", 1900, 0.65, 0.1, { strength: STRENGTHS.brick!, roughness: 0.95 }),
	glass: material("Glass", "#b8d4d2", 2500, 0.4, 0.15, { strength: STRENGTHS.glass!, roughness: 0.08, opacity: 0.55 }),
	oak: material("Oak", "#9c7a4f", 720, 0.5, 0.2, { strength: STRENGTHS.oak!, roughness: 0.8 }),
	cork: material("Cork", "#c29a68", 180, 0.7, 0.35, { strength: STRENGTHS.cork!, roughness: 0.95 }),
	ice: material("Ice", "#d3e6ea", 917, 0.05, 0.1, { strength: STRENGTHS.ice!, roughness: 0.2 }),
	steel: material("Steel", "#7d8790", 7850, 0.5, 0.25, { strength: STRENGTHS.steel!, roughness: 0.45, metalness: 0.8 }),
	paintedSteel: material("Painted steel", "#b4402c", 7850, 0.45, 0.2, {
		strength: STRENGTHS.paintedSteel!,
		roughness: 0.4,
		metalness: 0.2,
	}),
	sand: material("Packed sand", "#cfc3ac", 1600, 0.7, 0.02, { strength: STRENGTHS.sand!, roughness: 1 }),
};

function material(name: string, colour: string, density: number, friction: number, bounce: number, more: Partial<Material>): Material {
	return {
		name,
		colour,
		roughness: 0.9,
		metalness: 0,
		opacity: 1,
		density,
		friction,
		bounce,
		strength: STRENGTHS.concrete!,
		inside: null,
		...more,
	};
}

export const CAMERA_DEFAULTS: CameraSource = { kind: "camera", fieldOfView: 36, near: 0.05, far: 500, aim: null };

/** Strengths of a clear noon and of a bright lamp. */
export const LIGHT_DEFAULTS: Readonly<Record<LightSource["light"], LightSource>> = {
	sun: { kind: "light", light: "sun", colour: "#fff4e2", strength: 60_000 },
	lamp: { kind: "light", light: "lamp", colour: "#ffd9a8", strength: 4_000 },
};

/** Neutral, so that colours can be judged. */
export const SCENERY_DEFAULTS: Scenery = { backdrop: "#c9cdcb", sky: 1 };

const BODILESS: Readonly<Record<BodilessSource["kind"], true>> = {
	group: true,
	beacon: true,
	camera: true,
	light: true,
	region: true,
	force: true,
};

/** Whether an object only helps: it has no mesh and is never a body. */
export const isBodiless = ({ source }: Pick<SceneObject, "source">): boolean => source.kind in BODILESS;

export const OBJECT_DEFAULTS: Omit<SceneObject, "name" | "source"> = {
	parent: null,
	translation: ZERO,
	rotation: IDENTITY,
	scale: ONE,
	material: "concrete",
	hidden: false,
	locked: false,
	order: 0,
	keys: { translation: [], rotation: [] },
};

export const emptyShot = (name: string): Shot => ({
	format: "mighty-rubble-shot",
	version: SHOT_VERSION,
	name,
	note: "",
	settings: SETTINGS_DEFAULTS,
	worlds: {},
	scenery: SCENERY_DEFAULTS,
	objects: {},
	materials: MATERIALS,
	fractures: {},
	bondSets: {},
	connectors: {},
	links: {},
	bodies: {},
	bodyRules: [],
	overrides: {},
	keptPlaces: null,
});
