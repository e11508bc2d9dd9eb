import type { Described } from "../shot";

/** A kind of joint. Its axes: it turns about and slides along x. */
export interface ConnectorKind extends Described {
	readonly id: string;
	readonly help: string;
	/** Whether its two ends may be apart. */
	readonly hasLength: boolean;
	/** Whether it carries moments. */
	readonly stiffInTurn: boolean;
}

/** One joint between two bodies, as the simulation takes it. */
export interface Joint {
	/** The connector of the shot that it comes from. */
	readonly connector: string;
	readonly kind: string;
	/** Bodies; b is −1 for the world. */
	readonly a: number;
	readonly b: number;
	/** World at the first frame: where it holds a and b, metres, and its axes. */
	readonly from: readonly [number, number, number];
	readonly to: readonly [number, number, number];
	readonly turn: readonly [number, number, number, number];
	readonly options: JointOptions;
}

/** What the options of connectors say; what a kind does not have is absent. */
export interface JointOptions {
	readonly between: "two" | "chain" | "nearest" | "neighbours" | "world";
	readonly on?: string;
	readonly collide: "no" | "yes";
	readonly breaks: "never" | "load";
	/** N and N m */
	readonly force: number;
	readonly moment?: number;
	readonly limits?: "none" | "between" | "cone";
	/** Half of a pin's cone, degrees. */
	readonly cone?: number;
	/** Degrees or metres. */
	readonly least?: number;
	readonly most?: number;
	readonly motor?: "none" | "speed" | "place";
	/** °/s or m/s */
	readonly speed?: number;
	/** Degrees or metres. */
	readonly place?: number;
	/** N m or N. */
	readonly power?: number;
	/** N/m, N s/m */
	readonly stiffness?: number;
	readonly damping?: number;
	readonly acts?: "along" | "axes";
	/** Shares of the stiffness along x, height and z. */
	readonly shareX?: number;
	readonly shareY?: number;
	readonly shareZ?: number;
	/** N m/rad, N m s/rad */
	readonly turning?: number;
	readonly turnDamping?: number;
	/** Shares of these about x, height and z. */
	readonly turnX?: number;
	readonly turnY?: number;
	readonly turnZ?: number;
	readonly rest?: "placed" | "given";
	/** metres */
	readonly length?: number;
}
