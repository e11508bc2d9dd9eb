import { type Id, setKeys, setNumberKey, tickOfFrame } from "@rubble/core/shot";
import { Diamond } from "lucide-react";
import { useWorkbench } from "~/workbench/store/store";

/** Beside a number that can be keyed: sets a key at the frame on show, or takes it away. `name`: see `ObjectKeys.numbers`. */
export function KeyDiamond({ id, name, label, value }: { id: Id; name: string; label: string; value: number }) {
	const { shot, frame, perform } = useWorkbench();
	const tick = tickOfFrame(shot.settings, frame);
	const keys = shot.objects[id]!.keys.numbers?.[name] ?? [];
	const here = keys.some((key) => key.tick === tick);
	const rest = keys.filter((key) => key.tick !== tick);
	return (
		<button
			type="button"
			className={`button px-2! ${here ? "border-dusk! text-dusk!" : keys.length > 0 ? "text-dusk!" : "text-slate!"}`}
			aria-pressed={here}
			aria-label={here ? `Remove the key of ${label} at this frame` : `Key ${label} at this frame`}
			title={keys.length > 0 ? `${keys.length} ${keys.length === 1 ? "key" : "keys"}` : `Key ${label} at this frame`}
			onClick={() => perform(here ? setKeys(id, `numbers.${name}`, rest) : setNumberKey(id, name, tick, value))}
		>
			<Diamond size={13} fill={here ? "currentColor" : "none"} />
		</button>
	);
}
