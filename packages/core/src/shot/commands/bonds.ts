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

/** Has these bodies (ids) come off as one slab; they leave others that were made by hand. */
export const addSlab = (id: Id, bodies: readonly string[]): Command => ({
	name: "Make a slab",
	apply: (shot) => {
		const set = shot.bondSets[id];
		if (!set || bodies.length === 0) return;
		const own = new Set(bodies);
		const others = (set.slabs ?? []).map((slab) => slab.filter((body) => !own.has(body))).filter((slab) => slab.length > 0);
		set.slabs = [...others, [...bodies]];
	},
});

export const removeSlab = (id: Id, index: number): Command => ({
	name: "Take back a slab",
	apply: (shot) => {
		const set = shot.bondSets[id];
		const left = set?.slabs?.filter((_, n) => n !== index) ?? [];
		if (!set) return;
		if (left.length > 0) set.slabs = left;
		else delete set.slabs;
	},
});
