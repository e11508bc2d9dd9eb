import { ball } from "./ball";
import { box, panel } from "./box";
import { cylinder } from "./cylinder";
import { ground } from "./ground";
import type { Shape } from "./types";

export { shapeDefaults, shapeProblem } from "./parameters";
export type { Shape, ShapeParameter } from "./types";

/** Every primitive, in the order of the bench. A new one is a file beside this and a line here. */
export const SHAPES: readonly Shape[] = [box, ball, cylinder, panel, ground];

export const shapeById = (id: string): Shape | undefined => SHAPES.find((shape) => shape.id === id);
