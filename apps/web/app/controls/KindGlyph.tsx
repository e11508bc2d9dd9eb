import type { BodyKind } from "@rubble/core/shot";
import { ArrowDown, Minus, Waves } from "lucide-react";

export const KIND_LABELS: Record<BodyKind, string> = { none: "None", active: "Active", passive: "Passive", animated: "Animated" };

/** Kinds are told by glyph and word: a falling arrow, a ground bar, a wave. `label` is for where the word is missing. */
export function KindGlyph({ kind, size = 15, label }: { kind: BodyKind; size?: number; label?: string }) {
	const name = label ? ({ role: "img", "aria-label": label } as const) : ({ "aria-hidden": true } as const);
	if (kind === "active") return <ArrowDown size={size} strokeWidth={2.6} className="text-kelp" {...name} />;
	if (kind === "passive") return <Minus size={size} strokeWidth={4} className="text-slate" {...name} />;
	if (kind === "animated") return <Waves size={size} strokeWidth={2.2} className="text-dusk" {...name} />;
	return (
		<span className="text-slate" {...name}>
			·
		</span>
	);
}
