import { formatShotNumber, parseValues, type ShotNumber, shotNumbers, sweep } from "@rubble/core/takes";
import { Plus, X } from "lucide-react";
import { Dialog } from "radix-ui";
import { useId, useMemo, useState } from "react";
import { Link } from "react-router";
import { toast } from "sonner";
import { listTakes } from "~/workbench/store/session";
import { useWorkbench } from "~/workbench/store/store";
import { sendJson } from "~/workers/network";

interface Row {
	readonly label: string;
	readonly text: string;
}

/** One or two numbers over values; every combination becomes a take that workers run. */
export function SweepDialog({ open, onOpen }: { open: boolean; onOpen: (open: boolean) => void }) {
	const { shot, shotId } = useWorkbench();
	const numbers = useMemo(() => (open ? shotNumbers(shot) : []), [open, shot]);
	const [rows, setRows] = useState<readonly Row[]>([{ label: "", text: "" }]);
	const [busy, setBusy] = useState(false);
	const byLabel = new Map(numbers.map((number) => [number.label, number]));
	const read = rows.map(({ label, text }) => {
		const number = byLabel.get(label);
		return { number, values: number && text.trim() !== "" ? parseValues(text, number.factor) : undefined };
	});
	const wrong = read.map(({ values }) => (values && !values.ok ? values.problems[0]!.message : undefined)).find((message) => message);
	const axes = read.flatMap(({ number, values }) => (number && values?.ok ? [{ path: number.path, values: values.value }] : []));
	const complete = axes.length === rows.length;
	const made = complete ? sweep(shot, axes) : undefined;
	const problem = wrong ?? (made && !made.ok ? made.problems[0]!.message : undefined);
	const send = async () => {
		setBusy(true);
		try {
			const { jobs } = (await sendJson(`/api/shots/${shotId}/send`, "POST", { what: "sweep", shot, axes })) as { jobs: string[] };
			toast.success(`${jobs.length} takes wait for the workers.`, {
				action: { label: "Jobs", onClick: () => window.open("/jobs", "_blank") },
			});
			onOpen(false);
			await listTakes();
		} catch (error) {
			toast.error((error as Error).message, { duration: 9000 });
		} finally {
			setBusy(false);
		}
	};
	const change = (n: number, to: Partial<Row>) => setRows(rows.map((row, k) => (k === n ? { ...row, ...to } : row)));
	return (
		<Dialog.Root open={open} onOpenChange={onOpen}>
			<Dialog.Portal>
				<Dialog.Overlay className="fixed inset-0 z-40 bg-black/30" />
				<Dialog.Content className="fixed top-1/2 left-1/2 z-50 w-[560px] -translate-x-1/2 -translate-y-1/2 rounded-md border border-line bg-chalk p-5">
					<Dialog.Title className="text-base font-semibold">Sweep</Dialog.Title>
					<Dialog.Description className="mt-1 text-slate">
						A take for every value of a number, or of two against each other. The shot stays as it is.
					</Dialog.Description>
					<div className="mt-4 flex flex-col gap-3">
						{rows.map((row, n) => (
							<SweepRow
								key={n}
								row={row}
								numbers={numbers}
								number={read[n]!.number}
								onChange={(to) => change(n, to)}
								onRemove={rows.length > 1 ? () => setRows(rows.filter((_, k) => k !== n)) : undefined}
							/>
						))}
						{rows.length < 2 && (
							<button type="button" className="button self-start" onClick={() => setRows([...rows, { label: "", text: "" }])}>
								<Plus size={14} /> Against another number
							</button>
						)}
					</div>
					<p className={`mt-4 min-h-10 ${problem ? "text-rust" : "text-slate"}`} role="status">
						{problem ??
							(made?.ok
								? `${made.value.length} ${made.value.length === 1 ? "take" : "takes"}: ${made.value
										.slice(0, 3)
										.map(({ name }) => name)
										.join(", ")}${made.value.length > 3 ? ", …" : ""}`
								: "Values with commas (0.5, 1, 2), as a range (1..5), or evenly spaced (0.2..1 in 5).")}
					</p>
					<div className="mt-3 flex items-center gap-2">
						<Link to="/jobs" className="text-kelp underline">
							Jobs
						</Link>
						<span className="flex-1" />
						<Dialog.Close className="button">Cancel</Dialog.Close>
						<button
							type="button"
							className="button button-primary"
							disabled={!made?.ok || problem !== undefined || busy}
							onClick={() => void send()}
						>
							{made?.ok ? `Run ${made.value.length} ${made.value.length === 1 ? "take" : "takes"}` : "Run"}
						</button>
					</div>
				</Dialog.Content>
			</Dialog.Portal>
		</Dialog.Root>
	);
}

function SweepRow({
	row,
	numbers,
	number,
	onChange,
	onRemove,
}: {
	row: Row;
	numbers: readonly ShotNumber[];
	number: ShotNumber | undefined;
	onChange: (to: Partial<Row>) => void;
	onRemove: (() => void) | undefined;
}) {
	const list = useId();
	return (
		<div className="grid grid-cols-[1fr_1fr_auto] items-start gap-2">
			<div>
				<div className="field font-sans!">
					<input
						aria-label="Number to sweep"
						className="w-full bg-transparent"
						list={list}
						placeholder="Which number? Type to find it"
						value={row.label}
						onChange={(event) => onChange({ label: event.target.value })}
					/>
				</div>
				<datalist id={list}>
					{numbers.map(({ path, label }) => (
						<option key={path} value={label} />
					))}
				</datalist>
				<p className="number mt-0.5 truncate text-xs text-slate">
					{number ? `now ${formatShotNumber(number, number.value)}` : row.label !== "" ? "not a number of this shot" : " "}
				</p>
			</div>
			<div className="field">
				<input
					aria-label="Values"
					className="w-full bg-transparent"
					placeholder={number ? example(number) : "Values"}
					value={row.text}
					onChange={(event) => onChange({ text: event.target.value })}
				/>
				<span className="shrink-0 text-slate">{number?.unit}</span>
			</div>
			{onRemove ? (
				<button type="button" className="button px-2!" aria-label="Without this number" onClick={onRemove}>
					<X size={14} />
				</button>
			) : (
				<span />
			)}
		</div>
	);
}

/** Three values around the one it has. */
function example({ value, factor, whole, least, most }: ShotNumber): string {
	const around = whole ? [value, value + 1, value + 2] : [value / 2, value, value * 2];
	return around.map((v) => Number((Math.min(most, Math.max(least, v)) * factor).toPrecision(3))).join(", ");
}
