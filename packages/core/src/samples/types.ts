import type { Hash } from "../common";
import type { Command, Shot } from "../shot";

/** A shot of the demo scenario, as the commands that make it. */
export interface Sample {
	readonly id: string;
	readonly shot: Shot;
	readonly commands: readonly Command[];
	/** Pictures it uses, by their SHA-256: files that ship in `packages/core/pictures`. */
	readonly pictures?: Readonly<Record<Hash, string>>;
}
