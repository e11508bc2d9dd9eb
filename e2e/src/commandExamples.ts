import type { Command, Shot } from "@rubble/core/shot";
import * as core from "@rubble/core/shot";

/** What the commands' folder gives beside commands. */
const NO_COMMANDS = ["connectorOf", "keysIn", "fractureOf", "dropMotion"];
/** Every command of the core by its name. */
export const COMMAND_NAMES: readonly string[] = (await import("../../packages/core/src/shot/commands").then(Object.keys)).filter(
	(name) => !NO_COMMANDS.includes(name),
);

const box = { kind: "shape", shape: "box", parameters: { width: 1, height: 1, depth: 1 } } as const;
const hash = "a".repeat(64);
/** The same ids each time. */
const ids = () => {
	let made = 0;
	return () => `made${made++}`;
};
const key = (tick: number, value: readonly number[]) => ({ tick, value, easing: "linear" as const });

/**
 * Each command at work, in an order in which each finds what it needs; several where one takes things away or sets nothing (null).
 * A new command is a line here: the tests that go through all of them say which is missing.
 */
export const EXAMPLES: readonly (readonly [keyof typeof core, (shot: Shot) => Command])[] = [
	["renameShot", () => core.renameShot("Мол № 4 — 防波堤")],
	["setSettings", () => core.setSettings({ fps: 25, lastFrame: 50, startFrame: 3 })],
	["setSettings", () => core.setSettings({ startFrame: undefined })],
	["setScenery", () => core.setScenery({ sky: 2 })],
	["addObject", () => core.addObject({ id: "a", name: "Block", source: box })],
	["addObject", () => core.addObject({ id: "b", name: "Crate", source: box, translation: [2, 0, 0] })],
	[
		"addObject",
		() =>
			core.addObject({ id: "letters", name: "Sign", source: { kind: "shape", shape: "letters", parameters: {}, texts: { text: "Salt" } } }),
	],
	["addObject", () => core.addObject({ id: "aim", name: "Beacon", source: { kind: "beacon" } })],
	[
		"addObject",
		() => core.addObject({ id: "eye", name: "Camera", source: { kind: "camera", fieldOfView: 36, near: 0.1, far: 99, aim: "aim" } }),
	],
	["addObject", () => core.addObject({ id: "wind", name: "Wind", source: { kind: "force", force: "wind", options: {} } })],
	[
		"addObject",
		() => core.addObject({ id: "scan", name: "Scan", source: { kind: "mesh", asset: `asset:${hash}`, file: "a.obj", repairs: [] } }),
	],
	["renameObject", () => core.renameObject("a", "Pier")],
	["placeObject", () => core.placeObject("a", { translation: [1, 2, 3], rotation: [0, 0, 0, 1], scale: [1, 2, 1] })],
	["setShapeParameter", () => core.setShapeParameter("a", "width", 2)],
	["setShapeText", () => core.setShapeText("letters", "text", "Löß")],
	["setBend", () => core.setBend("a", { along: 0, toward: 1, angle: 1 })],
	["setNumberKey", () => core.setNumberKey("a", "bend", 100, 0.5)],
	["setBend", () => core.setBend("a", undefined)],
	["setPivot", () => core.setPivot("a", [0.5, 0, 0])],
	["makeSizeReal", () => core.makeSizeReal("a")],
	["setFlags", () => core.setFlags(["a", "b"], { hidden: true })],
	["setMaterial", () => core.setMaterial(["a"], "granite")],
	["editMaterial", () => core.editMaterial("granite", { texture: { picture: `asset:${hash}`, size: 1 } })],
	["editMaterial", () => core.editMaterial("granite", { texture: undefined, inside: null })],
	["setRepairs", () => core.setRepairs("scan", [{ kind: "weld", distance: 0.001 }, { kind: "fill" }])],
	["setHelper", () => core.setHelper("eye", "camera", { fieldOfView: 50 })],
	["setForceOption", () => core.setForceOption("wind", "strength", 4)],
	[
		"addArray",
		() => core.addArray({ id: "array", name: "Crates", source: { kind: "array", sources: ["b"], layout: "line", options: {} } }),
	],
	["setArray", () => core.setArray("array", { layout: "ring" })],
	["setArrayOptions", () => core.setArrayOptions("array", { count: 4 })],
	["groupObjects", () => core.groupObjects(["a", "letters"], "group", "Things", [0, 1, 0])],
	["groupObjects", () => core.groupObjects(["a"], "inner", "Inner")],
	["setFracture", () => core.setFracture("f", { object: "a", method: "voronoi", options: { count: 9 } })],
	["copyFracture", () => core.copyFracture("f", [{ fracture: "g", object: "letters" }])],
	["setFractureOption", () => core.setFractureOption("f", "count", 12)],
	["breakAgain", () => core.breakAgain("f", { method: "voronoi", options: {}, pieces: ["00001"], rule: "" })],
	["changeStep", () => core.changeStep("f", 0, { pieces: [], rule: "volume > 1 dm³" })],
	["removeStep", () => core.removeStep("f", 0)],
	["setBody", () => core.setBody(["a", "f:1"], { kind: "active", mass: 4, velocity: [1, 0, 0] })],
	["setBody", () => core.setBody(["a"], { mass: undefined })],
	["copyBody", () => core.copyBody("a", ["b"])],
	["addBodyRule", () => core.addBodyRule("r", "volume < 2 dm³", { friction: 0.2 })],
	["removeBodyRule", () => core.removeBodyRule("r")],
	["addBondSet", () => core.addBondSet("bonds", { name: "Bonds", options: {}, changes: [], hidden: false })],
	["changeBondSet", () => core.changeBondSet("bonds", { name: "Holds" })],
	["setBondOption", () => core.setBondOption("bonds", "factor", 0.5)],
	[
		"addBondChange",
		() => core.addBondChange("bonds", { id: "c", bodies: [], rule: "pier", strokes: [[0, 0, 0, 1, 1, 1]], reach: 1, factor: 0.5 }),
	],
	["editBondChange", () => core.editBondChange("bonds", "c", { factor: 0 })],
	["removeBondChange", () => core.removeBondChange("bonds", "c")],
	["addSlab", () => core.addSlab("bonds", ["f:1", "f:2"])],
	["removeSlab", () => core.removeSlab("bonds", 0)],
	["addConnector", () => core.addConnector("joint", core.connectorOf("hinge", { a: "a", b: "b" }))],
	["changeConnector", () => core.changeConnector("joint", { from: [1, 1, 1], b: "" })],
	["setConnectorOption", () => core.setConnectorOption(["joint"], "limits", "between")],
	[
		"setLink",
		() =>
			core.setLink("link", { object: "letters", property: "height", source: "a", formula: "height / 2", keeps: "middle", hidden: false }),
	],
	["setKey", () => core.setKey("b", 0, { translation: [2, 0, 0] })],
	["poseObject", () => core.poseObject("b", 1200, { translation: [3, 0, 0] })],
	["setEasing", () => core.setEasing("b", "eased")],
	["setKeys", () => core.setKeys("b", "translation", [key(0, [0, 0, 0]), key(600, [1, 0, 0]), key(1200, [2, 0, 0])])],
	["moveKey", () => core.moveKey("b", 600, 700)],
	["removeKey", () => core.removeKey("b", 700)],
	["dropKeysAfter", () => core.dropKeysAfter("b", "translation", 100)],
	["addLayer", () => core.addLayer("b", "Correction", [0, 600])],
	["changeLayer", () => core.changeLayer("b", 0, { muted: true })],
	["removeLayer", () => core.removeLayer("b", 0)],
	["dropKeys", () => core.dropKeys("b")],
	["setGravity", () => core.setGravity([0, -1.6, 0], 0, true)],
	["setGravity", () => core.setGravity([0, -9, 0], 1200, true)],
	["moveGravityKey", () => core.moveGravityKey(1200, 600)],
	["removeGravityKey", () => core.removeGravityKey(600)],
	["removeGravityKey", () => core.removeGravityKey(0)],
	["setWorld", () => core.setWorld("moon", { name: "Moon", gravity: [0, -1.6, 0] })],
	["setBody", () => core.setBody(["b"], { world: "moon" })],
	["removeWorld", () => core.removeWorld("moon")],
	["setKeptPlaces", () => core.setKeptPlaces(`asset:${hash}`)],
	["setKeptPlaces", () => core.setKeptPlaces(null)],
	[
		"setColouring",
		() =>
			core.setColouring({
				by: "speed",
				from: 0,
				to: 4,
				size: 1,
				seed: 1,
				moving: true,
				formula: "",
				stops: [
					[0, "#000000"],
					[1, "#ffffff"],
				],
			}),
	],
	["setColouring", () => core.setColouring(null)],
	["duplicateObjects", () => core.duplicateObjects(["group"], ids(), [1, 0, 0])],
	["replaceBy", () => core.replaceBy("Merge", ["b"], [{ id: "merged", name: "Merged", source: box }])],
	["removeLink", () => core.removeLink("link")],
	["removeConnectors", () => core.removeConnectors(["joint"])],
	["removeBondSet", () => core.removeBondSet("bonds")],
	["removeFracture", () => core.removeFracture("f")],
	["removeObjects", () => core.removeObjects(["aim", "group"])],
];
