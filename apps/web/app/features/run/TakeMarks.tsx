import { Lock, Star } from "lucide-react";
import type { TakeCard } from "~/data/takes.server";

/** Behind the name of a take: whether it is the good one, and whether it is locked. */
export function TakeMarks({ take: { picked, locked } }: { take: Pick<TakeCard, "picked" | "locked"> }) {
	return (
		<>
			{picked && <Star size={12} fill="currentColor" className="shrink-0 text-kelp" aria-label="the good one" />}
			{locked && <Lock size={12} className="shrink-0 text-slate" aria-label="locked" />}
		</>
	);
}
