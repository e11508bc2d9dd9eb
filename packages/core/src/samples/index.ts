import { edit, type Shot } from "../shot";
import { breakwaterStrike } from "./breakwaterStrike";
import { lampRoomPane } from "./lampRoomPane";
import type { Sample } from "./types";

/** Saltmarsh Harbour, all made up. A new sample is a file beside this and a line here. */
export const SAMPLES: readonly Sample[] = [breakwaterStrike, lampRoomPane];

export const sampleShot = (id: string): Shot | undefined => {
	const sample = SAMPLES.find((other) => other.id === id);
	return sample?.commands.reduce((shot, command) => edit(shot, command).shot, sample.shot);
};
