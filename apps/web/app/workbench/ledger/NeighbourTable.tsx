import { formatQuantity } from "@rubble/core/shot";
import { createColumnHelper } from "@tanstack/react-table";
import { useEffect, useMemo, useState } from "react";
import { toast } from "sonner";
import { DataTable } from "~/controls/DataTable";
import { coreWorker } from "~/workers/client";
import type { NeighbourRow } from "~/workers/messages";
import { currentObject } from "../store/selectors";
import { useWorkbench } from "../store/store";

const helper = createColumnHelper<NeighbourRow>();
const vector = (values: readonly number[], digits: number) => values.map((value) => value.toFixed(digits)).join("  ");
/** The name within its object. */
const nameOf = ({ id, path }: NeighbourRow["a"]) => (id.includes("/") ? path : path.slice(path.lastIndexOf("/") + 1));
const COLUMNS = [
	helper.accessor((row) => nameOf(row.a), { id: "a", header: "Piece", cell: ({ getValue }) => getValue() }),
	helper.accessor((row) => nameOf(row.b), { id: "b", header: "Touches", cell: ({ getValue }) => getValue() }),
	helper.accessor((row) => row.area, { id: "area", header: "Shared face", cell: ({ getValue }) => formatQuantity(getValue(), "area") }),
	helper.accessor((row) => row.centre[1], {
		id: "centre",
		header: "Middle, m",
		cell: ({ row }) => vector(row.original.centre, 2),
	}),
	helper.accessor((row) => row.normal[1], {
		id: "normal",
		header: "Faces",
		cell: ({ row }) => vector(row.original.normal, 2),
	}),
];

/** The faces that the pieces of the picked object share; of the picked pieces where some are picked. */
export function NeighbourTable({ onCount }: { onCount: (count: number) => void }) {
	const state = useWorkbench();
	const { shot, hashes, selection, select } = state;
	const object = currentObject(state);
	const hash = object && hashes[object];
	const [faces, setFaces] = useState<readonly NeighbourRow[]>([]);
	// biome-ignore lint/correctness/useExhaustiveDependencies: asked again when the pieces have changed, not with every edit
	useEffect(() => {
		if (!object) return setFaces([]);
		let late = false;
		coreWorker()
			.neighbours(shot, object)
			.then((rows) => !late && setFaces(rows))
			.catch((error: Error) => toast.error(error.message));
		return () => {
			late = true;
		};
	}, [object, hash]);
	const chosen = useMemo(() => new Set(selection), [selection]);
	const shown = useMemo(() => {
		const of = faces.filter(({ a, b }) => chosen.has(a.id) || chosen.has(b.id));
		return of.length > 0 ? of : faces;
	}, [faces, chosen]);
	useEffect(() => onCount(shown.length), [shown, onCount]);
	if (!object) return <p className="p-3 text-slate">Pick a broken object to see which of its pieces touch.</p>;
	if (faces.length === 0) return <p className="p-3 text-slate">{shot.objects[object]!.name} has no pieces that share faces.</p>;
	return (
		<DataTable
			rows={shown}
			columns={COLUMNS}
			template="minmax(90px,1fr) minmax(90px,1fr) 84px 160px 150px"
			sortedBy="area"
			idOf={({ a, b }) => `${a.id} ${b.id}`}
			isChosen={({ a, b }) => chosen.has(a.id) && chosen.has(b.id)}
			onChoose={(rows, more) => select([...new Set([...(more ? selection : []), ...rows.flatMap(({ a, b }) => [a.id, b.id])])])}
		/>
	);
}
