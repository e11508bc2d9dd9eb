import { arch, wedge } from "./arch";
import { ball } from "./ball";
import { box, panel } from "./box";
import { coil } from "./coil";
import { cylinder } from "./cylinder";
import { ground } from "./ground";
import { letters } from "./letters";
import { bowl, cone, cup, torus, tube } from "./round";
import { terrain } from "./terrain";
import type { Shape } from "./types";

export { buildShape, shapeDefaults, shapeProblem, shapeTexts } from "./parameters";
export type { Shape, ShapeParameter, ShapeText } from "./types";

/** Every primitive, in the order of the bench. A new one is a file beside this and a line here. */
export const SHAPES: readonly Shape[] = [
	box,
	panel,
	ball,
	cylinder,
	cone,
	tube,
	torus,
	bowl,
	cup,
	wedge,
	arch,
	coil,
	letters,
	terrain,
	ground,
];

/** Whether an object of such a source goes on for ever: ground. */
export const isEndless = (source: { readonly kind: string; readonly shape?: string }): boolean =>
	source.kind === "shape" && shapeById(source.shape!)?.endless === true;

export const shapeById = (id: string): Shape | undefined => SHAPES.find((shape) => shape.id === id);
