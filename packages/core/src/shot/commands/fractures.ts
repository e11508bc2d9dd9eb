import type { Draft } from "immer";
import { plainCopy } from "../../common";
import type { Command } from "../edit";
import type { AgainStep, Fracture, Id, OptionValue, Shot } from "../types";
import { dropMotion } from "./motions";

/** Breaks an object, or breaks it another way: the former set-up is replaced. */
export const setFracture = (id: Id, fracture: Fracture): Command => ({
	name: "Break",
	apply: (shot) => {
		if (!shot.objects[fracture.object]) return;
		for (const [other, item] of Object.entries(shot.fractures)) if (other !== id && item.object === fracture.object) drop(shot, other);
		shot.fractures[id] = fracture as Draft<Fracture>;
	},
});

/** The same break for other objects, each with an id of its own for it. */
export const copyFracture = (from: Id, targets: readonly { readonly fracture: Id; readonly object: Id }[]): Command => ({
	name: "Copy break",
	apply: (shot) => {
		const source = shot.fractures[from];
		if (!source) return;
		for (const { fracture, object } of targets)
			if (object !== source.object) setFracture(fracture, { ...(plainCopy(source) as Fracture), object }).apply(shot);
	},
});

/** `step`: of the steps that break again, counted from 0; −1 is the first break. */
export const setFractureOption = (id: Id, option: string, value: OptionValue, step = -1): Command => ({
	name: `Set ${option}`,
	apply: (shot) => {
		const fracture = shot.fractures[id];
		const target = step < 0 ? fracture : fracture?.again?.[step];
		if (target) target.options[option] = value as Draft<OptionValue>;
	},
});

/** Breaks some pieces again, after all other steps. */
export const breakAgain = (id: Id, step: AgainStep): Command => ({
	name: "Break again",
	apply: (shot) => {
		const fracture = shot.fractures[id];
		if (fracture) fracture.again = [...(fracture.again ?? []), step as Draft<AgainStep>];
	},
});

export const changeStep = (id: Id, step: number, change: Partial<AgainStep>): Command => ({
	name: "Change step",
	apply: (shot) => {
		const target = shot.fractures[id]?.again?.[step];
		if (target) Object.assign(target, change);
	},
});

export const removeStep = (id: Id, step: number): Command => ({
	name: "Remove step",
	apply: (shot) => {
		shot.fractures[id]?.again?.splice(step, 1);
	},
});

export const removeFracture = (id: Id): Command => ({
	name: "Make whole",
	apply: (shot) => {
		drop(shot, id);
	},
});

/** A fracture with the keys of its pieces. */
function drop(shot: Draft<Shot>, id: Id): void {
	delete shot.fractures[id];
	for (const piece of Object.keys(shot.motions ?? {})) if (piece.startsWith(`${id}:`)) dropMotion(shot, piece);
}
