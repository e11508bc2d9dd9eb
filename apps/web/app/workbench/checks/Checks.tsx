import { tryFix } from "../store/session";
import { useWorkbench } from "../store/store";

const DOT = { error: "bg-rust", warning: "bg-ochre", note: "bg-sea" } as const;

/** What is wrong with the set-up or the last run, why, and how to mend it. Always in sight. */
export function Checks() {
	const { findings, problems, shot, take, run: running, select, performEdit } = useWorkbench();
	const count = findings.length + problems.length;
	return (
		<section aria-label="Checks" className="flex max-h-[42%] flex-col border-t border-line">
			<header className="flex justify-between px-3 pt-2.5 pb-1">
				<h2 className="font-semibold" id="checks" tabIndex={-1}>
					Checks
				</h2>
				<span className="number text-slate">{count}</span>
			</header>
			<ul className="min-h-0 overflow-auto px-3 pb-2.5">
				{problems.map(({ object, message }) => (
					<li key={`${object} ${message}`} className="flex gap-2 py-1">
						<Dot level="error" />
						<button type="button" className="text-left hover:underline" onClick={() => select([object])}>
							{message}
						</button>
					</li>
				))}
				{findings.map((finding) => (
					<li key={`${finding.check} ${finding.message}`} className="flex gap-2 py-1">
						<Dot level={finding.level} />
						<span>
							<button type="button" className="text-left hover:underline" onClick={() => select(finding.about.slice(0, 500))}>
								{finding.message}
							</button>{" "}
							{finding.fixes.map((fix) => (
								<span key={fix.label} className="mr-1.5 whitespace-nowrap">
									<button type="button" className="link-action" onClick={() => performEdit(fix.edit)}>
										{fix.label}
									</button>
									{take && !running && (
										<button
											type="button"
											className="ml-1 rounded px-1 text-xs text-slate underline hover:text-ink"
											aria-label={`Try: ${fix.label}`}
											title="Runs it as a take of its own and shows both; the shot stays as it is"
											onClick={() => void tryFix(fix.label, fix.edit)}
										>
											try
										</button>
									)}
								</span>
							))}
						</span>
					</li>
				))}
				{count === 0 && (
					<li className="py-1 text-slate">{Object.keys(shot.objects).length === 0 ? "Nothing to check yet." : "Nothing wrong found."}</li>
				)}
			</ul>
		</section>
	);
}

function Dot({ level }: { level: keyof typeof DOT }) {
	return <span role="img" aria-label={level} className={`mt-1.5 size-2 shrink-0 rounded-full ${DOT[level]}`} />;
}
