import { expect, test } from "@jest/globals";
import { SETTINGS } from "./settings";
import { isStage } from "./stages";

test("every setting is listed once, in a stage that there is, whatever kind of thing it is of", () => {
	const names = SETTINGS.map(({ stage, of, label }) => `${stage}/${of}/${label}`);
	expect(new Set(names).size).toBe(names.length);
	expect(SETTINGS.every(({ stage, label, of }) => isStage(stage) && label !== "" && of !== "")).toBe(true);
	for (const wanted of [
		"run/Exactness/Substeps",
		"break/Voronoi/Pieces",
		"bind/Spring/Stiffness",
		"push/Wind/Drag",
		"shape/Coil/Pitch",
		"bake/OBJ sequence/Unit",
	])
		expect(names).toContain(wanted);
});
