import { formatQuantity, type Id, isBodiless, renameObject, setFlags } from "@rubble/core/shot";
import { useVirtualizer } from "@tanstack/react-virtual";
import { ChevronDown, ChevronRight, Eye, EyeOff, Lock, LockOpen, Search, Table2, X } from "lucide-react";
import { useEffect, useMemo, useRef, useState } from "react";
import { Hint } from "~/controls/Hint";
import { KindGlyph } from "~/controls/KindGlyph";
import { useDraft } from "~/controls/useDraft";
import { currentObject } from "../store/selectors";
import { useWorkbench } from "../store/store";
import { filterBodies, type LedgerRow, ledgerRows } from "./rows";

const ROW = 27;

/** The table of objects and pieces. Type a rule to filter; the rows that fit can be selected together. */
export function Ledger() {
	const { shot, bodies, selection, select, table } = useWorkbench();
	const [rule, setRule] = useState("");
	const [open, setOpen] = useState<ReadonlySet<Id>>(new Set());
	const filtered = useMemo(() => filterBodies(shot, bodies, rule), [shot, bodies, rule]);
	const active = rule.trim() !== "" && filtered.problem === "";
	const rows = useMemo(() => ledgerRows(shot, bodies, open, active ? filtered.bodies : undefined), [shot, bodies, open, filtered, active]);
	const chosen = useMemo(() => new Set(selection), [selection]);
	const list = useRef<HTMLDivElement>(null);
	const virtual = useVirtualizer({ count: rows.length, getScrollElement: () => list.current, estimateSize: () => ROW, overscan: 12 });
	const anchor = useRef<string | null>(null);
	const current = currentObject({ shot, selection });

	useEffect(() => {
		const at = rows.findIndex((row) => row.id === selection[selection.length - 1]);
		if (at >= 0) virtual.scrollToIndex(at, { align: "auto" });
	}, [selection, rows, virtual]);

	const selectFitting = () => select(filtered.bodies.map((body) => body.id));
	const toggle = (id: Id) => setOpen((before) => toggled(before, id));
	const pick = (row: LedgerRow, event: React.MouseEvent) => {
		if (event.shiftKey && selection.length > 0) {
			// From the row that was pressed last, or what was picked otherwise: a thing that was just added.
			const from = anchor.current !== null && chosen.has(anchor.current) ? anchor.current : selection.at(-1);
			const a = rows.findIndex((other) => other.id === from);
			const b = rows.indexOf(row);
			if (a >= 0) select(rows.slice(Math.min(a, b), Math.max(a, b) + 1).map((other) => other.id));
			return;
		}
		anchor.current = row.id;
		if (event.ctrlKey || event.metaKey) select(chosen.has(row.id) ? selection.filter((id) => id !== row.id) : [...selection, row.id]);
		else select([row.id]);
	};
	const onKeyDown = (event: React.KeyboardEvent) => {
		const at = rows.findIndex((row) => row.id === selection[selection.length - 1]);
		const row = rows[at];
		if (event.key === "ArrowDown" || event.key === "ArrowUp") {
			event.preventDefault();
			event.stopPropagation();
			const next = rows[Math.min(rows.length - 1, Math.max(0, at + (event.key === "ArrowDown" ? 1 : -1)))];
			if (next) select(event.shiftKey ? [...selection.filter((id) => id !== next.id), next.id] : [next.id]);
		} else if (
			row?.kind === "object" &&
			row.pieces > 0 &&
			((event.key === "ArrowRight" && !row.open) || (event.key === "ArrowLeft" && row.open))
		) {
			event.stopPropagation();
			toggle(row.id);
		}
	};

	return (
		<section aria-label="Ledger" className="flex min-h-0 flex-1 flex-col">
			<div className="p-2.5 pb-1.5">
				<div className="field gap-2 font-sans!">
					<Search size={14} className="shrink-0 text-slate" aria-hidden />
					<input
						aria-label="Find, or filter by a rule"
						placeholder="Find, or a rule: volume < 20 dm³"
						value={rule}
						onChange={(event) => setRule(event.target.value)}
						onKeyDown={(event) => {
							if (event.key === "Enter" && active && filtered.bodies.length > 0) {
								selectFitting();
								list.current?.focus();
							} else if (event.key === "Escape") setRule("");
						}}
					/>
					{rule && (
						<button type="button" aria-label="Clear the filter" onClick={() => setRule("")}>
							<X size={14} />
						</button>
					)}
				</div>
				{filtered.problem && (
					<p className="mt-1 text-xs text-rust" role="alert">
						{filtered.problem}
					</p>
				)}
				{active && (
					<p className="mt-1 flex justify-between text-xs text-slate">
						<span className="number">
							{filtered.bodies.length.toLocaleString("en")} of {bodies.length.toLocaleString("en")} fit
						</span>
						<button
							type="button"
							className="link-action"
							disabled={filtered.bodies.length === 0}
							title="Enter in the field does it too"
							onClick={selectFitting}
						>
							Select them
						</button>
					</p>
				)}
			</div>
			<div className="flex border-b border-line px-3 pb-1 text-xs text-slate">
				<span className="flex-1 pl-5">Name</span>
				<span>Mass</span>
				<button
					type="button"
					className="-my-0.5 ml-2 hover:text-ink"
					aria-label="Wide ledger"
					aria-pressed={table}
					title="All columns, to sort and edit (W)"
					onClick={() => useWorkbench.setState({ table: !table })}
				>
					<Table2 size={14} />
				</button>
			</div>
			<div
				ref={list}
				role="tree"
				aria-label="Objects and pieces"
				aria-multiselectable
				tabIndex={0}
				onKeyDown={onKeyDown}
				className="min-h-0 flex-1 overflow-auto focus-visible:outline-offset-[-2px]"
			>
				<div className="relative" style={{ height: virtual.getTotalSize() }}>
					{virtual.getVirtualItems().map((item) => {
						const row = rows[item.index]!;
						return (
							<Row
								key={row.id}
								row={row}
								top={item.start}
								selected={chosen.has(row.id)}
								current={row.kind === "object" && row.id === current}
								onPick={(event) => pick(row, event)}
								onToggle={() => toggle(row.id)}
							/>
						);
					})}
				</div>
				{rows.length === 0 && (
					<p className="p-4 text-slate">
						{active ? "Nothing fits this rule." : "Nothing here yet. Add a shape on the right, or drop a mesh file on the view."}
					</p>
				)}
			</div>
		</section>
	);
}

