import type { Hash } from "../common";
import { edit, type Shot } from "../shot";
import { breakwaterStrike } from "./breakwaterStrike";
import { causewayArch } from "./causewayArch";
import { floatHopper } from "./floatHopper";
import { lampRoomPane } from "./lampRoomPane";
import { signLetters } from "./signLetters";
import { slipwayStack } from "./slipwayStack";
import { springScale } from "./springScale";
import type { Sample } from "./types";

/** Saltmarsh Harbour, all made up. A new sample is a file beside this and a line here. */
export const SAMPLES: readonly Sample[] = [
	breakwaterStrike,
	lampRoomPane,
	causewayArch,
	slipwayStack,
	floatHopper,
	springScale,
	signLetters,
];

/** Files that ship with the core, by their SHA-256. */
export const samplePictures = (id: string): Readonly<Record<Hash, string>> => SAMPLES.find((other) => other.id === id)?.pictures ?? {};

export const sampleShot = (id: string): Shot | undefined => {
	const sample = SAMPLES.find((other) => other.id === id);
	return sample?.commands.reduce((shot, command) => edit(shot, command).shot, sample.shot);
};
