import type { Quat, Vec3 } from "../maths";

/** Opaque, never shown, never changes. */
export type Id = string;

/** Simulation time in ticks of 1/1200 s, counted from the first frame of the range. */
export type Ticks = number;

/**
 * What a document may hold at most: far beyond any shot, and near enough that whatever is accepted can be loaded, drawn, run and
 * undone. Lengths in metres, speeds in m/s or rad/s.
 */
export const SHOT_LIMITS = {
	/** Any number. */
	number: 1e15,
	/** The least that is told from nothing: sizes, densities, depths. */
	least: 1e-6,
	/** kg: a grain of dust. */
	leastMass: 1e-12,
	place: 1e6,
	speed: 1e5,
	/** First and last frames, and frames of keys and rules. */
	frame: 1e6,
	objects: 20_000,
	/** Objects in objects in objects … */
	depth: 64,
	options: 200,
	/** Steps that break again. */
	steps: 50,
	rules: 1000,
	/** Characters. */
	ruleText: 100_000,
} as const;

/** One document. Its takes stand beside it, not in it. Units: metres, kilograms, seconds, radians. */
export interface Shot {
	readonly format: "mighty-rubble-shot";
	readonly version: number;
	readonly name: string;
	readonly note: string;
	readonly settings: ShotSettings;
	/** Beside the main one, whose gravity is in the settings. Only bodies of one world meet. */
	readonly worlds: Readonly<Record<Id, World>>;
	readonly scenery: Scenery;
	readonly objects: Readonly<Record<Id, SceneObject>>;
	readonly materials: Readonly<Record<Id, Material>>;
	readonly fractures: Readonly<Record<Id, Fracture>>;
	/** What ties pieces and objects to each other until it breaks; see `bonds/`. */
	readonly bondSets: Readonly<Record<Id, BondSet>>;
	/** Joints between bodies; see `connectors/`. */
	readonly connectors: Readonly<Record<Id, Connector>>;
	/** Properties that follow other objects by a formula; see `links/`. */
	readonly links: Readonly<Record<Id, Link>>;
	/** By object id: what differs from the defaults and the material. */
	readonly bodies: Readonly<Record<Id, BodySettings>>;
	/** Applied in order after the object's own settings. */
	readonly bodyRules: readonly BodyRule[];
	/** By derived id (a piece's): applied last. Kept when the piece no longer exists. */
	readonly overrides: Readonly<Record<string, BodySettings>>;
	/** By derived id: pieces and copies that move by keys. Kept when the piece no longer exists; none where absent. */
	readonly motions?: Readonly<Record<string, Motion>> | undefined;
	/** Where pieces and copies stand at the start instead of where they were made, as an earlier run left them; see `bodies/kept.ts`. */
	readonly keptPlaces: AssetRef | null;
	/** How bodies are coloured by a gradient, in the view and in files; not at all where absent. */
	readonly colouring?: Colouring | undefined;
}

export interface Colouring {
	readonly by: (typeof COLOURED_BY)[number];
	/** Where the gradient begins and ends: metres, m/s, shares, or what the formula comes out as. */
	readonly from: number;
	readonly to: number;
	/** Of patches of noise, metres. */
	readonly size: number;
	readonly seed: number;
	/** By where things are at the frame instead of where they stood at first. */
	readonly moving: boolean;
	/** See `colouring/`. */
	readonly formula: string;
	/** Place on the gradient, 0 to 1, and sRGB `#rrggbb`. */
	readonly stops: readonly (readonly [share: number, colour: string])[];
	/** Where it goes by a picture: the picture, and how it lies in the world. */
	readonly picture?: ColouringPicture | undefined;
}

/** Everything that colours of a shot can go by, see `colouring/`. */
export const COLOURED_BY = [
	"noise",
	"random",
	"x",
	"height",
	"z",
	"speed",
	"age",
	"blow",
	"volume",
	"mass",
	"area",
	"neighbours",
	"picture",
	"formula",
] as const;

export interface ColouringPicture {
	readonly picture: AssetRef;
	/** Which way it is looked at: from the front along −z, from the right along −x, from above along −y. */
	readonly seen: "front" | "side" | "above";
	/** World, metres: where its middle lies. */
	readonly middle: Vec3;
	/** Metres that it is wide; its height follows. */
	readonly width: number;
}

export interface ShotSettings {
	readonly fps: number;
	readonly firstFrame: number;
	readonly lastFrame: number;
	/** Until this frame nothing moves by itself, whatever its wake rule says; from the first frame on where absent, see `simulationStart`. */
	readonly startFrame?: number | undefined;
	/** Simulation steps per second of the shot. */
	readonly stepsPerSecond: number;
	/** A step in which something, or an end of it that spins, would cross more than its own thickness is done in parts, at most so many; whole where absent. */
	readonly mostParts?: number | undefined;
	readonly solverIterations: number;
	/** m/s² */
	readonly gravity: Vec3;
	/** Where it changes over time; the steady one above where absent. */
	readonly gravityKeys?: readonly Key<Vec3>[] | undefined;
	/** Simulated seconds per second of the shot. */
	readonly timeScale: number;
	readonly seed: number;
}

