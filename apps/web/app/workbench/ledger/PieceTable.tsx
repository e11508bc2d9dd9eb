import { type BodyRow, ruleFacts } from "@rubble/core/bodies";
import { formatQuantity } from "@rubble/core/shot";
import { createColumnHelper } from "@tanstack/react-table";
import { X } from "lucide-react";
import { useMemo, useState } from "react";
import { Segments } from "~/controls/Choice";
import { DataTable } from "~/controls/DataTable";
import { useWorkbench } from "../store/store";
import { NeighbourTable } from "./NeighbourTable";
import { filterBodies } from "./rows";

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
const TEMPLATE =
	"minmax(140px,1.5fr) repeat(2,minmax(64px,1fr)) minmax(80px,1.2fr) repeat(2,minmax(60px,1fr)) repeat(2,minmax(54px,0.8fr))";

/** Pieces and the faces they share, with their numbers, over the view. */
export function PieceTable() {
	const open = useWorkbench((state) => state.table);
	return open ? <OpenTable /> : null;
}

function OpenTable() {
	const { shot, bodies, selection, select, set } = useWorkbench();
	const [what, setWhat] = useState("pieces");
	const [rule, setRule] = useState("");
	const [faces, setFaces] = useState(0);
	const filtered = useMemo(() => filterBodies(shot, bodies, rule), [shot, bodies, rule]);
	const rows = useMemo(
		() =>
			filtered.bodies
				.filter((body) => body.piece >= 0 && shot.objects[body.object])
				.map((body): PieceRow => ({ body, height: ruleFacts(shot, body).columns.height! })),
		[filtered, shot],
	);
	const chosen = useMemo(() => new Set(selection), [selection]);
	return (
		<section
			aria-label="Table of pieces"
			className="absolute inset-x-3 bottom-3 z-10 flex h-72 flex-col rounded-md border border-line bg-chalk"
		>
			<header className="flex items-center gap-3 border-b border-line px-3 py-1.5">
				<Segments
					compact
					label="What is listed"
					value={what}
					options={[
						{ id: "pieces", label: "Pieces" },
						{ id: "neighbours", label: "Neighbours" },
					]}
					onChange={setWhat}
				/>
				<span className="number text-xs text-slate">{(what === "pieces" ? rows.length : faces).toLocaleString("en")}</span>
				{what === "pieces" && (
					<>
						<input
							className="field ml-auto w-64"
							aria-label="Rule for the table"
							placeholder="volume < 20 dm³"
							value={rule}
							onChange={(event) => setRule(event.target.value)}
						/>
						<button type="button" className="button" disabled={rows.length === 0} onClick={() => select(rows.map(({ body }) => body.id))}>
							Pick all
						</button>
					</>
				)}
				<button
					type="button"
					className={`button button-quiet px-2! ${what === "pieces" ? "" : "ml-auto"}`}
					aria-label="Close the table"
					onClick={() => set({ table: false })}
				>
					<X size={15} />
				</button>
			</header>
			{filtered.problem && what === "pieces" && (
				<p className="px-3 py-1 text-xs text-rust" role="alert">
					{filtered.problem}
				</p>
			)}
			{what === "pieces" ? (
				<DataTable
					rows={rows}
					columns={COLUMNS}
					template={TEMPLATE}
					sortedBy="volume"
					idOf={({ body }) => body.id}
					isChosen={({ body }) => chosen.has(body.id)}
					onChoose={({ body: { id } }, more) =>
						select(more ? (chosen.has(id) ? selection.filter((other) => other !== id) : [...selection, id]) : [id])
					}
				/>
			) : (
				<NeighbourTable onCount={setFaces} />
			)}
		</section>
	);
}
