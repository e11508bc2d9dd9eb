import { type Id, setKeys, setNumberKey, tickOfFrame } from "@rubble/core/shot";
import { Diamond as DiamondShape } from "lucide-react";
import { useWorkbench } from "~/workbench/store/store";

/** Beside a number that can be keyed: sets a key at the frame on show, or takes it away. `name`: see `ObjectKeys.numbers`. */
export function KeyDiamond({ id, name, label, value }: { id: Id; name: string; label: string; value: number }) {
	const { shot, frame, perform } = useWorkbench();
	const tick = tickOfFrame(shot.settings, frame);
	const keys = shot.objects[id]!.keys.numbers?.[name] ?? [];
	const here = keys.some((key) => key.tick === tick);
	const rest = keys.filter((key) => key.tick !== tick);
	return (
		<Diamond
			here={here}
			count={keys.length}
			label={label}
			onPress={() => perform(here ? setKeys(id, `numbers.${name}`, rest) : setNumberKey(id, name, tick, value))}
		/>
	);
}

/** Filled where there is a key at the frame on show; coloured where there are any. */
export function Diamond({ here, count, label, onPress }: { here: boolean; count: number; label: string; onPress: () => void }) {
	return (
		<button
			type="button"
			className={`button px-2! ${here ? "border-dusk! text-dusk!" : count > 0 ? "text-dusk!" : "text-slate!"}`}
			aria-pressed={here}
			aria-label={here ? `Remove the key of ${label} at this frame` : `Key ${label} at this frame`}
			title={count > 0 ? `${count} ${count === 1 ? "key" : "keys"}` : `Key ${label} at this frame`}
			onClick={onPress}
		>
			<DiamondShape size={13} fill={here ? "currentColor" : "none"} />
		</button>
	);
}
