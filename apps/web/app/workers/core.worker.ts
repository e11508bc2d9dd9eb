import { expose } from "comlink";
import { build, colliderLines, estimate, inspect, neighbours, readStrokes, rework, ties } from "./building";
import { placeFile, readFile } from "./files";
import { guarded } from "./guarded";
import type { CoreWorker } from "./messages";
import { findJoints, keepPicture, pixelsOf } from "./pictures";
import { cancel } from "./progress";
import {
	allEvents,
	bake,
	carry,
	forecast,
	goOn,
	keepFrame,
	keysFromTake,
	loadTake,
	measureOverlaps,
	noteTake,
	run,
	settle,
	storedFrames,
	takeScene,
	whereThingsGo,
} from "./takes";

/** The thread in which everything slow happens. It keeps what it has made, and the frames of the take on show. */
const worker: CoreWorker = {
	build,
	inspect: (shot, onProgress) => inspect(shot, allEvents(), storedFrames(), onProgress),
	colliderLines,
	ties,
	readFile,
	placeFile,
	readStrokes,
	neighbours,
	estimate,
	rework,
	keepPicture,
	findJoints,
	pixelsOf,
	loadTake,
	takeScene,
	measureOverlaps,
	whereThingsGo,
	noteTake,
	keepFrame,
	settle,
	run,
	goOn,
	carry,
	keysFromTake,
	forecast,
	bake,
	cancel,
};
expose(guarded(worker));
