import { bondsNeverMove } from "./bondsNeverMove";
import { bondsTieNothing } from "./bondsTieNothing";
import { bondsTooWeak } from "./bondsTooWeak";
import { centreOutside } from "./centreOutside";
import { concaveHull } from "./concaveHull";
import { connectorApart } from "./connectorApart";
import { contactsAlone } from "./contactsAlone";
import { cutOff } from "./cutOff";
import { drawnApart } from "./drawnApart";
import { energyGrew } from "./energyGrew";
import { lost } from "./lost";
import { massRatio } from "./massRatio";
import { meshCollider } from "./meshCollider";
import { nothingBelow } from "./nothingBelow";
import { nothingWakes } from "./nothingWakes";
import { openMesh } from "./openMesh";
import { passiveKeys } from "./passiveKeys";
import { plainGround } from "./plainGround";
import { sankIn } from "./sankIn";
import { shivering } from "./shivering";
import { startOverlap } from "./startOverlap";
import { stiffSpring } from "./stiffSpring";
import { tooSmall } from "./tooSmall";
import { tunnel } from "./tunnel";
import type { Check, CheckContext, Finding } from "./types";
import { weightless } from "./weightless";
import { worldsMeet } from "./worldsMeet";

export { sunkAtEnd } from "./sankIn";
export type { CheckContext, Finding } from "./types";

/** Every check, the gravest first. A new one is a file beside this and a line here. */
const CHECKS: readonly Check[] = [
	openMesh,
	nothingWakes,
	weightless,
	nothingBelow,
	worldsMeet,
	startOverlap,
	tunnel,
	tooSmall,
	concaveHull,
	meshCollider,
	centreOutside,
	passiveKeys,
	plainGround,
	bondsTieNothing,
	bondsTooWeak,
	connectorApart,
	contactsAlone,
	stiffSpring,
	bondsNeverMove,
	lost,
	massRatio,
	drawnApart,
	sankIn,
	cutOff,
	energyGrew,
	shivering,
];

/** All findings, errors first. */
export function runChecks(context: CheckContext): Finding[] {
	const order = { error: 0, warning: 1, note: 2 };
	return CHECKS.flatMap((check) => check.find(context)).sort((a, b) => order[a.level] - order[b.level]);
}