export interface World {
	readonly name: string;
	/** m/s² */
	readonly gravity: Vec3;
}

/** What stands around the shot in the view; nothing of it is simulated. */
export interface Scenery {
	/** sRGB, `#rrggbb`: behind everything. */
	readonly backdrop: string;
	/** Light from all sides, as a multiple of the usual. */
	readonly sky: number;
}

/** What keys can move: an object in its parent's frame, a piece or copy in its object's. */
export interface Keyed {
	/** Metres; where it stands while it has no keys. */
	readonly translation: Vec3;
	readonly rotation: Quat;
	readonly keys: ObjectKeys;
}

/** How a piece or a copy moves by keys from a take. */
export interface Motion extends Keyed {
	/** The take's name, and what had been set for it alone before. */
	readonly baked: { readonly take: string; readonly body: BodySettings | null };
}

export interface SceneObject extends Keyed {
	readonly name: string;
	readonly parent: Id | null;
	/** Ends at Shape: meshes are evaluated at their real size, bodies never scale. */
	readonly scale: Vec3;
	readonly source: ObjectSource;
	/** How the mesh lies in the object's own frame; as it comes where absent. */
	readonly frame?: MeshFrame | undefined;
	/** Bent to an arc, see `mesh/bend.ts`; straight where absent. */
	readonly bend?: Bend | undefined;
	readonly material: Id;
	readonly hidden: boolean;
	readonly locked: boolean;
	/** Place among its siblings in the ledger. */
	readonly order: number;
	/** Where its keys come from a take: what it was before, to go back to. */
	readonly baked?: BakedObject | undefined;
}

export interface BakedObject {
	/** The take's name. */
	readonly take: string;
	readonly body: BodySettings | null;
	readonly keys: ObjectKeys;
	readonly translation: Vec3;
	readonly rotation: Quat;
}

export interface Bend {
	/** Axes of the object: 0 x, 1 y, 2 z. */
	readonly along: 0 | 1 | 2;
	readonly toward: 0 | 1 | 2;
	/** From end to end, radians. */
	readonly angle: number;
}

/** First sized, then moved so that the pivot becomes the origin. */
export interface MeshFrame {
	readonly scale: Vec3;
	/** Metres, after the sizing. */
	readonly pivot: Vec3;
}

export type ObjectSource = ShapeSource | MeshSource | ArraySource | BodilessSource;

/** What only helps: nothing of it is drawn, simulated or written to files. */
export type BodilessSource = GroupSource | BeaconSource | CameraSource | LightSource | RegionSource | ForceSource;

/** A primitive; its parameters stay editable. */
export interface ShapeSource {
	readonly kind: "shape";
	readonly shape: string;
	readonly parameters: Readonly<Record<string, number>>;
	readonly texts?: Readonly<Record<string, string>> | undefined;
}

/** An imported mesh: the asset as it came, and the repairs that are applied to it in order. */
export interface MeshSource {
	readonly kind: "mesh";
	readonly asset: AssetRef;
	readonly file: string;
	readonly repairs: readonly Repair[];
}

/** Nothing of its own: it holds others together, which move and size with it. */
export interface GroupSource {
	readonly kind: "group";
}

/** A point that cameras aim at, and that can be keyed. */
export interface BeaconSource {
	readonly kind: "beacon";
}

/** Looks along its own −z axis with y up, or at what it aims at. */
export interface CameraSource {
	readonly kind: "camera";
	/** From the lower to the upper edge of the picture, degrees. */
	readonly fieldOfView: number;
	/** Metres; what is nearer or farther is not seen. */
	readonly near: number;
	readonly far: number;
	/** Another object that is kept in the middle. */
	readonly aim: Id | null;
}

/** Shines along its own −z axis (sun) or all around (lamp). Where a shot has none, the view brings its own. */
export interface LightSource {
	readonly kind: "light";
	readonly light: "sun" | "lamp";
	/** sRGB, `#rrggbb`. */
	readonly colour: string;
	/** Of a sun, lux; of a lamp, lumens. */
	readonly strength: number;
}

/** A part of the room, one metre across before its scale: rules, wakes and colliders can ask what is inside. */
export interface RegionSource {
	readonly kind: "region";
	readonly form: "box" | "ball" | "solid";
	/** The closed object whose form and size a solid one has, laid pivot on pivot. */
	readonly solid?: Id | undefined;
}

