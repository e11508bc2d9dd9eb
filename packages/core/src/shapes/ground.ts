import { makeMesh } from "../mesh";
import type { Shape } from "./types";

export const ground: Shape = {
	id: "ground",
	label: "Ground",
	help: "An endless level surface.",
	parameters: {},
	ground: true,
	endless: true,
	build: () => makeMesh([], []),
};
