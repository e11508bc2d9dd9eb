/** A group of settings on the bench, parted from the next by a hairline. */
export function Section({ title, aside, children }: { title: string; aside?: React.ReactNode; children: React.ReactNode }) {
	return (
		<section className="border-b border-line px-3.5 py-3">
			<header className="mb-2 flex items-baseline justify-between gap-2">
				<h3 className="font-semibold">{title}</h3>
				{aside !== undefined && <span className="number truncate text-xs text-slate">{aside}</span>}
			</header>
			<div className="flex flex-col gap-1.5">{children}</div>
		</section>
	);
}

/** A computed number with its name. */
export function Fact({ label, value, tone }: { label: string; value: React.ReactNode; tone?: "warning" | "error" }) {
	const colour = tone === "error" ? "text-rust" : tone === "warning" ? "text-ochre" : "";
	return (
		<div className="flex justify-between gap-3">
			<span className="text-slate">{label}</span>
			<span className={`number text-right ${colour}`}>{value}</span>
		</div>
	);
}
