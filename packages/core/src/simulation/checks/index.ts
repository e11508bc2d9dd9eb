import { concaveHull } from "./concaveHull";
import { lost } from "./lost";
import { nothingWakes } from "./nothingWakes";
import { openMesh } from "./openMesh";
import { startOverlap } from "./startOverlap";
import { tunnel } from "./tunnel";
import type { Check, CheckContext, Finding } from "./types";

export type { CheckContext, Finding } from "./types";

/** Every check, the gravest first. A new one is a file beside this and a line here. */
const CHECKS: readonly Check[] = [openMesh, nothingWakes, startOverlap, tunnel, concaveHull, lost];

/** All findings, errors first. */
export function runChecks(context: CheckContext): Finding[] {
	const order = { error: 0, warning: 1, note: 2 };
	return CHECKS.flatMap((check) => check.find(context)).sort((a, b) => order[a.level] - order[b.level]);
}
