import { formatNumber, setBondOption } from "../../shot";
import { restingUse } from "../bonded";
import type { Check, Finding } from "./types";

/** Structures whose own weight breaks their bonds before anything has happened. */
export const bondsTooWeak: Check = {
	id: "bonds-too-weak",
	find: ({ shot, scene }): Finding[] => {
		if (!scene || scene.bonds.count === 0) return [];
		const use = restingUse(scene);
		const worst = new Map<number, { use: number; bond: number }>();
		use.forEach((share, bond) => {
			const set = scene.bonds.set[bond]!;
			if (share > 1 && share > (worst.get(set)?.use ?? 0)) worst.set(set, { use: share, bond });
		});
		return [...worst].map(([set, { use: share, bond }]) => {
			const { id } = scene.bonds.sets[set]!;
			const factor = Number(shot.bondSets[id]!.options.factor ?? 1);
			const wanted = Number((factor * share * 1.5).toPrecision(2));
			return {
				check: "bonds-too-weak",
				level: "warning",
				about: [scene.ids[scene.bonds.a[bond]!]!],
				message: `The bonds “${shot.bondSets[id]!.name}” do not bear the weight of what they hold: at ${scene.paths[scene.bonds.a[bond]!]} it takes ${formatNumber(100 * share, 3)} % of their strength.`,
				fixes: [{ label: `Make them ${formatNumber(wanted / factor, 2)} × stronger`, command: setBondOption(id, "factor", wanted) }],
			};
		});
	},
};
