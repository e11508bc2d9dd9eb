import { methodById } from "../fracture";
import { fractureBy, parsePreset, presetOf } from ".";

test("a preset keeps a break without the objects of its shot, survives writing, and breaks another object alike", () => {
	const fracture = {
		object: "wall",
		method: "voronoi",
		options: { count: 90, spread: "clustered", around: ["beacon"], strokes: [[0, 0, 0]], density: [0, 1, 1, 0.1] },
		again: [{ method: "cutter", options: { cutters: ["ball"], keep: "both" }, pieces: [], rule: "volume > 1 dm³" }],
	};
	const preset = presetOf("Fine", fracture, methodById);
	expect(preset.options).toEqual({ count: 90, spread: "clustered", strokes: [[0, 0, 0]], density: [0, 1, 1, 0.1] });
	expect(preset.again[0]!.options).toEqual({ keep: "both" });
	const read = parsePreset(JSON.parse(JSON.stringify(preset)));
	expect(read).toEqual({ ok: true, value: preset });
	expect(fractureBy(preset, "pier")).toEqual({ object: "pier", method: "voronoi", options: preset.options, again: preset.again });
	expect(fractureBy({ ...preset, again: [] }, "pier")).not.toHaveProperty("again");
});

test.each([
	[null],
	[{ name: "", method: "voronoi", options: {}, again: [] }],
	[{ name: "x", method: 3, options: {}, again: [] }],
	[{ name: "x", method: "voronoi", options: {} }],
	[{ name: "x".repeat(81), method: "voronoi", options: {}, again: [] }],
])("what is no preset is said in words: %j", (value) => {
	const read = parsePreset(value);
	expect(read.ok).toBe(false);
	expect(!read.ok && read.problems[0]!.message).toMatch(/^The preset is not valid/);
});
