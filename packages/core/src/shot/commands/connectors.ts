import type { Draft } from "immer";
import type { Command } from "../edit";
import type { Connector, Id, OptionValue } from "../types";

export const addConnector = (id: Id, connector: Connector): Command => ({
	name: `Connect ${connector.name}`,
	apply: (shot) => {
		shot.connectors[id] = connector as Draft<Connector>;
	},
});

/** A connector of a kind to the world at its origin, with nothing set; what is given holds instead. */
export const connectorOf = (kind: string, given: Partial<Connector> = {}): Connector => ({
	name: kind,
	connector: kind,
	options: {},
	a: "",
	b: "",
	from: [0, 0, 0],
	to: [0, 0, 0],
	turn: [0, 0, 0, 1],
	hidden: false,
	...given,
});

export const removeConnectors = (ids: readonly Id[]): Command => ({
	name: ids.length === 1 ? "Remove connector" : "Remove connectors",
	apply: (shot) => {
		for (const id of ids) delete shot.connectors[id];
	},
});

export const changeConnector = (id: Id, change: Partial<Omit<Connector, "options">>): Command => ({
	name: "Change connector",
	apply: (shot) => {
		const connector = shot.connectors[id];
		if (connector) Object.assign(connector, change);
	},
});

export const setConnectorOption = (ids: readonly Id[], option: string, value: OptionValue): Command => ({
	name: `Set ${option}`,
	apply: (shot) => {
		for (const id of ids) {
			const connector = shot.connectors[id];
			if (connector) connector.options[option] = value as Draft<OptionValue>;
		}
	},
});