/** Pushes bodies from where it stands and as it is turned; see `forces/`. A hidden one does not act. */
export interface ForceSource {
	readonly kind: "force";
	readonly force: string;
	readonly options: Readonly<Record<string, OptionValue>>;
}

/** Copies of other objects, laid out by rule. Each copy is a body of its own; the sources stay where they are. */
export interface ArraySource {
	readonly kind: "array";
	readonly sources: readonly Id[];
	readonly layout: string;
	readonly options: Readonly<Record<string, OptionValue>>;
}

/** `asset:` and the SHA-256 of the bytes. */
export type AssetRef = `asset:${string}`;
export const assetRef = (hash: string): AssetRef => `asset:${hash}`;
export const assetHash = (asset: AssetRef): string => asset.slice("asset:".length);

export type Repair =
	| { readonly kind: "weld"; readonly distance: number }
	| { readonly kind: "orient" }
	| { readonly kind: "fill" }
	| { readonly kind: "unite" }
	/** Metres: an open surface becomes a solid of this thickness. */
	| { readonly kind: "thicken"; readonly thickness: number }
	| { readonly kind: "remesh"; readonly voxel: number };

export type Easing = "linear" | "eased" | "stepped" | "curved";

export interface Key<T> {
	readonly tick: Ticks;
	readonly value: T;
	/** How the value goes from this key to the next. */
	readonly easing: Easing;
	/** How steep a curved value is at the key, per second; as its neighbours have it where absent. Turns have none of their own. */
	readonly slope?: T | undefined;
}

export interface ObjectKeys {
	readonly translation: readonly Key<Vec3>[];
	readonly rotation: readonly Key<Quat>[];
	/** Numbers that are keyed, by name: the `strength` of a force, those of a shape, the `bend` of either. */
	readonly numbers?: Readonly<Record<string, readonly Key<number>[]>> | undefined;
	/** Corrections over them, each over those before it. */
	readonly layers?: readonly KeyLayer[] | undefined;
}

/** A correction of a motion: what it is moved and turned by, beyond what its keys and the layers before say. */
export interface KeyLayer {
	readonly name: string;
	/** Has no effect for the moment. */
	readonly muted: boolean;
	/** Metres, along the parent's axes. */
	readonly translation: readonly Key<Vec3>[];
	/** About the object's pivot, by the parent's axes. */
	readonly rotation: readonly Key<Quat>[];
}

export interface Material {
	readonly name: string;
	/** sRGB, `#rrggbb`. */
	readonly colour: string;
	readonly roughness: number;
	readonly metalness: number;
	readonly opacity: number;
	/** kg/m³ */
	readonly density: number;
	readonly friction: number;
	readonly bounce: number;
	/** A picture on the outside faces; none where absent. */
	readonly texture?: MaterialTexture | undefined;
	readonly strength: Strength;
	/** The material of faces that a fracture lays open; null: the same. */
	readonly inside: Id | null;
}

/** What a material bears before it breaks. */
export interface Strength {
	/** MPa */
	readonly tension: number;
	readonly shear: number;
	readonly compression: number;
	/** J/m² of new crack. */
	readonly energy: number;
}

export interface MaterialTexture {
	/** PNG or JPEG bytes. */
	readonly picture: AssetRef;
	/** Metres that the picture covers, where the mesh brings no texture coordinates of its own. */
	readonly size: number;
}

export interface Fracture extends FractureStep {
	readonly object: Id;
	/** Steps that break some of the pieces again, each after the one before. */
	readonly again?: readonly AgainStep[];
}
export interface FractureStep {
	readonly method: string;
	readonly options: Readonly<Record<string, OptionValue>>;
}
export interface AgainStep extends FractureStep {
	/** Names of pieces (`00007`), as they are called before this step; where there are none, `rule` says which. */
	readonly pieces: readonly string[];
	/** See `bodies/rule.ts`. */
	readonly rule: string;
}

/** A rule that ties bodies to each other; its bonds are derived from the bodies as they stand at the first frame. */
export interface BondSet {
	readonly name: string;
	readonly options: Readonly<Record<string, OptionValue>>;
	/** Applied in order to the bonds' strength. */
	readonly changes: readonly BondChange[];
	/** Slabs that were made by hand: bodies (ids) each, beside those that the options make. */
	readonly slabs?: readonly (readonly string[])[] | undefined;
	readonly hidden: boolean;
}

/** Makes some of the bonds weaker or stronger. */
export interface BondChange {
	readonly id: Id;
	/** Bodies (ids) whose bonds are meant; where there are none, `rule` says which. */
	readonly bodies: readonly string[];
	/** See `bodies/rule.ts`; both ends of a bond must match. */
	readonly rule: string;
	/** Lines of 3 numbers per point, world, metres: bonds nearer than `reach` are meant, less so towards its end. */
	readonly strokes: readonly (readonly number[])[];
	/** metres */
	readonly reach: number;
	/** Strength afterwards as a multiple of that before; 0 cuts. */
	readonly factor: number;
}

