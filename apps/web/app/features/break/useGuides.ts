import { methodById } from "@rubble/core/fracture";
import { type Id, shownOptions } from "@rubble/core/shot";
import { useEffect } from "react";
import { useWorkbench } from "~/workbench/store/store";

/** Shows what was drawn into a fracture while its bench is open. */
export function useGuides(object: Id, fractureId: Id): void {
	const fracture = useWorkbench((state) => state.shot.fractures[fractureId]);
	const set = useWorkbench((state) => state.set);
	useEffect(() => {
		const method = methodById(fracture?.method ?? "");
		const lines = (method ? shownOptions(method, fracture!.options) : []).flatMap(([name, spec]): number[][] => {
			const value = fracture!.options[name];
			if (!Array.isArray(value)) return [];
			if (spec.kind === "strokes") return value as number[][];
			if (spec.kind === "points") return Array.from({ length: value.length / 3 }, (_, i) => value.slice(3 * i, 3 * i + 3) as number[]);
			return [];
		});
		set({ guides: lines.length > 0 ? { object, lines } : null });
	}, [fracture, object, set]);
	useEffect(() => () => set({ guides: null, draw: null }), [set]);
}
