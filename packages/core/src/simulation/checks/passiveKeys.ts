import { isKeyed } from "../../animation";
import { setBody } from "../../shot";
import type { Check, Finding } from "./types";

/** Objects that have keys but are passive, so that what they are is not what they are called. */
export const passiveKeys: Check = {
	id: "passive-keys",
	find: ({ shot }): Finding[] => {
		const keyed = Object.keys(shot.objects)
			.sort()
			.filter((id) => shot.bodies[id]?.kind === "passive" && isKeyed(shot.objects[id]!));
		if (keyed.length === 0) return [];
		return [
			{
				check: "passive-keys",
				level: "note",
				about: keyed,
				message: `${keyed.map((id) => shot.objects[id]!.name).join(", ")} is passive but moves by keys; it pushes as an animated body does.`,
				fixes: [{ label: "Make it animated", command: setBody(keyed, { kind: "animated" }) }],
			},
		];
	},
};
