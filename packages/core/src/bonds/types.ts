/** Bonds as flat arrays, numbered by the bodies that they were made from. World axes, as at the first frame. */
export interface Bonds {
	readonly count: number;
	/** Bodies at both ends. What holds still (passive) is always the second. */
	readonly a: Int32Array;
	readonly b: Int32Array;
	/** m² */
	readonly area: Float64Array;
	/** 3 per bond, metres. */
	readonly centre: Float64Array;
	/** 3 per bond, unit, from a to b. */
	readonly normal: Float64Array;
	/** 3 per bond, unit: along the face's shorter extent. */
	readonly across: Float64Array;
	/** 2 per bond, m⁴: second moments of the face about `across`, and about the other axis. */
	readonly moments: Float64Array;
	/** 2 per bond, metres from the centre to the edge: along the other axis, and along `across`. */
	readonly reach: Float64Array;
	/** Pa; infinite for those that never break. */
	readonly tension: Float64Array;
	readonly shear: Float64Array;
	readonly compression: Float64Array;
	/** J/m² */
	readonly energy: Float64Array;
	/** Share of its strength from which it is damaged. */
	readonly yields: Float64Array;
	/** Which set it belongs to, as a number into `sets`. */
	readonly set: Uint16Array;
	readonly sets: readonly BondSetFacts[];
}

export interface BondSetFacts {
	readonly id: string;
	/** Share of the strength that is left at a frame. */
	readonly left: (frame: number) => number;
	/** Whether `left` is ever below 1. */
	readonly fades: boolean;
	/** Pieces up to this size crumble once they have come off, metres, and so many seconds after. */
	readonly dust: number;
	readonly dustAfter: number;
}
