import type { BodyRow } from "@rubble/core/bodies";
import { setBody, together } from "@rubble/core/shot";
import { VectorsField } from "~/controls/VectorField";
import { pickedParts } from "~/workbench/store/selectors";
import { useWorkbench } from "~/workbench/store/store";

type Vector = readonly [number, number, number];

interface BodyVectorFieldProps {
	readonly label: string;
	readonly unit: string;
	readonly help: string;
	readonly factor?: number;
	readonly bodies: readonly BodyRow[];
	readonly field: "velocity" | "spin" | "centre";
}

/** A vector among the settings of what is picked. An axis that is typed is given to all; the others stay what they are for each. */
export function BodyVectorField({ bodies, field, ...shown }: BodyVectorFieldProps) {
	const put = (change: (former: Vector) => Vector) => {
		const state = useWorkbench.getState();
		/** Who has the same now is set together: an object as a whole where its pieces do not differ. */
		const alike = new Map<string, { readonly value: Vector; readonly ids: string[] }>();
		for (const picked of pickedParts(state)) {
			const own = bodies.filter(({ id, object }) => id === picked || object === picked);
			const differ = new Set(own.map(({ settings }) => settings[field].join())).size > 1;
			for (const { id, settings } of differ ? own : own.slice(0, 1)) {
				const group = alike.get(settings[field].join()) ?? { value: settings[field], ids: [] };
				group.ids.push(differ ? id : picked);
				alike.set(settings[field].join(), group);
			}
		}
		const commands = [...alike.values()].map(({ value, ids }) => {
			const next = change(value);
			// A centre that is not moved is that of its shape.
			return setBody(ids, { [field]: field === "centre" && next.every((x) => x === 0) ? undefined : next });
		});
		state.perform(together(commands[0]!.name, commands));
	};
	return <VectorsField {...shown} values={bodies.map(({ settings }) => settings[field])} onPut={put} />;
}
