import type { BodyKind } from "@rubble/core/shot";
import { ArrowDown, Minus, Waves } from "lucide-react";

export const KIND_LABELS: Record<BodyKind, string> = { none: "None", active: "Active", passive: "Passive", animated: "Animated" };

/** Kinds are told by glyph and word: a falling arrow, a ground bar, a wave. */
export function KindGlyph({ kind, size = 15 }: { kind: BodyKind; size?: number }) {
	if (kind === "active") return <ArrowDown size={size} strokeWidth={2.6} className="text-kelp" aria-label="active" />;
	if (kind === "passive") return <Minus size={size} strokeWidth={4} className="text-slate" aria-label="passive" />;
	if (kind === "animated") return <Waves size={size} strokeWidth={2.2} className="text-dusk" aria-label="animated" />;
	return (
		<span className="text-slate" role="img" aria-label="no body">
			·
		</span>
	);
}
