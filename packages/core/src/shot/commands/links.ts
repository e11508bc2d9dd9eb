import type { Command } from "../edit";
import type { Id, Link } from "../types";

export const setLink = (id: Id, link: Link): Command => ({
	name: `Link ${link.property}`,
	apply: (shot) => {
		shot.links[id] = { ...link };
	},
});

export const removeLink = (id: Id): Command => ({
	name: "Remove link",
	apply: (shot) => {
		delete shot.links[id];
	},
});
