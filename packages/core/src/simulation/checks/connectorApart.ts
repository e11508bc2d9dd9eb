import { vec3 } from "../../maths";
import { changeConnector, formatQuantity, removeConnectors } from "../../shot";
import type { Check, Finding } from "./types";

/** A body is held at a place this many times its size away from its middle, at most. */
const MOST_SIZES = 2.5;

/** Connectors that join nothing, or that hold a body far from where it is. */
export const connectorApart: Check = {
	id: "connector-apart",
	find: ({ shot, scene }): Finding[] => {
		if (!scene) return [];
		const found: Finding[] = [];
		const used = new Set(scene.joints.map(({ connector }) => connector));
		for (const id of Object.keys(shot.connectors).sort())
			if (!shot.connectors[id]!.hidden && !used.has(id))
				found.push({
					check: "connector-apart",
					level: "warning",
					about: [],
					message: `“${shot.connectors[id]!.name}” joins nothing: what it names is not there, or none of it is active.`,
					fixes: [{ label: "Remove it", command: removeConnectors([id]) }],
				});
		const told = new Set<string>();
		for (const { connector, a, from } of scene.joints) {
			const middle = vec3.add([scene.position[3 * a]!, scene.position[3 * a + 1]!, scene.position[3 * a + 2]!], vec3.ZERO);
			const away = vec3.length(vec3.subtract(from, middle));
			const { name, options, b } = shot.connectors[connector]!;
			if (told.has(connector) || scene.size[a] === 0 || away <= MOST_SIZES * scene.size[a]! || (options.between ?? "two") !== "two")
				continue;
			// A long lever may be meant: a pendulum on an unseen rod.
			if (b === "" && options.between !== "chain") continue;
			told.add(connector);
			found.push({
				check: "connector-apart",
				level: "note",
				about: [scene.ids[a]!],
				message: `“${name}” holds ${scene.paths[a]} at a place ${formatQuantity(away, "length", 2)} away from it.`,
				fixes: [{ label: "Put it at its middle", command: changeConnector(connector, { from: middle, to: middle }) }],
			});
		}
		return found;
	},
};
