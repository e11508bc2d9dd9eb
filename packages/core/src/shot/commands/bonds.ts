import type { Draft } from "immer";
import type { Command } from "../edit";
import type { BondChange, BondSet, Id, OptionValue } from "../types";

/** Ties bodies to each other. */
export const addBondSet = (id: Id, set: BondSet): Command => ({
	name: `Bond ${set.name}`,
	apply: (shot) => {
		shot.bondSets[id] = set as Draft<BondSet>;
	},
});

export const removeBondSet = (id: Id): Command => ({
	name: "Remove bonds",
	apply: (shot) => {
		delete shot.bondSets[id];
	},
});

/** Its name, or whether it holds at all. */
export const changeBondSet = (id: Id, change: Partial<Pick<BondSet, "name" | "hidden">>): Command => ({
	name: "Change bonds",
	apply: (shot) => {
		const set = shot.bondSets[id];
		if (set) Object.assign(set, change);
	},
});

export const setBondOption = (id: Id, option: string, value: OptionValue): Command => ({
	name: `Set ${option}`,
	apply: (shot) => {
		const set = shot.bondSets[id];
		if (set) set.options[option] = value as Draft<OptionValue>;
	},
});

/** Makes some bonds weaker or stronger, after all earlier changes. */
export const addBondChange = (set: Id, change: BondChange): Command => ({
	name: change.factor < 1 ? "Weaken bonds" : "Strengthen bonds",
	apply: (shot) => {
		shot.bondSets[set]?.changes.push(change as Draft<BondChange>);
	},
});

export const editBondChange = (set: Id, change: Id, edit: Partial<Omit<BondChange, "id">>): Command => ({
	name: "Change bonds",
	apply: (shot) => {
		const found = shot.bondSets[set]?.changes.find(({ id }) => id === change);
		if (found) Object.assign(found, edit);
	},
});

export const removeBondChange = (set: Id, change: Id): Command => ({
	name: "Take back change of bonds",
	apply: (shot) => {
		const found = shot.bondSets[set];
		if (found) found.changes = found.changes.filter(({ id }) => id !== change);
	},
});
