import { encodeMesh, formatOfFile, type ImportChoices, placeModel, type ReadModel, readModel } from "@rubble/core/formats";
import { bounds, boundsSize } from "@rubble/core/mesh";
import type { PlacedPart, ReadFile } from "./messages";
import { keepAsset } from "./network";

/** The file that is being brought in. */
let opened: { name: string; model: ReadModel } | undefined;

export async function readFile(name: string, bytes: Uint8Array): Promise<ReadFile> {
	const model = await readModel(name, bytes);
	if (!model.ok) throw new Error(model.problems[0]!.message);
	opened = { name, model: model.value };
	return {
		name,
		metres: formatOfFile(name)!.metres,
		parts: model.value.parts.map(({ name: part, mesh }) => ({
			name: part,
			triangles: mesh.triangles.length / 3,
			size: boundsSize(bounds(mesh)),
		})),
		notes: model.value.notes,
	};
}

export async function placeFile(choices: ImportChoices): Promise<readonly PlacedPart[]> {
	if (!opened) throw new Error("The file is no longer open; choose it again.");
	const placed = [];
	for (const { name, mesh } of opened.model.parts) {
		const asset = await keepAsset(encodeMesh(placeModel(mesh, choices)));
		placed.push({ name: name || opened.name.replace(/\.[^.]*$/, ""), asset });
	}
	return placed;
}
