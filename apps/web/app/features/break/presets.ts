import type { BreakPreset } from "@rubble/core/shot";
import { useCallback, useEffect, useState } from "react";
import { toast } from "sonner";
import type { StoredPreset } from "~/data/presets.server";
import { fetchBytes, send } from "~/workers/network";

const ADDRESS = "/api/presets";

export async function keepPreset(preset: BreakPreset): Promise<boolean> {
	try {
		await send(ADDRESS, "POST", JSON.stringify(preset), "application/json");
		toast.success(`“${preset.name}” is kept. It stands above the other ways to break.`);
		return true;
	} catch (error) {
		toast.error(`The preset was not kept: ${(error as Error).message}`);
		return false;
	}
}

/** Breaks that were kept, and how to take one away. */
export function usePresets(): { readonly presets: readonly StoredPreset[]; readonly remove: (id: string) => void } {
	const [presets, setPresets] = useState<readonly StoredPreset[]>([]);
	const load = useCallback(async () => {
		try {
			setPresets(JSON.parse(new TextDecoder().decode(await fetchBytes(ADDRESS))));
		} catch (error) {
			toast.error(`Presets cannot be shown: ${(error as Error).message}`);
		}
	}, []);
	useEffect(() => void load(), [load]);
	const remove = (id: string) => void send(`${ADDRESS}?id=${encodeURIComponent(id)}`, "DELETE", "", "application/json").then(load);
	return { presets, remove };
}
