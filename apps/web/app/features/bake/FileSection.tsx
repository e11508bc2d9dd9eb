import type { BakeError, BakeOptions } from "@rubble/core/bake";
import { coloursMove } from "@rubble/core/colouring";
import { type ExportRange, type FileOrder, fileStem, handedOver, isSequence, TAKE_FORMATS, type TakeFormat } from "@rubble/core/formats";
import { degrees } from "@rubble/core/maths";
import { type Colouring, formatNumber, type OptionValues, objectPath, orderedObjects, shownOptions } from "@rubble/core/shot";
import { proxy } from "comlink";
import { Download } from "lucide-react";
import { useEffect, useMemo, useState } from "react";
import { toast } from "sonner";
import { Picker, Segments } from "~/controls/Choice";
import { NumberField } from "~/controls/NumberField";
import { ProgressBar } from "~/controls/ProgressBar";
import { Fact, Section } from "~/controls/Section";
import { pickedParts, selectedBodies } from "~/workbench/store/selectors";
import { type Busy, useWorkbench } from "~/workbench/store/store";
import { coreWorker } from "~/workers/client";
import type { BakeForecast } from "~/workers/messages";
import { sendJson } from "~/workers/network";
import { download } from "./download";
import { FormatOptions } from "./FormatOptions";

interface Written {
	readonly name: string;
	readonly size: number;
	readonly error: BakeError;
	readonly frames: string;
}

/** The take as a file: which kind, of what, and how it is laid out. */
export function FileSection({ range, keys }: { range: ExportRange; keys: BakeOptions }) {
	const state = useWorkbench();
	const { shot, shotId, take, selection } = state;
	const [formatId, setFormat] = useState("glb");
	const [options, setOptions] = useState<Readonly<Record<string, OptionValues>>>({});
	const [pickedOnly, setPickedOnly] = useState(false);
	const [camera, setCamera] = useState("");
	const [framesPerJob, setFramesPerJob] = useState(0);
	const [busy, setBusy] = useState<Busy | null>(null);
	const [written, setWritten] = useState<Written | null>(null);
	const format = TAKE_FORMATS.find(({ id }) => id === formatId)!;
	const own = options[formatId];
	const picked = useMemo(() => pickedParts({ shot, selection }), [shot, selection]);
	const only = pickedOnly && picked.length > 0 ? picked : undefined;
	// As pictures of files find their own: hidden ones are passed over.
	const cameras = orderedObjects(shot).filter((id) => shot.objects[id]!.source.kind === "camera" && !shot.objects[id]!.hidden);
	const eye = cameras.includes(camera) ? camera : undefined;
	const { colouring } = shot;
	const order = useMemo<FileOrder>(
		() => ({ format: formatId, range, keys, only, options: own, camera: eye, colouring }),
		[formatId, range, keys, only, own, eye, colouring],
	);
	const lost = colouring && coloursLost(format, colouring);
	const forecast = useForecast(order, !busy && !state.run);
	const bake = async () => {
		setBusy({ fraction: 0, what: "Getting ready" });
		try {
			const file = await coreWorker().bake(
				order,
				// What is told of it may arrive after its end.
				proxy((fraction, what) => setBusy((now) => now && { fraction, what })),
			);
			const { extension, mime } = handedOver(format);
			const name = `${fileStem(shot.name)}.${extension}`;
			download(new Blob([file.bytes], { type: mime }), name);
			setWritten({ name, size: file.bytes.length, error: file.error, frames: `${file.firstFrame}–${file.lastFrame}` });
		} catch (error) {
			if ((error as Error).message !== "cancelled") toast.error((error as Error).message, { duration: 9000 });
		} finally {
			setBusy(null);
		}
	};
	const send = async () => {
		try {
			const shared = isSequence(format) && framesPerJob > 0 ? { framesPerJob } : {};
			await sendJson(`/api/shots/${shotId}/send`, "POST", { what: "bake", take: take?.id, ...order, ...shared });
			toast.success("Workers make it; Jobs has it when it is done.", {
				action: { label: "Jobs", onClick: () => window.open("/jobs", "_blank") },
			});
		} catch (error) {
			toast.error((error as Error).message);
		}
	};
	return (
		<>
			<Section title="File">
				<Picker label="Format" value={formatId} options={TAKE_FORMATS} onChange={setFormat} help={format.help} />
				<p className="text-slate">
					{format.help}.{isSequence(format) && " Handed over as one zip."}
				</p>
				{lost && <p className="text-slate">{lost}</p>}
				<Segments
					label="What"
					value={only ? "picked" : "all"}
					options={[
						{ id: "all", label: "All", help: "Everything that is not hidden" },
						{ id: "picked", label: pickedLabel(selectedBodies(state).length), help: "Only what is picked, with all its pieces" },
					]}
					onChange={(id) => {
						if (id === "picked" && picked.length === 0) toast("Pick objects or pieces first.");
						setPickedOnly(id === "picked" && picked.length > 0);
					}}
				/>
				<FormatOptions
					shown={shownOptions(format, own ?? {})}
					values={own ?? {}}
					onChange={(values) => setOptions({ ...options, [formatId]: values })}
				/>
				{"size" in format.options && cameras.length > 1 && (
					<Picker
						label="Camera"
						value={eye ?? cameras[0]!}
						options={cameras.map((id) => ({ id, label: objectPath(shot, id) }))}
						onChange={setCamera}
					/>
				)}
				{forecast && (
					<div className={`flex flex-col gap-1.5 ${forecast.order === order ? "" : "opacity-40"}`}>
						<Fact label="Size, about" value={forecast.size === undefined ? "known once made" : sizeText(forecast.size)} />
						<Errors error={forecast.error} />
					</div>
				)}
				{busy ? (
					<>
						<ProgressBar label="Writing" fraction={busy.fraction} />
						<Fact label={busy.what} value={`${Math.round(busy.fraction * 100)} %`} />
						<button type="button" className="button" onClick={() => void coreWorker().cancel("bake")}>
							Cancel
						</button>
					</>
				) : (
					<>
						{!format.workersOnly && (
							<button type="button" className="button button-primary mt-1" onClick={() => void bake()}>
								<Download size={14} /> Bake and download
							</button>
						)}
						<button type="button" className={`button ${format.workersOnly ? "button-primary mt-1" : ""}`} onClick={() => void send()}>
							Let a worker make it
						</button>
						{isSequence(format) && (
							<NumberField
								label="Frames a worker"
								help="Several workers share the range: a zip from each, for one folder. 0: one makes them all"
								zero="all"
								whole
								least={0}
								most={100_000}
								value={framesPerJob}
								onChange={setFramesPerJob}
							/>
						)}
					</>
				)}
			</Section>
			{written && (
				<Section title="Written" aside={written.name}>
					<Fact label="Size" value={sizeText(written.size)} />
					<Fact label="Frames" value={written.frames} />
					<Errors error={written.error} />
				</Section>
			)}
		</>
	);
}

