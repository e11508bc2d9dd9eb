import { type BodyRow, ruleFacts } from "@rubble/core/bodies";
import { formatQuantity } from "@rubble/core/shot";
import { createColumnHelper, getCoreRowModel, getSortedRowModel, type SortingState, useReactTable } from "@tanstack/react-table";
import { useVirtualizer } from "@tanstack/react-virtual";
import { ArrowDown, ArrowUp, X } from "lucide-react";
import { useMemo, useRef, useState } from "react";

import { useWorkbench } from "../store/store";
import { filterBodies } from "./rows";

const ROW = 25;

interface PieceRow {
	readonly body: BodyRow;
	readonly height: number;
}
const helper = createColumnHelper<PieceRow>();
const COLUMNS = [
	helper.accessor((row) => row.body.path, { id: "name", header: "Name", cell: ({ getValue }) => getValue() }),
	helper.accessor((row) => row.body.volume, {
		id: "volume",
		header: "Volume",
		cell: ({ getValue }) => formatQuantity(getValue(), "volume"),
	}),
	helper.accessor((row) => row.body.mass, { id: "mass", header: "Mass", cell: ({ getValue }) => formatQuantity(getValue(), "mass") }),
	helper.accessor((row) => row.body.area, { id: "area", header: "Surface", cell: ({ getValue }) => formatQuantity(getValue(), "area") }),
	helper.accessor((row) => row.body.size, { id: "size", header: "Size", cell: ({ getValue }) => formatQuantity(getValue(), "length") }),
	helper.accessor((row) => row.height, { id: "height", header: "Height", cell: ({ getValue }) => formatQuantity(getValue(), "length") }),
	helper.accessor((row) => row.body.neighbours, {
		id: "neighbours",
		header: "Touches",
		cell: ({ getValue }) => getValue().toLocaleString("en"),
	}),
	helper.accessor((row) => row.body.triangles, {
		id: "triangles",
		header: "Triangles",
		cell: ({ getValue }) => getValue().toLocaleString("en"),
	}),
];
const GRID =
	"grid grid-cols-[minmax(140px,1.5fr)_repeat(2,minmax(64px,1fr))_minmax(80px,1.2fr)_repeat(2,minmax(60px,1fr))_repeat(2,minmax(54px,0.8fr))] items-center px-3";

/** Every piece with its numbers, over the view: sorted by any column, filtered by a rule, picked by a click. */
export function PieceTable() {
	const { shot, bodies, selection, select, set, table: open } = useWorkbench();
	const [rule, setRule] = useState("");
	const [sorting, setSorting] = useState<SortingState>([{ id: "volume", desc: true }]);
	const filtered = useMemo(() => filterBodies(shot, bodies, rule), [shot, bodies, rule]);
	const data = useMemo(
		() =>
			filtered.bodies
				.filter((body) => body.piece >= 0 && shot.objects[body.object])
				.map((body): PieceRow => ({ body, height: ruleFacts(shot, body).columns.height! })),
		[filtered, shot],
	);
	const table = useReactTable({
		data,
		columns: COLUMNS,
		state: { sorting },
		onSortingChange: setSorting,
		getCoreRowModel: getCoreRowModel(),
		getSortedRowModel: getSortedRowModel(),
	});
	const { rows } = table.getRowModel();
	const list = useRef<HTMLDivElement>(null);
	const virtual = useVirtualizer({
		count: open ? rows.length : 0,
		getScrollElement: () => list.current,
		estimateSize: () => ROW,
		overscan: 10,
	});
	const chosen = useMemo(() => new Set(selection), [selection]);
	if (!open) return null;
	return (
		<section
			aria-label="Table of pieces"
			className="absolute inset-x-3 bottom-3 z-10 flex h-72 flex-col rounded-md border border-line bg-chalk"
		>
			<header className="flex items-center gap-3 border-b border-line px-3 py-1.5">
				<h2 className="font-semibold">Pieces</h2>
				<span className="number text-xs text-slate">{rows.length.toLocaleString("en")}</span>
				<input
					className="field ml-auto w-64"
					aria-label="Rule for the table"
					placeholder="volume < 20 dm³"
					value={rule}
					onChange={(event) => setRule(event.target.value)}
				/>
				<button
					type="button"
					className="button"
					disabled={rows.length === 0}
					onClick={() => select(rows.map(({ original }) => original.body.id))}
				>
					Pick all
				</button>
				<button type="button" className="button button-quiet px-2!" aria-label="Close the table" onClick={() => set({ table: false })}>
					<X size={15} />
				</button>
			</header>
			{filtered.problem && (
				<p className="px-3 py-1 text-xs text-rust" role="alert">
					{filtered.problem}
				</p>
			)}
			<div role="table" aria-rowcount={rows.length} className="flex min-h-0 flex-1 flex-col">
				<div role="row" tabIndex={-1} className={`${GRID} border-b border-line py-1 text-xs text-slate`}>
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
							const { id } = row.original.body;
							return (
								<div
									key={id}
									role="row"
									tabIndex={-1}
									aria-selected={chosen.has(id)}
									className={`${GRID} absolute inset-x-0 cursor-default ${chosen.has(id) ? "bg-kelp-wash" : "hover:bg-limestone"}`}
									style={{ height: ROW, top: start }}
									onClick={(event) =>
										select(
											event.ctrlKey || event.shiftKey
												? chosen.has(id)
													? selection.filter((other) => other !== id)
													: [...selection, id]
												: [id],
										)
									}
									onKeyDown={(event) => event.key === "Enter" && select([id])}
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
		</section>
	);
}
