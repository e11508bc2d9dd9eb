import type { Progress } from "../common";
import type { Solids } from "../solid";
import { carvePart } from "./carve";
import { wearStone } from "./wear";

/**
 * Pieces of work that other threads can take: each depends on its input alone, so that it does not matter who does it
 * or in which order. Inputs and outputs are plain data.
 */
export const CREW_TASKS = { carve: carvePart, wear: wearStone };

type Tasks = typeof CREW_TASKS;
export type CrewTask = keyof Tasks;
export type CrewInput<Name extends CrewTask> = Parameters<Tasks[Name]>[1];
export type CrewOutput<Name extends CrewTask> = Awaited<ReturnType<Tasks[Name]>>;

/** Threads that work along. Outputs come in the order of the inputs; throws `Cancelled` where the signal was raised. */
export interface Crew {
	readonly run: <Name extends CrewTask>(name: Name, inputs: readonly CrewInput<Name>[], progress: Progress) => Promise<CrewOutput<Name>[]>;
}

/** How a method reports, is stopped, and who works along. */
export interface Work extends Progress {
	readonly crew?: Crew | undefined;
}

/** What a thread of the crew does. */
export const doTask = async <Name extends CrewTask>(solids: Solids, name: Name, input: CrewInput<Name>): Promise<CrewOutput<Name>> =>
	(await (CREW_TASKS[name] as (solids: Solids, input: CrewInput<Name>) => unknown)(solids, input)) as CrewOutput<Name>;
