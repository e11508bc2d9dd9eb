import { setRepairs } from "../../shot";
import type { Check } from "./types";

/** Meshes that enclose no volume cannot be broken or weighed. */
export const openMesh: Check = {
	id: "open-mesh",
	find: ({ shot, reports }) =>
		[...reports].flatMap(([id, report]) => {
			const item = shot.objects[id];
			const fault = report.faults[0];
			if (!item || !fault) return [];
			const { source } = item;
			return [
				{
					check: "open-mesh",
					level: "error" as const,
					about: [id],
					message: `${item.name}: ${fault.message}`,
					fixes:
						source.kind === "mesh"
							? fault.repairs.map(({ label, repairs }) => ({ label, command: setRepairs(id, [...source.repairs, ...repairs]) }))
							: [],
				},
			];
		}),
};
