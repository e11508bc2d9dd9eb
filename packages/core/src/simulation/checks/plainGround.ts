import { setBody } from "../../shot";
import type { Check, Finding } from "./types";

/** Ground that is flat while trying: one press makes it true again for the final run. */
export const plainGround: Check = {
	id: "plain-ground",
	find: ({ shot }): Finding[] => {
		const plain = Object.keys(shot.bodies)
			.sort()
			.filter((id) => shot.bodies[id]!.collider === "plain" && (shot.bodies[id]!.kind ?? "none") !== "none");
		if (plain.length === 0) return [];
		return [
			{
				check: "plain-ground",
				level: "note",
				about: plain,
				message: `${plain.map((id) => shot.objects[id]?.name).join(", ")} ${plain.length === 1 ? "collides" : "collide"} as flat ground while you try; what lies on it may hover or sink in the picture.`,
				fixes: [{ label: "True ground for the final run", command: setBody(plain, { collider: undefined }) }],
			},
		];
	},
};
