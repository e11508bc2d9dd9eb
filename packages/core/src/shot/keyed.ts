import type { Keyed, Shot } from "./types";

/** What moves by keys of its own under this id: an object, or a piece or copy that has a motion. */
export const keyedOf = (shot: Shot, id: string): Keyed | undefined => shot.objects[id] ?? shot.motions?.[id];
