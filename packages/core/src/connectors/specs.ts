import type { OptionSpec, OptionValues } from "../shot";

const number = (
	label: string,
	unit: string,
	fallback: number,
	help: string,
	more: { least?: number; most?: number; when?: (options: OptionValues) => boolean } = {},
): OptionSpec => ({
	kind: "number",
	label,
	unit,
	default: fallback,
	least: more.least ?? 0,
	most: more.most ?? 1e9,
	help,
	...(more.when && { when: more.when }),
});

export const BETWEEN: Readonly<Record<string, OptionSpec>> = {
	between: {
		kind: "choice",
		label: "Joins",
		default: "two",
		choices: [
			{ id: "two", label: "Two", help: "One body to another, or to the world" },
			{ id: "chain", label: "Chain", help: "Each body to the next, in their order; ends to the two named ones" },
			{ id: "nearest", label: "Nearest", help: "Each body to the one nearest to it" },
			{ id: "neighbours", label: "Neighbours", help: "Each body to all that lie beside it" },
			{ id: "world", label: "World", help: "Each body to where it stands" },
		],
		help: "Which bodies it joins",
	},
	on: {
		kind: "rule",
		label: "Bodies",
		help: "Which bodies, such as: Chain/*",
		when: ({ between }) => between !== "two",
	},
};

export const COMMON: Readonly<Record<string, OptionSpec>> = {
	collide: {
		kind: "choice",
		label: "Collide",
		default: "no",
		choices: [
			{ id: "no", label: "Not with each other", help: "The two bodies pass through each other" },
			{ id: "yes", label: "Yes", help: "The two bodies touch as all others do" },
		],
		help: "Whether the two bodies push each other",
	},
	breaks: {
		kind: "choice",
		label: "Breaks",
		default: "never",
		choices: [
			{ id: "never", label: "Never", help: "Holds whatever comes" },
			{ id: "load", label: "At a load", help: "Lets go when it has to bear more" },
		],
		help: "Whether it can break",
	},
	force: number("Force", "N", 10_000, "It breaks when it has to bear more", { when: ({ breaks }) => breaks === "load" }),
};
export const MOMENT: Readonly<Record<string, OptionSpec>> = {
	moment: number("Moment", "N m", 10_000, "It breaks when it is twisted or bent more", { when: ({ breaks }) => breaks === "load" }),
};

const limited = ({ limits }: OptionValues) => limits === "between";
const drives = (what: string) => (options: OptionValues) => options.motor === what;

/** Limits and motor of what turns (degrees) or slides (metres). */
export const travel = (unit: "°" | "m"): Readonly<Record<string, OptionSpec>> => {
	const [far, force] = unit === "°" ? [360, "N m"] : [1000, "N"];
	return {
		limits: {
			kind: "choice",
			label: "Travel",
			default: "none",
			choices: [
				{ id: "none", label: "Free", help: "As far as it likes" },
				{ id: "between", label: "Limited", help: "Between two stops" },
			],
			help: "How far the first body goes from where it is placed, along or about the x axis",
		},
		least: number("From", unit, unit === "°" ? -45 : -0.5, "The stop on one side", { least: -far, most: far, when: limited }),
		most: number("To", unit, unit === "°" ? 45 : 0.5, "The stop on the other side", { least: -far, most: far, when: limited }),
		motor: {
			kind: "choice",
			label: "Motor",
			default: "none",
			choices: [
				{ id: "none", label: "None", help: "It is not driven" },
				{ id: "speed", label: "Speed", help: "Driven at a speed" },
				{ id: "place", label: "Position", help: "Driven to a position" },
			],
			help: "Whether it is driven",
		},
		speed: number("Speed", `${unit}/s`, unit === "°" ? 90 : 0.5, "Of the first body, along or about the x axis", {
			least: -1e5,
			most: 1e5,
			when: drives("speed"),
		}),
		place: number("Position", unit, 0, "Of the first body, from where it is placed", { least: -far, most: far, when: drives("place") }),
		power: number("At most", force, 1000, "What the motor can do", { when: ({ motor }) => motor === "speed" || motor === "place" }),
	};
};

/** How far a pin swings. */
export const CONE: Readonly<Record<string, OptionSpec>> = {
	limits: {
		kind: "choice",
		label: "Swing",
		default: "none",
		choices: [
			{ id: "none", label: "Free", help: "To all sides, as far as it likes" },
			{ id: "cone", label: "In a cone", help: "Not farther than an angle from the connector's axis" },
		],
		help: "How far it swings from where it is placed; turning about the axis stays free",
	},
	cone: number("Up to", "°", 45, "Half of the cone's opening", { least: 0.1, most: 179, when: ({ limits }) => limits === "cone" }),
};

export const LENGTH: Readonly<Record<string, OptionSpec>> = {
	rest: {
		kind: "choice",
		label: "Length",
		default: "placed",
		choices: [
			{ id: "placed", label: "As placed", help: "The distance of its two ends at the first frame" },
			{ id: "given", label: "Given", help: "In metres" },
		],
		help: "How long it is at rest",
	},
	length: number("Rest length", "m", 1, "Between its two ends", { most: 10_000, when: ({ rest }) => rest === "given" }),
};

const byAxis = ({ acts }: OptionValues) => acts === "axes";
const twists = (options: OptionValues) => byAxis(options) && (Number(options.turning) > 0 || Number(options.turnDamping) > 0);
const share = (label: string, when: (options: OptionValues) => boolean = byAxis): OptionSpec => ({
	kind: "number",
	label,
	unit: "",
	percent: true,
	default: 1,
	least: 0,
	most: 100,
	help: "Share of the stiffness along this axis of the connector",
	when,
});

export const SPRING: Readonly<Record<string, OptionSpec>> = {
	stiffness: number("Stiffness", "N/m", 1000, "Force for each metre that it is stretched"),
	damping: number("Damping", "N s/m", 20, "Force against each metre a second"),
	acts: {
		kind: "choice",
		label: "Acts",
		default: "along",
		choices: [
			{ id: "along", label: "Along it", help: "From end to end, like a coil" },
			{ id: "axes", label: "By axis", help: "Holds in all directions, with a share for each of its axes" },
		],
		help: "In which directions it springs",
	},
	shareX: share("Along x"),
	shareY: share("Along height"),
	shareZ: share("Along z"),
	turning: number("Turn stiffness", "N m/rad", 0, "Moment for each radian that it is twisted", { when: byAxis }),
	turnDamping: number("Turn damping", "N m s/rad", 0, "Moment against each radian a second", { when: byAxis }),
	turnX: share("Turn about x", twists),
	turnY: share("Turn about height", twists),
	turnZ: share("Turn about z", twists),
};
