import type { Draft } from "immer";
import type { Shot } from "../types";

/** Whole numbers for the places of objects in the ledger, after something was put between others. */
export function renumber(shot: Draft<Shot>): void {
	Object.values(shot.objects)
		.sort((a, b) => a.order - b.order)
		.forEach((item, order) => {
			item.order = order;
		});
}
