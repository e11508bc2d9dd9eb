import { type ColumnDef, getCoreRowModel, getSortedRowModel, type SortingState, useReactTable } from "@tanstack/react-table";
import { useVirtualizer } from "@tanstack/react-virtual";
import { ArrowDown, ArrowUp } from "lucide-react";
import { useEffect, useRef, useState } from "react";

const ROW = 25; // pixels

interface DataTableProps<Row> {
	readonly rows: readonly Row[];
	/** The first column stands to the left, the others are numbers. */
	// biome-ignore lint/suspicious/noExplicitAny: each column has its own type of value
	readonly columns: ColumnDef<Row, any>[];
	/** A CSS grid template, one track per column. */
	readonly template: string;
	/** Where there is less room, pixels, it scrolls sidewards. */
	readonly leastWidth?: number;
	readonly sortedBy: string;
	readonly idOf: (row: Row) => string;
	readonly isChosen: (row: Row) => boolean;
	/**
	 * One row, alone or (Ctrl) with what is chosen already; or, with Shift, all from the row that was pressed last, in the
	 * order in which they are shown.
	 */
	readonly onChoose: (rows: readonly Row[], more: boolean) => void;
	/** Gets the rows in the order in which they are shown. */
	readonly shown?: React.RefObject<readonly Row[]>;
}

/** Thousands of rows, sorted by a click on a column. Only those in sight are in the page. */
export function DataTable<Row>({
	rows: data,
	columns,
	template,
	leastWidth,
	sortedBy,
	idOf,
	isChosen,
	onChoose,
	shown,
}: DataTableProps<Row>) {
	const [sorting, setSorting] = useState<SortingState>([{ id: sortedBy, desc: true }]);
	const table = useReactTable({
		data: data as Row[],
		columns,
		state: { sorting },
		onSortingChange: setSorting,
		getCoreRowModel: getCoreRowModel(),
		getSortedRowModel: getSortedRowModel(),
	});
	const { rows } = table.getRowModel();
	useEffect(() => {
		if (shown) shown.current = rows.map(({ original }) => original);
	}, [rows, shown]);
	/** The row that was pressed last. */
	const anchor = useRef("");
	const choose = (index: number, more: boolean, range: boolean) => {
		const from = range ? rows.findIndex(({ original }) => idOf(original) === anchor.current) : -1;
		if (from >= 0) {
			onChoose(
				rows.slice(Math.min(from, index), Math.max(from, index) + 1).map(({ original }) => original),
				false,
			);
			return;
		}
		anchor.current = idOf(rows[index]!.original);
		onChoose([rows[index]!.original], more);
	};
	const list = useRef<HTMLDivElement>(null);
	const virtual = useVirtualizer({ count: rows.length, getScrollElement: () => list.current, estimateSize: () => ROW, overscan: 10 });
	const style = { gridTemplateColumns: template };
	return (
		<div className="min-h-0 flex-1 overflow-x-auto overflow-y-hidden">
			<div role="table" aria-rowcount={rows.length} className="flex h-full flex-col" style={{ minWidth: leastWidth }}>
				<div role="row" tabIndex={-1} className="grid items-center border-b border-line px-3 py-1 text-xs text-slate" style={style}>
					{table.getFlatHeaders().map((header, i) => {
						const sorted = header.column.getIsSorted();
						return (
							<div
								key={header.id}
								role="columnheader"
								tabIndex={-1}
								aria-sort={sorted === "asc" ? "ascending" : sorted === "desc" ? "descending" : "none"}
								className={i === 0 ? "" : "flex justify-end"}
							>
								<button
									type="button"
									className="flex items-center gap-0.5 hover:text-ink"
									onClick={header.column.getToggleSortingHandler()}
								>
									{String(header.column.columnDef.header)}
									{sorted === "asc" && <ArrowUp size={11} />}
									{sorted === "desc" && <ArrowDown size={11} />}
								</button>
							</div>
						);
					})}
				</div>
				<div ref={list} className="min-h-0 flex-1 overflow-auto">
					<div className="relative" style={{ height: virtual.getTotalSize() }}>
						{virtual.getVirtualItems().map(({ index, start }) => {
							const row = rows[index]!;
							const chosen = isChosen(row.original);
							return (
								<div
									key={idOf(row.original)}
									role="row"
									tabIndex={-1}
									aria-selected={chosen}
									className={`absolute inset-x-0 grid cursor-default items-center px-3 ${chosen ? "bg-kelp-wash" : "hover:bg-limestone"}`}
									style={{ ...style, height: ROW, top: start }}
									onClick={(event) => choose(index, event.ctrlKey || event.metaKey, event.shiftKey)}
									onKeyDown={(event) => event.key === "Enter" && choose(index, false, false)}
								>
									{row.getVisibleCells().map((cell, i) => (
										<div key={cell.id} role="cell" className={`number truncate ${i === 0 ? "" : "text-right text-slate"}`}>
											{(cell.column.columnDef.cell as (context: unknown) => React.ReactNode)(cell.getContext())}
										</div>
									))}
								</div>
							);
						})}
					</div>
				</div>
			</div>
		</div>
	);
}
