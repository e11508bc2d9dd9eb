import type { BodyRow } from "@rubble/core/bodies";
import { formatNumber, formatQuantity } from "@rubble/core/shot";
import { createColumnHelper } from "@tanstack/react-table";
import { KindGlyph } from "~/controls/KindGlyph";
import { EditCell } from "./EditCell";

export interface WideRow {
	readonly body: BodyRow;
	/** Of its place at the first frame, m. */
	readonly height: number;
}

const helper = createColumnHelper<WideRow>();

/** A new column is an entry here, a width below, and, for files, a line in `FILE`. */
export const COLUMNS = [
	helper.accessor((row) => row.body.path, {
		id: "name",
		header: "Name",
		cell: ({ row, getValue }) => (
			<span className="flex items-center gap-1.5">
				<span className="w-4 shrink-0">
					<KindGlyph kind={row.original.body.settings.kind} size={13} />
				</span>
				<span className="truncate">{getValue()}</span>
			</span>
		),
	}),
	helper.accessor((row) => row.body.mass, {
		id: "mass",
		header: "Mass",
		cell: ({ row, getValue }) => (
			<EditCell
				body={row.original.body}
				field="mass"
				unit="kg"
				least={1e-6}
				most={1e9}
				value={getValue()}
				shown={formatQuantity(getValue(), "mass")}
			/>
		),
	}),
	helper.accessor((row) => row.body.settings.density, {
		id: "density",
		header: "kg/m³",
		cell: ({ row, getValue }) => (
			<EditCell
				body={row.original.body}
				field="density"
				unit="kg/m³"
				least={0.01}
				most={30_000}
				value={getValue()}
				// What it weighs is given: then its density does not count.
				shown={row.original.body.settings.mass === undefined ? formatNumber(getValue(), 4) : "–"}
			/>
		),
	}),
	helper.accessor((row) => row.body.settings.friction, {
		id: "friction",
		header: "Friction",
		cell: ({ row, getValue }) => (
			<EditCell
				body={row.original.body}
				field="friction"
				unit=""
				least={0}
				most={10}
				value={getValue()}
				shown={formatNumber(getValue(), 3)}
			/>
		),
	}),
	helper.accessor((row) => row.body.settings.bounce, {
		id: "bounce",
		header: "Bounce",
		cell: ({ row, getValue }) => (
			<EditCell body={row.original.body} field="bounce" unit="" least={0} most={1} value={getValue()} shown={formatNumber(getValue(), 3)} />
		),
	}),
	helper.accessor((row) => row.body.volume, {
		id: "volume",
		header: "Volume",
		cell: ({ getValue }) => formatQuantity(getValue(), "volume"),
	}),
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
export const WIDTHS = "minmax(188px,1fr) 78px 66px 66px 62px 86px 82px 72px 72px 66px 72px";
export const LEAST_WIDTH = 938; // pixels

/** Columns of the file, in SI units. */
const FILE: readonly (readonly [header: string, of: (row: WideRow) => string | number])[] = [
	["name", ({ body }) => body.path],
	["kind", ({ body }) => body.settings.kind],
	["mass kg", ({ body }) => body.mass],
	["density kg/m3", ({ body }) => (body.settings.mass === undefined ? body.settings.density : "")],
	["friction", ({ body }) => body.settings.friction],
	["bounce", ({ body }) => body.settings.bounce],
	["volume m3", ({ body }) => body.volume],
	["surface m2", ({ body }) => body.area],
	["size m", ({ body }) => body.size],
	["height m", ({ height }) => height],
	["touches", ({ body }) => body.neighbours],
	["triangles", ({ body }) => body.triangles],
];

/** The rows as a CSV file (RFC 4180), in the order of the ledger. */
export function csvOf(rows: readonly WideRow[]): string {
	const quoted = (value: string | number) =>
		typeof value === "string" && /[",\n]/.test(value) ? `"${value.replaceAll('"', '""')}"` : value;
	const lines = [FILE.map(([header]) => header), ...rows.map((row) => FILE.map(([, of]) => quoted(of(row))))];
	return `${lines.map((line) => line.join(",")).join("\r\n")}\r\n`;
}
