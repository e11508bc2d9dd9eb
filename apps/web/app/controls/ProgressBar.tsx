/** How far something is, 0 to 1. */
export function ProgressBar({ label, fraction, failed = false }: { label: string; fraction: number; failed?: boolean }) {
	return (
		<div
			className="h-1.5 overflow-hidden rounded-full bg-line"
			role="progressbar"
			aria-label={label}
			aria-valuenow={Math.round(fraction * 100)}
		>
			<div className={`h-full ${failed ? "bg-rust" : "bg-kelp"}`} style={{ width: `${fraction * 100}%` }} />
		</div>
	);
}
