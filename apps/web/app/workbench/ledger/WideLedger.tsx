import { ruleFacts } from "@rubble/core/bodies";
import { FileDown, X } from "lucide-react";
import { useMemo, useRef, useState } from "react";
import { Segments } from "~/controls/Choice";
import { DataTable } from "~/controls/DataTable";
import { download } from "~/features/bake/download";
import { selectedBodies } from "../store/selectors";
import { useWorkbench } from "../store/store";
import { NeighbourTable } from "./NeighbourTable";
import { filterBodies } from "./rows";
import { COLUMNS, csvOf, LEAST_WIDTH, WIDTHS, type WideRow } from "./wideColumns";

/** All objects, pieces and copies with their numbers, over the lower half of the view; and the faces that pieces share. */
export function WideLedger() {
	const open = useWorkbench((state) => state.table);
	return open ? <OpenLedger /> : null;
}

function OpenLedger() {
	const { shot, bodies, selection, select, set } = useWorkbench();
	const [what, setWhat] = useState("bodies");
	const [rule, setRule] = useState("");
	const [faces, setFaces] = useState(0);
	const shown = useRef<readonly WideRow[]>([]);
	const filtered = useMemo(() => filterBodies(shot, bodies, rule), [shot, bodies, rule]);
	const rows = useMemo(
		() =>
			filtered.bodies
				.filter((body) => shot.objects[body.object] && !body.endless)
				.map((body): WideRow => ({ body, height: ruleFacts(shot, body).columns.height! })),
		[filtered, shot],
	);
	const chosen = useMemo(() => new Set(selectedBodies({ shot, bodies, selection }).map(({ id }) => id)), [shot, bodies, selection]);
	return (
		<section
			aria-label="Wide ledger"
			className="absolute inset-x-3 bottom-3 z-10 flex h-72 flex-col rounded-md border border-line bg-chalk"
		>
			<header className="flex items-center gap-2 border-b border-line px-3 py-1.5">
				<Segments
					compact
					label="What is listed"
					value={what}
					options={[
						{ id: "bodies", label: "Bodies", help: "Objects, pieces and copies" },
						{ id: "neighbours", label: "Neighbours", help: "Faces that pieces share" },
					]}
					onChange={setWhat}
				/>
				<span className="number text-xs text-slate">{(what === "bodies" ? rows.length : faces).toLocaleString("en")}</span>
				{what === "bodies" && (
					<>
						<input
							className="field ml-auto w-48"
							aria-label="Rule for the table"
							placeholder="volume < 20 dm³"
							value={rule}
							onChange={(event) => setRule(event.target.value)}
						/>
						<button type="button" className="button" disabled={rows.length === 0} onClick={() => select(rows.map(({ body }) => body.id))}>
							Pick all
						</button>
						<button
							type="button"
							className="button"
							title="What is listed as a CSV file, in SI units"
							disabled={rows.length === 0}
							onClick={() => download(new Blob([csvOf(shown.current)], { type: "text/csv" }), `${shot.name}.csv`)}
						>
							<FileDown size={14} /> CSV
						</button>
					</>
				)}
				<button
					type="button"
					className={`button button-quiet px-2! ${what === "bodies" ? "" : "ml-auto"}`}
					aria-label="Close the table"
					title="W"
					onClick={() => set({ table: false })}
				>
					<X size={15} />
				</button>
			</header>
			{filtered.problem && what === "bodies" && (
				<p className="px-3 py-1 text-xs text-rust" role="alert">
					{filtered.problem}
				</p>
			)}
			{what === "bodies" ? (
				<DataTable
					rows={rows}
					columns={COLUMNS}
					template={WIDTHS}
					leastWidth={LEAST_WIDTH}
					sortedBy="volume"
					idOf={({ body }) => body.id}
					isChosen={({ body }) => chosen.has(body.id)}
					shown={shown}
					onChoose={(wanted, more) => {
						const ids = wanted.map(({ body }) => body.id);
						const isPicked = ids.every((id) => selection.includes(id));
						if (!more) select(ids);
						else select(isPicked ? selection.filter((id) => !ids.includes(id)) : [...selection, ...ids]);
					}}
				/>
			) : (
				<NeighbourTable onCount={setFaces} />
			)}
		</section>
	);
}