/** What does not come along of a shot's gradient. */
function coloursLost({ colours }: TakeFormat, colouring: Colouring): string | undefined {
	if (colours === undefined) return "The gradient's colours do not go into this file.";
	if (colours === "first" && coloursMove(colouring))
		return "The gradient's colours stay as they are at the first frame; USD, PLY and OBJ have them at every frame.";
	return undefined;
}

const pickedLabel = (bodies: number): string => (bodies > 0 ? `Picked, ${bodies.toLocaleString("en")}` : "Picked");

function Errors({ error }: { error: BakeError }) {
	return (
		<>
			<Fact label="Keys" value={`${error.keys.toLocaleString("en")} of ${error.fullKeys.toLocaleString("en")}`} />
			<Fact label="Off by at most" value={`${formatNumber(error.position * 1000, 3)} mm, ${formatNumber(degrees(error.rotation), 3)}°`} />
		</>
	);
}

const sizeText = (bytes: number): string => (bytes > 1e6 ? `${formatNumber(bytes / 1e6, 3)} MB` : `${formatNumber(bytes / 1e3, 3)} kB`);

const FORECAST_PAUSE = 250; // ms

/** What the file will come to, found anew when what is asked for changes; until then the last one, with the order that it was of. */
function useForecast(order: FileOrder, ready: boolean): (BakeForecast & { readonly order: FileOrder }) | undefined {
	const [forecast, setForecast] = useState<BakeForecast & { readonly order: FileOrder }>();
	useEffect(() => {
		if (!ready) return;
		let wanted = true;
		const timer = setTimeout(() => {
			coreWorker()
				.forecast(order)
				.then((next) => wanted && setForecast({ ...next, order }))
				.catch(() => wanted && setForecast(undefined));
		}, FORECAST_PAUSE);
		return () => {
			wanted = false;
			clearTimeout(timer);
		};
	}, [order, ready]);
	return forecast;
}
