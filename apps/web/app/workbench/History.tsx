import { Dialog } from "radix-ui";
import { useEffect, useState } from "react";
import { listRevisions, lookAt, type Revision } from "./store/looking";
import { useWorkbench } from "./store/store";

/** Every step that the shot has been through; each can be looked at, and brought back. */
export function History({ open, onOpen }: { open: boolean; onOpen: (open: boolean) => void }) {
	const shotId = useWorkbench((state) => state.shotId);
	const [revisions, setRevisions] = useState<readonly Revision[]>();
	const [problem, setProblem] = useState("");
	useEffect(() => {
		if (!open) return;
		setProblem("");
		listRevisions(shotId).then(setRevisions, (error: Error) => setProblem(error.message));
	}, [open, shotId]);
	return (
		<Dialog.Root open={open} onOpenChange={onOpen}>
			<Dialog.Portal>
				<Dialog.Overlay className="fixed inset-0 z-40 bg-black/30" />
				<Dialog.Content className="fixed top-1/2 left-1/2 z-50 flex max-h-[80vh] w-120 -translate-x-1/2 -translate-y-1/2 flex-col rounded-md border border-line bg-chalk p-5">
					<Dialog.Title className="text-base font-semibold">What was done</Dialog.Title>
					<Dialog.Description className="mt-1 text-slate">
						Every step is kept. Look at the shot as it was after one; bringing it back is a step of its own.
					</Dialog.Description>
					{problem && <p className="mt-3 text-rust">{problem}</p>}
					{revisions?.length === 0 && <p className="mt-3 text-slate">Nothing has been changed yet.</p>}
					<ol className="mt-3 min-h-0 flex-1 overflow-auto" aria-label="Revisions">
						{revisions?.map(({ revision, name, way, at }, n) => (
							<li key={revision} className="flex items-center gap-3 border-t border-line py-1.5 first:border-t-0">
								<span className="number w-12 shrink-0 text-right text-xs text-slate">{revision}</span>
								<span className={`min-w-0 flex-1 truncate ${way === "do" ? "" : "text-slate"}`}>{name}</span>
								<time className="number shrink-0 text-xs text-slate" dateTime={at}>
									{new Date(at).toLocaleString("en", { month: "short", day: "numeric", hour: "2-digit", minute: "2-digit", hour12: false })}
								</time>
								{n === 0 ? (
									<span className="w-16 shrink-0 text-center text-xs text-slate">now</span>
								) : (
									<button
										type="button"
										className="button w-16 shrink-0"
										aria-label={`Look at revision ${revision}`}
										onClick={() => {
											onOpen(false);
											void lookAt({ revision, name, at });
										}}
									>
										Look
									</button>
								)}
							</li>
						))}
					</ol>
					<div className="mt-4 flex justify-end">
						<Dialog.Close className="button">Close</Dialog.Close>
					</div>
				</Dialog.Content>
			</Dialog.Portal>
		</Dialog.Root>
	);
}