/** A number of an object that changes with where another object is. */
export interface Link {
	readonly object: Id;
	/** A parameter of its shape, or `x`, `height`, `z`. */
	readonly property: string;
	readonly source: Id;
	/** What is added to the number as it is set; see `links/formula.ts`. */
	readonly formula: string;
	/** Which end of it stays where it is when its shape changes. */
	readonly keeps: "middle" | "top" | "bottom";
	readonly hidden: boolean;
}

/** Joints of one kind, between two bodies or between many. */
export interface Connector {
	readonly name: string;
	/** Which kind, see `connectors/`. */
	readonly connector: string;
	readonly options: Readonly<Record<string, OptionValue>>;
	/** Bodies (ids of objects or derived ones) that it joins; a second one that is empty is the world. */
	readonly a: string;
	readonly b: string;
	/** World, metres, at the first frame: where it holds the first body, and the second. */
	readonly from: Vec3;
	readonly to: Vec3;
	/** From the connector's axes to the world's; it turns and slides along its own x axis. */
	readonly turn: Quat;
	readonly hidden: boolean;
}
/** A value of a described option, see `options.ts`. */
export type OptionValue = number | string | boolean | readonly number[] | readonly string[] | readonly (readonly number[])[];

export type BodyKind = "active" | "passive" | "animated" | "none";
export type ColliderChoice = "auto" | "sphere" | "box" | "capsule" | "cylinder" | "cone" | "hull" | "shells" | "parts" | "mesh" | "plain";
export type WakeRule =
	| { readonly when: "start" }
	| { readonly when: "frame"; readonly frame: number }
	/**
	 * `leastSpeed`: the approach speed in m/s from which a touch counts. `leastForce`: a force in N from which it counts too,
	 * however slow; none does where 0 or absent. `by`: a rule that says whose; anybody's where empty.
	 */
	| { readonly when: "touched"; readonly leastSpeed: number; readonly leastForce?: number | undefined; readonly by?: string | undefined }
	/** Once its centre is in the region, and that passes it at this speed in m/s at least; 0 for a region that stands still. */
	| { readonly when: "region"; readonly region: Id; readonly leastSpeed: number };

/** Every field may be absent: then the earlier setting in the order holds. */
export interface BodySettings {
	readonly kind?: BodyKind | undefined;
	/** kg/m³ */
	readonly density?: number | undefined;
	/** kg; instead of density. */
	readonly mass?: number | undefined;
	readonly friction?: number | undefined;
	readonly bounce?: number | undefined;
	readonly collider?: ColliderChoice | undefined;
	/** Most convex parts of the collider. */
	readonly hulls?: number | undefined;
	/** Where the parts stop: share of the volume that they may have too much. */
	readonly hullError?: number | undefined;
	/** And how deep they may bury the surface, metres; 0: however deep. */
	readonly hullDepth?: number | undefined;
	/** Metres of room that its collider keeps around it. */
	readonly margin?: number | undefined;
	/** Rolling resistance: the slope on which it just begins to roll. */
	readonly rolling?: number | undefined;
	/** The frame from which an active thing with keys follows them again. */
	readonly backAt?: number | undefined;
	/** Where its centre of mass is, metres from where its shape says; it turns about that. */
	readonly centre?: Vec3 | undefined;
	/** Another object whose shape collides in its place, laid pivot on pivot; none where empty. */
	readonly proxy?: Id | undefined;
	/** Only what of its shape lies in this region at the first frame collides; all of it where empty. */
	readonly crop?: Id | undefined;
	/** It may come to rest while it is slower, m/s, and has not left its place for so many seconds. 0: it never rests. */
	readonly restSpeed?: number | undefined;
	readonly restAfter?: number | undefined;
	/** The world it belongs to; the main one where empty. */
	readonly world?: Id | undefined;
	/** m/s */
	readonly velocity?: Vec3 | undefined;
	/** rad/s */
	readonly spin?: Vec3 | undefined;
	/** 1/s */
	readonly linearDamping?: number | undefined;
	readonly angularDamping?: number | undefined;
	readonly wake?: WakeRule | undefined;
}

export type FullBodySettings = {
	readonly [K in keyof Required<BodySettings>]: K extends "mass" | "backAt" ? number | undefined : NonNullable<BodySettings[K]>;
};

export interface BodyRule {
	readonly id: Id;
	/** The rule as text, see `bodies/rule.ts`. */
	readonly rule: string;
	readonly settings: BodySettings;
}
