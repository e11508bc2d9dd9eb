import { ball } from "../shapes/ball";
import { loadSolids } from "../solid";
import { breakMesh, type Crew, doTask, methodById } from ".";

/** Does the last first, and hands everything over as another thread would. */
const backwards = (asked: string[]): Crew => ({
	run: async (name, inputs) => {
		const solids = await loadSolids();
		const outputs = new Array(inputs.length);
		for (let i = inputs.length - 1; i >= 0; i--) {
			asked.push(name);
			outputs[i] = structuredClone(await doTask(solids, name, structuredClone(inputs[i]!)));
		}
		return outputs;
	},
});

test.each([
	["voronoi", { count: 90 }, ["carve"]],
	["cobbles", { count: 40 }, ["carve", "wear"]],
] as const)(
	"%s by a crew gives the same bytes as alone",
	async (id, options, tasks) => {
		const solids = await loadSolids();
		const mesh = ball.build({ radius: 1, detail: 5 }, {});
		const asked: string[] = [];
		const [alone, shared] = [
			await breakMesh(solids, mesh, methodById(id)!, options),
			await breakMesh(solids, mesh, methodById(id)!, options, { crew: backwards(asked) }),
		];
		expect(alone.ok && alone.value.pieces.length).toBeGreaterThan(30);
		expect(shared).toEqual(alone);
		expect([...new Set(asked)]).toEqual(tasks);
		expect(asked.filter((name) => name === "carve")).toHaveLength(8);
	},
	60_000,
);
