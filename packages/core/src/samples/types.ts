import type { Command, Shot } from "../shot";

/** A shot of the demo scenario, as the commands that make it. */
export interface Sample {
	readonly id: string;
	readonly shot: Shot;
	readonly commands: readonly Command[];
}