function toggled(set: ReadonlySet<Id>, id: Id): ReadonlySet<Id> {
	const next = new Set(set);
	if (!next.delete(id)) next.add(id);
	return next;
}

interface RowProps {
	readonly row: LedgerRow;
	readonly top: number;
	readonly selected: boolean;
	readonly current: boolean;
	readonly onPick: (event: React.MouseEvent) => void;
	readonly onToggle: () => void;
}

function Row({ row, top, selected, current, onPick, onToggle }: RowProps) {
	const { shot, perform, set } = useWorkbench();
	const renaming = useWorkbench((state) => state.renaming === row.id);
	const draft = useDraft(row.name, (name) => {
		if (name.trim() !== "") perform(renameObject(row.id, name));
	});
	const item = row.kind === "object" ? shot.objects[row.id] : undefined;
	const kind = row.kind === "object" ? row.bodyKind : row.body.settings.kind;
	const massless = row.kind === "object" ? row.body?.endless : row.body.endless;
	return (
		<div
			role="treeitem"
			tabIndex={-1}
			aria-level={row.kind === "object" ? row.depth + 1 : 2}
			aria-selected={selected}
			aria-expanded={row.kind === "object" && row.pieces > 0 ? row.open : undefined}
			onClick={onPick}
			onKeyDown={() => undefined}
			onDoubleClick={() => row.kind === "object" && set({ renaming: row.id })}
			className={`group absolute inset-x-0 flex cursor-default items-center gap-1.5 border-l-2 pr-3 pl-2 ${selected ? "border-kelp bg-kelp-wash" : current ? "border-kelp" : "border-transparent hover:bg-limestone"} ${item?.hidden ? "text-slate italic" : ""}`}
			style={{ height: ROW, top, ...(row.kind === "object" && row.depth > 0 && { paddingLeft: 8 + 14 * row.depth }) }}
		>
			{row.kind === "object" && row.pieces > 0 ? (
				<button
					type="button"
					tabIndex={-1}
					aria-label={row.open ? `Fold ${row.name}` : `Open ${row.name}`}
					onClick={(event) => {
						event.stopPropagation();
						onToggle();
					}}
				>
					{row.open ? <ChevronDown size={14} /> : <ChevronRight size={14} />}
				</button>
			) : (
				<span className={row.kind === "piece" ? "w-7" : "w-3.5"} />
			)}
			{renaming && item ? (
				<input
					// biome-ignore lint/a11y/noAutofocus: the field appears because it was asked for
					autoFocus
					className="min-w-0 flex-1 rounded border border-kelp bg-field px-1"
					aria-label="New name"
					{...draft}
					onFocus={(event) => event.target.select()}
					onBlur={() => {
						draft.onBlur();
						set({ renaming: null });
					}}
					onKeyDown={(event) => {
						event.stopPropagation();
						draft.onKeyDown(event);
					}}
				/>
			) : (
				<span className="flex min-w-0 flex-1 items-baseline gap-1.5">
					<span className={`truncate ${row.kind === "object" ? "font-medium" : "number text-slate"}`}>{row.name}</span>
					{row.kind === "object" && row.pieces > 0 && <span className="number text-xs text-slate">{row.pieces.toLocaleString("en")}</span>}
				</span>
			)}
			{item && (
				<span className={`gap-1 ${item.hidden || item.locked || selected ? "flex" : "hidden group-focus-within:flex group-hover:flex"}`}>
					<FlagButton
						on={item.hidden}
						onLabel={`Show ${row.name}`}
						offLabel={`Hide ${row.name}`}
						onIcon={<EyeOff size={13} />}
						offIcon={<Eye size={13} />}
						onClick={() => perform(setFlags([row.id], { hidden: !item.hidden }))}
					/>
					<FlagButton
						on={item.locked}
						onLabel={`Unlock ${row.name}`}
						offLabel={`Lock ${row.name}`}
						onIcon={<Lock size={13} />}
						offIcon={<LockOpen size={13} />}
						onClick={() => perform(setFlags([row.id], { locked: !item.locked }))}
					/>
				</span>
			)}
			<span className="flex w-4 justify-center">
				{kind === "mixed" ? <span className="text-slate">±</span> : <KindGlyph kind={kind} label={kind === "none" ? "no body" : kind} />}
			</span>
			<span className="number w-15 shrink-0 text-right text-slate">
				{item && isBodiless(item)
					? item.source.kind
					: massless
						? "∞"
						: kind === "animated"
							? "animated"
							: kind === "passive"
								? "passive"
								: formatQuantity(row.kind === "object" ? row.mass : row.body.mass, "mass")}
			</span>
		</div>
	);
}

function FlagButton({
	on,
	onLabel,
	offLabel,
	onIcon,
	offIcon,
	onClick,
}: {
	on: boolean;
	onLabel: string;
	offLabel: string;
	onIcon: React.ReactNode;
	offIcon: React.ReactNode;
	onClick: () => void;
}) {
	const label = on ? onLabel : offLabel;
	return (
		<Hint text={label} side="top">
			<button
				type="button"
				tabIndex={-1}
				aria-label={label}
				className="text-slate hover:text-ink"
				onClick={(event) => {
					event.stopPropagation();
					onClick();
				}}
			>
				{on ? onIcon : offIcon}
			</button>
		</Hint>
	);
}
