import { BETWEEN, COMMON, CONE, LENGTH, MOMENT, SPRING, travel } from "./specs";
import type { ConnectorKind } from "./types";

/** All kinds of connectors, in the order of the bench. A new one is an entry here, and what it does in `simulation/joints/`. */
export const CONNECTORS: readonly ConnectorKind[] = [
	{
		id: "fixed",
		label: "Fixed",
		help: "Holds two bodies as if they were one",
		hasLength: false,
		stiffInTurn: true,
		options: { ...BETWEEN, ...COMMON, ...MOMENT },
	},
	{
		id: "pin",
		label: "Pin",
		help: "A ball joint: holds a point, turns freely",
		hasLength: false,
		stiffInTurn: false,
		options: { ...BETWEEN, ...CONE, ...COMMON },
	},
	{
		id: "hinge",
		label: "Hinge",
		help: "Turns about its axis only, between stops or driven where wanted",
		hasLength: false,
		stiffInTurn: true,
		options: { ...BETWEEN, ...travel("°"), ...COMMON, ...MOMENT },
	},
	{
		id: "slider",
		label: "Slider",
		help: "Slides along its axis only, between stops or driven where wanted",
		hasLength: false,
		stiffInTurn: true,
		options: { ...BETWEEN, ...travel("m"), ...COMMON, ...MOMENT },
	},
	{
		id: "spring",
		label: "Spring",
		help: "Pulls and pushes towards its rest length",
		hasLength: true,
		stiffInTurn: false,
		options: { ...BETWEEN, ...SPRING, ...LENGTH, ...COMMON },
	},
	{
		id: "rope",
		label: "Rope",
		help: "Holds two points no further apart than its length",
		hasLength: true,
		stiffInTurn: false,
		options: { ...BETWEEN, ...LENGTH, ...COMMON },
	},
];

export const connectorById = (id: string): ConnectorKind | undefined => CONNECTORS.find((kind) => kind.id === id);
